"""The card of the Start bench: what the figure is called, how large its head is, what it comes to so far, and Make."""

from __future__ import annotations

import math

from karakuri.model.finding import Finding, show_reserve
from karakuri.model.part import BASE
from karakuri.starters.composed import Sums
from karakuri.study.studied import Study
from karakuri.units import Quantity
from karakuri.workbench.benches.bench import CAUTION, degrees, mm
from karakuri.workbench.benches.figure_page import FINISH
from karakuri.workbench.benches.start_tiles import counted
from karakuri.workbench.widgets.items import Do, Fact, Head, Item, Note, Page, Pick, Write, WriteText


def start_page(bench) -> Page:
    """The page for what is asked so far; `bench` is the Start bench."""
    v, set_ = bench.values, bench.set
    kind, asked = bench.kind, bench.asked()
    items: list[Item] = [
        WriteText("name", "Name", v["name"], set_("name")),
        Pick("finish", "State", dict(FINISH)[v["growth"]], FINISH, set_("growth")),
        Note("ng", "What will still be added counts as a share on every part (common practice, no source)."),
    ]
    if kind.id != "bare" or asked.starters:
        items += [
            Head("hz", "Sizes"),
            Write("tall", "Head, high", mm(asked.tall_mm), "length", set_("tall", 1e3)),
            Write("eye", "Eyeball, across", mm(asked.eye), "length", set_("eye", 1e3)),
        ]
        if v["eye"] is None:
            items.append(Note("ne", "An eyeball as heads of that size usually have: write your own."))
        items += _so_far(bench)
    items.append(Do("make", "Make this figure", bench.make, bench.why_not_make()))
    items += _onto(bench)
    items += [Head("hs", "Stands on"), WriteText("on", "Stands on", bench.stands_on(), set_("on"))]
    if kind.id == "bare":
        items += [
            Write("depth", "Foot, deep", mm(v["depth"]), "length", set_("depth", 1e3)),
            Write("width", "Foot, wide", mm(v["width"]), "length", set_("width", 1e3)),
        ]
    items += [
        Write("lean", "Also leans by", degrees(v["lean"]), "angle", set_("lean", math.degrees(1.0))),
        Note("nl", "Posture: how the base stands. A lean other than 0° is judged besides standing level."),
        Head("hv", "Supply for the servos"),
        Write("volts", "Voltage", Quantity(v["volts"], "voltage"), "voltage", set_("volts")),
        Write("amps", "Current", Quantity(bench.amps(), "current"), "current", set_("amps")),
    ]
    if asked.starters:
        items.append(Note("caution", CAUTION, True))
    return Page("A new figure", "every field has a default", tuple(items), ("new",))


def _so_far(bench) -> list[Item]:
    desk, found = bench.desk, bench.found()
    sums: Sums = bench.sums()
    price = f"{sums.price:g}" if not sums.unpriced else f"{sums.price:g} and {sums.unpriced} unknown"
    people = counted(sums.people, "person", "people") if sums.axes else "nobody"
    items: list[Item] = [
        Head("hf", "So far"),
        Fact("axes", "Axes", desk.show(Quantity(float(sums.axes), "count")), "", f"{counted(sums.servos, 'servo', 'servos')}, {sums.wires} wires; by hand in a show: {people}"),
        Fact("weighs", "All of it weighs", desk.show(Quantity(sums.grams / 1e3, "mass")), "", "a guess from shapes and stuffs, servos of their class"),
        Fact("price", "Servos cost", price, bench.desk.figure.currency),
    ]  # fmt: skip
    if desk.starting.progress is not None:
        what, share = desk.starting.progress
        return [
            *items,
            Fact("judging", "Judging it", f"{share:.0%}", "", what),
            Do("judge stop", "Stop judging", desk.starting.stop),
        ]
    if found is None:
        return items
    return [*items, *_judged(desk, found)]


def _judged(desk, study: Study) -> list[Item]:
    """What the study says before it is made: how many of each verdict, and the worst in its own words."""
    counts = [(verdict, study.count(verdict)) for verdict in ("fails", "tight", "holds", "not yet judged")]
    words = ", ".join(f"{n} {verdict if verdict != 'holds' or n == 1 else 'hold'}" for verdict, n in counts if n)
    worst: Finding | None = next((f for f in study.findings if f.verdict in ("fails", "tight")), None)
    if worst is None:
        return [Fact("judged", "Judged", "", "", f"{words}; servos fitted that hold")]
    reserve = f" ({show_reserve(worst.reserve)})" if worst.reserve is not None and math.isfinite(worst.reserve) else ""
    return [Fact("judged", "Judged", "", "", words), Note("worst", f"{worst.verdict}{reserve}: {worst.sentence.show(desk.units)}")]  # fmt: skip


def _onto(bench) -> list[Item]:
    """Hanging the same onto the figure that is open, at a place that can be written."""
    desk, asked = bench.desk, bench.asked()
    figure = desk.figure
    if not asked.starters or not (figure.joints or figure.parts):
        return []
    options = ((BASE, "the base"), *((joint.id, joint.name) for joint in figure.joints))
    x, y, z = bench.middle()
    return [
        Head("ho", f"Or onto {figure.name}"[:40]),
        Pick("onto", "Rides on", dict(options)[bench.carrier()], options, bench.set("onto")),
        Write("mx", "Head’s middle, ahead", mm(x), "length", bench.set_middle(0)),
        Write("my", "to the left", mm(y), "length", bench.set_middle(1)),
        Write("mz", "above", mm(z), "length", bench.set_middle(2)),
        Do("hang", f"Hang these on {figure.name}"[:40], bench.hang),
    ]
