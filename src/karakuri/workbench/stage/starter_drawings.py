"""Drawings of kinds of figure and of starters, 100 wide and 60 high: cut like woodblocks, a servo is always the same box with a brass pivot.

One string a shape: o fill x y radius · b fill x y wide high · l colour width x y x y · p fill path; a fill of - is none.
"""

from __future__ import annotations

from PyQt6.QtGui import QTransform

from karakuri.workbench.kit import Kit
from karakuri.workbench.stage.drawing import flat

WIDE, HIGH = 100.0, 60.0
HEAD = "p card M 22 50 C 14 26 26 8 50 8 C 70 8 82 20 82 32 L 80 36"
NECKED = ("o card 50 20 16", "p feather_d M 64 20 L 72 23 L 64 27 Z", "o eye 58 17 2")


def _servo(x: float, y: float) -> tuple[str, ...]:
    return (f"b indigo_t {x} {y} 18 12", f"o brass_f {x + 13} {y + 3} 3")


def _face(*eyes: str) -> tuple[str, ...]:
    return ("p face M 12 6 C 30 0 70 0 88 6 L 86 40 C 70 48 30 48 14 40 Z", *eyes)


DRAWINGS: dict[str, tuple[str, ...]] = {
    "bare": ("b wood 24 46 52 9", "p - M 38 44 L 38 14 L 62 14 L 62 44"),
    "bust": (
        "b wood 22 50 56 7", "p feather M 34 50 C 26 34 28 10 50 8 C 72 10 74 34 66 50 Z", "p face M 50 14 C 36 10 32 26 40 32 C 44 36 48 34 50 38 C 52 34 56 36 60 32 C 68 26 64 10 50 14 Z",
        "o eye 43 23 3.4", "o eye 57 23 3.4", "p brass_f M 48 27 L 52 27 L 50 34 Z", "l feather_d 1.4 42 44 44 47", "l feather_d 1.4 50 43 50 47", "l feather_d 1.4 58 44 56 47",
    ),
    "worn": (
        "p chest M 30 57 C 20 30 28 14 50 14 C 72 14 80 30 70 57 Z", "p indigo M 30 18 C 32 4 68 4 70 18 Z", "b ink 28 17 44 4", "o eye 41 29 2.6", "o eye 59 29 2.6",
        "p face M 36 40 C 36 32 49 32 50 38 C 51 32 64 32 64 40 C 64 47 52 47 50 43 C 48 47 36 47 36 40 Z", "p face M 43 46 L 47 46 L 45 57 Z", "p face M 53 46 L 57 46 L 55 57 Z",
    ),
    "held": (
        "p asagi_t M 18 22 C 26 8 46 6 58 18 C 66 26 64 40 56 48 L 44 52 C 48 42 44 36 36 34 L 18 32 Z", "p asagi M 50 12 L 58 6 L 58 16 L 66 14 L 62 24 L 70 26 L 62 32 Z", "o eye 36 19 3", "l ink 1.4 18 27 30 28",
        "p brass_t M 44 50 L 60 44 L 88 50 L 88 58 L 50 58 Z",
    ),
    "window": (
        "b desk 22 4 56 50", "l rule 1.6 22 28 78 28", "l rule 1.6 50 4 50 54", "p chest M 38 54 C 38 38 62 38 62 54 Z", "o face 50 28 9", "p indigo M 40 25 L 50 8 L 60 25 Z", "l chest 4 60 44 72 30", "o brass_f 73 27 4.4",
        "b wood 16 53 68 5",
    ),
    "rolling": (
        "p desk M 32 22 L 68 22 L 72 48 L 28 48 Z", "p card M 34 22 C 34 6 66 6 66 22 Z", "o eye 56 15 3", "b brass_t 42 30 16 9", "o wood 34 53 5.6", "o wood 66 53 5.6", "l ink 1.4 44 9 40 2", "o verm 40 2 2",
    ),
    "neck_turns": (*NECKED, "b wood 30 40 40 4", *_servo(41, 45), "p - M 28 34 C 24 44 40 49 46 46"),
    "neck_nods": (*NECKED, "l ink 3 50 36 50 50", "b wood 30 53 40 4", *_servo(40, 38), "p - M 76 12 C 82 20 82 28 77 34"),
    "neck_leans": ("o card 50 20 16", "o eye 44 18 2", "o eye 56 18 2", "p brass_f M 48 22 L 52 22 L 50 27 Z", "b wood 30 53 40 4", *_servo(41, 39), "p - M 26 12 C 30 4 70 4 74 12"),
    "neck_rods": (*NECKED, "l ink 3 50 36 50 44", "o brass_f 50 39 3", "l ink 2 32 52 38 32", "l ink 2 68 52 62 32", *_servo(22, 47), *_servo(60, 47)),
    "jaw_whole": (HEAD, "p feather M 30 40 L 80 40 C 76 52 60 56 36 52 Z", "o brass_f 34 42 3", *_servo(8, 30), "l ink 1.6 21 33 34 36"),
    "jaw_split": (HEAD, "p feather M 30 40 L 62 40 L 60 53 L 36 51 Z", "p feather_d M 64 41 L 84 39 C 82 48 74 52 64 51 Z", "o brass_f 34 42 3", "o brass_f 63 44 2.6", *_servo(8, 30), *_servo(42, 24)),
    "jaw_cord": (HEAD, "p feather M 30 40 L 80 40 C 76 52 60 56 36 52 Z", "o brass_f 34 42 3", "l verm 1.6 64 54 64 58", "l verm 1.6 64 58 8 58", "o card 64 57 2.6", "l moss 2 48 24 52 40"),
    "lids": _face("o card 33 24 12", "o card 67 24 12", "p plum_t M 20 24 C 22 8 44 8 46 24 Z", "p plum_t M 54 24 C 56 8 78 8 80 24 Z", "o eye 33 28 3.4", "o eye 67 28 3.4", *_servo(24, 46), *_servo(58, 46)),
    "eyes_horn": _face("o card 33 22 11", "o card 67 22 11", "o eye 35 22 4.4", "o eye 69 22 4.4", "l ink 2.4 33 37 67 37", *_servo(41, 36)),
    "eyes_two": _face("o card 33 22 11", "o card 67 22 11", "p plum_t M 23 20 C 25 10 41 10 43 20 Z", "p plum_t M 57 20 C 59 10 75 10 77 20 Z", "o eye 35 24 4", "o eye 69 24 4", "l ink 1.6 33 37 67 37", *_servo(26, 44), *_servo(58, 44)),
    "eyes_four": _face("o card 33 22 12", "o card 67 22 12", "o asagi 33 22 6", "o asagi 67 22 6", "o eye 33 22 3", "o eye 67 22 3", *_servo(4, 46), *_servo(28, 46), *_servo(54, 46), *_servo(78, 46)),
    "eyes_drawn": _face("p card M 18 24 C 22 12 44 12 48 24 C 44 34 22 34 18 24 Z", "p card M 52 24 C 56 12 78 12 82 24 C 78 34 56 34 52 24 Z", "o eye 36 23 5", "o eye 70 23 5", "l rule 2 36 42 70 42", "l ink 1.6 53 42 53 52", *_servo(41, 48)),
    "brows": _face("o card 33 28 9", "o card 67 28 9", "o eye 33 28 3.4", "o eye 67 28 3.4", "p chest M 18 10 L 44 17 L 44 21 L 18 15 Z", "p chest M 82 10 L 56 17 L 56 21 L 82 15 Z", "o brass_f 42 19 2.4", "o brass_f 58 19 2.4"),
    "ears": ("o face 50 42 17", "p chest_t M 38 28 C 24 18 26 2 34 2 C 42 4 46 18 44 26 Z", "p chest_t M 62 28 C 76 18 74 2 66 2 C 58 4 54 18 56 26 Z", "o eye 44 40 2", "o eye 56 40 2", "o brass_f 41 28 2.6", "o brass_f 59 28 2.6", "p - M 20 4 C 16 8 16 14 18 18"),
    "tail": ("p feather M 6 44 L 32 40 L 32 54 L 6 54 Z", "p feather M 36 40 L 60 34 L 62 45 L 38 53 Z", "p feather_d M 65 32 L 94 16 L 68 42 Z", "o brass_f 34 47 3.4", "o brass_f 63 38 3", "p - M 92 30 C 96 22 96 12 90 6"),
    "finger": ("b desk 4 26 26 26", "p face M 30 28 L 52 24 L 54 34 L 31 40 Z", "p face M 56 25 L 74 30 L 71 40 L 55 35 Z", "p face M 75 32 L 86 46 L 77 51 L 70 41 Z", "o brass_f 31 34 3", "o brass_f 55 30 2.6", "o brass_f 73 36 2.6", *_servo(8, 32), "l verm 1.4 24 44 52 40"),
    "gripper": ("b desk 4 18 26 28", "o card 34 24 8", "o card 34 40 8", "p face M 38 18 L 78 8 L 92 20 L 88 24 L 76 16 L 42 26 Z", "p face M 38 46 L 78 56 L 92 44 L 88 40 L 76 48 L 42 38 Z", "o brass_f 34 24 2.6", "o brass_f 34 40 2.6", *_servo(6, 26)),
}  # fmt: skip


def draw_starter(kit: Kit, ident: str, x: float, y: float, wide: float, high: float) -> None:
    """The drawing of a kind or a starter in a box in pixels, as large as it goes, in its middle."""
    by = min(wide / WIDE, high / HIGH)
    place = QTransform(by, 0, 0, by, x + (wide - by * WIDE) / 2, y + (high - by * HIGH) / 2)
    for shape in DRAWINGS[ident]:
        letter, fill, rest = shape.split(" ", 2)
        colour = None if fill == "-" else fill
        if letter == "p":
            kit.draw(place.map(flat(rest)), colour, "ink3" if colour is None else "ink", 1.2, "dash" if colour is None else "")  # fmt: skip
            continue
        numbers = [float(each) for each in rest.split()]
        if letter == "l":
            a, b = place.map(numbers[1], numbers[2]), place.map(numbers[3], numbers[4])
            kit.line(*a, *b, fill, max(1.0, numbers[0] * by), round_cap=True)
        elif letter == "o":
            kit.circle(*place.map(numbers[0], numbers[1]), numbers[2] * by, colour, "ink", 1.2)
        else:
            at = place.map(numbers[0], numbers[1])
            kit.rect(*at, numbers[2] * by, numbers[3] * by, colour, "ink", 1.2)
