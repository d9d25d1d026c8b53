"""The catalogue: generic servo classes, materials and supports as data files, each with source and date.

A figure keeps a copy of what it was judged with; nothing here changes an old verdict unasked.
"""

from __future__ import annotations

import json
import math
from functools import lru_cache
from pathlib import Path
from typing import Any

from karakuri.model.drag import BearingKind
from karakuri.model.drive import Actuator
from karakuri.model.joint import SupportKind
from karakuri.model.part import Material
from karakuri.model.rod import StuffKind
from karakuri.values.fields import fields_of

ESTIMATED = (
    "permitted_moment_Nm",
    "permitted_side_N",
    "shaft_stiffness_Nm_per_rad",
    "play_deg",
    "reflected_inertia_kgm2",
)
ESTIMATE_SHARE = 0.5
LEAD_KGM3, SHOT_FILLED = 11340.0, 0.6


@lru_cache(maxsize=16)
def _data(name: str) -> dict[str, Any]:
    loaded: dict[str, Any] = json.loads((Path(__file__).parent / name).read_text("utf-8"))
    return loaded


@lru_cache(maxsize=1)
def servo_classes() -> tuple[Actuator, ...]:
    """The generic classes, weakest first; every value is typical of the class, from memory."""
    rows = _data("servos.json")["servos"]
    every = tuple(
        name for name in fields_of(Actuator) if name.endswith(("_Nm", "_N", "_V", "_deg", "_g", "_A", "_kgm2"))
    )
    return tuple(
        Actuator(**row, mass_origin="typical", estimated=tuple(dict.fromkeys((*every, *ESTIMATED)))) for row in rows
    )


def servo_class(catalogue_id: str) -> Actuator:
    """The class of that id. Raises KeyError."""
    for servo in servo_classes():
        if servo.catalogue_id == catalogue_id:
            return servo
    raise KeyError(catalogue_id)


def case_mm(mass_g: float, stepper: bool) -> tuple[float, float, float]:
    """Long, wide, high, mm, of the case of a servo or stepper that weighs so much, g: typical of the class next to it."""
    rows = _data("cases.json")["steppers" if stepper else "servos"]
    row = min(rows, key=lambda each: abs(math.log(max(mass_g, 0.1) / each["mass_g"])))
    long, wide, high = (float(each) for each in row["mm"])
    return long, wide, high


@lru_cache(maxsize=1)
def materials() -> tuple[Material, ...]:
    """Typical densities."""
    return tuple(Material(**row) for row in _data("materials.json")["materials"])


def permitted_moment_Nm(kind: SupportKind) -> float | None:
    """Typical permitted tilting moment, N·m, of a support other than the spline; an estimate, ± 50 %."""
    carries: float | None = _supports()[kind]["permitted_moment_Nm"]
    return carries


def support_name(kind: SupportKind) -> str:
    """The support in words."""
    return str(_supports()[kind]["name"])


def bearing_share(kind: BearingKind) -> float:
    """By what share of what presses it a bearing rubs where it touches; an estimate, ± 50 %."""
    return float(_bearings()[kind]["share"])


def bearing_name(kind: BearingKind) -> str:
    """The bearing in words."""
    return str(_bearings()[kind]["name"])


def _bearings() -> dict[str, dict[str, Any]]:
    return {row["kind"]: row for row in _data("bearings.json")["bearings"]}


def _supports() -> dict[str, dict[str, Any]]:
    return {row["kind"]: row for row in _data("supports.json")["supports"]}


def stuff_of(kind: StuffKind) -> dict[str, Any]:
    """name, young_GPa, bears_MPa, density_kgm3 of what a rod is made of: typical, from memory."""
    return next(row for row in _data("stuffs.json")["stuffs"] if row["kind"] == kind)


def people() -> dict[str, Any]:
    """What is measured of people and what guidance says: necks, guidance, skin, segments, places, guesses, each with its source."""
    return _data("people.json")


def helpers() -> dict[str, Any]:
    """springs, struts, strokes_mm and forces_N in sizes that are commonly sold."""
    return _data("helpers.json")


def meeting() -> dict[str, Any]:
    """What stops what from curing or sticking: wet, on, and rows of both with what happens."""
    return _data("meets.json")


def gives() -> dict[str, Any]:
    """Degrees that gears, horns and brackets give at the servo's stall torque, by what they are made of; an estimate, ± 50 %."""
    return _data("gives.json")


def stuff_name(key: str) -> str:
    """What a horn or a bracket is made of, in words."""
    return str(gives()["names"][key])


def lead_ml(grams: float) -> tuple[float, float]:
    """Volume, ml, of so many grams of lead: solid, and as shot (share filled: an estimate)."""
    solid = grams / LEAD_KGM3 * 1e3
    return solid, solid / SHOT_FILLED


def screw_holds_N(across_mm: float) -> tuple[float, float]:
    """What a cup-point set screw holds on a round shaft, N, and by what that is divided for loads that change: from a table of inch sizes, straight in
    logarithms between and beyond them."""
    table = _data("setscrews.json")
    rows = [(math.log(row["across_mm"]), math.log(row["holds_N"])) for row in table["screws"]]
    at = math.log(across_mm)
    k = min(max(sum(x <= at for x, _ in rows) - 1, 0), len(rows) - 2)
    (a, b), (c, d) = rows[k], rows[k + 1]
    return math.exp(b + (d - b) * (at - a) / (c - a)), float(table["factor"])


def motors() -> tuple[dict[str, Any], ...]:
    """Motors that turn on, by sort: fields of an element, with an id and a name; every value is typical of the sort, from memory."""
    return tuple(_data("motors.json")["motors"])


def hand_gives_N() -> tuple[float, float]:
    """What one arm pulls at most without a rest for the body, N, and which share of that is left for what is done often; a guidance."""
    pull = _data("people.json")["hand"]
    return float(pull["pulls_N"]), float(pull["often"])


@lru_cache(maxsize=1)
def steppers() -> tuple[Actuator, ...]:
    """Generic steppers, weakest first; every value is typical of the size, from memory. Torque is what they hold with, 48 V the most their drivers get."""
    rows = [dict(row) for row in _data("steppers.json")["steppers"]]
    usual = {
        "at_voltage_V": 12.0, "rated_voltage_V": 48.0, "speed_s_per_60deg": 0.1, "stall_current_A": 1.0, "gears": "metal", "travel_deg": 3600.0, "play_deg": 0.05,
        "shaft_stiffness_Nm_per_rad": 500.0, "dead_band_deg": 0.0, "mass_origin": "typical",
    }  # fmt: skip
    every = tuple(name for name in fields_of(Actuator) if name.endswith(("_Nm", "_N", "_g", "_kgm2", "_rad", "_deg")))
    return tuple(
        Actuator.from_fields(
            usual | {k: v for k, v in row.items() if k != "windings"} | {"stepper": row["windings"], "estimated": every}
        )
        for row in rows
    )


@lru_cache(maxsize=1)
def hole_sizes() -> dict[str, tuple[float, float]]:
    """Sizes of holes and pins by name, mm, and ± mm: clearance holes (ISO 273), tap drills (coarse), holes and shafts (ISO 286) at their middle."""
    table, out = _data("holes.json"), dict[str, tuple[float, float]]()
    for screw, three in table["clearance"].items():
        if screw != "source":
            out |= {
                f"hole for {screw}, {fit} (ISO 273)": (size, 0.1)
                for fit, size in zip(("fine", "medium", "coarse"), three, strict=True)
            }
    out |= {
        f"tap drill {screw} (coarse)": (two[1], 0.05) for screw, two in table["tap_drills"].items() if screw != "source"
    }
    fits = table["fits"]
    for k, most in enumerate(fits["up_to_mm"]):
        for name in ("H7", "g6", "h6", "m6"):
            low, high = (each / 1e3 for each in fits[name][k])
            out[f"{'hole' if name == 'H7' else 'pin'} {most:g} {name} (ISO 286)"] = (
                round(most + (low + high) / 2, 4),
                round((high - low) / 2, 4),
            )
    return out
