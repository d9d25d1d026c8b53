"""Proposals of other holes, another rod, other wheels: what else may lie between a joint and its servo. The re-study decides which is offered."""

from __future__ import annotations

import math
from collections.abc import Iterable, Iterator

import numpy as np

from karakuri.bodies.linkages import of_form
from karakuri.checks.contract import JointResults, Results
from karakuri.mechanics.at_drive import gain_of
from karakuri.model.drive import Drive
from karakuri.model.edit import Edit, Set
from karakuri.model.finding import Proposal, Sentence
from karakuri.model.transmission import Belt, Gear, Lever
from karakuri.sizing.geared import Geared, geared
from karakuri.units import Quantity

VIA = {
    "direct": ", which others turn too", "gear": ", through its gears", "belt": ", through its belt", "lever": ", through its lever", "ball": ", through its rod",
    "bevel": ", through its wheels",
}  # fmt: skip
LEAST_ANGLE, WISHED_ANGLE = math.radians(40.0), math.radians(45.0)
"""Of a rod at its lever: below the first it binds, from the second on it does not under load (Alt 1932; Norton, Design of Machinery, 4.6; Uicker,
Theory of Machines, 40 to 45°; from memory)."""
WHEELS = (24, 30, 36, 40, 48, 50, 60, 72, 80, 90, 100, 120)
"""Teeth that wheels are often had with: common practice, no source."""
RODS, OFFERED = 61, 4


def via(r: JointResults, results: Results) -> str:
    """', through its lever' where something lies between a joint and its servo."""
    drive = results.figure.drive_of(r.joint.id)
    return VIA[drive.transmission.kind] if r.geared is not None and drive is not None else ""


def gain_at(r: JointResults, place: float) -> tuple[float, float]:
    """Ratio and what comes through with the joint at a place, rad; 1 and 1 where the servo turns it itself, or shares it with others."""
    if r.geared is None or r.geared.linkage is None:
        return 1.0, 1.0
    ratio = abs(float(r.geared.linkage.inverse(np.array([place])).ratio[0]))
    return ratio, r.geared.efficiency


def _tried(r: JointResults, drive: Drive, form: Gear | Belt | Lever) -> Geared | None:
    """Another transmission over the joint's range; None where it does not close, turns over, lies too flat or asks for more than the servo turns."""
    linkage = of_form(form)
    assert linkage is not None
    found = geared(linkage, r.joint, 0.0, 0.0)
    fits = found.travel <= math.radians(drive.actuator.travel_deg) and found.turns_over is None
    return found if found.shut and fits and found.flattest[0] >= LEAST_ANGLE else None


def _asks(r: JointResults, found: Geared) -> float:
    """What the hardest hold known would ask of the servo, N·m, at the same place of the joint."""
    at = float(r.hold.worst.pose[r.index])
    ratio, through = gain_at(r, at)
    assert found.linkage is not None
    return abs(r.hold.worst.hold) * ratio * through / float(gain_of(found.linkage, np.array([at]))[0])


def gentler(r: JointResults, results: Results) -> Iterable[Proposal]:
    """What would ask less torque of the servo that turns it: other holes, a larger wheel; the least change that should do first."""
    drive = results.figure.drive_of(r.joint.id)
    if drive is None or r.geared is None or r.geared.linkage is None or r.can is None:
        return
    need = r.hold.worst.hold
    if isinstance(drive.transmission, Lever):
        changes: Iterator[tuple[float, Gear | Belt | Lever, Sentence]] = _holes(drive.transmission)
    elif isinstance(drive.transmission, Gear):
        changes = _wheels(drive.transmission)
    else:
        return
    ranked = []
    for change, form, label in changes:
        found = _tried(r, drive, form)
        if found is not None and (asks := _asks(r, found)) < 0.999 * abs(need):
            ranked.append((asks * 1.02 > r.can.continuous, change, form, label))
    ranked.sort(key=lambda each: each[:2])
    for _, _, form, label in ranked[:OFFERED]:
        yield Proposal(_put(r, drive, form, label), label, "transmission")


def quicker(r: JointResults, results: Results) -> Iterable[Proposal]:
    """What would turn the joint farther for each turn of the servo, where that is too slow: a smaller wheel, other holes; the least change first."""
    drive = results.figure.drive_of(r.joint.id)
    if (
        drive is None
        or r.geared is None
        or r.geared.linkage is None
        or r.can is None
        or r.move is None
        or not math.isfinite(r.move.least)
    ):
        return
    form, ratio = drive.transmission, r.geared.ratios[1]
    changes: list[tuple[float, Gear | Belt | Lever, Sentence]] = []
    if isinstance(form, Lever):
        changes = list(_holes(form))
    elif isinstance(form, Gear):
        for teeth in sorted((w for w in WHEELS if w < form.driven), reverse=True):
            wheel = type(form)(**(dict(form) | {"driven": teeth}))
            changes.append((math.log(form.driven / teeth), wheel, Sentence(f"Wheel of {teeth} teeth on the joint")))
    changes.sort(key=lambda each: each[0])
    for _, other, label in changes:
        found = _tried(r, drive, other)
        if found is not None and found.ratios[1] < 0.98 * ratio and _asks(r, found) < r.can.continuous:
            yield Proposal(_put(r, drive, other, label), label, "quicker transmission")


def _put(r: JointResults, drive: Drive, form: Gear | Belt | Lever, label: Sentence) -> Edit:
    return Edit(f"{drive.transmission.kind} of {r.joint.name}", (Set(("drives", drive.id, "transmission"), form),))


def _holes(lever: Lever) -> Iterator[tuple[float, Lever, Sentence]]:
    """Other holes that there are; a rod that was measured stays."""
    horns, arms = ((*holes, now) for holes, now in ((lever.horn_holes_mm, lever.horn_mm), (lever.reachable_mm, lever.lever_mm)))  # fmt: skip
    for horn in sorted(set(horns)):
        for arm in sorted(set(arms)):
            if (horn, arm) == (lever.horn_mm, lever.lever_mm):
                continue
            words, quantities = [], list[Quantity]()
            for what, new, old in (("Horn", horn, lever.horn_mm), ("lever", arm, lever.lever_mm)):
                if new != old:
                    n = len(quantities)
                    words.append(f"{what} hole {{{n}}} instead of {{{n + 1}}}")
                    quantities += [Quantity(new / 1e3, "length"), Quantity(old / 1e3, "length")]
            text = ", ".join(words)
            form = type(lever)(**(dict(lever) | {"horn_mm": horn, "lever_mm": arm}))
            change = abs(math.log(arm / lever.lever_mm)) + abs(math.log(horn / lever.horn_mm))
            yield change, form, Sentence(text[0].upper() + text[1:], tuple(quantities))


def _wheels(gear: Gear) -> Iterator[tuple[float, Gear, Sentence]]:
    for teeth in WHEELS:
        if teeth > gear.driven:
            form = type(gear)(**(dict(gear) | {"driven": teeth}))
            yield math.log(teeth / gear.driven), form, Sentence(f"Wheel of {teeth} teeth on the joint")


def straighter(r: JointResults, results: Results) -> Iterable[Proposal]:
    """A rod, or a lever set otherwise, with which it closes and stands well to its lever all over the range."""
    drive = results.figure.drive_of(r.joint.id)
    if drive is None or not isinstance(drive.transmission, Lever):
        return
    lever, ranked = drive.transmission, []
    middle = sum(r.joint.range_deg) / 2
    for stands in (lever.lever_deg, 90.0 - middle, -90.0 - middle):
        for share in np.linspace(0.4, 1.6, RODS).tolist():
            rod = round(share * lever.axes_mm, 1)
            if rod < 0.01:
                continue
            form = type(lever)(**(dict(lever) | {"rod_mm": rod, "lever_deg": round(stands, 1)}))
            found = _tried(r, drive, form)
            if found is not None:
                turned = stands != lever.lever_deg
                ranked.append((found.flattest[0] < WISHED_ANGLE, turned, -found.flattest[0], form, rod, stands))
    ranked.sort(key=lambda each: each[:3])
    for _, turned, _, form, rod, stands in ranked[:1]:
        quantities = (Quantity(rod / 1e3, "length"), Quantity(math.radians(stands), "angle"))
        label = Sentence("Rod {0} long, lever at {1}" if turned else "Rod {0} long", quantities)
        yield Proposal(_put(r, drive, form, label), label, "rod")
