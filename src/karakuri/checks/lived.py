"""What a figure does by itself, lived for a while and judged as a score is: told in one sentence."""

from __future__ import annotations

from collections.abc import Iterable

from karakuri.checks.contract import LIVED, Results
from karakuri.checks.phrases import counted
from karakuri.model.finding import Finding, Sentence, finding_id
from karakuri.model.ref import Ref
from karakuri.units import Quantity


def find(results: Results) -> Iterable[Finding]:
    lived, ref = results[LIVED], Ref("behaviour")
    if lived is None:
        return
    long, sample = (
        Quantity(lived.score.length_s, "time"),
        "with two simulated visitors and then every one of its states",
    )
    if not lived.wrong and lived.unheard:
        text = f"What it does by itself holds as far as it is known, lived for {{0}} {sample}; not how its jaw goes with what nobody listened to: {', '.join(lived.unheard)}."
        yield Finding(finding_id("lived"), "lived", ref, "not yet judged", Sentence(text, (long,)), measure=Sentence("a sound is not listened to"))  # fmt: skip
        return
    if not lived.wrong:
        text = f"What it does by itself holds in all that is judged of it, lived for {{0}} {sample}; others may ask for more."
        yield Finding(finding_id("lived"), "lived", ref, "holds", Sentence(text, (long,)), measure=Sentence("{0} of it hold", (long,)))  # fmt: skip
        return
    worst, (count, word) = lived.wrong[0], counted(lived.wrong)
    text = f"In what it does by itself, lived for {{{len(worst.sentence.quantities)}}} {sample}, {count} {word}. {worst.sentence.text}"
    told = Sentence(text, (*worst.sentence.quantities, long))
    yield Finding(finding_id("lived"), "lived", ref, worst.verdict, told, reserve=worst.reserve, measure=Sentence(f"{count} {word}"))  # fmt: skip
