"""What a joint does after a wanted move: how far it runs past, when it rests, whether it hunts; and how it slams when power comes on."""

from __future__ import annotations

import math

import numpy as np
from msgspec.structs import replace

from karakuri.actuators.position_loop import FRAME_S, Answer, Pulsed, Train, answer
from karakuri.actuators.servo import Capability
from karakuri.bodies.inertia import Array
from karakuri.frozen import Frozen
from karakuri.model.assumptions import Assumptions
from karakuri.model.drive import Drive
from karakuri.model.profiles import DESCRIBED, ProfileKind
from karakuri.motion.profiles import PROFILES
from karakuri.sizing.drag import Dragging
from karakuri.sizing.geared import Geared
from karakuri.sizing.give import give_of
from karakuri.sizing.hold import Hold

PATH_EACH = 4
"""So many steps lie between two places that are kept to be drawn."""
SEEN_MOST = 3.0
"""However near to its axis all is that a joint carries, so many times what is seen elsewhere is seen: of some parts nobody said the size."""
HELPED_MOST = 0.9
"""What pulls counts up to this share of stall: beyond it cannot be held at all, which another rule tells."""
CLEARLY = 6.0
"""By so many times past what is seen, or short of it, no other band and no other load makes another verdict: common practice, no source."""
BANDS = (0.6, 2.0)
"""A band may be so many times as wide as assumed: common practice, no source."""


class Told(Frozen):
    """How a move is told: by rad in time s on a profile of `kind` with its number `shape`; 'sudden' at once."""

    by: float
    time: float
    kind: ProfileKind
    shape: float

    def frames(self) -> Array:
        """(k,) rad, frame by frame."""
        if not DESCRIBED[self.kind].timed:
            at_once: Array = np.array([self.by])
            return at_once
        n = max(math.ceil(self.time / FRAME_S), 1)
        t, one = np.arange(1.0, n + 1) * FRAME_S, np.ones(n)
        at: Array = PROFILES[self.kind].run(t, one * self.time, one * self.by, 0.0 * one, one * self.shape)[0]
        return at


class Shaking(Frozen, eq=False):
    """The worst of the loads a move may end under: its train and its answer, of its places one in PATH_EACH; `past` rad and the same with the narrowest and widest band,
    None where that is clear;
    `rested` s until it stays within `visible` rad;
    `rim` m from its axis to its farthest point; `slam` rad/s, the top speed of the longest way that power coming on may send it."""

    train: Train
    answer: Answer
    told: Told
    past: float
    past_bounds: tuple[float, float] | None
    rested: float
    visible: float
    rim: float
    slam: float

    @property
    def hunts(self) -> bool:
        """Whether it never comes to rest, and what goes on does not die away."""
        return not self.answer.rests and not self.answer.dies


class Through(Frozen):
    """How a servo has hold of its joint where a move ends: ratio, drive rad for joint rad without sign; what comes through; slack rad at the joint."""

    ratio: float = 1.0
    efficiency: float = 1.0
    slack: float = 0.0


def through_of(geared: Geared | None) -> Through:
    """Of all places, rad, of the wanted range, at any of which a move may end, the one where the servo has least hold."""
    if geared is None:
        return Through()
    k = int(np.abs(geared.ratio).argmin())
    return Through(geared.ratios[0], geared.efficiency, float(geared.slack[k]))


def train_of(
    drive: Drive, can: Capability, inertia: float, drag: Dragging | None, known: Assumptions, through: Through
) -> Train:
    """A drive and what it turns, kg·m², as it would be with its servo on the joint itself: through a linkage it is stronger, slower and stiffer by the
    ratio there. What rubs counts at its least, for it calms."""
    give, servo, own = give_of(drive), drive.acting(1.0), drive.loop
    pulsed = None
    if own is not None:
        pulsed = Pulsed(own.on_ms / 1e3, own.off_ms / 1e3, math.radians(own.dead_deg) / through.ratio, math.radians(own.turn_deg) / own.counts / through.ratio)  # fmt: skip
    ratio, stall = through.ratio, can.stall * through.ratio * through.efficiency
    return Train(
        stall, can.free_speed / ratio, servo.reflected_inertia_kgm2 * ratio**2, inertia, give.whole * ratio**2, give.outside,
        math.radians(servo.play_deg) / ratio + through.slack, math.radians(servo.dead_band_deg) / 2 / ratio,
        math.radians(known.band_deg) / ratio, known.gears_rub_share * stall,
        drag.low if drag is not None else known.bearings_rub_share * stall, 0.0, known.give_damps, pulsed,
    )  # fmt: skip


def pulls_of(held: Hold, through: Through) -> tuple[float, float]:
    """The least and the most that must be held about the joint's + axis, N·m, as the servo meets it."""
    gain = through.ratio * through.efficiency
    return held.worst.lowest * gain, held.worst.highest * gain


def shaking(
    train: Train,
    told: Told,
    pulls: tuple[float, float],
    visible: tuple[float, float],
    rim: float,
    longest_way: float,
    bounds: bool,
) -> Shaking:
    """A move of a train under anything between `pulls` N·m, the least and the most its drive must hold about + axis; longest_way rad.
    Seen is what runs past by more than `visible` rad, and by more than `visible` m at the rim, m from its axis. `bounds`: also with other bands."""
    frames, seen = told.frames(), max(visible[0], min(visible[1] / rim if rim > 1e-6 else 0.0, SEEN_MOST * visible[0]))
    most = min(max(abs(each) for each in pulls), HELPED_MOST * train.stall)
    least = 0.0 if pulls[0] <= 0 <= pulls[1] else min(min(abs(each) for each in pulls), most)
    tried, answers = [], []
    for pulled in dict.fromkeys((most, least)):
        tried.append(replace(train, pulls=pulled))
        answers.append(answer(tried[-1], frames))
        if answers[-1].past > CLEARLY * seen:  # nothing else makes that hold
            break
    worst = max(range(len(answers)), key=lambda i: (not answers[i].rests, answers[i].past))
    one, found = tried[worst], answers[worst]
    past = max(each.past for each in answers)
    off = None
    if bounds and train.pulsed is None and seen / CLEARLY < past < CLEARLY * seen:
        others = [answer(replace(one, band=one.band * factor), frames).past for factor in BANDS]
        off = (min(past, *others), max(past, *others))
    sent = answer(replace(train, pulls=most), np.array([longest_way]), longest=0.5) if longest_way > 0 else None
    thin = replace(found, places=found.places[::PATH_EACH].astype(np.float32), step=found.step * PATH_EACH)
    return Shaking(one, thin, told, past, off, found.rested(seen), seen, rim, sent.top if sent is not None else 0.0)
