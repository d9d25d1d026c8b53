"""What a ribbon's drives can go along with: how long a move of a size takes at least wherever it is made, with the wished margin to spare."""

from __future__ import annotations

import math
from collections.abc import Mapping
from typing import TYPE_CHECKING

import numpy as np

from karakuri.bodies.tree import build_tree
from karakuri.course import ALONE, Course
from karakuri.model.figure import Figure
from karakuri.model.joint import Joint, Move
from karakuri.motion.profiles import PROFILES
from karakuri.motion.voice.following import NO_LIMIT, KeepsUp
from karakuri.study.joints import gravities_of, joint_results
from karakuri.study.reuse import Reuse

if TYPE_CHECKING:
    from karakuri.checks.contract import JointResults
    from karakuri.model.channel import MovedChannel

SHARES = (0.04, 0.1, 0.25, 0.5, 0.75, 1.0)
"""Of the ribbon's band: moves so far are tried, and between them the longer time counts."""


def goes_along(figure: Figure, channel: MovedChannel, reuse: Reuse | None = None) -> KeepsUp | None:
    """How far its drives follow in how much time; None where one of them is not judged. Each move is placed where it is worst, in every
    stance; of joints that move together the slowest counts."""
    reuse = reuse if reuse is not None else Reuse()
    low, high = channel.band(figure)
    slowest = np.zeros(len(SHARES))
    for ident in channel.joints:
        joint = figure.joint(ident)
        if joint.kind != "turn":
            return None
        for k, share in enumerate(SHARES):
            least = _least(figure, joint, max(share * (high - low), 0.1), reuse)
            if least is None:
                return None
            slowest[k] = max(slowest[k], least)
    if not channel.joints:
        return None
    distances = np.maximum(np.array(SHARES) * (high - low), 0.1) * channel.measure(figure).si
    return KeepsUp(tuple(distances.tolist()), tuple(np.maximum.accumulate(slowest).tolist()))


def all_go_along(
    figure: Figure, known: Mapping[str, KeepsUp] | None = None, course: Course = ALONE
) -> dict[str, KeepsUp]:
    """How far and how fast every ribbon's drives follow, by id, s and rad or m; of those that are `known` as they are known. Raises GivenUp where `course` says
    stop."""
    found, reuse = dict(known or {}), Reuse()
    for k, channel in enumerate(figure.score.moved):
        if channel.id not in found:
            course.at(f"what {channel.name} keeps up with", k / len(figure.score.moved))
            found[channel.id] = goes_along(figure, channel, reuse) or NO_LIMIT
    return found


def _least(figure: Figure, joint: Joint, by_deg: float, reuse: Reuse) -> float | None:
    """How long a soft move of so many degrees takes at least, s, the wished margin kept; None where it is not judged."""
    asked = Joint(**(dict(joint) | {"move": Move(by=by_deg, time_s=1.0, profile="minimum jerk")}))
    other = Figure(
        **(dict(figure) | {"joints": tuple(asked if each.id == joint.id else each for each in figure.joints)})
    )
    found = joint_results(other, build_tree(other), asked, gravities_of(other), reuse)
    if found.move is None or found.can is None or found.missing:
        return None
    return _with_margin(found, figure.assumptions.wished_margin)


def _with_margin(found: JointResults, margin: float) -> float:
    """Of a move that can be made: so long that time and torque in passing both leave the margin."""
    assert found.move is not None and found.can is not None
    move, takes = found.move, found.move.least * margin
    spare = found.can.intermittent / margin - max(move.weight, 0.0) - move.friction
    if spare > 0 and math.isfinite(takes):
        takes = max(
            takes,
            math.sqrt(
                (move.inertia + move.reflected) * PROFILES["minimum jerk"].peak_acceleration(0.0) * move.by / spare
            ),
        )
    return takes
