"""The card of a joint on the Figure bench: where it turns, how far, what is wanted of it."""

from __future__ import annotations

import math
from typing import get_args

from karakuri.catalogue import support_name
from karakuri.errors import Trouble
from karakuri.model.edits import (
    ROLES,
    TURNS_LIKE,
    make_turn_like,
    may_follow,
    remove_joint,
    rest_where,
    set_field,
    set_one_of,
    set_role,
    turns_like,
)
from karakuri.model.joint import Joint, MoveProfile
from karakuri.model.sides import may_pair, set_twin, twin_of
from karakuri.units import Quantity
from karakuri.workbench.benches.bench import coordinates, degrees, mm, rename
from karakuri.workbench.desk import Desk
from karakuri.workbench.kit import Kit
from karakuri.workbench.marks import pivot
from karakuri.workbench.widgets.items import Block, Do, Head, Item, Note, Page, Pick, Sketch, Write, WriteText

SUPPORTS = ("spline", "bush", "bearing_pair", "turntable")
REGIONS = ("neck", "eyes", "lids", "beak", "body")


def place_items(desk: Desk, joint: Joint) -> list[Item]:
    labels = ((2, "Pivot above"), (0, "Pivot ahead"), (1, "Pivot to its left"))
    return coordinates(desk, "joints", joint.id, labels, "pivot")


def range_items(desk: Desk, joint: Joint) -> list[Item]:
    """Both ends of the wanted range, by the names the builder gave them."""
    slide = joint.kind == "slide"
    field = "range_mm" if slide else "range_deg"
    kind = "length" if slide else "angle"
    scale = 1e3 if slide else 180 / math.pi
    values = getattr(joint, field)
    make = mm if slide else degrees

    def end(which: int):
        return lambda value: desk.edit(
            lambda: set_one_of(desk.figure, "joints", joint.id, field, which, round(value * scale, 4), "wanted range")
        )

    return [Write(f"r{i}", f"Wanted {joint.ends[i]}", make(values[i]), kind, end(i)) for i in (0, 1)]


def side_items(desk: Desk, joint: Joint) -> list[Item]:
    """Which joint makes a pair with it: by the names, or by the builder's word."""
    others = may_pair(desk.figure, joint.id)
    if not others:
        return []
    known = twin_of(desk.figure, joint.id)
    by_name = f"{desk.figure.joint(known).name}, by name" if known and joint.twin is None else "none, by name"
    now = desk.figure.joint(joint.twin).name if joint.twin else by_name
    choices = (("", "by left and right in the names"), *((other.id, other.name) for other in others))
    return [
        Pick(
            "twin of",
            "Other side",
            now,
            choices,
            lambda key: desk.edit(lambda: set_twin(desk.figure, joint.id, key or None)),
        )
    ]


def rest_items(desk: Desk, joint: Joint) -> list[Item]:
    """Where it may stand for long; outside, it is only passed through."""
    if joint.kind == "slide":
        return []

    def end(which: int):
        return lambda value: desk.edit(lambda: rest_where(desk.figure, joint.id, which, round(math.degrees(value), 4)))

    items: list[Item] = [
        Write(
            f"rest{i}",
            f"Stands for long, {joint.ends[i]}",
            degrees(joint.rests_deg[i]) if joint.rests_deg else None,
            "angle",
            end(i),
            "all of it",
        )
        for i in (0, 1)
    ]
    if joint.rests_deg is not None:
        items += [
            Note("nrest", "Beyond that it is only passed through, and judged by what may be used in passing."),
            Do(
                "norest",
                "It may stand anywhere in its range",
                lambda: desk.edit(lambda: rest_where(desk.figure, joint.id, 0, None)),
            ),
        ]
    return items


def role_items(desk: Desk, joint: Joint) -> list[Item]:
    """What moves it: its own servo, another joint by a link or a gear, or nothing."""
    ident, figure = joint.id, desk.figure
    items: list[Item] = [
        Pick(
            "role",
            "Moved by",
            ROLES[joint.role],
            tuple(ROLES.items()),
            lambda key: desk.edit(lambda: set_role(desk.figure, ident, key)),
        )
    ]
    if joint.role != "follows" or joint.follows is None:
        return items
    follows = joint.follows
    slide = joint.kind == "slide"
    unit = "mm" if slide else "°"
    per = "mm" if figure.joint(follows.joint).kind == "slide" else "°"
    offset = "offset_mm" if slide else "offset_deg"

    def put(field: str, value: object, words: str) -> None:
        desk.edit(lambda: set_field(desk.figure, "joints", ident, ("follows", field), value, words))

    return [
        *items,
        Pick(
            "leads",
            "follows",
            figure.joint(follows.joint).name,
            tuple((other.id, other.name) for other in may_follow(figure, ident)),
            lambda key: put("joint", key, "what moves it"),
        ),
        Write(
            "ratio",
            f"{unit} for each {per} of it",
            Quantity(follows.ratio, "ratio"),
            "ratio",
            lambda v: put("ratio", v, "ratio"),
        ),
        Write(
            "offset",
            "and always ahead by",
            mm(follows.offset_mm) if slide else degrees(follows.offset_deg),
            "length" if slide else "angle",
            lambda v: put(offset, round(v * (1e3 if slide else 180 / math.pi), 4), "offset"),
        ),
        Note("nf", "Write −1 where it turns the other way. What it carries is then counted on that joint's servo."),
    ]


def move_items(desk: Desk, joint: Joint) -> list[Item]:
    move = joint.move

    def by(value: float) -> None:
        new = round(value * (1e3 if joint.kind == "slide" else 180 / math.pi), 4)
        desk.edit(
            lambda: set_field(
                desk.figure,
                "joints",
                joint.id,
                ("move",),
                {"by": new, "time_s": move.time_s if move else 0.6, "profile": move.profile if move else None},
                "wanted move",
            )
        )

    def time(value: float) -> None:
        width = joint.range_deg[1] - joint.range_deg[0]
        desk.edit(
            lambda: set_field(
                desk.figure,
                "joints",
                joint.id,
                ("move",),
                {
                    "by": move.by if move else max(1.0, width / 2),
                    "time_s": value,
                    "profile": move.profile if move else None,
                },
                "wanted move",
            )
        )

    kind = "length" if joint.kind == "slide" else "angle"
    shown = None if move is None else mm(move.by) if joint.kind == "slide" else degrees(move.by)
    items: list[Item] = [
        Write("mby", "Wanted move by", shown, kind, by, "none"),
        Write("mt", "in", Quantity(move.time_s, "time") if move else None, "time", time, "–"),
    ]
    if move is not None:
        usual = "usual: " + ("as fast as it goes" if joint.quick else "minimum jerk")
        profiles = {
            "": usual,
            **{kind: "as fast as it goes" if kind == "sudden" else kind for kind in get_args(MoveProfile)},
        }
        items.append(
            Pick(
                "mprofile",
                "made",
                profiles[move.profile or ""],
                tuple(profiles.items()),
                lambda key: desk.edit(
                    lambda: set_field(
                        desk.figure, "joints", joint.id, ("move", "profile"), key or None, "profile of the wanted move"
                    )
                ),
            )
        )
        items.append(
            Do(
                "nomove",
                "No move wanted",
                lambda: desk.edit(lambda: set_field(desk.figure, "joints", joint.id, ("move",), None, "wanted move")),
            )
        )
    return items


def support_items(desk: Desk, joint: Joint) -> list[Item]:
    ident = joint.id

    def pick(key: str) -> None:
        desk.edit(lambda: set_field(desk.figure, "joints", ident, ("support",), {"kind": key}, "support"))

    return [
        Pick(
            "support",
            "Load carried by",
            support_name(joint.support.kind).replace("the servo's own ", ""),
            tuple((s, support_name(s)) for s in SUPPORTS),
            pick,
        ),
        Write(
            "permitted",
            "It may carry",
            Quantity(joint.support.permitted_moment_Nm, "torque") if joint.support.permitted_moment_Nm else None,
            "torque",
            lambda v: desk.edit(
                lambda: set_field(
                    desk.figure, "joints", ident, ("support", "permitted_moment_Nm"), v, "permitted moment"
                )
            ),
            "typical",
        ),
    ]


def joint_page(desk: Desk, ident: str) -> Page:
    figure, joint = desk.figure, desk.figure.joint(ident)
    below = _below(desk, ident)
    names = {"base": "the base"} | {j.id: j.name for j in figure.joints if j.id not in below}
    like = turns_like(joint)
    items: list[Item] = (
        [Block("v", desk.finding("hold", ident), figure.assumptions.wished_margin)] if joint.role == "driven" else []
    )
    items += [
        WriteText("name", "Name", joint.name, lambda text: rename(desk, "joints", ident, text)),
        Pick(
            "like",
            "Turns like",
            {"nods": "a nod", "shakes": "a shake", "leans": "a lean", "opens": "it opens", "slides": "it slides"}.get(
                like, like
            ),
            tuple((w, w) for w in TURNS_LIKE),
            lambda key: desk.edit(lambda: make_turn_like(desk.figure, ident, key)),
        ),
        *place_items(desk, joint),
        *range_items(desk, joint),
        *role_items(desk, joint),
        *move_items(desk, joint),
        Pick(
            "rides",
            "Rides on",
            names[joint.rides_on],
            tuple(names.items()),
            lambda key: desk.edit(
                lambda: set_field(desk.figure, "joints", ident, ("rides_on",), key, "what carries it")
            ),
        ),
        WriteText("low", "Low end", joint.ends[0], lambda text: _end(desk, ident, 0, text)),
        WriteText("high", "High end", joint.ends[1], lambda text: _end(desk, ident, 1, text)),
        Pick(
            "region",
            "Belongs to",
            joint.region,
            tuple((r, r) for r in REGIONS),
            lambda key: desk.edit(lambda: set_field(desk.figure, "joints", ident, ("region",), key, "region")),
        ),
        *side_items(desk, joint),
        Note("ng", "Eyes and lids are judged as fast as they go, all else as eased; it also gives the colour."),
        Write(
            "friction",
            "Friction",
            Quantity(joint.friction_Nm, "torque"),
            "torque",
            lambda v: desk.edit(lambda: set_field(desk.figure, "joints", ident, ("friction_Nm",), v, "friction")),
        ),
        *support_items(desk, joint),
        Head("hd", "Where to measure from"),
        Sketch("datum", 96, datum_sketch),
        Note(
            "nd",
            "All places are in mm from one point of the standing figure, the datum: forward, to its left, up. One ruler, one corner.",
        ),
        Head("h2", "Actions"),
        Do("servo", "Its servo, on the Drive bench", lambda: desk.turn_to("drive")),
        Do("twin", "Twin, with all that rides on it", lambda: desk.wanted.emit("twin")),
        Do("remove", f"Remove {joint.name}", lambda: _remove(desk, ident)),
        Note("nr", "What it carries is then hung on what it rides on."),
    ]
    rides = "stands on the floor" if joint.rides_on == "base" else f"rides on {figure.joint(joint.rides_on).name}"
    return Page(joint.name, f"{joint.role} joint · {rides}", tuple(items), ("joint", ident))


def _below(desk: Desk, ident: str) -> set[str]:
    out = {ident}
    for _ in desk.figure.joints:
        out |= {joint.id for joint in desk.figure.joints if joint.rides_on in out}
    return out


def _end(desk: Desk, ident: str, which: int, text: str) -> None:
    desk.edit(lambda: set_one_of(desk.figure, "joints", ident, "ends", which, text.strip(), "name of an end"))


def _remove(desk: Desk, ident: str) -> None:
    try:
        edit = remove_joint(desk.figure, ident)
    except Trouble as trouble:
        desk.said.emit(str(trouble))
        return
    desk.edit(edit)


def datum_sketch(kit: Kit, x: float, y: float, w: float, h: float) -> None:
    """The datum: a corner with forward, left and up, and a pivot measured from it."""
    u = kit.u
    ox, oy = x + u(92), y + h - u(20)
    kit.line(ox, oy, ox + u(92), oy, "ink", 1.6)
    kit.line(ox, oy, ox, oy - u(62), "ink", 1.6)
    kit.line(ox, oy, ox - u(40), oy - u(18), "ink", 1.6)
    kit.text(ox + u(96), oy, "forward", 12, 500, "indigo")
    kit.text(ox - u(6), oy - u(60), "up", 12, 500, "indigo", "r")
    kit.text(ox - u(44), oy - u(20), "left", 12, 500, "indigo", "r")
    px, py = ox + u(52), oy - u(48)
    kit.line(px, py, px, oy, "ink3", 1, "dot")
    kit.line(px, py, ox, py, "ink3", 1, "dot")
    pivot(kit, px, py, u(5))
    kit.text(px + u(10), py, "a pivot", 12, 400, "ink2")
    kit.circle(ox, oy, u(3), "ink")
    kit.text(ox, oy + u(12), "datum", 12, 500, "ink2", "c")
