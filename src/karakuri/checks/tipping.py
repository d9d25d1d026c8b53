"""Tips over: tan of the angle that is left to tipping against tan of the tilt it must stand."""

from __future__ import annotations

import math
from collections.abc import Iterable

from karakuri.checks.body_proposals import least
from karakuri.checks.contract import STANDING, Results, posture_words, wished
from karakuri.model.edit import Edit, Set
from karakuri.model.edits import ballast_edit
from karakuri.model.finding import Derivation, Finding, Proposal, Sentence, verdict_of
from karakuri.model.ref import FIGURE
from karakuri.units import Quantity


def find(results: Results) -> Iterable[Finding]:
    t = results[STANDING]
    if t is None or results.tree.unknown or results.figure.base.held != "stands":
        return
    tilt = math.radians(results.figure.assumptions.tilt_deg)
    reserve = math.tan(min(t.angle, 1.55)) / math.tan(tilt) if t.angle > 0 else t.angle / tilt
    reserve = max(reserve, 0.0)
    verdict = verdict_of(reserve, wished(results))
    demand, capacity = Quantity(tilt, "angle", rounding="up"), Quantity(t.angle, "angle", rounding="down")
    where = posture_words(results, t.posture)
    if t.angle <= 0:
        text = f"The figure tips over on its own{where}: its centre of mass is {{2}} outside the edge it stands on, seen along gravity."
    else:
        does = "tips over" if reserve < 1 else "stands"
        text = f"The figure {does}{where}: it goes over when tilted {{1}} further; {{0}} must be stood."
    d = t.distance * math.cos(t.lean) - t.height * math.sin(t.lean)
    sentence = Sentence(text, (demand, capacity, Quantity(abs(d), "length", rounding="up")))
    derivations = (
        Derivation(
            "Centre of mass to the edge",
            "{0} on the level − {1} × tan {2} posture",
            (Quantity(t.distance, "length"), Quantity(t.height, "length"), Quantity(t.lean, "angle")),
            Quantity(t.distance - t.height * math.tan(t.lean), "length", rounding="down"),
        ),
    )
    yield Finding(
        "tipping",
        "tipping",
        FIGURE,
        verdict,
        sentence,
        reserve=reserve,
        demand=demand,
        capacity=capacity,
        derivations=derivations,
    )


def propose(finding: Finding, results: Results) -> Iterable[Proposal]:
    t, figure = results[STANDING], results.figure
    if finding.verdict == "holds" or t is None:
        return
    for wish in (wished(results), 1.0):
        target = math.atan(wish * math.tan(math.radians(figure.assumptions.tilt_deg)))
        foot = wider(results, t.height * math.tan(target + t.lean) - t.distance)
        if foot is not None:
            yield foot
        yield from _base_ballast(results, target)


def wider(results: Results, by_m: float) -> Proposal | None:
    """The foot wider all round by so much, m, and up; None where it is wide enough, or no foot could be."""
    by = math.ceil(by_m * 1e3 / 5 - 1e-9) * 5.0
    if by <= 0 or by > 500:
        return None
    corners = results.figure.base.outline_mm
    middle = [sum(c[i] for c in corners) / len(corners) for i in (0, 1)]
    grown = tuple(
        (round(x + math.copysign(by, x - middle[0]), 1), round(y + math.copysign(by, y - middle[1]), 1))
        for x, y in corners
    )
    return Proposal(
        Edit(f"widen the foot by {by:g} mm all round", (Set(("base", "outline_mm"), grown),)),
        Sentence("Foot {0} wider all round", (Quantity(by / 1e3, "length"),)),
        "wider",
    )


def _base_ballast(results: Results, target: float) -> Iterable[Proposal]:
    """Lead low in the base; the pose stays the worst one, the re-study says what it gave."""
    t, tree = results[STANDING], results.tree
    assert t is not None
    floor, total = results.figure.base.floor_mm / 1e3, float(tree.mass.sum())
    for site in results.figure.ballast_sites:
        if site.rides_on != "base":
            continue
        height = site.at_mm[2] / 1e3 - floor

        def lacking(grams: float, height: float = height) -> float:
            m = grams / 1e3
            h = (t.height * total + height * m) / (total + m)
            return target - (math.atan2(t.distance, h) - t.lean)

        grams = least(lacking, 0.0, 0.0, site.most_g, 50.0)
        if grams is not None and grams > 0:
            yield Proposal(
                ballast_edit(results.figure, site, grams),
                Sentence(f"Ballast {{0}} at {site.name}", (Quantity(grams / 1e3, "mass"),)),
                f"ballast {site.id}",
            )
