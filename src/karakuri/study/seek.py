"""What is looked for by trying: horn, rod and lever for a joint; how large a figure may get."""

from __future__ import annotations

import math

import numpy as np

from karakuri.actuators.servo import capability
from karakuri.bodies.blocks import blocks
from karakuri.bodies.cut import unladen
from karakuri.bodies.inertia import Array
from karakuri.bodies.linkages import linkage_of, shares
from karakuri.bodies.linkages.contract import Linkage
from karakuri.bodies.solids import solid_of
from karakuri.checks.contract import Results
from karakuri.checks.gearing import LEAST_ANGLE
from karakuri.course import ALONE, Course
from karakuri.frozen import Frozen
from karakuri.limits.travel import run_past
from karakuri.mechanics.pairs import place_of
from karakuri.mechanics.spare import Spare, spare
from karakuri.model.drive import Actuator, Drive
from karakuri.model.edit import Edit, Set, apply
from karakuri.model.edits import fit_servo
from karakuri.model.figure import Figure
from karakuri.model.finding import Finding
from karakuri.model.joint import Joint, Support
from karakuri.model.room import Room
from karakuri.model.transmission import Ball, Lever
from karakuri.model.transmission_edits import USUAL_MM, apart_mm, put_transmission
from karakuri.sizing.finder import PLACES, Fitted, find, hardest
from karakuri.sizing.scaled import scaled
from karakuri.sizing.solved import Solved, solve
from karakuri.study.study import study


def levers(results: Results, joint_id: str, course: Course = ALONE) -> tuple[Fitted, ...]:
    """The best few for a joint whose servo has a lever, or a rod with ball ends over it alone, already, which says how far apart both shafts are and which holes there are; angles in rad.
    Empty where none would do. Raises GivenUp."""
    figure, r = results.figure, results.of(joint_id)
    drive = figure.drive_of(joint_id)
    form = drive.transmission if drive is not None else None
    if drive is None or not isinstance(form, Lever | Ball) or shares(figure, drive) != (joint_id,):
        return ()  # a rod over several joints is judged by all of them: there is no one best

    def made(tried: Lever | Ball) -> Linkage:
        linkage = linkage_of(figure, Drive(**(dict(drive) | {"transmission": tried})))
        assert linkage is not None
        return linkage

    angles = _angles(r.joint)
    course.at("what it must hold over its range", 0.0)
    most = hardest(results.tree, r.index, angles, results.gravities)
    servo = drive.acting(figure.assumptions.together_share)
    can = capability(servo, figure.supply.voltage_V, figure.assumptions)
    rubs = r.rubs
    return find(
        form, r.joint, (angles, most), can, math.radians(drive.actuator.travel_deg), LEAST_ANGLE, r.placed,
        servo.reflected_inertia_kgm2, rubs, course, made,
    )  # fmt: skip


def solved(results: Results, joint_id: str, servos: tuple[Actuator, ...], course: Course = ALONE) -> tuple[Solved, ...]:
    """Which servo through what for a joint; angles in rad, the servo that it has now is left out of what is carried as it is. Raises GivenUp."""
    figure, r = results.figure, results.of(joint_id)
    drive = figure.drive_of(joint_id)
    form = drive.transmission if drive is not None else None
    apart = apart_mm(figure, drive) if drive is not None else USUAL_MM
    lever = (
        form if isinstance(form, Lever) else Lever(axes_mm=apart, lever_deg=round(90.0 - sum(r.joint.range_deg) / 2, 1))
    )
    angles = _angles(r.joint)
    course.at("what it must hold over its range", 0.0)
    most = hardest(results.tree, r.index, angles, results.gravities)
    rubs = r.rubs
    return solve(
        servos,
        r.joint,
        lever,
        (angles, most),
        r.placed,
        rubs,
        LEAST_ANGLE,
        figure.supply.voltage_V,
        figure.assumptions,
        course,
    )


def _angles(joint: Joint) -> Array:
    low, high = joint.range_deg
    return np.linspace(math.radians(low), math.radians(high), PLACES)


def put_in(figure: Figure, joint_id: str, found: Solved) -> Edit:
    """Fit what was found: the servo, and what lies between, as one step; where it is no longer the servo's shaft that carries the joint, a bush."""
    fitted = apply(figure, fit_servo(figure, joint_id, found.servo))
    drive, joint = fitted.drive_of(joint_id), figure.joint(joint_id)
    assert drive is not None
    steps = [*fit_servo(figure, joint_id, found.servo).steps, Set(("drives", drive.id, "transmission"), found.form)]
    if found.form.kind != "direct" and joint.support.kind == "spline":
        steps.append(Set(("joints", joint_id, "support"), Support(kind="bush")))
    return Edit(f"{found.servo.name.split(',')[0]} for {joint.name}", tuple(steps))


class Largest(Frozen):
    """To how many per cent it may grow, or must shrink, for its drives and its stand to bear it; `decides` is what fails a step beyond."""

    percent: float
    decides: Finding | None


STEPS, FIRST, LAST = 9, 30.0, 300.0
BORNE = frozenset(
    {"hold", "move", "shaft", "linkage", "tipping", "travel", "actuators", "rods", "toofast", "effort", "heat"}
)
"""Rules that tell whether it can bear itself."""


def largest(figure: Figure, joint_id: str, course: Course = ALONE) -> Largest | None:
    """By halving between FIRST and LAST per cent, in whole per cents, each size studied anew; None where even the smallest does not bear itself, or
    something is not known yet. Raises GivenUp."""

    def fails(percent: float) -> Finding | None:
        found = study(apply(figure, scaled(figure, percent, joint_id))).findings
        return next((f for f in found if f.rule in BORNE and f.verdict in ("fails", "not yet judged")), None)

    if fails(FIRST) is not None:
        return None
    low, high, decides = FIRST, LAST, fails(LAST)
    if decides is None:
        return Largest(LAST, None)
    for k in range(STEPS):
        course.at(f"between {low:.0f} and {high:.0f} per cent", k / STEPS)
        middle = round((low + high) / 2)
        if middle in (low, high):
            break
        found = fails(middle)
        low, high, decides = (middle, high, decides) if found is None else (low, middle, found)
    return Largest(low, decides)


def taken(figure: Figure, joint_id: str, found: Fitted) -> Edit:
    """Put in what was found. Raises StopIteration where the joint has no servo any more."""
    return put_transmission(figure, joint_id, found.form)


def room_left(results: Results, part_id: str, course: Course = ALONE) -> tuple[Spare, ...] | None:
    """What still goes into a hollow part, m, by height from its bottom; None where it is not hollow, or its inside is not known. Raises GivenUp."""
    figure, every = results.figure, blocks(results.figure)
    gap = (figure.room or Room()).gap_mm / 1e3
    rows = [(part, solid_of(part, place_of(results.tree, part.rides_on))) for part in every]
    solids = [(part, solid) for part, solid in rows if solid is not None]
    shell = next((k for k, (part, _) in enumerate(solids) if part.id == part_id), None)
    if shell is None or solids[shell][1].cavity is None:
        return None
    course.at("room that is left", 0.0)
    tree = unladen(run_past(figure, results.tree))
    return spare(tree, [solid for _, solid in solids], shell, gap, course)
