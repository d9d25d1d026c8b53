"""Starts the stand-in board and keeps its address."""

from __future__ import annotations

import contextlib
import subprocess
import sys

from karakuri.devices.protocol import BoardTrouble


class StandIn:
    """A running stand-in board. `address` is what a sender connects to."""

    def __init__(self, terminal: bool = False, outputs: int = 16) -> None:
        self.outputs = outputs
        command = [
            sys.executable,
            "-m",
            "karakuri.devices.standins.board",
            "--outputs",
            str(outputs),
            *(["--pty"] if terminal else []),
        ]
        self._process = subprocess.Popen(command, stdin=subprocess.PIPE, stdout=subprocess.PIPE, text=True)
        assert self._process.stdout is not None
        line = self._process.stdout.readline()
        if not line.startswith("ADDRESS "):
            self.close()
            raise BoardTrouble(f"The stand-in board did not start; expected its address, found {line[:60]!r}.")
        self.address = line.removeprefix("ADDRESS ").strip()

    @property
    def alive(self) -> bool:
        """Whether it still runs."""
        return self._process.poll() is None

    def close(self) -> None:
        """End it."""
        for pipe in (self._process.stdin, self._process.stdout):
            with contextlib.suppress(OSError, ValueError):
                if pipe is not None:
                    pipe.close()
        try:
            self._process.wait(1)
        except subprocess.TimeoutExpired:
            self._process.kill()
            self._process.wait()
