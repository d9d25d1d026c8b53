"""What a joint rubs with, on its card: what it turns in, two pulls with a scale, or a number."""

from __future__ import annotations

from karakuri.catalogue import bearing_name
from karakuri.model.drag import BEARINGS, Bearing, Pulled
from karakuri.model.joint import Joint
from karakuri.units import Quantity
from karakuri.workbench.benches.bench import mm
from karakuri.workbench.benches.joint_moves import Setter
from karakuri.workbench.widgets.items import Item, Note, Pick, Write

SAID, PULLED = "as said below", "two pulls with a scale"


def drag_items(joint: Joint, put: Setter) -> list[Item]:
    drag, turns = joint.drag, joint.kind == "turn"
    choices = [("", SAID), *((kind, bearing_name(kind)) for kind in BEARINGS), ("pulled", PULLED)]

    def chosen(key: str) -> None:
        if key == "pulled":
            put(("drag",), {"kind": "pulled", "up_g": 100.0, "down_g": 100.0}, "what it rubs in")
        elif key:
            radius = drag.radius_mm if isinstance(drag, Bearing) else 3.0
            put(("drag",), {"kind": "bearing", "bearing": key, "radius_mm": radius}, "what it rubs in")
        else:
            put(("drag",), None, "what it rubs in")

    now = SAID if drag is None else PULLED if isinstance(drag, Pulled) else bearing_name(drag.bearing)
    items: list[Item] = [Pick("drag", "Turns in" if turns else "Slides in", now, tuple(choices), chosen)]
    if drag is None:
        kind = "torque" if turns else "force"
        items.append(Write("friction", "Friction", Quantity(joint.friction_Nm, kind), kind, lambda v: put(("friction_Nm",), v, "friction")))  # fmt: skip
    elif isinstance(drag, Bearing):
        items.append(Write("radius", "Rubs off its axis by", mm(drag.radius_mm), "length", lambda v: put(("drag", "radius_mm"), round(v * 1e3, 3), "where it rubs")))  # fmt: skip
        items.append(Note("nr0", "Half as wide as the pin, the bush or the ring of balls that it turns in."))
    else:
        if turns:
            items.append(Write("lever", "Scale hooked on at", mm(drag.lever_mm), "length", lambda v: put(("drag", "lever_mm"), round(v * 1e3, 3), "the lever")))  # fmt: skip
        for key, words, value in (
            ("up_g", "Just moving it up", drag.up_g),
            ("down_g", "Just letting it down", drag.down_g),
        ):
            items.append(Write(key, words, Quantity(value / 1e3, "mass"), "mass", lambda v, key=key: put(("drag", key), round(v * 1e3, 3), "a pull")))  # fmt: skip
        items.append(Note("nr1", "Hook a luggage scale on, square to the lever; read it while it just moves, both ways. Half the difference is what it rubs with."))  # fmt: skip
    return items
