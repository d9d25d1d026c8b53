"""What a joint rubs with: its share of the drive, whether it stays where it is left, whether its spring still brings it back."""

from __future__ import annotations

from collections.abc import Iterable

from karakuri.catalogue import bearing_name, bearing_share
from karakuri.checks.contract import (
    DRAGS,
    HANGS,
    RETURNS,
    JointResults,
    Results,
    angle,
    angle_words,
    posture_words,
    torque,
    wished,
)
from karakuri.model.drag import Bearing, BearingKind
from karakuri.model.edit import Edit, Set
from karakuri.model.finding import Action, Derivation, Finding, Proposal, Sentence, Verdict, finding_id, verdict_of
from karakuri.model.joint import Joint
from karakuri.model.ref import Ref
from karakuri.sizing.drag import Dragging, Returning
from karakuri.units import Kind, Quantity

JERKS_FROM = 1 / 3
"""A joint that rubs with more than this of what its servo has in passing sets off with a jerk: common practice, no source."""
BETTER: tuple[BearingKind, ...] = ("greased print", "bush", "ball bearing")


def find(results: Results) -> Iterable[Finding]:
    back = {each.j: each for each in results[RETURNS] or ()}
    driven = {r.joint.id: r for r in results.joints}
    tips = {each[0].j for each in results[HANGS] or () if min(hung.reserve for hung in each) < 1}  # said there
    for drag in results[DRAGS] or ():
        joint = results.figure.joint(results.tree.ids[drag.j])
        if joint.id in driven:
            if driven[joint.id].can is not None and not driven[joint.id].missing:
                yield _driven(results, driven[joint.id], drag)
        elif drag.j in back and not results.weightless((joint.id,)) and drag.j not in tips:
            yield _returned(results, joint, drag, back[drag.j])


def _driven(results: Results, r: JointResults, own: Dragging) -> Finding:
    drag, joint = r.drag or own, r.joint
    assert r.can is not None
    has = r.can.intermittent

    def verdict_at(value: float) -> Verdict:
        verdict = verdict_of(has / value if value > 0 else float("inf"), wished(results))
        return "tight" if verdict == "holds" and value > JERKS_FROM * has else verdict

    verdict = verdict_at(drag.value)
    held = abs(r.hold.worst.hold)
    left = (
        "it stays where it is left when its servo is off"
        if held <= drag.low
        else "whether it stays where it is left when its servo is off, what is guessed decides"
        if held <= drag.high
        else "with its servo off it sinks"
    )
    jerks = ", so that it sets off with a jerk" if drag.value > JERKS_FROM * has else ""
    text = f"{joint.name} rubs with {{0}}, {{1}} of what its servo has in passing{jerks}; {left}."
    other = {verdict_at(drag.low), verdict_at(drag.high)} - {verdict}
    return Finding(
        finding_id("drag", joint.id),
        "drag",
        Ref("joint", joint.id),
        verdict,
        Sentence(text, (torque(drag.value, "up"), Quantity(drag.value / has, "percent", rounding="up"))),
        reserve=has / drag.value if drag.value > 0 else None,
        reserve_low=has / drag.high if drag.high > 0 else None,
        reserve_high=has / drag.low if drag.low > 0 else None,
        demand=torque(drag.value, "up"),
        capacity=torque(has, "down"),
        derivations=tuple(_derivations(joint, own)),
        decides=_decides(other),
    )


def _returned(results: Results, joint: Joint, drag: Dragging, back: Returning) -> Finding:
    kind: Kind = "torque" if joint.kind == "turn" else "force"

    def reserve_at(value: float) -> float:
        return back.torque / value if value > 0 else float("inf")

    reserve = reserve_at(drag.value)
    verdict = verdict_of(reserve, wished(results))
    where = angle_words(joint, back.at).replace("{0}", "{2}") if joint.kind == "turn" else "at {2}"
    does = "still brings it back" if reserve >= 1 else "does not bring it back"
    at = f"{where.removeprefix('at ')}{posture_words(results, back.posture)}"
    if back.torque <= 0:
        text = f"{joint.name}: its spring does not bring it back from {at}: weight pulls it on with {{1}}."
    else:
        text = (
            f"{joint.name}: its spring {does}: {{1}} where it is weakest, from {at}, against {{0}} that it rubs with."
        )
    place = angle(back.at) if joint.kind == "turn" else Quantity(back.at, "length")
    other = {verdict_of(reserve_at(value), wished(results)) for value in (drag.low, drag.high)} - {verdict}
    return Finding(
        finding_id("drag", joint.id),
        "drag",
        Ref("joint", joint.id),
        verdict,
        Sentence(
            text, (Quantity(drag.value, kind, rounding="up"), Quantity(abs(back.torque), kind, rounding="down"), place)
        ),
        reserve=max(reserve, 0.0),
        reserve_low=max(reserve_at(drag.high), 0.0),
        reserve_high=max(reserve_at(drag.low), 0.0),
        demand=Quantity(drag.value, kind, rounding="up"),
        capacity=Quantity(max(back.torque, 0.0), kind, rounding="down"),
        derivations=tuple(_derivations(joint, drag)),
        decides=_decides(other),
        actions=(Action(f"Say what {joint.name} rubs in", Ref("joint", joint.id), "drag"),)
        if joint.drag is None
        else (),
    )


def _decides(other: set[Verdict]) -> Sentence | None:
    if not other:
        return None
    return Sentence(
        f"What it rubs with could make it {' or '.join(sorted(other))}: two pulls with a scale would decide it."
    )


def _derivations(joint: Joint, drag: Dragging) -> Iterable[Derivation]:
    if not isinstance(joint.drag, Bearing) or joint.kind != "turn":
        return
    for kind in (joint.drag.bearing, *_better(joint.drag.bearing)):
        share = bearing_share(kind)
        title = "Rubs with, estimate ± 50 %" if kind == joint.drag.bearing else f"As {bearing_name(kind)}"
        yield Derivation(
            title,
            "{0} × ({1} × {2} + {3})",
            (Quantity(share, "ratio"), Quantity(drag.force, "force"), Quantity(drag.radius, "length"), torque(drag.moment)),
            torque(share * (drag.force * drag.radius + drag.moment), "up"),
        )  # fmt: skip


def _better(kind: BearingKind) -> tuple[BearingKind, ...]:
    return tuple(other for other in BETTER if bearing_share(other) < bearing_share(kind))


def propose(finding: Finding, results: Results) -> Iterable[Proposal]:
    if finding.verdict == "holds":
        return
    joint = results.figure.joint(finding.subject.id)
    if not isinstance(joint.drag, Bearing):
        return
    for kind in _better(joint.drag.bearing):
        step = Set(("joints", joint.id, "drag", "bearing"), kind)
        name = bearing_name(kind)
        yield Proposal(
            Edit(f"put {joint.name} into a {name}", (step,)),
            Sentence(f"{name[0].upper()}{name[1:]}"),
            f"bearing {kind}",
        )
