"""Samples of a score: torque and speed side by side, so that what comes together is added and what does not is not."""

import numpy as np
import pytest

from karakuri.checks.contract import LOADS
from karakuri.demo import owl_path
from karakuri.files.disk import load
from karakuri.model.edit import Edit, Set, apply
from karakuri.model.moves import Row, moves_of
from karakuri.power.supply import StallSum, draw
from karakuri.sizing.page import BIN_S, SAMPLE_S
from karakuri.study.study import study
from tests.figures import scored


@pytest.fixture(scope="module")
def owl():
    return study(load(owl_path()))


def wider(values):
    """The larger of each and those beside it: what falls on an edge may count on either side."""
    return np.maximum(values, np.maximum(np.append(values[1:], 0.0), np.append(0.0, values[:-1])))


def test_the_largest_sample_of_a_tenth_is_that_tenths_effort(owl):
    """Two ways to the same: the finest never beyond, and as much somewhere in each tenth."""
    for load_ in owl.results[LOADS].joints:
        fine = load_.samples[0].reshape(-1, round(BIN_S / SAMPLE_S))
        assert np.all(wider(fine.max(axis=1)) >= load_.effort - 1e-6)
        assert load_.samples[0].max() == pytest.approx(load_.effort.max(), rel=1e-6)
        assert load_.samples[1].max() == pytest.approx(max(load_.top[0], 0.0), rel=1e-6)


def test_currents_that_do_not_come_together_are_not_added():
    """A worked case: peaks one after another draw the peak of the sum, not the sum of peaks."""
    stalls = StallSum((("a", 4.0), ("b", 4.0)), 8.0, 10.0)
    one, other = np.zeros(100), np.zeros(100)
    one[10:20], other[50:60] = 1.0, 1.0
    apart = draw(stalls, {"a": 1.0, "b": 1.0}, {}, {"a": one, "b": other}, SAMPLE_S)
    together = draw(stalls, {"a": 1.0, "b": 1.0}, {}, {"a": one, "b": np.roll(other, -40)}, SAMPLE_S)
    assert apart.score == pytest.approx(4.0) and together.score == pytest.approx(8.0)
    assert apart.score_at == pytest.approx(0.2) and together.score_at == pytest.approx(0.2)


def test_two_joints_within_a_tenth_of_a_second_are_told_apart(owl):
    """What the tenths add, the finer samples need not: never more, and here less."""
    found = owl.results[LOADS]
    loads = [each for each in found.joints if each.joint.can is not None]
    coarse = sum(np.repeat(wider(each.effort), 5) / each.joint.can.stall for each in loads)
    fine = sum(each.samples[0] / each.joint.can.stall for each in loads)
    n = min(len(coarse), len(fine))
    assert np.all(fine[:n] <= coarse[:n] + 1e-5) and fine.max() <= coarse.max() + 1e-6


def test_a_leap_draws_all_it_has_while_it_lasts():
    figure = scored(Row(1.0, 0.0, 25.0, "sudden"), length_s=3.0)
    found = study(figure).results[LOADS].joints[0]
    held = np.flatnonzero(found.samples[0] >= found.joint.can.stall * 0.999) * SAMPLE_S
    assert 0.95 <= held.min() <= 1.0 and held.max() < 1.6


def test_a_still_figure_keeps_what_it_holds():
    figure = apply(
        scored(length_s=5.0), Edit("m", (Set(("score", "channels", "nod", "moves"), moves_of([Row(0.0, 1.0, 20.0)])),))
    )
    found = study(figure).results[LOADS].joints[0]
    still = found.samples[0][round(2.0 / SAMPLE_S) :]
    assert np.ptp(still) < 1e-6 and still[0] > 0 and found.samples[1][-1] == 0.0
