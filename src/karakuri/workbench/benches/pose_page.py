"""The cards of a kept pose and of a pinned one, and what is made of poses."""

from __future__ import annotations

from karakuri.model.edit import Edit, Set
from karakuri.model.edits import remove_item
from karakuri.model.makers import Pin
from karakuri.model.ref import Ref
from karakuri.model.score import Pose
from karakuri.model.score_edits import blended, keep_pose
from karakuri.model.sides import mirrored
from karakuri.motion.makers.pin import change_pin, pin_at, unpin
from karakuri.units import Quantity
from karakuri.workbench.desk import Desk
from karakuri.workbench.widgets.items import Do, Fact, Head, Item, Note, Page, Pick, Write, WriteText


def seconds(value: float) -> Quantity:
    return Quantity(value, "time")


def keep(desk: Desk) -> bool:
    """Keep the pose that the figure has now, and take it in hand; False where it was refused."""
    places = {joint.id: desk.pose.get(joint.id, 0.0) / joint.measure.si for joint in desk.figure.joints}
    name = f"pose {len(desk.figure.poses) + 1}"
    kept = desk.edit(lambda: keep_pose(desk.figure, name, places))
    if kept:
        desk.select(Ref("pose", desk.figure.poses[-1].id))
    return kept


def pose_page(desk: Desk, pose: Pose) -> Page:
    """A kept pose: its name, its places, and what can be made of it."""
    figure, places = desk.figure, dict(pose.places)
    others = [p for p in figure.poses if p.id != pose.id]

    def blend(key: str) -> None:
        other = desk.figure.pose(key)
        _keep_as(desk, f"{pose.name} and {other.name}", blended(pose, other, 0.5))

    items: list[Item] = [
        WriteText("name", "Name", pose.name, lambda text: _set_pose(desk, pose, "name", text.strip(), "name")),
        Do("recall", "Recall it", lambda: desk.recall(pose.id)),
        Do("pin", "Pin it to the plumb line", lambda: _pin(desk, pose)),
        Do("update", "Keep what stands now as this pose", lambda: _update(desk, pose)),
        Do("mirror", "Keep its mirror image", lambda: _keep_as(desk, f"{pose.name}, mirrored", mirrored(desk.figure, places))),
    ]  # fmt: skip
    if others:
        items.append(Pick("blend", "Blend with", "choose", tuple((p.id, p.name) for p in others), blend))
    items += [Do("rm", "Take this pose out", lambda: desk.edit(lambda: remove_item(desk.figure, "poses", pose.id))), Head("hp", "Places")]  # fmt: skip
    for joint_id, value in pose.places:
        joint = figure.joint(joint_id)

        def done(v: float, joint_id=joint_id, measure=joint.measure) -> None:
            changed = tuple((j, measure.written(v, 2) if j == joint_id else old) for j, old in pose.places)
            _set_pose(desk, pose, "places", changed, "places")

        items.append(Write(f"p{joint_id}", joint.name, joint.measure.quantity(value), joint.measure.kind, done))
    return Page(pose.name, "a kept pose", tuple(items), ("pose", pose.id))


def _set_pose(desk: Desk, pose: Pose, field: str, value: object, words: str) -> None:
    desk.edit(Edit(f"{words} of {pose.name}", (Set(("poses", pose.id, field), value),), f"{pose.id} {field}"))


def _keep_as(desk: Desk, name: str, places: dict[str, float]) -> None:
    if desk.edit(lambda: keep_pose(desk.figure, name[:80], places)):
        desk.select(Ref("pose", desk.figure.poses[-1].id))
        desk.recall(desk.figure.poses[-1].id)


def _update(desk: Desk, pose: Pose) -> None:
    places = tuple((j, desk.figure.joint(j).measure.written(desk.pose.get(j, 0.0), 2)) for j, _ in pose.places)
    _set_pose(desk, pose, "places", places, "places")


def _pin(desk: Desk, pose: Pose) -> None:
    pin_here(desk, pose.id, round(desk.transport.now, 2))


def pin_here(desk: Desk, pose_id: str, at_s: float) -> None:
    """Pin a kept pose to a time; the pin is in hand then."""
    ids: list[str] = []

    def make() -> Edit:
        edit, ident = pin_at(desk.figure, pose_id, at_s)
        ids.append(ident)
        return edit

    if desk.edit(make):
        desk.select(Ref("pin", ids[0]))


def pin_page(desk: Desk, pin: Pin) -> Page:
    """A pinned pose: when it arrives, how, and what moves with it."""
    pose = desk.figure.pose(pin.pose)

    def change(**fields: object) -> None:
        desk.edit(lambda: change_pin(desk.figure, pin.id, **fields))

    manners = (("together", "all together"), ("in order", "eyes, lids and jaw, head, body"))
    items: list[Item] = [
        Write("at", "Arrives at", seconds(pin.arrives_s), "time", lambda v: change(arrives_s=round(v, 3))),
        Write("takes", "Takes", seconds(pin.takes_s), "time", lambda v: change(takes_s=round(v, 3))),
        Pick("how", "Arrives", dict(manners)[pin.manner], manners, lambda key: change(manner=key)),
    ]
    if pin.manner == "in order":
        items.append(Write("gap", "Each later by", seconds(pin.gap_s), "time", lambda v: change(gap_s=round(v, 3))))  # fmt: skip
        items.append(Note("no", "Eyes lead, the head follows: 25 to 50 ms between them in people (Bizzi 1971, from memory)."))  # fmt: skip
    count = sum(1 for c in desk.figure.score.moved for by in c.moves.made_by if by == pin.id)
    items += [
        Fact("n", "Moves", str(count), "", "A move changed by hand is its own from then on."),
        Do("pose", "Take the pose in hand", lambda: desk.select(Ref("pose", pose.id))),
        Do("rm", "Take it out, with its moves", lambda: desk.edit(lambda: unpin(desk.figure, pin.id))),
    ]  # fmt: skip
    return Page(pose.name, f"pinned to {pin.arrives_s:.2f} s", tuple(items), ("pin", pin.id))
