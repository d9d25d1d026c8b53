"""karakuri export: frames as CSV, or the player as a folder of C++."""

from __future__ import annotations

import argparse
import sys
from pathlib import Path

from karakuri.errors import FileTrouble, Trouble
from karakuri.exchange.frames_csv import write
from karakuri.exchange.outputs import score_frames
from karakuri.exchange.player.bundle import bundle
from karakuri.exchange.player.size import controllers, size
from karakuri.exchange.player.tables import tables
from karakuri.files.disk import write_files, write_text
from karakuri.model.figure import Figure


def export_command(figure: Figure, asked: argparse.Namespace) -> int:
    """Write what --to names. Raises Trouble. Returns 0."""
    if not figure.score.channels:
        raise FileTrouble(
            f"{figure.name} has no score yet; nothing was written.", (), "Lay out ribbons on the Score bench first."
        )
    if asked.to[0] == "player":
        if len(asked.to) != 2 or not asked.to[1].strip():
            raise Trouble("--to player wants a directory: --to player DIRECTORY")
        controller = next(c for c in controllers() if c.id == asked.controller)
        told = size(tables(figure), controller, asked.pulses)
        print(f"The player takes {told.words()}.", file=sys.stderr)
        write_files(Path(asked.to[1]), bundle(figure, controller, asked.pulses))
        return 0
    if len(asked.to) != 1 or not asked.to[0].endswith(".csv") or Path(asked.to[0]).name == ".csv":
        raise Trouble(f"--to {' '.join(asked.to)}: expected a name that ends in .csv, or: player DIRECTORY")
    made = score_frames(figure)
    write_text(write(figure, made), Path(asked.to[0]))
    for channel, clamped in zip(figure.score.channels, made.clamped.tolist(), strict=True):
        if clamped:
            print(f"{channel.name}: {clamped} frames were held at the edge of the soft band.", file=sys.stderr)
    if made.home_s:
        print(f"The score does not end at park; a way home of {made.home_s:.2f} s was added.", file=sys.stderr)
    return 0
