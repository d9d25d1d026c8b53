"""Sizes by the real window: scaled in whole and in part and undone, how large it may get, a sheet by its area, a printed shell."""

import pytest

from karakuri.model.ref import FIGURE, Ref
from karakuri.session.session import Session
from tests.figures import head
from tests.ui.hand import Hand, painted


@pytest.fixture
def at_figure(open_window, qtbot):
    window = open_window(Session(head(mass_g=120.0)))
    hand = Hand(window, qtbot)
    window.desk.turn_to("figure")
    window.desk.select(FIGURE)
    hand.wait_judged()
    return window, hand


def fill(hand, label, text):
    hand.field(label).setFocus()
    hand.fill(text)


def test_the_whole_is_scaled_and_undone(at_figure):
    window, hand = at_figure
    before = window.desk.figure
    fill(hand, "Scale to, of what it is", "120")
    assert window.desk.figure.parts[0].at_mm == (24.0, 0.0, 180.0)
    fill(hand, "Scale to, of what it is", "5")  # too small: a sentence, nothing lost
    assert window.desk.figure.parts[0].at_mm == (24.0, 0.0, 180.0)
    window.desk.undo()
    assert window.desk.figure == before
    hand.choose(hand.choice("Of"), "what rides on Tilt")
    fill(hand, "Scale to, of what it is", "200")
    assert window.desk.figure.parts[0].at_mm == (40.0, 0.0, 200.0)  # about the pivot, 100 mm up
    assert window.desk.figure.parts[1] == before.parts[1]


def test_how_large_it_may_get_is_looked_for_and_taken(at_figure, qtbot):
    window, hand = at_figure
    seeker = window.desk.seeker
    seeker.seek_largest("")
    qtbot.waitUntil(lambda: seeker.under_way is None and seeker.sought(("largest", "")), timeout=30000)
    found = seeker.found(("largest", ""))
    assert found is not None and found.percent > 0
    hand.wait_judged()
    assert any(getattr(e, "label", "").startswith("How large") for e in window.card.body.editors.values())


def test_a_sheet_and_a_printed_shell_weigh_by_what_they_are(at_figure):
    window, hand = at_figure
    desk = window.desk
    desk.select(Ref("part", "skull"))
    hand.wait_judged()
    hand.choose(hand.choice("Shape"), "sheet")
    fill(hand, "All its pieces", "2000")
    fill(hand, "Glue and paint, dried", "80")
    shape = desk.figure.part("skull").shape
    assert (shape.kind, shape.area_cm2, shape.glue_gpm2) == ("sheet", 2000.0, 80.0)
    hand.choose(hand.choice("Shape"), "box")
    fill(hand, "Wall, 0 is solid", "1.2")
    fill(hand, "Printed, filled by", "15")
    assert (desk.figure.part("skull").shape.wall_mm, desk.figure.part("skull").shape.infill) == (1.2, 0.15)
    hand.choose(hand.choice("How known"), "slicer")
    assert desk.figure.part("skull").mass_origin == "slicer"


def test_a_mesh_gives_a_part_its_shape_and_its_unit_is_chosen(at_figure, qtbot, tmp_path):
    import trimesh

    window, hand = at_figure
    desk = window.desk
    trimesh.creation.box(extents=(0.2, 0.1, 0.15)).export(tmp_path / "head.stl")
    said = []
    desk.said.connect(said.append)
    assert not window.exports.take_mesh_from(tmp_path / "head.stl") and "part in hand" in said[-1]
    desk.select(Ref("part", "skull"))
    hand.wait_judged()
    before = desk.figure
    assert window.exports.take_mesh_from(tmp_path / "head.stl")
    qtbot.waitUntil(lambda: desk.figure.part("skull").shape.kind == "mesh", timeout=20000)
    assert window.note.ok.width() >= window.note.ok.sizeHint().width()  # after a question with a shorter answer
    assert desk.figure.part("skull").shape.unit_mm == 1000.0 and "200 × 100 × 150 mm" in said[-1]
    hand.wait_judged()
    hand.choose(hand.choice("One unit of the file is"), "an inch")
    assert desk.figure.part("skull").shape.unit_mm == 25.4
    desk.undo()
    desk.undo()
    assert desk.figure == before
    (tmp_path / "bad.stl").write_bytes(b"nothing of it")
    window.exports.take_mesh_from(tmp_path / "bad.stl")
    qtbot.waitUntil(lambda: "bad.stl was not taken" in said[-1], timeout=20000)
    assert desk.figure == before


def test_what_cures_on_what_is_looked_up(at_figure):
    window, hand = at_figure
    body = window.card.body
    assert "stops the cure" in painted(body) and "test patch" in painted(body)
    hand.choose(hand.choice("Put on wet"), "tin silicone")
    window.grab()
    assert window.desk.meeting == ("tin", "sulphur_clay")
    hand.choose(hand.choice("On"), "polyethylene")
    window.grab()
    assert "not known" in painted(window.card.body)
