"""Findings: what holds, what is tight, what fails, said in quantities so that any choice of units can show it."""

from __future__ import annotations

import math
import re
from typing import Literal

from karakuri.errors import BadQuantity
from karakuri.frozen import Frozen
from karakuri.model.edit import Edit
from karakuri.model.ref import Ref
from karakuri.units import Quantity, Units, calculate, digits, rounded, show

Verdict = Literal["holds", "tight", "fails", "not yet judged"]
VERDICTS: tuple[Verdict, ...] = ("fails", "not yet judged", "tight", "holds")


def _filled(text: str, parts: list[str]) -> str:
    """The text with {0}, {1}, … filled in; any other brace is a builder's own and stays."""
    return re.sub(r"\{(\d)\}", lambda m: parts[int(m[1])] if int(m[1]) < len(parts) else m[0], text)


class Sentence(Frozen):
    """A text with places {0}, {1}, … for quantities."""

    text: str
    quantities: tuple[Quantity, ...] = ()

    def show(self, units: Units) -> str:
        """The sentence in a choice of units."""
        return _filled(self.text, [show(q, units) for q in self.quantities])


class Derivation(Frozen):
    """How a number came about: a title, a sum with places {0}… and the number it ends in.

    The sum is worked out from the written, rounded parts; digits are added until it gives the written result.
    """

    title: str
    text: str
    quantities: tuple[Quantity, ...]
    result: Quantity
    in_title: tuple[Quantity, ...] = ()

    def show_title(self, units: Units) -> str:
        """The title in a choice of units."""
        return _filled(self.title, [show(q, units) for q in self.in_title])

    def show(self, units: Units) -> str:
        """The written sum, ending in '= value unit', true to its last digit in these units."""
        text, kept = self._for(units)
        for extra in range(5):
            parts = [show(q, units, extra, written=True) for q in kept]
            if self._comes_out(text, kept, units, extra):
                return _filled(text, parts) + f" =\u00a0{show(self.result, units)}"
        parts = [show(q, units, 3, written=True) for q in kept]
        return _filled(text, parts) + f" = {show(self.result, units, 3)}"

    def _for(self, units: Units) -> tuple[str, tuple[Quantity, ...]]:
        if not units.gravitational:
            return self.text, self.quantities
        text = self.text
        for i, q in enumerate(self.quantities):
            if q.kind == "gravity":
                text = text.replace(f" × {{{i}}}", "")
        return text, self.quantities

    def _comes_out(self, text: str, kept: tuple[Quantity, ...], units: Units, extra: int) -> bool:
        values: dict[str, float] = {}
        for i, q in enumerate(kept):
            unit = units.unit(q.kind, True)
            written = (
                show(q, units, extra, written=True).split(unit.label)[0] if unit.label else show(q, units, extra, True)
            )
            values[f"q{i}"] = calculate(re.sub(r"[\u00a0\u2009]", "", written)) * unit.si
        formula = re.sub(r"(cos|sin|tan) \{(\d+)\}", r"\1(q\2)", text)
        formula = re.sub(r"\{(\d+)\}", r"q\1", formula)
        formula = re.sub(r"\b(?!cos|sin|tan|q\d)[a-z][a-z ,]*", " ", formula)
        try:
            worth = calculate(formula, values)
        except BadQuantity:  # so short, what is divided by is 0
            return False
        if text is not self.text and self.result.kind == "torque":
            worth *= next((q.value for q in kept if q.kind == "gravity"), 1.0)
        unit = units.unit(self.result.kind)
        target = show(self.result, units)
        again = show(Quantity(worth, self.result.kind, rounding=self.result.rounding), units)
        return target == again and unit.si > 0


def finding_id(rule: str, *about: str | int) -> str:
    """The id of a finding: its rule and what tells it from others of that rule. Never parsed, only compared."""
    return ".".join(map(str, (rule, *about)))


class Proposal(Frozen):
    """An edit that may help. Of those with one group only the first that holds is offered, else the first that is tight."""

    edit: Edit
    label: Sentence
    group: str


class Remedy(Frozen):
    """A proposed edit with what it gave when the edited figure was studied whole, and what else got worse."""

    edit: Edit
    label: Sentence
    verdict: Verdict
    reserve: float | None
    worse: tuple[str, ...] = ()


class Action(Frozen):
    """What a person must do where no edit can help: go to a field of what it points at."""

    label: str
    subject: Ref
    field: str


class Finding(Frozen):
    """One verdict of one rule about one subject. `reserve` is capacity ÷ demand, or None where `measure` speaks.

    `move` is the move of the score it is about, `at_s` when in the score.
    """

    id: str
    rule: str
    subject: Ref
    verdict: Verdict
    sentence: Sentence
    reserve: float | None = None
    reserve_low: float | None = None
    reserve_high: float | None = None
    demand: Quantity | None = None
    capacity: Quantity | None = None
    measure: Sentence | None = None
    derivations: tuple[Derivation, ...] = ()
    decides: Sentence | None = None
    actions: tuple[Action, ...] = ()
    move: Ref | None = None
    at_s: float | None = None

    def sort_key(self) -> tuple[int, int, float, str]:
        """Fails, not yet judged, tight, holds; within one those without a ratio first, then by reserve."""
        return (VERDICTS.index(self.verdict), 0 if self.reserve is None else 1, round(self.reserve or 0.0, 4), self.id)


def verdict_of(reserve: float, wished_margin: float) -> Verdict:
    """fails below 1, tight below the wished margin, else holds; from the exact value."""
    return "fails" if reserve < 1.0 else "tight" if reserve < wished_margin else "holds"


def show_reserve(reserve: float) -> str:
    """Two decimals, rounded down, so that a number never says better than its mark; "> 100" from there."""
    if not math.isfinite(reserve) or reserve >= 100:
        return "> 100"
    return digits(rounded(reserve, 2, "down"), 2)
