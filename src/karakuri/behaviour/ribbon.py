"""A ribbon while it is being lived: its moves as they are decided on, and where it is. The same arithmetic as a track's, move by move."""

from __future__ import annotations

from collections import deque

import numpy as np

from karakuri.model.channel import MovedChannel
from karakuri.model.moves import Row
from karakuri.motion.profiles import BY_CODE, CODES
from karakuri.motion.track import SUDDEN

SOON_S, BRAKE_S, BRAKE = 0.35, 0.3, 0.4
"""So soon over, a move is let finish; so long, and so much of what its speed would cover, it takes to come to rest: a quintic that never turns back."""


class Ribbon:
    """In the channel's own unit and s; asked about later and later times only. `past` holds every move that departed where `records`."""

    def __init__(self, channel: MovedChannel, low: float, high: float, records: bool) -> None:
        self.channel, self.low, self.high = channel, low, high
        self.past: list[Row] = []
        self._records = records
        self._ahead: deque[Row] = deque()
        self._now: Row | None = None
        self._start, self._speed = channel.park, 0.0
        self._free = 0.0

    def add(
        self, departs: float, takes: float, target: float, profile: str = "minimum jerk", shape: float = 0.0
    ) -> None:
        """A move more, after all that are there; its target inside the band, to the hundredth; its times to the tenth of a millisecond."""
        held = round(min(max(target, self.low), self.high), 2)
        self._ahead.append(Row(round(departs, 4), round(max(takes, 0.0), 4), held, profile, shape))  # type: ignore[arg-type]

    def cut(self, at: float) -> None:
        """What has not departed by then does not. What is under way is let finish where that is soon, else brought to rest softly on its way: a move
        that begins at speed would run past its end. What runs is free at once: whoever has it next says how fast, or that it stands still."""
        self._forward(at)
        self._ahead.clear()
        self._free = at
        if self._now is None or self.channel.runs or at >= self._now.departs + self._now.takes:
            return
        ends = self._now.departs + self._now.takes
        if ends - at <= SOON_S or self._now.profile == "following":
            self._free = ends
            return
        place, speed = self._here(at)
        left = abs(self._now.target - place)
        takes = min(BRAKE_S, left / max(BRAKE * abs(speed), 1e-9))
        self.add(at, takes, place + BRAKE * speed * takes)
        self._forward(at)
        self._free = at + takes

    @property
    def moved(self) -> bool:
        """Whether it ever had a move."""
        return self._now is not None or bool(self._ahead)

    def ready(self, at: float) -> tuple[float, float]:
        """From when on, s, it may be given a move, that time or later, and where it stands then."""
        when = max(at, self._free)
        if self._now is None:
            return when, self._start
        ends = self._now.departs + self._now.takes
        return when, self._now.target if when >= ends and self._now.profile != "following" else self._here(when)[0]

    def lived(self, time: float) -> list[Row]:
        """All moves that have departed by then."""
        self._forward(time)
        return self.past

    def at(self, time: float) -> float:
        """Where it is."""
        self._forward(time)
        return self._start if self._now is None else self._here(time)[0]

    def held(self, time: float) -> float:
        """Where it is sent: held inside its band, past which a move that is interrupted may run."""
        return min(max(self.at(time), self.low), self.high)

    def _forward(self, time: float) -> None:
        while self._ahead and self._ahead[0].departs <= time:
            row = self._ahead.popleft()
            if self._now is not None:
                self._start, self._speed = self._run(row.departs - self._now.departs)
            self._now = row
            if self._records:
                self.past.append(row)

    def _here(self, time: float) -> tuple[float, float]:
        """Where it is and how fast, by the move under way."""
        assert self._now is not None
        return self._run(time - self._now.departs)

    def _run(self, since: float) -> tuple[float, float]:
        row = self._now
        assert row is not None
        code = CODES[row.profile] if row.takes > 0 or row.profile == "following" else SUDDEN
        one = (np.array([max(since, 0.0)]), np.array([row.takes]), np.array([row.target - self._start]), np.array([self._speed]), np.array([row.shape]))  # fmt: skip
        x, v, _ = BY_CODE[code].run(*one)
        return self._start + float(x[0]), float(v[0])
