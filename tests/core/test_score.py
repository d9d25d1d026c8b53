"""The score as a value: moves, ribbons, poses, pins, idle life, the record; edits, files and what they refuse."""

import itertools
import json
import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from pydantic_core import ValidationError

from karakuri.bodies.tree import build_tree
from karakuri.demo import owl_path
from karakuri.errors import EditRefused, FileTrouble
from karakuri.exchange.frames_csv import read, take_over
from karakuri.exchange.moves_of_places import _cornered, _off, _stretches, corners_of
from karakuri.exchange.outputs import outputs
from karakuri.exchange.player.bundle import bundle
from karakuri.exchange.player.kinds import pulse_kind
from karakuri.exchange.player.size import controllers
from karakuri.exchange.player.tables import header, tables
from karakuri.files.disk import load, read_text
from karakuri.files.text import from_text, to_text
from karakuri.mechanics.starts import rest_pose
from karakuri.model.channel import JointChannel
from karakuri.model.edit import Edit, Set, apply
from karakuri.model.edits import remove_item
from karakuri.model.joint_edits import remove_joint
from karakuri.model.makers import Life, Pin
from karakuri.model.moves import Moves, Row, moves_of
from karakuri.model.record import Calibration, Entry
from karakuri.model.score import Pose, Score
from karakuri.model.score_edits import (
    add_light,
    add_move,
    blended,
    change_move,
    keep_pose,
    lay_out,
    missing_channels,
    remove_channel,
    remove_move,
    stretch_all,
    untie,
)
from karakuri.model.sides import mirrored, twin_of
from karakuri.motion.makers.life import live, make, set_life
from karakuri.motion.makers.pin import pin_pose, unpin
from karakuri.motion.score_motion import Tracks, score_motion
from karakuri.session.session import Session
from karakuri.wiring.plug_in import to_output
from tests.figures import head, scored
from tests.frames import score_frames

rows = st.builds(
    Row, st.floats(0, 50).map(lambda v: round(v, 3)), st.floats(0, 5).map(lambda v: round(v, 3)), st.floats(-180, 180),
    st.sampled_from(("minimum jerk", "cosine", "sudden")), st.just(0.0), st.sampled_from(("", "life")),
)  # fmt: skip


@pytest.fixture(scope="module")
def owl():
    return load(owl_path())


@settings(max_examples=60, deadline=None)
@given(st.lists(rows, max_size=30))
def test_a_score_survives_the_file(found):
    figure = scored(*found, length_s=60.0)
    assert from_text(to_text(figure), "x") == figure


@settings(max_examples=60, deadline=None)
@given(st.lists(rows, min_size=1, max_size=12), st.data())
def test_moves_stay_in_order_whatever_is_done(found, data):
    channel = JointChannel(id="c", name="c", joints=("j",), moves=moves_of(found))
    for _ in range(4):
        k = data.draw(st.integers(0, len(channel.moves) - 1))
        row = data.draw(rows)
        kind = data.draw(st.sampled_from(("add", "change", "remove")))
        if kind == "add":
            edit, at = add_move(channel, row)
            assert edit.steps[0].value.row(at).target == pytest.approx(row.target, abs=0.006)
        elif kind == "change":
            edit, at = change_move(channel, k, "departure", departs=row.departs)
            assert edit.steps[0].value.row(at).departs == pytest.approx(row.departs, abs=1e-3)
            assert edit.steps[0].value.row(at).made_by == ""
        else:
            edit = remove_move(channel, k)
        channel = JointChannel(**(dict(channel) | {"moves": edit.steps[0].value}))
        assert all(a <= b for a, b in itertools.pairwise(channel.moves.departs_s))
        if not len(channel.moves):
            break


@pytest.mark.parametrize(
    ("fields", "words"),
    [
        ({"departs_s": (1.0, 0.5), "takes_s": (1.0, 1.0), "target": (1.0, 2.0)}, "times run forwards"),
        ({"departs_s": (1.0,), "takes_s": (), "target": (1.0,)}, "takes_s has 0"),
        ({"departs_s": (1.0,), "takes_s": (1.0,), "target": (1.0,), "profile": ("trapezoid",), "shape": (0.7,)}, "ramp share"),
        ({"departs_s": (1.0,), "takes_s": (1.0,), "target": (1.0,), "profile": ("following",), "shape": (0.0,)}, "time constant"),
        ({"departs_s": (1e6,), "takes_s": (1.0,), "target": (1.0,)}, "less than or equal to 86400"),
        ({"departs_s": (-1.0,), "takes_s": (1.0,), "target": (1.0,)}, "greater than or equal to 0"),
    ],
)  # fmt: skip
def test_moves_that_cannot_be(fields, words):
    with pytest.raises(ValidationError, match=words):
        Moves(**fields)


@pytest.mark.parametrize(
    ("change", "words"),
    [
        (lambda d: d["scores"][0]["channels"][0].update(joints=["gone"]), "there is no joint 'gone'"),
        (
            lambda d: d["scores"][0]["channels"][0]["moves"].update(departs_s=[3.0, 1.0] + [9.0] * 6),
            "times run forwards",
        ),
        (
            lambda d: d["scores"][0]["channels"].append(dict(d["scores"][0]["channels"][0], id="again")),
            "moved by two channels",
        ),
        (lambda d: d["scores"][0]["channels"][-1].update(park=140), "at most 100"),
        (lambda d: d["scores"][0]["makers"][0].update(pose="gone"), "there is no pose 'gone'"),
        (lambda d: d["poses"][0].update(places=[["gone", 1.0]]), "there is no joint 'gone'"),
        (lambda d: d["scores"][0].update(length_s=-2), "at least 0.02"),
        (lambda d: d["scores"][0]["channels"][0].update(colour="red"), "colour"),
        (lambda d: d.update(record=[{"date": "yesterday", "kind": "note", "words": "x"}]), "record"),
        (lambda d: d["drives"][0].update(output="three"), "pin"),
    ],
)
def test_a_broken_score_is_told_and_nothing_is_lost(change, words):
    plain = json.loads(owl_path().read_text())
    change(plain)
    with pytest.raises(FileTrouble, match=words):
        from_text(json.dumps(plain), "owl")


def test_hand_written_scores_need_few_fields():
    plain = json.loads(to_text(head()))
    plain["scores"] = [{"channels": [{"id": "nod", "name": "Nod", "joints": ["tilt"], "moves": {"departs_s": [0, 1], "takes_s": [0.5, 0.5], "target": [10, 0]}}]}]  # fmt: skip
    figure = from_text(json.dumps(plain), "x")
    assert figure.score.moved[0].moves.profile == ("minimum jerk", "minimum jerk")
    assert figure.score.moved[0].moves.made_by == ("", "")


def test_ribbons_are_laid_out_once_and_twins_move_as_one(owl):
    bare = apply(owl, Edit("clear", (Set(("score",), Score()),)))
    names = dict((joints, name) for joints, name in missing_channels(bare))
    assert names[("eye_left_pan", "eye_right_pan")] == "Eye pan, both"
    laid = apply(bare, lay_out(bare))
    assert {j for c in laid.score.moved for j in c.joints} == {j.id for j in owl.joints}
    with pytest.raises(EditRefused, match="has its ribbon"):
        lay_out(laid)
    tied = laid.score.channel_of("eye_left_pan")
    apart = apply(laid, untie(laid, tied))
    assert sorted(len(c.joints) for c in apart.score.moved) == [1] * 6 + [2]
    with pytest.raises(EditRefused, match="nothing to untie"):
        untie(apart, apart.score.moved[0])
    assert len(apply(laid, remove_channel(laid, tied)).score.moved) == len(laid.score.moved) - 1
    assert apply(laid, add_light(laid)).score.moved[-1].kind == "light"


def test_a_mirror_twice_is_the_same_and_swaps_sides(owl):
    places = {"neck_pan": 20.0, "neck_tilt": 10.0, "neck_roll": -5.0, "eye_left_pan": 12.0, "eye_right_pan": 8.0}
    once = mirrored(owl, places)
    assert once == {
        "neck_pan": -20.0,
        "neck_tilt": 10.0,
        "neck_roll": 5.0,
        "eye_right_pan": -12.0,
        "eye_left_pan": -8.0,
    }
    assert mirrored(owl, once) == places
    assert twin_of(owl, "neck_tilt") is None and twin_of(owl, "eye_left_pan") == "eye_right_pan"


def test_a_blend_lies_between(owl):
    a, b = owl.poses[1], owl.poses[2]
    for share in (0.0, 0.3, 1.0):
        mixed = blended(a, b, share)
        for joint, value in mixed.items():
            assert value == pytest.approx((1 - share) * dict(a.places)[joint] + share * dict(b.places)[joint])
    lone = Pose(id="p", name="p", places=(("neck_pan", 8.0),))
    assert blended(lone, Pose(id="q", name="q"), 0.5) == {"neck_pan": 8.0}


def test_poses_are_kept_and_stay_while_they_are_pinned(owl):
    kept = apply(owl, keep_pose(owl, "looks up", {"neck_tilt": -12.345}))
    assert dict(kept.poses[-1].places)["neck_tilt"] == -12.35 or dict(kept.poses[-1].places)["neck_tilt"] == -12.34
    with pytest.raises(EditRefused, match="pinned in the score"):
        remove_item(kept, "poses", "drowsy")
    assert len(apply(kept, remove_item(kept, "poses", kept.poses[-1].id)).poses) == len(owl.poses)


@pytest.mark.parametrize("manner", ["together", "in order"])
def test_a_pinned_pose_arrives_as_it_is_told(owl, manner):
    pin = Pin(id="new_pin", pose="hoot", arrives_s=6.0, takes_s=0.5, manner=manner, gap_s=0.1)
    figure = apply(owl, pin_pose(owl, pin))
    made = {c.id: row for c in figure.score.moved for row in c.moves.rows() if row.made_by == "new_pin"}
    arrivals = {c: row.departs + row.takes for c, row in made.items()}
    if manner == "together":
        assert set(arrivals.values()) == {6.0}
    else:
        assert (
            arrivals["eye_left_pan_channel"]
            < arrivals["beak_channel"]
            < arrivals["neck_tilt_channel"]
            == pytest.approx(6.0)
        )
    moved = apply(figure, pin_pose(figure, Pin(**(dict(pin) | {"arrives_s": 7.0}))))
    assert sum(row.made_by == "new_pin" for c in moved.score.moved for row in c.moves.rows()) == len(made)
    gone = apply(moved, unpin(moved, "new_pin"))
    assert gone.score.moved == owl.score.moved and gone.score.pins == owl.score.pins


def test_stretching_keeps_the_order_of_things(owl):
    slow = apply(owl, stretch_all(owl, 1.5))
    assert slow.score.length_s == pytest.approx(24.0)
    for a, b in zip(owl.score.moved, slow.score.moved, strict=True):
        assert b.moves.target == a.moves.target
        if a.id == "beak_channel":  # it goes with its voice, which keeps its pace
            continue
        assert b.moves.departs_s == pytest.approx([t * 1.5 for t in a.moves.departs_s], abs=1e-4)
    assert [p.arrives_s for p in slow.score.pins] == pytest.approx(
        [p.arrives_s * 1.5 for p in owl.score.pins], abs=1e-3
    )


def test_idle_life_is_the_same_for_a_seed_and_keeps_off_other_moves(owl):
    wide = apply(
        owl,
        Edit(
            "idle",
            (
                Set(("score", "makers"), (*owl.score.makers, Life(seed=7, waits_s=(0.5, 2.0)))),
                Set(("score", "length_s"), 60.0),
            ),
        ),
    )
    one, two = make(wide, wide.score.life), make(wide, wide.score.life)
    assert one == two and sum(map(len, one.values())) > 4
    other = apply(wide, set_life(wide, "seed", seed=8))
    assert make(other, other.score.life) != one
    written = apply(wide, live(wide))
    for channel in written.score.moved:
        mine = [r for r in channel.moves.rows() if r.made_by == "life"]
        others = [r for r in channel.moves.rows() if r.made_by != "life"]
        for row in mine:
            assert all(o.departs >= row.departs + row.takes or o.departs + o.takes <= row.departs for o in others)
    again = apply(written, live(written))
    assert again.score.moved == written.score.moved
    with pytest.raises(EditRefused, match="Nothing to do when idle"):
        live(scored(Row(0, 1, 5)))


def test_removing_a_joint_takes_it_out_of_ribbons_and_poses(owl):
    figure = apply(owl, remove_joint(owl, "eye_left_pan"))
    assert figure.score.channel_of("eye_left_pan") is None
    assert figure.score.channel_of("eye_right_pan") is not None
    assert all("eye_left_pan" not in dict(p.places) for p in figure.poses)


def test_an_edit_of_one_ribbon_leaves_the_others_the_same_objects(owl):
    edit, _ = change_move(owl.score.moved[0], 0, "target", target=3.0)
    after = apply(owl, edit)
    assert all(a is b for a, b in zip(owl.score.moved[1:], after.score.moved[1:], strict=True))
    assert after.parts[0] is owl.parts[0]


def test_tracks_are_built_again_only_for_what_changed(owl):
    kept = Tracks()
    tree = build_tree(owl)
    before = score_motion(owl, tree, rest_pose(tree), kept)
    edit, _ = change_move(owl.score.moved[0], 0, "target", target=3.0)
    after = score_motion(apply(owl, edit), tree, rest_pose(tree), kept)
    assert [a is b for a, b in zip(before.tracks, after.tracks, strict=True)] == [False] + [True] * 6


# ---- the record and pulses
def calibration(**fields):
    return Calibration(**({"angles_deg": (-60.0, 0.0, 55.0), "pulses_us": (800.0, 1490.0, 2200.0)} | fields))


def test_the_record_only_grows():
    session = Session(head())
    session.edit(Edit("name", (Set(("name",), "first"),)))
    session.note(lambda: Entry(date="2026-01-02T10:00", kind="calibration", drive="servo", calibration=calibration()))
    session.edit(Edit("name", (Set(("name",), "second"),)))
    while session.undo():
        assert len(session.figure.record) == 1
    assert session.figure.name == "head"
    while session.redo():
        assert len(session.figure.record) == 1
    assert session.figure.name == "second"
    assert session.figure.calibration_of("servo").horn_tooth is None
    session.note(lambda: Entry(date="2026-01-03", kind="horn off", drive="servo"))
    assert session.figure.calibrated("servo") is None
    with pytest.raises(EditRefused, match="no drive 'gone'"):
        session.note(lambda: Entry(date="2026-01-03", kind="horn off", drive="gone"))


@pytest.mark.parametrize(
    "fields",
    [
        {"angles_deg": (0.0, 0.0, 10.0)},
        {"pulses_us": (800.0, 700.0, 2200.0)},
        {"pulses_us": (100.0, 1500.0, 2200.0)},
        {"pulses_us": (800.0, 1500.0, 3200.0)},
    ],
)
def test_calibrations_that_cannot_be(fields):
    with pytest.raises(ValidationError):
        calibration(**fields)


@pytest.mark.parametrize("turned", [False, True])
def test_pulses_go_there_and_back(turned):
    figure = head()
    pulses = (2200.0, 1490.0, 800.0) if turned else (800.0, 1490.0, 2200.0)
    session = Session(figure)
    session.note(
        lambda: Entry(date="2026-01-02", kind="calibration", drive="servo", calibration=calibration(pulses_us=pulses))
    )
    mapped = outputs(session.figure)[0].pulses
    angles = np.radians(np.linspace(-60, 55, 60))
    assert mapped.angle(mapped.pulse(angles)) == pytest.approx(angles, abs=1e-12)
    assert mapped.pulse(np.radians([-60.0, 0.0, 55.0])).tolist() == list(pulses)
    assert mapped.pulse(np.radians([-90.0, 90.0])).tolist() == [pulses[0], pulses[2]]
    assert mapped.calibrated and not outputs(figure)[0].pulses.calibrated


def test_outputs_are_numbered_once_and_lights_come_last(owl):
    found = outputs(owl)
    assert [o.number for o in found] == list(range(9)) and found[-1].joint is None
    named = apply(owl, to_output(owl, owl.drives[0].id, 5))
    numbers = {o.name: o.number for o in outputs(named)}
    assert len(set(numbers.values())) == 9 and numbers[owl.joint(owl.drives[0].joint).name] == 5


# ---- tables that make no sense
@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("", "holds no frames"),
        ("time_s,nod [deg]\n0,1\n", "holds no frames"),
        ("t,nod [deg]\n0,1\n1,2\n", "expected time_s"),
        ("time_s,nod\n0,1\n1,2\n", "its unit"),
        ("time_s,nod [deg],nod [deg]\n0,1,1\n1,2,2\n", "'nod' twice"),
        ("time_s,nod [deg]\n0,1\n1\n", "2 columns"),
        ("time_s,nod [deg]\n0,1\n1,up\n", "row 3, column 2: expected a number"),
        ("time_s,nod [deg]\n0,1\n1,nan\n", "a number"),
        ("time_s,nod [deg]\n0,1\n2,1\n1,2\n", "row 4: expected a time after 2 s, found 1 s"),
        ("time_s,nod [deg]\n-1,1\n1,2\n", "0 s or later"),
    ],
)
def test_tables_that_make_no_sense(text, words):
    with pytest.raises(FileTrouble, match=words.replace("[", r"\[")):
        read(text)


def test_tables_that_do_not_fit_the_score():
    figure = scored(Row(0, 1, 5))
    with pytest.raises(FileTrouble, match="one of nod"):
        take_over(figure, read("time_s,gone [deg]\n0,1\n1,2\n"))
    with pytest.raises(FileTrouble, match=r"\[deg\]"):
        take_over(figure, read("time_s,nod [mm]\n0,1\n1,2\n"))


@pytest.mark.parametrize(
    ("rows", "said"),
    [
        ("0,1e308\n1,0", "row 2, column 2: expected a place within ±20000"),
        ("0,1\n90000,2", "row 3, column 1: expected a time of at most 86400 s, a day; are these milliseconds"),
        ("0,0\n20,1\n86420,2\n86440,1", "row 4, column 1"),
    ],
)
def test_a_table_beyond_what_a_score_holds_is_refused_by_its_row(rows, said):
    with pytest.raises(FileTrouble) as told:
        read(f"time_s,nod [deg]\n{rows}\n")
    assert said in str(told.value)


LAMPLESS = scored(Row(0.5, 0.5, 20.0))


def test_a_level_above_a_hundred_per_cent_is_refused_where_it_stands():
    figure = apply(LAMPLESS, add_light(LAMPLESS, "Lamp"))
    with pytest.raises(FileTrouble, match=r"0.5 s: expected a level from 0 to 100 %, found 150 %"):
        take_over(figure, read("time_s,lamp [%]\n0,0\n0.5,150\n1,0\n"))


@settings(max_examples=50, deadline=None)
@given(st.lists(st.floats(-50, 50), min_size=3, max_size=80), st.floats(0.05, 3))
def test_corners_stay_within_the_tolerance(places, tolerance):
    times = np.arange(len(places)) / 50
    kept = corners_of(times, np.array(places), tolerance)
    assert kept[0] == 0 and kept[-1] == len(places) - 1
    assert np.abs(np.interp(times, times[kept], np.array(places)[kept]) - places).max() <= tolerance + 1e-9


@settings(max_examples=80, deadline=None)
@given(st.data())
def test_any_broken_line_of_frames_is_followed_from_corner_to_corner(data):
    """Also held at a stop at full speed, or turned back between two frames: no servo does that, a table may ask for it."""
    places, here = [10.0, 10.0, 10.0], 10.0
    for _ in range(data.draw(st.integers(1, 7))):
        steps, by = data.draw(st.integers(1, 12)), data.draw(st.floats(-60, 60))
        places += [here + by * (k + 1) for k in range(steps)]
        here = places[-1]
    placed = np.round(np.clip([*places, here, here], -90.0, 70.0 if data.draw(st.booleans()) else 9e9), 3)
    times = np.arange(len(placed)) / 50
    rows = [row for a, b in _stretches(placed) for row in _cornered(times, placed, a, b, 0.25)]
    assert _off(rows, times, placed, 10.0) <= 0.25


def test_a_file_that_is_no_text_is_a_sentence(tmp_path):
    (tmp_path / "x.csv").write_bytes(b"\xff\xfe\x00")
    with pytest.raises(FileTrouble, match="UTF-8"):
        read_text(tmp_path / "x.csv")
    with pytest.raises(FileTrouble, match="cannot be read"):
        read_text(tmp_path / "none.csv")


# ---- what the player refuses
def test_players_that_cannot_be():
    with pytest.raises(FileTrouble, match="at least one ribbon"):
        bundle(head(), controllers()[0])
    with pytest.raises(FileTrouble, match="a servo on Tilt"):
        bundle(scored(Row(0, 1, 5), servo=None), controllers()[0])
    many = scored(*(Row(0.01 * k, 0.01, 5.0 * (k % 2)) for k in range(3000)), length_s=40.0)
    with pytest.raises(FileTrouble, match="does not fit"):
        bundle(many, controllers()[0])
    assert "score.h" in bundle(many, controllers()[1])
    one = scored(Row(0, 1, 5))
    high = apply(one, to_output(one, "servo", 12))
    with pytest.raises(FileTrouble, match="outputs 0 to 7"):
        bundle(high, controllers()[0], pulse_kind("timer"))
    assert b"channel 12" in bundle(high, controllers()[0], pulse_kind("i2c"))["README.txt"]


def test_names_cannot_break_the_tables_out_of_their_comment():
    odd = apply(
        scored(Row(0, 1, 5)), Edit("name", (Set(("name",), 'a"; */ \\ “é”'), Set(("joints", "tilt", "name"), "x \\")))
    )
    text = header(tables(odd))
    assert '"; */' not in text and "\\" not in text and text.isascii()


def test_frames_of_light_and_joint_share_their_times(owl):
    made = score_frames(owl)
    assert made.places.shape == (7, len(made.times))
    assert made.places[-1].min() >= 0 and made.places[-1].max() <= 1
    assert math.degrees(np.abs(made.places[3]).max()) <= 26.0
