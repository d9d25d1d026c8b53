"""Behaviour in the real window: set down, lived with visitors, pressed, written on its cards."""

import pytest
from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtTest import QTest

from karakuri.demo import demo_path
from karakuri.model.behaviour_edits import change_input
from karakuri.model.ref import FIGURE, Ref
from karakuri.session.session import Session
from tests.behaving import keeper
from tests.ui.hand import Hand, painted


@pytest.fixture
def bench(open_window, qtbot):
    window = open_window()
    window.desk.turn_to("rehearse")
    qtbot.wait(10)
    hand = Hand(window, qtbot)
    hand.choose(window.benches["rehearse"].shows, "its behaviour")
    qtbot.wait(20)
    yield hand
    window.desk.living.stop()


@pytest.fixture
def kept(open_window, qtbot):
    window = open_window(Session(keeper()))
    window.desk.rehearse("behaviour")
    window.desk.turn_to("rehearse")
    qtbot.wait(20)
    yield Hand(window, qtbot)
    window.desk.living.stop()


def lives(hand):
    return hand.window.benches["rehearse"].over["behaviour"]


def test_a_behaviour_is_set_down_and_its_story_told(bench):
    hand, desk = bench, bench.window.desk
    assert "No behaviour yet" in painted(lives(hand).story)
    hand.click(hand.tag("Set a behaviour down"))
    hand.qtbot.wait(20)
    assert desk.finding("behaviour").verdict == "holds"
    lives(hand).story.repaint()
    told = painted(lives(hand).story)
    assert all(words in told for words in ("Asleep", "Notices", "Speaks", "Idle", "Powers down", "when it is over"))
    assert "6 states" not in told and len(lives(hand).table.rows) == 7
    hand.ctrl(Qt.Key.Key_Z)
    assert desk.figure.behaviour is None


def test_it_lives_notices_and_powers_down(kept):
    hand, desk = kept, kept.window.desk
    desk.living.set_count(0)
    lives(hand).setFocus()
    hand.click(lives(hand).run)
    assert desk.living.running
    desk.living.set_pace(20)
    hand.qtbot.waitUntil(lambda: desk.living.engine.now > 3.0, timeout=5_000)
    assert desk.living.state == "asleep"
    desk.living.hold("door", 100.0)
    hand.qtbot.waitUntil(lambda: desk.living.state == "awake", timeout=5_000)
    desk.living.hold("door", 0.0)
    hand.qtbot.waitUntil(lambda: desk.living.state == "asleep", timeout=5_000)
    row = lives(hand).inputs
    at = QPoint(20, 22 + 11)
    QTest.mouseClick(row, Qt.MouseButton.LeftButton, pos=at)
    assert desk.subject == Ref("input", "switch")
    QTest.mouseDClick(row, Qt.MouseButton.LeftButton, pos=at)
    hand.qtbot.waitUntil(lambda: desk.living.state == "down", timeout=5_000)
    assert any("Powers down" in r.name for r in lives(hand).told.rows)
    hand.click(lives(hand).run)
    assert not desk.living.running


def test_it_moves_the_figure_and_an_edit_begins_it_anew(kept):
    hand, desk = kept, kept.window.desk
    desk.living.set_count(0)
    desk.living.run()
    desk.living.set_pace(4)
    desk.living.hold("door", 100.0)
    hand.qtbot.waitUntil(lambda: any(abs(v) > 0.02 for v in desk.pose.values()), timeout=15_000)
    before = desk.living.engine
    desk.select(Ref("state", "awake"))
    hand.qtbot.wait(10)
    hand.click(hand.field("Stays at most"))
    hand.fill("9")
    assert desk.figure.behaviour.state("awake").stays_s == (4.0, 9.0)
    assert desk.living.engine is not before and desk.living.running and desk.living.engine.now < 1.0


def test_states_starts_and_inputs_are_written_on_their_cards(kept):
    hand, desk = kept, kept.window.desk
    desk.select(FIGURE)
    hand.qtbot.wait(10)
    hand.click(hand.tag("Add a state"))
    hand.qtbot.wait(10)
    state = desk.subject.id
    assert desk.subject.kind == "state" and desk.finding("behaviour", state, "unreached").verdict == "tight"
    hand.click(hand.field("Name"))
    hand.fill("Waves")
    hand.choose(hand.choice("Also plays"), "turns to who")
    hand.choose(hand.choice("Start it also when"), "it goes on")
    hand.qtbot.wait(10)
    assert desk.subject.kind == "start"
    hand.choose(hand.choice("When"), "a time is over")
    hand.qtbot.wait(10)
    hand.click(hand.field("After at least"))
    hand.fill("20")
    start = next(s for s in desk.figure.behaviour.starts if s.to == state)
    assert start.on.between_s == (20.0, 20.0)
    hand.click(hand.field("Chance"))
    hand.fill("40")
    hand.choose(hand.choice("Also while in"), "Awake")
    hand.choose(hand.choice("Only while"), "Switch is off")
    start = next(s for s in desk.figure.behaviour.starts if s.to == state)
    assert (start.chance, start.while_in, start.only[0].input, start.only[0].state) == (
        0.4,
        ("awake",),
        "switch",
        "off",
    )
    assert desk.finding("behaviour", state, "unreached") is None
    desk.select(FIGURE)
    hand.qtbot.wait(10)
    hand.choose(hand.choice("Add an input"), "a knob")
    hand.qtbot.wait(10)
    assert desk.subject.kind == "input" and desk.figure.behaviour.inputs[-1].kind == "knob"
    hand.click(hand.tag("Take this input out"))
    assert len(desk.figure.behaviour.inputs) == 2
    desk.select(Ref("input", "door"))
    hand.qtbot.wait(10)
    hand.click(hand.tag("Take this input out"))
    assert "stays: it starts Awake" in hand.window.note.text
    hand.click(hand.field("Looks to its left"))
    hand.fill("30")
    assert desk.figure.behaviour.input("door").heading_deg == pytest.approx(30.0)
    desk.select(Ref("state", state))
    hand.qtbot.wait(10)
    hand.click(hand.tag("Take this state out"))
    assert len(desk.figure.behaviour.states) == 3 and len(desk.figure.behaviour.starts) == 4


def test_a_knob_guards_by_its_level(kept):
    hand, desk = kept, kept.window.desk
    desk.edit(lambda: change_input(desk.figure, "switch", "kind", kind="knob"))
    desk.select(Ref("start", "comes"))
    hand.qtbot.wait(20)
    hand.choose(hand.choice("Only while"), "Switch is above")
    hand.qtbot.wait(20)
    hand.click(hand.field("Switch above"))
    hand.fill("70")
    guard = desk.figure.behaviour.starts[0].only[-1]
    assert (guard.input, guard.state, guard.level) == ("switch", "above", 70.0)
    hand.click(hand.field("Switch above"))
    hand.fill("170")
    assert desk.figure.behaviour.starts[0].only[-1].level == 70.0
    hand.key(Qt.Key.Key_Escape)
    hand.click(hand.tag("Not needed: Switch above 70 %"))
    assert not desk.figure.behaviour.starts[0].only


def test_the_story_is_gone_through_by_keys_and_grows_beyond_its_room(kept):
    hand, desk = kept, kept.window.desk
    story = lives(hand).story
    story.setFocus()
    hand.key(Qt.Key.Key_Right)
    hand.key(Qt.Key.Key_Right)
    assert desk.subject == Ref("state", "awake")
    from karakuri.model.behaviour_edits import add_state

    for n in range(12):
        desk.edit(lambda n=n: add_state(desk.figure, f"More {n}")[0])
    hand.qtbot.wait(10)
    for _ in range(14):
        hand.key(Qt.Key.Key_Right)
    story.repaint()
    assert "More 11" in painted(story) and "of 15" in painted(story)


def test_stop_stops_what_lives_too(kept):
    """Else a board that was stopped would be told to go on by whoever lives on it."""
    desk = kept.window.desk
    desk.living.run()
    assert desk.living.running
    desk.board.stop()
    assert not desk.living.running


def test_what_it_did_is_judged_and_put_under_the_plumb_line(bench):
    """Told on the card behind the rest, then taken as a score of its own; Ctrl+Z takes it away. A long message keeps its button off its words."""
    hand, desk = bench, bench.window.desk
    hand.click(hand.tag("Set a behaviour down"))
    hand.wait_judged()
    assert desk.finding("lived").verdict in ("holds", "tight", "fails") and "by itself" in painted(
        hand.window.card.body
    )
    scores = len(desk.figure.scores)
    hand.click(hand.tag("What it did, as a score"))
    hand.wait_judged()
    assert len(desk.figure.scores) == scores + 1 and desk.figure.score.name == "What it does by itself"
    assert desk.figure.score.moves_something and desk.figure.score.loops
    hand.ctrl(Qt.Key.Key_Z)
    assert len(desk.figure.scores) == scores
    note = hand.window.note
    for times in (1, 12, 40):
        desk.said.emit("A sentence that says something at length. " * times)
        hand.qtbot.wait(20)
        note.repaint()
        lowest = max(text.rect.bottom() for text in note.painted)
        assert (
            note.isVisible()
            and note.geometry().bottom() < hand.window.strip.y()
            and (lowest <= note.ok.y() + 2 or times == 1)
        )


def test_nobody_is_asked_what_the_wiring_decides(open_window, qtbot):
    window = open_window(Session.from_template(demo_path("lamplighter")))
    hand = Hand(window, qtbot)
    window.desk.turn_to("rehearse")
    qtbot.wait(20)
    asked = {e.accessibleName().split(":")[0] for e in window.card.body.editors.values()}
    assert "Plays" in asked and "As" in asked and not {"Controller", "Pulses by"} & asked
    hand.key(Qt.Key.Key_Escape)
    other = open_window()
    other.desk.turn_to("rehearse")
    qtbot.wait(20)
    asked = {e.accessibleName().split(":")[0] for e in other.card.body.editors.values()}
    assert {"Controller", "Pulses by"} <= asked and "Plays" not in asked
