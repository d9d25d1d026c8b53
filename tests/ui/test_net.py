"""What nobody foresaw is caught, the figure is kept aside at once, the person is told and goes on."""

import sys
import threading
from itertools import product

import pytest
from PyQt6.QtCore import QTimer

from karakuri.checks.rules import RULES
from karakuri.model.edits import set_field
from karakuri.model.ref import FIGURE, Ref
from karakuri.session.places import state_folder
from karakuri.workbench.marks import GLYPHS
from karakuri.workbench.net import MOST_TOLD, Net
from karakuri.workbench.routes import BENCH_OF_RULE, BENCHES


@pytest.fixture
def caught(open_window, monkeypatch, capsys):
    window = open_window()
    for hook in ((sys, "excepthook"), (threading, "excepthook")):
        monkeypatch.setattr(*hook, getattr(*hook))
    net = Net(window)
    yield window, net
    capsys.readouterr()


def fault(kind=RuntimeError, text="boom"):
    try:
        raise kind(text)
    except kind:
        return sys.exc_info()


def test_a_fault_keeps_the_figure_and_says_what_was_being_done(caught):
    window, net = caught
    desk = window.desk
    desk.edit(set_field(desk.figure, "parts", "yoke", ("mass_g",), 91.0, "mass"))
    net.caught(*fault())
    assert "carrying out “mass of yoke”" in window.note.text and "A copy of what you made is kept" in window.note.text
    kept = desk.session.kept_at
    assert kept is not None and "91.0" in kept.read_text()
    assert "boom" in (state_folder() / "faults.txt").read_text()
    desk.undo()
    assert desk.figure.part("yoke").mass_g != 91.0


def test_the_same_fault_is_told_once_and_never_more_than_a_few(caught):
    window, net = caught
    told = []
    window.desk.said.connect(told.append)
    one = fault()
    for _ in range(5):
        net.caught(*one)
    assert len(told) == 1
    for n in range(50):
        net.caught(*fault(type(f"Fault{n}", (Exception,), {})))
    assert len(told) <= MOST_TOLD


def test_a_fault_in_a_slot_or_a_thread_goes_into_the_net(caught, qtbot):
    window, net = caught
    net.spread()
    told = []
    window.desk.said.connect(told.append)
    QTimer.singleShot(0, lambda: 1 / 0)
    qtbot.waitUntil(lambda: any("ZeroDivisionError" in text for text in told))
    thread = threading.Thread(target=lambda: {}["gone"])
    thread.start()
    thread.join()
    qtbot.waitUntil(lambda: any("KeyError" in text for text in told))


def test_what_is_in_hand_is_there_whatever_was_pressed(open_window, qtbot, monkeypatch):
    """A servo's weighing, a move in hand on another bench, a thing that undo took away: each is shown or let go, never looked for."""
    window = open_window()
    desk = window.desk
    monkeypatch.setattr(desk.worker, "ask", lambda *order: None)  # what is pressed is the matter, not what is found
    figure = desk.figure
    refs = [FIGURE, Ref("part", "gone"), Ref("joint", "gone"), Ref("drive", figure.drives[0].id), Ref("drive", "gone"), Ref("pin", "gone"),
            Ref("part", figure.parts[0].id), Ref("joint", figure.joints[0].id), Ref("move", "beak_channel", 3), Ref("move", "beak_channel", 999),
            Ref("channel", "beak_channel"), Ref("channel", "gone"), Ref("pose", figure.poses[0].id), Ref("pin", figure.score.pins[0].id),
            Ref("ballast_site", figure.ballast_sites[0].id), Ref("supply"), Ref("score")]  # fmt: skip
    making = window.making
    makings = ((making.joint, making.twin), (making.part, making.remove), (making.twin, making.remove))
    for i, (bench, ref) in enumerate(product(("figure", "drive", "balance", "limits", "score"), refs)):
        desk.turn_to(bench)
        desk.select(ref)
        qtbot.wait(1)
        for act in makings[i % len(makings)]:
            desk.select(ref)
            act()
            qtbot.wait(1)
        for _ in range(3):
            desk.select(ref)
            desk.undo()
        qtbot.wait(1)
    assert desk.figure.parts == figure.parts


def test_every_bench_has_its_module_and_glyph_and_every_rule_its_bench(open_window):
    """The table of benches is the only one."""
    window = open_window()
    assert {rule.id for rule in RULES} <= set(BENCH_OF_RULE) and sum(map(len, BENCHES.values())) == len(BENCH_OF_RULE)
    assert set(BENCHES) <= set(GLYPHS) and [b.bench for b in window.rail.buttons] == list(BENCHES)
    for bench in BENCHES:
        window.to_bench(bench)
        assert (
            type(window.benches[bench]).__name__ == f"{bench.capitalize()}Bench" and window.benches[bench].isVisible()
        )
