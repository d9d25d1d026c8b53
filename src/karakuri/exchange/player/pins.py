"""Which output of the player is which pin: from the figure's plugs, or, where nothing is plugged in yet, as a controller's outputs are numbered.

pins.h, the README's list and what is refused all come from one table.
"""

from __future__ import annotations

from collections.abc import Iterable

from karakuri.actuators.generator import CLOCK_HZ
from karakuri.catalogue.boards import BoardKind, BoardPin, board_kind
from karakuri.errors import Fault, FileTrouble
from karakuri.exchange.outputs import Output, first_outputs, outputs
from karakuri.exchange.player.kinds import CORE, PulseKind, pulse_kind
from karakuri.exchange.player.size import Controller, controllers
from karakuri.frozen import Frozen
from karakuri.model.board import PULSED, Board, Plug
from karakuri.model.figure import Figure
from karakuri.model.leads import called, leads_of
from karakuri.wiring.clashes import MOST_BY_TIMER, clashes, is_receiver
from karakuri.wiring.following import address_of, followers, follows, is_driven, leaders, told_channels

LEAST_OUTPUTS, LIGHT_TIMER = 16, 2


class PinRow(Frozen):
    """One output: its number and name, whether it is a light, the pin of the controller or None, where it is wired, in words, and how many lamps a string
    of them has, else 0."""

    number: int
    name: str
    light: bool
    pin: BoardPin | None
    where: str
    lamps: int = 0


class InputRow(Frozen):
    """One input on a pin of the controller: its id and name, whether it is a level, and whether its contact pulls the pin low; or whether it is a
    receiver's channel, whose pulses are measured."""

    ident: str
    pin: BoardPin
    name: str
    analog: bool
    low: bool
    receiver: bool = False


class GeneratorRow(Frozen):
    """A pulse generator: its address on the bus, its own clock, Hz, the output that is its first channel, what it is called, and whether it is one of the figure's
    boards rather than as it comes."""

    address: int
    clock_Hz: float
    first: int
    name: str
    wired: bool = True


class PinTable(Frozen):
    """All outputs of a player by number, the controller's pin for the stop switch, its kind, pulse generators on its bus, and receivers with the group in which
    their pins tell of changes."""

    rows: tuple[PinRow, ...]
    stop: BoardPin
    inputs: tuple[InputRow, ...]
    kind: BoardKind
    generators: tuple[GeneratorRow, ...] = ()
    edges: tuple[tuple[InputRow, int], ...] = ()

    @property
    def pulses(self) -> tuple[PinRow, ...]:
        """Servos whose pulses the controller makes itself."""
        return tuple(row for row in self.rows if not row.light and row.pin is not None)

    @property
    def lights(self) -> tuple[PinRow, ...]:
        """Lights that a timer of the controller dims."""
        return tuple(row for row in self.rows if row.light and not row.lamps and row.pin is not None)

    @property
    def strings(self) -> tuple[PinRow, ...]:
        """Strings of lamps that the controller sends."""
        return tuple(row for row in self.rows if row.lamps and row.pin is not None)

    @property
    def count(self) -> int:
        """How many outputs a board with these has."""
        return max([LEAST_OUTPUTS, *(row.number + 1 for row in self.rows)])


def as_wired(figure: Figure) -> tuple[Controller, PulseKind] | None:
    """The controller that the figure's boards say, and who makes the pulses; None where they name none. Raises FileTrouble where several lead, where what it
    drives is on boards a player does not know, or where that is a single-board computer."""
    found = leaders(figure)
    if not found:
        return None
    faults = []
    if len(found) > 1:
        faults.append(Fault("boards", "one controller that leads", f"{len(found)}: {', '.join(board.name for board in found)}"))  # fmt: skip
    driven = {plug.board for plug in figure.plugs if is_driven(plug)}
    for board in figure.boards:
        if board.id in driven and board_kind(board.kind).what == "outputs" and board.kind != "generator":
            faults.append(Fault(f"board {board.name}", "a pulse generator, or the controller itself", board_kind(board.kind).name))  # fmt: skip
    if faults:
        raise FileTrouble("The player was not written.", tuple(faults), "A player drives one controller, and on its bus pulse generators and controllers that follow it: plug these into its bus, and all else into any of them, on the Power bench under “the wiring”. What stays on another board wants a program of your own, and is taken out for this.")  # fmt: skip
    if board_kind(found[0].kind).computer:
        raise FileTrouble("The player was not written.", (Fault(f"board {found[0].name}", "a small controller", board_kind(found[0].kind).name),), "Choose plain Python: that is the player of a single-board computer.")  # fmt: skip
    own = any(plug.of in PULSED and plug.board == found[0].id for plug in figure.plugs)
    hung = any(board.kind == "generator" for board in figure.boards) or bool(followers(figure))
    chip = next(each for each in controllers() if each.id == found[0].kind)
    return chip, CORE if chip.core else pulse_kind("i2c" if hung and not own else "timer")


def pin_table(figure: Figure, controller: Controller, kind: PulseKind) -> PinTable:
    """The pins of a figure's player. Raises FileTrouble with what is plugged in nowhere, or where it cannot be."""
    chip, found = board_kind(controller.id), outputs(figure)
    wired = any(board_kind(board.kind).what == "controller" for board in figure.boards)
    rows = tuple(_wired(figure, found) if wired else _by_number(chip, found, kind))
    if wired:
        faults = [Fault(row.name, "a pin of a board", "none: plug it in") for row, o in zip(rows, found, strict=True) if o.plug is None]  # fmt: skip
        faults += [Fault(next(b.name for b in figure.boards if b.id == clash.board), "no clash", clash.words) for clash in clashes(figure) if clash.plugs]  # fmt: skip
        if faults:
            raise FileTrouble("The player was not written.", tuple(faults[:12]), "Mend the wiring on the Power bench, under “the wiring”.")  # fmt: skip
    inputs = _inputs(figure) if wired else ()
    edges = tuple((row, chip.edges[row.pin.port[0]]) for row in inputs if row.receiver and not chip.core)
    return PinTable(rows, chip.by_id[chip.stop], inputs, chip, generators_of(figure), edges)


def generators_of(figure: Figure) -> tuple[GeneratorRow, ...]:
    """The figure's pulse generators, and the controllers that follow, which are told the same; one generator as it comes where it has none."""
    comes, begins = board_kind("generator").address or 0, first_outputs(figure)
    made = tuple(
        GeneratorRow(board.address or comes, CLOCK_HZ if board.clock_MHz is None else board.clock_MHz * 1e6, begins[board.id], board.name)
        for board in figure.boards if board.kind == "generator"
    )  # fmt: skip
    made += tuple(
        GeneratorRow(address_of(board) or 0, CLOCK_HZ, begins[board.id], board.name) for board in followers(figure)
    )
    return made or (GeneratorRow(comes, CLOCK_HZ, 0, "as it comes", False),)


def _wired(figure: Figure, found: tuple[Output, ...]) -> Iterable[PinRow]:
    boards: dict[str, Board] = {board.id: board for board in figure.boards}
    several = sum(board.kind == "generator" for board in figure.boards) > 1
    told = told_channels(figure)
    for output in found:
        light = output.pulses is None
        if output.plug is None:
            yield PinRow(output.number, output.name, light, None, "nowhere yet")
            continue
        board, pin = boards[output.plug.board], output.plug.pin("signal") or ""
        kind = board_kind(board.kind)
        own, channel = kind.what == "controller" and not follows(figure, board), told.get(output.plug.id)
        where = f"pin {pin}" if own else f"pin {pin} of {board.name}" if channel is not None else f"channel {pin} of {board.name if several else 'the generator'}"  # fmt: skip
        yield PinRow(output.number, output.name, light, kind.by_id.get(pin) if own else None, where + (f", a string of {output.plug.lamps}" if output.plug.lamps else ", dimmed" if light else ""), output.plug.lamps)  # fmt: skip


def computer_pins(figure: Figure) -> PinTable:
    """Of a single-board computer: its inputs, those that are on its pins, the string of lamps it sends, and its generators; all other outputs are on those."""
    kind = board_kind("computer")
    mine = {board.id for board in figure.boards if board.kind == kind.id}
    inputs = tuple(
        row for row, plug in zip(_inputs(figure), _plugs_of_inputs(figure), strict=True) if plug.board in mine
    )
    rows = tuple(_wired(figure, tuple(o for o in outputs(figure) if o.plug is not None and o.plug.board in mine)))
    return PinTable(rows, kind.by_id[kind.stop], inputs, kind, generators_of(figure))


def _plugs_of_inputs(figure: Figure) -> tuple[Plug, ...]:
    """Plugs of inputs on pins of controllers."""
    boards = {board.id: board_kind(board.kind) for board in figure.boards}
    return tuple(
        plug
        for plug in figure.plugs
        if plug.of == "input" and boards[plug.board].what == "controller" and (plug.pin("signal") or "") in boards[plug.board].by_id
    )  # fmt: skip


def _inputs(figure: Figure) -> tuple[InputRow, ...]:
    """What notices, on pins of controllers; what hangs between a pin and ground pulls it low."""
    found = []
    boards = {board.id: board_kind(board.kind) for board in figure.boards}
    for plug in _plugs_of_inputs(figure):
        leads, pin = leads_of(figure, plug), boards[plug.board].by_id[plug.pin("signal") or ""]
        found.append(InputRow(plug.item, pin, called(figure, plug), leads[0].wants == "analog", len(leads) == 2, is_receiver(figure, plug)))  # fmt: skip
    return tuple(found)


def _by_number(chip: BoardKind, found: tuple[Output, ...], kind: PulseKind) -> Iterable[PinRow]:
    """Nothing is decided yet: servos as the controller's or the generator's outputs are numbered, the first lights on the pins of one timer."""
    dimming = sorted((pin for pin in chip.pins if pin.timer == LIGHT_TIMER), key=lambda pin: pin.compare, reverse=True)
    lights = 0
    for output in found:
        if output.pulses is None:
            pin = dimming[lights] if lights < len(dimming) else None
            lights += 1
            where = f"pin {pin.id}, dimmed" if pin is not None else f"no pin: {len(dimming)} lights at most"
            yield PinRow(output.number, output.name, True, pin, where)
        elif kind.id == "timer":
            own = chip.of_output(output.number) if output.number < MOST_BY_TIMER else None
            yield PinRow(output.number, output.name, False, own, f"pin {own.id}" if own is not None else "no pin")
        else:
            yield PinRow(output.number, output.name, False, None, f"channel {output.number} of the generator")
