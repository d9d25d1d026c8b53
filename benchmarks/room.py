"""Room of 40 parts on 6 joints: coarse, and until all is settled; and its distances beside a library's, one pose at a time.

Run: python benchmarks/room.py
"""

from __future__ import annotations

import time

import numpy as np

from karakuri.bodies.cut import unladen
from karakuri.bodies.solids import solid_of
from karakuri.bodies.tree import build_tree
from karakuri.mechanics.apart import Frames, beside
from karakuri.mechanics.glance import glance
from karakuri.mechanics.pairs import place_of
from karakuri.mechanics.room import room
from karakuri.model.figure import Figure
from karakuri.model.joint import Joint
from karakuri.model.part import Box, Cylinder, Ellipsoid, Part
from karakuri.study.requests.room import COARSE, FINE

AXES = ((0.0, 0.0, 1.0), (0.0, 1.0, 0.0), (1.0, 0.0, 0.0))
PARTS, JOINTS = 40, 6


def crowd(seed: int, parts: int = PARTS) -> Figure:
    """A body, a neck of three axes, a jaw and two eyes, and parts about them, a few of them too near."""
    rng = np.random.default_rng(seed)
    names = ("pan", "tilt", "roll", "jaw", "left", "right")
    on = ("base", "pan", "tilt", "roll", "roll", "roll")
    at = ((0, 0, 200), (0, 0, 220), (0, 0, 240), (30, 0, 260), (60, 35, 320), (60, -35, 320))
    joints = tuple(
        Joint(id=n, name=n, rides_on=r, axis=AXES[k % 3], at_mm=p, range_deg=(-25.0, 25.0))
        for k, (n, r, p) in enumerate(zip(names, on, at, strict=True))
    )
    made = []
    for k in range(parts):
        where = ("base", *names)[k % 7]
        middle = dict(zip(names, at, strict=True)).get(where, (0, 0, 90))
        spot = tuple(float(m + o) for m, o in zip(middle, rng.uniform(-90, 90, 3), strict=True))
        size = rng.uniform(6, 30, 3)
        shape = (
            Box(size_mm=tuple(size)),
            Ellipsoid(semi_axes_mm=tuple(size / 2)),
            Cylinder(radius_mm=size[0] / 2, height_mm=size[1]),
        )[k % 3]
        made.append(Part(id=f"p{k}", name=f"part {k}", rides_on=where, shape=shape, at_mm=spot, mass_g=10))
    return Figure(joints=joints, parts=tuple(made))


def main() -> None:
    for seed in range(3):
        figure = crowd(seed)
        tree = build_tree(figure)
        solids = [solid_of(part, place_of(tree, part.rides_on)) for part in figure.parts]
        began = time.perf_counter()
        found = glance(unladen(tree), solids, frozenset(), 0.0025)
        print(
            f"seed {seed} first answer: {(time.perf_counter() - began) * 1e3:.0f} ms, {found.compared} pairs, {len(found.near)} near"
        )
        for words, budget in (("coarse", COARSE), ("fine", FINE)):
            began = time.perf_counter()
            found = room(unladen(tree), solids, frozenset(), 0.0025, budget)
            took = time.perf_counter() - began
            open_ = sum(1 for each in found.near if not each.settled and each.most >= 0.002)
            print(
                f"seed {seed} {words}: {took * 1e3:.0f} ms, {found.compared} pairs, {len(found.near)} near, {open_} not settled"
            )
    import fcl

    one, other = solids[0], solids[1]
    n = 200
    rng = np.random.default_rng(0)
    at = rng.uniform(0.1, 0.3, (n, 3))
    a, b = (
        Frames(np.broadcast_to(np.eye(3), (n, 3, 3)), np.zeros((n, 3))),
        Frames(np.broadcast_to(np.eye(3), (n, 3, 3)), at),
    )
    began = time.perf_counter()
    ours = beside(one, a, other, b).apart
    mine = time.perf_counter() - began
    bodies = [
        fcl.CollisionObject(fcl.Box(*(2 * one.half)), fcl.Transform()),
        fcl.CollisionObject(fcl.Ellipsoid(*other.half), fcl.Transform()),
    ]
    began, theirs = time.perf_counter(), []
    for k in range(n):
        bodies[1].setTransform(fcl.Transform(np.eye(3), at[k]))
        theirs.append(fcl.distance(*bodies, fcl.DistanceRequest(), fcl.DistanceResult()))
    library = time.perf_counter() - began
    print(
        f"{n} distances, box to egg: {mine / library:.2f} × the library's time, largest difference {100 * np.abs(ours / np.array(theirs) - 1).max():.2f} %"
    )


if __name__ == "__main__":
    main()
