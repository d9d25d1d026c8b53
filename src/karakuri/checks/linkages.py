"""What lies between a joint and its servo: whether it closes over the wanted range, how it stands to its lever, what rod and shaft bear."""

from __future__ import annotations

import math
from collections.abc import Iterable

import numpy as np

from karakuri.bodies.linkages.ball import rod_m as ball_rod_m
from karakuri.bodies.linkages.belt import in_mesh
from karakuri.bodies.linkages.lever import rod_m
from karakuri.catalogue import ESTIMATE_SHARE, stuff_of
from karakuri.checks.body_proposals import range_edit
from karakuri.checks.classes import class_proposals
from karakuri.checks.contract import JointResults, Results, angle_words, wished
from karakuri.checks.crossing import crosses, on_axis
from karakuri.checks.gearing import LEAST_ANGLE, WISHED_ANGLE, straighter
from karakuri.frozen import Frozen
from karakuri.model.drive import Drive
from karakuri.model.edit import Edit, Set
from karakuri.model.finding import Action, Derivation, Finding, Proposal, Sentence, Verdict, finding_id, verdict_of
from karakuri.model.joint import Support
from karakuri.model.ref import Ref
from karakuri.model.rod import STUFFS
from karakuri.model.transmission import Ball, Belt, Lever
from karakuri.sizing.geared import Geared
from karakuri.units import Quantity

EULER_FACTOR = 3.0
"""A pushrod is loaded to no more than a third of what buckles it: common practice, no source."""
MESH = 6.0
"""Teeth of a belt that should lie round its smaller pulley: handbooks on belts, from memory."""
GEAR_OFF_MM = 8.0
"""A wheel's or pulley's middle from the servo's case, where nobody said: common practice, no source."""
THICK_MM = (1.5, 2.0, 2.5, 3.0, 4.0, 5.0, 6.0, 8.0)


class Borne(Frozen):
    """What rod, teeth or belt of a joint bear at most, N, and when, in words with their quantities: for the rod from {2} on, for the shaft after a semicolon."""

    rule: str
    force: float
    rod: Sentence
    shaft: Sentence
    at_s: float | None = None
    move: Ref | None = None


def borne(r: JointResults, found: Geared) -> Borne:
    """Standing anywhere, and in the wanted move."""
    if found.moving > found.force:
        return Borne(
            "linkage", found.most, Sentence("at most, in its wanted move"), Sentence("; most of it in its wanted move")
        )
    at = Sentence(
        f"at its most {angle_words(r.joint, found.force_at)}, standing still", (Quantity(abs(found.force_at), "angle"),)
    )
    return Borne("linkage", found.most, at, Sentence(""))


def each(r: JointResults, results: Results) -> Iterable[Finding]:
    """What is told of one joint."""
    drive = results.figure.drive_of(r.joint.id)
    if r.geared is None or drive is None:
        return
    if drive.transmission.kind == "direct":  # it shares its joint with one that is told of
        return
    if r.geared.flaw:
        text = f"{r.joint.name} is not judged: {r.geared.flaw}."
        yield Finding(
            finding_id("linkage", r.joint.id), "linkage", Ref("joint", r.joint.id), "fails", Sentence(text), measure=Sentence("no mechanism yet"),
        )  # fmt: skip
        return
    yield _stands(r, r.geared, drive, results)
    if r.joint.support.kind == "spline":
        yield Finding(
            finding_id("linkage", r.joint.id, "support"), "linkage", Ref("joint", r.joint.id), "not yet judged",
            Sentence(f"What {r.joint.name} turns in is not said: through {_what(drive)} its servo's shaft does not carry it."),
            measure=Sentence("what it turns in is not said"),
            actions=(Action("Say what it turns in", Ref("joint", r.joint.id), "support"),),
        )  # fmt: skip
    if r.missing or r.opens:
        return
    if isinstance(drive.transmission, Lever | Ball):
        yield rod(r, borne(r, r.geared), drive.transmission, results)
    if isinstance(drive.transmission, Belt) and drive.transmission.pitch_mm > 0:
        yield _mesh(r, drive.transmission, results)
    yield pulled(r, borne(r, r.geared), drive, results)
    if isinstance(drive.transmission, Ball):
        yield from crosses(r, drive, drive.transmission, results)


def _what(drive: Drive) -> str:
    words = {"gear": "gears", "belt": "a belt", "lever": "a lever", "ball": "a rod", "bevel": "bevel wheels"}
    return words[drive.transmission.kind]


def _angle(value: float, rounding: str = "down") -> Quantity:
    return Quantity(abs(value), "angle", rounding="up" if rounding == "up" else "down")


def _stands(r: JointResults, found: Geared, drive: Drive, results: Results) -> Finding:
    """Whether it closes, turns over, and how flat its rod comes to lie at the lever."""
    ident, name, ref = finding_id("linkage", r.joint.id), r.joint.name, Ref("joint", r.joint.id)
    dead = found.turns_over
    if not found.shut or dead is not None:
        at = found.open_at if dead is None or not found.shut else dead
        where = angle_words(r.joint, at)
        others = [results.figure.joint(each.joint).name for each in r.shares if each.joint != r.joint.id]
        if others and not found.shut:
            text = (
                f"{name}: a rod of it or of {', '.join(others)} does not reach {where}, with the others as they may be."
            )
            measure = "does not reach {0}"
        elif others:
            text = f"{name}: on the way, {where} it may be, its servo and that of {', '.join(others)} lose hold of it: it may go either way."
            measure = "dead point at {0}"
        elif not found.shut:
            text, measure = f"{name}: its rod does not reach {where}; it cannot get there.", "does not reach {0}"
        else:
            text = f"{name}: its rod passes a dead point {where}: there the servo has no hold of it, and it may go either way."
            measure = "dead point at {0}"
        quantity = Quantity(abs(at), "angle")
        return Finding(
            ident, "linkage", ref, "fails", Sentence(text, (quantity,)), measure=Sentence(measure, (quantity,))
        )
    flattest, at = found.flattest
    verdict: Verdict = "fails" if flattest < LEAST_ANGLE else "tight" if flattest < WISHED_ANGLE else "holds"
    low, high = found.ratios
    turns = (Quantity(low, "ratio", rounding="down"), Quantity(high, "ratio", rounding="up"))
    even = found.even
    if r.shares:
        turns = (Quantity(found.travel, "angle", rounding="up"), turns[1])
    goes = (
        "its servo turns {2} in all for all that it shares"
        if r.shares
        else "its servo turns {2} for each turn of it"
        if even
        else "its servo turns {2} to {3} as far as it does"
    )
    if even and r.shares:
        return Finding(
            ident, "linkage", ref, "holds", Sentence(f"{name}: {goes}.".replace("{2}", "{0}"), turns[:1]),
            measure=Sentence("{0} in all", turns[:1]), derivations=_play(r, found),
        )  # fmt: skip
    if even:
        sentence = Sentence(f"{name}: {goes}.".replace("{2}", "{0}"), (Quantity(high, "ratio"),))
        return Finding(
            ident,
            "linkage",
            ref,
            "holds",
            sentence,
            measure=Sentence("{0} to 1", (Quantity(high, "ratio"),)),
            derivations=_play(r, found),
        )
    to = "the way its ball goes" if isinstance(drive.transmission, Ball) else "its lever"
    flat = {"holds": f"stands well to {to}", "tight": f"comes to lie flat to {to}", "fails": "binds"}[verdict]
    where = angle_words(r.joint, at).replace("{0}", "{1}")
    between = "between it and the way of its ball" if isinstance(drive.transmission, Ball) else "between both"
    text = f"{name}: its rod {flat}: {{0}} {between} {where}, {{4}} wanted; {goes}."
    quantities = (_angle(flattest), Quantity(abs(at), "angle"), *turns, _angle(WISHED_ANGLE))
    return Finding(
        ident, "linkage", ref, verdict, Sentence(text, quantities),
        measure=Sentence("{0} between rod and " + ("its ball’s way" if isinstance(drive.transmission, Ball) else "lever"), quantities), derivations=_play(r, found),
    )  # fmt: skip


def _play(r: JointResults, found: Geared) -> tuple[Derivation, ...]:
    """How free the joint is while the servo stands, and its farthest part with it."""
    free, _ = found.play
    reach = r.shaft.reach if r.shaft is not None else 0.0
    if free <= 0 or reach <= 0:
        return ()
    size = Quantity(free * reach, "length", rounding="up")
    quantities = (Quantity(free, "angle"), Quantity(reach, "length"))
    return (Derivation("Free at its farthest part, of the linkage alone, estimate", "{0} × {1}", quantities, size),)


def rod(r: JointResults, asked: Borne, lever: Lever | Ball, results: Results) -> Finding:
    """What presses the rod against what buckles it: both ends on pins (Euler)."""
    length, thick, young = (
        ball_rod_m(lever) if isinstance(lever, Ball) else rod_m(lever),
        lever.thick_mm / 1e3,
        stuff_of(lever.stuff)["young_GPa"] * 1e9,
    )
    second = math.pi * thick**4 / 64
    euler = math.pi**2 * young * second / length**2
    may = euler / EULER_FACTOR
    reserve = may / asked.force if asked.force > 1e-9 else math.inf
    demand, capacity = Quantity(asked.force, "force", rounding="up"), Quantity(may, "force", rounding="down")
    does = "bears" if reserve >= 1 else "may buckle under"
    when = asked.rod.text.replace("{0}", "{2}")
    text = f"The rod of {r.joint.name} {does} {{0}} {when}; pressed with {{1}} at most it stays straight."
    return Finding(
        finding_id(asked.rule, r.joint.id, "rod"), asked.rule, Ref("joint", r.joint.id), verdict_of(reserve, wished(results)),
        Sentence(text, (demand, capacity, *asked.rod.quantities)),
        reserve=reserve, demand=demand, capacity=capacity, at_s=asked.at_s, move=asked.move,
        derivations=(
            Derivation(
                "A third of what buckles it", "0.4845 × {0} × {1} × {1} × {1} × {1} ÷ {2} ÷ {2} ÷ 3",
                (Quantity(young, "pressure"), Quantity(thick, "length"), Quantity(length, "length")), capacity,
            ),
        ),
    )  # fmt: skip


def _mesh(r: JointResults, belt: Belt, results: Results) -> Finding:
    """Teeth round the smaller pulley."""
    teeth = in_mesh(belt)
    reserve = teeth / MESH
    verdict = verdict_of(reserve, 1.0)
    has = "takes hold well" if reserve >= 1 else "may jump teeth"
    text = f"The belt of {r.joint.name} {has}: {{0}} teeth lie round its smaller pulley, {{1}} wanted."
    quantities = (Quantity(teeth, "ratio", rounding="down"), Quantity(MESH, "count"))
    return Finding(
        finding_id("linkage", r.joint.id, "mesh"),
        "linkage",
        Ref("joint", r.joint.id),
        verdict,
        Sentence(text, quantities),
        reserve=reserve,
    )


def pulled(r: JointResults, asked: Borne, drive: Drive, results: Results) -> Finding:
    """What pulls at the servo's own shaft from the side, and tilts it."""
    servo = drive.acting(results.figure.assumptions.together_share)
    off = (drive.transmission.off_mm if isinstance(drive.transmission, Lever | Ball) else GEAR_OFF_MM) / 1e3
    moment = asked.force * off
    by_side = servo.permitted_side_N / max(asked.force, 1e-9)
    by_moment = servo.permitted_moment_Nm / max(moment, 1e-12)
    reserve = min(by_side, by_moment)
    field = "permitted_side_N" if by_side < by_moment else "permitted_moment_Nm"
    spread = ESTIMATE_SHARE if field in servo.estimated else 0.0
    if by_side < by_moment:
        demand, capacity = Quantity(asked.force, "force", rounding="up"), Quantity(servo.permitted_side_N, "force", rounding="down")  # fmt: skip
        text = "{0} from the side; {1} is permitted"
    else:
        demand, capacity = Quantity(moment, "torque", rounding="up"), Quantity(servo.permitted_moment_Nm, "torque", rounding="down")  # fmt: skip
        text = "{0} of tilting moment; {1} is permitted"
    does = "carries" if reserve >= 1 else "cannot carry"
    guess = ", an estimate ± 50 %" if spread else ""
    when = asked.shaft.text.replace("{0}", "{2}")
    low, high = reserve * (1 - spread), reserve * (1 + spread)
    verdict = verdict_of(reserve, wished(results))
    decides = None
    if spread and {verdict_of(low, wished(results)), verdict_of(high, wished(results))} != {verdict}:
        decides = Sentence(
            "What its shaft may carry is an estimate; its data sheet, or a second bearing, would decide it."
        )
    derivation = Derivation(
        "Tilts the servo's shaft", "{0} × {1}", (Quantity(asked.force, "force"), Quantity(off, "length")), Quantity(moment, "torque", rounding="up"),
    )  # fmt: skip
    return Finding(
        finding_id(asked.rule, r.joint.id, "shaft"), asked.rule, Ref("joint", r.joint.id), verdict,
        Sentence(f"{r.joint.name}: {_what(drive)} pull{'s' if _what(drive).startswith('a ') else ''} at its servo, whose shaft {does} {text}{guess}{when}.", (demand, capacity, *asked.shaft.quantities)),
        reserve=reserve, reserve_low=low, reserve_high=high, demand=demand, capacity=capacity, derivations=(derivation,), decides=decides, at_s=asked.at_s, move=asked.move,
    )  # fmt: skip


def propose(finding: Finding, results: Results) -> Iterable[Proposal]:
    r = results.of(finding.subject.id)
    drive = results.figure.drive_of(r.joint.id)
    if r.geared is None or drive is None:
        return
    if isinstance(drive.transmission, Ball) and finding.id == finding_id("linkage", r.joint.id, "crosses"):
        yield from on_axis(r, drive, drive.transmission, results)
    if finding.verdict == "holds":
        return
    if finding.id == finding_id("linkage", r.joint.id):
        yield from straighter(r, results)
        yield from _narrowed(r, r.geared, results)
    elif finding.id == finding_id("linkage", r.joint.id, "support"):
        for kind, words in (("bush", "A bush"), ("bearing_pair", "Two ball bearings")):
            edit = Edit(f"{words.lower()} under {r.joint.name}", (Set(("joints", r.joint.id, "support"), Support.from_fields({"kind": kind})),))  # fmt: skip
            yield Proposal(edit, Sentence(f"It turns in {words.lower()}"), f"support {kind}")
    else:
        yield from sturdier(finding, r, drive, results)


def sturdier(finding: Finding, r: JointResults, drive: Drive, results: Results) -> Iterable[Proposal]:
    """For a rod that may buckle, or a shaft that cannot carry what pulls at it."""
    if isinstance(drive.transmission, Lever | Ball) and finding.id == finding_id(finding.rule, r.joint.id, "rod"):
        yield from _thicker(r, drive, drive.transmission)
    elif finding.id == finding_id(finding.rule, r.joint.id, "shaft"):
        if isinstance(drive.transmission, Lever):
            for arm in sorted({a for a in drive.transmission.reachable_mm if a > drive.transmission.lever_mm}):
                step = Set(("drives", drive.id, "transmission", "lever_mm"), arm)
                label = Sentence("Lever hole {0} instead of {1}", (Quantity(arm / 1e3, "length"), Quantity(drive.transmission.lever_mm / 1e3, "length")))  # fmt: skip
                yield Proposal(Edit(f"another hole for {r.joint.name}", (step,)), label, "hole")
        yield from class_proposals(r, results)


def _thicker(r: JointResults, drive: Drive, lever: Lever | Ball) -> Iterable[Proposal]:
    for thick in THICK_MM:
        if thick > lever.thick_mm:
            step = Set(("drives", drive.id, "transmission", "thick_mm"), thick)
            label = Sentence("Rod {0} thick", (Quantity(thick / 1e3, "length"),))
            yield Proposal(Edit(f"a thicker rod for {r.joint.name}", (step,)), label, "thicker")
    for stuff in STUFFS:
        if stuff_of(stuff)["young_GPa"] > stuff_of(lever.stuff)["young_GPa"]:
            step = Set(("drives", drive.id, "transmission", "stuff"), stuff)
            yield Proposal(
                Edit(f"a rod of {stuff} for {r.joint.name}", (step,)), Sentence(f"Rod of {stuff}"), "stiffer stuff"
            )
            break


def _narrowed(r: JointResults, found: Geared, results: Results) -> Iterable[Proposal]:
    """The widest range about where it stands best in which it closes, does not turn over and does not lie flat."""
    places, which = np.unique(found.places, return_inverse=True)
    angle = np.full(len(places), math.pi)
    np.minimum.at(angle, which, np.where(found.closes, found.angle, 0.0))  # with all that it shares anywhere
    best = int(angle.argmax())
    way = found.ratio * found.ratio[int(np.flatnonzero(which == best)[0])] > 0
    good = angle >= LEAST_ANGLE
    np.logical_and.at(good, which, way)
    if not good[best]:
        return
    low = high = best
    while low > 0 and good[low - 1]:
        low -= 1
    while high < len(good) - 1 and good[high + 1]:
        high += 1
    a, b = math.ceil(math.degrees(places[low]) - 1e-6), math.floor(math.degrees(places[high]) + 1e-6)
    if a < b:
        label = Sentence("Range {0} to {1}", (Quantity(math.radians(a), "angle"), Quantity(math.radians(b), "angle")))
        yield Proposal(range_edit(r, results, float(a), float(b)), label, "range")
