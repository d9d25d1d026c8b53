"""A voice in the real window: taken from a file, dragged, written, taken out, and played or silent."""

import numpy as np
import pytest
from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtWidgets import QApplication, QLineEdit

from karakuri.model.ref import Ref
from karakuri.session.session import Session
from karakuri.workbench import sounding
from tests.core.test_sounds import wav
from tests.figures import scored
from tests.ui.hand import Hand, painted


@pytest.fixture
def bench(open_window, qtbot):
    window = open_window()
    window.desk.turn_to("score")
    qtbot.wait(20)
    return window.benches["score"], Hand(window, qtbot)


def beak(hand):
    return hand.window.desk.figure.score.moving("beak_channel").moves


def voice(hand):
    return hand.window.desk.figure.score.voices[0]


def test_the_demo_speaks_and_its_voice_is_seen(bench):
    score, hand = bench
    desk = hand.window.desk
    assert desk.finding("voice", "beak_channel_speaks", "opens").verdict == "holds"
    score.ribbons.repaint()
    shown = painted(score.ribbons)
    assert "“Please, read softly”" in shown and "3 sounds" in shown


def test_a_sound_is_taken_from_a_file_as_one_step(open_window, tmp_path, qtbot):
    window = open_window(Session(scored(length_s=4.0)), in_place=False)
    desk = window.desk
    desk.turn_to("score")
    qtbot.waitUntil(lambda: desk.study is not None and not desk.busy, timeout=20_000)
    before = desk.figure
    desk.transport.go(3.0)
    desk.voices.take(wav(tmp_path / "hello.wav"), desk.transport.now)
    qtbot.waitUntil(lambda: bool(desk.figure.score.voices), timeout=10_000)
    assert desk.figure.score.voices[0].plays[0].at_s == 3.0 and desk.figure.score.length_s == 5.5
    assert not desk.figure.score.makers  # it has no jaw
    qtbot.waitUntil(
        lambda: desk.study is not None and desk.study.figure is desk.figure and not desk.busy, timeout=20_000
    )
    assert not [f for f in desk.study.findings if f.rule == "voice" and f.verdict != "holds"]
    desk.undo()
    assert desk.figure == before
    desk.redo()
    desk.voices.take(tmp_path / "gone.wav", 0.0)
    qtbot.waitUntil(lambda: "cannot be read" in window.note.text, timeout=5_000)
    (tmp_path / "broken.ogg").write_bytes(b"OggS" * 100)
    desk.voices.take(tmp_path / "broken.ogg", 0.0)
    qtbot.waitUntil(lambda: "cannot be listened to" in window.note.text, timeout=5_000)
    assert len(desk.figure.sounds) == 1


def test_a_sound_is_dragged_and_its_beak_goes_along(bench):
    score, hand = bench
    ribbons, said = score.ribbons, []
    before, first = beak(hand), voice(hand).plays[1]
    _, top = next(row for row in ribbons.rows() if row[0].id == "voice")
    start = QPointF(ribbons.span().x(first.at_s + 0.5), top + ribbons.row_tall() / 2)
    hand.drag(ribbons, start, QPointF(24, 0), during=lambda: (ribbons.repaint(), said.append(painted(ribbons))))
    moved = voice(hand).plays[1]
    by = moved.at_s - first.at_s
    assert by == pytest.approx(24 / ribbons.span().per_s, abs=0.02) and any("begins 8." in text for text in said)
    assert hand.window.desk.subject == Ref("play", "voice", 1)
    mine = [r for r in before.rows() if r.made_by and 7.8 < r.departs < 10 and "speaks" in r.made_by]
    later = [r for r in beak(hand).rows() if r.made_by and 7.8 + by < r.departs < 10 + by and "speaks" in r.made_by]
    assert [r.departs + by for r in mine] == pytest.approx([r.departs for r in later], abs=2e-3)
    hand.ctrl(Qt.Key.Key_Z)
    assert beak(hand) == before and voice(hand).plays[1] == first


def test_by_keyboard_a_sound_is_found_written_and_taken_out(bench):
    score, hand = bench
    desk, ribbons = hand.window.desk, score.ribbons
    desk.select(Ref("channel", "beak_channel"))
    ribbons.setFocus()
    hand.key(Qt.Key.Key_Down)
    assert desk.subject == Ref("channel", "voice") and "Voice, 3 sounds" in ribbons.accessibleName()
    hand.key(Qt.Key.Key_PageDown)
    hand.key(Qt.Key.Key_PageDown)
    assert desk.subject == Ref("play", "voice", 1)
    hand.key(Qt.Key.Key_Return)
    assert isinstance(QApplication.focusWidget(), QLineEdit)
    hand.fill("8.25")
    assert voice(hand).plays[1].at_s == 8.25
    score.setFocus()
    n = len(beak(hand))
    hand.key(Qt.Key.Key_Delete)
    assert len(voice(hand).plays) == 2 and len(beak(hand)) < n and len(desk.figure.sounds) == 2
    hand.ctrl(Qt.Key.Key_Z)
    hand.ctrl(Qt.Key.Key_Z)
    assert voice(hand).plays[1].at_s == 7.95 and len(beak(hand)) == n


def test_how_the_beak_goes_with_it_is_written_on_the_card(bench):
    _, hand = bench
    desk = hand.window.desk
    desk.select(Ref("channel", "voice"))
    hand.qtbot.wait(10)
    hand.click(hand.field("Sets off ahead by"))
    hand.fill("200")
    assert desk.figure.score.maker("beak_channel_speaks").ahead_s == 0.2
    assert desk.finding("voice", "beak_channel_speaks", "together").verdict == "holds"
    hand.click(hand.field("Sets off ahead by"))
    hand.fill("290")
    assert desk.finding("voice", "beak_channel_speaks", "together").verdict == "fails"
    hand.ctrl(Qt.Key.Key_Z)
    hand.ctrl(Qt.Key.Key_Z)
    hand.click(hand.field("Wide open at"))
    hand.fill("10")
    assert max(r.target for r in beak(hand).rows() if "speaks" in r.made_by) <= 10.0
    hand.click(hand.field("Wide from below it by"))
    hand.fill("40")
    assert desk.figure.score.maker("beak_channel_speaks").wide_dB == 3.0 and "beyond" in hand.window.note.text


def test_each_sound_begins_when_the_plumb_line_passes_it(bench, monkeypatch, qtbot):
    _, hand = bench
    desk, begun = hand.window.desk, []
    monkeypatch.setattr(sounding.Sounding, "silent", "")
    monkeypatch.setattr(sounding.Sounding, "_begin", lambda self, found, since, level: begun.append((round(found.length_s, 2), since, level)))  # fmt: skip
    desk.transport.go(5.1)
    desk.transport.run()
    qtbot.waitUntil(lambda: desk.transport.now > 5.4, timeout=5_000)
    desk.transport.stop()
    assert [length for length, _, _ in begun] == [0.46] and 0 <= begun[0][1] < 0.2
    begun.clear()
    desk.transport.go(8.6)
    desk.transport.run()
    desk.transport.stop()
    assert len(begun) == 1 and begun[0][:2] == (1.96, pytest.approx(0.65, abs=0.01))
    begun.clear()
    desk.transport.set_pace(0.5)
    desk.transport.go(5.1)
    desk.transport.run()
    qtbot.waitUntil(lambda: desk.transport.now > 5.25, timeout=5_000)
    desk.transport.stop()
    assert not begun  # slower it would be another voice


def test_without_a_device_the_plumb_line_runs_as_exactly(bench, qtbot):
    _, hand = bench
    desk = hand.window.desk
    assert desk.sounding.silent
    desk.transport.go(5.0)
    desk.transport.run()
    qtbot.waitUntil(lambda: desk.transport.now > 5.5, timeout=5_000)
    assert desk.transport.now - 5.0 == pytest.approx(desk.transport._clock.elapsed() / 1e3, abs=0.05)
    desk.transport.stop()


def test_what_is_played_is_what_was_recorded(tmp_path):
    from karakuri.session.sounds import Sounds

    found = Sounds().take(wav(tmp_path / "a.wav"))[1]
    data = np.frombuffer(sounding.pulses_of(found, 0.5, 0.5), dtype="<i2")
    assert len(data) == len(found.samples) - 4000
    assert np.abs(data / 32767 - 0.5 * found.samples[4000:]).max() < 1e-4


def test_another_jaw_goes_along_and_a_voice_taken_out_takes_its_moves(bench):
    _, hand = bench
    desk = hand.window.desk
    desk.select(Ref("channel", "voice"))
    hand.qtbot.wait(10)
    hand.choose(hand.choice("Another jaw"), "Neck roll")
    assert any(maker.jaw == "neck_roll_channel" for maker in desk.figure.score.makers if maker.kind == "voice")
    assert any("speaks" in by for by in desk.figure.score.moving("neck_roll_channel").moves.made_by)
    hand.click(hand.tag("Take this voice out"))
    assert not desk.figure.score.voices and not any("speaks" in by for by in beak(hand).made_by)


def test_saving_elsewhere_puts_the_voice_beside_it(bench, tmp_path, qtbot):
    _, hand = bench
    desk = hand.window.desk
    (tmp_path / "away" / "voice").mkdir(parents=True)
    (tmp_path / "away" / "voice" / "owl-oh.ogg").write_bytes(b"mine")
    desk.keeping.save(tmp_path / "away" / "owl.karakuri")
    assert sorted(p.name for p in (tmp_path / "away" / "voice").iterdir()) == [
        "owl-hoo.ogg",
        "owl-oh.ogg",
        "owl-softly.ogg",
    ]
    assert (tmp_path / "away" / "voice" / "owl-oh.ogg").read_bytes() == b"mine" and "Oh!" in hand.window.note.text


def test_a_list_of_lines_is_made_changed_and_said(bench):
    _, hand = bench
    desk = hand.window.desk
    desk.select(Ref("channel", "voice"))
    hand.qtbot.wait(10)
    hand.click(hand.tag("A list of all"))
    assert len(desk.figure.lines[0].lines) == 3
    hand.choose(hand.choice("Said first, once"), "Oh!")
    assert desk.figure.lines[0].openings == ("oh",)
    hand.choose(hand.choice("Said"), "at random")
    hand.click(hand.field("None of the last"))
    hand.fill("1")
    hand.click(hand.field("One every"))
    hand.fill("3")
    before = beak(hand)
    hand.click(hand.tag("Say them from"))
    mine = [play for play in voice(hand).plays if play.made_by]
    assert len(mine) >= 4 and mine[0].sound == "oh" and len(beak(hand)) > len(before)
    hand.ctrl(Qt.Key.Key_Z)
    assert beak(hand) == before
    hand.choose(hand.choice("Take a line out"), "Hoo")
    assert desk.figure.lines[0].lines == ("please_read_softly",)
    hand.click(hand.tag("Take this list out"))
    assert not desk.figure.lines
