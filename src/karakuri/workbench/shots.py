"""Makes the pictures for docs: one PNG of each main view, from the demo, at 1280 × 800."""

from __future__ import annotations

import sys
import tempfile
import time
from collections.abc import Callable
from functools import partial
from pathlib import Path

from karakuri.demo import demo_path, owl_path
from karakuri.model.chain import ChainKind
from karakuri.model.chain_edits import add_chain
from karakuri.model.edit import Add, Edit, Set
from karakuri.model.figure import Figure
from karakuri.model.order import Doing
from karakuri.model.power import Cells, Converter, Wire
from karakuri.model.power_edits import begin_power, set_power
from karakuri.model.ref import Ref
from karakuri.model.room_edits import ask_room
from karakuri.model.steering_edits import add_grip, first_steering
from karakuri.model.transmission import Lever
from karakuri.model.transmission_edits import set_pair
from karakuri.session.session import Session
from karakuri.workbench.start import application
from karakuri.workbench.window import Window

VIEWS = (
    ("figure", "figure", Ref("part", "face_disc"), 1.0),
    ("drive", "drive", Ref("joint", "neck_tilt"), 1.0),
    ("balance", "balance", Ref("joint", "neck_tilt"), 1.0),
    ("limits", "limits", Ref("joint", "neck_tilt"), 1.0),
    ("score", "score", Ref("move", "neck_tilt_channel", 4), 1.0),
    ("rehearse", "rehearse", Ref(), 1.0),
    ("figure-150", "figure", Ref("part", "face_disc"), 1.5),
)
WORN = (
    ("walrus", "figure", Ref("part", "pads"), "upright"),
    ("worn", "balance", Ref("wearer"), "bowing"),
)
"""Of the walrus: name, bench, what is in hand, posture."""
CHAINS: tuple[ChainKind, ...] = ("ring", "seat", "through", "rim")


def _lever(figure: Figure) -> Edit:
    drive = figure.drive_of("neck_tilt")
    assert drive is not None
    form = Lever(horn_mm=12.0, lever_mm=25.0, axes_mm=60.0, lever_deg=87.5, rod_mm=63.5)
    return Edit("a lever", (Set(("drives", drive.id, "transmission"), form),))


def _pair(figure: Figure) -> Edit:
    both = set_pair(figure, "neck_tilt", "neck_roll")
    return Edit("two rods", (*both.steps, Set(("joints", "neck_tilt", "range_deg"), (-18.0, 10.0))))


def _order(figure: Figure) -> Edit:
    steps = (
        Doing(id="neck", name="neck on the plinth", for_good=True, minutes=30.0, done=True),
        Doing(id="driver", name="driver box in", needs=("neck",), shuts=(), minutes=10.0),
        Doing(id="skull", name="skull over the neck", needs=("neck",), shuts=("driver",), minutes=20.0, apart=True),
        Doing(id="gap", name="gap of beak to chest", kind="measure", needs=("skull", "feathers"), minutes=5.0),
        Doing(id="feathers", name="feathers glued on", needs=("skull",), for_good=True, helper=True, minutes=90.0),
    )
    return Edit("an order", tuple(Add("order", step) for step in steps))


def _fed(figure: Figure) -> Edit:
    """By two cells and a converter, over a wire that is thin."""
    cells = Cells(chemistry="lithium polymer", count=2, capacity_mAh=5000.0)
    return set_power("what feeds it", cells=cells, converter=Converter(), wire=Wire(gauge_awg=20, length_mm=600.0), fuse_A=3.0, capacitor_uF=2200.0)  # fmt: skip


EDITED: tuple[tuple[str, str, Ref, tuple[Callable[[Figure], Edit], ...], dict[str, float]], ...] = (
    ("lever", "drive", Ref("joint", "neck_tilt"), (_lever,), {"neck_tilt": 0.3}),
    (
        "pair",
        "drive",
        Ref("joint", "neck_roll"),
        (_pair,),
        {"neck_roll": 0.15},
    ),
    ("fit", "fit", Ref("chain", "ring"), (*(partial(add_chain, kind=kind) for kind in CHAINS), _order), {}),
    ("room", "fit", Ref("room"), (ask_room,), {}),
    ("power", "power", Ref(), (begin_power, _fed), {}),
)
"""The owl otherwise: name, bench, what is in hand, edits, pose."""
HUNG = ("neck_turns", "neck_nods", "jaw_whole", "eyes_two")
"""Starters of the picture of a new figure."""
PLAYED_S, LATEST_S = 8.6, 60.0


def prepare(window, name: str, spin) -> None:
    """What a view wants before it is taken."""
    desk = window.desk
    if name == "balance":
        worst = desk.study.results.of("neck_tilt").hold.worst
        desk.set_whole_pose(dict(zip(desk.study.results.tree.ids, map(float, worst.pose), strict=True)))
    elif name == "score":
        desk.transport.go(PLAYED_S)
    elif name == "rehearse":
        board = desk.board
        for action, state in (
            (board.start_stand_in, "joined"),
            (board.confirm, "confirmed"),
            (board.approach, "ready"),
            (board.play, "playing"),
        ):
            action()
            spin(lambda state=state: board.state == state)
        spin(lambda: board.news.get("frame", 0) / 50 > PLAYED_S)


def main(folder: Path) -> int:
    """Write the pictures into a folder."""
    import os

    app = application([])
    folder.mkdir(parents=True, exist_ok=True)
    with tempfile.TemporaryDirectory() as state:
        os.environ["XDG_STATE_HOME"] = state
        window = Window(Session.from_template(owl_path()), in_place=True)
        window.show()

        def spin(done) -> None:
            until = time.monotonic() + LATEST_S
            while not done() and time.monotonic() < until:
                app.processEvents()
                time.sleep(0.005)

        for name, bench, subject, scale in VIEWS:
            window.desk.set_scale(scale)
            window.desk.select(subject)
            window.desk.turn_to(bench)
            prepare(window, name, spin)
            for _ in range(6):
                app.processEvents()
            window.grab().save(str(folder / f"{name}.png"))
        window.desk.board.leave()
        walrus = Window(Session.from_template(demo_path("walrus")), in_place=True)
        walrus.show()
        for name, bench, subject, posture in WORN:
            walrus.desk.select(subject)
            walrus.desk.turn_to(bench)
            walrus.desk.set_posture(posture)
            for _ in range(6):
                app.processEvents()
            walrus.grab().save(str(folder / f"{name}.png"))
        walrus.desk.close()
        for name, bench, subject, edits, pose in EDITED:
            edited = Window(Session.from_template(owl_path()), in_place=True)
            for edit in edits:
                edited.desk.edit(edit(edited.desk.figure))
            edited.show()
            edited.desk.select(subject)
            edited.desk.turn_to(bench)
            for joint, place in pose.items():
                edited.desk.set_pose(joint, place)
            for _ in range(6):
                app.processEvents()
            edited.grab().save(str(folder / f"{name}.png"))
            edited.desk.close()
        lamplighter = Window(Session.from_template(demo_path("lamplighter")), in_place=True)
        lamplighter.show()
        lamplighter.desk.select(Ref("element", "arm_motor"))
        lamplighter.desk.turn_to("drive")
        for _ in range(6):
            app.processEvents()
        lamplighter.grab().save(str(folder / "lamplighter.png"))
        living = lamplighter.desk.living
        living.set_count(2)
        lamplighter.desk.rehearse("behaviour")
        lamplighter.desk.turn_to("rehearse")
        living.run()
        living.set_pace(4)
        spin(lambda: living.state == "speaks")
        living.stop()
        lamplighter.desk.select(Ref("state", "speaks"))
        for _ in range(6):
            app.processEvents()
        lamplighter.grab().save(str(folder / "behaviour.png"))
        lamplighter.desk.feed("wiring")
        lamplighter.desk.turn_to("power")
        lamplighter.desk.select(Ref("plug", lamplighter.desk.figure.plugs[0].id))
        for _ in range(6):
            app.processEvents()
        lamplighter.grab().save(str(folder / "wiring.png"))
        lamplighter.desk.close()
        driven = Window(Session.from_template(owl_path()), in_place=True)
        driven.show()
        desk = driven.desk
        desk.edit(lambda: first_steering(desk.figure))
        desk.edit(lambda: add_grip(desk.figure, "keyed")[0])
        desk.rehearse("hand")
        desk.turn_to("rehearse")
        desk.steered.try_it()
        spin(lambda: len(desk.steered.trace) == desk.steered.trace.maxlen)
        desk.select(Ref("grip", desk.figure.steering.grips[1].id))
        for _ in range(6):
            app.processEvents()
        driven.grab().save(str(folder / "by-hand.png"))
        desk.close()
        start = Window(None, in_place=True)
        start.show()
        board = start.benches["start"]
        board.take_kind("bust")
        for ident in HUNG:
            board.hang_up(ident)
        spin(lambda: board.found() is not None)
        for _ in range(6):
            app.processEvents()
        start.grab().save(str(folder / "new.png"))
        start.desk.close()
        window.desk.close()
    return 0


if __name__ == "__main__":
    sys.exit(main(Path(sys.argv[1])))
