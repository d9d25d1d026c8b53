"""What is asked about one page of a score."""

from __future__ import annotations

from functools import cached_property

from msgspec.structs import replace

from karakuri.bodies.inertia import Array
from karakuri.digest import digest
from karakuri.sizing.leaps import HAIR_S
from karakuri.sizing.page import Page, PageLoad, page_loads
from karakuri.study.requests.contract import Request


class Common:
    """What all pages of one score have in common, gone through once for all of them."""

    def __init__(self, of: Page) -> None:
        self._of = of

    @cached_property
    def key(self) -> bytes:
        """Everything of a page but when it begins and ends and what moves."""
        return digest(replace(self._of, motion=self._of.motion.trackless, begin=0.0, end=0.0))


def pages_of(whole: Page, spans: list[tuple[float, float]]) -> list[PageOfScore]:
    """Requests for the pages of one score: `whole` cut into spans of begin and end, s."""
    common = Common(whole)
    return [PageOfScore(replace(whole, begin=begin, end=end), common) for begin, end in spans]


class PageOfScore(Request[tuple[PageLoad, ...]], eq=False):
    """A page of a score's whole motion. What runs is given the excerpt only, and the key is made of that: the digest of each track's excerpt is
    worked out once, so that an hour of score asks for its pages quickly."""

    kind = "page"
    of: Page
    common: Common

    @cached_property
    def since(self) -> float:
        """From when on it must be known what moves, s: moves that go at once are judged from where all stands as they depart."""
        of = self.of
        tracks = [of.motion.tracks[joint.channel] for joint in of.joints if joint.channel >= 0]
        return min([of.begin, *(track.since(of.begin, of.end) for track in tracks)]) - 2 * HAIR_S

    @cached_property
    def key(self) -> bytes:
        """All of the page, its tracks by the digests of their excerpts."""
        of = self.of
        return digest((self.common.key, of.begin, of.end, of.motion.excerpt_key(self.since, of.end)))

    @property
    def page(self) -> Page:
        """The page by itself, s."""
        return replace(self.of, motion=self.of.motion.excerpt(self.since, self.of.end))

    def run(self, quick: bool, known: tuple[Array, ...]) -> tuple[PageLoad, ...]:
        """N·m, rad/s and s; many at once: page_loads."""
        return page_loads([self.page])[0]
