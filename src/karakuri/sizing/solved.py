"""One joint solved: which class of servo through what, ranked by what it costs and weighs, of all that hold and move it."""

from __future__ import annotations

import math

import numpy as np
from msgspec.structs import replace

from karakuri.actuators.servo import capability
from karakuri.bodies.inertia import Array
from karakuri.bodies.linkages import of_form
from karakuri.course import ALONE, Course
from karakuri.frozen import Frozen
from karakuri.model.assumptions import Assumptions
from karakuri.model.drive import Actuator
from karakuri.model.joint import Joint
from karakuri.model.transmission import Direct, Gear, Lever, Transmission
from karakuri.sizing.finder import sifted, with_servo
from karakuri.sizing.tries import PlacedMove
from karakuri.sizing.wanted import judge

WHEELS = (30, 40, 50, 60, 80, 100)
"""Teeth on the joint, against 20 on the servo: common practice, no source."""
DRIVER, LEVERS, OFFERED = 20, 12, 8


class Solved(Frozen, eq=False):
    """A servo and what lies between it and the joint; reserves of holding and of the wanted move."""

    servo: Actuator
    form: Transmission
    holds: float
    moves: float

    @property
    def reserve(self) -> float:
        """The smaller of both."""
        return min(self.holds, self.moves)


def solve(
    servos: tuple[Actuator, ...], joint: Joint, lever: Lever, hold: tuple[Array, Array], placed: PlacedMove | None, friction: float,
    flat: float, supply_V: float, assumptions: Assumptions, course: Course = ALONE,
) -> tuple[Solved, ...]:  # fmt: skip
    """All that leave the wished margin, the cheapest and then the lightest first; where none does, those that leave most. hold: angles (k,) rad and the
    most to be held there (k,) N·m at the joint; friction N·m; flat rad the least angle between rod and lever. Raises GivenUp."""
    angles, most = hold
    width, worst = float(np.ptp(angles)), float(most.max(initial=0.0))
    arms = sifted(lever, joint, hold, flat, course)
    step = max(1, len(arms) // LEVERS)
    out: list[Solved] = []
    for k, servo in enumerate(servos):
        course.at(servo.name.split(",")[0], 0.8 + 0.2 * k / len(servos))
        can, travel = capability(servo, supply_V, assumptions), math.radians(servo.travel_deg)
        plain: tuple[Direct | Gear, ...] = (Direct(), *(Gear(driver=DRIVER, driven=teeth) for teeth in WHEELS))
        for form in plain:
            linkage = of_form(form)
            ratio, comes = (1.0, 1.0) if linkage is None else (form.driven / form.driver if isinstance(form, Gear) else 1.0, linkage.efficiency)  # fmt: skip
            if width * ratio > travel:
                continue
            holds = can.continuous * ratio * comes / worst if worst > 1e-9 else math.inf
            moves = math.inf
            if placed is not None:
                through = replace(placed, pull=replace(placed.pull, linkage=linkage))
                moves = judge.__wrapped__(through, can, servo.reflected_inertia_kgm2, friction).reserve
            out.append(Solved(servo, form, holds, moves))
        for arm in arms[::step]:
            if arm.travel <= travel:
                found = with_servo(arm, can, placed, servo.reflected_inertia_kgm2, friction)
                out.append(Solved(servo, arm.form, found.holds, found.moves))
    wish = assumptions.wished_margin
    good = [each for each in out if each.reserve >= wish]
    if not good:
        return tuple(sorted(out, key=lambda each: -each.reserve)[:OFFERED])
    best: dict[tuple[str, str], Solved] = {}
    for each in sorted(good, key=lambda each: (each.form.kind != "direct", -each.reserve)):
        best.setdefault((each.servo.name, each.form.kind), each)  # of each servo one of each kind
    ranked = sorted(best.values(), key=lambda each: (each.servo.price or math.inf, each.servo.mass_g, each.form.kind != "direct"))  # fmt: skip
    return tuple(ranked[:OFFERED])
