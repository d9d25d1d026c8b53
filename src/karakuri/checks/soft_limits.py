"""Goes past the soft limits: a move's target lies outside the wanted range, or it runs over because it was under way when it departed."""

from __future__ import annotations

import math
from collections.abc import Iterable

import numpy as np

from karakuri.checks.contract import Results
from karakuri.checks.phrases import MOST_TOLD, when
from karakuri.model.channel import MovedChannel
from karakuri.model.edit import Edit
from karakuri.model.finding import Finding, Proposal, Sentence, finding_id
from karakuri.model.joint import Joint
from karakuri.model.ref import Ref
from karakuri.model.score_edits import change_move
from karakuri.sizing.score_loads import JointLoad
from karakuri.units import Quantity

LEAST = {"turn": math.radians(0.05), "slide": 5e-5}
"""By so much, rad or m, nothing is past a limit."""


def find(results: Results) -> Iterable[Finding]:
    loads = results.loads
    if loads is None:
        return
    for c, channel in enumerate(loads.motion.channels):
        moved = [load for load in loads.joints if load.joint.channel == c]
        if not moved:
            continue
        beyond = np.stack([load.beyond for load in moved]).max(axis=0)
        found = (of_move(results, channel, int(k)) for k in np.argsort(-beyond)[:MOST_TOLD])
        out = [finding for finding in found if finding is not None]
        yield from out
        if not out:
            joint = _leader(results, moved[0])
            text = f"{joint.name} stays inside its soft limits all through the score."
            yield Finding(
                finding_id("softlimits", channel.id), "softlimits", Ref("joint", joint.id), "holds", Sentence(text),
                measure=Sentence("inside the soft limits"),
            )  # fmt: skip


def of_move(results: Results, channel: MovedChannel, k: int) -> Finding | None:
    """What is told of move k of a channel, or None where it stays inside; of tied joints the one with the narrower range speaks."""
    loads = results.loads
    moved = [each for each in loads.joints if each.joint.channel >= 0] if loads is not None else []
    mine = [each for each in moved if loads is not None and loads.motion.channels[each.joint.channel].id == channel.id]
    if not mine:
        return None
    worst = max(mine, key=lambda each: float(each.beyond[k]))
    joint, by = _leader(results, worst), float(worst.beyond[k])
    return _about(channel, joint, k, by, float(worst.beyond_at[k])) if by > LEAST[joint.kind] else None


def _leader(results: Results, load: JointLoad) -> Joint:
    """The joint that the channel moves: a follower goes where that takes it."""
    tree = results.tree
    return results.figure.joint(tree.ids[tree.coupling.leader[load.joint.joint]])


def _about(channel: MovedChannel, joint: Joint, k: int, by: float, at: float) -> Finding:
    """Move k of a channel, which goes past the soft limits of a joint by rad or m at a time, s."""
    row = channel.moves.row(k)
    outside = row.target > joint.range[1] or row.target < joint.range[0]
    why = "its target lies outside" if outside else "it departs before the move ahead of it has arrived, and runs over"
    quantities = (Quantity(by, joint.measure.kind, rounding="up"), when(at))
    text = f"{joint.name} goes past its soft limits by {{0}} at {{1}}: {why}. The player holds it at the edge."
    return Finding(
        finding_id("softlimits", channel.id, k), "softlimits", Ref("joint", joint.id), "fails", Sentence(text, quantities),
        measure=Sentence("past its limits by {0}", quantities[:1]), move=Ref("move", channel.id, k), at_s=at,
    )  # fmt: skip


def propose(finding: Finding, results: Results) -> Iterable[Proposal]:
    if finding.move is None or results.loads is None:
        return
    channel, k = results.figure.score.moving(finding.move.id), finding.move.number
    joint, row = results.figure.joint(finding.subject.id), channel.moves.row(k)
    low, high = joint.range
    clipped = min(max(row.target, low), high)
    if clipped != row.target:
        yield _changed("Go to {0} instead", joint.measure.quantity(clipped), change_move(channel, k, "shorten a move", target=clipped), "angle")  # fmt: skip
        return
    before = channel.moves.row(k - 1) if k else row
    arrived = round(before.departs + before.takes, 3)
    if k and row.departs < arrived:
        later = change_move(channel, k, "a move later", departs=arrived)
        yield _changed("Depart at {0}, once it has arrived", Quantity(arrived, "time"), later, "later")
        takes = round(arrived - before.departs, 3)
        sooner = round(row.departs - before.departs, 3)
        if 0.02 < sooner < takes:
            quicker = change_move(channel, k - 1, "shorten the move ahead", takes=sooner)
            yield _changed("Let the move ahead take {0}", Quantity(sooner, "time"), quicker, "ahead")
        return
    by = joint.measure.written(LEAST[joint.kind])
    for _ in range(4):
        by *= 4
        less = row.target - by if row.target > (low + high) / 2 else row.target + by
        if low <= less <= high:
            yield _changed("Go to {0} instead", joint.measure.quantity(round(less, 1)), change_move(channel, k, "shorten a move", target=round(less, 1)), "angle")  # fmt: skip


def _changed(text: str, quantity: Quantity, changed: tuple[Edit, int], group: str) -> Proposal:
    return Proposal(Edit(changed[0].name, changed[0].steps), Sentence(text, (quantity,)), group)
