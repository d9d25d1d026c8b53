"""By hand: laws over random hands, sticks and figures; smoothing against an independent way; what is recorded against what was done."""

import math
import random
from itertools import pairwise

import numpy as np
import pytest
from hypothesis import example, given, settings
from hypothesis import strategies as st
from scipy.signal import lfilter

from karakuri.behaviour.engine import Engine
from karakuri.behaviour.hand.contract import TICK_S
from karakuri.behaviour.hand.expressions import weights
from karakuri.behaviour.hand.grasp import SOFT_PER_S, Grasp
from karakuri.behaviour.hand.smooth import Smooth, calmed, share_of
from karakuri.behaviour.hand.told import told_of
from karakuri.behaviour.reading import level, reading
from karakuri.demo import owl_path
from karakuri.errors import EditRefused
from karakuri.exchange import moves_of_places
from karakuri.exchange.moves_of_a_hand import moves_of_a_hand
from karakuri.exchange.moves_of_places import moves_that_follow
from karakuri.exchange.recorded import Take, recorded, written_down
from karakuri.files.disk import load
from karakuri.files.text import from_text, to_text
from karakuri.model.behaviour import HANDED, Behaviour, Input, Parks, Pressed, Start, State, Steered
from karakuri.model.behaviour_edits import change_input, remove_input
from karakuri.model.channel import JointChannel
from karakuri.model.edit import Edit, Set, apply
from karakuri.model.edit import made as made_of
from karakuri.model.edits import remove_item
from karakuri.model.moves import moves_of
from karakuri.model.score_edits import add_light, add_motor, keep_pose, remove_channel
from karakuri.model.steering import Expressions, Follows, Keyed, PushPull, Steering, Towards, Wheels
from karakuri.model.steering_edits import (
    GRIPS,
    add_dead_man,
    add_face,
    add_grip,
    end_of_grip,
    first_steering,
    remove_grip,
)
from karakuri.motion.track import build_track
from karakuri.motion.voice.following import KeepsUp
from karakuri.study.remedies import remedies
from karakuri.study.reuse import Reuse
from karakuri.study.study import study
from tests.core.test_life import being

OWL = load(owl_path())
LEVELS = st.floats(0, 100)


def steered(figure, grips, inputs, **fields):
    """A figure with grips on inputs of some kinds, by id."""
    made = tuple(Input(id=ident, name=ident, kind=kind) for ident, kind in inputs.items())
    steps = (Set(("behaviour",), Behaviour(inputs=made)), Set(("steering",), Steering(grips=grips, **fields)))
    return apply(figure, Edit("by hand", steps))


def two_ribbons():
    """A figure and two of its ribbons of joints."""
    figure = being()
    return figure, *[c.id for c in figure.score.moved if c.leads is not None][:2]


def random_steered(seed):
    """Random grips on a figure with a head, eyes and lids, inputs by id."""
    chance, figure = random.Random(seed), being()
    for name in ("Left", "Right", "Fan"):
        figure = apply(figure, add_motor(figure, name))
    ribbons = [c.id for c in figure.score.moved]
    chance.shuffle(ribbons)
    figure = apply(figure, keep_pose(figure, "One", {j.id: chance.uniform(*j.range) for j in figure.joints}))
    figure = apply(figure, keep_pose(figure, "Two", {j.id: chance.uniform(*j.range) for j in figure.joints}))
    inputs, grips = {}, []

    def new(*kinds):
        inputs[f"in{len(inputs)}"] = chance.choice(kinds)
        return f"in{len(inputs) - 1}"

    while len(ribbons) > 1 and len(grips) < 5:
        base = {"id": f"g{len(grips)}", "name": "g", "smooth_ms": chance.choice((0.0, 40.0, 120.0, 600.0))}
        kind = chance.choice(list(GRIPS))
        low, high = figure.score.moving(ribbons[-1]).band(figure)
        to = chance.choice((None, (low, high), (high, low), (low / 2, high / 3), (high / 4, high / 2)))
        if kind == "follows":
            grips.append(Follows(**base, input=new("knob", "stick", "receiver"), channel=ribbons.pop(), to=to))
        elif kind == "keyed":
            grips.append(Keyed(**base, up=new("button"), down=new("button"), channel=ribbons.pop(), pace=chance.uniform(5, 300), to=to))  # fmt: skip
        elif kind == "push pull":
            grips.append(PushPull(**base, together=new("stick"), against=new("stick"), first=ribbons.pop(), second=ribbons.pop()))  # fmt: skip
        elif kind == "wheels":
            grips.append(Wheels(**base, ahead=new("stick"), turn=new("stick"), left=ribbons.pop(), right=ribbons.pop()))  # fmt: skip
        else:
            faces = (Towards(pose=figure.poses[-2].id, towards_deg=chance.uniform(-180, 180)), Towards(pose=figure.poses[-1].id, towards_deg=chance.uniform(-180, 180)))  # fmt: skip
            grips.append(Expressions(**base, ahead=new("stick"), across=new("stick"), faces=faces))
    held = new("button") if chance.random() < 0.6 else None
    by = new("knob") if chance.random() < 0.3 else None
    return steered(figure, tuple(grips), inputs, held_by=held, sensitivity_by=by, let_go=chance.choice(("holds", "parks")), pace=chance.uniform(30, 400)), inputs  # fmt: skip


def random_hand(chance, inputs, levels):
    """Somebody turns, pushes, presses and lets go; now and then a wire is loose."""
    for ident, kind in inputs.items():
        if kind == "button" and chance.random() < 0.03:
            levels[ident] = chance.choice((0.0, 100.0))
        elif kind != "button" and chance.random() < 0.08:
            levels[ident] = chance.choice((0.0, 100.0, 50.0, chance.uniform(0, 100)))
        if chance.random() < 0.01:
            levels.pop(ident, None)
        elif ident not in levels and chance.random() < 0.2:
            levels[ident] = 50.0 if kind != "button" else 0.0


@settings(max_examples=60, deadline=None)
@given(st.integers(0, 10**6))
def test_no_ribbon_leaves_its_band_or_outruns_its_pace_and_none_moves_with_nobody_holding(seed):
    figure, inputs = random_steered(seed)
    chance, levels = random.Random(seed), {}
    hand = Grasp(figure, {c.id: chance.uniform(*c.band(figure)) for c in figure.score.moved})
    before = {ident: steer.now for ident, steer in hand.ribbons.items()}
    wheels = {ident for grip in figure.steering.grips if grip.kind == "wheels" for ident in grip.channels}
    wheels |= {channel.id for channel in figure.score.moved if channel.runs}
    assert all(steer.lead.park == 0.0 for steer in hand.ribbons.values() if steer.lead.channel.runs)
    for _ in range(400):
        random_hand(chance, inputs, levels)
        caught = {ident: steer.caught for ident, steer in hand.ribbons.items()}
        now = hand.tick(dict(levels))
        for ident, steer in hand.ribbons.items():
            low, high = steer.lead.channel.band(figure)
            assert low - 1e-9 <= now[ident] <= high + 1e-9
            by = abs(now[ident] - before[ident])
            assert by <= steer.pace * TICK_S + 1e-9
            if not hand.held and ident in wheels:
                left = max(abs(before[ident] - steer.lead.park) - steer.pace * TICK_S, 0.0)
                assert abs(now[ident] - steer.lead.park) <= left + 1e-9, "it runs on"
            elif not hand.held:
                free = figure.steering.let_go == "parks"
                assert by <= (SOFT_PER_S * TICK_S + 1e-9 if free else 0.0)
            elif not caught[ident] and not steer.caught and ident not in wheels:
                assert by <= SOFT_PER_S * TICK_S + 1e-9
        before = dict(now)
    assert from_text(to_text(figure), "memory") == figure


def test_who_takes_hold_of_what_stands_elsewhere_moves_it_softly_until_it_is_where_the_hand_is():
    figure, one, _ = two_ribbons()
    made = steered(figure, (Follows(id="g", name="g", input="k", channel=one, smooth_ms=400),), {"k": "knob", "hold": "button"}, held_by="hold")  # fmt: skip
    low, high = made.score.moving(one).band(made)
    hand = Grasp(made, {one: low})
    ran = [hand.tick({"k": 100.0, "hold": 100.0 if k > 20 else 0.0})[one] for k in range(2000)]
    assert ran[20] == low, "nothing moves before it is held"
    assert max(b - a for a, b in pairwise(ran)) <= SOFT_PER_S * TICK_S + 1e-9
    assert ran[-1] == pytest.approx(high, abs=0.01)


@settings(max_examples=100, deadline=None)
@given(st.floats(0, 100), st.floats(0, 2000), st.floats(0, 2000), st.floats(0.05, 0.95), st.floats(0, 30), st.sampled_from(sorted(HANDED)), st.booleans())  # fmt: skip
def test_an_input_reads_from_end_to_end_without_jumps_and_both_ways_agree(at, low, high, share, still, kind, has):
    if abs(low - high) < 1:
        return
    middle = low + (high - low) * share if has else None
    each = Input(id="a", name="a", kind=kind, reads=(low, high), middle=middle, still_percent=still)
    assert level(each, low) == pytest.approx(0, abs=1e-6) and level(each, high) == pytest.approx(100, abs=1e-6)
    assert level(each, (low + high) / 2 if middle is None else middle) == pytest.approx(50, abs=1e-6)
    assert level(each, reading(each, at)) == pytest.approx(at, abs=1e-6)
    at_all = [level(each, r) for r in np.linspace(min(low, high) - 50, max(low, high) + 50, 401)]
    assert all(0 <= x <= 100 for x in at_all)
    rising = [b - a for a, b in pairwise(at_all)]
    assert all(x >= -1e-9 for x in rising) if low < high else all(x <= 1e-9 for x in rising)
    turned = Input(id="a", name="a", kind=kind, reads=(high, low), middle=middle, still_percent=still)
    assert level(turned, reading(each, at)) == pytest.approx(100 - at, abs=1e-6)


@settings(max_examples=50, deadline=None)
@given(st.floats(0, 2.0))
def test_smoothing_stays_behind_a_steady_hand_by_what_it_says_and_calms_as_it_says(delay):
    """Against a general library's filter: the same two poles, and the spread it leaves of white noise."""
    smooth, per_tick = Smooth(delay, 0.0), 3.0
    for k in range(1, 2500):
        out = smooth.to(k * per_tick)
    assert (2499 * per_tick - out) / per_tick * TICK_S == pytest.approx(delay, abs=1e-3)
    noise, a = np.random.default_rng(1).normal(size=60_000), share_of(delay)
    twice = lfilter([a], [1, a - 1], lfilter([a], [1, a - 1], noise))
    own = Smooth(delay, 0.0)
    assert np.allclose([own.to(x) for x in noise[:300]], twice[:300])
    assert np.std(twice[2000:]) == pytest.approx(calmed(delay), rel=0.12)
    one = lfilter([a], [1, a - 1], lfilter([a], [1, a - 1], np.eye(1, 20_000)[0]))
    assert math.sqrt(float(one @ one)) == pytest.approx(calmed(delay), rel=1e-6)


@settings(max_examples=200, deadline=None)
@given(st.floats(-720, 720), st.lists(st.integers(-180, 180), min_size=1, max_size=8))
def test_expressions_around_a_stick_are_whole_where_they_lie_and_never_too_much(towards, faces):
    faces = tuple(map(float, faces))
    count = weights(towards, faces)
    assert all(0 <= w <= 1 for w in count) and sum(count) <= 1 + 1e-9
    assert sum(w for w, f in zip(weights(faces[0], faces), faces, strict=True) if f % 360 == faces[0] % 360) == pytest.approx(1)  # fmt: skip
    near = weights(towards + 0.01, faces)
    narrowest = min([90.0, *((b - a) % 360 for a in faces for b in faces if (b - a) % 360 > 0)])
    assert all(abs(a - b) <= 0.011 / narrowest + 1e-9 for a, b in zip(count, near, strict=True)), "it jumps"
    between = sorted({f % 360 for f in faces})
    if len(between) > 1 and between[1] - between[0] <= 90:
        half = (between[0] + between[1]) / 2
        assert sum(weights(half, faces)) == pytest.approx(1), "between two neighbours something of both"


def test_a_stick_shows_the_pose_it_is_pushed_to_as_far_as_it_is_pushed():
    """Toward a pose all of it, half way half of it, between two half of either; let go everything is at park."""
    figure = being()
    places = [{"neck_pan": 40.0, "neck_tilt": 10.0}, {"neck_pan": -20.0, "ear_l": 25.0}]
    for name, kept in zip(("Glad", "Sad"), places, strict=True):
        figure = apply(figure, keep_pose(figure, name, kept))
    faces = (Towards(pose=figure.poses[0].id, towards_deg=0.0), Towards(pose=figure.poses[1].id, towards_deg=90.0))
    grip = Expressions(id="g", name="g", ahead="a", across="b", faces=faces, smooth_ms=0.0)
    made = steered(figure, (grip,), {"a": "stick", "b": "stick"}, pace=1000.0)
    diagonal = 50 + 50 * math.sqrt(0.5)
    for levels, shares in (((100, 50), (1, 0)), ((75, 50), (0.5, 0)), ((50, 100), (0, 1)), ((diagonal, diagonal), (0.5, 0.5)), ((50, 50), (0, 0)), ((0, 50), (0, 0))):  # fmt: skip
        now = settled(made, {"a": float(levels[0]), "b": float(levels[1])})
        for joint in ("neck_pan", "neck_tilt", "ear_l"):
            wanted = sum(share * kept.get(joint, 0.0) for share, kept in zip(shares, places, strict=True))
            assert now[f"c_{joint}"] == pytest.approx(wanted, abs=0.02), (levels, joint)


def settled(figure, levels, **sensitivity):
    hand = Grasp(figure)
    for name, value in sensitivity.items():
        setattr(hand, name, value)
    for _ in range(3000):
        now = hand.tick(levels)
    return now


@settings(max_examples=40, deadline=None)
@given(LEVELS, LEVELS)
def test_two_wheels_turn_about_the_point_that_was_asked_for_however_fast(a, b):
    figure, one, other = two_ribbons()
    made = steered(figure, (Wheels(id="g", name="g", ahead="a", turn="b", left=one, right=other, mirrored=False),), {"a": "stick", "b": "stick"})  # fmt: skip
    hand = Grasp(made)
    leads = [hand.ribbons[i].lead for i in (one, other)]
    now = settled(made, {"a": a, "b": b})
    share = []
    for lead, ident in zip(leads, (one, other), strict=True):
        off = now[ident] - lead.park
        share.append(off / ((lead.high - lead.park) if off >= 0 else (lead.park - lead.low) or 1.0))
    ahead, turn = (a - 50) / 50, (b - 50) / 50
    most = max(1.0, abs(ahead) + abs(turn))
    for lead, got, wanted in zip(leads, share, ((ahead + turn) / most, (ahead - turn) / most), strict=True):
        if (lead.high > lead.park) if wanted >= 0 else (lead.park > lead.low):
            assert got == pytest.approx(wanted, abs=2e-3)


def test_what_runs_stands_still_with_no_key_pressed_and_springs_back_with_its_stick():
    figure = apply(being(), add_motor(being(), "Fan"))
    keyed = steered(figure, (Keyed(id="g", name="g", up="u", down="d", channel="fan", pace=50.0, smooth_ms=0),), {"u": "button", "d": "button"})  # fmt: skip
    hand = Grasp(keyed)
    ran = [hand.tick({"u": 100.0 * (0 < k < 50), "d": 100.0 * (k >= 75)})["fan"] for k in range(100)]
    assert ran[49] == pytest.approx(49.0) and ran[50] == ran[74] == 0.0 and ran[99] == pytest.approx(-25.0)
    stick = steered(figure, (Follows(id="g", name="g", input="s", channel="fan", smooth_ms=0),), {"s": "stick"})
    for push, speed in ((0.0, -100.0), (25.0, -50.0), (50.0, 0.0), (100.0, 100.0)):
        assert settled(stick, {"s": push})["fan"] == pytest.approx(speed, abs=0.01)


def test_push_pull_moves_both_the_same_way_or_against_each_other():
    figure, one, other = two_ribbons()
    made = steered(figure, (PushPull(id="g", name="g", together="a", against="b", first=one, second=other),), {"a": "stick", "b": "stick"})  # fmt: skip
    rest = settled(made, {"a": 50.0, "b": 50.0})
    for levels, signs in (({"a": 60.0, "b": 50.0}, (1, 1)), ({"a": 50.0, "b": 60.0}, (1, -1)), ({"a": 40.0, "b": 50.0}, (-1, -1))):  # fmt: skip
        now = settled(made, levels)
        for ident, sign in zip((one, other), signs, strict=True):
            lead = Grasp(made).ribbons[ident].lead
            assert now[ident] == pytest.approx(lead.pushed(sign * 0.2), abs=0.01)
            assert rest[ident] == pytest.approx(lead.park, abs=0.01)


def test_a_stick_lets_go_at_park_a_knob_runs_from_end_to_end_and_less_sensitivity_is_a_share_of_the_way():
    figure, one, _ = two_ribbons()
    for kind in ("stick", "knob"):
        made = steered(figure, (Follows(id="g", name="g", input="a", channel=one),), {"a": kind})
        lead = Grasp(made).ribbons[one].lead
        middle = lead.park if kind == "stick" else (lead.low + lead.high) / 2
        assert settled(made, {"a": 50.0})[one] == pytest.approx(middle, abs=0.01)
        for end, place in ((0.0, lead.low), (100.0, lead.high)):
            assert settled(made, {"a": end})[one] == pytest.approx(place, abs=0.01)
            fine = settled(made, {"a": end}, sensitivity=0)[one]
            assert fine == pytest.approx(lead.park + 0.35 * (place - lead.park), abs=0.01)
        other = apply(made, end_of_grip(made, made.steering.grips[0], 0, lead.high))
        other = apply(other, end_of_grip(other, other.steering.grips[0], 1, lead.low))
        assert settled(other, {"a": 0.0})[one] == pytest.approx(lead.high, abs=0.01)


def test_a_knob_chooses_how_sensitive_it_is_and_keys_drive_at_their_pace():
    figure, one, _ = two_ribbons()
    grip = Keyed(id="g", name="g", up="u", down="d", channel=one, pace=10.0, smooth_ms=0.0)
    made = steered(figure, (grip,), {"u": "button", "d": "button", "by": "knob"}, sensitivity_by="by", sensitivities=(10.0, 50.0, 100.0))  # fmt: skip
    for by, pace in ((0.0, 1.0), (50.0, 5.0), (100.0, 10.0)):
        hand = Grasp(made)
        begins = hand.tick({"u": 0.0, "d": 0.0, "by": by})[one]
        for _ in range(25):
            now = hand.tick({"u": 100.0, "d": 0.0, "by": by})[one]
        assert now - begins == pytest.approx(pace * 0.5, abs=0.05)
        held = [hand.tick({"u": 100.0, "d": 100.0, "by": by})[one] for _ in range(5)]
        assert held == [now] * 5, "both keys are none"


@settings(max_examples=12, deadline=None)
@given(st.integers(0, 10**6))
@example(808469)  # the score moves it as the take begins, three milliseconds before
def test_what_is_recorded_is_what_was_done_and_leaves_the_rest_of_the_score_alone(seed):
    chance, figure = random.Random(seed), apply(OWL, first_steering(OWL))
    begin, hand, levels = chance.uniform(0, 4), Grasp(figure), {each.id: 50.0 for each in figure.behaviour.inputs}
    levels[figure.steering.held_by] = 100.0
    n, rows = chance.randint(60, 300), []
    for k in range(n):
        for grip in figure.steering.grips[:3]:
            levels[grip.input] = 50 + 45 * math.sin(k * 0.03 * (1 + len(grip.id) % 3)) * (k > 20)
        rows.append(hand.tick(levels))
    times = begin + np.arange(n) * TICK_S
    take = Take(times, {ident: np.array([row[ident] for row in rows]) for ident in rows[0]})
    done = written_down(figure, take, 1.0)
    after = apply(figure, recorded(figure, done, float(times[-1])))
    assert 0 < done.made < n, "fewer moves than frames"
    new = sum(row not in figure.score.moving(ident).moves.rows() for ident, rows in done.moves.items() for row in rows)
    assert new <= done.made <= new + len(done.moves)
    for ident, places in take.places.items():
        channel, before = after.score.moving(ident), figure.score.moving(ident)
        if ident not in done.moves:
            assert channel == before
            continue
        ran = build_track(channel, 1.0).at(times)[0]
        assert np.max(np.abs(ran - places)) <= done.off[ident] + 1e-6 <= 1.01
        low, high = channel.band(after)
        assert all(low - 0.01 <= row.target <= high + 0.01 for row in channel.moves.rows())
        old, new = [r for r in before.moves.rows() if r.departs > times[-1]], [r for r in channel.moves.rows() if r.departs > times[-1]]  # fmt: skip
        assert old == new
    with pytest.raises(ValueError, match="lasts"):
        written_down(figure, Take(times[:2], {}), 1.0)


@settings(max_examples=40, deadline=None)
@given(st.integers(0, 10**6), st.sampled_from((0.2, 1.0, 4.0)))
def test_moves_of_a_hand_are_never_further_off_than_allowed_and_fewer_where_more_is(seed, within):
    """However it shakes and leaps: the moves are within the tolerance of every place, and a wider one never takes many more of them."""
    chance, smooth, goal, places = random.Random(seed), None, 0.0, []
    smooth, shakes = Smooth(chance.choice((0.0, 0.1, 0.3)), 0.0), chance.choice((0.0, 0.05, 0.4))
    for _ in range(chance.randint(8, 600)):
        goal = chance.uniform(-20, 20) if chance.random() < 0.03 else goal
        places.append(min(max(smooth.to(goal + shakes * chance.gauss(0, 1)), -20.0), 20.0))
    times, places = np.arange(len(places)) * TICK_S, np.array(places)
    rows = moves_of_a_hand(times, places, (-20.0, 20.0), within, lambda share: None)
    made = JointChannel(id="a", name="a", joints=("a",), park=float(places[0]), moves=moves_of(rows))
    assert np.max(np.abs(build_track(made, 1.0).at(times)[0] - places)) <= within + 2e-3
    assert all(-20 <= row.target <= 20 for row in rows) and len(rows) < len(places)
    wide = moves_of_a_hand(times, places, (-20.0, 20.0), 5 * within, lambda share: None)
    assert len(wide) <= 1.3 * len(rows) + 3


def test_a_ramp_that_could_be_cut_in_a_thousand_ways_is_given_up_in_time(monkeypatch):
    """A stretch that begins at its fastest and goes straight on looks like following moves cut anywhere: it is not tried for ever."""
    looked = []
    one = moves_of_places._one_move
    monkeypatch.setattr(moves_of_places, "_one_move", lambda *given: looked.append(1) or one(*given))
    times = np.arange(250) * TICK_S
    places = np.interp(times, [0.0, 1.0, 3.0], [0.0, 0.0, 40.0]) + 0.01 * np.sin(times * 31)
    moves, off = moves_that_follow(times, places, 0.0, 0.5)
    assert off <= 0.5 and len(moves) < 60 and len(looked) < 1500


def test_grips_are_added_changed_and_taken_out_and_what_they_hang_on_goes_with_them():
    figure = being()
    with pytest.raises(EditRefused, match="kept pose"):
        add_grip(figure, "expressions")
    figure = apply(figure, keep_pose(figure, "Glad", {j.id: j.range[1] for j in figure.joints}))
    for kind in GRIPS:
        edit, ident = add_grip(figure, kind)
        figure = apply(figure, edit)
        grip = figure.steering.grip(ident)
        assert grip.kind == kind and len(set(grip.inputs)) == GRIPS[kind][1]
        if kind == "wheels":  # it has none, so they are laid out; the next takes none of these
            assert all(figure.score.moving(ident).runs for ident in grip.channels)
            assert [channel.name for channel in figure.score.moved if channel.runs] == ["Left wheel", "Right wheel"]
    expressions = figure.steering.grips[-1]
    figure = apply(figure, keep_pose(figure, "Sad", {j.id: j.range[0] for j in figure.joints}))
    figure = apply(figure, add_face(figure, expressions, figure.poses[-1].id))
    assert [face.towards_deg for face in figure.steering.grips[-1].faces] == [0.0, 180.0]
    gone = apply(figure, remove_item(figure, "poses", figure.poses[0].id))
    assert len(gone.steering.grips[-1].faces) == 1
    first = figure.steering.grips[0]
    gone = apply(figure, remove_channel(figure, figure.score.channel(first.channel)))
    assert all(grip.id != first.id for grip in gone.steering.grips)
    with pytest.raises(EditRefused, match="hand"):
        remove_input(figure, first.input)
    figure = apply(figure, remove_grip(figure, first.id))
    figure = apply(figure, remove_input(figure, first.input))
    assert from_text(to_text(figure), "memory") == figure
    while True:
        try:
            figure = apply(figure, add_grip(figure, "push pull")[0])
        except EditRefused as refused:
            assert "ribbons" in str(refused)
            break


def test_what_runs_by_hand_and_nobody_stops_is_told_and_a_switch_cures_it():
    figure = apply(being(), add_grip(being(), "wheels")[0])
    found = {f.id: f for f in study(figure).findings if f.rule == "steering"}
    assert list(found) == ["steering.dead_man"] and found["steering.dead_man"].verdict == "tight"
    done = study(figure)
    (remedy,) = remedies(done, done.finding("steering.dead_man"), Reuse())
    cured = apply(figure, remedy.edit)
    assert study(cured).finding("steering.dead_man").verdict == "holds" and len(cured.behaviour.inputs) == 3
    stays = apply(cured, made_of(lambda: change_input(cured, cured.steering.held_by, "kind", kind="switch")))
    assert study(stays).finding("steering.dead_man").verdict == "tight"
    assert study(apply(stays, add_dead_man(stays))).finding("steering.dead_man").verdict == "holds"
    twice = apply(figure, Edit("x", (Set(("behaviour",), cured.behaviour),)))
    assert len(apply(twice, add_dead_man(twice)).behaviour.inputs) == 3
    base, one, other = two_ribbons()
    jointed = steered(base, (Wheels(id="g", name="g", ahead="a", turn="b", left=one, right=other),), {"a": "stick", "b": "stick"})  # fmt: skip
    assert [f.id for f in study(jointed).findings if f.rule == "steering"] == ["steering.g.kept"]
    plain = steered(base, (Follows(id="g", name="g", input="a", channel=one),), {"a": "knob"})
    assert not [f for f in study(plain).findings if f.rule == "steering"]


def test_what_can_not_be_is_refused_with_what_is_wrong():
    figure, one, _ = two_ribbons()
    twice = tuple(Follows(id=f"g{k}", name="g", input="a", channel=one) for k in range(2))
    with pytest.raises(EditRefused, match="moved by two"):
        apply(figure, Edit("x", (Set(("steering",), {"grips": twice}),)))
    with pytest.raises(EditRefused, match="no input"):
        apply(figure, Edit("x", (Set(("steering",), Steering(grips=twice[:1])),)))
    made = steered(figure, twice[:1], {"a": "stick"})
    with pytest.raises(EditRefused, match="both ends"):
        made_of(lambda: change_input(made, "a", "ends", reads=(40.0, 40.0)))
    with pytest.raises(EditRefused, match="middle lies between"):
        made_of(lambda: change_input(made, "a", "ends", reads=(40.0, 60.0), middle=70.0))
    light = apply(figure, add_light(figure, "Lamp"))
    assert first_steering(light).name


def test_a_state_that_is_steered_does_what_the_hand_does_and_another_takes_over_softly():
    """The engine beside the hand alone, tick by tick; what parks it afterwards begins where the hand left it."""
    figure, one, _ = two_ribbons()
    made = steered(figure, (Follows(id="g", name="g", input="k", channel=one),), {"k": "knob", "go": "button"})
    states = (State(id="hand", name="By hand", plays=(Steered(),)), State(id="parks", name="Parks", plays=(Parks(),)))
    start = Start(id="s", to="parks", on=Pressed(input="go"))
    behaviour = Behaviour(**(dict(made.behaviour) | {"states": states, "starts": (start,)}))
    made = apply(made, Edit("states", (Set(("behaviour",), behaviour),)))
    engine, alone = Engine(made, lambda time: {"k": 50 + 45 * math.sin(time)}), Grasp(made)
    seen = 0.0
    for _ in range(1, 400):
        engine.tick()
        wanted = alone.tick({"k": engine.level("k"), "go": 0.0})[one]
        assert engine.stage.ribbons[one].held(engine.now) == pytest.approx(wanted, abs=0.006)
        seen = max(seen, abs(wanted))
    assert seen > 5
    engine.hold("go", 100.0)
    ran = []
    for _ in range(500):
        engine.tick()
        ran.append(engine.stage.ribbons[one].held(engine.now))
    assert engine.state.id == "parks" and ran[-1] == pytest.approx(made.score.moving(one).park, abs=0.02)
    assert max(abs(b - a) for a, b in pairwise([wanted, *ran])) < 1.0


def test_a_hand_goes_as_fast_as_drives_turn_and_what_never_gets_there_is_told_by_its_verdict():
    """Twice as fast a drive, half the time from end to end, up to the pace that is allowed; of one that cannot make it no speed is known."""
    figure, one, _ = two_ribbons()
    made = steered(figure, (Follows(id="g", name="g", input="a", channel=one),), {"a": "knob"}, pace=500.0)
    unit = made.measure(made.score.moving(one)).si
    for speed in (10.0, 20.0, 40.0):
        can = KeepsUp((0.1, 1.1), (0.05, 0.05 + 1.0 / (speed * unit)))
        assert Grasp(made, None, {one: can}).ribbons[one].pace == pytest.approx(speed)
    never = KeepsUp((0.1, 0.5), (math.inf, math.inf))
    assert Grasp(made, None, {one: never}).ribbons[one].pace == 500.0
    assert told_of(made, "g", {one: never}).whole[one] > 0


def test_what_is_told_of_a_grip_is_what_it_does():
    figure, one, _ = two_ribbons()
    made = steered(figure, (Follows(id="g", name="g", input="a", channel=one, smooth_ms=200.0),), {"a": "knob"}, pace=50.0)  # fmt: skip
    told = told_of(made, "g")
    low, high = made.score.moving(one).band(made)
    assert told.late == pytest.approx(0.01 + 0.2 + 0.02) and told.whole[one] == pytest.approx((high - low) / 50.0)
    hand = Grasp(made, {one: low})
    for _ in range(10):
        hand.tick({"a": 0.0})
    n = 0
    while hand.tick({"a": 100.0})[one] < high - 0.01 * (high - low):
        n += 1
    assert told.whole[one] <= n * TICK_S + 0.1 <= told.whole[one] + 1.0
