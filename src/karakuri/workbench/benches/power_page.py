"""The cards of power: all that feeds the figure, and one thing that draws."""

from __future__ import annotations

from karakuri.checks.contract import POWER
from karakuri.model.power import Cells, Load, Power
from karakuri.model.power_edits import (
    add_load,
    begin_power,
    converted,
    end_power,
    fed_by,
    remove_load,
    set_cells,
    set_load,
    set_power,
)
from karakuri.model.ref import FIGURE, Ref, item_of
from karakuri.power.parts import heat_W
from karakuri.units import Quantity
from karakuri.workbench.benches.figure_page import set_whole
from karakuri.workbench.desk import Desk
from karakuri.workbench.widgets.items import Block, Calc, Do, Fact, Head, Item, Note, Page, Pick, Write, WriteText

CELLS = (
    ("none", "its supply"), ("nickel", "nickel cells"), ("lithium polymer", "lithium polymer"), ("lithium ion", "lithium ion"),
    ("lithium iron", "lithium iron"), ("lead", "sealed lead"),
)  # fmt: skip
THROUGH = (("none", "nothing"), ("down", "steps down"), ("both", "raises too"))
LOADS = (("light", "a light"), ("sound", "an amplifier"), ("controller", "a controller"), ("motor", "a motor"), ("other", "something else"))  # fmt: skip
CAUTION = (
    "Advises, certifies nothing. Mains belongs into a listed supply with earth and cover, never bare in the figure. Lithium: its own charger, never "
    "charged in the figure, a fuse beside the cells. Take the power away before you reach in. Local codes and licensed practice come first."
)
IN_SHORT = "Mains: a listed supply only. Lithium: never charged in the figure. Power away before you reach in. Local codes first."
MM, HOUR = 1e-3, 3600.0


def power_page(desk: Desk) -> Page:
    """The card for what is in hand of power."""
    power = desk.figure.power
    if power is None:
        ask = Do("ask", "Ask how long it lasts", lambda: desk.edit(lambda: begin_power(desk.figure)))
        what = Note(
            "n",
            "Sets down a controller, and each light, voice and motor there is, with guessed currents; yours to write.",
        )
        return Page("Power", "nothing is asked of it yet", (ask, what, Head("hc", "Caution"), Note("c", CAUTION, True)), ("power", ""))  # fmt: skip
    load = item_of(desk.figure, desk.subject) if desk.subject.kind == "load" else None
    return load_page(desk, load) if isinstance(load, Load) else whole_page(desk, power)


def whole_page(desk: Desk, power: Power) -> Page:
    figure = desk.figure
    found = [f for f in desk.study.findings if f.rule == "power"] if desk.study is not None else []
    worst = min(found, key=lambda f: f.sort_key(), default=None)
    items: list[Item] = [Block("v", worst, figure.assumptions.wished_margin), Note("f", worst.sentence.show(desk.units))] if worst is not None else []  # fmt: skip
    items += [
        Write("lasts", "The show lasts", Quantity(power.lasts_h * HOUR, "hours"), "hours", lambda v: desk.edit(set_power("how long it lasts", lasts_h=round(v / HOUR, 4)))),
        Write("volts", "Voltage", Quantity(figure.supply.voltage_V, "voltage"), "voltage", lambda v: set_whole(desk, ("supply", "voltage_V"), v, "supply voltage")),
        Write("amps", "Gives at most", Quantity(figure.supply.current_A, "current"), "current", lambda v: set_whole(desk, ("supply", "current_A"), v, "supply current")),
        Pick("cells", "Fed by", dict(CELLS)[power.cells.chemistry if power.cells is not None else "none"], CELLS, lambda key: desk.edit(lambda: fed_by(desk.figure, None if key == "none" else key))),
    ]  # fmt: skip
    if power.cells is not None:
        items += _cell_items(desk, power, power.cells)
    items += [
        Head("hw", "Wire to the servos"),
        Write("awg", "Gauge, AWG", Quantity(power.wire.gauge_awg, "count"), "count", lambda v: set_whole(desk, ("power", "wire", "gauge_awg"), round(v), "gauge of the wire")),
        Write("long", "Long, one way", Quantity(power.wire.length_mm * MM, "length"), "length", lambda v: set_whole(desk, ("power", "wire", "length_mm"), round(v / MM, 3), "length of the wire")),
        Write("warm", "Gets warm, °C", Quantity(desk.figure.assumptions.wire_C, "count"), "count", lambda v: set_whole(desk, ("assumptions", "wire_C"), round(v, 2), "how warm wires get")),
        Write("fuse", "Fuse", None if power.fuse_A is None else Quantity(power.fuse_A, "current"), "current", lambda v: desk.edit(set_power("fuse", fuse_A=v)), "none", emptied=lambda: desk.edit(set_power("fuse", fuse_A=None))),
        Write("farads", "Capacitor, µF", None if power.capacitor_uF is None else Quantity(power.capacitor_uF, "count"), "count", lambda v: desk.edit(set_power("capacitor", capacitor_uF=v)), "none", emptied=lambda: desk.edit(set_power("capacitor", capacitor_uF=None))),
        Write("least", "Servos need at least", Quantity(power.least_V, "voltage"), "voltage", lambda v: desk.edit(set_power("least volts", least_V=v))),
    ]  # fmt: skip
    items += [Calc(f"d{k}", d) for f in found for k, d in enumerate(f.derivations)]
    items += [
        Head("hl", "What draws besides"),
        Pick("load", "Add", "choose", LOADS, lambda kind: _add(desk, kind)),
        Do("end", "Ask nothing of power", lambda: desk.edit(lambda: end_power(desk.figure))),
        Head("hc", "Caution"),
        Note("c", CAUTION, True),
    ]
    words = "cells" if power.cells is not None else f"{figure.supply.name} of {figure.supply.voltage_V:g} V"
    return Page("Power", f"fed by {words}, {len(power.loads)} things draw besides servos", tuple(items), ("power", ""))


def _cell_items(desk: Desk, power: Power, cells: Cells) -> list[Item]:
    def put(words: str, **fields: object) -> None:
        desk.edit(lambda: set_cells(desk.figure, words, **fields))

    how = "none" if power.converter is None else "both" if power.converter.raises else "down"
    items: list[Item] = [
        Write("count", "Cells in a row", Quantity(cells.count, "count"), "count", lambda v: put("cells", count=round(v))),
        Write("mah", "Printed, mAh", Quantity(cells.capacity_mAh, "count"), "count", lambda v: put("capacity", capacity_mAh=v)),
        Write("age", "Old, years", Quantity(cells.age_years, "ratio"), "ratio", lambda v: put("age", age_years=v)),
        Write("cold", "At, °C", Quantity(cells.at_C, "count"), "count", lambda v: put("temperature", at_C=v)),
        Pick("through", "Converter", dict(THROUGH)[how], THROUGH, lambda key: desk.edit(lambda: converted(desk.figure, key))),
    ]  # fmt: skip
    if power.converter is not None:
        share = Quantity(power.converter.efficiency, "percent")
        items.append(Write("share", "It passes on", share, "percent", lambda v: set_whole(desk, ("power", "converter", "efficiency"), v, "efficiency")))  # fmt: skip
        found = desk.study.results[POWER] if desk.study is not None else None
        if found is not None:
            watts = heat_W(found.most.mean, desk.figure.supply.voltage_V, power.converter.efficiency)
            items.append(Fact("heat", "Gets hot by", f"{watts:.1f}", "W", "on the mean, an estimate"))
    return items


def load_page(desk: Desk, load: Load) -> Page:
    figure = desk.figure
    with_it = [("none", "always on")] + [
        (c.id, c.name) for score in figure.scores for c in score.channels if not c.joints
    ]
    items: tuple[Item, ...] = (
        WriteText("name", "Name", load.name, lambda t: desk.edit(lambda: set_load(desk.figure, load.id, "name", name=t.strip()))),
        Write("amps", "Draws at most", Quantity(load.amps, "current"), "current", lambda v: desk.edit(lambda: set_load(desk.figure, load.id, "current", amps=v))),
        Note("g", "A guess until you write it: measured with a meter, or from its label." if load.guess else "As you wrote it, at the servos’ voltage."),
        Pick("with", "Goes with", dict(with_it).get(load.channel or "none", ""), tuple(dict(with_it).items()), lambda key: desk.edit(lambda: set_load(desk.figure, load.id, "goes with", channel=None if key == "none" else key))),
        Do("gone", f"Remove {load.name}", lambda: _gone(desk, load)),
        Do("all", "All of power", lambda: desk.select(FIGURE)),
        Head("hc", "Caution"),
        Note("c", CAUTION, True),
    )  # fmt: skip
    return Page(load.name, dict(LOADS)[load.kind], items, ("load", load.id))


def _add(desk: Desk, kind) -> None:
    made: list[str] = []

    def make():
        edit, ident = add_load(desk.figure, kind, dict(LOADS)[kind].split(" ", 1)[1].capitalize())
        made.append(ident)
        return edit

    desk.edit(make)
    if made:
        desk.select(Ref("load", made[-1]))


def _gone(desk: Desk, load: Load) -> None:
    desk.edit(lambda: remove_load(desk.figure, load.id))
    desk.select(FIGURE)
