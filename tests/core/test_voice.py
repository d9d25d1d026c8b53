"""A jaw after a voice: laws over random voices and drives, files that are no sounds, and what is told of what was flattened."""

import io
from itertools import pairwise

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from karakuri.checks.voice import propose
from karakuri.course import Course, GivenUp
from karakuri.errors import EditRefused, FileTrouble
from karakuri.exchange.sounds import heard, loudness_of
from karakuri.model.channel import Play, SoundChannel
from karakuri.model.edit import Add, Edit, Remove, Set, apply
from karakuri.model.joint_edits import remove_joint
from karakuri.model.makers import Voice
from karakuri.model.moves import Row
from karakuri.model.score_edits import add_move, remove_channel, stretch_all
from karakuri.model.sound import Sound
from karakuri.motion.makers.voice import VoiceMade, change_voice, make, speak
from karakuri.motion.score_motion import Tracks
from karakuri.motion.voice.following import NO_LIMIT, Busy, KeepsUp, followed
from karakuri.motion.voice.opening import Manner, opening, turns
from karakuri.study.remedies import remedies
from karakuri.study.reuse import Reuse
from karakuri.study.study import study
from tests.figures import scored

RATE = 8000


def spoken(syllables, rate=RATE, silence=0.5, seed=1):
    """Noise that swells: (loudness, length s, gap s) one after another, silence before and after."""
    chance = np.random.default_rng(seed)
    pieces = [np.zeros(round(silence * rate))]
    for loud, long, gap in syllables:
        n = max(2, round(long * rate))
        pieces += [
            loud * np.sin(np.pi * np.arange(n) / n) ** 0.5 * chance.normal(0, 0.3, n),
            np.zeros(round(gap * rate)),
        ]
    pieces.append(np.zeros(round(silence * rate)))
    return loudness_of(np.concatenate(pieces).astype(np.float32), rate, "a" * 64)


def talking(at=1.0, length_s=12.0, plays=1, **more):
    """The nodding head, its nod taken for a jaw, with a voice."""
    figure = scored(length_s=length_s, park=0.0, **more)
    sound = Sound(id="hello", name="Hello", file="voice/hello.wav", sha256="a" * 64, length_s=3.0)
    each = tuple(Play(id=f"p{k}", sound="hello", at_s=at + 4.0 * k) for k in range(plays))
    channel = SoundChannel(id="voice", name="Voice", plays=each)
    return apply(figure, Edit("voice", (Add("sounds", sound), Add("score.channels", channel))))


VOICE = Voice(id="jaw", voice="voice", jaw="nod", opens_to=20.0, ahead_s=0.08)
syllable = st.tuples(st.floats(0.05, 1.0), st.floats(0.06, 0.6), st.floats(0.0, 0.8))
voices = st.lists(syllable, min_size=1, max_size=14)
drives = st.tuples(st.floats(0.005, 0.2), st.floats(1.0, 6.0)).map(
    lambda d: KeepsUp((0.02, 0.1, 0.4), (d[0], d[0] * d[1], d[0] * d[1] * 3))
)


def written(figure, loudness, can=NO_LIMIT, voice=VOICE):
    edit, made = speak(figure, voice, {"a" * 64: loudness}, can)
    return apply(figure, edit), made


@settings(max_examples=60, deadline=None)
@given(voices, drives)
def test_every_move_can_be_made_and_none_departs_before_the_one_ahead_has_arrived(syllables, can):
    figure, made = written(talking(), spoken(syllables), can)
    at, here = 0.0, 0.0
    for row in figure.score.moving("nod").moves.rows():
        assert row.departs >= at - 1.1e-3 and row.takes > 0 and row.made_by == "jaw"
        assert can.least(np.radians(abs(row.target - here) - 0.011)) <= row.takes + 1.1e-3
        assert 0.0 <= row.target <= 20.0
        at, here = row.departs + row.takes, row.target
    assert made.count == len(figure.score.moving("nod").moves)


@settings(max_examples=40, deadline=None)
@given(voices, st.floats(0.02, 1.0))
def test_how_loud_all_of_it_was_recorded_changes_nothing(syllables, scale):
    one = spoken(syllables)
    other = one.but(levels=(one.level * scale).astype("<f4").tobytes())
    a, b = (opening(each, Manner()) for each in (one, other))
    assert np.abs(a - b).max() < 1e-3


@settings(max_examples=40, deadline=None)
@given(voices, drives)
def test_it_is_shut_in_silence_and_at_the_end(syllables, can):
    syllables = [*syllables, (0.8, 0.3, 1.2), (0.8, 0.3, 0.0)]
    loudness = spoken(syllables, silence=0.5)
    figure, _ = written(talking(at=0.0, length_s=40.0), loudness, can)  # as long as any of these voices, and longer
    track = Tracks().of(figure.score.moving("nod"), 1.0)
    ends = loudness.length_s + 1.0 + can.times[-1] * 2
    assert abs(float(track.at(np.array([ends]))[0][0])) < 0.02
    quiet = loudness.length_s - 0.5 - 0.3 - 0.08 - 0.02  # just before the last syllable
    if can.least(np.radians(20.0)) < 0.4:
        assert abs(float(track.at(np.array([quiet]))[0][0])) < 0.02


@settings(max_examples=30, deadline=None)
@given(voices, st.floats(0.5, 5.0))
def test_later_in_the_score_is_the_same_later(syllables, later):
    later = round(later, 3)
    rows = [make(talking(at=at, length_s=30.0), VOICE, {"a" * 64: spoken(syllables)}).rows for at in (1.0, 1.0 + later)]
    assert len(rows[0]) == len(rows[1])
    assert np.allclose([(r.takes, r.target) for r in rows[0]], [(r.takes, r.target) for r in rows[1]], atol=2e-3)
    assert [r.departs + later for r in rows[0]] == pytest.approx([r.departs for r in rows[1]], abs=2e-3)


@settings(max_examples=40, deadline=None)
@given(voices, drives, st.floats(1.2, 5.0))
def test_a_slower_drive_is_never_told_to_reach_more(syllables, can, by):
    slower = KeepsUp(can.distances, tuple(t * by for t in can.times))
    asked = turns(opening(spoken(syllables), Manner()), 4.0)
    quick, slow, free = (followed(asked, 0.0, 0.35, each) for each in (can, slower, KeepsUp()))
    assert free.short.max(initial=0.0) < 1e-9
    assert (
        float(np.abs(np.diff(quick.target, prepend=0)).sum())
        >= float(np.abs(np.diff(slow.target, prepend=0)).sum()) - 1e-6
    )


def test_four_syllables_a_second_are_seen_when_they_sound():
    figure, made = written(talking(at=1.0), spoken([(0.8, 0.15, 0.1)] * 8), KeepsUp())
    track = Tracks().of(figure.score.moving("nod"), 1.0)
    for k in range(8):
        middle = 1.0 + 0.5 + 0.25 * k + 0.075 - 0.08
        places = track.at(np.linspace(middle - 0.08, middle + 0.1, 40))[0]
        assert places.max() > 12.0
    assert not made.flattened


def test_what_a_drive_cannot_follow_is_flattened_and_told_when_and_by_how_much():
    slow = KeepsUp((0.02, 0.35), (0.08, 0.9))
    figure, made = written(talking(at=1.0), spoken([(0.8, 0.15, 0.1)] * 8), slow)
    assert len(made.flattened) >= 6
    when, by = made.flattened[0]
    assert 1.4 < when < 1.8 and 0.05 < by < 0.35
    assert isinstance(made, VoiceMade) and figure.score.moving("nod").moves.target[0] < 20.0


def test_moves_of_ones_own_stay_and_the_voice_keeps_off_them():
    figure = talking()
    figure = apply(figure, add_move(figure.score.moving("nod"), Row(1.6, 0.9, 7.0))[0])
    figure, _ = written(figure, spoken([(0.8, 0.3, 0.1)] * 6))
    rows = figure.score.moving("nod").moves.rows()
    own = [row for row in rows if not row.made_by]
    assert own == [Row(1.6, 0.9, 7.0)]
    assert all(row.departs + row.takes <= 1.6 or row.departs >= 2.5 for row in rows if row.made_by)
    again, _ = written(figure, spoken([(0.8, 0.3, 0.1)] * 6))
    assert again == figure  # written again it is the same


@settings(max_examples=60, deadline=None)
@given(voices, st.lists(st.tuples(st.floats(0, 6), st.floats(0.01, 2), st.floats(-0.3, 0.3)), max_size=5), drives)
def test_nothing_is_written_where_something_else_moves(syllables, others, can):
    busy, at = [], 0.0
    for gap, long, place in others:
        busy.append(Busy(at + gap, at + gap + long, place))
        at += gap + long
    made = followed(turns(opening(spoken(syllables), Manner()), 4.0), 0.0, 0.35, can, 0.0, busy)
    for departs, takes in zip(made.departs, made.takes, strict=True):
        assert all(departs + takes <= b.begins + 1e-9 or departs >= b.ends - 1e-9 for b in busy)


def test_a_sound_is_cut_by_the_next_and_by_the_end_of_the_score():
    long = spoken([(0.8, 0.3, 0.1)] * 30)
    figure, made = written(talking(plays=2, at=0.5), long)
    assert len(made.spoken) == 2 and made.spoken[0].turns.ends.max() <= 4.0 + 0.5
    rows = figure.score.moving("nod").moves.rows()
    assert all(a.departs + a.takes <= b.departs + 1.1e-3 for a, b in pairwise(rows))
    short, _ = written(talking(at=9.0, length_s=10.0), long)
    assert max(row.departs + row.takes for row in short.score.moving("nod").moves.rows()) < 10.6


def test_settings_are_changed_and_all_is_written_anew():
    loudness = spoken([(0.8, 0.3, 0.2)] * 5)
    figure, _ = written(talking(), loudness)
    wider = apply(figure, change_voice(figure, "jaw", {"a" * 64: loudness}, opens_to=10.0)[0])
    assert max(wider.score.moving("nod").moves.target) <= 10.0 < max(figure.score.moving("nod").moves.target)
    assert wider.score.maker("jaw").opens_to == 10.0 and len(wider.score.makers) == 1
    with pytest.raises(EditRefused, match="There is no sound to go with"):
        change_voice(figure, "jaw", {})
    with pytest.raises(KeyError):
        change_voice(figure, "gone", {"a" * 64: loudness})


def test_what_a_voice_hangs_on_goes_with_it():
    figure, _ = written(talking(), spoken([(0.8, 0.3, 0.2)] * 5))
    mute = apply(figure, remove_channel(figure, figure.score.channel("voice")))
    assert not mute.score.makers and not mute.score.voices and not len(mute.score.moving("nod").moves)
    jawless = apply(figure, remove_joint(figure, "tilt"))
    assert not jawless.score.makers and jawless.score.voices
    slow = apply(figure, stretch_all(figure, 1.5))
    assert slow.score.voices[0].plays[0].at_s == 1.5
    first = [f.score.moving("nod").moves.row(0) for f in (figure, slow)]
    assert first[1].takes == first[0].takes and first[1].departs == pytest.approx(first[0].departs + 0.5, abs=1e-3)
    with pytest.raises(EditRefused, match="no sound 'hello'"):
        apply(figure, Edit("drop", (Remove("sounds", "hello"),)))
    with pytest.raises(EditRefused, match="no voice 'gone'"):
        apply(figure, Edit("x", (Set(("score", "makers", "jaw", "voice"), "gone"),)))
    with pytest.raises(EditRefused, match="beyond"):
        apply(figure, Edit("x", (Set(("score", "makers", "jaw", "wide_dB"), 40.0),)))


@pytest.mark.parametrize(
    "data",
    [b"", b"RIFF", b"not a sound at all" * 50, b"RIFF\xff\xff\xff\x7fWAVEfmt " + b"\x00" * 40, b"OggS" + b"\x01" * 400],
)
def test_what_is_no_sound_is_told_in_a_sentence(data):
    with pytest.raises(FileTrouble, match="cannot be listened to"):
        heard(data, "hello.wav")


def test_a_broken_sound_is_told_or_heard_never_worse():
    import soundfile

    chance = np.random.default_rng(5)
    for form in ("WAV", "FLAC", "OGG", "MP3"):
        file = io.BytesIO()
        soundfile.write(file, chance.normal(0, 0.2, 8000), 8000, format=form)
        whole = file.getvalue()
        for k in range(40):
            data = bytearray(whole[: chance.integers(1, len(whole))] if k % 2 else whole)
            for at in chance.integers(0, len(data), 12):
                data[at] = chance.integers(0, 256)
            try:
                made = heard(bytes(data), "x")
                assert np.isfinite(made.loudness.level).all()
            except FileTrouble as trouble:
                assert "cannot be listened to" in str(trouble)


def test_listening_is_given_up_when_asked_and_refuses_what_is_too_long(monkeypatch):
    import soundfile

    file = io.BytesIO()
    soundfile.write(file, np.zeros(8000, dtype=np.float32), 8000, format="WAV")

    with pytest.raises(GivenUp):
        heard(file.getvalue(), "x", Course(lambda: True, lambda what, share: None))
    monkeypatch.setattr("karakuri.exchange.sounds.LONGEST_S", 0.5)
    with pytest.raises(FileTrouble, match="minutes"):
        heard(file.getvalue(), "x")


@pytest.mark.parametrize("file", ["/etc/x.wav", "../x.wav", "a\\b.wav", "voice/../../x.ogg", "x.exe", "", "a\nb.wav"])
def test_a_sound_lies_beside_its_figure(file):
    with pytest.raises(ValueError, match=r"sound|letters|String"):
        Sound(id="x", name="x", file=file, sha256="a" * 64, length_s=1.0)


def test_what_a_drive_never_reaches_it_is_not_asked():
    """Beyond what it can at all there is no time; up to there it is as straight as between what is known, and the two ways agree."""
    can = KeepsUp((0.1, 0.2, 0.4), (0.2, 0.3, float("inf")))
    assert can.least(0.3) == float("inf") and can.least(0.2) == 0.3 and can.least(0.5) == float("inf")
    assert can.furthest(100.0) == pytest.approx(0.2) and can.furthest(0.25) == pytest.approx(0.15)
    assert can.least(0.025) == pytest.approx(0.1) and can.furthest(0.1) == pytest.approx(0.025)
    for size in (0.01, 0.1, 0.13, 0.2):
        assert can.furthest(can.least(size)) == pytest.approx(size)
    made = followed(turns(opening(spoken([(0.8, 0.4, 0.4)] * 3), Manner()), 4.0), 0.0, 0.35, can)
    assert len(made.target) and made.target.max() <= 0.2 + 1e-9


# ---- ways out
SYLLABLES = [(0.8, 0.25, 0.15), (0.5, 0.2, 0.1), (1.0, 0.3, 0.4), (0.7, 0.2, 0.2)] * 2


def offered(figure, loudness, ending):
    """A study of it with its sound heard, the finding of that id's end, and what is offered for it by group."""
    reuse = Reuse()
    done = study(figure, reuse, heard={"a" * 64: loudness})
    finding = next(f for f in done.findings if f.rule == "voice" and f.id.endswith(ending))
    return finding, remedies(done, finding, reuse)


@pytest.mark.parametrize("ahead", (0.0, 0.3, 0.5))
def test_a_jaw_that_sets_off_at_the_wrong_time_is_offered_the_servos_lag(ahead):
    loudness = spoken(SYLLABLES)
    figure, _ = written(talking(), loudness, voice=Voice(**(dict(VOICE) | {"ahead_s": ahead})))
    finding, ways = offered(figure, loudness, "together")
    assert finding.verdict in ("tight", "fails")
    (way,) = ways
    assert way.verdict == "holds" and "servo’s lag" in way.label.text
    after = apply(figure, way.edit)
    by = figure.assumptions.servo_lag_s - ahead
    before = [row.departs for row in figure.score.moving(VOICE.jaw).moves.rows()]
    now = [row.departs for row in after.score.moving(VOICE.jaw).moves.rows()]
    assert np.array(now) == pytest.approx(np.array(before) - by, abs=0.002)


def test_a_sound_that_is_cut_is_offered_room():
    """By the end of the score: a longer one; by what comes next: that later. Either way all of it is heard, and the jaw goes along."""
    loudness = spoken(SYLLABLES)
    figure, _ = written(talking(at=10.5), loudness)
    finding, ways = offered(figure, loudness, "cut")
    assert finding.verdict == "tight" and any("A score of" in way.label.text and way.verdict == "holds" for way in ways)
    longer = apply(figure, next(way.edit for way in ways if "A score of" in way.label.text))
    assert longer.score.length_s == pytest.approx(13.6) and len(longer.score.moving(VOICE.jaw).moves) > len(
        figure.score.moving(VOICE.jaw).moves
    )
    two = talking(at=1.0, plays=2)
    close = apply(
        two,
        Edit(
            "close",
            (
                Set(
                    ("score", "channels", "voice", "plays"),
                    (two.score.voices[0].plays[0], Play(id="p1", sound="hello", at_s=2.5)),
                ),
            ),
        ),
    )
    close, _ = written(close, loudness)
    finding, ways = offered(close, loudness, "p0.cut")
    later = next(way for way in ways if way.label.text.startswith("Say Hello"))
    assert later.verdict == "holds" and apply(close, later.edit).score.voices[0].plays[1].at_s >= 4.0


def test_nothing_is_offered_of_a_voice_that_nobody_listened_to():
    figure = talking()
    finding = next(f for f in study(figure).findings if f.rule == "voice")
    assert finding.verdict == "not yet judged" and not list(propose(finding, study(figure).results))
