"""A remedy does what its words say: each number in its label is one that its edit writes, or by which it changes something."""

from __future__ import annotations

import math

import pytest

from karakuri.checks.rules import RULES
from karakuri.demo import owl_path
from karakuri.errors import EditRefused
from karakuri.files.disk import load
from karakuri.model.channel import JointChannel
from karakuri.model.edit import Edit, Set, apply
from karakuri.model.figure import BallastSite, Supply
from karakuri.model.joint import Move
from karakuri.model.moves import Row, moves_of
from karakuri.model.score import Score
from karakuri.model.stand import Base
from karakuri.study.study import study
from karakuri.units import METRIC
from karakuri.values.value import as_data
from tests.figures import head

IN_FILE = {"mass": 1e3, "length": 1e3, "angle": 180 / math.pi, "rate": 1e-3, "twist": math.pi / 180}


def leaves(value, path=()):
    """Every number in a dumped figure, by its path."""
    if isinstance(value, dict):
        for key, item in value.items():
            yield from leaves(item, (*path, key))
    elif isinstance(value, list | tuple):
        for i, item in enumerate(value):
            yield from leaves(item, (*path, item["id"] if isinstance(item, dict) and "id" in item else i))
    elif isinstance(value, int | float) and not isinstance(value, bool):
        yield path, float(value)


def written(before, after):
    """Numbers an edit writes, by which it changes what was there, and how many times it was."""
    old, out = dict(leaves(as_data(before, all_fields=True))), []
    for path, new in leaves(as_data(after, all_fields=True)):
        was = old.get(path)
        if was != new:
            out += [new, abs(new)] if was is None else [new, abs(new), abs(new - was), new / was if was else new]
    return out


def scored(*rows, **more):
    figure = head(**more)
    nod = JointChannel(id="nod", name="Nod", joints=("tilt",), moves=moves_of(rows))
    return type(figure)(**(dict(figure) | {"scores": (Score(length_s=4.0, channels=(nod,)),)}))


def with_field(figure, path, value):
    return apply(figure, Edit("x", (Set(path, value),)))


SITE = BallastSite(id="rear", name="rear", rides_on="tilt", at_mm=(-80.0, 0.0, 110.0), most_g=900.0)
HEAVY = head(700.0, (60.0, 0.0, 110.0), ranges=(-10.0, 10.0))
FIGURES = {
    "owl": lambda: load(owl_path()),
    "ballast": lambda: with_field(HEAVY, ("ballast_sites",), (SITE,)),
    "stop": lambda: head(500.0, (0.0, 0.0, 170.0), ranges=(-20.0, 80.0)),
    "move": lambda: with_field(HEAVY, ("parts", "skull", "fixed"), False),
    "middle": lambda: with_field(head(900.0, (0.0, 90.0, 130.0), servo="class_1_6"), ("parts", "skull", "fixed"), False),
    "take": lambda: head(servo="class_25", move=Move(by=60.0, time_s=0.15)),
    "range by stops": lambda: head(stops_deg=(-32.0, 40.0)),
    "range by travel": lambda: head(ranges=(-100.0, 100.0)),
    "supply": lambda: with_field(head(), ("supply",), Supply(current_A=1.0)),
    "foot": lambda: with_field(head(), ("base",), Base(outline_mm=((-12.0, -40.0), (12.0, -40.0), (12.0, 40.0), (-12.0, 40.0)))),
    "too fast": lambda: scored(Row(0.5, 0.05, 25.0), Row(2.0, 1.0, 0.0)),
    "far": lambda: scored(Row(0.5, 0.5, 60.0), Row(2.0, 0.9, 0.0)),
    "runs over": lambda: scored(Row(0.5, 1.0, 29.5), Row(1.0, 0.6, 29.8), Row(3.0, 0.5, 0.0)),
    "long held": lambda: scored(Row(0.1, 0.5, 29.0), mass_g=700.0, servo="class_15"),
}  # fmt: skip


@pytest.mark.parametrize("which", FIGURES)
def test_a_remedy_does_what_it_says(which):
    figure = FIGURES[which]()
    done = study(figure)
    rules, seen = {rule.id: rule for rule in RULES}, 0
    for finding in done.findings:
        if finding.rule not in rules or finding.verdict == "not yet judged":
            continue
        for proposal in rules[finding.rule].propose(finding, done.results):
            try:
                changed = written(figure, apply(figure, proposal.edit))
                changed += [n for s in proposal.edit.steps for _, n in leaves(getattr(s, "value", None))]
            except EditRefused:
                continue
            for quantity in proposal.label.quantities:
                value = abs(quantity.value) * IN_FILE.get(quantity.kind, 1.0)
                near = [n for n in changed if abs(abs(n) - value) <= 1e-6 + 1e-4 * value]
                assert near, (proposal.label.show(METRIC), sorted(set(changed))[:20])
                seen += 1
    assert seen >= 1
