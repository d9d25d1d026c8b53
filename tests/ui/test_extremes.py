"""Extremes typed into every field of every bench: a sentence or a finding, never a fault, and one step of undo at most."""

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest

from karakuri.files.text import from_text, to_text
from karakuri.model.edit import Edit, Set, apply
from karakuri.model.edits import allow_ballast
from karakuri.model.element import Anchor, Coil, Cord, Elastic, Linear, Pull, Spring, Torsion
from karakuri.model.fastening import HookLoop, MagnetFace
from karakuri.model.joint import Move
from karakuri.model.moves import Row
from karakuri.model.picture import Picture
from karakuri.model.ref import Ref
from karakuri.model.rod import Rod
from karakuri.session.session import Session
from karakuri.units import METRIC
from karakuri.workbench.widgets.items import Write, WriteText
from tests.figures import scored

PAGES = (("figure", Ref()), ("figure", Ref("part", "skull")), ("figure", Ref("joint", "tilt")),
         ("balance", Ref("joint", "tilt")), ("limits", Ref("joint", "tilt")), ("score", Ref()), ("score", Ref("channel", "nod")),
         ("score", Ref("move", "nod", 0)), ("balance", Ref("element", "spring")), ("balance", Ref("element", "coil")),
         ("balance", Ref("element", "cord")), ("balance", Ref("element", "line")), ("balance", Ref("rod", "stick")), ("drive", Ref("drive", "own")),
         ("balance", Ref("element", "ram")), ("balance", Ref("fastening", "face")), ("balance", Ref("fastening", "loop")), ("balance", Ref("wearer")),
         ("figure", Ref("picture", "sketch")))  # fmt: skip
EXTREMES = (
    "0",
    "-1",
    "1e308",
    "9999999999",
    "0.000001",
    "nan",
    "inf",
    "",
    "9" * 5000,
    "(" * 300 + "1" + ")" * 300,
    "1/0",
    "10^99",
    "−0",
    "1e-320",
)


def with_elements(figure):
    """With a spring whose rate comes from its wire, one about the joint, and a cord that was measured."""
    way = {"ends": (Anchor(at_mm=(-40.0, 0.0, 60.0)), Anchor(rides_on="tilt", at_mm=(-40.0, 0.0, 130.0)))}
    spring = Spring(id="spring", name="spring", **way, free_mm=40.0, coil=Coil(wire_mm=0.8, outer_mm=7.0, turns=20.0))
    cord = Elastic(id="cord", name="cord", **way, free_mm=50.0, pulls=(Pull(length_mm=70.0, weight_g=300.0),))
    coil = Torsion(id="coil", name="coil", joint="tilt", rate_Nm_per_deg=0.01)
    line = Cord(id="line", name="line", **way, pulled_mm=10.0, pulled_N=5.0)
    ram = Linear(id="ram", name="ram", **way, short_mm=50.0, stroke_mm=40.0)
    return apply(figure, Edit("x", (Set(("elements",), (spring, cord, coil, line, ram)),)))


def with_more(figure, subject):
    """With a rod; or with two pulls that tell what it rubs with, and a loop of one's own on its drive, which is then in hand."""
    if subject.kind == "rod":
        rod = Rod(id="stick", name="stick", carries=("tilt",), held="socket", bore_mm=2.0)
        return apply(figure, Edit("x", (Set(("rods",), (rod,)),))), subject
    if subject.kind in ("fastening", "wearer", "picture"):
        shared = {"carries": ("skull",), "rides_on": "tilt"}
        made = (MagnetFace(id="face", name="face", **shared), HookLoop(id="loop", name="loop", **shared))
        sketch = Picture(id="sketch", name="sketch", file="sketch.png")
        steps = (Set(("fastenings",), made), Set(("base", "held"), "worn"), Set(("pictures",), (sketch,)))
        return apply(figure, Edit("x", steps)), subject
    if subject.kind != "drive":
        return figure, subject
    drag = {"kind": "pulled", "up_g": 200.0, "down_g": 100.0}
    steps = (Set(("joints", "tilt", "drag"), drag), Set(("drives", figure.drives[0].id, "loop"), {}))
    return apply(figure, Edit("x", steps)), Ref("joint", "tilt")


@pytest.mark.parametrize(("bench", "subject"), PAGES, ids=lambda v: v if isinstance(v, str) else v.kind or "whole")
def test_extremes_in_every_field(bench, subject, open_window, qtbot, monkeypatch):
    monkeypatch.setattr("karakuri.study.answers.wanted", lambda findings: [])
    figure = scored(Row(0.5, 0.5, 20.0), Row(1.5, 0.5, 0.0), move=Move(by=20.0, time_s=0.5), stops_deg=(-40.0, 40.0))
    figure = apply(figure, allow_ballast(figure, "tilt"))
    if subject.kind == "element":
        figure = with_elements(figure)
    figure, subject = with_more(figure, subject)
    window = open_window(Session(apply(figure, Edit("x", (Set(("joints", "tilt", "rests_deg"), (-5.0, 5.0)),)))))
    desk, body = window.desk, window.card.body
    desk.select(subject)
    desk.turn_to(bench)
    qtbot.wait(5)
    whole = desk.figure
    keys = [(type(item), item.key) for item in body.page.items if isinstance(item, Write | WriteText)]
    assert keys
    for kind, key in keys:
        for text in EXTREMES:
            item = next(i for i in body.page.items if isinstance(i, kind) and i.key == key)
            field = body.editor_of(item)
            steps = len(desk.session.history._done)
            field.setFocus()
            field.setText(text)
            QTest.keyClick(field, Qt.Key.Key_Return)
            qtbot.wait(1)
            if desk.figure == whole:
                QTest.keyClick(field, Qt.Key.Key_Escape)
            else:
                assert len(desk.session.history._done) <= steps + 1
                assert from_text(to_text(desk.figure)) == desk.figure and desk.study.figure is desk.figure
                assert all(f.sentence.show(METRIC).isprintable() for f in desk.study.findings)
                if key.startswith("rec "):
                    whole = desk.figure
                    continue
                desk.undo()
            assert desk.figure == whole, (key, text[:20])
            desk.select(subject)
            qtbot.wait(1)
