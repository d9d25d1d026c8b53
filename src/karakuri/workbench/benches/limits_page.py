"""The card of a joint on the Limits bench: stops as measured, the wanted range, the servo's travel."""

from __future__ import annotations

import math

from karakuri.limits.travel import allowed_range
from karakuri.model.edits import set_field
from karakuri.model.finding import Derivation
from karakuri.model.joint import Joint
from karakuri.model.joint_edits import stop_where
from karakuri.sizing.followed import as_driven
from karakuri.units import Quantity
from karakuri.workbench.benches.bench import CAUTION, degrees
from karakuri.workbench.benches.joint_moves import rest_items
from karakuri.workbench.benches.joint_page import range_items
from karakuri.workbench.benches.pulses_page import pulse_items
from karakuri.workbench.desk import Desk
from karakuri.workbench.widgets.items import Block, Calc, Do, Head, Item, Note, Page, Write


def limits_page(desk: Desk, ident: str) -> Page:
    figure, joint = desk.figure, desk.figure.joint(ident)
    finding = desk.finding("stops", ident)
    items: list[Item] = [
        Block("v", finding, figure.assumptions.wished_margin),
        Head("hs", "Stops, as measured"),
        *stop_items(desk, joint),
    ]
    items += [
        Write(
            "tol",
            "Tolerance",
            degrees(joint.stop_tolerance_deg),
            "angle",
            lambda v: desk.edit(
                lambda: set_field(
                    desk.figure, "joints", ident, ("stop_tolerance_deg",), round(math.degrees(v), 4), "tolerance"
                )
            ),
        ),
        Head("hr", "Soft limits = wanted range"),
        *range_items(desk, joint),
        *rest_items(desk, joint),
        *_widest(desk, joint),
    ]
    if finding is not None:
        items += [Calc(f"d{i}", d) for i, d in enumerate(finding.derivations)]
    travel = desk.finding("travel", ident)
    if travel is not None:
        items += [
            Head("ht", "Servo travel"),
            Block("vt", travel, figure.assumptions.wished_margin),
            Note("nt", travel.sentence.show(desk.units)),
            *(Calc(f"t{i}", d) for i, d in enumerate(travel.derivations)),
        ]
    items += pulse_items(desk, as_driven(figure, joint))
    items += [Head("hc", "Caution"), Note("nc", CAUTION, True)]
    return Page(joint.name, f"limits · {joint.ends[0]} to {joint.ends[1]}", tuple(items), ("limits", ident))


def stop_items(desk: Desk, joint: Joint) -> list[Item]:
    def stop(which: int):
        return lambda value: desk.edit(lambda: stop_where(desk.figure, joint.id, which, round(math.degrees(value), 4)))

    items: list[Item] = [
        Write(
            f"s{i}",
            f"Stop {joint.ends[i]}",
            degrees(joint.stops_deg[i]) if joint.stops_deg else None,
            "angle",
            stop(i),
            "measure",
        )
        for i in (0, 1)
    ]
    if joint.stops_deg is None:
        items.append(
            Note(
                "ns",
                "Turn it by hand with the servo unscrewed until it touches, never through the servo's gears. Writing one stop "
                "sets the other 5° beyond the range until it is measured too.",
            )
        )
    else:
        items.append(
            Do(
                "nostops",
                "Stops not measured after all",
                lambda: desk.edit(lambda: set_field(desk.figure, "joints", joint.id, ("stops_deg",), None, "stops")),
            )
        )
    return items


def _widest(desk: Desk, joint: Joint) -> list[Item]:
    allowed = allowed_range(joint, desk.figure.assumptions)
    if allowed is None or joint.stops_deg is None:
        return [Note("nw", "The widest range that may be wanted is known once the stops are.")]
    tolerance, overshoot = (
        Quantity(math.radians(joint.stop_tolerance_deg), "angle"),
        Quantity(math.radians(desk.figure.assumptions.overshoot_deg), "angle"),
    )
    return [
        Calc(
            f"w{i}",
            Derivation(
                f"Widest {joint.ends[i]}",
                "{0} + {1} tolerance + {2} overshoot" if i == 0 else "{0} − {1} tolerance − {2} overshoot",
                (Quantity(math.radians(joint.stops_deg[i]), "angle"), tolerance, overshoot),
                Quantity(allowed[i], "angle"),
            ),
        )
        for i in (0, 1)
    ]
