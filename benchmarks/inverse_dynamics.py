"""Recursive Newton-Euler over 6000 samples × 12 hinges against Pinocchio's compiled rnea looped from Python, interleaved."""

from __future__ import annotations

import statistics
from collections.abc import Iterator

import numpy as np

from benchmarks.timing import timed

PROMISE = "at most 1.1 × Pinocchio's compiled rnea looped from Python; median of 21 interleaved runs"


def _pinocchio(tree):
    """The same tree as a Pinocchio model, or None where pin is not installed."""
    try:
        import pinocchio as pin
    except ImportError:
        return None, None
    model = pin.Model()
    model.gravity.linear = np.array([0.0, 0.0, -9.80665])
    ids = [0] * len(tree.ids)
    for j, name in enumerate(tree.ids):
        p = tree.parent[j]
        origin = tree.pivot[p] if p >= 0 else np.zeros(3)
        place = pin.SE3(np.eye(3), tree.pivot[j] - origin)
        joint = pin.JointModelRevoluteUnaligned(*tree.axis[j])
        ids[j] = model.addJoint(ids[p] if p >= 0 else 0, joint, place, name)
        inertia = pin.Inertia(float(tree.mass[j]), tree.com[j] - tree.pivot[j], tree.inertia[j])
        model.appendBodyToJoint(ids[j], inertia, pin.SE3.Identity())
    return pin, model


def measure(smoke: bool) -> Iterator[str]:
    from tests.figures import random_figure

    from karakuri.bodies.tree import build_tree
    from karakuri.mechanics.dynamics import inverse_dynamics
    from karakuri.model.figure import Figure
    from karakuri.model.part import Sphere

    figure = random_figure(3, 12)
    solid = tuple(
        type(p)(**(dict(p) | {"shape": Sphere(radius_mm=20.0)})) if p.shape.kind == "point" else p for p in figure.parts
    )
    tree = build_tree(Figure(**(dict(figure) | {"parts": solid})))
    samples, runs = (600, 3) if smoke else (6000, 21)
    rng = np.random.default_rng(1)
    q, qd, qdd = (rng.uniform(-1, 1, (12, samples)) for _ in range(3))
    down = np.array([0.0, 0.0, -9.80665])
    ours = lambda: inverse_dynamics(tree, q, qd, qdd, down)  # noqa: E731
    pin, model = _pinocchio(tree)
    if pin is None:
        yield f"ours {statistics.median(timed(ours) for _ in range(runs)) * 1e3:.1f} ms; pin is not installed, so no ratio (./run bench installs it)"
        return
    data, rows = model.createData(), [np.ascontiguousarray(a.T) for a in (q, qd, qdd)]

    def theirs() -> np.ndarray:
        out = np.empty((samples, 12))
        for i in range(samples):
            out[i] = pin.rnea(model, data, rows[0][i], rows[1][i], rows[2][i])
        return out

    agree = float(np.abs(theirs().T - ours()).max() / np.abs(ours()).max())
    pairs = [(timed(ours), timed(theirs)) for _ in range(runs)]
    a, b = statistics.median(p[0] for p in pairs), statistics.median(p[1] for p in pairs)
    yield f"{samples} × 12: ours {a * 1e3:.1f} ms, Pinocchio {b * 1e3:.1f} ms, ratio {a / b:.2f}; they agree to {agree:.0e}"
