"""Results of equal requests are reused. Keys are the few numbers a search depends on, never the whole figure."""

from __future__ import annotations

from collections import Counter, OrderedDict
from collections.abc import Callable, Hashable
from typing import Any, TypeVar
from weakref import WeakKeyDictionary

import numpy as np

from karakuri.actuators.servo import Capability
from karakuri.bodies.inertia import Array
from karakuri.bodies.tree import Tree
from karakuri.mechanics.worst import matter_to
from karakuri.model.joint import Joint
from karakuri.motion.track import Track
from karakuri.motion.whole import Tracks, Whole
from karakuri.sizing.playing import Player, page_key
from karakuri.sizing.wanted import profile_of

T = TypeVar("T")


class Reuse:
    """A bounded store. `made` counts, by kind, what had to be computed; `last` keeps the last worst poses to start from.

    `tried` holds the studies of edits proposed for one figure. While `trying` is true the figures studied are only proposals, and `last` stays that of the builder's own figure.
    """

    def __init__(self, most: int = 4000) -> None:
        self._kept: OrderedDict[tuple[str, Hashable], Any] = OrderedDict()
        self.tracks = Tracks()
        self._page_keys: WeakKeyDictionary[Track, dict[int, bytes]] = WeakKeyDictionary()
        self._most = most
        self.made: Counter[str] = Counter()
        self.last: dict[str, tuple[Array, ...]] = {}
        self.last_move: dict[str, Array] = {}
        self.tipped: Array | None = None
        self.trying = False
        self.tried: tuple[Any, dict[Any, Any]] = (None, {})

    def last_tipping(self, joints: int) -> Array | None:
        """The last worst pose for tipping, where it still fits the figure."""
        return self.tipped if self.tipped is not None and len(self.tipped) == joints else None

    def has(self, kind: str, key: Hashable) -> bool:
        """True where the result of this request is kept."""
        return (kind, key) in self._kept

    def get(self, kind: str, key: Hashable, make: Callable[[], T]) -> T:
        """The kept result of this request, or a new one."""
        place = (kind, key)
        if place in self._kept:
            self._kept.move_to_end(place)
            kept: T = self._kept[place]
            return kept
        self.made[kind] += 1
        made = self._kept[place] = make()
        if len(self._kept) > self._most:
            self._kept.popitem(last=False)
        return made

    def page_key(self, track: Track, page: int) -> bytes:
        """What a page takes from a track, worked out once a track."""
        known = self._page_keys.setdefault(track, {})
        if page not in known:
            known[page] = page_key(track, page)
        return known[page]


def playing_key(tree: Tree, gravities: Array, players: tuple[Player, ...], score: Whole) -> bytes:
    """All that the loads of a page depend on besides the moves in it."""
    able = [(p.can.free_speed, p.can.stall, p.can.intermittent) if p.can else (0.0, 0.0, 0.0) for p in players]
    numbers = [
        np.array([score.length, *tree.parent, *tree.slides, *score.source], dtype=float),
        np.array([(p.joint, p.channel, p.reflected, p.friction) for p in players], dtype=float).ravel(),
        np.array([x for loads in tree.coupling.loads for pair in loads for x in pair], dtype=float),
        np.array([tree.coupling.leader, tree.coupling.gain, tree.coupling.offset], dtype=float).ravel(),
        np.array(able, dtype=float).ravel(),
        score.gain, score.offset, score.rest,
        tree.axis.ravel(), tree.pivot.ravel(), tree.mass[:-1], tree.com[:-1].ravel(), tree.inertia[:-1].ravel(), gravities.ravel(),
    ]  # fmt: skip
    return np.concatenate(numbers).tobytes()


def hold_key(tree: Tree, j: int, gravities: Array) -> bytes:
    """All that joint j's worst pose depends on: its chain, what it carries, ranges and gravity."""
    rows = list(matter_to(tree, j))
    carried = sorted({i for k, _ in tree.coupling.loads[j] for i in tree.carried(k)})
    shape = np.array(
        [len(tree.ids), j, *rows, *(tree.parent[k] for k in rows), *(tree.slides[k] for k in rows)], dtype=float
    )
    return np.concatenate(
        [
            shape,
            *_coupled(tree, j, rows),
            tree.axis[rows].ravel(),
            tree.pivot[rows].ravel(),
            tree.low[rows],
            tree.high[rows],
            tree.mass[carried],
            tree.com[carried].ravel(),
            gravities.ravel(),
        ]
    ).tobytes()


def _coupled(tree: Tree, j: int, rows: list[int]) -> list[Array]:
    """How the joints `rows` follow others, and whose load joint j's drive carries besides its own."""
    tied = tree.coupling
    leaders = [tied.leader[k] for k in rows]
    return [
        np.array(leaders, dtype=float), tied.gain[rows], tied.offset[rows], tree.low[leaders], tree.high[leaders],
        np.array(tied.loads[j], dtype=float).ravel(),
    ]  # fmt: skip


def extremes_key(tree: Tree, j: int, gravities: Array) -> bytes:
    """All that joint j's bounds depend on: its worst pose's inputs, and every body it may load, with its bound."""
    carried = {i for k, _ in tree.coupling.loads[j] for i in tree.carried(k)}
    rows = [i for i, body in enumerate(tree.bodies) if body.link in carried]
    numbers = [(i, b.link, *b.at, b.mass, b.bound) for i, b in ((i, tree.bodies[i]) for i in rows)]
    return (
        hold_key(tree, j, gravities)
        + np.array([len(tree.bodies), *(x for row in numbers for x in row)], dtype=float).tobytes()
    )


def move_key(
    tree: Tree, j: int, gravities: Array, joint: Joint, can: Capability, reflected: float
) -> tuple[object, ...]:
    """All that a wanted move's worst place depends on."""
    return (hold_key(tree, j, gravities), inertia_key(tree, j), joint.move, profile_of(joint, joint.move) if joint.move else None, joint.friction_Nm, can, reflected)  # fmt: skip


def inertia_key(tree: Tree, j: int) -> bytes:
    """All that joint j's largest inertia depends on."""
    carried = sorted({i for k, _ in tree.coupling.loads[j] for i in tree.carried(k)})
    return np.concatenate(
        [
            np.array(
                [j, *carried, *(tree.parent[k] for k in carried), *(tree.slides[k] for k in carried)], dtype=float
            ),
            *_coupled(tree, j, carried),
            tree.axis[carried].ravel(),
            tree.pivot[carried].ravel(),
            tree.low[carried],
            tree.high[carried],
            tree.mass[carried],
            tree.com[carried].ravel(),
            tree.inertia[carried].ravel(),
        ]
    ).tobytes()


def tipping_key(tree: Tree, outline: Array, floor: float, gravities: Array) -> bytes:
    """All that tipping depends on."""
    return np.concatenate(
        [
            np.array([len(tree.ids), floor, *tree.parent, *tree.slides, *tree.coupling.leader], dtype=float),
            tree.coupling.gain,
            tree.coupling.offset,
            outline.ravel(),
            tree.axis.ravel(),
            tree.pivot.ravel(),
            tree.low,
            tree.high,
            tree.mass,
            tree.com.ravel(),
            gravities.ravel(),
        ]
    ).tobytes()
