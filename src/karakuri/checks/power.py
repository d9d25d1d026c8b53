"""What feeds the figure over its show: all that draws together, volts at the servos, the wire, the fuse, hours, the capacitor. Only where it is written.

Currents are estimates from torque. Where what a servo is loaded with is not known, it may draw anything up to its stall current: what holds only without it is not yet judged.
That a controller resets below 4.5 V, that 5 % may be lost along a wire, a fuse run at three quarters: common practice, no source.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable

from msgspec.structs import replace

from karakuri.checks.contract import POWER, PowerFound, Results, wished
from karakuri.model.edit import Edit, Set
from karakuri.model.finding import Derivation, Finding, Proposal, Sentence, Verdict, finding_id, verdict_of
from karakuri.model.moves import moves_of
from karakuri.model.power import Cells, Converter, Power
from karakuri.model.ref import Ref
from karakuri.power import cells as cell
from karakuri.power.fed import Asked
from karakuri.power.over_score import Later
from karakuri.power.parts import FUSE_SHARE, FUSES_A, fuse_A, holds_up_s
from karakuri.power.wire import carries_A, drop_V, gauge_for, melts_A, ohm_per_m, open_A
from karakuri.units import Quantity

LOST = 0.05
"""So much of the volts may be missing before what moves is slower than it is judged: common practice, 3 to 5 %."""
LITHIUM = ("lithium polymer", "lithium ion", "lithium iron")
Told = tuple[Verdict, Sentence, Sentence, tuple[Derivation, ...]]


def find(results: Results) -> Iterable[Finding]:
    power, found = results.figure.power, results[POWER]
    if power is None or found is None:
        return
    for finding in _asked(results, power, found):
        yield _unless_unwritten(finding, found)
    if power.cells is not None and power.converter is None:
        yield from _full(results, power)
    if power.capacitor_uF is not None:
        yield _capacitor(power, found)


def _asked(results: Results, power: Power, found: PowerFound) -> Iterable[Finding]:
    yield _peak(results, found)
    yield _either(found, "volts", lambda each: _volts(results, power, each))
    yield _either(found, "wire", lambda each: _wire(power, each))
    if power.cells is not None:
        yield _hours(results, power, found)
    if power.cells is not None or power.fuse_A is not None:
        yield _either(found, "fuse", lambda each: _fuse(power, each))


def _guessed(results: Results, power: Power) -> str:
    """What the currents rest on, and what they leave out."""
    names = [load.name for load in power.loads if load.guess]
    behaviour = results.figure.behaviour
    lives = (
        " Counted is the score; what its behaviour does is judged by itself."
        if behaviour is not None and behaviour.states
        else ""
    )
    return (f" Guessed: {', '.join(names)}." if names else "") + lives


def _unless_unwritten(finding: Finding, found: PowerFound) -> Finding:
    """Nothing holds while something draws nobody knows how much."""
    if not found.unwritten or finding.verdict in ("fails", "not yet judged"):
        return finding
    names = ", ".join(found.unwritten)
    text = f"{finding.sentence.text} Not counted, as no current is written of it: {names}."
    return replace(
        finding, verdict="not yet judged", reserve=None, demand=None, capacity=None, sentence=Sentence(text, finding.sentence.quantities),
        measure=Sentence("a current is not written"),
    )  # fmt: skip


def _either(found: PowerFound, key: str, told: Callable[[Asked], Told]) -> Finding:
    """One verdict of what is drawn at least and at most: not yet judged where it hangs on servos nobody knows the load of."""
    verdict, sentence, measure, derivations = told(found.most)
    if found.unknown and verdict != "holds":
        least = told(found.least)
        if least[0] in ("fails", "not yet judged"):
            verdict, sentence, measure, derivations = least
        elif verdict == "fails":
            return _waits(found, key, least[1])
    return Finding(finding_id("power", key), "power", Ref("supply"), verdict, sentence, measure=measure, derivations=derivations)  # fmt: skip


def _waits(found: PowerFound, key: str, known: Sentence) -> Finding:
    names = ", ".join(found.unknown)
    text = (
        f"{known.text[:-1]}, as far as it is known; not what {names} {'draws' if len(found.unknown) == 1 else 'draw'}."
    )
    return Finding(
        finding_id("power", key), "power", Ref("supply"), "not yet judged", Sentence(text, known.quantities),
        measure=Sentence("a servo's load is not known"),
    )  # fmt: skip


def _peak(results: Results, found: PowerFound) -> Finding:
    supply, at = results.figure.supply, Quantity(found.peak_at, "time")
    least, most = found.least.peak, found.most.peak
    capacity, apart = Quantity(supply.current_A, "current", rounding="down"), Quantity(found.apart, "current", rounding="up")  # fmt: skip
    ident = finding_id("power", "peak")
    if least <= supply.current_A < most:
        known = Sentence("All that draws together is {0} at its most, at {1}.", (Quantity(least, "current", rounding="up"), at))  # fmt: skip
        return _waits(found, "peak", known)
    amps = least if least > supply.current_A else most
    reserve, demand = supply.current_A / max(amps, 1e-9), Quantity(amps, "current", rounding="up")
    text = f"All that draws together, servos and the rest, is {{0}} at its most, at {{2}}, an estimate; the {supply.name} gives {{1}}."
    quantities: tuple[Quantity, ...] = (demand, capacity, at, apart)
    if found.apart > amps * 1.02:
        text += " Each one's own peak added up would be {3}: they do not come together."
    text += _guessed(results, results.figure.power) if results.figure.power is not None else ""
    if found.later is not None and reserve < wished(results):
        text += f" Started {{{len(quantities)}}} later, {found.later.region} leaves {{{len(quantities) + 1}}}."
        quantities += (Quantity(found.later.later_s, "time"), Quantity(found.later.peak, "current", rounding="up"))
    return Finding(
        ident, "power", Ref("supply"), verdict_of(reserve, wished(results)), Sentence(text, quantities), reserve=reserve, demand=demand,
        capacity=capacity, at_s=found.peak_at,
    )  # fmt: skip


def _volts(results: Results, power: Power, each: Asked) -> Told:
    supply = results.figure.supply
    least, there = Quantity(power.least_V, "voltage", rounding="up"), Quantity(each.servo, "voltage", rounding="down")
    near = " when its cells are near empty" if power.cells is not None else ""
    jammed = Quantity(each.jammed, "voltage", rounding="down")
    measure = Sentence("{0} at the servos", (there,))
    judged = Quantity(supply.voltage_V, "voltage")
    if each.servo < power.least_V:
        text = f"Under the peak the servos get {{0}}{near}: below {{1}} controllers reset and servos twitch."
        verdict: Verdict = "fails"
    elif each.jammed < power.least_V:
        text = f"Under the peak the servos get {{0}}{near}, {{1}} is asked; if all jam or start at once, {{2}}: the controller may reset."
        verdict = "tight"
    elif each.servo < supply.voltage_V * (1.0 - LOST):
        text = f"Under the peak the servos get {{0}}{near}: enough for {{1}}, but what moves is judged at {{3}} and is slower and weaker then."
        verdict = "tight"
    else:
        text = f"Under the peak the servos get {{0}}{near}; {{1}} is asked."
        verdict = "holds"
    awg, metres = power.wire.gauge_awg, power.wire.length_mm / 1e3
    lost = Derivation(
        f"Lost along the wire of {awg} AWG at {results.figure.assumptions.wire_C:g} °C, there and back", "{0} × {1}",
        (Quantity(each.peak, "current"), Quantity(2.0 * metres * ohm_per_m(awg, results.figure.assumptions.wire_C), "resistance")), Quantity(each.lost, "voltage", rounding="up"),
    )  # fmt: skip
    return verdict, Sentence(text, (there, least, jammed, judged)), measure, (lost,)


def _wire(power: Power, each: Asked) -> Told:
    awg = power.wire.gauge_awg
    runs, bundle, lone = Quantity(each.rms, "current", rounding="up"), Quantity(carries_A(awg), "current", rounding="down"), Quantity(open_A(awg), "current", rounding="down")  # fmt: skip
    quantities, measure = (runs, bundle, lone), Sentence("{0} goes on", (runs,))
    start = f"The wire of {awg} AWG to the servos carries {{0}} for long"
    if each.rms > open_A(awg):
        return "fails", Sentence(f"{start}: even by itself it should have no more than {{2}}.", quantities), measure, ()
    if each.rms > carries_A(awg):
        return "tight", Sentence(f"{start}: by itself it may have {{2}}, bundled with others {{1}}.", quantities), measure, ()  # fmt: skip
    return "holds", Sentence(f"{start}, even bundled it may have {{1}}.", quantities), measure, ()


def _full(results: Results, power: Power) -> Iterable[Finding]:
    """Just charged, cells give more than their name says."""
    drives = [drive for drive in results.figure.drives if drive.actuator.stepper is None]
    if power.cells is None or not drives:
        return
    weakest = min(drives, key=lambda drive: drive.actuator.rated_voltage_V)
    full, most = cell.full_V(power.cells), weakest.actuator.rated_voltage_V
    quantities = (Quantity(full, "voltage", rounding="up"), Quantity(most, "voltage", rounding="down"))
    name, over = results.figure.joint(weakest.joint).name, full > most + 1e-9
    text = f"Just charged the cells give {{0}}; the servo of {name} may have {{1}}" + (
        ": it may burn." if over else "."
    )
    yield Finding(
        finding_id("power", "full"), "power", Ref("supply"), "fails" if over else "holds", Sentence(text, quantities),
        measure=Sentence("{0} of {1}", quantities), demand=quantities[0], capacity=quantities[1],
    )  # fmt: skip


def _hours(results: Results, power: Power, found: PowerFound) -> Finding:
    assert power.cells is not None and found.most.hours is not None and found.least.hours is not None
    if found.most.hours < power.lasts_h <= found.least.hours and found.unknown:
        return _waits(found, "hours", Sentence("Its cells last {0}.", (Quantity(found.least.hours * 3600.0, "hours", rounding="down"),)))  # fmt: skip
    each = found.least if found.least.hours < power.lasts_h else found.most
    assert each.hours is not None
    reserve = each.hours / power.lasts_h
    demand, capacity = Quantity(power.lasts_h * 3600.0, "hours", rounding="up"), Quantity(min(each.hours, 9999.0) * 3600.0, "hours", rounding="down")  # fmt: skip
    what = f"{power.cells.count} {cell.KINDS[power.cells.chemistry].called} cells"
    text = f"{what} last {{1}} of the show over and over, an estimate from {{2}} on the mean; {{0}} is asked."
    text += _guessed(results, power)
    if power.cells.chemistry in LITHIUM:
        text += " Lithium: the right charger, never charged in the figure, never left alone while charging."
    return Finding(
        finding_id("power", "hours"), "power", Ref("supply"), verdict_of(reserve, wished(results)),
        Sentence(text, (demand, capacity, Quantity(each.source_mean, "current", rounding="up"))), reserve=reserve, demand=demand, capacity=capacity,
    )  # fmt: skip


def _fuse(power: Power, each: Asked) -> Told:
    goes, protects = Quantity(each.source_rms, "current", rounding="up"), Quantity(open_A(power.wire.gauge_awg), "current", rounding="down")  # fmt: skip
    if power.fuse_A is None:
        fit = fuse_A(each.source_rms)
        advice = (
            f"a slow one of {fit:g} A beside the cells"
            if fit <= open_A(power.wire.gauge_awg)
            else "a thicker wire and a slow one for it"
        )
        text = f"There is no fuse between the cells and the wire, which may have {{1}}: {advice} would do."
        return "fails", Sentence(text, (goes, protects)), Sentence("no fuse"), ()
    fuse = Quantity(power.fuse_A, "current")
    bears = Quantity(power.fuse_A * FUSE_SHARE, "current", rounding="down")
    quantities: tuple[Quantity, ...] = (fuse, goes, bears, protects)
    measure = Sentence("fuse of {0}", (fuse,))
    if power.fuse_A > open_A(power.wire.gauge_awg):
        melts = Quantity(melts_A(power.wire.gauge_awg), "current")
        text = "The fuse of {0} does not protect the wire, which may have {3} for long and melts at {4}."
        return "fails", Sentence(text, (*quantities, melts)), measure, ()
    if power.fuse_A * FUSE_SHARE < each.source_rms:
        return "fails", Sentence("The fuse of {0} blows: {1} goes on, it bears {2} for long.", quantities), measure, ()
    if power.fuse_A < each.source_peak:
        quantities += (Quantity(each.source_peak, "current", rounding="up"),)
        return "tight", Sentence("The fuse of {0} bears {1} for long; a peak of {4} asks for a slow one.", quantities), measure, ()  # fmt: skip
    return "holds", Sentence("The fuse of {0} bears {1} for long, and protects a wire that may have {3}.", quantities), measure, ()  # fmt: skip


def _capacitor(power: Power, found: PowerFound) -> Finding:
    assert power.capacitor_uF is not None
    peak = found.most.peak
    lasts = holds_up_s(power.capacitor_uF * 1e-6, peak, 1.0)
    quantities = (Quantity(min(lasts, 999.0), "time", rounding="down"), Quantity(peak, "current", rounding="up"), Quantity(1.0, "voltage"))  # fmt: skip
    text = f"The capacitor of {power.capacitor_uF:g} µF takes spikes: it gives {{1}} for {{0}} before it has lost {{2}}. It is no reserve."
    return Finding(
        finding_id("power", "capacitor"), "power", Ref("supply"), "holds", Sentence(text, quantities), measure=Sentence("no reserve")
    )  # fmt: skip


def propose(finding: Finding, results: Results) -> Iterable[Proposal]:
    power, found = results.figure.power, results[POWER]
    if power is None or found is None or finding.verdict == "holds":
        return
    each, key = found.most, finding.id
    if key == finding_id("power", "peak"):
        yield from _larger(each, results)
        if found.later is not None:
            yield from _later(found.later, results)
    if key in (finding_id("power", "volts"), finding_id("power", "wire")):
        yield from _thicker(power, each, results)
    if key == finding_id("power", "fuse"):
        fits = [fuse for fuse in FUSES_A if each.source_rms / FUSE_SHARE <= fuse <= open_A(power.wire.gauge_awg)]
        slack = [fuse for fuse in fits if fuse >= each.source_peak]
        for fuse in (slack or fits)[:1]:
            yield Proposal(Edit(f"fuse of {fuse:g} A", (Set(("power", "fuse_A"), fuse),)), Sentence("Fuse of {0}", (Quantity(fuse, "current"),)), "fuse")  # fmt: skip
    if key == finding_id("power", "full") and power.cells is not None:
        yield from _lower(power.cells, results)
    if key == finding_id("power", "hours") and power.cells is not None and each.hours:
        printed = power.cells.capacity_mAh * power.lasts_h * wished(results) / each.hours
        printed = float(-(-printed // 100) * 100)
        if printed <= 1e6:
            yield Proposal(Edit(f"cells of {printed:g} mAh", (Set(("power", "cells", "capacity_mAh"), printed),)), Sentence(f"Cells of {printed:g} mAh"), "cells")  # fmt: skip


def _larger(each: Asked, results: Results) -> Iterable[Proposal]:
    amps = float(-(-(each.peak * wished(results) - 1e-9) // 1))
    yield Proposal(Edit(f"supply of {amps:g} A", (Set(("supply", "current_A"), amps),)), Sentence("Supply of {0}", (Quantity(amps, "current"),)), "supply")  # fmt: skip


def _later(later: Later, results: Results) -> Iterable[Proposal]:
    """All moves of a region a little later, so that its peak is not that of the others; only where all of them still begin within the score."""
    figure, steps = results.figure, []
    for channel in figure.score.moved:
        if channel.leads is None or figure.joint(channel.leads).region != later.region or not len(channel.moves):
            continue
        rows = [row._replace(departs=round(row.departs + later.later_s, 3), made_by="") for row in channel.moves.rows()]
        if rows[-1].departs >= figure.score.length_s:
            return
        steps.append(Set(("score", "channels", channel.id, "moves"), moves_of(rows)))
    if steps:
        label = Sentence(f"Start {later.region} {{0}} later", (Quantity(later.later_s, "time"),))
        yield Proposal(Edit(f"start {later.region} later", tuple(steps)), label, "later")


def _lower(cells: Cells, results: Results) -> Iterable[Proposal]:
    """A converter between, or so few cells that they are not too many when just charged."""
    yield Proposal(Edit("a converter", (Set(("power", "converter"), Converter()),)), Sentence("A converter between"), "converter")  # fmt: skip
    most = min(drive.actuator.rated_voltage_V for drive in results.figure.drives if drive.actuator.stepper is None)
    count = int((most + 1e-9) // cell.KINDS[cells.chemistry].full)
    if 1 <= count < cells.count:
        yield Proposal(Edit(f"{count} cells", (Set(("power", "cells", "count"), count),)), Sentence(f"{count} {'cells' if count > 1 else 'cell'}"), "count")  # fmt: skip


def _thicker(power: Power, each: Asked, results: Results) -> Iterable[Proposal]:
    """The thinnest gauge that carries it in a bundle and leaves the volts within what may be lost; where all jam too."""
    metres, now = power.wire.length_mm / 1e3, power.wire.gauge_awg
    may = results.figure.supply.voltage_V * LOST
    at_C = results.figure.assumptions.wire_C
    gauges = {gauge_for(each.rms, metres, may, at_C)}
    gauges |= {g for g in range(now - 1, -1, -1) if drop_V(each.jam, metres, g, at_C) <= results.figure.supply.voltage_V - power.least_V and carries_A(g) >= each.rms and g % 2 == 0}  # fmt: skip
    for gauge in sorted((g for g in gauges if 0 < g < now), reverse=True)[:3]:
        yield Proposal(Edit(f"wire of {gauge} AWG", (Set(("power", "wire", "gauge_awg"), gauge),)), Sentence(f"Wire of {gauge} AWG"), "wire")  # fmt: skip
