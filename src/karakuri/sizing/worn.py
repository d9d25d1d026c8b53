"""What a worn figure asks of its wearer, in each posture and by each way of carrying it: neck, pads, turning, and where its face looks.

Moments are what the wearer must hold, N·m; forward counts +. The wearer is a trunk that leans, a neck and a head that leans by itself;
figures of people and guidance come from the catalogue (people.json, each with its source).
"""

from __future__ import annotations

import math
from typing import Any

import numpy as np

from karakuri.bodies.coordinates import complete as follow
from karakuri.bodies.inertia import Array
from karakuri.bodies.tree import Tree, posture_rotation
from karakuri.catalogue import people
from karakuri.frozen import Frozen
from karakuri.mechanics.kinematics import place, place_bodies
from karakuri.mechanics.leans import loose_of, most_along
from karakuri.mechanics.starts import corners_first, rest_pose
from karakuri.mechanics.statics import centre_of_mass
from karakuri.mechanics.tied import free_of, of_degree, tied_coordinate_ascent
from karakuri.model.stand import Base, Posture, stance
from karakuri.model.worn import WAYS, WayKind, Worn
from karakuri.sizing.wearer import Asked, ears_of, endurance_s, from_ears, held_share

BENT_S, LEVEL_S, BENT_DEG = 60.0, 1200.0, 5.0
"""How long a posture is taken to last where nobody said: bent more than so far, or not. Common practice, no source."""
AXES: dict[WayKind, tuple[str, ...]] = {
    "head": ("turn", "nod", "tilt"),
    "shoulders": ("turn",),
    "rods": ("turn, on a bearing",),
    "gimbal": ("turn", "nod", "tilt"),
}
AHEAD, BEHIND, LEFT, RIGHT = 0, 1, 2, 3
WEIGHS, EARS = "what it weighs", "where your ears are in it"
TRIED, CLIMBED, SWEEPS = 64, 4, 3
"""Poses from which the largest inertia is looked for, the best of them that are climbed on from, and how often."""
PEAK = 10 / math.sqrt(3)
"""Largest acceleration of a minimum-jerk move, of its way ÷ its time squared (Flash and Hogan 1985)."""


class Stance(Frozen):
    """One posture: angles rad (down +) of the wearer's trunk and head and of the figure's base; face: up +; N and N·m on neck, shoulders and hips.

    `share` is the part of the neck's strength that is used, `own` N·m what the wearer's head alone asks, `minutes` how long the neck bears it.
    """

    posture: int
    trunk: float
    head: float
    lean: float
    face: float
    faces: bool
    lasts: float
    neck: float
    moment: float
    own: float
    share: float
    minutes: float
    shoulders: float
    shoulders_moment: float
    hips: float
    strap: float
    pressure: float


class WayFound(Frozen):
    """How one way carries it. mass kg and weight N of the figure, adds kg what carries it may weigh; ears m where they are taken to be; tips: 1 ahead of the joint under
    the skull, −1 behind; contact m² that really touches; inertia kg·m² about the upright axis through the head."""

    by: WayKind
    asked: tuple[Asked, ...]
    stances: tuple[Stance, ...]
    mass: float
    weight: float
    adds: float
    ears: tuple[float, float, float]
    tips: int
    contact: float
    inertia: float
    acceleration: float
    guessed: tuple[str, ...]

    @property
    def axes(self) -> tuple[str, ...]:
        """Which movements of the wearer's head are left to it."""
        return AXES[self.by]

    @property
    def worst(self) -> Asked:
        return min(self.asked, key=lambda each: each.reserve)


def ways(base: Base, postures: tuple[Posture, ...], g: float, tree: Tree, others: bool = True) -> tuple[WayFound, ...]:
    """What each way of carrying it asks of its wearer, the figure's own first, with `others` all four; g m/s². Empty where nothing weighs
    anything."""
    if float(tree.mass.sum()) <= 0:
        return ()
    own = base.worn.by
    kinds = (own, *(each for each in WAYS if others and each != own))
    upright = Posture(id="upright", name="upright")
    stood = [[stance(base, posture, by) for posture in (*postures, upright)] for by in kinds]
    faced = _faced(tree, [each for some in stood for each in some])
    out = []
    for by, some in zip(kinds, stood, strict=True):
        worn, faced_here, faced = _as_if(base.worn, by), faced[: len(some)], faced[len(some) :]
        out.append(_Wearing(postures, g, tree, worn, others).found(some, faced_here))
    return tuple(out)


def _as_if(worn: Worn, by: WayKind) -> Worn:
    """The same carried another way: what was measured of one way says nothing of another."""
    if by == worn.by:
        return worn
    return Worn(**(dict(worn) | {"by": by, "contact_mm2": None, "ahead_mm": None, "behind_mm": None}))


class _Faced(Frozen, eq=False):
    """The four sides of the room (3, 4) in the base's frame, ahead, behind, left, right: the most mass × way, kg·m, and where every body (k, 3, 4)
    then is, m."""

    sides: Array
    values: Array
    bodies: Array


def _faced(tree: Tree, stood: list[Posture]) -> list[_Faced]:
    """How far its weight can lie each way of the room, while the base stands so; all of them sought at once."""
    level = np.array([[1.0, -1.0, 0.0, 0.0], [0.0, 0.0, 1.0, -1.0], [0.0, 0.0, 0.0, 0.0]])
    sides = [posture_rotation(posture).T @ level for posture in stood]
    values, poses = most_along(tree, np.concatenate(sides, axis=1))
    bodies = place_bodies(tree, place(tree, poses))
    four = [slice(4 * i, 4 * i + 4) for i in range(len(stood))]
    return [_Faced(side, values[some], bodies[:, :, some]) for side, some in zip(sides, four, strict=True)]


class _Wearing:
    """One way being worked out."""

    def __init__(self, postures: tuple[Posture, ...], g: float, tree: Tree, worn: Worn, settled: bool) -> None:
        self.postures, self.tree, self.worn, self.settled = postures, tree, worn, settled
        self.known, self.by = people(), worn.by
        self.g, self.total = g, float(tree.mass.sum())
        self.weight, self.bound = self.g * self.total, self.g * float(tree.body_bound.sum())
        self.guessed: list[str] = []
        guess: dict[str, Any] = self.known["guesses"]
        self.height = self._or(worn.wearer.height_mm, guess["height_mm"][0], "your height") / 1e3
        self.heavy = self._or(worn.wearer.mass_g, guess["mass_g"][0], "your weight") / 1e3
        self.heavy_off = 0.0 if worn.wearer.mass_g is not None else guess["mass_g"][1]
        self.height_off = 0.0 if worn.wearer.height_mm is not None else guess["height_mm"][1]
        self.ears = ears_of(worn, tree)
        self.ears_off = guess["ears_mm"] / 1e3 if worn.ears_mm is None else 0.0
        if worn.ears_mm is None:
            self.guessed.append(EARS)
        self.contact = self._or(worn.contact_mm2, guess["contact_mm2"][self.by], "what really touches") / 1e6
        self.contact_off = guess["contact_share"] if worn.contact_mm2 is None else 0.0
        self.ahead, self.behind = (
            self._or(given, guess["ahead_mm"][self.by], "how far its pads reach") / 1e3 for given in (worn.ahead_mm, worn.behind_mm)
        )  # fmt: skip
        self.strength = self.known["necks"][worn.wearer.neck]
        self.places, self.segments = self.known["places"], self.known["segments"]

    def _or(self, given: float | None, guess: float, words: str) -> float:
        if given is None and words not in self.guessed:
            self.guessed.append(words)
        return guess if given is None else given

    def found(self, stood: list[Posture], faced: list[_Faced]) -> WayFound:
        """From the base's postures and how its weight lies in each; the last of both is upright."""
        stances, asked = [], []
        for i, posture in enumerate(self.postures):
            one, some = self._stance(i, posture, math.radians(stood[i].lean_deg), faced[i])
            stances.append(one)
            asked += some
        inertia = self._inertia()
        acceleration = PEAK * math.radians(self.worn.turn_deg) / self.worn.turn_s**2
        asked += [*self._guidance(faced[-1]), self._turning(inertia, acceleration)]
        x, y, z = (float(v) for v in self.ears)
        point = self._condyles()
        tips = 1 if self._along(faced[-1], AHEAD, point) >= self._along(faced[-1], BEHIND, point) else -1
        return WayFound(
            by=self.by,
            asked=tuple(asked),
            stances=tuple(stances),
            mass=self.total,
            weight=self.weight,
            adds=self.known["guesses"]["adds_g"][self.by] / 1e3,
            ears=(x, y, z),
            tips=tips,
            contact=self.contact,
            inertia=inertia,
            acceleration=acceleration,
            guessed=tuple(self.guessed),
        )

    # ---- where things are, in the base's frame
    def _from_ears(self, behind: float, below: float, turned_by: float) -> Array:
        """A place of the wearer, m behind and below the ears with the head upright, where what it belongs to is turned nose-down, rad,
        against the figure's base."""
        return from_ears(self.ears, behind, below, turned_by)

    def _along(self, faced: _Faced, k: int, point: Array) -> float:
        """Most of the figure's mass × how far it lies along side k of the room from a point, kg·m."""
        return float(faced.values[k] - self.total * float(faced.sides[:, k] @ point))

    def _off(self, faced: _Faced, k: int, point: Array) -> float:
        """How far off its masses' bounds may put that, kg·m."""
        return self._spread(faced.bodies[:, :, k], faced.sides[:, k], point)

    def _spread(self, bodies: Array, way: Array, point: Array) -> float:
        return float(self.tree.body_bound @ np.abs((bodies - point) @ way))

    # ---- one posture
    def _stance(self, i: int, posture: Posture, lean: float, faced: _Faced) -> tuple[Stance, list[Asked]]:
        trunk = math.radians(posture.lean_deg)
        head = trunk if posture.head_deg is None else math.radians(posture.head_deg)
        lasts = posture.lasts_s or (BENT_S if max(abs(trunk), abs(head)) > math.radians(BENT_DEG) else LEVEL_S)
        own, skin = self._own(head), self.known["skin"]
        need, moment = self._neck(i, own, own, 0.0, lasts), own
        neck = shoulders = hips = about = strap = 0.0
        if self.by == "head":
            need, moment = self._carried_by_neck(i, faced, head - lean, own, lasts)
            neck = self.weight
            bears, strap = self._pads(faced, self.ears, head)
            pressed, borne = bears / (self.contact / 2), skin["head_kPa"]
        elif self.by == "shoulders":
            point = self._shoulders(trunk - lean)
            about, shoulders = self.g * self._along(faced, AHEAD, point), self.weight
            bears, strap = self._pads(faced, point, trunk)
            pressed, borne = bears / (self.contact / 2), skin["shoulders_kPa"]
        else:
            shoulders, hips, about, pull = self._harness(faced, trunk, lean)
            pressed, borne = (shoulders + pull) / self.contact, skin["shoulders_kPa"]
            if self.by == "gimbal":
                push, offs = self._pushed()
                moment = math.copysign(abs(own) + push, own or 1.0)
                need = self._neck(i, moment, own, 0.0, lasts, offs)
        share = held_share(lasts) / need.reserve if need.reserve > 0 else 0.0
        stands = Stance(
            i, trunk, head, lean, -lean, posture.faces, lasts, neck, moment, own, share, endurance_s(share) / 60, shoulders, about, hips, strap, pressed
        )  # fmt: skip
        return stands, [need, self._pressure(i, pressed, borne * 1e3)]

    def _carried_by_neck(self, i: int, faced: _Faced, turned: float, own: float, lasts: float) -> tuple[Asked, float]:
        """What the neck must hold that carries all of it, and the moment, N·m: leaning forward or back, whichever is worse."""
        foot = self._from_ears(
            self.places["neck_behind_mm"] / 1e3, self.places["neck_below_share"] * self.height, turned
        )
        side = self.g * max(0.0, self._along(faced, LEFT, foot), self._along(faced, RIGHT, foot))
        both = []
        for k, sign in ((AHEAD, 1.0), (BEHIND, -1.0)):
            moment = sign * self.g * self._along(faced, k, foot) + own
            offs = ((WEIGHS, self.g * self._off(faced, k, foot)), (EARS, self.weight * self.ears_off))
            both.append((self._neck(i, moment, own, side, lasts, offs), moment))
        return min(both, key=lambda each: each[0].reserve)

    def _shoulders(self, turned: float) -> Array:
        below = (self.segments["ears"] - self.segments["shoulders"]) * self.height
        return self._from_ears(self.places["shoulders_behind_mm"] / 1e3, below, turned)

    def _own(self, head: float) -> float:
        """Moment of the wearer's own head about the foot of the neck, N·m, leaning forward by head rad."""
        mass = self.segments["head_share"] * self.heavy
        up, out = self.places["neck_below_share"] * self.height, self.places["neck_behind_mm"] / 1e3
        return float(self.g * mass * (out * math.cos(head) + up * math.sin(head)))

    def _neck(
        self, i: int, moment: float, own: float, side: float, lasts: float, offs: tuple[tuple[str, float], ...] = ()
    ) -> Asked:
        """What the neck must hold against what it can for so long; to the side counts with it, root of the sum of squares."""
        strong, spread = self.strength["extension" if moment >= 0 else "flexion"]
        need = strong * math.hypot(moment / strong, side / self.strength["lateral"][0])
        body = abs(own) * (self.heavy_off + self.height_off)
        can = held_share(lasts)
        return Asked("neck", need, can * strong, (*offs, *((("your own head", body),) if body > 0 else ())), can * spread, i)  # fmt: skip

    def _pads(self, faced: _Faced, point: Array, bent: float) -> tuple[float, float]:
        """What the worse of two pads, ahead and behind, bears, and what a strap must hold so that it does not tip off, N: levers on the level."""
        flat = math.cos(bent)
        a, b = self.ahead * flat, self.behind * flat
        worst, strap = self.weight / 2, 0.0
        for k, near, far in ((AHEAD, a, b), (BEHIND, b, a)):
            lever = self._along(faced, k, point) / self.total
            wide = max(near + far, 1e-3)
            worst = max(worst, self.weight * (lever + far) / wide)
            strap = max(strap, self.weight * (lever - near) / wide)
        return worst, strap

    def _pressure(self, i: int, pressed: float, borne: float) -> Asked:
        share = self.bound / self.weight if self.weight > 0 else 0.0
        offs = ((WEIGHS, pressed * share), ("what really touches", pressed * self.contact_off))
        return Asked("pads", pressed, borne, offs, 0.0, i)

    def _harness(self, faced: _Faced, trunk: float, lean: float) -> tuple[float, float, float, float]:
        """On shoulders and hips, N; the moment about the hips, N·m; what the shoulders pull back because of it, N. The trunk between hips and
        shoulders is the lever that pulls it back."""
        guess = self.known["guesses"]
        tall = (self.segments["shoulders"] - self.segments["hips"]) * self.height
        below = (self.segments["ears"] - self.segments["hips"]) * self.height
        if self.by == "gimbal":
            out = self._or(self.worn.stick_mm, guess["stick_mm"], "how far ahead the stick stands") / 1e3
            about = self.weight * (out * math.cos(trunk) + below * math.sin(trunk))
            return 0.0, self.weight, about, abs(about) / tall
        hips = self._or(self.worn.hips_share, guess["hips_share"], "what the hips bear")
        point = self._from_ears(self.places["shoulders_behind_mm"] / 1e3, below, trunk - lean)
        fore, aft = (self.g * self._along(faced, k, point) for k in (AHEAD, BEHIND))
        about = fore if fore >= aft else -aft
        return (1 - hips) * self.weight, hips * self.weight, about, max(fore, aft) / tall

    def _pushed(self) -> tuple[float, tuple[tuple[str, float], ...]]:
        """The moment by which a face must push what hangs in a gimbal, at most, N·m: its weight × how far its middle lies from the gimbal."""
        point = self._gimbal()
        compass = np.array(
            [(x, y, z) for x in (-1, 0, 1) for y in (-1, 0, 1) for z in (-1, 0, 1) if x or y or z], dtype=float
        ).T
        compass /= np.linalg.norm(compass, axis=0)
        _, poses = most_along(self.tree, compass)
        away = np.linalg.norm(centre_of_mass(self.tree, poses) - point[:, None], axis=0)
        pose = poses[:, int(np.argmax(away))]
        bodies = place_bodies(self.tree, place(self.tree, pose[:, None]))[:, :, 0]
        off = self.g * max(self._spread(bodies, way, point) for way in np.eye(3))
        guess = self.known["guesses"]["gimbal_mm"] / 1e3 if self.worn.gimbal_mm is None else 0.0
        return self.weight * float(away.max()), ((WEIGHS, off), ("where the gimbal is", self.weight * guess))

    def _gimbal(self) -> Array:
        if self.worn.gimbal_mm is not None:
            return np.array(self.worn.gimbal_mm) / 1e3
        if "where the gimbal is" not in self.guessed:
            self.guessed.append("where the gimbal is")
        return centre_of_mass(self.tree, rest_pose(self.tree)[:, None])[:, 0]

    # ---- the whole
    def _guidance(self, faced: _Faced) -> tuple[Asked, ...]:
        """What may rest on a head at all, and how far forward: with the head upright."""
        if self.by != "head":
            return ()
        known = self.known["guidance"]
        point = self._condyles()
        k = max((AHEAD, BEHIND), key=lambda k: self._along(faced, k, point))
        offs = ((WEIGHS, self.g * self._off(faced, k, point)), (EARS, self.weight * self.ears_off))
        return (
            Asked("mass", self.total, known["head_kg"], ((WEIGHS, float(self.tree.body_bound.sum())),)),
            Asked("condyles", self.g * max(self._along(faced, k, point), 0.0), known["condyles_Nm"], offs),
        )

    def _condyles(self) -> Array:
        behind, below = self.places["condyles_behind_mm"] / 1e3, self.places["condyles_below_mm"] / 1e3
        return self._from_ears(behind, below, math.radians(self.worn.pitch_deg))

    def _inertia(self) -> float:
        """About the upright axis through the ears, kg·m², the largest over all that its joints can do: from many places of them on, each joint in
        turn to its best, for in any one angle it is a sine and one of twice that; while remedies are tried or a hand drags, of these places alone."""
        tree = loose_of(self.tree)
        axis = self._from_ears(0.0, -1.0, math.radians(self.worn.pitch_deg)) - self.ears

        def about(q: Array) -> Array:
            placed, out = place(tree, q), np.zeros(q.shape[1])
            for k in range(len(tree.ids) + 1):
                off = placed.com[k] - self.ears[:, None]
                out += tree.mass[k] * (np.sum(off * off, axis=0) - (axis @ off) ** 2)
                seen = np.einsum("ijn,i->jn", placed.rotation[k], axis) if k < len(tree.ids) else axis[:, None]
                out += np.einsum("in,ij,jn->n", seen, tree.inertia[k], seen)
            return out

        free = free_of(tree, tuple(range(len(tree.ids))))
        q = np.repeat(rest_pose(tree)[:, None], TRIED, axis=1)
        low, high = tree.low[free, None], tree.high[free, None]
        q[free, 1:] = low + corners_first(len(free), TRIED - 1, TRIED // 2) * (high - low)
        follow(tree.coupling, q)
        tried = about(q)
        if not self.settled:
            return max(0.0, float(tried.max()))
        best = q[:, np.argsort(-tried)[:CLIMBED]]
        most = tied_coordinate_ascent(tree, about, free, best, of_degree(tree, about, 2), SWEEPS)
        return max(0.0, float(most.max()))

    def _turning(self, inertia: float, acceleration: float) -> Asked:
        """What the neck gives to turn it, and again to stop it."""
        strong, spread = self.strength["rotation"]
        guess = self.known["guesses"]
        rubs = (
            guess["rubs_share"] * self.weight * guess["rubs_at_mm"] / 1e3 if self.by in ("shoulders", "rods") else 0.0
        )
        offs = (
            (WEIGHS, inertia * acceleration * self.bound / max(self.weight, 1e-12)),
            ("what it turns on", 0.5 * rubs),
        )
        return Asked("turning", inertia * acceleration + rubs, strong, offs, spread)


def best_pitch(found: WayFound, pitch: float) -> float | None:
    """The pitch of the mount, rad, with which the face looks least away from ahead over the postures in which it should; None where none should."""
    faces = [each.face - pitch for each in found.stances if each.faces]
    return -(min(faces) + max(faces)) / 2 if faces else None
