"""Glances: the eyes leap to where something may be and back after a while; where that is far the head follows, and the eyes turn back against it.

A saccade takes 21 ms + 2.2 ms a degree: Carpenter, Movements of the Eyes, 1988. The eyes set off 25 to 50 ms before the head (Bizzi 1971; Zangemeister and Stark
1982; Barnes 1979), which joins in beyond 15 to 20°; what the head turns the eyes turn back. All from memory.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field

from karakuri.model.figure import Figure
from karakuri.model.makers import Life
from karakuri.model.sides import same_way
from karakuri.motion.life.chance import Chance
from karakuri.motion.life.contract import Actor, Cast, Happening, Stir, actors, both, timed, turns
from karakuri.motion.voice.following import KeepsUp

LEAD_S, HEAD_S, AT_LEAST_S = 0.040, 0.55, 0.08
SHARE, HEAD_SHARE, WIDE = 0.6, 0.5, 0.4
"""So much of their range eyes and head use; so often a glance is a wide one, with the head."""
STAYS_S = (0.4, 0.9)


def saccade_s(by_deg: float) -> float:
    """How long an eye takes for a turn of so many degrees, s."""
    return 0.021 + 0.0022 * abs(by_deg)


def cast(figure: Figure, can: Mapping[str, KeepsUp]) -> Cast:
    """Eyes, and behind them the head that turns and nods as they do; nobody where there are no eyes."""
    eye, head = timed(figure, "eye"), timed(figure, "head")
    found: list[Actor] = []
    for axis, part in ((2, "pan"), (1, "tilt")):
        found += actors(figure, can, both(eye, turns(figure, axis)), f"eye {part}")
    if not found:
        return ()
    for axis, part in ((2, "pan"), (1, "tilt")):
        heads = actors(figure, can, both(head, turns(figure, axis)), f"head {part}")
        if heads and any(a.part == f"eye {part}" for a in found):
            found.append(_as_eyes(figure, heads[0], next(a for a in found if a.part == f"eye {part}")))
    return tuple(found)


def _as_eyes(figure: Figure, head: Actor, eye: Actor) -> Actor:
    """A head counted the way its eyes turn."""
    first = head.ribbons[0][0]
    sign = same_way(figure.joint(first.joints[0]), figure.joint(eye.ribbons[0][0].joints[0]))
    if sign > 0:
        return head
    ribbons = tuple((channel, -way) for channel, way in head.ribbons)
    return Actor(ribbons, -head.high, -head.low, head.unit, head.can, head.part)


def happenings(cast: Cast, life: Life, chance: Chance) -> Iterator[Happening]:
    """One glance after another."""
    low, high = life.waits_s
    heads = {actor.part.split()[1]: who for who, actor in enumerate(cast) if actor.part.startswith("head")}
    while True:
        wait, stays = chance.between(low, high), chance.between(*STAYS_S)
        wide = chance.happens(WIDE) and life.head_joins_deg is not None
        shares = {part: chance.between(0.0, 1.0) for part in ("pan", "tilt")}
        shift = Shift(cast, heads if wide else {}, life)
        there = shift.to(0.0, shares)
        back = shift.to(there + stays, None)
        yield Happening(wait, tuple(shift.stirs) if back else ())


@dataclass
class Shift:
    """Gaze shifts one after another: where each actor is, and the moves so far."""

    cast: Cast
    heads: dict[str, int]
    life: Life
    stirs: list[Stir] = field(default_factory=list)
    place: dict[int, float] = field(default_factory=dict)

    def to(self, at: float, shares: Mapping[str, float] | None) -> float:
        """Shift all gaze at a time, s, to shares of what eyes and head together reach, or home; when it is there, s."""
        over = at
        for part in ("pan", "tilt"):
            eyes = [who for who, actor in enumerate(self.cast) if actor.part == f"eye {part}"]
            for who in eyes:
                over = max(over, self._one(at, who, self.heads.get(part), None if shares is None else shares[part]))
            head = self.heads.get(part)
            if head is not None and eyes:
                over = max(over, self._head(at, head, None if shares is None else shares[part]))
        return over

    def towards(self, at: float, degrees: float) -> float:
        """Shift what turns to look so far to the left, or as far as it goes; when it is there, s."""
        out = {}
        for part in ("pan", "tilt"):
            for who, actor in enumerate(self.cast):
                if actor.part == f"eye {part}":
                    least, most = self._reach(who, self.heads.get(part))
                    wanted = degrees if part == "pan" else 0.0
                    out[part] = min(max((wanted - least) / max(most - least, 1e-9), 0.0), 1.0)
        return self.to(at, {"pan": 0.5, "tilt": 0.5} | out)

    def _reach(self, who: int, head: int | None) -> tuple[float, float]:
        """How far an eye, and the head with it, looks either way."""
        eye = self.cast[who]
        if head is None:
            return eye.low * SHARE, eye.high * SHARE
        turned = self.cast[head]
        return (
            min(eye.low * SHARE, 0.0) + min(turned.low * SHARE, 0.0),
            max(eye.high * SHARE, 0.0) + max(turned.high * SHARE, 0.0),
        )

    def _gaze(self, who: int, head: int | None, share: float) -> tuple[float, float]:
        """Where the eye looks in all, and what of it the head turns."""
        eye, (least, most) = self.cast[who], self._reach(who, head)
        gaze = least + (most - least) * share
        if head is None:
            return gaze, 0.0
        over = max(0.0, abs(gaze) - (self.life.head_joins_deg or 0.0))
        way = 1.0 if gaze >= 0 else -1.0
        head_part = self.cast[head].clipped(way * max(over, HEAD_SHARE * abs(gaze) if over else 0.0))
        return eye.clipped(gaze - head_part) + head_part, head_part

    def _one(self, at: float, who: int, head: int | None, share: float | None) -> float:
        eye, now = self.cast[who], self.place.get(who, 0.0)
        stood = self.place.get(head, 0.0) if head is not None else 0.0
        gaze, turns_to = (0.0, 0.0) if share is None else self._gaze(who, head, share)
        first = eye.clipped(gaze - stood)
        takes = eye.takes(first - now, max(AT_LEAST_S, saccade_s(first - now)))
        self._stir(who, at, takes, first, share is None and stood == 0.0)
        over = at + takes
        if head is not None and turns_to != stood:
            arrives = at + LEAD_S + self._head_s(head, turns_to - stood)
            last = eye.clipped(gaze - turns_to)
            if last != first:
                slow = eye.takes(last - first, max(arrives - over, 0.05))
                self._stir(who, over, slow, last, share is None)
                over += slow
        return over

    def _head(self, at: float, head: int, share: float | None) -> float:
        eyes = next(who for who, actor in enumerate(self.cast) if actor.part == f"eye {self.cast[head].part.split()[1]}")  # fmt: skip
        stood = self.place.get(head, 0.0)
        to = 0.0 if share is None else self._gaze(eyes, head, share)[1]
        if to == stood:
            return at
        takes = self._head_s(head, to - stood)
        self._stir(head, at + LEAD_S, takes, to, True)
        return at + LEAD_S + takes

    def _head_s(self, head: int, by: float) -> float:
        return self.cast[head].takes(by, HEAD_S)

    def _stir(self, who: int, at: float, takes: float, place: float, home: bool) -> None:
        head = self.cast[who].part.startswith("head")
        self.stirs.append(Stir(who, at, takes, 0.0 if home and not head else place, home))
        self.place[who] = place
