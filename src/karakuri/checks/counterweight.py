"""A counterweight on the other side of an axis, for what turns there with its weight on one side."""

from __future__ import annotations

from collections.abc import Iterable

import numpy as np

from karakuri.bodies.inertia import Array
from karakuri.checks.contract import Results
from karakuri.model.edit import Add, Edit
from karakuri.model.finding import Proposal, Sentence
from karakuri.model.ids import new_id
from karakuri.model.joint import Joint
from karakuri.model.part import Part
from karakuri.units import Quantity

LEAST_ARM_MM, FINEST_G, HEAVIEST_G = 20.0, 5.0, 20_000.0


def balanced(results: Results, joint: Joint, off: Array, reach: float) -> Iterable[Proposal]:
    """As far out as what it balances reaches, m, or half as far; off (3,) kg·m what the joint carries is off its axis."""
    moment = float(np.linalg.norm(off))
    if moment < 1e-6:
        return
    way = -off / moment
    for share in (0.5, 1.0):
        arm = max(round(share * reach * 1e3), LEAST_ARM_MM)
        grams = round(moment / (arm / 1e3) * 1e3 / FINEST_G) * FINEST_G
        if not FINEST_G <= grams <= HEAVIEST_G:
            continue
        x, y, z = (round(float(p) + arm * float(v), 1) + 0.0 for p, v in zip(joint.at_mm, way, strict=True))
        growth = 1 + results.figure.assumptions.growth_percent / 100
        part = Part(
            id=new_id(results.figure, "counterweight"), name=f"counterweight of {joint.name}"[:80], rides_on=joint.id, at_mm=(x, y, z),
            mass_g=round(grams / growth, 1), mass_origin="weighed", fixed=True,
        )  # fmt: skip
        quantities = (Quantity(grams / 1e3, "mass"), Quantity(arm / 1e3, "length"))
        label = Sentence("Counterweight {0}, {1} out on the other side", quantities)
        yield Proposal(Edit(f"balance {joint.name}", (Add("parts", part),)), label, "counterweight")
