"""What becomes of rods and of what holds something on when a joint or a part goes."""

from __future__ import annotations

from karakuri.model.edit import Set, Step
from karakuri.model.figure import Figure
from karakuri.model.part import BASE


def without(figure: Figure, gone: str, on: str = BASE) -> tuple[Step, ...]:
    """What rode on the joint that goes rides on what carried it, and nothing is carried or held that is gone."""
    steps: list[Step] = []
    for collection, items in (("rods", figure.rods), ("fastenings", figure.fastenings)):
        for item in items:
            if item.rides_on == gone:
                steps.append(Set((collection, item.id, "rides_on"), on))
            if gone in item.carries:
                left = tuple(each for each in item.carries if each != gone)
                steps.append(Set((collection, item.id, "carries"), left))
    return tuple(steps)
