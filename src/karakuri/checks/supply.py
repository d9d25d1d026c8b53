"""Supply too small: for what the score or the start-up draws, which fails; for all stalls together, which may dip and is tight."""

from __future__ import annotations

import math
from collections.abc import Iterable

from karakuri.checks.contract import STALLS, Results, wished
from karakuri.model.edit import Edit, Set
from karakuri.model.finding import Derivation, Finding, Proposal, Sentence, finding_id, verdict_of
from karakuri.model.ref import Ref
from karakuri.power.supply import StallSum, draw
from karakuri.sizing.page import SAMPLE_S
from karakuri.units import Quantity


def find(results: Results) -> Iterable[Finding]:
    stalls = results[STALLS]
    if stalls is None or not stalls.each:
        return
    yield from _too_many_volts(results)
    reserve = stalls.supply / stalls.total
    demand, capacity = (
        Quantity(stalls.total, "current", rounding="up"),
        Quantity(stalls.supply, "current", rounding="down"),
    )
    name = results.figure.supply.name
    text = f"The {name} feeds all servos stalled together: they draw {{0}}, it gives {{1}}."
    if reserve < 1:
        text = f"The {name} may dip if all servos start or jam at once: they draw {{0}} then, it gives {{1}}."
    yield Finding(
        finding_id("supply"),
        "supply",
        Ref("supply"),
        "tight" if reserve < 1 else verdict_of(reserve, wished(results)),
        Sentence(text, (demand, capacity)),
        reserve=reserve if reserve >= 1 else None,
        demand=demand,
        capacity=capacity,
        measure=Sentence("{0} if all jam, of {1}", (demand, capacity)) if reserve < 1 else None,
        derivations=(_sum(stalls),),
    )
    yield from _draws(results, stalls)


def _draws(results: Results, stalls: StallSum) -> Iterable[Finding]:
    """What is really drawn, an estimate from torque: over the score, and while joint after joint is woken.

    A servo whose torque is not known may draw anything up to its stall current: what is fed only without it is not yet judged.
    """
    able = [r for r in results.joints if r.can is not None and not r.missing]
    stall = {r.joint.id: r.can.stall for r in able if r.can is not None}
    efforts = {}
    if results.loads is not None:
        load = {r.joint.id: results.loads.of(r.index) for r in able}
        efforts = {ident: p.samples[0].astype(float) for ident, p in load.items() if p is not None}
    drawn = draw(stalls, stall, {r.joint.id: r.hold.need for r in able}, efforts, SAMPLE_S)
    left_out = {joint: current for joint, current in stalls.each if joint not in stall}
    unknown, unjudged = sum(left_out.values()), [results.figure.joint(joint).name for joint in left_out]
    capacity = Quantity(stalls.supply, "current", rounding="down")
    name = results.figure.supply.name
    for key, amps, text in (
        ("score", drawn.score, "what the score draws at its most, {0} at {2}, an estimate from torque; it gives {1}."),
        ("start", drawn.start, "one servo that starts while the others hold: {0}, an estimate; it gives {1}."),
    ):
        if amps <= 0:
            continue
        supplied = stalls.supply
        if supplied >= amps and supplied < amps + unknown:
            yield Finding(
                finding_id("supply", key), "supply", Ref("supply"), "not yet judged",
                Sentence(f"Whether the {name} feeds {text[:-1]}, and it is not known what {', '.join(unjudged)} {'draws' if len(unjudged) == 1 else 'draw'}.",
                         (Quantity(amps, "current", rounding="up"), capacity, Quantity(drawn.score_at, "time"))),
                measure=Sentence("a servo's load is not known"),
            )  # fmt: skip
            continue
        amps = amps + unknown if supplied >= amps else amps
        reserve, demand = supplied / amps, Quantity(amps, "current", rounding="up")
        words = f"The {name} {'feeds' if reserve >= 1 else 'cannot feed'} {text}"
        yield Finding(
            finding_id("supply", key), "supply", Ref("supply"), verdict_of(reserve, wished(results)),
            Sentence(words, (demand, capacity, Quantity(drawn.score_at, "time"))), reserve=reserve, demand=demand, capacity=capacity,
        )  # fmt: skip


def _too_many_volts(results: Results) -> Iterable[Finding]:
    """A supply above a servo's rated maximum is never credited, and burns it."""
    supply = results.figure.supply
    fed = [drive for drive in results.figure.drives if drive.actuator.stepper is None]
    over = [drive for drive in fed if drive.actuator.rated_voltage_V < supply.voltage_V - 1e-9]
    if over:
        least = min(drive.actuator.rated_voltage_V for drive in over)
        name = results.figure.joint(over[0].joint).name + (f" and {len(over) - 1} more" if len(over) > 1 else "")
        volts = (Quantity(supply.voltage_V, "voltage", rounding="up"), Quantity(least, "voltage", rounding="down"))
        yield Finding(
            finding_id("voltage"),
            "supply",
            Ref("joint", over[0].joint),
            "fails",
            Sentence(f"The {supply.name} gives {{0}}, more than the servo of {name} may have: {{1}} at most.", volts),
            measure=Sentence("{0} of {1}", volts),
            demand=volts[0],
            capacity=volts[1],
        )


def _sum(stalls: StallSum) -> Derivation:
    currents = [current for _, current in stalls.each]
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
        Quantity(stalls.total, "current", rounding="up"),
    )


def propose(finding: Finding, results: Results) -> Iterable[Proposal]:
    if finding.verdict == "holds":
        return
    if finding.id == finding_id("voltage"):
        least = min(d.actuator.rated_voltage_V for d in results.figure.drives if d.actuator.stepper is None)
        yield Proposal(
            Edit(f"supply of {least:g} V", (Set(("supply", "voltage_V"), least),)),
            Sentence("Supply of {0}", (Quantity(least, "voltage"),)),
            "volts",
        )
        return
    if finding.demand is None:
        return
    most = finding.demand.value
    amps = float(math.ceil(most * wished(results) - 1e-9))
    yield Proposal(
        Edit(f"supply of {amps:g} A", (Set(("supply", "current_A"), amps),)),
        Sentence("Supply of {0}", (Quantity(amps, "current"),)),
        "supply",
    )
