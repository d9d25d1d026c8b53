"""The tree of joints: a branch from the floor to the right, as thick as the mass it carries; joints are its pivots."""

from __future__ import annotations

import math

from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtGui import QPainterPath
from PyQt6.QtWidgets import QWidget

from karakuri.mechanics.kinematics import carried_mass
from karakuri.model.ref import Ref
from karakuri.units import Quantity
from karakuri.workbench.desk import Desk
from karakuri.workbench.kit import Kit
from karakuri.workbench.marks import pivot
from karakuri.workbench.theme import REGION
from karakuri.workbench.widgets.sheet import Sheet


class JointTree(Sheet):
    """A press on a pivot takes that joint in hand; its list twin is the ledger beside it."""

    def __init__(self, desk: Desk, parent: QWidget) -> None:
        super().__init__(desk, "The tree of joints", parent)
        self.spots: list[tuple[str, float, float]] = []
        for signal in (desk.changed, desk.selected, desk.looked):
            signal.connect(self.update)

    def draw(self, kit: Kit) -> None:
        u, figure = self.u, self.desk.figure
        kit.line(0, 0.5, self.width(), 0.5, "rule")
        kit.text(0, u(13), "The tree of joints", 13, 600)
        kit.text(self.width(), u(13), "thickness: mass carried", 12, 400, "ink3", "r")
        tree = self.desk.tree()
        masses = carried_mass(tree)
        total = float(tree.mass.sum()) or 1.0
        self.spots = []
        if not figure.joints:
            kit.text(0, u(40), "No joint yet: Ctrl+J adds one.", 13, 400, "ink2")
            return
        depth = [len(chain) for chain in tree.chains]
        leaves = [k for k in range(len(tree.ids)) if not tree.children[k]]
        rows = {k: i for i, k in enumerate(leaves)}
        for k in reversed(range(len(tree.ids))):
            if tree.children[k]:
                rows[k] = sum(rows[c] for c in tree.children[k]) / len(tree.children[k])
        top, tall = u(34), self.height() - u(34) - u(16)
        step = tall / max(1, len(leaves) - 1) if len(leaves) > 1 else 0
        right = self.width() - u(128)
        along = (right - u(20)) / max(depth)

        def spot(k: int) -> tuple[float, float]:
            y = top + rows[k] * step if len(leaves) > 1 else top + tall / 2
            return u(14) + along * depth[k] - along * 0.25, y

        root_y = sum(spot(k)[1] for k in range(len(tree.ids)) if tree.parent[k] < 0) / sum(
            1 for p in tree.parent if p < 0
        )
        kit.rect(0, root_y - u(20), u(7), u(40), "wood_d", "ink", 1.1)
        for k in sorted(range(len(tree.ids)), key=lambda k: -depth[k]):
            start = spot(tree.parent[k]) if tree.parent[k] >= 0 else (u(7), root_y)
            self._limb(kit, start, spot(k), self._thick(float(masses[k]), total))
        for k, ident in enumerate(tree.ids):
            joint = figure.joint(ident)
            x, y = spot(k)
            self.spots.append((ident, x, y))
            on = self.desk.subject == Ref("joint", ident)
            pivot(kit, x, y, u(5), on)
            ink = REGION[joint.region][0]
            if not tree.children[k]:
                wide = max(u(60), self.width() - x - u(62))
                words = kit.short(joint.name, wide, 12, 600)
                kit.text(x + u(12), y, words, 12, 600 if on else 500, ink)
                kit.text(self.width(), y, self.desk.show(Quantity(float(masses[k]), "mass")), 12, 400, "ink2", "r")
            else:
                roomy = len(leaves) < 2 or all(
                    abs(spot(o)[1] - y) > u(34) for o in range(len(tree.ids)) if depth[o] == depth[k] and o != k
                )
                words = joint.name.split()[-1 if roomy else 0].rstrip(",")
                if roomy and sum(1 for o in range(len(tree.ids)) if depth[o] == depth[k]) == 1:
                    kit.text(x, y - u(18), words, 12, 600 if on else 500, ink, "c", "paper")
                    kit.text(
                        x,
                        y + u(19),
                        self.desk.show(Quantity(float(masses[k]), "mass")),
                        11.5,
                        400,
                        "ink2",
                        "c",
                        "paper",
                    )

    def _thick(self, mass: float, total: float) -> float:
        return self.u(1.6) + self.u(15) * math.sqrt(max(0.0, mass) / total)

    def _limb(self, kit: Kit, a: tuple[float, float], b: tuple[float, float], thick: float) -> None:
        half, dx = thick / 2, (b[0] - a[0]) * 0.5
        path = QPainterPath(QPointF(a[0], a[1] - half))
        path.cubicTo(QPointF(a[0] + dx, a[1] - half), QPointF(b[0] - dx, b[1] - half), QPointF(b[0], b[1] - half))
        path.lineTo(b[0], b[1] + half)
        path.cubicTo(QPointF(b[0] - dx, b[1] + half), QPointF(a[0] + dx, a[1] + half), QPointF(a[0], a[1] + half))
        path.closeSubpath()
        kit.draw(path, "wood", "ink", 1.1)

    def mousePressEvent(self, event) -> None:
        x, y = event.position().x(), event.position().y()
        near = [s for s in self.spots if math.hypot(s[1] - x, s[2] - y) < self.u(12)]
        if near and event.button() == Qt.MouseButton.LeftButton:
            self.desk.select(Ref("joint", near[0][0]))
