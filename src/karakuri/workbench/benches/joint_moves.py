"""Items of a joint's card about what moves it: its role, the move wanted of it, where it may stand for long."""

from __future__ import annotations

import math
from collections.abc import Callable

from karakuri.model.joint import Joint
from karakuri.model.joint_edits import ROLES, may_follow, rest_where, set_role
from karakuri.model.profiles import DESCRIBED
from karakuri.units import Quantity
from karakuri.workbench.benches.bench import degrees
from karakuri.workbench.desk import Desk
from karakuri.workbench.widgets.items import Do, Item, Note, Pick, Write

Setter = Callable[[tuple[str, ...], object, str], object]
"""Field of the joint, value, words for undo."""


def role_items(desk: Desk, joint: Joint, put: Setter) -> list[Item]:
    """What moves it: its own servo, another joint by a link or a gear, or nothing."""
    figure = desk.figure
    items: list[Item] = [
        Pick("role", "Moved by", ROLES[joint.role], tuple(ROLES.items()), lambda key: desk.edit(lambda: set_role(desk.figure, joint.id, key)))
    ]  # fmt: skip
    if joint.role != "follows" or joint.follows is None:
        return items
    leader, measure = figure.joint(joint.follows.joint), joint.measure
    leaders = tuple((other.id, other.name) for other in may_follow(figure, joint.id))
    return [
        *items,
        Pick("leads", "follows", leader.name, leaders, lambda key: put(("follows", "joint"), key, "what moves it")),
        Write("ratio", f"{measure.sign} for each {leader.measure.sign} of it", Quantity(joint.follows.ratio, "ratio"), "ratio",
              lambda v: put(("follows", "ratio"), v, "ratio")),
        Write("offset", "and always ahead by", measure.quantity(joint.offset), measure.kind,
              lambda v: put(("follows", joint.named("offset")), measure.written(v), "offset")),
        Note("nf", f"Write −1 where it turns the other way. It moves as {leader.name} does. With a servo of its own that servo is judged; without one, what it carries counts on that joint's."),
    ]  # fmt: skip


def move_items(joint: Joint, put: Setter) -> list[Item]:
    """The wanted move: by how much, in what time, with which profile."""
    move, measure = joint.move, joint.measure
    half = max(1.0, (joint.range[1] - joint.range[0]) / 2)
    by, time_s, profile = (move.by, move.time_s, move.profile) if move else (half, 0.6, None)

    def change(**fields: object) -> None:
        put(("move",), {"by": by, "time_s": time_s, "profile": profile, **fields}, "wanted move")

    items: list[Item] = [
        Write("mby", "Wanted move by", measure.quantity(move.by) if move else None, measure.kind,
              lambda v: change(by=measure.written(v)), "none"),
        Write("mt", "in", Quantity(move.time_s, "time") if move else None, "time", lambda v: change(time_s=v), "–"),
    ]  # fmt: skip
    if move is None:
        return items
    usual = DESCRIBED["sudden" if joint.timed.quick else "minimum jerk"].spoken
    profiles = {"": f"usual: {usual}"} | {kind: d.spoken for kind, d in DESCRIBED.items() if d.wanted}
    return [
        *items,
        Pick("mprofile", "made", profiles[move.profile or ""], tuple(profiles.items()),
             lambda key: put(("move", "profile"), key or None, "profile of the wanted move")),
        Do("nomove", "No move wanted", lambda: put(("move",), None, "wanted move")),
    ]  # fmt: skip


def rest_items(desk: Desk, joint: Joint) -> list[Item]:
    """Where it may stand for long; outside, it is only passed through."""
    if joint.kind == "slide":
        return []
    rests = joint.rests_deg

    def end(which: int):
        return lambda value: desk.edit(lambda: rest_where(desk.figure, joint.id, which, round(math.degrees(value), 4)))

    items: list[Item] = [
        Write(f"rest{i}", f"Stands for long, {joint.ends[i]}", degrees(rests[i]) if rests else None, "angle", end(i), "all of it")
        for i in (0, 1)
    ]  # fmt: skip
    if rests is not None:
        items += [
            Note("nrest", "Beyond that it is only passed through, and judged by what may be used in passing."),
            Do("norest", "It may stand anywhere in its range", lambda: desk.edit(lambda: rest_where(desk.figure, joint.id, 0, None))),
        ]  # fmt: skip
    return items
