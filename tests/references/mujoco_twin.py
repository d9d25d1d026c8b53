"""A figure as a MuJoCo model, built from the figure's own fields: MuJoCo places, weighs and turns everything itself.

What the adapter adds, and says: MuJoCo refuses massless links, and drops the inertia of geoms without a volume. A point, and a
servo, becomes a sphere of POINT_R with inertia 2/5 m r²; `compensated` gives our figure the same spheres where it is compared to
1e-9, and a test shows what that changes. Every link gets CRUMB kg in a sphere of CRUMB_R, far below every tolerance here.
"""

from __future__ import annotations

import math

import mujoco
import numpy as np

from karakuri.model.figure import Figure
from karakuri.model.part import Box, Cylinder, Ellipsoid, Part, Point, Sphere
from karakuri.model.stand import Posture

POINT_R, CRUMB, CRUMB_R = 1e-3, 1e-12, 0.1


def compensated(figure: Figure) -> Figure:
    """The same figure with the adapter's spheres: points and servos become parts that are spheres of POINT_R; no growth, no drives."""
    growth = 1 + figure.assumptions.growth_percent / 100
    ball = Sphere(radius_mm=POINT_R * 1e3)
    parts = [Part(**(dict(p) | {"shape": ball})) if isinstance(p.shape, Point) else p for p in figure.parts]
    for drive in figure.drives:
        joint = figure.joint(drive.joint)
        parts.append(Part(id=f"body_{drive.id}", name="servo", rides_on=figure.mounted_on(drive), shape=ball, at_mm=drive.at_mm or joint.at_mm,
                          mass_g=drive.actuator.mass_g / growth))  # fmt: skip
    return Figure(**(dict(figure) | {"parts": tuple(parts), "drives": ()}))


def _mm(values) -> str:
    return " ".join(repr(v / 1e3) for v in values)


def _quat(turned_deg) -> np.ndarray:
    """About fixed x, then y, then z, by MuJoCo's own quaternion product."""
    q = np.array([1.0, 0, 0, 0])
    for axis, angle in zip(np.eye(3), turned_deg, strict=True):
        step, out = np.zeros(4), np.zeros(4)
        mujoco.mju_axisAngle2Quat(step, axis, math.radians(angle))
        mujoco.mju_mulQuat(out, step, q)
        q = out
    return q


def _geom(part: Part, origin, growth: float) -> str:
    shape = part.shape
    kind, size = {
        "point": ("sphere", (POINT_R * 1e3,)),
        "box": ("box", tuple(s / 2 for s in getattr(shape, "size_mm", (1, 1, 1)))),
        "sphere": ("sphere", (getattr(shape, "radius_mm", 1),)),
        "ellipsoid": ("ellipsoid", getattr(shape, "semi_axes_mm", (1, 1, 1))),
        "cylinder": ("cylinder", (getattr(shape, "radius_mm", 1), getattr(shape, "height_mm", 1) / 2)),
    }[shape.kind]
    assert isinstance(shape, (Point, Box, Sphere, Ellipsoid, Cylinder))
    at = [a - o for a, o in zip(part.at_mm, origin, strict=True)]
    shell = ' shellinertia="true"' if getattr(shape, "wall_mm", 0) > 0 else ""
    quat = " ".join(repr(float(v)) for v in _quat(part.turned_deg))
    mass = part.mass_g / 1e3 * growth
    if mass <= 0:
        return ""
    return f'<geom type="{kind}" size="{_mm(size)}" pos="{_mm(at)}" quat="{quat}" mass="{mass!r}"{shell}/>'


def xml(figure: Figure, only: str | None = None, pose: dict[str, float] | None = None) -> str:
    """MJCF of a figure. `only`: the one joint that may move; the others are welded at `pose` (rad)."""
    growth = 1 + figure.assumptions.growth_percent / 100
    pose = pose or {}
    around = {e.joint: e for e in figure.elements if e.kind == "torsion"}
    strung = [e for e in figure.elements if e.kind == "spring"]
    assert len(around) + len(strung) == len(figure.elements), "MuJoCo has no law for the other kinds"

    def sites(ident: str, origin) -> str:
        return "".join(
            f'<site name="{e.id}_{i}" pos="{_mm(a - o for a, o in zip(point.at_mm, origin, strict=True))}"/>'
            for e in strung for i, point in enumerate(_way(e)) if point.rides_on == ident
        )  # fmt: skip

    def link(ident: str, origin) -> str:
        out = f'<geom type="sphere" size="{CRUMB_R}" mass="{CRUMB}"/>' if ident != "base" else ""
        out += sites(ident, origin)
        out += "".join(_geom(part, origin, growth) for part in figure.parts if part.rides_on == ident)
        for drive in figure.drives:
            joint = figure.joint(drive.joint)
            if figure.mounted_on(drive) == ident and drive.actuator.mass_g > 0:
                for at in (drive.at_mm, drive.other_at_mm or drive.at_mm)[: drive.servos]:
                    servo = Part(id="x", name="x", mass_g=drive.actuator.mass_g / growth, at_mm=at or joint.at_mm)
                    out += _geom(servo, origin, growth)
        out += _rod_ends(figure, ident, origin)
        for joint in figure.joints:
            if joint.rides_on == ident:
                at = [a - o for a, o in zip(joint.at_mm, origin, strict=True)]
                axis = " ".join(map(repr, joint.axis))
                turn = f' axisangle="{axis} {pose.get(joint.id, 0.0)!r}"' if only is not None else ""
                kind = "slide" if joint.kind == "slide" else "hinge"
                coil = around.get(joint.id)
                twist = f' stiffness="{math.degrees(coil.rate_Nm_per_deg)!r}" springref="{math.radians(coil.free_deg)!r}"' if coil else ""  # fmt: skip
                moves = f'<joint name="{joint.id}" type="{kind}" axis="{axis}"{twist}/>' if only in (None, joint.id) else ""  # fmt: skip
                out += f'<body name="{joint.id}" pos="{_mm(at)}"{turn}>{moves}{link(joint.id, joint.at_mm)}</body>'
        return out

    body = link("base", (0.0, 0.0, 0.0))
    return (
        '<mujoco><compiler angle="radian" boundmass="0" boundinertia="0" balanceinertia="false" inertiafromgeom="true"/>'
        '<option timestep="0.0005" integrator="implicitfast"><flag contact="disable"/></option>'
        f'<default><geom contype="0" conaffinity="0"/></default><worldbody><body name="base">{body}</body></worldbody><tendon>{"".join(map(_tendon, strung))}{"".join(_rod(d) for d in _rodded(figure))}</tendon>'
        f"<equality>{''.join(_kept(d) for d in _rodded(figure))}</equality></mujoco>"
    )


def _rodded(figure: Figure):
    """Drives that push a rod with ball ends: MuJoCo has horns as bodies, and keeps the distance from hole to ball as it is at rest."""
    return [drive for drive in figure.drives if drive.transmission.kind == "ball"]


def _rod_ends(figure: Figure, ident: str, origin) -> str:
    out = ""
    for drive in _rodded(figure):
        form = drive.transmission
        if (form.ball_on or drive.joint) == ident:
            out += (
                f'<site name="{drive.id}_ball" pos="{_mm(a - o for a, o in zip(form.ball_mm, origin, strict=True))}"/>'
            )
        if figure.mounted_on(drive) == ident:
            axis = np.array(form.shaft_axis) / np.linalg.norm(form.shaft_axis)
            to = np.array(form.horn_to) - np.dot(form.horn_to, axis) * axis
            hole = to / np.linalg.norm(to) * form.horn_mm
            at = [a - o for a, o in zip(form.shaft_mm, origin, strict=True)]
            out += (
                f'<body name="{drive.id}_horn" pos="{_mm(at)}"><joint name="{drive.id}_horn" axis="{" ".join(map(repr, axis.tolist()))}" armature="1e-7"/>'
                f'<geom type="sphere" size="{CRUMB_R}" mass="{CRUMB}"/><site name="{drive.id}_hole" pos="{_mm(hole.tolist())}"/></body>'
            )
    return out


def _rod(drive) -> str:
    return f'<spatial name="{drive.id}_rod"><site site="{drive.id}_hole"/><site site="{drive.id}_ball"/></spatial>'


def _kept(drive) -> str:
    return f'<tendon tendon1="{drive.id}_rod" polycoef="0 0 0 0 0" solref="0.002 1" solimp="0.9999 0.99999 0.00001"/>'


def _way(element):
    return (element.ends[0], *element.over, element.ends[1])


def _tendon(spring) -> str:
    """An extension spring draws only beyond its free length, a compression spring pushes only short of it."""
    free = spring.free_mm / 1e3
    slack = f"{free!r} 1000" if spring.presses else f"0 {free!r}"
    over = "".join(f'<site site="{spring.id}_{i}"/>' for i in range(len(_way(spring))))
    return f'<spatial stiffness="{spring.rate_N_per_mm * 1e3 * spring.count!r}" springlength="{slack}">{over}</spatial>'


def gravity_of(posture: Posture, g: float) -> np.ndarray:
    """Gravity in the base's frame: the base is rolled about x, then leaned about y; MuJoCo's quaternions turn it back."""
    q, back, out = _quat((posture.roll_deg, posture.lean_deg, 0.0)), np.zeros(4), np.zeros(3)
    mujoco.mju_negQuat(back, q)
    mujoco.mju_rotVecQuat(out, np.array([0.0, 0.0, -g]), back)
    return out - np.array(posture.acceleration_mps2)


class Twin:
    """A MuJoCo model with joints looked up by the figure's ids."""

    def __init__(self, figure: Figure, only: str | None = None, pose: dict[str, float] | None = None) -> None:
        self.model = mujoco.MjModel.from_xml_string(xml(figure, only, pose))
        self.data = mujoco.MjData(self.model)
        self.figure = figure

    def dof(self, ident: str) -> int:
        return int(self.model.joint(ident).dofadr[0])

    def inverse(self, q: dict[str, float], qd=None, qdd=None, gravity=(0, 0, -9.80665)) -> dict[str, float]:
        """What each drive must give, by mj_inverse."""
        self.model.opt.gravity[:] = gravity
        for ident in q:
            k = self.dof(ident)
            self.data.qpos[k] = q[ident]
            self.data.qvel[k] = (qd or {}).get(ident, 0.0)
            self.data.qacc[k] = (qdd or {}).get(ident, 0.0)
        mujoco.mj_inverse(self.model, self.data)
        return {ident: float(self.data.qfrc_inverse[self.dof(ident)]) for ident in q}


def outcome(figure: Figure, joint: str, pose: dict[str, float], posture: Posture, cap: float) -> str:
    """Does one drive with that much torque hold its joint at a pose? Gravity is ramped over 2 s.

    'fell': more than 2° after 3 s; 'sagged': less, but the drive gives all it has and the angle is gone (a load that hangs finds
    a rest a little lower); else 'held'.

    The controller sees target and angle only (its rate is a difference of angles); its gain is tied to the inertia.
    """
    twin = Twin(figure, only=joint, pose=pose)
    model, data = twin.model, twin.data
    h = model.opt.timestep = 0.001
    g, pull, place, push = (
        gravity_of(posture, figure.assumptions.gravity_mps2),
        model.opt.gravity,
        data.qpos,
        data.qfrc_applied,
    )
    mujoco.mj_forward(model, data)
    full = np.zeros((1, 1))
    mujoco.mj_fullM(model, data, full)
    inertia = float(full[0, 0])
    kp, kd, ki = inertia * 100.0**2, inertia * 140.0, inertia * 100.0**2 * 10
    total, last, far = 0.0, 0.0, math.radians(20)
    for step in range(round(3.0 / h)):
        if step * h <= 2.0:
            pull[:] = g * (step * h / 2.0)
        angle = float(place[0])
        wanted = -kp * angle - kd * (angle - last) / h - total
        torque = cap if wanted > cap else -cap if wanted < -cap else wanted
        if torque == wanted:
            total += ki * angle * h
        last = angle
        push[0] = torque
        mujoco.mj_step(model, data)
        if abs(angle) > far:
            return "fell"
    away = abs(float(place[0]))
    spent = abs(abs(float(push[0])) - cap) < 1e-9
    return "fell" if away > math.radians(2) else "sagged" if spent and away > math.radians(0.1) else "held"
