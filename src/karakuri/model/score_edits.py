"""Edits of poses and score: what the ribbons, the shelf, remedies and imports all use."""

from __future__ import annotations

import re
from typing import Any

from karakuri.errors import EditRefused
from karakuri.model.edit import Add, Edit, Remove, Set, Step
from karakuri.model.figure import Figure
from karakuri.model.ids import new_id
from karakuri.model.joint import Joint
from karakuri.model.profiles import DEFAULT_SHAPE, DESCRIBED
from karakuri.model.score import Channel, Moves, Pin, Pose, Row, Score, moves_of
from karakuri.model.sides import twin_of


def set_moves(channel: Channel, moves: Moves, name: str, merge_key: str | None = None) -> Edit:
    """Put another block in a channel's place."""
    return Edit(name, (Set(("score", "channels", channel.id, "moves"), moves),), merge_key)


def _channel(figure: Figure, joints: tuple[str, ...], name: str, taken: set[str]) -> Channel:
    """For one joint, or for several that move together; it parks at rest, or at the nearest end of the range."""
    low, high = figure.joint(joints[0]).range
    ident = new_id(figure, f"{joints[0]} channel", taken)
    return Channel(id=ident, name=name, joints=joints, park=min(max(0.0, low), high))


def add_light(figure: Figure, name: str = "Lamp") -> Edit:
    """A light with levels, dark at first."""
    return Edit(f"lay out {name}", (Add("score.channels", Channel(id=new_id(figure, name), name=name, kind="light")),))


def missing_channels(figure: Figure) -> list[tuple[tuple[str, ...], str]]:
    """Driven joints without a channel, as (joints, name): a left and a right one of the same make are one, 'both'."""
    waiting = [j for j in figure.joints if j.role == "driven" and figure.score.channel_of(j.id) is None]
    out: list[tuple[tuple[str, ...], str]] = []
    done: set[str] = set()
    for joint in waiting:
        if joint.id in done:
            continue
        twin = twin_of(figure, joint.id)
        other = figure.joint(twin) if twin else None
        if other is not None and other in waiting and _moves_alike(joint, other):
            name = re.sub(r"[ ,]*\b(left|right)\b", "", joint.name).strip() or joint.name
            out.append(((joint.id, other.id), f"{name}, both"[:80]))
            done |= {joint.id, other.id}
        else:
            out.append(((joint.id,), joint.name))
            done.add(joint.id)
    return out


def _moves_alike(one: Joint, other: Joint) -> bool:
    """Whether one and the same angle, or length, is within the range of both and the same way."""
    return one.kind == other.kind and one.range == other.range and one.axis == other.axis


def lay_out(figure: Figure) -> Edit:
    """A channel for every driven joint that has none. Raises EditRefused when there is none."""
    wanted = missing_channels(figure)
    if not wanted:
        raise EditRefused("Every driven joint has its ribbon. Add a joint on the Figure bench first.")
    taken: set[str] = set()
    channels = (_channel(figure, joints, name, taken) for joints, name in wanted)
    return Edit("lay out ribbons", tuple(Add("score.channels", channel) for channel in channels))


def remove_channel(channel: Channel) -> Edit:
    """Take a ribbon out with its moves; pins and poses stay."""
    return Edit(f"take out {channel.name}", (Remove("score.channels", channel.id),))


def untie(figure: Figure, channel: Channel) -> Edit:
    """One channel for each joint of a tied one, with the same moves. Raises EditRefused when there is nothing to untie."""
    if len(channel.joints) < 2:
        raise EditRefused(f"{channel.name} moves one joint only; there is nothing to untie.")
    steps: list[Step] = [Remove("score.channels", channel.id)]
    taken: set[str] = set()
    for joint_id in channel.joints:
        ident = new_id(figure, f"{joint_id} channel", taken)
        fields = dict(channel) | {"id": ident, "name": figure.joint(joint_id).name, "joints": (joint_id,)}
        steps.append(Add("score.channels", Channel(**fields)))
    return Edit(f"untie {channel.name}", tuple(steps))


def with_row(moves: Moves, row: Row) -> tuple[Moves, int]:
    """The block with one move more, and which it is."""
    rows = [*moves.rows(), row]
    rows.sort(key=lambda r: r.departs)
    return moves_of(rows), next(i for i, r in enumerate(rows) if r is row)


def changed_row(moves: Moves, k: int, row: Row) -> tuple[Moves, int]:
    """The block with move k replaced, and where it is then."""
    rows = list(moves.rows())
    rows[k] = row
    rows.sort(key=lambda r: r.departs)
    return moves_of(rows), next(i for i, r in enumerate(rows) if r is row)


def add_move(channel: Channel, row: Row) -> tuple[Edit, int]:
    """One move more, and which it is."""
    moves, k = with_row(channel.moves, tidy(row))
    return set_moves(channel, moves, f"new move of {channel.name}"), k


def change_move(channel: Channel, k: int, words: str, **fields: object) -> tuple[Edit, int]:
    """Change a move's departs, takes, target, profile or shape; a move changed by hand is no pin's any more."""
    row = channel.moves.row(k)
    if "profile" in fields and "shape" not in fields:
        fields["shape"] = DEFAULT_SHAPE.get(str(fields["profile"]), 0.0)
    moves, at = changed_row(channel.moves, k, tidy(row._replace(made_by="", **fields)))  # type: ignore[arg-type]
    return set_moves(channel, moves, f"{words} of {channel.name}", f"{channel.id} move {words}"), at


def typed_move(channel: Channel, k: int, words: str, **fields: float) -> tuple[Edit, int]:
    """A move changed by what was typed. Raises EditRefused where it would leave before the score begins, or arrive before it leaves."""
    row = channel.moves.row(k)._replace(**fields)  # type: ignore[arg-type]
    if row.departs < 0:
        raise EditRefused(f"A move leaves at 0 s or later, not at {row.departs:g} s.")
    if row.takes < 0:
        raise EditRefused(
            f"It leaves at {row.departs:g} s and would arrive before that, at {row.departs + row.takes:g} s."
        )
    own = DESCRIBED[row.profile].shape
    if "shape" in fields and own is not None and not own.least <= row.shape <= own.most:
        raise EditRefused(f"{own.bounds[0].upper()}{own.bounds[1:]}, not {row.shape:g}.")
    return change_move(channel, k, words, **fields)


def remove_move(channel: Channel, k: int) -> Edit:
    """Take a move out."""
    rows = list(channel.moves.rows())
    del rows[k]
    return set_moves(channel, moves_of(rows), f"take out a move of {channel.name}")


def tidy(row: Row) -> Row:
    """Times to the millisecond and not below 0, targets to a hundredth: what a hand can mean."""
    return row._replace(
        departs=max(0.0, round(row.departs, 3)), takes=max(0.0, round(row.takes, 3)), target=round(row.target, 2)
    )


def keep_pose(figure: Figure, name: str, places: dict[str, float]) -> Edit:
    """Keep a pose; places: joint → degrees (mm for a slide)."""
    kept = tuple((joint.id, round(places.get(joint.id, 0.0), 2)) for joint in figure.joints if joint.role == "driven")
    return Edit(f"keep pose {name}", (Add("poses", Pose(id=new_id(figure, name), name=name, places=kept)),))


def blended(a: Pose, b: Pose, share: float) -> dict[str, float]:
    """share 0 is pose a, 1 is pose b; a joint that one of them does not name stays as the other has it."""
    first, second = dict(a.places), dict(b.places)
    return {
        joint: (1 - share) * first.get(joint, second.get(joint, 0.0)) + share * second.get(joint, first.get(joint, 0.0))
        for joint in {**first, **second}
    }


def pin_pose(figure: Figure, pin: Pin) -> Edit:
    """Pin a pose to a time: a move in each channel whose place it names; a pin of the same id is moved there."""
    pose, steps = figure.pose(pin.pose), list[Step]()
    places = dict(pose.places)
    lags = _lags(figure, pin)
    for channel in figure.score.channels:
        rows = [row for row in channel.moves.rows() if row.made_by != pin.id]
        named = next((j for j in channel.joints if j in places), None)
        if named is not None:
            departs = max(0.0, pin.arrives_s - pin.takes_s + lags[channel.id])
            rows.append(tidy(Row(departs, pin.takes_s, places[named], "minimum jerk", 0.0, pin.id)))
        if len(rows) != len(channel.moves) or named is not None:
            steps.append(Set(("score", "channels", channel.id, "moves"), moves_of(rows)))
    if not steps:
        raise EditRefused(f"{pose.name} has no ribbon to move yet. Lay the ribbons out first.")
    kept = tuple(p for p in figure.score.pins if p.id != pin.id)
    pins = tuple(sorted((*kept, pin), key=lambda p: p.arrives_s))
    return Edit(f"pin {pose.name}", (*steps, Set(("score", "pins"), pins)), f"pin {pin.id}")


def pin_at(figure: Figure, pose_id: str, at_s: float) -> tuple[Edit, str]:
    """Pin a pose to a time, and the id of the new pin."""
    at = max(0.02, at_s)
    ident = new_id(figure, f"{pose_id} at {at:.0f}")
    return pin_pose(figure, Pin(id=ident, pose=pose_id, arrives_s=at)), ident


def change_pin(figure: Figure, pin_id: str, **fields: Any) -> Edit:
    """Another time, length or manner for a pin."""
    pin = next(p for p in figure.score.pins if p.id == pin_id)
    return pin_pose(figure, Pin(**(dict(pin) | fields)))


def add_section(figure: Figure, at_s: float) -> Edit:
    """A named stretch of four seconds from a time on, or what is left of the score."""
    score = figure.score
    begin = max(0.0, min(at_s, score.length_s - 0.2))
    name = f"part {len(score.sections) + 1}"
    fields = {
        "id": new_id(figure, name),
        "name": name,
        "from_s": round(begin, 3),
        "to_s": round(min(score.length_s, begin + 4), 3),
    }
    return Edit(f"add {name}", (Add("score.sections", fields),))


def change_section(figure: Figure, section_id: str, **fields: Any) -> Edit:
    """Another name or other ends for a section."""
    section = next(s for s in figure.score.sections if s.id == section_id)
    changed = {**dict(section), **fields}
    sections = tuple(changed if s.id == section_id else s for s in figure.score.sections)
    return Edit(f"change {section.name}", (Set(("score", "sections"), sections),))


def set_idle(figure: Figure, words: str, **fields: Any) -> Edit:
    """Another seed or other waits for idle life."""
    return Edit(words, (Set(("score", "idle"), {**dict(figure.score.idle), **fields}),), words)


def _lags(figure: Figure, pin: Pin) -> dict[str, float]:
    """How much later than the first each channel departs: by the timing of its joint; only groups that move count."""
    places = {joint for joint, _ in figure.pose(pin.pose).places}
    groups: dict[str, int] = {}
    for channel in figure.score.channels:
        named = [j for j in channel.joints if j in places]
        if named:
            groups[channel.id] = figure.joint(named[0]).timed.order
    present = sorted(set(groups.values()))
    if pin.manner == "together":
        return {c.id: 0.0 for c in figure.score.channels}
    last = len(present) - 1
    return {
        c.id: (present.index(groups[c.id]) - last) * pin.gap_s if c.id in groups else 0.0 for c in figure.score.channels
    }


def unpin(figure: Figure, pin_id: str) -> Edit:
    """Take a pin and its moves out."""
    pin = next(p for p in figure.score.pins if p.id == pin_id)
    steps: list[Step] = []
    for channel in figure.score.channels:
        rows = [row for row in channel.moves.rows() if row.made_by != pin_id]
        if len(rows) != len(channel.moves):
            steps.append(Set(("score", "channels", channel.id, "moves"), moves_of(rows)))
    steps.append(Set(("score", "pins"), tuple(p for p in figure.score.pins if p.id != pin_id)))
    return Edit(f"take out {figure.pose(pin.pose).name}", tuple(steps))


def stretch_all(figure: Figure, by: float) -> Edit:
    """Everything slower by one factor: torque of motion falls with its square (Hollerbach 1984)."""
    score = figure.score
    channels = tuple(
        Channel(**(dict(c) | {"moves": moves_of([_slower(row, by) for row in c.moves.rows()])})) for c in score.channels
    )
    pins = tuple(
        Pin(**(dict(p) | {"arrives_s": round(p.arrives_s * by, 3), "takes_s": round(p.takes_s * by, 3)}))
        for p in score.pins
    )
    sections = tuple(
        type(s)(**(dict(s) | {"from_s": round(s.from_s * by, 3), "to_s": round(s.to_s * by, 3)}))
        for s in score.sections
    )
    fields = dict(score) | {
        "channels": channels,
        "pins": pins,
        "sections": sections,
        "length_s": round(score.length_s * by, 3),
    }
    return Edit(f"stretch everything {by:.2f} times", (Set(("score",), Score(**fields)),))


def _slower(row: Row, by: float) -> Row:
    shape = row.shape * by if row.profile == "following" else row.shape
    return row._replace(departs=round(row.departs * by, 4), takes=round(row.takes * by, 4), shape=shape)


def write_idle(figure: Figure, idle: dict[str, list[Row]]) -> Edit:
    """Replace the idle moves of every channel by those made, channel id → rows."""
    steps: list[Step] = []
    for channel in figure.score.channels:
        rows = [row for row in channel.moves.rows() if row.made_by != "idle"]
        rows += [row._replace(made_by="idle") for row in idle.get(channel.id, [])]
        if len(rows) != len(channel.moves) or channel.id in idle:
            steps.append(Set(("score", "channels", channel.id, "moves"), moves_of(rows)))
    if not steps:
        raise EditRefused("Nothing to do when idle: glances want a ribbon of the eyes, blinks one of the lids.")
    return Edit("write idle moves", tuple(steps))
