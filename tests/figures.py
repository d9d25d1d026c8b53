"""Figures that several tests use. All invented but FIG1, a worked neck of eight masses."""

from __future__ import annotations

import numpy as np

from karakuri.actuators.label import from_label
from karakuri.catalogue import servo_class
from karakuri.course import ALONE
from karakuri.exchange.contract import no_media
from karakuri.exchange.frames_csv import EXPORTER
from karakuri.model.channel import JointChannel
from karakuri.model.drive import Drive
from karakuri.model.element import Anchor, Elastic, Magnets, Pad, Spring, Strut, Torsion
from karakuri.model.figure import Figure, Supply
from karakuri.model.joint import Joint, Move
from karakuri.model.makers import Life
from karakuri.model.moves import Row, moves_of
from karakuri.model.part import Box, Cylinder, Ellipsoid, Part, Point, Sphere
from karakuri.model.room import Room
from karakuri.model.score import Score
from karakuri.model.stand import Base, Posture

X, Y, Z = (1.0, 0.0, 0.0), (0.0, 1.0, 0.0), (0.0, 0.0, 1.0)


def part(ident, rides_on, grams, at, shape=None, **more) -> Part:
    return Part(id=ident, name=ident, rides_on=rides_on, mass_g=grams, at_mm=at, shape=shape or Point(), **more)


def box(*size) -> Box:
    return Box(size_mm=size)


def fig1() -> Figure:
    """Neck of pan, tilt and roll under an eight-mass head; origin at the roll axis."""
    joints = (
        Joint(id="pan", name="pan", axis=Z, at_mm=(0.0, 0.0, -70.0), range_deg=(-60.0, 60.0)),
        Joint(id="tilt", name="tilt", rides_on="pan", axis=Y, at_mm=(0.0, 0.0, -30.0)),
        Joint(id="roll", name="roll", rides_on="tilt", axis=X, range_deg=(-20.0, 20.0)),
    )
    parts = (
        part("skull", "roll", 450.0, (10.0, 0.0, 70.0), Ellipsoid(semi_axes_mm=(75.0, 60.0, 85.0))),
        part("jaw", "roll", 120.0, (50.0, 0.0, 15.0), box(70.0, 60.0, 25.0)),
        part("eye_l", "roll", 85.0, (55.0, 32.0, 75.0), box(30.0, 30.0, 30.0)),
        part("eye_r", "roll", 85.0, (55.0, -32.0, 75.0), box(30.0, 30.0, 30.0)),
        part("jaw_servo", "roll", 60.0, (20.0, 25.0, 25.0), box(40.0, 20.0, 38.0)),
        part("brows", "roll", 48.0, (30.0, 0.0, 115.0), box(24.0, 60.0, 24.0)),
        part("mask", "roll", 320.0, (60.0, 0.0, 60.0), Ellipsoid(semi_axes_mm=(25.0, 65.0, 80.0))),
        part("rear", "roll", 250.0, (-70.0, 0.0, 60.0)),
        part("pan_link", "pan", 90.0, (0.0, 0.0, -50.0), box(50.0, 50.0, 20.0)),
        part("tilt_link", "tilt", 75.0, (0.0, 0.0, -15.0), box(40.0, 50.0, 20.0)),
    )
    return Figure(name="FIG1", joints=joints, parts=parts, base=Base(floor_mm=-120.0))


def scored(*rows: Row, mass_g=300.0, length_s=3.0, servo="class_20", park=0.0, loops=True, **more) -> Figure:
    """The nodding head with a score of its one joint."""
    figure = head(mass_g, servo=servo, **more)
    channel = JointChannel(id="nod", name="Nod", joints=("tilt",), park=park, moves=moves_of(list(rows)))
    makers = tuple(Life(id=by) for by in sorted({row.made_by for row in rows} - {""}))
    score = Score(length_s=length_s, loops=loops, channels=(channel,), makers=makers)
    return Figure(**(dict(figure) | {"scores": (score,)}))


def as_csv(figure: Figure) -> str:
    """The frames of its score as a table."""
    return b"".join(EXPORTER.write(figure, {}, ALONE, no_media).files["frames.csv"]).decode("utf-8")


def own_servo(name, torque_Nm, speed_s_per_60deg, at_voltage_V, mass_g):
    """A servo by its label; gears not stated."""
    return from_label(
        name, torque_Nm=torque_Nm, speed_s_per_60deg=speed_s_per_60deg, at_voltage_V=at_voltage_V, mass_g=mass_g
    )


def head(mass_g=500.0, at=(20.0, 0.0, 150.0), servo="class_10", ranges=(-30.0, 30.0), **more) -> Figure:
    """One part nodding on one joint at 100 mm, driven by a class."""
    joint = Joint(
        id="tilt", name="Tilt", at_mm=(0.0, 0.0, 100.0), range_deg=ranges, ends=("nose-up", "nose-down"), **more
    )
    return Figure(
        name="head",
        joints=(joint,),
        parts=(
            part("skull", "tilt", mass_g, at, mass_origin="weighed"),
            part("foot", "base", 3000.0, (0.0, 0.0, 10.0)),
        ),
        drives=(Drive(id="servo", joint="tilt", actuator=servo_class(servo)),) if servo else (),
        supply=Supply(current_A=20.0),
    )


def random_shape(rng):
    size = lambda: float(rng.uniform(10, 60))  # noqa: E731
    return [
        lambda: Point(),
        lambda: Box(size_mm=(size(), size(), size())),
        lambda: Sphere(radius_mm=size()),
        lambda: Ellipsoid(semi_axes_mm=(size(), size(), size())),
        lambda: Cylinder(radius_mm=size(), height_mm=size()),
    ][int(rng.integers(5))]()


def random_figure(seed: int, joints: int, slides: bool = False) -> Figure:
    """A random tree of turning (and sliding) joints with random parts, turned every way."""
    rng = np.random.default_rng(seed)
    made, parts = [], []
    for i in range(joints):
        axis = tuple(float(v) for v in rng.normal(size=3))
        rides = "base" if i == 0 else f"j{int(rng.integers(max(0, i - 3), i))}"
        low, high = sorted(float(v) for v in rng.uniform(-70, 70, 2))
        kind = "slide" if slides and rng.random() < 0.25 else "turn"
        at = tuple(float(v) for v in rng.uniform(-80, 80, 3))
        made.append(Joint(id=f"j{i}", name=f"joint {i}", rides_on=rides, kind=kind, at_mm=at, axis=axis, range_deg=(low, high),
                          range_mm=(low / 4, high / 4), move=Move(by=10.0, time_s=0.5)))  # fmt: skip
        for k in range(int(rng.integers(1, 4))):
            parts.append(part(f"p{i}_{k}", f"j{i}", float(rng.uniform(20, 600)), tuple(float(v) for v in rng.uniform(-120, 120, 3)),
                              random_shape(rng), turned_deg=tuple(float(v) for v in rng.uniform(-180, 180, 3))))  # fmt: skip
    postures = (Posture(id="level", name="level"), Posture(id="lean", name="lean", lean_deg=20.0, roll_deg=-7.0))
    return Figure(name=f"random {seed}", joints=tuple(made), parts=tuple(parts), postures=postures)


def strung(ident, a, b, at_a, at_b, **more) -> dict:
    return {
        "id": ident,
        "name": ident,
        "ends": (Anchor(rides_on=a, at_mm=at_a), Anchor(rides_on=b, at_mm=at_b)),
        **more,
    }


def random_elements(
    figure: Figure, seed: int, kinds=("spring", "torsion", "elastic", "strut", "pad", "magnets"), count=3
) -> Figure:
    """The same figure with elements between random links."""
    rng = np.random.default_rng(7000 + seed)
    links = ["base", *(joint.id for joint in figure.joints)]
    turning = [joint.id for joint in figure.joints if joint.kind == "turn"]
    somewhere = lambda: tuple(float(v) for v in rng.uniform(-120, 120, 3))  # noqa: E731
    made = []
    for i in range(count):
        kind, ident = str(rng.choice(kinds)), f"e{i}"
        a, b = (str(v) for v in rng.choice(links, 2, replace=False))
        way = strung(ident, a, b, somewhere(), somewhere())
        if rng.random() < 0.4:
            way["over"] = (Anchor(rides_on=str(rng.choice(links)), at_mm=somewhere()),)
        if kind == "torsion" and turning:
            made.append(
                Torsion(
                    id=ident,
                    name=ident,
                    joint=turning.pop(int(rng.integers(len(turning)))),
                    rate_Nm_per_deg=float(rng.uniform(1e-3, 2e-2)),
                    free_deg=float(rng.uniform(-60, 60)),
                )
            )
        elif kind == "magnets":
            made.append(
                Magnets(**way, wide_mm=float(rng.uniform(5, 20)), thick_mm=3.0, gap_mm=float(rng.uniform(0.1, 2)))
            )
        elif kind == "elastic":
            made.append(Elastic(**way, free_mm=float(rng.uniform(20, 100)), thick_mm=float(rng.uniform(1, 4))))
        elif kind == "strut":
            made.append(
                Strut(**way, long_mm=float(rng.uniform(100, 250)), stroke_mm=80.0, force_N=float(rng.uniform(5, 40)))
            )
        elif kind == "pad":
            made.append(Pad(**way, thick_mm=float(rng.uniform(50, 250)), rate_N_per_mm=float(rng.uniform(0.01, 0.3))))
        else:
            made.append(
                Spring(
                    **way,
                    free_mm=float(rng.uniform(20, 160)),
                    rate_N_per_mm=float(rng.uniform(0.02, 0.5)),
                    presses=bool(rng.random() < 0.3),
                    count=int(rng.integers(1, 3)),
                )
            )
    return Figure(**(dict(figure) | {"elements": tuple(made)}))


ASKED = Room()


def jaw(range_deg=(0.0, 40.0), room_=ASKED) -> Figure:
    """A jaw under a skull, a neck post behind it: opened wide its hinge end swings down on the post."""
    return Figure(
        joints=(Joint(id="jaw", name="Jaw", axis=Y, at_mm=(0.0, 0.0, 100.0), range_deg=range_deg, ends=("shut", "open")),),
        parts=(
            Part(id="post", name="neck post", shape=Cylinder(radius_mm=15, height_mm=60), at_mm=(30.0, 0.0, 30.0), mass_g=50),
            Part(id="chin", name="chin", shape=Box(size_mm=(80.0, 40.0, 10.0)), at_mm=(40.0, 0.0, 90.0), rides_on="jaw", mass_g=60),
        ),
        room=room_,
    )  # fmt: skip
