"""Runs a behaviour tick by tick: what starts what, and what is then played. Fifty ticks a second, senses twenty times."""

from __future__ import annotations

from collections.abc import Callable, Mapping

from karakuri.behaviour.deeds import DEEDS, FOREVER, Act
from karakuri.behaviour.senses import ON, SENSED_HZ, TICK_HZ, Senses, attention
from karakuri.behaviour.stage import Stage
from karakuri.behaviour.triggers import fires, holds
from karakuri.frozen import Frozen
from karakuri.model.behaviour import HANDED, SEES, After, Behaviour, Start, State, Stopped
from karakuri.model.figure import Figure
from karakuri.model.loudness import Loudness
from karakuri.motion.life.chance import Chance
from karakuri.motion.voice.following import KeepsUp

KEPT, NEVER = 2000, -(10**12)


class Entered(Frozen):
    """A state that began, s, and by which start; '' at the very beginning."""

    at: float
    state: str
    by: str = ""


class Engine:
    """A behaviour being run. `sensed(time)` gives levels of 0 to 100 by input id; what a hand does is put beside by `hold` and `cue`. With `records` everything that
    was done is kept, else the last of it. Raises ValueError where there is no state to begin in."""

    def __init__(
        self, figure: Figure, sensed: Callable[[float], Mapping[str, float]], seed: int | None = None, records: bool = False,
        heard: Mapping[str, Loudness] | None = None, can: Mapping[str, KeepsUp] | None = None,
    ) -> None:  # fmt: skip
        behaviour = figure.behaviour
        if behaviour is None or not behaviour.states:
            raise ValueError("there is no state to begin in")
        self.behaviour: Behaviour = behaviour
        chance = Chance(behaviour.seed if seed is None else seed, 24)
        self.stage = Stage(figure, chance, records, heard or {}, can or {})
        self.ticks, self.entered = 0, list[Entered]()
        self.counts = dict.fromkeys((state.id for state in behaviour.states), 0)
        self.fired = dict.fromkeys((start.id for start in behaviour.starts), 0)
        self._sensed, self._records, self._chance = sensed, records, chance
        self._held: dict[str, float] = {}
        self._cues: set[str] = set()
        self._levels: dict[str, float] = {}
        self._seen: Mapping[str, float] = {}
        self._cool: dict[str, int] = {}
        self._over, self._fresh, self._stays = False, True, 0.0
        self._states = {state.id: state for state in behaviour.states}
        self._from = {
            state.id: tuple(s for s in behaviour.starts if not s.while_in or state.id in s.while_in) for state in behaviour.states
        }  # fmt: skip
        self._timed = {
            ident: tuple(s for s in some if isinstance(s.on, After | Stopped)) for ident, some in self._from.items()
        }
        self._towards: tuple[float, float] | None = None
        self._seen_last: tuple[str, int] | None = None
        self._sees = tuple(each.id for each in behaviour.inputs if each.kind in SEES)
        self._handed = any(each.kind in HANDED for each in behaviour.inputs)
        self._enter(behaviour.states[0], None)

    @property
    def now(self) -> float:
        """The time, s: ticks are counted, so that hours of them never drift."""
        return self.ticks / TICK_HZ

    def hold(self, ident: str, level: float) -> None:
        """A hand holds an input at a level, 0 to 100, until it is held otherwise."""
        self._held[ident] = level

    def cue(self, word: str) -> None:
        """Whoever runs the show gives a cue."""
        self._cues.add(word)

    def enter(self, state_id: str) -> None:
        """Into a state, whatever starts it."""
        self._enter(self._states[state_id], None)

    def level(self, ident: str) -> float:
        """What an input says now."""
        return self._levels.get(ident, 0.0)

    def run(self, seconds: float) -> None:
        """So much longer."""
        for _ in range(round(seconds * TICK_HZ)):
            self.tick()

    def tick(self) -> None:
        """One fiftieth of a second on."""
        self.ticks += 1
        now, before = self.now, self._levels
        if self.ticks % TICK_HZ == 0:
            for ribbon in self.stage.ribbons.values():  # what is over is let go of
                ribbon.at(now)
        sees = self.ticks == 1 or (self.ticks * SENSED_HZ) // TICK_HZ != ((self.ticks - 1) * SENSED_HZ) // TICK_HZ
        if sees or self._handed:
            seen = self._sensed(now)
            self._seen = seen if sees else {**seen, **{i: self._seen.get(i, 0.0) for i in self._sees}}
        self._levels = {**self._seen, **{k: max(v, self._seen.get(k, 0.0)) for k, v in self._held.items()}}
        for ident in self._sees:
            if self._levels.get(ident, 0.0) >= ON:
                self._seen_last = (ident, self.ticks)
        last = self._seen_last
        stopped = (last[0], (self.ticks - last[1]) / TICK_HZ, (self.ticks - last[1] - 1) / TICK_HZ) if last is not None else None  # fmt: skip
        self.stage.levels = self._levels
        senses, news = Senses(self._levels, before, stopped), self._levels != before
        if news:
            self._towards = attention(self.behaviour.inputs, self._levels)
        towards = self._towards
        for act in self._acts:
            if act.goes_on is not None:
                act.ends = act.goes_on(now, towards[0] if towards is not None else None)
        limits = [act.ends for act in self._acts if act.ends < FOREVER or self.state.stays_s is None]
        over = not self._over and now >= round(max(self._stays, *limits, 0.0), 4)
        self._over = self._over or over
        some = self._from if news or over or self._cues or self._fresh else self._timed
        chosen = self._choose(some[self.state.id], senses, now, over)
        self._cues.clear()
        self._fresh = False
        if chosen is not None:
            self._cool[chosen.id] = self.ticks
            self.fired[chosen.id] += 1
            self._enter(self._states[chosen.to], chosen)

    def _choose(self, some: tuple[Start, ...], senses: Senses, now: float, over: bool) -> Start | None:
        """Of all that fires the most important one, of these the first; chance is asked of each once when it fires."""
        best: Start | None = None
        for start in some:
            to = self._states[start.to]
            if best is not None and to.priority <= self._states[best.to].priority:
                continue
            if not self._over and to.priority < self.state.priority:
                continue
            if not self._over and self.state.deaf and hasattr(start.on, "input"):
                continue
            due = self._due.get(start.id)
            if not fires(start.on, senses, over, due is not None and now >= due, self._cues, self._fresh):
                continue
            if due is not None:
                self._due[start.id] = FOREVER
            if (self.ticks - self._cool.get(start.id, NEVER)) / TICK_HZ < start.cool_s or not all(
                holds(g, senses) for g in start.only
            ):
                continue
            if start.chance >= 1.0 or self._chance.happens(start.chance):
                best = start
        return best

    def _enter(self, state: State, by: Start | None) -> None:
        now = self.now
        self.state, self._over, self._fresh = state, False, True
        for ribbon in self.stage.ribbons.values():
            ribbon.cut(now)
        self.stage.hush(now)
        claims: set[str] = set()
        self._acts: list[Act] = [DEEDS[deed.kind](self.stage, deed, now, claims) for deed in state.plays]
        self.stage.still([ident for ident in self.stage.ribbons if ident not in claims], now)
        self._stays = now + (self._chance.between(*state.stays_s) if state.stays_s is not None else 0.0)
        self._due = {
            start.id: round(now + self._chance.between(*start.on.between_s), 4) for start in self._from[state.id] if isinstance(start.on, After)
        }  # fmt: skip
        self.counts[state.id] += 1
        self.entered.append(Entered(now, state.id, by.id if by is not None else ""))
        if not self._records and len(self.entered) > KEPT:
            del self.entered[: KEPT // 2]
