"""Edits of what feeds a figure: begin to ask, what it is fed by, what draws besides servos."""

from __future__ import annotations

from typing import Any

from karakuri.errors import EditRefused
from karakuri.model.edit import Add, Edit, Remove, Set, Step
from karakuri.model.figure import Figure
from karakuri.model.ids import new_id
from karakuri.model.power import Cells, Chemistry, Converter, Load, LoadKind, Power

GUESSED_A: dict[LoadKind, float] = {"light": 0.3, "sound": 0.5, "controller": 0.15, "motor": 0.5, "other": 0.1}
"""What one draws as long as nobody has measured it: common practice, no source; marked as a guess."""
OF_CHANNEL: dict[str, LoadKind] = {"light": "light", "run": "motor", "sound": "sound"}
COUNT: dict[Chemistry, int] = {"nickel": 5, "lithium polymer": 2, "lithium ion": 2, "lithium iron": 2, "lead": 3}
"""Cells that are usual for servos of 6 V."""


def begin_power(figure: Figure) -> Edit:
    """Ask of power: a controller, and a load for each light, voice, motor and stepper there is, all guessed."""
    what: list[tuple[str, LoadKind, dict[str, Any]]] = [("Controller", "controller", {})]
    for channel in figure.score.channels:
        if not channel.joints:
            what.append((channel.name, OF_CHANNEL[channel.kind], {"channel": channel.id}))
    for element in figure.elements:
        if element.kind == "actuator" or (element.kind == "motor" and element.sort != "mains"):
            what.append((element.name, "motor", {"runs": element.id}))
    for drive in figure.drives:
        if drive.actuator.stepper is not None:
            what.append((f"Stepper of {figure.joint(drive.joint).name}"[:80], "motor", {"runs": drive.joint}))
    taken: set[str] = set()
    loads = tuple(
        Load(id=new_id(figure, name, taken), name=name, kind=kind, amps=GUESSED_A[kind], **fields)
        for name, kind, fields in what
    )
    return Edit("ask of power", (Set(("power",), Power(loads=loads)),))


def end_power(figure: Figure) -> Edit:
    """Ask nothing of power any more."""
    return Edit("no more of power", (Set(("power",), None),))


def set_power(words: str, **fields: Any) -> Edit:
    """Some of its fields."""
    return Edit(words, tuple(Set(("power", field), value) for field, value in fields.items()), f"power {' '.join(fields)}")  # fmt: skip


def fed_by(figure: Figure, chemistry: Chemistry | None) -> Edit:
    """Cells of a kind, as many as is usual; None: none, it is fed by its supply."""
    power = _power(figure)
    if chemistry is None:
        return Edit("fed by its supply", (Set(("power", "cells"), None), Set(("power", "converter"), None)))
    before = power.cells or Cells()
    cells = before.but(chemistry=chemistry, count=COUNT[chemistry], ohm_mohm=None)
    return Edit(f"{chemistry} cells", (Set(("power", "cells"), cells),))


def set_cells(figure: Figure, words: str, **fields: Any) -> Edit:
    """Some fields of the cells."""
    return Edit(words, tuple(Set(("power", "cells", field), value) for field, value in fields.items()), f"cells {' '.join(fields)}")  # fmt: skip


def converted(figure: Figure, how: str) -> Edit:
    """Put a converter between: 'none', 'down' (steps down) or 'both' (raises too)."""
    before = _power(figure).converter or Converter()
    made = None if how == "none" else before.but(raises=how == "both")
    return Edit("converter", (Set(("power", "converter"), made),))


def add_load(figure: Figure, kind: LoadKind, name: str) -> tuple[Edit, str]:
    """One more thing that draws, its current guessed. And its id."""
    ident = new_id(figure, name)
    load = Load(id=ident, name=name, kind=kind, amps=GUESSED_A[kind])
    return Edit(f"add {name}", (Add("power.loads", load),)), ident


def set_load(figure: Figure, ident: str, words: str, **fields: Any) -> Edit:
    """Some fields of what draws; a current that is written is no guess any more."""
    load = load_of(figure, ident)
    if "amps" in fields:
        fields["guess"] = False
    loads = tuple(Load(**(dict(each) | fields)) if each.id == ident else each for each in _power(figure).loads)
    return Edit(f"{words} of {load.name}", (Set(("power", "loads"), loads),), f"load {ident} {' '.join(fields)}")


def remove_load(figure: Figure, ident: str) -> Edit:
    """It draws no more."""
    return Edit(f"remove {load_of(figure, ident).name}", (Remove("power.loads", ident),))


def load_of(figure: Figure, ident: str) -> Load:
    """What draws, by its id. Raises EditRefused."""
    found = next((load for load in _power(figure).loads if load.id == ident), None)
    if found is None:
        raise EditRefused("It is no longer there.")
    return found


def always_on(figure: Figure, channels: set[str]) -> tuple[Step, ...]:
    """What is done to loads that go with a light, a motor or a voice that goes: they are always on from then on."""
    if figure.power is None or not any(load.channel in channels for load in figure.power.loads):
        return ()
    loads = tuple(load.but(channel=None) if load.channel in channels else load for load in figure.power.loads)
    return (Set(("power", "loads"), loads),)


def _power(figure: Figure) -> Power:
    if figure.power is None:
        raise EditRefused("Nothing is asked of power yet: begin with “Ask how long it lasts”.")
    return figure.power
