"""Chains of sizes: whether the gap stays between its bounds as parts vary, likely and at worst; which size to change, which to measure."""

from __future__ import annotations

import math
from collections.abc import Iterable

from karakuri.checks.contract import Results, wished
from karakuri.model.chain import Chain, Link
from karakuri.model.chain_edits import set_chain, set_link
from karakuri.model.finding import Action, Derivation, Finding, Proposal, Sentence, Verdict, finding_id, verdict_of
from karakuri.model.ref import Ref
from karakuri.sizing.chains import Gap, changed, gap_of, wedge_grows
from karakuri.units import Quantity

FINE_MM, MOST_TOLD, MUCH = 0.05, 12, 0.4
"""Sizes are offered in steps of so much; so many links are written in a derivation; from so large a share on one is worth measuring."""


def find(results: Results) -> Iterable[Finding]:
    for chain in results.figure.chains:
        if chain.links:
            yield _one(results, chain)


def _length(value: float, rounding: str = "nearest") -> Quantity:
    return Quantity(value, "length", rounding="up" if rounding == "up" else "down" if rounding == "down" else "nearest")


def _one(results: Results, chain: Chain) -> Finding:
    gap = gap_of(chain)
    reserve = gap.reserve(chain.judge)
    verdict: Verdict = verdict_of(reserve, wished(results)) if math.isfinite(reserve) else "holds"
    off = gap.off(chain.judge)
    low, high = gap.middle - off, gap.middle + off
    near_least = gap.middle - gap.least <= gap.most - gap.middle
    quantities = (
        _length(gap.middle),
        _length(low, "down"),
        _length(high, "up"),
        _length(gap.least),
        _length(gap.most if math.isfinite(gap.most) else 0.0),
    )
    may = "may be" if chain.judge == "worst" else "is likely to be"
    must = "at least {3} must stay" if near_least else "{4} is the most it may be"
    if gap.room < 0:
        text = f"{chain.name}: {{0}} of gap in the middle, but {must}."
    elif reserve < 1:
        text = f"{chain.name}: {{0}} of gap, which {may} {{1}} to {{2}} as the parts vary; {must}."
    else:
        text = f"{chain.name}: {{0}} of gap stays {{1}} to {{2}} as the parts vary; {must}."
    decides = None
    other = verdict_of(gap.reserve("worst"), wished(results)) if math.isfinite(gap.reserve("worst")) else "holds"
    if chain.judge == "likely" and other != verdict:
        decides = Sentence(f"At worst, all off the same way, it comes out as {other}.")
    measure = _to_measure(chain, gap) if verdict != "holds" else None
    return Finding(
        finding_id("fits", chain.id), "fits", Ref("chain", chain.id), verdict, Sentence(text, quantities), reserve=reserve if math.isfinite(reserve) else None,
        measure=None if math.isfinite(reserve) else Sentence("{0}, nothing off", quantities[:1]), derivations=_derivations(chain, gap), decides=decides,
        actions=(Action(f"Measure {measure.name}", Ref("chain", chain.id), "size"),) if measure is not None else (),
    )  # fmt: skip


def _to_measure(chain: Chain, gap: Gap) -> Link | None:
    """What is only guessed and decides most of how far it is likely to be off."""
    k = max(range(len(chain.links)), key=lambda n: gap.shares[n])
    return chain.links[k] if chain.links[k].origin != "weighed" and gap.shares[k] >= MUCH else None


def _derivations(chain: Chain, gap: Gap) -> tuple[Derivation, ...]:
    if len(chain.links) > MOST_TOLD:
        return ()
    return (_summed(chain, gap), _likely(chain, gap), _worst(chain, gap), *_wedged(chain))


def _summed(chain: Chain, gap: Gap) -> Derivation:
    text, quantities = "", list[Quantity]()
    for link in chain.links:
        sign = ("" if not text else " + ") if link.adds else ("− " if not text else " − ")
        factor = f"{link.count} × " if link.count > 1 else ""
        factor = (
            f"3.14159 × {factor}"
            if abs(link.times - math.pi) < 1e-6
            else f"{link.times:g} × {factor}"
            if link.times != 1
            else factor
        )
        text += f"{sign}{factor}{{{len(quantities)}}}"
        quantities.append(_length(link.mm / 1e3))
    return Derivation("Gap in the middle", text, tuple(quantities), _length(gap.middle))


def _likely(chain: Chain, gap: Gap) -> Derivation:
    parts, quantities = [], list[Quantity]()
    for link in chain.links:
        if link.plus_minus_mm > 0:
            count = f"{link.count} × " if link.count > 1 else ""
            parts.append(f"{count}({{{len(quantities)}}})²")
            quantities.append(_length(link.times * link.plus_minus_mm / 1e3))
    return Derivation(
        "Likely off by",
        f"root of ({' + '.join(parts)})" if parts else "nothing is off",
        tuple(quantities),
        _length(gap.likely, "up"),
    )


def _worst(chain: Chain, gap: Gap) -> Derivation:
    parts, quantities = [], list[Quantity]()
    for link in chain.links:
        if link.plus_minus_mm > 0:
            parts.append(f"{f'{link.count} × ' if link.count > 1 else ''}{{{len(quantities)}}}")
            quantities.append(_length(link.times * link.plus_minus_mm / 1e3))
    return Derivation(
        "At worst off by", " + ".join(parts) or "nothing is off", tuple(quantities), _length(gap.worst, "up")
    )


def _wedged(chain: Chain) -> tuple[Derivation, ...]:
    if chain.kind != "ring":
        return ()
    wedge = next((link for link in chain.links if link.may_change), None)
    if wedge is None or wedge.mm <= 0:
        return ()
    return (
        Derivation(
            "The wedge makes it larger across by",
            "{0} ÷ 3.14159",
            (_length(wedge.mm / 1e3),),
            _length(wedge_grows(wedge.mm / 1e3)),
        ),
    )


def propose(finding: Finding, results: Results) -> Iterable[Proposal]:
    """Another size where one may be chosen; all of what decides measured; what is likely instead of what may be at worst."""
    chain = next((chain for chain in results.figure.chains if chain.id == finding.subject.id), None)
    if chain is None or finding.verdict == "holds":
        return
    for number, link in enumerate(chain.links):
        new = changed(chain, number, wished(results) * 1.05) if link.may_change else None
        if new is not None and abs(new - link.mm) >= FINE_MM / 2:
            size = round(round(new / FINE_MM) * FINE_MM, 3)
            words, by = link.name[:1].upper() + link.name[1:], size - link.mm
            label = Sentence(f"{words} {{0}} {'more' if by > 0 else 'less'}", (_length(abs(by) / 1e3),))
            yield Proposal(set_link(results.figure, chain.id, number, link.name, mm=size), label, f"size {number}")
    for number, link in enumerate(chain.links):
        if link.may_change and link.count > 1:
            for count in (link.count - 1, link.count + 1):
                label = Sentence(f"{count} {link.name} instead of {link.count}")
                yield Proposal(
                    set_link(results.figure, chain.id, number, link.name, count=count), label, f"count {number}"
                )
    if chain.judge == "worst" and gap_of(chain).reserve("likely") >= 1:
        yield Proposal(
            set_chain(results.figure, chain.id, "judged by", judge="likely"),
            Sentence("Judge it by what is likely"),
            "judge",
        )
