"""The wearer of a figure: where their ears and neck are in it, how long a neck bears what, and one thing that is asked of them."""

from __future__ import annotations

import math
from functools import lru_cache

import numpy as np

from karakuri.bodies.inertia import Array
from karakuri.bodies.tree import Tree
from karakuri.catalogue import people
from karakuri.frozen import Frozen
from karakuri.model.figure import Figure
from karakuri.model.worn import Worn


class Asked(Frozen):
    """One thing asked: `need` against `can`, of one kind; `offs` by how much each guess could raise or lower the need, `can_off` what is borne."""

    name: str
    need: float
    can: float
    offs: tuple[tuple[str, float], ...] = ()
    can_off: float = 0.0
    posture: int = 0

    @property
    def reserve(self) -> float:
        return self.can / self.need if self.need > 1e-12 else math.inf

    @property
    def interval(self) -> tuple[float, float]:
        """Low and high of the reserve, with every guess at its bound."""
        off = sum(by for _, by in self.offs)
        low = max(0.0, self.can - self.can_off) / max(self.need + off, 1e-12)
        return low, ((self.can + self.can_off) / (self.need - off) if self.need > off + 1e-12 else math.inf)

    @property
    def guess(self) -> str:
        """What decides most of how far off it may be."""
        most = max(self.offs, key=lambda each: each[1], default=("", 0.0))
        worn = self.can_off / self.can if self.can > 0 else 0.0
        return most[0] if self.need <= 0 or most[1] / self.need >= worn else "how strong people’s necks are"


def endurance_s(share: float) -> float:
    """How long a share of its strength can be held, s: Rohmert 1960, from memory; never less than a second, an hour or more as an hour."""
    if share <= 0.1:
        return 3600.0
    minutes = -1.5 + 2.1 / share - 0.6 / share**2 + 0.1 / share**3
    return min(3600.0, max(1.0, 60.0 * minutes))


@lru_cache(maxsize=256)
def held_share(seconds: float) -> float:
    """The share of its strength that can be held for so long: the same curve read the other way, from 1 down to 0.1."""
    low, high = 0.1, 1.0
    for _ in range(60):
        middle = 0.5 * (low + high)
        low, high = (middle, high) if endurance_s(middle) > seconds else (low, middle)
    return low


def from_ears(ears: Array, behind: float, below: float, turned: float) -> Array:
    """A place of the wearer (3,) m in the base's frame: so far behind and below the ears (3,) m with the head upright, where what it belongs to
    is turned nose-down, rad, against the base."""
    c, s = math.cos(turned), math.sin(turned)
    return np.asarray(ears + np.array([-c * behind - s * below, 0.0, s * behind - c * below]))


def ears_of(worn: Worn, tree: Tree) -> Array:
    """The middle between the wearer's ear holes, (3,) m in the base's frame: as said, else the middle of all that weighs something, at rest."""
    said = worn.ears_mm
    if said is not None:
        return np.array(said) / 1e3
    at = tree.body_at[tree.body_mass > 0]
    return np.asarray((at.min(axis=0) + at.max(axis=0)) / 2) if len(at) else np.zeros(3)


def neck_of(figure: Figure, tree: Tree) -> tuple[Array, Array] | None:
    """The foot and the top of the wearer's neck, (3,) m in the base's frame, upright; None where nobody wears it."""
    if figure.base.held != "worn":
        return None
    known, worn = people(), figure.base.worn
    height = (worn.wearer.height_mm or known["guesses"]["height_mm"][0]) / 1e3
    places, ears = known["places"], ears_of(worn, tree)

    def there(behind: float, below: float) -> Array:
        return from_ears(ears, behind, below, math.radians(worn.pitch_deg))

    foot = there(places["neck_behind_mm"] / 1e3, places["neck_below_share"] * height)
    return foot, there(places["condyles_behind_mm"] / 1e3, places["condyles_below_mm"] / 1e3)
