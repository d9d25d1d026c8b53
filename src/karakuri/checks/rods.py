"""Rods, sticks and poles: sag, sway, bending for good, buckling, slipping out, and what a thicker or another one gives."""

from __future__ import annotations

import math
from collections.abc import Iterable

from karakuri.catalogue import stuff_of
from karakuri.checks.contract import RODS, Results, not_weighed, posture_words, wished
from karakuri.model.edit import Edit
from karakuri.model.finding import Derivation, Finding, Proposal, Sentence, finding_id, verdict_of
from karakuri.model.ref import Ref
from karakuri.model.rod import Rod, StuffKind
from karakuri.model.rod_edits import set_rod
from karakuri.sizing.rods import Beam, Bent, RodFound
from karakuri.units import Quantity

COMMON_MM = (2.0, 3.0, 4.0, 5.0, 6.0, 8.0, 10.0, 12.0, 16.0, 20.0, 25.0, 32.0)
"""Thicknesses that are sold: common practice, no source."""
SLEEVES_MM = (1.0, 1.5, 2.0, 3.0)
SLEEVES: tuple[StuffKind, ...] = ("aluminium", "brass", "steel")
"""Walls of tubes that slide over a rod, and of what they are: common practice, no source."""
STIFFER: tuple[StuffKind, ...] = ("carbon", "steel")
BREAKS = frozenset({"carbon", "glass fibre", "beech", "pine"})
"""What does not bend for good first."""
SOFT_RINGS_MM = 0.05


def find(results: Results) -> Iterable[Finding]:
    for found in results[RODS] or ():
        yield _one(results, results.figure.rods[found.i], found)


def _one(results: Results, rod: Rod, found: RodFound) -> Finding:
    known = results.figure.assumptions
    unknown = results.weightless(rod.carries)
    if unknown:
        return not_weighed(finding_id("rods", rod.id), "rods", Ref("rod", rod.id), rod.name, unknown)
    reserves = found.reserves(known.sags_share)
    which = min(reserves, key=lambda name: reserves[name])
    reserve = reserves[which]
    verdict = verdict_of(reserve, wished(results)) if math.isfinite(reserve) else "holds"
    lowest = min(value if name == "slips" else value / found.more for name, value in reserves.items())
    other = {verdict_of(lowest, wished(results))} - {verdict} if math.isfinite(lowest) else set()
    decides = f"What it carries, at its highest, could make it {other.pop()}: weigh it." if other else ""
    return Finding(
        finding_id("rods", rod.id),
        "rods",
        Ref("rod", rod.id),
        verdict,
        _sentence(results, rod, found, which, reserve),
        reserve=reserve if math.isfinite(reserve) else None,
        measure=None if math.isfinite(reserve) else Sentence("carries nothing"),
        derivations=tuple(_derivations(results, rod, found)),
        decides=Sentence(decides) if decides else None,
    )


def _sentence(results: Results, rod: Rod, found: RodFound, which: str, reserve: float) -> Sentence:
    name, stuff = rod.name, "the pair of them" if rod.sleeve_mm else stuff_of(rod.stuff)["name"]
    sways = Quantity(found.sways, "frequency")
    if which == "bends" and reserve < 1:
        does = "breaks" if rod.stuff in BREAKS else "bends for good"
        where = posture_words(results, found.stressed.posture)
        text = f"{name} {does} at its foot with a bump{where}: {{0}}, and {stuff} bears {{1}}."
        return Sentence(text, (Quantity(found.stressed.bumped, "pressure", rounding="up"), Quantity(found.beam.bears, "pressure", rounding="down")))  # fmt: skip
    if which == "buckles" and reserve < 1:
        text = f"{name} may buckle: {{0}} press along it, and no more than a third of {{1}} should."
        return Sentence(text, (Quantity(found.pressing.pressed, "force", rounding="up"), Quantity(found.beam.euler, "force", rounding="down")))  # fmt: skip
    if which == "slips" and reserve < 1:
        text = f"{name} may slip out of its socket: {{0}} draw at it with a bump, {{1}} hold it; pin, glue or screw it."
        return Sentence(text, (Quantity(found.slipping.pulled, "force", rounding="up"), Quantity(found.slipping.gripped, "force", rounding="down")))  # fmt: skip
    sag = found.sagging
    play = ", {1} of it play," if sag.loose > 0 else ""
    turning = "; as it turns its tip runs {3} out" if rod.turns else ""
    seen = "; more than {4} is seen" if which == "sags" and reserve < 1 else ""
    text = f"{name} sags {{0}}{play} at its tip{posture_words(results, sag.posture)}, and sways {{2}}{turning}{seen}."
    quantities = (Quantity(sag.sag + sag.loose, "length", rounding="up"), Quantity(sag.loose, "length", rounding="up"), sways, Quantity(found.runs_out, "length", rounding="up"), Quantity(results.figure.assumptions.sags_share * found.beam.length, "length", rounding="down"))  # fmt: skip
    return Sentence(text, quantities)


def _derivations(results: Results, rod: Rod, found: RodFound) -> Iterable[Derivation]:
    beam, bent = found.beam, found.stressed
    length = Quantity(beam.length, "length")
    thick, bore = Quantity(rod.thick_mm / 1e3, "length"), Quantity(rod.bore_mm / 1e3, "length")
    yield at_foot(beam, bent)
    if bent.foot > 1e-9 and rod.bore_mm == 0 and not rod.sleeve_mm and bent.pressed <= 1e-9:
        yield Derivation("Stress there, standing still", "10.186 × {0} ÷ ({1} × {1} × {1})", (Quantity(bent.foot, "torque"), thick), Quantity(bent.stress, "pressure", rounding="up"))  # fmt: skip
    ring = "0.0491 × ({{{0}}} × {{{0}}} × {{{0}}} × {{{0}}} − {{{1}}} × {{{1}}} × {{{1}}} × {{{1}}})"
    parts: tuple[Quantity, ...] = (Quantity(beam.young, "pressure"), thick, bore, length)
    stiff = "{0} × " + ring.format(1, 2)
    if rod.sleeve_mm:
        around = float(stuff_of(rod.sleeve_stuff)["young_GPa"]) * 1e9
        parts = (*parts, Quantity(around, "pressure"), Quantity(rod.sleeve_mm / 1e3, "length"))
        stiff = f"({stiff} + {{4}} × {ring.format(5, 1)})"
    yield Derivation(
        "Buckles when pressed with",
        f"2.467 × {stiff} ÷ ({{3}} × {{3}})",
        parts,
        Quantity(beam.euler, "force", rounding="down"),
    )
    if rod.held != "firm" and rod.play_mm > 0:
        deep = rod.play_mm / 1e3 / results.figure.assumptions.sags_share
        yield Derivation("So deep its play alone is not seen", "{0} ÷ {1}", (Quantity(rod.play_mm / 1e3, "length"), Quantity(results.figure.assumptions.sags_share, "ratio")), Quantity(deep, "length", rounding="up"))  # fmt: skip


def at_foot(beam: Beam, bent: Bent) -> Derivation:
    """The moment a rod has to bear where it is held."""
    own = bent.foot - bent.across * beam.length - bent.moment
    parts = (Quantity(bent.across, "force"), Quantity(beam.length, "length"), Quantity(bent.moment, "torque"), Quantity(own, "torque"))  # fmt: skip
    return Derivation("Moment at its foot", "{0} × {1} + {2} + {3} its own", parts, Quantity(bent.foot, "torque", rounding="up"))  # fmt: skip


def propose(finding: Finding, results: Results) -> Iterable[Proposal]:
    if finding.verdict == "holds":
        return
    yield from firmer(next(each for each in results.figure.rods if each.id == finding.subject.id))


def firmer(rod: Rod) -> Iterable[Proposal]:
    """What a rod bends less with, or is held better by."""

    def offer(edit: Edit, words: str, group: str, *quantities: Quantity) -> Proposal:
        return Proposal(edit, Sentence(words, quantities), group)

    for thick in COMMON_MM:
        if thick > rod.thick_mm and thick > rod.bore_mm:
            yield offer(
                set_rod(rod, "thickness", thick_mm=thick), "{0} thick", "thicker", Quantity(thick / 1e3, "length")
            )
    for stuff in SLEEVES if not rod.sleeve_mm else (rod.sleeve_stuff,):
        for wall in SLEEVES_MM:
            outside = rod.outside_mm + 2 * wall
            words = f"A glued sleeve of {stuff_of(stuff)['name']} over all of it, {{0}} outside"
            yield offer(set_rod(rod, "sleeve", sleeve_mm=outside, sleeve_stuff=stuff), words, "sleeve", Quantity(outside / 1e3, "length"))  # fmt: skip
    for stuff in STIFFER:
        if stuff_of(stuff)["young_GPa"] > stuff_of(rod.stuff)["young_GPa"]:
            yield offer(set_rod(rod, "stuff", stuff=stuff), f"Of {stuff_of(stuff)['name']}", "stuff")
    if rod.held == "socket":
        for deep in (1.5, 2.0, 3.0):
            yield offer(set_rod(rod, "depth", depth_mm=round(rod.depth_mm * deep)), "{0} deep in its socket", "deeper", Quantity(round(rod.depth_mm * deep) / 1e3, "length"))  # fmt: skip
        yield offer(set_rod(rod, "hold", held="firm"), "Clamp, pin or glue it", "firm")
        for times in (2.0, 3.0, 4.0):  # its socket, and a second bearing that far down
            below = float(round(rod.depth_mm * times))
            yield offer(set_rod(rod, "hold", held="two bearings", depth_mm=below), "A second bearing {0} below", "second", Quantity(below / 1e3, "length"))  # fmt: skip
    if rod.held == "two bearings":
        for apart in (1.5, 2.0, 3.0):
            yield offer(set_rod(rod, "bearings", depth_mm=round(rod.depth_mm * apart)), "Bearings {0} apart", "apart", Quantity(round(rod.depth_mm * apart) / 1e3, "length"))  # fmt: skip
    if rod.held != "firm" and rod.play_mm > SOFT_RINGS_MM:
        yield offer(set_rod(rod, "play", play_mm=SOFT_RINGS_MM), "Soft rings or a sleeve", "rings")
