"""Transmissions as mechanics computes with them: the linkages by kind, and groups of drives that share joints."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import Any

import numpy as np
from msgspec.structs import replace

from karakuri.bodies.coordinates import Coupling, coupling
from karakuri.bodies.linkages import belt, gear, lever
from karakuri.bodies.linkages.at_rest import AtRest
from karakuri.bodies.linkages.ball import BallAlone, ball_ends, between
from karakuri.bodies.linkages.bevel import bevel_wheel
from karakuri.bodies.linkages.contract import Linkage
from karakuri.bodies.linkages.shared import Group, Own, Shared
from karakuri.model.drive import Drive
from karakuri.model.figure import Figure
from karakuri.model.transmission import Ball, Bevel, Transmission

LINKAGES: dict[str, Callable[[Any], Linkage]] = {
    "gear": gear.linkage_of,
    "belt": belt.linkage_of,
    "lever": lever.linkage_of,
}


def of_form(form: Transmission) -> Linkage | None:
    """What lies between a drive and its joint, of a form that needs to know neither; None where its own shaft turns it, and for those that do."""
    return LINKAGES[form.kind](form) if form.kind in LINKAGES else None


def linkage_of(figure: Figure, drive: Drive) -> Linkage | None:
    """What lies between a drive and its joint; None where its own shaft turns it. Of one that shares joints with others: with these at rest."""
    if isinstance(drive.transmission, Ball | Bevel):
        ids = tuple(joint.id for joint in figure.joints)
        rows = {ident: k for k, ident in enumerate(ids)}
        shared = shared_of(figure, drive, rows)
        if isinstance(shared, Own):
            return shared.linkage
        rest = [min(max(0.0, joint.range[0]), joint.range[1]) * joint.measure.si for joint in figure.joints]
        return AtRest(shared, rows[drive.joint], coupling(figure, ids), np.array(rest))
    return of_form(drive.transmission)


def shares(figure: Figure, drive: Drive) -> tuple[str, ...]:
    """Ids of the joints on which a drive's place depends, its own among them where it turns it at all."""
    form = drive.transmission
    if isinstance(form, Ball):
        return tuple(joint.id for joint, _ in between(figure, drive, form))
    return (drive.joint, form.partner) if isinstance(form, Bevel) else (drive.joint,)


def together(figure: Figure, joint_id: str) -> tuple[str, ...]:
    """Ids of the joints whose drives share joints with that of this one, itself first; itself alone where it shares none."""
    ids = tuple(joint.id for joint in figure.joints)
    _, groups = linkages_of(figure, ids, coupling(figure, ids))
    group = next((group for group in groups if ids.index(joint_id) in group.joints), None)
    others = [ids[j] for j in group.joints if ids[j] != joint_id] if group is not None else []
    return (joint_id, *others)


def linkages_of(
    figure: Figure, ids: tuple[str, ...], tied: Coupling
) -> tuple[tuple[Linkage | None, ...], tuple[Group, ...]]:
    """For each joint of `ids` what lies between it and its drive alone, nothing at all where every servo turns its joint itself; and the groups of
    those that share joints, whose joints are tied so."""
    rows = {ident: k for k, ident in enumerate(ids)}
    drives = {rows[drive.joint]: drive for drive in figure.drives if figure.joint(drive.joint).kind == "turn"}
    groups = tuple(_group(figure, members, drives, rows, tied) for members in _grouped(figure, drives, rows, tied))
    shared = {j for group in groups for j in group.joints}
    alone = tuple(linkage_of(figure, drives[k]) if k in drives and k not in shared else None for k in range(len(ids)))
    return (alone if any(alone) else ()), groups


def _grouped(figure: Figure, drives: dict[int, Drive], rows: Mapping[str, int], tied: Coupling) -> list[tuple[int, ...]]:  # fmt: skip
    """Rows of driven joints that are turned together; one alone where its drive's place depends on others that nothing drives."""
    moved_by = {k: j for j in drives for k, _ in tied.loads[j]}  # each joint, by the one whose drive carries its load
    out: list[set[int]] = []
    for j, drive in drives.items():
        read = {rows[ident] for ident in shares(figure, drive)}
        if read == {j}:
            continue
        mine = {j} | {moved_by[k] for k in read if k in moved_by}
        touching = [group for group in out if group & mine]
        out = [group for group in out if not group & mine] + [mine.union(*touching)]
    return [tuple(sorted(group)) for group in out]


def _group(figure: Figure, members: tuple[int, ...], drives: dict[int, Drive], rows: Mapping[str, int], tied: Coupling) -> Group:  # fmt: skip
    each = tuple(_member(figure, drives[j], rows) for j in members)
    made = Group(members, each, tuple(tied.loads[j] for j in members), (1.0,) * len(members))
    there = made.rows(np.zeros((len(rows), 1)))
    over = made.over(there)[0]
    sense = tuple(-1.0 if over[d, d] * row.under[0] < 0 else 1.0 for d, row in enumerate(there))
    return replace(made, sense=sense)


def _member(figure: Figure, drive: Drive, rows: Mapping[str, int]) -> Shared:
    """The same in a group; a rod over its own joint alone as any rod, which is one closing of it instead of three."""
    form = drive.transmission
    if isinstance(form, Ball):
        return ball_ends(form, between(figure, drive, form), rows[drive.joint], rows)
    return shared_of(figure, drive, rows)


def shared_of(figure: Figure, drive: Drive, rows: Mapping[str, int]) -> Shared:
    """A drive as one of a group, for joints in rows known by their ids; one that turns its own joint alone is `Own`."""
    form, j = drive.transmission, rows[drive.joint]
    if isinstance(form, Ball):
        path = between(figure, drive, form)
        if [joint.id for joint, _ in path] == [drive.joint]:
            return Own(j, BallAlone(ball_ends(form, path, 0, {drive.joint: 0})))
        return ball_ends(form, path, j, rows)
    if isinstance(form, Bevel):
        carrier, wheel = sorted((drive.joint, form.partner), key=lambda ident: _depth(figure, ident))
        return bevel_wheel(form, rows[carrier], rows[wheel])
    return Own(j, of_form(form))


def _depth(figure: Figure, ident: str) -> int:
    """How many joints lie between the base and this one, itself among them."""
    parents = {joint.id: joint.rides_on for joint in figure.joints}
    count = 0
    while ident in parents:
        ident, count = parents[ident], count + 1
    return count
