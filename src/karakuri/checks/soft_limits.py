"""Goes past the soft limits: a move's target lies outside the wanted range, or it runs over because it was under way when it departed."""

from __future__ import annotations

import math
from collections.abc import Iterable

import numpy as np

from karakuri.checks.contract import Results
from karakuri.checks.phrases import MOST_TOLD, Part, parts, when
from karakuri.model.edit import Edit
from karakuri.model.finding import Finding, Proposal, Sentence, finding_id
from karakuri.model.ref import Ref
from karakuri.model.score_edits import change_move
from karakuri.units import Quantity

LEAST = math.radians(0.05)


def find(results: Results) -> Iterable[Finding]:
    seen: set[str] = set()
    for part in parts(results):
        if part.channel.id in seen:
            continue
        seen.add(part.channel.id)
        beyond = part.load.beyond
        out = [int(k) for k in np.argsort(-beyond) if beyond[k] > LEAST][:MOST_TOLD]
        for k in out:
            yield about(part, k)
        if not out:
            text = f"{part.results.joint.name} stays inside its soft limits all through the score."
            yield Finding(
                finding_id("softlimits", part.channel.id), "softlimits", Ref("joint", part.results.joint.id), "holds", Sentence(text),
                measure=Sentence("inside the soft limits"),
            )  # fmt: skip


def about(part: Part, k: int) -> Finding:
    """Move k of a channel, which goes past its soft limits."""
    by, at = float(part.load.beyond[k]), float(part.load.beyond_at[k])
    joint, row = part.results.joint, part.channel.moves.row(k)
    outside = row.target > joint.range_deg[1] or row.target < joint.range_deg[0]
    why = "its target lies outside" if outside else "it departs before the move ahead of it has arrived, and runs over"
    quantities = (Quantity(by, "angle", rounding="up"), when(at))
    text = f"{joint.name} goes past its soft limits by {{0}} at {{1}}: {why}. The player holds it at the edge."
    return Finding(
        finding_id("softlimits", part.channel.id, k), "softlimits", Ref("joint", joint.id), "fails", Sentence(text, quantities),
        measure=Sentence("past its limits by {0}", quantities[:1]), move=Ref("move", part.channel.id, k), at_s=at,
    )  # fmt: skip


def propose(finding: Finding, results: Results) -> Iterable[Proposal]:
    if finding.move is None or results.loads is None:
        return
    channel, k = results.figure.score.channel(finding.move.id), finding.move.number
    joint, row = results.of(finding.subject.id).joint, channel.moves.row(k)
    low, high = joint.range_deg
    clipped = min(max(row.target, low), high)
    if clipped != row.target:
        yield _changed("Go to {0} instead", Quantity(math.radians(clipped), "angle"), change_move(channel, k, "shorten a move", target=clipped), "angle")  # fmt: skip
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
    by = math.degrees(LEAST)
    for _ in range(4):
        by *= 4
        less = row.target - by if row.target > (low + high) / 2 else row.target + by
        if low <= less <= high:
            yield _changed("Go to {0} instead", Quantity(math.radians(round(less, 1)), "angle"), change_move(channel, k, "shorten a move", target=round(less, 1)), "angle")  # fmt: skip


def _changed(text: str, quantity: Quantity, changed: tuple[Edit, int], group: str) -> Proposal:
    return Proposal(Edit(changed[0].name, changed[0].steps), Sentence(text, (quantity,)), group)
