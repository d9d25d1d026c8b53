"""Followers with servos of their own, followers moved by links, and slides that nothing drives yet: judged as what moves them meets them."""

import contextlib
import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from karakuri.actuators.pulses import PulseMap
from karakuri.bodies.coordinates import complete
from karakuri.bodies.tree import build_tree, posture_gravity
from karakuri.catalogue import servo_class
from karakuri.errors import FileTrouble
from karakuri.exchange.outputs import board_stream, outputs, score_stream, score_tracks
from karakuri.exchange.player.tables import tables
from karakuri.mechanics.dynamics import inverse_dynamics
from karakuri.mechanics.slid import along
from karakuri.mechanics.worst import drive_inertia, drive_torque_Nm
from karakuri.model.channel import JointChannel
from karakuri.model.drive import Drive
from karakuri.model.edit import apply
from karakuri.model.element import Anchor, Linear
from karakuri.model.figure import Figure
from karakuri.model.joint import Follow, Joint, Move
from karakuri.model.moves import Row, moves_of
from karakuri.model.part import Part
from karakuri.model.score import Score
from karakuri.study.remedies import remedies
from karakuri.study.reuse import Reuse
from karakuri.study.study import study
from tests.figures import X, Y, head, part, random_figure
from tests.references.test_followers_and_bounds import any_poses, following

ALIKE = ("hold", "move", "shaft", "stops", "travel", "shakes")


def eared(ratio, offset, **ear) -> Figure:
    """A head, and beside it on the base an ear with a servo of its own, which goes as the head does."""
    figure = head()
    rows = {"id": "ear", "name": "Ear", "axis": X, "at_mm": (0.0, 90.0, 0.0), "stops_deg": (-80.0, 85.0), **ear}
    joint = Joint(**({"role": "follows", "follows": Follow(joint="tilt", ratio=ratio, offset_deg=offset)} | rows))
    tilt = Joint(
        **(
            dict(figure.joints[0])
            | {"range_deg": (-20.0, 34.0), "rests_deg": (-5.0, 12.0), "move": Move(by=30.0, time_s=0.7)}
        )
    )
    made = {"joints": (tilt, joint), "parts": (*figure.parts, part("lobe", "ear", 240.0, (10.0, 130.0, 30.0)))}
    drives = (*figure.drives, Drive(id="dear", joint="ear", actuator=servo_class("class_4")))
    return Figure(**(dict(figure) | made | {"drives": drives}))


@settings(max_examples=12, deadline=None)
@given(st.floats(-1.6, 1.6).filter(lambda r: abs(r) > 0.05), st.floats(-20.0, 20.0))
def test_a_follower_with_its_own_servo_is_judged_as_a_driven_joint_that_goes_as_far(ratio, offset):
    ends = sorted((ratio * -20.0 + offset, ratio * 34.0 + offset))
    rests = sorted((ratio * -5.0 + offset, ratio * 12.0 + offset))
    alone = {
        "role": "driven",
        "range_deg": tuple(ends),
        "rests_deg": tuple(rests),
        "move": Move(by=abs(ratio) * 30.0, time_s=0.7, profile="minimum jerk"),
    }
    ours, theirs = study(eared(ratio, offset)), study(eared(ratio, offset, **alone))
    seen = 0
    for finding in theirs.findings:
        if finding.rule in ALIKE and finding.subject.id == "ear":
            seen += 1
            again = ours.finding(finding.id)
            assert again is not None and again.verdict == finding.verdict, finding.id
            assert again.reserve == finding.reserve or again.reserve == pytest.approx(finding.reserve, rel=5e-3), (
                finding.id
            )
    assert seen >= 5
    assert ours.finding("hold.tilt").reserve == pytest.approx(theirs.finding("hold.tilt").reserve)


@pytest.mark.parametrize("seed", range(8))
def test_what_all_drives_of_a_group_speed_up_is_its_kinetic_energy(seed):
    """Of joints that go together, each with a servo of its own: Σ inertia × gain² is twice the energy at one rad/s of the first."""
    figure = following(seed, 5)
    drives = tuple(
        Drive(id=f"d{j.id}", joint=j.id, actuator=servo_class("class_10")) for j in figure.joints if j.role == "follows"
    )
    tree = build_tree(Figure(**(dict(figure) | {"drives": drives})))
    q = any_poses(tree, np.random.default_rng(seed), 6)
    for j, leader in enumerate(tree.coupling.leader):
        group = [k for k, other in enumerate(tree.coupling.leader) if other == j]
        if leader != j or len(group) < 2:
            continue
        gains = np.zeros_like(q)
        gains[group] = tree.coupling.gain[group, None]
        twice = (gains * inverse_dynamics(tree, q, np.zeros_like(q), gains, np.zeros(3))).sum(axis=0)
        torque = inverse_dynamics(tree, q, np.zeros_like(q), gains, np.zeros(3))
        felt = [np.maximum(torque[k] / tree.coupling.gain[k], 0.0) for k in group]
        for k, theirs in zip(group, felt, strict=True):
            assert drive_inertia(tree, q, k) == pytest.approx(theirs, rel=1e-9, abs=1e-12)
        assert (twice > 0).all()
        signed = sum(torque[k] * tree.coupling.gain[k] for k in group)
        assert signed == pytest.approx(twice, rel=1e-9)


def test_who_carries_a_follower_of_a_follower():
    """The first on the way back with a servo of its own; on the way there each link bears it."""
    joints = [Joint(id="a", name="a", axis=Y)] + [
        Joint(id=i, name=i, axis=Y, role="follows", follows=Follow(joint=ahead, ratio=0.5))
        for i, ahead in (("b", "a"), ("c", "b"))
    ]
    parts = tuple(part(f"p{j.id}", j.id, 100.0, (50.0, 0.0, 0.0)) for j in joints)
    plain = Figure(joints=tuple(joints), parts=parts)
    served = Figure(**(dict(plain) | {"drives": (Drive(id="d", joint="b", actuator=servo_class("class_4")),)}))
    assert build_tree(plain).coupling.loads == (((0, 1.0), (1, 0.5), (2, 0.25)), ((1, 1.0), (2, 0.5)), ((2, 1.0),))
    assert build_tree(served).coupling.loads == (((0, 1.0),), ((1, 1.0), (2, 0.5)), ((2, 1.0),))


@settings(max_examples=60, deadline=None)
@given(st.floats(-2, 2).filter(lambda r: abs(r) > 0.02), st.floats(-0.6, 0.6), st.floats(-1.2, 1.2), st.booleans())
def test_a_pulse_is_the_same_by_whichever_place_it_is_looked_up(gain, offset, place, turned):
    pulses = (600.0, 1480.0, 2390.0)
    mapped = PulseMap((-0.9, 0.05, 1.1), pulses[::-1] if turned else pulses, True)
    seen = mapped.seen_from(gain, offset)
    assert list(seen.angles) == sorted(seen.angles)
    assert seen.pulse(np.array([place]))[0] == pytest.approx(
        mapped.pulse(np.array([gain * place + offset]))[0], abs=1e-6
    )


@pytest.mark.parametrize(("ratio", "offset"), [(-0.7, 6.0), (1.3, -4.0)])
def test_its_servo_gets_an_output_that_goes_with_its_leader(ratio, offset):
    figure = eared(ratio, offset)
    rows = moves_of([Row(0.2, 0.6, 20.0), Row(1.2, 0.5, -15.0)])
    score = Score(length_s=2.0, channels=(JointChannel(id="c", name="c", joints=("tilt",), moves=rows),))
    figure = Figure(**(dict(figure) | {"scores": (score,)}))
    found = outputs(figure)
    ear = next(i for i, o in enumerate(found) if o.joint == "ear")
    places = next(iter(score_stream(figure)))[1][0]
    sent = np.concatenate(list(board_stream(found, score_stream(figure))), axis=1)[ear]
    own = ratio * places + math.radians(offset)
    assert sent[: len(own)] == pytest.approx(found[ear].pulses.pulse(own), abs=1e-6)
    row = tables(figure).outputs[ear]  # as the exported player looks it up, in hundredths of a degree of its leader
    played = np.interp(np.clip(np.degrees(places) * 100, row[5], row[6]), row[3], row[4]) / 10
    assert played == pytest.approx(sent[: len(own)], abs=0.3)
    assert len(score_tracks(figure)) == 1
    judged = study(figure).results.loads
    assert {judged.motion.channels[load.joint.channel].id for load in judged.joints} == {"c"} and len(
        judged.joints
    ) == 2


@pytest.mark.parametrize("seed", range(8))
def test_no_pose_asks_more_of_a_slide(seed):
    figure = following(seed, 4, slides=True) if seed % 2 else random_figure(seed, 4, True)
    tree, rng = build_tree(figure), np.random.default_rng(seed)
    gravities = np.array([posture_gravity(p, 9.80665) for p in figure.postures])
    q, seen = complete(tree.coupling, any_poses(tree, rng, 3000)), 0
    for j in range(4):
        if tree.coupling.hangs:
            return
        seen += tree.slides[j]
        found = along(tree, j, gravities)
        brute = np.stack([drive_torque_Nm(tree, j, q, g) for g in gravities])
        assert found.highest >= brute.max() - 2e-3 * abs(brute).max() - 1e-9
        assert found.lowest <= brute.min() + 2e-3 * abs(brute).max() + 1e-9
        pose, posture = found.worst
        assert abs(float(drive_torque_Nm(tree, j, pose[:, None], gravities[posture])[0])) == pytest.approx(
            found.most, rel=1e-6
        )


def slid(**more) -> Figure:
    """A slide on a turning carrier, so that what it must hold is largest between the ends of the carrier's range."""
    joints = (
        Joint(id="n", name="Neck", axis=Y, range_deg=(-70.0, 100.0)),
        Joint(
            id="s",
            name="Hat",
            rides_on="n",
            kind="slide",
            axis=(1.0, 0.0, 1.0),
            range_mm=(0.0, 30.0),
            at_mm=(0.0, 0.0, 200.0),
            **more,
        ),
    )
    parts = (
        Part(id="crown", name="Crown", rides_on="s", mass_g=500.0, mass_origin="weighed", at_mm=(0.0, 0.0, 240.0)),
    )
    return Figure(joints=joints, parts=parts)


def test_a_slide_that_nothing_drives_says_what_must_hold_it_and_is_offered_an_actuator_that_does():
    done = study(slid())
    told = done.finding("slides.s")
    assert told.verdict == "not yet judged" and told.sentence.quantities[0].value == pytest.approx(
        0.5 * 9.80665, rel=1e-6
    )
    found = remedies(done, told, Reuse())
    assert [r.verdict for r in found] == ["holds"]
    after = study(apply(slid(), found[0].edit))
    assert after.finding("slides.s") is None
    actuator = next(f for f in after.findings if f.rule == "actuators")
    assert actuator.verdict == "holds", actuator.sentence.text
    led = study(slid(role="follows", follows=Follow(joint="n", ratio=0.3)))
    assert led.finding("slides.s").verdict == "holds" and "follows Neck" in led.finding("slides.s").sentence.text
    for figure in (
        slid(),
        slid(role="follows", follows=Follow(joint="n", ratio=0.3)),
    ):  # what makes a way of its turn is not known
        served = Figure(**(dict(figure) | {"drives": (Drive(id="d", joint="s", actuator=servo_class("class_4")),)}))
        found = study(served).finding("slides.s")
        assert found.verdict == "not yet judged" and "its servo turns" in found.sentence.text


def test_an_actuator_along_a_slide_is_asked_all_that_any_pose_asks():
    """The carrier's corners alone ask less: 45° of slope are steepest between them."""
    ends = (Anchor(rides_on="n", at_mm=(-70.0, 0.0, 130.0)), Anchor(rides_on="s", at_mm=(0.0, 0.0, 200.0)))
    figure = Figure(
        **(
            dict(slid())
            | {"elements": (Linear(id="l", name="l", ends=ends, short_mm=80.0, stroke_mm=60.0, force_N=20.0),)}
        )
    )
    asked = study(figure).finding("actuators.l")
    assert asked.reserve == pytest.approx(20.0 / (0.5 * 9.80665), rel=1e-3)


@pytest.mark.parametrize("ratio", [0.0, 1e-9, -1000.0, 1000.0])
@pytest.mark.parametrize("kind", ["turn", "slide"])
@pytest.mark.parametrize("served", [False, True])
def test_no_ratio_ends_a_study(ratio, kind, served):
    """A chain of such ratios took a follower farther than a file may say, which once ended the program."""
    nod = Joint(id="n", name="Nod", axis=Y, move=Move(by=20.0, time_s=0.5))
    ear = Joint(
        id="e",
        name="Ear",
        kind=kind,
        axis=X,
        rides_on="n",
        role="follows",
        follows=Follow(joint="n", ratio=ratio, offset_deg=200.0),
    )
    plume = Joint(id="p", name="Plume", axis=Y, rides_on="e", role="follows", follows=Follow(joint="e", ratio=ratio))
    joints = (nod, ear, plume)
    parts = tuple(part(f"m{j.id}", j.id, 90.0, (20.0, 5.0, 60.0)) for j in joints)
    drives = tuple(Drive(id=f"d{j.id}", joint=j.id, actuator=servo_class("class_4")) for j in joints) if served else ()
    channel = JointChannel(id="c", name="c", joints=("n",), moves=moves_of([Row(0.2, 0.6, 20.0)]))
    figure = Figure(joints=joints, parts=parts, drives=drives, scores=(Score(length_s=1.0, channels=(channel,)),))
    done = study(figure)
    assert {f.subject.id for f in done.findings if f.subject.kind == "joint"} >= {"n", "e", "p"}
    assert all(f.reserve is None or not math.isnan(f.reserve) for f in done.findings)
    for values in board_stream(outputs(figure), score_stream(figure)):
        assert np.isfinite(values).all()
    with contextlib.suppress(FileTrouble):
        tables(figure)
