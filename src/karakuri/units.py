"""Quantities, the units a builder chooses to see them in, and typed text read back into SI.

One place converts. Inside, everything is SI and radians; on the screen a Quantity is shown through Units.
Exact definitions: lb = 0.45359237 kg, in = 25.4 mm, standard gravity 9.80665 m/s².
"""

from __future__ import annotations

import ast
import math
import operator
import re
from collections.abc import Callable
from functools import lru_cache
from typing import Any, Literal

from karakuri.errors import BadQuantity
from karakuri.frozen import Frozen

GRAVITY, LONGEST = 9.80665, 200
KGCM = GRAVITY / 100.0
OZIN = 0.45359237 / 16.0 * GRAVITY * 0.0254
NBSP, MINUS = "\u00a0", "\u2212"

Kind = Literal[
    "mass",
    "length",
    "torque",
    "angle",
    "speed",
    "acceleration",
    "time",
    "lag",
    "level",
    "hertz",
    "current",
    "voltage",
    "inertia",
    "force",
    "ratio",
    "percent",
    "gravity",
    "stiffness",
    "twist",
    "rate",
    "frequency",
    "pressure",
    "count",
    "servo_speed",
    "money",
    "pulse",
    "velocity",
    "energy",
    "area",
    "contact",
    "areal",
    "stroke_speed",
    "turning",
    "hours",
    "resistance",
]
Rounding = Literal["nearest", "up", "down"]


class Quantity(Frozen):
    """A value in SI (radians) with its kind; `plus_minus` is a bound, `rounding` which way a shown digit errs."""

    value: float
    kind: Kind
    plus_minus: float = 0.0
    rounding: Rounding = "nearest"


class Unit(Frozen):
    """How one kind is shown: label, how many SI are one of it, decimals, and whether the label hugs the number."""

    label: str
    si: float
    decimals: int
    hugs: bool = False


_COMMON: dict[str, Unit] = {
    "angle": Unit("°", math.pi / 180, 0, True),
    "speed": Unit("°/s", math.pi / 180, 0),
    "acceleration": Unit("rad/s²", 1.0, 1),
    "time": Unit("s", 1.0, 2),
    "lag": Unit("ms", 1e-3, 0),
    "level": Unit("dB", 1.0, 0),
    "hertz": Unit("Hz", 1.0, 1),
    "current": Unit("A", 1.0, 1),
    "voltage": Unit("V", 1.0, 1),
    "inertia": Unit("g·m²", 1e-3, 2),
    "force": Unit("N", 1.0, 1),
    "ratio": Unit("", 1.0, 2),
    "percent": Unit("%", 0.01, 0),
    "gravity": Unit("m/s²", 1.0, 2),
    "stiffness": Unit("N·m/rad", 1.0, 1),
    "twist": Unit("N·mm/°", 0.18 / math.pi, 2),
    "rate": Unit("N/mm", 1e3, 3),
    "frequency": Unit("times a second", 1.0, 1),
    "pressure": Unit("MPa", 1e6, 2),
    "count": Unit("", 1.0, 0),
    "servo_speed": Unit("s/60°", 1.0, 2),
    "money": Unit("", 1.0, 2),
    "pulse": Unit("µs", 1e-6, 0),
    "velocity": Unit("m/s", 1.0, 2),
    "energy": Unit("J", 1.0, 2),
    "area": Unit("cm²", 1e-4, 0),
    "contact": Unit("kPa", 1e3, 1),
    "areal": Unit("g/m²", 1e-3, 0),
    "stroke_speed": Unit("mm/s", 1e-3, 1),
    "turning": Unit("a minute", math.pi / 30, 1),
    "hours": Unit("h", 3600.0, 1),
    "resistance": Unit("mΩ", 1e-3, 1),
}


class Units(Frozen):
    """A choice of units. `written` are those that derivations use where they differ from the short ones."""

    name: str
    title: str
    table: dict[str, Unit]
    written: dict[str, Unit]
    gravitational: bool = False

    def unit(self, kind: Kind, written: bool = False) -> Unit:
        """The unit of a kind; `written` asks for the one that derivations use."""
        if written and kind in self.written:
            return self.written[kind]
        return self.table.get(kind) or _COMMON[kind]


METRIC = Units(
    "metric",
    "mm, g, N·m, deg",
    {"mass": Unit("g", 1e-3, 0), "length": Unit("mm", 1e-3, 0), "torque": Unit("N·m", 1.0, 2)},
    {"mass": Unit("kg", 1.0, 3)},
)
SERVO = Units(
    "kg·cm",
    "mm, g, kg·cm, deg",
    {
        "mass": Unit("g", 1e-3, 0),
        "length": Unit("mm", 1e-3, 0),
        "torque": Unit("kg·cm", KGCM, 1),
        "twist": Unit("kg·cm/°", KGCM * 180 / math.pi, 2),
        "stiffness": Unit("kg·cm/rad", KGCM, 0),
    },
    {"mass": Unit("kg", 1.0, 3), "length": Unit("cm", 1e-2, 1)},
    gravitational=True,
)
INCH = Units(
    "inch",
    "in, oz, oz·in, deg",
    {
        "mass": Unit("oz", 0.45359237 / 16, 1),
        "length": Unit("in", 0.0254, 2),
        "torque": Unit("oz·in", OZIN, 1),
        "twist": Unit("oz·in/°", OZIN * 180 / math.pi, 2),
        "stiffness": Unit("oz·in/rad", OZIN, 0),
    },
    {"length": Unit("in", 0.0254, 2)},
    gravitational=True,
)
ALL_UNITS = (METRIC, SERVO, INCH)


def units_named(name: str) -> Units:
    """The choice of that name; the metric one when there is none."""
    return next((units for units in ALL_UNITS if units.name == name), METRIC)


def rounded(value: float, decimals: int, rounding: Rounding) -> float:
    """A value cut to decimals, to the nearest, up or down (away from a tie by 1e-9 of a step)."""
    scale = 10.0**decimals
    scaled = value * scale
    if rounding == "up":
        return math.ceil(scaled - 1e-6) / scale
    if rounding == "down":
        return math.floor(scaled + 1e-6) / scale
    return math.floor(scaled + 0.5 + 1e-9) / scale


def _decimals(shown: float, least: int) -> int:
    """Decimals that leave two significant digits, never fewer than the unit's own, never more than five."""
    size = abs(shown)
    if size < 1e-9 or (least == 0 and size >= 1):
        return least if abs(size - round(size)) < 0.05 or size >= 20 else 1
    return min(5, max(least, 1 - math.floor(math.log10(size))))


def digits(value: float, decimals: int) -> str:
    """A number with a real minus sign and a thin space in thousands."""
    text = f"{abs(value):,.{decimals}f}".replace(",", "\u2009")
    return (MINUS if value < 0 and float(f"{abs(value):.{decimals}f}") != 0 else "") + text


def show_number(q: Quantity, units: Units, extra: int = 0, written: bool = False) -> str:
    """The number alone."""
    unit = units.unit(q.kind, written)
    shown = q.value / unit.si
    if not math.isfinite(shown) or abs(shown) >= 1e15:
        return "\u2014"
    decimals = _decimals(shown, unit.decimals) + extra
    if written:
        decimals = _written_decimals(shown, decimals, extra)
    return digits(rounded(shown, decimals, q.rounding), decimals)


def _written_decimals(shown: float, most: int, extra: int) -> int:
    """In a derivation trailing zeros are dropped: 1.860 kg is written 1.86."""
    for fewer in range(most + 1):
        if abs(rounded(shown, fewer, "nearest") - rounded(shown, most, "nearest")) < 1e-9:
            return fewer
    return most


def show(q: Quantity, units: Units, extra: int = 0, written: bool = False) -> str:
    """Number and unit, a no-break space between them; ± where the quantity carries a bound."""
    unit = units.unit(q.kind, written)
    text = show_number(q, units, extra, written)
    if text == "\u2014":
        return text
    if q.plus_minus > 0:
        bound = Quantity(q.plus_minus, q.kind, rounding="up")
        text = f"{text}{NBSP}±{NBSP}{show_number(bound, units, extra, written)}"
    if not unit.label:
        return text
    return text + ("" if unit.hugs else NBSP) + unit.label


_OPERATORS: dict[type, Callable[[float, float], float]] = {
    ast.Add: operator.add,
    ast.Sub: operator.sub,
    ast.Mult: operator.mul,
    ast.Div: operator.truediv,
}


def calculate(text: str, values: dict[str, float] | None = None) -> float:
    """A sum of numbers with + − × ÷ brackets, cos, sin and tan (radians), names from `values`.

    Raises BadQuantity.
    """
    plain = text.replace(MINUS, "-").replace("×", "*").replace("÷", "/").replace("\u2009", "")
    try:
        return _value_of(ast.parse(plain.strip(), mode="eval").body, values or {})
    except (SyntaxError, ZeroDivisionError, KeyError, ValueError, OverflowError) as trouble:
        raise BadQuantity(f"“{text}” is no number and no sum that can be worked out") from trouble


def _value_of(node: ast.AST, values: dict[str, float]) -> float:
    if isinstance(node, ast.Constant) and isinstance(node.value, (int, float)):
        return float(node.value)
    if isinstance(node, ast.Name):
        return values[node.id]
    if isinstance(node, ast.BinOp) and type(node.op) in _OPERATORS:
        return _OPERATORS[type(node.op)](_value_of(node.left, values), _value_of(node.right, values))
    if isinstance(node, ast.UnaryOp) and isinstance(node.op, (ast.USub, ast.UAdd)):
        value = _value_of(node.operand, values)
        return -value if isinstance(node.op, ast.USub) else value
    if isinstance(node, ast.Call) and isinstance(node.func, ast.Name) and len(node.args) == 1:
        function = {"cos": math.cos, "sin": math.sin, "tan": math.tan}[node.func.id]
        return function(_value_of(node.args[0], values))
    raise ValueError(ast.dump(node))


_UNIT = r"[a-zA-Zµ°\"'%²]+(?:[ ·/*]*[a-zA-Zµ°\"'%²]+)*"
_TERM = re.compile(rf"(\d[\d.]*)\s*({_UNIT})?")
_ONE_AT_THE_END = re.compile(rf"([\d.+\-*/×÷() ]+?)\s*({_UNIT})")
_SPOKEN = {"°": "degree", "deg": "degree", "degrees": "degree", '"': "inch", "in": "inch", "'": "foot", "lbs": "lb"}
_PINT_KIND = {
    "mass": "kg",
    "length": "m",
    "torque": "N*m",
    "angle": "rad",
    "speed": "rad/s",
    "time": "s",
    "lag": "s",
    "current": "A",
    "hours": "s",
    "resistance": "Ω",
    "voltage": "V",
    "force": "N",
    "servo_speed": "s",
    "pulse": "s",
    "rate": "N/m",
    "pressure": "Pa",
    "contact": "Pa",
    "areal": "kg/m**2",
    "area": "m**2",
    "stroke_speed": "m/s",
}


_FORCE, _ARM = {"kg": "kg", "kgf": "kg", "g": "g", "gf": "g", "oz": "oz", "ozf": "oz", "lb": "lb", "lbf": "lb", "lbs": "lb", "n": "N"}, {"cm": "cm", "mm": "mm", "m": "m", "in": "in", "inch": "in", "ft": "ft"}  # fmt: skip
_TORQUE = re.compile(
    r"(?<![a-z])(?:(kgf?|gf?|ozf?|lb[fs]?|n)[\s·.*x-]*(cm|mm|m|inch|in|ft)|(inch|in|ft)[\s·.*x-]*(kgf?|gf?|ozf?|lb[fs]?))(?![a-z])",
    re.IGNORECASE,
)


def _torque_unit(match: re.Match[str]) -> str:
    """A unit of torque as labels print it, kgcm, kg-cm, kg.cm, oz-in, in-lb, N.cm, in the one spelling that is read on."""
    force, arm = match[1] or match[4], match[2] or match[3]
    return f"{_FORCE[force.lower()]} {_ARM[arm.lower()]}"


@lru_cache(maxsize=1)
def _registry() -> Any:
    import pint

    return pint.UnitRegistry()


def learn() -> None:
    """Read the table of units, so that nobody waits for it later."""
    _registry()


def read_quantity(text: str, kind: Kind, units: Units) -> float:
    """Typed text as SI: '46-2', '2 lb', '475 oz in', '20 kg cm'. A bare number is in the unit shown.

    Raises BadQuantity when it is no sum or the unit is of another kind.
    """
    own = units.unit(kind)
    if len(text) > LONGEST:
        raise BadQuantity(f"{len(text)} letters are no {kind.replace('_', ' ')}; at most {LONGEST} are read")
    tidy = text.strip().replace(MINUS, "-").replace("\u00a0", " ").replace("\u2009", "").replace(",", ".")
    if not tidy:
        raise BadQuantity(f"a {kind} is wanted here, in {own.label or 'plain numbers'}; nothing was written")
    if kind == "torque":
        tidy = _TORQUE.sub(_torque_unit, tidy)
    if re.fullmatch(r"[\d.+\-*/×÷() ]+", tidy):
        return calculate(tidy) * own.si
    if kind == "servo_speed":
        tidy = re.sub(r"/\s*60\s*(°|deg)?", "", tidy)
    whole = _ONE_AT_THE_END.fullmatch(tidy)
    if whole:
        return _one(whole.group(1), whole.group(2), kind, own)
    values: dict[str, float] = {}

    def term(match: re.Match[str]) -> str:
        name = f"q{len(values)}"
        values[name] = _one(match.group(1), match.group(2) or "", kind, own)
        return name

    with_names = _TERM.sub(term, tidy)
    return calculate(with_names, values)


def _one(number: str, unit_text: str, kind: Kind, own: Unit) -> float:
    value = calculate(number)
    label = re.sub(r"\s+", " ", unit_text.replace("·", " ").strip())
    if not label or label == own.label.replace("·", " "):
        return value * own.si
    if kind in (
        "ratio",
        "percent",
        "count",
        "inertia",
        "stiffness",
        "twist",
        "frequency",
        "money",
        "gravity",
        "acceleration",
    ):
        raise BadQuantity(f"“{unit_text}” has no place here; a number in {own.label or 'plain numbers'} is wanted")
    if kind in ("speed", "stroke_speed"):
        label = label.replace("/s", " / s")
    words = [_SPOKEN.get(word, word) for word in label.replace("/", " / ").replace("-", " ").split()]
    if kind in ("torque", "force", "rate"):
        words = [{"kg": "kgf", "g": "gf", "oz": "ozf", "lb": "lbf"}.get(word, word) for word in words]
    expression = " * ".join(words).replace("* / *", "/")
    try:
        return float(_registry().Quantity(value, expression).to(_PINT_KIND[kind]).magnitude)
    except Exception as trouble:
        raise BadQuantity(
            f"“{number} {unit_text}” is no {kind.replace('_', ' ')}; write it in {own.label}, for example "
            f"“{number} {own.label}”"
        ) from trouble
