"""Answers to orders for studies, wherever they run: the study first, then remedies of what does not hold, worst first."""

from __future__ import annotations

import time
from collections.abc import Callable

from karakuri.course import Course, GivenUp
from karakuri.model.finding import Finding
from karakuri.study.orders import Answer, Broke, Finished, Offer, Order, Remedied, Studied, Went
from karakuri.study.remedies import remedies
from karakuri.study.reuse import Reuse
from karakuri.study.studied import Study
from karakuri.study.study import further, study

FIRST_AFTER_S, EACH_S = 0.7, 0.2


def wanted(findings: tuple[Finding, ...]) -> list[Finding]:
    """Findings whose remedies are computed at once, in the order of the strip; others when their card asks for them."""
    return [f for f in findings if f.verdict != "holds"]


class Answers:
    """Keeps what can be reused from one order to the next. `latest()` is the number of the newest order: older ones are given up."""

    def __init__(self, tell: Callable[[Answer], None], latest: Callable[[], int]) -> None:
        self._tell, self._latest = tell, latest
        self._reuse = Reuse()
        self._last: Study | None = None

    def order(self, order: Order) -> None:
        """Study a figure and tell of it. Never raises: what goes wrong is told."""

        def stale() -> bool:
            return self._latest() != order.number

        begin = time.perf_counter()
        try:
            heard = None if order.heard is None else {each.sha256: each for each in order.heard}
            done = study(
                order.figure,
                self._reuse,
                order.quick,
                course=self._course(order.number),
                base=self._last,
                heard=heard,
                apart=True,
            )
        except GivenUp:
            return
        except Exception as trouble:  # noqa: BLE001 - whatever goes wrong in a study must reach the person
            self._tell(Broke(order.number, f"{type(trouble).__name__}: {trouble}"))
            return
        if stale():
            return
        self._last = done
        self._tell(Studied(order.number, done, time.perf_counter() - begin))
        if order.quick:
            return
        for finding in wanted(done.findings):
            self._offer(order.number, done, finding)
        self._further(order.number, done)
        if not stale():
            self._tell(Finished(order.number))

    def _further(self, number: int, done: Study) -> None:
        """What takes longer than a hand waits for: what it does by itself."""
        begin = time.perf_counter()
        try:
            more = further(done, self._reuse, self._course(number))
        except GivenUp:
            return
        except Exception as trouble:  # noqa: BLE001 - as above
            self._tell(Broke(number, f"{type(trouble).__name__}: {trouble}"))
            return
        if more is not None and self._latest() == number:
            self._last = more
            self._tell(Studied(number, more, time.perf_counter() - begin, further=True))

    def _course(self, number: int) -> Course:
        """Tells how far it is where it takes long, now and then; given up once there is a newer order."""
        last = time.perf_counter() + FIRST_AFTER_S - EACH_S

        def went(what: str, share: float) -> None:
            nonlocal last
            if time.perf_counter() - last > EACH_S:
                last = time.perf_counter()
                self._tell(Went(number, what, share))

        return Course(lambda: self._latest() != number, went)

    def offer(self, offer: Offer) -> None:
        """Remedies of one finding of the last study, such as a smaller class for an oversized servo."""
        finding = self._last.finding(offer.finding) if self._last is not None else None
        if self._last is not None and finding is not None:
            self._offer(offer.number, self._last, finding)

    def _offer(self, number: int, done: Study, finding: Finding) -> None:
        def stale() -> bool:
            return self._latest() != number

        if stale():
            return
        try:
            offered = remedies(done, finding, self._reuse, stale)
        except Exception:  # noqa: BLE001 - a fault in one way out must not take the others away
            offered = ()
        if not stale():
            self._tell(Remedied(number, finding.id, offered))
