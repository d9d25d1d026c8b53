"""Wiring in the real window: boards added, everything plugged in, a clash made and mended from the strip, lengths, undone."""

import pytest
from PyQt6.QtCore import QPoint, Qt

from karakuri.demo import lamplighter_path
from karakuri.model.ref import Ref
from karakuri.session.session import Session
from karakuri.wiring.clashes import clashes
from karakuri.wiring.following import followers
from karakuri.wiring.plug_in import not_plugged
from karakuri.workbench.widgets.find import carry_out
from tests.ui.hand import Hand, painted


@pytest.fixture
def bench(open_window, qtbot):
    window = open_window()
    hand = Hand(window, qtbot)
    hand.alt(Qt.Key.Key_7)
    hand.choose(window.benches["power"].shows, "the wiring")
    qtbot.wait(10)
    return hand


def judged(hand):
    desk = hand.window.desk
    hand.qtbot.waitUntil(lambda: desk.study is not None and desk.study.figure is desk.figure, timeout=20_000)
    return {f.id.removeprefix("wiring."): f for f in desk.study.findings if f.rule == "wiring"}


def test_from_no_board_to_all_plugged_in_a_clash_and_back(bench):
    hand, desk = bench, bench.window.desk
    view = hand.window.benches["power"].wiring
    before = desk.figure
    assert "No boards yet" in painted(view)
    for kind, name in (
        ("8-bit, ATmega328P", "Controller"),
        ("pulse generator, 16", "Pulse generator"),
        ("power rail", "Power rail"),
    ):
        hand.choose(hand.choice("Add a board"), kind)
        assert desk.subject.kind == "board" and desk.figure.boards[-1].name == name
        for label, text in (("Ahead", "-40"), ("Up", "60")):
            hand.click(hand.field(label))
            hand.fill(text)
        assert desk.figure.boards[-1].at_mm == (-40.0, 0.0, 60.0)
        hand.click(hand.tag("All of the wiring"))
    assert judged(hand)["open"].verdict == "not yet judged"
    hand.click(hand.tag("Plug everything in"))
    assert not not_plugged(desk.figure) and clashes(desk.figure) == ()
    assert judged(hand)["open"].verdict == "holds"
    assert "Pulse generator" in painted(view.table) and "wires" in painted(view.crossed)
    # a servo to another pin, with wires that are too short
    _, two = [plug for plug in desk.figure.plugs if plug.of == "drive"][:2]
    number = next(wire.number for wire in view.found if wire.plug == two.id)
    row = next(row for row in view.table.rows if row.key == ("wire", number))
    hand.press(view.table, row)
    assert desk.subject == Ref("plug", two.id)
    hand.choose(hand.choice("Signal, white"), "pin 15")
    assert next(p for p in desk.figure.plugs if p.id == two.id).pin("signal") == "15"
    hand.click(hand.field("Long, as they lie"))
    hand.fill("20")
    found = judged(hand)[f"{two.id}.reach"]
    assert found.verdict == "fails"
    hand.click(hand.field("Long, as they lie"))
    hand.fill("")
    assert next(p for p in desk.figure.plugs if p.id == two.id).along_mm is None
    hand.click(hand.tag("Pull it out"))
    assert two.id not in {plug.id for plug in desk.figure.plugs} and desk.subject.kind == "figure"
    while desk.figure != before:
        hand.ctrl(Qt.Key.Key_Z)
    assert desk.figure == before and "No boards yet" in painted(view)


def test_a_second_controller_is_let_follow_and_is_let_go(bench):
    """Two controllers by the card, the second let follow, its address, where it hangs, all undone."""
    hand, desk = bench, bench.window.desk
    before = desk.figure
    for _ in range(2):
        hand.choose(hand.choice("Add a board"), "8-bit, ATmega328P")
        hand.click(hand.tag("All of the wiring"))
    first, second = desk.figure.boards
    assert "Controller 2" in judged(hand)["open"].sentence.text
    desk.select(Ref("board", second.id))
    hand.qtbot.wait(20)
    hand.click(hand.tag(f"Let it follow {first.name}"))
    assert [board.id for board in followers(desk.figure)] == [second.id] and desk.subject.kind == "plug"
    assert clashes(desk.figure) == () and judged(hand)[f"{second.id}.bus_level"].verdict == "holds"
    hand.click(hand.tag("To Controller"))
    desk.select(Ref("board", second.id))
    hand.qtbot.wait(20)
    hand.click(hand.field("Its address"))
    hand.fill("80")
    assert desk.figure.boards[1].address == 80
    assert "bus, data" in painted(hand.window.benches["power"].wiring.pegs)
    for _ in range(20):
        if desk.figure == before:
            break
        hand.ctrl(Qt.Key.Key_Z)
    assert desk.figure == before


def test_pegs_rows_and_keys_take_the_same_thing_in_hand(open_window, qtbot):
    hand = Hand(open_window(Session.from_template(lamplighter_path())), qtbot)
    desk = hand.window.desk
    hand.alt(Qt.Key.Key_7)
    desk.feed("wiring")
    view = hand.window.benches["power"].wiring
    pegs = view.pegs
    k = next(k for k, (pin, _) in enumerate(pegs.shown) if pin == "3")
    right, y = pegs._place(k)
    hand.click(pegs, QPoint(pegs.width() - 60 if right else 60, round(y)))
    lantern = next(plug for plug in desk.figure.plugs if plug.of == "light")
    assert desk.subject == Ref("plug", lantern.id)
    number = view.at[1]
    view.table.setFocus()
    hand.key(Qt.Key.Key_Down)
    assert view.at == ("wire", number + 1) and desk.subject == Ref(
        "plug", lantern.id
    )  # its next wire, not stuck on the first
    for _ in range(3):
        hand.key(Qt.Key.Key_Down)
    assert desk.subject != Ref("plug", lantern.id)
    hand.choose(hand.window.benches["power"].shows, "the current")
    desk.select(Ref())
    assert not view.isVisible() and hand.window.benches["power"].chart.isVisible()
    desk.select(Ref("plug", lantern.id))
    assert view.isVisible()  # what is plugged in is on the wiring


def test_the_wiring_and_a_board_are_found_by_name(open_window, qtbot):
    window = open_window(Session.from_template(lamplighter_path()))
    desk = window.desk
    assert carry_out(window, "wiring") == ""
    assert desk.bench == "power" and window.benches["power"].wired
    assert carry_out(window, "controller") == ""
    assert desk.subject == Ref("board", "controller")


def test_what_a_board_notices_is_noticed_by_what_lives(open_window, qtbot):
    """The stand-in says of itself that an input changed, as firmware does; by the pin it is the sensor that is plugged in there."""
    window = open_window(Session.from_template(lamplighter_path()))
    desk, board = window.desk, window.desk.board
    desk.turn_to("rehearse")
    board.start_stand_in()
    qtbot.waitUntil(lambda: board.state == "joined", timeout=10_000)
    desk.living.set_count(0)
    desk.living.run()
    pin = next(plug.pin("signal") for plug in desk.figure.plugs if plug.item == "left")
    board.press(pin, 100)
    qtbot.waitUntil(lambda: desk.living.engine is not None and desk.living.engine.level("left") == 100.0, timeout=5_000)
    board.press(pin, 0)
    qtbot.waitUntil(lambda: desk.living.engine.level("left") == 0.0, timeout=5_000)
    assert any("Sensor left: 100 %" in text for _, _, text in board.events)
    board.press("13", 100)  # another sensor, not the same
    qtbot.waitUntil(lambda: desk.living.engine.level("right") == 100.0, timeout=5_000)
    board.press("0", 100)
    qtbot.waitUntil(lambda: any("no input is plugged in there" in text for _, _, text in board.events), timeout=5_000)
    board.press("x", 400)
    qtbot.waitUntil(lambda: any("refused" in text for _, _, text in board.events), timeout=5_000)
    assert board.joined
    desk.living.stop()
