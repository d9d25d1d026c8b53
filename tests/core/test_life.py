"""Life when idle: laws over random figures, seeds and moves that are there already."""

from itertools import pairwise

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from karakuri.model.channel import JointChannel
from karakuri.model.edit import Edit, Set, apply
from karakuri.model.figure import Figure
from karakuri.model.joint import Joint
from karakuri.model.makers import Life
from karakuri.model.moves import Row, moves_of
from karakuri.model.score import Score
from karakuri.motion.life import LIVES
from karakuri.motion.life.chance import Chance
from karakuri.motion.life.glances import LEAD_S
from karakuri.motion.makers.life import live, lives_of, make
from karakuri.motion.score_motion import Tracks
from karakuri.motion.voice.following import KeepsUp

Z, Y, X = (0.0, 0.0, 1.0), (0.0, 1.0, 0.0), (1.0, 0.0, 0.0)
JOINTS = (
    ("neck_pan", "Neck pan", Z, "head", (-60.0, 60.0), "base"), ("neck_tilt", "Neck tilt", Y, "head", (-25.0, 30.0), "neck_pan"),
    ("roll", "Neck roll", X, "head", (-20.0, 20.0), "neck_tilt"),
    ("pan_l", "Eye pan, left", Z, "eye", (-28.0, 28.0), "look"), ("pan_r", "Eye pan, right", (0.0, 0.0, -1.0), "eye", (-28.0, 28.0), "look"),
    ("look", "Eyes up", Y, "eye", (-20.0, 15.0), "roll"), ("lid", "Lids", Y, "lid", (0.0, 40.0), "roll"),
    ("ear_l", "Ear, left", X, "ear", (-10.0, 30.0), "roll"), ("ear_r", "Ear, right", X, "ear", (-10.0, 30.0), "roll"),
    ("chest", "Chest", Y, "body", (-6.0, 6.0), "base"), ("lean", "Body leans", X, "body", (-10.0, 10.0), "base"),
    ("t1", "Segment 1", Z, "body", (-25.0, 25.0), "base"), ("t2", "Segment 2", Z, "body", (-25.0, 25.0), "t1"), ("t3", "Segment 3", Z, "body", (-25.0, 25.0), "t2"),
)  # fmt: skip
ALL = tuple(LIVES)


def being(rows=None, length_s=90.0, seed=3, does=ALL, without=(), park=None, **more):
    joints = tuple(Joint(id=i, name=n, axis=a, timing=t, range_deg=r, rides_on=on, ends=("open", "shut") if t == "lid" else ("low", "high"))
                   for i, n, a, t, r, on in JOINTS if i not in without)  # fmt: skip
    channels = tuple(JointChannel(id=f"c_{j.id}", name=j.name, joints=(j.id,), park=(park or {}).get(j.id, 0.0), moves=moves_of(list((rows or {}).get(j.id, ())))) for j in joints)  # fmt: skip
    life = Life(seed=seed, does=does, **more)
    return Figure(joints=joints, scores=(Score(length_s=length_s, channels=channels, makers=(life,)),))


others = st.dictionaries(
    st.sampled_from([j[0] for j in JOINTS]),
    st.lists(st.tuples(st.floats(0.1, 15.0), st.floats(0.05, 3.0), st.floats(-4.0, 4.0)), min_size=1, max_size=6),
    max_size=6,
)


def placed(spec):
    out = {}
    for joint, rows in spec.items():
        at, made = 0.0, []
        for gap, takes, target in rows:
            made.append(Row(round(at + gap, 3), round(takes, 3), round(abs(target) if joint == "lid" else target, 2)))
            at += gap + takes
        out[joint] = made
    return out


@settings(max_examples=40, deadline=None)
@given(st.integers(0, 2**31 - 1), others, st.lists(st.sampled_from(ALL), min_size=1, max_size=6, unique=True))
def test_it_stays_in_every_band_and_keeps_off_all_that_moves(seed, spec, does):
    figure = being(placed(spec), seed=seed, does=tuple(does))
    for channel in apply(figure, live(figure)).score.moved:
        low, high = channel.band(figure)
        rows = channel.moves.rows()
        for row in rows:
            assert low - 1e-9 <= row.target <= high + 1e-9 and row.departs + row.takes <= 90.0 + 1e-6
        for a, b in pairwise(rows):
            if a.made_by or b.made_by:
                assert a.departs + a.takes <= b.departs + 2.1e-3
        mine = [row for row in rows if row.made_by]
        if mine and not any(not row.made_by and row.departs > mine[-1].departs for row in rows):
            before = [row.target for row in rows if not row.made_by]
            assert mine[-1].target == pytest.approx(before[-1] if before else channel.park, abs=0.011)  # home again


@settings(max_examples=25, deadline=None)
@given(st.integers(0, 2**31 - 1), others)
def test_the_same_seed_is_the_same_life_and_written_again_nothing_changes(seed, spec):
    figure = being(placed(spec), seed=seed)
    assert make(figure, figure.score.life) == make(figure, figure.score.life)
    written = apply(figure, live(figure))
    assert apply(written, live(written)) == written


def test_a_kind_lives_alike_whether_others_do_or_not():
    whole, some = being(), being(does=("breathes",), without=())
    alone = make(some, some.score.life)["c_chest"]
    assert alone == make(whole, whole.score.life)["c_chest"] and len(alone) > 30


def test_the_eyes_lead_and_turn_back_what_the_head_turns():
    figure = being(seed=11, does=("glances",), length_s=600.0)
    figure = apply(figure, live(figure))
    head, left, right = (figure.score.moving(f"c_{i}") for i in ("neck_pan", "pan_l", "pan_r"))
    track = {c.id: Tracks().of(c, 1.0) for c in (head, left, right)}
    wide = held = 0
    for row in head.moves.rows():
        near = max((r for r in left.moves.rows() if r.departs <= row.departs), key=lambda r: r.departs)
        assert row.departs - near.departs == pytest.approx(LEAD_S, abs=2e-3)
        if row.target != head.park:
            wide += 1
            ends = row.departs + row.takes
            over = near.departs + near.takes
            then = np.linspace(over, ends, 20)
            gaze = track[head.id].at(then)[0] + track[left.id].at(then)[0]
            assert abs(gaze[-1]) > 15.0 and abs(row.target) >= 0.4 * abs(gaze[-1])
            if abs(gaze[-1]) <= 28.0:  # within reach of the eyes: it stays where they leapt to
                held += 1
                assert np.ptp(gaze) < 0.25 * abs(row.target)
            else:  # they wait at their end and are brought there
                assert np.diff(np.abs(gaze)).min() > -0.4
            assert abs(track[left.id].at(np.array([ends]))[0][0]) <= 28.0
    assert wide > 10 and held > 3
    for a, b in zip(left.moves.rows(), right.moves.rows(), strict=True):
        assert (a.departs, a.takes, a.target) == (b.departs, b.takes, -b.target)  # its axis is the other way round
    never = being(seed=11, does=("glances",), length_s=600.0, head_joins_deg=None)
    assert "c_neck_pan" not in {k for k, rows in make(never, never.score.life).items() if rows}


def test_blinks_are_as_many_as_asked_and_never_one_after_another():
    figure = being(does=("blinks",), length_s=3600.0, waits_s=(1.0, 6.0))
    rows = [r for r in make(figure, figure.score.life)["c_lid"] if r.target == 40.0]
    gaps = np.diff([r.departs for r in rows])
    assert gaps.min() > 1.0 + 0.3 and gaps.mean() == pytest.approx(3.5 + 0.334 + 0.4, rel=0.05) and np.std(gaps) > 1.0
    assert {round(r.takes, 3) for r in rows} == {0.092}


def test_a_breath_goes_in_for_a_third_and_as_often_as_asked():
    figure = being(does=("breathes",), length_s=1200.0, breaths_per_min=15.0)
    rows = make(figure, figure.score.life)["c_chest"]
    goes_in, out = rows[::2], rows[1::2]
    assert len(goes_in) == pytest.approx(300, abs=6)
    assert sum(r.takes for r in out) / sum(r.takes for r in goes_in) == pytest.approx(2.0, rel=0.01)
    assert np.std([r.takes for r in goes_in]) > 0.02


def test_a_wave_runs_out_along_the_segments():
    figure = being(does=("tail",))
    made = make(figure, figure.score.life)
    for a, b, c in zip(*(made[f"c_t{n}"] for n in (1, 2, 3)), strict=True):
        assert b.departs - a.departs == pytest.approx(0.08, abs=2e-3) == pytest.approx(c.departs - b.departs, abs=4e-3)


@settings(max_examples=20, deadline=None)
@given(st.integers(0, 10**6), st.floats(0.01, 0.4), st.floats(0.2, 4.0))
def test_no_move_is_quicker_than_its_ribbon_keeps_up_with(seed, first, last):
    figure = being(seed=seed)
    slow = KeepsUp((0.02, 1.2), (first, first + last))
    can = {channel.id: slow for channel in figure.score.moved}
    rows = make(figure, figure.score.life, can)
    assert rows
    for ident, made in rows.items():
        at = figure.score.moving(ident).park
        for row in made:
            assert row.takes >= slow.least(np.radians(abs(row.target - at) - 0.02)) - 2e-3, ident
            at = row.target


def test_what_can_live_is_told_by_what_there_is():
    assert set(lives_of(being())) == set(ALL)
    bare = being(without=("lid", "pan_l", "pan_r", "look", "ear_l", "ear_r", "t2", "t3"))
    assert set(lives_of(bare)) == {"breathes", "sways"}


def test_chance_is_the_same_everywhere():
    """By hand: xorshift32 with shifts 13, 17, 5 from state 1 is 270369 (Marsaglia 2003)."""
    chance = Chance(0)
    chance.state = 1
    assert [chance.draw() for _ in range(3)] == [270369, 67634689, 2647435461]
    drawn = [Chance(seed).share() for seed in range(2000)]
    assert 0.45 < np.mean(drawn) < 0.55 and min(drawn) < 0.01 and max(drawn) > 0.99
    many = Chance(5)
    shares = np.array([many.share() for _ in range(20000)])
    assert abs(shares.mean() - 0.5) < 0.01 and np.abs(np.corrcoef(shares[:-1], shares[1:])[0, 1]) < 0.03


def test_settings_that_make_no_life_are_told():
    figure = being()
    with pytest.raises(Exception, match="waits run"):
        apply(figure, Edit("x", (Set(("score", "makers", "life", "waits_s"), (3.0, 1.0)),)))
