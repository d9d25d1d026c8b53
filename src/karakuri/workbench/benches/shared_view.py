"""Rods with ball ends, bevel wheels and two servos on two joints, drawn: themselves to scale, what both reach, what both hold."""

from __future__ import annotations

import math

import numpy as np

from karakuri.actuators.pulses import own_pulses
from karakuri.actuators.servo import capability
from karakuri.bodies.linkages import linkage_of, shared_of, together
from karakuri.bodies.linkages.ball import BallEnds, ball_ends
from karakuri.bodies.tree import posture_gravity
from karakuri.checks.gearing import LEAST_ANGLE, WISHED_ANGLE
from karakuri.model.drive import Drive
from karakuri.model.joint import Joint
from karakuri.model.transmission import Ball, Bevel
from karakuri.sizing.diamond import diamond, reach
from karakuri.units import Quantity
from karakuri.workbench.desk import Desk
from karakuri.workbench.kit import Kit

SWEEP = 25


def ends_of(desk: Desk, drive: Drive) -> tuple[BallEnds, np.ndarray]:
    """A rod with ball ends in numbers, and the pose now in the rows that it reads, (m, 1) rad or m."""
    figure, form = desk.figure, drive.transmission
    rows = {joint.id: k for k, joint in enumerate(figure.joints)}
    assert isinstance(form, Ball)
    found = shared_of(figure, drive, rows)
    if not isinstance(found, BallEnds):  # its own joint alone
        row = rows[drive.joint]
        way = -1.0 if drive.rides_on == drive.joint else 1.0
        found = ball_ends(form, ((figure.joint(drive.joint), way),), row, rows)
    q = np.array([desk.place(joint.id) for joint in figure.joints])[:, None]
    return found, q


def draw_ball(kit: Kit, desk: Desk, drive: Drive, x: float, y: float, w: float, h: float) -> None:
    """Horn, rod and far ball seen along the servo's shaft, as its body has them, with the ball's way over the wanted range."""
    u, joint = kit.u, desk.figure.joint(drive.joint)
    ends, q = ends_of(desk, drive)
    row = ends.row(q)
    right, up = np.array(ends.e1), np.array(ends.e2)
    if abs(right[2]) > abs(up[2]):  # what is up stays up as far as the shaft lets it
        right, up = up, right
    up, right = (up if up[2] >= 0 else -up), (right if right[0] + 1e-6 * right[1] >= 0 else -right)
    flat = lambda p: (float(np.dot(right, p)), float(np.dot(up, p)))  # noqa: E731
    shaft = np.array(ends.shaft)
    u_now = float(row.drive[0]) + ends.begins
    hole = shaft + ends.horn * (math.cos(u_now) * np.array(ends.e1) + math.sin(u_now) * np.array(ends.e2))
    sweep = np.repeat(q, SWEEP, axis=1)
    own = next(k for k, each in enumerate(desk.figure.joints) if each.id == joint.id)
    sweep[own] = np.radians(np.linspace(*joint.range_deg, SWEEP))
    way, _ = ends.carried(sweep)
    ball, _ = ends.carried(q)
    points = [flat(p) for p in (shaft, hole, ball[:, 0], *way.T)]
    reach_of = [
        flat(shaft + ends.horn * np.array(each)) for each in (ends.e1, ends.e2, -np.array(ends.e1), -np.array(ends.e2))
    ]
    everything = [*points, *reach_of]
    xs, ys = [p[0] for p in everything], [p[1] for p in everything]
    k = min((w - u(40)) / max(max(xs) - min(xs), 1e-6), (h - u(44)) / max(max(ys) - min(ys), 1e-6))
    left, top = x + (w - k * (max(xs) - min(xs))) / 2, y + (h - k * (max(ys) - min(ys))) / 2
    to = lambda p: (left + k * (p[0] - min(xs)), top + k * (max(ys) - p[1]))  # noqa: E731
    angle = float(row.angle[0])
    ink = "verm" if angle < LEAST_ANGLE or not row.closes[0] else "ochre" if angle < WISHED_ANGLE else "indigo"
    a, b, c = (to(flat(p)) for p in (shaft, hole, ball[:, 0]))
    kit.circle(*a, k * ends.horn, None, "rule", 1.4)
    kit.polyline([to(flat(p)) for p in way.T], "rule", 2)
    kit.line(*a, *b, ink, 2.6)
    kit.line(*b, *c, ink, 2, "" if row.closes[0] else "dot")
    kit.circle(*a, u(6), "brass_f", "ink", 1.4)
    for point in (b, c):
        kit.circle(*point, u(4.5), "card", "ink", 1.6)
    kit.text(a[0], min(a[1] + u(17), y + h - u(8)), "servo", 11, 400, "ink2", "c")
    words = desk.show(Quantity(ends.rod, "length")) if row.closes[0] else "does not reach"
    kit.text((b[0] + c[0]) / 2, (b[1] + c[1]) / 2 - u(10), words, 11, 600, ink, "c", "paper")
    side = "r" if c[0] > x + w - u(60) else "l"
    kit.text(
        c[0] + (u(8) if side == "l" else -u(8)), c[1] - u(10), desk.show(Quantity(angle, "angle")), 11, 600, ink, side
    )


def draw_bevel(kit: Kit, desk: Desk, drive: Drive, x: float, y: float, w: float, h: float) -> None:
    """The two servos' wheels and the one between, seen from the side, and how far this servo is turned."""
    u, form = kit.u, drive.transmission
    assert isinstance(form, Bevel)
    side, between = form.side * form.module_mm, form.between * form.module_mm
    k = min((w - u(60)) / (between + 0.5 * side), (h - u(60)) / (side + 0.4 * side))
    middle, base = x + w / 2, y + h - u(26)
    tall, wide = k * side / 2, k * between / 2
    for way, words in ((-1.0, "servo"), (1.0, "the other")):
        rim, hub = middle + way * wide, middle + way * (wide + 0.25 * k * side)
        body = [(rim, base - 2 * tall), (hub, base - 1.6 * tall), (hub, base - 0.4 * tall), (rim, base)]
        kit.draw(kit.path(body, True), "brass_f" if way < 0 else "card", "ink", 1.4)
        kit.text(rim + way * u(8), base + u(12), words, 11, 400, "ink2", "r" if way < 0 else "l")
    top = base - 2 * tall
    kit.draw(kit.path([(middle - wide, top), (middle - 0.6 * wide, top - 0.25 * k * side), (middle + 0.6 * wide, top - 0.25 * k * side), (middle + wide, top)], True), "card", "ink", 1.4)  # fmt: skip
    linkage = linkage_of(desk.figure, drive)
    figure = desk.figure
    rows = {joint.id: i for i, joint in enumerate(figure.joints)}
    q = np.array([desk.place(joint.id) for joint in figure.joints])[:, None]
    turned = float(shared_of(figure, drive, rows).row(q).drive[0]) if linkage is not None else 0.0
    kit.text(
        middle, y + u(6), f"this servo stands {desk.show(Quantity(turned, 'angle'))} from rest", 11, 400, "ink2", "c"
    )


def partner(desk: Desk, joint: Joint) -> Joint | None:
    """The one other joint that this one shares its servo with; None where there is none, or more than one."""
    others = together(desk.figure, joint.id)[1:]
    return desk.figure.joint(others[0]) if len(others) == 1 else None


def draw_both(kit: Kit, desk: Desk, joint: Joint, other: Joint, x: float, y: float, w: float, h: float) -> None:
    """What both servos reach, and what both hold, side by side."""
    figure, study = desk.figure, desk.study
    if study is None or study.figure is not figure:
        return
    tree, half = study.results.tree, (w - kit.u(12)) / 2
    pair = (tree.index(joint.id), tree.index(other.id))
    pose = np.array([desk.place(ident) for ident in tree.ids])
    drives = [figure.drive_of(each.id) for each in (joint, other)]
    if any(drive is None for drive in drives):
        return
    cans = [
        capability(d.acting(figure.assumptions.together_share), figure.supply.voltage_V, figure.assumptions)
        for d in drives
        if d is not None
    ]
    middles = [
        float(np.mean((p.angles[0], p.angles[-1]))) for p in (own_pulses(figure, d) for d in drives if d is not None)
    ]
    travels = [math.radians(d.actuator.travel_deg) for d in drives if d is not None]
    _reach(
        kit,
        desk,
        joint,
        other,
        reach(tree, pair, pose, (middles[0], middles[1]), (travels[0], travels[1])),
        x,
        y,
        half,
        h,
    )
    gravity = posture_gravity(desk.posture_value(), figure.assumptions.gravity_mps2)
    _diamond(
        kit,
        desk,
        joint,
        other,
        diamond(tree, pair, pose, gravity, (cans[0].continuous, cans[1].continuous)),
        x + half + kit.u(12),
        y,
        half,
        h,
    )


def _reach(kit: Kit, desk: Desk, joint: Joint, other: Joint, found, x: float, y: float, w: float, h: float) -> None:
    u = kit.u
    kit.text(x, y + u(6), kit.short("both reach", w, 11, 600), 11, 600, "ink2")
    if found is None:
        return
    side = min(w, h - u(52))
    left, top, n = x, y + u(18), len(found.one)
    cell = side / n
    for i in range(n):
        for k in range(n):
            if found.reached[i, k]:
                kit.rect(left + i * cell, top + side - (k + 1) * cell, cell + 0.5, cell + 0.5, "moss_t")

    def at(a: float, b: float) -> tuple[float, float]:
        across, up = ((v - ends[0]) / (ends[-1] - ends[0]) for v, ends in ((a, found.one), (b, found.other)))
        return left + side * across, top + side * (1 - up)

    (a0, a1), (b0, b1) = (np.radians(each.range_deg) for each in (joint, other))
    corners = [at(a0, b0), at(a1, b0), at(a1, b1), at(a0, b1)]
    kit.rect(left, top, side, side, None, "hair")
    kit.draw(kit.path(corners, True), None, "ink2", 1.2, "dash")
    kit.circle(*at(desk.place(joint.id), desk.place(other.id)), u(4), "indigo", "card", 1.2)
    kit.text(left, top + side + u(9), kit.short(f"across {joint.name}, up {other.name}", w, 11, 400), 11, 400, "ink2")
    kit.text(left, top + side + u(22), kit.short("dashed: wanted", w, 11, 400), 11, 400, "ink2")


def _diamond(kit: Kit, desk: Desk, joint: Joint, other: Joint, found, x: float, y: float, w: float, h: float) -> None:
    u = kit.u
    kit.text(x, y + u(6), kit.short("both hold for long", w, 11, 600), 11, 600, "ink2")
    if found is None:
        return
    side = min(w, h - u(52))
    cx, cy = x + side / 2, y + u(18) + side / 2
    most = max(float(np.abs(found.corners).max()), float(np.abs(found.asked).max()), 1e-9) * 1.08
    to = lambda p: (cx + side / 2 * float(p[0]) / most, cy - side / 2 * float(p[1]) / most)  # noqa: E731
    kit.line(cx - side / 2, cy, cx + side / 2, cy, "hair")
    kit.line(cx, cy - side / 2, cx, cy + side / 2, "hair")
    kit.draw(kit.path([to(p) for p in found.corners], True), "moss_t", "moss", 1.6)
    taken: list[tuple[float, float]] = []
    for n, way in enumerate(found.alone):
        ends = [to(s * 0.97 * most * way / max(np.abs(way))) for s in (-1, 1)]
        kit.line(*ends[0], *ends[1], "ink3", 1, "dot")
        spots = [_inside(end, x, y, side, u) for end in ends]
        spot = max(spots, key=lambda each: min((math.dist(each, other) for other in taken), default=each[0] - each[1]))
        if all(abs(spot[0] - other[0]) > u(62) or abs(spot[1] - other[1]) > u(14) for other in taken):
            kit.text(*spot, "this alone" if n == 0 else "other alone", 11, 400, "ink2", "c", "paper")
            taken.append(spot)
    for p in found.asked:
        kit.circle(*to(p), u(1.6), "ochre", None)
    kit.circle(*to(found.now), u(4), "indigo", "card", 1.2)
    reaches = desk.show(Quantity(most / 1.08, "torque"))
    kit.text(x, y + u(18) + side + u(9), kit.short(f"{reaches} across and up", w, 11, 400), 11, 400, "ink2")
    kit.text(x, y + u(18) + side + u(22), kit.short("dots: what is asked", w, 11, 400), 11, 400, "ink2")


def _inside(p, x: float, y: float, side: float, u) -> tuple[float, float]:
    return min(max(p[0], x + u(28)), x + side - u(28)), min(max(p[1], y + u(26)), y + u(10) + side)
