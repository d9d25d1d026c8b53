"""Edits of elements: one of each kind where a builder would begin, the anchors of one, and what it hangs on."""

from __future__ import annotations

import math
from collections.abc import Callable
from typing import Any

from karakuri.model.edit import Add, Edit, Remove, Set, Step
from karakuri.model.element import (
    About,
    Anchor,
    Cable,
    Cord,
    Elastic,
    Element,
    Hand,
    Linear,
    Magnets,
    Motor,
    Pad,
    Skin,
    Spring,
    Strut,
    Torsion,
    anchors,
    held_by,
)
from karakuri.model.figure import Figure
from karakuri.model.ids import new_id
from karakuri.model.part import BASE
from karakuri.model.transmission import Belt, Direct, Gear, Lever

KINDS: dict[str, str] = {
    "spring": "spring",
    "elastic": "elastic cord",
    "strut": "gas strut",
    "pad": "pad of foam or felt",
    "skin": "springy skin",
    "magnets": "magnets",
    "cord": "cord that is pulled",
    "cable": "cable across it",
    "actuator": "linear actuator",
    "torsion": "spring about the joint",
    "motor": "motor that turns on",
    "hand": "hand at a lever",
}
"""Each kind, and what it is called."""


BODY_MM = 60.0
"""So much longer than its stroke is a linear actuator, all in, from pin to pin: common practice, no source."""


def _linear(way: dict[str, Any]) -> Linear:
    """One that stands half out where the figure is drawn, with the stroke that is sold for so long a body."""
    now = math.dist(*(anchor.at_mm for anchor in way["ends"]))
    stroke = max(10.0, round(now / 4))
    return Linear(**way, short_mm=max(5.0, round(now - stroke / 2)), stroke_mm=stroke)


_NEW: dict[str, Callable[[dict[str, Any]], Element]] = {
    "spring": lambda way: Spring(**way, free_mm=30.0, rate_N_per_mm=0.1),
    "elastic": lambda way: Elastic(**way, free_mm=40.0),
    "strut": lambda way: Strut(**way, long_mm=120.0, stroke_mm=40.0, force_N=20.0),
    "pad": lambda way: Pad(**way, thick_mm=10.0, rate_N_per_mm=1.0),
    "skin": lambda way: Skin(**way),
    "cord": lambda way: Cord(**way),
    "cable": lambda way: Cable(**way),
    "actuator": _linear,
    "magnets": lambda way: Magnets(**way, wide_mm=10.0, thick_mm=3.0),
}


def add_element(figure: Figure, kind: str, joint_id: str) -> Edit:
    """One more element across a joint: from behind and below its pivot, on what the joint rides on, to behind and above it, on the joint;
    mm. All its numbers are guesses until the builder says otherwise."""
    joint = figure.joint(joint_id)
    ident = new_id(figure, f"{joint_id}_{kind}")
    count = sum(1 for element in figure.elements if element.kind == kind)
    name = f"{KINDS[kind]} of {joint.name}" if not count else f"{KINDS[kind]} {count + 1} of {joint.name}"
    if kind == "torsion":
        return Edit(
            f"add {name}", (Add("elements", Torsion(id=ident, name=name[:80], joint=joint_id, rate_Nm_per_deg=0.005)),)
        )
    if kind == "motor":
        low, high = joint.range_deg
        pins = None if high - low >= 359 else (low, high)  # to and fro over its range, unless that is all the way round
        motor = Motor(id=ident, name=name[:80], joint=joint_id, mass_g=180.0, pins_deg=pins)
        moved = (Set(("joints", joint_id, "role"), "driven"),) if joint.role == "free" else ()
        return Edit(f"add {name}", (*moved, Add("elements", motor)))
    if kind == "hand":
        moved = (Set(("joints", joint_id, "role"), "driven"),) if joint.role == "free" else ()
        return Edit(f"add {name}", (*moved, Add("elements", Hand(id=ident, name=name[:80], joint=joint_id))))
    x, y, z = joint.at_mm
    if kind == "magnets":  # face to face, a little apart along the way they come off: of a slide its own axis, else up
        a, b, c = joint.axis if joint.kind == "slide" else (0.0, 0.0, 1.0)
        size = math.hypot(a, b, c)
        at = (x - 40.0 if joint.kind == "turn" else x, y, z)
        off = (at[0] + 5 * a / size, at[1] + 5 * b / size, at[2] + 5 * c / size)
        ends = (Anchor(rides_on=joint.rides_on, at_mm=at), Anchor(rides_on=joint_id, at_mm=off))
        return Edit(f"add {name}", (Add("elements", _NEW[kind]({"id": ident, "name": name[:80], "ends": ends})),))
    if kind == "skin":  # one place, ahead of the pivot
        at = (x + 40.0, y, z)
        ends = (Anchor(rides_on=joint.rides_on, at_mm=at), Anchor(rides_on=joint_id, at_mm=at))
        return Edit(f"add {name}", (Add("elements", _NEW[kind]({"id": ident, "name": name[:80], "ends": ends})),))
    ends = (
        Anchor(rides_on=joint.rides_on, at_mm=(x - 40.0, y, z - 40.0)),
        Anchor(rides_on=joint_id, at_mm=(x - 40.0, y, z + 20.0)),
    )
    return Edit(f"add {name}", (Add("elements", _NEW[kind]({"id": ident, "name": name[:80], "ends": ends})),))


def crank_or(figure: Figure, motor: Motor, kind: str) -> Direct | Gear | Belt | Lever:
    """Another of what may lie between a motor and its joint, with what is usual of it: a crank short enough to turn, its lever square in the middle."""
    if kind == "gear":
        return Gear()
    if kind == "belt":
        return Belt()
    if kind == "lever":
        middle = sum(figure.joint(motor.joint).range_deg) / 2
        return Lever(horn_mm=12.0, lever_mm=40.0, axes_mm=90.0, lever_deg=round(90.0 - middle, 1))
    return Direct()


def fit_torsion(figure: Figure, joint_id: str, rate_Nm_per_deg: float) -> Edit:
    """A spring about a joint, N·m a degree, that does nothing where the joint is drawn: typical of what can be bought, not measured."""
    joint = figure.joint(joint_id)
    name = f"spring of {joint.name}"[:80]
    spring = Torsion(
        id=new_id(figure, f"{joint_id}_spring"),
        name=name,
        joint=joint_id,
        rate_Nm_per_deg=rate_Nm_per_deg,
        origin="typical",
    )
    return Edit(f"fit a spring to {joint.name}", (Add("elements", spring),))


def fit_actuator(figure: Figure, joint_id: str, stroke_mm: float, force_N: float) -> Edit:
    """A linear actuator along a slide, from what the slide rides on to its pivot, the slide's range in the middle of its stroke; mm, N."""
    joint = figure.joint(joint_id)
    name = f"linear actuator of {joint.name}"[:80]
    low, high = joint.range_mm
    short = round(stroke_mm + BODY_MM)
    out = short + (stroke_mm - (high - low)) / 2 - low  # pin to pin where the slide is drawn
    size = math.hypot(*joint.axis)
    x, y, z = (round(p - out * a / size, 3) for p, a in zip(joint.at_mm, joint.axis, strict=True))
    ends = (Anchor(rides_on=joint.rides_on, at_mm=(x, y, z)), Anchor(rides_on=joint_id, at_mm=joint.at_mm))
    actuator = Linear(
        id=new_id(figure, f"{joint_id}_actuator"), name=name, ends=ends, short_mm=short, stroke_mm=stroke_mm,
        force_N=force_N, origin="typical",
    )  # fmt: skip
    return Edit(f"fit a linear actuator to {joint.name}", (Add("elements", actuator),))


def set_element(element: Element, words: str, **fields: Any) -> Edit:
    """Some of its fields at once."""
    return Edit(
        f"{words} of {element.name}",
        tuple(Set(("elements", element.id, name), value) for name, value in fields.items()),
        f"{element.id} {' '.join(fields)}",
    )


def set_anchor(element: Element, which: int, **fields: Any) -> Edit:
    """Another place, mm, or another carrier, for the anchor of that number along its way."""
    assert not isinstance(element, About)
    way = list(anchors(element))
    way[which] = Anchor(**(dict(way[which]) | fields))
    if isinstance(element, Skin) and "at_mm" in fields:  # it lies in one place
        way = [Anchor(**(dict(each) | {"at_mm": fields["at_mm"]})) for each in way]
    path = ("elements", element.id)
    if 0 < which < len(way) - 1:
        return Edit(
            f"move a guide of {element.name}", (Set((*path, "over"), tuple(way[1:-1])),), f"{element.id} {which}"
        )
    return Edit(f"move an end of {element.name}", (Set((*path, "ends"), (way[0], way[-1])),), f"{element.id} {which}")


def add_guide(element: Element) -> Edit:
    """A guide half way along, which it runs over."""
    assert not isinstance(element, About)
    a, b = anchors(element)[-2:]
    middle = tuple(round((p + q) / 2, 1) for p, q in zip(a.at_mm, b.at_mm, strict=True))
    guide = Anchor(rides_on=a.rides_on if a.rides_on != BASE else b.rides_on, at_mm=(middle[0], middle[1], middle[2]))
    return Edit(f"add a guide to {element.name}", (Set(("elements", element.id, "over"), (*element.over, guide)),))


def drop_guide(element: Element) -> Edit:
    """Without its last guide."""
    assert not isinstance(element, About)
    return Edit(f"take a guide from {element.name}", (Set(("elements", element.id, "over"), element.over[:-1]),))


def rehung(element: Element, joint_id: str, on: str) -> tuple[Step, ...]:
    """What becomes of an element when a joint is removed: its anchors ride on what carried the joint; one that then spans nothing goes."""
    if joint_id not in held_by(element):
        return ()
    way = tuple(Anchor(**(dict(a) | {"rides_on": on})) if a.rides_on == joint_id else a for a in anchors(element))
    if len({anchor.rides_on for anchor in way}) < 2:
        return (Remove("elements", element.id),)
    path = ("elements", element.id)
    return (Set((*path, "ends"), (way[0], way[-1])), Set((*path, "over"), way[1:-1]))
