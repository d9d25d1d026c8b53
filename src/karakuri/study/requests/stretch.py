"""What is asked about a stretch of a score's motion of the whole figure: how it rocks on its foot, what comes off, how rods are whipped, and what carries its joints."""

from __future__ import annotations

from collections.abc import Sequence
from functools import cached_property

import numpy as np
from msgspec.structs import replace

from karakuri.bodies.inertia import Array
from karakuri.bodies.tree import Tree
from karakuri.digest import digest
from karakuri.frozen import Frozen
from karakuri.mechanics.rocking import Rocking, rocking_in
from karakuri.mechanics.tipping import Footing
from karakuri.model.fastening import Fastening
from karakuri.model.rod import Rod
from karakuri.motion.score_motion import ScoreMotion
from karakuri.sizing.fastened import Thrown, thrown
from karakuri.sizing.leaps import HAIR_S
from karakuri.sizing.page import times_of
from karakuri.sizing.tilted import Tilted, tilted_in
from karakuri.sizing.whipped import STEP_S, Whipped, whipped
from karakuri.study.requests.contract import Request

Leap = tuple[float, float, tuple[int, ...], tuple[float, ...]]
"""A move that goes at once: when it departs and arrives, s, rows of joints, how hard each is sped up, rad/s² (m/s²)."""


class Stretch(Frozen, eq=False):
    """From begin to end, s, of a score's whole motion, with the leaps that depart in it."""

    motion: ScoreMotion
    begin: float
    end: float
    leaps: tuple[Leap, ...] = ()

    @cached_property
    def key(self) -> bytes:
        """All of it, tracks by the digests of their excerpts."""
        bare, end = replace(self, motion=self.motion.trackless), max([self.end, *(leap[1] for leap in self.leaps)])
        return digest((digest(bare), self.motion.excerpt_key(self.begin, end)))

    @cached_property
    def samples(self) -> tuple[Array, Array, Array, Array]:
        """Times (n,) s and q, qd, qdd (m, n) there; a leap as it speeds up and as it brakes."""
        under = [track.reaching(self.begin, self.end) for track in self.motion.tracks]
        times = times_of(self.motion, self.begin, self.end, under)
        q, qd, qdd = self.motion.state(times)
        for departs, arrives, rows, pushed in self.leaps:
            for at, way in ((departs - HAIR_S, 1.0), (arrives, -1.0)):
                there, _, _ = self.motion.state(np.array([at]))
                push = np.zeros((len(q), 1))
                push[list(rows), 0] = way * np.array(pushed)
                times, q = np.append(times, at), np.hstack([q, there])
                qd, qdd = np.hstack([qd, np.zeros_like(there)]), np.hstack([qdd, push])
        return times, q, qd, qdd

    def even(self, step: float) -> tuple[Array, Array]:
        """Times (n,), `step` s apart from its begin on, and q (m, n) rad or m there; a leap drawn as it speeds up and brakes."""
        times = np.arange(self.begin, self.end + 0.5 * step, step)
        q, _, _ = self.motion.state(times)
        for departs, arrives, rows, pushed in self.leaps:
            under = (times >= departs) & (times < arrives)
            share = (times[under] - departs) / (arrives - departs)
            left = np.where(share < 0.5, 1.0 - 2.0 * share**2, 2.0 * (1.0 - share) ** 2)
            for row, push in zip(rows, pushed, strict=True):
                q[row, under] -= push * ((arrives - departs) / 2.0) ** 2 * left
        return times, q


class Rocks(Request[Rocking | None], eq=False):
    """A tree on its footing over a stretch; gravities (p, 3) m/s²."""

    kind = "rocks"
    tree: Tree
    on: Footing
    gravities: Array
    over: Stretch

    @cached_property
    def key(self) -> bytes:
        """All of it, the stretch by its own key."""
        return digest((self.tree, self.on, self.gravities, self.over.key))

    def run(self, quick: bool, known: tuple[Array, ...]) -> Rocking | None:
        """The worst moment of it, s and m."""
        return rocks_together([self])[0]


def rocks_together(requests: Sequence[Rocks]) -> list[Rocking | None]:
    """The worst moments of several stretches, s and m, all of one tree on one footing and of the same gravities, in one go."""
    one = requests[0]
    return rocking_in(one.tree, one.on, one.gravities, *_after_one_another([each.over for each in requests]))


def _after_one_another(stretches: Sequence[Stretch]) -> tuple[Array, Array, Array, Array, tuple[int, ...]]:
    """Samples of several stretches, times (n,) s and q, qd, qdd (m, n), and where each ends."""
    each = [stretch.samples for stretch in stretches]
    q, qd, qdd = (np.concatenate([one[i] for one in each], axis=1) for i in (1, 2, 3))
    ends = tuple(np.cumsum([len(one[0]) for one in each]).tolist())
    return np.concatenate([one[0] for one in each]), q, qd, qdd, ends


class Sheds(Request[Thrown | None], eq=False):
    """Fastening number i, `it`, over a stretch; gravities (p, 3) m/s²."""

    kind = "sheds"
    tree: Tree
    it: Fastening
    i: int
    gravities: Array
    over: Stretch

    @cached_property
    def key(self) -> bytes:
        """All of it, the stretch by its own key."""
        return digest((self.tree, self.it, self.i, self.gravities, self.over.key))

    def run(self, quick: bool, known: tuple[Array, ...]) -> Thrown | None:
        """The worst moment of it, s and m/s²."""
        return thrown(self.it, self.tree, self.i, self.gravities, *self.over.samples)


class Tilts(Request[tuple[Tilted, ...]], eq=False):
    """Joints of a tree by row, each with how far its bearing lies from its pivot, m, over a stretch; gravities (p, 3) m/s²."""

    kind = "tilts"
    tree: Tree
    offs: tuple[tuple[int, float], ...]
    gravities: Array
    over: Stretch

    @cached_property
    def key(self) -> bytes:
        """All of it, the stretch by its own key."""
        return digest((self.tree, self.offs, self.gravities, self.over.key))

    def run(self, quick: bool, known: tuple[Array, ...]) -> tuple[Tilted, ...]:
        """The worst moments of each, N·m, N and s."""
        return tilts_together([self])[0]


def tilts_together(requests: Sequence[Tilts]) -> list[tuple[Tilted, ...]]:
    """The worst moments of several stretches, N·m, N and s, all over one tree, of the same joints and gravities, in one go."""
    one = requests[0]
    return tilted_in(one.tree, one.offs, one.gravities, *_after_one_another([each.over for each in requests]))


class Whips(Request[Whipped | None], eq=False):
    """Rod number i over a stretch; gravities (p, 3) m/s²."""

    kind = "whips"
    tree: Tree
    rod: Rod
    i: int
    gravities: Array
    over: Stretch

    @cached_property
    def key(self) -> bytes:
        """All of it, the stretch by its own key."""
        return digest((self.tree, self.rod, self.i, self.gravities, self.over.key))

    def run(self, quick: bool, known: tuple[Array, ...]) -> Whipped | None:
        """The worst moment of it, s and m/s²."""
        times, q = self.over.even(STEP_S)
        return whipped(self.tree, self.rod, self.i, self.gravities, times, q[:, None, :])
