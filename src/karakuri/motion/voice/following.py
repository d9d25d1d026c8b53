"""How far a drive goes along with what is asked of it: what it cannot reach in the time there is, is flattened, and told."""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np

from karakuri.bodies.inertia import Array
from karakuri.frozen import Frozen
from karakuri.motion.voice.opening import Turns


class KeepsUp(Frozen):
    """How long moves of some sizes take at least: `distances` rad or m, upwards, and `times` s, never less for a longer one. None of them: nothing holds it
    back."""

    distances: tuple[float, ...] = ()
    times: tuple[float, ...] = ()

    def furthest(self, time: float) -> float:
        """How far it goes in `time` s, rad or m: between moves of known times as straight as between them, which is less; below the smallest as gravity and
        inertia have it, with the square of the time."""
        if not self.distances:
            return math.inf
        if time < self.times[0]:
            return self.distances[0] * (time / self.times[0]) ** 2
        known = [(t, d) for t, d in zip(self.times, self.distances, strict=True) if t < math.inf]
        return float(np.interp(time, [t for t, _ in known], [d for _, d in known]))

    def least(self, distance: float) -> float:
        """How long it takes at least to go so far, rad or m, s; inf where it never gets there."""
        if not self.distances or distance <= 0.0:
            return 0.0
        if distance < self.distances[0]:
            return self.times[0] * math.sqrt(distance / self.distances[0])
        if distance > self.distances[-1]:
            return math.inf
        k = int(np.searchsorted(self.distances, distance))
        if math.isinf(self.times[k]):
            return self.times[k] if distance > self.distances[k - 1] else self.times[k - 1]
        return float(np.interp(distance, self.distances[: k + 1], self.times[: k + 1]))

    @property
    def speed(self) -> float:
        """How fast it is on its longest way, rad/s or m/s: what one more bit of it takes more; inf where nothing holds it back, or
        where it is never there: how fast a drive is that cannot make it, nobody knows."""
        known = [(d, t) for d, t in zip(self.distances, self.times, strict=True) if t < math.inf]
        if not known:
            return math.inf
        (d0, t0), (d1, t1) = known[-2] if len(known) > 1 else (0.0, 0.0), known[-1]
        return (d1 - d0) / (t1 - t0) if t1 > t0 else math.inf


NO_LIMIT = KeepsUp()


class Followed(Frozen, eq=False):
    """Moves (n,) each: departs, takes s and target, rad or m; `wished` (n,) is where each was asked to go."""

    departs: Array
    takes: Array
    target: Array
    wished: Array

    @property
    def short(self) -> Array:
        """By how much each stays short of what was asked, (n,) rad or m."""
        out: Array = np.abs(self.wished - self.target)
        return out


class Busy(Frozen):
    """Something else moves the ribbon from `begins` to `ends`, s, and leaves it at `place`, rad or m."""

    begins: float
    ends: float
    place: float


def followed(
    turns: Turns, shut: float, wide: float, can: KeepsUp, first: float = 0.0, busy: Sequence[Busy] = ()
) -> Followed:
    """Moves from shut to wide (rad or m) along an opening's turns, none before `first` s and none while something else moves, of which `busy` tells in
    order. Each departs when the one before is over, arrives when it is asked to or, where the opening stays, later in that stay; what no time
    is left for is not reached."""
    wishes = shut + turns.opening * (wide - shut)
    rows: list[tuple[float, float, float, float]] = []
    place, free, waiting = shut, first, list(busy)
    for begins, ends, wish in zip(turns.begins.tolist(), turns.ends.tolist(), wishes.tolist(), strict=True):
        departs = max(min(free, begins), rows[-1][0] + rows[-1][1] if rows else first)
        while waiting and waiting[0].ends <= departs:
            place = waiting.pop(0).place
        away = wish - place
        takes = max(begins - departs, min(can.least(abs(away)), ends - departs))
        if not rows and abs(away) < 1e-12:
            free = max(first, ends)
            continue
        if takes > 0 and waiting and waiting[0].begins < departs + takes:
            takes = waiting[0].begins - departs  # as far as it goes before it is somebody else's
            if takes <= 0:
                free = max(free, waiting[0].ends)
                continue
        target = place + math.copysign(min(abs(away), can.furthest(takes)), away) if takes > 0 else place
        if abs(target - place) > 1e-9:
            rows.append((departs, takes, target, wish))
            place = target
        free = max(ends, departs + max(takes, 0.0))
    columns = np.array(rows).reshape(-1, 4).T
    return Followed(columns[0], columns[1], columns[2], columns[3])
