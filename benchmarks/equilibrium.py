"""Three free joints with springs across them, let go: how long until they are at rest."""

from __future__ import annotations

from collections.abc import Iterator

from benchmarks.timing import slowness, spread, timed

PROMISE = "three free joints at rest within 5 ms"


def measure(smoke: bool) -> Iterator[str]:
    import numpy as np

    from karakuri.bodies.tree import build_tree
    from karakuri.mechanics.equilibrium import equilibrium
    from karakuri.model.element import Torsion
    from karakuri.model.figure import Figure
    from karakuri.model.joint import Joint
    from karakuri.model.part import Part

    joints, parts, springs, under = [], [], [], "base"
    for k in range(3):
        joints.append(Joint(id=f"j{k}", name=f"j{k}", rides_on=under, role="free", axis=((0.0, 1.0, 0.0), (1.0, 0.0, 0.0))[k % 2], at_mm=(0.0, 0.0, -80.0 * k), range_deg=(-170.0, 170.0)))  # fmt: skip
        parts.append(
            Part(id=f"p{k}", name=f"p{k}", rides_on=f"j{k}", mass_g=200.0, at_mm=(20.0, 10.0, -80.0 * k - 50.0))
        )
        springs.append(Torsion(id=f"s{k}", name=f"s{k}", joint=f"j{k}", rate_Nm_per_deg=0.002, free_deg=15.0))
        under = f"j{k}"
    tree = build_tree(Figure(joints=tuple(joints), parts=tuple(parts), elements=tuple(springs)))
    gravity, rng = np.array([0.0, 0.0, -9.80665]), np.random.default_rng(1)
    for name, wide in (("from near", 0.05), ("from anywhere", 2.5)):
        starts = [rng.uniform(-wide, wide, (3, 1)) + tree.rest[:, None] for _ in range(5 if smoke else 60)]
        near = equilibrium(tree, tree.rest[:, None], gravity).q if wide < 1 else 0.0
        equilibrium(tree, starts[0], gravity)
        took = [(slowness(), timed(lambda q=near + q: equilibrium(tree, q, gravity))) for q in starts]
        yield spread(f"let go {name}", [t for _, t in took], [s for s, _ in took])
