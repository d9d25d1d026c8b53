"""The honesty test of starters: every one of them, set down and fitted with servos, is judged again by MuJoCo and by closing its mechanisms anew.

MuJoCo says what each joint must hold; what lies between joint and servo is closed here by root finding on the rod's length, and its ratio is a
difference quotient: nothing of the linkages' own formulas is used. Mechanisms without loss, so that both sides say the same.
"""

import math

import numpy as np
import pytest
from scipy.optimize import newton
from scipy.spatial.transform import Rotation

from karakuri.bodies.inertia import part_mass_kg
from karakuri.model.drive import Drive
from karakuri.model.edit import apply
from karakuri.model.figure import Figure
from karakuri.model.finding import finding_id
from karakuri.model.part import Part
from karakuri.starters import KINDS, STARTERS, kind
from karakuri.starters.composed import Asked
from karakuri.study.set_down import fitted
from karakuri.study.study import study
from tests.references.mujoco_twin import Twin, gravity_of, outcome

SWORN = [("bust", 200.0, (each.id,)) for each in STARTERS] + [
    ("worn", 420.0, ("neck_turns", "neck_nods", "jaw_whole", "eyes_horn")),
    ("held", 110.0, ("jaw_whole", "eyes_two", "neck_rods")),
    ("window", 180.0, ("neck_turns", "neck_leans", "jaw_split", "lids")),
    ("rolling", 240.0, ("neck_turns", "neck_nods", "neck_leans", "eyes_drawn", "gripper", "finger")),
]


def set_up(kind_id, tall, ids) -> Figure:
    """The figure as the starters leave it; weighed, without cords, which hang slack at rest, and without losses."""
    asked = Asked(tall, None, tuple(each for each in STARTERS if each.id in ids), kind(kind_id))
    down, _ = fitted(Figure(), asked)
    figure = apply(Figure(), down.edit)
    drives = []
    for drive in figure.drives:
        form = drive.transmission
        even = form if form.kind == "direct" else type(form)(**(dict(form) | {"efficiency": 1.0}))
        drives.append(Drive(**(dict(drive) | {"transmission": even})))
    stuffs = {material.id: material for material in figure.materials}
    weighed = [
        Part(**(dict(part) | {"mass_g": round(part_mass_kg(part, stuffs)[0] * 1e3, 6), "material": None}))
        for part in figure.parts
    ]
    springs = tuple(each for each in figure.elements if each.kind != "cord")
    return Figure(**(dict(figure) | {"drives": tuple(drives), "elements": springs, "parts": tuple(weighed)}))


def carried(figure: Figure, on: str, point, q: dict[str, float]) -> np.ndarray:
    """Where a point, mm at rest, is that rides on a joint."""
    at = np.array(point, dtype=float)
    while on != "base":
        joint = figure.joint(on)
        pivot = np.array(joint.at_mm)
        axis = np.array(joint.axis) / np.linalg.norm(joint.axis)
        at = pivot + Rotation.from_rotvec(axis * q[on]).apply(at - pivot)
        on = joint.rides_on
    return at


def stands_at(figure: Figure, drive: Drive, q: dict[str, float]) -> float:
    """Where a servo stands, rad, by closing what lies between: the rod keeps its length on the way from rest, in twelve steps."""
    form, own = drive.transmission, q[drive.joint]
    if form.kind == "direct":
        return own
    if form.kind in ("gear", "belt"):
        return own * form.driven / form.driver
    if form.kind == "lever":
        return closed(lambda u, share: lever_rod(form, u, own * share), math.radians(form.lever_deg))
    assert form.kind == "ball"
    axis = np.array(form.shaft_axis) / np.linalg.norm(form.shaft_axis)
    to = np.array(form.horn_to, dtype=float)
    across = np.cross(axis, to)

    def rod(u: float, share: float) -> float:
        there = {ident: angle * share for ident, angle in q.items()}
        hole = np.array(form.shaft_mm) + form.horn_mm * (math.cos(u) * to + math.sin(u) * across)
        ball = carried(figure, form.ball_on or drive.joint, form.ball_mm, there)
        return float(np.linalg.norm(ball - carried(figure, figure.mounted_on(drive), hole, there)))

    return closed(rod, 0.0)


def lever_rod(form, u: float, q: float) -> float:
    phi = math.radians(form.lever_deg) + q
    dx = form.axes_mm + form.lever_mm * math.cos(phi) - form.horn_mm * math.cos(u)
    return math.hypot(dx, form.lever_mm * math.sin(phi) - form.horn_mm * math.sin(u))


def closed(rod, begins: float) -> float:
    long, u = rod(begins, 0.0), begins
    for k in range(1, 13):
        u = float(newton(lambda x, k=k: rod(x, k / 12) - long, u, tol=1e-12))
    assert abs(rod(u, 1.0) - long) < 1e-6
    return u


def asked_of_drives(figure: Figure, twin: Twin, q: dict[str, float], gravity) -> dict[str, float]:
    """N·m of each drive by the joint it is put down for: virtual work, J transposed times what they give is what MuJoCo says the joints ask."""
    torque = twin.inverse(q, gravity=gravity)
    lead = {joint.id: joint.follows for joint in figure.joints if joint.role == "follows"}
    free = [joint.id for joint in figure.joints if figure.drive_of(joint.id) is not None]

    def whole(own: dict[str, float]) -> dict[str, float]:
        every = dict(q) | own
        return every | {ident: f.ratio * every[f.joint] + math.radians(f.offset_deg) for ident, f in lead.items()}

    asks = np.array([torque[ident] + sum(f.ratio * torque[k] for k, f in lead.items() if f.joint == ident) for ident in free])  # fmt: skip
    step = 1e-4
    turns = np.zeros((len(free), len(free)))
    for c, ident in enumerate(free):
        more, less = whole({ident: q[ident] + step}), whole({ident: q[ident] - step})
        for r, own in enumerate(free):
            drive = figure.drive_of(own)
            turns[r, c] = (stands_at(figure, drive, more) - stands_at(figure, drive, less)) / (2 * step)
    return dict(zip(free, np.linalg.solve(turns.T, asks), strict=True))


@pytest.mark.parametrize(("kind_id", "tall", "ids"), SWORN, ids=lambda value: value if isinstance(value, str) else None)
def test_every_starter_is_judged_as_mujoco_judges_it(kind_id, tall, ids):
    figure = set_up(kind_id, tall, ids)
    done = study(figure)
    bare = Figure(**(dict(figure) | {"drives": tuple(Drive(**(dict(d) | {"transmission": {"kind": "direct"}})) for d in figure.drives)}))  # fmt: skip
    twin, rng = Twin(bare), np.random.default_rng(len(ids))
    gravities = [gravity_of(posture, figure.assumptions.gravity_mps2) for posture in figure.stances]
    lead = {joint.id: joint.follows for joint in figure.joints if joint.role == "follows"}
    judged = [r for r in done.results.joints if figure.drive_of(r.joint.id) is not None]
    assert len(judged) == len(figure.drives)
    for _ in range(6):  # no pose asks for more than is said
        q = {joint.id: math.radians(rng.uniform(*joint.range_deg)) for joint in figure.joints}
        q |= {ident: follow.ratio * q[follow.joint] for ident, follow in lead.items()}
        for gravity in gravities:
            asks = asked_of_drives(figure, twin, q, gravity)
            for r in judged:
                assert abs(asks[r.joint.id]) <= r.hold.need * (1 + 1e-5) + 1e-7
    for r in judged:  # and at the pose that is told it is what is said
        pose = dict(zip(done.results.tree.ids, map(float, r.hold.worst.pose), strict=True))
        asks = asked_of_drives(figure, twin, pose, gravities[r.hold.worst.posture])
        assert abs(asks[r.joint.id]) == pytest.approx(r.hold.need, rel=1e-4, abs=1e-7)
        finding = done.finding(finding_id("hold", r.joint.id))
        plain = figure.drive_of(r.joint.id).transmission.kind == "direct" and r.joint.id not in {f.joint for f in lead.values()}  # fmt: skip
        if plain and r.hold.need > 1e-5 and finding.reserve < 50:
            posture = figure.stances[r.hold.worst.posture]
            assert outcome(bare, r.joint.id, pose, posture, r.can.continuous) == "held"
            assert outcome(bare, r.joint.id, pose, posture, r.hold.need * 0.85) != "held"


def test_the_jaw_on_a_cord_is_shut_by_its_spring_in_mujoco_too():
    figure = set_up("bust", 200.0, ("jaw_cord",))
    twin = Twin(figure)
    shut = twin.inverse({"jaw": 0.0})["jaw"]
    assert shut > 0  # it takes a push in the opening way to hold it there: left alone it shuts
    assert twin.inverse({"jaw": math.radians(18.0)})["jaw"] > 0


def test_all_kinds_and_schools_were_sworn():
    assert {each.id for each in STARTERS} == {ident for _, _, ids in SWORN for ident in ids}
    assert {each.id for each in KINDS} - {"bare"} == {kind_id for kind_id, _, _ in SWORN}
