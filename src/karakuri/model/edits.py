"""Edits that take more than one step or a check first: what the window, remedies and imports all use."""

from __future__ import annotations

import math

from karakuri.errors import EditRefused
from karakuri.model.drive import Actuator, Case, Drive
from karakuri.model.edit import Add, Edit, Remove, Set, Step, apply
from karakuri.model.figure import BallastSite, Figure
from karakuri.model.ids import new_id
from karakuri.model.joint import Joint
from karakuri.model.joint_edits import remove_joint
from karakuri.model.loosen import ungripped, without
from karakuri.model.part import BASE, Part


def foot_of(depth_mm: float, width_mm: float) -> tuple[tuple[float, float], ...]:
    """A rectangular foot about the datum, corners in mm."""
    x, y = depth_mm / 2, width_mm / 2
    return ((-x, -y), (x, -y), (x, y), (-x, y))


def new_figure(
    name: str,
    stands_on: str,
    depth_mm: float,
    width_mm: float,
    lean_deg: float,
    volts: float,
    amps: float,
    growth: float,
) -> Figure:
    """A figure from what New asks for. Raises EditRefused with the reason."""
    postures: list[dict[str, object]] = [{"id": "level", "name": "level"}]
    if abs(lean_deg) > 0.01:
        postures.append({"id": "leaning", "name": "leaning", "lean_deg": lean_deg})
    steps = (
        Set(("name",), name.strip() or "New head"),
        Set(("base",), {"outline_mm": foot_of(depth_mm, width_mm), "stands_on": stands_on.strip() or "a table"}),
        Set(("postures",), tuple(postures)),
        Set(("supply",), {"voltage_V": volts, "current_A": amps}),
        Set(("assumptions", "growth_percent"), growth),
    )
    return apply(Figure(), Edit("make this figure", steps))


def implausible(figure: Figure, rides_on: str, at_mm: tuple[float, ...]) -> str:
    """A sentence where a place lies much farther from what it rides on than all the rest of the figure, else ''."""
    known = {joint.id: joint.at_mm for joint in figure.joints}
    pivot = known.get(rides_on, (0.0, 0.0, 0.0))
    places = [*known.values(), *(part.at_mm for part in figure.parts), (0.0, 0.0, 0.0)]
    wide = max(max(abs(a - b) for a, b in zip(p, q, strict=True)) for p in places for q in (places[0], places[-1]))
    away = max(abs(a - b) for a, b in zip(at_mm, pivot, strict=True))
    if away <= max(1_000.0, 4.0 * wide):
        return ""
    return f"That is {away / 1e3:,.1f} m from what it rides on; all of the figure lies within {wide / 1e3:.1f} m."


def add_posture(figure: Figure) -> Edit:
    """One more way for the base to stand, leaning 15° at first."""
    fields = {"id": new_id(figure, "leaning"), "name": "leaning", "lean_deg": 15.0}
    return Edit("add a posture", (Add("postures", fields),))


def allow_ballast(figure: Figure, joint_id: str) -> Edit:
    """A place for ballast behind a joint's pivot, or in the base where there is no joint; 200 g at first."""
    at = figure.joint(joint_id).at_mm if joint_id else (0.0, 0.0, 0.0)
    fields = {
        "id": new_id(figure, "site"),
        "name": f"site {len(figure.ballast_sites) + 1}",
        "rides_on": joint_id or BASE,
        "at_mm": (at[0] - 60.0, at[1], at[2] + 20.0),
        "most_g": 200.0,
    }
    return Edit("allow ballast", (Add("ballast_sites", fields),))


def add_part(part: Part) -> Edit:
    return Edit(f"add {part.name}", (Add("parts", part),))


def add_joint(joint: Joint) -> Edit:
    return Edit(f"add {joint.name}", (Add("joints", joint),))


def fit_servo(figure: Figure, joint_id: str, actuator: Actuator) -> Edit:
    """Put a servo on a joint, in place of the one it has."""
    joint, old = figure.joint(joint_id), figure.drive_of(joint_id)
    name = f"fit {actuator.name} to {joint.name}"
    if old is not None:
        return Edit(name, (Set(("drives", old.id, "actuator"), actuator),))
    return Edit(
        name, (Add("drives", Drive(id=new_id(figure, f"{joint_id}_servo"), joint=joint_id, actuator=actuator)),)
    )


def set_servos(figure: Figure, drive_id: str, count: int) -> Edit:
    """One servo, or two of the same on one joint; a second one sits in the mirror of the first about the joint's own middle."""
    drive = next(each for each in figure.drives if each.id == drive_id)
    joint = figure.joint(drive.joint)
    steps: list[Step] = [Set(("drives", drive_id, "servos"), count)]
    if count > 1 and drive.at_mm is not None and drive.other_at_mm is None:
        size = math.hypot(*joint.axis)
        along = sum((a - b) * c / size for a, b, c in zip(drive.at_mm, joint.at_mm, joint.axis, strict=True))
        other = tuple(round(a - 2 * along * c / size, 2) + 0.0 for a, c in zip(drive.at_mm, joint.axis, strict=True))
        steps.append(Set(("drives", drive_id, "other_at_mm"), other))
    return Edit(f"{'two servos' if count > 1 else 'one servo'} for {joint.name}", tuple(steps))


def set_case(figure: Figure, drive_id: str, field: str, value: object, words: str) -> Edit:
    """How a servo's case lies, by one field; a direction of None: not said any more."""
    drive = next(each for each in figure.drives if each.id == drive_id)
    name = f"{words} of {figure.joint(drive.joint).name}"[:80]
    if field == "to" and value is None:
        return Edit(name, (Set(("drives", drive_id, "case"), None),))
    fields = dict(drive.case) if drive.case is not None else {}
    return Edit(
        name,
        (Set(("drives", drive_id, "case"), Case.from_fields(fields | {field: value})),),
        f"{drive_id} case {field}",
    )


def remove_item(figure: Figure, collection: str, item_id: str) -> Edit:
    """Remove anything else. Raises EditRefused, naming who refers to it."""
    if collection == "joints":
        return remove_joint(figure, item_id)
    item = next((i for i in getattr(figure, collection) if i.id == item_id), None)
    if item is None:
        raise EditRefused(f"{collection} has no '{item_id}' to remove")
    users = [part.name for part in figure.parts if collection == "materials" and part.material == item_id]
    if users:
        raise EditRefused(f"{item.name} stays: {', '.join(users)} {'is' if len(users) == 1 else 'are'} made of it.")
    if collection == "sounds" and any(
        play.sound == item_id for score in figure.scores for voice in score.voices for play in voice.plays
    ):
        raise EditRefused(f"{item.name} stays: it sounds in the score. Take it out there first.")
    if collection == "sounds" and any(item_id in (*each.openings, *each.lines) for each in figure.lines):
        raise EditRefused(f"{item.name} stays: it is in a list of lines. Take it out there first.")
    if collection == "poses" and any(pin.pose == item_id for score in figure.scores for pin in score.pins):
        raise EditRefused(f"{item.name} stays: it is pinned in the score. Take its pins out first.")
    if collection == "postures" and len(figure.postures) == 1:
        raise EditRefused(f"{item.name} stays: a figure needs at least one posture.")
    name = getattr(item, "name", None) or f"servo of {figure.joint(item.joint).name}"
    freed = without(figure, item_id) if collection in ("parts", "drives") else ()
    freed = ungripped(figure, poses={item_id}) if collection == "poses" else freed
    return Edit(f"remove {name}", (*freed, Remove(collection, item_id)))


def set_field(figure: Figure, collection: str, item_id: str, path: tuple[str, ...], value: object, words: str) -> Edit:
    """Set one field of one item; the name for undo says what of which."""
    item = next(i for i in getattr(figure, collection) if i.id == item_id)
    name = getattr(item, "name", None) or figure.joint(item.joint).name
    return Edit(f"{words} of {name}", (Set((collection, item_id, *path), value),), f"{item_id} {'.'.join(path)}")


def set_one_of(figure: Figure, collection: str, item_id: str, field: str, which: int, value: float, words: str) -> Edit:
    """Set one number of a tuple field: a coordinate of a place, an end of a range."""
    item = next(i for i in getattr(figure, collection) if i.id == item_id)
    numbers = list(getattr(item, field))
    numbers[which] = value
    return Edit(
        f"{words} of {item.name}", (Set((collection, item_id, field), tuple(numbers)),), f"{item_id} {field} {which}"
    )


def fresh_part(figure: Figure, rides_on: str, away_mm: tuple[float, float, float] = (0.0, 0.0, 40.0)) -> Part:
    """A new part without a mass yet, so far from the pivot it rides on, mm; by default 40 mm above it."""
    name = f"part {len(figure.parts) + 1}"
    x, y, z = figure.joint(rides_on).at_mm if any(j.id == rides_on for j in figure.joints) else (0.0, 0.0, 20.0)
    at = (round(x + away_mm[0], 1), round(y + away_mm[1], 1), round(z + away_mm[2], 1))
    return Part(id=new_id(figure, name), name=name, rides_on=rides_on, at_mm=at)


def label_mass(figure: Figure, part_id: str, grams: float) -> Edit:
    """Write a part's mass, in grams; how it is known stays as it was said, a guess at first."""
    return set_field(figure, "parts", part_id, ("mass_g",), grams, "mass")


def ballast_edit(figure: Figure, site: BallastSite, grams: float) -> Edit:
    """Lead at a site; what the site has already is replaced by the new amount."""
    ident = site.ballast_id
    label = f"ballast {grams:g} g at {site.name}"
    if any(part.id == ident for part in figure.parts):
        return Edit(label, (Set(("parts", ident, "mass_g"), grams),), ident)
    part = Part(
        id=ident,
        name=f"ballast, {site.name}"[:80],
        rides_on=site.rides_on,
        at_mm=site.at_mm,
        mass_g=grams,
        mass_origin="weighed",
        fixed=True,
    )
    return Edit(label, (Add("parts", part),), ident)
