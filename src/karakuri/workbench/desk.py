"""What is on the desk; long for its room because every widget reads it: session, study, view state neither saved nor undone."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING, cast

import numpy as np
from PyQt6.QtCore import QCoreApplication, QEvent, QObject, QTimer, pyqtSignal

from karakuri.bodies.tree import build_tree, posture_gravity
from karakuri.errors import Trouble
from karakuri.mechanics.equilibrium import complete
from karakuri.mechanics.starts import rest_pose
from karakuri.model.channel import MovedChannel, SoundChannel
from karakuri.model.edit import Edit, apply, made
from karakuri.model.figure import Figure
from karakuri.model.finding import Finding, Remedy, finding_id
from karakuri.model.part import BASE
from karakuri.model.record import Entry
from karakuri.model.ref import FIGURE, Ref, item_of, name_of, nearest
from karakuri.model.score import Pose
from karakuri.motion.score_motion import ScoreMotion, Tracks, score_motion
from karakuri.session.drawer import Drawer
from karakuri.session.session import Session
from karakuri.study.line import Line
from karakuri.study.studied import Study, same_body
from karakuri.units import ALL_UNITS, METRIC, Quantity, Units, show
from karakuri.workbench.abilities import Abilities
from karakuri.workbench.keeping import Keeping
from karakuri.workbench.seeking import Seeker
from karakuri.workbench.sounding import Sounding
from karakuri.workbench.stage.marking import Marking
from karakuri.workbench.theme import DAY, Look
from karakuri.workbench.transport import Transport
from karakuri.workbench.voices import Voices
from karakuri.workbench.worker import Worker

if TYPE_CHECKING:
    from karakuri.exchange.contract import Exporter

SETTLE_MS, FIRST_PATIENCE = 180, 0.3
NEW = "start"
"""The page a new figure is set down on; it stands beside the benches and is on no rail."""


class Desk(QObject):
    """One per window. Widgets read it and send edits to it; its signals tell them to show again."""

    changed = pyqtSignal()
    studied = pyqtSignal()
    remedied = pyqtSignal()
    hurried = pyqtSignal()
    progressed = pyqtSignal()
    selected = pyqtSignal()
    posed = pyqtSignal()
    looked = pyqtSignal()
    turned = pyqtSignal()
    boarded = pyqtSignal()
    wanted = pyqtSignal(str)
    previewed = pyqtSignal()
    marked = pyqtSignal()
    said = pyqtSignal(str)
    saved = pyqtSignal(bool, str)
    overwritten = pyqtSignal(str)

    def __init__(self, session: Session, in_place: bool = False, line: Line | None = None) -> None:
        super().__init__()
        self.look = Look(DAY)
        self.units: Units = METRIC
        self.session = session
        self.study: Study | None = None
        self.remedies: dict[str, tuple[Remedy, ...]] = {}
        self.busy, self.progress, self.given_up = False, cast("tuple[str, float] | None", None), False
        self.bench = "figure"
        self.subject: Ref = FIGURE
        self.pose: dict[str, float] = {}
        self.posture = session.figure.postures[0].id
        self.preview: Figure | None = None
        self.preview_name = ""
        self.marking: Marking | None = None
        self.doing = "starting"
        self._number = 0
        self._tree: tuple | None = None
        self._hung: dict[str, tuple[float | None, float]] = {}
        self._tracks, self._moving = Tracks(), cast("tuple[Figure, ScoreMotion] | None", None)
        self.transport = Transport(self)
        self.drawer = Drawer()
        self._board = None
        self._chosen: dict[str, dict[str, str]] = {}
        self._in_place = in_place
        self.worker = Worker(in_place, line)
        self.worker.studied.connect(self._on_study)
        self.worker.further.connect(self._on_further)
        self.worker.remedied.connect(self._on_remedies)
        self.worker.finished.connect(self._on_finished)
        self.worker.broke.connect(self._on_broke)
        self.worker.went.connect(self._on_went)
        self._settle = QTimer(self, singleShot=True, interval=SETTLE_MS)
        self._settle.timeout.connect(self._settled)
        self._number = max(0, self.worker.latest)
        self.keeping = Keeping(self, in_place)
        self.seeker = Seeker(self, in_place)
        self.abilities = Abilities(self, in_place)
        self.voices = Voices(self, in_place)
        self.voices.changed.connect(self._heard)
        self.sounding = Sounding(self)
        self._starting = None
        self._living = None
        self._steered = None
        self.sized, self.meeting = "", ("platinum", "sulphur_clay")
        self.looking_at = (600.0, 0.0, 300.0)
        self.stands_off: dict[str, float] = {}
        self.trying = 0
        self.rehearsing, self.feeding = "board", "current"

    @property
    def figure(self) -> Figure:
        return self.session.figure

    @property
    def board(self):
        """The board, made when it is first asked for: most sessions never drive one."""
        if self._board is None:
            from karakuri.workbench.board import BoardLink

            self._board = BoardLink(self)
            self.boarded.emit()
        return self._board

    @property
    def living(self):
        """Its behaviour being lived, made when it is first asked for."""
        if self._living is None:
            from karakuri.workbench.living import Living

            self._living = Living(self)
        return self._living

    @property
    def steered(self):
        """It driven by hand, made when it is first asked for."""
        if self._steered is None:
            from karakuri.workbench.steerer import Steerer

            self._steered = Steerer(self, self._in_place)
        return self._steered

    @property
    def by_hand(self) -> bool:
        """Whether a hand drives it now."""
        return self._steered is not None and self._steered.running

    def take_written(self) -> bool:
        """Whether no take of a hand is under way, or being written down; one that is ends, and is written down."""
        if self._steered is None:
            return True
        if self._steered.recording:
            self._steered.stop()
        return not self._steered.writing

    def let_be(self) -> None:
        """Neither score, nor behaviour, nor a hand moves the figure any more."""
        self.transport.stop()
        if self._living is not None:
            self._living.stop()
        if self._steered is not None:
            self._steered.stop()

    @property
    def starting(self):
        """What is asked of the starters, made when it is first asked for: most sessions set nothing down."""
        if self._starting is None:
            from karakuri.workbench.starting import Starting

            self._starting = Starting(self, self._in_place)
        return self._starting

    @property
    def making_anew(self) -> bool:
        """Whether a new figure is being set down: what is found and kept is still of the one that was open, and not to be touched."""
        return self.bench == NEW

    @property
    def driving(self) -> bool:
        """Whether a board is joined."""
        return self._board is not None and self._board.joined

    def chosen(self, exporter: Exporter) -> dict[str, str]:
        """What is chosen for an exporter, option by option; view state."""
        return exporter.chosen(self._chosen.get(exporter.id, {}))

    def choose(self, exporter: Exporter, option: str, choice: str) -> None:
        """Choose for an exporter."""
        self._chosen.setdefault(exporter.id, {})[option] = choice
        self.selected.emit()

    def set_sized(self, joint_id: str) -> None:
        """What a change of size is about: what rides on a joint, '' all of the figure; view state."""
        self.sized = joint_id
        self.selected.emit()

    def look_from(self, point_mm: tuple[float, float, float]) -> None:
        """The point that is looked at, mm from the datum; view state."""
        self.looking_at = point_mm
        self.selected.emit()

    def rehearse(self, what: str) -> None:
        """Show the board, or its behaviour, on the Rehearse bench; view state."""
        self.rehearsing = what
        self.selected.emit()

    def feed(self, what: str) -> None:
        """Show the current, or the wiring, on the Power bench; view state."""
        self.feeding = what
        self.selected.emit()

    def try_this(self, number: int) -> None:
        """Which output of the board is tried by itself; view state."""
        self.trying = number
        self.selected.emit()

    def horn_stands_off(self, drive_id: str, off_rad: float | None) -> None:
        """How far a horn stands off the middle at the middle pulse, rad, as somebody measured it; None: no more. View state."""
        self.stands_off.pop(drive_id, None)
        if off_rad is not None:
            self.stands_off[drive_id] = off_rad
        self.selected.emit()

    def set_meeting(self, wet: str, on: str) -> None:
        """What is looked up of what meets; view state."""
        self.meeting = (wet, on)
        self.selected.emit()

    def note(self, make: Callable[[], Entry]) -> bool:
        """A line for the record, made now, which undo leaves alone."""
        try:
            self.session.note(make)
        except Trouble as trouble:
            self.said.emit(str(trouble))
            return False
        self.after_edit()
        return True

    def show(self, q: Quantity) -> str:
        return show(q, self.units)

    def ask(self, quick: bool = False) -> None:
        """Study the figure as it is now."""
        self._number += 1
        self.busy, self.progress, self.given_up = True, None, False
        if not quick:
            self._settle.stop()
        self.worker.ask(self._number, self.figure, quick, self.voices.heard)

    def look_over(self) -> None:
        """A figure newly on the desk: findings at once from a few starts, settled right after; its sounds are listened to once those are there."""
        if self._in_place:
            self.voices.listen()
        if self.worker.ordered(self.figure):
            self.busy = True
            self.worker.listen()
        else:
            self.ask(quick=not self._in_place)

    def _settled(self) -> None:
        """Nothing came since the hurried answer."""
        self.voices.listen()
        self.ask(False)

    def _heard(self) -> None:
        """Something can be listened to now, or cannot any more."""
        self.ask(False)
        self.changed.emit()

    def first_answer(self) -> None:
        """Before the window is first painted, let the first study finish: side by side both would take longer."""
        if self.worker.wait(FIRST_PATIENCE):
            QCoreApplication.sendPostedEvents(None, QEvent.Type.MetaCall)

    def give_up(self) -> None:
        """Stop judging; what was found stands, and the next edit judges everything anew."""
        self._number += 1
        self._settle.stop()
        self.worker.give_up(self._number)
        self.busy, self.progress, self.given_up = False, None, True
        self.studied.emit()

    def _on_went(self, number: int, what: str, share: float) -> None:
        if number == self._number:
            self.progress = (what, share)
            self.progressed.emit()

    def _on_study(self, number: int, done: Study) -> None:
        if number != self._number:
            return
        self.progress = None
        self.study, self.remedies = done, {}
        if not done.settled:
            self._settle.start()
            self.hurried.emit()
        self.studied.emit()

    def _on_further(self, number: int, done: Study) -> None:
        if number == self._number:
            self.progress, self.study = None, done
            self.studied.emit()

    def _on_remedies(self, number: int, ident: str, offered: tuple[Remedy, ...]) -> None:
        if number == self._number:
            self.remedies[ident] = offered
            self.remedied.emit()

    def _on_finished(self, number: int) -> None:
        if number == self._number:
            self.busy = False
            self.remedied.emit()

    def _on_broke(self, number: int, text: str) -> None:
        self.busy, self.progress = False, None
        self.voices.listen()  # what could not be studied can still be heard
        self.said.emit(
            f"The study stopped: {text}. The figure is untouched; undo the last step and tell us how to repeat it."
        )

    def edit(self, edit: Edit | Callable[[], Edit], dragging: bool = False) -> bool:
        """Carry out an edit, or one that is made only now; False, and a sentence, where it is refused."""
        try:
            wanted = edit if isinstance(edit, Edit) else made(edit)
            self.doing = f"carrying out “{wanted.name}”"
            self.session.edit(wanted)
        except Trouble as trouble:
            self.said.emit(str(trouble))
            return False
        self.after_edit(dragging)
        return True

    def tried(self, work: Callable[[], object], words: str) -> bool:
        """Do something that is no edit, such as a file; False, and a sentence, where it did not go."""
        try:
            work()
        except Trouble as trouble:
            self.said.emit(str(trouble))
            return False
        self.selected.emit()
        self.said.emit(words)
        return True

    def after_edit(self, dragging: bool = False) -> None:
        self.set_preview(None)
        self._tidy_view()
        self.voices.listen()
        self.ask(quick=dragging)
        self.changed.emit()
        self.keeping.soon()

    def end_drag(self) -> None:
        """The hand let go: the next step begins anew, and the study settles."""
        self.session.history.close_step()
        self._settle.stop()
        self.ask(False)

    def undo(self) -> None:
        self.doing = f"undoing “{self.session.history.undo_name}”"
        if self.session.undo():
            self.after_edit()

    def redo(self) -> None:
        self.doing = f"redoing “{self.session.history.redo_name}”"
        if self.session.redo():
            self.after_edit()

    def _tidy_view(self) -> None:
        joints = {joint.id for joint in self.figure.joints}
        self.pose = {k: v for k, v in self.pose.items() if k in joints}
        if self.posture not in {posture.id for posture in self.figure.postures}:
            self.posture = self.figure.postures[0].id
        still = nearest(self.figure, self.subject)
        if still != self.subject:
            self.subject = still
            self.selected.emit()
        if self.transport.now > self.figure.score.length_s:
            self.transport.go(self.figure.score.length_s)

    def replace(self, session: Session) -> None:
        """Put another session on the desk."""
        if session is not self.session:
            self.session.close()
        self.transport.stop()
        self.seeker.finish()
        if self._starting is not None:
            self._starting.finish()
        self.transport.now, self.transport.section = 0.0, ""
        self.session = session
        self.subject, self.pose, self.posture = FIGURE, {}, session.figure.postures[0].id
        self.study, self.remedies = None, {}
        self.set_preview(None)
        self.changed.emit()
        self.selected.emit()
        self.posed.emit()
        self.look_over()

    def select(self, ref: Ref) -> None:
        """Take something in hand; what is not there any more is not taken."""
        ref = nearest(self.figure, ref)
        if self.subject != ref:
            self.subject = ref
            self.mark(None)
            self.doing = f"showing {name_of(self.figure, ref) or 'the figure'} on the {self.bench.capitalize()} bench"
            self.session.history.close_step()
            self.selected.emit()

    def mark(self, marking: Marking | None) -> None:
        """Begin to mark places in an elevation, or leave it."""
        self.marking = marking
        self.marked.emit()

    def joint_in_hand(self) -> str:
        """The joint the benches are about: the selected one, the one a selected part rides on, else the worst."""
        kind, item = self.subject.kind, item_of(self.figure, self.subject)
        if item is not None and kind == "joint":
            return self.subject.id
        if item is not None and kind == "drive":
            return item.joint
        if item is not None and kind == "element" and self._turned_by(item):
            return self._turned_by(item)
        if item is not None and kind == "rod" and any(joint.id in item.carries for joint in self.figure.joints):
            return next(joint.id for joint in self.figure.joints if joint.id in item.carries)
        if item is not None and kind in ("part", "rod", "fastening") and item.rides_on != BASE:
            return item.rides_on
        channel = self.channel_in_hand()
        if channel is not None and channel.joints:
            return channel.joints[0]
        if self.study is not None:
            for finding in self.study.findings:
                if finding.subject.kind == "joint" and item_of(self.figure, finding.subject) is not None:
                    return finding.subject.id
        return self.figure.joints[0].id if self.figure.joints else ""

    def _turned_by(self, element) -> str:
        """The outermost joint that an element turns; '' where it turns none."""
        tree = self.tree()
        turns = tree.spanned(tree.loads[self.figure.elements.index(element)])
        return tree.ids[turns[-1]] if turns else ""

    def channel_in_hand(self) -> MovedChannel | None:
        """The ribbon in hand: the selected one, that of the selected move, or that of the selected joint."""
        if self.subject.kind == "joint":
            return self.figure.score.channel_of(self.subject.id)
        found = item_of(self.figure, self.subject) if self.subject.kind in ("channel", "move") else None
        return None if isinstance(found, SoundChannel) else found

    def voice_in_hand(self) -> SoundChannel | None:
        """The voice in hand, or that of the sound in hand."""
        found = item_of(self.figure, self.subject) if self.subject.kind in ("channel", "play") else None
        return found if isinstance(found, SoundChannel) else None

    def move_in_hand(self) -> tuple[MovedChannel, int] | None:
        """The move in hand: its ribbon and its number."""
        channel = item_of(self.figure, self.subject) if self.subject.kind == "move" else None
        return None if channel is None else (channel, self.subject.number)

    def hold_move(self, channel: str, k: int) -> None:
        """Keep a move in hand whose number changed through an edit; not a new choice, so the step goes on."""
        self.hold(Ref("move", channel, k))

    def hold(self, ref: Ref) -> None:
        """Keep in hand what has another number now."""
        self.subject = ref
        self.selected.emit()

    def moving(self) -> ScoreMotion:
        """The score over the figure, built once for each figure; tracks of channels that did not change are kept."""
        if self._moving is None or self._moving[0] is not self.figure:
            tree = self.tree()
            self._moving = (self.figure, score_motion(self.figure, tree, rest_pose(tree), self._tracks))
        return self._moving[1]

    def kept_places(self, pose: Pose) -> dict[str, float]:
        """A kept pose in SI."""
        return {joint: value * self.figure.joint(joint).measure.si for joint, value in pose.places}

    def recall(self, pose_id: str) -> None:
        """Pose the figure as it was kept."""
        self.set_whole_pose(self.pose | self.kept_places(self.figure.pose(pose_id)))

    def stands(self, channel: MovedChannel, at: float) -> float:
        """Where a channel is at a time, s, in its own unit: degrees, mm or percent."""
        moving = self.moving()
        track = moving.tracks[moving.channels.index(channel)]
        return float(track.at(np.array([at]))[0][0]) / self.figure.measure(channel).si

    def pose_at(self, at: float) -> None:
        """Pose the figure as the score has it at a time, s."""
        moving = self.moving()
        if moving.running or any(len(channel.moves) for channel in moving.channels):
            places = moving.state(np.array([at]))[0][:, 0]
            pose = dict(zip(self.tree().ids, map(float, places), strict=True))
            self.set_whole_pose(pose | self.steered.pose() if self.by_hand else pose)

    def turn_to(self, bench: str) -> None:
        if bench != self.bench:
            self.transport.stop()
            if self.by_hand:
                self.steered.stop()
        self.bench = bench
        self.doing = f"showing the {bench.capitalize()} bench"
        self.turned.emit()

    def set_pose(self, joint: str, value: float) -> None:
        """A joint at a place, rad or m; what follows another is brought there by that."""
        tied, j = self.tree().coupling, self.tree().index(joint)
        if tied.gain[j]:
            self.pose[self.tree().ids[tied.leader[j]]] = float(tied.to_leader(j, value))
        self.posed.emit()

    def place(self, joint: str) -> float:
        """Where a joint stands in the view's pose, rad or m."""
        tied, j = self.tree().coupling, self.tree().index(joint)
        return float(tied.of_leader(j, self.pose.get(self.tree().ids[tied.leader[j]], 0.0)))

    def set_whole_pose(self, pose: dict[str, float]) -> None:
        self.pose = dict(pose)
        self.posed.emit()

    def set_posture(self, posture: str) -> None:
        self.posture = posture
        self.posed.emit()

    def tree(self, figure: Figure | None = None):
        """The tree of a figure, built once for each body; a score being written leaves it as it is."""
        figure = figure or self.figure
        if self._tree is None or not (figure is self._tree[0] or same_body(figure, self._tree[0])):
            self._tree = (figure, build_tree(figure))
        return self._tree[1]

    def pose_array(self, figure: Figure | None = None):
        """The view's pose for a figure's tree: (tree, q)."""
        tree = self.tree(figure or self.figure)
        q = rest_pose(tree)
        for ident, value in self.pose.items():
            if ident in tree.ids:
                q[tree.index(ident)] = value
        hangs = [tree.ids[k] for k in tree.coupling.hangs]
        for ident in hangs:  # from where it was last seen, unless it was just put somewhere
            if ident in self._hung and self._hung[ident][0] == self.pose.get(ident):
                q[tree.index(ident)] = self._hung[ident][1]
        gravity = posture_gravity(self.posture_value(), self.figure.assumptions.gravity_mps2)
        q = complete(tree, q[:, None], gravity)[:, 0]
        if figure is None or figure is self.figure:
            self._hung = {ident: (self.pose.get(ident), float(q[tree.index(ident)])) for ident in hangs}
        return tree, q

    def posture_value(self):
        return next(p for p in self.figure.stances if p.id == self.posture)

    def set_units(self, name: str) -> None:
        self.units = next(units for units in ALL_UNITS if units.name == name)
        self.looked.emit()

    def set_scale(self, scale: float) -> None:
        self.look.scale = min(1.5, max(1.0, scale))
        self.looked.emit()

    def set_preview(self, edit: Edit | None, name: str = "") -> None:
        """Show what an edit would give, dashed; nothing is changed."""
        try:
            figure = apply(self.figure, edit) if edit is not None else None
        except Trouble:
            figure = None
        if figure is not self.preview:
            self.preview, self.preview_name = figure, name
            self.previewed.emit()

    def offered(self, finding: Finding) -> tuple[Remedy, ...]:
        """Remedies of a finding; those of one that holds are worked out when they are first asked for."""
        if finding.id not in self.remedies and finding.verdict == "holds":
            self.remedies[finding.id] = ()
            self.worker.offer(self._number, finding)
        return self.remedies.get(finding.id, ())

    def finding(self, rule: str, *about: str | int) -> Finding | None:
        """What a rule says about something, by the same words as `finding_id`."""
        return self.study.finding(finding_id(rule, *about)) if self.study is not None else None

    def close(self) -> None:
        """End timers and the worker."""
        self.transport.stop()
        if self._board is not None:
            self._board.close()
        self._settle.stop()
        self.keeping.close()
        if self._starting is not None:
            self._starting.finish()
        if self._living is not None:
            self._living.stop()
        if self._steered is not None:
            self._steered.close()
        self.voices.finish()
        self.abilities.finish()
        self.sounding.hush()
        self.worker.close()
