"""Whether a trigger fires in a tick, and whether a guard lets it."""

from __future__ import annotations

from collections.abc import Set

from karakuri.behaviour.senses import Senses, stood
from karakuri.model.behaviour import Above, After, Below, Cue, Ended, Guard, Pressed, Released, Stopped, Trigger


def fires(on: Trigger, senses: Senses, over: bool, due: bool, cues: Set[str], fresh: bool = False) -> bool:
    """`over`: what plays has just come to its end; `due`: its own time has come; `cues` that are given now; `fresh`: the
    state ahead has just begun, when a level that is so already counts."""
    if isinstance(on, Pressed):
        return senses.rose(on.input)
    if isinstance(on, Released):
        return senses.fell(on.input)
    if isinstance(on, Above):
        return senses.rose(on.input, on.level) or (fresh and senses.now.get(on.input, 0.0) >= on.level)
    if isinstance(on, Below):
        return senses.fell(on.input, on.level) or (fresh and senses.now.get(on.input, 0.0) < on.level)
    if isinstance(on, Stopped):
        return stood(senses, on.input, on.still_s)
    if isinstance(on, After):
        return due
    if isinstance(on, Ended):
        return over
    assert isinstance(on, Cue)
    return on.cue in cues


def holds(guard: Guard, senses: Senses) -> bool:
    """Whether an input is as a guard wants it."""
    if guard.state in ("on", "off"):
        return senses.on(guard.input) == (guard.state == "on")
    level = senses.now.get(guard.input, 0.0)
    return level >= guard.level if guard.state == "above" else level < guard.level
