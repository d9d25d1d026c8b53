"""A jaw that goes with a sound that is said of itself: its moves, planned once for every sound, and where among them a jaw joins in that is not shut yet."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from karakuri.model.channel import MovedChannel
from karakuri.model.figure import Figure
from karakuri.model.loudness import Loudness
from karakuri.model.makers import Voice
from karakuri.model.moves import Row
from karakuri.motion.makers.voice import manner_of, shut_and_wide
from karakuri.motion.voice.following import NO_LIMIT, KeepsUp, followed
from karakuri.motion.voice.opening import turns_of


def jaws_of(figure: Figure) -> tuple[Voice, ...]:
    """Every jaw that goes with a voice in any score, once: as the first score has it."""
    found: dict[str, Voice] = {}
    for score in figure.scores:
        for maker in score.makers:
            if isinstance(maker, Voice):
                found.setdefault(maker.jaw, maker)
    return tuple(found.values())


def spoken(
    figure: Figure, voice: Voice, jaw: MovedChannel, loudness: Loudness, can: Mapping[str, KeepsUp]
) -> tuple[Row, ...]:
    """Moves of a jaw, in its own unit, s from when it sets off, from shut and to shut again."""
    shut, wide = shut_and_wide(figure, voice, jaw)
    unit = jaw.measure(figure).si
    moves = followed(turns_of(loudness, manner_of(voice)), shut * unit, wide * unit, can.get(voice.jaw, NO_LIMIT))
    columns = (moves.departs.tolist(), moves.takes.tolist(), moves.target.tolist())
    return tuple(
        Row(round(at, 4), round(takes, 4), round(to / unit, 2)) for at, takes, to in zip(*columns, strict=True)
    )


def joins(rows: Sequence[Row], shut: float, first: float) -> int:
    """Which of the moves is the first for a jaw that is shut from `first` s on: one that begins later, and from shut; their number where none does."""
    for k, row in enumerate(rows):
        if row.departs >= first - 1e-9 and (k == 0 or rows[k - 1].target == round(shut, 2)):
            return k
    return len(rows)
