"""Cables across joints: long enough for all that the joints do, and not bent too sharply where their ends come nearest."""

from __future__ import annotations

import math
from collections.abc import Iterable

from karakuri.checks.contract import STRUNG, Results
from karakuri.model.edit import Edit, Set
from karakuri.model.element import Cable
from karakuri.model.finding import Action, Derivation, Finding, Proposal, Sentence, finding_id, verdict_of
from karakuri.model.ref import Ref
from karakuri.sizing.cables import LONGER, TIMES, loop
from karakuri.sizing.strung import Strung
from karakuri.units import Quantity


def find(results: Results) -> Iterable[Finding]:
    for found in results[STRUNG] or ():
        element = results.figure.elements[found.i]
        if isinstance(element, Cable):
            yield _long(element, found)
            bent = _bent(element, found)
            if bent is not None:
                yield bent


def _needs(found: Strung) -> float:
    """How long it should be between its ties, m."""
    return found.longest * LONGER


def _long(cable: Cable, found: Strung) -> Finding:
    ident, about = finding_id("cables", cable.id), Ref("element", cable.id)
    if not found.turns:
        text = f"{cable.name} goes across no joint: all of it rides on one body."
        return Finding(ident, "cables", about, "tight", Sentence(text), measure=Sentence("it crosses nothing"))
    way, needs = Quantity(found.longest, "length", rounding="up"), Quantity(_needs(found), "length", rounding="up")
    worked = Derivation("Should be long", f"{{0}} × {LONGER:g}", (way,), needs)
    if cable.long_mm is None:
        text = f"{cable.name} needs {{1}} between its ties: the way between them gets {{0}} long. How long it is is not said."
        actions = (Action(f"Write how long {cable.name} is", about, "long"),)
        return Finding(
            ident, "cables", about, "not yet judged", Sentence(text, (way, needs)), measure=Sentence("its length is not said"), actions=actions, derivations=(worked,),
        )  # fmt: skip
    long = Quantity(cable.long_mm / 1e3, "length", rounding="down")
    reserve = cable.long_mm / 1e3 / found.longest if found.longest > 0 else math.inf
    text = f"{cable.name} is pulled tight: {{0}} between its ties, and the way gets {{1}} long." if reserve < 1 else f"{cable.name} reaches everywhere: {{0}} between its ties, and the way gets {{1}} long."  # fmt: skip
    return Finding(
        ident, "cables", about, verdict_of(reserve, LONGER), Sentence(text, (long, way)), reserve=reserve, demand=way, capacity=long, derivations=(worked,)
    )  # fmt: skip


def _bent(cable: Cable, found: Strung) -> Finding | None:
    """Its loop where its ends come nearest; of one that runs over guides their bends are the builder's."""
    if cable.long_mm is None or cable.over or not found.turns or cable.long_mm / 1e3 < found.longest:
        return None
    bends = loop(cable.long_mm / 1e3, found.shortest)
    if not math.isfinite(bends.radius):
        return None
    least = TIMES * cable.thick_mm / 1e3
    reserve = bends.radius / least
    quantities = (
        Quantity(bends.radius, "length", rounding="down"), Quantity(least, "length", rounding="up"), Quantity(bends.off, "length", rounding="up"),
    )  # fmt: skip
    text = f"{cable.name} is bent {'too sharply' if reserve < 1 else 'gently'}: to a radius of {{0}} where its ends come nearest, {{1}} is wanted; its loop stands off {{2}}. A loop on the move breaks sooner; an estimate."  # fmt: skip
    return Finding(
        finding_id("cables", cable.id, "bent"), "cables", Ref("element", cable.id), verdict_of(reserve, 1.0), Sentence(text, quantities), reserve=reserve,
        demand=quantities[1], capacity=quantities[0],
        derivations=(Derivation("No sharper than", f"{TIMES:g} × {{0}}", (Quantity(cable.thick_mm / 1e3, "length"),), quantities[1]),),
    )  # fmt: skip


def propose(finding: Finding, results: Results) -> Iterable[Proposal]:
    """A length that does: the least that should be, in whole 5 mm."""
    found = next((f for f in results[STRUNG] or () if results.figure.elements[f.i].id == finding.subject.id), None)
    cable = results.figure.elements[found.i] if found is not None else None
    if found is None or not isinstance(cable, Cable) or finding.verdict == "holds" or not found.turns:
        return
    needs = math.ceil(_needs(found) * 1e3 / 5) * 5.0
    for more in (1.0, 1.5, 2.0) if finding.id.endswith("bent") else (1.0,):
        long = math.ceil(needs * more / 5) * 5.0
        label = Sentence(f"{cable.name} {{0}} long", (Quantity(long / 1e3, "length"),))
        yield Proposal(Edit(f"length of {cable.name}", (Set(("elements", cable.id, "long_mm"), long),)), label, "long")
