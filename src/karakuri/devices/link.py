"""The wire to a board: loopback TCP, a pseudo-terminal or a serial port, by address. Never blocks longer than it is told."""

from __future__ import annotations

import contextlib
import os
import select
import socket
import termios
import time
import tty

from karakuri.devices.protocol import BoardTrouble

HELP = "Write 'tcp:HOST:PORT', or the path of a serial port or pseudo-terminal."


class Link:
    """Lines out and in. An address is tcp:HOST:PORT or a device's path."""

    def __init__(self, address: str, patience_s: float = 2.0) -> None:
        self.address = address
        self._socket: socket.socket | None = None
        self._rest = b""
        try:
            if address.startswith("tcp:"):
                host, _, port = address[4:].rpartition(":")
                if not port.isdigit() or not host:
                    raise BoardTrouble(f"“{address}” is no address of a board. {HELP}")
                self._socket = socket.create_connection((host, int(port)), patience_s)
                self._socket.setsockopt(socket.IPPROTO_TCP, socket.TCP_NODELAY, 1)
                self._socket.setblocking(False)
                self._fd = self._socket.fileno()
            else:
                self._fd = os.open(address, os.O_RDWR | os.O_NOCTTY | os.O_NONBLOCK)
                with contextlib.suppress(termios.error):
                    tty.setraw(self._fd)
                    state = termios.tcgetattr(self._fd)
                    state[4] = state[5] = termios.B115200
                    termios.tcsetattr(self._fd, termios.TCSANOW, state)
        except OSError as trouble:
            raise BoardTrouble(f"No board answers at {address}: {trouble.strerror or trouble}. {HELP}") from trouble

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
        """One line out, one in. Raises BoardTrouble when nothing comes."""
        self.send(line)
        until = time.monotonic() + patience_s
        while time.monotonic() < until:
            for answer in self.lines(until - time.monotonic()):
                return answer
        raise BoardTrouble(f"The board at {self.address} does not answer '{line.split(' ')[0]}'; {patience_s:g} s were waited.")  # fmt: skip

    def close(self) -> None:
        with contextlib.suppress(OSError):
            if self._socket is not None:
                self._socket.close()
            else:
                os.close(self._fd)
