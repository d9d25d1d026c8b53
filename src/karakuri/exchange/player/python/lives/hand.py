"""What a hand says at knobs, sticks and keys: the same mixing, smoothing and dead man's switch as the bench's."""

from __future__ import annotations

import math

from .ribbon import NONE, NOWHERE

TICK_S, SOFT = 0.02, 2000.0


def clip(x: float, low: float, high: float) -> float:
    """Inside a band."""
    return min(max(x, low), high)


class Led:
    """A ribbon of a grip: its table row, and where it is."""

    def __init__(self, row: list) -> None:
        self.ribbon, self.owned, self.runs, self.low, self.high, self.park, self.pace = row
        self.mine = False

    def begin(self, place: float) -> None:
        """From where it stands."""
        self.now = self.first = self.smooth = self.asked = clip(place, self.low, self.high)
        self.caught = self.sought = False

    def pushed(self, share: float) -> float:
        """Where it is for a stick pushed so far, -1 to 1."""
        share = clip(share, -1, 1)
        return self.park + share * (self.high - self.park if share >= 0 else self.park - self.low)


class Hand:
    """All grips."""

    def __init__(self, living) -> None:
        self.living, self.tables, self.defines = living, living.tables, living.defines
        self.leds = [Led(row) for row in self.tables["LED"]]

    def begin(self, at: int, claimed: list) -> None:
        """On ribbons that nobody claimed."""
        self.begins, self.sensitivity = at, 2
        self.gripped = [False] * len(self.tables["GRIP"])
        self.keyed = [0.0] * len(self.tables["GRIP"])
        for led in self.leds:
            when, place = self.living.ribbons[led.ribbon].ready(at)
            led.begin(led.park if led.runs else place)
            led.mine = bool(led.owned) and not claimed[led.ribbon]
            if led.mine:
                self.begins = max(self.begins, when)
        for led in self.leds:
            claimed[led.ribbon] = claimed[led.ribbon] or led.mine
            if led.mine and led.runs:
                self.living.still(led.ribbon, at)

    def push(self, which: int) -> float:
        """How far an input is pushed from its middle."""
        return (self.living.levels[which] - 50) / 50

    def on(self, now: int) -> None:
        """A fiftieth of a second on."""
        if now < self.begins:
            return
        living, by = self.living, self.defines["SENSED_BY"]
        held = self.defines["HELD_BY"] == NOWHERE or living.is_on(self.defines["HELD_BY"])
        if by != NOWHERE and living.reads[by]:
            self.sensitivity = min(int(living.levels[by] * 3 / 100), 2)
        share = self.tables["SENSITIVITY"][self.sensitivity]
        for k, grip in enumerate(self.tables["GRIP"]):
            kind, one, other, turned, _, first, count, _, _, smooth, pace = grip
            leds = self.leds[first : first + count]
            lost = not held or not living.reads[one] or not living.reads[other]
            if lost:
                self.gripped[k] = False
            elif not self.gripped[k]:
                self.gripped[k] = True
                for led in leds:
                    led.caught = led.sought = False
                if kind == 1:
                    self.keyed[k] = clip(leds[0].now, leds[0].low, leds[0].high)
            if not lost and kind == 1:
                moved = (living.is_on(one) - living.is_on(other)) * pace * share * TICK_S
                still = leds[0].runs and moved == 0
                at = self.keyed[k] + (-moved if turned else moved)
                self.keyed[k] = leds[0].park if still else clip(at, leds[0].low, leds[0].high)
            for n, led in enumerate(leds):
                if led.mine:
                    if lost:
                        self._let_go(led, led.runs or kind == 3)
                    else:
                        self._follow(led, clip(self._wanted(grip, k, n, led, share), led.low, led.high), smooth)
                    living.ribbons[led.ribbon].add(now, 0, led.now, 3)

    def _let_go(self, led: Led, stops: bool) -> None:
        step = (led.pace if stops else SOFT) * TICK_S  # where it stands is a speed
        led.asked = led.park if self.defines["LET_GO_PARKS"] or stops else led.now
        led.now += clip(led.asked - led.now, -step, step)
        led.first = led.smooth = led.now

    def _follow(self, led: Led, wanted: float, smooth: float) -> None:
        was = led.asked - led.now
        led.asked = wanted
        off, step = led.asked - led.now, led.pace * TICK_S
        if not led.caught:
            step = min(SOFT, led.pace) * TICK_S
            led.caught = abs(off) <= step or (led.sought and was * off < 0)
            led.sought = True
        if led.caught:
            led.first += smooth * (led.asked - led.first)
            led.smooth += smooth * (led.first - led.smooth)
            off, step = led.smooth - led.now, led.pace * TICK_S
        led.now = clip(led.now + clip(off, -step, step), led.low, led.high)
        if not led.caught:
            led.first = led.smooth = led.now

    def _wanted(self, grip: list, which: int, n: int, led: Led, share: float) -> float:
        kind, one, other, turned, springs, _, _, faces, many, _, _ = grip
        if kind == 0:
            by = -self.push(one) if turned else self.push(one)
            whole = led.pushed(by) if springs else led.low + (led.high - led.low) * (by + 1) / 2
            return led.park + share * (whole - led.park)
        if kind == 1:
            return self.keyed[which]
        a, b = self.push(one), self.push(other)
        if kind == 2:
            return led.pushed((-1 if turned else 1) * share * (a - b) if n else share * (a + b))
        if kind == 3:
            by = share * (a - b if n else a + b) / max(1.0, abs(a) + abs(b))
            return led.pushed(-by if n and turned else by)
        return led.park + self._faces(
            faces, many, n, led, min(math.hypot(a, b), 1) * share, math.degrees(math.atan2(b, a))
        )

    def _faces(self, first: int, many: int, n: int, led: Led, far: float, towards: float) -> float:
        """Kept poses around a stick: each weighs most where it lies."""
        total, wide_row, lies = 0.0, self.defines["MOST_LED"], self.tables["FACE"][first : first + many]
        for f, here in enumerate(lies if far > 0 else ()):
            off = math.fmod(towards - here + 900, 360) - 180
            apart = [math.fmod(each - here + 1080, 360) for each in lies]
            wide = min([90.0] + [(each if off >= 0 else 360 - each) for each in apart if each != 0])
            place = self.tables["FACE_PLACE"][(first + f) * wide_row + n]
            if place != NONE:
                total += max(0.0, 1 - abs(off) / wide) / apart.count(0) * (place - led.park)
        return far * total
