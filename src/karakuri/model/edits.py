"""Edits that take more than one step or a check first: what the window, remedies and imports all use."""

from __future__ import annotations

import re
from collections.abc import Callable
from typing import Any

from karakuri.errors import EditRefused
from karakuri.model.drive import Actuator, Drive
from karakuri.model.edit import Add, Edit, Remove, Set, Step, apply
from karakuri.model.figure import BallastSite, Figure
from karakuri.model.joint import Joint
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


def new_id(figure: Figure, name: str, taken: set[str] | None = None) -> str:
    """An identifier made from a name that nothing in the figure uses yet, nor any of those `taken`, which it then joins."""
    stem = re.sub(r"[^a-z0-9]+", "_", name.lower()).strip("_") or "part"
    if not stem[0].isalpha():
        stem = "n_" + stem
    stem = stem[:50]
    used = {
        item.id
        for kind in ("parts", "joints", "drives", "ballast_sites", "postures", "materials", "poses")
        for item in getattr(figure, kind)
    } | {"base", "idle"}
    used |= {item.id for kind in ("channels", "pins", "sections") for item in getattr(figure.score, kind)}
    used |= taken or set()
    candidate, n = stem, 2
    while candidate in used:
        candidate, n = f"{stem}_{n}", n + 1
    if taken is not None:
        taken.add(candidate)
    return candidate


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


def remove_joint(figure: Figure, joint_id: str) -> Edit:
    """Remove a joint: what it carried rides on its parent from then on, its drive goes with it, one named edit.

    Raises EditRefused when another joint follows it.
    """
    joint = figure.joint(joint_id)
    followers = [j.name for j in figure.joints if j.follows is not None and j.follows.joint == joint_id]
    if followers:
        raise EditRefused(
            f"{joint.name} stays: {', '.join(followers)} follows it. Give that another joint to follow first."
        )
    steps: list[Step] = []
    for kind in ("parts", "joints", "ballast_sites"):
        steps += [
            Set((kind, item.id, "rides_on"), joint.rides_on)
            for item in getattr(figure, kind)
            if item.rides_on == joint_id
        ]
    steps += [Remove("drives", drive.id) for drive in figure.drives if drive.joint == joint_id]
    channel = figure.score.channel_of(joint_id)
    if channel is not None:
        left = tuple(j for j in channel.joints if j != joint_id)
        where = ("score", "channels", channel.id, "joints")
        steps.append(Set(where, left) if left else Remove("score.channels", channel.id))
    steps += [Set(("joints", other.id, "twin"), None) for other in figure.joints if other.twin == joint_id]
    for pose in figure.poses:
        kept = tuple(place for place in pose.places if place[0] != joint_id)
        if kept != pose.places:
            steps.append(Set(("poses", pose.id, "places"), kept))
    return Edit(f"remove {joint.name}, what it carried re-hung", (*steps, Remove("joints", joint_id)))


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
    if collection == "poses" and any(pin.pose == item_id for pin in figure.score.pins):
        raise EditRefused(f"{item.name} stays: it is pinned in the score. Take its pins out first.")
    if collection == "postures" and len(figure.postures) == 1:
        raise EditRefused(f"{item.name} stays: a figure needs at least one posture.")
    name = getattr(item, "name", None) or f"servo of {figure.joint(item.joint).name}"
    return Edit(f"remove {name}", (Remove(collection, item_id),))


def reshaped(part: Part, kind: str) -> dict[str, Any]:
    """The fields of another shape of the same size, mm, as far as it can be said."""
    old: Any = part.shape
    sizes: dict[str, Callable[[], Any]] = {
        "box": lambda: old.size_mm,
        "sphere": lambda: (2 * old.radius_mm,) * 3,
        "ellipsoid": lambda: tuple(2 * a for a in old.semi_axes_mm),
        "cylinder": lambda: (2 * old.radius_mm, 2 * old.radius_mm, old.height_mm),
        "point": lambda: (40.0, 40.0, 40.0),
    }
    size = sizes[old.kind]()
    wall = getattr(old, "wall_mm", 0.0)
    if kind == "box":
        return {"kind": kind, "size_mm": size, "wall_mm": wall}
    if kind == "sphere":
        return {"kind": kind, "radius_mm": max(size) / 2, "wall_mm": wall}
    if kind == "ellipsoid":
        return {"kind": kind, "semi_axes_mm": tuple(s / 2 for s in size), "wall_mm": wall}
    if kind == "cylinder":
        return {"kind": kind, "radius_mm": max(size[:2]) / 2, "height_mm": size[2], "wall_mm": wall}
    return {"kind": "point"}


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


TURNS_LIKE: dict[str, tuple[tuple[float, float, float], tuple[str, str], str]] = {
    "nods": ((0.0, 1.0, 0.0), ("nose-up", "nose-down"), "turn"),
    "shakes": ((0.0, 0.0, 1.0), ("to its right", "to its left"), "turn"),
    "leans": ((1.0, 0.0, 0.0), ("left side down", "left side up"), "turn"),
    "opens": ((0.0, 1.0, 0.0), ("shut", "open"), "turn"),
    "slides": ((0.0, 0.0, 1.0), ("in", "out"), "slide"),
}


def turns_like(joint: Joint) -> str:
    """Which of the five a joint is, or 'its own axis'."""
    for word, (axis, ends, kind) in TURNS_LIKE.items():
        if (
            joint.kind == kind
            and joint.axis == axis
            and (kind == "slide" or joint.ends == ends or word in ("shakes", "leans"))
        ):
            return word
    return "nods" if joint.axis == (0.0, 1.0, 0.0) and joint.kind == "turn" else "its own axis"


def make_turn_like(figure: Figure, joint_id: str, word: str) -> Edit:
    """Nod, shake, lean, opens or slides: axis and the names of both ends; an opening joint begins shut at 0°."""
    axis, ends, kind = TURNS_LIKE[word]
    joint = figure.joint(joint_id)
    steps: list[Step] = [
        Set(("joints", joint_id, field), value) for field, value in (("kind", kind), ("axis", axis), ("ends", ends))
    ]
    if word == "opens" and joint.range_deg == (-30.0, 30.0):
        steps.append(Set(("joints", joint_id, "range_deg"), (0.0, 25.0)))
    return Edit(f"{joint.name} {word}", tuple(steps))


ROLES: dict[str, str] = {"driven": "its own servo", "follows": "another joint", "free": "nothing, it hangs free"}


def may_follow(figure: Figure, joint_id: str) -> list[Joint]:
    """Joints that a joint may follow: any that does not follow it, by whatever way."""
    out = []
    for other in figure.joints:
        at, seen = other, {other.id}
        while at.role == "follows" and at.follows is not None and at.follows.joint not in seen:
            seen.add(at.follows.joint)
            at = figure.joint(at.follows.joint)
        if joint_id not in seen:
            out.append(other)
    return out


def set_role(figure: Figure, joint_id: str, role: str) -> Edit:
    """What moves a joint. One that begins to follow takes the likest joint it may, one to one. Raises EditRefused where there is none."""
    joint = figure.joint(joint_id)
    steps: list[Step] = []
    if role == "follows" and joint.follows is None:
        others = may_follow(figure, joint_id)
        if not others:
            raise EditRefused(f"{joint.name} has nothing to follow: add the joint that drives it first.")
        like = min(others, key=lambda o: (o.region != joint.region, o.kind != joint.kind, o.rides_on != joint.rides_on))
        steps.append(Set(("joints", joint_id, "follows"), {"joint": like.id}))
    steps.append(Set(("joints", joint_id, "role"), role))
    return Edit(f"what moves {joint.name}", tuple(steps))


def rest_where(figure: Figure, joint_id: str, which: int, value: float | None) -> Edit:
    """One end of where a joint may stand for long; the other is its wanted range's until it is written. None: all of the range again."""
    joint = figure.joint(joint_id)
    if value is None:
        return set_field(figure, "joints", joint_id, ("rests_deg",), None, "rest")
    return _one_end(joint, "rests_deg", joint.rests_deg or joint.range_deg, which, value, "rest")


def stop_where(figure: Figure, joint_id: str, which: int, value: float) -> Edit:
    """One hard stop, degrees; the other lies 5° beyond the wanted range until it is measured too."""
    joint = figure.joint(joint_id)
    assumed = (joint.range_deg[0] - 5.0, joint.range_deg[1] + 5.0)
    return _one_end(joint, "stops_deg", joint.stops_deg or assumed, which, value, "stops")


def _one_end(joint: Joint, field: str, ends: tuple[float, float], which: int, value: float, words: str) -> Edit:
    now = (value, ends[1]) if which == 0 else (ends[0], value)
    return Edit(f"{words} of {joint.name}", (Set(("joints", joint.id, field), now),), f"{joint.id} {field} {which}")


def fresh_joint(figure: Figure, rides_on: str, word: str = "nods") -> Joint:
    """A new joint with a default for every field: above what it rides on."""
    axis, ends, kind = TURNS_LIKE[word]
    name = f"joint {len(figure.joints) + 1}"
    at = (0.0, 0.0, 100.0)
    if any(joint.id == rides_on for joint in figure.joints):
        x, y, z = figure.joint(rides_on).at_mm
        at = (x, y, z + 30.0)
    return Joint(
        id=new_id(figure, name),
        name=name,
        rides_on=rides_on,
        at_mm=at,
        axis=axis,
        ends=ends,
        kind="slide" if kind == "slide" else "turn",
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
    ident = f"ballast_{site.id}"
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
