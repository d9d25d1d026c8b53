"""Too fast: a move asks more speed than the drive has left under the torque of that moment."""

from __future__ import annotations

from collections.abc import Iterable

from karakuri.checks.contract import Results, torque, wished
from karakuri.checks.phrases import Law, Part, finding_id, move_proposals, parts, stronger, when, worst_per_channel
from karakuri.model.finding import Derivation, Finding, Proposal, Sentence, verdict_of
from karakuri.motion.profiles import PROFILES
from karakuri.units import Quantity


def find(results: Results) -> Iterable[Finding]:
    reserves = {part.results.index: part.played.reserve for part in parts(results)}
    for part, told in worst_per_channel(results, reserves):
        for k in told:
            yield about(part, int(k), results)


def about(part: Part, k: int, results: Results) -> Finding:
    played, can, row = part.played, part.results.can, part.channel.moves.row(k)
    assert can is not None
    reserve = float(played.reserve[k])
    asked = Quantity(float(played.asked[k]), "speed", rounding="up")
    left = Quantity(float(played.left[k]), "speed", rounding="down")
    verdict = verdict_of(reserve, wished(results))
    does = "is asked" if verdict != "fails" else "is asked too much, "
    text = f"{part.results.joint.name} {does} {{1}} at {{0}}; its servo reaches {{2}} under that load."
    need = min(can.usable * (1 - float(played.left[k]) / can.free_speed), can.usable)
    derivations = [
        Derivation(
            "Reaches under that load",
            "{0} free × (1 − {1} ÷ {2})",
            (Quantity(can.free_speed, "speed"), torque(need), torque(can.usable)),
            left,
        )
    ]
    factor = PROFILES[row.profile].peak_speed(row.shape)
    if row.profile == "sudden" and row.takes > 0:
        factor = 1.0
    if factor < 100 and row.takes > 0 and abs(part.track.speed[k]) < 1e-9:
        by = abs(float(part.track.distance[k]))
        closed = factor * by / row.takes
        if abs(closed - played.asked[k]) < 0.02 * closed:
            derivations.append(
                Derivation(
                    f"Asks at its fastest, {row.profile}",
                    f"{factor:.4g} × {{0}} ÷ {{1}}",
                    (Quantity(by, "angle"), Quantity(row.takes, "time")),
                    Quantity(float(f"{factor:.4g}") * by / row.takes, "speed", rounding="up"),
                )
            )
    return Finding(
        finding_id("toofast", part.channel, k), "toofast", part.results.joint.id, "score", verdict,
        Sentence(text, (when(float(played.reserve_at[k])), asked, left)), reserve, None, None, asked, left,
        derivations=tuple(derivations), move=(part.channel.id, k), at_s=float(played.reserve_at[k]),
    )  # fmt: skip


def propose(finding: Finding, results: Results) -> Iterable[Proposal]:
    reserve, asked = finding.reserve, finding.demand
    if reserve is None or asked is None:
        return
    law = Law(
        lambda wish: wish / max(reserve, 0.05),
        lambda wish: reserve / wish,
        lambda ratio: reserve / ratio,
        lambda kind, shape: PROFILES[kind].peak_speed(shape),
    )
    yield from move_proposals(finding, results, law)
    r = results.of(finding.subject)
    left = finding.capacity.value if finding.capacity is not None else 0.0
    load = r.can.usable * (1 - left / r.can.free_speed) if r.can is not None else 0.0
    yield from stronger(finding, results, lambda can: can.speed_at(load) / max(asked.value, 1e-9))
