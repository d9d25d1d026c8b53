"""How a jaw goes with its voice as the score stands: what was asked at every opening, and where the ribbon is then."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np
from numpy.typing import NDArray

from karakuri.bodies.inertia import Array
from karakuri.frozen import Frozen
from karakuri.model.channel import Play
from karakuri.model.figure import Figure
from karakuri.model.loudness import Loudness
from karakuri.model.makers import Voice
from karakuri.motion.makers.voice import ahead_of, make
from karakuri.motion.track import Track

OPEN, SHORT, SAMPLES = 0.2, 0.1, 5
"""An opening is of this share of all there is at least; it stays short where it lacks that share of all there is."""


class Speaking(Frozen, eq=False):
    """A voice on its jaw: at each opening (n,) when, s in the score, and how far it was asked and is, from 0 (shut) to 1 (wide), at the best moment of it.
    `opening` rad or m is from shut to wide; `ahead` s. `unheard` are plays whose sound is not known."""

    voice: Voice
    at: Array
    asked: Array
    got: Array
    opening: float
    ahead: float
    unheard: tuple[Play, ...]

    @property
    def reached(self) -> float:
        """How far it opens of what it is asked, over all openings together, 0 to 1; 1 where nothing is asked."""
        asked = float(self.asked.sum())
        return float(np.minimum(self.got, self.asked).sum()) / asked if asked > 0 else 1.0

    @property
    def short(self) -> NDArray[np.int64]:
        """Which openings, by number, stay short of what is asked."""
        return np.flatnonzero(self.asked - self.got > SHORT)


def speaking(figure: Figure, voice: Voice, heard: Mapping[str, Loudness], track: Track) -> Speaking:
    """How the track of a voice's jaw, rad or m, goes with it; `heard` by digest."""
    made = make(figure, voice, heard)
    at, asked, got = [], [], []
    for each in made.spoken:
        wide = np.flatnonzero(each.turns.opening >= OPEN)
        begins, ends = each.begins + each.turns.begins[wide], each.begins + each.turns.ends[wide]
        when = begins + (ends - begins) * np.linspace(0.0, 1.0, SAMPLES)[:, None]
        there = (track.at(np.maximum(when.ravel(), 0.0))[0].reshape(when.shape) - made.shut) / (made.opening or 1.0)
        at.append(0.5 * (begins + ends))
        asked.append(each.turns.opening[wide])
        got.append(np.clip(there.max(axis=0), 0.0, 1.0))
    columns = [np.concatenate(each) if each else np.zeros(0) for each in (at, asked, got)]
    kept = columns[0] >= 0.0
    return Speaking(
        voice, columns[0][kept], columns[1][kept], columns[2][kept], made.opening, ahead_of(figure, voice), made.unheard
    )
