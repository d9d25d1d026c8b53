"""Edits that take more than one step or a check first: what the window, remedies and imports all use."""

from __future__ import annotations

import re

from karakuri.errors import EditRefused
from karakuri.model.drive import Actuator, Drive
from karakuri.model.edit import Add, Edit, Remove, Set, Step
from karakuri.model.figure import BallastSite, Figure
from karakuri.model.joint import Joint
from karakuri.model.part import Part


def new_id(figure: Figure, name: str) -> str:
    """An identifier made from a name that nothing in the figure uses yet."""
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
    candidate, n = stem, 2
    while candidate in used:
        candidate, n = f"{stem}_{n}", n + 1
    return candidate


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


def twin_part(figure: Figure, part_id: str) -> Edit:
    """A copy of a part, mirrored to the figure's other side; one on the middle line stays there, 10 mm higher."""
    part = figure.part(part_id)
    x, y, z = part.at_mm
    at = (x, -y, z) if abs(y) > 0.5 else (x, y, z + 10.0)
    name = f"{part.name}, twin"[:80]
    fields = dict(part) | {"id": new_id(figure, name), "name": name, "at_mm": at}
    return Edit(f"twin of {part.name}", (Add("parts", Part(**fields)),))


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


def fresh_part(figure: Figure, rides_on: str) -> Part:
    """A new part without a mass yet, 40 mm above the pivot it rides on."""
    name = f"part {len(figure.parts) + 1}"
    x, y, z = figure.joint(rides_on).at_mm if any(j.id == rides_on for j in figure.joints) else (0.0, 0.0, 20.0)
    return Part(id=new_id(figure, name), name=name, rides_on=rides_on, at_mm=(x, y, z + 40.0), mass_origin="weighed")


def label_mass(figure: Figure, part_id: str, grams: float) -> Edit:
    """Write a part's mass; one that had none counts as weighed."""
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
