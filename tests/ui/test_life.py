"""Life and looking in the real window."""

import math

import pytest
from PyQt6.QtCore import Qt

from karakuri.session.session import Session
from tests.core.test_life import being
from tests.ui.hand import Hand


@pytest.fixture
def bench(open_window, qtbot):
    window = open_window(Session(being(does=("blinks",))))
    window.desk.turn_to("score")
    qtbot.wait(20)
    return Hand(window, qtbot)


def made(hand, ident):
    return sum(by == "life" for by in hand.window.desk.figure.score.moving(ident).moves.made_by)


def test_what_it_does_is_chosen_written_and_taken_out(bench):
    hand, desk = bench, bench.window.desk
    hand.click(hand.tag("Write its life"))
    assert made(hand, "c_lid") > 10 and not made(hand, "c_chest")
    hand.choose(hand.choice("Breathes"), "yes")
    assert desk.figure.score.life.does == ("blinks", "breathes")
    hand.click(hand.field("Breaths a minute"))
    hand.fill("20")
    hand.click(hand.tag("Write its life"))
    assert made(hand, "c_chest") == pytest.approx(60, abs=6)
    hand.choose(hand.choice("Glances"), "yes")
    hand.click(hand.field("Head follows beyond"))
    hand.fill("")
    assert desk.figure.score.life.head_joins_deg is None
    hand.ctrl(Qt.Key.Key_Z)
    assert desk.figure.score.life.head_joins_deg == 15.0
    hand.click(hand.tag("Take its life out"))
    assert not made(hand, "c_lid") and not made(hand, "c_chest")
    hand.choose(hand.choice("Blinks"), "no")
    hand.choose(hand.choice("Glances"), "no")
    hand.click(hand.tag("Write its life"))
    assert "Nothing to do when idle" in hand.window.note.text


def test_it_looks_at_a_point_and_says_where_it_cannot(bench):
    hand, desk = bench, bench.window.desk
    hand.click(hand.field("To its left"))
    hand.fill("800")
    hand.click(hand.tag("Look there"))
    assert desk.pose["neck_pan"] > math.radians(10.0) and desk.pose["pan_l"] > math.radians(10.0)
    hand.click(hand.field("Ahead"))
    hand.fill("-600")
    hand.click(hand.tag("Look there"))
    assert "short of it" in hand.window.note.text


def test_life_is_written_beside_the_interface(open_window, qtbot):
    """The owl's six servos are looked at one after another; meanwhile it can be stopped."""
    window = open_window(in_place=False)
    desk = window.desk
    desk.turn_to("score")
    qtbot.waitUntil(lambda: desk.study is not None and not desk.busy, timeout=30_000)
    from karakuri.workbench.benches.life_items import write

    write(desk)
    assert not desk.figure.score.maker("life")
    qtbot.waitUntil(lambda: desk.figure.score.maker("life") is not None, timeout=30_000)
    qtbot.waitUntil(lambda: desk.study.figure is desk.figure and not desk.busy, timeout=30_000)
    fails = [
        f
        for f in desk.study.findings
        if f.rule in ("toofast", "effort") and f.verdict == "fails" and f.move is not None
    ]
    for f in fails:
        assert desk.figure.score.moving(f.move.id).moves.made_by[f.move.number] != "life", f.sentence.text
