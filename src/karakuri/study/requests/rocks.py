"""What is asked about how a figure stands while its score moves it."""

from __future__ import annotations

from functools import cached_property

import numpy as np
from msgspec.structs import replace

from karakuri.bodies.inertia import Array
from karakuri.bodies.tree import Tree
from karakuri.digest import digest
from karakuri.mechanics.rocking import Rocking, rocking
from karakuri.mechanics.tipping import Footing
from karakuri.motion.score_motion import ScoreMotion
from karakuri.study.requests.contract import Request

STEP_S = 0.01


class Stretch(Request[Rocking | None], eq=False):
    """From begin to end, s, of a score's whole motion, over a tree on its footing; gravities (p, 3) m/s². `leaps`: moves that go at once, each with when it departs and arrives, s, rows of
    joints and how hard each is sped up, rad/s² (m/s²)."""

    kind = "rocks"
    tree: Tree
    on: Footing
    gravities: Array
    motion: ScoreMotion
    begin: float
    end: float
    leaps: tuple[tuple[float, float, tuple[int, ...], tuple[float, ...]], ...] = ()

    @cached_property
    def key(self) -> bytes:
        """All of it, tracks by the digests of their excerpts."""
        bare = replace(self, motion=self.motion.trackless)
        end = max([self.end, *(arrives for _, arrives, _, _ in self.leaps)])
        return digest((digest(bare), self.motion.excerpt_key(self.begin, end)))

    def run(self, quick: bool, known: tuple[Array, ...]) -> Rocking | None:
        """The worst moment of it, s and m."""
        times = np.append(np.arange(self.begin, self.end, STEP_S), self.end)
        q, qd, qdd = self.motion.state(times)
        for departs, arrives, rows, pushed in self.leaps:
            for at, way in ((departs, 1.0), (arrives, -1.0)):
                there, _, _ = self.motion.state(np.array([at]))
                push = np.zeros((len(q), 1))
                push[list(rows), 0] = way * np.array(pushed)
                times, q, qd, qdd = (
                    np.append(times, at),
                    np.hstack([q, there]),
                    np.hstack([qd, np.zeros_like(there)]),
                    np.hstack([qdd, push]),
                )
        return rocking(self.tree, self.on, self.gravities, times, q, qd, qdd)
