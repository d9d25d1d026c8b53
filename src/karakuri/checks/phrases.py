"""What the rules of the score share: which move is whose, and proposals that change a move. The re-study decides what is offered."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterable, Iterator, Sequence

import numpy as np
from numpy.typing import NDArray

from karakuri.actuators.servo import capability
from karakuri.bodies.inertia import Array
from karakuri.catalogue import servo_classes
from karakuri.checks.contract import JointResults, Results, wished
from karakuri.frozen import Frozen
from karakuri.model.channel import MovedChannel
from karakuri.model.edit import Edit, Set
from karakuri.model.edits import fit_servo
from karakuri.model.finding import Finding, Proposal, Sentence, verdict_of
from karakuri.model.profiles import DEFAULT_SHAPE, DESCRIBED
from karakuri.model.score_edits import change_move, stretch_all
from karakuri.motion.profiles import PROFILES
from karakuri.motion.track import Track
from karakuri.sizing.response import late_s
from karakuri.sizing.score_loads import JointLoad
from karakuri.sizing.wanted import profile_of
from karakuri.units import Quantity

MOST_TOLD, MOST_STRETCH, MOST_CLASSES, SPARE = 6, 4.0, 5, 1.03


def counted(wrong: Sequence[Finding]) -> tuple[str, str]:
    """Of findings that do not hold, worst first: how many are as bad as the first, and what they do, in words."""
    verdict = wrong[0].verdict
    alike = sum(1 for finding in wrong if finding.verdict == verdict)
    many = alike > 1
    word = {"fails": "fail" if many else "fails", "tight": "are tight" if many else "is tight"}.get(verdict, "are not yet judged" if many else "is not yet judged")  # fmt: skip
    return f"{alike} {'things' if many else 'thing'}", word


class Part(Frozen, eq=False):
    """One judged joint with its channel: who is told about where joints are tied is the worst of them."""

    load: JointLoad
    results: JointResults
    channel: MovedChannel
    track: Track


def parts(results: Results) -> Iterator[Part]:
    """Judged joints that a channel moves and whose drive and masses are known."""
    loads = results.loads
    if loads is None:
        return
    for r in results.joints:
        load = loads.of(r.index)
        if load is None or load.joint.channel < 0 or r.can is None or r.missing:
            continue
        c = load.joint.channel
        yield Part(load, r, loads.motion.channels[c], loads.motion.tracks[c])


def worst_per_channel(results: Results, reserve_of: dict[int, Array]) -> Iterator[tuple[Part, NDArray[np.int64]]]:
    """For each channel, the part of its worst joint and the moves to tell of, worst first.

    reserve_of: joint index → reserve (n,) of each move, a ratio. Told are those below the wished margin, at least the worst, and the one watched.
    """
    by_channel: dict[str, list[Part]] = {}
    for part in parts(results):
        by_channel.setdefault(part.channel.id, []).append(part)
    for group in by_channel.values():
        part = min(group, key=lambda p: float(np.min(reserve_of[p.results.index], initial=np.inf)))
        reserves = reserve_of[part.results.index]
        if not len(reserves):
            continue
        order = np.argsort(reserves, kind="stable")
        rows = [int(k) for k in order[:MOST_TOLD] if reserves[k] < wished(results)] or [int(order[0])]
        watched = {ref.number for ref in results.watch if ref.id == part.channel.id}
        rows += sorted(k for k in watched if k < len(reserves) and k not in rows)
        yield part, np.array(rows)


def when(at_s: float) -> Quantity:
    """A time of the score, s."""
    return Quantity(at_s, "time")


def thrower(results: Results) -> str:
    """What throws about what is thrown: the score, or, where that moves nothing, what turns on by itself."""
    return "score" if results.figure.score.moves_something else "motor"


def by_what(results: Results, of: str, at: str = "at") -> str:
    """What throws about what is thrown, before the verb: the wanted move of a joint `of`, else, `at` a time, {0}, what `thrower` names."""
    return f"{results.figure.joint(of).name} on its wanted move" if of else f"{at} {{0}} the {thrower(results)}"


def calmer(reserve: float, results: Results, of: str, still: float = 0.0) -> Iterable[Proposal]:
    """More time for the wanted move of a joint `of`, else for the whole score; `still` as of `slowed`."""
    return slower_move(reserve, results, of, still) if of else slowed(reserve, results, still)


def as_written(results: Results, at_s: float, back_s: float = 0.0, of: str = "") -> str:
    """A sentence where the wanted move of a joint `of`, or else a move that is under way at a time of the score, s, or was at most `back_s` before, is faster than its servo goes: what comes of it is that of the move as it is written."""
    if of:
        r = next((each for each in results.joints if each.joint.id == of), None)
        late = r is not None and r.move is not None and r.own is not None and r.move.reserve < 1.0 and DESCRIBED[r.own.kind].timed  # fmt: skip
        return " That is as written: its servo cannot go so fast." if late else ""
    loads = results.loads
    for load in loads.joints if loads is not None else ():
        if loads is None or load.joint.channel < 0 or load.joint.can is None:
            continue
        track = loads.motion.tracks[load.joint.channel]
        under = (track.departs <= at_s) & (track.until >= at_s - back_s) & ~track.at_once
        if bool(np.any(load.moves.reserve[under] < 1.0)):
            return " That is as written: a servo cannot go so fast then."
    return ""


def late_by(results: Results, channel_id: str, k: int) -> float | None:
    """How much later than asked move k of a channel arrives, s, of its latest joint; None where nothing is judged."""
    mine = [p for p in parts(results) if p.channel.id == channel_id and k < len(p.track.departs) and p.results.can]
    if results.loads is None or not mine:
        return None
    return max(_late(p, k, results.loads.motion.length) for p in mine)


def _late(part: Part, k: int, length: float) -> float:
    """A sudden move is there its least time after it left; of others the chase along the line tells."""
    assert part.results.can is not None
    least = float(part.load.moves.least[k])
    if part.track.at_once[k]:
        return max(0.0, least - float(part.track.takes[k])) if math.isfinite(least) else math.inf
    return late_s(part.track, part.load, part.results.can, k, length)


def verdict(results: Results, reserve: float) -> str:
    """The verdict on a reserve, a ratio, with the wished margin of the figure."""
    return verdict_of(reserve, wished(results))


class Law(Frozen):
    """How a move's reserve answers to a change, an estimate that saves studies: the re-study decides.

    `slower(wish)`: by how much time has to be stretched for a reserve of `wish`, None where no time is enough. `share(wish)`: to which
    share its way must shrink, None where none is small enough. `softer(ratio)`: the reserve when its peak falls to that ratio.
    """

    slower: Callable[[float], float | None]
    share: Callable[[float], float | None]
    softer: Callable[[float], float]
    peak: Callable[[str, float], float]


def square_law(may: float, weight: float, moving: float) -> Law:
    """What motion asks falls with the square of time, weight stays (Hollerbach 1984): of what may be asked, and what weight and motion ask now, all in one unit."""

    def room(wish: float) -> float | None:
        """What is left for motion, as a share of what it takes now; None where weight alone is too much."""
        left = may / wish - weight
        return left / max(moving, 1e-12) if left > 1e-9 else None

    def slower(wish: float) -> float | None:
        share = room(wish)
        return 1 / math.sqrt(share) if share is not None else None

    return Law(
        slower,
        room,
        lambda ratio: may / max(weight + moving * ratio, 1e-12),
        lambda kind, shape: PROFILES[kind].peak_acceleration(shape),
    )


def slowed(reserve: float, results: Results, still: float = 0.0) -> Iterable[Proposal]:
    """Where it moves anything, the whole score stretched so that what grows with the square of its pace leaves the wished reserve, or just enough; `still` is the share of what is asked that standing there asks as well."""
    law = square_law(max(reserve, 1e-6), still, 1.0 - still)
    for wish in (wished(results), 1.0) if results.figure.score.moves_something else ():
        factor = law.slower(wish)
        by = math.ceil(factor * SPARE * 20 - 1e-9) / 20 if factor is not None else math.inf
        if 1.0 < by <= MOST_STRETCH:
            label = Sentence("Stretch everything {0} times", (Quantity(by, "ratio"),))
            yield Proposal(stretch_all(results.figure, by), label, "all")


def slower_move(reserve: float, results: Results, moved: str, still: float = 0.0) -> Iterable[Proposal]:
    """More time for the wanted move of a joint `moved`, where it takes any; `still` as of `slowed`."""
    joint = results.figure.joint(moved)
    if joint.move is None or not DESCRIBED[profile_of(joint, joint.move)[0]].timed:
        return
    law = square_law(max(reserve, 1e-6), still, 1.0 - still)
    for wish in (wished(results), 1.0):
        factor = law.slower(wish)
        time_s = math.ceil(joint.move.time_s * factor * 20 - 1e-9) / 20 if factor is not None else math.inf
        if joint.move.time_s < time_s <= joint.move.time_s * MOST_STRETCH:
            edit = Edit(
                f"slow {joint.name}'s move to {time_s:g} s", (Set(("joints", moved, "move", "time_s"), time_s),)
            )
            yield Proposal(edit, Sentence("Take {0} for the move", (Quantity(time_s, "time"),)), "slower")


def move_proposals(finding: Finding, results: Results, law: Law) -> Iterable[Proposal]:
    """Stretch this move, go less far, a softer profile, stretch everything."""
    if finding.move is None or finding.reserve is None or finding.verdict == "holds":
        return
    channel, k = results.figure.score.moving(finding.move.id), finding.move.number
    row = channel.moves.row(k)
    wishes = (wished(results), 1.0) if finding.verdict == "fails" else (wished(results),)
    factor = next((by for by in map(law.slower, wishes) if by is not None and 1 < by * SPARE <= MOST_STRETCH), None)
    if row.takes > 0 and factor is not None:
        for by in (factor * SPARE, factor * 1.3):
            takes = math.ceil(row.takes * by * 200 - 1e-9) / 200
            edit, _ = change_move(channel, k, "stretch a move", takes=takes)
            yield Proposal(_own(edit), Sentence("Stretch the move to {0}", (Quantity(takes, "time"),)), "stretch")
    yield from _less_far(finding, results, channel, k, law, wishes)
    if row.profile in ("minimum jerk", "cosine") and row.takes > 0:
        softer = law.softer(law.peak("trapezoid", DEFAULT_SHAPE["trapezoid"]) / law.peak(row.profile, row.shape))
        if softer >= max(1.0, finding.reserve * 1.02):
            edit, _ = change_move(channel, k, "soften a move", profile="trapezoid")
            yield Proposal(_own(edit), Sentence("Steady speed between ramps"), "profile")
    if factor is not None:
        by = math.ceil(factor * SPARE * 20 - 1e-9) / 20
        label = Sentence("Stretch everything {0} times", (Quantity(by, "ratio"),))
        yield Proposal(stretch_all(results.figure, by), label, "all")


def _less_far(
    finding: Finding, results: Results, channel: MovedChannel, k: int, law: Law, wishes: tuple[float, ...]
) -> Iterable[Proposal]:
    loads = results.loads
    if loads is None or finding.reserve is None:
        return
    track = loads.motion.tracks[loads.motion.channels.index(channel)]
    start, target = math.degrees(float(track.start[k])), channel.moves.row(k).target
    for wish in wishes:
        share = law.share(wish)
        if share is None:
            continue
        less = start + (target - start) * min(1.0, share) * 0.99
        less = float(math.floor(less) if target > start else math.ceil(less))
        if abs(less - start) >= 1.0 and less != target:
            edit, _ = change_move(channel, k, "shorten a move", target=less)
            label = Sentence("Go to {0} instead", (Quantity(math.radians(less), "angle"),))
            yield Proposal(_own(edit), label, "angle")


def _own(edit: Edit) -> Edit:
    return Edit(edit.name, edit.steps)


def stronger(finding: Finding, results: Results) -> Iterable[Proposal]:
    """Classes that turn far enough, hold, and are stronger or quicker than what is fitted, in rising torque; the re-study decides."""
    if finding.verdict == "holds":
        return
    r = results.of(finding.subject.id)
    drive = results.figure.drive_of(r.joint.id)
    if drive is None or r.can is None:
        return
    width, offered = r.joint.range_deg[1] - r.joint.range_deg[0], 0
    least = min(1.0, r.hold.reserve(r.can))
    for servo in servo_classes():
        known = results.figure.assumptions
        can = capability(drive.of(servo, known.together_share), results.figure.supply.voltage_V, known)
        better = can.stall > r.can.stall * 1.02 or can.free_speed > r.can.free_speed * 1.02
        if servo.name == drive.actuator.name or servo.travel_deg < width or not better or r.hold.reserve(can) < least:
            continue
        if can.stall < r.can.stall * 0.98 and finding.rule != "toofast":
            continue
        yield Proposal(
            fit_servo(results.figure, r.joint.id, servo), Sentence(f"Fit {servo.name.split(',')[0]}"), "class"
        )
        offered += 1
        if offered == MOST_CLASSES:
            return
