"""Edits of what a hand does: a first steering set down from what a figure has, grips, and what holds for all of them."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import Any

from karakuri.errors import EditRefused
from karakuri.model.behaviour import HANDED, Behaviour, Input
from karakuri.model.behaviour_edits import behaviour_of
from karakuri.model.channel import RunChannel
from karakuri.model.edit import Add, Edit, Set, Step
from karakuri.model.figure import Figure
from karakuri.model.ids import new_id
from karakuri.model.steering import Expressions, Follows, Grip, Keyed, PushPull, Steering, Towards, Wheels

GRIPS: Mapping[str, tuple[str, int, int]] = {
    "follows": ("one input, one ribbon", 1, 1), "keyed": ("two keys, up and down", 2, 1), "push pull": ("two ribbons, together and against", 2, 2),
    "wheels": ("two wheels, ahead and turn", 2, 2), "expressions": ("poses around a stick", 2, 0),
}  # fmt: skip
"""In words, how many inputs it needs, and how many ribbons."""
HOLD = "Hold to move"
ROUND, WHEELS = 360.0, ("Left wheel", "Right wheel")


def steering_of(figure: Figure) -> Steering:
    """What a hand does, nothing where nothing is said."""
    return figure.steering if figure.steering is not None else Steering()


def change_steering(figure: Figure, words: str, **fields: Any) -> Edit:
    """Other sensitivities, dead man's switch, pace, tolerance or grips."""
    after = Steering(**(dict(steering_of(figure)) | fields))
    return Edit(words, (Set(("steering",), after),), f"steering {words}")


def first_steering(figure: Figure) -> Edit:
    """A knob or a stick for each ribbon of a joint, and a dead man's switch. Raises EditRefused where a hand does something already, or nothing moves."""
    if figure.steering is not None and figure.steering.grips:
        raise EditRefused("A hand drives it already: add to that.")
    ribbons = [channel for channel in figure.score.moved if channel.leads is not None]
    if not ribbons:
        raise EditRefused("It has no ribbons of joints yet: lay them out on the Score bench first.")
    taken: set[str] = set()
    inputs, grips = list(behaviour_of(figure).inputs), list[Grip]()
    free = [each.id for each in inputs if each.kind in HANDED]
    for channel in ribbons[:MOST_FIRST]:
        name = f"Knob of {channel.name}"[:80]
        ident = free.pop(0) if free else new_id(figure, name, taken)
        if all(each.id != ident for each in inputs):
            inputs.append(Input(id=ident, name=name, kind="knob"))
        grips.append(Follows(id=new_id(figure, f"grip {channel.id}", taken), name=channel.name, input=ident, channel=channel.id))  # fmt: skip
    held = new_id(figure, HOLD, taken)
    inputs.append(Input(id=held, name=HOLD, kind="button"))
    return Edit("drive it by hand", (
        _inputs(figure, tuple(inputs)), Set(("steering",), Steering(grips=tuple(grips), held_by=held)),
    ))  # fmt: skip


MOST_FIRST = 6


def add_dead_man(figure: Figure) -> Edit:
    """A button that is held while anything moves by hand: one that is called so and does nothing else, or a new one."""
    steering, inputs = steering_of(figure), list(behaviour_of(figure).inputs)
    free = next((each for each in inputs if each.kind == "button" and each.name == HOLD and each.id not in steering.inputs), None)  # fmt: skip
    held = free or Input(id=new_id(figure, HOLD), name=HOLD, kind="button")
    if free is None:
        inputs.append(held)
    after = Steering(**(dict(steering) | {"held_by": held.id}))
    return Edit("a dead man's switch", (_inputs(figure, tuple(inputs)), Set(("steering",), after)))


def _inputs(figure: Figure, inputs: tuple[Input, ...]) -> Step:
    return Set(("behaviour",), Behaviour(**(dict(behaviour_of(figure)) | {"inputs": inputs})))


def add_grip(figure: Figure, kind: str) -> tuple[Edit, str]:
    """A grip more, on ribbons that nothing drives by hand yet, with the inputs it needs where they are not there; and its id. Raises EditRefused where there
    are not so many ribbons, or poses, left; wheels it lays out where there are none."""
    words, wanted, moves = GRIPS[kind]
    steering, taken = steering_of(figure), set[str]()
    led = {channel for grip in steering.grips for channel in grip.channels}
    ribbons = [c for c in figure.score.moved if c.id not in led]
    ribbons.sort(key=lambda c: (c.leads is None, c.kind))
    motors: tuple[Step, ...] = ()
    if kind == "wheels":
        ribbons = [c for c in ribbons if c.runs]
        made = [RunChannel(id=new_id(figure, name, taken), name=name) for name in WHEELS[len(ribbons) :]]
        ribbons += made
        motors = tuple(Add("score.channels", each) for each in made)
    if len(ribbons) < moves:
        raise EditRefused(f"“{words}” needs {moves} {'ribbons' if moves > 1 else 'ribbon'} that no hand moves yet; there {'is' if len(ribbons) == 1 else 'are'} {len(ribbons) or 'none'}.")  # fmt: skip
    if kind == "expressions" and not figure.poses:
        raise EditRefused("There is no kept pose yet: keep some on the Score bench first.")
    name = "Wheels" if kind == "wheels" else ribbons[0].name if moves else "Expressions"
    ident = new_id(figure, f"grip {name}", taken)
    used = steering.inputs
    of_kind = "button" if kind == "keyed" else "stick" if wanted > 1 else "knob"
    free = [each for each in behaviour_of(figure).inputs if each.id not in used and each.kind == of_kind]
    inputs = list(behaviour_of(figure).inputs)
    while len(free) < wanted:
        called = _called(kind, len(free), name)
        free.append(Input.from_fields({"id": new_id(figure, called, taken), "name": called, "kind": of_kind}))
        inputs.append(free[-1])
    a, b = free[0].id, free[wanted - 1].id
    c, d = (ribbons[0].id, ribbons[moves - 1].id) if moves else ("", "")
    base: dict[str, Any] = {"id": ident, "name": name[:80]}
    make: dict[str, Callable[[], Grip]] = {
        "follows": lambda: Follows(**base, input=a, channel=c),
        "keyed": lambda: Keyed(**base, up=a, down=b, channel=c),
        "push pull": lambda: PushPull(**base, together=a, against=b, first=c, second=d),
        "wheels": lambda: Wheels(**base, ahead=a, turn=b, left=c, right=d),
        "expressions": lambda: Expressions(**base, ahead=a, across=b, faces=_around(figure)),
    }
    grips = (*steering.grips, make[kind]())
    after = Steering(**(dict(steering) | {"grips": grips}))
    return Edit(f"drive {name} by hand", (*motors, _inputs(figure, tuple(inputs)), Set(("steering",), after))), ident


def _called(kind: str, n: int, name: str) -> str:
    first, second = {"keyed": ("up", "down"), "follows": ("knob", "knob")}.get(kind, ("ahead", "across"))
    return f"{name[:60]}, {(first, second)[n]}"


def _around(figure: Figure) -> tuple[Towards, ...]:
    """The first kept poses, as many as eight, evenly around the stick."""
    poses = figure.poses[:8]
    return tuple(Towards(pose=pose.id, towards_deg=round(ROUND * k / len(poses), 1)) for k, pose in enumerate(poses))


def change_grip(figure: Figure, grip_id: str, words: str, **fields: Any) -> Edit:
    """Another name, input, ribbon, end, pace or smoothing."""
    before = steering_of(figure).grip(grip_id)
    after = type(before)(**(dict(before) | fields))
    grips = tuple(after if grip.id == grip_id else grip for grip in steering_of(figure).grips)
    edit = change_steering(figure, f"{words} of {before.name}", grips=grips)
    return Edit(edit.name, edit.steps, f"{grip_id} {words}")


def remove_grip(figure: Figure, grip_id: str) -> Edit:
    """A grip less; its inputs stay."""
    steering = steering_of(figure)
    left = tuple(grip for grip in steering.grips if grip.id != grip_id)
    return change_steering(figure, f"take {steering.grip(grip_id).name} out of hand", grips=left)


def end_of_grip(figure: Figure, grip: Follows | Keyed, which: int, value: float) -> Edit:
    """Where it goes at one end, in the ribbon's own unit."""
    ends = list(grip.to or figure.score.moving(grip.channel).band(figure))
    ends[which] = round(value, 2)
    return change_grip(figure, grip.id, "ends", to=(ends[0], ends[1]))


def change_face(figure: Figure, grip: Expressions, k: int, towards_deg: float | None) -> Edit:
    """Another direction for a pose around the stick; None takes it away."""
    faces = list(grip.faces)
    if towards_deg is None:
        del faces[k]
    else:
        faces[k] = Towards(pose=faces[k].pose, towards_deg=round(towards_deg, 1))
    return change_grip(figure, grip.id, "poses around the stick", faces=tuple(faces))


def add_face(figure: Figure, grip: Expressions, pose_id: str) -> Edit:
    """A pose more, in the widest gap around the stick."""
    held = sorted(face.towards_deg % ROUND for face in grip.faces)
    gaps = [(after - before, before) for before, after in zip(held, [*held[1:], held[0] + ROUND], strict=True)] if held else []  # fmt: skip
    wide, begins = max(gaps, default=(0.0, 0.0))
    face = Towards(pose=pose_id, towards_deg=round((begins + wide / 2) % ROUND, 1))
    return change_grip(figure, grip.id, "poses around the stick", faces=(*grip.faces, face))
