"""Too fast: a move asks more speed than the drive has left under the torque of that moment."""

from __future__ import annotations

import math
from collections.abc import Iterable

from karakuri.checks.contract import Results, torque, wished
from karakuri.checks.phrases import Law, Part, move_proposals, parts, stronger, when, worst_per_channel
from karakuri.model.finding import Derivation, Finding, Proposal, Sentence, finding_id, verdict_of
from karakuri.model.ref import Ref
from karakuri.motion.profiles import PROFILES
from karakuri.units import Quantity


def find(results: Results) -> Iterable[Finding]:
    reserves = {part.results.index: part.load.moves.reserve for part in parts(results)}
    for part, rows in worst_per_channel(results, reserves):
        for k in rows:
            yield about(part, int(k), results)


def about(part: Part, k: int, results: Results) -> Finding:
    """Move k of a channel: the time it is given against its least time, s."""
    load, can, row = part.load, part.results.can, part.channel.moves.row(k)
    assert can is not None
    reserve, least = float(load.moves.reserve[k]), float(load.moves.least[k])
    verdict = verdict_of(reserve, wished(results))
    leap = bool(part.track.at_once[k])
    given = Quantity(least * reserve if math.isfinite(least) else row.takes, "time", rounding="down")
    needs = Quantity(least, "time", rounding="up")
    name, at = part.results.joint.name, when(float(load.moves.reserve_at[k]))
    wanted_speed = Quantity(float(load.moves.wanted[k]), "speed", rounding="up")
    left = Quantity(float(load.moves.left[k]), "speed", rounding="down")
    if not math.isfinite(least):
        text = f"{name} cannot make the move at {{0}}: weight and friction alone are more than its servo has in passing, so no time is long enough."
    elif leap:
        text = f"{name} leaves at {{0}} as fast as it goes and is there {{2}} after it left; the next move comes {{1}} after."
    else:
        does = "keeps up" if verdict != "fails" else "cannot keep up"
        text = f"{name} {does} at {{0}}: its move is given {{1}} and needs {{2}}, by its tightest moment, {{3}} asked of it there."
    finite = math.isfinite(least)
    return Finding(
        finding_id("toofast", part.channel.id, k), "toofast", Ref("joint", part.results.joint.id), verdict,
        Sentence(text, (at, given, needs, wanted_speed)), reserve=reserve, demand=needs if finite else None, capacity=given if finite else None,
        derivations=_derivations(part, k, wanted_speed, left, given, needs, reserve, leap), move=Ref("move", part.channel.id, k),
        at_s=float(load.moves.reserve_at[k]),
    )  # fmt: skip


def _derivations(
    part: Part,
    k: int,
    wanted_speed: Quantity,
    left: Quantity,
    given: Quantity,
    needs: Quantity,
    reserve: float,
    leap: bool,
) -> tuple[Derivation, ...]:
    can, row = part.results.can, part.channel.moves.row(k)
    assert can is not None
    out = []
    if 0 < reserve < math.inf and 0 < needs.value < math.inf:
        out.append(
            Derivation(
                "Time given ÷ least time", "{0} ÷ {1}", (given, needs), Quantity(reserve, "ratio", rounding="down")
            )
        )
    if leap:
        return tuple(out)
    need = min(can.stall * (1 - left.value / can.free_speed), can.stall)
    out.append(
        Derivation(
            "Speed left under that load",
            "{0} free × (1 − {1} ÷ {2})",
            (Quantity(can.free_speed, "speed"), torque(need), torque(can.stall)),
            left,
        )
    )
    factor = PROFILES[row.profile].peak_speed(row.shape)
    by = abs(float(part.track.distance[k]))
    if factor < 100 and row.takes > 0 and abs(part.track.speed[k]) < 1e-9 and part.results.geared is None:
        closed = float(f"{factor:.4g}") * by / row.takes
        out.append(
            Derivation(
                f"Asks at its fastest, {row.profile}",
                f"{factor:.4g} × {{0}} ÷ {{1}}",
                (Quantity(by, "angle"), Quantity(row.takes, "time")),
                Quantity(closed, "speed", rounding="up"),
            )
        )
    return tuple(out)


def propose(finding: Finding, results: Results) -> Iterable[Proposal]:
    reserve = finding.reserve
    if reserve is None or finding.move is None:
        return
    law = Law(
        lambda wish: wish / reserve if reserve > 0.01 else None,
        lambda wish: min(reserve / wish, 0.95) if reserve > 0.01 else None,
        lambda ratio: reserve / ratio,
        lambda kind, shape: PROFILES[kind].peak_speed(shape),
    )
    yield from move_proposals(finding, results, law)
    yield from stronger(finding, results)
