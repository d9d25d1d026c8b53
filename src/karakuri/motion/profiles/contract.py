"""The contract of a profile.

To add one: a row in model/profiles.py, motion/profiles/NAME.py with a PROFILE, named in __init__.py, and the same formula in the
player's C++ of exchange/player; tests compare both.
"""

from __future__ import annotations

from collections.abc import Callable

from karakuri.bodies.inertia import Array
from karakuri.frozen import Frozen

Offsets = tuple[Array, Array, Array]


class Profile(Frozen):
    """`run(t, takes, distance, speed, shape)`, all (n,): seconds since departure (≥ 0), seconds, distance to go, speed at departure,
    the move's own number. Returns offset from the start, speed and acceleration, (n,) each, in the distance's unit, s.

    peak_speed(shape), peak_acceleration(shape): v T ÷ D and a T² ÷ D of a move from rest; infinity where there is no bound.
    edges(shape): shares of its time at which its acceleration leaps. `arrives` is false for a profile that is still under way when its time is over.
    """

    name: str
    run: Callable[[Array, Array, Array, Array, Array], Offsets]
    peak_speed: Callable[[float], float]
    peak_acceleration: Callable[[float], float]
    arrives: bool = True
    edges: Callable[[float], tuple[float, ...]] = lambda _: ()
