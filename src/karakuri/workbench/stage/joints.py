"""What holds and moves a figure in an elevation: pivots, springs and cords, rods, magnets, and the lever arm of the joint in hand."""

from __future__ import annotations

import itertools

import numpy as np
from PyQt6.QtCore import QPointF
from PyQt6.QtGui import QPainterPath, QPainterPathStroker

from karakuri.model.element import About
from karakuri.model.joint_edits import keeps_level
from karakuri.model.ref import Ref
from karakuri.model.timings import TIMINGS
from karakuri.units import Quantity
from karakuri.workbench.kit import Kit
from karakuri.workbench.marks import centre, pivot
from karakuri.workbench.stage.strung import draw_face, draw_rod, draw_spiral, draw_strung
from karakuri.workbench.stage.view import View

BESIDE_M, NEAR_M = 0.016, 0.008
"""So far beside the arm its second bar is drawn; an arm that is seen end on has none."""


def draw_pivots(kit: Kit, view: View) -> None:
    scene = view.scene
    for joint in scene.figure.joints:
        x, y = view.to_screen(scene.room @ scene.placed.pivot[scene.tree.index(joint.id), :, 0])
        r = view.u(5.5 if joint.timed is TIMINGS["head"] else 3.8)
        pivot(kit, x, y, r, view.desk.subject == Ref("joint", joint.id))
        path = QPainterPath()
        path.addEllipse(QPointF(x, y), r + 3, r + 3)
        view.hits.append((Ref("joint", joint.id), path, 0.0))


def draw_parallelograms(kit: Kit, view: View) -> None:
    """The second bar of what is kept level, beside the arm: both bars stay parallel, and so do what they hang on and what hangs on them."""
    scene = view.scene
    for level in scene.figure.joints:
        arm = next((joint for joint in scene.figure.joints if joint.id == level.rides_on), None)
        if arm is None or not keeps_level(arm, level):
            continue
        a, b = (scene.placed.pivot[scene.tree.index(joint.id), :, 0] for joint in (arm, level))
        if np.linalg.norm(view.axes @ scene.room @ (b - a)) < NEAR_M:
            continue
        at_rest = (np.array(level.at_mm) - np.array(arm.at_mm)) / 1e3
        across = np.cross(np.array(arm.axis) / np.linalg.norm(arm.axis), at_rest)
        # as far as what carries the arm has turned, the short bars turn with it
        turned = scene.at(scene.link(arm.rides_on), 1e3 * across) - scene.at(scene.link(arm.rides_on), (0.0, 0.0, 0.0))
        off = BESIDE_M * turned / max(float(np.linalg.norm(turned)), 1e-9)
        if off[2] > 0:
            off = -off
        p, q, r, s = (view.to_screen(scene.room @ point) for point in (a, b, b + off, a + off))
        for one, other, wide in ((p, q, 3.0), (s, r, 3.0), (p, s, 1.6), (q, r, 1.6)):
            kit.line(*one, *other, "ink2", wide, round_cap=True)
        for x, y in (r, s):
            pivot(kit, x, y, view.u(3.2))


def draw_elements(kit: Kit, view: View) -> None:
    """Springs and their like; each of their ends can be taken hold of."""
    scene = view.scene
    for i, element in enumerate(scene.figure.elements):
        on = view.desk.subject.kind == "element" and view.desk.subject.id == element.id
        now = scene.strung[i]
        if isinstance(element, About):
            joint = scene.tree.index(element.joint)
            draw_spiral(kit, view.to_screen(scene.room @ scene.placed.pivot[joint, :, 0]), on)
            continue
        way = [view.to_screen(scene.room @ point) for point in now.points]
        if on and element.kind in ("cord", "actuator"):
            _draw_sweep(kit, view, i)
        draw_strung(kit, element.kind, way, now.force == 0.0, on)
        for k, (x, y) in enumerate(way):
            path = QPainterPath()
            path.addEllipse(QPointF(x, y), view.u(7), view.u(7))
            view.hits.append((Ref("element", element.id, k), path, -1.0))
        for (ax, ay), (bx, by) in itertools.pairwise(way):
            path = QPainterPath(QPointF(ax, ay))
            path.lineTo(bx, by)
            wide = QPainterPathStroker()
            wide.setWidth(view.u(10))
            view.hits.append((Ref("element", element.id), wide.createStroke(path), 0.0))


def _draw_sweep(kit: Kit, view: View, i: int) -> None:
    """Where what pulls or pushes lies, dotted, over the range of what it moves."""
    scene = view.scene
    ways = scene.sweep(i)
    for k in range(0 if ways is None else ways.shape[2]):
        kit.polyline([view.to_screen(scene.room @ point) for point in ways[:, :, k]], "indigo_m", 1.2, "dot")


def draw_rods(kit: Kit, view: View) -> None:
    """Rods as thick as they are, and dashed as they bend in the pose shown; both ends can be taken hold of."""
    scene = view.scene
    for rod, sags in zip(scene.figure.rods, scene.sags, strict=True):
        on = view.desk.subject.kind == "rod" and view.desk.subject.id == rod.id
        link = scene.link(rod.rides_on)
        ends = [view.to_screen(scene.at(link, at)) for at in (rod.at_mm, rod.tip_mm)]
        x, y = view.axes @ scene.room @ sags
        tip = (ends[1][0] + view.k * x, ends[1][1] - view.k * y)
        draw_rod(kit, ends[0], ends[1], tip, max(rod.outside_mm / 1e3 * view.k, 1.5), on)
        for k, at in enumerate(ends):
            path = QPainterPath()
            path.addEllipse(QPointF(*at), view.u(7), view.u(7))
            view.hits.append((Ref("rod", rod.id, k), path, -1.0))
        path = QPainterPath(QPointF(*ends[0]))
        path.lineTo(*ends[1])
        wide = QPainterPathStroker()
        wide.setWidth(view.u(10))
        view.hits.append((Ref("rod", rod.id), wide.createStroke(path), 0.0))


def draw_fastenings(kit: Kit, view: View) -> None:
    """What holds something on, as its face is; it can be taken hold of by its middle."""
    scene = view.scene
    for it in scene.figure.fastenings:
        on = view.desk.subject.kind == "fastening" and view.desk.subject.id == it.id
        link, way = scene.link(it.rides_on), np.array(it.off) / np.linalg.norm(it.off)
        middle = view.to_screen(scene.at(link, it.at_mm))
        tip = view.to_screen(scene.at(link, np.array(it.at_mm) + 20.0 * way))
        draw_face(kit, it.kind, middle, tip, it.spread_mm / 1e3 * view.k, on)
        path = QPainterPath()
        path.addEllipse(QPointF(*middle), view.u(8), view.u(8))
        view.hits.append((Ref("fastening", it.id), path, -0.5))


def draw_centre(kit: Kit, view: View) -> None:
    scene, ident = view.scene, view.desk.joint_in_hand()
    if not view.bobs or ident not in scene.tree.ids:
        return
    j = scene.tree.index(ident)
    floor = view.height - view.u(22)
    cx, cy = view.to_screen(scene.room @ scene.centres[j])
    px, py = view.to_screen(scene.room @ scene.placed.pivot[j, :, 0])
    kit.line(px, py, px, floor, "ink3", 1, "dot")
    kit.line(cx, cy, cx, floor, "indigo", 1.2)
    pivot(kit, px, py, view.u(5.5), True)
    centre(kit, cx, cy, view.u(9))
    wx, wy = view.to_screen(scene.room @ scene.whole)
    kit.line(wx, wy, wx, floor, "ink2", 1, "dash")
    centre(kit, wx, wy, view.u(6.5), "ink")
    across = abs(cx - px)
    text = view.desk.show(Quantity(across / view.k, "length"))
    y = floor - view.u(3)
    kit.line(px, y, cx, y, "indigo", 1.2)
    for x in (px, cx):
        kit.circle(x, y, 2, "indigo")
    beside = max(px, cx) + view.u(6)
    if beside + kit.width(text, 12, 600) > view.width - 4:
        kit.text(min(px, cx) - view.u(6), y, text, 12, 600, "indigo", "r", "paper")
    else:
        kit.text(beside, y, text, 12, 600, "indigo", "l", "paper")
