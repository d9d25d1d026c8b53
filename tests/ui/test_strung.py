"""Springs and their like by mouse and keyboard: added, taken hold of by their ends, measured, taken away, undone."""

import numpy as np
import pytest
from PyQt6.QtCore import QPointF, Qt

from karakuri.model.edit import Edit, Set
from karakuri.model.element_edits import add_element
from karakuri.model.joint import Joint
from karakuri.model.part import Part
from karakuri.model.ref import Ref
from karakuri.session.session import Session
from karakuri.units import METRIC
from tests.figures import head
from tests.ui.hand import Hand, painted


@pytest.fixture
def bench(open_window, qtbot):
    window = open_window(Session(head()))
    window.desk.select(Ref("joint", "tilt"))
    window.desk.turn_to("balance")
    qtbot.wait(10)
    return window


def item(window, key):
    return next(i for i in window.card.body.page.items if i.key == key)


def test_a_spring_is_added_and_its_end_dragged(bench, qtbot):
    desk, hand = bench.desk, Hand(bench, qtbot)
    item(bench, "add element").done("spring")
    qtbot.wait(5)
    assert desk.subject == Ref("element", desk.figure.elements[0].id)
    need = desk.study.results.of("tilt").hold.need
    drawing = bench.benches["balance"].side
    drawing.repaint()
    hit = next(h for h in drawing.view.hits if h[0] == Ref("element", desk.figure.elements[0].id, 1))
    start, steps = hit[1].boundingRect().center(), len(desk.session.history._done)
    seen = []
    hand.drag(
        drawing, QPointF(start), QPointF(-40.0, -10.0), lambda: seen.append(desk.study.results.of("tilt").hold.need)
    )
    moved = desk.figure.elements[0].ends[1].at_mm
    assert moved[0] < -40.0 and len(desk.session.history._done) == steps + 1
    assert len(set(seen)) > 1 and desk.study.results.of("tilt").hold.need != need
    hand.ctrl(Qt.Key.Key_Z)
    assert desk.figure.elements[0].ends[1].at_mm == (-40.0, 0.0, 120.0)
    hand.ctrl(Qt.Key.Key_Z)
    assert not desk.figure.elements and desk.subject.kind != "element"


def test_arrows_move_an_end_and_delete_takes_the_spring_away(bench, qtbot):
    desk, hand = bench.desk, Hand(bench, qtbot)
    item(bench, "add element").done("elastic")
    ident = desk.figure.elements[0].id
    desk.select(Ref("element", ident, 0))
    drawing = bench.benches["balance"].side
    drawing.setFocus()
    before = desk.figure.elements[0].ends[0].at_mm
    hand.key(Qt.Key.Key_Right)
    hand.key(Qt.Key.Key_Up, Qt.KeyboardModifier.ShiftModifier)
    after = desk.figure.elements[0].ends[0].at_mm
    assert np.subtract(after, before) == pytest.approx([1.0, 0.0, 10.0])
    bench.making.remove()
    assert not desk.figure.elements


def test_a_rate_comes_from_a_ruler_and_a_scale(bench, qtbot):
    desk = bench.desk
    item(bench, "add element").done("spring")
    qtbot.wait(5)
    item(bench, "pull").done()
    qtbot.wait(5)
    spring = desk.figure.elements[0]
    assert spring.rate_N_per_mm is None and len(spring.pulls) == 1
    item(bench, "length_mm 0").done(0.050)
    qtbot.wait(5)
    shown = item(bench, "strength").derivation.show(METRIC).replace("\u00a0", " ")
    assert "0.1 kg" in shown and "50 mm" in shown and shown.endswith("N/mm")
    assert "may be off by 5 %" in painted(bench.card.body)


def test_the_list_beside_the_drawing_has_every_spring(bench, qtbot):
    desk = bench.desk
    for kind in ("spring", "torsion", "pad"):
        desk.edit(lambda kind=kind: add_element(desk.figure, kind, "tilt"))
    qtbot.wait(5)
    keys = [row.key for row in bench.benches["balance"].masses.rows]
    assert [Ref("element", e.id) for e in desk.figure.elements] == [
        k for k in keys if isinstance(k, Ref) and k.kind == "element"
    ]
    bench.benches["balance"].masses.picked.emit(Ref("element", desk.figure.elements[2].id))
    assert desk.subject.id == desk.figure.elements[2].id


def test_what_hangs_is_drawn_where_it_comes_to_rest(open_window, qtbot):
    """A bell on the head hangs straight while the head is turned, and snaps with it where a spring makes it."""
    figure = head()
    bell = Joint(id="bell", name="Bell", rides_on="tilt", role="free", at_mm=(60.0, 0.0, 150.0))
    clapper = Part(id="clapper", name="clapper", rides_on="bell", mass_g=50.0, at_mm=(60.0, 0.0, 120.0))
    figure = type(figure)(**(dict(figure) | {"joints": (*figure.joints, bell), "parts": (*figure.parts, clapper)}))
    window = open_window(Session(figure))
    desk = window.desk
    for degrees in (-20.0, 10.0, 25.0):
        desk.set_pose("tilt", np.radians(degrees))
        tree, q = desk.pose_array()
        assert q[tree.index("bell")] == pytest.approx(-np.radians(degrees), abs=1e-9)
    desk.edit(Edit("lean", (Set(("postures", "level", "lean_deg"), 10.0),)))
    tree, q = desk.pose_array()
    assert q[tree.index("bell")] == pytest.approx(-np.radians(35.0), abs=1e-9)


def test_a_rod_is_added_dragged_by_its_foot_thickened_and_taken_away(bench, qtbot):
    desk, hand = bench.desk, Hand(bench, qtbot)
    item(bench, "add rod").done()
    qtbot.wait(10)
    rod = desk.figure.rods[0]
    assert desk.subject == Ref("rod", rod.id) and desk.joint_in_hand() == "tilt" and rod.carries == ("tilt",)
    drawing = bench.benches["balance"].side
    drawing.repaint()
    hit = next(h for h in drawing.view.hits if h[0] == Ref("rod", rod.id, 0))
    hand.drag(drawing, QPointF(hit[1].boundingRect().center()), QPointF(-30.0, 0.0))
    assert desk.figure.rods[0].at_mm[0] < 0
    before = desk.finding("rods", rod.id).reserve
    item(bench, "thick_mm").done(0.012)
    qtbot.wait(10)
    assert desk.figure.rods[0].thick_mm == 12.0 and desk.finding("rods", rod.id).reserve > before
    assert rod.name in painted(bench.benches["balance"].masses)
    item(bench, "held").done("socket")
    qtbot.wait(10)
    item(bench, "depth_mm").done(0.04)
    qtbot.wait(10)
    assert desk.figure.rods[0].depth_mm == 40.0
    item(bench, "remove").done()
    qtbot.wait(10)
    assert not desk.figure.rods and desk.subject.kind != "rod"
    hand.ctrl(Qt.Key.Key_Z)
    assert desk.figure.rods[0].depth_mm == 40.0
