"""What the rules tell of the results. What is told of a joint stands while its results, and all else it rests on, are as they were."""

from __future__ import annotations

from collections.abc import Iterable
from functools import partial

from karakuri.checks.contract import Results, Rule
from karakuri.checks.unjudged import judged
from karakuri.model.finding import Finding
from karakuri.study.reuse import Reuse


def telling(rules: Iterable[Rule], results: Results, reuse: Reuse) -> list[Finding]:
    """The findings of some rules."""
    context = _context(results)
    out: list[Finding] = []
    for rule in rules:
        out += judged(results, rule.id, partial(_found, rule, reuse=reuse, context=context))
    return out


def _found(rule: Rule, results: Results, reuse: Reuse, context: tuple[object, ...]) -> Iterable[Finding]:
    if rule.each is None:
        yield from rule.find(results)
        return
    for r in results.joints:
        known = reuse.told(rule.id, r, context)
        if known is None:
            known = tuple(rule.each(r, results))
            reuse.keep_told(rule.id, r, context, known)
        yield from known


def _context(results: Results) -> tuple[object, ...]:
    """What a rule of joints may tell beyond a joint's own results: what things are called, postures, the supply, what was measured."""
    figure = results.figure
    names = tuple(source.name for source in results.tree.sources)
    return (
        names,
        results.tree.ids,
        tuple(map(_Same, figure.postures)),
        _Same(figure.supply),
        tuple(map(_Same, figure.record)),
    )


class _Same:
    """Equal to the same object only; keeps it, so that its identity stays its own."""

    __slots__ = ("it",)

    def __init__(self, it: object) -> None:
        self.it = it

    def __eq__(self, other: object) -> bool:
        return isinstance(other, _Same) and other.it is self.it

    def __hash__(self) -> int:
        return id(self.it)
