"""The contract of a rule, and what rules are given.

To add a rule: write checks/NAME.py with `find(results)` that yields findings and, where edits can help, `propose(finding, results)`
that yields proposals; add a Rule line to checks/rules.py and a line to docs/rules.md that says what demand and capacity mean.
A rule computes nothing that a room below could compute for it; it puts results into words.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Iterable, Mapping, Sequence
from typing import TYPE_CHECKING, Generic, TypeVar

from karakuri.frozen import Frozen
from karakuri.model.finding import Action, Finding, Proposal, Sentence, verdict_of
from karakuri.model.part import Part
from karakuri.model.ref import Ref
from karakuri.sizing.wanted import AskedMove, WantedMove, asked_move
from karakuri.units import Quantity

if TYPE_CHECKING:
    from karakuri.actuators.servo import Capability
    from karakuri.bodies.inertia import Array
    from karakuri.bodies.tree import Tree
    from karakuri.mechanics.hanging import Hanging
    from karakuri.mechanics.pairs import RoomFound
    from karakuri.mechanics.rocking import Rocking
    from karakuri.mechanics.slid import Along
    from karakuri.mechanics.tipping import Tipping
    from karakuri.mechanics.worst import Worst
    from karakuri.model.element import Element
    from karakuri.model.figure import Figure
    from karakuri.model.joint import Joint
    from karakuri.model.loudness import Loudness
    from karakuri.model.score import Score
    from karakuri.power.fed import Asked
    from karakuri.power.over_score import Later
    from karakuri.power.over_score import Part as Drawn
    from karakuri.power.supply import StallSum
    from karakuri.sizing.cord import CordFound
    from karakuri.sizing.drag import Dragging, Returning
    from karakuri.sizing.fastened import FastenedFound, Thrown
    from karakuri.sizing.geared import Geared
    from karakuri.sizing.hand import HandFound
    from karakuri.sizing.hold import Hold
    from karakuri.sizing.ringing import Rung
    from karakuri.sizing.rods import RodFound
    from karakuri.sizing.score_loads import ScoreLoads
    from karakuri.sizing.shaft import Shaft
    from karakuri.sizing.shaking import Shaking
    from karakuri.sizing.speaking import Speaking
    from karakuri.sizing.stroke import Pace, StrokeFound
    from karakuri.sizing.strung import Strung
    from karakuri.sizing.tilted import Tilted
    from karakuri.sizing.tries import PlacedMove
    from karakuri.sizing.turning import TurnFound
    from karakuri.sizing.whipped import Whipped
    from karakuri.sizing.worn import WayFound

T = TypeVar("T")


class Needed(Frozen, eq=False):
    """What decides a joint's hold: value N·m that must be held for long, which is factor × the hold of `worst`."""

    value: float
    factor: float
    worst: Worst


class Shares(Frozen):
    """What a joint, by its id, asks at the worst pose of a drive that shares joints: its torque N·m, and what the drive gives for one newton metre of it,
    more where that is against it."""

    joint: str
    torque: float
    weight: float


class JointResults(Frozen, eq=False):
    """Everything computed about one driven turning joint. `missing` are parts without a mass that it carries, and what works against it as hard as nobody knows; `drag` is what its drive rubs
    with, its followers' share among it, and `move_bounds` the reserve of its move with that at its highest and lowest; `geared` what lies between
    it and its servo, None where that turns it itself. Where its drive shares joints with others, `moved` is the one whose wanted move is hardest for it,
    and `shares` what each of them asks of it. `rubs` N·m is what its placed move rubs with, as likely as not."""

    joint: Joint
    index: int
    hold: Hold
    placed: PlacedMove | None
    can: Capability | None
    move: WantedMove | None
    shaft: Shaft | None
    drag: Dragging | None
    move_bounds: tuple[float, float] | None
    missing: tuple[Part | Element, ...]
    geared: Geared | None = None
    moved: Joint | None = None
    shares: tuple[Shares, ...] = ()
    rubs: float = 0.0

    @property
    def opens(self) -> bool:
        """Whether what lies between it and its servo does not close all over the wanted range, or is no mechanism at all: then nothing of its servo is judged."""
        return self.geared is not None and (not self.geared.shut or bool(self.geared.flaw))

    @property
    def own(self) -> AskedMove | None:
        """Its own wanted move, rad and s, where it has one that is judged; a joint it shares its drive with may have a harder one."""
        return None if self.placed is None or self.joint.move is None else asked_move(self.joint, self.joint.move, 0.0)


class Key(Frozen, Generic[T]):
    """Under which the results keep what one analysis found: its name, and what kind of thing it finds."""

    name: str


class OtherScore(Frozen, eq=False):
    """A score that is not in hand: how many findings its study had, and those that do not hold, worst first."""

    score: Score
    count: int
    wrong: tuple[Finding, ...]


class LivedScore(Frozen, eq=False):
    """What a behaviour did as it was lived for judging, judged like a score: that score, sounds nobody could listen to though jaws go with them, by name, and what does not hold, worst first."""

    score: Score
    unheard: tuple[str, ...]
    wrong: tuple[Finding, ...]


class AtServo(Frozen):
    """What reaches one servo, by its plug, along its own wires: the most it draws over the score, A, or stalled where its load is not `known`; what it gets at its
    worst moment, V, and no less than `least` V."""

    plug: str
    amps: float
    volts: float
    least: float
    known: bool


class PowerFound(Frozen, eq=False):
    """What is drawn over the score: `parts` by load and region, (n,) A each, steps of step_s s apart, and their sum `total`; the peak when, s; `apart` the sum of each one's own peak, A. What that asks
    of what feeds it: `least` as far as it is known, `most` with each of the `unknown` servos stalled all the time. `unwritten`: what draws besides, and nobody said how much. `later`: what a region started a little later brings. `at_servos`: of servos with
    wires of their own whose length is known."""

    parts: tuple[Drawn, ...]
    total: Array
    step_s: float
    peak_at: float
    apart: float
    least: Asked
    most: Asked
    unknown: tuple[str, ...]
    unwritten: tuple[str, ...]
    later: Later | None
    at_servos: tuple[AtServo, ...] = ()


STANDING: Key[Tipping] = Key("standing")
ROCKS: Key[Rocking] = Key("rocks")
SHEDS: Key[tuple[Thrown, ...]] = Key("sheds")
TOPPLES: Key[Rocking] = Key("topples")
"""How the worst of the wanted moves throws the figure about on its foot."""
FLINGS: Key[tuple[Thrown, ...]] = Key("flings")
"""Where a wanted move asks most of each thing that holds something on."""
WHIPS: Key[tuple[Whipped, ...]] = Key("whips")
"""Where the score throws each rod about most."""
FLICKS: Key[tuple[Whipped, ...]] = Key("flicks")
"""The same of wanted moves."""
TILTS: Key[dict[str, Tilted]] = Key("tilts")
"""Of each joint by id of which it is known what carries it, what the score asks of that."""
SWINGS: Key[dict[str, Tilted]] = Key("swings")
"""The same of wanted moves."""
STALLS: Key[StallSum] = Key("stalls")
LOADS: Key[ScoreLoads] = Key("loads")
HANGS: Key[tuple[tuple[Hanging, ...], ...]] = Key("hangs")
"""Of each free joint, what it does in each posture."""
DRAGS: Key[tuple[Dragging, ...]] = Key("drags")
"""Of each joint of which something is said of what it rubs with."""
RETURNS: Key[tuple[Returning, ...]] = Key("returns")
"""What brings a joint back that rubs, has springs and no drive."""
SHAKES: Key[dict[str, Shaking]] = Key("shakes")
"""Of each driven joint by id, how it comes to rest; nothing in a quick study."""
RINGS: Key[dict[str, tuple[Rung, ...]]] = Key("rings")
"""Of each joint by id, how its moves of the score end."""
RODS: Key[tuple[RodFound, ...]] = Key("rods")
CORDS: Key[tuple[CordFound, ...]] = Key("cords")
SLIDES: Key[dict[str, Along]] = Key("slides")
"""Of each slide by id that no linear actuator drives and that does not hang free, what holds it."""
STROKES: Key[tuple[StrokeFound, ...]] = Key("strokes")
"""What each linear actuator that drives something does."""
PACES: Key[tuple[Pace, ...]] = Key("paces")
"""How fast the score asks each of them to go."""
POWER: Key[PowerFound] = Key("power")
"""Where the figure says what feeds it."""
SPOKEN: Key[tuple[Speaking, ...]] = Key("spoken")
"""How each voice of the score goes with its jaw."""
OTHERS: Key[tuple[OtherScore, ...]] = Key("others")
"""The scores that are not in hand, judged as if each were."""
LIVED: Key[LivedScore] = Key("lived")
"""What the behaviour does, judged as a score; None in a quick study, and where there is none."""
FASTENED: Key[tuple[FastenedFound, ...]] = Key("fastened")
WORN: Key[tuple[WayFound, ...]] = Key("worn")
"""How each way of carrying a worn figure does, its own first; its own alone while remedies are tried."""
TURNING: Key[tuple[TurnFound, ...]] = Key("turning")
"""What each motor that turns on does."""
HANDS: Key[tuple[HandFound, ...]] = Key("hands")
"""What each hand at a lever pushes and pulls."""
ROOM: Key[RoomFound] = Key("room")
"""Whether parts go past each other; None where nobody asked, and while a hand drags."""
STRUNG: Key[tuple[Strung, ...]] = Key("strung")


class Results(Frozen, eq=False):
    """What the rules are given: the figure, its tree, its judged joints, and what each analysis found, by its key. `need_of` searches
    another figure for propose(); `watch` are the moves that must be told of even if they hold; `broken` are things whose computing went
    wrong, with what was said: the rest is judged without them; `heard` is how loud the sounds are that could be listened to, by digest; None where nobody has listened yet.
    """

    figure: Figure
    tree: Tree
    gravities: Array
    joints: Sequence[JointResults]
    found: Mapping[str, object]
    need_of: Callable[[Figure, str], Needed | None]
    watch: frozenset[Ref] = frozenset()
    broken: tuple[tuple[Ref, str], ...] = ()
    heard: Mapping[str, Loudness] | None = None

    def __getitem__(self, key: Key[T]) -> T | None:
        """What an analysis found; None where there was nothing to find, or it went wrong."""
        found: T | None = self.found.get(key.name)  # type: ignore[assignment]
        return found

    @property
    def loads(self) -> ScoreLoads | None:
        """What the score asks of each judged joint; None where nothing moves."""
        return self[LOADS]

    def hold_of(self, joint_id: str) -> Worst | None:
        """The worst hold of a joint, or None where it is not judged."""
        return next((r.hold.worst for r in self.joints if r.joint.id == joint_id), None)

    def drag_of(self, joint_id: str) -> Dragging | None:
        """What a joint rubs with by itself, or None where nothing is said of it."""
        return next((drag for drag in self[DRAGS] or () if self.tree.ids[drag.j] == joint_id), None)

    def weightless(self, carried: tuple[str, ...]) -> tuple[Part, ...]:
        """Parts without a mass among these parts, and all that rides on these joints."""
        tree = self.tree
        links = {tree.index(ident) for ident in carried if ident in tree.ids}
        return tuple(
            self.figure.part(ident)
            for ident, link in tree.unknown
            if ident in carried or (link >= 0 and links & set(tree.chains[link]))
        )

    def of(self, joint_id: str) -> JointResults:
        """Results of a joint. Raises KeyError."""
        for results in self.joints:
            if results.joint.id == joint_id:
                return results
        raise KeyError(joint_id)


class Rule(Frozen):
    """One family: its id, what it finds, and what it proposes for a finding of its own; `each` where it is about one joint at a time."""

    id: str
    find: Callable[[Results], Iterable[Finding]]
    propose: Callable[[Finding, Results], Iterable[Proposal]]
    each: Callable[[JointResults, Results], Iterable[Finding]] | None = None

    @classmethod
    def of_joints(
        cls, ident: str, each: Callable[[JointResults, Results], Iterable[Finding]], propose: Callable[[Finding, Results], Iterable[Proposal]]
    ) -> Rule:  # fmt: skip
        """A rule about each judged joint by itself: what it tells rests on the joint's results, names, postures, the supply and the record."""
        return cls(
            ident, lambda results: (finding for r in results.joints for finding in each(r, results)), propose, each
        )


def not_weighed(ident: str, rule: str, about: Ref, name: str, unknown: tuple[Part, ...]) -> Finding:
    """What cannot be judged before the mass of something is known."""
    first = unknown[0]
    text = f"{name} cannot be judged: the mass of {first.name} is unknown."
    actions = (Action("Write the mass", Ref("part", first.id), "mass"),)
    return Finding(
        ident,
        rule,
        about,
        "not yet judged",
        Sentence(text),
        measure=Sentence(f"mass of {first.name} unknown"),
        actions=actions,
    )


def lacks(item: Part | Element) -> tuple[str, str, Action]:
    """What is not known of a thing, as a clause and in short, and where to say it."""
    if isinstance(item, Part):
        return (
            f"the mass of {item.name} is unknown",
            f"mass of {item.name} unknown",
            Action("Write the mass", Ref("part", item.id), "mass"),
        )
    action = Action("Say how hard it is to push", Ref("element", item.id), "force")
    return f"how hard {item.name} is to push is unknown", f"force of {item.name} unknown", action


def nothing(finding: Finding, results: Results) -> Iterable[Proposal]:
    """For rules that no edit can help."""
    return ()


def turned(r: JointResults) -> float:
    """How far a servo turns for the joint's wanted range, rad."""
    if r.geared is not None:
        return r.geared.travel
    return math.radians(r.joint.range_deg[1] - r.joint.range_deg[0])


def angle_words(joint: Joint, angle: float) -> str:
    """Template piece for an angle that says its direction; the quantity is |angle|."""
    degrees = math.degrees(angle)
    if abs(degrees) < 0.5:
        return "at rest"
    return "{0} " + (joint.ends[1] if degrees > 0 else joint.ends[0])


def angle(value: float) -> Quantity:
    """An angle's size as a quantity."""
    return Quantity(abs(value), "angle")


def torque(value: float, rounding: str = "nearest") -> Quantity:
    """A torque quantity; beside a capacity round down, beside a demand up."""
    return Quantity(value, "torque", rounding="up" if rounding == "up" else "down" if rounding == "down" else "nearest")


def posture_words(results: Results, posture: int) -> str:
    """', base NAME' where the figure has more than one posture."""
    if len(results.figure.postures) < 2:
        return ""
    return f", posture {results.figure.postures[posture].name}"


def wished(results: Results) -> float:
    """The wished margin."""
    return results.figure.assumptions.wished_margin


def verdict_of_interval(r: JointResults, results: Results) -> bool:
    """True where low and high of the masses give another verdict on holding than the nominal value."""
    if r.can is None or r.hold.high <= 0:
        return False
    low, high = r.hold.bounds(r.can)
    return len({verdict_of(value, wished(results)) for value in (r.hold.reserve(r.can), low, high)}) > 1
