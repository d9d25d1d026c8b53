"""From nothing to the demo's first findings on the screen, against bare PyQt6 + numpy + pydantic with one model and an empty window."""

from __future__ import annotations

import os
import statistics
import subprocess
import sys
import tempfile
import time
from collections.abc import Iterator

PROMISE = "at most 2 × bare PyQt6 + numpy + pydantic with an empty window; median of 11 interleaved"

BARE = """
import os, numpy, pydantic
class Model(pydantic.BaseModel): x: float
from PyQt6.QtCore import QTimer
from PyQt6.QtWidgets import QApplication, QMainWindow
app = QApplication([]); window = QMainWindow(); window.resize(1280, 800); window.show()
QTimer.singleShot(0, lambda: os._exit(0)); app.exec()
"""


def measure(smoke: bool) -> Iterator[str]:
    with tempfile.TemporaryDirectory() as state:
        env = {k: v for k, v in os.environ.items() if k != "PYTHONDONTWRITEBYTECODE"} | {"XDG_STATE_HOME": state}
        ours = [sys.executable, "-m", "karakuri", "--demo", "--quit-when-judged"]

        def run(command: list[str]) -> float:
            begin = time.perf_counter()
            subprocess.run(
                command, env=env, check=True, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL
            )  # a pipe would be waited for until what studies has ended too
            return time.perf_counter() - begin

        bare = [sys.executable, "-c", BARE]
        run(ours), run(bare)
        pairs = [(run(ours), run(bare)) for _ in range(1 if smoke else 11)]
    a, b = statistics.median(p[0] for p in pairs), statistics.median(p[1] for p in pairs)
    yield f"ours {a * 1e3:.0f} ms, bare {b * 1e3:.0f} ms, ratio {a / b:.2f}"
