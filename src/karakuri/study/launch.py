"""Starts the process that studies: as a branch of this one while it has next to nothing, which shares what is read from disk by then, else as a program of its
own. Imports next to nothing."""

from __future__ import annotations

import contextlib
import os
import signal
import socket
import subprocess
import sys
import time
import traceback
from collections.abc import Callable
from multiprocessing.connection import Connection

from karakuri.frozen import Frozen


class Branch:
    """A branch of this process, with what of Popen is asked of one that studies."""

    def __init__(self, pid: int) -> None:
        self.pid = pid
        self.returncode: int | None = None

    def poll(self) -> int | None:
        """How it ended, None while it runs."""
        if self.returncode is None:
            with contextlib.suppress(ChildProcessError):
                pid, status = os.waitpid(self.pid, os.WNOHANG)
                self.returncode = os.waitstatus_to_exitcode(status) if pid else None
        return self.returncode

    def wait(self, timeout: float) -> int:
        """Wait until it has ended. Raises TimeoutExpired."""
        until = time.monotonic() + timeout
        while self.poll() is None:
            if time.monotonic() > until:
                raise subprocess.TimeoutExpired("study", timeout)
            time.sleep(0.01)
        return self.returncode or 0

    def terminate(self) -> None:
        """Ask it to end."""
        self._signal(signal.SIGTERM)

    def kill(self) -> None:
        """End it."""
        self._signal(signal.SIGKILL)

    def _signal(self, number: int) -> None:
        if self.poll() is None:
            with contextlib.suppress(ProcessLookupError):
                os.kill(self.pid, number)


class StudyProcess(Frozen):
    """The process and the wire to it."""

    process: subprocess.Popen[bytes] | Branch
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


def branch(serve: Callable[[int], int]) -> StudyProcess:
    """Branch off here: the branch calls `serve` with the number of its socket, and ends. Only while this process has one thread and nothing on a screen. Raises
    OSError."""
    ours, theirs = socket.socketpair()
    sys.stdout.flush(), sys.stderr.flush()
    pid = os.fork()
    if pid == 0:
        code = 1
        try:
            ours.close()
            nothing = os.open(os.devnull, os.O_RDONLY)
            os.dup2(nothing, 0)
            code = serve(theirs.fileno())
        except BaseException:  # noqa: BLE001 - whatever it is, this is no place to go on from
            traceback.print_exc()
        finally:
            os._exit(code)
    theirs.close()
    return StudyProcess(Branch(pid), ours, Connection(os.dup(ours.fileno())))
