"""A motor that turns on: whether it turns right round or to and fro, where it stalls, how long that takes, whether its set screw holds, what would balance it."""

from __future__ import annotations

import math
from collections.abc import Iterable

import numpy as np

from karakuri.catalogue import screw_holds_N
from karakuri.checks.contract import TURNING, Results, angle_words, not_weighed, torque, wished
from karakuri.checks.counterweight import balanced
from karakuri.checks.gearing import LEAST_ANGLE, WISHED_ANGLE
from karakuri.model.edit import Edit, Set
from karakuri.model.element import Motor
from karakuri.model.element_edits import set_element
from karakuri.model.finding import Derivation, Finding, Proposal, Sentence, Verdict, finding_id, verdict_of
from karakuri.model.joint import Joint
from karakuri.model.ref import Ref
from karakuri.model.transmission import Gear
from karakuri.sizing.followed import ranged
from karakuri.sizing.turning import TurnFound, Turns, reserve, turns_of
from karakuri.units import Quantity

SLACK = math.radians(0.5)
ROUND = math.radians(359.0)


def find(results: Results) -> Iterable[Finding]:
    for found in results[TURNING] or ():
        motor = results.figure.elements[found.i]
        assert isinstance(motor, Motor)
        joint = results.figure.joint(results.tree.ids[found.j])
        yield from _goes(results, motor, joint, found)
        if not _sound(joint, motor, found):
            continue
        unknown = results.weightless((joint.id,))
        if unknown:
            yield not_weighed(finding_id("turning", motor.id), "turning", Ref("element", motor.id), motor.name, unknown)
            continue
        has = turns_of(motor, results.figure.assumptions)
        yield _turns(results, motor, joint, found, has)
        yield from _lasts(results, motor, joint, found, has)
        if motor.fixed == "set screw":
            yield _screwed(results, motor, found)


def _sound(joint: Joint, motor: Motor, found: TurnFound) -> bool:
    """Whether it goes where it is said to go: else its torque is not judged."""
    low, high = (math.radians(end) for end in joint.range_deg)
    inside = found.swing[0] >= low - SLACK and found.swing[1] <= high + SLACK
    return inside and bool(found.closes.all())


def _goes(results: Results, motor: Motor, joint: Joint, found: TurnFound) -> Iterable[Finding]:
    """Whether crank and pins take the joint over its wanted range, and no farther; a motor that starts either way where one is wanted."""
    about, ident = Ref("element", motor.id), finding_id("turning", motor.id, "goes")
    low, high = (math.radians(end) for end in joint.range_deg)
    a, b = found.swing
    wide = (Quantity(a, "angle"), Quantity(b, "angle"), Quantity(low, "angle"), Quantity(high, "angle"))
    if not found.closes.all():
        at = float(found.turned[int(np.flatnonzero(~found.closes)[0])])
        text = f"{motor.name} does not turn right round: its crank locks after {{0}}; the rod does not reach. A shorter crank turns."
        yield Finding(
            ident,
            "turning",
            about,
            "fails",
            Sentence(text, (Quantity(at, "angle"),)),
            measure=Sentence("locks at {0}", (Quantity(at, "angle"),)),
        )
        return
    if a < low - SLACK or b > high + SLACK:
        goes = "turns right round" if b - a >= ROUND else "takes it from {0} to {1}"
        text = f"{motor.name} {goes}, and {joint.name} is wanted from {{2}} to {{3}} only: all else is judged for that."
        yield Finding(
            ident, "turning", about, "fails", Sentence(text, wide), measure=Sentence("beyond its range", wide)
        )
        return
    if a > low + SLACK or b < high - SLACK:
        text = f"{motor.name} takes {joint.name} from {{0}} to {{1}}; {{2}} to {{3}} is wanted."
        yield Finding(ident, "turning", about, "tight", Sentence(text, wide), measure=Sentence("{0} to {1}", wide))
    if found.crank:
        yield _rocks(results, motor, joint, found)
    if motor.sort == "mains" and motor.way == "either" and motor.pins_deg is None and not found.crank:
        text = f"{motor.name} starts either way, and turns round where something stops it: for one way it wants a one-way stop, or pins to go to and fro between."
        yield Finding(
            finding_id("turning", motor.id, "way"),
            "turning",
            about,
            "tight",
            Sentence(text),
            measure=Sentence("starts either way"),
        )


def _rocks(results: Results, motor: Motor, joint: Joint, found: TurnFound) -> Finding:
    k = int(found.angle.argmin())
    flattest = float(found.angle[k])
    verdict: Verdict = "fails" if flattest < LEAST_ANGLE else "tight" if flattest < WISHED_ANGLE else "holds"
    does = {"holds": "rocks", "tight": "just rocks", "fails": "binds as it rocks"}[verdict]
    where = angle_words(joint, float(found.places[k])).replace("{0}", "{3}")
    quantities = (
        Quantity(found.swing[1] - found.swing[0], "angle"),
        Quantity(flattest, "angle", rounding="down"),
        Quantity(WISHED_ANGLE, "angle"),
        Quantity(abs(float(found.places[k])), "angle"),
    )
    text = f"{motor.name} {does} {joint.name} by {{0}}: {{1}} between rod and lever {where}, {{2}} wanted."
    return Finding(
        finding_id("turning", motor.id, "crank"), "turning", Ref("element", motor.id), verdict, Sentence(text, quantities), measure=Sentence("{1} between rod and lever", quantities),
    )  # fmt: skip


def _turns(results: Results, motor: Motor, joint: Joint, found: TurnFound, has: Turns) -> Finding:
    """What it has against what it must give."""
    need, k, asked = found.hardest(motor.way)
    left = reserve(found, motor.way, has)
    verdict = verdict_of(left, wished(results)) if math.isfinite(left) else "holds"
    where = angle_words(joint, float(found.places[k])).replace("{0}", "{2}")
    lasts = found.lasting(asked)
    by_lasting = has.lasting * has.usable / max(lasts, 1e-12) < has.passing * has.usable / max(need, 1e-12)
    quantities = (
        torque(need, "up"),
        torque(has.usable, "down"),
        Quantity(abs(float(found.places[k])), "angle"),
        torque(lasts, "up"),
        torque(has.lasting * has.usable, "down"),
    )
    if need > has.usable:
        falls = "falls out of step" if has.even else "stalls"
        text = f"{motor.name} {falls} {where}: {{0}} is needed there, it has {{1}}."
    elif by_lasting:
        text = f"{motor.name} {'turns' if left >= 1 else 'gets too hot'}: {{3}} all the time, the mean over a turn; {{4}} may be asked of it for long, {{0}} at most {where}."
    else:
        text = f"{motor.name} {'turns' if left >= 1 else 'hardly turns'}: {{0}} is needed {where}, it has {{1}}."
    demand, capacity = (
        (quantities[3], quantities[4]) if by_lasting else (quantities[0], torque(has.passing * has.usable, "down"))
    )
    derivations = (_asked(found, motor, k, need), _usable(results, motor, has))
    return Finding(
        finding_id("turning", motor.id), "turning", Ref("element", motor.id), verdict, Sentence(text, quantities), reserve=left if math.isfinite(left) else None,
        measure=None if math.isfinite(left) else Sentence("hardly any torque"), demand=demand, capacity=capacity, derivations=derivations,
    )  # fmt: skip


def _asked(found: TurnFound, motor: Motor, k: int, need: float) -> Derivation:
    ratio = abs(float(found.ratio[k]))
    held = max(need * found.comes / ratio - found.rubs, 0.0) if ratio > 1e-9 else 0.0
    parts = (torque(held), torque(found.rubs), Quantity(ratio, "ratio"), Quantity(found.comes, "ratio"))
    return Derivation(
        "Must give where it is hardest",
        "({0} held + {1} rubbed) × {2} of its way ÷ {3} comes through",
        parts,
        torque(need, "up"),
    )


def _usable(results: Results, motor: Motor, has: Turns) -> Derivation:
    share = Quantity(results.figure.assumptions.stall_share, "ratio")
    if has.even:
        return Derivation(
            "Has before it falls out of step",
            "{0} by its label × {1} really there",
            (torque(motor.torque_Nm), share),
            torque(has.usable, "down"),
        )
    volts = (Quantity(motor.gets_V, "voltage"), Quantity(motor.at_voltage_V, "voltage"))
    return Derivation(
        "Has before it stalls", "{0} by its label × {1} ÷ {2} × {3} really there", (torque(motor.torque_Nm), *volts, share), torque(has.usable, "down"),
    )  # fmt: skip


def _lasts(results: Results, motor: Motor, joint: Joint, found: TurnFound, has: Turns) -> Iterable[Finding]:
    """How long a turn, or one way between pins, takes, and how fast the farthest of it goes; nothing where it never gets round."""
    takes = found.takes_s(found.hardest(motor.way)[2], has)
    ident, about = finding_id("turning", motor.id, "time"), Ref("element", motor.id)
    if not math.isfinite(takes):
        return
    rim = has.free * float(np.abs(found.ratio).max()) * found.reach
    what = (
        "A turn"
        if not found.fro and not found.crank
        else "A turn of the crank, to and fro,"
        if found.crank
        else "One way between its pins"
    )
    quantities = (Quantity(takes, "time", rounding="up"), Quantity(rim, "velocity", rounding="up"))
    text = f"{what} of {motor.name} takes {{0}}; the farthest of what it turns goes {{1}} at most."
    derivation = (
        (
            Derivation(
                "Turns a minute at the mains it gets",
                "{0} × {1} ÷ {2}",
                (
                    Quantity(motor.turns_per_min * math.pi / 30, "turning"),
                    Quantity(float(motor.mains_Hz), "count"),
                    Quantity(float(motor.label_Hz), "count"),
                ),
                Quantity(has.free, "turning"),
            ),
        )
        if has.even
        else ()
    )
    yield Finding(
        ident,
        "turning",
        about,
        "holds",
        Sentence(text, quantities),
        measure=Sentence("{0}", quantities[:1]),
        derivations=derivation,
    )


def _screwed(results: Results, motor: Motor, found: TurnFound) -> Finding:
    """Whether the set screw holds what sits on the shaft, with loads that change."""
    holds, factor = screw_holds_N(motor.screw_mm)
    radius = motor.shaft_mm / 2e3
    need = found.hardest(motor.way)[0]
    may = holds * radius / factor
    left = may / need if need > 1e-12 else math.inf
    does = "holds" if left >= 1 else "slips on its shaft"
    demand, capacity = torque(need, "up"), torque(may, "down")
    text = f"The set screw of {motor.name} {does}: {{0}} at most, {{1}} may be asked of it, which changes all the time."
    return Finding(
        finding_id("turning", motor.id, "screw"), "turning", Ref("element", motor.id), verdict_of(left, wished(results)) if math.isfinite(left) else "holds",
        Sentence(text, (demand, capacity)), reserve=left if math.isfinite(left) else None, measure=None if math.isfinite(left) else Sentence("nothing to hold"), demand=demand, capacity=capacity,
        derivations=(Derivation("May be asked of it", "{0} held × {1} ÷ 2 ÷ {2}", (Quantity(holds, "force"), Quantity(motor.shaft_mm / 1e3, "length"), Quantity(factor, "ratio")), capacity),),
    )  # fmt: skip


def propose(finding: Finding, results: Results) -> Iterable[Proposal]:
    motor = next((e for e in results.figure.elements if e.id == finding.subject.id), None)
    found = next((f for f in results[TURNING] or () if results.figure.elements[f.i] is motor), None)
    if finding.verdict == "holds" or not isinstance(motor, Motor) or found is None:
        return
    joint = results.figure.joint(motor.joint)
    if finding.id == finding_id("turning", motor.id, "goes"):
        yield from _ranges(results, motor, joint, found)
    elif finding.id == finding_id("turning", motor.id, "way"):
        yield Proposal(set_element(motor, "one-way stop", way="plus"), Sentence("A one-way stop"), "one way")
    elif finding.id == finding_id("turning", motor.id, "screw"):
        yield Proposal(
            set_element(motor, "a flat", fixed="flat"), Sentence("File a flat on its shaft for the screw"), "flat"
        )
        yield Proposal(set_element(motor, "a clamp", fixed="clamp"), Sentence("A clamping hub"), "clamp")
    else:
        yield from _balanced(results, motor, joint, found)


def _ranges(results: Results, motor: Motor, joint: Joint, found: TurnFound) -> Iterable[Proposal]:
    if not found.closes.all():
        return
    low, high = (round(math.degrees(end), 1) for end in found.swing)
    words = "Right round" if high - low >= 359 else f"Range of {joint.name} {{0}} to {{1}}"
    ends = (Quantity(math.radians(low), "angle"), Quantity(math.radians(high), "angle"))
    yield Proposal(ranged(results.figure, joint, low, high, f"range of {joint.name}"), Sentence(words, ends), "range")
    if not found.crank:
        pins = (float(joint.range_deg[0]), float(joint.range_deg[1]))
        yield Proposal(
            set_element(motor, "pins", pins_deg=pins),
            Sentence("Pins at {2} and {3}", (*ends, *(Quantity(math.radians(p), "angle") for p in pins))),
            "pins",
        )


def _balanced(results: Results, motor: Motor, joint: Joint, found: TurnFound) -> Iterable[Proposal]:
    yield from balanced(results, joint, found.off, found.reach)
    if isinstance(motor.through, Gear):
        yield Proposal(
            Edit(
                f"gears of {motor.name}", (Set(("elements", motor.id, "through", "driven"), motor.through.driven * 2),)
            ),
            Sentence("Wheel with twice the teeth on the joint"),
            "wheel",
        )
