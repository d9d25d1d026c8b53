"""What holds something on: comes off with a bump, holds, or presses so hard that what turns there drags; the gap to set, and what outgrew it."""

from __future__ import annotations

from collections.abc import Iterable

from karakuri.checks.contract import FASTENED, Results, not_weighed, posture_words, wished
from karakuri.model.edit import Edit
from karakuri.model.fastening import Fastened, HookLoop, MagnetFace
from karakuri.model.fastening_edits import held_by, set_fastening
from karakuri.model.finding import Derivation, Finding, Proposal, Sentence, finding_id, verdict_of
from karakuri.model.ref import Ref
from karakuri.sizing.fastened import HAND_N, FastenedFound, Grip, grip_of
from karakuri.units import Quantity

GAPS_MM = (0.05, 0.1, 0.2, 0.3, 0.5, 0.8, 1.0, 1.5, 2.0, 2.5, 3.0, 4.0, 5.0, 6.0, 8.0, 10.0)
"""As washers and shims add up: common practice, no source."""
COMMON = ((8.0, 3.0), (10.0, 3.0), (12.0, 3.0), (15.0, 3.0), (15.0, 5.0), (20.0, 5.0), (25.0, 5.0))
"""Discs that are sold, wide and thick, mm: common practice, no source."""
TOO_HARD = 6.0
"""So many times what is needed, magnets hold harder than anybody wants who has to take it off."""


def find(results: Results) -> Iterable[Finding]:
    found = {each.i: each for each in results[FASTENED] or ()}
    for i, it in enumerate(results.figure.fastenings):
        unknown = results.weightless(it.carries)
        if unknown:
            yield not_weighed(finding_id("fastened", it.id), "fastened", Ref("fastening", it.id), it.name, unknown)
        elif i in found:
            yield _one(results, it, found[i])


def _one(results: Results, it: Fastened, found: FastenedFound) -> Finding:
    wish = wished(results)
    verdict = verdict_of(found.reserve, wish)
    other = {verdict_of(found.low, wish)} - {verdict}
    could = {"fails": "come off", "tight": "be tight"}
    decides = f"It could {could[other.pop()]}: what it weighs and what it holds with are known so well, no better." if other and found.low < found.reserve else ""  # fmt: skip
    asked = Quantity(found.mass, "mass")
    text = f"{it.name} {_does(found)} {{0}}{posture_words(results, found.posture)}: with a bump of {{1}} times its weight {_asked(found)}, that is {{4}} of what it can."
    if found.reserve < 1 and found.outgrown_by:
        text += f" It is outgrown with {found.outgrown_by}: {{5}} it would hold there."
    elif isinstance(it, MagnetFace) and found.reserve > TOO_HARD and found.grip.pull > HAND_N:
        text += " It takes {6} straight off to undo: more than a hand should need; peel it from one edge, or set a wider gap."  # fmt: skip
    values = (
        asked,
        Quantity(results.figure.assumptions.bump_g, "ratio"),
        Quantity(found.pull, "force", rounding="up"),
        Quantity(found.shear, "force", rounding="up"),
        Quantity(found.used, "percent", rounding="up"),
        Quantity(found.holds_kg, "mass", rounding="down"),
        Quantity(found.grip.pull, "force"),
    )
    return Finding(
        finding_id("fastened", it.id),
        "fastened",
        Ref("fastening", it.id),
        verdict,
        Sentence(text, values),
        reserve=found.reserve,
        derivations=tuple(_derivations(found)),
        decides=Sentence(decides) if decides else None,
    )


def _does(found: FastenedFound) -> str:
    return "lets go of" if found.reserve < 1 else "holds"


def _asked(found: FastenedFound) -> str:
    """What is asked of it most, in words: of the three that come together."""
    shares = {"{2} pull it off": found.pull / found.grip.pull, "{3} shift it": found.shear / found.grip.shear, "it peels from one edge": found.tilt / found.grip.tilt}  # fmt: skip
    return max(shares, key=lambda words: shares[words])


def _derivations(found: FastenedFound) -> Iterable[Derivation]:
    grip = found.grip
    for title, asked, can, kind in (
        ("Straight off", found.pull, grip.pull, "force"),
        ("Along the face", found.shear, grip.shear, "force"),
        ("Peeled from one edge", found.tilt, grip.tilt, "torque"),
    ):
        share = asked / can
        if share > 0.005:
            yield Derivation(title, "{0} ÷ {1}", (Quantity(asked, kind, rounding="up"), Quantity(can, kind, rounding="down")), Quantity(share, "percent", rounding="up"))  # type: ignore[arg-type]  # fmt: skip
    if found.outgrown_by and found.reserve < 1:
        yield Derivation(
            "It would hold, there",
            "{0} × {1}",
            (Quantity(found.mass, "mass"), Quantity(found.reserve, "ratio", rounding="down")),
            Quantity(found.holds_kg, "mass", rounding="down"),
        )


def propose(finding: Finding, results: Results) -> Iterable[Proposal]:
    if finding.verdict in ("holds", "not yet judged"):
        return
    it = next(each for each in results.figure.fastenings if each.id == finding.subject.id)

    def offer(edit: Edit, words: str, group: str, *quantities: Quantity) -> Proposal:
        return Proposal(edit, Sentence(words, quantities), group)

    if isinstance(it, MagnetFace):
        for gap in reversed(GAPS_MM):
            if gap < it.gap_mm:
                yield offer(set_fastening(it, "gap", gap_mm=gap), "Gap {0}", "gap", Quantity(gap / 1e3, "length"))
        for wide, thick in COMMON:
            if wide > it.wide_mm:
                yield offer(set_fastening(it, "discs", wide_mm=wide, thick_mm=thick), "Discs {0} wide, {1} thick", "discs", Quantity(wide / 1e3, "length"), Quantity(thick / 1e3, "length"))  # fmt: skip
    for many in (it.count * 2, it.count * 3, it.count * 4):
        yield offer(set_fastening(it, "number", count=many), f"{many} of them", "number")
    for wider in (1.5, 2.0, 3.0):
        apart = round(it.spread_mm * wider)
        yield offer(set_fastening(it, "spread", spread_mm=float(apart)), "Outermost ones {0} apart", "spread", Quantity(apart / 1e3, "length"))  # fmt: skip
    if isinstance(it, HookLoop):
        yield offer(held_by(it, "magnets"), "By magnets instead", "kind")


def gap_for(it: MagnetFace, reserve: float, target: float) -> float | None:
    """The widest gap, mm, of those that washers and shims make, at which what holds `reserve` times as it is holds `target` times; None where
    none does. All that it holds goes with its pull."""
    now = grip_of(it).pull

    def pull(gap: float) -> Grip:
        return grip_of(MagnetFace(**(dict(it) | {"gap_mm": gap})))

    fits = [gap for gap in GAPS_MM if reserve * pull(gap).pull / now >= target]
    return max(fits) if fits else None
