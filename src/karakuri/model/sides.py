"""Left and right: which joints make a pair, and the twin of a part or of a joint with all that rides on it.

In the mirror (y turned to −y) a turn by θ about axis a becomes a turn by −θ about the mirrored axis: a reflection turns the sense of
turning. What turns about an axis across the figure keeps its angle; what turns about the others is made to turn the same way as its twin,
with the range turned about, so that both looking left is one angle for both.
"""

from __future__ import annotations

import re
from typing import Any

from karakuri.errors import EditRefused
from karakuri.model.drive import Case, Drive
from karakuri.model.edit import Add, Edit, Set, Step
from karakuri.model.element import About, Anchor, Element, Hand, Motor, Torsion, anchors, held_by
from karakuri.model.figure import BallastSite, Figure
from karakuri.model.ids import new_id
from karakuri.model.joint import Follow, Joint
from karakuri.model.part import Mesh, Part, Shape
from karakuri.model.rod import Rod
from karakuri.model.transmission import Ball, Bevel, Lever, Transmission

SIDE = re.compile(r"(?<![^\W_])(left|right)(?![^\W_])", re.IGNORECASE)
MIDDLE_MM, LIFT_MM = 0.5, 10.0
_OTHER = {"left": "right", "right": "left"}


def other_side(name: str) -> str:
    """A name with left and right exchanged; the same where neither is in it."""

    def swap(match: re.Match[str]) -> str:
        word = _OTHER[match[0].lower()]
        return word.upper() if match[0].isupper() else word.capitalize() if match[0][0].isupper() else word

    return SIDE.sub(swap, name)


def twin_of(figure: Figure, joint_id: str) -> str | None:
    """The joint that makes a pair with this one: by the builder's word, else by left and right in their names, or None."""
    joint = figure.joint(joint_id)
    if joint.twin is not None:
        return joint.twin
    for other in figure.joints:
        if other.twin == joint_id:
            return other.id
    wanted = other_side(joint.name).lower()
    if wanted == joint.name.lower():
        return None
    alike = [j.id for j in figure.joints if j.name.lower() == wanted and j.kind == joint.kind and j.twin is None]
    return alike[0] if len(alike) == 1 else None


def in_mirror(joint: Joint, other: Joint) -> float:
    """1 where the other joint at the same coordinate is the mirror image of this one, −1 where it is at the opposite one."""
    x, y, z = joint.axis
    seen = (x, -y, z) if joint.kind == "slide" else (-x, y, -z)
    return 1.0 if sum(a * b for a, b in zip(seen, other.axis, strict=True)) >= 0 else -1.0


def turns_about(joint: Joint) -> bool:
    """Whether a joint's coordinate changes its sign in the mirror, its axis kept as near to its own as may be."""
    return in_mirror(joint, joint) < 0


def same_way(one: Joint, other: Joint) -> float:
    """1 where a positive turn of both is the same way in the room, else −1."""
    return 1.0 if sum(a * b for a, b in zip(one.axis, other.axis, strict=True)) >= 0 else -1.0


def mirrored(figure: Figure, places: dict[str, float]) -> dict[str, float]:
    """The pose seen in a mirror: what turns about x or z (or slides along y) changes sign, left and right change places."""
    out: dict[str, float] = {}
    for ident, value in places.items():
        twin = twin_of(figure, ident) or ident
        joint, other = figure.joint(ident), figure.joint(twin)
        out[twin] = value * in_mirror(joint, other)
    return out


def twin_part(figure: Figure, part_id: str) -> Edit:
    """A copy of a part, mirrored to the figure's other side; one on the middle line stays there, 10 mm higher."""
    part = figure.part(part_id)
    middle = abs(part.at_mm[1]) <= MIDDLE_MM
    twin = _part(part, new_id(figure, _name(part.name)), part.rides_on, LIFT_MM if middle else 0.0)
    return Edit(f"twin of {part.name}", (Add("parts", twin),))


def twin_joint(figure: Figure, joint_id: str) -> tuple[Edit, str]:
    """A joint's twin on the other side with all that rides on it: joints, parts, servos, ballast sites; and the new joint's id.

    Raises EditRefused where all of it lies on the middle line: there is no other side.
    """
    joint = figure.joint(joint_id)
    inside = _all_on(figure, joint_id)
    joints = [j for j in figure.joints if j.id in inside]
    parts = [p for p in figure.parts if p.rides_on in inside]
    if all(abs(at[1]) <= MIDDLE_MM for at in (*(j.at_mm for j in joints), *(p.at_mm for p in parts))):
        raise EditRefused(f"{joint.name} and all that rides on it lie on the middle line: move it to one side first.")
    if twin_of(figure, joint_id) is not None:
        raise EditRefused(
            f"{joint.name} has a twin already, {figure.joint(twin_of(figure, joint_id) or '').name}: remove that first."
        )
    taken: set[str] = set()
    ids = {j.id: new_id(figure, _name(j.name), taken) for j in joints}
    steps: list[Step] = [Add("joints", _joint(figure, j, ids)) for j in joints]
    steps += [Add("parts", _part(p, new_id(figure, _name(p.name), taken), ids[p.rides_on], 0.0)) for p in parts]
    for drive in figure.drives:
        if drive.joint in inside:
            at = _place(drive.at_mm) if drive.at_mm is not None else None
            fields = dict(drive) | {"id": new_id(figure, f"{ids[drive.joint]} servo", taken), "joint": ids[drive.joint], "at_mm": at,
                "other_at_mm": _place(drive.other_at_mm) if drive.other_at_mm is not None else None}  # fmt: skip
            fields["transmission"] = _mirrored(figure, drive, ids)
            fields["case"] = _case(figure, drive)
            fields["rides_on"] = ids.get(drive.rides_on, drive.rides_on) if drive.rides_on is not None else None
            steps.append(Add("drives", Drive(**fields)))
    for site in figure.ballast_sites:
        if site.rides_on in inside:
            fields = dict(site) | {"id": new_id(figure, _name(site.name), taken), "name": _name(site.name), "rides_on": ids[site.rides_on], "at_mm": _place(site.at_mm)}  # fmt: skip
            steps.append(Add("ballast_sites", BallastSite(**fields)))
    for element in figure.elements:
        if inside & set(held_by(element)):
            about = isinstance(element, About) and turns_about(figure.joint(element.joint))
            steps.append(Add("elements", _element(element, new_id(figure, _name(element.name), taken), ids, about)))
    for rod in figure.rods:
        if rod.rides_on in inside:
            held = tuple(ids.get(each, each) for each in rod.carries if each in ids)
            fields = dict(rod) | {"id": new_id(figure, _name(rod.name), taken), "name": _name(rod.name), "rides_on": ids[rod.rides_on], "carries": held}  # fmt: skip
            steps.append(Add("rods", Rod(**(fields | {"at_mm": _place(rod.at_mm), "tip_mm": _place(rod.tip_mm)}))))
    for fastened in figure.fastenings:
        if fastened.rides_on in inside:
            held = tuple(ids.get(each, each) for each in fastened.carries if each in ids)
            x, y, z = fastened.off
            fields = dict(fastened) | {"id": new_id(figure, _name(fastened.name), taken), "name": _name(fastened.name), "rides_on": ids[fastened.rides_on], "carries": held}  # fmt: skip
            steps.append(
                Add("fastenings", type(fastened)(**(fields | {"at_mm": _place(fastened.at_mm), "off": (x, -y, z)})))
            )
    return Edit(f"twin of {joint.name}, with all that rides on it", tuple(steps)), ids[joint_id]


def may_pair(figure: Figure, joint_id: str) -> list[Joint]:
    """Joints that may be said to make a pair with this one: any other of its kind."""
    joint = figure.joint(joint_id)
    return [j for j in figure.joints if j.id != joint_id and j.kind == joint.kind]


def set_twin(figure: Figure, joint_id: str, twin: str | None) -> Edit:
    """Say which joint makes a pair with this one, or leave it to the names."""
    return Edit(f"other side of {figure.joint(joint_id).name}", (Set(("joints", joint_id, "twin"), twin),))


def _all_on(figure: Figure, joint_id: str) -> set[str]:
    inside = {joint_id}
    while more := {j.id for j in figure.joints if j.rides_on in inside} - inside:
        inside |= more
    return inside


def _name(name: str) -> str:
    swapped = other_side(name)
    return (swapped if swapped != name else f"{name}, twin")[:80]


def _place(at: tuple[float, float, float]) -> tuple[float, float, float]:
    return (at[0], -at[1], at[2])


def _mirrored(figure: Figure, drive: Drive, ids: dict[str, str]) -> Transmission:
    """What lies between in the mirror: a lever of a joint that is turned about stands at the opposite angle; a shaft keeps the sense of its horn; of two
    bevel wheels whose joints change their sense differently, the one goes the other way."""
    form, about = drive.transmission, turns_about(figure.joint(drive.joint))
    if isinstance(form, Lever):
        return Lever(**(dict(form) | {"lever_deg": -form.lever_deg + 0.0})) if about else form
    if isinstance(form, Ball):
        (x, y, z), (a, b, c) = form.shaft_axis, form.horn_to
        on = ids.get(form.ball_on, form.ball_on) if form.ball_on is not None else None
        places = {"shaft_mm": _place(form.shaft_mm), "ball_mm": _place(form.ball_mm), "horn_to": (a, -b + 0.0, c)}
        return Ball(**(dict(form) | places | {"shaft_axis": (-x + 0.0, y, -z + 0.0), "ball_on": on}))
    if isinstance(form, Bevel):
        turns = form.turns
        if about != turns_about(figure.joint(form.partner)):
            turns = "same" if turns == "opposite" else "opposite"
        return Bevel(**(dict(form) | {"partner": ids.get(form.partner, form.partner), "turns": turns}))
    return form


def _case(figure: Figure, drive: Drive) -> Case | None:
    """How its case lies in the mirror: where the axis that its shaft is told by turns back, the shaft is told the other way."""
    if drive.case is None:
        return None
    keeps = turns_about(figure.joint(drive.joint)) and not isinstance(drive.transmission, Ball)
    x, y, z = drive.case.to
    shaft = drive.case.shaft if keeps else "minus" if drive.case.shaft == "plus" else "plus"
    return drive.case.but(to=(x, -y + 0.0, z), shaft=shaft)


def _shape(shape: Shape) -> Shape:
    """A mesh in the mirror; every other shape is alike on both sides."""
    if not isinstance(shape, Mesh):
        return shape
    fields: dict[str, Any] = dict(shape)
    for name in ("solid_at", "shell_at"):
        x, y, z = getattr(shape, name)
        fields[name] = (x, -y + 0.0, z)
    for name in ("solid_turns", "shell_turns"):
        a, b, c, xy, xz, yz = getattr(shape, name)
        fields[name] = (a, b, c, -xy + 0.0, xz, -yz + 0.0)
    fields["inner"] = tuple((x, -y + 0.0, z, far) for x, y, z, far in shape.inner)
    fields["hull"] = tuple((x, -y + 0.0, z) for x, y, z in shape.hull)
    return Mesh(**fields)


def _part(part: Part, ident: str, rides_on: str, lift: float) -> Part:
    """Its turning in the mirror: about x and z the other way round, about y as it is."""
    x, y, z = _place(part.at_mm)
    a, b, c = part.turned_deg
    fields = dict(part) | {"id": ident, "name": _name(part.name), "rides_on": rides_on, "at_mm": (x, y, z + lift), "turned_deg": (-a, b, -c), "shape": _shape(part.shape)}  # fmt: skip
    return Part(**fields)


def _element(element: Element, ident: str, ids: dict[str, str], about: bool) -> Element:
    """A spring about a joint that is turned about in the mirror does nothing at the opposite angle."""
    fields = dict(element) | {"id": ident, "name": _name(element.name)}
    if isinstance(element, Torsion):
        free = -element.free_deg + 0.0 if about else element.free_deg
        return Torsion(**(fields | {"joint": ids[element.joint], "free_deg": free}))
    if isinstance(element, Hand):
        return Hand(**(fields | {"joint": ids[element.joint]}))
    if isinstance(element, Motor):
        return _motor(element, fields | {"joint": ids[element.joint]}, about)
    way = tuple(Anchor(rides_on=ids.get(a.rides_on, a.rides_on), at_mm=_place(a.at_mm)) for a in anchors(element))
    return type(element)(**(fields | {"ends": (way[0], way[-1]), "over": way[1:-1]}))


def _motor(motor: Motor, fields: dict[str, Any], about: bool) -> Motor:
    """One of a joint that is turned about goes the other way, between pins on the other side."""
    if not about:
        return Motor(**fields)
    pins = None if motor.pins_deg is None else (-motor.pins_deg[1] + 0.0, -motor.pins_deg[0] + 0.0)
    way = {"plus": "minus", "minus": "plus"}.get(motor.way, motor.way)
    form = motor.through
    if isinstance(form, Lever):
        form = Lever(**(dict(form) | {"lever_deg": -form.lever_deg + 0.0}))
    return Motor(**(fields | {"pins_deg": pins, "way": way, "through": form}))


def _joint(figure: Figure, joint: Joint, ids: dict[str, str]) -> Joint:
    about = turns_about(joint)
    x, y, z = joint.axis
    # a turn: −mirror(a) keeps the angle, mirror(a) turns it about; a slide: the other way round
    keeps = (-x, y, -z) if joint.kind == "turn" else (x, -y, z)
    axis = tuple(-v + 0.0 for v in keeps) if about else tuple(v + 0.0 for v in keeps)
    fields: dict[str, Any] = dict(joint) | {
        "id": ids[joint.id],
        "name": _name(joint.name),
        "rides_on": ids.get(joint.rides_on, joint.rides_on),
        "at_mm": _place(joint.at_mm),
        "axis": axis,
        "twin": _twin(figure, joint, ids),
    }
    if about:
        for name in ("range_deg", "range_mm", "stops_deg", "stops_mm", "rests_deg"):
            if getattr(joint, name) is not None:
                low, high = getattr(joint, name)
                fields[name] = (-high + 0.0, -low + 0.0)
        fields["ends"] = (other_side(joint.ends[1]), other_side(joint.ends[0]))
    if joint.follows is not None:
        fields["follows"] = _follow(figure, joint, joint.follows, ids)
    return Joint(**fields)


def _twin(figure: Figure, joint: Joint, ids: dict[str, str]) -> str | None:
    """A pair inside is a pair again on the other side; else the name says it, or has to be told."""
    if joint.twin is not None:
        return ids.get(joint.twin)
    paired = any(other.twin == joint.id for other in figure.joints)
    return joint.id if other_side(joint.name) == joint.name and not paired else None


def _follow(figure: Figure, joint: Joint, follow: Follow, ids: dict[str, str]) -> Follow:
    sign = -1.0 if turns_about(joint) else 1.0
    leads = -1.0 if follow.joint in ids and turns_about(figure.joint(follow.joint)) else 1.0
    return Follow(
        joint=ids.get(follow.joint, follow.joint),
        ratio=follow.ratio * sign * leads,
        offset_deg=follow.offset_deg * sign,
        offset_mm=follow.offset_mm * sign,
    )
