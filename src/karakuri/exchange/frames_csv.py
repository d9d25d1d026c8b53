"""Frames as CSV: one row a frame, time first, then a column a channel in its own unit. RFC 4180, a header row, decimal points.

time_s,neck_pan_channel [deg],lamp [%]
0.00,0,12
"""

from __future__ import annotations

import csv
import io
import math
import re
from collections.abc import Iterable, Iterator

import numpy as np

from karakuri.bodies.inertia import Array
from karakuri.course import ALONE, Course
from karakuri.errors import Fault, FileTrouble
from karakuri.exchange.contract import Chosen, Exported, Exporter, Media
from karakuri.exchange.moves_of_places import moves_that_follow
from karakuri.exchange.outputs import score_stream
from karakuri.frozen import Frozen
from karakuri.model.edit import Edit, Set, Step
from karakuri.model.figure import Figure
from karakuri.motion.frames import AT_ONCE

HEAD = re.compile(r"^\s*([a-z][a-z0-9_]*)\s*\[(deg|mm|%)\]\s*$")
MOST_FAULTS, MOST_ROWS, MOST_S, MOST_PLACE = 12, 2_000_000, 86_400, 20_000.0


class Table(Frozen, eq=False):
    """What a CSV holds: times (n,) s and, for each channel id, its unit and places (n,) in that unit."""

    times: Array
    columns: dict[str, tuple[str, Array]]


def unit_name(figure: Figure, channel_id: str) -> str:
    """deg, mm or %."""
    return figure.measure(figure.score.moving(channel_id)).unit


def head(figure: Figure) -> str:
    """The head row of a figure's frames."""
    return _lines([["time_s", *(f"{c.id} [{unit_name(figure, c.id)}]" for c in figure.score.moved)]])


def rows(figure: Figure, times: Array, places: Array) -> str:
    """Frames at times (n,) s with places (c, n) rad, m or share as CSV text, to a thousandth of each channel's unit."""
    columns = [places[i] / figure.measure(channel).si for i, channel in enumerate(figure.score.moved)]
    return _lines(
        [f"{t:.6g}" if t < 1000 else f"{t:.3f}", *(_short(column[k]) for column in columns)]
        for k, t in enumerate(times.tolist())
    )


def _lines(cells: Iterable[list[str]]) -> str:
    out = io.StringIO()
    csv.writer(out, lineterminator="\r\n").writerows(cells)
    return out.getvalue()


def _short(value: float) -> str:
    text = f"{value:.3f}".rstrip("0").rstrip(".")
    return "0" if text in ("-0", "") else text


def read(text: str, name: str = "the table", course: Course = ALONE) -> Table:
    """A table from CSV text. Raises FileTrouble with every fault: where, what was expected, what came; GivenUp where `course` says stop."""
    try:
        lines = csv.reader(io.StringIO(text, newline=""), strict=True)
        found = [row for row in lines if row and any(cell.strip() for cell in row)]
    except csv.Error as trouble:
        fault = Fault("the table", "rows of RFC 4180", str(trouble))
        raise FileTrouble(f"{name} is no table.", (fault,), "The score is as it was.") from trouble
    if len(found) < 3:
        raise FileTrouble(f"{name} holds no frames.", (), "A head row and at least two frames are wanted.")
    faults: list[Fault] = []
    heads = [HEAD.match(cell) for cell in found[0][1:]]
    if found[0][0].strip() != "time_s":
        faults.append(Fault("row 1, column 1", "time_s", repr(found[0][0][:40])))
    for i, (match, cell) in enumerate(zip(heads, found[0][1:], strict=True), start=2):
        if match is None:
            faults.append(
                Fault(f"row 1, column {i}", "a channel's id and its unit, such as 'jaw [deg]'", repr(cell[:40]))
            )
    names = [match[1] for match in heads if match is not None]
    for twice in sorted({n for n in names if names.count(n) > 1}):
        faults.append(Fault("row 1", "each channel once", f"'{twice}' twice"))
    if len(found) > MOST_ROWS:
        faults.append(Fault("the table", f"at most {MOST_ROWS} frames", str(len(found) - 1)))
    if not faults:
        values = _numbers(found, faults, course)
    if faults:
        raise FileTrouble(f"{name} was not read; the score is as it was.", tuple(faults[:MOST_FAULTS]),
                          "Correct these rows, or export frames once to see how a table looks.")  # fmt: skip
    return Table(values[:, 0], {m[1]: (m[2], values[:, i]) for i, m in enumerate(heads, start=1) if m is not None})


def _numbers(rows: list[list[str]], faults: list[Fault], course: Course) -> Array:
    wide = len(rows[0])
    values = np.zeros((len(rows) - 1, wide))
    for r, row in enumerate(rows[1:], start=2):
        if r % AT_ONCE == 0:
            course.at(f"row {r} of {len(rows)}", r / len(rows))
        if len(row) != wide:
            faults.append(Fault(f"row {r}", f"{wide} columns", str(len(row))))
            continue
        for c, cell in enumerate(row):
            try:
                value = float(cell)
            except ValueError:
                value = math.nan
            if not math.isfinite(value):
                faults.append(Fault(f"row {r}, column {c + 1}", "a number", repr(cell[:40])))
            values[r - 2, c] = value
        if len(faults) > MOST_FAULTS:
            return values
    for k in np.flatnonzero(np.diff(values[:, 0]) <= 0)[:3].tolist():
        faults.append(Fault(f"row {k + 3}", f"a time after {values[k, 0]:g} s", f"{values[k + 1, 0]:g} s"))
    if values[0, 0] < 0:
        faults.append(Fault("row 2, column 1", "a time of 0 s or later", f"{values[0, 0]:g} s"))
    for k in np.flatnonzero(values[:, 0] > MOST_S)[:1].tolist():
        expected = f"a time of at most {MOST_S} s, a day; are these milliseconds?"
        faults.append(Fault(f"row {k + 2}, column 1", expected, f"{values[k, 0]:g}"))
    for k, c in np.argwhere(np.abs(values[:, 1:]) > MOST_PLACE)[:3].tolist():
        expected = f"a place within ±{MOST_PLACE:g}"
        faults.append(Fault(f"row {k + 2}, column {c + 2}", expected, f"{values[k, c + 1]:g}"))
    return values


def take_over(figure: Figure, table: Table, tolerance: float = 0.25, course: Course = ALONE) -> tuple[Edit, float]:
    """The moves that follow a table within `tolerance` (degrees, mm, percent), as one edit, and the largest difference there is.

    They are those that were meant, as far as can be told from the places. Raises FileTrouble where a column names no channel, or another
    unit, and GivenUp where `course` says stop.
    """
    known = {channel.id for channel in figure.score.moved}
    faults = [Fault(f"column {ident}", f"one of {', '.join(sorted(known)) or 'no channel at all'}", ident) for ident in table.columns if ident not in known]  # fmt: skip
    faults += [Fault(f"column {ident}", f"[{unit_name(figure, ident)}]", f"[{unit}]") for ident, (unit, _) in table.columns.items() if ident in known and unit != unit_name(figure, ident)]  # fmt: skip
    for ident, (unit, places) in table.columns.items():
        beyond = np.flatnonzero((places < 0) | (places > 100)) if unit == "%" else np.zeros(0, int)
        if len(beyond) and not faults:
            k = int(beyond[0])
            faults.append(Fault(f"column {ident}, {table.times[k]:g} s", "a level from 0 to 100 %", f"{places[k]:g} %"))
    if faults:
        raise FileTrouble("The table does not fit this score; the score is as it was.", tuple(faults[:MOST_FAULTS]),
                          "Lay out ribbons with these ids first, or rename the columns.")  # fmt: skip
    steps: list[Step] = []
    worst = 0.0
    for n, (ident, (_, places)) in enumerate(table.columns.items()):
        name = figure.score.moving(ident).name

        def went(share: float, n: int = n, name: str = name) -> None:
            course.at(f"{name}, ribbon {n + 1} of {len(table.columns)}", (n + share) / len(table.columns))

        went(0.0)
        moves, off = moves_that_follow(table.times, places, figure.score.moving(ident).park, tolerance, went)
        worst = max(worst, off)
        steps.append(Set(("score", "channels", ident, "moves"), moves))
    length = max(figure.score.length_s, round(float(table.times[-1]), 3))
    steps.append(Set(("score", "length_s"), length))
    return Edit("take over frames", tuple(steps)), worst


def _export(figure: Figure, chosen: Chosen, course: Course, media: Media) -> Exported:
    stream = score_stream(figure)
    clamped = np.zeros(len(figure.score.moved), dtype=np.int64)

    def text() -> Iterator[bytes]:
        yield head(figure).encode("utf-8")
        at = 0
        for times, places, held in stream:
            course.at(f"frame {at} of {stream.count}", at / stream.count)
            at += len(times)
            clamped[:] += held
            yield rows(figure, times, places).encode("utf-8")

    def told() -> tuple[str, ...]:
        notes = [f"{stream.count} frames."]
        for channel, held in zip(figure.score.moved, clamped.tolist(), strict=True):
            if held:
                notes.append(
                    f"{channel.name}: {held} frames were held at the soft limits, where the score goes past them."
                )
        if stream.home_s:
            notes.append(f"The score does not end at park; a way home of {stream.home_s:.2f} s was added.")
        return tuple(notes)

    return Exported({"frames.csv": text()}, told)


EXPORTER = Exporter("frames", "frames as CSV", ".csv", (), lambda figure, chosen: "", _export)
