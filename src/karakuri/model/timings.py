"""The timing of a joint: how a wanted move of it is judged, when it sets off in a pinned pose, what it does when idle. One table.

Eyes first, then lids and jaw, then the head, the body last: common practice, no source.
"""

from __future__ import annotations

import re
from typing import Literal

from karakuri.frozen import Frozen

TimingKind = Literal["eye", "lid", "ear", "jaw", "head", "body"]


class Timing(Frozen):
    """What it is called, and what that decides, on the card; quick: nobody waits for its easing; order: when it sets off in a pinned pose,
    lowest first; names: words in a joint's name by which it is known."""

    called: str
    decides: str
    quick: bool
    order: int
    names: frozenset[str]


def _named(words: str) -> frozenset[str]:
    return frozenset(words.split())


TIMINGS: dict[TimingKind, Timing] = {
    "lid": Timing("a lid", "quick, sets off second, blinks when idle", True, 1, _named("lid lids eyelid eyelids blink blinks")),
    "eye": Timing("an eye", "quick, sets off first, glances when idle", True, 0, _named("eye eyes eyeball eyeballs gaze pupil pupils")),
    "ear": Timing("an ear", "quick, sets off second", True, 1, _named("ear ears")),
    "jaw": Timing("a jaw", "eased, sets off second", False, 1, _named("jaw jaws beak mouth muzzle lip lips")),
    "head": Timing("a head", "eased, sets off third", False, 2, _named("head neck skull")),
    "body": Timing("the body", "eased, sets off last", False, 3, _named("body torso trunk waist hip shoulder arm arms wing wings leg tail")),
}  # fmt: skip
"""In the order in which a name is looked through: an eye's lid is a lid."""


def timing_of(name: str) -> TimingKind:
    """The timing that a joint's name tells of; a head's where it tells of none."""
    words = set(re.findall(r"[^\W\d_]+", name.lower()))
    return next((kind for kind, timing in TIMINGS.items() if words & timing.names), "head")
