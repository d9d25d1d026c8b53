"""States, what each plays, what starts it: the same as the bench's, tick by tick. Fifty ticks a second."""

from __future__ import annotations

import math
from collections.abc import Callable

from .hand import Hand
from .life import Attention, Life
from .ribbon import NONE, NOWHERE, RUNS, Chance, Ribbon

ON, LEAST, TICK, LIGHT_T, HOME_SPEED, NEVER = 50.0, 5, 200, 5000, 2000, 1e9
SCORE, POSE, LIGHT, PARK, LINE, SOUND, LIFE, ATTENDS, STEERED = range(9)
FOREVER = 0xFFFFFFFF


class Act:
    """A deed under way."""

    def __init__(self, kind: int, which: int, at: int) -> None:
        self.kind, self.which, self.ends, self.begins, self.due = kind, which, at, at, 0
        self.forever = False
        self.says: list = []  # (time, sound) yet to come
        self.mine: list = []


class Living:
    """`data` as figure.json has it; `reads(input)` gives what an input says, a level 0 to 100 as the pin has it, or None where it says nothing; `say(sound)`
    is called with a sound's number, `entered(state, tick)` with a state's."""

    def __init__(
        self, data: dict, reads: Callable, say: Callable, entered: Callable = lambda state, tick: None
    ) -> None:
        self.tables, self.defines = data["tables"], data["defines"]
        self.said, self.read, self.entered = say, reads, entered
        self.ribbons = [Ribbon(row, data["moves"]) for row in data["channels"]]
        self.ticks, self.chance = 0, Chance(self.defines["BEHAVIOUR_SEED"], 24)
        known = len(self.tables["INPUT"])
        self.levels, self.before, self.reads = [0.0] * known, [0.0] * known, [False] * known
        self.cool: dict = {}
        self.due: dict = {}
        self.seen: tuple[int, int] | None = None
        self.lists: dict = {}
        self.cues: set = set()
        self.life, self.attention, self.hand = Life(self), Attention(self), Hand(self)
        self.enter(0)

    @property
    def now(self) -> int:
        """The time, tenths of a millisecond."""
        return self.ticks * TICK

    def cue(self, number: int) -> None:
        """Whoever runs the show gives a cue, by its number."""
        self.cues.add(number)

    def is_on(self, which: int) -> bool:
        """Whether an input is on."""
        return self.levels[which] >= ON

    def place(self, ribbon: int) -> float:
        """Where a channel is sent, hundredths."""
        each = self.ribbons[ribbon]
        return min(max(each.at(self.now), each.low), each.high)

    # ---- how long moves take
    def least(self, ribbon: int, by: float) -> float:
        """How long a ribbon's drive takes at least, s."""
        count, far, times = self.tables["KEEPS"][ribbon]
        if not count or by <= 0:
            return 0.0
        if by < far[0]:
            return times[0] / 10000 * math.sqrt(by / far[0])
        if by > far[count - 1] + 0.5:
            return NEVER
        n = next((k for k in range(count) if far[k] >= by), count - 1)
        if times[n] == FOREVER:
            return times[n - 1] / 10000 if n and by <= far[n - 1] else NEVER
        if not n:
            return times[0] / 10000
        part = min((by - far[n - 1]) / (far[n] - far[n - 1]), 1.0)
        return (times[n - 1] + part * (times[n] - times[n - 1])) / 10000

    def pace(self, ribbon: int, by: float) -> int:
        """To where something begins."""
        by = abs(by)
        if by < LEAST:
            return 0
        if self.ribbons[ribbon].kind:
            return LIGHT_T
        takes, least = 1.875 * by / self.defines["APPROACH"], self.least(ribbon, by)
        return int((least if takes < least < 60 else takes) * 10000 + 0.5)

    def still(self, ribbon: int, at: int) -> None:
        """What runs stands still half a second after nobody moves it any more."""
        each = self.ribbons[ribbon]
        if each.kind == RUNS and (
            each.now is not None or each.ahead
        ):  # also what is just passing that on its way elsewhere
            each.add(each.ready(at)[0], LIGHT_T, 0)

    # ---- inputs
    def sense(self) -> None:
        """What inputs say: those that see, twenty times a second."""
        for i, (pin, handed, sees, low, high, middle, still, _, _) in enumerate(self.tables["INPUT"]):
            if sees and self.ticks != 1 and self.ticks * 20 // 50 == (self.ticks - 1) * 20 // 50:
                continue
            raw = None if pin == NOWHERE else self.read(pin)
            self.reads[i] = raw is not None
            at = raw or 0.0
            if raw is not None and handed:
                if (at - middle) * (high - low) < 0:
                    at = 50 * (at - low) / (middle - low)
                else:
                    at = 50 + 50 * (at - middle) / (high - middle)
                off = min(max(at, 0.0), 100.0) - 50
                if still > 0:
                    off = math.copysign(max(0.0, abs(off) - still) * 50 / (50 - still), off)
                at = 50 + off
            elif raw is not None:
                at = min(at / 10, 100.0)
            self.levels[i] = at

    def towards(self):
        """Where somebody is, degrees to the left; None where nobody is."""
        rows = [
            (row[8] * self.levels[i] / 100, row[7])
            for i, row in enumerate(self.tables["INPUT"])
            if row[2] and row[8] > 0
        ]
        total = sum(weight for weight, _ in rows)
        return sum(weight * heading for weight, heading in rows) / total if total > 0 else None

    # ---- what is said
    def next_line(self, k: int):
        """The sound a list says next; None where it has nothing more to say."""
        first, openings, count, in_order, again_after = self.tables["LISTS"][k]
        if k not in self.lists:
            self.lists[k] = {"chance": Chance(self.chance.draw() & 0x7FFFFFFF, 16), "at": None, "opened": 0, "last": []}
        mine, lines = self.lists[k], self.tables["LINE"]
        if mine["opened"] < openings:
            said = lines[first + mine["opened"]]
            mine["opened"] += 1
            if again_after:
                mine["last"] = [said]
            return said
        own = lines[first + openings : first + openings + count]
        if not own:
            return None
        if in_order:
            if mine["at"] is None:
                mine["at"] = int(mine["chance"].share() * count)
            said = own[mine["at"]]
            mine["at"] = (mine["at"] + 1) % count
            return said
        free = [sound for sound in own if sound not in mine["last"]]
        if not free:
            return None
        said = free[int(mine["chance"].share() * len(free))]
        if again_after:
            mine["last"] = [*mine["last"], said][-again_after:]
        return said

    # ---- deeds
    def approach(self, which: int, at: int, mine: list) -> int:
        """All ribbons to where a performance begins; when they are there."""
        parts, there = self.tables["PART"], at
        base = which * len(self.ribbons)
        for r in mine:
            when, place = self.ribbons[r].ready(at)
            there = max(there, when + self.pace(r, parts[base + r][2] - place))
        for r in mine:
            when, _ = self.ribbons[r].ready(at)
            first, count, start = parts[base + r]
            self.ribbons[r].add(when, there - when, start)
            self.ribbons[r].table(first, count, there)
        return there

    def perform(self, act: Act, at: int) -> None:
        """A score or a section of it."""
        length, _, first, count = self.tables["PERFORMANCE"][act.which]
        begins = self.approach(act.which, at, act.mine)
        act.says += [(begins + when, sound) for when, sound in self.tables["SAID"][first : first + count]]
        act.due = begins + length

    def begin_deed(self, deed: list, at: int, claimed: list) -> Act:
        """What a state plays begins, on ribbons that nobody claimed."""
        kind, which, level, takes = deed
        act, ribbons = Act(kind, which, at), self.ribbons
        if kind == SCORE:
            base = which * len(ribbons)
            act.mine = [r for r in range(len(ribbons)) if not claimed[r] and self.tables["PART"][base + r][2] != NONE]
            for r in act.mine:
                claimed[r] = True
            self.perform(act, at)
            act.ends, act.forever = act.due, bool(self.tables["PERFORMANCE"][which][1])
        elif kind == POSE:
            for r, to in enumerate(self.tables["POSE"][which * len(ribbons) : (which + 1) * len(ribbons)]):
                if to != NONE and not claimed[r]:
                    claimed[r] = True
                    when, place = ribbons[r].ready(at)
                    lasts = max(takes, self.pace(r, to - place))
                    ribbons[r].add(when, lasts, to)
                    act.ends = max(act.ends, when + lasts)
        elif kind == LIGHT and not claimed[which]:
            claimed[which] = True
            when, _ = ribbons[which].ready(at)
            ribbons[which].add(when, takes, level)
            act.ends = when + takes
        elif kind == PARK:
            act.ends = self.to_park(at, claimed)
        elif kind in (LINE, SOUND):
            sound = which if kind == SOUND else self.next_line(which)
            if sound is not None:
                self.speak(act, sound, at, claimed)
        elif kind == LIFE:
            act.forever = True
            self.life.begin(at, self.chance.draw() & 0x7FFFFFFF, claimed)
        elif kind == ATTENDS:
            act.forever = self.attention.begin(at, claimed)
        elif kind == STEERED:
            act.forever = True
            self.hand.begin(at, claimed)
        return act

    def to_park(self, at: int, claimed: list) -> int:
        """All that nobody claimed, together, the farthest at 20 degrees a second; when it is there."""
        there, free = at, [r for r in range(len(self.ribbons)) if not claimed[r]]
        for r in free:
            when, place = self.ribbons[r].ready(at)
            away = abs(self.ribbons[r].park - place)
            lasts = LIGHT_T if self.ribbons[r].kind else int(1.875 * away / HOME_SPEED * 10000 + 0.5)
            there = max(there, when + (lasts if away > 1 else 0))
        for r in free:
            when, _ = self.ribbons[r].ready(at)
            self.ribbons[r].add(when, there - when, self.ribbons[r].park)
            claimed[r] = True
        return there

    def speak(self, act: Act, sound: int, at: int, claimed: list) -> None:
        """A sound, and the jaws that go with it; it waits for the jaw that sets off ahead."""
        jaws, moves = self.tables["JAW"], self.ribbons[0].moves if self.ribbons else []
        lead = max([ahead for ribbon, _, ahead in jaws if not claimed[ribbon]], default=0)
        act.says = [(at + lead, sound)]
        act.ends = at + lead + self.tables["SOUND"][sound][0]
        for j, (ribbon, shut, ahead) in enumerate(jaws):
            if claimed[ribbon]:
                continue
            claimed[ribbon] = True
            jaw = self.ribbons[ribbon]
            when, place = jaw.ready(at)
            takes = self.pace(ribbon, shut - place)
            if takes:
                jaw.add(when, takes, shut)
            first, count, _ = self.tables["SPEECH"][sound * len(jaws) + j]
            begins, last = at + lead - ahead, shut
            for k in range(count):
                if begins + moves[first + k][0] >= when + takes and last == shut:
                    jaw.table(first + k, count - k, begins)
                    end = moves[first + count - 1]
                    act.ends = max(act.ends, begins + end[0] + end[1])
                    break
                last = moves[first + k][2]

    def enter(self, to: int) -> None:
        """A state begins."""
        now, self.state = self.now, to
        first, count, begin, many, low, high, stays, self.priority, self.deaf, _ = self.tables["STATE"][to]
        self.over, self.fresh = False, True
        claimed = [False] * len(self.ribbons)
        for each in self.ribbons:
            each.cut(now)
        self.acts = [self.begin_deed(deed, now, claimed) for deed in self.tables["DEED"][first : first + count]]
        for r, taken in enumerate(claimed):
            if not taken:
                self.still(r, now)
        self.stays = now + self.chance.span(low, high) if stays else None
        self.starts = self.tables["FROM"][begin : begin + many]
        self.due = {}
        for s in self.starts:
            start = self.tables["START"][s]
            if start[1] == 5:
                self.due[s] = now + self.chance.span(start[4], start[5])
        self.entered(to, self.ticks)

    # ---- what starts what
    def holds(self, start: list) -> bool:
        """Whether its guards let it."""
        for which, state, level in self.tables["GUARD"][start[6] : start[6] + start[7]]:
            at = self.levels[which]
            if not (at >= ON, at < ON, at >= level / 100, at < level / 100)[state]:
                return False
        return True

    def fires(self, start: list, ended: bool, its_time: bool) -> bool:
        """Whether what starts it happens now."""
        on, which = start[1], start[2]
        if on >= 5:
            return (its_time, ended, which in self.cues)[on - 5]
        if on == 4:
            return self.seen is not None and self.seen[0] == which and self.ticks - self.seen[1] == start[3]
        now, then, level = self.levels[which], self.before[which], start[3] / 100 if on > 1 else ON
        if on in (0, 2):
            return now >= level and (then < level or (on == 2 and self.fresh))
        return now < level and (then >= level or (on == 3 and self.fresh))

    def choose(self, ended: bool):
        """Of all that fires the most important one, of these the first."""
        best, best_priority = None, 0
        for s in self.starts:
            start = self.tables["START"][s]
            priority = self.tables["STATE"][start[0]][7]
            if best is not None and priority <= best_priority:
                continue
            if not self.over and (priority < self.priority or (self.deaf and start[1] < 5)):
                continue
            its_time = s in self.due and self.now >= self.due[s]
            if not self.fires(start, ended, its_time):
                continue
            if its_time:
                del self.due[s]
            if (s in self.cool and self.ticks - self.cool[s] < start[9]) or not self.holds(start):
                continue
            if start[8] >= 1 << 24 or self.chance.draw() >> 8 < start[8]:
                best, best_priority = s, priority
        return best

    def tick(self) -> None:
        """A fiftieth of a second on."""
        self.ticks += 1
        now, self.before = self.now, list(self.levels)
        self.sense()
        for i, row in enumerate(self.tables["INPUT"]):
            if row[2] and self.is_on(i):
                self.seen = (i, self.ticks)
        towards, ends, limit = self.towards(), True, self.stays or 0
        for act in self.acts:
            if act.kind == SCORE and act.forever and now >= act.due:
                self.perform(act, now)
            elif act.kind == SCORE and act.due and now >= act.due:
                act.due = 0
                for r in act.mine:
                    self.still(r, now)
            while act.says and now >= act.says[0][0]:
                self.said(self.tables["SOUND"][act.says.pop(0)[1]][1])
            if act.kind == LIFE:
                self.life.on(now)
            elif act.kind == ATTENDS and act.forever and towards is not None:
                self.attention.on(now, towards)
            elif act.kind == STEERED:
                self.hand.on(now)
            if not act.forever:
                limit = max(limit, act.ends)
            elif self.stays is None:
                ends = False
        ended = ends and not self.over and now >= limit
        self.over = self.over or ended
        chosen = self.choose(ended)
        self.fresh = False
        self.cues.clear()
        if chosen is not None:
            self.cool[chosen] = self.ticks
            self.enter(self.tables["START"][chosen][0])
