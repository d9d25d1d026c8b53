"""What lies between a joint and its servo, over the joint's wanted range: whether it closes, how far the servo turns, how it is set to the lever, what
its members bear and what play it adds."""

from __future__ import annotations

import math
from typing import Any

import numpy as np
from numpy.typing import NDArray

from karakuri.bodies.coordinates import complete
from karakuri.bodies.inertia import Array
from karakuri.bodies.linkages.contract import LEAST, Linkage
from karakuri.bodies.linkages.shared import inverted, kept_off
from karakuri.bodies.tree import Tree
from karakuri.frozen import Frozen
from karakuri.model.joint import Joint

PLACES, MOST, QUICK = 241, 1700, 300


class Geared(Frozen, eq=False):
    """At joint places (k,) rad over the wanted range: where the servo stands, (k,) rad, drive rad for joint rad with its sign, the transmission angle
    (k,) rad, whether it closes (k,), and how free the joint is, (k,) rad. `force` N, the most that its rod, teeth or belt bear while the figure stands
    still anywhere, where the joint is at `force_at` rad; `moving` N, what they bear at most in the wanted move: a bound. `grip` (k,) N·m at the drive for
    one newton on its members, of a drive that shares joints. `flaw` says what is wrong with it before anything is computed.

    Of a drive that shares joints (`linkage` None) the places are a grid of all of these, and the ratio is what a servo of its kind would have to be on
    the joint itself to hold it as stiffly as all of them do together, negative where they would turn it over."""

    linkage: Linkage | None
    efficiency: float
    even: bool
    places: Array
    drive: Array
    ratio: Array
    angle: Array
    closes: NDArray[np.bool_]
    slack: Array
    grip: Array
    force: float
    force_at: float
    moving: float = 0.0
    flaw: str = ""

    @property
    def arrays(self) -> tuple[NDArray[Any], ...]:
        """What is told at many places: it stays the same while only what is carried changes."""
        return self.places, self.drive, self.ratio, self.angle, self.closes, self.slack, self.grip

    @property
    def most(self) -> float:
        """The larger force, standing or moving, N."""
        return max(self.force, self.moving)

    def while_moving(self, torque: float) -> float:
        """What its members bear at most, N, while its servo gives a torque, N·m, with the joints anywhere: all of that torque through them. Of a drive that shares joints."""
        return float((torque * self.efficiency / np.maximum(self.grip, 1e-9)).max())

    def under(self, torque: float) -> float:
        """What its members bear at most, N, of a torque about the joint, N·m, anywhere in its range. Only where one drive turns one joint."""
        assert self.linkage is not None
        return float(self.linkage.pulls(self.places, np.full(self.places.shape, torque)).max())

    @property
    def shut(self) -> bool:
        """Whether it closes all over the wanted range."""
        return bool(self.closes.all())

    @property
    def open_at(self) -> float:
        """The first place, rad from the one that is nearest to 0 and closes, at which it does not."""
        off = np.abs(self.places[~self.closes])
        return float(self.places[~self.closes][int(off.argmin())])

    @property
    def turns_over(self) -> float | None:
        """The place, rad, of a dead point inside the range: there the lever could go either way; None where there is none."""
        k = np.flatnonzero(self.ratio[1:] * self.ratio[:-1] < 0)
        return float(self.places[k[0]]) if len(k) else None

    @property
    def travel(self) -> float:
        """How far the servo turns for the wanted range, rad."""
        return float(self.drive.max() - self.drive.min())

    @property
    def flattest(self) -> tuple[float, float]:
        """The least transmission angle and where, rad."""
        k = int(self.angle.argmin())
        return float(self.angle[k]), float(self.places[k])

    @property
    def ratios(self) -> tuple[float, float]:
        """The least and the largest ratio, without sign: drive for joint."""
        return float(np.abs(self.ratio).min()), float(np.abs(self.ratio).max())

    @property
    def play(self) -> tuple[float, float]:
        """The most that the joint is free while the servo stands, and where, rad."""
        k = int(self.slack.argmax())
        return float(self.slack[k]), float(self.places[k])


def geared(linkage: Linkage, joint: Joint, force: float, force_at: float) -> Geared:
    """A linkage over its joint's wanted range, N and rad as they were found."""
    low, high = joint.range_deg
    places = np.linspace(math.radians(low), math.radians(high), PLACES)
    there = linkage.inverse(places)
    return Geared(
        linkage, linkage.efficiency, linkage.even, places, there.drive, there.ratio, there.angle, there.closes,
        linkage.play(places), np.zeros(0), force, force_at,
    )  # fmt: skip


def geared_together(tree: Tree, j: int, most: int = MOST) -> Geared:
    """The drive of joint j, which shares joints with others, wherever all of them may be, rad, tried at up to `most` places; what its member bears, N, is not looked for. No mass
    counts."""
    group = tree.group(j)
    assert group is not None
    q = grid(tree, tuple(sorted(group.reads | set(group.joints))), most)
    rows, d = group.rows(q), group.number(j)
    own, over = rows[d], group.over(rows)
    turned = over / np.stack([kept_off(row.under, row.over) for row in rows], axis=1)[:, :, None]
    back, way = inverted(turned)[:, d, :], np.where(np.linalg.det(turned) < 0, -1.0, 1.0)
    slack = np.abs(inverted(over)[:, d, :]).T * np.stack([drive.play(q) for drive in group.drives])
    ratio = way * np.clip(1.0 / np.sqrt(np.maximum((back**2).sum(axis=1), 1e-12)), LEAST, 1.0 / LEAST)
    shared = group.drives[d]
    closes = np.all([row.closes for row in rows], axis=0)
    pulls = shared.pulls(q, np.ones(q.shape[1]))
    grip = np.abs(own.under) / np.maximum(pulls, 1e-12)
    return Geared(
        None, shared.efficiency, shared.even, q[j], own.drive, ratio, own.angle, closes, slack.sum(axis=0), grip, 0.0, 0.0,
    )  # fmt: skip


def grid(tree: Tree, rows: tuple[int, ...], most: int = MOST) -> Array:
    """Poses (m, n), rad or m, with the free ones of these joints all over their ranges together, ends and where all are at rest among them."""
    free = [k for k in rows if tree.coupling.leader[k] == k and tree.low[k] < tree.high[k]]
    each = max(3, int(most ** (1 / max(len(free), 1)))) | 1
    axes = np.meshgrid(*(np.linspace(tree.low[k], tree.high[k], each) for k in free), indexing="ij")
    q = np.repeat(tree.rest[:, None], axes[0].size + 1 if free else 1, axis=1)
    for k, values in zip(free, axes, strict=True):
        q[k, 1:] = values.ravel()
    return complete(tree.coupling, q)
