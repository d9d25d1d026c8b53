"""Proposals of another servo class: the smallest that should hold first. The re-study decides which is offered."""

from __future__ import annotations

import math
from collections.abc import Iterable

from karakuri.actuators.servo import capability
from karakuri.catalogue import servo_classes
from karakuri.checks.contract import JointResults, Results, turned, wished
from karakuri.model.drive import Actuator
from karakuri.model.edits import fit_servo, set_servos
from karakuri.model.finding import Proposal, Sentence
from karakuri.sizing.wanted import judge


def beside(r: JointResults, results: Results) -> Iterable[Proposal]:
    """A second servo of the same on the joint's other side."""
    drive = results.figure.drive_of(r.joint.id)
    if drive is not None and drive.servos == 1 and drive.actuator.stepper is None and not r.opens:
        yield Proposal(set_servos(results.figure, drive.id, 2), Sentence("A second servo beside it"), "second")


def _reserve(servo: Actuator, r: JointResults, results: Results, least: float) -> float:
    """What it would have, holding and moving; moving is only worked out where it holds with `least`."""
    can = capability(servo, results.figure.supply.voltage_V, results.figure.assumptions)
    held = r.hold.reserve(can)
    if r.placed is None or held < least:
        return held
    return min(held, judge(r.placed, can, servo.reflected_inertia_kgm2, r.rubs).reserve)


def class_proposals(r: JointResults, results: Results, smaller: bool = False) -> Iterable[Proposal]:
    """Classes in rising torque that should do on this joint; with `smaller`, only those weaker than the fitted one that hold."""
    for servo in _classes(r, results, smaller):
        yield Proposal(
            fit_servo(results.figure, r.joint.id, servo), Sentence(f"Fit {servo.name.split(',')[0]}"), "class"
        )


def smaller_holds(r: JointResults, results: Results) -> bool:
    """Whether a class weaker than the fitted one holds too."""
    return next(iter(_classes(r, results, smaller=True)), None) is not None


def _classes(r: JointResults, results: Results, smaller: bool) -> Iterable[Actuator]:
    drive, share = results.figure.drive_of(r.joint.id), results.figure.assumptions.together_share
    fitted = drive.actuator if drive is not None else None
    if r.opens:
        return
    width, least = turned(r), wished(results) if smaller else 1.0
    for servo in servo_classes():
        if smaller and (fitted is None or servo.torque_Nm >= fitted.torque_Nm * 0.999):
            return
        all_of_it = servo if drive is None else drive.of(servo, share)
        if math.radians(servo.travel_deg) < width or _reserve(all_of_it, r, results, least) < least:
            continue
        if fitted is None or servo.name != fitted.name:
            yield servo
