"""Supply too small for all stalls together: at power-up, and when the figure jams, every servo asks for its stall current."""

from __future__ import annotations

import math
from collections.abc import Iterable

from karakuri.checks.contract import Results, wished
from karakuri.model.edit import Edit, Set
from karakuri.model.finding import Derivation, Finding, Proposal, Sentence, verdict_of
from karakuri.units import Quantity


def find(results: Results) -> Iterable[Finding]:
    stalls = results.stalls
    if not stalls.each:
        return
    yield from _too_many_volts(results)
    reserve = stalls.supply / stalls.total
    demand, capacity = (
        Quantity(stalls.total, "current", rounding="up"),
        Quantity(stalls.supply, "current", rounding="down"),
    )
    does = "feeds" if reserve >= 1 else "cannot feed"
    text = f"The {results.figure.supply.name} {does} all servos stalled together: they draw {{0}}, it gives {{1}}."
    yield Finding(
        "supply",
        "supply",
        "",
        "drive",
        verdict_of(reserve, wished(results)),
        Sentence(text, (demand, capacity)),
        reserve,
        None,
        None,
        demand,
        capacity,
        derivations=(_sum(results),),
    )


def _too_many_volts(results: Results) -> Iterable[Finding]:
    """A supply above a servo's rated maximum is never credited, and burns it."""
    supply = results.figure.supply
    over = [drive for drive in results.figure.drives if drive.actuator.rated_voltage_V < supply.voltage_V - 1e-9]
    if over:
        least = min(drive.actuator.rated_voltage_V for drive in over)
        name = results.figure.joint(over[0].joint).name + (f" and {len(over) - 1} more" if len(over) > 1 else "")
        volts = (Quantity(supply.voltage_V, "voltage", rounding="up"), Quantity(least, "voltage", rounding="down"))
        yield Finding(
            "voltage",
            "supply",
            over[0].joint,
            "drive",
            "fails",
            Sentence(f"The {supply.name} gives {{0}}, more than the servo of {name} may have: {{1}} at most.", volts),
            measure=Sentence("{0} of {1}", volts),
            demand=volts[0],
            capacity=volts[1],
        )


def _sum(results: Results) -> Derivation:
    currents = [current for _, current in results.stalls.each]
    alike = sorted(set(round(c, 6) for c in currents))
    parts: list[str] = []
    quantities: list[Quantity] = []
    for current in alike:
        n = sum(1 for c in currents if abs(c - current) < 1e-5)
        parts.append(f"{n} × {{{len(quantities)}}}" if n > 1 else f"{{{len(quantities)}}}")
        quantities.append(Quantity(current, "current"))
    return Derivation(
        "All stalled together",
        " + ".join(parts),
        tuple(quantities),
        Quantity(results.stalls.total, "current", rounding="up"),
    )


def propose(finding: Finding, results: Results) -> Iterable[Proposal]:
    if finding.verdict == "holds":
        return
    if finding.id == "voltage":
        least = min(drive.actuator.rated_voltage_V for drive in results.figure.drives)
        yield Proposal(
            Edit(f"supply of {least:g} V", (Set(("supply", "voltage_V"), least),)),
            Sentence("Supply of {0}", (Quantity(least, "voltage"),)),
            "volts",
        )
        return
    amps = float(math.ceil(results.stalls.total * wished(results) - 1e-9))
    yield Proposal(
        Edit(f"supply of {amps:g} A", (Set(("supply", "current_A"), amps),)),
        Sentence("Supply of {0}", (Quantity(amps, "current"),)),
        "supply",
    )
