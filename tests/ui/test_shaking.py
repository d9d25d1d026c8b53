"""What rubs, what gives and what shakes, on the cards; what is seen, by find-or-do."""

import pytest
from PyQt6.QtCore import Qt

from karakuri.model.joint import Move
from karakuri.model.ref import Ref
from karakuri.session.session import Session
from karakuri.workbench.routes import lead_to
from tests.core.test_cords import jaw
from tests.figures import head
from tests.ui.hand import Hand, painted


@pytest.fixture
def bench(open_window, qtbot):
    window = open_window(Session(head(move=Move(by=20.0, time_s=0.4, profile="sudden"))))
    window.desk.select(Ref("joint", "tilt"))
    window.desk.turn_to("drive")
    qtbot.wait(10)
    return window


def item(window, key):
    return next(i for i in window.card.body.page.items if i.key == key)


def test_horn_bracket_and_loop_are_chosen_and_the_move_is_drawn(bench, qtbot):
    desk, hand = bench.desk, Hand(bench, qtbot)
    before = desk.finding("shakes", "tilt")
    assert before is not None and item(bench, "response").tall > 0
    item(bench, "bracket").done("foam")
    qtbot.wait(5)
    assert desk.figure.drives[0].mount.bracket == "foam"
    assert desk.finding("shakes", "tilt").reserve != before.reserve
    item(bench, "loop").done("own")
    qtbot.wait(5)
    item(bench, "loop dead_deg").done(0.03)
    qtbot.wait(5)
    assert desk.figure.drives[0].loop.dead_deg == pytest.approx(1.7189, abs=1e-3)
    for _ in range(3):
        hand.ctrl(Qt.Key.Key_Z)
    assert desk.figure.drives[0].loop is None and desk.figure.drives[0].mount.bracket == "printed"
    assert "as told" in painted(bench.card.body)


def test_what_it_turns_in_is_chosen_and_measured_by_two_pulls(bench, qtbot):
    desk = bench.desk
    desk.turn_to("balance")
    qtbot.wait(10)
    item(bench, "drag").done("print")
    qtbot.wait(10)
    item(bench, "radius").done(0.012)
    qtbot.wait(10)
    assert desk.figure.joint("tilt").drag.radius_mm == 12.0 and desk.finding("drag", "tilt") is not None
    assert "rubs with" in item(bench, "nr").text
    item(bench, "drag").done("pulled")
    qtbot.wait(10)
    item(bench, "up_g").done(0.4)
    qtbot.wait(10)
    assert desk.study.results.of("tilt").drag.value == pytest.approx((0.4 - 0.1) / 2 * 9.80665 * 0.1)


@pytest.mark.parametrize("words", ["shakes", "leans", "won't stay put", "it gets hot"])
def test_what_is_seen_lists_its_causes_and_their_bench(bench, qtbot, words):
    hand, desk = Hand(bench, qtbot), bench.desk
    hand.alt(Qt.Key.Key_W)
    hand.fill(words, Qt.Key.Key_Return)
    qtbot.wait(20)
    assert desk.subject.kind == "symptom"
    page = bench.card.body.page
    causes = [i for i in page.items if i.key.startswith("f ")]
    assert causes and any(i.key == "b0" for i in page.items)
    causes[0].done()
    qtbot.wait(10)
    assert desk.subject.kind != "symptom"


def test_a_cord_asks_who_pulls_it_and_is_judged_once_that_is_measured(open_window, qtbot):
    window = open_window(Session(jaw(pulled_mm=None, pulled_N=None)))
    desk = window.desk
    finding = desk.finding("cords", "c")
    assert finding.verdict == "not yet judged"
    label = lead_to(desk, finding.actions[0])
    qtbot.wait(10)
    assert desk.subject == Ref("element", "c") and Hand(window, qtbot).field(label) is not None
    item(window, "pulled_mm").done(0.02)
    qtbot.wait(10)
    item(window, "pulled_N").done(10.0)
    qtbot.wait(10)
    assert desk.finding("cords", "c").verdict == "holds" and item(window, "cord").tall > 0
    item(window, "moving").done("jaw")
    qtbot.wait(10)
    assert desk.finding("cords", "c").verdict == "fails"


def test_what_is_seen_by_the_beginning_of_a_word_gives_way_to_a_name(bench, qtbot):
    hand, desk = Hand(bench, qtbot), bench.desk
    name = desk.figure.parts[0].name
    for words, kind in (("wobb", "symptom"), (name, "part")):
        hand.alt(Qt.Key.Key_W)
        hand.fill(words, Qt.Key.Key_Return)
        qtbot.wait(10)
        assert desk.subject.kind == kind
