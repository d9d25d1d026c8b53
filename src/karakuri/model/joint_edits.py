"""Edits of joints: which way they move, what moves them, how far, where they rest, and what becomes of what a removed one carried."""

from __future__ import annotations

import math
from typing import Literal

from karakuri.errors import EditRefused
from karakuri.frozen import Frozen
from karakuri.model.edit import Add, Edit, Remove, Set, Step
from karakuri.model.element import About
from karakuri.model.element_edits import rehung
from karakuri.model.figure import Figure
from karakuri.model.ids import new_id
from karakuri.model.joint import Follow, Joint
from karakuri.model.loosen import ungripped, without
from karakuri.model.score_edits import let_go
from karakuri.model.transmission import Ball


class Motion(Frozen):
    """A usual way of moving: axis, the names of both ends, and how it is told on the card; `begins` is its range, degrees, where nobody chose one."""

    axis: tuple[float, float, float]
    ends: tuple[str, str]
    kind: Literal["turn", "slide"]
    words: str
    begins: tuple[float, float] | None = None


UNCHOSEN = (-30.0, 30.0)
OWN_AXIS = "about its own axis"
MOTIONS: dict[str, Motion] = {
    "nods": Motion((0.0, 1.0, 0.0), ("nose-up", "nose-down"), "turn", "nods, up and down"),
    "shakes": Motion((0.0, 0.0, 1.0), ("to its right", "to its left"), "turn", "shakes, side to side"),
    "leans": Motion((1.0, 0.0, 0.0), ("left side down", "left side up"), "turn", "leans, ear to shoulder"),
    "opens": Motion((0.0, 1.0, 0.0), ("shut", "open"), "turn", "opens and shuts", (0.0, 25.0)),
    "slides": Motion((0.0, 0.0, 1.0), ("in", "out"), "slide", "slides in and out"),
}


def motion_of(joint: Joint) -> str | None:
    """Which of the usual motions a joint has; None for an axis of its own. Of two about the same axis, the names of its ends tell."""
    alike = [
        word for word, m in MOTIONS.items() if m.kind == joint.kind and (m.kind == "slide" or m.axis == joint.axis)
    ]
    return next((word for word in alike if MOTIONS[word].ends == joint.ends), alike[0] if alike else None)


def set_motion(figure: Figure, joint_id: str, word: str) -> Edit:
    """One of the usual motions: axis and the names of both ends; one that has a usual range takes it where nobody chose another."""
    motion, joint = MOTIONS[word], figure.joint(joint_id)
    chosen = (("kind", motion.kind), ("axis", motion.axis), ("ends", motion.ends))
    steps: list[Step] = [Set(("joints", joint_id, field), value) for field, value in chosen]
    if motion.begins is not None and joint.range_deg == UNCHOSEN:
        steps.append(Set(("joints", joint_id, "range_deg"), motion.begins))
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
        return Edit(f"rest of {joint.name}", (Set(("joints", joint_id, "rests_deg"), None),))
    return _one_end(joint, "rests_deg", joint.rests_deg or joint.range_deg, which, value, "rest")


def stop_where(figure: Figure, joint_id: str, which: int, value: float) -> Edit:
    """One hard stop, degrees; the other lies 5° beyond the wanted range until it is measured too."""
    joint = figure.joint(joint_id)
    assumed = (joint.range_deg[0] - 5.0, joint.range_deg[1] + 5.0)
    return _one_end(joint, "stops_deg", joint.stops_deg or assumed, which, value, "stops")


def _one_end(joint: Joint, field: str, ends: tuple[float, float], which: int, value: float, words: str) -> Edit:
    now = (value, ends[1]) if which == 0 else (ends[0], value)
    return Edit(f"{words} of {joint.name}", (Set(("joints", joint.id, field), now),), f"{joint.id} {field} {which}")


def fresh_joint(figure: Figure, rides_on: str, motion: str = "nods") -> Joint:
    """A new joint with a default for every field: above what it rides on."""
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
        axis=MOTIONS[motion].axis,
        ends=MOTIONS[motion].ends,
        kind=MOTIONS[motion].kind,
    )


def keep_level(figure: Figure, joint_id: str) -> tuple[Edit, str]:
    """A parallelogram: what the joint carries is carried by one more joint at its other end, which turns back as far as the joint turns, so that it stays as it
    stood; and its id. It stands where the next joint begins, else in the middle of the parts. Raises EditRefused for what slides or carries nothing."""
    joint = figure.joint(joint_id)
    parts = [part for part in figure.parts if part.rides_on == joint_id]
    joints = [other for other in figure.joints if other.rides_on == joint_id]
    if joint.kind != "turn":
        raise EditRefused(f"{joint.name} slides: only what turns tilts what it carries.")
    places = [other.at_mm for other in joints] or [part.at_mm for part in parts]
    if not places:
        raise EditRefused(f"{joint.name} carries nothing yet that could be kept level: put a part on it first.")
    x, y, z = (round(sum(axis) / len(places), 2) for axis in zip(*places, strict=True))
    name = f"{joint.name}, kept level"[:80]
    level = Joint(
        id=new_id(figure, name), name=name, rides_on=joint_id, role="follows", follows=Follow(joint=joint_id, ratio=-1.0), at_mm=(x, y, z), axis=joint.axis,
        ends=(joint.ends[1], joint.ends[0]), range_deg=(-joint.range_deg[1] + 0.0, -joint.range_deg[0] + 0.0), region=joint.region,
    )  # fmt: skip
    steps: list[Step] = [Add("joints", level)]
    for kind in ("parts", "joints", "ballast_sites", "rods", "fastenings"):
        riding = (item for item in getattr(figure, kind) if item.rides_on == joint_id)
        steps += [Set((kind, item.id, "rides_on"), level.id) for item in riding]
    return Edit(f"keep what {joint.name} carries level", tuple(steps)), level.id


def keeps_level(arm: Joint, level: Joint) -> bool:
    """Whether a joint turns back as far as the one it rides on turns, about the same way: a parallelogram."""
    follows = level.follows
    if level.role != "follows" or follows is None or follows.joint != arm.id or level.rides_on != arm.id:
        return False
    sizes = math.hypot(*arm.axis) * math.hypot(*level.axis)
    same = sum(a * b for a, b in zip(arm.axis, level.axis, strict=True)) / sizes
    turns = arm.kind == "turn" and level.kind == "turn"
    return turns and abs(abs(same) - 1.0) < 1e-6 and abs(follows.ratio * same + 1.0) < 1e-6


def make_gimbal(figure: Figure, joint_id: str) -> tuple[Edit, str]:
    """A second free pivot through the same point and across the first, which carries what the first carried; and its id. Raises EditRefused for
    what does not turn freely."""
    joint = figure.joint(joint_id)
    if joint.role != "free" or joint.kind != "turn":
        raise EditRefused(f"{joint.name} does not hang free: a gimbal is two pivots that nothing drives.")
    usual = (MOTIONS[word] for word in ("nods", "leans", "shakes"))
    motion = min(usual, key=lambda m: round(abs(sum(a * b for a, b in zip(joint.axis, m.axis, strict=True))), 6))
    name = f"{joint.name}, across"[:80]
    other = Joint(
        id=new_id(figure, name), name=name, rides_on=joint_id, role="free", at_mm=joint.at_mm, axis=motion.axis, ends=motion.ends,
        range_deg=joint.range_deg, stops_deg=joint.stops_deg, drag=joint.drag, friction_Nm=joint.friction_Nm, region=joint.region,
    )  # fmt: skip
    steps: list[Step] = [Add("joints", other)]
    for kind in ("parts", "joints", "ballast_sites", "rods", "fastenings"):
        riding = (item for item in getattr(figure, kind) if item.rides_on == joint_id)
        steps += [Set((kind, item.id, "rides_on"), other.id) for item in riding]
    steps += [Set(("drives", drive.id, "rides_on"), other.id) for drive in figure.drives if drive.rides_on == joint_id]
    for drive in figure.drives:
        if isinstance(drive.transmission, Ball) and drive.transmission.ball_on == joint_id:
            steps.append(Set(("drives", drive.id, "transmission", "ball_on"), other.id))
    between = (
        element for element in figure.elements if not isinstance(element, About)
    )  # a spring about the first stays with it
    steps += [step for element in between for step in rehung(element, joint_id, other.id)]
    return Edit(f"a gimbal of {joint.name}", tuple(steps)), other.id


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
    steps += without(figure, joint_id, joint.rides_on)
    steps += [step for element in figure.elements for step in rehung(element, joint_id, joint.rides_on)]
    gone: set[str] = set()
    for score in figure.scores:
        channel = score.channel_of(joint_id)
        if channel is not None:
            left = tuple(j for j in channel.joints if j != joint_id)
            where = ("scores", score.id, "channels")
            if not left:
                steps += let_go(score, {channel.id})
                gone.add(channel.id)
            steps.append(Set((*where, channel.id, "joints"), left) if left else Remove(".".join(where), channel.id))
    steps += ungripped(figure, gone)
    steps += [Set(("joints", other.id, "twin"), None) for other in figure.joints if other.twin == joint_id]
    for pose in figure.poses:
        kept = tuple(place for place in pose.places if place[0] != joint_id)
        if kept != pose.places:
            steps.append(Set(("poses", pose.id, "places"), kept))
    return Edit(f"remove {joint.name}, what it carried re-hung", (*steps, Remove("joints", joint_id)))
