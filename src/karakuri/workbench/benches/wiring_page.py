"""The cards of the wiring: all of it, one board, one thing that is plugged in."""

from __future__ import annotations

from karakuri.actuators.calibrate import clock_hz
from karakuri.actuators.generator import CLOCK_HZ
from karakuri.catalogue.boards import board_kind, board_kinds
from karakuri.checks.strings import LAMP_A
from karakuri.errors import EditRefused
from karakuri.exchange.exporters import exporter
from karakuri.model.assumptions import Assumptions
from karakuri.model.board import Board, Plug
from karakuri.model.board_edits import (
    add_board,
    board_of,
    plug_of,
    pull_out,
    remove_board,
    set_board,
    set_pin,
    set_plug,
)
from karakuri.model.leads import ABILITY_WORDS, called, leads_of
from karakuri.model.part import BASE
from karakuri.model.ref import FIGURE, Ref, item_of
from karakuri.units import Quantity
from karakuri.wiring.at_once import string_s
from karakuri.wiring.following import address_of, leaders, may_follow, told_at
from karakuri.wiring.plug_in import Thing, boards_for, free_pins, move_plug, not_plugged, plug_everything, plug_thing
from karakuri.wiring.table import way_of, wires
from karakuri.workbench.benches.figure_page import set_whole
from karakuri.workbench.desk import Desk
from karakuri.workbench.widgets.items import Block, Do, Fact, Head, Item, Note, Page, Pick, Write, WriteText
from karakuri.workbench.wishes import doing

KINDS = tuple((kind.id, kind.name) for kind in board_kinds())
SHORT = {"line": "Board", "atmega328p": "Controller", "atmega2560": "Controller", "rp2040": "Controller", "computer": "Computer", "generator": "Pulse generator", "rail": "Power rail"}  # fmt: skip
AXES = ("Ahead", "To its left", "Up")
MM, LAMPS = 1e-3, 12
CAUTION = (
    "Advises, certifies nothing. Pull the plug and take the cells out before you touch a wire. Mains stays in its own shut, earthed box, apart from all of "
    "this: local codes and licensed practice come first. A fuse sits beside what feeds; the thinnest wire behind it is what it must protect."
)


def in_hand(desk: Desk) -> Board | Plug | None:
    """The board or the plug in hand; None where it is neither."""
    item = item_of(desk.figure, desk.subject)
    if isinstance(item, Board):
        return item
    ident = plug_of(desk.figure, desk.subject)
    return next((plug for plug in desk.figure.plugs if plug.id == ident), None)


def wiring_page(desk: Desk) -> Page:
    """The card for what is in hand of the wiring."""
    item = in_hand(desk)
    return board_page(desk, item) if isinstance(item, Board) else plug_page(desk, item) if item is not None else whole_page(desk)  # fmt: skip


def whole_page(desk: Desk) -> Page:
    figure = desk.figure
    found = [f for f in desk.study.findings if f.rule == "wiring"] if desk.study is not None else []
    worst = min(found, key=lambda f: f.sort_key(), default=None)
    items: list[Item] = [Block("v", worst, figure.assumptions.wished_margin), Note("f", worst.sentence.show(desk.units))] if worst is not None else []  # fmt: skip
    if not figure.boards:
        items.append(Note("n", "Say which boards there are; then everything that moves, lights, sounds or notices is plugged in where it fits."))  # fmt: skip
    items.append(Pick("board", "Add a board", "choose", KINDS, lambda kind: _add(desk, kind)))
    if figure.boards:
        items.append(Do("all", "Plug everything in", lambda: desk.edit(lambda: plug_everything(desk.figure))))
    left = not_plugged(figure)
    if left and figure.boards:
        items.append(Head("hl", "Plugged in nowhere"))
        items += [Do(f"in {t.of} {t.item}", t.name, lambda t=t: _plug(desk, t)) for t in left]
    if figure.boards:
        items.append(Head("hb", "Boards"))
        items += [Do(f"to {board.id}", board.name, lambda board=board: desk.select(Ref("board", board.id))) for board in figure.boards]  # fmt: skip
        items.append(Do("out", "Export the wiring", lambda: desk.wanted.emit(doing(exporter("wiring")))))
        a: Assumptions = figure.assumptions
        items += [
            Head("hs", "Cut with"),
            Write("slack", "Slack over the way", Quantity(a.wire_slack_percent / 100, "percent"), "percent", lambda v: set_whole(desk, ("assumptions", "wire_slack_percent"), round(v * 100, 3), "slack of wires")),
            Write("tail", "More at each end", Quantity(a.wire_tail_mm * MM, "length"), "length", lambda v: set_whole(desk, ("assumptions", "wire_tail_mm"), round(v / MM, 2), "tails of wires")),
            Write("warm", "Wires get warm, °C", Quantity(a.wire_C, "count"), "count", lambda v: set_whole(desk, ("assumptions", "wire_C"), round(v, 2), "how warm wires get")),
            Note("s", "Yours to write; 10 %, 40 mm and 50 °C are common practice, no source."),
        ]  # fmt: skip
    items += [Head("hc", "Caution"), Note("c", CAUTION, True)]
    return Page("Wiring", f"{len(figure.boards)} boards, {len(figure.plugs)} things plugged in", tuple(items), ("wiring", ""))  # fmt: skip


def board_page(desk: Desk, board: Board) -> Page:
    figure, kind = desk.figure, board_kind(board.kind)

    def put(words: str, **fields: object) -> None:
        desk.edit(lambda: set_board(desk.figure, board.id, words, **fields))

    parts = (("", "a place of its own"), *((part.id, part.name) for part in figure.parts))
    items: list[Item] = [
        WriteText("name", "Name", board.name, lambda text: put("name", name=text.strip())),
        Pick("kind", "It is", kind.name, KINDS, lambda key: put("kind", kind=key)),
        Pick("part", "It lies where", dict(parts).get(board.part or "", ""), parts, lambda key: put("place", part=key or None)),
    ]  # fmt: skip
    if board.part is None:
        items += _place_items(desk, board.rides_on, board.at_mm, put)
    if kind.feeds:
        by = (("servos", "what feeds the servos"), ("own", "5 V of its own"))
        items.append(Pick("fedby", "Fed by", dict(by)["own" if board.fed_alone else "servos"], by, lambda key: put("what feeds it", fed_alone=key == "own")))  # fmt: skip
    if kind.address is not None:
        address = board.address if board.address is not None else kind.address
        items.append(Write("address", "Its address", Quantity(address, "count"), "count", lambda v: put("address", address=round(v))))  # fmt: skip
        items.append(Note("a", f"As it comes {kind.address}, 0x{kind.address:02X}; yours is set by its solder bridges. It is 0x{address:02X}."))  # fmt: skip
        asked, own = 1500.0, board.clock_MHz
        items += [
            Write("clock", "1500 µs measure", None if own is None else Quantity(asked * 1e-6, "pulse"), "pulse", lambda v: _clock(desk, board, asked, v * 1e6), "not noted", emptied=lambda: put("clock", clock_MHz=None)),
            Note("clk", f"Its clock is {own:.2f} MHz; players exported from now on divide by that. Measured again, it is still 1500." if own is not None else "Its clock is 25 MHz, nominal, a few per cent off. Let a player send 1500 µs, measure with a scope or a logic analyser, and write what you see."),
        ]  # fmt: skip
    hung = next((plug for plug in figure.plugs if plug.of == "board" and plug.item == board.id), None)
    if hung is not None and kind.follows is not None:
        address, chief = address_of(board), next(each.name for each in figure.boards if each.id == hung.board)
        items.append(Write("address", "Its address", Quantity(address or 0, "count"), "count", lambda v: put("address", address=round(v))))  # fmt: skip
        items.append(Note("fo", f"It follows {chief} on its bus and decides nothing: its program, exported with the player, does what it is told and goes to park by itself after half a second of silence. What notices and what speaks is plugged into {chief}."))  # fmt: skip
        items.append(Note("pu", f"Data to data, clock to clock, minus to minus; plus stays apart. Where no pulse generator hangs there, two resistors of 4.7 kΩ go from both to the logic + of {chief} (common practice)."))  # fmt: skip
    if hung is not None:
        items.append(Do("bus", "Where it hangs", lambda: desk.select(Ref("plug", hung.id))))
    elif kind.address is not None:
        items.append(Do("hang", "Hang it on a controller", lambda: _plug(desk, Thing("board", board.id, board.name))))  # fmt: skip
    elif board in may_follow(figure) and leaders(figure):
        items.append(Do("hang", f"Let it follow {leaders(figure)[0].name}", lambda: _plug(desk, Thing("board", board.id, board.name))))  # fmt: skip
    taken = {*told_at(figure, board), *(at for plug in figure.plugs if plug.board == board.id for _, at in plug.pins)}
    free = sum(pin.id not in taken for pin in kind.pins)
    if kind.pins:
        items.append(Fact("free", "Pins free", str(free), f"of {len(kind.pins)}", ""))
    if kind.pin_mA is not None:
        items.append(Fact("ma", "A pin gives", f"{kind.pin_mA:g}", "mA", "for long"))
    items += [
        *(
            [
                Note(
                    "bears",
                    f"Its pins bear {kind.volts:g} V and no more: what gives more, a sensor fed with 5 V or a generator’s bus, ends them.",
                    True,
                )
            ]
            if kind.volts is not None and kind.volts < 4
            else []
        ),
        Note("src", f"{kind.source}."),
        Do("rm", f"Remove {board.name}", lambda: _board_gone(desk, board)),
        Do("whole", "All of the wiring", lambda: desk.select(FIGURE)),
        Head("hc", "Caution"),
        Note("c", CAUTION, True),
    ]
    return Page(board.name, kind.name, tuple(items), ("board", board.id))


def plug_page(desk: Desk, plug: Plug) -> Page:
    figure = desk.figure
    board = next(each for each in figure.boards if each.id == plug.board)
    kind = board_kind(board.kind)

    def put(words: str, **fields: object) -> None:
        desk.edit(lambda: set_plug(desk.figure, plug.id, words, **fields))

    found = [f for f in desk.study.findings if f.rule == "wiring" and f.subject == Ref("plug", plug.id)] if desk.study is not None else []  # fmt: skip
    items: list[Item] = []
    for k, finding in enumerate(sorted(found, key=lambda f: f.sort_key())):
        items += [Block(f"v{k}", finding, figure.assumptions.wished_margin), Note(f"f{k}", finding.sentence.show(desk.units))]  # fmt: skip
    others = tuple((each.id, each.name) for each in boards_for(figure, Thing(plug.of, plug.item, "")))
    items.append(
        Pick(
            "board",
            "Plugged into",
            board.name,
            others,
            lambda key: desk.edit(lambda: move_plug(desk.figure, plug.id, key)),
        )
    )
    for lead in leads_of(figure, plug):
        if not lead.signal:
            continue
        pins = tuple((pin.id, f"pin {pin.id}") for pin in free_pins(figure, board, lead, plug))
        at = plug.pin(lead.id)
        items.append(Pick(f"p {lead.id}", f"{lead.id.capitalize()}, {lead.colour}", f"pin {at}" if at else "no pin", pins, lambda key, lead=lead: desk.edit(lambda: set_pin(desk.figure, plug.id, lead.id, key))))  # fmt: skip
        items.append(Note(f"w {lead.id}", f"Wants {ABILITY_WORDS[lead.wants]}."))
    if plug.of == "light":
        ways = (("no", "through a transistor"), ("yes", "by the pin itself"), ("string", "as a string of lamps"))
        items.append(Pick("fed", "Fed", dict(ways)["string" if plug.lamps else "yes" if plug.straight else "no"], ways, lambda key: put("how it is fed", straight=key == "yes", lamps=LAMPS if key == "string" else 0)))  # fmt: skip
    if plug.of == "light" and plug.lamps:
        items.append(
            Write(
                "lamps",
                "Lamps on it",
                Quantity(plug.lamps, "count"),
                "count",
                lambda v: put("lamps", lamps=max(1, round(v))),
            )
        )
        items.append(
            Note(
                "ls",
                f"A data wire of its own: {string_s(plug.lamps, kind) * 1e3:.1f} ms to send, about {LAMP_A * plug.lamps:.1f} A all white (60 mA a lamp, common practice).",
            )
        )
        by, ways = (
            (("servos", "what feeds the servos"), ("own", "5 V of its own")),
            (("no", "straight"), ("yes", "by a level shifter")),
        )
        items.append(Pick("lf", "Its plus from", dict(by)["own" if plug.fed_alone else "servos"], by, lambda key: put("what feeds it", fed_alone=key == "own")))  # fmt: skip
        items.append(Pick("ld", "Its data comes", dict(ways)["yes" if plug.shifted else "no"], ways, lambda key: put("its data", shifted=key == "yes")))  # fmt: skip
    if plug.of == "voice":
        items.append(Note("vs", "The exported player sends it its words a byte at a time while it waits for the next frame: no pulse is late by it. The same pin speaks the line protocol: it is one or the other."))  # fmt: skip
    if plug.of == "run":
        items.append(Note("rs", "The motor’s own controller: fed by a supply of its own, which is not in this table. Where its plug has a plus, leave that wire out: two supplies on one line feed each other."))  # fmt: skip
    if plug.of in ("light", "run", "voice", "input"):
        items.append(Head("hp", "Where it sits"))
        items += _place_items(desk, plug.rides_on or BASE, plug.at_mm, put)
    made = way_of(figure, plug)
    mine = [wire for wire in wires(figure) if wire.plug == plug.id]
    long = next((wire.length for wire in mine if wire.length is not None), None)
    items += [
        Head("hw", "Its wires"),
        Write("along", "Long, as they lie", None if long is None else Quantity(long, "length"), "length", lambda v: put("length", along_mm=round(v / MM, 2)), "not known", emptied=lambda: put("length", along_mm=None)),
        Note("l", "As you wrote it." if plug.along_mm is not None else "Say where both ends are, or write what you measured." if long is None else f"Worked out: {made.length / MM:.0f} mm by way of the pivots, slack and two tails; leave it empty for that." if made is not None else ""),
        Write("awg", "Signals, AWG", Quantity(plug.gauge_awg, "count"), "count", lambda v: put("gauge", gauge_awg=round(v))),
        Write("pawg", "What feeds it, AWG", Quantity(plug.power_awg, "count"), "count", lambda v: put("gauge", power_awg=round(v))),
    ]  # fmt: skip
    if made is not None and made.crosses:
        items.append(Note("x", f"They cross {', '.join(figure.joint(j).name for j in made.crosses)}."))
    items += [
        Do("rm", "Pull it out", lambda: _out(desk, plug)),
        Do("to", f"To {board.name}", lambda: desk.select(Ref("board", board.id))),
        Do("whole", "All of the wiring", lambda: desk.select(FIGURE)),
        Head("hc", "Caution"),
        Note("c", CAUTION, True),
    ]
    return Page(called(figure, plug), f"plugged into {board.name}", tuple(items), ("plug", plug.id))


def _place_items(desk: Desk, rides_on: str, at_mm: tuple[float, float, float] | None, put) -> list[Item]:
    """What it rides on and its place, three numbers; not said yet where there is none."""
    rides = ((BASE, "the base"), *((joint.id, joint.name) for joint in desk.figure.joints))
    items: list[Item] = [Pick("rides", "Rides on", dict(rides).get(rides_on, ""), rides, lambda key: put("what it rides on", rides_on=key))]  # fmt: skip
    at = at_mm or (0.0, 0.0, 0.0)
    for k, label in enumerate(AXES):
        value = Quantity(at[k] * MM, "length") if at_mm is not None else None
        items.append(Write(f"at{k}", label, value, "length", lambda v, k=k: put("place", at_mm=tuple(round(v / MM, 2) if n == k else at[n] for n in range(3))), "not said"))  # fmt: skip
    return items


def _add(desk: Desk, kind) -> None:
    made: list[str] = []

    def make():
        edit, ident = add_board(desk.figure, kind, SHORT[kind])
        made.append(ident)
        return edit

    if desk.edit(make) and made:
        desk.select(Ref("board", made[-1]))


def _plug(desk: Desk, thing: Thing) -> None:
    """Plug one thing in where it fits, and take it in hand."""
    if desk.edit(lambda: plug_thing(desk.figure, thing)):
        plug = next((p for p in desk.figure.plugs if (p.of, p.item) == (thing.of, thing.item)), None)
        if plug is not None:
            desk.select(Ref("plug", plug.id))


def _clock(desk: Desk, board: Board, asked_us: float, measured_us: float) -> None:
    """A generator's own clock from one pulse that was measured."""

    def make():
        try:
            taken = board_of(desk.figure, board.id).clock_MHz
            found = clock_hz(asked_us, measured_us, CLOCK_HZ if taken is None else taken * 1e6)
        except ValueError as trouble:
            raise EditRefused(f"Not written: {trouble}") from trouble
        return set_board(desk.figure, board.id, "clock", clock_MHz=round(found / 1e6, 4))

    desk.edit(make)


def _out(desk: Desk, plug: Plug) -> None:
    desk.edit(lambda: pull_out(desk.figure, plug.id))
    desk.select(FIGURE)


def _board_gone(desk: Desk, board: Board) -> None:
    desk.edit(lambda: remove_board(desk.figure, board.id))
    desk.select(FIGURE)
