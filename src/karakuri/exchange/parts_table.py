"""A parts list from a spreadsheet: pasted text, a row a part, columns by their names.

name	mass [g]	rides on	ahead [mm]	left [mm]	up [mm]
Skull	412	Neck tilt	35	0	560
"""

from __future__ import annotations

import csv
import io
import re

from pydantic_core import ValidationError

from karakuri.errors import BadQuantity, Fault, FileTrouble
from karakuri.model.edit import Add, Edit, Step
from karakuri.model.edits import fresh_part
from karakuri.model.figure import Figure
from karakuri.model.ids import new_id
from karakuri.model.part import BASE, Part
from karakuri.units import METRIC, Kind, read_quantity

MOST_ROWS, MOST_FAULTS, MOST_TEXT = 400, 12, 200_000
COLUMNS: dict[str, tuple[str, ...]] = {
    "name": ("name", "part", "what", "item"),
    "mass": ("mass", "weight", "weighs", "g", "grams"),
    "rides_on": ("rides on", "on", "joint", "carried by"),
    "x": ("ahead", "forward", "x"),
    "y": ("left", "to its left", "y"),
    "z": ("up", "above", "height", "z"),
}
THOUSANDS = re.compile(r"[-+−]?\d{1,3}(,\d{3})+(\.\d*)?")
KINDS: dict[str, Kind] = {"mass": "mass", "x": "length", "y": "length", "z": "length"}
UNITS = {"mass": "g", "x": "mm", "y": "mm", "z": "mm"}


def parts_of(figure: Figure, text: str, rides_on: str) -> Edit:
    """The parts of a table as one edit: all of them, or FileTrouble with the rows that cannot be read.

    Without a column that says so they ride on `rides_on`; without a place they sit above its pivot; masses are guesses until weighed.
    """
    if len(text) > MOST_TEXT:
        raise FileTrouble(f"That is {len(text)} letters; a parts list has {MOST_TEXT} at most.")
    rows = [
        row for row in csv.reader(io.StringIO(text), delimiter=_delimiter(text)) if any(cell.strip() for cell in row)
    ]
    if len(rows) < 2:
        raise FileTrouble("There is no parts list to paste.", (), "Copy rows with a head: name, mass [g], rides on, ahead [mm], left [mm], up [mm].")  # fmt: skip
    if len(rows) - 1 > MOST_ROWS:
        raise FileTrouble(f"That is {len(rows) - 1} parts; {MOST_ROWS} at most are taken at once.")
    columns = _columns(rows[0])
    faults: list[Fault] = []
    steps: list[Step] = []
    taken: set[str] = set()
    for number, row in enumerate(rows[1:], 2):
        cells = {key: row[at].strip() if at < len(row) else "" for key, (at, _) in columns.items()}
        part = _part(figure, cells, {key: unit for key, (_, unit) in columns.items()}, rides_on, number, faults, taken)
        if part is not None:
            steps.append(Add("parts", part))
    if faults:
        raise FileTrouble("The list was not taken; the figure is as it was.", tuple(faults[:MOST_FAULTS]), "Mend these cells and paste it again.")  # fmt: skip
    return Edit(f"paste {len(steps)} part{'s' if len(steps) != 1 else ''}", tuple(steps))


def _delimiter(text: str) -> str:
    head = text.lstrip().split("\n", 1)[0]
    return max("\t;,", key=head.count)


def _columns(head: list[str]) -> dict[str, tuple[int, str]]:
    """Where each known column is, and its unit."""
    found: dict[str, tuple[int, str]] = {}
    for at, cell in enumerate(head):
        match = re.fullmatch(r"\s*([^\[(]*?)\s*(?:[\[(]\s*([^\])]+?)\s*[\])])?\s*", cell)
        words, unit = (match[1].lower(), match[2] or "") if match else (cell.lower(), "")
        key = next((key for key, names in COLUMNS.items() if words in names), None)
        if key is not None and key not in found:
            found[key] = (at, unit)
    if "name" not in found:
        named = ", ".join(cell.strip() or "(empty)" for cell in head[:12])
        raise FileTrouble("The list has no column of names.", (Fault("row 1", "name, mass [g], rides on, ahead [mm], left [mm], up [mm]", named),), "Give the first row these heads.")  # fmt: skip
    return found


def _part(
    figure: Figure, cells: dict[str, str], units: dict[str, str], rides_on: str, number: int, faults: list[Fault], taken: set[str]
) -> Part | None:  # fmt: skip
    before = len(faults)
    name = cells["name"]
    if not name or len(name) > 80:
        faults.append(Fault(f"row {number}, name", "a name of 1 to 80 letters", repr(name[:40])))
        return None
    carrier = _carrier(figure, cells.get("rides_on", ""), rides_on, number, faults)
    mass, *place = (_number(cells.get(key, ""), key, units.get(key, ""), number, faults) for key in KINDS)
    if len(faults) > before:
        return None
    base = fresh_part(figure, carrier)
    x, y, z = (old if new is None else round(new * 1e3, 3) for new, old in zip(place, base.at_mm, strict=True))
    try:
        return Part(
            id=new_id(figure, name, taken),
            name=name,
            rides_on=carrier,
            at_mm=(x, y, z),
            mass_g=None if mass is None else round(mass * 1e3, 4),
        )
    except ValidationError as trouble:
        reasons = "; ".join(error["msg"].removeprefix("Value error, ") for error in trouble.errors()[:2])
        faults.append(Fault(f"row {number}", "a mass and a place within bounds", reasons))
        return None


def _number(text: str, key: str, unit: str, number: int, faults: list[Fault]) -> float | None:
    """A cell in SI; a bare number is in the unit of its column's head."""
    if not text:
        return None
    if THOUSANDS.fullmatch(text):
        faults.append(
            Fault(
                f"row {number}, {key}",
                "a number without marks between thousands",
                f"{text[:40]!r}: {text.replace(',', '')} or {text.replace(',', '.', 1)}?",
            )
        )
        return None
    try:
        return read_quantity(f"{text} {unit or UNITS[key]}" if _bare(text) else text, KINDS[key], METRIC)
    except BadQuantity as trouble:
        faults.append(
            Fault(f"row {number}, {key}", f"a number in {unit or UNITS[key]}", f"{text[:40]!r}: {str(trouble)[:120]}")
        )
        return None


def _bare(text: str) -> bool:
    return re.fullmatch(r"[-+−]?[\d.,\s]+", text) is not None


def _carrier(figure: Figure, words: str, rides_on: str, number: int, faults: list[Fault]) -> str:
    if not words:
        return rides_on
    wanted = words.lower()
    if wanted in (BASE, "the base", figure.base.stands_on.lower()):
        return BASE
    for joint in figure.joints:
        if wanted in (joint.name.lower(), joint.id):
            return joint.id
    known = ", ".join(["base", *(joint.name for joint in figure.joints)])
    faults.append(Fault(f"row {number}, rides on", f"one of {known[:200]}", repr(words[:40])))
    return rides_on
