"""Moves of a score that run past their end: the same train as the wanted move's, told where they are, shown over the ribbon, cured."""

import math

import numpy as np
import pytest

from karakuri.checks.contract import RINGS, SHAKES
from karakuri.model.channel import JointChannel
from karakuri.model.edit import apply
from karakuri.model.figure import Figure
from karakuri.model.moves import Row, moves_of
from karakuri.model.score import Score
from karakuri.study.remedies import remedies
from karakuri.study.reuse import Reuse
from karakuri.study.study import study
from tests.references.test_shaking import hollow


def played(*rows: Row, **move) -> Figure:
    """A hollow head of half a kilogram on a plastic micro servo, with a score."""
    figure = hollow(**move)
    channel = JointChannel(id="nod", name="Nod", joints=(figure.joints[0].id,), moves=moves_of(list(rows)))
    return Figure(**(dict(figure) | {"scores": (Score(length_s=8.0, channels=(channel,)),)}))


def rung(done, k=0):
    return next(each for each in done.results[RINGS][done.figure.joints[0].id] if each.k == k)


def test_a_move_of_the_score_ends_as_the_same_wanted_move_does():
    high = hollow().joints[0].range_deg[1]
    by = min(60.0, high)
    done = study(played(Row(0.5, 0.0, by, "sudden"), by=by))
    joint = done.figure.joints[0].id
    found = done.results[SHAKES][joint]
    one = rung(done)
    assert found.past > found.visible  # else nothing is tried
    assert one.past == pytest.approx(found.answer.past, rel=0.02)
    assert float(one.places.max()) >= math.radians(by) + 0.5 * one.past and one.times[0] == pytest.approx(0.5)
    told = done.finding("rings.nod")
    assert told.verdict == "fails" and told.move.number == 0 and told.at_s == pytest.approx(0.5)


def test_the_next_move_cuts_it_short_and_slow_ones_are_not_told():
    done = study(played(Row(0.5, 0.0, 25.0, "sudden"), Row(0.7, 3.0, 0.0)))
    assert float(rung(done, 0).times[-1]) <= 0.7 + 1e-6
    worst = done.finding("rings.nod")
    assert worst.move.number == 0
    assert rung(done, 1).past < rung(done, 0).past
    calm = study(played(Row(0.5, 4.0, 10.0)))
    assert calm.finding("rings.nod") is None


def test_a_quick_study_leaves_what_was_told_and_what_is_hurried_rings_more():
    reuse, pasts = Reuse(), []
    for takes in (2.0, 1.0, 0.5, 0.25, 0.12):
        done = study(played(Row(0.5, takes, 25.0)), reuse)
        pasts.append(rung(done).past)
        assert not study(done.figure, reuse, quick=True).results[RINGS]
    assert pasts[-1] > pasts[0] and np.isfinite(pasts).all()


def test_cures_were_studied():
    figure, reuse = played(Row(0.5, 0.4, 25.0), Row(4.0, 0.4, 0.0)), Reuse()
    done = study(figure, reuse)
    finding = done.finding("rings.nod")
    assert finding is not None and finding.verdict == "fails"
    offered = remedies(done, finding, reuse)
    assert offered
    for remedy in offered:
        after = study(apply(figure, remedy.edit)).finding(finding.id)
        assert after is None or after.verdict == remedy.verdict
        assert after is None or after.reserve > finding.reserve
