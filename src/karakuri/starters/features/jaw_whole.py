"""A whole jaw on one hinge, moved by horn, rod and lever from within the head."""

from __future__ import annotations

from karakuri.starters.contract import Starter
from karakuri.starters.features.jaws import hinged
from karakuri.starters.maker import Maker


def put(maker: Maker) -> None:
    joint = hinged(maker, (0.0, 22.0), 18.0, 0.2, 0.42, 0.16)
    maker.part("Jaw lever", joint, maker.at(-0.08, 0, -0.16), {"kind": "point"}, grams=round(6 + 0.02 * maker.tall, 1))


STARTER = Starter(
    "jaw_whole", "Jaw, whole", "jaw", "alone, stick or chin", "a heavy jaw is slower than speech", put,
    ("jaw_split", "jaw_cord"),
)  # fmt: skip
