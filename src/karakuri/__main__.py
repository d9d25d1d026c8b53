"""Starts the window, or a command. The only file above both."""

from __future__ import annotations

import contextlib
import os
import sys

os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")  # small products gain nothing from many threads, and wait for them


def main() -> int:
    """karakuri [FILE | --demo] starts the window; karakuri check|pose|size|export|play|schema … runs a command."""
    arguments = sys.argv[1:]
    if arguments and arguments[0] in ("check", "pose", "size", "export", "play", "schema", "-h", "--help"):
        from karakuri.cli.main import run

        return run(arguments)
    return window(arguments)


def window(arguments: list[str]) -> int:
    """Start the window. What studies branches off once both have what they share, and is given its order before the window is even read from disk."""
    from karakuri import heap
    from karakuri.study.launch import StudyProcess, branch

    heap.loading()
    from karakuri.session.opening import opened
    from karakuri.study.line import Line
    from karakuri.study.orders import Order

    process: StudyProcess | None = None
    with contextlib.suppress(OSError):  # told once the window is there
        process = branch(_study)
    session, trouble = opened(arguments)
    line = Line(process)
    if session is not None and process is not None:
        line.send(Order(1, session.figure, quick=True))
    from karakuri.workbench.start import start

    return start(arguments, session, trouble, line)


def _study(wire: int) -> int:
    """What the branch does."""
    from karakuri.study.process import main as serve

    return serve([str(wire)])


if __name__ == "__main__":
    sys.exit(main())
