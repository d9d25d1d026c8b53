"""Run as a process: kills 200 children at random moments while they save and keep copies, and looks at what they left each time."""

import os
import random
import signal
import sys
import time
from pathlib import Path

from karakuri.files import disk
from karakuri.files.disk import load
from karakuri.files.text import to_text
from karakuri.model.edit import Edit, Set
from karakuri.session.places import state_folder
from karakuri.session.session import Session
from tests.figures import random_figure

KILLS = 200


def child(target: Path) -> None:
    """Save, change, keep a copy, for ever."""
    session, n = Session.open(target), 0
    while True:
        n += 1
        session.edit(Edit("name", (Set(("name",), f"round {n % 7}"),)))
        session.keep_copy()
        session.save(target, over=True)


def main(folder: Path) -> None:
    disk.LEFT_S = 0.0  # what a writer left a moment ago goes too
    target, chance = folder / "f.karakuri", random.Random(4)
    session = Session(random_figure(1, 4))
    session.save(target)
    session.close()
    known = {to_text(load(target))} | {to_text(_named(load(target), f"round {n}")) for n in range(7)}
    offered = 0
    for _ in range(KILLS):
        pid = os.fork()
        if pid == 0:
            try:
                child(target)
            finally:
                os._exit(3)
        time.sleep(chance.uniform(0.0, 0.03))
        os.kill(pid, signal.SIGKILL)
        _, status = os.waitpid(pid, 0)
        assert os.WIFSIGNALED(status), "the child ended by itself"
        assert target.read_text("utf-8") in known, "the file is neither the old nor the new one"
        again = Session.open(target)
        copy = again.recoverable()
        if copy is not None:
            offered += 1
            assert to_text(copy.figure()) in known, "the copy is not whole"
        again.close()
    last = Session.open(target)
    last.edit(Edit("name", (Set(("name",), "last"),)))
    last.keep_copy()
    last.save(target, over=True)
    left = [p.name for where in (folder, state_folder(), state_folder() / "copies") for p in where.glob(".*.part")]
    print(f"{KILLS} kills, {offered} copies offered, left behind: {len(left)}")
    assert not left, left


def _named(figure, name):
    return type(figure)(**(dict(figure) | {"name": name}))


if __name__ == "__main__":
    main(Path(sys.argv[1]))
