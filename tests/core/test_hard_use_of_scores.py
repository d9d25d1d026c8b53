"""Hard use of scores without a window: random edits one after the other, mutilated files, odd numbers. Only the house's own exceptions."""

import json
import random

import numpy as np
import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from karakuri.actuators.pulses import PulseMap
from karakuri.demo import owl_path
from karakuri.devices.prepare import program_of
from karakuri.errors import Trouble
from karakuri.exchange.frames_csv import read, take_over
from karakuri.exchange.player.tables import header, tables
from karakuri.files.disk import load
from karakuri.files.text import from_text, to_text
from karakuri.model.edits import remove_item
from karakuri.model.joint_edits import remove_joint
from karakuri.model.makers import Pin
from karakuri.model.moves import Row
from karakuri.model.profiles import PROFILE_KINDS
from karakuri.model.record import Calibration, Entry
from karakuri.model.score_edits import (
    add_light,
    add_move,
    blended,
    change_move,
    keep_pose,
    lay_out,
    remove_channel,
    remove_move,
    stretch_all,
    untie,
)
from karakuri.model.sides import mirrored
from karakuri.motion.makers.life import live
from karakuri.motion.makers.pin import pin_pose, unpin
from karakuri.session.session import Session
from karakuri.study.reuse import Reuse
from karakuri.study.study import study
from tests.figures import as_csv
from tests.frames import score_frames

OWL = load(owl_path())
BODY = Reuse()
"""Of the owl, so that a score in pieces does not have its body judged again each time."""
SHAPES = {"trapezoid": 0.3, "following": 0.2}


def some_row(chance: random.Random) -> Row:
    kind = chance.choice(PROFILE_KINDS)
    takes = chance.choice((0.0, 0.001, 0.2, 3.0))
    return Row(chance.uniform(0, 20), takes, chance.uniform(0, 90), kind, SHAPES.get(kind, 0.0))


def some_edit(figure, chance: random.Random):
    """Any of the edits that widgets, remedies and imports make of a score."""
    channels = [c for c in figure.score.moved if len(c.moves)]
    channel = chance.choice(channels) if channels else None
    pose = chance.choice(figure.poses) if figure.poses else None
    kinds = {
        "light": lambda: add_light(figure),
        "lay": lambda: lay_out(figure),
        "keep": lambda: keep_pose(figure, "pose", {j.id: chance.uniform(-20, 20) for j in figure.joints}),
        "mirror": lambda: keep_pose(figure, "m", mirrored(figure, dict(pose.places))),
        "blend": lambda: keep_pose(figure, "b", blended(pose, chance.choice(figure.poses), chance.random())),
        "pin": lambda: pin_pose(figure, Pin(id=f"p{chance.randrange(10**6)}", pose=pose.id, arrives_s=chance.uniform(0, 15), manner=chance.choice(("together", "in order")))),
        "unpin": lambda: unpin(figure, chance.choice(figure.score.pins).id),
        "stretch": lambda: stretch_all(figure, chance.choice((0.5, 1.3))),
        "idle": lambda: live(figure),
        "add": lambda: add_move(channel, some_row(chance))[0],
        "change": lambda: change_move(channel, chance.randrange(len(channel.moves)), "x", departs=chance.uniform(0, 9), takes=chance.uniform(0, 2))[0],
        "profile": lambda: change_move(channel, 0, "x", profile=chance.choice(PROFILE_KINDS))[0],
        "remove": lambda: remove_move(channel, chance.randrange(len(channel.moves))),
        "untie": lambda: untie(figure, channel),
        "out": lambda: remove_channel(figure, channel),
        "joint": lambda: remove_joint(figure, chance.choice(figure.joints).id),
        "drop": lambda: remove_item(figure, "poses", pose.id),
    }  # fmt: skip
    return kinds[chance.choice(list(kinds))]


@pytest.mark.long
@settings(max_examples=6, deadline=None, suppress_health_check=[HealthCheck.too_slow])
@given(st.integers(0, 10**6))
def test_random_edits_leave_a_figure_that_can_be_judged_saved_and_played(seed):
    chance, session, reuse = random.Random(seed), Session(OWL), Reuse()
    base = None
    for _ in range(14):
        try:
            session.edit(some_edit(session.figure, chance)())
        except (Trouble, IndexError, AttributeError) as trouble:  # nothing to choose from, or refused with a sentence
            assert not isinstance(trouble, Trouble) or str(trouble)
            continue
        quick = chance.random() < 0.5
        base = study(session.figure, reuse, quick=quick, base=base)
    figure = session.figure
    assert from_text(to_text(figure), "x") == figure
    whole, again = study(figure), study(figure, reuse, base=base if base is not None and base.settled else None)
    assert [(f.id, f.verdict) for f in whole.findings] == [(f.id, f.verdict) for f in again.findings]
    made = score_frames(figure)
    assert np.isfinite(made.places).all()
    program = program_of(figure)
    low, high = np.minimum(program.low, program.high), np.maximum(program.low, program.high)
    assert ((program.values >= low - 0.51) & (program.values <= high + 0.51)).all()
    if figure.score.moved:
        table = read(as_csv(figure))
        leap = max(float(np.abs(np.diff(places)).max()) for _, places in table.columns.values())
        assert (
            take_over(figure, table)[1] <= 0.25 + 0.01 * leap
        )  # what leaps from one frame to the next is met at both, not between
    try:
        assert header(tables(figure)).count("{") > 3
    except Trouble as trouble:
        assert str(trouble)
    for _ in range(20):
        session.undo()
    assert session.figure == OWL


@settings(max_examples=60, deadline=None)
@given(st.data())
def test_mutilated_scores_are_told_or_read_never_worse(data):
    plain = json.loads(to_text(OWL))
    score = plain["scores"][0]
    score["makers"].append({"kind": "life", "id": "life", "seed": 3})
    place = data.draw(st.sampled_from(("score", "poses", "channel", "moves", "pin", "life")))
    where = {
        "score": score, "poses": plain["poses"][0], "channel": score["channels"][0], "moves": score["channels"][0]["moves"],
        "pin": score["makers"][0], "life": score["makers"][-1],
    }[place]  # fmt: skip
    key = data.draw(st.sampled_from(sorted(where) or ["seed"]))
    junk = data.draw(st.sampled_from((None, -1, 1e300, "x", [], {}, [[]], True, "neck_pan", [1, "a"], 0)))
    if data.draw(st.booleans()):
        where[key] = junk
    else:
        where.pop(key, None)
    try:
        figure = from_text(json.dumps(plain), "owl")
    except Trouble as trouble:
        assert "owl" in str(trouble) and str(trouble).count("expected") >= 1
        return
    study(figure, BODY)


@pytest.mark.parametrize(
    "text",
    [
        "time_s",
        "time_s,a [deg]",
        ",,,\n,,,\n,,,",
        "time_s,a [deg]\n" + "0,1\n" * 5,
        "\x00",
        '"',
    ],
)
def test_tables_of_rubbish(text):
    with pytest.raises(Trouble):
        read(text)


@settings(max_examples=80, deadline=None)
@given(st.text(alphabet="time_s,a [deg]0123.5-\n\r\"'%", max_size=80))
def test_no_text_breaks_the_reader(text):
    try:
        table = read("time_s,beak_channel [deg]\n" + text)
    except Trouble as trouble:
        assert str(trouble)
    else:
        assert (np.diff(table.times) > 0).all()
        take_over(OWL, table)


@settings(max_examples=60, deadline=None)
@given(st.floats(-80, -5), st.floats(6, 80), st.floats(210, 1400), st.floats(1500, 2900), st.booleans())
def test_any_calibration_sends_pulses_between_its_ends(low, high, first, last, turned):
    session = Session(OWL)
    pulses = (first, (first + last) / 2, last)
    made = Calibration(angles_deg=(low, 0.0, high), pulses_us=tuple(reversed(pulses)) if turned else pulses)
    drive = OWL.drives[0]
    session.note(lambda: Entry(date="2026-01-01", kind="calibration", drive=drive.id, calibration=made))
    program = program_of(session.figure)
    o = [output.joint for output in _outputs(session.figure)].index(drive.joint)
    sent = program.values[:, o]
    assert sent.min() >= first - 0.5 and sent.max() <= last + 0.5
    assert from_text(to_text(session.figure), "x") == session.figure


def _outputs(figure):
    from karakuri.exchange.outputs import outputs

    return outputs(figure)


@settings(max_examples=60, deadline=None)
@given(
    st.floats(-1.4, -0.1),
    st.floats(0.1, 1.4),
    st.floats(300, 1400),
    st.floats(1450, 1550),
    st.floats(1600, 2700),
    st.booleans(),
)
def test_a_step_of_pulse_is_no_more_angle_than_the_least_slope_makes_it(low, high, first, middle, last, turned):
    """And no less at the steepest place: against the map's own angles, step by step. What limits a servo's pulse a frame rests on it."""
    pulses = (first, middle, last)[:: -1 if turned else 1]
    mapped = PulseMap((low, 0.0, high), pulses, True)
    steps = np.linspace(first, last, 4001)
    slopes = np.abs(np.diff(mapped.angle(steps)) / np.diff(steps))
    assert 1 / mapped.least_us_per_rad == pytest.approx(slopes.max(), rel=1e-6)
    ends = mapped.pulse(np.array(mapped.angles))
    assert mapped.us_per_rad * (mapped.angles[2] - mapped.angles[0]) == pytest.approx(ends[2] - ends[0])
    assert abs(mapped.us_per_rad) >= mapped.least_us_per_rad * (1 - 1e-9)
    assert mapped.pulse(mapped.angle(steps)) == pytest.approx(steps, abs=1e-6)
