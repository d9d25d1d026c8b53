"""Studies in a process of their own, for a window that must not wait for them: orders in, answers out, the latest order wins.

It is begun by begin.py, on a socket inherited from the window, and ends when the other side does.
"""

from __future__ import annotations

import contextlib
import os
import signal
import threading
import traceback
from multiprocessing.connection import Connection

from msgspec.structs import replace

from karakuri import heap
from karakuri.catalogue import servo_classes
from karakuri.model.channel import JointChannel
from karakuri.model.drive import Drive
from karakuri.model.figure import Figure
from karakuri.model.finding import Finding
from karakuri.model.joint import Joint, Move
from karakuri.model.moves import Row, moves_of
from karakuri.model.part import Part
from karakuri.model.score import Score
from karakuri.study.answers import Answers
from karakuri.study.courier import ANEW, STUDY, Courier
from karakuri.study.orders import Answer, Offer, Order, Studied, portable
from karakuri.study.study import study


class Desk:
    """What lies before the one that studies: the newest order, offers behind it. A thread reads, the main thread works."""

    def __init__(self, wire: Connection) -> None:
        self._wire = wire
        self._courier = Courier(STUDY)
        self._wake = threading.Condition()
        self._order: Order | None = None
        self._offers: list[Offer] = []
        self._told: dict[str, Finding] = {}
        self._ended = False
        self._generation = 0
        self.latest = -1

    def read(self) -> None:
        """Take in what comes until the wire is closed."""
        while True:
            try:
                data = self._wire.recv_bytes()
            except (EOFError, OSError):
                break
            try:
                self._take(data)
            except Exception:  # noqa: BLE001 - one that cannot read its orders is of no use: the window begins another
                traceback.print_exc()
                os._exit(1)
        with self._wake:
            self._ended, self.latest = True, -2
            self._wake.notify()

    def _take(self, data: bytes) -> None:
        with self._wake:
            if data == ANEW:
                self._courier.clear()
                self._generation += 1
                return
            message = self._courier.unpack(data)
            if isinstance(message, Offer):
                self._offers.append(message)
            else:
                self._order = message if isinstance(message, Order) else None
                self._offers, self.latest = [], message.number
            self._wake.notify()

    def tell(self, answer: Answer) -> None:
        """Send an answer: findings, joints, what lies between them and their drives, and what was found of the whole are not sent again where they are as they were."""
        answer = portable(answer)
        shared: tuple[object, ...] = ()
        if isinstance(answer, Studied):
            findings = tuple(map(self._as_told, answer.study.findings))
            self._told = {finding.id: finding for finding in findings}
            answer = replace(answer, study=replace(answer.study, findings=findings))
            results = answer.study.results
            between = (
                each
                for r in results.joints
                if r.geared is not None and r.geared.linkage is None
                for each in r.geared.arrays
            )
            shared = (
                *findings,
                *between,
                *results.joints,
                *(each for each in results.found.values() if each is not None),
            )
        with self._wake:
            packed = self._generation.to_bytes(4, "little") + self._courier.pack(answer, shared)
        with contextlib.suppress(OSError):
            self._wire.send_bytes(packed)

    def _as_told(self, finding: Finding) -> Finding:
        """The same finding as it was told last, where it is the same."""
        told = self._told.get(finding.id)
        return told if told is not None and told == finding else finding

    def work(self) -> None:
        """Answer until the wire is closed."""
        answers, worked = Answers(self.tell, lambda: self.latest), False
        while True:
            with self._wake:
                news = self._wake.wait_for(self._anything, heap.IDLE_S if worked else None)
                if self._ended:
                    return
                order, self._order = self._order, None
                offer = self._offers.pop(0) if order is None and self._offers else None
            if order is not None:
                with heap.held_off() if order.quick else contextlib.nullcontext():
                    answers.order(order)
            if offer is not None:
                answers.offer(offer)
            if not news:
                heap.tidy()
            worked = news

    def _anything(self) -> bool:
        return self._order is not None or bool(self._offers) or self._ended


def warm_up() -> None:
    """Study a figure of one joint while the first order is still being made: what is done for the first time takes longest."""
    joint = Joint(id="j", name="j", move=Move(by=10.0, time_s=0.5))
    part = Part(id="p", name="p", rides_on="j", mass_g=100.0, at_mm=(10.0, 0.0, 30.0), plus_minus_g=10.0)
    drive = Drive(id="d", joint="j", actuator=servo_classes()[0])
    channel = JointChannel(id="c", name="c", joints=("j",), moves=moves_of([Row(0.1, 0.3, 5.0)]))
    study(
        Figure(
            name="f",
            joints=(joint,),
            parts=(part,),
            drives=(drive,),
            scores=(Score(length_s=1.0, channels=(channel,)),),
        )
    )


def main(arguments: list[str]) -> int:
    """Serve on the socket of that number."""
    signal.signal(signal.SIGINT, signal.SIG_IGN)
    with contextlib.suppress(OSError):
        os.nice(5)
    wire = Connection(int(arguments[0]))
    waits = wire.poll(0)  # somebody waits already: the first order is the warmest
    desk = Desk(wire)
    threading.Thread(target=desk.read, name="orders", daemon=True).start()
    if not waits:
        warm_up()
    heap.loaded()
    desk.work()
    return 0
