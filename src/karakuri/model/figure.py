"""The figure: the one document. Plain frozen values; long for its room because every reference is checked where it is built, beside the fields it is of."""

from collections.abc import Iterable
from typing import Literal, Self, TypeVar

from karakuri.model.assumptions import Assumptions
from karakuri.model.base import Current_A, Identifier, Mass_g, Name, Place, Voltage_V
from karakuri.model.behaviour import Behaviour, Lights, Performs, Poses, Says
from karakuri.model.board import Board, Plug
from karakuri.model.chain import Chain
from karakuri.model.channel import MovedChannel
from karakuri.model.drive import Drive
from karakuri.model.element import About, Element, held_by
from karakuri.model.fastening import Fastening
from karakuri.model.joint import Joint
from karakuri.model.lines import Lines
from karakuri.model.makers import Voice
from karakuri.model.measures import Measure
from karakuri.model.order import Doing
from karakuri.model.part import BASE, Material, Part
from karakuri.model.picture import Picture
from karakuri.model.power import Power
from karakuri.model.record import Calibration, Entry
from karakuri.model.rod import Rod
from karakuri.model.room import Room
from karakuri.model.score import Pose, Score
from karakuri.model.sound import Sound
from karakuri.model.stand import Base, Posture, stance
from karakuri.model.steering import Steering, dangling
from karakuri.model.transmission import Ball, Bevel
from karakuri.values.fields import Field
from karakuri.values.value import Value

FORMAT: Literal["karakuri figure"] = "karakuri figure"
VERSION: Literal[2] = 2
_T = TypeVar("_T", Joint, Part, Sound)


class BallastSite(Value):
    """Where ballast may go, and the most it may be there."""

    id: Identifier
    name: Name
    rides_on: Identifier = BASE
    at_mm: Place
    most_g: Mass_g

    @property
    def ballast_id(self) -> str:
        """The id of the part that is its ballast, whether there is one or not."""
        return f"ballast_{self.id}"[:60]


class Supply(Value):
    """What feeds the servos."""

    name: Name = "supply"
    voltage_V: Voltage_V = 6.0
    current_A: Current_A = 5.0


class Figure(Value):
    """One figure = one file. Identifiers never change; names are free."""

    format: Literal["karakuri figure"] = FORMAT
    version: Literal[2] = VERSION
    name: Name = "Unnamed figure"
    currency: str = Field(default="EUR", max_length=8)
    base: Base = Field(default_factory=Base)
    postures: tuple[Posture, ...] = Field(default=(Posture(id="level", name="level"),), max_length=50)
    materials: tuple[Material, ...] = Field(default=(), max_length=500)
    parts: tuple[Part, ...] = Field(default=(), max_length=2000)
    joints: tuple[Joint, ...] = Field(default=(), max_length=256)
    drives: tuple[Drive, ...] = Field(default=(), max_length=256)
    ballast_sites: tuple[BallastSite, ...] = Field(default=(), max_length=200)
    elements: tuple[Element, ...] = Field(
        default=(),
        max_length=200,
        description="Springs, elastic, struts and pads: what pulls or pushes between two places.",
    )
    rods: tuple[Rod, ...] = Field(
        default=(), max_length=200, description="Rods, sticks and poles that carry something at their tip."
    )
    fastenings: tuple[Fastening, ...] = Field(
        default=(), max_length=200, description="Magnets, hook and loop or elastic that hold something on."
    )
    pictures: tuple[Picture, ...] = Field(
        default=(), max_length=40, description="Pictures behind the elevations, to trace over. Looks only."
    )
    chains: tuple[Chain, ...] = Field(default=(), max_length=200, description="Chains of sizes: what adds up to a gap.")
    order: tuple[Doing, ...] = Field(
        default=(),
        max_length=300,
        description="Steps of putting together and putting on, as they are planned or were done.",
    )
    room: Room | None = Field(
        default=None, description="Whether all parts go past each other; left out: not looked for."
    )
    poses: tuple[Pose, ...] = Field(default=(), max_length=1000)
    sounds: tuple[Sound, ...] = Field(
        default=(), max_length=1000, description="Sound files that lie beside the figure."
    )
    lines: tuple[Lines, ...] = Field(
        default=(), max_length=100, description="Lists of lines that are said one after another."
    )
    scores: tuple[Score, ...] = Field(default=(Score(),), max_length=50)
    playing: Identifier | None = Field(
        default=None, description="The score that is played, judged and exported; left out: the first."
    )
    behaviour: Behaviour | None = Field(default=None, description="What it does when, by itself; left out: nothing.")
    steering: Steering | None = Field(
        default=None, description="What a hand does at knobs and sticks; left out: nothing."
    )
    record: tuple[Entry, ...] = Field(
        default=(), max_length=20_000, description="What was done and measured; it only grows."
    )
    boards: tuple[Board, ...] = Field(
        default=(), max_length=30, description="Controllers, generators, rails; none: not decided yet."
    )
    plugs: tuple[Plug, ...] = Field(
        default=(), max_length=500, description="What is plugged into which pin of which board."
    )
    supply: Supply = Field(default_factory=Supply)
    power: Power | None = Field(
        default=None, description="What feeds it over a show; left out: nothing is asked of it."
    )
    assumptions: Assumptions = Field(default_factory=Assumptions)

    def _check(self) -> Self:
        faults = [*_doubled(self), *_dangling(self), *_dangling_moves(self), *_circles(self.joints)]
        if not self.postures:
            faults.append("postures: a figure needs at least one posture")
        if not self.scores:
            faults.append("scores: a figure needs at least one score")
        if faults:
            raise ValueError("; ".join(faults))
        return self

    @property
    def stances(self) -> tuple[Posture, ...]:
        """The postures as the base has them: of a worn figure, as what carries it leans when its wearer bends."""
        if self.base.held != "worn":
            return self.postures
        return tuple(stance(self.base, posture, self.base.worn.by) for posture in self.postures)

    def joint(self, joint_id: str) -> Joint:
        """The joint of that id. Raises KeyError."""
        return _find(self.joints, joint_id)

    def measure(self, channel: MovedChannel) -> Measure:
        """How a channel's targets are written."""
        return channel.measure(self)

    @property
    def score(self) -> Score:
        """The score in hand: what is played, judged and exported."""
        return next((score for score in self.scores if score.id == self.playing), self.scores[0])

    @property
    def ribbons(self) -> dict[str, MovedChannel]:
        """Every ribbon of any score, by id: those of the score in hand first, in its order."""
        found = {channel.id: channel for channel in self.score.moved}
        for score in self.scores:
            for channel in score.moved:
                found.setdefault(channel.id, channel)
        return found

    def sound(self, sound_id: str) -> Sound:
        """The sound of that id. Raises KeyError."""
        return _find(self.sounds, sound_id)

    def part(self, part_id: str) -> Part:
        """The part of that id. Raises KeyError."""
        return _find(self.parts, part_id)

    def drive_of(self, joint_id: str) -> Drive | None:
        """The drive of a joint, or None."""
        return next((drive for drive in self.drives if drive.joint == joint_id), None)

    def mounted_on(self, drive: Drive) -> str:
        """What a drive's body is fixed to: a joint's id, or the base's."""
        return drive.rides_on or self.joint(drive.joint).rides_on

    def pose(self, pose_id: str) -> Pose:
        """The kept pose of that id. Raises KeyError."""
        for pose in self.poses:
            if pose.id == pose_id:
                return pose
        raise KeyError(pose_id)

    def calibrated(self, drive_id: str) -> Entry | None:
        """The last calibration of a drive in the record, or None where there is none or the horn has been off since."""
        for entry in reversed(self.record):
            if entry.drive == drive_id and entry.kind != "note":
                return entry if entry.kind == "calibration" else None
        return None

    def calibration_of(self, drive_id: str) -> Calibration | None:
        """What that entry says."""
        entry = self.calibrated(drive_id)
        return entry.calibration if entry is not None else None


def _find(items: tuple[_T, ...], wanted: str) -> _T:
    """Looked up by id; a handful of items, so a walk is enough."""
    for item in items:
        if item.id == wanted:
            return item
    raise KeyError(wanted)


KINDS = ("parts", "joints", "postures", "materials", "drives", "ballast_sites", "elements", "rods", "fastenings", "pictures", "chains", "order", "poses", "sounds", "lines", "scores", "boards", "plugs")  # fmt: skip
"""Fields that hold things with an id of their own."""


def _doubled(figure: Figure) -> Iterable[str]:
    for field in KINDS:
        ids = [item.id for item in getattr(figure, field)]
        yield from (f"{field}: the id '{i}' is used twice" for i in sorted({i for i in ids if ids.count(i) > 1}))
    if any(joint.id == BASE for joint in figure.joints):
        yield "joints: the id 'base' is the base's own, give the joint another"
    driven = [drive.joint for drive in figure.drives]
    yield from (f"drives: joint '{j}' has two drives" for j in sorted({j for j in driven if driven.count(j) > 1}))


def _dangling(figure: Figure) -> Iterable[str]:
    joints = {joint.id for joint in figure.joints} | {BASE}
    materials = {material.id for material in figure.materials}
    riding: tuple[tuple[str, tuple[Part | Joint | BallastSite, ...]], ...] = (
        ("parts", figure.parts),
        ("joints", figure.joints),
        ("ballast_sites", figure.ballast_sites),
    )
    for kind, items in riding:
        for item in items:
            if item.rides_on not in joints:
                yield f"{kind}.{item.id}.rides_on: there is no joint '{item.rides_on}'"
    for part in figure.parts:
        if part.material is not None and part.material not in materials:
            yield f"parts.{part.id}.material: there is no material '{part.material}'"
    for drive in figure.drives:
        if drive.joint not in joints - {BASE}:
            yield f"drives.{drive.id}.joint: there is no joint '{drive.joint}'"
        if drive.rides_on is not None and drive.rides_on not in joints:
            yield f"drives.{drive.id}.rides_on: there is no joint '{drive.rides_on}'"
        form = drive.transmission
        if isinstance(form, Ball) and form.ball_on is not None and form.ball_on not in joints:
            yield f"drives.{drive.id}.transmission.ball_on: there is no joint '{form.ball_on}'"
        if isinstance(form, Bevel) and form.partner not in joints - {BASE, drive.joint}:
            yield f"drives.{drive.id}.transmission.partner: there is no other joint '{form.partner}'"
    for element in figure.elements:
        about = isinstance(element, About)
        for ident in held_by(element):
            if ident not in (joints - {BASE} if about else joints):
                yield f"elements.{element.id}.{'joint' if about else 'ends'}: there is no joint '{ident}'"
    parts = {part.id for part in figure.parts}
    carrying: tuple[tuple[str, tuple[Rod | Fastening, ...]], ...] = (
        ("rods", figure.rods),
        ("fastenings", figure.fastenings),
    )
    for kind, carriers in carrying:
        for it in carriers:
            if it.rides_on not in joints:
                yield f"{kind}.{it.id}.rides_on: there is no joint '{it.rides_on}'"
            for ident in it.carries:
                if ident not in joints - {BASE} | parts:
                    yield f"{kind}.{it.id}.carries: there is no joint or part '{ident}'"
    for k, pair in enumerate(figure.room.together if figure.room is not None else ()):
        for ident in (pair.one, pair.other):
            if ident not in parts | {drive.id for drive in figure.drives} | {"wearer"}:
                yield f"room.together.{k}: there is no part or servo '{ident}'"
    steps = {doing.id for doing in figure.order}
    for doing in figure.order:
        for field in ("needs", "shuts"):
            for ident in getattr(doing, field):
                if ident not in steps - {doing.id}:
                    yield f"order.{doing.id}.{field}: there is no other step '{ident}'"
    for joint in figure.joints:
        if joint.follows is not None and joint.follows.joint not in joints - {BASE, joint.id}:
            yield f"joints.{joint.id}.follows: there is no other joint '{joint.follows.joint}'"
        if joint.twin is not None and joint.twin not in joints - {BASE, joint.id}:
            yield f"joints.{joint.id}.twin: there is no other joint '{joint.twin}'"
    twins = [joint.twin for joint in figure.joints if joint.twin is not None]
    yield from (
        f"joints: '{i}' is said to be the twin of two" for i in sorted({i for i in twins if twins.count(i) > 1})
    )


def _dangling_moves(figure: Figure) -> Iterable[str]:
    joints = {joint.id for joint in figure.joints}
    for pose in figure.poses:
        for joint, _ in pose.places:
            if joint not in joints:
                yield f"poses.{pose.id}.places: there is no joint '{joint}'"
    if figure.playing is not None and figure.playing not in {score.id for score in figure.scores}:
        yield f"playing: there is no score '{figure.playing}'"
    sounds = {sound.id for sound in figure.sounds}
    for each in figure.lines:
        for ident in (*each.openings, *each.lines):
            if ident not in sounds:
                yield f"lines.{each.id}: there is no sound '{ident}'"
    yield from _dangling_deeds(figure, sounds)
    channels = {channel.id for score in figure.scores for channel in score.channels if not channel.joints}
    for load in figure.power.loads if figure.power is not None else ():
        if load.channel is not None and load.channel not in channels:
            yield f"power.loads.{load.id}: there is no light, motor or voice '{load.channel}'"
    for score in figure.scores:
        for fault in _dangling_of(figure, score, joints):
            yield f"scores.{score.id}.{fault}"
    alike: dict[str, tuple[str, object]] = {}
    for score in figure.scores:
        for channel in score.channels:
            what = (channel.kind, channel.joints, *(getattr(channel, field, None) for field in ("park", "still_us", "ahead_us", "back_us")))  # fmt: skip
            first = alike.setdefault(channel.id, (score.id, what))
            if first[1] != what:
                yield f"scores.{score.id}.channels.{channel.id}: in '{first[0]}' it moves something else, or parks elsewhere"
    inputs = {each.id for each in figure.behaviour.inputs} if figure.behaviour is not None else set[str]()
    yield from dangling(
        figure.steering,
        inputs,
        {c.id for score in figure.scores for c in score.moved},
        {pose.id for pose in figure.poses},
    )
    yield from _dangling_plugs(figure)


def _dangling_plugs(figure: Figure) -> Iterable[str]:
    """What is plugged in and is not there, or twice."""
    joints, boards = {joint.id for joint in figure.joints} | {BASE}, {board.id for board in figure.boards}
    inputs = figure.behaviour.inputs if figure.behaviour is not None else ()
    channels = [channel for score in figure.scores for channel in score.channels if not channel.joints]
    known = {
        "drive": {drive.id for drive in figure.drives}, "board": boards, "input": {each.id for each in inputs},
        "light": {c.id for c in channels if c.kind == "light"}, "run": {c.id for c in channels if c.kind == "run"}, "voice": {c.id for c in channels if c.kind == "sound"},
    }  # fmt: skip
    for board in figure.boards:
        if board.part is not None and all(part.id != board.part for part in figure.parts):
            yield f"boards.{board.id}.part: there is no part '{board.part}'"
        if board.rides_on not in joints:
            yield f"boards.{board.id}.rides_on: there is no joint '{board.rides_on}'"
    things = [(plug.of, plug.item) for plug in figure.plugs]
    for plug in figure.plugs:
        if plug.board not in boards:
            yield f"plugs.{plug.id}.board: there is no board '{plug.board}'"
        if plug.item not in known[plug.of]:
            yield f"plugs.{plug.id}.item: there is no {plug.of} '{plug.item}'"
        if plug.of == "board" and plug.item == plug.board:
            yield f"plugs.{plug.id}.item: a board is not plugged into itself"
        if plug.rides_on is not None and plug.rides_on not in joints:
            yield f"plugs.{plug.id}.rides_on: there is no joint '{plug.rides_on}'"
    yield from (
        f"plugs: {of} '{item}' is plugged in twice" for of, item in sorted({x for x in things if things.count(x) > 1})
    )


def _dangling_deeds(figure: Figure, sounds: set[str]) -> Iterable[str]:
    """What a behaviour plays and nobody knows."""
    scores, poses = {score.id: score for score in figure.scores}, {pose.id for pose in figure.poses}
    lights = {c.id for score in figure.scores for c in score.moved if c.kind == "light"}
    for state in figure.behaviour.states if figure.behaviour is not None else ():
        where = f"behaviour.states.{state.id}.plays"
        for deed in state.plays:
            if isinstance(deed, Performs):
                score = scores.get(deed.score)
                if score is None:
                    yield f"{where}: there is no score '{deed.score}'"
                elif deed.section is not None and all(deed.section != section.id for section in score.sections):
                    yield f"{where}: there is no section '{deed.section}'"
            elif isinstance(deed, Poses) and deed.pose not in poses:
                yield f"{where}: there is no pose '{deed.pose}'"
            elif isinstance(deed, Says) and deed.lines is not None and deed.lines not in {x.id for x in figure.lines}:
                yield f"{where}: there is no list of lines '{deed.lines}'"
            elif isinstance(deed, Says) and deed.sound is not None and deed.sound not in sounds:
                yield f"{where}: there is no sound '{deed.sound}'"
            elif isinstance(deed, Lights) and deed.channel not in lights:
                yield f"{where}: there is no light '{deed.channel}'"


def _dangling_of(figure: Figure, score: Score, joints: set[str]) -> Iterable[str]:
    """What a score names and nobody knows."""
    poses, sounds = {pose.id for pose in figure.poses}, {sound.id for sound in figure.sounds}
    makers = {maker.id for maker in score.makers} | {""}
    for channel in score.moved:
        for joint in channel.joints:
            if joint not in joints:
                yield f"channels.{channel.id}.joints: there is no joint '{joint}'"
        for ident in sorted(set(channel.moves.made_by) - makers):
            yield f"channels.{channel.id}.moves.made_by: there is no maker '{ident}'"
    for pin in score.pins:
        if pin.pose not in poses:
            yield f"makers.{pin.id}.pose: there is no pose '{pin.pose}'"
    sounding, moving = {voice.id for voice in score.voices}, {channel.id for channel in score.moved if channel.joints}
    for maker in score.makers:
        if isinstance(maker, Voice):
            if maker.voice not in sounding:
                yield f"makers.{maker.id}.voice: there is no voice '{maker.voice}'"
            if maker.jaw not in moving:
                yield f"makers.{maker.id}.jaw: there is no ribbon of a joint '{maker.jaw}'"
    for voice in score.voices:
        for play in voice.plays:
            if play.sound not in sounds:
                yield f"channels.{voice.id}.plays.{play.id}.sound: there is no sound '{play.sound}'"
            if play.made_by and play.made_by not in {each.id for each in figure.lines}:
                yield f"channels.{voice.id}.plays.{play.id}.made_by: there is no list of lines '{play.made_by}'"


def _circles(joints: tuple[Joint, ...]) -> Iterable[str]:
    ahead = {joint.id: joint.follows.joint for joint in joints if joint.role == "follows" and joint.follows is not None}
    for start in ahead:
        seen, here = set(), start
        while here in ahead and here not in seen:
            seen.add(here)
            here = ahead[here]
        if here == start:
            yield f"joints.{start}.follows: it follows itself, by way of {', '.join(sorted(seen))}"
    parent = {joint.id: joint.rides_on for joint in joints}
    for start in parent:
        seen, here = set(), start
        while here in parent and here not in seen:
            seen.add(here)
            here = parent[here]
        if here == start and here in seen:
            yield f"joints.{start}.rides_on: it rides on itself, by way of {', '.join(sorted(seen))}"
