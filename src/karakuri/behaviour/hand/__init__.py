"""Driving by hand: grips turn what inputs say into where ribbons are wanted, the hand brings them there smoothly. One file a grip."""

from collections.abc import Mapping

from karakuri.behaviour.hand import expressions, follows, keyed, push_pull, wheels
from karakuri.behaviour.hand.contract import Maker

GRIPS: Mapping[str, Maker] = {
    "follows": follows.make, "keyed": keyed.make, "push pull": push_pull.make, "wheels": wheels.make, "expressions": expressions.make,
}  # fmt: skip
"""By the kind of grip."""
