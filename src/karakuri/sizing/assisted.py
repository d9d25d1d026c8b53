"""What a spring across one joint would leave its servo to hold: the joint's envelope of weight once, and every rate from that."""

from __future__ import annotations

import numpy as np

from karakuri.bodies.cut import cut, matter_to
from karakuri.bodies.inertia import Array
from karakuri.bodies.tree import Tree
from karakuri.mechanics.envelope import envelope
from karakuri.mechanics.statics import loads_torque_Nm
from karakuri.mechanics.tied import is_tied

PLACES, PLACES_AT_REST, CLOSE = 49, 13, 0.997
"""Angles looked at, and how much below a limit a rate is wanted there, for between them a little more may be asked."""


def alone(tree: Tree, j: int) -> bool:
    """Whether nothing else is tied to joint j, so that a spring across it asks something of its own angle only."""
    return not is_tied(tree, matter_to(tree, j))


def softest(
    tree: Tree, sprung: Tree, j: int, gravities: Array, rests: tuple[float, float] | None, factor: float, rates: Array, limit: float
) -> float | None:  # fmt: skip
    """The least of `rates` (r,) with which joint j, `alone`, never asks more than limit, N·m, for long; None where none does. `sprung` is the tree
    with that spring at the unit of the rates; `rests` rad is where the joint may stand, outside of which factor × as much counts;
    gravities (p, 3) m/s². Holding is linear in the rate at each angle."""
    felt = cut(tree, j)
    ends = (float(tree.low[j]), float(tree.high[j]))
    low, high = (min(max(end, ends[0]), ends[1]) for end in rests) if rests is not None else ends
    angles = np.union1d(np.linspace(*ends, PLACES), np.linspace(low, high, PLACES_AT_REST))
    over = envelope(felt.tree, felt.j, angles, gravities, tilting=False)
    q = np.repeat(sprung.rest[:, None], len(angles), axis=1)
    q[j] = angles
    helps = loads_torque_Nm(sprung, j, q)
    share = np.where((angles >= low - 1e-9) & (angles <= high + 1e-9), 1.0, factor)
    asked = np.maximum(
        np.abs(over.highest[:, None] + helps[:, None] * rates), np.abs(over.lowest[:, None] + helps[:, None] * rates)
    )
    enough = np.flatnonzero((share[:, None] * asked).max(axis=0) <= CLOSE * limit)
    return float(rates[enough[0]]) if len(enough) else None
