"""Strings of lamps, and what one controller has to do at once: what they draw, whether what feeds them and their data fit, whether all is done within a frame.

Told by the rule of wiring; of it only what is about lamps and frames.
"""

from __future__ import annotations

from collections.abc import Iterable

from karakuri.catalogue.boards import board_kind
from karakuri.checks.contract import Results
from karakuri.model.board import Board, BoardKindId, Plug
from karakuri.model.board_edits import add_board, set_plug
from karakuri.model.edit import Add, Edit, apply
from karakuri.model.figure import Figure
from karakuri.model.finding import Finding, Proposal, Sentence, finding_id
from karakuri.model.leads import called
from karakuri.model.power_edits import set_load
from karakuri.model.ref import Ref
from karakuri.power.fed import most_V
from karakuri.units import Quantity
from karakuri.wiring.at_once import FRAME_S, RESET_S, SPARE_S, at_once, controllers_of, lamp_s, string_s
from karakuri.wiring.plug_in import Thing, home_of, move_plug

SECOND: BoardKindId = "atmega328p"
LAMP_A = 0.06
"""60 mA of a lamp with three colours, all of them in full: common practice, no source."""
LAMPS_MOST_V, HIGH = 5.3, 0.7
"""What such lamps take at most, V, and which share of it their data wire has to reach: data sheets of 5 V lamps with one data wire, from memory."""
TOLD = ("lamps", "level", "data", "pulses", "frame", "strings")
"""How the ids of what is told here end."""


def find(results: Results) -> Iterable[Finding]:
    for plug in results.figure.plugs:
        if plug.of == "light" and plug.lamps:
            yield from _lamps(results, plug)
            yield from _level(results, plug)
    for board in controllers_of(results.figure):
        yield from _at_once(results, board)


def _lamps(results: Results, plug: Plug) -> Iterable[Finding]:
    """What a string of lamps may draw, all of them white, against what is written of it; only where power is asked of."""
    power = results.figure.power
    if power is None:
        return
    name, most = called(results.figure, plug), Quantity(LAMP_A * plug.lamps, "current", rounding="up")
    load = next((each for each in power.loads if each.channel == plug.item), None)
    ident, ref = finding_id("wiring", plug.id, "lamps"), Ref("plug", plug.id)
    if load is None:
        text = f"The {plug.lamps} lamps of {name} may draw {{0}} all white, and nothing is written of it on the Power bench."
        yield Finding(ident, "wiring", ref, "not yet judged", Sentence(text, (most,)), measure=Sentence("its current is not written"))  # fmt: skip
        return
    written = Quantity(load.amps, "current")
    if load.amps < LAMP_A * plug.lamps * 0.999:
        text = f"The {plug.lamps} lamps of {name} may draw {{0}} all white, 60 mA each (common practice); {{1}} is counted: is that all white, in full?"
        yield Finding(ident, "wiring", ref, "tight", Sentence(text, (most, written)), measure=Sentence("{0} all white", (most,)))  # fmt: skip
    else:
        text = f"The {plug.lamps} lamps of {name} may draw {{0}} all white; {{1}} is counted."
        yield Finding(ident, "wiring", ref, "holds", Sentence(text, (most, written)), measure=Sentence("{0} all white", (most,)))  # fmt: skip


def _level(results: Results, plug: Plug) -> Iterable[Finding]:
    """What feeds a string of lamps, and whether its data wire gets high enough for it."""
    figure = results.figure
    kind = board_kind(next(board.kind for board in figure.boards if board.id == plug.board))
    name, ident, ref = called(figure, plug), finding_id("wiring", plug.id, "level"), Ref("plug", plug.id)
    feeds, most = 5.0 if plug.fed_alone else most_V(figure), Quantity(LAMPS_MOST_V, "voltage", rounding="down")
    fed = Quantity(feeds, "voltage")
    if feeds > LAMPS_MOST_V:
        text = f"What feeds the servos has up to {{0}}; most strings of lamps with a data wire take {{1}} at most: feed {name} by 5 V of its own, its minus joined, unless its label says more."
        yield Finding(ident, "wiring", ref, "tight", Sentence(text, (fed, most)), measure=Sentence("{0} feeds it", (fed,)))  # fmt: skip
    if kind.volts is None or plug.shifted:
        return
    wants = HIGH * min(feeds, 5.0)
    comes, high = Quantity(kind.volts, "voltage", rounding="down"), Quantity(wants, "voltage", rounding="up")
    if kind.volts < wants:
        text = f"The data of {name} comes with {{0}}, and lamps fed with 5 V want {{1}} to be sure that it is on (0.7 of what feeds them): some strings stay dark or flicker. A level shifter between pin and first lamp helps."
        yield Finding(finding_id("wiring", plug.id, "data"), "wiring", ref, "tight", Sentence(text, (comes, high)), measure=Sentence("{0} of {1}", (comes, high)))  # fmt: skip


def _at_once(results: Results, board: Board) -> Iterable[Finding]:
    """Pulses of its own and strings of lamps, in one frame of 20 ms."""
    each, ref = at_once(results.figure, board), Ref("board", board.id)
    pulses, frame = Quantity(each.pulses, "time", rounding="up"), Quantity(FRAME_S, "time")
    if each.count:
        fits = each.pulses + SPARE_S <= FRAME_S
        text = f"The {each.count} widest pulses on {board.name} take {{0}} one after the other, of a frame's {{1}}"
        text += "." if fits else ": frames get longer when all are at that end, fewer than 50 a second."
        yield Finding(finding_id("wiring", board.id, "pulses"), "wiring", ref, "holds" if fits else "tight", Sentence(text, (pulses, frame)), measure=Sentence("{0} of a frame", (pulses,)))  # fmt: skip
    if each.busy + SPARE_S > FRAME_S:
        busy = Quantity(each.busy, "time", rounding="up")
        text = f"Working out a frame and telling what hangs on its bus takes {board.name} {{0}}, of a frame's {{1}}: frames get longer, fewer than 50 a second."
        yield Finding(finding_id("wiring", board.id, "frame"), "wiring", ref, "tight", Sentence(text, (busy, frame)), measure=Sentence("{0} of a frame", (busy,)))  # fmt: skip
    if not each.strings:
        return
    shut = ", interrupts shut" if board_kind(board.kind).string is None else ""
    takes, left = Quantity(each.strings, "time", rounding="up"), Quantity(each.left, "time", rounding="down")
    names, quantities = " and ".join(each.names), [takes, left]
    worst = max(each.late, key=lambda one: one.turns, default=None)
    slip = ""
    if worst is not None:
        quantities.append(Quantity(worst.turns, "angle", rounding="up"))
        slip = f" Sent whenever they come, a pulse would end up to {{0}} late, {{2}} at the {worst.name}."
    reserve = each.left / each.strings
    if each.strings <= each.left:
        text = f"The lamps of {names} take {{0}} to send{shut}; {{1}} of each frame are left for that, and the player sends them there: no pulse is late.{slip}"
        verdict = "holds"
    else:
        text = f"The lamps of {names} take {{0}} to send{shut}, and {{1}} of a frame are left after the pulses and working out the next: they are not sent.{slip} Fewer lamps, a pulse generator for the servos, or a second controller for the lamps, which follows this one on its bus."
        verdict = "fails"
    yield Finding(finding_id("wiring", board.id, "strings"), "wiring", ref, verdict, Sentence(text, tuple(quantities)), reserve=reserve, demand=takes, capacity=left)  # type: ignore[arg-type]  # fmt: skip


def propose(finding: Finding, results: Results) -> Iterable[Proposal]:
    """What is drawn counted, 5 V of its own, a level shifter, fewer lamps."""
    figure, ident = results.figure, finding.subject.id
    if finding.id == finding_id("wiring", ident, "strings"):
        yield from _fewer(figure, ident)
        return
    plug = next((each for each in figure.plugs if each.id == ident), None)
    if plug is None:
        return
    name = called(figure, plug)
    if finding.id == finding_id("wiring", ident, "lamps"):
        load = next((each for each in figure.power.loads if each.channel == plug.item), None) if figure.power is not None else None  # fmt: skip
        if load is not None:
            amps = round(LAMP_A * plug.lamps, 3)
            yield Proposal(set_load(figure, load.id, "current", amps=amps), Sentence("Count {0}", (Quantity(amps, "current"),)), "count")  # fmt: skip
    elif finding.id == finding_id("wiring", ident, "level"):
        yield Proposal(set_plug(figure, ident, "5 V of its own", fed_alone=True), Sentence(f"Feed {name} by 5 V of its own"), "fed")  # fmt: skip
    elif finding.id == finding_id("wiring", ident, "data"):
        yield Proposal(set_plug(figure, ident, "a level shifter", shifted=True), Sentence(f"A level shifter before {name}"), "shifter")  # fmt: skip


def _fewer(figure: Figure, board_id: str) -> Iterable[Proposal]:
    """So many lamps on its longest string that all of them are sent; or that string on another controller."""
    board = next(each for each in figure.boards if each.id == board_id)
    strings = [plug for plug in figure.plugs if plug.board == board_id and plug.of == "light" and plug.lamps]
    longest, found = max(strings, key=lambda plug: plug.lamps), at_once(figure, board)
    kind = board_kind(board.kind)
    most = int((found.left - found.strings + string_s(longest.lamps, kind) - RESET_S) / lamp_s(kind))
    most = min(most, longest.lamps - 1)
    name = called(figure, longest)
    if most > 0:
        yield Proposal(set_plug(figure, longest.id, f"{most} lamps", lamps=most), Sentence(f"{most} lamps for {name}"), "fewer")  # fmt: skip
    others = [other for other in controllers_of(figure) if other.id != board_id]
    for other in others:
        yield Proposal(move_plug(figure, longest.id, other.id), Sentence(f"Put {name} on {other.name}"), "other")
    if not others:
        yield from _another(figure, longest, name)


def _another(figure: Figure, plug: Plug, name: str) -> Iterable[Proposal]:
    """One more controller, which follows, for a string of lamps."""
    board, ident = add_board(figure, SECOND, "Second controller")
    now = apply(figure, board)
    steps = [*board.steps]
    hung = home_of(now, Thing("board", ident, "Second controller"))
    if hung is None:
        return
    steps.append(Add("plugs", hung))
    now = Figure(**(dict(now) | {"plugs": (*now.plugs, hung)}))
    steps += move_plug(now, plug.id, ident).steps
    yield Proposal(Edit(f"a second controller for {name}"[:80], tuple(steps)), Sentence(f"A second controller for {name}, which follows on the bus"), "second")  # fmt: skip
