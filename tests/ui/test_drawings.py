"""Drawings are to scale and true: elevations in mm, angles in degrees, points where the numbers say, colours readable."""

import math

import numpy as np
import pytest
from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtGui import QColor, QImage, QPainter

from karakuri.model.edit import Edit, Set
from karakuri.model.ref import Ref, name_of
from karakuri.session.session import Session
from karakuri.workbench.kit import Kit, wrapped
from karakuri.workbench.marks import tumbler
from karakuri.workbench.theme import DAY, REGION, VERDICT, Look
from tests.figures import head
from tests.ui.hand import Hand, painted
from tests.ui.walk import contrast


def test_elevations_are_to_scale_and_say_so(open_window):
    window = open_window()
    for bench in ("figure", "balance"):
        window.desk.turn_to(bench)
        for drawing in (window.benches[bench].side, window.benches[bench].front):
            drawing.repaint()
            assert drawing.view.k == pytest.approx(1e3 * 96 / 25.4 / drawing.view.scale)
            assert f"scale 1 : {drawing.view.scale:g}" in painted(drawing)
            path = next(h[1] for h in drawing.view.hits if h[0].id == "plinth")
            wide = 224 if drawing.view.name == "side" else 240
            assert path.boundingRect().width() == pytest.approx(wide / 1e3 * drawing.view.k, rel=1e-6)
            assert path.boundingRect().height() == pytest.approx(36 / 1e3 * drawing.view.k, rel=1e-6)


def test_posed_and_leaning_drawings_turn_by_true_angles(open_window):
    window = open_window()
    desk, side = window.desk, window.benches["figure"].side
    side.repaint()

    def direction() -> float:
        (x0, y0), (x1, y1) = side.screen_of("joint", "neck_tilt"), side.screen_of("part", "speaker")
        return math.degrees(math.atan2(x1 - x0, y0 - y1))

    rest = direction()
    desk.set_pose("neck_tilt", math.radians(25))
    assert direction() - rest == pytest.approx(25.0, abs=1e-6)
    desk.set_posture("lectern")
    assert direction() - rest == pytest.approx(33.0, abs=1e-6)
    front = window.benches["figure"].front
    assert front.screen_of("part", "eyeball_left")[0] > front.screen_of("part", "eyeball_right")[0]


def test_the_fan_is_at_true_angles_and_its_edge_follows_the_hand(open_window, qtbot):
    window = open_window()
    hand = Hand(window, qtbot)
    window.desk.select(Ref("joint", "neck_tilt"))
    window.desk.turn_to("limits")
    fan = window.benches["limits"].fan
    fan.repaint()
    r = sum(fan.radius) / 2
    start = QPointF(fan.cx + r * math.sin(math.radians(30)), fan.cy - r * math.cos(math.radians(30)))
    end = QPointF(fan.cx + r * math.sin(math.radians(20)), fan.cy - r * math.cos(math.radians(20)))
    hand.drag(fan, start, end - start)
    assert window.desk.figure.joint("neck_tilt").range_deg == (-25.0, 20.0)
    assert window.desk.session.history.undo_name.startswith("wanted range")
    window.desk.undo()
    assert window.desk.figure.joint("neck_tilt").range_deg == (-25.0, 30.0)


def test_the_moment_curve_plots_gravitys_side_and_the_pose_follows_a_press(open_window, qtbot):
    window = open_window()
    hand = Hand(window, qtbot)
    window.desk.select(Ref("joint", "neck_tilt"))
    window.desk.turn_to("balance")
    curve = window.benches["balance"].curve
    curve.repaint()
    angles, pull = curve._curve(window.desk.figure, "neck_tilt")
    r = window.desk.study.results.of("neck_tilt")
    assert pull[-1] > 0 and "the nose falls" in painted(curve)
    window.desk.set_posture("lectern")
    angles, pull = curve._curve(window.desk.figure, "neck_tilt")
    assert max(abs(pull)) <= r.hold.need * (1 + 1e-9)
    x0, x1 = curve.gx
    hand.drag(curve, QPointF((x0 + x1) / 2, 60), QPointF((x1 - x0) / 4, 0))
    middle, quarter = np.interp([0.5, 0.75], [0, 1], [angles[0], angles[-1]])
    assert window.desk.pose["neck_tilt"] == pytest.approx(quarter, abs=math.radians(1.5)) and quarter > middle
    assert "stalls at" in painted(curve) and "may be held for long" in painted(curve) and "lets go at" in painted(curve)


def test_points_of_the_drive_picture_differ_by_shape_and_say_what_they_are(open_window, qtbot):
    window = open_window(Session(head(300.0, servo="class_25", move=None)))
    window.desk.select(Ref("joint", "tilt"))
    window.desk.turn_to("drive")
    plot = window.benches["drive"].plot
    plot.repaint()
    assert "worst hold" in painted(plot) and "fitted" in painted(plot)
    window.desk.edit(Edit("no servo", (Set(("drives",), ()),)))
    plot.repaint()
    assert "worst hold" in painted(plot) and "fitted" not in painted(plot)
    assert "no servo yet" in painted(window.benches["drive"])


def test_tumblers_differ_without_colour(qapp):
    """Four verdicts in one grey: every pair differs in at least a tenth of the inked pixels."""
    pictures = {}
    grey = Look({name: "#333333" for name in DAY} | {"card": "#FFFFFF"})
    for verdict in VERDICT:
        image = QImage(40, 40, QImage.Format.Format_RGB32)
        image.fill(QColor("#FFFFFF"))
        painter = QPainter(image)
        tumbler(Kit(painter, grey), 20, 20, 24, verdict)
        painter.end()
        bits = np.frombuffer(image.constBits().asarray(image.sizeInBytes()), dtype=np.uint32).reshape(40, 40).copy()
        pictures[verdict] = (bits & 0xFF) < 160
    names = list(pictures)
    for i, a in enumerate(names):
        assert pictures[a].sum() > 20
        for b in names[:i]:
            assert (pictures[a] ^ pictures[b]).sum() > 0.1 * max(pictures[a].sum(), pictures[b].sum()), (a, b)


def test_the_palette_can_be_read():
    """WCAG 2.x: 4.5:1 for text on every ground it may stand on."""
    grounds = {
        "ink": ("paper", "card", "desk", "sel"),
        "ink2": ("paper", "card", "desk"),
        "ink3": ("paper", "card"),
        "indigo": ("paper", "card", "desk", "sel"),
    }
    grounds |= {ink: ("paper", "card") for ink, _ in REGION.values()}
    for ink, tint in VERDICT.values():
        grounds[ink] = (*grounds.get(ink, ("paper", "card")), tint)
    for ink, places in grounds.items():
        for ground in places:
            assert contrast(QColor(DAY[ink]), QColor(DAY[ground])) >= 4.5, (ink, ground)


@pytest.mark.parametrize("width", [60, 120, 400])
def test_wrapping_keeps_numbers_with_their_units(qapp, width):
    lines = wrapped(Look(DAY), "needs 1.92 N·m; 1.10 N·m may be held for long, at 38 mm × cos 38°", width, 13)
    assert " ".join(lines).replace("\u00a0", " ") == "needs 1.92 N·m; 1.10 N·m may be held for long, at 38 mm × cos 38°"
    assert not any(line.startswith(("N·m", "mm")) or line.endswith(("1.92", "1.10", "cos")) for line in lines)


def test_previews_are_dashed_named_and_gone_again(open_window, qtbot):
    window = open_window()
    desk, side = window.desk, window.benches["figure"].side
    before = desk.figure
    desk.set_preview(
        Edit("move speaker", (Set(("parts", "speaker", "at_mm"), (-60.0, 0.0, 262.0)),)), "Move speaker 40 mm back"
    )
    side.repaint()
    assert "Move speaker 40 mm back" in painted(side) and desk.figure is before
    desk.set_preview(None)
    side.repaint()
    assert "Move speaker" not in painted(side)
    desk.set_preview(Edit("bad", (Set(("parts", "speaker", "mass_g"), -1.0),)))
    assert desk.preview is None


def test_the_list_and_the_drawing_are_one(open_window, qtbot):
    window = open_window()
    hand = Hand(window, qtbot)
    ledger, side = window.benches["figure"].ledger, window.benches["figure"].side
    ledger.setFocus()
    hand.key(Qt.Key.Key_Home)
    for _ in range(5):
        hand.key(Qt.Key.Key_Down)
    held = window.desk.subject
    assert held.kind in ("part", "joint") and name_of(window.desk.figure, held) in side.accessibleName()
    y, tall = ledger.rect_of(Ref("part", "speaker"))
    hand.drag(ledger, QPointF(40, y + tall / 2), QPointF(0, 0))
    assert window.desk.subject == Ref("part", "speaker")
    assert "speaker" in side.accessibleName() and "speaker" in ledger.accessibleName()
    hand.key(Qt.Key.Key_W)
    assert hand.field("Mass").hasFocus()


def test_the_low_end_is_told_at_the_left_of_the_fan_and_the_high_end_at_the_right(open_window, qtbot):
    """Stops, the servo's travel and the wanted range, each beside its own end."""
    window = open_window()
    window.desk.select(Ref("joint", "neck_tilt"))
    window.desk.turn_to("limits")
    fan = window.benches["limits"].fan
    fan.repaint()
    told = {p.text: p.rect.center().x() < fan.cx for p in fan.painted}
    for kind, low, high in (
        ("hard stop", "−30°", "46°"),
        ("servo travel", "−132.5°", "137.5°"),
        ("wanted", "nose-up −25°", "nose-down 30°"),
    ):
        assert told[f"{kind} {low}"] and not told[f"{kind} {high}"], kind
