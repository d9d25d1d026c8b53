"""Inverse dynamics: what each drive must give to move as wanted.

Recursive Newton-Euler: Luh, Walker & Paul 1980; Featherstone, Rigid Body Dynamics Algorithms, 2008, ch. 5 (from memory).
Vectorised over samples. Every link's frame is turned so that its joint's axis is z: a fixed 3 × 3 product leads from the parent's
frame to where the joint starts, and the joint itself touches two components only.
"""

from __future__ import annotations

from functools import lru_cache

import numpy as np

from karakuri.bodies.inertia import Array
from karakuri.bodies.tree import Tree


def inverse_dynamics(tree: Tree, q: Array, qd: Array, qdd: Array, gravity: Array) -> Array:
    """Drive torque (m, n), N·m about each + axis (N along it for a slide), without friction or reflected inertia.

    q, qd, qdd: (m, n) rad, rad/s, rad/s² (m … for slides); gravity (3,) m/s² in the base's frame.
    """
    return _passed_down(tree, q, qd, qdd, gravity)[0]


def thrown(tree: Tree, q: Array, qd: Array, qdd: Array) -> tuple[Array, Array]:
    """What the base has to give for the motion alone, gravity left out: force (3, n) N and moment (3, n) N·m about the datum, in the base's frame.

    q, qd, qdd: (m, n) rad, rad/s, rad/s² (m … for slides).
    """
    whole = _passed_down(tree, q, qd, qdd, np.zeros(3))[1]
    return whole[:, 0], whole[:, 1]


def borne_by(tree: Tree, q: Array, qd: Array, qdd: Array, gravity: Array) -> Array:
    """What each joint has to give for all it carries, (m, 3, 2, n): force N through, and moment N·m about its pivot, in the frame of its link whose third axis is
    the joint's (`frames` turns to it). What is strung to it is left out.

    q, qd, qdd: (m, n) rad, rad/s, rad/s² (m … for slides); gravity (3,) m/s² in the base's frame.
    """
    each = np.empty((len(q), 3, 2, q.shape[1]))
    _passed_down(tree, q, qd, qdd, gravity, each)
    return each


def _passed_down(tree: Tree, q: Array, qd: Array, qdd: Array, gravity: Array, each: Array | None = None) -> tuple[Array, Array]:  # fmt: skip
    """Drive torques (m, n), and what comes down to the base, (3, 2, n): force, and moment about the datum; what every joint gives into `each` (m, 3, 2, n)."""
    m, n = q.shape
    turned = frames(tree)
    cosines, sines = np.cos(q), np.sin(q)
    motions = [np.empty((3, 3, n)) for _ in range(m)]
    wrenches = [np.empty((3, 2, n)) for _ in range(m)]
    fixed: list[Array] = []
    arms: list[Array] = []
    for j in range(m):
        p = tree.parent[j]
        motion = motions[j]
        fixed.append(turned[j] @ (turned[p].T if p >= 0 else np.eye(3)))
        arms.append(turned[j] @ (tree.pivot[j] - tree.pivot[p]) if p >= 0 else np.zeros(3))
        if p >= 0:
            start = (fixed[j] @ motions[p].reshape(3, -1)).reshape(3, 3, n)
            _swing(start, arms[j], start[:, 2])
        else:
            start = np.zeros((3, 3, n))
            start[:, 2] = (turned[j] @ -gravity)[:, None]
        if tree.slides[j]:
            motion[:] = start
            _slide(motion, q[j], qd[j], qdd[j])
        else:
            c, s = cosines[j], sines[j]
            motion[0] = c * start[0] + s * start[1]
            motion[1] = c * start[1] - s * start[0]
            motion[2] = start[2]
            motion[0, 1] += motion[1, 0] * qd[j]
            motion[1, 1] -= motion[0, 0] * qd[j]
            motion[2, 0] += qd[j]
            motion[2, 1] += qdd[j]
        _wrench(wrenches[j], motion, tree.mass[j], turned[j] @ (tree.com[j] - tree.pivot[j]),
                turned[j] @ tree.inertia[j] @ turned[j].T)  # fmt: skip
    out, whole = np.empty((m, n)), np.zeros((3, 2, n))
    for j in reversed(range(m)):
        wrench, p = wrenches[j], tree.parent[j]
        if each is not None:
            each[j] = wrench
        out[j] = wrench[2, 0 if tree.slides[j] else 1]
        if tree.slides[j]:
            wrench[0, 1] -= q[j] * wrench[1, 0]
            wrench[1, 1] += q[j] * wrench[0, 0]
        else:
            c, s = cosines[j], sines[j]
            x = c * wrench[0] - s * wrench[1]
            wrench[1] = s * wrench[0] + c * wrench[1]
            wrench[0] = x
        if p < 0:
            down = (turned[j].T @ wrench.reshape(3, -1)).reshape(3, 2, n)
            _add_moment(down, tree.pivot[j])
            whole += down
            continue
        _add_moment(wrench, arms[j])
        wrenches[p] += (fixed[j].T @ wrench.reshape(3, -1)).reshape(3, 2, n)
    return out, whole


@lru_cache(maxsize=16)
def frames(tree: Tree) -> tuple[Array, ...]:
    """Of each joint (3, 3): from the base's frame at rest to one whose third axis is the joint's."""
    return tuple(_frame(axis) for axis in tree.axis)


def _frame(axis: Array) -> Array:
    """Rows: two directions across the unit axis, then the axis itself."""
    other = np.array([1.0, 0.0, 0.0]) if abs(axis[0]) < 0.9 else np.array([0.0, 1.0, 0.0])
    x = np.cross(other, axis)
    x /= np.linalg.norm(x)
    return np.stack([x, np.cross(axis, x), axis])


def _swing(motion: Array, r: Array, out: Array) -> None:
    """Add dw × r + w × (w × r), for a fixed r (3,), to out (3, n); motion (3, 3, n) holds w, dw and acceleration."""
    x, y, z = r
    w, dw = motion[:, 0], motion[:, 1]
    along = w[0] * x + w[1] * y + w[2] * z
    squared = w[0] * w[0] + w[1] * w[1] + w[2] * w[2]
    out[0] += dw[1] * z - dw[2] * y + w[0] * along - squared * x
    out[1] += dw[2] * x - dw[0] * z + w[1] * along - squared * y
    out[2] += dw[0] * y - dw[1] * x + w[2] * along - squared * z


def _slide(motion: Array, q: Array, qd: Array, qdd: Array) -> None:
    """A slide along z: the place q itself swings, the speed adds Coriolis' share, nothing turns."""
    w, dw, acc = motion[:, 0], motion[:, 1], motion[:, 2]
    acc[0] += 2.0 * w[1] * qd + (dw[1] + w[0] * w[2]) * q
    acc[1] += -2.0 * w[0] * qd + (-dw[0] + w[1] * w[2]) * q
    acc[2] += qdd - (w[0] * w[0] + w[1] * w[1]) * q


def _wrench(out: Array, motion: Array, mass: float, com: Array, inertia: Array) -> None:
    """Force through, and moment about, the link's pivot, into out (3, 2, n)."""
    n = motion.shape[2]
    spun = (inertia @ motion.reshape(3, -1)[:, : 2 * n]).reshape(3, 2, n)
    w, spin, turning = motion[:, 0], spun[:, 0], spun[:, 1]
    force, moment = out[:, 0], out[:, 1]
    force[:] = motion[:, 2]
    _swing(motion, com, force)
    force *= mass
    moment[0] = turning[0] + w[1] * spin[2] - w[2] * spin[1]
    moment[1] = turning[1] + w[2] * spin[0] - w[0] * spin[2]
    moment[2] = turning[2] + w[0] * spin[1] - w[1] * spin[0]
    _add_moment(out, com)


def _add_moment(wrench: Array, arm: Array) -> None:
    """Add arm (3,) × force to the moment."""
    x, y, z = arm
    force, moment = wrench[:, 0], wrench[:, 1]
    moment[0] += y * force[2] - z * force[1]
    moment[1] += z * force[0] - x * force[2]
    moment[2] += x * force[1] - y * force[0]
