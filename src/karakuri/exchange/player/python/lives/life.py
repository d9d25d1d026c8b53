"""What it does when nothing is asked of it, and where it looks: the same chance and the same arithmetic as the bench's, for ever."""

from __future__ import annotations

from .ribbon import NOWHERE, Chance

LEAD, HEAD_S, AT_LEAST, SHARE, HEAD_SHARE, STEP_DEG, NEVER = 0.040, 0.55, 0.08, 0.6, 0.5, 6.0, 1e9


def ticks_of(seconds: float) -> int:
    """Tenths of a millisecond."""
    return int(seconds * 10000 + 0.5)


class Actor:
    """Ribbons that stir as one; where all may be, as the first counts."""

    def __init__(self, row: list, owned: list) -> None:
        first, count, self.low, self.high, self.part, self.keeps = row
        self.ribbons = owned[first : first + count]

    def clipped(self, place: float) -> float:
        """Inside where it may be."""
        return min(max(place, self.low), self.high)


class Stirs:
    """Moves of one happening, counted from when it begins, s; `emits` whether they are made, or only the wait asked for."""

    def __init__(self, living) -> None:
        self.living, self.emits, self.at_home, self.begun, self.busy = living, False, True, 0, 0.0
        self.glancers = [Actor(row, living.tables["ACTOR_RIBBON"]) for row in living.tables["GLANCER"]]
        self.stands = [0.0] * len(self.glancers)
        self.with_heads = self.only_turns = False

    def takes(self, actor: Actor, by: float, wanted: float) -> float:
        """How long a move takes at least."""
        least = 0.0 if actor.keeps == NOWHERE else self.living.least(actor.keeps, abs(by))
        return least if wanted < least < 1e8 else wanted

    def stir(self, actor: Actor, at: float, lasts: float, place: float, home: bool) -> None:
        """One move; `home`: counted from park."""
        self.busy = max(self.busy, at + lasts)
        for ribbon, sign in actor.ribbons if self.emits else ():
            park = sign * self.living.ribbons[ribbon].park if home and self.at_home else 0
            begins = self.begun + ticks_of(at)
            self.living.ribbons[ribbon].add(begins, ticks_of(lasts), sign * actor.clipped(park + place))

    # ---- gaze: eyes leap, the head follows where it is far, and they turn back against it
    def head_of(self, part: int) -> int:
        """Who of the glancers is the head for eyes that pan (0) or tilt (1); -1 nobody."""
        found = [who for who, each in enumerate(self.glancers) if each.part == part + 2]
        return found[0] if found and self.with_heads else -1

    def reach(self, eye: Actor, head: int) -> tuple:
        """How far eyes and head together look."""
        least, most = eye.low * SHARE, eye.high * SHARE
        if head >= 0:
            h = self.glancers[head]
            least, most = min(least, 0) + min(h.low * SHARE, 0), max(most, 0) + max(h.high * SHARE, 0)
        return least, most

    def gaze(self, eye: Actor, head: int, share: float) -> tuple:
        """Where it looks, and how far the head turns for it."""
        least, most = self.reach(eye, head)
        looks = least + (most - least) * share
        if head < 0:
            return looks, 0.0
        past = max(0.0, abs(looks) - max(self.living.defines["HEAD_JOINS"], 0))
        turns = (1 if looks >= 0 else -1) * (max(past, HEAD_SHARE * abs(looks)) if past > 0 else 0.0)
        turns = self.glancers[head].clipped(turns)
        return eye.clipped(looks - turns) + turns, turns

    def turn(self, who: int, at: float, lasts: float, place: float, home: bool) -> None:
        """One of the glancers to a place."""
        actor = self.glancers[who]
        self.stir(actor, at, lasts, 0.0 if home and actor.part < 2 and self.at_home else place, home)
        self.stands[who] = place

    def shift(self, at: float, shares) -> float:
        """All gaze at a time to shares of what eyes and head together reach, or home; when it is there."""
        there = at
        for part in range(1 if self.only_turns else 2):
            head, eyes = self.head_of(part), [w for w, each in enumerate(self.glancers) if each.part == part]
            stood = self.stands[head] if head >= 0 else 0.0
            for who in eyes:
                eye = self.glancers[who]
                looks, turns = self.gaze(eye, head, shares[part]) if shares else (0.0, 0.0)
                first = eye.clipped(looks - stood)
                by = first - self.stands[who]
                lasts = self.takes(eye, by, max(AT_LEAST, 0.021 + 0.0022 * abs(by) / 100))
                self.turn(who, at, lasts, first, not shares and stood == 0)
                over = at + lasts
                if head >= 0 and turns != stood:
                    arrives = at + LEAD + self.takes(self.glancers[head], turns - stood, HEAD_S)
                    last = eye.clipped(looks - turns)
                    if last != first:
                        slow = self.takes(eye, last - first, max(arrives - over, 0.05))
                        self.turn(who, over, slow, last, not shares)
                        over += slow
                there = max(there, over)
            if head < 0 or not eyes:
                continue
            to = self.gaze(self.glancers[eyes[0]], head, shares[part])[1] if shares else 0.0
            if to != stood:
                lasts = self.takes(self.glancers[head], to - stood, HEAD_S)
                self.turn(head, at + LEAD, lasts, to, True)
                there = max(there, at + LEAD + lasts)
        return there


class Life(Stirs):
    """Its life when idle, on what nobody claimed."""

    def __init__(self, living) -> None:
        super().__init__(living)
        self.actors = [Actor(row, living.tables["ACTOR_RIBBON"]) for row in living.tables["ACTOR"]]
        self.kinds = []
        for kind, first, count in living.tables["LIFE"]:
            self.kinds.append((kind, (self.actors if kind else self.glancers)[first : first + count]))

    def begin(self, at: int, seed: int, claimed: list) -> None:
        """Each kind on its own ribbons, from park."""
        self.at_home, self.under_way = True, []
        for kind, cast in self.kinds:
            mine = [ribbon for actor in cast for ribbon, _ in actor.ribbons]
            if any(claimed[ribbon] for ribbon in mine):
                continue
            there = at
            for ribbon in mine:
                if claimed[ribbon]:
                    continue  # two of its actors share it
                claimed[ribbon] = True
                each = self.living.ribbons[ribbon]
                when, place = each.ready(at)
                lasts = self.living.pace(ribbon, each.park - place)
                each.add(when, lasts, each.park)
                there = max(there, when + lasts)
            one = {"kind": kind, "cast": cast, "chance": Chance(seed, kind), "memory": 0}
            one["due"] = there + self._wait_of(one)
            self.under_way.append(one)

    def on(self, now: int) -> None:
        """Begin what is due."""
        self.at_home = True
        for one in self.under_way:
            while now >= one["due"]:
                self.emits, self.begun = True, now
                self._happening(one)
                one["due"] = now + ticks_of(self.busy) + self._wait_of(one)

    def _wait_of(self, one: dict) -> int:
        """The wait before what comes next, which is not used up."""
        state, memory, busy = one["chance"].state, one["memory"], self.busy
        self.emits = False
        wait = ticks_of(self._happening(one))
        one["chance"].state, one["memory"], self.busy = state, memory, busy
        return wait

    def _happening(self, one: dict) -> float:
        self.busy = 0.0
        kinds = (self._glances, self._blinks, self._ears, self._tail, self._breathes, self._sways)
        return kinds[one["kind"]](one, one["cast"], one["chance"])

    def _waits(self, x: Chance) -> float:
        return x.between(self.living.defines["WAITS_LOW"], self.living.defines["WAITS_HIGH"])

    def _glances(self, one: dict, cast: list, x: Chance) -> float:
        wait, stays = self._waits(x), x.between(0.4, 0.9)
        self.with_heads = x.happens(0.4) and self.living.defines["HEAD_JOINS"] >= 0
        shares = (x.between(0, 1), x.between(0, 1))
        self.stands = [0.0] * len(self.glancers)
        self.shift(self.shift(0.0, shares) + stays, None)
        return wait

    def _blinks(self, one: dict, cast: list, x: Chance) -> float:
        wait = (0.4 if one["memory"] else 0.0) + self._waits(x)
        one["memory"] = 1
        for a in cast:
            band = a.high - a.low
            shuts = self.takes(a, band, 0.092)
            self.stir(a, 0.0, shuts, a.high if a.part else a.low, False)
            self.stir(a, shuts, self.takes(a, band, 0.242), 0.0, True)
        return wait

    def _ears(self, one: dict, cast: list, x: Chance) -> float:
        wait, first, both, apart = (
            self._waits(x),
            int(x.between(0, 1) * len(cast)),
            x.happens(0.5),
            x.between(0.04, 0.12),
        )
        for n in range(2 if both and len(cast) > 1 else 1):
            a = cast[(first + n) % len(cast)]
            band = a.high - a.low
            to, stays, goes = a.low + x.between(0, 1) * band, x.between(0.05, 0.35), self.takes(a, band, 0.12)
            self.stir(a, n * apart, goes, to, False)
            self.stir(a, n * apart + goes + stays, goes, 0.0, True)
        return wait

    def _tail(self, one: dict, cast: list, x: Chance) -> float:
        wait, lasts, far, up = self._waits(x), x.between(0.5, 0.9), x.between(0.3, 0.8), x.happens(0.5)
        goes = max(self.takes(a, a.high - a.low, lasts) for a in cast)
        for n, a in enumerate(cast):
            at = n * 0.080
            self.stir(a, at, goes, (a.high if up else a.low) * far, False)
            self.stir(a, at + goes, goes, (a.low if up else a.high) * far * 0.6, False)
            self.stir(a, at + 2 * goes, goes, 0.0, True)
        return wait

    def _breathes(self, one: dict, cast: list, x: Chance) -> float:
        lasts, deep = 60 / self.living.defines["BREATHS"] * x.between(0.88, 1.12), 0.10 * x.between(0.88, 1.12)
        for a in cast:
            by = deep * (a.high - a.low) * (1 if a.high >= -a.low else -1)
            up = self.takes(a, by, lasts / 3)
            self.stir(a, 0.0, up, by, True)
            self.stir(a, up, self.takes(a, by, lasts * 2 / 3), 0.0, True)
        return 0.0

    def _sways(self, one: dict, cast: list, x: Chance) -> float:
        there, back = x.between(1.2, 2.6), x.between(1.2, 2.6)
        far = x.between(0.4, 1.0) * 0.08 * (-1 if one["memory"] else 1)
        for a in cast:
            by = far * (a.high - a.low)
            goes = self.takes(a, by, there)
            self.stir(a, 0.0, goes, by, True)
            self.stir(a, goes, self.takes(a, by, back), 0.0, True)
        one["memory"] = not one["memory"]
        return x.between(0, 0.6)


class Attention(Stirs):
    """Eyes and head to where somebody is, again whenever that has changed enough."""

    def begin(self, at: int, claimed: list) -> bool:
        """False where nothing turns to look, or something else has it."""
        turners = [(who, each) for who, each in enumerate(self.glancers) if not each.part & 1]
        mine = [(who, k, ribbon, sign) for who, each in turners for k, (ribbon, sign) in enumerate(each.ribbons)]
        if not mine or any(claimed[ribbon] for _, _, ribbon, _ in mine):
            return False
        self.free, self.watch, self.looked = at, [0.0] * len(self.glancers), NEVER
        for who, k, ribbon, sign in mine:
            when, place = self.living.ribbons[ribbon].ready(at)
            self.free = max(self.free, when)
            claimed[ribbon] = True
            if k == 0:
                self.watch[who] = sign * place
        return True

    def on(self, now: int, towards: float) -> None:
        """Somebody is so many degrees to the left."""
        if now < self.free or abs(towards - self.looked) < STEP_DEG:
            return
        self.looked, self.emits, self.begun, self.at_home, self.with_heads, self.busy = (
            towards,
            True,
            now,
            False,
            True,
            0.0,
        )
        share = 0.5
        self.stands = list(self.watch)
        for eye in self.glancers:
            if not eye.part:
                least, most = self.reach(eye, self.head_of(0))
                share = min(max((towards * 100 - least) / max(most - least, 1e-6), 0.0), 1.0)
        self.only_turns = True
        self.free = now + ticks_of(self.shift(0.0, (share, 0.5)))
        self.watch = list(self.stands)
