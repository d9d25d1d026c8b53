"""What of a tree one joint's drive feels, cut out of the whole: an analysis that is given only this can depend on nothing else."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from functools import lru_cache

import numpy as np
from msgspec.structs import replace

from karakuri.bodies.coordinates import Coupling, complete
from karakuri.bodies.elements.contract import Load
from karakuri.bodies.inertia import Array
from karakuri.bodies.tree import Tree
from karakuri.frozen import Frozen


class Cut(Frozen, eq=False):
    """`tree` of the joints `rows` alone, in which the joint is number `j`; `bodies` are those whose weight it feels, by their places in
    the whole, `sources` these and the loads it works against. Masses it does not feel are nothing there, names are blank; of what carries
    it only the directions matter, so that the places of those pivots are nothing too, where nothing is strung across and nothing goes along."""

    whole: Tree
    tree: Tree
    rows: tuple[int, ...]
    j: int
    bodies: tuple[int, ...]
    sources: tuple[int, ...]

    def poses(self, rest: Array, found: Array) -> Array:
        """Poses (rows, n) rad or m of the cut as poses (m, n) of the whole, the other joints at rest (m,)."""
        out = np.repeat(rest[:, None], found.shape[1], axis=1)
        out[list(self.rows)] = found
        return complete(self.whole.coupling, out)

    def pose(self, rest: Array, found: Array) -> Array:
        """The same for one pose (rows,)."""
        out: Array = self.poses(rest, found[:, None])[:, 0]
        return out

    def inner(self, pose: Array) -> Array:
        """A pose (m,) of the whole in the cut's joints, (rows,)."""
        out: Array = pose[list(self.rows)]
        return out


@lru_cache(maxsize=256)
def matter_to(tree: Tree, j: int) -> tuple[int, ...]:
    """Every joint whose place changes what joint j's drive must hold: its chain, what it carries, all that moves an end of what pulls at
    it, and the same of what follows it and of what drives that share joints with it turn, with all that those' places depend on."""
    felt = _felt(tree, j)
    joints = {i for k in felt for i in (*tree.chains[k], *tree.below[k])}
    group = tree.group(j)
    joints |= {i for k in (group.reads if group is not None else ()) for i in tree.chains[k]}
    joints |= {i for load in pull_at(tree, j) for link in load.links if link >= 0 for i in tree.chains[link]}
    return tuple(sorted(joints))


@lru_cache(maxsize=256)
def _felt(tree: Tree, j: int) -> tuple[int, ...]:
    """Joints at which a torque counts for joint j's drive: its own, those that drives turn which share joints with it, what follows these, and what
    hangs free among all whose place matters, with what follows that: where those come to rest changes what the drive must hold."""
    tied, group = tree.coupling, tree.group(j)
    found = {k for i in (group.joints if group is not None else (j,)) for k, _ in tied.loads[i]}
    while True:
        matter = {i for k in found for i in (*tree.chains[k], *tree.below[k])}
        matter |= {
            i for k in found for load in tree.loaded[k] for link in load.links if link >= 0 for i in tree.chains[link]
        }
        more = {k for i in matter if tied.leader[i] in tied.hangs for k, _ in tied.loads[tied.leader[i]]} - found
        if not more:
            return tuple(sorted(found))
        found |= more


def pull_at(tree: Tree, j: int) -> tuple[Load, ...]:
    """The loads that joint j's drive works against, its own and by what follows it, or that decide where something hangs."""
    felt = {id(load) for k in _felt(tree, j) for load in tree.loaded[k]}
    return tuple(load for load in tree.loads if id(load) in felt)


def felt_by(tree: Tree, j: int) -> frozenset[int]:
    """Links whose mass joint j's drive feels: those that turn with it, with what follows it without a drive of its own, and with what hangs
    free where that matters."""
    return frozenset(i for k in _felt(tree, j) for i in tree.carried(k))


@lru_cache(maxsize=256)
def cut(tree: Tree, j: int) -> Cut:
    """What joint j's drive feels: the joints that matter to it and their leaders, the masses it carries, SI as in the tree."""
    matter = matter_to(tree, j)
    rows = tuple(sorted({*matter, *(tree.coupling.leader[k] for k in matter)}))
    felt = felt_by(tree, j)
    place = {k: i for i, k in enumerate(rows)} | {-1: -1}
    pick = list(rows)
    links = [*pick, len(tree.parent)]
    weighs = np.array([k in felt for k in links])
    bodies = tuple(i for i, link in enumerate(tree.body_link.tolist()) if link in felt)
    some = np.array(bodies, dtype=np.int64)
    tied, strung = tree.coupling, pull_at(tree, j)
    group = tree.group(j)
    together = (  # what carries it may speed up with it
        group is not None or sum(leader == tied.leader[j] for leader in tied.leader) > 1
    )
    loads = tuple(tuple((place[i], gain) for i, gain in tied.loads[k] if i in place) for k in rows)
    small = Tree(
        ids=("",) * len(rows),
        parent=tuple(place.get(tree.parent[k], -1) for k in rows),
        axis=tree.axis[pick],
        pivot=np.where(weighs[:-1, None] | bool(strung) | together, tree.pivot[pick], 0.0),
        slides=tuple(tree.slides[k] for k in rows),
        low=tree.low[pick],
        high=tree.high[pick],
        mass=np.where(weighs, tree.mass[links], 0.0),
        com=np.where(weighs[:, None], tree.com[links], 0.0),
        inertia=np.where(weighs[:, None, None], tree.inertia[links], 0.0),
        bodies=(),
        body_at=tree.body_at[some],
        body_link=np.array([place[int(k)] for k in tree.body_link[some]], dtype=np.int64),
        body_mass=tree.body_mass[some],
        body_bound=tree.body_bound[some],
        unknown=(),
        coupling=Coupling(
            tuple(place[tied.leader[k]] for k in rows),
            tied.gain[pick],
            tied.offset[pick],
            loads,
            tuple(place[k] for k in tied.hangs if k in place),
            tuple(place[k] for k in tied.free if k in place),
        ),
        loads=tuple(
            replace(
                load, links=tuple(place[k] for k in load.links), joint=place[load.joint] if load.turns_joint else -1
            )
            for load in strung
        ),
        linkages=tuple(tree.linkage(j) if k == j else None for k in rows) if tree.linkage(j) is not None else (),
        groups=(group.mapped(place),) if group is not None else (),
    )
    pulls = tuple(len(tree.bodies) + i for i, load in enumerate(tree.loads) if any(load is s for s in strung))
    return Cut(tree, small, rows, place[j], bodies, (*bodies, *pulls))


def loosened(tree: Tree, between: Mapping[int, tuple[float, float]]) -> Tree:
    """The tree in which what hangs may be anywhere, each joint `between` so far and so far, rad or m, or all that it can reach: nothing asks
    less there, and nothing has to be put at rest."""
    if not tree.coupling.hangs:
        return tree
    low, high = tree.low.copy(), tree.high.copy()
    for k, (a, b) in between.items():
        low[k], high[k] = max(low[k], a), min(high[k], b)
    return replace(tree, low=low, high=high, coupling=replace(tree.coupling, hangs=()))


def nameless(tree: Tree) -> Tree:
    """The tree without names and without what lies between joints and drives, kg and m as they are."""
    return replace(tree, ids=("",) * len(tree.ids), bodies=(), elements=(), unknown=(), linkages=(), groups=())


def massless(tree: Tree) -> Tree:
    """The tree as rods and strings alone, m as they are: for what does not depend on weight."""
    mass, com, inertia = (np.zeros_like(each) for each in (tree.mass, tree.com, tree.inertia))
    return replace(lumped(tree), mass=mass, com=com, inertia=inertia)


def unladen(tree: Tree) -> Tree:
    """Its joints alone, m as they are: nothing weighs, nothing pulls, nothing has a name; for where things are."""
    bare = nameless(tree)
    none, links = np.zeros((0, 3)), np.zeros(0, dtype=np.int64)
    mass, com, inertia = (np.zeros_like(each) for each in (tree.mass, tree.com, tree.inertia))
    return replace(
        bare, mass=mass, com=com, inertia=inertia, body_at=none, body_link=links, body_mass=np.zeros(0), body_bound=np.zeros(0), loads=(),
    )  # fmt: skip


def weighing(tree: Tree, rows: Sequence[int]) -> Tree:
    """The tree in which the bodies of those rows alone weigh anything, kg and m as they are; all of it where something hangs in it, for where that
    comes to rest depends on all of it."""
    if tree.coupling.hangs:
        return tree
    counts = np.zeros(len(tree.body_mass))
    counts[list(rows)] = 1.0
    mass, com, inertia = (np.zeros_like(each) for each in (tree.mass, tree.com, tree.inertia))
    return replace(
        tree, mass=mass, com=com, inertia=inertia, loads=(), elements=(), unknown=(),
        body_at=tree.body_at * counts[:, None], body_mass=tree.body_mass * counts, body_bound=tree.body_bound * counts,
    )  # fmt: skip


def lumped(tree: Tree) -> Tree:
    """The tree without names and single bodies, kg and m as they are."""
    nothing = np.zeros(0)
    return replace(
        nameless(tree), body_at=np.zeros((0, 3)), body_link=np.zeros(0, dtype=np.int64),
        body_mass=nothing, body_bound=nothing,
    )  # fmt: skip


def carried_only(tree: Tree) -> Tree:
    """The lumped tree for motion that is given: without ranges, rad and m, but of what hangs, and without what lies on the base, which no joint
    carries."""
    mass, com, inertia = tree.mass.copy(), tree.com.copy(), tree.inertia.copy()
    mass[-1], com[-1], inertia[-1] = 0.0, 0.0, 0.0
    low, high, hangs = np.full(len(tree.low), np.nan), np.full(len(tree.low), np.nan), list(tree.coupling.hangs)
    low[hangs], high[hangs] = tree.low[hangs], tree.high[hangs]
    return replace(
        lumped(tree),
        mass=mass,
        com=com,
        inertia=inertia,
        low=low,
        high=high,
        linkages=tree.linkages,
        groups=tree.groups,
    )


def unstrung(tree: Tree) -> Tree:
    """The tree as far as it decides where all is that is moved as given: what is strung matters where something hangs by it."""
    return replace(tree, loads=tree.loads if tree.coupling.hangs else (), linkages=(), groups=())


def pressing(tree: Tree) -> Tree:
    """The tree as far as it decides how it presses on the floor while all is moved as given: what is strung inside it does not, but where something hangs by it."""
    return replace(unstrung(carried_only(tree)), mass=tree.mass, com=tree.com, inertia=tree.inertia)
