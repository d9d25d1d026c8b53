"""karakuri play: the score on a board, by the sender."""

from __future__ import annotations

import argparse
import queue
import sys
from dataclasses import replace
from typing import Any

from karakuri.devices.client import SenderProcess
from karakuri.devices.prepare import program_of
from karakuri.devices.standins.process import StandIn
from karakuri.errors import FileTrouble, Trouble
from karakuri.model.figure import Figure

CAUTION = "Fingers, hair and scarves get pinched where parts turn. A servo jumps to its place at power-up. Advises, certifies nothing."


def play_command(figure: Figure, asked: argparse.Namespace) -> int:
    """Join, ask for power, bring every joint to park, play. Raises Trouble. Returns 0, or 1 where the board was lost."""
    if not figure.score.channels:
        raise FileTrouble(
            f"{figure.name} has no score yet; nothing was played.", (), "Lay out ribbons on the Score bench first."
        )
    stand_in = StandIn() if asked.board == "stand-in" else None
    reports: queue.SimpleQueue[dict[str, Any]] = queue.SimpleQueue()
    sender = SenderProcess(reports.put)
    try:
        program = program_of(figure)
        sender.load(replace(program, loops=program.loops and not asked.once))
        sender.tell("connect", address=stand_in.address if stand_in else asked.board)
        _until(reports, ("joined",))
        if not asked.powered:
            print(CAUTION, file=sys.stderr)
            if input("Is the board powered and everybody clear? Write yes: ").strip().lower() != "yes":
                raise Trouble("Not confirmed; nothing was moved.")
        sender.tell("power")
        sender.tell("approach")
        _until(reports, ("ready",))
        sender.tell("play")
        _until(reports, ("playing",))
        last = _until(reports, ("ready",))
        print(f"{last.get('sent', 0)} frames, {last.get('late', 0)} late by more than 4 ms, the latest by {last.get('worst_ms', 0)} ms.", file=sys.stderr)  # fmt: skip
        return 0
    except KeyboardInterrupt:
        sender.tell("stop")
        sender.tell("park")
        print("Stopped; going to park.", file=sys.stderr)
        return 0
    except Trouble as trouble:
        print(trouble, file=sys.stderr)
        return 1
    finally:
        sender.close()
        if stand_in is not None:
            stand_in.close()


def _until(reports: queue.SimpleQueue[dict[str, Any]], states: tuple[str, ...]) -> dict[str, Any]:
    """Wait for a state; what is said on the way is printed. Raises Trouble where the board is lost."""
    last: dict[str, Any] = {}
    while True:
        report = reports.get(timeout=600)
        if report.get("say"):
            print(report["say"], file=sys.stderr)
        if report.get("state") == "lost":
            raise Trouble("The board was lost; it parks by itself.")
        last = {**last, **report}
        if report.get("state") in states and "frame" in report:
            return last
