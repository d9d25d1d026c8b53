"""Joints that nothing drives: each tips, hangs or floats, in every posture; and what would keep it where it is wanted."""

from __future__ import annotations

import math
from collections.abc import Iterable

import numpy as np
from msgspec.structs import replace

from karakuri.bodies.inertia import Array
from karakuri.checks.contract import HANGS, Results, angle_words, posture_words, wished
from karakuri.mechanics.hanging import Hanging
from karakuri.model.edit import Edit, Set
from karakuri.model.edits import ballast_edit
from karakuri.model.element import Magnets
from karakuri.model.element_edits import fit_torsion
from karakuri.model.finding import Action, Derivation, Finding, Proposal, Sentence, Verdict, finding_id, verdict_of
from karakuri.model.joint import Joint
from karakuri.model.ref import Ref
from karakuri.units import Kind, Quantity

FLOATS_M = 0.001
"""A centre of mass so near to the pivot floats: hands cannot tell. Common practice, no source."""
BELOW_MM = 5.0
STEPS_HZ, NEAR = 1.83, 0.25
"""Steps of a person walking at ease, some 110 a minute (Winter, The Biomechanics and Motor Control of Human Gait, 1991, from memory), and
the share within which a swing builds up with them: an estimate."""


def find(results: Results) -> Iterable[Finding]:
    for each in results[HANGS] or ():
        yield _one(results, each)


def _one(results: Results, each: tuple[Hanging, ...]) -> Finding:
    joint = results.figure.joint(results.tree.ids[each[0].j])
    ident, about = finding_id("hangs", joint.id), Ref("joint", joint.id)
    missing = [results.figure.part(i) for i, link in results.tree.unknown if link in results.tree.carried(each[0].j)]
    if missing:
        return Finding(
            ident, "hangs", about, "not yet judged",
            Sentence(f"{joint.name} cannot be judged: the mass of {missing[0].name} is unknown."),
            measure=Sentence(f"mass of {missing[0].name} unknown"),
            actions=(Action("Write the mass", Ref("part", missing[0].id), "mass"),),
        )  # fmt: skip
    hung = worst(results, joint, each)
    if joint.kind == "slide" and joint.stops is None and hung.at_stop:
        return Finding(
            ident, "hangs", about, "not yet judged",
            Sentence(f"{joint.name} slides to an end of its range and nobody measured what stops it there: it could come off."),
            measure=Sentence("what stops it is not known"),
            actions=(Action("Measure the stops", about, "stops"),),
        )  # fmt: skip
    reserve, low, high = reserves(results, joint, hung)
    finite = math.isfinite(reserve)
    verdict = _verdict(results, joint, hung, reserve)
    shown = finite and (verdict != "fails" or reserve < 1)
    return Finding(
        ident,
        "hangs",
        about,
        verdict,
        _sentence(results, joint, hung),
        reserve=reserve if shown else None,
        reserve_low=low if shown else None,
        reserve_high=high if shown else None,
        measure=None if shown else Sentence("rests at {0}", (_place(joint, hung.rests),)),
        derivations=tuple(_derivations(results, joint, hung)),
        decides=_decides(results, joint, hung, verdict, low, high),
    )


def worst(results: Results, joint: Joint, each: tuple[Hanging, ...]) -> Hanging:
    """Of all postures, and places of what carries it, where a free joint fares worst: where it leaves its wanted range, else where least
    brings it back or keeps it shut."""
    ratio = _reserves_of(results, joint, each)[0]
    order = range(len(each))
    return each[
        min(
            order,
            key=lambda k: (not _leaves(results, joint, each[k]), ratio[k], each[k].away, -abs(each[k].moment)),
        )
    ]


def _held_shut(results: Results, joint: Joint, hung: Hanging) -> bool:
    """Whether it leans against its stop because something strung to it presses it there."""
    bodies = len(results.tree.bodies)
    return hung.at_stop and not _leaves(results, joint, hung) and bool((hung.pressed[bodies:] > 0).any())


def reserves(results: Results, joint: Joint, hung: Hanging) -> tuple[float, float, float]:
    """The share that what keeps it is of what takes it away, and low and high of that with every mass and force at its bounds. Against a
    stop: what presses it there and what pulls it off, a bump among it where something strung holds it shut; else what brings it back
    where it is drawn and what tips it over."""
    ratio, low, high = _reserves_of(results, joint, (hung,))[:, 0].tolist()
    return ratio, low, high


def _reserves_of(results: Results, joint: Joint, each: tuple[Hanging, ...]) -> Array:
    """The same of n at once, (3, n): of N·m or N·m/rad a source those above 0 ÷ those below and a jolt, as they are, low and high."""
    shut = [_held_shut(results, joint, hung) for hung in each]
    some = [hung.pressed if held or hung.lies else hung.shares for hung, held in zip(each, shut, strict=True)]
    shares = np.stack(some, axis=1)
    more = np.array([hung.jolt if held else 0.0 for hung, held in zip(each, shut, strict=True)])
    off = np.abs(shares) * (results.tree.amount_bounds / np.maximum(results.tree.amounts, 1e-12))[:, None]
    for_it, against = shares > 0, shares < 0
    good, bad = np.where(for_it, shares, 0.0).sum(axis=0), more - np.where(against, shares, 0.0).sum(axis=0)
    good_off, bad_off = np.where(for_it, off, 0.0).sum(axis=0), np.where(against, off, 0.0).sum(axis=0)
    return np.stack(
        [
            _ratio(good, bad),
            _ratio(np.maximum(good - good_off, 0.0), bad + bad_off),
            _ratio(good + good_off, np.maximum(bad - bad_off, 0.0)),
        ]
    )


def _ratio(good: Array, bad: Array) -> Array:
    return np.where(bad > 1e-12, good / np.maximum(bad, 1e-12), np.inf)


def _stays(results: Results, joint: Joint, hung: Hanging) -> bool:
    """Whether it rubs more than what pulls at it where it is drawn."""
    drag = results.drag_of(joint.id)
    return drag is not None and abs(hung.moment) <= drag.value


def _leaves(results: Results, joint: Joint, hung: Hanging) -> bool:
    """Whether it comes to rest outside the range it is wanted in; what rubs hard enough stays where it is drawn."""
    if _stays(results, joint, hung):
        return False
    low, high = (end * joint.measure.si for end in joint.range)
    near = (
        math.radians(joint.stop_tolerance_deg) if hung.at_stop and joint.kind == "turn" else 0.0
    )  # a stop is no more exact
    return not low - near - 1e-6 <= hung.rests <= high + near + 1e-6


def _floats(results: Results, joint: Joint, hung: Hanging) -> bool:
    g = results.figure.assumptions.gravity_mps2
    weight = hung.mass * g * FLOATS_M
    return joint.kind == "turn" and abs(hung.back - hung.over) <= weight and abs(hung.moment) <= weight


def _verdict(results: Results, joint: Joint, hung: Hanging, reserve: float) -> Verdict:
    if not hung.converged:
        return "not yet judged"
    if _floats(results, joint, hung):
        return "tight"
    if _leaves(results, joint, hung):
        return "fails"
    if _stays(results, joint, hung) and reserve < 1 and not (hung.lies or _held_shut(results, joint, hung)):
        return "tight"
    verdict = verdict_of(reserve, wished(results))
    return "tight" if verdict == "holds" and _walks(results, hung) else verdict


def _walks(results: Results, hung: Hanging) -> bool:
    """Whether it is worn and swings in time with its wearer's steps."""
    return results.figure.base.held == "worn" and abs(hung.swings_Hz / STEPS_HZ - 1.0) < NEAR


def _sentence(results: Results, joint: Joint, hung: Hanging) -> Sentence:
    where = posture_words(results, hung.posture) + (", what carries it turned" if hung.away else "")
    quantities = (_place(joint, hung.rests), _moment(joint, hung.moment), Quantity(hung.swings_Hz, "frequency"))
    at = _at(joint, hung)
    if not hung.converged:
        text = f"{joint.name} hangs free, but where it comes to rest was not found{where}."
    elif _floats(results, joint, hung):
        text = f"{joint.name} floats{where}: its centre of mass is at the pivot; what is added to it decides which way it goes."
    elif _leaves(results, joint, hung):
        does = "tips over on its own" if hung.over > hung.back else "does not stay in its wanted range"
        text = f"{joint.name} {does}{where}: let go, it comes to rest {at}; {{1}} would hold it where it is drawn."
    elif _stays(results, joint, hung):
        tips = " Without that it would tip over." if hung.over > hung.back and not hung.lies else ""
        text = f"{joint.name} stays where it is put{where}: it rubs more than the {{1}} that pull at it.{tips}"
    elif _held_shut(results, joint, hung):
        return _shut_words(results, joint, hung, where)
    elif not hung.lies and hung.reserve < 1:
        text = f"{joint.name} tips away from where it is drawn{where}: let go, it comes to rest {at}; {{1}} would hold it there."
    elif hung.at_stop:
        text = f"{joint.name} leans against its stop{where}, {at}."
    else:
        steps = ", in time with a walking wearer’s steps: it builds up" if _walks(results, hung) else ""
        text = f"{joint.name} hangs{where}, {at}; touched it comes back, and swings {{2}}{steps}."
    return Sentence(text, quantities)


def _shut_words(results: Results, joint: Joint, hung: Hanging, where: str) -> Sentence:
    quantities = (
        replace(_moment(joint, hung.pressing), rounding="down"),
        _moment(joint, hung.pulling + hung.jolt),
        Quantity(results.figure.assumptions.bump_g, "ratio"),
    )
    does = "is held at its stop" if reserves(results, joint, hung)[0] >= 1 else "comes off its stop"
    text = f"{joint.name} {does}{where}: {{0}} press it there, {{1}} pull at it with a bump of {{2}} times its weight."
    return Sentence(text, quantities)


def _at(joint: Joint, hung: Hanging) -> str:
    return angle_words(joint, hung.rests) if joint.kind == "turn" else "at {0}"


def _place(joint: Joint, value: float) -> Quantity:
    return Quantity(abs(value), "angle") if joint.kind == "turn" else Quantity(value, "length")


def _moment(joint: Joint, value: float) -> Quantity:
    return Quantity(abs(value), "torque" if joint.kind == "turn" else "force", rounding="up")


def _decides(
    results: Results, joint: Joint, hung: Hanging, verdict: Verdict, low: float, high: float
) -> Sentence | None:
    if verdict == "not yet judged" or (_leaves(results, joint, hung) and hung.reserve >= 1):
        return None
    other = {verdict_of(low, wished(results)), verdict_of(high, wished(results))} - {verdict}
    decides = hung.pressed if hung.lies or _held_shut(results, joint, hung) else hung.shares
    off = np.abs(decides) * results.tree.amount_bounds
    order = [i for i in np.argsort(-off) if off[i] > 0 and results.tree.sources[i].origin != "weighed"][:2]
    if not other or not order:
        return None
    names = ", ".join(results.tree.sources[i].name for i in order)
    return Sentence(f"What is only guessed could make it {' or '.join(sorted(other))}: measure {names}.")


def _derivations(results: Results, joint: Joint, hung: Hanging) -> Iterable[Derivation]:
    if hung.lies or _held_shut(results, joint, hung):
        yield from _shut(results, joint, hung)
        return
    kind: Kind = "twist" if joint.kind == "turn" else "rate"
    for title, sign in (("Brings it back", 1.0), ("Tips it over", -1.0)):
        order = [i for i in np.argsort(-sign * hung.shares, kind="stable") if sign * hung.shares[i] > 1e-9]
        some, rest = order[:3], order[3:]
        values = [float(abs(hung.shares[i])) for i in some] + ([float(np.abs(hung.shares[rest]).sum())] if rest else [])
        if values:
            names = [results.tree.sources[i].name for i in some] + (["others"] if rest else [])
            yield _sum(title, names, values, kind)
    drag, firm = results.drag_of(joint.id), hung.back - hung.over
    if drag is not None and joint.kind == "turn" and firm > 1e-9:
        parts = (Quantity(drag.value, "torque"), Quantity(firm, "twist"))
        off = Quantity(min(drag.value / firm, math.pi), "angle", rounding="up")
        yield Derivation("What it rubs with may leave it off by", "{0} ÷ {1}", parts, off)
    flips = grams_until_it_flips(results, joint, hung)
    if flips is not None:
        kg, height, g = flips
        net = hung.back - hung.over
        yield Derivation(
            "Until it flips, added {0} above the pivot", "{0} ÷ ({1} × {2})",
            (Quantity(net, kind), Quantity(g, "gravity"), Quantity(height, "length")), Quantity(kg, "mass", rounding="down"), (Quantity(height, "length"),),
        )  # fmt: skip


def _shut(results: Results, joint: Joint, hung: Hanging) -> Iterable[Derivation]:
    """What presses it against its stop, and what pulls it off, by name."""
    kind: Kind = "torque" if joint.kind == "turn" else "force"
    for title, sign in (("Presses it shut", 1.0), ("Pulls it off", -1.0)):
        some = [i for i in np.argsort(-sign * hung.pressed, kind="stable") if sign * hung.pressed[i] > 1e-9][:3]
        values = [float(sign * hung.pressed[i]) for i in some]
        names = [results.tree.sources[i].name for i in some]
        if sign < 0 and hung.jolt > 0 and _held_shut(results, joint, hung):
            values, names = [*values, hung.jolt], [*names, "the bump"]
        if values:
            yield _sum(title, names, values, kind)


def _sum(title: str, names: list[str], values: list[float], kind: Kind) -> Derivation:
    text = " + ".join(f"{{{n}}}" for n in range(len(values)))
    return Derivation(
        f"{title}: {', '.join(names)}", text, tuple(Quantity(v, kind) for v in values), Quantity(sum(values), kind)
    )


def grams_until_it_flips(results: Results, joint: Joint, hung: Hanging) -> tuple[float, float, float] | None:
    """How many kg, added where the highest thing it carries is, would tip it over; how high that is over the pivot, m; gravity m/s².
    None where nothing lies above the pivot, or it tips as it is."""
    tree, g = results.tree, results.figure.assumptions.gravity_mps2
    rows = np.flatnonzero(tree.rides[hung.j])
    if joint.kind != "turn" or hung.back <= hung.over or not len(rows) or g <= 0:
        return None
    height = float((tree.body_at[rows, 2] - tree.pivot[hung.j, 2]).max())
    across = 1.0 - float(tree.axis[hung.j, 2]) ** 2
    if height < 1e-3 or across < 0.1:
        return None
    return (hung.back - hung.over) / (g * height * across), height, g


def propose(finding: Finding, results: Results) -> Iterable[Proposal]:
    """Another pivot first, then a spring about it, then ballast."""
    if finding.verdict == "holds" or finding.verdict == "not yet judged":
        return
    joint = results.figure.joint(finding.subject.id)
    each = next(each for each in results[HANGS] or () if results.tree.ids[each[0].j] == joint.id)
    hung = worst(results, joint, each)
    if (hung.at_stop and not _leaves(results, joint, hung)) or joint.kind != "turn":
        yield from _held_better(results, joint, hung)
        return
    yield from _pivot_moved(joint, hung)
    yield from _spring(results, joint, hung)
    yield from _ballast(results, joint, hung)


def _held_better(results: Results, joint: Joint, hung: Hanging) -> Iterable[Proposal]:
    """A narrower gap first, which costs nothing, then more magnets."""
    keeps = reserves(results, joint, hung)[0]
    for element in results.figure.elements:
        if not isinstance(element, Magnets) or joint.id not in (element.ends[0].rides_on, element.ends[1].rides_on):
            continue
        for share in (0.7, 0.5, 0.3, 0.15):
            gap = round(element.gap_mm * share, 2)
            if gap >= 0.05:
                edit = Edit(f"gap of {element.name}", (Set(("elements", element.id, "gap_mm"), gap),))
                yield Proposal(
                    edit,
                    Sentence(f"Gap of {element.name} {{0}}", (Quantity(gap / 1e3, "length"),)),
                    f"gap {element.id}",
                )
        most = 4 * element.count
        wanted = (
            math.ceil(element.count * wished(results) / keeps)
            if keeps > 1e-6 and not _leaves(results, joint, hung)
            else element.count + 1
        )
        for count in sorted({min(wanted, most), min(wanted + 1, most), min(2 * wanted, most)}):
            if count > element.count:
                edit = Edit(f"{count} of {element.name}", (Set(("elements", element.id, "count"), count),))
                yield Proposal(
                    edit, Sentence(f"{{0}} of {element.name}", (Quantity(count, "count"),)), f"count {element.id}"
                )


def _pivot_moved(joint: Joint, hung: Hanging) -> Iterable[Proposal]:
    for below in (BELOW_MM, 2 * BELOW_MM, 4 * BELOW_MM):
        off = hung.centre * 1e3
        at = (
            joint.at_mm[0] + round(float(off[0]), 1),
            joint.at_mm[1] + round(float(off[1]), 1),
            joint.at_mm[2] + math.ceil(float(off[2]) + below),
        )
        up = at[2] - joint.at_mm[2]
        way = "higher" if up >= 0 else "lower"
        label = Sentence(f"Pivot {{0}} {way}, over the centre of mass", (Quantity(abs(up) / 1e3, "length"),))
        yield Proposal(Edit(f"move {joint.name}’s pivot", (Set(("joints", joint.id, "at_mm"), at),)), label, "pivot")


def _spring(results: Results, joint: Joint, hung: Hanging) -> Iterable[Proposal]:
    lacking = wished(results) * hung.over - hung.back
    if lacking <= 0:
        lacking = 0.25 * max(hung.over, hung.back)
    low, high = (abs(end) * joint.measure.si for end in joint.range)
    leaned = max(min(low, high), math.radians(2.0))
    for rate in (lacking, lacking + abs(hung.moment) / leaned, 2 * (lacking + abs(hung.moment) / leaned)):
        per_deg = float(f"{math.radians(rate) * 1.02:.2g}")
        if per_deg < 1e-5:
            continue
        label = Sentence("Spring about it, {0}", (Quantity(math.degrees(per_deg), "twist"),))
        yield Proposal(fit_torsion(results.figure, joint.id, per_deg), label, "spring")


def _ballast(results: Results, joint: Joint, hung: Hanging) -> Iterable[Proposal]:
    carried = {results.tree.ids[k] for k in results.tree.carried(hung.j)}
    g = results.figure.assumptions.gravity_mps2
    lacking = wished(results) * hung.over - hung.back
    for site in results.figure.ballast_sites:
        below = results.tree.pivot[hung.j, 2] - site.at_mm[2] / 1e3
        if site.rides_on not in carried or below <= 1e-3 or lacking <= 0:
            continue
        grams = math.ceil(lacking / (g * below) * 1e3 / 5) * 5.0
        if grams <= site.most_g:
            yield Proposal(
                ballast_edit(results.figure, site, grams),
                Sentence(f"Ballast {{0}} at {site.name}", (Quantity(grams / 1e3, "mass"),)),
                f"ballast {site.id}",
            )
