"""Power in the real window: asked for, fed, written, its faults told and mended from the strip, undone."""

import pytest
from PyQt6.QtCore import Qt

from karakuri.checks.contract import POWER
from karakuri.demo import demo_path
from karakuri.model.edit import Edit, Set
from karakuri.model.ref import Ref
from karakuri.session.session import Session
from karakuri.units import Quantity
from tests.ui.hand import Hand, painted


@pytest.fixture
def bench(open_window, qtbot):
    window = open_window()
    hand = Hand(window, qtbot)
    hand.alt(Qt.Key.Key_7)
    qtbot.wait(10)
    return hand


def judged(hand):
    desk = hand.window.desk
    hand.qtbot.waitUntil(lambda: desk.study is not None and desk.study.figure is desk.figure, timeout=20_000)
    return {f.id.removeprefix("power."): f for f in desk.study.findings if f.rule == "power"}


def test_asked_fed_written_and_taken_back(bench):
    hand, desk = bench, bench.window.desk
    power = hand.window.benches["power"]
    assert desk.bench == "power" and "Nothing is asked of power yet" in painted(power.chart)
    hand.click(hand.tag("Ask how long it lasts"))
    assert desk.figure.power is not None and all(load.guess for load in desk.figure.power.loads)
    assert {load.channel for load in desk.figure.power.loads} - {None} == {c.id for c in desk.figure.score.channels if not c.joints}  # fmt: skip
    told = judged(hand)
    assert set(told) == {"peak", "volts", "wire"} and "Guessed: Controller" in told["peak"].sentence.text
    hand.choose(hand.choice("Fed by"), "lithium polymer")
    told = judged(hand)
    assert told["fuse"].verdict == "fails" and "full" in told
    hand.choose(hand.choice("Converter"), "steps down")
    told = judged(hand)
    assert "full" not in told and told["hours"].verdict == "fails"
    hand.click(hand.field("Printed, mAh"))
    hand.fill("9000")
    assert desk.figure.power.cells.capacity_mAh == 9000.0
    hand.click(hand.field("Printed, mAh"))
    hand.fill("0")
    assert desk.figure.power.cells.capacity_mAh == 9000.0  # refused with a sentence, what was written stays
    hand.key(Qt.Key.Key_Escape)
    hand.click(hand.field("Fuse"))
    hand.fill("3")
    told = judged(hand)
    assert told["hours"].verdict == "holds" and told["fuse"].verdict in ("holds", "tight")
    hand.click(hand.field("Fuse"))
    hand.fill("")
    assert desk.figure.power.fuse_A is None
    power.chart.repaint(), power.race.repaint()
    peak = desk.show(Quantity(judged(hand) and desk.study.results[POWER].least.peak, "current", rounding="up"))
    assert f"peak {peak} at".replace("\u00a0", " ") in painted(power.chart)
    assert "2 cells" in painted(power.race) and "converter" in painted(power.race)
    for _ in range(6):
        hand.ctrl(Qt.Key.Key_Z)
    assert desk.figure.power is None


def test_a_load_is_taken_in_hand_measured_and_removed(bench):
    hand, desk = bench, bench.window.desk
    hand.click(hand.tag("Ask how long it lasts"))
    judged(hand)
    power = hand.window.benches["power"]
    row = next(r for r in power.table.rows if r.key == Ref("load", "controller"))
    assert "Controller" in row.name
    servos = next(r for r in power.table.rows if r.name.startswith("servos"))
    before = desk.subject
    hand.press(power.table, servos)  # a region of servos has no card here
    assert desk.subject == before
    hand.press(power.table, row)
    hand.qtbot.wait(20)
    assert desk.subject == row.key
    hand.click(hand.field("Draws at most"))
    hand.fill("0.4")
    load = next(each for each in desk.figure.power.loads if each.id == "controller")
    assert load.amps == pytest.approx(0.4) and not load.guess
    hand.click(hand.tag("Remove Controller"))
    told = judged(hand)
    assert told["peak"].verdict == "not yet judged" and "its controller" in told["peak"].sentence.text
    hand.ctrl(Qt.Key.Key_Z)
    assert judged(hand)["peak"].verdict == "holds"


def test_a_light_that_goes_leaves_its_load_always_on(bench):
    from karakuri.model.score_edits import remove_channel

    hand, desk = bench, bench.window.desk
    hand.click(hand.tag("Ask how long it lasts"))
    lamp = next(c for c in desk.figure.score.channels if c.kind == "light")
    desk.edit(lambda: remove_channel(desk.figure, lamp))
    assert lamp.id not in {c.id for c in desk.figure.score.channels}
    assert next(each for each in desk.figure.power.loads if each.name == lamp.name).channel is None


@pytest.mark.parametrize("scale", [1.0, 1.5])
def test_the_race_the_clock_and_the_caution(open_window, qtbot, scale):
    """Of the lamplighter: servos hang at the volts they get, hours stand beside what is left; the caution is there however little room there is."""
    window = open_window(Session.from_template(demo_path("lamplighter")), size=(1280, 800))
    desk = window.desk
    desk.set_scale(scale)
    desk.turn_to("power")
    hand = Hand(window, qtbot)
    judged(hand)
    power = window.benches["power"]
    power.repaint(), power.race.repaint(), power.clock.repaint()
    found = desk.study.results[POWER]
    least = min(each.least for each in found.at_servos)
    assert f"{int(least * 100) / 100:.2f}" in power.race.accessibleName().replace("\u00a0", " ")
    assert "never charged in the figure" in painted(power) and "efore you reach in" in painted(power)
    race = painted(power.race)
    assert "2 cells" in race and "fuse 5 A" in race and "converter, 90 %" in race and "controller may restart" in race
    if scale == 1.0:
        assert "Head nod" in race and power.clock.isVisible()
        hours = desk.show(Quantity(found.most.hours * 3600.0, "hours", rounding="down")).replace("\u00a0", " ")
        clock = painted(power.clock)
        assert (
            f"lasts {hours}" in clock
            and "the show ends, 4.0 h" in clock
            and "lost: cold 10 %, age 6 %" in clock
            and "17 % stays in them" in clock
        )
    else:
        assert not power.clock.isVisible()
    for box in (each.rect for each in power.race.painted):
        assert box.right() <= power.race.width() + 1 and box.left() >= -1
    desk.edit(Edit("no cells", (Set(("power", "cells"), None), Set(("power", "converter"), None))))
    judged(hand)
    assert not power.clock.isVisible()
