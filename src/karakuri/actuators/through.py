"""How far a servo takes its joint through a linkage, and where its middle is set."""

from __future__ import annotations

import math

import numpy as np

from karakuri.bodies.coordinates import complete, coupling
from karakuri.bodies.inertia import Array
from karakuri.bodies.linkages import shared_of
from karakuri.bodies.linkages.contract import Linkage
from karakuri.model.drive import Drive
from karakuri.model.figure import Figure
from karakuri.model.joint import Joint

MOST = 1700
KNOTS = 16
"""So many places a curve of pulses has at most."""
ALONG, STEP = 181, math.radians(0.5)


def over_range(joint: Joint, linkage: Linkage) -> tuple[Array, Array]:
    """Joint places (k,) rad over the wanted range, and where the drive stands there, (k,) rad; only those where it closes, all where it nowhere does."""
    low, high = joint.range_deg
    places = np.linspace(math.radians(low), math.radians(high), ALONG)
    there = linkage.inverse(places)
    some = there.closes if there.closes.any() else np.ones(ALONG, dtype=bool)
    return places[some], there.drive[some]


def travelled(figure: Figure, drive: Drive) -> tuple[float, float]:
    """Between which places, rad, a drive that shares joints stands, wherever these are in their wanted ranges together."""
    ids = tuple(joint.id for joint in figure.joints)
    rows = {ident: k for k, ident in enumerate(ids)}
    shared, tied = shared_of(figure, drive, rows), coupling(figure, ids)
    free = sorted({tied.leader[k] for k in shared.reads})
    each = max(3, int(MOST ** (1 / max(len(free), 1)))) | 1
    ends = [tuple(end * figure.joints[k].measure.si for end in figure.joints[k].range) for k in free]
    axes = np.meshgrid(*(np.linspace(low, high, each) for low, high in ends), indexing="ij")
    q = np.zeros((len(ids), axes[0].size if axes else 1))
    for k, values in zip(free, axes, strict=True):
        q[k] = values.ravel()
    at = shared.row(complete(tied, q)).drive
    return float(at.min()), float(at.max())


def middle_of(joint: Joint, linkage: Linkage) -> tuple[float, float]:
    """The drive's middle, rad, set halfway between what the wanted range asks of it, and the joint's place there, rad."""
    places, drive = over_range(joint, linkage)
    centre = 0.5 * float(drive.min() + drive.max())
    k = int(np.abs(drive - centre).argmin())
    slope = float(linkage.inverse(places[k : k + 1]).ratio[0])
    near = float(places[k]) + (centre - float(drive[k])) / slope if abs(slope) > 0.05 else float(places[k])
    return centre, min(max(near, float(places[0])), float(places[-1]))


def reach(joint: Joint, travel: float, linkage: Linkage) -> tuple[float, float, float]:
    """The joint's places, rad, that a drive with so much travel, rad, reaches: low end, middle and high end; it stops short of where the linkage
    does not close or turns over."""
    centre, middle = middle_of(joint, linkage)
    way = float(linkage.inverse(np.array([middle])).ratio[0])
    ends = []
    for side in (-1.0, 1.0):
        places = middle + side * STEP * np.arange(1.0 + math.pi / STEP)
        there = linkage.inverse(places)
        off = np.abs(there.drive - centre)
        good = there.closes & (there.ratio * way > 0) & (off <= travel / 2 + 1e-9)
        k = len(places) if good.all() else int(good.argmin())
        end = float(places[max(k - 1, 0)])
        if 0 < k < len(places) and there.closes[k] and there.ratio[k] * way > 0:
            end += side * STEP * float((travel / 2 - off[k - 1]) / max(off[k] - off[k - 1], 1e-12))
        ends.append(end)
    return ends[0], middle, ends[1]
