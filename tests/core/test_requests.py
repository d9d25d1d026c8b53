"""What an analysis is given is enough, and all it gets: cut trees, excerpts of tracks, keys; and a score may begin at any time."""

import numpy as np
import pytest
from hypothesis import example, given, settings
from hypothesis import strategies as st
from msgspec.structs import replace

from karakuri.bodies.coordinates import complete
from karakuri.bodies.cut import carried_only, cut
from karakuri.bodies.tree import build_tree, posture_gravity
from karakuri.digest import digest
from karakuri.mechanics.starts import rest_pose
from karakuri.mechanics.statics import source_arms
from karakuri.mechanics.worst import drive_inertia, drive_torque_Nm, worst_pose
from karakuri.model.channel import JointChannel
from karakuri.model.moves import Row, moves_of
from karakuri.model.profiles import PROFILE_KINDS
from karakuri.motion.track import build_track
from karakuri.sizing.page import spans
from karakuri.study.requests.joint import WorstPose
from karakuri.study.study import study
from tests.figures import random_figure, scored
from tests.references.test_followers_and_bounds import any_poses, following

DOWN = np.array([1.0, 2.0, -9.5])


@pytest.mark.parametrize("seed", range(12))
def test_what_a_drive_feels_is_the_same_in_the_cut_as_in_the_whole(seed):
    figure = following(seed, 6, slides=seed % 2 == 0) if seed % 3 else random_figure(seed, 6, True)
    tree, rng = build_tree(figure), np.random.default_rng(seed)
    q = any_poses(tree, rng, 7)
    for j in range(6):
        felt = cut(tree, j)
        inner = q[list(felt.rows)]
        small, k = felt.tree, felt.j
        assert np.allclose(complete(small.coupling, inner.copy()), inner)
        assert np.allclose(felt.poses(rest_pose(tree), inner)[list(felt.rows)], inner)
        assert drive_torque_Nm(small, k, inner, DOWN) == pytest.approx(drive_torque_Nm(tree, j, q, DOWN), abs=1e-9)
        assert drive_inertia(small, inner, k) == pytest.approx(drive_inertia(tree, q, j), rel=1e-9, abs=1e-12)
        arms = source_arms(tree, q, DOWN, j)
        assert source_arms(small, inner, DOWN, k) == pytest.approx(arms[list(felt.bodies)], abs=1e-9)
        assert not np.delete(arms, list(felt.bodies), axis=0).any()


@pytest.mark.parametrize("seed", range(6))
def test_the_worst_pose_of_the_cut_is_that_of_the_whole(seed):
    figure = random_figure(seed, 5)
    tree = build_tree(figure)
    gravities = np.array([posture_gravity(p, 9.80665) for p in figure.postures])
    for j in range(5):
        felt = cut(tree, j)
        ours, theirs = WorstPose(felt.tree, felt.j, gravities).run(False, ()), worst_pose(tree, j, gravities)
        for name in ("highest", "lowest", "moment", "side"):
            assert getattr(ours, name) == pytest.approx(getattr(theirs, name), rel=1e-6, abs=1e-9)
        there = felt.pose(rest_pose(tree), ours.pose)
        assert drive_torque_Nm(tree, j, there[:, None], gravities[ours.posture])[0] == pytest.approx(ours.hold)


rows = st.lists(
    st.tuples(
        st.sampled_from([0.0, 0.3, 1.0, 1.7, 2.0, 2.4, 4.0]),
        st.sampled_from([0.0, 0.05, 0.7, 2.0, 3.0]),
        st.floats(-30, 30),
        st.sampled_from(PROFILE_KINDS),
    ),
    max_size=6,
)


def track_of(steps):
    at, made = 0.0, []
    for gap, takes, target, kind in steps:
        at += gap
        made.append(Row(at, takes, target, kind, {"trapezoid": 1 / 3, "following": 0.4}.get(kind, 0.0)))
    return build_track(JointChannel(id="a", name="a", joints=("j",), park=5.0, moves=moves_of(made)), 0.01)


@settings(max_examples=200, deadline=None)
@given(rows, st.sampled_from([0.0, 2.0, 4.0, 1.0 - 2e-7]), st.sampled_from([0.5, 2.0, 7.0]))
def test_an_excerpt_moves_as_the_whole_track_does(steps, begin, long):
    track, end = track_of(steps), begin + long
    since = track.since(begin, end) - 2e-7
    part = track.excerpt(since, end)
    times = np.concatenate(
        [np.linspace(since, end, 301), track.departs[(track.departs >= since) & (track.departs <= end)]]
    )
    for ours, theirs in zip(part.at(times), track.at(times), strict=True):
        assert ours == pytest.approx(theirs, abs=1e-12)
    reach, again = track.reaching(begin, end), part.reaching(begin, end)
    assert len(reach) == len(again)
    for name in ("departs", "takes", "distance", "ends", "until", "at_once"):
        assert getattr(track, name)[reach] == pytest.approx(getattr(part, name)[again]), name
    under = (track.departs < end) & (track.departs >= begin)
    assert set(np.flatnonzero(under)) <= set(reach.tolist())


def test_every_move_reaches_into_some_page():
    for at in (0.0, 1.0, 2.0, 4.0, 5.999):
        track = track_of([(at, 0.0, 10.0, "sudden")])
        assert any(len(track.reaching(begin, end)) for begin, end in spans(6.0))


@settings(max_examples=40, deadline=None)
@example(
    [(1.0, 0.0, 28.0, "sudden"), (2.0, 0.7, 0.0, "cosine")], 1.0
)  # once a move in no time on the edge of a page cost nothing
@given(rows.filter(bool), st.sampled_from([0.05, 0.3, 1.0, 1.7, 2.0, 3.3]))
def test_when_a_score_begins_changes_no_verdict(steps, later):
    """The same moves a little later, the score as much longer: no move needs more or less, and no heat is lost at the edge of a page."""
    at, made = 1.0, []
    for gap, takes, target, kind in steps:
        at += max(gap, 0.05)
        made.append(Row(round(at, 3), takes, target, kind, {"trapezoid": 1 / 3, "following": 0.4}.get(kind, 0.0)))
    once = scored(*made, length_s=at + 5.0, mass_g=900.0)
    shifted = [row._replace(departs=round(row.departs + later, 3)) for row in made]
    again = scored(*shifted, length_s=at + 5.0 + later, mass_g=900.0)
    one, other = (study(f).results.loads.joints[0] for f in (once, again))
    close = 1e-2  # a move is sampled at 25 places and at every tenth of a second: where these fall shifts with it
    enough = 1e6  # a move to where it stands already: what is left of it is rounding
    assert np.minimum(other.moves.reserve, enough) == pytest.approx(np.minimum(one.moves.reserve, enough), rel=close)
    assert other.moves.least == pytest.approx(one.moves.least, rel=close, abs=1e-6)
    assert other.moves.torque == pytest.approx(one.moves.torque, rel=close, abs=1e-6)
    heat, hotter = (load.rms**2 * load.rms_over for load in (one, other))  # it stands at park so much longer
    assert hotter - one.effort[0] ** 2 * later == pytest.approx(
        heat, rel=2e-2
    )  # twice the half per cent of a root mean square, each way


def test_a_digest_tells_values_apart():
    values = [
        1,
        1.0,
        True,
        "1",
        (1,),
        ((1,),),
        (1, 2),
        ((1, 2),),
        ((1,), (2,)),
        None,
        np.zeros(2),
        np.zeros((1, 2)),
        np.zeros(2, dtype=int),
        -0.0,
    ]
    assert len({digest(value) for value in values}) == len(values)
    figure = random_figure(1, 3)
    one, other = (carried_only(build_tree(figure)) for _ in range(2))
    assert one is not other and digest(one) == digest(other)
    assert digest(replace(one, mass=one.mass * (1 + 1e-15) + 1e-18)) != digest(one)
    with pytest.raises(TypeError, match="no digest"):
        digest({1: 2})


@pytest.mark.parametrize("lag", [0.1, 0.4])
def test_a_following_move_asks_the_same_whatever_its_time_says(lag):
    """Its motion is its lag's alone; with no time, and once also after its time, nobody looked at what it asks."""
    loads = [
        study(
            scored(Row(0.5, takes, 25.0, "following", lag), Row(6.0, 1.0, 0.0), length_s=8.0, mass_g=700.0)
        ).results.loads.joints[0]
        for takes in (0.0, 0.05, 0.6, 1.5)
    ]
    for load in loads[1:]:
        assert load.moves.torque[0] == pytest.approx(loads[0].moves.torque[0], rel=2e-2)
        assert load.moves.reserve[0] == pytest.approx(loads[0].moves.reserve[0], rel=2e-2)
