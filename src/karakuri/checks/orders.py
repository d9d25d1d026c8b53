"""The order of putting together and putting on: circles, what comes too early, what cannot be reached any more, measurements that do not count, what does not come
apart for transport."""

from __future__ import annotations

from collections.abc import Iterable, Sequence

from karakuri.checks.contract import Results
from karakuri.model.finding import Finding, Proposal, Sentence, Verdict, finding_id
from karakuri.model.order import Doing
from karakuri.model.order_edits import put_in_order, related, set_doing
from karakuri.model.ref import Ref
from karakuri.sizing.order import amiss, circle, off, ordered, takes_min
from karakuri.units import Quantity


def find(results: Results) -> Iterable[Finding]:
    order = results.figure.order
    if not order:
        return
    names = {doing.id: doing.name for doing in order}
    round_ = circle(order)
    if round_:
        words = ", which waits for ".join(names[each] for each in (*round_, round_[0]))
        yield Finding(
            finding_id("order"), "order", Ref("doing", round_[0]), "fails", Sentence(f"No order can be kept: {words}."), measure=Sentence(f"{len(round_)} in a circle"),
        )  # fmt: skip
        return
    wrong = False
    for k, doing in enumerate(order):
        for finding in _of_one(order, k, names):
            wrong = wrong or finding.verdict == "fails"
            yield finding
        yield from _apart(order, doing, names)
    if not wrong:
        left = Quantity(takes_min(order) * 60.0, "time")
        text = (
            f"The {len(order)} steps can be kept in this order; what is left takes {{0}}."
            if left.value > 0
            else f"All {len(order)} steps are done, in an order that can be kept."
        )
        yield Finding(
            finding_id("order"),
            "order",
            Ref("doing", order[0].id),
            "holds",
            Sentence(text, (left,)),
            measure=Sentence("{0} to do", (left,)),
        )


def _told(me: Doing, text: str, measure: str, verdict: Verdict = "fails", end: str = "") -> Finding:
    """Of one step; `end` tells what is told of it from what else is."""
    ident = finding_id("order", me.id, *([end] if end else []))
    return Finding(ident, "order", Ref("doing", me.id), verdict, Sentence(text), measure=Sentence(measure))


def _of_one(order: Sequence[Doing], k: int, names: dict[str, str]) -> Iterable[Finding]:
    me, found = order[k], amiss(order, k)
    if found.missing:
        first = names[found.missing[0]]
        text = (
            f"{me.name} does not count: {first} is not on yet while it is measured."
            if me.kind == "measure"
            else f"{me.name} comes too early: it needs {first}, which comes after it."
        )
        yield _told(me, text, f"before {first}")
    if found.shut:
        shutter = next(doing for doing in order if doing.id == found.shut[0])
        never = (
            f", which never comes off again: {me.name} is lost"
            if shutter.for_good and shutter.done and not me.done
            else ""
        )
        text = f"{me.name} cannot be reached any more after {shutter.name}{never}."
        yield _told(me, text, f"shut off by {shutter.name}", end="shut")
    if found.unmet:
        first_name = names[found.unmet[0]]
        text = (
            f"{me.name} was measured without {first_name}: it does not count. Measure it again."
            if me.kind == "measure"
            else f"{me.name} is said to be done, and {first_name}, which it needs, is not."
        )
        yield _told(me, text, f"without {first_name}", "fails" if me.kind == "measure" else "tight", "unmet")


def _apart(order: Sequence[Doing], me: Doing, names: dict[str, str]) -> Iterable[Finding]:
    """Whether what comes off for transport does."""
    if not me.apart:
        return
    found = off(order, me.id)
    about, ident = Ref("doing", me.id), finding_id("order", me.id, "apart")
    if found.stuck:
        yield Finding(
            ident,
            "order",
            about,
            "fails",
            Sentence(f"{me.name} does not come off for transport: {names[found.stuck[0]]} never comes off again."),
            measure=Sentence("does not come apart"),
        )
        return
    first = [names[each] for each in found.steps if each != me.id]
    text = (
        f"{me.name} comes off for transport by itself."
        if not first
        else f"{me.name} comes off for transport once {', then '.join(first)} {'is' if len(first) == 1 else 'are'} off."
    )
    yield Finding(ident, "order", about, "holds", Sentence(text), measure=Sentence(f"{len(first)} off before it"))


def propose(finding: Finding, results: Results) -> Iterable[Proposal]:
    figure = results.figure
    if finding.verdict == "holds":
        return
    round_ = circle(figure.order)
    if round_:
        names = {doing.id: doing.name for doing in figure.order}
        for me, other in zip(round_, (*round_[1:], round_[0]), strict=True):
            doing = next(each for each in figure.order if each.id == me)
            field = "needs" if other in doing.needs else "shuts"
            words = (
                f"{names[me]} without {names[other]}" if field == "needs" else f"{names[other]} after {names[me]} too"
            )
            yield Proposal(related(figure, me, field, other, False), Sentence(words), f"circle {me}")
        return
    ids = ordered(figure.order)
    if ids is not None and ids != tuple(doing.id for doing in figure.order):
        yield Proposal(put_in_order(figure, ids), Sentence("Put the steps in an order that can be kept"), "order")
    if finding.id.endswith(".unmet"):
        yield Proposal(set_doing(figure, finding.subject.id, "not done", done=False), Sentence("Do it again"), "again")
