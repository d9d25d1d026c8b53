"""What other joints do to a rod that reaches over them: how far they move its servo by themselves, and where its ball would have to sit so that they do not."""

from __future__ import annotations

import math
from collections.abc import Iterable

import numpy as np

from karakuri.bodies.linkages import linkage_of, shares
from karakuri.bodies.linkages.at_rest import AtRest
from karakuri.checks.contract import JointResults, Results
from karakuri.model.drive import Drive
from karakuri.model.edit import Edit, Set
from karakuri.model.finding import Derivation, Finding, Proposal, Sentence, finding_id
from karakuri.model.joint import Joint
from karakuri.model.ref import Ref
from karakuri.model.transmission import Ball
from karakuri.units import Quantity

PLACES = 61
FELT = math.radians(0.5)
"""Less than this of a servo's way is within its dead band and play: common practice, no source."""


def crosses(r: JointResults, drive: Drive, form: Ball, results: Results) -> Iterable[Finding]:
    """How far each other joint moves the servo while its own stands at rest; nothing where none does."""
    figure = results.figure
    linkage = linkage_of(figure, drive)
    if not isinstance(linkage, AtRest):
        return
    told = []
    for ident in shares(figure, drive):
        other = figure.joint(ident)
        theirs = figure.drive_of(ident)
        if ident == r.joint.id or (theirs is not None and r.joint.id in shares(figure, theirs)):
            continue  # of two that turn both joints together neither is in the other's way
        by = _moved_by(linkage, [joint.id for joint in figure.joints].index(ident), other)
        if by > FELT:
            told.append((by, other))
    if not told:
        return
    told.sort(key=lambda each: -each[0])
    by, other = told[0]
    wide = math.radians(other.range_deg[1] - other.range_deg[0])
    text = (
        f"{r.joint.name}: {other.name} alone, all of its {{1}}, turns this servo by {{0}} at most; what is played makes up for it. A stick wired straight to the"
        " servo does not."
    )
    quantities = (Quantity(by, "angle", rounding="up"), Quantity(wide, "angle"))
    yield Finding(
        finding_id("linkage", r.joint.id, "crosses"), "linkage", Ref("joint", r.joint.id), "holds", Sentence(text, quantities),
        measure=Sentence("{0} by others", quantities),
        derivations=tuple(
            Derivation(f"{name.name} alone turns it by", "{0}", (Quantity(each, "angle"),), Quantity(each, "angle", rounding="up")) for each, name in told
        ),
    )  # fmt: skip


def _moved_by(linkage: AtRest, row: int, other: Joint) -> float:
    """How far from where it stands at rest the servo goes, rad, for all of one other joint's range."""
    low, high = other.range
    q = np.repeat(linkage.rest[:, None], PLACES + 1, axis=1)
    q[row, 1:] = np.linspace(low, high, PLACES) * other.measure.si
    there = linkage.shared.row(linkage.whole(q)).drive
    return float(np.abs(there - there[0]).max())


def on_axis(r: JointResults, drive: Drive, form: Ball, results: Results) -> Iterable[Proposal]:
    """The ball on the axis of a joint that moves its servo: that joint then only turns it on the spot. The rod as long as the horn then needs it."""
    figure = results.figure
    for ident in shares(figure, drive):
        other = figure.joint(ident)
        if ident == r.joint.id or other.kind != "turn":
            continue
        ball, pivot, axis = (np.array(v) for v in (form.ball_mm, other.at_mm, other.axis))
        axis = axis / np.linalg.norm(axis)
        foot = pivot + float((ball - pivot) @ axis) * axis
        if np.linalg.norm(foot - ball) < 0.1:
            continue
        at = tuple(round(float(v), 2) + 0.0 for v in foot)
        label = Sentence(f"Its ball on the axis of {other.name}")
        fields = dict(form) | {"ball_mm": at, "rod_mm": None}
        edit = Edit(
            f"ball of {r.joint.name} on the axis of {other.name}",
            (Set(("drives", drive.id, "transmission"), Ball(**fields)),),
        )
        yield Proposal(edit, label, f"axis {ident}")
