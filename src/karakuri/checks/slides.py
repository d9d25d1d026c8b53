"""A slide that no linear actuator drives yet, or that a link from another joint moves: what must hold it."""

from __future__ import annotations

from collections.abc import Iterable

import numpy as np

from karakuri.catalogue import helpers
from karakuri.checks.contract import SLIDES, Results, not_weighed, posture_words, wished
from karakuri.mechanics.kinematics import carried_mass, place
from karakuri.mechanics.slid import Along
from karakuri.model.element_edits import fit_actuator
from karakuri.model.finding import Derivation, Finding, Proposal, Sentence, finding_id
from karakuri.model.joint import Joint
from karakuri.model.ref import Ref
from karakuri.units import Quantity

SPARE_MM = 2.0
"""So much more than the range a stroke must be: common practice, no source."""


def find(results: Results) -> Iterable[Finding]:
    for ident, found in (results[SLIDES] or {}).items():
        joint = results.figure.joint(ident)
        missing = results.weightless((ident,))
        if missing:
            yield not_weighed(finding_id("slides", ident), "slides", Ref("joint", ident), joint.name, missing)
        else:
            yield _one(results, joint, found)


def _one(results: Results, joint: Joint, found: Along) -> Finding:
    ident, about = finding_id("slides", joint.id), Ref("joint", joint.id)
    pose, posture = found.worst
    there = Quantity(float(pose[results.tree.index(joint.id)]), "length")
    force = Quantity(found.most, "force", rounding="up")
    asks, where = (force, there), f"at {{1}}{posture_words(results, posture)}"
    drive = results.figure.drive_of(joint.id)
    if joint.role == "follows" and drive is None:
        tied = results.tree.coupling
        leader = results.figure.joint(results.tree.ids[tied.leader[results.tree.index(joint.id)]])
        text = f"{joint.name} follows {leader.name}, which is judged with its load; what joins them must push or pull {{0}} {where}, standing still."
        return Finding(
            ident, "slides", about, "holds", Sentence(text, asks), measure=Sentence("its link bears {0}", (force,)),
            derivations=_derivations(results, joint, found),
        )  # fmt: skip
    why = (
        f"{joint.name} slides and its servo turns: what makes a way of the turn is not judged yet"
        if drive is not None
        else f"{joint.name} has nothing that drives it yet"
    )
    text = f"{why}; it must be held with {{0}} {where}."
    return Finding(
        ident, "slides", about, "not yet judged", Sentence(text, asks), measure=Sentence("asks {0}", (force,)),
        derivations=_derivations(results, joint, found),
    )  # fmt: skip


def _derivations(results: Results, joint: Joint, found: Along) -> tuple[Derivation, ...]:
    """Of its own weight the part along it, and what follows it and is strung to it besides."""
    tree, (pose, posture) = results.tree, found.worst
    j, pull = tree.index(joint.id), results.gravities[posture]
    mass, g = float(carried_mass(tree)[j]), float(np.linalg.norm(pull))
    share = abs(float(place(tree, pose[:, None]).axis[j, :, 0] @ pull)) / g if g > 0 else 0.0
    rest = found.most - mass * g * share
    parts: tuple[Quantity, ...] = (Quantity(mass, "mass"), Quantity(g, "gravity"), Quantity(share, "ratio"))
    text = "{0} carried × {1} × {2} of it along the slide"
    if abs(rest) > 1e-3 * found.most:
        text += (" + " if rest > 0 else " − ") + "{3} of what follows it or is strung to it"
        parts = (*parts, Quantity(abs(rest), "force"))
    return (Derivation("Must be held with", text, parts, Quantity(found.most, "force", rounding="up")),)


def propose(finding: Finding, results: Results) -> Iterable[Proposal]:
    """A linear actuator of a size that is sold, along it."""
    found = (results[SLIDES] or {}).get(finding.subject.id)
    joint = results.figure.joint(finding.subject.id)
    if found is None or finding.verdict == "holds" or results.figure.drive_of(joint.id) is not None:
        return
    wide = joint.range_mm[1] - joint.range_mm[0]
    strokes = [stroke for stroke in helpers()["strokes_mm"] if stroke >= wide + SPARE_MM]
    rubs = results.drag_of(joint.id)
    needs = (found.most + (rubs.high if rubs is not None else 0.0)) * wished(results)
    forces = [force for force in helpers()["forces_N"] if force >= needs]
    if strokes and forces:
        size = (Quantity(strokes[0] / 1e3, "length"), Quantity(forces[0], "force"))
        edit = fit_actuator(results.figure, joint.id, float(strokes[0]), float(forces[0]))
        yield Proposal(edit, Sentence("Linear actuator, {0} of stroke, {1}", size), "actuator")
