"""What necks of one axis share: a bearing on either side, a frame of plywood that carries what comes above, a servo at the pivot."""

from __future__ import annotations

from karakuri.starters.maker import Maker


def framed(maker: Maker, name: str, motion: str, up: float, range_deg: tuple[float, float], by: float, seconds: float, deep: float, wide: float) -> None:  # fmt: skip
    """One that moves so about a pivot `up` shares of the head's height over its middle, between degrees, by so many degrees in s; its frame deep and wide in shares.
    From then on it carries the head."""
    bearing, move = {"kind": "bearing_pair"}, {"by": by, "time_s": maker.s(seconds)}
    joint = maker.joint(f"Neck {name}", motion, maker.at(-0.06, 0, up), range_deg, "neck", move=move, support=bearing)
    size = (maker.mm(deep), maker.mm(wide), 6.0)
    maker.part(
        f"Frame that {name}s", joint, maker.at(-0.06, 0, up + 0.06), {"kind": "box", "size_mm": size}, "birch_ply"
    )
    maker.servo(joint, "class_6_5")
    maker.head = joint
