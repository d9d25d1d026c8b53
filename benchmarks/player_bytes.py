"""What a move takes on a small controller, and what a whole player takes; compiled where avr-g++ is there."""

from __future__ import annotations

import shutil
import subprocess
import tempfile
from collections.abc import Iterator
from pathlib import Path

PROMISE = "13 bytes a move; the size told before export is an upper bound"


def measure(smoke: bool) -> Iterator[str]:
    from karakuri.demo import owl_path
    from karakuri.exchange.player.bundle import bundle
    from karakuri.exchange.player.kinds import KINDS
    from karakuri.exchange.player.size import controllers, size
    from karakuri.exchange.player.tables import MOVE_BYTES, tables
    from karakuri.files.disk import load, write_files

    owl = load(owl_path())
    made = tables(owl)
    yield f"{MOVE_BYTES} bytes a move, {made.flash_bytes} bytes of tables for {len(made.moves)} moves"
    for controller in controllers():
        yield f"told for {controller.name}: {size(made, controller).words()}"
    if shutil.which("avr-g++") is None:
        yield "not compiled: avr-g++ is missing (apt-get install gcc-avr avr-libc)"
        return
    with tempfile.TemporaryDirectory() as folder:
        write_files(Path(folder), bundle(owl, controllers()[0]))
        for kind in KINDS[:1] if smoke else KINDS:
            out = subprocess.run(["make", "-s", kind.id], cwd=folder, capture_output=True, text=True, check=True).stdout
            text, data, bss = out.splitlines()[1].split()[:3]
            yield f"compiled, {kind.name}: {int(text) + int(data)} bytes of flash, {int(data) + int(bss)} bytes of RAM"
