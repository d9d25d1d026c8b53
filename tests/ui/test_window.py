"""The window's deeds: posing, dragging, typing wrong things, remedies and their previews, finding, saving, leaving, dying."""

import gc
import math
import threading
import weakref
from collections import Counter

import pytest
from PyQt6.QtCore import QPointF, Qt, QTimer
from PyQt6.QtGui import QShortcut
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QFileDialog

from karakuri import heap
from karakuri.demo import owl_path
from karakuri.files.disk import load, save
from karakuri.model.edit import Edit, Set
from karakuri.model.ref import FIGURE, Ref
from karakuri.session.session import Session
from karakuri.units import METRIC
from karakuri.workbench.desk import Desk
from karakuri.workbench.dialogs import Question, ask
from karakuri.workbench.quiet import Quiet
from tests.figures import head
from tests.references.test_honesty import again
from tests.ui.hand import Hand, painted


@pytest.fixture
def owl(open_window, qtbot):
    window = open_window()
    return window, Hand(window, qtbot)


def test_sums_units_and_nonsense_in_a_field(owl):
    window, hand = owl
    window.desk.select(Ref("part", "yoke"))
    hand.qtbot.wait(5)
    for text, grams in (("2 lb", 907.18474), ("100+40", 140.0), ("3 oz", 85.048569)):
        hand.click(hand.field("Mass"))
        hand.fill(text)
        assert window.desk.figure.part("yoke").mass_g == pytest.approx(grams)
    hand.click(hand.field("Mass"))
    hand.fill("heavy")
    assert window.desk.figure.part("yoke").mass_g == pytest.approx(85.048569)
    assert "no number" in painted(window.card.body) and "Esc puts that back" in painted(window.card.body)
    field = hand.field("Mass")
    field.setFocus()
    hand.key(Qt.Key.Key_Escape)
    assert field.text() == "85"
    hand.click(field)
    hand.fill("-5")
    assert window.note.isVisible() and "at least 0; found -5" in window.note.text
    field.setFocus()
    hand.key(Qt.Key.Key_Up)
    assert window.desk.figure.part("yoke").mass_g == pytest.approx(86.0, abs=0.1)


def test_units_reach_sentences_derivations_and_fields(owl):
    window, hand = owl
    hand.choose(window.top.units, "mm, g, kg·cm")
    assert "kg·cm" in painted(window.strip.rows[1]) and "N·m" not in painted(window.strip.rows[1])
    window.desk.select(Ref("joint", "neck_tilt"))
    window.desk.turn_to("drive")
    hand.qtbot.wait(5)
    assert "N·m" not in painted(window.card.body).replace("oz·in or N·m", "").replace("N·m/rad", "")
    assert "kg·cm" in painted(window.benches["drive"].plot)
    hand.click(hand.field("Stall torque"))
    hand.fill("25")
    assert window.desk.figure.drive_of("neck_tilt").actuator.torque_Nm == pytest.approx(25 * 0.0980665)
    hand.choose(window.top.units, "in, oz")
    assert "oz·in" in painted(window.strip.rows[1])


def test_sliders_curve_and_find_set_the_pose_which_is_not_undone(owl):
    window, hand = owl
    rule = window.benches["figure"].rules["neck_tilt"]
    rule.setFocus()
    hand.key(Qt.Key.Key_Right)
    hand.key(Qt.Key.Key_Right, Qt.KeyboardModifier.ShiftModifier)
    assert window.desk.pose["neck_tilt"] == pytest.approx(math.radians(11))
    assert window.desk.session.history.undo_name is None
    hand.key(Qt.Key.Key_Home)
    assert window.desk.pose["neck_tilt"] == 0.0
    hand.drag(rule, QPointF(rule._x(0.0), 10), QPointF(60, 0))
    assert window.desk.pose["neck_tilt"] > 0.1
    for words, expected in (("tilt 20", math.radians(20)), ("neck tilt 99", math.radians(30))):
        hand.alt(Qt.Key.Key_W)
        hand.fill(words, Qt.Key.Key_Return)
        assert window.desk.pose["neck_tilt"] == pytest.approx(expected)
    assert "wanted between" in window.note.text
    hand.alt(Qt.Key.Key_W)
    hand.fill("xylophone", Qt.Key.Key_Return)
    assert "Nothing is called" in window.note.text
    hand.alt(Qt.Key.Key_W)
    hand.fill("balance", Qt.Key.Key_Return)
    curve = window.benches["balance"].curve
    curve.setFocus()
    hand.key(Qt.Key.Key_Left)
    assert window.desk.pose["neck_tilt"] == pytest.approx(math.radians(29))


def test_dragging_in_a_pose_maps_back_to_the_figure_at_rest_and_is_one_step(owl):
    window, hand = owl
    desk, side = window.desk, window.benches["figure"].side
    desk.set_pose("neck_tilt", math.radians(30))
    side.repaint()
    before = desk.figure.part("speaker").at_mm
    hand.drag(side, QPointF(*side.screen_of("part", "speaker")), QPointF(12, 0))
    moved = [b - a for a, b in zip(before, desk.figure.part("speaker").at_mm, strict=True)]
    mm = 12 / side.view.k * 1e3
    assert moved[0] == pytest.approx(mm * math.cos(math.radians(30)), abs=1.0)
    assert moved[2] == pytest.approx(mm * math.sin(math.radians(30)), abs=1.0)
    assert desk.session.history.undo_name == "move speaker"
    hand.ctrl(Qt.Key.Key_Z)
    assert desk.figure.part("speaker").at_mm == before
    side.repaint()
    hand.drag(side, QPointF(*side.screen_of("joint", "neck_roll")), QPointF(0, -10))
    assert desk.figure.joint("neck_roll").at_mm[2] > 200
    side.setFocus()
    hand.key(Qt.Key.Key_Up, Qt.KeyboardModifier.ShiftModifier)
    assert "pivot" in desk.session.history.undo_name


@pytest.mark.remedies
def test_remedies_show_their_effect_and_change_nothing_until_pressed(owl):
    window, hand = owl
    desk = window.desk
    hand.key(Qt.Key.Key_F)
    assert desk.subject == Ref("move", "beak_channel", 19) and desk.bench == "score"
    hand.key(Qt.Key.Key_F)
    assert desk.subject == Ref("joint", "neck_tilt") and desk.bench == "drive"
    hand.key(Qt.Key.Key_1, Qt.KeyboardModifier.AltModifier | Qt.KeyboardModifier.ShiftModifier)
    tag = next(t for t in hand.remedies() if t.hasFocus())
    assert tag.hasFocus() and "then" in tag.accessibleName()
    figure = desk.figure
    hand.qtbot.waitUntil(lambda: desk.preview is not None, timeout=2000)
    assert desk.figure is figure
    window.setFocus()
    hand.qtbot.waitUntil(lambda: desk.preview is None)
    tag.setFocus()
    hand.key(Qt.Key.Key_Return)
    assert desk.figure != figure and desk.finding("move", "neck_tilt").verdict != "fails"
    assert desk.session.history.undo_name.startswith(("fit class 60", "ballast"))


@pytest.mark.remedies
def test_fan_edges_ballast_and_candidates(owl):
    window, hand = owl
    desk = window.desk
    desk.select(Ref("joint", "neck_tilt"))
    desk.turn_to("limits")
    fan = window.benches["limits"].fan
    fan.setFocus()
    hand.key(Qt.Key.Key_Right)
    assert desk.figure.joint("neck_tilt").range_deg == (-25.0, 31.0)
    hand.key(Qt.Key.Key_Up)
    hand.key(Qt.Key.Key_Left, Qt.KeyboardModifier.ShiftModifier)
    assert (
        desk.figure.joint("neck_tilt").range_deg == (-35.0, 31.0)
        and desk.finding("stops", "neck_tilt").verdict == "fails"
    )
    assert any(t.remedy.label.text.startswith("Range") for t in hand.remedies())
    desk.turn_to("balance")
    hand.qtbot.wait(5)
    hand.click(hand.field("at skull rear"))
    hand.fill("120")
    assert desk.figure.part("ballast_skull_rear").mass_g == 120.0
    hand.click(hand.field("at skull rear"))
    hand.fill("0")
    assert not any(p.id == "ballast_skull_rear" for p in desk.figure.parts)
    desk.turn_to("drive")
    table = window.benches["drive"].table
    table.setFocus()
    hand.key(Qt.Key.Key_Home)
    hand.click(window.benches["drive"].fit)
    assert desk.figure.drive_of("neck_tilt").actuator.catalogue_id == "class_60"


def test_figures_that_cannot_be_opened_leave_the_open_one_alone(owl, tmp_path, monkeypatch):
    window, hand = owl
    bad = tmp_path / "bad.karakuri"
    bad.write_text('{"parts": [{"id": "a", "name": "a", "mass_g": "x"}]}')
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *a, **k: (str(bad), ""))
    figure = window.desk.figure
    hand.ctrl(Qt.Key.Key_O)
    assert window.desk.figure is figure and "parts[a].mass_g" in window.note.text


def test_leaving_asks_and_loses_nothing(owl, tmp_path, monkeypatch):
    window, hand = owl
    desk = window.desk
    desk.edit(Edit("name", (Set(("name",), "Changed owl"),)))
    changed = desk.figure
    monkeypatch.setattr(window.filing, "may_leave", lambda: window.filing.leave_by("stay"))
    assert not window.filing.replace(Session(head())) and desk.figure is changed
    assert not window.close()
    monkeypatch.setattr(window.filing, "may_leave", lambda: window.filing.leave_by("aside"))
    assert window.filing.replace(Session(head()))
    assert window.recovery.copy is None  # never into another figure
    again = Session()
    copy = again.recoverable()
    assert copy.figure() == changed and copy.name == "Changed owl"
    monkeypatch.setattr(window.filing, "may_leave", lambda: True)
    window.filing.replace(again)
    window.recovery.offer()
    assert "Changed owl" in window.note.text
    hand.click(window.note.ok)
    assert desk.figure == changed
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *a, **k: (str(tmp_path / "kept"), ""))
    monkeypatch.setattr(window.filing, "may_leave", lambda: window.filing.leave_by("save"))
    assert window.filing.replace(Session(head())) and load(tmp_path / "kept.karakuri") == changed


def test_saving_where_nothing_can_be_written_says_so_and_keeps_all(owl, tmp_path):
    window, _ = owl
    blocked = tmp_path / "blocked"
    blocked.write_text("a file")
    window.desk.edit(Edit("name", (Set(("name",), "Changed owl"),)))
    window.desk.keeping.save(blocked / "x.karakuri")
    assert "cannot be written" in window.note.text and window.desk.session.dirty
    assert "not saved" in painted(window.top) or window.top.saved_words().startswith("not saved")


def test_keys_do_not_act_while_a_text_is_written_and_names_may_be_odd(owl):
    window, hand = owl
    window.desk.select(Ref("part", "yoke"))
    hand.qtbot.wait(5)
    hand.click(hand.field("Name"))
    hand.fill("fwf <b>{0}</b> % \\ 日本")
    assert window.desk.figure.part("yoke").name == "fwf <b>{0}</b> % \\ 日本"
    assert window.desk.study.figure is window.desk.figure
    hand.click(hand.field("Name"))
    hand.fill(" ")
    assert "1 to 80 letters" in window.note.text


def test_removing_adding_and_doing_things_in_the_wrong_order(open_window, qtbot):
    window = open_window(Session())
    hand = Hand(window, qtbot)
    window.middle.setFocus()
    for key in (Qt.Key.Key_Delete, Qt.Key.Key_F, Qt.Key.Key_W, Qt.Key.Key_Escape):
        hand.key(key)
    for key in (Qt.Key.Key_Z, Qt.Key.Key_Y, Qt.Key.Key_D):
        hand.ctrl(key)
    for n in range(1, 5):
        hand.alt(getattr(Qt.Key, f"Key_{n}"))
    hand.key(Qt.Key.Key_Insert)
    hand.ctrl(Qt.Key.Key_J)
    window.middle.setFocus()
    assert [j.id for j in window.desk.figure.joints] == ["joint_1"]
    window.desk.select(Ref("joint", "joint_1"))
    hand.key(Qt.Key.Key_Delete)
    assert not window.desk.figure.joints and window.desk.subject == FIGURE
    hand.ctrl(Qt.Key.Key_Z)
    assert window.desk.figure.joints


def test_a_name_with_braces_survives_every_sentence(open_window):
    figure = head(stops_deg=(-31.0, 40.0))
    joint = type(figure.joints[0])(**(dict(figure.joints[0]) | {"name": "{0} {x}", "ends": ("{", "}")}))
    window = open_window(Session(type(figure)(**(dict(figure) | {"joints": (joint,)}))))
    for finding in window.desk.study.findings:
        assert finding.sentence.show(METRIC)


def test_the_study_runs_beside_the_interface_latest_wins(open_window, qtbot):
    window = open_window(in_place=False)
    desk = window.desk
    threads = set()
    desk.studied.connect(lambda: threads.add(threading.current_thread()))
    for grams in range(100, 130):
        desk.edit(Edit("m", (Set(("parts", "yoke", "mass_g"), float(grams)),), "m"), dragging=True)
    assert desk.figure.part("yoke").mass_g == 129.0
    qtbot.waitUntil(lambda: desk.study is not None and desk.study.figure is desk.figure, timeout=10000)
    desk.end_drag()
    qtbot.waitUntil(lambda: not desk.busy and desk.study.settled, timeout=20000)
    assert threads == {threading.main_thread()} and len(desk.session.history._done) == 1


def test_a_closed_window_and_its_worker_are_gone(qtbot, qapp):
    from karakuri.workbench.window import Window

    window = Window(Session.from_template(owl_path()), in_place=False)
    window.show()
    qtbot.waitUntil(lambda: window.desk.study is not None, timeout=10000)
    watch, worker = weakref.ref(window), window.desk.worker
    thread, process = worker._reader, worker._line._process.process
    window.close()
    assert not thread.is_alive() and process.returncode is not None
    window = worker = thread = None
    for _ in range(5):
        qapp.processEvents()
        gc.collect()
    qtbot.wait(20)
    gc.collect()
    assert watch() is None


def test_every_control_is_in_the_tab_order(owl):
    window, hand = owl
    for bench in ("figure", "drive", "balance", "limits"):
        window.desk.turn_to(bench)
        hand.qtbot.wait(5)
        window.rail.buttons[0].setFocus()
        seen = []
        for _ in range(150):
            seen.append(QApplication.focusWidget())
            QTest.keyClick(QApplication.focusWidget(), Qt.Key.Key_Tab)
        wanted = [w for w in window.benches[bench].findChildren(object) if hasattr(w, "painted") and w.isVisible() and w.isEnabled()
                  and w.focusPolicy() & Qt.FocusPolicy.TabFocus]  # fmt: skip
        missing = [
            w.accessibleName()
            for w in [*wanted, *window.card.body.editors.values(), *(t for t in hand.remedies())]
            if w not in seen and w.isEnabled()
        ]
        assert not missing, (bench, missing)


@pytest.mark.parametrize("seed", range(10))
def test_ten_of_the_honest_figures_by_real_mouse_and_keyboard(seed, open_window, qtbot):
    """The same judgement as the honesty test, of figures typed and pressed in the window."""
    import numpy as np

    rng = np.random.default_rng(seed)
    window = open_window(Session())
    hand = Hand(window, qtbot)
    for i in range(1 + seed % 2):
        hand.ctrl(Qt.Key.Key_J)
        hand.fill(f"axis {i}")
        hand.choose(hand.choice("Motion"), ["nods", "leans", "opens"][int(rng.integers(3))])
        hand.click(hand.field("Pivot above"))
        hand.fill(f"{60 + 40 * i}")
        for _ in range(int(rng.integers(1, 3))):
            hand.key(Qt.Key.Key_Insert)
            hand.fill("thing")
            hand.fill(f"{rng.uniform(50, 500):.0f}")
            hand.fill(f"{rng.uniform(-60, 80):.0f}")
            hand.fill(f"{100 + 40 * i + rng.uniform(0, 80):.0f}")
        window.desk.select(Ref("joint", f"joint_{i + 1}"))
    for joint in window.desk.figure.joints:
        window.desk.select(Ref("joint", joint.id))
        window.desk.turn_to("drive")
        qtbot.wait(5)
        hand.choose(hand.choice("Class"), "own servo")
        need = window.desk.study.results.of(joint.id).hold.need
        hand.click(hand.field("Stall torque"))
        hand.fill(f"{need * rng.uniform(0.6, 1.6) / 0.85 / 0.25:.4f}")
    assert again(window.desk.study, [], [], Counter()) >= 0
    assert window.desk.study.figure == window.desk.figure and all(
        f.verdict != "not yet judged" for f in window.desk.study.findings if f.rule == "hold"
    )


def test_the_desk_says_what_broke(qtbot, monkeypatch):
    desk = Desk(Session(head()), in_place=True)
    monkeypatch.setattr("karakuri.study.answers.study", lambda *a, **k: 1 / 0)
    with qtbot.waitSignal(desk.said) as told:
        desk.ask()
    assert "ZeroDivisionError" in told.args[0] and "untouched" in told.args[0]
    desk.close()


def test_the_last_figure_opens_again(tmp_path):
    from karakuri.session.places import last_figures

    target = tmp_path / "a.karakuri"
    save(head(), target)
    opened = Session.open(target)
    assert last_figures() == ()  # not before it has been shown: one that ends the window is not opened again
    opened.shown()
    assert last_figures() == (target,)
    target.unlink()
    assert last_figures() == ()


@pytest.mark.parametrize(
    ("press", "answer"), [(Qt.Key.Key_Return, "save"), (Qt.Key.Key_Escape, "stay"), (None, "aside")]
)
def test_a_question_is_answered_by_key_or_press(owl, press, answer):
    """Enter gives the first answer, Esc the last; the window asks in its own dress."""
    window, _ = owl

    def act():
        (question,) = window.middle.findChildren(Question)
        if press is None:
            QTest.mouseClick(question.tags["aside"], Qt.MouseButton.LeftButton)
        else:
            QTest.keyClick(question, press)

    QTimer.singleShot(50, act)
    answers = {"save": "Save", "aside": "Keep a copy", "stay": "Stay"}
    assert ask(window.desk, window.middle, "Leave it?", "It is not saved.", answers) == answer


def test_a_question_waits_behind_what_is_told_and_keeps_its_answers(owl):
    window, hand = owl
    taken = []
    window.note.ask("Take it back?", ("Take it", lambda: taken.append("yes")), ("Leave it", lambda: taken.append("no")))
    window.desk.said.emit("Something else.")
    assert window.note.text == "Something else. Take it back?" and window.note.other.isVisible()
    hand.click(window.note.other)
    assert taken == ["no"] and not window.note.isVisible()
    window.desk.said.emit("Plain.")
    assert window.note.text == "Plain." and not window.note.other.isVisible() and window.note.ok.label == "Understood"


def test_a_card_opens_at_its_top_wherever_the_hand_was(owl):
    """The hand in the last field of a long card, then another bench by its key: its card once opened scrolled to the end."""
    window, hand = owl
    window.desk.select(Ref("joint", "beak"))
    bar = window.card.area.verticalScrollBar()
    for bench, other in (("drive", "figure"), ("limits", "drive"), ("figure", "balance")):
        window.to_bench(bench)
        hand.qtbot.wait(10)
        list(window.card.body.editors.values())[-1].setFocus()
        bar.setValue(bar.maximum())
        hand.qtbot.wait(10)
        window.to_bench(other)
        hand.qtbot.wait(10)
        assert bar.value() == 0 and bar.maximum() > 0, (bench, other)


def test_a_long_study_shows_how_far_it_is_and_can_be_stopped(owl):
    window, hand = owl
    desk, strip = window.desk, window.strip
    assert not strip.halt.isVisible()
    desk.worker.went.emit(desk._number, "the score, 10 of 60 s", 1 / 6)
    strip.repaint()
    assert strip.halt.isVisible() and "judging the score, 10 of 60 s" in painted(strip)
    hand.click(strip.halt)
    strip.repaint()
    assert not strip.halt.isVisible() and not desk.busy and "stopped" in painted(strip)
    desk.edit(Edit("x", (Set(("name",), "again"),)))
    strip.repaint()
    assert not desk.given_up and "stopped" not in painted(strip)


def test_new_covers_what_was_found_of_the_figure_that_is_open(owl):
    """The findings, and their counts in the rail, are not of the figure to be made; back at a bench they are there again."""
    window, hand = owl
    assert window.strip.isVisible() and any(button.worst() for button in window.rail.buttons)
    tall = window.benches["figure"].height()
    window.filing.new()
    hand.qtbot.wait(10)
    assert not window.strip.isVisible() and not any(button.worst() for button in window.rail.buttons)
    assert window.benches["start"].height() > tall
    window.to_bench("figure")
    hand.qtbot.wait(10)
    assert window.strip.isVisible() and window.benches["figure"].height() == tall


def test_what_was_let_go_of_is_looked_for_when_nobody_waits(open_window, qtbot, monkeypatch):
    """Not while it moves, and not again and again: a search takes as long as two frames."""
    looked = []
    monkeypatch.setattr(heap, "tidy", lambda: looked.append(1))
    monkeypatch.setattr(heap, "IDLE_S", 0.05)
    desk = open_window().desk
    Quiet(desk)
    desk.transport.run()
    desk.select(Ref("part", "speaker"))
    qtbot.wait(200)
    assert not looked
    desk.transport.stop()
    qtbot.waitUntil(lambda: bool(looked))
    qtbot.wait(200)
    assert len(looked) == 1


def test_no_key_of_the_window_is_bound_twice(open_window):
    keys = [shortcut.key().toString() for shortcut in open_window().findChildren(QShortcut)]
    assert len(keys) > 20 and sorted(keys) == sorted(set(keys))
