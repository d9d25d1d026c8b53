"""Every view at 100 % and 150 % text: nothing clipped, overlapping, under 11 px, under 4.5:1, nameless or out of Tab's reach."""

import pytest

from karakuri.bodies.shapes import reshaped
from karakuri.catalogue import steppers
from karakuri.checks.symptoms import SYMPTOMS
from karakuri.demo import demo_path
from karakuri.model.board_edits import add_board
from karakuri.model.chain_edits import KINDS as CHAINS
from karakuri.model.chain_edits import add_chain
from karakuri.model.edits import fit_servo, set_field
from karakuri.model.element_edits import KINDS, add_element
from karakuri.model.order_edits import add_doing, related
from karakuri.model.ref import FIGURE, Ref
from karakuri.model.rod_edits import add_rod, set_rod
from karakuri.model.sound_edits import list_lines
from karakuri.model.steering_edits import add_grip, first_steering
from karakuri.model.transmission_edits import WORDS, set_bevel, set_holes, set_number, set_pair, set_transmission
from karakuri.session.session import Session
from karakuri.workbench.kit import Kit
from tests.ui.walk import walk

VIEWS = ("figure", "drive", "balance", "limits", "fit", "score", "rehearse", "start")


def turn(window, view, scale, qtbot):
    window.desk.set_scale(scale)
    window.desk.turn_to(view)
    if view not in ("start", "figure"):
        window.desk.select(Ref("joint", "neck_tilt"))
    qtbot.wait(30)


def read_with_its_card(window, qtbot) -> None:
    """All is read as it stands, and the card once it lies over the view."""
    qtbot.wait(10)
    assert walk(window) == []
    window.card_out = True
    window.lay()
    qtbot.wait(10)
    assert [f for f in walk(window) if "in Card" in f] == []


@pytest.mark.parametrize("scale", [1.0, 1.25, 1.5])
@pytest.mark.parametrize("view", VIEWS)
def test_nothing_is_hard_to_read_or_to_reach(view, scale, open_window, qtbot):
    window = open_window()
    turn(window, view, scale, qtbot)
    assert walk(window) == []
    if window.overlapping():
        window.toggle_card()
        qtbot.wait(20)
        assert [f for f in walk(window) if "in Card" in f] == []


@pytest.mark.parametrize(
    ("kind", "ident"), [("part", "face_disc"), ("part", "tufts"), ("joint", "neck_roll"), ("joint", "eye_left_pan")]
)
def test_cards_of_parts_and_joints(kind, ident, open_window, qtbot):
    window = open_window()
    window.desk.select(Ref(kind, ident))
    for scale in (1.0, 1.5):
        window.desk.set_scale(scale)
        window.card_out = True
        window.lay()
        for units in ("metric", "kg·cm", "inch"):
            window.desk.set_units(units)
            for view in ("figure", "drive", "limits") if kind == "joint" else ("figure",):
                window.desk.turn_to(view)
                qtbot.wait(10)
                assert [f for f in walk(window) if "Card" in f or "field" in f or "Fan" in f or "Torque" in f] == [], (
                    view,
                    units,
                )


@pytest.mark.parametrize("kind", sorted(KINDS))
@pytest.mark.parametrize("scale", [1.0, 1.5])
def test_cards_and_drawings_of_elements(kind, scale, open_window, qtbot):
    window = open_window()
    desk = window.desk
    desk.edit(lambda: add_element(desk.figure, kind, "neck_tilt"))
    desk.select(Ref("element", desk.figure.elements[0].id))
    desk.set_scale(scale)
    window.card_out = True
    window.lay()
    for view in ("balance", "figure"):
        desk.turn_to(view)
        qtbot.wait(10)
        assert walk(window) == [], view


@pytest.mark.parametrize("scale", [1.0, 1.5])
def test_cards_of_rods_drag_own_loops_and_what_is_seen(scale, open_window, qtbot):
    window = open_window()
    desk = window.desk
    drive = desk.figure.drive_of("neck_tilt").id
    desk.edit(lambda: add_rod(desk.figure, "neck_pan"))
    desk.edit(lambda: set_rod(desk.figure.rods[0], "hold", held="socket", turns=True, stuff="acetal"))
    desk.edit(lambda: set_field(desk.figure, "joints", "neck_tilt", ("drag",), {"kind": "bearing"}, "x"))
    desk.edit(lambda: set_field(desk.figure, "drives", drive, ("loop",), {}, "x"))
    desk.set_scale(scale)
    window.card_out = True
    window.lay()
    things = (
        Ref("rod", desk.figure.rods[0].id),
        Ref("joint", "neck_tilt"),
        *(Ref("symptom", s.id) for s in SYMPTOMS[::3]),
    )
    for ref in things:
        desk.select(ref)
        for view in ("balance", "drive") if ref.kind == "joint" else ("balance",):
            desk.turn_to(view)
            qtbot.wait(10)
            assert walk(window) == [], (ref, view)


@pytest.mark.parametrize("size", [(1280, 800), (1920, 1080), (1100, 760)])
def test_other_sizes_and_an_empty_figure(size, open_window, qtbot):
    for session in ("owl", Session()):
        window = open_window(session, size=size)
        for view in VIEWS:
            window.desk.turn_to(view)
            qtbot.wait(20)
            assert walk(window) == [], (size, view)


@pytest.mark.parametrize("view", VIEWS)
def test_the_walk_finds_what_is_planted(view, open_window, qtbot, monkeypatch):
    """A clipped, a faint and an overlapping string, planted in the view's own painting: all three must be told."""
    window = open_window()
    turn(window, view, 1.0, qtbot)
    bench = window.benches[view]
    real = bench.draw

    def planted(kit: Kit) -> None:
        real(kit)
        kit.text(bench.width() - 10, 8, "planted and clipped", 13)
        kit.text(bench.width() * 0.5, 6, "planted and faint", 13, 400, "hair")
        kit.text(300, 8, "planted", 13)
        kit.text(310, 9, "overlapping", 13)

    monkeypatch.setattr(bench, "draw", planted)
    faults = " ".join(walk(window))
    assert "CLIPPED 'planted and clipped'" in faults
    assert "FAINT 'planted and faint'" in faults
    assert "OVERLAP 'overlapping' with 'planted'" in faults


def test_every_mark_in_a_drawing_has_a_twin_in_a_list(open_window, qtbot):
    window = open_window()
    rows = {row.key for row in window.benches["figure"].ledger.rows}
    for bench in ("figure", "balance"):
        for drawing in (window.benches[bench].side, window.benches[bench].front):
            window.desk.turn_to(bench)
            drawing.repaint()
            marks = {hit[0] for hit in drawing.view.hits}
            assert marks and marks <= rows
    assert {Ref("joint", spot[0]) for spot in window.benches["figure"].joint_tree.spots} <= rows


@pytest.mark.parametrize("scale", [1.0, 1.5])
@pytest.mark.parametrize("kind", ["gear", "belt", "lever", "does not reach", "ball", "pair", "wheels", "stepper"])
def test_what_turns_a_joint_is_read_and_reached(kind, scale, open_window, qtbot):
    window = open_window()
    desk = window.desk
    drive = desk.figure.drive_of("neck_tilt").id
    desk.select(Ref("joint", "neck_tilt"))
    two = {"pair": set_pair, "wheels": set_bevel}.get(kind)
    if two is not None:
        desk.edit(lambda: two(desk.figure, "neck_tilt", "neck_roll"))
    elif kind == "stepper":
        desk.edit(lambda: fit_servo(desk.figure, "neck_tilt", steppers()[2]))
    else:
        desk.edit(lambda: set_transmission(desk.figure, drive, kind if kind in WORDS else "lever"))
    if kind == "lever":
        desk.edit(lambda: set_holes(desk.figure, drive, "horn_holes_mm", "8 11 14"))
        desk.seeker.seek_levers("neck_tilt")
        qtbot.waitUntil(lambda: desk.seeker.under_way is None, timeout=20000)
    elif kind == "does not reach":
        desk.edit(lambda: set_number(desk.figure, drive, "rod_mm", 20.0, "rod"))
    desk.set_scale(scale)
    window.card_out = True
    window.lay()
    desk.turn_to("drive")
    qtbot.wait(10)
    assert walk(window) == []


@pytest.mark.parametrize("scale", [1.0, 1.5])
@pytest.mark.parametrize("kind", sorted(CHAINS))
def test_chains_of_sizes_are_read_and_reached(kind, scale, open_window, qtbot):
    window = open_window()
    desk = window.desk
    desk.edit(lambda: add_chain(desk.figure, kind))
    desk.set_scale(scale)
    desk.select(Ref("chain", desk.figure.chains[-1].id))
    desk.turn_to("fit")
    read_with_its_card(window, qtbot)


@pytest.mark.parametrize("scale", [1.0, 1.5])
def test_an_order_of_putting_together_is_read_and_reached(scale, open_window, qtbot):
    window = open_window()
    desk = window.desk
    for name in ("harness", "hood and spectacles", "a measurement of the neck ring with everything on", "head"):
        desk.edit(lambda name=name: add_doing(desk.figure, name))
    ids = [doing.id for doing in desk.figure.order]
    desk.edit(lambda: related(desk.figure, ids[0], "needs", ids[3], True))
    desk.edit(lambda: related(desk.figure, ids[3], "shuts", ids[1], True))
    desk.set_scale(scale)
    desk.select(Ref("doing", ids[0]))
    desk.turn_to("fit")
    read_with_its_card(window, qtbot)


@pytest.mark.parametrize("scale", [1.0, 1.5])
def test_sizes_prices_sheets_and_what_cures(scale, open_window, qtbot):
    window = open_window()
    desk = window.desk
    desk.set_scale(scale)
    window.card_out = True
    window.lay()
    desk.select(FIGURE)
    qtbot.wait(10)
    assert [f for f in walk(window) if "Card" in f] == []
    part = desk.figure.part("face_disc")
    desk.edit(lambda: set_field(desk.figure, "parts", part.id, ("shape",), reshaped(part, "sheet"), "shape"))
    desk.select(Ref("part", part.id))
    qtbot.wait(10)
    assert [f for f in walk(window) if "Card" in f] == []


@pytest.mark.parametrize("scale", [1.0, 1.5])
@pytest.mark.parametrize("size", [(1280, 800), (1920, 1080)])
def test_voice_life_and_behaviour_are_read(scale, size, open_window, qtbot):
    window = open_window(Session.from_template(demo_path("lamplighter")), size=size)
    desk = window.desk
    desk.set_scale(scale)
    desk.rehearse("behaviour")
    desk.turn_to("rehearse")
    behaviour = desk.figure.behaviour
    for ref in (Ref(), Ref("state", "speaks"), Ref("state", "waits"), Ref("start", "gets_dark"), Ref("start", "another"), Ref("input", "left"), Ref("input", "daylight")):  # fmt: skip
        desk.select(ref)
        read_with_its_card(window, qtbot)
    desk.living.run()
    qtbot.wait(150)
    desk.living.stop()
    assert walk(window) == [] and len(behaviour.states) == 7
    owl = open_window(size=size)
    owl.desk.set_scale(scale)
    owl.desk.turn_to("score")
    owl.desk.edit(lambda: list_lines(owl.desk.figure)[0])
    for ref in (Ref("channel", "voice"), Ref("play", "voice", 1), Ref()):
        owl.card_out = False
        owl.lay()
        owl.desk.select(ref)
        read_with_its_card(owl, qtbot)


@pytest.mark.parametrize("scale", [1.0, 1.5])
@pytest.mark.parametrize("size", [(1280, 800), (1920, 1080)])
def test_the_wiring_is_read(scale, size, open_window, qtbot):
    window = open_window(Session.from_template(demo_path("lamplighter")), size=size)
    desk = window.desk
    desk.set_scale(scale)
    desk.feed("wiring")
    desk.turn_to("power")
    plugs = [Ref("plug", plug.id) for plug in desk.figure.plugs]
    for ref in (
        Ref(),
        *(Ref("board", board.id) for board in desk.figure.boards),
        plugs[0],
        plugs[4],
        plugs[5],
        plugs[9],
    ):
        desk.select(ref)
        read_with_its_card(window, qtbot)


@pytest.mark.parametrize("scale", [1.0, 1.5])
def test_a_generators_card_is_read(scale, open_window, qtbot):
    window = open_window()
    desk = window.desk
    desk.set_scale(scale)
    desk.feed("wiring")
    desk.turn_to("power")
    desk.edit(lambda: add_board(desk.figure, "generator", "Generator")[0])
    for ref in (Ref(), Ref("board", "generator")):
        desk.select(ref)
        read_with_its_card(window, qtbot)


@pytest.mark.parametrize("scale", [1.0, 1.5])
@pytest.mark.parametrize("size", [(1280, 800), (1920, 1080)])
def test_driving_by_hand_is_read(scale, size, open_window, qtbot):
    window = open_window()
    desk = window.desk
    window.resize(*size)
    desk.set_scale(scale)
    desk.rehearse("hand")
    desk.turn_to("rehearse")
    read_with_its_card(window, qtbot)
    desk.edit(lambda: first_steering(desk.figure))
    desk.edit(lambda: add_grip(desk.figure, "keyed")[0])
    desk.edit(lambda: add_grip(desk.figure, "expressions")[0])
    desk.steered.run()
    expressions = desk.figure.steering.grips[-1]
    desk.steered.hold(expressions.ahead, 100.0)
    qtbot.wait(120)
    for ref in (
        FIGURE,
        *(Ref("grip", grip.id) for grip in desk.figure.steering.grips[-3:]),
        Ref("input", expressions.ahead),
    ):
        desk.select(ref)
        read_with_its_card(window, qtbot)
    desk.steered.stop()
