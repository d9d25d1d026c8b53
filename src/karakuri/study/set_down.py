"""What starters set down, with servos that hold: each the smallest class that does, studied until nothing changes any more."""

from __future__ import annotations

import math

from karakuri.catalogue import servo_classes
from karakuri.checks.contract import STALLS, JointResults
from karakuri.course import ALONE, Course
from karakuri.model.drive import Actuator
from karakuri.model.edit import Edit, Set, apply
from karakuri.model.figure import Figure
from karakuri.sizing.candidates import Candidate, candidates
from karakuri.starters.composed import Asked, Down, set_down, with_servos, with_supply
from karakuri.study.reuse import Reuse
from karakuri.study.studied import Study
from karakuri.study.study import study

ROUNDS = 8
SUPPLIES_A = (1, 2, 3, 5, 8, 10, 15, 20, 30, 40, 60)
"""Supplies as they are sold: common practice, no source."""
OF_A_SERVO = frozenset({"shaft", "linkage", "travel", "rods", "shakes"})
"""Rules besides holding and moving that a larger class may cure."""


def fitted(figure: Figure, asked: Asked, course: Course = ALONE) -> tuple[Down, Study]:
    """The edit, in mm, and the study of the figure with it. A class only grows from round to round, since what carries it grows with it. Raises GivenUp."""
    down, reuse = set_down(figure, asked), Reuse()
    for k in range(ROUNDS):
        course.at("servos that hold", k / (ROUNDS + 1))
        found = study(_as_borne(apply(figure, down.edit)), reuse, course=course)
        larger = [pick for ident in down.drives if (pick := _larger(found, ident)) is not None]
        if not larger:
            break
        down = with_servos(down, larger)
    stalls = found.results[STALLS]
    if asked.feeds and stalls is not None and stalls.total > 0:
        least = stalls.total * figure.assumptions.wished_margin
        down = with_supply(down, next((float(amps) for amps in SUPPLIES_A if amps >= least), math.ceil(least)))
    course.at("all of it", ROUNDS / (ROUNDS + 1))
    return down, study(apply(figure, down.edit), reuse, course=course)


def _as_borne(figure: Figure) -> Figure:
    """A worn figure as its servos feel it, standing as its wearer carries it: what the wearer feels takes longer and chooses no servo."""
    if figure.base.held != "worn":
        return figure
    steps = (Set(("postures",), figure.stances), Set(("base", "held"), "fixed"))
    return apply(figure, Edit("as its servos feel it", steps))


def _larger(found: Study, drive_id: str) -> tuple[str, Actuator] | None:
    """A larger class for a drive, where its own does not do; None where it does, or none is larger."""
    figure = found.figure
    drive = next(each for each in figure.drives if each.id == drive_id)
    r: JointResults | None = next((each for each in found.results.joints if each.joint.id == drive.joint), None)
    if r is None or r.opens:
        return None
    bad = any(
        finding.verdict == "fails" and finding.subject.id == drive.joint and finding.rule in OF_A_SERVO
        for finding in found.findings
    )
    fit = figure.assumptions
    rows = candidates(servo_classes(), r.rubs, r.hold, r.placed, figure.supply.voltage_V, fit, drive.actuator, ())
    own = next(row for row in rows if row.fitted)
    stronger = [row for row in rows if row.servo.torque_Nm > drive.actuator.torque_Nm]
    if (own.verdict == "holds" and not bad) or not stronger:
        return None
    if own.verdict == "holds":
        stronger = [row for row in stronger if row.verdict == "holds"]
    for verdict in ("holds", "tight"):
        good = [row for row in stronger if row.verdict == verdict]
        if good:
            return drive_id, min(good, key=lambda row: row.servo.torque_Nm).servo
        if own.verdict == verdict:
            return None
    best = max(stronger, key=_least)
    return (drive_id, best.servo) if _least(best) > _least(own) else None


def _least(row: Candidate) -> float:
    return min(row.reserve, row.move.reserve if row.move is not None else math.inf)
