"""How far a joint may go: its stops less tolerance and overshoot, and what its servo can turn."""

from __future__ import annotations

import math

from msgspec.structs import replace

from karakuri.actuators.through import reach
from karakuri.bodies.coordinates import led
from karakuri.bodies.linkages import linkage_of
from karakuri.bodies.tree import Tree
from karakuri.model.assumptions import Assumptions
from karakuri.model.drive import Drive
from karakuri.model.figure import Figure
from karakuri.model.joint import Joint
from karakuri.model.record import Calibration


def room(joint: Joint, assumptions: Assumptions) -> float:
    """What must be kept between the wanted range and a stop, rad: tolerance + overshoot."""
    return math.radians(joint.stop_tolerance_deg + assumptions.overshoot_deg)


def allowed_range(joint: Joint, assumptions: Assumptions) -> tuple[float, float] | None:
    """The widest wanted range, rad, that keeps the room to both stops; None where the stops are not measured."""
    if joint.stops_deg is None:
        return None
    low, high = (math.radians(s) for s in joint.stops_deg)
    return low + room(joint, assumptions), high - room(joint, assumptions)


def run_past(figure: Figure, tree: Tree) -> Tree:
    """The tree with ranges, rad, as far as driven turning joints come when they run past the ends of the wanted ones: by the overshoot, but not beyond a stop
    that is measured, and by how much that may be off; followers are taken along."""
    low, high, by = tree.low.copy(), tree.high.copy(), math.radians(figure.assumptions.overshoot_deg)
    for j, joint in enumerate(figure.joint(ident) for ident in tree.ids):
        if joint.role == "driven" and joint.kind == "turn" and low[j] < high[j]:
            stops, off = joint.stops_deg or (-math.inf, math.inf), joint.stop_tolerance_deg
            least, most = math.radians(stops[0] - off), math.radians(stops[1] + off)
            low[j], high[j] = min(low[j], max(low[j] - by, least)), max(high[j], min(high[j] + by, most))
    low, high = led(tree.coupling, low, high)
    return replace(tree, low=low, high=high)


def stop_reserves(joint: Joint, assumptions: Assumptions) -> tuple[float, float] | None:
    """At the low and the high end: (distance from wanted range to stop, rad) ÷ (tolerance + overshoot, rad)."""
    if joint.stops_deg is None:
        return None
    keep = room(joint, assumptions)
    low = math.radians(joint.range_deg[0] - joint.stops_deg[0])
    high = math.radians(joint.stops_deg[1] - joint.range_deg[1])
    if keep <= 0:
        return (math.inf if low >= 0 else 0.0, math.inf if high >= 0 else 0.0)
    return low / keep, high / keep


def clear_range(joint: Joint, calibration: Calibration | None) -> tuple[float, float] | None:
    """Angles, rad, between which nothing grinds, as calibrated; None where the stops themselves are measured, or nothing is."""
    if joint.stops_deg is not None or calibration is None:
        return None
    return math.radians(calibration.angles_deg[0]), math.radians(calibration.angles_deg[2])


def servo_ends(figure: Figure, joint: Joint, drive: Drive) -> tuple[float, float]:
    """Joint angles, rad, that a servo reaches: as calibrated, else with its middle set to the middle of what the wanted range asks of it."""
    calibration = figure.calibration_of(drive.id)
    if calibration is not None:
        return math.radians(calibration.angles_deg[0]), math.radians(calibration.angles_deg[2])
    travel, linkage = math.radians(drive.actuator.travel_deg), linkage_of(figure, drive)
    if linkage is not None:
        low, _, high = reach(joint, travel, linkage)
        return low, high
    middle = math.radians(sum(joint.range_deg) / 2)
    return middle - travel / 2, middle + travel / 2
