"""Every ruled field and every choice of every card: writing it is one named edit, undo takes it back, nonsense is refused."""

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest

from karakuri.demo import owl_path
from karakuri.model.behaviour import Input
from karakuri.model.behaviour_edits import change
from karakuri.model.edit import Add, Edit, apply
from karakuri.model.edits import ballast_edit
from karakuri.model.finding import Derivation, Finding, Sentence
from karakuri.model.joint import Joint
from karakuri.model.ref import Ref
from karakuri.model.steering import Keyed
from karakuri.model.steering_edits import add_grip, change_steering, first_steering
from karakuri.session.session import Session
from karakuri.units import ALL_UNITS, Quantity
from karakuri.workbench.routes import bench_of
from karakuri.workbench.widgets.field import QuantityField
from karakuri.workbench.widgets.items import Block, Calc, Do, Fact, Head, Note, Page, Pick, Write, WriteText
from tests.ui.hand import Hand, painted

PAGES = (
    ("figure", Ref()), ("figure", Ref("part", "face_disc")), ("figure", Ref("part", "driver_box")), ("figure", Ref("part", "speaker")),
    ("figure", Ref("joint", "neck_tilt")), ("figure", Ref("joint", "lift")), ("drive", Ref("joint", "neck_roll")), ("balance", Ref("joint", "neck_tilt")),
    ("limits", Ref("joint", "beak")), ("score", Ref()), ("score", Ref("channel", "beak_channel")),
    ("score", Ref("move", "neck_tilt_channel", 4)), ("score", Ref("pose", "hoot")), ("score", Ref("pin", "reading_at_7")),
    ("by hand", Ref()), ("by hand", Ref("grip", "grip_neck_pan_channel")), ("by hand", Ref("grip", "grip_keys")), ("by hand", Ref("grip", "grip_expressions")), ("by hand", Ref("input", "knob_of_neck_pan")),
    ("by hand", Ref("grip", "grip_wheels")), ("score", Ref("channel", "left_wheel")),
)  # fmt: skip
ONE_WAY = {"permitted"}  # a typical value has no number until one is written


def session() -> Session:
    """The owl with a joint that slides, so that its fields are walked too."""
    opened = Session.from_template(owl_path())
    lift = Joint(
        id="lift", name="Lift", kind="slide", axis=(0.0, 0.0, 1.0), rides_on="neck_roll", at_mm=(0.0, 0.0, 300.0)
    )
    opened.figure = apply(opened.figure, Edit("lift", (Add("joints", lift),)))
    opened.figure = apply(opened.figure, first_steering(opened.figure))
    keys = tuple(Input(id=f"key_{way}", name=f"Key {way}") for way in ("up", "down"))
    by = Keyed(id="grip_keys", name="Keys", up="key_up", down="key_down", channel="lamp")
    opened.figure = apply(opened.figure, change(opened.figure, "keys", inputs=(*opened.figure.behaviour.inputs, *keys)))
    opened.figure = apply(opened.figure, add_grip(opened.figure, "expressions")[0])
    opened.figure = apply(opened.figure, add_grip(opened.figure, "wheels")[0])
    opened.figure = apply(
        opened.figure, change_steering(opened.figure, "keys", grips=(*opened.figure.steering.grips, by))
    )
    opened.figure = apply(opened.figure, ballast_edit(opened.figure, opened.figure.ballast_sites[0], 50.0))
    return opened


@pytest.fixture
def quiet(open_window, monkeypatch):
    """A window whose studies offer no remedies: here only the fields count."""
    monkeypatch.setattr("karakuri.study.answers.wanted", lambda findings: [])
    return open_window(session())


def show(desk, bench):
    """A bench, or what the Rehearse bench shows."""
    if bench == "by hand":
        desk.rehearse("hand")
    desk.turn_to("rehearse" if bench == "by hand" else bench)


def take_back(desk):
    """Undo, without judging again what was judged before."""
    ask, desk.worker.ask = desk.worker.ask, lambda *order: None
    try:
        desk.undo()
    finally:
        desk.worker.ask = ask


@pytest.fixture
def hasty(quiet, monkeypatch):
    """A window that judges as for a hand that drags: here the cards count, and every choice is judged whole elsewhere."""
    ask = quiet.desk.worker.ask
    monkeypatch.setattr(quiet.desk.worker, "ask", lambda number, figure, quick, heard: ask(number, figure, True, heard))
    monkeypatch.setattr(quiet.desk._settle, "start", lambda: None)
    return quiet


@pytest.mark.parametrize(("bench", "subject"), PAGES, ids=lambda v: v if isinstance(v, str) else v.id or "whole")
def test_every_field_is_one_named_undoable_edit(bench, subject, hasty, qtbot):
    window, desk = hasty, hasty.desk
    hand = Hand(window, qtbot)
    desk.select(subject)
    show(desk, bench)
    qtbot.wait(5)
    keys = [
        (type(item), item.key)
        for item in window.card.body.page.items
        if isinstance(item, (Write, WriteText)) and not item.key.startswith("look")
    ]  # where it is to look is the view's
    assert len(keys) >= 2
    for kind, key in keys:
        item = next(i for i in window.card.body.page.items if isinstance(i, kind) and i.key == key)
        field = window.card.body.editor_of(item)
        before, names = desk.figure, len(desk.session.history._done)
        hand.reveal(field)
        QTest.mouseClick(field, Qt.MouseButton.LeftButton)
        if kind is WriteText:
            hand.fill(f"{item.text} too")
        else:
            hand.fill(
                "3"
                if field.text().strip("0.") in ("", "1") and key != "scale"
                else f"{field.text()} × {0.99 if key == 'arr' else 0.9}"
            )
        qtbot.wait(2)
        assert desk.figure != before, (key, window.note.text)
        if key.startswith("rec "):  # measured, not planned: it goes into the record, which undo leaves alone
            assert len(desk.figure.record) == len(before.record) + 1
            continue
        assert len(desk.session.history._done) == names + 1, key
        assert desk.session.history.undo_name
        take_back(desk)
        qtbot.wait(2)
        assert desk.figure == before, key


@pytest.mark.parametrize(("bench", "subject"), PAGES, ids=lambda v: v if isinstance(v, str) else v.id or "whole")
def test_every_choice_can_be_taken_and_taken_back(bench, subject, hasty, qtbot):
    window, desk = hasty, hasty.desk
    desk.select(subject)
    show(desk, bench)
    qtbot.wait(5)
    whole = desk.figure
    for item in [i for i in window.card.body.page.items if isinstance(i, Pick)]:
        assert item.value and len(item.options) > 1
        for key, _ in item.options:
            now = next(i for i in window.card.body.page.items if isinstance(i, Pick) and i.key == item.key)
            before = desk.figure
            now.done(key)
            qtbot.wait(1)
            if desk.figure != before:
                assert window.desk.study.figure == desk.figure
                take_back(desk)
            assert desk.figure == before == whole
            desk.select(subject)
            qtbot.wait(1)


@pytest.mark.parametrize(("bench", "subject"), PAGES[:7], ids=lambda v: v if isinstance(v, str) else v.id or "whole")
def test_nonsense_in_any_number_changes_nothing_and_says_what_was_wanted(bench, subject, quiet, qtbot):
    window, desk = quiet, quiet.desk
    hand = Hand(window, qtbot)
    desk.select(subject)
    show(desk, bench)
    qtbot.wait(5)
    for item in [i for i in window.card.body.page.items if isinstance(i, Write)][:6]:
        field = window.card.body.editor_of(item)
        assert isinstance(field, QuantityField)
        before = desk.figure
        QTest.mouseClick(field, Qt.MouseButton.LeftButton)
        hand.fill("12 parsecs per fortnight")
        qtbot.wait(1)
        assert desk.figure is before
        assert "Esc puts that back" in window.card.body.trouble[item.key]
        field.setFocus()
        QTest.keyClick(field, Qt.Key.Key_Escape)
        assert field.text() == field.kept


def test_each_deed_of_the_cards_does_something(quiet, qtbot):
    window, desk = quiet, quiet.desk
    done = set()
    for bench, subject in PAGES:
        desk.select(subject)
        show(desk, bench)
        qtbot.wait(5)
        for item in [i for i in window.card.body.page.items if isinstance(i, Do)]:
            if (
                item.label in done
                or item.why_not
                or item.label.startswith(
                    (
                        "Step",
                        "Export",
                        "Take frames",
                        "Take servos",
                        "Write my drawer",
                        "Lay a picture",
                        "Put a sound",
                        "Take its shape",
                        "How large",
                        "Solve this",
                        "Find the best",
                        "What still goes in",
                    )
                )
            ):
                continue
            desk.set_pose("neck_pan", 0.1)
            before, place, pose, window.note.text = desk.figure, desk.bench, desk.pose, ""
            item.done()
            qtbot.wait(1)
            changed = desk.figure != before or desk.bench != place or desk.subject != subject or desk.pose != pose
            assert changed or window.note.text or desk.marking, item.label  # what is refused is said
            desk.mark(None)
            done.add(item.label)
            while desk.session.undo():
                pass
            desk.after_edit()
            desk.select(subject)
            show(desk, bench)
            qtbot.wait(2)
    assert {
        "Add a posture",
        "Allow ballast somewhere",
        "Twin on the other side",
        "No move wanted",
        "Stops not measured after all",
    } <= done


def test_items_say_what_they_are_asked_to_say(quiet, qtbot):
    """Each kind of item painted alone: block, calc, fact, note, head."""
    window, desk = quiet, quiet.desk
    q = Quantity(1.5, "torque")
    failing = Finding(
        "x", "hold", Ref(), "fails", Sentence("s"), reserve=0.5, decides=Sentence("Weigh it: ± {0}.", (q,))
    )
    waiting = Finding("y", "hold", Ref(), "not yet judged", Sentence("s"), measure=Sentence("mass of f unknown"))
    items = (Block("a", failing), Block("b", waiting), Block("c", None), Head("d", "Head"), Note("e", "A note."), Fact("f", "Fact", "12", "mm", "from a ruler"),
             Calc("g", Derivation("Needs", "{0} × {1}", (q, Quantity(2.0, "ratio")), Quantity(3.0, "torque"))))  # fmt: skip
    for units in ALL_UNITS:
        desk.set_units(units.name)
        window.card.body.show_page(Page("Title", "subtitle", items, ("test",)))
        window.card.body.repaint()
        words = painted(window.card.body)
        for wanted in (
            "fails",
            "0.50",
            "needs 2.00 times what it has",
            "Weigh it",
            "mass of f unknown",
            "nothing to judge here yet",
            "Head",
            "A note.",
            "12",
            "from a ruler",
        ):
            assert wanted in words
        assert units.unit("torque").label in words


def test_the_new_page_refuses_what_cannot_stand(open_window, qtbot):
    window = open_window(None)
    hand = Hand(window, qtbot)
    start = window.benches["start"]
    for label, text in (("Foot, deep", "0"), ("Voltage", "0")):
        start.reset()
        window.desk.turned.emit()
        hand.click(hand.field(label))
        hand.fill(text)
        hand.click(hand.tag("Make this figure"))
        assert window.desk.bench == "start" and "not done" in window.note.text
    start.reset()
    window.desk.turned.emit()
    hand.click(hand.field("Also leans by"))
    hand.fill("20")
    hand.choose(hand.choice("State"), "shell on")
    hand.click(hand.tag("Make this figure"))
    assert [p.lean_deg for p in window.desk.figure.postures] == [0.0, 20.0]
    assert window.desk.figure.assumptions.growth_percent == 10.0


def test_strip_scrolls_and_rows_open_their_bench(open_window, qtbot):
    window = open_window()
    hand = Hand(window, qtbot)
    listed = window.strip.listed()
    assert len(listed) > window.strip.visible_rows()
    for i in range(len(listed) + 1):
        hand.key(Qt.Key.Key_F)
        row = next(r for r in window.strip.rows if r.hasFocus())
        assert row.finding.id == listed[i % len(listed)].id and window.desk.bench == bench_of(row.finding)
    hand.key(Qt.Key.Key_F, Qt.KeyboardModifier.ShiftModifier)
    assert next(r for r in window.strip.rows if r.hasFocus()).finding.id == listed[-1].id


def test_what_moves_a_joint_is_set_in_the_window(quiet, qtbot):
    window, desk = quiet, quiet.desk
    hand = Hand(window, qtbot)
    before = desk.figure
    desk.select(Ref("joint", "eye_right_pan"))
    qtbot.wait(5)
    hand.choose(hand.choice("Moved by"), "another joint")
    qtbot.wait(5)
    assert desk.figure.joint("eye_right_pan").follows.joint == "eye_left_pan"  # the likest
    hand.choose(hand.choice("follows"), "Neck pan")
    hand.choose(hand.choice("follows"), "Eye pan, left")
    hand.click(hand.field("° for each ° of it"))
    hand.fill("-1")
    hand.click(hand.field("and always ahead by"))
    hand.fill("2")
    joint = desk.figure.joint("eye_right_pan")
    assert (joint.role, joint.follows.joint, joint.follows.ratio, joint.follows.offset_deg) == (
        "follows",
        "eye_left_pan",
        -1.0,
        2.0,
    )
    assert "neck_tilt" in dict(hand.choice("follows").item.options)
    assert "eye_right_pan" not in dict(hand.choice("follows").item.options)
    desk.select(Ref("joint", "eye_left_pan"))
    qtbot.wait(2)
    hand.choose(hand.choice("Moved by"), "another joint")
    assert "eye_right_pan" not in dict(hand.choice("follows").item.options)  # it would follow itself
    while desk.figure != before:
        desk.undo()


def test_where_a_joint_rests_and_how_its_move_is_made_are_set_in_the_window(quiet, qtbot):
    window, desk = quiet, quiet.desk
    hand = Hand(window, qtbot)
    desk.select(Ref("joint", "neck_tilt"))
    qtbot.wait(5)
    hand.choose(hand.choice("made"), "trapezoid")
    assert desk.figure.joint("neck_tilt").move.profile == "trapezoid"
    hand.click(hand.field("in"))
    hand.fill("0.9")
    assert desk.figure.joint("neck_tilt").move.profile == "trapezoid"  # kept by what is written next to it
    tight = desk.finding("hold", "neck_tilt").reserve
    desk.turn_to("limits")
    qtbot.wait(2)
    hand.click(hand.field("Stands for long, nose-down"))
    hand.fill("5")
    hand.wait_judged()
    assert desk.figure.joint("neck_tilt").rests_deg == (-25.0, 5.0)
    assert desk.finding("hold", "neck_tilt").reserve > tight
    hand.click(next(t for t in window.card.body.editors.values() if getattr(t, "label", "").startswith("It may stand")))
    assert desk.figure.joint("neck_tilt").rests_deg is None


def test_a_figure_that_is_worn_is_not_judged_as_if_it_stood(quiet, qtbot):
    window, desk = quiet, quiet.desk
    hand = Hand(window, qtbot)
    desk.select(Ref())
    qtbot.wait(5)
    hand.choose(hand.choice("and there it"), "is worn")
    hand.wait_judged()
    assert desk.figure.base.held == "worn" and desk.finding("tipping") is None
    desk.select(Ref("part", "speaker"))
    qtbot.wait(2)
    assert "may move it" in hand.choice("Remedies").accessibleName()
    hand.choose(hand.choice("Remedies"), "leave it")
    assert desk.figure.part("speaker").fixed is True
