"""From New to a verdict, a drag, a remedy, undo, save and a crash, with mouse and keyboard in the real window, in at most 60 actions."""

from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtWidgets import QFileDialog

from karakuri.files.disk import load
from karakuri.model.ref import Ref
from karakuri.session import copies
from karakuri.session.session import Session
from karakuri.units import METRIC
from tests.ui.hand import Hand, painted

PARTS = (
    ("skull shell", "620", "4", "210"),
    ("face", "210", "92", "200"),
    ("speaker", "330", "14", "160"),
    ("eyes", "144", "86", "212"),
    ("beak", "110", "104", "165"),
)


def test_a_builder_sets_down_a_head_and_sees_it_hold(open_window, qtbot, tmp_path, monkeypatch):
    window = open_window(None, in_place=False)
    hand = Hand(window, qtbot)
    desk = window.desk

    # New: name it, make it
    hand.click(hand.field("Name"))
    hand.fill("Lamplighter")
    hand.click(hand.tag("Make this figure"))
    assert desk.bench == "figure" and desk.figure.name == "Lamplighter"

    # two joints: a shake, and a nod on it
    hand.ctrl(Qt.Key.Key_J)
    hand.fill("Neck pan")
    hand.choose(hand.choice("Motion"), "shakes")
    hand.click(hand.field("Pivot above"))
    hand.fill("80")
    hand.ctrl(Qt.Key.Key_J)
    hand.fill("Neck tilt")
    hand.click(hand.field("Pivot above"))
    hand.fill("110")
    assert [(j.name, j.rides_on) for j in desk.figure.joints] == [("Neck pan", "base"), ("Neck tilt", "joint_1")]

    # five parts; what each weighs is a guess until its card says how it is known
    for name, grams, ahead, above in PARTS:
        hand.key(Qt.Key.Key_Insert)
        for text in (name, grams, ahead, above):
            hand.fill(text)
    assert [(p.name, p.mass_g, p.at_mm[0], p.at_mm[2], p.mass_origin) for p in desk.figure.parts] == [
        (n, float(g), float(a), float(u), "guess") for n, g, a, u in PARTS
    ]

    # the servo from the drawer, on both
    hand.alt(Qt.Key.Key_2)
    hand.choose(hand.choice("Class"), "class 10")
    hand.choose(window.benches["drive"].joint, "Neck pan")
    hand.choose(hand.choice("Class"), "class 10")
    hand.wait_judged()
    finding = desk.finding("hold", "joint_2")
    assert finding.verdict == "fails"

    # read why, with the numbers filled in
    row = next(r for r in window.strip.rows if r.isVisible() and r.finding.id == "hold.joint_2")
    hand.click(row)
    assert desk.subject == Ref("joint", "joint_2")
    assert finding.sentence.show(METRIC).split(":")[0].split(" drops")[0].split(" cannot")[0] == "Neck tilt"
    qtbot.wait(20)
    card = painted(window.card.body)
    assert "carried ×" in card and "× 9.8" in card and "fails" in card and "times what it has" in card

    # drag a part and watch the finding change
    hand.alt(Qt.Key.Key_1)
    side = window.benches["figure"].side
    side.repaint()
    seen = []
    start = QPointF(*side.screen_of("part", "part_1"))
    hand.drag(side, start, QPointF(-40, 0), during=lambda: seen.append(desk.finding("hold", "joint_2").reserve))
    qtbot.waitUntil(lambda: desk.finding("hold", "joint_2").reserve > finding.reserve)
    hand.wait_judged()
    assert desk.figure.part("part_1").at_mm[0] < 4.0 and desk.session.history.undo_name == "move skull shell"
    dragged = desk.finding("hold", "joint_2").reserve
    assert dragged > finding.reserve

    # take a remedy, see it hold, undo, and have it again
    qtbot.waitUntil(lambda: any(t.remedy.label.text.startswith("Fit class") for t in hand.remedies()), timeout=15000)
    remedy = next(t for t in hand.remedies() if t.remedy.label.text.startswith("Fit class"))
    promised = remedy.remedy
    hand.click(remedy)
    hand.wait_judged()
    now = desk.finding("hold", "joint_2")
    assert now.verdict == promised.verdict in ("holds", "tight")
    assert abs(now.reserve - promised.reserve) < 1e-6
    hand.ctrl(Qt.Key.Key_Z)
    hand.wait_judged()
    assert desk.finding("hold", "joint_2").reserve == dragged
    hand.ctrl(Qt.Key.Key_Y)

    # save, and find it again after a crash
    target = tmp_path / "lamplighter.karakuri"
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *a, **k: (str(target), ""))
    hand.ctrl(Qt.Key.Key_S)
    qtbot.waitUntil(lambda: target.exists() and not desk.session.dirty)
    assert load(target) == desk.figure
    hand.key(Qt.Key.Key_Insert)
    hand.fill("a late thought")
    lost = desk.figure
    assert desk.session.keep_copy()  # what the timer does; then the process dies without closing anything
    copies.closed(desk.session._ident)
    desk.close()

    again = open_window(Session.open(target), in_place=True)
    again.recovery.offer()
    assert again.note.isVisible()
    second = Hand(again, qtbot)
    second.click(again.note.ok)
    assert again.desk.figure == lost
    total = hand.actions + second.actions
    print(f"\n{total} user actions")
    assert total <= 60
