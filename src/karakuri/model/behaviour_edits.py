"""Edits of a behaviour: a first one set down from what a figure has; states, what they play, what starts them, and inputs."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import Any

from msgspec.structs import replace

from karakuri.errors import EditRefused
from karakuri.model.behaviour import (
    Above,
    After,
    Attends,
    Behaviour,
    Below,
    Cue,
    Deed,
    Ended,
    Guard,
    Input,
    Lights,
    Lives,
    Parks,
    Performs,
    Poses,
    Pressed,
    Released,
    Says,
    Start,
    State,
    Steered,
    Stopped,
    Trigger,
)
from karakuri.model.edit import Edit, Set
from karakuri.model.figure import Figure
from karakuri.model.ids import new_id
from karakuri.model.loosen import unplugged

TRIGGERS: Mapping[str, tuple[str, Callable[[str], Trigger]]] = {
    "pressed": ("it goes on", lambda ident: Pressed(input=ident)),
    "released": ("it goes off", lambda ident: Released(input=ident)),
    "above": ("it rises above", lambda ident: Above(input=ident)),
    "below": ("it falls below", lambda ident: Below(input=ident)),
    "stopped": ("somebody stops there", lambda ident: Stopped(input=ident)),
    "after": ("a time is over", lambda ident: After()),
    "ended": ("what plays is over", lambda ident: Ended()),
    "cue": ("a cue is given", lambda ident: Cue()),
}
"""Words, and how one is made for an input."""
BY_INPUT = frozenset({"pressed", "released", "above", "below", "stopped"})


def behaviour_of(figure: Figure) -> Behaviour:
    """The behaviour, empty where there is none."""
    return figure.behaviour if figure.behaviour is not None else Behaviour()


def change(figure: Figure, words: str, **fields: Any) -> Edit:
    """Other states, starts, inputs, seed or pace."""
    return Edit(words, (Set(("behaviour",), Behaviour(**(dict(behaviour_of(figure)) | fields))),), words)


def first_behaviour(figure: Figure) -> Edit:
    """Asleep, wakes when somebody comes, lives and says a line, sleeps again when nobody is there, powers down by a switch: of that what the figure can do.
    Raises EditRefused where there is one already, or nothing moves."""
    if figure.behaviour is not None and figure.behaviour.states:
        raise EditRefused("It has a behaviour already: add states to that.")
    if not figure.score.moved:
        raise EditRefused("It has no ribbons yet: lay them out on the Score bench first.")
    lights = [channel.id for channel in figure.score.moved if channel.kind == "light"]
    lit = tuple(Lights(channel=ident, level=80.0) for ident in lights)
    line: tuple[Deed, ...] = (Says(lines=figure.lines[0].id),) if figure.lines else (Says(sound=figure.sounds[0].id),) if figure.sounds else ()  # fmt: skip
    states = [
        State(id="asleep", name="Asleep", plays=(Parks(),)),
        State(id="wakes", name="Notices", plays=(Attends(), *lit), stays_s=(1.5, 2.5)),
        State(id="speaks", name="Speaks", plays=(*line, Attends()), stays_s=(2.0, 4.0)),
        State(id="idle", name="Idle", plays=(Lives(),), stays_s=(12.0, 20.0)),
        State(id="down", name="Powers down", plays=(Parks(),), priority=5, stays_s=(10.0, 15.0)),
    ]
    starts = [
        Start(id="somebody", to="wakes", on=Pressed(input="ahead"), while_in=("asleep",), cool_s=2.0),
        Start(id="looked", to="speaks", on=Ended(), while_in=("wakes",)),
        Start(id="said", to="idle", on=Ended(), while_in=("speaks",)),
        Start(id="again", to="wakes", on=Pressed(input="ahead"), while_in=("idle",), chance=0.5, cool_s=8.0),
        Start(id="nobody", to="asleep", on=Ended(), while_in=("idle",)),
        Start(id="switched", to="down", on=Pressed(input="off")),
        Start(id="stayed", to="asleep", on=Ended(), while_in=("down",)),
    ]
    inputs = (
        Input(id="left", name="Sensor left", kind="motion", heading_deg=45.0, wide_deg=50.0),
        Input(id="ahead", name="Sensor ahead", kind="motion", heading_deg=0.0, wide_deg=50.0, weight=3.0),
        Input(id="right", name="Sensor right", kind="motion", heading_deg=-45.0, wide_deg=50.0),
        Input(id="off", name="Power-down switch", kind="switch"),
    )
    made = Behaviour(states=tuple(states), starts=tuple(starts), inputs=inputs)
    return Edit("set down a behaviour", (Set(("behaviour",), made),))


def add_state(figure: Figure, name: str) -> tuple[Edit, str]:
    """A state more, which nothing starts yet; and its id."""
    ident = new_id(figure, name)
    states = (*behaviour_of(figure).states, State(id=ident, name=name, plays=(Parks(),)))
    return change(figure, f"add {name}", states=states), ident


def change_state(figure: Figure, state_id: str, words: str, **fields: Any) -> Edit:
    """Another name, other deeds, stay, priority or hearing."""
    before = behaviour_of(figure).state(state_id)
    return _changed(figure, "states", before, f"{words} of {before.name}", words, fields)


def remove_state(figure: Figure, state_id: str) -> Edit:
    """A state less, with the starts that lead to it, or only from it."""
    behaviour = behaviour_of(figure)
    name = behaviour.state(state_id).name
    starts = []
    for start in behaviour.starts:
        left = tuple(ident for ident in start.while_in if ident != state_id)
        if start.to != state_id and (left or not start.while_in):
            starts.append(Start(**(dict(start) | {"while_in": left})))
    states = tuple(state for state in behaviour.states if state.id != state_id)
    return change(figure, f"take {name} out", states=states, starts=tuple(starts))


def begin_with(figure: Figure, state_id: str) -> Edit:
    """Begin in that state."""
    behaviour = behaviour_of(figure)
    first = behaviour.state(state_id)
    return change(
        figure, f"begin with {first.name}", states=(first, *(s for s in behaviour.states if s.id != state_id))
    )


def add_start(figure: Figure, state_id: str, kind: str, input_id: str = "", came: str = "") -> tuple[Edit, str]:
    """A start of a state by a kind of trigger, of an input where it needs one, while in `came` or in any; and its id. Raises EditRefused where there is no
    such input."""
    behaviour = behaviour_of(figure)
    if kind in BY_INPUT and not input_id:
        raise EditRefused("There is no input yet: add one first.")
    ident = new_id(figure, f"{state_id} by {kind}")
    start = Start(id=ident, to=state_id, on=TRIGGERS[kind][1](input_id), while_in=(came,) if came else ())
    return change(figure, f"start of {behaviour.state(state_id).name}", starts=(*behaviour.starts, start)), ident


def change_start(figure: Figure, start_id: str, words: str, **fields: Any) -> Edit:
    """Another trigger, other states it starts from, guards, chance or cool-down."""
    behaviour = behaviour_of(figure)
    before = next(start for start in behaviour.starts if start.id == start_id)
    name = f"{words} of a start of {behaviour.state(before.to).name}"
    return _changed(figure, "starts", before, name, words, fields)


def remove_start(figure: Figure, start_id: str) -> Edit:
    """A start less."""
    behaviour = behaviour_of(figure)
    return change(figure, "take a start out", starts=tuple(start for start in behaviour.starts if start.id != start_id))


def add_input(figure: Figure, name: str, kind: str) -> tuple[Edit, str]:
    """An input more; and its id."""
    ident = new_id(figure, name)
    made = Input.from_fields({"id": ident, "name": name, "kind": kind})
    return change(figure, f"add {name}", inputs=(*behaviour_of(figure).inputs, made)), ident


def change_input(figure: Figure, input_id: str, words: str, **fields: Any) -> Edit:
    """Another name, kind or place."""
    before = behaviour_of(figure).input(input_id)
    if fields.get("kind", before.kind) != before.kind:
        fields |= {"reads": None, "middle": None}  # they were another kind's
    return _changed(figure, "inputs", before, f"{words} of {before.name}", words, fields)


def remove_input(figure: Figure, input_id: str) -> Edit:
    """An input less. Raises EditRefused, naming what it starts."""
    behaviour = behaviour_of(figure)
    used = [start for start in behaviour.starts if getattr(start.on, "input", None) == input_id or any(g.input == input_id for g in start.only)]  # fmt: skip
    if used:
        raise EditRefused(f"{behaviour.input(input_id).name} stays: it starts {behaviour.state(used[0].to).name}. Take that start out first.")  # fmt: skip
    if figure.steering is not None and input_id in figure.steering.inputs:
        raise EditRefused(
            f"{behaviour.input(input_id).name} stays: a hand drives ribbons with it. Take it out of hand first."
        )
    edit = change(figure, "take an input out", inputs=tuple(each for each in behaviour.inputs if each.id != input_id))
    return replace(edit, steps=(*unplugged(figure, {input_id}), *edit.steps))


def deeds_for(figure: Figure) -> tuple[tuple[str, str, Deed], ...]:
    """What a state of this figure may play, as (key, words, deed)."""
    out: list[tuple[str, str, Deed]] = [
        ("life", "its life when idle", Lives()), ("attends", "turns to who is there", Attends()), ("park", "goes to park", Parks()),
    ]  # fmt: skip
    if figure.steering is not None and figure.steering.grips:
        out.append(("steered", "does what a hand says", Steered()))
    for score in figure.scores:
        out.append((f"score {score.id}", f"“{score.name}”", Performs(score=score.id)))
        out += [(f"section {score.id} {s.id}", f"{s.name} of “{score.name}”", Performs(score=score.id, section=s.id)) for s in score.sections]  # fmt: skip
    out += [(f"pose {pose.id}", f"pose {pose.name}", Poses(pose=pose.id)) for pose in figure.poses]
    out += [(f"lines {each.id}", f"a line of {each.name}", Says(lines=each.id)) for each in figure.lines]
    out += [(f"sound {sound.id}", f"says “{sound.name}”", Says(sound=sound.id)) for sound in figure.sounds]
    out += [(f"light {c.id}", f"{c.name} on", Lights(channel=c.id, level=100.0)) for c in figure.score.moved if c.kind == "light"]  # fmt: skip
    out += [(f"dark {c.id}", f"{c.name} off", Lights(channel=c.id, level=0.0)) for c in figure.score.moved if c.kind == "light"]  # fmt: skip
    return tuple(out)


def deed_words(figure: Figure, deed: Deed) -> str:
    """What a deed is called on screen."""
    if isinstance(deed, Performs):
        score = next(each for each in figure.scores if each.id == deed.score)
        part = next((s.name for s in score.sections if s.id == deed.section), None)
        return f"plays {f'{part} of ' if part else ''}“{score.name}”{', again and again' if deed.again else ''}"
    if isinstance(deed, Poses):
        return f"pose {figure.pose(deed.pose).name}"
    if isinstance(deed, Says):
        if deed.lines is not None:
            return f"says a line of {next(each.name for each in figure.lines if each.id == deed.lines)}"
        return f"says “{figure.sound(deed.sound or '').name}”"
    if isinstance(deed, Lights):
        return f"{figure.score.channel(deed.channel).name} to {deed.level:g} %"
    return {
        "life": "lives",
        "park": "goes to park",
        "attends": "turns to who is there",
        "steered": "does what a hand says",
    }[deed.kind]


def trigger_words(behaviour: Behaviour, on: Trigger) -> str:
    """What turns the page, in a few words."""
    if isinstance(on, After):
        return f"after {on.between_s[0]:g} to {on.between_s[1]:g} s"
    if isinstance(on, Ended):
        return "when it is over"
    if isinstance(on, Cue):
        return f"cue “{on.cue}”"
    name = behaviour.input(on.input).name
    if isinstance(on, Stopped):
        return f"{name}: stands {on.still_s:g} s"
    if isinstance(on, Pressed | Released):
        return f"{name} {'goes on' if isinstance(on, Pressed) else 'goes off'}"
    return f"{name} {'above' if isinstance(on, Above) else 'below'} {on.level:g} %"


def guard_words(behaviour: Behaviour, guard: Guard) -> str:
    """What must be so."""
    name = behaviour.input(guard.input).name
    return f"{name} {guard.state}" + (f" {guard.level:g} %" if guard.state in ("above", "below") else "")


def other_deed(figure: Figure, state_id: str, k: int, words: str, **fields: Any) -> Edit:
    """Another number or way for what a state plays k-th."""
    plays = list(behaviour_of(figure).state(state_id).plays)
    plays[k] = type(plays[k])(**(dict(plays[k]) | fields))
    return change_state(figure, state_id, words, plays=tuple(plays))


def other_trigger(figure: Figure, start_id: str, words: str, **fields: Any) -> Edit:
    """Another input, level, time or cue for a start."""
    start = next(each for each in behaviour_of(figure).starts if each.id == start_id)
    return change_start(figure, start_id, words, on=type(start.on)(**(dict(start.on) | fields)))


def time_of_start(figure: Figure, start_id: str, which: int, seconds: float) -> Edit:
    """The shorter (0) or longer (1) time after which a start comes; the other gives way."""
    start = next(each for each in behaviour_of(figure).starts if each.id == start_id)
    low, high = start.on.between_s if isinstance(start.on, After) else (seconds, seconds)
    span = (seconds, max(seconds, high)) if which == 0 else (min(low, seconds), seconds)
    return other_trigger(figure, start_id, "time", between_s=span)


def add_guard(figure: Figure, start_id: str, input_id: str, state: str) -> Edit:
    """Only while an input is so."""
    start = next(each for each in behaviour_of(figure).starts if each.id == start_id)
    guard = Guard.from_fields({"input": input_id, "state": state})
    return change_start(figure, start_id, "guard", only=(*start.only, guard))


def change_guard(figure: Figure, start_id: str, k: int, **fields: Any) -> Edit:
    """Another level of what must be so, the k-th."""
    start = next(each for each in behaviour_of(figure).starts if each.id == start_id)
    only = list(start.only)
    only[k] = Guard(**(dict(only[k]) | fields))
    return change_start(figure, start_id, f"guard {k + 1}", only=tuple(only))


def _changed(
    figure: Figure, kind: str, before: State | Start | Input, name: str, words: str, fields: dict[str, Any]
) -> Edit:
    """One of the states, starts or inputs with other fields; the same words of the same one are one step to undo."""
    after = type(before)(**(dict(before) | fields))
    items = tuple(after if each.id == before.id else each for each in getattr(behaviour_of(figure), kind))
    return Edit(name, change(figure, name, **{kind: items}).steps, f"{before.id} {words}")
