"""What of a behaviour can never happen: states never reached, ends without a way on, starts that can never fire, and why."""

from __future__ import annotations

from karakuri.frozen import Frozen
from karakuri.model.behaviour import (
    SEES,
    Above,
    After,
    Behaviour,
    Below,
    Cue,
    Ended,
    Guard,
    Pressed,
    Released,
    Start,
    State,
    Stopped,
)

ENDLESS = frozenset({"life", "attends", "steered"})


class Examined(Frozen):
    """`silent` are starts that can never fire, with why; `unreached` and `dead_ends` are states."""

    unreached: tuple[State, ...]
    dead_ends: tuple[State, ...]
    silent: tuple[tuple[Start, str], ...]


def ends(state: State) -> bool:
    """Whether what a state plays is ever over."""
    return state.stays_s is not None or not any(
        deed.kind in ENDLESS or (deed.kind == "score" and deed.again) for deed in state.plays
    )


def examine(behaviour: Behaviour) -> Examined:
    """Only what is certain: what is left out here may still happen seldom."""
    never = {start.id: _why(behaviour, start) for start in behaviour.starts}
    reached = {behaviour.states[0].id} if behaviour.states else set()
    grown = True
    while grown:
        grown = False
        for start in behaviour.starts:
            if (
                start.to not in reached
                and not never[start.id]
                and any(_leaves(behaviour, state, start) for state in behaviour.states if state.id in reached)
            ):
                reached.add(start.to)
                grown = True
    silent = []
    for start in behaviour.starts:
        here = [s for s in behaviour.states if s.id in reached and _from(start, s)]
        why = never[start.id]
        if not why and not here:
            why = "none of the states it starts from is ever reached"
        if not why and not any(_leaves(behaviour, state, start) for state in here):
            why = _why_not_left(behaviour, here[0], start)
        if not why:
            why = _shadowed(behaviour, start, [s for s in here if _leaves(behaviour, s, start)])
        if why:
            silent.append((start, why))
    mute = {start.id for start, _ in silent}
    dead = tuple(
        state for state in behaviour.states
        if state.id in reached and not any(s.id not in mute and s.to != state.id and _leaves(behaviour, state, s) for s in behaviour.starts)
    )  # fmt: skip
    return Examined(tuple(state for state in behaviour.states if state.id not in reached), dead, tuple(silent))


def _from(start: Start, state: State) -> bool:
    return not start.while_in or state.id in start.while_in


def _leaves(behaviour: Behaviour, state: State, start: Start) -> bool:
    """Whether a start can ever take it out of a state."""
    if not _from(start, state):
        return False
    if ends(state):
        return True
    return (
        not isinstance(start.on, Ended)
        and behaviour.state(start.to).priority >= state.priority
        and not (state.deaf and hasattr(start.on, "input"))
    )


def _why_not_left(behaviour: Behaviour, state: State, start: Start) -> str:
    if isinstance(start.on, Ended):
        return f"what “{state.name}” plays is never over"
    if behaviour.state(start.to).priority < state.priority:
        return f"“{state.name}” is never over, and more important"
    return f"“{state.name}” is never over, and deaf"


def _why(behaviour: Behaviour, start: Start) -> str:
    """Why a start can never fire wherever it is; '' where it may."""
    if start.chance <= 0.0:
        return "its chance is nothing"
    guards = list(start.only)
    for k, one in enumerate(guards):
        for other in guards[k + 1 :]:
            if one.input == other.input and not _together(one, other):
                return f"{behaviour.input(one.input).name} cannot be {_words(one)} and {_words(other)} at once"
    by = getattr(start.on, "input", None)
    if isinstance(start.on, Stopped) and behaviour.input(start.on.input).kind not in SEES:
        return f"{behaviour.input(start.on.input).name} sees nobody"
    for guard in guards:
        if guard.input == by and not isinstance(start.on, Stopped) and not _together(_as_guard(start), guard):
            return f"{behaviour.input(guard.input).name} is not {_words(guard)} when it fires"
    if isinstance(start.on, Below) and start.on.level <= 0.0:
        return "nothing falls below 0 %"
    return ""


def _as_guard(start: Start) -> Guard:
    """How its input is when a trigger has just fired."""
    on = start.on
    if isinstance(on, Above | Below):
        return Guard(input=on.input, state="above" if isinstance(on, Above) else "below", level=on.level)
    assert isinstance(on, Pressed | Released)
    return Guard(input=on.input, state="on" if isinstance(on, Pressed) else "off")


def _together(one: Guard, other: Guard) -> bool:
    """Whether an input can be as both want it: levels from 0 to 100, on from 50."""
    low, high = 0.0, 100.1
    for guard in (one, other):
        level = guard.level if guard.state in ("above", "below") else 50.0
        if guard.state in ("above", "on"):
            low = max(low, level)
        else:
            high = min(high, level)
    return low < high


def _words(guard: Guard) -> str:
    return guard.state if guard.state in ("on", "off") else f"{guard.state} {guard.level:g} %"


def _shadowed(behaviour: Behaviour, start: Start, here: list[State]) -> str:
    """Why another that fires at the same moment always comes first."""
    mine = behaviour.state(start.to).priority
    if isinstance(start.on, After):
        return ""
    for k, other in enumerate(behaviour.starts):
        if other.id == start.id or other.on != start.on or other.chance < 1.0 or other.cool_s > 0.0 or other.only:
            continue
        theirs = behaviour.state(other.to).priority
        first = theirs > mine or (theirs == mine and k < behaviour.starts.index(start))
        if first and here and all(_from(other, state) and _leaves(behaviour, state, other) for state in here):
            to = behaviour.state(other.to).name
            return f"“{to}” starts by the same, and comes first"
    return ""


def cues(behaviour: Behaviour) -> tuple[str, ...]:
    """All cues there are, each once, in order."""
    return tuple(dict.fromkeys(start.on.cue for start in behaviour.starts if isinstance(start.on, Cue)))
