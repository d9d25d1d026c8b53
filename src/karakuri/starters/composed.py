"""A figure, or features for one that there is, as one edit; and what it comes to."""

from __future__ import annotations

import math
from collections.abc import Iterable

from msgspec.structs import replace

from karakuri.bodies.tree import build_tree
from karakuri.frozen import Frozen
from karakuri.model.base import Place
from karakuri.model.drive import Actuator
from karakuri.model.edit import Add, Edit, Set, Step, apply
from karakuri.model.figure import Figure
from karakuri.starters.contract import Kind, Starter, middle
from karakuri.starters.maker import Maker

EYE_SHARE = 0.16
"""An eyeball across, of the head's height, where nobody measured one: common practice, no source."""
WIRES, AXES_EACH = 3, 4
"""Of a servo: signal, plus, minus. One person works two sticks of two axes each in a show: common practice, no source."""


class Asked(Frozen):
    """What a builder asks for: head and eyeball in mm, which starters. Without a kind they are hung on what a figure has already, `on` it with the head's
    middle at `at`, mm from the datum. `feeds`: the supply is to be as large as its servos need."""

    tall_mm: float
    eye_mm: float | None
    starters: tuple[Starter, ...]
    kind: Kind | None = None
    on: str = "base"
    at: Place = (0.0, 0.0, 0.0)
    feeds: bool = False

    @property
    def eye(self) -> float:
        """The eyeball, mm: as measured, else in the head's proportion."""
        return self.eye_mm or round(EYE_SHARE * self.tall_mm, 1)


class Down(Frozen, eq=False):
    """The edit, and the ids of the servos it sets down, in its order."""

    edit: Edit
    drives: tuple[str, ...]


def set_down(figure: Figure, asked: Asked) -> Down:
    """The edit that sets it down in a figure; sizes in mm. What carries others comes first, whatever was asked for first."""
    kind = asked.kind
    maker = Maker(figure, asked.tall_mm, asked.eye, middle(kind, asked.tall_mm) if kind is not None else asked.at, asked.on)  # fmt: skip
    steps: list[Step] = []
    necks = [each for each in asked.starters if each.feature == "neck"]
    for each in necks:
        each.put(maker)
    if kind is not None:
        steps += [Set(("base", field), value) for field, value in kind.base(asked.tall_mm).items()]
        kind.put(maker)
        own = {str(posture["id"]) for posture in kind.postures}
        kept = tuple(posture for posture in figure.postures if posture.id not in own and posture.id != "level")
        steps.append(Set(("postures",), (*kind.postures, *kept)))
    for each in asked.starters:
        if each not in necks:
            each.put(maker)
    names = ", ".join(each.name.lower() for each in asked.starters)
    what = (kind.name.lower() if kind is not None else "") + (": " if kind is not None and names else "") + names
    return Down(
        Edit(f"set down {what}"[:200] if what else "set down nothing", (*steps, *maker.steps)), tuple(maker.drives)
    )


def made(asked: Asked) -> Figure:
    """The figure by itself, with the smallest servos, mm."""
    nothing = Figure()
    return apply(nothing, set_down(nothing, asked).edit)


def with_servos(down: Down, servos: Iterable[tuple[str, Actuator]]) -> Down:
    """The same with other servos for some drives, by id."""
    other = dict(servos)

    def changed(step: Step) -> Step:
        if (
            isinstance(step, Add)
            and step.collection == "drives"
            and isinstance(step.item, dict)
            and step.item["id"] in other
        ):
            return Add("drives", step.item | {"actuator": other[step.item["id"]]})
        return step

    return replace(down, edit=Edit(down.edit.name, tuple(changed(step) for step in down.edit.steps)))


def with_supply(down: Down, amps: float) -> Down:
    """The same with a supply of so many amperes."""
    step = Set(("supply", "current_A"), amps)
    return replace(down, edit=Edit(down.edit.name, (*down.edit.steps, step)))


class Sums(Frozen):
    """What an edit brings: axes that are driven, servos, wires of theirs, grams with the servos and how many of the parts have none, the price of the servos
    and how many have none, people for a show by hand."""

    axes: int
    servos: int
    wires: int
    grams: float
    price: float
    unpriced: int
    people: int


def sums(figure: Figure, edit: Edit) -> Sums:
    """What it adds to a figure, g and the figure's currency; a joint that is pulled by a hand is an axis too."""
    after = apply(figure, edit)
    old, known = {joint.id for joint in figure.joints}, {drive.id for drive in figure.drives}
    axes = sum(1 for joint in after.joints if joint.id not in old and joint.role != "follows")
    drives = [drive for drive in after.drives if drive.id not in known]
    mass = float(build_tree(after).mass.sum() - build_tree(figure).mass.sum()) * 1e3
    prices = [drive.actuator.price for drive in drives]
    return Sums(
        axes, len(drives), WIRES * len(drives), mass, sum(price or 0.0 for price in prices), sum(price is None for price in prices),
        math.ceil(axes / AXES_EACH),
    )  # fmt: skip


def brought(asked: Asked) -> Sums:
    """The same on nothing, with the smallest servos, in mm and g as it asks."""
    nothing = Figure()
    return sums(nothing, set_down(nothing, asked).edit)
