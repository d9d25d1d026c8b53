"""What a channel is asked to do, at any time: every move from the position and speed reached when it departs."""

from __future__ import annotations

from collections import OrderedDict
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from karakuri.bodies.inertia import Array
from karakuri.digest import digest
from karakuri.frozen import Frozen
from karakuri.model.channel import MovedChannel
from karakuri.model.moves import Moves
from karakuri.motion.profiles import BY_CODE, CODES

SUDDEN, KEPT_EXCERPTS = CODES["sudden"], 24
LEAP_S, THERE = 10.0, 5.0


class Track(Frozen, eq=False):
    """One channel as arrays (n,), a move each, in SI: rad, m or a light's share; seconds. `park` is where it stands before."""

    park: float
    departs: Array
    takes: Array
    start: Array
    distance: Array
    speed: Array
    shape: Array
    code: NDArray[np.int64]

    @cached_property
    def target(self) -> Array:
        """Where each move is to arrive, (n,) rad, m or share."""
        out: Array = self.start + self.distance
        return out

    @cached_property
    def ends(self) -> Array:
        """When each move is over, (n,) s: its arrival, or the next departure."""
        if len(self.departs) == 0:
            return self.departs
        out: Array = np.minimum(self.departs + self.takes, np.append(self.departs[1:], np.inf))
        return out

    @cached_property
    def at_once(self) -> NDArray[np.bool_]:
        """Which moves (n,) go as fast as the drive does: sudden ones, and those that take no time."""
        out: NDArray[np.bool_] = self.code == SUDDEN
        return out

    @cached_property
    def until(self) -> Array:
        """Until when each move may still ask something of its drive, (n,) s: its end; where it goes at once, as long as that may take;
        where it lags, until it is as good as there."""
        if len(self.departs) == 0:
            return self.departs
        lags = np.array([not BY_CODE[code].arrives for code in self.code.tolist()])
        long = np.where(lags, np.maximum(self.takes, THERE * self.shape), self.takes)
        long = np.where(self.at_once, np.maximum(self.takes, LEAP_S), long)
        out: Array = np.minimum(self.departs + long, np.append(self.departs[1:], np.inf))
        return out

    def reaching(self, begin: float, end: float) -> NDArray[np.int64]:
        """Moves (r,) that depart in begin … end, s, or came before and may still ask something."""
        first = int(np.searchsorted(self.departs, begin, side="left"))
        last = int(np.searchsorted(self.departs, end, side="left"))
        before = first - 1
        if before >= 0 and self.until[before] > begin:
            first = before
        return np.arange(first, last)

    def since(self, begin: float, end: float) -> float:
        """When what must be known to judge begin … end, s, begins: at the departure of a move that goes at once and still goes on."""
        rows = self.reaching(begin, end)
        if len(rows) and self.departs[rows[0]] < begin and self.at_once[rows[0]]:
            return float(self.departs[rows[0]])
        return begin

    def excerpt(self, begin: float, end: float) -> Track:
        """As much of it as decides what happens from begin to end, s: the move under way, those that depart, the one after.

        Where it stands at first takes the place of all that came before. The last few are kept: pages of a score are asked about again."""
        kept = self._excerpts
        if (begin, end) not in kept:
            kept[begin, end] = self._excerpt(begin, end)
            if len(kept) > KEPT_EXCERPTS:
                kept.popitem(last=False)
        return kept[begin, end]

    @cached_property
    def _excerpts(self) -> OrderedDict[tuple[float, float], Track]:
        return OrderedDict()

    def _excerpt(self, begin: float, end: float) -> Track:
        first = int(np.searchsorted(self.departs, begin, side="right"))
        last = int(np.searchsorted(self.departs, end, side="right"))
        park = float(self.at(np.array([begin]))[0][0])
        k = first - 1
        if k >= 0 and (self.until[k] > begin or not BY_CODE[self.code[k]].arrives):
            first, park = k, 0.0
        return self._moves(park, first, last + 1 if last > first else first)

    def _moves(self, park: float, first: int, end: int) -> Track:
        departs, takes, start = self.departs[first:end], self.takes[first:end], self.start[first:end]
        distance, speed, shape = self.distance[first:end], self.speed[first:end], self.shape[first:end]
        return Track(park, departs, takes, start, distance, speed, shape, self.code[first:end])

    @cached_property
    def _keys(self) -> dict[tuple[float, float], bytes]:
        return {}

    def excerpt_key(self, begin: float, end: float) -> bytes:
        """The digest of an excerpt, worked out once."""
        if (begin, end) not in self._keys:
            self._keys[begin, end] = digest(self.excerpt(begin, end))
        return self._keys[begin, end]

    def at(self, times: Array) -> tuple[Array, Array, Array]:
        """Position, speed, acceleration (k,) in rad, m or share and s, at times (k,) s."""
        k = np.searchsorted(self.departs, times, side="right") - 1
        if len(self.departs) == 0:
            still = np.zeros(len(times))
            return still + self.park, still, still
        return self.run(np.maximum(k, 0), times, k < 0)

    def run(
        self, which: NDArray[np.int64], times: Array, before: NDArray[np.bool_] | None = None
    ) -> tuple[Array, Array, Array]:
        """Moves `which` (k,) at times (k,) s, whether or not another has begun by then; `before` (k,): still at park."""
        t = np.maximum(times - self.departs[which], 0.0)
        x, v, a = np.empty(len(t)), np.empty(len(t)), np.empty(len(t))
        codes = self.code[which]
        for code in set(codes.tolist()):
            rows = codes == code
            w = which[rows]
            x[rows], v[rows], a[rows] = BY_CODE[code].run(
                t[rows], self.takes[w], self.distance[w], self.speed[w], self.shape[w]
            )
        x += self.start[which]
        if before is not None and before.any():
            x[before], v[before], a[before] = self.park, 0.0, 0.0
        return x, v, a


_NONE = np.zeros(0)
NOTHING = Track(0.0, _NONE, _NONE, _NONE, _NONE, _NONE, _NONE, np.zeros(0, dtype=np.int64))


def build_track(channel: MovedChannel, unit: float) -> Track:
    """The track of a channel. `unit` turns its targets into SI: π ÷ 180 for degrees, 1e-3 for mm, 0.01 for percent.

    Most moves depart when the one before has arrived; only the others need what was reached, and are gone through in order.
    """
    moves: Moves = channel.moves
    n = len(moves)
    departs, takes = np.array(moves.departs_s), np.array(moves.takes_s)
    target = np.array(moves.target) * unit
    code = np.array([CODES[kind] for kind in moves.profile], dtype=np.int64)
    # what takes no time is a step, whatever its profile; following is timed by its own number
    code = np.where((takes <= 0) & (code != CODES["following"]), SUDDEN, code)
    park = channel.park * unit
    start = np.append(park, target[:-1]) if n else target
    speed = np.zeros(n)
    track = Track(park, departs, takes, start, target - start, speed, np.array(moves.shape), code)
    if n > 1:
        unfinished = [code_ for code_, profile in enumerate(BY_CODE) if not profile.arrives]
        early = departs[1:] < departs[:-1] + takes[:-1]
        sudden = code[:-1] == CODES["sudden"]
        touched = np.flatnonzero((early & ~sudden) | np.isin(code[:-1], unfinished)) + 1
        for k in touched:
            x, v, _ = track.run(np.array([k - 1]), departs[k : k + 1])
            start[k], speed[k] = x[0], v[0]
            track.distance[k] = target[k] - x[0]
    return track
