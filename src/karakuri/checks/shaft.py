"""Side load and tilting moment on what carries a joint; on a bare spline also the lean it gives at the rim."""

from __future__ import annotations

from collections.abc import Iterable

from karakuri.catalogue import permitted_moment_Nm, support_name
from karakuri.checks.contract import JointResults, Results, torque, wished
from karakuri.model.edit import Edit, Set
from karakuri.model.finding import Derivation, Finding, Proposal, Sentence, verdict_of
from karakuri.model.joint import Support, SupportKind
from karakuri.sizing.shaft import Shaft
from karakuri.units import Quantity

_ORDER: tuple[SupportKind, ...] = ("spline", "bush", "bearing_pair", "turntable")


def find(results: Results) -> Iterable[Finding]:
    for r in results.joints:
        if r.shaft is not None and not r.missing:
            yield _one(r, r.shaft, results)


def _one(r: JointResults, s: Shaft, results: Results) -> Finding:
    verdict = verdict_of(s.reserve, wished(results))
    low, high = s.reserve * (1 - s.spread), s.reserve * (1 + s.spread)
    by_side = (
        s.permitted_side is not None and s.side > 0 and s.permitted_side / s.side < s.permitted / max(s.moment, 1e-12)
    )
    what = support_name(r.joint.support.kind)
    guess = ", an estimate ± 50 %" if s.spread else ""
    lean = "; leans {2} at the rim" if s.lean is not None else ""
    third = Quantity(s.lean or 0.0, "length", rounding="up")
    does = "carries" if s.reserve >= 1 else "cannot carry"
    if by_side and s.permitted_side is not None:
        demand, capacity = (
            Quantity(s.side, "force", rounding="up"),
            Quantity(s.permitted_side, "force", rounding="down"),
        )
        text = f"{r.joint.name}: {what} {does} {{0}} from the side; {{1}} is permitted{guess}{lean}."
    else:
        demand, capacity = torque(s.moment, "up"), torque(s.permitted, "down")
        text = f"{r.joint.name}: {what} {does} {{0}} of tilting moment; {{1}} is permitted{guess}{lean}."
    decides = None
    if s.spread and {verdict_of(low, wished(results)), verdict_of(high, wished(results))} != {verdict}:
        decides = Sentence("The permitted moment is an estimate; its data sheet, or a bearing, would decide it.")
    return Finding(
        f"shaft.{r.joint.id}",
        "shaft",
        r.joint.id,
        "drive",
        verdict,
        Sentence(text, (demand, capacity, third)),
        s.reserve,
        low,
        high,
        demand,
        capacity,
        derivations=_derivations(s),
        decides=decides,
    )


def _derivations(s: Shaft) -> tuple[Derivation, ...]:
    if s.lean is None or s.reach <= 0:
        return ()
    return (
        Derivation(
            "Leans at the rim, estimate",
            "({0} play ÷ 2 + {1} ÷ {2}) × {3}",
            (
                Quantity(s.play, "angle"),
                torque(s.moment),
                Quantity(s.stiffness, "stiffness"),
                Quantity(s.reach, "length"),
            ),
            Quantity(s.lean, "length", rounding="up"),
        ),
    )


def propose(finding: Finding, results: Results) -> Iterable[Proposal]:
    if finding.verdict == "holds":
        return
    r = results.of(finding.subject)
    if r.shaft is None:
        return
    for kind in _ORDER[_ORDER.index(r.joint.support.kind) + 1 :]:
        permitted = permitted_moment_Nm(kind)
        if permitted is None or (r.shaft.moment > 0 and permitted / r.shaft.moment < 1):
            continue
        edit = Edit(
            f"put {support_name(kind)} under {r.joint.name}",
            (Set(("joints", r.joint.id, "support"), Support(kind=kind)),),
        )
        yield Proposal(edit, Sentence(f"{support_name(kind)[0].upper()}{support_name(kind)[1:]}"), "bearing")
