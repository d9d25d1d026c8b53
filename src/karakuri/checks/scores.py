"""The scores that are not in hand: each is judged as if it were, and told in one sentence."""

from __future__ import annotations

from collections.abc import Iterable

from karakuri.checks.contract import OTHERS, OtherScore, Results
from karakuri.checks.phrases import counted
from karakuri.model.finding import Finding, Sentence, finding_id
from karakuri.model.ref import Ref


def find(results: Results) -> Iterable[Finding]:
    for other in results[OTHERS] or ():
        yield _of(other)


def _of(other: OtherScore) -> Finding:
    name = other.score.name
    if not other.wrong:
        text = Sentence(f"“{name}”, which is not in hand, holds in all that is judged of it.")
        return Finding(finding_id("scores", other.score.id), "scores", Ref("score", other.score.id), "holds", text, measure=Sentence("all of it holds"))  # fmt: skip
    worst, (count, word) = other.wrong[0], counted(other.wrong)
    sentence = Sentence(
        f"In “{name}”, which is not in hand, {count} {word}. {worst.sentence.text}", worst.sentence.quantities
    )
    return Finding(
        finding_id("scores", other.score.id), "scores", Ref("score", other.score.id), worst.verdict, sentence,
        reserve=worst.reserve, measure=Sentence(f"{count} {word}"),
    )  # fmt: skip
