"""How a part is drawn in an elevation: looks only, they weigh nothing and touch nothing.

Paths are written as SVG 1.1 path data (W3C, absolute M, L, C, Q and Z), in mm in the figure at rest: first to the right (in the side view ahead,
in the front view to its left), then up.
"""

import math
import re
from functools import lru_cache
from typing import Annotated, Literal

from karakuri.values.fields import After, Field
from karakuri.values.value import Value

View = Literal["side", "front"]
Fill = Literal["main", "shade", "light", "hollow", "mark", "dark", "horn", "wood", "cloth", "none"]
FILLS: dict[Fill, str] = {
    "main": "main tone",
    "shade": "its shade",
    "light": "light",
    "hollow": "hollow",
    "mark": "small marks",
    "dark": "dark",
    "horn": "horn or metal",
    "wood": "wood",
    "cloth": "cloth",
    "none": "lines only",
}
POINTS = {"M": 1, "L": 1, "Q": 2, "C": 3, "Z": 0}
MOST_LETTERS, LARGEST_MM = 20_000, 20_000.0
Piece = tuple[str, tuple[tuple[float, float], ...]]
_TOKEN = re.compile(r"\s*,?\s*([MLCQZ]|[-+]?(?:\d+\.?\d*|\.\d+)(?:[eE][-+]?\d+)?)")


@lru_cache(maxsize=4000)
def pieces(path: str) -> tuple[Piece, ...]:
    """A path as commands with their points (x, y), mm. Raises ValueError, saying what was expected where."""
    out: list[Piece] = []
    numbers: list[float] = []
    at, command = 0, ""
    text = path.rstrip()
    while at < len(text):
        match = _TOKEN.match(text, at)
        if match is None:
            raise ValueError(f"expected M, L, C, Q, Z or a number at letter {at + 1} of the path, found {text[at : at + 8]!r}")  # fmt: skip
        token, at = match[1], match.end()
        if token in POINTS:
            if numbers:
                raise ValueError(f"expected {2 * POINTS[command]} numbers after {command}, found {len(numbers)}")
            command = token
            if not out and token != "M":
                raise ValueError(f"a path begins with M, found {token}")
            if token == "Z":
                out.append(("Z", ()))
            continue
        if POINTS.get(command, 0) == 0:
            raise ValueError(f"expected a letter before the number {token}")
        value = float(token)
        if not math.isfinite(value) or abs(value) > LARGEST_MM:
            raise ValueError(f"expected at most {LARGEST_MM:g} mm in a path, found {token}")
        numbers.append(value)
        if len(numbers) == 2 * POINTS[command]:
            out.append((command, tuple(zip(numbers[::2], numbers[1::2], strict=True))))
            numbers = []
            command = "L" if command == "M" else command
    if numbers or not any(letter != "M" for letter, _ in out):
        raise ValueError("expected a path that goes somewhere: M x y, then L, C or Q with their numbers")
    return tuple(out)


def _read(path: str) -> str:
    pieces(path)
    return path


def written(points: list[tuple[float, float]], closed: bool = True) -> str:
    """A path of straight pieces through points (x, y), mm."""
    first, *rest = (f"{round(x, 1):g} {round(y, 1):g}" for x, y in points)
    return f"M {first} " + " ".join(f"L {each}" for each in rest) + (" Z" if closed else "")


def moved_path(path: str, by: float, centre: tuple[float, float]) -> str:
    """The same path made larger about a centre (x, y), mm."""
    out = []
    for letter, points in pieces(path):
        numbers = (f"{round(c + by * (a - c), 2):g}" for point in points for a, c in zip(point, centre, strict=True))
        out.append(" ".join((letter, *numbers)))
    return " ".join(out)


class Drawn(Value):
    """One area or line of a part, as it is seen from the side or from the front. Later ones lie over earlier ones."""

    view: View
    fill: Fill = "main"
    edge: Literal["ink", "fine", "thick", "none"] = "ink"
    within: bool = Field(default=False, description="Cut off at the edge of the part's first path in that view.")
    path: Annotated[str, Field(max_length=MOST_LETTERS), After(_read)]
