"""Orders of putting together and taking off: what must come before what, the order nearest to the one there is, circles, and what comes off first.

A topological order (Kahn, Comm. ACM 5, 1962, from memory), of all there are the one that takes earlier steps of the present order first.
"""

from __future__ import annotations

import heapq
from collections.abc import Sequence

from karakuri.frozen import Frozen
from karakuri.model.order import Doing


def before(doings: Sequence[Doing]) -> dict[str, set[str]]:
    """For each step, by id, those that must come before it: what it needs, and what it shuts off; what is no step of these is left out."""
    ids = {doing.id for doing in doings}
    return {doing.id: {each for each in (*doing.needs, *doing.shuts) if each in ids} for doing in doings}


def ordered(doings: Sequence[Doing]) -> tuple[str, ...] | None:
    """Their ids in an order that may be kept, as near to theirs as may be; None where they go round in a circle."""
    place = {doing.id: k for k, doing in enumerate(doings)}
    left = before(doings)
    ready = [place[ident] for ident, some in left.items() if not some]
    heapq.heapify(ready)
    out: list[str] = []
    while ready:
        ident = doings[heapq.heappop(ready)].id
        out.append(ident)
        for other, some in left.items():
            if ident in some:
                some.discard(ident)
                if not some:
                    heapq.heappush(ready, place[other])
    return tuple(out) if len(out) == len(doings) else None


def circle(doings: Sequence[Doing]) -> tuple[str, ...]:
    """The ids of a circle that they go round in, the shortest there is, the first of them in their order first; () where there is none."""
    must, best = before(doings), tuple[str, ...]()
    for doing in doings:
        ways: list[tuple[str, ...]] = [(doing.id,)]
        seen = {doing.id}
        while ways and (not best or len(ways[0]) < len(best)):
            way = ways.pop(0)
            if doing.id in must[way[-1]]:
                best = way if not best or len(way) < len(best) else best
                break
            for each in sorted(must[way[-1]] - seen, key=lambda i: [d.id for d in doings].index(i)):
                seen.add(each)
                ways.append((*way, each))
    return best


class Off(Frozen):
    """Taking one step back: the ids that come off before it, in order, itself last; `stuck` those of them that never come off."""

    steps: tuple[str, ...]
    stuck: tuple[str, ...]


def off(doings: Sequence[Doing], ident: str) -> Off:
    """What has to come off so that a step comes off: all that sits on it or shuts it off, and so on, the last put on first."""
    on = [doing for doing in doings if doing.kind != "measure"]
    gone, grew = {ident}, True
    while grew:
        more = {doing.id for doing in on if doing.id not in gone and gone & {*doing.needs, *doing.shuts}}
        gone, grew = gone | more, bool(more)
    order = ordered(doings) or tuple(doing.id for doing in doings)
    steps = tuple(each for each in reversed(order) if each in gone)
    stuck = tuple(doing.id for doing in doings if doing.id in gone and doing.for_good)
    return Off(steps, stuck)


class Amiss(Frozen):
    """What is wrong with one step where it stands, by ids: `missing` what it needs comes after it; `shut` what shuts it off comes before it, of things done:
    is done without it; `unmet` what is not there although it is done."""

    missing: tuple[str, ...]
    shut: tuple[str, ...]
    unmet: tuple[str, ...]


def amiss(doings: Sequence[Doing], k: int) -> Amiss:
    """Of step number k in their order."""
    me, place = doings[k], {doing.id: n for n, doing in enumerate(doings)}
    missing = tuple(each for each in me.needs if place.get(each, -1) > k)
    shut = tuple(d.id for n, d in enumerate(doings) if me.id in d.shuts and (n < k or (d.done and not me.done)))
    done = {doing.id for doing in doings if doing.done}
    unmet = tuple(each for each in me.needs if each in place and me.done and each not in done)
    return Amiss(missing, shut, unmet)


def takes_min(doings: Sequence[Doing]) -> float:
    """How long all that is not done yet takes, minutes."""
    return sum(doing.minutes for doing in doings if not doing.done)
