"""Resident memory of the window with the demo judged and all benches seen."""

from __future__ import annotations

import subprocess
import sys
from collections.abc import Iterator

PROMISE = "less than 300 MB"

CODE = """
from karakuri.workbench.start import application
from karakuri.workbench.window import Window
from karakuri.session.session import Session
from karakuri.demo import owl_path
app = application([]); window = Window(Session.from_template(owl_path()), in_place=True); window.show()
for bench in ('figure', 'drive', 'balance', 'limits'):
    window.desk.turn_to(bench); app.processEvents()
print(next(l for l in open('/proc/self/status') if l.startswith('VmRSS')).split()[1])
import os; os._exit(0)
"""


def measure(smoke: bool) -> Iterator[str]:
    done = subprocess.run([sys.executable, "-c", CODE], capture_output=True, text=True, check=True)
    out = done.stdout.split()
    if out:
        yield f"{int(out[-1]) / 1024:.0f} MB"
    else:
        yield "not measured: the system tells no VmRSS"
