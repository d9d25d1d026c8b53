"""The contract of a starter: what it is called, what it asks of people, and how it puts its parts, joints and servos down.

To add one: a file in starters/features/ with a Starter called STARTER whose `put` speaks to a Maker, a name in starters/__init__.py, and its drawing in
workbench/stage/starter_drawings.py.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import Literal

from karakuri.frozen import Frozen
from karakuri.model.base import Place
from karakuri.starters.maker import Maker

Feature = Literal["neck", "jaw", "lids", "eyes", "brows", "ears", "tail", "hand"]
FEATURES: dict[Feature, str] = {
    "neck": "Neck",
    "jaw": "Jaw",
    "lids": "Lids",
    "eyes": "Eyes",
    "brows": "Brows",
    "ears": "Ears",
    "tail": "Body",
    "hand": "Hand",
}


class Starter(Frozen, eq=False):
    """One school of one feature. `driven` says who can drive it, `cannot` what it will not do; `shuts` are ids of those that cannot be there with it."""

    id: str
    name: str
    feature: Feature
    driven: str
    cannot: str
    put: Callable[[Maker], None]
    shuts: tuple[str, ...] = ()


class Kind(Frozen, eq=False):
    """A kind of figure: `tall_mm` its head as long as nobody measured one, mm; `base` the fields of what it stands on for a head so tall, `stand` how high the
    neck begins over the datum, mm; `put` sets down what it stands on and its head's shell."""

    id: str
    name: str
    words: str
    tall_mm: float
    base: Callable[[float], Mapping[str, object]]
    stand: Callable[[float], float]
    put: Callable[[Maker], None]
    postures: tuple[Mapping[str, object], ...] = ({"id": "level", "name": "level"},)
    stands_on: str = "a table"


def middle(kind: Kind, tall_mm: float) -> Place:
    """The middle of a head so tall, mm from the datum."""
    return (round(0.06 * tall_mm, 1), 0.0, round(kind.stand(tall_mm) + 0.62 * tall_mm, 1))
