"""The quantities a figure is written in, each within bounds.

The bounds are what figures from 1 mm to 10 m and from 0.01 g to 500 kg need; arithmetic relies on them.
"""

import unicodedata
from typing import Annotated

from karakuri.values.fields import After, Field


def _nothing_or(least: float) -> After:
    def check(value: float) -> float:
        if 0 < value < least:
            raise ValueError(f"expected 0, or at least {least:g}, found {value:g}")
        return value

    return After(check)


def plain(text: str) -> str:
    """Text without control characters, half characters and marks that turn the direction of writing: each shown as �."""
    return "".join("\ufffd" if unicodedata.category(c) in ("Cc", "Cs") or c in _TURNING else c for c in text)


def _printable(text: str) -> str:
    if text != plain(text):
        raise ValueError("a name is written in letters, without control characters")
    return text


_TURNING = "\u202a\u202b\u202c\u202d\u202e\u2066\u2067\u2068\u2069\u2028\u2029"
Identifier = Annotated[str, Field(pattern=r"^[a-z][a-z0-9_]*$", max_length=60)]
Name = Annotated[str, Field(min_length=1, max_length=80), After(_printable)]
Share = Annotated[float, Field(ge=0.001, le=1)]

Mass_g = Annotated[float, Field(ge=0, le=500_000), _nothing_or(0.001)]
Density_kgm3 = Annotated[float, Field(ge=0.1, le=30_000)]
Size_mm = Annotated[float, Field(ge=0.01, le=20_000)]
Wall_mm = Annotated[float, Field(ge=0, le=5_000), _nothing_or(0.001)]
Distance_mm = Annotated[float, Field(ge=0, le=20_000)]
Coordinate_mm = Annotated[float, Field(ge=-20_000, le=20_000)]
Angle_deg = Annotated[float, Field(ge=-720, le=720)]
Width_deg = Annotated[float, Field(ge=0, le=720)]
Travel_deg = Annotated[float, Field(ge=0.1, le=3_600)]
Torque_Nm = Annotated[float, Field(ge=1e-5, le=10_000)]
Friction_Nm = Annotated[float, Field(ge=0, le=10_000), _nothing_or(1e-9)]
Force_N = Annotated[float, Field(ge=1e-3, le=1e6)]
Stiffness = Annotated[float, Field(ge=1e-3, le=1e7)]
Inertia_kgm2 = Annotated[float, Field(ge=0, le=1_000), _nothing_or(1e-12)]
Voltage_V = Annotated[float, Field(ge=0.1, le=1_000)]
Current_A = Annotated[float, Field(ge=0.001, le=10_000)]
Time_s = Annotated[float, Field(ge=0, le=86_400)]
Duration_s = Annotated[float, Field(ge=0.001, le=86_400)]
Price = Annotated[float, Field(ge=0, le=1e9)]
Place = tuple[Coordinate_mm, Coordinate_mm, Coordinate_mm]
Direction = tuple[
    Annotated[float, Field(ge=-1e6, le=1e6)],
    Annotated[float, Field(ge=-1e6, le=1e6)],
    Annotated[float, Field(ge=-1e6, le=1e6)],
]
Turned = tuple[Angle_deg, Angle_deg, Angle_deg]
Range_deg = tuple[Angle_deg, Angle_deg]
Range_mm = tuple[Coordinate_mm, Coordinate_mm]
