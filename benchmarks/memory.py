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
app = application([]); window = Window(Session.from_template(owl_path())); window.show()
for bench in ('figure', 'drive', 'balance', 'limits'):
    window.desk.turn_to(bench); app.processEvents()
import time
end = time.time() + 20
while (window.desk.study is None or window.desk.busy) and time.time() < end:
    app.processEvents(); time.sleep(0.01)
def rss(pid): return int(next(l for l in open(f'/proc/{pid}/status') if l.startswith('VmRSS')).split()[1])
print(rss('self'), rss(window.desk.worker._line._process.process.pid))
window.desk.close()
import os; os._exit(0)
"""


def measure(smoke: bool) -> Iterator[str]:
    done = subprocess.run([sys.executable, "-c", CODE], capture_output=True, text=True, check=True)
    out = done.stdout.split()
    if len(out) >= 2:
        ours, theirs = (int(each) / 1024 for each in out[-2:])
        yield f"{ours + theirs:.0f} MB: {ours:.0f} the window, {theirs:.0f} the process that studies"
    else:
        yield "not measured: the system tells no VmRSS"
