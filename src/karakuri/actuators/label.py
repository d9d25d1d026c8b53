"""A servo from what its label states: whatever nobody stated is worked out from what was, again at every change.

Between and beyond the generic classes of the catalogue values go along a straight line in logarithms: stall current × volts by
mechanical power (torque × free speed: stall power is in proportion, V I = T ω ÷ η, for a permanent-magnet motor; any text on DC
motors), the shaft's values by mass, which goes with its size, mass by torque. All are estimates: common practice, no source.
"""

from __future__ import annotations

import math
from collections.abc import Callable
from functools import partial
from operator import itemgetter
from typing import Any

from karakuri.catalogue import servo_classes
from karakuri.model.drive import Actuator, Gears

ANCHORS = ("torque_Nm", "at_voltage_V", "speed_s_per_60deg")
"""What every label states; nothing else is needed to work out the rest."""
GUESSED = (
    "rated_voltage_V",
    "mass_g",
    "stall_current_A",
    "travel_deg",
    "play_deg",
    "permitted_moment_Nm",
    "permitted_side_N",
    "shaft_stiffness_Nm_per_rad",
    "reflected_inertia_kgm2",
)
PLAY_DEG: dict[Gears, float] = {"metal": 0.6, "plastic": 1.1, "not stated": 1.1}


def along(x: float, knots: list[tuple[float, float]]) -> float:
    """The value at x > 0 of a line through knots (x, y), all > 0, straight in logarithms; beyond the ends by the last slope.

    Knots of equal x count with their mean."""
    if not x > 0 or not math.isfinite(x):
        return knots[0][1]
    merged: dict[float, list[float]] = {}
    for a, b in knots:
        merged.setdefault(round(math.log(a), 9), []).append(math.log(b))
    points = sorted((a, sum(b) / len(b)) for a, b in merged.items())
    at = math.log(x)
    k = min(max(sum(1 for a, _ in points if a <= at) - 1, 0), len(points) - 2)
    (a0, b0), (a1, b1) = points[k], points[k + 1]
    return math.exp(min(max(b0 + (b1 - b0) * (at - a0) / (a1 - a0), -60.0), 60.0))


def _power(fields: dict[str, Any]) -> float:
    """Stall torque × free speed, W."""
    return float(fields["torque_Nm"] * math.radians(60.0) / fields["speed_s_per_60deg"])


def _by(x: Callable[[dict[str, Any]], float], y: Callable[[dict[str, Any]], float], fields: dict[str, Any]) -> float:
    return along(x(fields), [(x(dict(c)), y(dict(c))) for c in servo_classes()])


def worked_out(fields: dict[str, Any]) -> dict[str, Any]:
    """The fields with every estimated one worked out from the others; SI and degrees as in the file."""
    out = dict(fields)
    if out.get("stepper") is not None:
        return out  # of a stepper nothing is worked out from servos
    guessed = [name for name in GUESSED if name in out["estimated"]]
    anchors = all(isinstance(out[name], float) and 1e-6 < out[name] < 1e6 for name in ANCHORS)
    if not anchors or not ("mass_g" in guessed or 0 <= out["mass_g"] < 1e6):
        return out  # what was written cannot stand, and is about to be refused
    rules: dict[str, Callable[[], float]] = {
        "mass_g": lambda: round(_by(lambda f: f["torque_Nm"], lambda f: f["mass_g"], out), 1),
        "rated_voltage_V": lambda: out["at_voltage_V"],
        "stall_current_A": lambda: (
            _by(_power, lambda f: f["stall_current_A"] * f["at_voltage_V"], out) / out["at_voltage_V"]
        ),
        "travel_deg": lambda: _travel(out["torque_Nm"]),
        "play_deg": lambda: PLAY_DEG[out["gears"]],
        "reflected_inertia_kgm2": lambda: _by(lambda f: f["torque_Nm"], lambda f: f["reflected_inertia_kgm2"], out),
    }
    for name in ("permitted_moment_Nm", "permitted_side_N", "shaft_stiffness_Nm_per_rad"):
        rules[name] = partial(_by, _size, itemgetter(name), out)
    for name in sorted(guessed, key=lambda n: n != "mass_g"):
        value = rules[name]()
        out[name] = (
            value if value == 0 or name == "rated_voltage_V" else round(value, 4 - math.floor(math.log10(value)))
        )
    return out


def _size(fields: dict[str, Any]) -> float:
    """Mass, g, as a measure of a servo's size; what weighs nothing on paper counts by its torque."""
    if fields["mass_g"] > 0:
        return float(fields["mass_g"])
    return _by(lambda f: f["torque_Nm"], lambda f: f["mass_g"], fields)


def _travel(torque_Nm: float) -> float:
    """Travel, degrees, of the strongest class that is not stronger."""
    weaker = [c.travel_deg for c in servo_classes() if c.torque_Nm <= torque_Nm * 1.001]
    return weaker[-1] if weaker else servo_classes()[0].travel_deg


def from_label(name: str, **stated: float | str) -> Actuator:
    """A servo of one's own. `stated`: any fields of an Actuator in its units; torque, volts and speed always.

    Raises ValidationError where a value cannot stand.
    """
    fields = {
        "name": name,
        "gears": "not stated",
        "mass_origin": "data sheet",
        "permitted_side_N": 1.0,
        **dict.fromkeys(GUESSED, 1.0),
    }
    fields |= stated | {"estimated": tuple(n for n in (*GUESSED, "gears") if n not in stated)}
    if "mass_g" not in stated:
        fields["mass_origin"] = "typical"
    return Actuator(**worked_out(fields))


def restated(servo: Actuator, field: str, value: float | str) -> dict[str, Any]:
    """The fields of the servo with one more of them stated and the rest worked out anew; a class becomes one's own servo.

    Not yet built: `apply` does that and refuses what cannot stand.
    """
    fields = dict(servo) | {field: value, "estimated": tuple(e for e in servo.estimated if e != field)}
    if field == "mass_g":
        fields["mass_origin"] = "data sheet"
    if servo.catalogue_id is not None and field != "name":
        fields |= {"catalogue_id": None, "price": None, "name": f"own, was {servo.name.split(',')[0]}"}
    if field == "at_voltage_V" and isinstance(value, float) and "rated_voltage_V" not in fields["estimated"]:
        fields["rated_voltage_V"] = max(fields["rated_voltage_V"], value)
    return worked_out(fields)
