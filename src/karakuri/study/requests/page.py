"""What is asked about one page of a score."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

from karakuri.bodies.inertia import Array
from karakuri.bodies.tree import Tree
from karakuri.digest import digest
from karakuri.motion.score_motion import ScoreMotion
from karakuri.sizing.leaps import HAIR_S
from karakuri.sizing.page import Page, PageLoad, ScoredJoint, page_loads
from karakuri.study.requests.contract import Request


@dataclass(frozen=True, eq=False)
class PageOfScore(Request[tuple[PageLoad, ...]]):
    """Stretch begin … end, s, of a motion. What runs is given the excerpt only, and the key is the excerpt's: each track's digest is
    worked out once, so that an hour of score asks for its pages quickly."""

    kind = "page"
    tree: Tree
    motion: ScoreMotion
    joints: tuple[ScoredJoint, ...]
    gravities: Array
    begin: float
    end: float

    @cached_property
    def since(self) -> float:
        """From when on it must be known what moves, s: moves that go at once are judged from where all stands as they depart."""
        tracks = [self.motion.tracks[joint.channel] for joint in self.joints if joint.channel >= 0]
        return min([self.begin, *(track.since(self.begin, self.end) for track in tracks)]) - 2 * HAIR_S

    @cached_property
    def key(self) -> bytes:
        """Of everything `page` is made of."""
        m = self.motion
        moves = m.excerpt_key(self.since, self.end)
        return digest(
            (
                self.tree,
                self.joints,
                self.gravities,
                m.source,
                m.gain,
                m.offset,
                m.rest,
                m.length,
                self.begin,
                self.end,
                moves,
            )
        )

    @property
    def page(self) -> Page:
        """The page by itself, s."""
        return Page(
            self.tree, self.motion.excerpt(self.since, self.end), self.joints, self.gravities, self.begin, self.end
        )

    def run(self, quick: bool, known: tuple[Array, ...]) -> tuple[PageLoad, ...]:
        """N·m, rad/s and s; many at once: page_loads."""
        return page_loads([self.page])[0]
