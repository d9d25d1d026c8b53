"""Horn, rod and lever: a planar four-bar, horn a, rod b, lever c, shaft to pivot d (Freudenstein 1955; Norton, Design of Machinery, ch. 4, from
memory). Of the lever's angle φ the rod's far end is P = (d + c cos φ, c sin φ), and the horn's θ lies where |a e(θ) − P| = b: in two ways,
of which the builder's assembly is one. Ratio and bend are the closure's own derivatives, ρ = a e(θ) − P the rod:
dθ/dφ = c ρ·e'(φ) ÷ (a ρ·e'(θ)). The transmission angle is that between rod and lever: sin µ = |ρ·e'(φ)| ÷ b.
"""

from __future__ import annotations

import math

import numpy as np

from karakuri.bodies.inertia import Array
from karakuri.bodies.linkages.contract import LEAST, Reached
from karakuri.frozen import Frozen
from karakuri.model.transmission import Lever

TYPICAL, BETWEEN = 0.93, (0.85, 0.98)
"""What comes through two rod ends and a lever's pin: common practice, no source."""
SLACK_MM = 0.15
"""Of a rod's two ends together: common practice, no source."""


class FourBar(Frozen, eq=False):
    """horn, rod, lever, apart m; stands: the lever's angle, rad, with the joint at 0; side: +1 or −1, which way the horn lies of the line from its
    shaft to the lever's hole; begins: the horn's angle, rad, with the joint at 0; slack m of the rod."""

    horn: float
    rod: float
    lever: float
    apart: float
    stands: float
    side: float
    begins: float
    slack: float
    efficiency: float
    efficiency_bounds: tuple[float, float]
    even = False

    def inverse(self, q: Array) -> Reached:
        """Where the horn stands for joint places (n,) rad."""
        lever = self.stands + q
        x, y = self.apart + self.lever * np.cos(lever), self.lever * np.sin(lever)
        far = np.maximum(np.hypot(x, y), 1e-9)
        cosine = (self.horn**2 + far**2 - self.rod**2) / (2 * self.horn * far)
        horn = np.arctan2(y, x) + self.side * np.arccos(np.clip(cosine, -1.0, 1.0))
        rod_x, rod_y = self.horn * np.cos(horn) - x, self.horn * np.sin(horn) - y
        # e'(φ) = (−sin φ, cos φ): how the rod lies along each arm's way, and along the arm
        on_lever, along_lever = (
            rod_y * np.cos(lever) - rod_x * np.sin(lever),
            rod_x * np.cos(lever) + rod_y * np.sin(lever),
        )
        on_horn, along_horn = rod_y * np.cos(horn) - rod_x * np.sin(horn), rod_x * np.cos(horn) + rod_y * np.sin(horn)
        over, under = self.lever * on_lever, self.horn * on_horn
        tiny = LEAST**2 * self.horn * self.rod
        safe = np.where(np.abs(under) < tiny, np.where(under < 0, -tiny, tiny), under)
        ratio = _bounded(over / safe)
        turned = np.cos(horn - lever)
        over_by = self.lever * (self.horn * ratio * turned - self.lever - along_lever)
        under_by = self.horn * (self.horn * ratio - self.lever * turned - along_horn * ratio)
        bend = (over_by * safe - over * under_by) / safe**2
        most = 1.0 / LEAST
        angle = np.arcsin(np.clip(np.abs(on_lever) / self.rod, 0.0, 1.0))
        return Reached(_wrapped(horn - self.begins), ratio, np.clip(bend, -most, most), angle, np.abs(cosine) <= 1.0)

    def forward(self, u: Array, near: Array) -> Array:
        """Joint places (n,) rad for horn places (n,) rad: the lever in one of two ways, the one next to `near`."""
        horn = self.begins + u
        x, y = self.horn * np.cos(horn) - self.apart, self.horn * np.sin(horn)
        far = np.maximum(np.hypot(x, y), 1e-9)
        cosine = np.clip((self.lever**2 + far**2 - self.rod**2) / (2 * self.lever * far), -1.0, 1.0)
        middle, off = np.arctan2(y, x) - self.stands, np.arccos(cosine)
        one, two = near + _wrapped(middle + off - near), near + _wrapped(middle - off - near)
        return np.where(np.abs(one - near) <= np.abs(two - near), one, two)

    def play(self, q: Array) -> Array:
        """What the rod's slack lets the lever go, rad: slack ÷ (lever × sin µ)."""
        return np.asarray(self.slack / (self.lever * np.maximum(np.sin(self.inverse(q).angle), LEAST)))

    def pulls(self, q: Array, torque: Array) -> Array:
        """What the rod bears, N: torque ÷ (lever × sin µ)."""
        return np.asarray(np.abs(torque) / (self.lever * np.maximum(np.sin(self.inverse(q).angle), LEAST)))


def linkage_of(lever: Lever) -> FourBar:
    """SI of horn, rod and lever."""
    horn, arm, apart, stands = lever.horn_mm / 1e3, lever.lever_mm / 1e3, lever.axes_mm / 1e3, lever.lever_deg
    phi = math.radians(stands)
    x, y = apart + arm * math.cos(phi), arm * math.sin(phi)
    rod = rod_m(lever)
    far = max(math.hypot(x, y), 1e-9)
    off = math.acos(min(max((horn**2 + far**2 - rod**2) / (2 * horn * far), -1.0), 1.0))
    toward = math.atan2(y, x)
    meant = -phi if lever.crossed else phi  # where a horn on the lever's side, or across from it, would stand
    side = min((1.0, -1.0), key=lambda s: abs(math.remainder(toward + s * off - meant, 2 * math.pi)))
    slack = SLACK_MM if lever.slack_mm is None else lever.slack_mm
    known = lever.efficiency
    bounds = BETWEEN if known is None else (known, known)
    return FourBar(
        horn, rod, arm, apart, phi, side, toward + side * off, slack / 1e3, TYPICAL if known is None else known, bounds
    )


def rod_m(lever: Lever) -> float:
    """The rod's length, hole to hole, m: as written, else such that the horn stands as the lever does with the joint at 0."""
    if lever.rod_mm is not None:
        return lever.rod_mm / 1e3
    phi, more = math.radians(lever.lever_deg), (lever.lever_mm - lever.horn_mm) / 1e3
    return max(math.hypot(lever.axes_mm / 1e3 + more * math.cos(phi), more * math.sin(phi)), 1e-6)


def _bounded(ratio: Array) -> Array:
    """A ratio kept off nothing and off the endless, its sign as it was."""
    return np.asarray(np.where(ratio < 0, -1.0, 1.0) * np.clip(np.abs(ratio), LEAST, 1.0 / LEAST))


def _wrapped(angle: Array) -> Array:
    """Within half a turn either way, rad."""
    return angle - 2 * math.pi * np.rint(angle / (2 * math.pi))
