"""What jaws on a hinge share: a shell under the head, moved by horn, rod and lever from within."""

from __future__ import annotations

from karakuri.starters.maker import Maker


def hinged(maker: Maker, opens: tuple[float, float], by: float, seconds: float, long: float, ahead: float) -> str:
    """One that opens so far, degrees, by so many of them in s; its shell so long and so far ahead in shares of the head's height. Returns the joint's id."""
    at, axes = maker.at(-0.08, 0, -0.2), maker.mm(0.25, 30.0)
    move = {"by": by, "time_s": maker.s(seconds)}
    joint = maker.joint("Jaw", "opens", at, opens, "jaw", move=move, support={"kind": "bush"})
    shape = {"kind": "box", "size_mm": (maker.mm(long), maker.mm(0.36), maker.mm(0.12)), "wall_mm": 2.0}
    maker.part("Jaw shell", joint, maker.at(ahead, 0, -0.36), shape, "petg")
    form = maker.lever(opens, axes, 0.06 * maker.tall, maker.mm(0.08, 14.0))
    maker.servo(joint, "class_2_2", form, (round(at[0] - axes, 1), at[1], at[2]))
    return joint
