"""What clashes: a pin asked for twice, one that cannot do what is asked of it, a timer with two tasks, an address two answer to, nothing to answer to."""

from __future__ import annotations

from collections.abc import Iterator

from karakuri.catalogue.boards import BoardKind, BoardPin, StringPin
from karakuri.frozen import Frozen
from karakuri.model.board import Board, Plug
from karakuri.model.figure import Figure
from karakuri.model.leads import ABILITY_WORDS, Lead, called, leads_of
from karakuri.wiring.following import CHANNELS, address_of, addresses_of, channels_of, follows, hangs_on, told_at
from karakuri.wiring.table import kind_of

PULSE_TIMER = 1
"""The timer that makes servo pulses and frames in the player, on every 8-bit controller."""
MOST_BY_TIMER = 8
"""So many pulses of 2.5 ms, one after the other, fill a frame of 20 ms."""


class Clash(Frozen):
    """What is wrong, in words, on which board and with which plugs, by id."""

    key: str
    words: str
    board: str
    plugs: tuple[str, ...]


def clashes(figure: Figure) -> tuple[Clash, ...]:
    """All of them, board by board."""
    return tuple(each for board in figure.boards for each in _of_board(figure, board))


def _of_board(figure: Figure, board: Board) -> Iterator[Clash]:
    kind = kind_of(board)
    here = [plug for plug in figure.plugs if plug.board == board.id]
    asked: dict[str, list[tuple[Plug, Lead]]] = {}
    for plug in here:
        for lead in leads_of(figure, plug):
            at = plug.pin(lead.id)
            if lead.signal and at is not None:
                asked.setdefault(at, []).append((plug, lead))
    for pin_id, some in asked.items():
        pin = kind.by_id.get(pin_id)
        shared = pin is not None and all(lead.wants in ("data", "clock") for _, lead in some)  # a bus is shared
        if len(some) > 1 and not shared:
            names = " and ".join(called(figure, plug) for plug, _ in some)
            yield Clash(f"pin_{pin_id}", f"Pin {pin_id} of {board.name} is asked for by {names}.", board.id, tuple(plug.id for plug, _ in some))  # fmt: skip
        for plug, lead in some:
            yield from _cannot(figure, board, kind, pin_id, pin, plug, lead)
    if kind.what == "controller":
        yield from _timers(figure, board, kind, asked)
    yield from _bus(figure, board, kind, here)
    if follows(figure, board):
        yield from _following(figure, board, kind, here, asked)


def _cannot(figure: Figure, board: Board, kind: BoardKind, pin_id: str, pin: BoardPin | None, plug: Plug, lead: Lead) -> Iterator[Clash]:  # fmt: skip
    name = called(figure, plug)
    if pin is None:
        what = f"it has pins {kind.pins[0].id} to {kind.pins[-1].id}" if kind.pins else "it has none"
        yield Clash(f"no_{plug.id}_{lead.id}", f"{name} is plugged into pin {pin_id} of {board.name}, and {what}.", board.id, (plug.id,))  # fmt: skip
    elif lead.wants not in pin.does:
        wants = ABILITY_WORDS[lead.wants]  # type: ignore[index]
        does = ", ".join(ABILITY_WORDS[each] for each in pin.does) or "nothing"  # type: ignore[index]
        yield Clash(f"cannot_{plug.id}_{lead.id}", f"{name} wants {wants}, and pin {pin_id} of {board.name} does {does}.", board.id, (plug.id,))  # fmt: skip


def _timers(figure: Figure, board: Board, kind: BoardKind, asked: dict[str, list[tuple[Plug, Lead]]]) -> Iterator[Clash]:  # fmt: skip
    """Frames and pulses have one timer: what it would dim flickers. And only so many pulses fit one after the other."""
    dimmed = [(plug, pin) for pin, some in asked.items() for plug, lead in some if lead.wants == "dim"]
    for plug, pin in dimmed:
        at = kind.by_id.get(pin)
        if at is not None and at.timer == PULSE_TIMER:
            text = f"{called(figure, plug)} is dimmed on pin {pin} of {board.name}, and the timer of that pin, timer {PULSE_TIMER}, makes the frames."
            yield Clash(f"timer_{plug.id}", text, board.id, (plug.id,))
    pulsed = [plug for some in asked.values() for plug, lead in some if lead.wants == "pulse"]
    if len(pulsed) > MOST_BY_TIMER:
        text = (
            f"{len(pulsed)} servos get their pulses from {board.name} itself: one after the other, {MOST_BY_TIMER} fill a frame of 20 ms. A pulse "
            "generator drives sixteen."
        )
        yield Clash(f"pulses_{board.id}", text, board.id, tuple(plug.id for plug in pulsed))
    strings = [plug for some in asked.values() for plug, _ in some if plug.lamps]
    if kind.string is not None:
        yield from _by_spi(figure, board, kind.string, asked)
    for pin, some in asked.items():
        for plug, _ in some:
            if is_receiver(figure, plug) and kind.computer:
                text = f"{called(figure, plug)}’s pulses are on pin {pin} of {board.name}, and a computer with an operating system measures none. Put the receiver on a small controller."
                yield Clash(f"measured_{plug.id}", text, board.id, (plug.id,))
            elif is_receiver(figure, plug):
                yield from _measured(figure, board, kind, plug, pin, pulsed + (strings if kind.string is None else []))
    for plug, lead in asked.get(kind.stop, ()):
        text = (
            f"{called(figure, plug)} is on pin {kind.stop} of {board.name}, where the player looks for its stop switch."
        )
        yield Clash(f"stop_{plug.id}_{lead.id}", text, board.id, (plug.id,))


def _by_spi(figure: Figure, board: Board, at: StringPin, asked: dict[str, list[tuple[Plug, Lead]]]) -> Iterator[Clash]:
    """A string that is sent by SPI goes from one pin, and takes others with it."""
    strings = [(plug, pin) for pin, some in asked.items() for plug, _ in some if plug.lamps]
    for plug, pin in strings:
        if pin != at.pin:
            text = f"{called(figure, plug)}, a string of lamps, is on pin {pin} of {board.name}, which sends one string, from pin {at.pin}."
            yield Clash(f"string_{plug.id}", text, board.id, (plug.id,))
        elif at.most and plug.lamps > at.most:
            text = f"{called(figure, plug)} has {plug.lamps} lamps, and {board.name} sends {at.most} at once. Part it, or put the rest on another controller."
            yield Clash(f"lamps_{plug.id}", text, board.id, (plug.id,))
    for pin in at.takes if strings else ():
        for plug, lead in asked.get(pin, ()):
            text = f"{called(figure, plug)} is on pin {pin} of {board.name}, which goes with {at.pin} while that sends the lamps of {called(figure, strings[0][0])}."
            yield Clash(f"spi_{plug.id}_{lead.id}", text, board.id, (plug.id,))


def is_receiver(figure: Figure, plug: Plug) -> bool:
    """Whether a plug is a receiver's channel."""
    return plug.of == "input" and figure.behaviour is not None and figure.behaviour.input(plug.item).kind == "receiver"


def _measured(figure: Figure, board: Board, kind: BoardKind, plug: Plug, pin_id: str, busy: list[Plug]) -> Iterator[Clash]:  # fmt: skip
    """A receiver's pulses are measured by when its pin changes: on pins that tell, and by nobody who makes pulses or sends strings meanwhile."""
    pin, name = kind.by_id.get(pin_id), called(figure, plug)
    if pin is not None and pin.port and not kind.core and pin.port[0] not in kind.edges:
        able = ", ".join(p.id for p in kind.pins if p.port and p.port[0] in kind.edges and p.id != kind.stop)
        yield Clash(f"edges_{plug.id}", f"{name} is on pin {pin_id} of {board.name}, which does not tell when it changes; these do: {able}.", board.id, (plug.id,))  # fmt: skip
    if busy:
        text = (
            f"{name}’s pulses are measured by {board.name}, which makes pulses itself or sends a string of lamps ({called(figure, busy[0])}): each would spoil "
            "the other. Put the servos on a pulse generator, and lamps on another controller."
        )
        yield Clash(f"measured_{plug.id}", text, board.id, (plug.id, busy[0].id))


def _following(figure: Figure, board: Board, kind: BoardKind, here: list[Plug], asked: dict[str, list[tuple[Plug, Lead]]]) -> Iterator[Clash]:  # fmt: skip
    """What a controller cannot do that follows another: it decides nothing and has its own bus for being told."""
    chief = hangs_on(figure, board)
    head = chief.name if chief is not None else ""
    if chief is not None and (kind_of(chief).what != "controller" or follows(figure, chief)):
        text = f"{board.name} hangs on {head}, which leads nobody: plug it into the bus of the controller that leads."
        yield Clash(f"leads_{board.id}", text, board.id, tuple(p.id for p in figure.plugs if p.of == "board" and p.item == board.id))  # fmt: skip
    for plug in here:
        if plug.of in ("input", "voice", "board"):
            text = f"{called(figure, plug)} is plugged into {board.name}, which follows {head} and decides nothing: plug it into {head}."
            yield Clash(f"decides_{plug.id}", text, board.id, (plug.id,))
    for pin in told_at(figure, board):
        for plug, lead in asked.get(pin, ()):
            if lead.wants not in ("data", "clock"):
                text = f"{called(figure, plug)} is on pin {pin} of {board.name}, its bus, on which it follows {head}."
                yield Clash(f"own_bus_{plug.id}_{lead.id}", text, board.id, (plug.id,))
    told = list(channels_of(figure, board))
    if len(told) > CHANNELS:
        text = f"{len(told)} things are driven by {board.name}, which is told {CHANNELS} channels by the one that it follows."
        yield Clash(f"channels_{board.id}", text, board.id, tuple(told[CHANNELS:]))


def _bus(figure: Figure, board: Board, kind: BoardKind, here: list[Plug]) -> Iterator[Clash]:
    """What hangs on a bus answers to an address of its own, and one that has to hang on one does."""
    heard: dict[int, list[Plug]] = {}
    for plug in here:
        if plug.of != "board":
            continue
        hung = next(each for each in figure.boards if each.id == plug.item)
        its = kind_of(hung)
        address, (low, high) = address_of(hung), addresses_of(hung)
        if address is None:
            text = f"{hung.name} follows no other controller." if its.what == "controller" else f"{hung.name} is no board that hangs on a bus."  # fmt: skip
            yield Clash(f"bus_{plug.id}", text, board.id, (plug.id,))
            continue
        if not low <= address <= high:
            text = f"{hung.name} has address {address} (0x{address:02X}), and its kind has {low} to {high} (0x{low:02X} to 0x{high:02X})."
            yield Clash(f"address_{plug.id}", text, board.id, (plug.id,))
        heard.setdefault(address, []).append(plug)
    for address, some in heard.items():
        if len(some) > 1:
            names = " and ".join(called(figure, plug) for plug in some)
            text = f"{names} answer to the same address on the bus of {board.name}, {address} (0x{address:02X})."
            yield Clash(f"address_{board.id}_{address}", text, board.id, tuple(plug.id for plug in some))
    hangs = {plug.item for plug in figure.plugs if plug.of == "board"}
    if kind.address is not None and board.id not in hangs:
        yield Clash(f"alone_{board.id}", f"{board.name} hangs on no controller's bus: nothing tells it what to do.", board.id, ())  # fmt: skip
