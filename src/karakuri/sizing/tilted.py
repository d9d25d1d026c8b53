"""What a motion asks of what carries each joint, across its axis: where it tilts it most, and where it pulls at it most."""

from __future__ import annotations

import numpy as np
from msgspec.structs import replace

from karakuri.bodies.inertia import Array
from karakuri.bodies.tree import Tree
from karakuri.frozen import Frozen
from karakuri.mechanics.equilibrium import complete
from karakuri.mechanics.support import across_axes


class Most(Frozen):
    """The most of something: how much, N or N·m, when, s, in which posture, and how much of it standing still there asks; `of` the joint whose wanted move asks it, '' where the score does."""

    value: float
    at_s: float
    posture: int
    still: float
    of: str = ""


class Tilted(Frozen):
    """Of one joint: its tilting moment, N·m, with what its side load adds where the pivot lies off the bearing, and its side load, N."""

    moment: Most
    side: Most

    def moved_by(self, joint: str) -> Tilted:
        """The same, asked by that joint's wanted move."""
        return Tilted(replace(self.moment, of=joint), replace(self.side, of=joint))


def tilted(
    tree: Tree, offs: tuple[tuple[int, float], ...], gravities: Array, times: Array, q: Array, qd: Array, qdd: Array
) -> tuple[Tilted, ...]:
    """Of joints by row, each with how far its bearing lies from its pivot, m, at moments (n,) s, n > 0, of a motion q, qd, qdd (m, n) rad, rad/s, rad/s², under
    gravities (p, 3) m/s². What hangs is carried as it hangs at rest."""
    return tilted_in(tree, offs, gravities, times, q, qd, qdd, (len(times),))[0]


def tilted_in(
    tree: Tree, offs: tuple[tuple[int, float], ...], gravities: Array, times: Array, q: Array, qd: Array, qdd: Array, ends: tuple[int, ...]
) -> list[tuple[Tilted, ...]]:  # fmt: skip
    """The same of several motions one after the other in q, qd, qdd (m, n) rad, rad/s, rad/s², each up to one of the `ends`, none of them empty: all in one go. times (n,) s; gravities (p, 3) m/s²."""
    rows, off = [row for row, _ in offs], np.array([[off] for _, off in offs])
    begins = (0, *ends[:-1])
    out: list[list[Tilted]] = []

    def asked(q: Array, qd: Array, qdd: Array, gravities: Array) -> list[tuple[Array, Array]]:
        each = across_axes(tree, rows, q, qd, qdd, gravities)
        return [(tilt + off * side, side) for side, tilt in each]

    together = None if tree.coupling.hangs else asked(q, qd, qdd, gravities)
    for posture, gravity in enumerate(gravities):
        there = q if together is not None else complete(tree, q.copy(), gravity)
        both = together[posture] if together is not None else asked(there, qd, qdd, gravity[None])[0]
        most = np.array([[a + values[:, a:b].argmax(axis=1) for values in both] for a, b in zip(begins, ends, strict=True)])  # fmt: skip
        nothing = np.zeros((len(q), most.size))
        still = [values.reshape(len(rows), *most.shape) for values in asked(there[:, most.ravel()], nothing, nothing, gravity[None])[0]]  # fmt: skip
        found = []
        for part in range(len(ends)):
            each = []
            for i in range(len(rows)):
                moment, side = (
                    Most(float(values[i, k]), float(times[k]), posture, float(standing[i, part, n, i]))
                    for n, (values, standing) in enumerate(zip(both, still, strict=True))
                    for k in (most[part, n, i],)
                )
                each.append(Tilted(moment, side))
            found.append(each)
        out = [[*map(worse, one, other)] for one, other in zip(out, found, strict=True)] if out else found
    return [tuple(each) for each in out]


def worse(one: Tilted, other: Tilted) -> Tilted:
    """The larger of each."""
    return Tilted(max(one.moment, other.moment, key=_value), max(one.side, other.side, key=_value))


def _value(most: Most) -> float:
    return most.value
