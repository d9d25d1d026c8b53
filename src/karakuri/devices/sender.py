"""The sender: a process of its own that keeps 50 frames a second to a board, whatever the window does.

Commands come as JSON lines on its standard input, reports go out as JSON lines on its standard output; see client.py. What it does
with them is in driving.py.
"""

from __future__ import annotations

import contextlib
import gc
import json
import os
import queue
import sys
import threading
import time
from pathlib import Path
from typing import Any

from karakuri.devices.driving import Sender
from karakuri.devices.governor import FRAME_S
from karakuri.devices.program import Program

REPORT_S = 0.1


def main() -> int:
    """Run until the standard input closes; whatever goes wrong, the board is told to park and the fault is told."""
    commands: queue.SimpleQueue[dict[str, Any] | None] = queue.SimpleQueue()
    reports: queue.SimpleQueue[dict[str, Any] | None] = queue.SimpleQueue()
    threading.Thread(target=_read, args=(commands, reports), daemon=True).start()
    writer = threading.Thread(target=_write, args=(reports,), daemon=True)
    writer.start()
    sender = Sender(reports.put)
    sender.hurried = _hurry()
    try:
        return _run(sender, commands, reports)
    except Exception as fault:  # noqa: BLE001 - a figure may be in the air: park first, then tell
        with contextlib.suppress(Exception):
            sender.obey({"do": "leave"})
        reports.put(
            {
                "say": f"The sender stopped on a fault ({type(fault).__name__}: {str(fault)[:200]}).",
                "bad": True,
                "state": "lost",
            }
        )
        return 1
    finally:
        reports.put(None)
        writer.join(1)


def _run(sender: Sender, commands: Any, reports: Any) -> int:
    reported_at = 0.0
    while True:
        try:
            while True:
                command = commands.get_nowait()
                if command is None:
                    sender.obey({"do": "leave"})
                    return 0
                sender.obey(command)
        except queue.Empty:
            pass
        now = time.monotonic()
        if now < sender.due:
            time.sleep(min(sender.due - now, 0.005))
            continue
        sender.tick()
        sender.due = max(sender.due + FRAME_S, time.monotonic() - 2 * FRAME_S)
        if now - reported_at > REPORT_S:
            reported_at = now
            reports.put(sender.news())


def _hurry() -> bool:
    """Ask the system to run this process when its time has come; False where it may not, and goes without."""
    gc.collect()
    gc.freeze()
    for ask in (lambda: os.sched_setscheduler(0, os.SCHED_RR, os.sched_param(10)), lambda: os.nice(-10)):
        with contextlib.suppress(OSError, AttributeError):
            ask()
            return True
    return False


def _read(commands: Any, reports: Any) -> None:
    """Commands from the standard input; programs are read from the disk here, so that no frame waits for it."""
    for text in sys.stdin:
        try:
            command = json.loads(text)
            if command.get("do") == "load":
                command["program"] = Program.load(Path(command["path"]))
                if command.get("discard"):
                    Program.discard(Path(command["path"]))
        except (ValueError, OSError, KeyError, AttributeError, TypeError, RecursionError) as trouble:
            reports.put({"say": f"The sender could not use a command: {str(trouble)[:200]}.", "bad": True, "state": ""})
            continue
        commands.put(command)
    commands.put(None)


def _write(reports: Any) -> None:
    with contextlib.suppress(BrokenPipeError):
        _write_all(reports)


def _write_all(reports: Any) -> None:
    while True:
        report = reports.get()
        if report is None:
            return
        sys.stdout.write(json.dumps(report) + "\n")
        sys.stdout.flush()


if __name__ == "__main__":
    sys.exit(main())
