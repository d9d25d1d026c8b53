"""Behaviour: laws over random ones, what can never happen against what does, and the walk of visitors."""

import random

import numpy as np
import pytest
from hypothesis import example, given, settings
from hypothesis import strategies as st

from karakuri.behaviour.engine import TICK_HZ, Engine
from karakuri.behaviour.reach import examine
from karakuri.behaviour.senses import attention
from karakuri.behaviour.visitors import Visitors, nobody, sees
from karakuri.demo import owl_path
from karakuri.errors import EditRefused
from karakuri.files.disk import load
from karakuri.files.text import from_text, to_text
from karakuri.model.behaviour import (
    Attends,
    Behaviour,
    Ended,
    Input,
    Lights,
    Lives,
    Parks,
    Performs,
    Poses,
    Pressed,
    Says,
    Start,
    State,
    Stopped,
)
from karakuri.model.edit import Edit, Set, apply
from karakuri.model.figure import Figure
from karakuri.model.moves import Row, moves_of
from karakuri.model.score_edits import add_motor, add_section, set_moves
from karakuri.motion.score_motion import Tracks
from karakuri.motion.track import build_track
from karakuri.session.sounds import Sounds
from karakuri.study.study import study
from tests.behaving import keeper, random_behaviour
from tests.core.test_life import being

OWL = load(owl_path())


def hands(seed, behaviour):
    """Inputs pressed, turned and let go at random."""
    chance, levels = random.Random(seed), {}

    def sensed(_):
        for each in behaviour.inputs:
            if chance.random() < 0.15:
                levels[each.id] = chance.choice((0.0, 100.0)) if each.kind != "knob" else chance.uniform(0, 100)
        return dict(levels)

    return sensed


@settings(max_examples=60, deadline=None)
@given(st.integers(0, 10**6))
def test_what_is_said_never_to_happen_never_does(seed):
    behaviour = random_behaviour(seed)
    figure = Figure(**(dict(being(does=("blinks",))) | {"behaviour": behaviour}))
    found = examine(behaviour)
    engine = Engine(figure, hands(seed, behaviour))
    chance = random.Random(seed + 1)
    for _ in range(60 * TICK_HZ):
        if chance.random() < 0.02:
            engine.cue(chance.choice(("a", "b")))
        engine.tick()
    assert all(engine.counts[state.id] == 0 for state in found.unreached if state.id != behaviour.states[0].id)
    assert all(engine.fired[start.id] == 0 for start, _ in found.silent), [(s.id, why) for s, why in found.silent]
    dead = {state.id for state in found.dead_ends}
    for one, other in zip(engine.entered, engine.entered[1:], strict=False):
        assert one.state not in dead or other.state == one.state


def test_what_can_happen_is_seldom_called_impossible():
    """Not by proof, by trying: of what is not called silent nearly all fires within some minutes of hands at random."""
    fired = possible = 0
    for seed in range(12):
        behaviour = random_behaviour(seed)
        figure = Figure(**(dict(being(does=("blinks",))) | {"behaviour": behaviour}))
        mute = {start.id for start, _ in examine(behaviour).silent}
        seen: set[str] = set()
        for again in range(4):
            engine = Engine(figure, hands(again, behaviour), seed=again)
            chance = random.Random(again)
            for _ in range(60 * TICK_HZ):
                if chance.random() < 0.05:
                    engine.cue(chance.choice(("a", "b")))
                engine.tick()
            seen |= {ident for ident, n in engine.fired.items() if n}
        possible += len(behaviour.starts) - len(mute)
        fired += len(seen - mute)
    assert fired > 0.75 * possible


def test_it_wakes_sleeps_and_powers_down_for_as_long_as_it_is_told():
    engine = Engine(keeper(), nobody, records=True)
    engine.run(2.0)
    assert engine.state.id == "asleep"
    engine.hold("door", 100.0)
    engine.run(0.1)
    engine.hold("door", 0.0)
    assert engine.state.id == "awake"
    engine.run(7.0)
    assert engine.state.id == "asleep" and 4.0 <= engine.entered[-1].at - engine.entered[-2].at <= 6.05
    engine.hold("switch", 100.0)
    engine.run(5.0)
    assert engine.state.id == "down"
    engine.hold("door", 100.0)
    engine.run(4.0)
    assert engine.state.id == "down"  # what is less important does not wake it
    for ident, ribbon in engine.stage.ribbons.items():
        assert ribbon.at(engine.now) == pytest.approx(ribbon.channel.park, abs=0.02), ident
    engine.run(8.0)
    assert engine.state.id == "asleep" and 10.0 <= engine.entered[-1].at - engine.entered[-2].at <= 15.05


@settings(max_examples=25, deadline=None)
@given(st.integers(0, 10**6))
def test_the_same_seed_and_the_same_hands_are_the_same_life(seed):
    figure = keeper()
    runs = []
    for _ in range(2):
        engine = Engine(figure, Visitors(figure.behaviour, seed, 2).at, seed=seed, records=True)
        engine.run(40.0)
        runs.append((engine.entered, {k: r.lived(40.0) for k, r in engine.stage.ribbons.items()}))
    assert runs[0] == runs[1]


@settings(max_examples=25, deadline=None)
@given(st.integers(0, 10**6))
def test_ribbons_are_where_their_moves_say_and_never_leap(seed):
    """The moves that were made, as a score's track, give the same places; none leaves its band; none leaps, whatever interrupts."""
    figure = keeper()
    engine = Engine(figure, Visitors(figure.behaviour, seed, 3, 4.0).at, seed=seed, records=True)
    places = []
    for _ in range(30 * TICK_HZ):
        engine.tick()
        places.append([ribbon.at(engine.now) for ribbon in engine.stage.ribbons.values()])
    places = np.array(places)
    times = np.arange(1, len(places) + 1) / TICK_HZ
    for k, ribbon in enumerate(engine.stage.ribbons.values()):
        from karakuri.model.channel import JointChannel
        from karakuri.model.moves import moves_of

        channel = JointChannel(**(dict(ribbon.channel) | {"moves": moves_of(ribbon.past)}))
        assert np.abs(build_track(channel, 1.0).at(times)[0] - places[:, k]).max() < 1e-6
        low, high = ribbon.channel.band(figure)
        assert places[:, k].min() >= low - 0.01 and places[:, k].max() <= high + 0.01
        assert np.abs(np.diff(places[:, k])).max() < 17.0  # degrees in a fiftieth of a second: a blink


def scripted(*plays, **more):
    return apply(
        OWL, Edit("b", (Set(("behaviour",), Behaviour(states=(State(id="a", name="A", plays=plays, **more),))),))
    )


def test_a_score_is_played_as_it_is_written_once_it_has_gone_to_where_it_begins():
    figure = scripted(Performs(score="score"))
    engine = Engine(figure, nobody, records=True)
    engine.run(17.5)
    for channel in OWL.score.moved:
        track = Tracks().of(channel, 1.0)
        lived = [row for row in engine.stage.ribbons[channel.id].lived(17.5) if row.takes > 0]
        first = channel.moves.row(0)
        at = next(
            row.departs for row in lived if row.takes == pytest.approx(first.takes) and row.target == first.target
        )
        shift = at - first.departs
        assert 0.0 <= shift < 1.2
        asked = track.at(np.array([9.0 - shift]))[0][0]
        again = build_track(channel.but(moves=type(channel.moves)(**{k: tuple(getattr(r, n) for r in engine.stage.ribbons[channel.id].lived(17.5)) for k, n in (("departs_s", "departs"), ("takes_s", "takes"), ("target", "target"), ("profile", "profile"), ("shape", "shape"))})), 1.0)  # fmt: skip
        assert again.at(np.array([9.0]))[0][0] == pytest.approx(asked, abs=0.05)
    assert [sound for _, sound in engine.stage.sounded] == ["oh", "please_read_softly", "hoo_hoo"]


@settings(max_examples=40, deadline=None)
@given(st.integers(0, 10**6))
@example(1952)  # it was just passing its still as the state ended
def test_what_runs_stands_still_half_a_second_after_nobody_plays_it_any_more(seed):
    """Random scores that end while it runs, in sections and whole, and random states about them."""
    chance = random.Random(seed)
    figure = apply(being(), add_motor(being(), "Fan"))
    rows, at = [], 0.0
    for _ in range(chance.randrange(1, 6)):
        at += chance.uniform(0.1, 1.0)
        rows.append(Row(round(at, 3), round(chance.uniform(0.0, 1.5), 3), round(chance.uniform(-100, 100), 1), chance.choice(("minimum jerk", "sudden", "trapezoid", "cosine")), 0.2))  # fmt: skip
    rows.append(Row(round(at + 0.5, 3), 2.0, 90.0, "following", 0.8))
    figure = apply(figure, set_moves(figure.score.moved[-1], moves_of(rows), "runs"))
    figure = apply(figure, add_section(figure, 0.5))
    ident, section = figure.score.id, figure.score.sections[0]
    deeds = (Performs(score=ident), Performs(score=ident, section=section.id), Performs(score=ident, again=True), Parks(), Lives())  # fmt: skip
    made = random_behaviour(seed, 5)
    states = tuple(State(**(dict(s) | {"plays": tuple(chance.sample(deeds, chance.randrange(3)))})) for s in made.states)  # fmt: skip
    figure = apply(figure, Edit("b", (Set(("behaviour",), Behaviour(**(dict(made) | {"states": states}))),)))
    engine = Engine(figure, hands(seed, made))
    entered, over = 0.0, None
    for _ in range(1500):
        seen = len(engine.entered)
        engine.tick()
        if len(engine.entered) != seen:
            entered, over = engine.now, None
        played = [d for d in engine.state.plays if isinstance(d, Performs)]
        plays = [act.ends for act in engine._acts if act.goes_on is not None and act.ends < 1e9]
        first = engine.state.plays.index(played[0]) if played else 0
        parked = any(isinstance(d, Parks) for d in engine.state.plays[:first])
        if played and not parked and played[0].again:
            continue
        ends = max(plays, default=entered) if played and not parked else entered
        over = max(ends, entered)
        if engine.now >= over + 0.55 and not any(isinstance(d, Parks) for d in engine.state.plays):
            assert abs(engine.stage.ribbons["fan"].at(engine.now)) < 0.06, (engine.state, engine.now, over)


def test_what_is_said_moves_the_jaw_when_it_sounds():
    heard = {x.sha256: x for x in Sounds(owl_path().parent).loudness(OWL)}
    figure = scripted(Says(sound="please_read_softly"))
    engine = Engine(figure, nobody, records=True, heard=heard)
    engine.run(3.0)
    ((at, _),) = engine.stage.sounded
    assert at == pytest.approx(0.08, abs=0.021)
    mine = [r for r in OWL.score.moving("beak_channel").moves.rows() if r.made_by and 7.8 < r.departs < 9.9]
    lived = engine.stage.ribbons["beak_channel"].lived(3.0)
    assert len(lived) >= len(mine) and max(r.target for r in lived) > 25.0
    assert engine.state.id == "a" and engine._over


def test_lights_poses_and_attention():
    figure = scripted(Lights(channel="lamp", level=80.0, takes_s=0.4), Poses(pose="hoot", takes_s=0.5), Attends())
    engine = Engine(figure, nobody)
    engine.run(3.0)
    assert engine.stage.ribbons["lamp"].at(engine.now) == pytest.approx(80.0)
    assert engine.stage.ribbons["beak_channel"].at(engine.now) == pytest.approx(dict(OWL.pose("hoot").places)["beak"])
    eyes = scripted(Attends())
    eyes = apply(eyes, Edit("i", (Set(("behaviour", "inputs"), (Input(id="l", name="Left", kind="motion", heading_deg=40.0), Input(id="r", name="Right", kind="motion", heading_deg=-40.0))),)))  # fmt: skip
    engine = Engine(eyes, nobody)
    engine.hold("l", 100.0)
    engine.run(2.0)
    gaze = engine.stage.ribbons["neck_pan_channel"].at(2.0) + engine.stage.ribbons["eye_left_pan_channel"].at(2.0)
    assert 25.0 < gaze < 45.0
    engine.hold("r", 100.0)
    engine.run(2.0)
    gaze = engine.stage.ribbons["neck_pan_channel"].at(4.0) + engine.stage.ribbons["eye_left_pan_channel"].at(4.0)
    assert abs(gaze) < 6.0  # between the two
    engine.hold("r", 0.0)
    far = apply(eyes, Edit("f", (Set(("behaviour", "inputs", "l", "heading_deg"), 170.0),)))
    engine = Engine(far, nobody)
    engine.hold("l", 100.0)
    engine.run(2.0)
    head, eye = (engine.stage.ribbons[f"{i}_channel"].at(2.0) for i in ("neck_pan", "eye_left_pan"))
    assert head + eye == pytest.approx(0.6 * (28.0 + 60.0), abs=0.1)  # as far as both go together
    assert eye == pytest.approx(15.0, abs=0.1)  # and beyond 15° the head does it


def test_attention_is_the_weighted_mean():
    """By hand: (1 × 40 + 3 × (−20)) ÷ 4 = −5°."""
    inputs = (
        Input(id="l", name="L", kind="motion", heading_deg=40.0),
        Input(id="r", name="R", kind="motion", heading_deg=-20.0, weight=3.0),
    )
    assert attention(inputs, {"l": 100.0, "r": 100.0}) == (-5.0, 4.0)
    assert attention(inputs, {"l": 50.0}) == (40.0, 0.5) and attention(inputs, {}) is None


@settings(max_examples=40, deadline=None)
@given(st.floats(0.3, 4.0), st.floats(-3.0, 3.0), st.floats(-180, 180))
def test_a_sensor_turned_round_with_the_room_sees_the_same(x, y, by):
    sensor = Input(id="m", name="M", kind="motion", heading_deg=20.0, wide_deg=60.0, reach_mm=2500.0)
    turned = sensor.but(heading_deg=20.0 + by)
    c, s = np.cos(np.radians(by)), np.sin(np.radians(by))
    off = (np.degrees(np.arctan2(y, x)) - 20.0 + 180.0) % 360.0 - 180.0
    if abs(abs(off) - 30.0) > 1e-6 and abs(np.hypot(x, y) - 2.5) > 1e-6:
        assert sees(sensor, x, y) == sees(turned, c * x - s * y, s * x + c * y)


def test_who_stands_still_is_seen_by_a_beam_and_by_no_motion_sensor():
    """A warm sensor sees what moves; a beam is broken by whoever stands in it."""
    sensors = (
        Input(id="m", name="M", kind="motion", wide_deg=120.0),
        Input(id="b", name="B", kind="beam", wide_deg=120.0),
    )
    behaviour = Behaviour(states=(State(id="a", name="A"),), inputs=sensors)
    for seed in range(40):
        visitors = Visitors(behaviour, seed, 1, 2.0)
        walk = visitors.walks[0]
        if walk.stays > 3.0:
            middle = walk.stops_at + 1.5
            seen = [visitors.at(t) for t in np.arange(0.0, middle, 0.05)][-1]
            assert "m" not in seen and seen["b"] == 100.0
            x, y, speed = walk.at(middle)
            assert speed == 0.0 and walk.at(middle + 0.5)[:2] == (x, y)
            assert walk.at(walk.ends)[1] == pytest.approx(-walk.way * 4.0) and walk.at(walk.begins)[1] == pytest.approx(walk.way * 4.0)  # fmt: skip
            return
    raise AssertionError("nobody stopped")


def test_somebody_who_stops_is_noticed_where_he_was_seen_last():
    inputs = tuple(Input(id=i, name=i, kind="motion") for i in ("l", "m", "r"))
    states = (State(id="a", name="A"), State(id="b", name="B"))
    starts = (Start(id="s", to="b", on=Stopped(input="m", still_s=1.0), while_in=("a",)),)
    figure = apply(OWL, Edit("x", (Set(("behaviour",), Behaviour(states=states, starts=starts, inputs=inputs)),)))

    def walk(*seen):
        """Which input is on from when, s, until when."""
        engine = Engine(figure, lambda t: {i: 100.0 for i, a, b in seen if a <= t < b})
        engine.run(6.0)
        return [each.at for each in engine.entered[1:]]

    (at,) = walk(("l", 0.5, 1.0), ("m", 1.0, 2.0))
    assert at == pytest.approx(3.0, abs=0.08)
    assert walk(("m", 1.0, 2.0), ("r", 2.1, 2.5)) == []  # he went on, and was seen so
    assert len(walk(("m", 1.0, 2.0), ("m", 2.6, 3.0))) == 1  # he moved again in between
    blind = apply(figure, Edit("k", (Set(("behaviour", "inputs", "m", "kind"), "button"),)))
    assert "sees nobody" in dict((s.id, why) for s, why in examine(blind.behaviour).silent)["s"]


def test_visitors_come_walk_stop_and_go():
    behaviour = keeper().behaviour
    visitors = Visitors(behaviour, 3, 4, 6.0)
    here, on = [], 0
    for k in range(20 * 600):
        time = k / 20
        on += visitors.at(time).get("door", 0.0) > 0
        here.append(len(list(visitors.places(time))))
    assert max(here) >= 2 and 0.1 < np.mean(here) < 4 and 0.02 < on / len(here) < 0.9


def test_findings_of_a_behaviour():
    done = study(keeper())
    assert done.finding("behaviour").verdict == "holds"
    states = (State(id="a", name="A", plays=(Parks(),)), State(id="b", name="B"), State(id="c", name="C"))
    starts = (
        Start(id="x", to="b", on=Ended(), while_in=("a",)),
        Start(id="y", to="c", on=Pressed(input="k"), while_in=("a",), chance=0.0),
    )
    made = Behaviour(states=states, starts=starts, inputs=(Input(id="k", name="Key"),))
    told = {
        f.id: f for f in study(apply(OWL, Edit("b", (Set(("behaviour",), made),)))).findings if f.rule == "behaviour"
    }
    assert {k: f.verdict for k, f in told.items()} == {
        "behaviour.c.unreached": "tight", "behaviour.b.end": "tight", "behaviour.y.silent": "tight",
    }  # fmt: skip
    assert "its chance is nothing" in told["behaviour.y.silent"].sentence.text


def test_a_behaviour_survives_its_file_and_what_is_gone_is_refused():
    figure = keeper()
    assert from_text(to_text(figure)) == figure
    for plays, words in (((Performs(score="gone"),), "no score"), ((Poses(pose="gone"),), "no pose"), ((Says(sound="gone"),), "no sound"), ((Says(lines="gone"),), "no list"), ((Lights(channel="beak_channel"),), "no light")):  # fmt: skip
        with pytest.raises(EditRefused, match=words):
            scripted(*plays)
    with pytest.raises(ValueError, match="no state 'gone'"):
        Behaviour(states=(State(id="a", name="A"),), starts=(Start(id="s", to="gone", on=Ended()),))
    with pytest.raises(ValueError, match="no input 'gone'"):
        Behaviour(states=(State(id="a", name="A"),), starts=(Start(id="s", to="a", on=Pressed(input="gone")),))
    with pytest.raises(ValueError, match="no state to begin in"):
        Engine(OWL, nobody)


def test_hours_of_it_neither_grow_nor_drift():
    figure = keeper()
    engine = Engine(figure, Visitors(figure.behaviour, 1, 2).at)
    engine.run(600.0)
    assert engine.now == 600.0 and engine.ticks == 30_000
    assert all(len(r.past) == 0 and len(r._ahead) < 40 for r in engine.stage.ribbons.values())
    assert len(engine.stage.sounded) <= 64 and len(engine.entered) <= 2000
