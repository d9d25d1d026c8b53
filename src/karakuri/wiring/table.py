"""The table of wires: from what is plugged in, one row a wire: from, to, colour, gauge, length, pin, what it crosses.

Signals go from a thing to a pin of its board. What feeds a thing goes to its board where that hands power on beside each pin, else to the rail; minus always
comes back where plus came from, so that no servo's current goes home along a signal's ground (a star: common practice). The board itself is fed from the
rail, and the rail from what feeds the figure.
"""

from __future__ import annotations

from collections.abc import Iterator

from msgspec.structs import replace

from karakuri.catalogue.boards import BoardKind, board_kind
from karakuri.frozen import Frozen
from karakuri.model.board import Board, Plug
from karakuri.model.figure import Figure
from karakuri.model.leads import Lead, called, leads_of
from karakuri.model.part import BASE
from karakuri.model.ref import Ref
from karakuri.wiring.ways import Spot, Way, way

FEED, OWN = "supply", "5 V of its own"
FEEDS_AWG = 22


class End(Frozen):
    """One end of a wire: what it is at, its name, and the pin or terminal there."""

    ref: Ref
    name: str
    pin: str


class Wire(Frozen):
    """One wire: its number from 1, its ends, colour and gauge; how long to cut it, m, None where nobody said where an end is, and whether that is worked out
    rather than measured; the joints it crosses, by id, and whose it is. `feeds`: it carries power."""

    number: int
    a: End
    b: End
    colour: str
    awg: int
    length: float | None
    worked_out: bool
    crosses: tuple[str, ...]
    plug: str
    lead: str
    feeds: bool


def spot_of_board(figure: Figure, board: Board) -> Spot | None:
    """Where a board lies; None where nobody said."""
    if board.part is not None:
        part = figure.part(board.part)
        return Spot(part.rides_on, part.at_mm)
    return None if board.at_mm is None else Spot(board.rides_on, board.at_mm)


def spot_of(figure: Figure, plug: Plug) -> Spot | None:
    """Where what is plugged in is; None where nobody said."""
    if plug.of == "drive":
        drive = next(each for each in figure.drives if each.id == plug.item)
        joint = figure.joint(drive.joint)
        return Spot(figure.mounted_on(drive), drive.at_mm or joint.at_mm)
    if plug.of == "board":
        return spot_of_board(figure, next(each for each in figure.boards if each.id == plug.item))
    if plug.at_mm is not None:
        return Spot(plug.rides_on or BASE, plug.at_mm)
    if plug.of == "input" and figure.behaviour is not None:
        at = figure.behaviour.input(plug.item).at_mm
        return None if at is None else Spot(plug.rides_on or BASE, at)
    return None


def kind_of(board: Board) -> BoardKind:
    """What kind of board it is."""
    return board_kind(board.kind)


def rail_of(figure: Figure, board: Board) -> Board | None:
    """What feeds the things of a board: itself where it hands power on, else the first rail there is."""
    if kind_of(board).rail:
        return board
    return next((each for each in figure.boards if kind_of(each).what == "rail"), None)


def way_of(figure: Figure, plug: Plug) -> Way | None:
    """From what is plugged in to its board; None where an end is not said."""
    a = spot_of(figure, plug)
    b = spot_of_board(figure, next(each for each in figure.boards if each.id == plug.board))
    return None if a is None or b is None else way(figure, a, b)


def ways_of(figure: Figure, plug: Plug) -> tuple[tuple[Spot, Spot, Way], ...] | None:
    """Both ends and the way of each place its wires go to: its board, and the rail where what feeds it comes from there. None where one is not said."""
    here = spot_of(figure, plug)
    boards = {board.id: board for board in figure.boards}
    board = boards[plug.board]
    rail = rail_of(figure, board)
    ids = {_goes_to(figure, board, rail, plug, lead).ref.id for lead in leads_of(figure, plug)} & set(boards)
    out = []
    for ident in sorted(ids):
        there = spot_of_board(figure, boards[ident])
        if here is None or there is None:
            return None
        out.append((here, there, way(figure, here, there)))
    return tuple(out)


def cut_m(figure: Figure, length: float) -> float:
    """How long a wire is cut for a way so long, m, in whole centimetres: slack over the way, and a tail at each end."""
    more = figure.assumptions
    whole = length * (1.0 + more.wire_slack_percent / 100.0) + 2.0 * more.wire_tail_mm / 1e3
    return -(-round(whole * 1e5) // 1000) / 100


def wires(figure: Figure) -> tuple[Wire, ...]:
    """All wires, numbered in the order of boards and what is plugged into each."""
    found: list[Wire] = []
    boards = {board.id: board for board in figure.boards}
    for board in figure.boards:
        found += _of_board(figure, board)
        for plug in (each for each in figure.plugs if each.board == board.id):
            found += _of_plug(figure, boards[plug.board], plug)
            found += _second(figure, plug)
    return tuple(replace(wire, number=k + 1) for k, wire in enumerate(found))


def _of_plug(figure: Figure, board: Board, plug: Plug) -> Iterator[Wire]:
    name, ref = called(figure, plug), _ref(figure, plug)
    rail = rail_of(figure, board)
    there, home = spot_of(figure, plug), spot_of_board(figure, board)
    for lead in leads_of(figure, plug):
        to = _goes_to(figure, board, rail, plug, lead)
        spot = home if to.ref.id == board.id else spot_of_board(figure, rail) if rail is not None else None
        made = way(figure, there, spot) if there is not None and spot is not None else None
        length = (
            plug.along_mm / 1e3 if plug.along_mm is not None else None if made is None else cut_m(figure, made.length)
        )
        carries = lead.wants in ("servo plus", "minus") and plug.of in ("drive", "light", "voice")
        awg = plug.power_awg if carries else plug.gauge_awg
        crosses = made.crosses if made is not None else ()
        yield Wire(0, End(ref, name, _sign(lead)), to, lead.colour, awg, length, plug.along_mm is None, crosses, plug.id, lead.id, carries)  # fmt: skip


def _second(figure: Figure, plug: Plug) -> Iterator[Wire]:
    """Of two servos on one joint the second: its leads go to those of the first, by a Y lead."""
    drive = next((each for each in figure.drives if plug.of == "drive" and each.id == plug.item), None)
    if drive is None or drive.servos < 2:
        return
    first, name, ref = spot_of(figure, plug), called(figure, plug), _ref(figure, plug)
    there = Spot(figure.mounted_on(drive), drive.other_at_mm or drive.at_mm or figure.joint(drive.joint).at_mm)
    made = way(figure, there, first) if first is not None else None
    length = None if made is None else cut_m(figure, made.length)
    for lead in leads_of(figure, plug):
        pin = _sign(lead)
        awg = plug.gauge_awg if lead.signal else plug.power_awg
        yield Wire(0, End(ref, f"{name}, second", pin), End(ref, f"{name}, Y lead", pin), lead.colour, awg, length, True, made.crosses if made else (), plug.id, f"second {lead.id}", not lead.signal)  # fmt: skip


def _sign(lead: Lead) -> str:
    return {"plus": "+", "minus": "−"}.get(lead.id, lead.id)


def _goes_to(figure: Figure, board: Board, rail: Board | None, plug: Plug, lead: Lead) -> End:
    """Where a lead goes: to its pin, or to plus and minus of the board or of the rail."""
    here = Ref("board", board.id)
    if lead.signal:
        return End(here, board.name, plug.pin(lead.id) or "")
    of_servos = plug.of in ("drive", "light", "voice")
    if not of_servos:  # what notices, and what hangs on the bus, is fed by the board's own logic
        return End(here, board.name, "logic +" if lead.wants == "logic plus" else "−")
    if plug.lamps and plug.fed_alone and lead.wants == "servo plus":
        return End(Ref("supply"), OWN, "+")
    if rail is None:
        return End(Ref("supply"), figure.supply.name, "+" if lead.wants == "servo plus" else "−")
    where = Ref("board", rail.id)
    if plug.straight and rail.id != board.id:  # fed by the pin: home to the board
        return End(here, board.name, "−")
    return End(where, rail.name, "+" if lead.wants == "servo plus" else "−")


def _of_board(figure: Figure, board: Board) -> Iterator[Wire]:
    """What feeds a board: the rail, or for the rail itself what feeds the figure."""
    kind, ref = kind_of(board), Ref("board", board.id)
    rail = next((each for each in figure.boards if kind_of(each).what == "rail"), None)
    if rail is None or rail.id == board.id:
        power = figure.power
        to, spot = (Ref("supply"), figure.supply.name), None
        measured = power.wire.length_mm / 1e3 if power is not None else None
        awg = power.wire.gauge_awg if power is not None and 10 <= power.wire.gauge_awg <= 32 else FEEDS_AWG
    else:
        to, spot, measured, awg = (Ref("board", rail.id), rail.name), spot_of_board(figure, rail), None, FEEDS_AWG
    here = spot_of_board(figure, board)
    made = way(figure, here, spot) if here is not None and spot is not None else None
    length = measured if measured is not None else None if made is None else cut_m(figure, made.length)
    heavy = kind.rail
    for sign, colour in (("+", "red"), ("−", "black")):
        fed = (kind.computer or board.fed_alone) and sign == "+"  # not by what servos get
        at = kind.feed(5.0 if fed else figure.supply.voltage_V) if sign == "+" else None
        yield Wire(0, End(ref, board.name, at or sign), End(Ref("supply") if fed else to[0], OWN if fed else to[1], sign), colour, awg if heavy else FEEDS_AWG, None if fed else length, fed or measured is None,
                   made.crosses if made is not None and not fed else (), "", sign, heavy)  # fmt: skip


def _ref(figure: Figure, plug: Plug) -> Ref:
    return {
        "drive": Ref("drive", plug.item), "light": Ref("channel", plug.item), "run": Ref("channel", plug.item), "voice": Ref("channel", plug.item), "input": Ref("input", plug.item),
        "board": Ref("board", plug.item),
    }[plug.of]  # fmt: skip


def crossings(found: tuple[Wire, ...]) -> dict[str, tuple[Wire, ...]]:
    """Of each joint that wires cross, by id, which those are."""
    out: dict[str, list[Wire]] = {}
    for wire in found:
        for joint in wire.crosses:
            out.setdefault(joint, []).append(wire)
    return {joint: tuple(some) for joint, some in out.items()}
