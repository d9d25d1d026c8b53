"""The Fit bench by the real window: a chain of sizes from nothing, cured by a remedy, undone; an order of putting together."""

import pytest
from PyQt6.QtCore import Qt

from karakuri.model.figure import Figure
from karakuri.model.ref import Ref
from karakuri.session.session import Session
from tests.figures import jaw
from tests.ui.hand import Hand, painted


def at_fit(open_window, qtbot):
    window = open_window(Session(Figure()))
    hand = Hand(window, qtbot)
    window.desk.turn_to("fit")
    qtbot.wait(20)
    return window, hand, window.benches["fit"]


@pytest.mark.remedies
def test_a_rim_is_measured_and_made_to_fit(open_window, qtbot):
    window, hand, bench = at_fit(open_window, qtbot)
    assert "says what is left of a gap" in painted(bench.view)
    before = window.desk.figure
    hand.choose(bench.add, "a rim gap over a full turn")
    hand.wait_judged()
    chain = window.desk.figure.chains[0]
    assert window.desk.subject.kind == "chain" and "gap left" in painted(bench.view)
    assert window.desk.finding("fits", chain.id).verdict == "fails"
    hand.reveal(hand.field("Size"))
    hand.field("Size").setFocus()
    hand.fill("100,4")
    assert window.desk.figure.chains[0].links[0].mm == pytest.approx(100.4)
    window.desk.undo()
    hand.wait_judged()
    qtbot.waitUntil(lambda: len(hand.remedies()) > 0, timeout=15000)
    hand.click(hand.remedies()[0])
    hand.wait_judged()
    assert window.desk.finding("fits", chain.id).verdict != "fails"
    said = []
    window.desk.said.connect(said.append)
    hand.field("Must be at least").setFocus()
    hand.fill("5")  # more than the most it may be: refused with a sentence, nothing lost
    assert window.desk.figure.chains[0].least_mm == 0.5 and any("cannot be at most" in words for words in said)
    hand.choose(hand.choice("From a table"), "hole for M3, medium")
    assert window.desk.figure.chains[0].links[0].mm == pytest.approx(3.4)
    for _ in range(3):
        window.desk.undo()
    assert window.desk.figure == before


def test_an_order_is_written_sorted_and_undone(open_window, qtbot):
    window, hand, bench = at_fit(open_window, qtbot)
    before = window.desk.figure
    for name in ("hood", "head"):
        hand.click(bench.step)
        hand.field("Step").setFocus()
        hand.fill(name)
    hand.wait_judged()
    assert [d.name for d in window.desk.figure.order] == ["hood", "head"]
    first = window.desk.figure.order[0].id
    bench.order.picked.emit(bench.order.rows[0].key)
    assert window.desk.subject.id == first
    qtbot.wait(20)
    hand.choose(hand.choice("Needs also"), "head")
    hand.wait_judged()
    assert window.desk.finding("order", first).verdict == "fails"
    hand.choose(hand.choice("Done"), "yes")
    hand.wait_judged()
    assert window.desk.finding("order", first, "unmet") is not None
    for _ in range(6):
        window.desk.undo()
    assert window.desk.figure == before


@pytest.mark.remedies
def test_a_jaw_that_hits_its_neck_is_seen_in_section_and_cured(open_window, qtbot):
    window = open_window(Session(jaw(room_=None)))
    hand, desk = Hand(window, qtbot), window.desk
    desk.turn_to("fit")
    qtbot.wait(20)
    bench = window.benches["fit"]
    before = desk.figure
    hand.click(bench.look)
    hand.wait_judged()
    assert desk.subject.kind == "room" and bench.section.isVisible() and not bench.view.isVisible()
    qtbot.waitUntil(lambda: "in one another" in painted(bench.section), timeout=5000)
    assert "neck post" in painted(bench.section) and "chin" in painted(bench.section)
    hand.field("Must stay").setFocus()
    hand.fill("1.5")
    assert desk.figure.room.gap_mm == pytest.approx(1.5)
    hand.wait_judged()
    desk.select(Ref("room", desk.study.findings[0].id))
    qtbot.waitUntil(lambda: len(hand.remedies()) > 0, timeout=15000)
    hand.click(hand.remedies()[0])
    hand.wait_judged()
    assert desk.figure.joint("jaw").range_deg[1] < 40.0
    assert desk.finding("room").verdict == "holds"
    hand.click(hand.tag("Look for room no more"))
    assert desk.figure.room is None and bench.look.isVisible()
    for _ in range(4):
        desk.undo()
    assert desk.figure == before


def test_what_still_goes_into_a_shell_is_looked_for_from_its_card(open_window, qtbot):
    window = open_window()
    hand, desk = Hand(window, qtbot), window.desk
    desk.select(Ref("part", "skull_shell"))
    hand.alt(Qt.Key.Key_1)
    hand.click(hand.tag("What still goes in?"))
    qtbot.wait(20)
    assert "a ball," in painted(window.card.body) and "above" in painted(window.card.body)
    desk.select(Ref("part", "plinth"))
    qtbot.waitUntil(lambda: window.card.body.page.title == "plinth")
    window.card.body.repaint()
    assert "Room left in it" not in painted(window.card.body)
