"""The Fit bench by the real window: a chain of sizes from nothing, cured by a remedy, undone; an order of putting together."""

import pytest

from karakuri.model.figure import Figure
from karakuri.session.session import Session
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
