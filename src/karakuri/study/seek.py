"""Horn, rod and lever looked for, for a joint of a figure that was studied."""

from __future__ import annotations

import math

import numpy as np

from karakuri.actuators.servo import capability
from karakuri.checks.contract import Results
from karakuri.checks.gearing import LEAST_ANGLE
from karakuri.course import ALONE, Course
from karakuri.model.edit import Edit
from karakuri.model.figure import Figure
from karakuri.model.transmission import Lever
from karakuri.model.transmission_edits import put_transmission
from karakuri.sizing.finder import PLACES, Fitted, find, hardest


def levers(results: Results, joint_id: str, course: Course = ALONE) -> tuple[Fitted, ...]:
    """The best few for a joint whose servo has a lever already, which says how far apart both shafts are and which holes there are; angles in rad.
    Empty where none would do. Raises GivenUp."""
    figure, r = results.figure, results.of(joint_id)
    drive = figure.drive_of(joint_id)
    if drive is None or not isinstance(drive.transmission, Lever):
        return ()
    low, high = r.joint.range_deg
    angles = np.linspace(math.radians(low), math.radians(high), PLACES)
    course.at("what it must hold over its range", 0.0)
    most = hardest(results.tree, r.index, angles, results.gravities)
    can = capability(drive.actuator, figure.supply.voltage_V, figure.assumptions)
    rubs = r.drag.value if r.drag else 0.0
    return find(
        drive.transmission, r.joint, (angles, most), can, math.radians(drive.actuator.travel_deg), LEAST_ANGLE, r.placed,
        drive.actuator.reflected_inertia_kgm2, rubs, course,
    )  # fmt: skip


def taken(figure: Figure, joint_id: str, found: Fitted) -> Edit:
    """Put in what was found. Raises StopIteration where the joint has no servo any more."""
    return put_transmission(figure, joint_id, found.form)
