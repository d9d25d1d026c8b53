"""The worst hold as ballast or a place varies: the least amount that brings it below a limit, in few searches.

At any one pose the torque is linear in the amount, so the worst hold, a largest value of such lines, is convex and every line
found so far lies below it: Kelley's cutting planes (J. SIAM 8, 1960, from memory) in one dimension.
"""

from __future__ import annotations

import math
from collections.abc import Callable
from itertools import combinations

import numpy as np

from karakuri.bodies.tree import build_tree
from karakuri.checks.contract import Results
from karakuri.mechanics.worst import drive_torque_Nm
from karakuri.model.edit import Edit, apply

ENOUGH, MOST_CUTS = 2e-3, 12


class WorstHold:
    """What must be held for long, N·m, by a joint in the figures that `edit(amount)` makes, for multiples of `step` from one step to `most`."""

    def __init__(
        self, results: Results, joint_id: str, edit: Callable[[float], Edit], step: float, most: float
    ) -> None:
        self._results, self._joint, self._edit = results, joint_id, edit
        self._step, self._most = step, max(step, math.floor(most / step + 1e-9) * step)
        self._known: dict[float, float] = {}
        self._lines: list[tuple[float, float]] = []

    def at(self, amount: float) -> float:
        """The worst hold there, searched for once; its pose adds a line to what is known."""
        if amount in self._known:
            return self._known[amount]
        needed = self._results.need_of(apply(self._results.figure, self._edit(amount)), self._joint)
        if needed is None:
            return math.inf
        value, worst = needed.value, needed.worst
        other = self._most if amount < (self._step + self._most) / 2 else self._step
        if other != amount:
            tree = build_tree(apply(self._results.figure, self._edit(other)))
            gravity = self._results.gravities[worst.posture]
            there = drive_torque_Nm(tree, tree.index(self._joint), worst.pose[:, None], gravity)
            slope = (needed.factor * math.copysign(1.0, worst.hold) * float(there[0]) - value) / (other - amount)
            self._lines.append((value - slope * amount, slope))
        self._known[amount] = value
        return value

    def lowest(self) -> float:
        """The amount where the worst hold is least, within a step."""
        self.at(self._step)
        self.at(self._most)
        for _ in range(MOST_CUTS):
            amount, below = self._lowest_below()
            if self.at(amount) - below <= ENOUGH * self.at(amount):
                break
        return min(self._known, key=lambda amount: (self._known[amount], amount))

    def least(self, limit: float) -> float | None:
        """The smallest amount whose worst hold is within the limit; None where there is none."""
        best = self.lowest()
        if self._known[best] > limit:
            return None
        low = self._step
        for _ in range(MOST_CUTS):
            for intercept, slope in self._lines:
                if slope < 0:
                    low = max(low, self._up((limit - intercept) / slope))
            low = min(low, best)
            if low == best or self.at(low) <= limit:
                return low
            low += self._step
        return best

    def _up(self, amount: float) -> float:
        return round(math.ceil(amount / self._step - 1e-6) * self._step, 9)

    def _lowest_below(self) -> tuple[float, float]:
        """Where the highest of the known lines is lowest, over the steps next to where they cross, and how low."""
        tries = {self._step, self._most}
        for (a, b), (c, d) in combinations(self._lines, 2):
            if abs(b - d) > 1e-15:
                up = self._up((c - a) / (b - d))
                tries |= {amount for amount in (up - self._step, up) if self._step <= amount <= self._most}
        amounts = np.array(sorted(tries))
        lines = np.array(self._lines)
        below = (lines[:, :1] + lines[:, 1:] * amounts).max(axis=0)
        k = int(np.argmin(below))
        return float(amounts[k]), float(below[k])
