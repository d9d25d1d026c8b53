"""The card of a joint on the Figure bench: where it turns, how far, which side, what carries its load."""

from __future__ import annotations

from karakuri.catalogue import support_name
from karakuri.errors import Trouble
from karakuri.model.edit import Edit
from karakuri.model.edits import set_field, set_one_of
from karakuri.model.finding import Finding
from karakuri.model.joint import REGIONS, SUPPORT_KINDS, Joint
from karakuri.model.joint_edits import MOTIONS, OWN_AXIS, keep_level, make_gimbal, motion_of, remove_joint, set_motion
from karakuri.model.sides import may_pair, set_twin, twin_of
from karakuri.model.timings import TIMINGS
from karakuri.sizing.followed import as_driven, led_by, ranged
from karakuri.units import Quantity
from karakuri.workbench.benches.bench import coordinates, mm, rename
from karakuri.workbench.benches.drag_items import drag_items
from karakuri.workbench.benches.joint_moves import Setter, move_items, role_items
from karakuri.workbench.desk import Desk
from karakuri.workbench.kit import Kit
from karakuri.workbench.marks import pivot
from karakuri.workbench.widgets.items import Block, Do, Head, Item, Note, Page, Pick, Sketch, Write, WriteText

TELLS = ("hold", "hangs", "slides")


def told_of(desk: Desk, ident: str) -> Finding | None:
    """What heads a joint's card: the first of those rules that says something of it."""
    return next((found for rule in TELLS if (found := desk.finding(rule, ident)) is not None), None)


def setter(desk: Desk, ident: str) -> Setter:
    """What puts a value into a field of the joint, as one edit with a name."""
    return lambda path, value, words: desk.edit(lambda: set_field(desk.figure, "joints", ident, path, value, words))


def place_items(desk: Desk, joint: Joint) -> list[Item]:
    labels = ((2, "Pivot above"), (0, "Pivot ahead"), (1, "Pivot to its left"))
    return coordinates(desk, "joints", joint.id, labels, "pivot")


def range_items(desk: Desk, joint: Joint) -> list[Item]:
    """Both ends of the wanted range, by the names the builder gave them; a follower's are those of what it follows."""
    field, measure, led = joint.named("range"), joint.measure, as_driven(desk.figure, joint)

    def end(which: int):
        def put(value: float) -> Edit:
            if joint.role != "follows":
                return set_one_of(desk.figure, "joints", joint.id, field, which, measure.written(value), "wanted range")
            ends = list(as_driven(desk.figure, joint).range)
            ends[which] = measure.written(value)
            return ranged(desk.figure, joint, ends[0], ends[1], f"wanted range of {joint.name}")

        return lambda value: desk.edit(lambda: put(value))

    items: list[Item] = [
        Write(f"r{i}", f"Wanted {joint.ends[i]}", measure.quantity(led.range[i]), measure.kind, end(i)) for i in (0, 1)
    ]
    if joint.role == "follows":
        leader = led_by(desk.figure, joint)[0].name
        items.append(Note("nr0", f"As far as {leader} takes it: writing here changes the range of {leader}."))
    return items


def side_items(desk: Desk, joint: Joint) -> list[Item]:
    """Which joint makes a pair with it: by the names, or by the builder's word."""
    others = may_pair(desk.figure, joint.id)
    if not others:
        return []
    known = twin_of(desk.figure, joint.id)
    by_name = f"{desk.figure.joint(known).name}, by name" if known and joint.twin is None else "none, by name"
    now = desk.figure.joint(joint.twin).name if joint.twin else by_name
    choices = (("", "by left and right in the names"), *((other.id, other.name) for other in others))
    return [Pick("twin of", "Other side", now, choices, lambda key: desk.edit(lambda: set_twin(desk.figure, joint.id, key or None)))]  # fmt: skip


def timing_items(joint: Joint, put: Setter) -> list[Item]:
    """What it moves as, and the colour it is drawn in."""
    now = joint.timed
    choices = (("", "by its name"), *((kind, f"{t.called}: {t.decides}") for kind, t in TIMINGS.items()))
    judged = "as fast as it goes" if now.quick else "as eased"
    return [
        Pick("timing", "Moves as", now.called, choices, lambda key: put(("timing",), key or None, "timing")),
        Pick("region", "Colour", joint.region, tuple((r, r) for r in REGIONS), lambda key: put(("region",), key, "colour")),
        Note("ng", f"As {now.called}: {now.decides}; a wanted move of it is judged {judged}. The colour decides nothing."),
    ]  # fmt: skip


def support_items(joint: Joint, put: Setter) -> list[Item]:
    """What carries the load across it, and how much that may carry."""
    support = joint.support
    carries = Quantity(support.permitted_moment_Nm, "torque") if support.permitted_moment_Nm else None
    items: list[Item] = [
        Pick("support", "Carried by", support_name(support.kind), tuple((s, support_name(s)) for s in SUPPORT_KINDS),
             lambda key: put(("support",), {"kind": key}, "support")),
        Write("permitted", "It may carry", carries, "torque",
              lambda v: put(("support", "permitted_moment_Nm"), v, "permitted moment"), "typical",
              emptied=lambda: put(("support", "permitted_moment_Nm"), None, "permitted moment")),
    ]  # fmt: skip
    if support.kind == "spline":
        items.append(
            Write("overhang", "Servo's case to pivot", mm(support.distance_mm), "length",
                  lambda v: put(("support", "distance_mm"), round(v * 1e3, 3), "overhang"))
        )  # fmt: skip
    return items


def joint_page(desk: Desk, ident: str) -> Page:
    figure, joint = desk.figure, desk.figure.joint(ident)
    put = setter(desk, ident)
    below = _below(desk, ident)
    carriers = {"base": "the base"} | {j.id: j.name for j in figure.joints if j.id not in below}
    motion = motion_of(joint)
    items: list[Item] = []
    told = told_of(desk, ident)
    if told is not None or joint.role == "driven":
        items.append(Block("v", told, figure.assumptions.wished_margin))
    items += [
        WriteText("name", "Name", joint.name, lambda text: rename(desk, "joints", ident, text)),
        Pick("like", "Motion", MOTIONS[motion].words if motion else OWN_AXIS,
             tuple((word, m.words) for word, m in MOTIONS.items()), lambda key: desk.edit(lambda: set_motion(desk.figure, ident, key))),
        *place_items(desk, joint),
        *range_items(desk, joint),
        *role_items(desk, joint, put),
        *(move_items(joint, put) if joint.role != "follows" else ()),
        Pick("rides", "Rides on", carriers[joint.rides_on], tuple(carriers.items()), lambda key: put(("rides_on",), key, "what carries it")),
        WriteText("low", "Low end", joint.ends[0], lambda text: _end(desk, ident, 0, text)),
        WriteText("high", "High end", joint.ends[1], lambda text: _end(desk, ident, 1, text)),
        *timing_items(joint, put),
        *side_items(desk, joint),
        *drag_items(joint, put),
        *support_items(joint, put),
        Head("hd", "Where to measure from"),
        Sketch("datum", 96, datum_sketch),
        Note("nd", "All places are in mm from one point of the standing figure, the datum: forward, to its left, up. One ruler, one corner."),
        Head("h2", "Actions"),
        Do("servo", "Its servo, on the Drive bench", lambda: desk.turn_to("drive")),
        *(
            [Do("gimbal", "Make it a gimbal: a second pivot across it", lambda: desk.edit(lambda: make_gimbal(desk.figure, ident)[0]))]
            if joint.role == "free" and joint.kind == "turn"
            else ()
        ),
        *(
            [Do("level", "Keep what it carries level: a parallelogram", lambda: desk.edit(lambda: keep_level(desk.figure, ident)[0]))]
            if joint.kind == "turn" and joint.role != "free"
            else ()
        ),
        Do("twin", "Twin, with all that rides on it", lambda: desk.wanted.emit("twin")),
        Do("remove", f"Remove {joint.name}", lambda: _remove(desk, ident)),
        Note("nr", "What it carries is then hung on what it rides on."),
    ]  # fmt: skip
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
