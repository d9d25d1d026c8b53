"""Starts the sender and talks with it: commands out, reports in. Used by the window and by `karakuri play`."""

from __future__ import annotations

import contextlib
import json
import os
import subprocess
import sys
import tempfile
import threading
from collections.abc import Callable
from pathlib import Path
from typing import Any

from karakuri.devices.program import Program

RIGHTS = (
    "This account may not ask for real-time scheduling, so frames may be late when the machine is busy. "
    "A line such as '@audio - rtprio 20' in /etc/security/limits.d grants it to a group."
)


class SenderProcess:
    """One sender, in a session of its own, so that a Ctrl-C at the terminal is not its end: it must still let the board park.

    `heard(report)` is called from a thread of its own for every report.
    """

    def __init__(self, heard: Callable[[dict[str, Any]], None]) -> None:
        self._heard, self._closing = heard, False
        self._process = subprocess.Popen(
            [sys.executable, "-m", "karakuri.devices.sender"],
            stdin=subprocess.PIPE, stdout=subprocess.PIPE, text=True, bufsize=1, start_new_session=True,
        )  # fmt: skip
        self._thread = threading.Thread(target=self._listen, name="sender", daemon=True)
        self._thread.start()

    @property
    def alive(self) -> bool:
        """Whether the process still runs."""
        return self._process.poll() is None

    def tell(self, do: str, **fields: Any) -> None:
        """One command. A sender that has ended takes none, which is reported."""
        try:
            if self._process.stdin is None or self._process.poll() is not None:
                raise OSError
            self._process.stdin.write(json.dumps({"do": do, **fields}) + "\n")
            self._process.stdin.flush()
        except (OSError, ValueError):
            self._heard({"say": "The sender has ended. Connect again.", "bad": True, "state": "lost"})

    def load(self, program: Program) -> None:
        """Hand over a program, by a file that the sender removes."""
        handle, name = tempfile.mkstemp(prefix="karakuri-", suffix=".npz")
        os.close(handle)
        program.save(Path(name))
        self.tell("load", path=name, discard=True)

    def _listen(self) -> None:
        assert self._process.stdout is not None
        with contextlib.suppress(OSError, ValueError):
            for text in self._process.stdout:
                with contextlib.suppress(ValueError):
                    self._heard(json.loads(text))
        if not self._closing:
            self._heard(
                {"say": "The sender has ended; the board parks by itself. Connect again.", "bad": True, "state": "lost"}
            )

    def close(self) -> None:
        """End the sender; it lets the board go to park."""
        self._closing = True
        with contextlib.suppress(OSError, ValueError):
            if self._process.stdin is not None:
                self._process.stdin.close()
        try:
            self._process.wait(3)
        except subprocess.TimeoutExpired:
            self._process.kill()
            self._process.wait()
        self._thread.join(2)
        if self._process.stdout is not None:
            self._process.stdout.close()
