"""A worn head by mouse and keyboard: who wears it, what holds its horns on, an actuator, and a picture traced over."""

import pytest
from PyQt6.QtCore import QPoint, QPointF, Qt
from PyQt6.QtGui import QColor, QImage
from PyQt6.QtTest import QTest

from karakuri.demo import walrus_path
from karakuri.model.drawn import pieces
from karakuri.model.edit import Edit, Set
from karakuri.model.element import anchors
from karakuri.model.ref import Ref
from karakuri.session.session import Session
from karakuri.workbench.benches.picture_page import lay
from karakuri.workbench.stage.elevation import Elevation
from karakuri.workbench.widgets.find import carry_out
from tests.figures import head
from tests.ui.hand import Hand, painted
from tests.ui.walk import walk


def item(window, key):
    return next(i for i in window.card.body.page.items if i.key == key)


@pytest.fixture
def walrus(open_window, qtbot):
    window = open_window(Session.from_template(walrus_path()))
    window.desk.turn_to("balance")
    qtbot.wait(10)
    return window


def test_who_wears_it_is_chosen_written_and_taken_back(walrus, qtbot):
    desk, hand = walrus.desk, Hand(walrus, qtbot)
    desk.select(Ref("wearer"))
    qtbot.wait(10)
    before = desk.finding("worn")
    assert before.verdict == "fails" and "who wears it" in painted(walrus.benches["balance"].masses)
    item(walrus, "by").done("shoulders")
    qtbot.wait(10)
    assert desk.figure.base.worn.by == "shoulders" and desk.finding("worn").reserve > before.reserve
    item(walrus, "pitch").done(0.2)
    qtbot.wait(10)
    assert desk.figure.base.worn.pitch_deg == pytest.approx(11.459, abs=0.01)
    item(walrus, "ears2").done(0.08)
    qtbot.wait(10)
    assert desk.figure.base.worn.ears_mm == (-32.0, 0.0, 80.0)
    item(walrus, "head bowing").done(0.6)
    qtbot.wait(10)
    for _ in range(4):
        hand.ctrl(Qt.Key.Key_Z)
    assert desk.finding("worn").reserve == pytest.approx(before.reserve)
    assert any("Left to the head" in getattr(i, "text", "") for i in walrus.card.body.page.items)


def test_a_press_on_the_dashed_person_takes_them_in_hand(walrus, qtbot):
    drawing = walrus.benches["balance"].front
    drawing.repaint()
    areas = [path for ref, path, _ in drawing.view.hits if ref == Ref("wearer")]
    foot = areas[0].boundingRect()
    at = QPoint(int(foot.center().x() + foot.width() * 0.4), min(int(foot.top() + 40), drawing.height() - 4))
    QTest.mouseClick(drawing, Qt.MouseButton.LeftButton, pos=at)
    assert walrus.desk.subject == Ref("wearer")


def test_a_figure_that_is_set_on_a_head_asks_who_wears_it(open_window, qtbot):
    window = open_window(Session(head()))
    desk = window.desk
    assert all(i.key != "wearer" for i in window.card.body.page.items)
    item(window, "held").done("worn")
    qtbot.wait(10)
    item(window, "wearer").done()
    qtbot.wait(10)
    assert desk.bench == "balance" and desk.subject == Ref("wearer")
    item(window, "bends").done()
    qtbot.wait(10)
    assert [p.name for p in desk.figure.postures][-4:] == ["upright", "bowing", "crouching", "looking up"]
    assert desk.finding("worn") is not None and desk.finding("tipping") is None
    desk.undo()
    desk.undo()
    assert desk.finding("worn") is None and desk.finding("tipping") is not None


def test_something_is_held_on_moved_and_let_go(walrus, qtbot):
    desk, hand = walrus.desk, Hand(walrus, qtbot)
    desk.select(Ref("part", "cap"))
    qtbot.wait(10)
    item(walrus, "add fastening").done()
    qtbot.wait(10)
    made = desk.figure.fastenings[-1]
    assert desk.subject == Ref("fastening", made.id) and made.carries == ("cap",)
    drawing = walrus.benches["balance"].side
    drawing.setFocus()
    hand.key(Qt.Key.Key_Up)
    qtbot.wait(500)  # a moment after the last step the hand counts as taken off
    assert desk.figure.fastenings[-1].at_mm[2] == made.at_mm[2] + 1.0
    item(walrus, "kind").done("hook and loop")
    qtbot.wait(10)
    item(walrus, "long_mm").done(0.1)
    qtbot.wait(10)
    assert desk.figure.fastenings[-1].long_mm == 100.0 and desk.finding("fastened", made.id) is not None
    item(walrus, "remove").done()
    qtbot.wait(10)
    assert len(desk.figure.fastenings) == 1
    hand.ctrl(Qt.Key.Key_Z)
    assert len(desk.figure.fastenings) == 2


def test_a_picture_is_laid_marked_and_traced_over(open_window, qtbot, tmp_path):
    path = tmp_path / "sketch.png"
    image = QImage(400, 300, QImage.Format.Format_RGB32)
    image.fill(QColor("#88aacc"))
    image.save(str(path))
    window = open_window(Session(head()))
    desk, hand = window.desk, Hand(window, qtbot)
    lay(desk, "side", path)
    qtbot.wait(10)
    picture = desk.figure.pictures[0]
    assert desk.subject == Ref("picture", picture.id) and picture.mm_per_px == pytest.approx(1.0)
    drawing = window.benches["figure"].side
    item(window, "mark").done()
    for x, y in ((80, 120), (180, 120)):
        QTest.mouseClick(drawing, Qt.MouseButton.LeftButton, pos=QPoint(x, y))
    assert desk.marking is None
    item(window, "length").done(0.2)
    qtbot.wait(10)
    marked = desk.figure.pictures[0]
    assert marked.length_mm == 200.0 and marked.from_px != picture.from_px
    first, second = (marked.place(*each) for each in (marked.from_px, marked.to_px))
    assert second[0] - first[0] == pytest.approx(200.0, abs=0.1)
    desk.select(Ref("part", "skull"))
    qtbot.wait(10)
    item(window, "trace side").done()
    corners = ((120, 100), (170, 100), (170, 150), (120, 150))
    for x, y in corners:
        QTest.mouseClick(drawing, Qt.MouseButton.LeftButton, pos=QPoint(x, y))
    hand.key(Qt.Key.Key_Backspace)
    QTest.mouseClick(drawing, Qt.MouseButton.LeftButton, pos=QPoint(118, 152))
    QTest.mouseClick(drawing, Qt.MouseButton.LeftButton, pos=QPoint(121, 101))
    qtbot.wait(10)
    drawn = desk.figure.part("skull").drawn
    assert desk.marking is None and len(drawn) == 1 and len(pieces(drawn[0].path)) == 5
    assert walk(window) == []
    hand.ctrl(Qt.Key.Key_Z)
    assert desk.figure.part("skull").drawn == ()
    item(window, "trace side").done()
    QTest.mouseClick(drawing, Qt.MouseButton.LeftButton, pos=QPoint(120, 100))
    hand.key(Qt.Key.Key_Return)  # one corner is no outline
    assert desk.figure.part("skull").drawn == () and desk.marking is None
    item(window, "trace side").done()
    hand.key(Qt.Key.Key_Escape)
    assert desk.marking is None
    path.unlink()
    desk.edit(Edit("x", (Set(("pictures", picture.id, "file"), "gone.png"),)))
    drawing.repaint()
    assert "cannot be read" in painted(drawing)
    said = []
    desk.said.connect(said.append)
    lay(desk, "front", tmp_path / "nothing.txt")
    assert len(desk.figure.pictures) == 1 and "no picture that can be read" in said[-1]


@pytest.mark.parametrize("scale", [1.0, 1.5])
def test_cards_of_what_is_worn_and_held(scale, walrus, qtbot):
    desk = walrus.desk
    desk.set_scale(scale)
    walrus.card_out = True
    walrus.lay()
    for ref in (Ref("wearer"), Ref("fastening", "horn_magnets"), Ref("part", "pads"), Ref("element", "chin_cord")):
        desk.select(ref)
        for bench in ("balance", "figure", "drive"):
            desk.turn_to(bench)
            for posture in ("upright", "bowing"):
                desk.set_posture(posture)
                qtbot.wait(10)
                assert walk(walrus) == [], (ref, bench, posture)


def test_find_or_do_lays_a_picture(open_window, qtbot, tmp_path, monkeypatch):
    path = tmp_path / "front.png"
    image = QImage(60, 90, QImage.Format.Format_RGB32)
    image.fill(QColor("#446688"))
    image.save(str(path))
    monkeypatch.setattr("karakuri.workbench.exports.picture_to_lay", lambda session, parent: path)
    window = open_window(Session(head()))
    assert carry_out(window, "lay a picture behind the front elevation") == ""
    qtbot.wait(20)
    assert window.desk.figure.pictures[0].view == "front"
    item(window, "remove").done()
    assert not window.desk.figure.pictures
    monkeypatch.setattr(window.filing, "may_leave", lambda: True)
    assert carry_out(window, "demo walrus") == "" and window.desk.figure.name == "Walrus ferryman"


def test_drive_shows_a_mechanism_close_with_all_of_its_sweep(walrus, qtbot):
    desk = walrus.desk
    desk.turn_to("drive")
    desk.select(Ref("element", "chin_cord"))
    side = next(each for each in walrus.findChildren(Elevation) if each.isVisible())
    qtbot.waitUntil(lambda: side.view.scene is not None)
    scene = side.view.scene
    k = next(i for i, it in enumerate(scene.figure.elements) if it.id == "chin_cord")
    swept = scene.sweep(k)
    places = [side.view.to_screen(scene.room @ point) for place in swept.T for point in place.T]
    assert all(0 < x < side.width() and 0 < y < side.height() for x, y in places)
    assert max(y for _, y in places) - min(y for _, y in places) > side.height() / 6
    assert abs(swept[:, :, 0] - swept[:, :, -1]).max() > 0.01  # its end on the jaw goes along
    before, hand = desk.figure, Hand(walrus, qtbot)
    pulley = side.view.to_screen(scene.room @ scene.strung[k].points[1])
    hand.drag(side, QPointF(*pulley), QPointF(24, 0))
    moved = [a != b for a, b in zip(anchors(before.elements[k]), anchors(desk.figure.elements[k]), strict=True)]
    assert moved == [False, True, False]
    hand.ctrl(Qt.Key.Key_Z)
    assert desk.figure.elements[k] == before.elements[k]
    desk.select(Ref("joint", "whiskers"))
    assert not side.isVisible()
