"""What the score asks of every drive in a stretch of a few seconds, from fine samples inside each move: torque, speed and heat.

A page is given the moves that reach into it and nothing else, so that an edit recomputes a page or two.
"""

from __future__ import annotations

from collections import OrderedDict

import numpy as np
from msgspec.structs import replace
from numpy.typing import NDArray

from karakuri.actuators.servo import Capability
from karakuri.bodies.inertia import Array
from karakuri.bodies.tree import Tree
from karakuri.frozen import Frozen
from karakuri.mechanics.at_drive import asked_of, at_drive, bears_N, drive_motion
from karakuri.mechanics.dynamics import inverse_dynamics
from karakuri.mechanics.equilibrium import complete
from karakuri.mechanics.statics import holding_torques_Nm
from karakuri.motion.profiles import BY_CODE
from karakuri.motion.score_motion import ScoreMotion
from karakuri.motion.track import NOTHING, SUDDEN, Track
from karakuri.sizing.leaps import HAIR_S, Leaper, Leaps, leaps
from karakuri.sizing.least_time import all_it_has, fastest_rate
from karakuri.sizing.move_loads import MoveLoads

PAGE_S, INSIDE, BIN_S, KEPT_PAGES = 2.0, 25, 0.1, 24
BINS = round(PAGE_S / BIN_S)
EACH_TURN, LEAST_STEP_S = 24, 0.01
"""So many samples in each turn of what turns on by itself, no finer than that."""
SAMPLE_S = 0.02
SAMPLES = round(PAGE_S / SAMPLE_S)
"""So fine torque and speed of each joint are kept side by side, that currents may be added as they come together."""


class ScoredJoint(Frozen, eq=False):
    """A judged joint over the score: its place in the tree, its channel or −1, what its drive can do (None: no servo), the servo's
    reflected inertia kg·m² and the friction N·m, its own and what of its followers' reaches it."""

    joint: int
    channel: int
    can: Capability | None
    reflected: float
    friction: float


class PageLoad(Frozen, eq=False):
    """One joint on one page: its moves that reach into the page, in order. `squared` (p, bins) N²·m²·s a posture and tenth
    of a second; hold, peak (torque, s, posture); top (rad/s, s); borne (N, s), the most in its rod, teeth or belt; effort (bins,) largest torque N·m in each tenth of a second;
    samples (2, n) the same in each SAMPLE_S, and the largest speed rad/s there."""

    moves: MoveLoads
    squared: Array
    hold: tuple[float, float, int]
    peak: tuple[float, float, int]
    top: tuple[float, float]
    borne: tuple[float, float]
    effort: Array
    samples: NDArray[np.float32]


class Page(Frozen, eq=False):
    """Stretch begin … end, s, of a score's motion over a tree, for the judged joints; gravities (p, 3) m/s², base frame."""

    tree: Tree
    motion: ScoreMotion
    joints: tuple[ScoredJoint, ...]
    gravities: Array
    begin: float
    end: float


def spans(length: float, each: float = PAGE_S) -> list[tuple[float, float]]:
    """Begin and end, s, of each page of a score of that length, s; or of stretches of it, `each` s long."""
    count = max(1, int(np.ceil(length / each - 1e-9)))
    return [(k * each, min((k + 1) * each, length)) for k in range(count)]


def page_loads(pages: list[Page]) -> list[tuple[PageLoad, ...]]:
    """Loads of every judged joint on each page, in N·m, rad/s and s; all over one tree and the same joints, sampled in one go."""
    tree, joints, gravities = pages[0].tree, pages[0].joints, pages[0].gravities
    moving = [_moving(page) for page in pages]
    under, each, states = [m.under for m in moving], [m.times for m in moving], [m.state for m in moving]
    times = np.concatenate(each)
    q, qd, qdd = (np.concatenate([state[i] for state in states], axis=1) for i in range(3))
    rows = [joint.joint for joint in joints]
    accelerating, held = _asked(tree, joints, q, qd, qdd, gravities)
    reflected = np.array([p.reflected for p in joints])[:, None]
    motions = [drive_motion(tree, row, q, qd, qdd) for row in rows]
    speed, faster = (np.stack([motion[i] for motion in motions]) for i in range(2))
    rubs = _rubs(tree, joints, q, qd)
    borne = (
        np.stack(
            [
                bears_N(tree, row, q, np.abs(accelerating[i] + held[:, i]).max(axis=0) + rubs[i])
                for i, row in enumerate(rows)
            ]
        )
        if rows
        else rubs
    )
    accelerating = accelerating + reflected * faster
    total = np.abs(accelerating + held) + rubs
    rate = _together(tree, rows, _rates(joints, accelerating, held, rubs, speed))
    sampled = _Sampled(times, np.abs(speed), np.abs(held), total, total.max(axis=0), rate, borne)
    out, start = [], 0
    for page, reach, here in zip(pages, under, each, strict=True):
        part = sampled.cut(start, start + len(here))
        start += len(here)
        binned = _binned(part, page.begin)
        out.append(tuple(_page_load(page, i, reach, part, binned) for i in range(len(joints))))
    return out


def _asked(
    tree: Tree, joints: tuple[ScoredJoint, ...], q: Array, qd: Array, qdd: Array, gravities: Array
) -> tuple[Array, Array]:
    """What moving (J, k), and standing there in each posture (p, J, k), asks of the drives, N·m; of q, qd, qdd (m, k). What hangs free is
    where it comes to rest in each posture, and is carried along as it hangs."""
    if not tree.coupling.hangs:
        moving = _at_drives(tree, joints, q, inverse_dynamics(tree, q, qd, qdd, np.zeros(3)))
        held = holding_torques_Nm(tree, q, (g[:, None] for g in gravities))
        return moving, np.stack([_at_drives(tree, joints, q, each) for each in held])
    every, still = [], []
    for g in gravities:
        there = complete(tree, q.copy(), g)
        still.append(_at_drives(tree, joints, there, holding_torques_Nm(tree, there, (g[:, None],))[0]))
        every.append(_at_drives(tree, joints, there, inverse_dynamics(tree, there, qd, qdd, np.zeros(3))))
    most = np.abs(np.stack(every)).argmax(axis=0)[None]
    return np.take_along_axis(np.stack(every), most, axis=0)[0], np.stack(still)


_lately: OrderedDict[tuple[object, ...], _Moving] = OrderedDict()


class _Moving(Frozen, eq=False):
    """What a page's motion is, whatever the figure weighs: the moves under way of each track, times (k,) s, and q, qd, qdd (m, k) there."""

    under: list[NDArray[np.int64]]
    times: Array
    state: tuple[Array, Array, Array]


def _moving(page: Page) -> _Moving:
    """Kept for the last few pages: remedies ask about the same motion of other masses and servos."""
    m = page.motion
    goes = tuple((each.row, each.period, each.places.tobytes()) for each in m.running)
    key = (m.tracks, m.source, m.gain.tobytes(), m.offset.tobytes(), m.rest.tobytes(), goes, page.begin, page.end)
    if key not in _lately:
        under = [track.reaching(page.begin, page.end) for track in m.tracks]
        times = times_of(m, page.begin, page.end, under)
        _lately[key] = _Moving(under, times, m.state(times))
        if len(_lately) > KEPT_PAGES:
            _lately.popitem(last=False)
    return _lately[key]


def _at_drives(tree: Tree, joints: tuple[ScoredJoint, ...], q: Array, torque: Array) -> Array:
    """What reaches the drives of joint torques (m, k) N·m in poses q (m, k): their own, and that of what follows them by virtual work."""

    def asked(k: int) -> Array:
        return sum((gain * torque[i] for i, gain in tree.coupling.loads[k]), np.zeros(torque.shape[1]))

    return np.stack([at_drive(tree, p.joint, q, asked) for p in joints])


def _rubs(tree: Tree, joints: tuple[ScoredJoint, ...], q: Array, qd: Array) -> Array:
    """What rubs at each drive, (J, k) N·m: of each joint that moves among those it turns, as if all rubbed against it."""
    rubs = {p.joint: p.friction * (np.abs(qd[p.joint]) > 1e-9) for p in joints}
    nothing = np.zeros(q.shape[1])

    def of(j: int, one: int) -> Array:
        return np.abs(at_drive(tree, j, q, lambda k: rubs[one] if k == one and one in rubs else nothing))

    each = [sum((of(p.joint, one) for one in asked_of(tree, p.joint)), nothing) for p in joints]
    return np.stack(each) if each else np.zeros((0, q.shape[1]))


def _together(tree: Tree, rows: list[int], rate: Array) -> Array:
    """How many times faster each sample could go, (J, k): where drives share joints, as the one that can least."""
    place = {row: i for i, row in enumerate(rows)}
    members = [[place[k] for k in asked_of(tree, row) if k in place] for row in rows]
    return np.stack([rate[some].min(axis=0) for some in members]) if rows else rate


def _rates(joints: tuple[ScoredJoint, ...], motion: Array, held: Array, friction: Array, speed: Array) -> Array:
    """How many times faster each sample could go, (J, k), in the worst posture: time scaling leaves weight and friction as they are."""
    out = np.full(speed.shape, np.inf)
    for i, joint in enumerate(joints):
        if joint.can is not None:
            # standing still it may turn either way in the next moment: the way the motion is asked, else the way weight pulls
            way = np.where(
                np.abs(speed[i]) > 1e-9, np.sign(speed[i]), np.where(np.abs(motion[i]) > 1e-12, np.sign(motion[i]), 1.0)
            )
            each = fastest_rate(way * motion[i], way * held[:, i], friction[i], np.abs(speed[i]), all_it_has(joint.can))
            out[i] = each.min(axis=0)
    return out


class _Sampled(Frozen, eq=False):
    """Samples of the joints, J of them, at times (k,): speed (J, k); held and total (p, J, k); worst, rate, borne (J, k)."""

    times: Array
    speed: Array
    held: Array
    total: Array
    worst: Array
    rate: Array
    borne: Array

    def cut(self, a: int, b: int) -> _Sampled:
        return _Sampled(
            self.times[a:b],
            self.speed[:, a:b],
            self.held[:, :, a:b],
            self.total[:, :, a:b],
            self.worst[:, a:b],
            self.rate[:, a:b],
            self.borne[:, a:b],
        )


def times_of(motion: ScoreMotion, begin: float, end: float, under: list[NDArray[np.int64]]) -> Array:
    """Times (n,) s from begin to end: inside each move `under` way of each track, both sides of where its acceleration leaps, every tenth of a second, and all over each turn of what
    turns on."""
    grid = np.linspace(0.0, 1.0, INSIDE)
    found = [np.arange(begin, end + 1e-9, BIN_S), np.arange(begin + BIN_S, end + 1e-9, BIN_S) - HAIR_S, np.array([end])]
    for track, rows in zip(motion.tracks, under, strict=True):
        if len(rows):
            a = track.departs[rows]
            takes = track.takes[rows]
            b = np.where(track.code[rows] == SUDDEN, a, np.minimum(track.until[rows], a + 30.0))
            found.append((a[:, None] + (b - a)[:, None] * (grid * (1 - 1e-9))).ravel())
            found += [a - HAIR_S, b - HAIR_S, b + HAIR_S]
            for code in set(track.code[rows].tolist()):
                mine = track.code[rows] == code
                for edge in BY_CODE[code].edges(track.shape[rows][mine]):
                    at = a[mine] + edge * takes[mine]
                    found += [at - HAIR_S, at + HAIR_S]
    for each in motion.running:
        step = max(each.period / EACH_TURN, LEAST_STEP_S)
        if step < BIN_S:
            found.append(np.arange(begin, end + 1e-9, step))
    times = np.unique(np.concatenate(found))
    return times[(times >= begin) & (times <= end)]


class _Binned(Frozen, eq=False):
    """Of J joints in each tenth of a second: squared (p, J, bins), effort (J, bins), fine (2, J, samples) torque and speed; and the sample (J,) at which each holds, gives and
    moves most."""

    squared: Array
    effort: Array
    fine: Array
    hold: NDArray[np.int64]
    peak: NDArray[np.int64]
    top: NDArray[np.int64]


def _binned(part: _Sampled, begin: float) -> _Binned:
    """All joints at once: N²·m²·s and N·m."""
    bins = np.minimum(((part.times - begin) / BIN_S).astype(int), BINS - 1)
    starts = np.searchsorted(bins, np.arange(BINS))
    some = np.append(np.diff(starts), len(bins) - starts[-1]) > 0
    square = part.total**2
    steps = np.zeros_like(square)
    steps[..., :-1] = 0.5 * (square[..., :-1] + square[..., 1:]) * np.diff(part.times)
    squared, effort = np.zeros((*square.shape[:2], BINS)), np.zeros((len(part.worst), BINS))
    squared[..., some] = np.add.reduceat(steps, starts[some], axis=2)
    effort[:, some] = np.maximum.reduceat(part.worst, starts[some], axis=1)
    hold = part.held.max(axis=0).argmax(axis=1)
    return _Binned(squared, effort, _fine(part, begin), hold, part.worst.argmax(axis=1), part.speed.argmax(axis=1))


def _fine(part: _Sampled, begin: float) -> Array:
    """Largest torque N·m and speed rad/s of each joint in each SAMPLE_S, (2, J, SAMPLES); where no sample fell, the larger of those beside."""
    bins = np.minimum(((part.times - begin) / SAMPLE_S + 1e-9).astype(int), SAMPLES - 1)
    starts = np.flatnonzero(np.diff(bins, prepend=-1))
    both = np.stack([part.worst, part.speed])
    there = np.maximum.reduceat(both, starts, axis=2)
    filled = bins[starts]
    every = np.arange(SAMPLES)
    before = np.clip(np.searchsorted(filled, every, side="right") - 1, 0, len(filled) - 1)
    after = np.clip(np.searchsorted(filled, every, side="left"), 0, len(filled) - 1)
    out: Array = np.maximum(there[..., before], there[..., after])
    return out


def _page_load(page: Page, i: int, under: list[NDArray[np.int64]], part: _Sampled, binned: _Binned) -> PageLoad:
    joint, times = page.joints[i], part.times
    held, total, speed, worst = part.held[:, i], part.total[:, i], part.speed[i], part.worst[i]
    squared, effort, fine = binned.squared[:, i], binned.effort[i], binned.fine[:, i].copy()
    track = page.motion.tracks[joint.channel] if joint.channel >= 0 else NOTHING
    which = under[joint.channel] if joint.channel >= 0 else np.zeros(0, dtype=np.int64)
    sudden = _leaps(page, i, which)
    if joint.can is not None:
        for k in asked_of(page.tree, joint.joint):  # it gives all it has in the leaps of joints it shares, too
            n = next((n for n, other in enumerate(page.joints) if other.joint == k), -1)
            if n >= 0 and page.joints[n].channel >= 0:
                rows = under[page.joints[n].channel]
                leap = sudden if n == i else _leaps(page, n, rows)
                departs = page.motion.tracks[page.joints[n].channel].departs[rows]
                _heat_of_leaps(joint.can, departs, leap, page.begin, squared, effort, fine)
    hold, peak, top = int(binned.hold[i]), int(binned.peak[i]), int(binned.top[i])
    return PageLoad(
        _moves(joint, track, which, times, speed, worst, part.rate[i], sudden, page.motion), squared,
        (float(held[:, hold].max()), float(times[hold]), int(held[:, hold].argmax())),
        (float(worst[peak]), float(times[peak]), int(total[:, peak].argmax())),
        (float(speed[top]), float(times[top])), _borne(part.borne[i], times, track, which, sudden), effort, fine.astype(np.float32),
    )  # fmt: skip


def _borne(samples: Array, times: Array, track: Track, which: NDArray[np.int64], leap: Leaps) -> tuple[float, float]:
    """The most that is borne, N, and when, s: by samples (k,), or in a leap."""
    k = int(samples.argmax())
    most = (float(samples[k]), float(times[k]))
    leaping = np.flatnonzero(leap.sudden)
    if len(leaping):
        n = int(leaping[leap.bears[leaping].argmax()])
        most = max(most, (float(leap.bears[n]), float(track.departs[which[n]])))
    return most


def _leaps(page: Page, i: int, which: NDArray[np.int64]) -> Leaps:
    """Those of the moves `which` (r,) of a joint that go at once, by its drive and those that share joints with it."""
    joint, tree = page.joints[i], page.tree
    track = page.motion.tracks[joint.channel] if joint.channel >= 0 else NOTHING
    members = {other.joint: other for other in page.joints}
    order = (joint.joint, *(k for k in asked_of(tree, joint.joint) if k != joint.joint))
    found = [
        Leaper(k, can, members[k].reflected) for k in order if k in members and (can := members[k].can) is not None
    ]
    by = tuple(found) if joint.can is not None else ()
    return leaps(tree, page.motion, joint.joint, track, which, by, joint.friction, page.gravities)


def _heat_of_leaps(
    can: Capability, departs: Array, sudden: Leaps, begin: float, squared: Array, effort: Array, fine: Array
) -> None:  # fmt: skip
    """A sudden move costs all the servo has while it speeds up and brakes: into squared (p, bins) N²·m²·s, effort (bins,) N·m and
    fine (2, samples) N·m and rad/s."""
    for a, b in zip(departs[sudden.sudden].tolist(), sudden.until[sudden.sudden].tolist(), strict=True):
        for n in range(max(0, int((a - begin) / BIN_S)), min(BINS, int((b - begin) / BIN_S) + 1)):
            inside = min(b, begin + (n + 1) * BIN_S) - max(a, begin + n * BIN_S)
            if inside > 0:
                squared[:, n] += can.stall**2 * inside
                effort[n] = max(effort[n], can.stall)
        first, last = (a - begin) / SAMPLE_S, (b - begin) / SAMPLE_S
        here = slice(max(0, int(first)), max(0, min(SAMPLES, int(np.ceil(last)))))
        fine[0, here], fine[1, here] = np.maximum(fine[0, here], can.stall), np.maximum(fine[1, here], can.free_speed)


def _moves(
    joint: ScoredJoint, track: Track, which: NDArray[np.int64], times: Array, speed: Array, worst: Array, rate: Array, leap: Leaps,
    motion: ScoreMotion,
) -> MoveLoads:  # fmt: skip
    """The moves numbered `which` (r,). A sudden move is given the time it takes, or until the next departs; its torque is the weight on its way, for how hard
    it speeds up is its own choice."""
    n = len(which)
    if n == 0:
        return MoveLoads.of_nothing(0)
    departs, ends = track.departs[which], track.until[which]
    first = np.minimum(times.searchsorted(departs), len(times) - 1)
    last = np.maximum(times.searchsorted(np.maximum(departs, ends - 1e-12)), first + 1)
    at = np.minimum(first[:, None] + np.arange(int((last - first).max())), last[:, None] - 1)
    rows = np.arange(n)
    torques = worst[at]
    strongest = torques.argmax(axis=1)
    most, most_at = torques[rows, strongest], times[at[rows, strongest]]
    if joint.can is None:
        return replace(MoveLoads.of_nothing(n), torque=most, torque_at=most_at, reserve_at=departs)
    tightest = rate[at].argmin(axis=1)
    where = at[rows, tightest]
    reserve, when = rate[where], times[where]
    wanted = speed[where]
    remains = np.maximum(joint.can.free_speed * (1.0 - worst[where] / joint.can.stall), 0.0)
    given = np.where(track.takes[which] > 0, track.takes[which], ends - departs)
    with np.errstate(divide="ignore", invalid="ignore"):
        least = np.where(reserve > 0, given / reserve, np.inf)
    sudden = leap.sudden
    if sudden.any():
        needs, way = leap.least, leap.way
        after = np.append(track.departs[1:], motion.length)[which] - departs
        given = np.where(
            track.takes[which] > 0, np.minimum(track.takes[which], np.maximum(after, 0.0)), np.maximum(after, 0.0)
        )
        with np.errstate(divide="ignore", invalid="ignore"):
            own = np.where(needs > 0, given / np.where(needs > 0, needs, 1.0), np.inf)
            mean = way / np.where(given > 0, given, np.inf)
            can_do = way / np.where(needs > 0, needs, np.inf)
        reserve, least = np.where(sudden, own, reserve), np.where(sudden, needs, least)
        wanted, remains = np.where(sudden, mean, wanted), np.where(sudden, can_do, remains)
        when, most_at = np.where(sudden, departs, when), np.where(sudden, departs, most_at)
        most = np.where(sudden, leap.weight, most)
    return MoveLoads(most, most_at, reserve, wanted, remains, when, least)
