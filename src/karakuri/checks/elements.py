"""Springs, elastic, struts and pads: none is drawn farther than it may be, and each does something."""

from __future__ import annotations

import math
from collections.abc import Iterable

import numpy as np

from karakuri.bodies.elements import not_known
from karakuri.bodies.inertia import Array
from karakuri.checks.contract import CORDS, STRUNG, Results, lacks, torque, wished
from karakuri.model.element import Cable, Hand, Linear, Magnets, Motor, Skin, Torsion
from karakuri.model.finding import Action, Derivation, Finding, Sentence, Verdict, finding_id, verdict_of
from karakuri.model.ref import Ref
from karakuri.sizing.strung import Strung
from karakuri.units import Kind, Quantity


def find(results: Results) -> Iterable[Finding]:
    for found in results[STRUNG] or ():
        if any(each.i == found.i for each in results[CORDS] or ()) or isinstance(
            results.figure.elements[found.i], Linear | Motor | Hand | Cable
        ):
            continue  # it pulls only when a hand does, or stands as it is told to: a rule of its own
        yield _one(results, found)


def _one(results: Results, found: Strung) -> Finding:
    element = results.figure.elements[found.i]
    ident, about = finding_id("elements", element.id), Ref("element", element.id)
    if not_known(element):
        clause, short, action = lacks(element)
        return Finding(
            ident, "elements", about, "not yet judged", Sentence(f"What {element.name} does is not judged: {clause}."), measure=Sentence(short), actions=(action,),
        )  # fmt: skip
    words = _useless(results, found)
    if words is not None:
        actions = (Action(f"Say how strong {element.name} is", about, "force"),)
        return Finding(
            ident, "elements", about, "tight", Sentence(words), measure=Sentence("it does nothing"), actions=actions
        )
    least, most = results.tree.loads[found.i].law.ends
    reserve, which = math.inf, ""
    free = _free(element)
    if math.isfinite(most) and found.longest > max(free, most * (1 + 1e-9) if most <= free else free):
        reserve = (most - free) / (found.longest - free) if most > free else most / found.longest
        which = "drawn"
    if least > 0 and found.shortest < free:
        pressed = (free - least) / (free - found.shortest)
        if pressed < reserve:
            reserve, which = pressed, "pressed"
    verdict: Verdict = verdict_of(reserve, wished(results)) if math.isfinite(reserve) else "holds"
    return Finding(
        ident,
        "elements",
        about,
        verdict,
        _sentence(results, found, which, reserve),
        reserve=reserve if math.isfinite(reserve) else None,
        measure=None if math.isfinite(reserve) else Sentence("{0} to {1}", _span(results, found)),
        derivations=tuple(_derivations(results, found)),
    )


def _free(element: object) -> float:
    for field in ("free_mm", "long_mm", "thick_mm"):
        value = getattr(element, field, None)
        if value is not None:
            return float(value) / 1e3
    return 0.0


def _useless(results: Results, found: Strung) -> str | None:
    """Why an element does nothing, or None."""
    element = results.figure.elements[found.i]
    if not found.turns:
        return f"{element.name} does nothing: all of it rides on one body."
    if element.kind == "cord":
        return f"{element.name} turns nothing: a cord is pulled to turn a joint that nothing drives."
    if found.idle and float(results.tree.loads[found.i].law.slope(_beyond(results, found))[0]) <= 0:
        return f"{element.name} pulls with nothing: say its rate, or hang weights on it and measure its length."
    if found.idle:
        return f"{element.name} does nothing: it stays slack over all that its joints do."
    return None


def _beyond(results: Results, found: Strung) -> Array:
    """A length, m, at which it would act: half as long again as free, or half as long where it presses."""
    free = _free(results.figure.elements[found.i])
    pulls = results.tree.loads[found.i].law.slope(np.array([free * 1.5 + 1e-3]))[0] > 0
    return np.array([free * 1.5 + 1e-3 if pulls else free * 0.5])


def _span(results: Results, found: Strung) -> tuple[Quantity, Quantity]:
    kind: Kind = "angle" if isinstance(results.figure.elements[found.i], Torsion) else "length"
    return Quantity(found.shortest, kind), Quantity(found.longest, kind)


def _sentence(results: Results, found: Strung, which: str, reserve: float) -> Sentence:
    element = results.figure.elements[found.i]
    span = _span(results, found)
    if isinstance(element, Torsion):
        forces = (torque(abs(found.least)), torque(abs(found.most)))
        return Sentence(f"{element.name} turns with {{0}} at {{2}} and {{1}} at {{3}}.", (*forces, *span))
    forces = (Quantity(abs(found.least), "force"), Quantity(abs(found.most), "force"))
    if isinstance(element, Magnets):
        parted = (Quantity(found.longest - found.shortest, "length"), *forces)
        return Sentence(f"{element.name}: {{1}} of pull where they sit, {{2}} when {{0}} apart.", parted)
    if isinstance(element, Skin):
        return Sentence(f"{element.name} is pushed by {{0}} at most, and comes back with {{1}}.", (span[1], forces[1]))
    does = "pushes" if min(found.least, found.most) < 0 else "pulls"
    if reserve < 1:
        far = "drawn out to" if which == "drawn" else "pressed together to"
        end = span[1] if which == "drawn" else span[0]
        limit = results.tree.loads[found.i].law.ends[1 if which == "drawn" else 0]
        return Sentence(f"{element.name} is {far} {{0}}; it may be {{1}}.", (end, Quantity(limit, "length")))
    return Sentence(f"{element.name} is {{2}} to {{3}} long, and {does} with {{0}} to {{1}}.", (*forces, *span))


def _derivations(results: Results, found: Strung) -> Iterable[Derivation]:
    element = results.figure.elements[found.i]
    if isinstance(element, Torsion) or element.kind != "spring" or found.most <= 0:
        return
    law = results.tree.loads[found.i].law
    rate = float(law.slope(_beyond(results, found))[0])
    off = found.longest - _free(element)
    rest = found.most - rate * off
    text = "{0} × ({1} − {2} free)" + (" + {3} before its coils part" if rest > 1e-6 else "")
    parts = (Quantity(rate, "rate"), Quantity(found.longest, "length"), Quantity(_free(element), "length"))
    yield Derivation(
        "Pulls most with",
        text,
        (*parts, Quantity(rest, "force")) if rest > 1e-6 else parts,
        Quantity(found.most, "force", rounding="up"),
    )
