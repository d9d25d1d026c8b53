"""karakuri play: the score on a board, by the sender. However it ends, the board is told to park, and what happened is told."""

from __future__ import annotations

import argparse
import contextlib
import queue
import signal
import sys
import time
from collections.abc import Iterator
from typing import Any

from msgspec.structs import replace

from karakuri.devices.client import RIGHTS, SenderProcess
from karakuri.devices.prepare import program_of
from karakuri.devices.standins.process import StandIn
from karakuri.errors import FileTrouble, Trouble
from karakuri.model.figure import Figure

CAUTION = "Fingers, hair and scarves get pinched where parts turn. A servo jumps to its place at power-up. Advises, certifies nothing."
PATIENCE_S = 60.0


def play_command(figure: Figure, args: argparse.Namespace) -> int:
    """Join, ask for power, bring every joint to park, play. Raises Trouble. Returns 0, or 1 where the board was lost."""
    if not figure.score.moved:
        raise FileTrouble(
            f"{figure.name} has no score yet; nothing was played.", (), "Lay out ribbons on the Score bench first."
        )
    program = program_of(figure)
    stand_in = StandIn() if args.board == "stand-in" else None
    reports: queue.SimpleQueue[dict[str, Any]] = queue.SimpleQueue()
    sender = SenderProcess(reports.put)
    try:
        with _endings():
            sender.load(replace(program, loops=program.loops and not args.once))
            sender.tell("connect", address=stand_in.address if stand_in else args.board)
            first = _until(reports, ("joined",), lost="No board was joined; nothing was moved.")
            if not first.get("hurried", True):
                _say(RIGHTS)
            _confirm(args.powered)
            sender.tell("power")
            sender.tell("approach")
            _until(reports, ("ready",), longest_s=None)
            sender.tell("play")
            _until(reports, ("playing", "homing"), longest_s=None)
            last = _until(reports, ("ready",), longest_s=None)
            _say(f"{last.get('sent', 0)} frames, {last.get('late', 0)} late by more than 4 ms, the latest by {last.get('worst_ms', 0)} ms.")  # fmt: skip
        return 0
    except KeyboardInterrupt:
        return _stopped(sender, reports)
    except Trouble as trouble:
        _say(str(trouble))
        return 1
    finally:
        sender.close()
        if stand_in is not None:
            stand_in.close()


def _say(text: str) -> None:
    """A terminal that has gone must not keep the board from parking."""
    with contextlib.suppress(OSError):
        print(text, file=sys.stderr, flush=True)


def _confirm(powered: bool) -> None:
    if powered:
        return
    _say(CAUTION)
    try:
        answer = input("Is the board powered and everybody clear? Write yes: ")
    except (EOFError, RuntimeError):  # nobody there, or no input at all
        answer = ""
    if answer.strip().lower() != "yes":
        raise Trouble("Not confirmed; nothing was moved.")


@contextlib.contextmanager
def _endings() -> Iterator[None]:
    """A closed terminal, or being told to end, is a Ctrl-C."""

    def end(number: int, frame: object) -> None:
        raise KeyboardInterrupt

    kept = {s: signal.signal(s, end) for s in (signal.SIGHUP, signal.SIGTERM)}
    try:
        yield
    finally:
        for number, handler in kept.items():
            signal.signal(number, handler)


def _stopped(sender: SenderProcess, reports: queue.SimpleQueue[dict[str, Any]]) -> int:
    """Stop where it is, then to park; says how that went. A second Ctrl-C leaves it to the board."""
    sender.tell("stop")
    sender.tell("park")
    _say("Stopped; going to park. Ctrl-C again leaves that to the board.")
    with contextlib.suppress(KeyboardInterrupt, Trouble):
        _until(reports, ("ready", "confirmed", "joined", "off"), after=("homing",), longest_s=20.0)
        _say("It stands still; the board is let go and told to park.")
        return 0
    _say("The board is let go and told to park; it was not waited for.")
    return 1


def _until(
    reports: queue.SimpleQueue[dict[str, Any]],
    states: tuple[str, ...],
    longest_s: float | None = PATIENCE_S,
    after: tuple[str, ...] = (),
    lost: str = "The board was lost; it parks by itself.",
) -> dict[str, Any]:
    """Wait for a state; what is said on the way is printed. Raises Trouble where the board is lost or nothing is heard any more."""
    last: dict[str, Any] = {}
    begin, passed = time.monotonic(), not after
    while True:
        if longest_s is not None and time.monotonic() - begin > longest_s:
            raise Trouble(f"The board did not come to {states[0]} within {longest_s:g} s.")
        try:
            report = reports.get(timeout=PATIENCE_S if longest_s is None else 1.0)
        except queue.Empty:
            if longest_s is None:
                raise Trouble(f"The sender has said nothing for {PATIENCE_S:g} s; the board parks by itself.") from None
            continue
        if report.get("say"):
            _say(report["say"])
        if report.get("state") == "lost":
            raise Trouble(lost)
        last = {**last, **report}
        passed = passed or report.get("state") in after or time.monotonic() - begin > 1.0
        if passed and report.get("state") in states and "frame" in report:
            return last
