"""What the rules say of a score, and that what they offer helps when the edited figure is studied whole."""

import itertools
import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from karakuri.checks.of_move import findings_of_move
from karakuri.checks.phrases import late_by
from karakuri.checks.rules import OF_THE_SCORE
from karakuri.cli.size import size_report
from karakuri.demo import owl_path
from karakuri.files.disk import load
from karakuri.mechanics.dynamics import inverse_dynamics
from karakuri.model.channel import JointChannel
from karakuri.model.edit import Edit, Set, apply
from karakuri.model.edits import add_joint
from karakuri.model.element import Anchor, Linear
from karakuri.model.figure import Figure
from karakuri.model.joint import Joint
from karakuri.model.moves import Row, moves_of
from karakuri.model.score import Score
from karakuri.model.score_edits import add_motor, change_move, lay_out, set_moves
from karakuri.sizing.response import response
from karakuri.study.remedies import remedies
from karakuri.study.reuse import Reuse
from karakuri.study.study import study
from karakuri.units import METRIC
from tests.figures import Y, head, part, scored


def told(figure, rule):
    return [f for f in study(figure).findings if f.rule == rule]


def test_a_figure_without_moves_says_nothing_of_its_score():
    for figure in (head(), scored()):
        assert not [f for f in study(figure).findings if f.rule in OF_THE_SCORE]


@pytest.mark.parametrize(("takes", "verdict"), [(0.5, "holds"), (0.14, "tight"), (0.11, "fails")])
def test_too_fast(takes, verdict):
    figure = scored(Row(0.5, takes, 25.0), Row(1.5, 1.0, 0.0), mass_g=20.0, servo="class_20")
    finding = min(told(figure, "toofast"), key=lambda f: f.reserve)
    assert finding.capacity.value == pytest.approx(takes)
    assert finding.verdict == verdict, finding.reserve
    assert finding.reserve == pytest.approx(finding.capacity.value / finding.demand.value, rel=0.02)


def test_too_fast_is_cured_by_each_remedy_offered():
    figure = scored(Row(0.5, 0.1, 25.0), Row(1.5, 1.0, 0.0), mass_g=20.0)
    done = study(figure)
    finding = next(f for f in done.findings if f.rule == "toofast" and f.verdict == "fails")
    offered = remedies(done, finding, Reuse())
    assert {r.label.text.split(" ")[0] for r in offered} >= {"Stretch", "Go"}
    for remedy in offered:
        after = study(apply(figure, remedy.edit))
        again = after.finding(finding.id)
        assert again is None or again.verdict == remedy.verdict != "fails"


def test_too_much_torque_names_the_body():
    figure = scored(Row(0.5, 0.14, 28.0), Row(1.5, 1.0, 0.0), mass_g=1500.0, servo="class_20")
    finding = next(f for f in told(figure, "effort") if f.verdict == "fails")
    assert "most of it from skull" in finding.sentence.show(METRIC)
    results = study(figure).results
    played = results.loads.joints[0]
    assert finding.reserve == pytest.approx(
        results.joints[0].can.intermittent / played.moves.torque[finding.move.number]
    )


def test_heat_is_the_root_mean_square_with_rests():
    figure = scored(Row(0.0, 0.5, 25.0), Row(1.0, 0.5, 0.0), length_s=2.5, mass_g=400.0)
    results = study(figure).results
    played, score = results.loads.joints[0], results.loads.motion
    t = np.linspace(0, 2.5, 40001)
    q, qd, qdd = score.state(t)
    torque = inverse_dynamics(results.tree, q, qd, qdd, results.gravities[0])[0] + played.joint.reflected * qdd[0]
    total = np.abs(torque) + played.joint.friction * (np.abs(qd[0]) > 1e-9)
    assert played.rms == pytest.approx(math.sqrt(np.mean(total**2)), rel=0.01)
    (finding,) = told(figure, "heat")
    assert finding.reserve == pytest.approx(results.joints[0].can.continuous / played.rms)


def test_a_long_hold_is_no_rest():
    """The same hold for longer heats more; resting at the balance point instead heats less."""
    short = scored(Row(0.0, 0.5, 28.0), Row(1.0, 0.5, 0.0), length_s=6.0, park=0.0)
    long = scored(Row(0.0, 0.5, 28.0), Row(5.0, 0.5, 0.0), length_s=6.0, park=0.0)
    a, b = told(short, "heat")[0], told(long, "heat")[0]
    assert b.reserve < a.reserve


def test_leaving_the_band_by_its_target_and_by_running_over():
    (aimed,) = [f for f in told(scored(Row(0.2, 0.6, 40.0), Row(1.5, 0.6, 0.0)), "softlimits") if f.verdict == "fails"]
    assert (
        "its target lies outside" in aimed.sentence.show(METRIC)
        and aimed.measure.show(METRIC) == "past its limits by 10°"
    )
    over = scored(Row(0.2, 0.4, 29.0), Row(0.4, 0.9, 28.0), Row(2.0, 0.5, 0.0))
    (ran,) = [f for f in told(over, "softlimits") if f.verdict == "fails"]
    assert "before the move ahead of it has arrived" in ran.sentence.show(METRIC)
    done = study(over)
    offered = remedies(done, done.finding(ran.id), Reuse())
    assert offered
    for remedy in offered:
        assert not [f for f in told(apply(over, remedy.edit), "softlimits") if f.verdict == "fails"]


def test_never_returning_to_park():
    figure = scored(Row(0.5, 0.5, 20.0))
    (finding,) = told(figure, "park")
    assert finding.verdict == "fails" and "20°" in finding.sentence.show(METRIC)
    assert told(scored(Row(0.5, 0.5, 20.0), loops=False), "park")[0].verdict == "tight"
    done = study(figure)
    for remedy in remedies(done, done.finding(finding.id), Reuse()):
        assert told(apply(figure, remedy.edit), "park")[0].verdict == "holds"
    assert told(scored(Row(0.5, 0.5, 20.0), Row(1.5, 0.5, 0.0)), "park")[0].verdict == "holds"


@pytest.mark.parametrize("stands", [0.0, 0.4, 0.6, 25.0, -60.0])
def test_what_slides_or_runs_is_told_too_when_it_does_not_come_back(stands):
    """A joint that slides leaps like one that turns; a motor that still runs is told to stand still."""
    figure = scored(Row(0.5, 0.5, 20.0), Row(1.5, 0.5, 0.0))
    lift = Joint(id="lift", name="Lift", kind="slide", range_mm=(-80.0, 80.0))
    figure = apply(figure, add_joint(lift))
    figure = apply(apply(figure, lay_out(figure)), add_motor(figure, "Fan"))
    for channel, rule in ((figure.score.channel_of(lift.id), "park.score"), (figure.score.moved[-1], "park.running")):
        made = apply(figure, set_moves(channel, moves_of([Row(1.0, 0.5, stands)]), "stays"))
        found = {f.id: f for f in told(made, "park")}
        if abs(stands) <= 0.5:
            assert found["park.score"].verdict == "holds" and "park.running" not in found
            continue
        assert found[rule].verdict == ("fails" if rule == "park.score" else "tight") and channel.name in found[
            rule
        ].sentence.show(METRIC)
        done = study(made)
        offered = remedies(done, done.finding(rule), Reuse())
        assert offered and all(told(apply(made, each.edit), "park")[0].verdict == "holds" for each in offered)


def test_the_demo_has_faults_in_its_score_and_remedies_cure_both():
    owl = load(owl_path())
    done, reuse = study(owl), Reuse()
    failing = [f for f in done.findings if f.rule in OF_THE_SCORE and f.verdict == "fails"]
    assert sorted(f.rule for f in failing) == ["effort", "rings", "softlimits"]
    for finding in failing:
        offered = remedies(done, finding, reuse)
        assert offered
        after = study(apply(owl, offered[0].edit))
        assert after.finding(finding.id) is None or after.finding(finding.id).verdict != "fails"
    assert 55 <= sum(len(c.moves) for c in owl.score.moved) <= 80 and len(owl.poses) == 6
    assert owl.score.length_s == 16.0


def test_every_move_can_be_judged_and_the_worst_is_told():
    owl = load(owl_path())
    done = study(owl)
    for channel in owl.score.moved[:6]:
        each = [findings_of_move(done.results, channel.id, k) for k in range(len(channel.moves))]
        assert all(each)
        worst = min(f.reserve for fs in each for f in fs if f.rule == "effort")
        known = min(f.reserve for f in done.findings if f.rule == "effort" and f.move.id == channel.id)
        assert worst == pytest.approx(known)
    assert findings_of_move(done.results, "lamp", 0) == [] and findings_of_move(done.results, "beak_channel", 99) == []


def test_a_score_edit_keeps_what_was_found_about_the_body():
    owl, reuse = load(owl_path()), Reuse()
    base = study(owl, reuse)
    edit, _ = change_move(owl.score.moved[0], 2, "target", target=11.0)
    after = apply(owl, edit)
    quick, whole = study(after, reuse, base=base), study(after)
    body = [f for f in base.findings if f.rule not in OF_THE_SCORE]
    assert [f for f in quick.findings if f.rule not in OF_THE_SCORE] == body
    assert [(f.id, f.verdict) for f in quick.findings] == [(f.id, f.verdict) for f in whole.findings]
    for a, b in zip(quick.findings, whole.findings, strict=True):
        assert a.reserve == b.reserve or a.reserve == pytest.approx(b.reserve, rel=1e-9)


def test_pages_are_worked_out_again_only_where_a_move_reaches():
    owl, reuse = load(owl_path()), Reuse()
    base = study(owl, reuse)
    before = reuse.computed["page"]
    assert before == 8
    edit, _ = change_move(owl.score.moved[0], 7, "target", target=1.0)  # the last move, in the last page
    study(apply(owl, edit), reuse, base=base)
    assert reuse.computed["page"] - before <= 2


@settings(max_examples=25, deadline=None)
@given(st.lists(st.tuples(st.floats(0.05, 1.2), st.floats(-29, 29)), min_size=1, max_size=6), st.floats(50, 900))
def test_peaks_against_brute_force(steps, grams):
    """Torque and speed of every move against sampling fifty times finer: never less by more than 1 %."""
    at = list(itertools.accumulate((takes + 0.1 for takes, _ in steps), initial=0.1))
    figure = scored(*(Row(t, takes, to) for t, (takes, to) in zip(at, steps, strict=False)), length_s=9.0, mass_g=grams)
    results = study(figure).results
    played, score = results.loads.joints[0], results.loads.motion
    for k, (takes, _) in enumerate(steps):
        if abs(score.tracks[0].distance[k]) < 1e-3:
            continue
        t = at[k] + takes * np.linspace(0, 1 - 1e-9, 1251)
        q, qd, qdd = score.state(t)
        torque = inverse_dynamics(results.tree, q, qd, qdd, results.gravities[0])[0] + played.joint.reflected * qdd[0]
        assert played.moves.torque[k] >= 0.99 * np.abs(torque).max()
        assert played.moves.torque[k] <= 1.001 * (np.abs(torque).max() + played.joint.friction) + 1e-9


def test_the_response_follows_until_it_cannot():
    figure = scored(Row(0.5, 0.08, 25.0), Row(1.5, 1.0, 0.0), mass_g=20.0)
    results = study(figure).results
    played, can, track = results.loads.joints[0], results.joints[0].can, results.loads.motion.tracks[0]
    ((times, places),) = response(track, played, can, 3.0)
    assert np.abs(np.diff(places)).max() <= can.free_speed * 0.005 + 1e-9
    assert places[-1] == pytest.approx(track.at(times[-1:])[0][0], abs=1e-6)
    late = late_by(results, "nod", 0)
    assert late == pytest.approx(times[-1] - 0.58, abs=0.006) and late > 0.02
    assert late_by(results, "nod", 1) == 0.0 and late_by(results, "none", 0) is None
    assert response(track, played, can, 3.0, (20.0, 30.0)) == []


def test_size_report_of_the_demo():
    rows = {row["joint"]: row for row in size_report(load(owl_path()))}
    assert len(rows) == 8
    tilt = rows["neck_tilt"]
    assert tilt["peak_Nm"] >= tilt["worst_hold_Nm"] >= tilt["rms_Nm"] > 0
    assert tilt["reserves"]["passing"] < 1 < rows["neck_pan"]["reserves"]["passing"]
    assert size_report(head()) == []


def test_a_light_is_never_judged():
    owl = load(owl_path())
    dark = apply(owl, Edit("lamp", (Set(("score", "channels", "lamp", "park"), 50.0),)))
    assert not [f for f in study(dark).findings if f.move is not None and f.move.id == "lamp"]


def ribbon_of(*ranges, target=25.0, **more):
    """Joints that one ribbon moves together, with such ranges."""
    joints = tuple(
        Joint(id=f"j{i}", name=f"joint {i}", axis=Y, range_deg=ends, **more) for i, ends in enumerate(ranges)
    )
    parts = tuple(part(f"p{i}", f"j{i}", None if i else 50.0, (10.0, 0.0, 10.0)) for i in range(len(joints)))
    channel = JointChannel(
        id="c",
        name="c",
        joints=tuple(j.id for j in joints),
        moves=moves_of([Row(0.5, 1.0, target), Row(2.0, 1.0, 0.0)]),
    )
    return Figure(joints=joints, parts=parts, scores=(Score(length_s=4.0, channels=(channel,)),))


@pytest.mark.parametrize("order", [1, -1])
def test_of_tied_joints_the_narrower_range_speaks_whatever_is_known_of_them(order):
    """Without a servo, without a mass, second or first: the player holds the ribbon at that edge."""
    figure = ribbon_of(*[(-30.0, 30.0), (-20.0, 20.0)][::order])
    told = [f for f in study(figure).findings if f.rule == "softlimits"]
    narrow = figure.joints[1 if order == 1 else 0]
    assert [(f.verdict, f.subject.id) for f in told] == [("fails", narrow.id)]
    assert told[0].sentence.quantities[0].value == pytest.approx(math.radians(5.0), abs=1e-6)
    assert [f.verdict for f in study(ribbon_of((-30.0, 30.0), (-26.0, 26.0))).findings if f.rule == "softlimits"] == [
        "holds"
    ]


def test_a_slide_that_an_actuator_drives_keeps_its_soft_limits_too():
    slide = Joint(id="s", name="Lift", kind="slide", axis=(0.0, 0.0, 1.0), range_mm=(0.0, 40.0))
    ends = (Anchor(at_mm=(0.0, 0.0, -150.0)), Anchor(rides_on="s", at_mm=(0.0, 0.0, 0.0)))
    it = Linear(id="a", name="lift", ends=ends, short_mm=140.0, stroke_mm=80.0)
    channel = JointChannel(id="c", name="Lift", joints=("s",), moves=moves_of([Row(0.5, 2.0, 46.0)]))
    figure = Figure(
        joints=(slide,),
        parts=(part("m", "s", 500.0, (0.0, 0.0, 10.0)),),
        elements=(it,),
        scores=(Score(length_s=4.0, channels=(channel,)),),
    )
    done = study(figure)
    told = done.finding("softlimits.c.0")
    assert told.verdict == "fails" and told.sentence.quantities[0].value == pytest.approx(0.006, rel=1e-6)
    offered = remedies(done, told, Reuse())
    assert offered and offered[0].label.quantities[0].value == pytest.approx(0.04)
