"""A ribbon being lived, and chance: the same arithmetic as the bench's. Plain Python 3.9 or newer, nothing to install.

Places in hundredths of a degree or of a per cent, times in tenths of a millisecond. A move is (departs, takes, target, profile, shape).
"""

from __future__ import annotations

import math

NONE, NOWHERE, MASK = -32768, 255, 0xFFFFFFFF
RUNS, SUDDEN, FOLLOWING = 2, 3, 4
SOON, BRAKE_T, BRAKE = 3500, 3000.0, 0.4
Move = tuple  # of five numbers


def run(move: Move, t: float, start: float, speed: float) -> tuple[float, float]:
    """Offset and speed of a move, t seconds after it departed."""
    _, takes, target, profile, shape = move
    d, whole = target - start, takes / 10000
    if profile == SUDDEN or (takes == 0 and profile != FOLLOWING):
        return d, 0.0
    if profile == FOLLOWING:
        tau = max(shape / 1000, 1e-6)
        left = d * math.exp(-t / tau)
        return d - left, left / tau
    if t >= whole:
        return d, 0.0
    s, w = t / whole, speed * whole
    if profile == 1:
        turn = math.pi * s
        x = d * 0.5 * (1 - math.cos(turn)) + w * s * (1 - s) * (1 - s)
        return x, (d * 0.5 * math.pi * math.sin(turn) + w * (1 - s) * (1 - 3 * s)) / whole
    if profile == 2:
        ramp = min(max(shape / 10000, 0.001), 0.5) * whole
        steady = (d - 0.5 * speed * ramp) / (whole - ramp)
        if t < ramp:
            up = (steady - speed) / ramp
            return speed * t + 0.5 * up * t * t, speed + up * t
        x, late = 0.5 * (speed + steady) * ramp, t - (whole - ramp)
        if late < 0:
            return x + steady * (t - ramp), steady
        return x + steady * (whole - 2 * ramp + late) - 0.5 * steady / ramp * late * late, steady - steady / ramp * late
    c3, c4, c5 = 10 * d - 6 * w, -15 * d + 8 * w, 6 * d - 3 * w
    return s * (w + s * s * (c3 + s * (c4 + s * c5))), (w + s * s * (3 * c3 + s * (4 * c4 + s * 5 * c5))) / whole


class Ribbon:
    """One channel; asked about later and later times only."""

    def __init__(self, row: list, moves: list) -> None:
        self.park, self.low, self.high, self.kind = row[2], row[3], row[4], row[5]
        self.moves = moves
        self.start, self.speed = float(self.park), 0.0
        self.now: Move | None = None
        self.ahead: list[Move] = []
        self.next = self.end = self.offset = self.free = 0

    def add(self, departs: int, takes: int, target: float, profile: int = 0) -> None:
        """A move more, after all that are ahead; its target inside the band."""
        held = round(min(max(target, self.low), self.high))
        self.ahead.append((departs, max(takes, 0), held, profile, 0))

    def table(self, first: int, count: int, offset: int) -> None:
        """Moves of the table that come after those ahead, so much later."""
        self.next, self.end, self.offset = first, first + count, offset

    def cut(self, at: int) -> None:
        """What has not departed does not; what is under way is let finish soon, or brought to rest. What runs is free at once."""
        self._forward(at)
        self.ahead.clear()
        self.next = self.end = 0
        self.free = at
        if self.now is None or self.kind == RUNS or at >= self.now[0] + self.now[1]:
            return
        ends = self.now[0] + self.now[1]
        if ends - at <= SOON or self.now[3] == FOLLOWING:
            self.free = ends
            return
        place, speed = self._here(at)
        left = abs(self.now[2] - place)
        takes = min(BRAKE_T, left / (BRAKE * abs(speed) + 1e-7) * 10000)
        self.add(at, int(takes + 0.5), place + BRAKE * speed * takes / 10000)
        self._forward(at)
        self.free = at + int(takes + 0.5)

    def ready(self, at: int) -> tuple[int, float]:
        """From when on it may be given a move, and where it is then."""
        when = max(at, self.free)
        if self.now is None:
            return when, self.start
        if when >= self.now[0] + self.now[1] and self.now[3] != FOLLOWING:
            return when, float(self.now[2])
        return when, self._here(when)[0]

    def at(self, time: int) -> float:
        """Where it is."""
        self._forward(time)
        return self.start if self.now is None else self._here(time)[0]

    def _here(self, time: int) -> tuple[float, float]:
        now = self.now or (0, 0, self.start, SUDDEN, 0)
        x, v = run(now, max(0, time - now[0]) / 10000, self.start, self.speed)
        return self.start + x, v

    def _take(self, move: Move) -> None:
        if self.now is not None:
            self.start, self.speed = self._here(move[0])
        self.now = move

    def _forward(self, time: int) -> None:
        while self.ahead and self.ahead[0][0] <= time:
            self._take(self.ahead.pop(0))
        while not self.ahead and self.next < self.end:
            departs, takes, target, profile, shape = self.moves[self.next]
            if departs + self.offset > time:
                return
            self._take((departs + self.offset, takes, min(max(target, self.low), self.high), profile, shape))
            self.next += 1


class Chance:
    """xorshift32, shifts 13, 17, 5 (Marsaglia 2003), as on the bench."""

    def __init__(self, seed: int, kind: int) -> None:
        self.state = ((seed + 1) * 0x9E3779B9 + kind * 0x85EBCA6B) & MASK or 1
        for _ in range(4):
            self.draw()

    def draw(self) -> int:
        """Thirty-two bits."""
        x = self.state
        x ^= x << 13 & MASK
        x ^= x >> 17
        x ^= x << 5 & MASK
        self.state = x
        return x

    def share(self) -> float:
        """From 0 to 1."""
        return (self.draw() >> 8) / 16777216

    def between(self, low: float, high: float) -> float:
        """Evenly from low to high."""
        return low + (high - low) * self.share()

    def happens(self, chance: float) -> bool:
        """Whether it happens, of so much to 1."""
        return self.share() < chance

    def span(self, low: int, high: int) -> int:
        """A time from low to high."""
        return low + int((high - low) * self.share() + 0.5)
