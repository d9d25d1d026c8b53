"""Starts the process that studies. Imports next to nothing: it is begun before anything else, and gets ready beside the window."""

from __future__ import annotations

import contextlib
import os
import socket
import subprocess
import sys
from dataclasses import dataclass
from multiprocessing.connection import Connection


@dataclass(frozen=True)
class StudyProcess:
    """The process and the wire to it."""

    process: subprocess.Popen[bytes]
    socket: socket.socket
    wire: Connection

    def end(self) -> None:
        """End it at once: it keeps nothing that is not here as well. Whoever waits for an answer is woken."""
        with contextlib.suppress(OSError):
            self.socket.shutdown(socket.SHUT_RDWR)
        self.process.terminate()
        try:
            self.process.wait(2.0)
        except subprocess.TimeoutExpired:
            self.process.kill()
            self.process.wait(5.0)
        self.socket.close()


def launch() -> StudyProcess:
    """Begin it. Raises OSError where the system gives no process."""
    ours, theirs = socket.socketpair()
    with theirs:
        command = [sys.executable, "-m", "karakuri.study.begin", str(theirs.fileno())]
        process = subprocess.Popen(command, pass_fds=(theirs.fileno(),), stdin=subprocess.DEVNULL)
    return StudyProcess(process, ours, Connection(os.dup(ours.fileno())))
