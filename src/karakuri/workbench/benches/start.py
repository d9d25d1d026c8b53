"""A new figure: what kind it is, how large, the mechanisms hung up on it, judged before it is made. Or the same hung on the figure that is open."""

from __future__ import annotations

from typing import Any

from PyQt6.QtCore import QTimer
from PyQt6.QtWidgets import QWidget

from karakuri.demo import DEMOS
from karakuri.errors import Trouble
from karakuri.model.edits import new_figure
from karakuri.model.figure import Figure
from karakuri.model.part import BASE
from karakuri.session.places import last_figures
from karakuri.session.session import Session
from karakuri.starters import KINDS, STARTERS, kind, starter
from karakuri.starters.composed import Asked, Down, Sums, brought, made, sums
from karakuri.starters.contract import middle
from karakuri.study.studied import Study
from karakuri.workbench.benches.bench import Bench
from karakuri.workbench.benches.joint_page import datum_sketch
from karakuri.workbench.benches.schools import Schools
from karakuri.workbench.benches.start_page import start_page
from karakuri.workbench.benches.start_tiles import FULL, KindTile, StarterTile, Tile
from karakuri.workbench.desk import Desk
from karakuri.workbench.kit import Kit
from karakuri.workbench.stage.plain import draw_plain
from karakuri.workbench.widgets.items import Page
from karakuri.workbench.widgets.tag import Tag

JUDGE_MS, AMPS = 250, 5.0
"""So long after the last change it is judged; what a supply gives until something says otherwise."""


class StartBench(Bench):
    title, question = "A new figure", "What it is, how large, and the mechanisms it needs."

    def __init__(self, desk: Desk, parent: QWidget, window) -> None:
        super().__init__(desk, parent)
        self._filing = window.filing
        self._known: dict[tuple, Any] = {}
        self._told = ""
        self.kinds = [KindTile(desk, each, self) for each in KINDS]
        self.tiles = [StarterTile(desk, each, self) for each in STARTERS]
        for board in self.kinds:
            board.clicked.connect(lambda _, ident=board.ident: self.take_kind(ident))
        for tile in self.tiles:
            tile.clicked.connect(lambda _, ident=tile.ident: self.hang_up(ident))
            tile.resting = self._tell
        self.table = Tag(desk, "Beside each other, as a table", self)
        self.table.setCheckable(True)
        self.table.clicked.connect(lambda: self._place())
        self.schools = Schools(desk, self, self.hang_up)
        self.demo, *self.demos = (
            Tag(desk, f"Open the demo, {title}", self, lambda name=name: self._filing.open_demo(name))
            for name, title in DEMOS.items()
        )
        self.open = Tag(desk, "Open a file", self, self._filing.open)
        self.back = Tag(desk, "Back to what was open", self, lambda: desk.turn_to("figure"))
        self.lately = [
            Tag(desk, path.stem, self, lambda path=path: self._filing.open_path(path)) for path in last_figures()[:3]
        ]
        self._judge = QTimer(self, singleShot=True, interval=JUDGE_MS)
        self._judge.timeout.connect(self._ask)
        self.reset()
        desk.looked.connect(self._place)
        desk.starting.changed.connect(self._heard_of)

    def reset(self) -> None:
        self.values: dict[str, Any] = {
            "name": "New head", "growth": "25", "depth": 200.0, "width": 200.0, "on": None, "lean": 0.0, "volts": 6.0, "amps": None,
            "kind": "bare", "tall": None, "eye": None, "chosen": frozenset(), "onto": None, "middle": {},
        }  # fmt: skip
        self.refresh()

    # ---- what is asked
    @property
    def kind(self):
        return kind(self.values["kind"])

    def stands_on(self) -> str:
        return self.values["on"] or self.kind.stands_on

    def asked(self) -> Asked:
        """What is asked so far, as a figure of its own."""
        v = self.values
        chosen = tuple(each for each in STARTERS if each.id in v["chosen"])
        return Asked(
            v["tall"] or self.kind.tall_mm, v["eye"], chosen, self.kind, feeds=v["amps"] is None and bool(chosen)
        )

    def bare(self) -> Figure:
        """The figure as it is before the starters. Raises Trouble."""
        v = self.values
        said = (
            v["name"],
            self.stands_on(),
            v["depth"],
            v["width"],
            v["lean"],
            v["volts"],
            v["amps"] or AMPS,
            v["growth"],
        )

        def make() -> Figure:
            return new_figure(
                name=v["name"], stands_on=self.stands_on(), depth_mm=v["depth"], width_mm=v["width"], lean_deg=v["lean"],
                volts=v["volts"], amps=v["amps"] or AMPS, growth=float(v["growth"]),
            )  # fmt: skip

        return self._once(("bare", *said), make)

    def _once(self, key: tuple, make):
        if key not in self._known:
            if len(self._known) > 200:
                self._known.clear()
            self._known[key] = make()
        return self._known[key]

    def sums(self) -> Sums:
        """What all of it comes to, with the servos that were fitted where that is known."""
        found = self._found()
        asked = self.asked()
        if found is not None:
            return self._once(("sums", found[0]), lambda: sums(self.bare(), found[0].edit))
        return self._once(("sums", asked), lambda: brought(asked))

    def brings(self, ident: str) -> Sums:
        """What one starter brings, with the smallest servos."""
        asked = self.asked()
        one = Asked(asked.tall_mm, asked.eye_mm, (starter(ident),), None, BASE, middle(self.kind, asked.tall_mm))
        return self._once(("brings", one), lambda: brought(one))

    def _found(self) -> tuple[Down, Study] | None:
        try:
            return self.desk.starting.found((self.bare(), self.asked()))
        except Trouble:
            return None

    def found(self) -> Study | None:
        known = self._found()
        return known[1] if known is not None else None

    def amps(self) -> float:
        """What the supply gives, A: as written, else what the servos need where that was found."""
        known = self.found()
        return self.values["amps"] or (known.figure.supply.current_A if known is not None else AMPS)

    def why_not_make(self) -> str:
        return "It is being made." if self._making() else ""

    def _making(self) -> bool:
        return self.desk.starting.progress is not None and self.desk.starting.making

    # ---- what hands do
    def set(self, key: str, scale: float = 1.0):
        def done(value) -> None:
            self.values[key] = round(value * scale, 4) if isinstance(value, float) else value
            self._changed()

        return done

    def set_middle(self, which: int):
        def done(value: float) -> None:
            self.values["middle"] = {**self.values["middle"], which: round(value * 1e3, 3)}
            self._changed()

        return done

    def take_kind(self, ident: str) -> None:
        """A kind; its head's height is that of the kind until one is written."""
        self.values["kind"] = ident
        self._changed()

    def hang_up(self, ident: str) -> None:
        """Hang a starter up, in place of those that cannot be there with it; or take it down."""
        chosen = self.values["chosen"]
        if ident in chosen:
            self.values["chosen"] = chosen - {ident}
        else:
            one = starter(ident)
            out = [each for each in chosen if each in one.shuts or ident in starter(each).shuts]
            self.values["chosen"] = chosen - set(out) | {ident}
            if out:
                self.desk.said.emit(f"{one.name} takes the place of {' and '.join(starter(each).name.lower() for each in out)}.")  # fmt: skip
        self._tell(ident)
        self._changed()

    def _changed(self) -> None:
        if self.desk.starting.progress is not None:
            self.desk.starting.stop()
        self._judge.start()
        self.refresh()
        self.desk.turned.emit()

    def _ask(self) -> None:
        if not self.desk.making_anew or (self.kind.id == "bare" and not self.values["chosen"]):
            return
        try:
            self.desk.starting.ask((self.bare(), self.asked()))
        except Trouble as trouble:
            self.desk.said.emit(str(trouble))

    def _heard_of(self) -> None:
        if self.desk.making_anew:
            self.desk.turned.emit()

    def make(self) -> None:
        """The figure as described replaces what is on the desk, which is kept or saved first; what was hung up is one step that can be undone."""
        self._judge.stop()
        try:
            figure = self.bare()
        except Trouble as trouble:
            self.desk.said.emit(str(trouble))
            return
        if self.kind.id == "bare" and not self.values["chosen"]:
            self._put(figure, None)
        else:
            self.desk.starting.ask((figure, self.asked()), lambda down: self._put(figure, down))

    def _put(self, figure: Figure, down: Down | None) -> None:
        session = Session(figure)
        if down is not None:
            session.edit(down.edit)
        if self._filing.replace(session):
            self.reset()

    # ---- onto what is open
    def carrier(self) -> str:
        """What they are hung on: as chosen, else what carries most of the head's parts, else the base."""
        figure, onto = self.desk.figure, self.values["onto"]
        ids = [joint.id for joint in figure.joints]
        if onto in (BASE, *ids):
            return onto
        return max(ids, key=lambda ident: sum(part.rides_on == ident for part in figure.parts), default=BASE)

    def middle(self) -> tuple[float, float, float]:
        """The head's middle, mm: as written, else the middle of the parts that ride there."""
        on = self.carrier()
        places = [part.at_mm for part in self.desk.figure.parts if part.rides_on == on] or [(0.0, 0.0, 100.0)]
        x, y, z = (self.values["middle"].get(k, round(sum(p[k] for p in places) / len(places), 1)) for k in range(3))
        return x, y, z

    def hang(self) -> None:
        """Hang them on the figure that is open, as one step."""
        self._judge.stop()
        figure, asked = self.desk.figure, self.asked()
        onto = Asked(asked.tall_mm, asked.eye_mm, asked.starters, None, self.carrier(), self.middle())

        def put(down: Down) -> None:
            if self.desk.figure is figure and self.desk.edit(lambda: down.edit):
                self.desk.turn_to("figure")
                self.reset()

        self.desk.starting.ask((figure, onto), put)

    # ---- how it looks
    def page(self) -> Page:
        return start_page(self)

    def refresh(self) -> None:
        chosen = self.values["chosen"]
        for kind_tile in self.kinds:
            kind_tile.setChecked(kind_tile.ident == self.values["kind"])
        for tile in self.tiles:
            tile.setChecked(tile.ident in chosen)
            tile.show_sums(self.brings(tile.ident))
        self.schools.show_all({each.id: self.brings(each.id) for each in STARTERS}, chosen)
        self._place()
        self.update()

    def _tell(self, ident: str) -> None:
        one = starter(ident)
        self._told = f"{one.name}: {one.driven}; {one.cannot}."
        self.update()

    def beside(self, tile: Tile, across: int, down: int) -> None:
        """The hand goes to the tile beside, or above or below."""
        row = self.kinds if tile in self.kinds else self.tiles
        wide = 1 if row is self.kinds else self.columns()
        at = row.index(tile) + across + down * wide
        if row is self.kinds and down > 0:
            self.tiles[0].setFocus()
        elif row is self.tiles and at < 0 and down:
            self.kinds[0].setFocus()
        elif 0 <= at < len(row):
            row[at].setFocus()

    def columns(self) -> int:
        """Tiles in a row."""
        return max(2, min(5, self.width() // self.u(200)))

    def _place(self) -> None:
        u, w = self.u, self.width()
        y = self.height() - u(46)
        x = u(16)
        for tag in (self.demo, *self.demos, self.open, *self.lately, self.back):
            size = tag.sizeHint()
            if x + size.width() > w - u(12):
                x, y = u(16), y - size.height()
                break
            x += size.width()
        x, self.foot = u(16), y
        for tag in (self.demo, *self.demos, self.open, *self.lately, self.back):
            size = tag.sizeHint()
            if x + size.width() > w - u(12):
                x, y = u(16), y + size.height()
            tag.setGeometry(x, y, size.width(), size.height())
            x += size.width()
        cols = self.columns()
        rows = -(-len(self.tiles) // cols)
        room = self.foot - u(16) - u(40) - u(54)
        tall = min(u(112), max(u(34), room - rows * u(FULL + 4)))
        gap, each = u(6), (w - u(28)) / len(self.kinds)
        for k, tile in enumerate(self.kinds):
            tile.setGeometry(round(u(14) + k * each), u(40), round(each - gap), tall)
        self.shelf = u(40) + tall + u(8)
        size = self.table.sizeHint()
        self.table.setGeometry(w - u(12) - size.width(), self.shelf - u(2), size.width(), size.height())
        top = self.shelf + u(34)
        high = max(u(22), min(u(FULL + 8), (self.foot - u(22) - top) // rows))
        each = (w - u(28)) / cols
        flat = self.table.isChecked()
        for k, tile in enumerate(self.tiles):
            tile.setGeometry(round(u(14) + k % cols * each), top + k // cols * high, round(each - gap), high - u(4))
            tile.setVisible(not flat)
        self.schools.setGeometry(u(12), top + u(18), w - u(24), max(self.foot - u(24) - top - u(18), 1))
        self.schools.setVisible(flat)
        self.below = top + (0 if flat else rows * high)

    def resizeEvent(self, event) -> None:
        self._place()

    def _draw_asked(self, kit: Kit) -> bool:
        """What is asked so far, to scale, beside the last tiles and below; False where there is no room or nothing to draw."""
        u, asked = kit.u, self.asked()
        if self.table.isChecked() or (self.kind.id == "bare" and not asked.starters):
            return False
        last = self.tiles[-1].geometry()
        x, y = last.right() + u(20), last.top() + u(4)
        wide, high = self.width() - u(16) - x, self.foot - u(16) - y
        if len(self.tiles) % self.columns() == 0 or wide < u(160) or high < u(110):
            return False
        figure = self._once(("drawn", asked), lambda: made(asked))
        draw_plain(kit, figure, x, y, wide, high)
        return True

    def draw(self, kit: Kit) -> None:
        u, w = kit.u, self.width()
        kit.rect(0, 0, w, self.height(), "paper")
        self.draw_head(kit)
        board = self.kinds[0].geometry()
        kit.rect(u(12), board.bottom() + 1, w - u(24), u(4), "wood")
        end = kit.text(u(16), self.shelf + u(16), "Mechanisms to hang up", 13, 600)
        words = "press one to hang it up, again to take it down"
        if end + u(14) + kit.width(words, 12) < self.table.x():
            kit.text(end + u(14), self.shelf + u(16), words, 12, 400, "ink2")
        if self.table.isChecked():
            self.schools.draw_heads(kit, u(12), self.shelf + u(42), self.schools.width())
        elif self._told and self.below + u(18) < self.foot:
            last = self.tiles[-1].geometry()
            kit.lines(u(16), self.below + u(8), self._told, last.right() - u(16), 12, 400, "ink2", 16)
        if self._draw_asked(kit):
            pass
        elif not self.table.isChecked() and self.foot - self.below > u(160):
            kit.text(u(16), self.below + u(34), "Where to measure from: one ruler, one corner", 13, 600)
            datum_sketch(kit, u(16), self.below + u(46), u(300), u(100))
        kit.line(u(16), self.foot - u(6), w - u(12), self.foot - u(6), "rule")
