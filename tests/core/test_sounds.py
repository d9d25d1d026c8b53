"""Sounds of a session: where they are found, that they go along when the figure is saved elsewhere, and what is told of a voice."""

import io
import json
import subprocess
import sys

import numpy as np
import pytest

from karakuri.catalogue import servo_class
from karakuri.errors import FileTrouble
from karakuri.files.disk import save
from karakuri.model.channel import Play, SoundChannel
from karakuri.model.edit import Add, Edit, Set, apply
from karakuri.model.makers import Voice
from karakuri.model.moves import Moves
from karakuri.model.score_edits import keep_score
from karakuri.model.sound import Sound
from karakuri.motion.makers.voice import speak
from karakuri.motion.voice.following import KeepsUp
from karakuri.session.session import Session
from karakuri.session.sounds import Sounds
from karakuri.study.goes_along import goes_along
from karakuri.study.remedies import remedies
from karakuri.study.reuse import Reuse
from karakuri.study.study import study
from karakuri.units import METRIC
from tests.figures import scored


def noise(seconds=2.0, rate=8000, seed=2):
    chance = np.random.default_rng(seed)
    t = np.arange(round(seconds * rate)) / rate
    return np.clip(np.sin(2 * np.pi * 2.0 * t), 0, None) * chance.normal(0, 0.2, len(t))


def wav(path, samples=None, rate=8000, form="WAV"):
    import soundfile

    file = io.BytesIO()
    soundfile.write(file, noise() if samples is None else samples, rate, format=form)
    path.parent.mkdir(parents=True, exist_ok=True)
    path.write_bytes(file.getvalue())
    return path


def with_voice(sound: Sound, at=1.0, length_s=8.0):
    figure = scored(length_s=length_s, park=0.0)
    channel = SoundChannel(id="voice", name="Voice", plays=(Play(id="p", sound=sound.id, at_s=at),))
    return apply(figure, Edit("voice", (Add("sounds", sound), Add("score.channels", channel))))


VOICE = Voice(id="jaw", voice="voice", jaw="nod", opens_to=20.0)


@pytest.fixture(autouse=True)
def _state(tmp_path, monkeypatch):
    monkeypatch.setenv("XDG_STATE_HOME", str(tmp_path / "state"))


@pytest.fixture
def spoken(tmp_path):
    """A figure saved with a voice on its nod, its session and how loud it is."""
    session = Session(with_voice(Sound(id="s", **Sounds().take(wav(tmp_path / "from" / "hello.wav"))[0])))
    (tmp_path / "one").mkdir()
    session.save(tmp_path / "one" / "figure")
    heard = {each.sha256: each for each in session.sounds.loudness(session.figure)}
    edit, _ = speak(session.figure, VOICE, heard, goes_along(session.figure, session.figure.score.moving("nod")))
    session.edit(edit)
    return session, heard


def test_a_sound_from_anywhere_goes_along_when_the_figure_is_saved(tmp_path):
    path = wav(tmp_path / "from" / "hello there!.wav")
    sounds = Sounds()
    fields, found = sounds.take(path)
    assert fields["file"] == "sounds/hello there_.wav" and fields["length_s"] == 2.0 == found.length_s
    sound = Sound(id="s", name="S", **{k: v for k, v in fields.items() if k != "name"})
    path.unlink()  # kept by its digest until the figure is saved
    assert Sounds().find(sound) is not None
    session = Session(with_voice(sound))
    (tmp_path / "one").mkdir()
    session.save(tmp_path / "one" / "figure")
    beside = tmp_path / "one" / "sounds" / "hello there_.wav"
    assert session.left_behind == [] and session.sounds.find(sound) == beside
    (tmp_path / "two").mkdir()
    session.save(tmp_path / "two" / "figure")
    assert (tmp_path / "two" / "sounds" / "hello there_.wav").read_bytes() == beside.read_bytes()
    other = Session.open(tmp_path / "two" / "figure.karakuri")
    assert len(other.sounds.loudness(other.figure)) == 1


def test_a_sound_in_the_figures_folder_stays_where_it_lies_and_names_are_not_used_twice(tmp_path):
    sounds = Sounds(tmp_path)
    assert sounds.take(wav(tmp_path / "voice" / "a.wav"))[0]["file"] == "voice/a.wav"
    one = Sounds(tmp_path / "here").take(wav(tmp_path / "x" / "a.wav"))[0]["file"]
    assert Sounds(tmp_path / "here").take(wav(tmp_path / "y" / "a.wav"), {one})[0]["file"] == "sounds/a 2.wav"


def test_a_file_in_the_way_is_not_written_over_and_told(tmp_path):
    fields, _ = Sounds().take(wav(tmp_path / "from" / "a.wav"))
    sound = Sound(id="s", **fields)
    (tmp_path / "here" / "sounds").mkdir(parents=True)
    (tmp_path / "here" / "sounds" / "a.wav").write_bytes(b"mine")
    session = Session(with_voice(sound))
    session.save(tmp_path / "here" / "figure")
    assert session.left_behind == ["a"] and (tmp_path / "here" / "sounds" / "a.wav").read_bytes() == b"mine"


@pytest.mark.parametrize("name", ["a.txt", "a.wav", "gone.wav"])
def test_what_cannot_be_taken_is_told(tmp_path, name):
    if name != "gone.wav":
        (tmp_path / name).write_bytes(b"x" * 300)
    with pytest.raises(FileTrouble, match=r"cannot be listened to|cannot be read"):
        Sounds().take(tmp_path / name)


def test_a_voice_that_goes_with_its_jaw_holds(spoken):
    session, heard = spoken
    done = study(session.figure, heard=heard)
    opens = done.finding("voice.jaw.opens")
    assert opens.verdict == "holds" and "opens as far as its voice asks" in opens.sentence.show(METRIC)
    assert done.finding("voice.jaw.together").verdict == "holds"
    assert not [f for f in done.findings if f.rule in ("toofast", "effort") and f.verdict in ("fails", "tight")]
    quick = study(session.figure, heard=heard, base=done, quick=True)
    assert quick.finding("voice.jaw.opens") == done.finding("voice.jaw.opens")


@pytest.mark.parametrize(
    ("ahead", "verdict"),
    [(0.0, "tight"), (0.04, "holds"), (0.08, "holds"), (0.2, "holds"), (0.21, "tight"), (0.28, "fails")],
)
def test_what_is_seen_apart_is_told_by_how_far_ahead_it_is(spoken, ahead, verdict):
    """With a lag of 80 ms: noticed from 45 ms after the sound, 125 ms before it; ITU-R BT.1359-1."""
    session, heard = spoken
    figure = apply(session.figure, Edit("a", (Set(("score", "makers", "jaw", "ahead_s"), ahead),)))
    told = study(figure, heard=heard).finding("voice.jaw.together")
    assert told.verdict == verdict and ("go together" in told.sentence.text) == (ahead == 0.08)


def test_a_jaw_that_stays_shut_fails_and_a_missing_sound_is_not_yet_judged(spoken, tmp_path):
    session, heard = spoken
    shut = apply(session.figure, Edit("x", (Set(("score", "channels", "nod", "moves"), Moves()),)))
    assert study(shut, heard=heard).finding("voice.jaw.opens").verdict == "fails"
    slow, _ = speak(session.figure, VOICE, heard, KeepsUp((0.02, 0.4), (0.2, 3.0)))
    told = study(apply(session.figure, slow), heard=heard).finding("voice.jaw.opens")
    assert told.verdict in ("tight", "fails") and "stay short" in told.sentence.text
    done = study(session.figure)
    assert done.finding("voice.jaw.opens").verdict == done.finding("voice.s.there").verdict == "not yet judged"
    assert not session.sounds.loudness(apply(session.figure, Edit("x", (Set(("sounds", "s", "sha256"), "b" * 64),))))


def test_a_sound_that_is_cut_is_told(spoken):
    session, heard = spoken
    short = apply(session.figure, Edit("x", (Set(("score", "length_s"), 2.0),)))
    cut = study(short, heard=heard).finding("voice.voice.p.cut")
    assert cut.verdict == "tight" and "1.00 s of its 2.00 s" in cut.sentence.show(METRIC).replace("\u00a0", " ")
    assert study(session.figure, heard=heard).finding("voice.voice.p.cut") is None
    gone = apply(session.figure, Edit("x", (Set(("score", "length_s"), 0.9),)))
    cut = study(gone, heard=heard).finding("voice.voice.p.cut")
    assert cut.verdict == "fails" and "2.00 s of its 2.00 s" in cut.sentence.show(METRIC).replace("\u00a0", " ")


def test_a_remedy_of_something_else_hears_the_voice_too(spoken):
    session, heard = spoken
    figure = apply(session.figure, Edit("weak", (Set(("drives", "servo", "actuator"), servo_class("class_2_2")),)))
    done = study(figure, heard=heard)
    finding = next(f for f in done.findings if f.rule == "hold")
    offered = remedies(done, finding, Reuse(), lambda: False)
    assert offered and not any("listened" in words for remedy in offered for words in remedy.worse)


def test_another_score_speaks_too(spoken):
    session, heard = spoken
    two = apply(session.figure, keep_score(session.figure, "Night")[0])
    assert two.score.voices[0].plays == () and study(two, heard=heard).finding("scores.score") is not None


def test_the_command_line_listens_to_what_lies_beside(spoken, tmp_path):
    session, _ = spoken
    session.save()
    out = subprocess.run([sys.executable, "-m", "karakuri", "check", str(session.path), "--json"], capture_output=True, text=True, check=False, timeout=120)  # fmt: skip
    rows = {row["id"]: row for row in json.loads(out.stdout)["findings"]}
    assert rows["voice.jaw.opens"]["verdict"] == "holds"
    save(session.figure, tmp_path / "alone.karakuri")
    out = subprocess.run([sys.executable, "-m", "karakuri", "check", str(tmp_path / "alone.karakuri"), "--json"], capture_output=True, text=True, check=False, timeout=120, env={"XDG_STATE_HOME": str(tmp_path / "other"), "PATH": ""})  # fmt: skip
    rows = {row["id"]: row for row in json.loads(out.stdout)["findings"]}
    assert rows["voice.s.there"]["verdict"] == "not yet judged"
