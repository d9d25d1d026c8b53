"""Inverse dynamics: what each drive must give to move as wanted.

Recursive Newton-Euler: Luh, Walker & Paul 1980; Featherstone, Rigid Body Dynamics Algorithms, 2008, ch. 5 (from memory).
Vectorised over samples, component-first; turning joints' vectors are kept in the link's own frame.
"""

from __future__ import annotations

import numpy as np

from karakuri.bodies.inertia import Array
from karakuri.bodies.tree import Tree
from karakuri.mechanics.kinematics import rotation_about


def inverse_dynamics(tree: Tree, q: Array, qd: Array, qdd: Array, gravity: Array) -> Array:
    """Drive torque (m, n), N·m about each + axis (N along it for a slide), without friction or reflected inertia.

    q, qd, qdd: (m, n) rad, rad/s, rad/s² (m … for slides); gravity (3,) m/s² in the base's frame.
    """
    m, n = q.shape
    ws: list[Array] = []
    forces: list[Array] = []
    moments: list[Array] = []
    turns: list[Array] = []
    accelerations: list[tuple[Array, Array, Array]] = []
    zero = np.zeros((3, n))
    base = (zero, zero, np.repeat(-gravity[:, None], n, axis=1))
    for j in range(m):
        p = tree.parent[j]
        w_up, dw_up, acc_up = accelerations[p] if p >= 0 else base
        offset = tree.pivot[j] - (tree.pivot[p] if p >= 0 else 0.0 * tree.pivot[j])
        acc_up = acc_up if p < 0 else acc_up + _swing(w_up, dw_up, offset)
        a = tree.axis[j]
        if tree.slides[j]:
            turn = np.empty(0)
            along = a[:, None] * qd[j]
            w, dw = w_up, dw_up
            reach = a[:, None] * q[j]
            acc = acc_up + a[:, None] * qdd[j] + 2 * _x(w, along) + _x(dw, reach) + _x(w, _x(w, reach))
        else:
            turn = rotation_about(a, q[j])
            w_in, dw_in, acc = _down(turn, w_up), _down(turn, dw_up), _down(turn, acc_up)
            rate = a[:, None] * qd[j]
            w = w_in + rate
            dw = dw_in + a[:, None] * qdd[j] + _x(w_in, rate)
        com = tree.com[j] - tree.pivot[j]
        force = tree.mass[j] * (acc + _swing(w, dw, com))
        inertia = tree.inertia[j]
        moment = inertia @ dw + _x(w, inertia @ w) + _x_fixed(com, force)
        turns.append(turn)
        ws.append(w)
        accelerations.append((w, dw, acc))
        forces.append(force)
        moments.append(moment)
    out = np.empty((m, n))
    for j in reversed(range(m)):
        a, p = tree.axis[j], tree.parent[j]
        out[j] = a @ (forces[j] if tree.slides[j] else moments[j])
        if p >= 0:
            arm = tree.pivot[j] - tree.pivot[p]
            if tree.slides[j]:
                force = forces[j]
                moment = moments[j] + _x_fixed(arm, force) + _x(a[:, None] * q[j], force)
            else:
                force = _up(turns[j], forces[j])
                moment = _up(turns[j], moments[j]) + _x_fixed(arm, force)
            forces[p] = forces[p] + force
            moments[p] = moments[p] + moment
    return out


def _x(a: Array, b: Array) -> Array:
    return np.stack((a[1] * b[2] - a[2] * b[1], a[2] * b[0] - a[0] * b[2], a[0] * b[1] - a[1] * b[0]))


def _x_fixed(a: Array, b: Array) -> Array:
    """A fixed (3,) vector × samples (3, n)."""
    x, y, z = a
    return np.stack((y * b[2] - z * b[1], z * b[0] - x * b[2], x * b[1] - y * b[0]))


def _swing(w: Array, dw: Array, r: Array) -> Array:
    """dw × r + w × (w × r) for a fixed r (3,)."""
    x, y, z = r
    wr = w[0] * x + w[1] * y + w[2] * z
    ww = w[0] * w[0] + w[1] * w[1] + w[2] * w[2]
    return np.stack(
        (
            dw[1] * z - dw[2] * y + w[0] * wr - ww * x,
            dw[2] * x - dw[0] * z + w[1] * wr - ww * y,
            dw[0] * y - dw[1] * x + w[2] * wr - ww * z,
        )
    )


def _down(r: Array, v: Array) -> Array:
    """Into the child's frame: rᵀ v."""
    return np.stack([r[0, i] * v[0] + r[1, i] * v[1] + r[2, i] * v[2] for i in range(3)])


def _up(r: Array, v: Array) -> Array:
    """Into the parent's frame: r v."""
    return np.stack([r[i, 0] * v[0] + r[i, 1] * v[1] + r[i, 2] * v[2] for i in range(3)])
