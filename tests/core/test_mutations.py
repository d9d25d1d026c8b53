"""A thousand mutated figures and tables: each is a figure that is judged and written as JSON, or a sentence; nothing else comes out."""

import json
import random

import pytest

from karakuri.cli.main import pose_report, report
from karakuri.demo import owl_path
from karakuri.errors import Trouble
from karakuri.exchange.frames_csv import read, take_over
from karakuri.exchange.player.bundle import bundle
from karakuri.exchange.player.kinds import KINDS
from karakuri.exchange.player.size import controllers
from karakuri.files.text import from_text, to_text
from karakuri.model.edit import apply
from karakuri.model.figure import Figure
from karakuri.model.finding import show_reserve
from karakuri.model.moves import Row
from karakuri.model.rod import Rod
from karakuri.study.study import study
from karakuri.units import ALL_UNITS
from tests.figures import fig1, random_elements, random_figure, scored
from tests.frames import board_values

STRUNG = random_elements(random_figure(3, 3), 3, count=5)
STRUNG = Figure(**(dict(STRUNG) | {"rods": (Rod(id="r", name="rod", carries=(STRUNG.joints[0].id,), held="socket"),)}))
SMALL = [json.loads(to_text(f)) for f in (scored(Row(0.5, 0.5, 20.0), Row(1.5, 0.5, 0.0, "sudden")), fig1(), STRUNG)]
OWL = json.loads(owl_path().read_text("utf-8"))
NUMBERS = [
    0,
    -1,
    1,
    1e-300,
    5e-324,
    1e-6,
    1e6,
    2e4,
    1e9,
    1e308,
    -1e308,
    720,
    -720,
    86400,
    1e16,
    9999999999,
    0.02,
    500000,
    True,
    None,
    "x",
    [],
    {},
    "1e5",
]
WORDS = ["", "base", "tilt", "\u001b[31mred", "\u202ename", "a" * 81, "sudden", "sphere", None, 7, "ünï", "\x00"]


def mutate(rng: random.Random, data):
    """The data with one to three values replaced, dropped, doubled or scaled."""
    data = json.loads(json.dumps(data))
    for _ in range(rng.choice([1, 1, 1, 2, 3])):
        here, path = data, []
        while isinstance(here, (dict, list)) and here and (len(path) < 2 or rng.random() < 0.8):
            key = rng.choice(list(here)) if isinstance(here, dict) else rng.randrange(len(here))
            path.append((here, key))
            here = here[key]
        if not path:
            continue
        where, key = path[-1]
        old = where[key]
        if isinstance(old, bool) or old is None:
            where[key] = rng.choice([True, False, None, 1, "x"])
        elif isinstance(old, (int, float)):
            mild = [old * rng.uniform(0.05, 20), -old, old + 1, old * 10 ** rng.randint(-3, 3)]
            where[key] = rng.choice(mild if rng.random() < 0.6 else [*NUMBERS, old * 10 ** rng.randint(-12, 12)])
        elif isinstance(old, str):
            where[key] = rng.choice(WORDS)
        elif isinstance(old, list) and old:
            where[key] = rng.choice([old * 2, old[:-1], old[::-1], [old], [], old * 50])
        else:
            where[key] = rng.choice([{}, [], None, 0])
    return data


def all_said(figure) -> None:
    """Judge it and say everything there is to say, in every choice of units, and as JSON that any reader takes."""
    done = study(figure)
    for finding in done.findings:
        for units in ALL_UNITS:
            finding.sentence.show(units)
            [d.show(units) + d.show_title(units) for d in finding.derivations]
        show_reserve(finding.reserve or 0.0)
    json.dumps(report(done), allow_nan=False)
    json.dumps(pose_report(figure, [], None), allow_nan=False)


def rehearsed(figure) -> None:
    board_values(figure)


def told_or_made(make, *given) -> None:
    try:
        make(*given)
    except Trouble as told:
        assert str(told)


@pytest.mark.parametrize("seed", range(10))
def test_mutated_figures_are_judged_or_refused(seed):
    rng = random.Random(seed)
    judged = 0
    for k in range(100):
        data = mutate(rng, rng.choice(SMALL) if k % 10 else OWL)
        try:
            figure = from_text(json.dumps(data), "mutant")
        except Trouble as told:
            assert str(told).isprintable() or "\n" in str(told)
            assert len(str(told)) < 8000 and "\u001b" not in str(told)
            continue
        judged += 1
        if figure.score.length_s > 7200:
            continue  # hours of score are judged with progress, and in tests of their own
        all_said(figure)
        assert from_text(to_text(figure)) == figure
        if figure.score.length_s < 1000:
            for kind in KINDS:
                told_or_made(bundle, figure, controllers()[0], kind)
            told_or_made(rehearsed, figure)
    assert judged >= 10


def test_half_a_million_bad_items_are_told_in_twenty_lines():
    data = dict(OWL) | {"parts": [{"id": 7}] * 500_000}
    with pytest.raises(Trouble) as told:
        from_text(json.dumps(data))
    assert len(str(told.value).splitlines()) <= 24


@pytest.mark.parametrize("seed", range(4))
def test_mutated_tables_are_taken_over_whole_or_not_at_all(seed):
    rng = random.Random(seed)
    figure = scored(Row(0.5, 0.5, 20.0), Row(1.5, 0.5, 0.0))
    lines = ["time_s,nod [deg]", *(f"{k / 50:.2f},{k % 25}" for k in range(60))]
    for _ in range(60):
        mutant = list(lines)
        for _ in range(rng.randint(1, 3)):
            k = rng.randrange(len(mutant))
            mutant[k] = rng.choice(
                [
                    "",
                    ",",
                    "1e308,1",
                    "nan,3",
                    f"{rng.uniform(-1e9, 1e9)},{rng.uniform(-1e9, 1e9)}",
                    '"',
                    mutant[k] + ",5",
                    "0.5,1e400",
                    mutant[k][::-1],
                ]
            )
        try:
            edit, off = take_over(figure, read("\r\n".join(mutant)))
        except Trouble as told:
            assert str(told)
            continue
        try:
            all_said(apply(figure, edit))
        except Trouble as told:
            assert "not done" in str(told)
        assert off >= 0
