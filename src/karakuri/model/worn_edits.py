"""Edits of who wears a figure and how: the usual postures, and everything guessed again."""

from __future__ import annotations

from karakuri.model.edit import Add, Edit, Set
from karakuri.model.figure import Figure
from karakuri.model.ids import new_id
from karakuri.model.stand import Posture
from karakuri.model.worn import Worn

BENDS = (
    ("upright", 0.0, 0.0, True),
    ("bowing", 40.0, 50.0, False),
    ("crouching", 30.0, 30.0, True),
    ("looking up", 0.0, -25.0, False),
)
"""Trunk, head, deg, and whether the face should look ahead: common practice, no source; all to be written over."""


def missing_bends(figure: Figure) -> bool:
    """Whether any of the usual postures is not there yet."""
    return bool({name for name, *_ in BENDS} - {posture.name for posture in figure.postures})


def add_bends(figure: Figure) -> Edit:
    """The usual postures, those that are not there yet."""
    known = {posture.name for posture in figure.postures}
    steps = tuple(
        Add(
            "postures",
            Posture(id=new_id(figure, name.replace(" ", "_")), name=name, lean_deg=trunk, head_deg=head, faces=faces),
        )
        for name, trunk, head, faces in BENDS
        if name not in known
    )
    return Edit("add postures", steps)


def guessed_again(figure: Figure) -> Worn:
    """How it is worn, with everything that was measured of the wearer forgotten; the way, the mount and the turn stay."""
    worn = figure.base.worn
    return Worn(by=worn.by, pitch_deg=worn.pitch_deg, turn_deg=worn.turn_deg, turn_s=worn.turn_s)


def guess_again(figure: Figure) -> Edit:
    return Edit("guess who wears it", (Set(("base", "worn"), guessed_again(figure)),))
