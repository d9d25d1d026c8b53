"""A figure placed in the view's pose and posture."""

from __future__ import annotations

from collections import OrderedDict
from weakref import WeakKeyDictionary

import numpy as np

from karakuri.bodies.outline import outline
from karakuri.bodies.tree import Tree, posture_gravity, posture_rotation
from karakuri.catalogue import people
from karakuri.mechanics.kinematics import carried_mass, place
from karakuri.mechanics.statics import carried_centre, centre_of_mass
from karakuri.model.figure import Figure
from karakuri.sizing.rods import sag_in
from karakuri.sizing.strung import in_pose, swept
from karakuri.sizing.wearer import ears_of
from karakuri.workbench.desk import Desk

SCALES = (1, 1.5, 2, 2.5, 3, 3.5, 4, 5, 6, 7, 8, 9, 10, 12, 15, 20, 25, 30, 40, 50, 75, 100)


Outline = list[tuple[float, float]]
_lately: WeakKeyDictionary[Desk, tuple[tuple[object, ...], Scene]] = WeakKeyDictionary()
_outlines: OrderedDict[tuple[object, ...], tuple[object, Outline]] = OrderedDict()
MOST_OUTLINES = 2000


def scene_of(desk: Desk, figure: Figure) -> Scene:
    """The figure of a desk as it stands now; the views of one moment share it."""
    key = (figure, dict(desk.pose), desk.posture_value())
    kept = _lately.get(desk)
    if kept is None or not (kept[0][0] is figure and kept[0][1:] == key[1:]):
        kept = _lately[desk] = (key, Scene(desk, figure))
    return kept[1]


class Scene:
    """A figure placed in the view's pose and posture: everything the elevation draws, in room coordinates, m."""

    def __init__(self, desk: Desk, figure: Figure) -> None:
        self.figure = figure
        self.tree, q = desk.pose_array(figure)
        self.pose = q
        self.placed = place(self.tree, q[:, None])
        self.room = posture_rotation(desk.posture_value())
        self.gravity = posture_gravity(desk.posture_value(), figure.assumptions.gravity_mps2)
        self.centres = carried_centre(self.tree, self.placed)[:, :, 0]
        self.whole = centre_of_mass(self.tree, q[:, None])[:, 0]
        self.masses = carried_mass(self.tree)
        self.strung = in_pose(self.tree, q)
        self.wearer = self._wearer(desk)
        self.sags = tuple(sag_in(self.tree, rod, q, self.gravity) for rod in figure.rods)

    def _wearer(self, desk: Desk) -> tuple[float, float, float, np.ndarray] | None:
        """Of a worn figure: how tall its wearer is, m, how trunk and head lean, rad, and where the ears are, m in the room."""
        base = self.figure.base
        if base.held != "worn":
            return None
        posture = next((p for p in self.figure.postures if p.id == desk.posture), self.figure.postures[0])
        head = posture.lean_deg if posture.head_deg is None else posture.head_deg
        tall = (base.worn.wearer.height_mm or people()["guesses"]["height_mm"][0]) / 1e3
        return (
            tall,
            np.radians(posture.lean_deg),
            np.radians(head),
            self.room @ ears_of(self.figure.base.worn, self.tree),
        )

    def sweep(self, i: int) -> np.ndarray | None:
        """Where element i lies (w, 3, count) m over the range of what it moves, in the base's frame; None where it moves nothing."""
        spanned = self.tree.spanned(self.tree.loads[i])
        if not spanned:
            return None
        joint = self.figure.joint(self.tree.ids[spanned[-1]])
        low, high = (end * joint.measure.si for end in joint.range)
        return swept(self.tree, i, self.pose, (low, high))

    def link(self, rides_on: str) -> int:
        return -1 if rides_on == "base" else self.tree.index(rides_on)

    def rotation(self, link: int):
        return self.room if link < 0 else self.room @ self.placed.rotation[link, :, :, 0]

    def outline(self, part, axes: np.ndarray) -> Outline:
        """A part's outline in a view, worked out once for each way it is turned."""
        turned = self.rotation(self.link(part.rides_on))
        key = (id(part.shape), part.turned_deg, turned.tobytes(), float(axes[0, 0]))
        kept = _outlines.get(key)
        if kept is None:
            kept = _outlines[key] = (
                part.shape,
                outline(part, turned, axes),
            )  # the shape is held, so that its id stays its own
            if len(_outlines) > MOST_OUTLINES:
                _outlines.popitem(last=False)
        return kept[1]

    def at(self, link: int, at_mm) -> np.ndarray:
        point = np.array(at_mm) / 1e3
        if link < 0:
            return self.room @ point
        tree: Tree = self.tree
        return self.room @ (
            self.placed.pivot[link, :, 0] + self.placed.rotation[link, :, :, 0] @ (point - tree.pivot[link])
        )
