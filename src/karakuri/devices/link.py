"""The wire to a board: TCP, a pseudo-terminal or a serial port, by address. Never blocks longer than it is told.

A plain file is never opened: what is written to a board would overwrite it.
"""

from __future__ import annotations

import contextlib
import os
import select
import socket
import stat
import time
from typing import Any

from karakuri.devices.protocol import BoardTrouble, answers

HELP = "Write 'tcp:HOST:PORT', or the path of a serial port or pseudo-terminal."
BAUD, LONGEST_ADDRESS = 115200, 300


def ports() -> tuple[tuple[str, str], ...]:
    """Serial ports of this machine: path, and what is plugged in there."""
    from serial.tools.list_ports import comports

    return tuple(sorted((port.device, port.description) for port in comports() if port.description != "n/a"))


class Link:
    """Lines out and in. An address is tcp:HOST:PORT or a device's path."""

    def __init__(self, address: str, patience_s: float = 2.0) -> None:
        self.address = address[:LONGEST_ADDRESS]
        self._wire: Any = None
        self._rest = b""
        self._events: list[str] = []
        if not 0 < len(address) <= LONGEST_ADDRESS or not address.isprintable():
            raise BoardTrouble(f"“{address[:40]}” is no address of a board. {HELP}")
        try:
            self._wire = _dial(address, patience_s) if address.startswith("tcp:") else _plug(address)
            self._fd = self._wire.fileno()
            os.set_blocking(self._fd, False)
        except (OSError, ValueError) as trouble:
            reason = getattr(trouble, "strerror", None) or str(trouble)
            raise BoardTrouble(f"No board answers at {self.address}: {reason}. {HELP}") from trouble

    def send(self, line: str) -> None:
        """One line out. Raises BoardTrouble when the wire is gone or takes nothing for half a second."""
        data = line.encode("ascii", "replace") + b"\n"
        until = time.monotonic() + 0.5
        while data:
            try:
                data = data[os.write(self._fd, data) :]
            except BlockingIOError:
                if time.monotonic() > until:
                    raise BoardTrouble(f"The board at {self.address} takes nothing more.") from None
                select.select([], [self._fd], [], 0.05)
            except OSError as trouble:
                raise BoardTrouble(f"The wire to {self.address} is gone: {trouble.strerror}.") from trouble

    def lines(self, wait_s: float = 0.0) -> list[str]:
        """Whole lines that have come, after at most so many seconds, first what else the board said while it was asked. Raises BoardTrouble when the wire is gone."""
        before, self._events = self._events, []
        return before + self._read(0.0 if before else wait_s)

    def _read(self, wait_s: float) -> list[str]:
        """Whole lines that have come, after at most so many seconds. Raises BoardTrouble when the wire is gone."""
        with contextlib.suppress(OSError, ValueError):
            if not select.select([self._fd], [], [], max(0.0, wait_s))[0]:
                return []
        try:
            data = os.read(self._fd, 65536)
        except BlockingIOError:
            return []
        except OSError as trouble:
            raise BoardTrouble(f"The wire to {self.address} is gone: {trouble.strerror}.") from trouble
        if not data:
            raise BoardTrouble(f"The board at {self.address} hung up.")
        *whole, self._rest = (self._rest + data).split(b"\n")
        self._rest = self._rest[-4096:]
        return [line.decode("ascii", "replace").strip("\r") for line in whole if line.strip()]

    def ask(self, line: str, patience_s: float = 1.0) -> str:
        """One line out, its answer in. What came before it was asked, answers to other lines, and what the board says of itself meanwhile come with the next
        lines. Raises BoardTrouble when nothing comes."""
        self._events += self._read(0.0)
        self.send(line)
        until = time.monotonic() + patience_s
        while time.monotonic() < until:
            answer = None
            for said in self._read(until - time.monotonic()):
                if answer is None and answers(line, said):
                    answer = said
                else:
                    self._events.append(said)
            if answer is not None:
                return answer
        raise BoardTrouble(f"The board at {self.address} does not answer '{line.split(' ')[0]}'; {patience_s:g} s were waited.")  # fmt: skip

    def close(self) -> None:
        """Let the wire go."""
        with contextlib.suppress(OSError, ValueError):
            self._wire.close()


def _dial(address: str, patience_s: float) -> socket.socket:
    host, _, port = address.removeprefix("tcp:").rpartition(":")
    if not host or not port.isdecimal() or len(port) > 5 or not 0 < int(port) < 65536:
        raise BoardTrouble(f"“{address}” is no address of a board. {HELP}")
    connection = socket.create_connection((host, int(port)), patience_s)
    connection.setsockopt(socket.IPPROTO_TCP, socket.TCP_NODELAY, 1)
    return connection


def _plug(address: str) -> Any:
    if not stat.S_ISCHR(os.stat(address).st_mode):
        raise BoardTrouble(f"{address} is a file, not a board; it was not touched. {HELP}")
    import serial

    try:
        return serial.Serial(address, BAUD, timeout=0, write_timeout=0.5)
    except serial.SerialException as trouble:
        raise BoardTrouble(f"No board answers at {address}: {trouble}. {HELP}") from trouble
