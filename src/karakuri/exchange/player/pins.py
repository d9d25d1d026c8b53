"""Which output of the player is which pin: from the figure's plugs, or, where nothing is plugged in yet, as a controller's outputs are numbered.

pins.h, the README's list and what is refused all come from one table.
"""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

from karakuri.actuators.generator import CLOCK_HZ
from karakuri.catalogue.boards import BoardKind, BoardPin, board_kind
from karakuri.errors import Fault, FileTrouble
from karakuri.exchange.outputs import Output, outputs
from karakuri.exchange.player.kinds import CORE, PulseKind, pulse_kind
from karakuri.exchange.player.size import Controller, controllers
from karakuri.model.board import PULSED, Board, Plug
from karakuri.model.figure import Figure
from karakuri.model.leads import called, leads_of
from karakuri.wiring.at_once import string_s
from karakuri.wiring.clashes import MOST_BY_TIMER, clashes, is_receiver

LEAST_OUTPUTS, LIGHT_TIMER = 16, 2


@dataclass(frozen=True)
class PinRow:
    """One output: its number and name, whether it is a light, the pin of the controller or None, where it is wired, in words, and how many lamps a string
    of them has, else 0."""

    number: int
    name: str
    light: bool
    pin: BoardPin | None
    where: str
    lamps: int = 0


@dataclass(frozen=True)
class InputRow:
    """One input on a pin of the controller: its id and name, whether it is a level, and whether its contact pulls the pin low; or whether it is a
    receiver's channel, whose pulses are measured."""

    ident: str
    pin: BoardPin
    name: str
    analog: bool
    low: bool
    receiver: bool = False


@dataclass(frozen=True)
class PinTable:
    """All outputs of a player by number, the controller's pin for the stop switch, a generator's address and own clock, Hz, and
    receivers with the group in which their pins tell of changes."""

    rows: tuple[PinRow, ...]
    stop: BoardPin
    inputs: tuple[InputRow, ...]
    address: int
    clock_Hz: float
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
    """The controller that the figure's boards say, and who makes the pulses; None where they name none. Raises FileTrouble where they name several, or where
    servos are on the controller's own pins and on a generator too, or a single-board computer."""
    found = [board for board in figure.boards if board_kind(board.kind).what == "controller"]
    if not found:
        return None
    faults = []
    if len(found) > 1:
        faults.append(Fault("boards", "one controller", f"{len(found)}: {', '.join(board.name for board in found)}"))
    others = [board for board in figure.boards if board_kind(board.kind).what == "outputs"]
    driven = {plug.board for plug in figure.plugs if plug.of in PULSED}
    making = [board for board in (found[0], *others) if board.id in driven]
    if len(making) > 1:
        faults.append(Fault("servos", "all on one board", ", ".join(board.name for board in making)))
    for board in making:
        if board.id != found[0].id and board.kind != "generator":
            faults.append(Fault(f"board {board.name}", "a pulse generator, or the controller itself", board_kind(board.kind).name))  # fmt: skip
    if faults:
        raise FileTrouble("The player was not written.", tuple(faults), "Plug all servos into one board, on the Power bench under “the wiring”.")  # fmt: skip
    if board_kind(found[0].kind).computer:
        raise FileTrouble("The player was not written.", (Fault(f"board {found[0].name}", "a small controller", board_kind(found[0].kind).name),), "Choose plain Python: that is the player of a single-board computer.")  # fmt: skip
    kind = pulse_kind("i2c" if making and making[0].id != found[0].id else "timer")
    chip = next(each for each in controllers() if each.id == found[0].kind)
    return chip, CORE if chip.core else kind


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
    return PinTable(rows, chip.by_id[chip.stop], inputs, *generator_of(figure), edges)


def generator_of(figure: Figure) -> tuple[int, float]:
    """The address on the bus and the clock, Hz, of the figure's pulse generator: as it comes, where nothing else is said."""
    made = next((board for board in figure.boards if board.kind == "generator"), None)
    comes = board_kind("generator").address or 0
    if made is None:
        return comes, CLOCK_HZ
    return made.address or comes, CLOCK_HZ if made.clock_MHz is None else made.clock_MHz * 1e6


def _wired(figure: Figure, found: tuple[Output, ...]) -> Iterable[PinRow]:
    boards: dict[str, Board] = {board.id: board for board in figure.boards}
    for output in found:
        light = output.pulses is None
        if output.plug is None:
            yield PinRow(output.number, output.name, light, None, "nowhere yet")
            continue
        board, pin = boards[output.plug.board], output.plug.pin("signal") or ""
        kind = board_kind(board.kind)
        own = kind.what == "controller"
        where = f"pin {pin}" if own else f"channel {pin} of the generator"
        yield PinRow(output.number, output.name, light, kind.by_id.get(pin) if own else None, where + (f", a string of {output.plug.lamps}" if output.plug.lamps else ", dimmed" if light else ""), output.plug.lamps)  # fmt: skip


def computer_pins(figure: Figure) -> PinTable:
    """Of a single-board computer: its inputs, those that are on its pins, and its generator; outputs are all on that."""
    kind = board_kind("computer")
    mine = {board.id for board in figure.boards if board.kind == kind.id}
    inputs = tuple(
        row for row, plug in zip(_inputs(figure), _plugs_of_inputs(figure), strict=True) if plug.board in mine
    )
    return PinTable((), kind.by_id[kind.stop], inputs, *generator_of(figure))


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


def pins_h(table: PinTable) -> str:
    """pins.h: the table as C++ for an 8-bit controller; on a computer only how many outputs there are."""
    pulses = table.pulses
    ports = ", ".join(f"&PORT{row.pin.port[0]}" for row in pulses if row.pin) or "0"
    bits = ", ".join(f"1 << {row.pin.port[1]}" for row in pulses if row.pin) or "0"
    numbers = ", ".join(str(row.number) for row in pulses) or "255"
    stop, timers = table.stop.port, sorted({row.pin.timer for row in table.lights if row.pin and row.pin.timer is not None})  # fmt: skip
    begin = [f"  PORT{stop[0]} |= 1 << {stop[1]};  // {table.stop.id}: the stop switch, pulled up"]
    begin += [_timer(n) for n in timers]
    begin += [
        f"  DDR{row.pin.port[0]} |= 1 << {row.pin.port[1]};  // {row.pin.id}"
        for row in (*table.lights, *table.strings)
        if row.pin
    ]
    begin += [
        f"  PORT{row.pin.port[0]} |= 1 << {row.pin.port[1]};  // {row.pin.id}: pulled up"
        for row in table.inputs
        if row.low and not row.analog
    ]
    begin += [
        f"  PCMSK{group} |= 1 << {row.pin.port[1]}, PCICR |= 1 << PCIE{group};  // {row.pin.id}: a receiver's pulses"
        for row, group in table.edges
    ]
    if any(row.analog for row in table.inputs):
        begin.append("  ADCSRA = 1 << ADEN | 1 << ADPS2 | 1 << ADPS1 | 1 << ADPS0;")
    lit = []
    for row in table.lights:
        assert row.pin is not None
        n, half = row.pin.compare[0], row.pin.compare[1]
        mode = f"TCCR{n}A"
        lit.append(f"  if (output == {row.number}) {{  // {row.pin.id}")
        lit.append(f"    OCR{n}{half} = level;")
        lit.append(f"    if (level) {mode} |= 1 << COM{n}{half}1;")
        lit.append(f"    else {mode} &= ~(1 << COM{n}{half}1);  // a plain low pin, not a sliver of light")
        lit.append("    return true;\n  }")
    return "\n".join(
        [
            "// Which output is which pin, from the figure's plugs. Written by Karakuri; plug anew and export again rather than this.",
            "#pragma once",
            f"#define BOARD_OUTPUTS {table.count}",
            f"#define GENERATOR_ADDRESS 0x{table.address:02X}",
            f"#define GENERATOR_CLOCK {round(table.clock_Hz)}UL",
            "#ifdef __AVR__",
            "#include <avr/io.h>",
            "#include <stdint.h>",
            "",
            "// servos whose pulses this controller makes itself",
            f"const uint8_t PULSES = {len(pulses)};",
            f"static const uint8_t PULSE_OUTPUT[] = {{{numbers}}};",
            f"static volatile uint8_t *const PULSE_PORT[] = {{{ports}}};",
            f"static const uint8_t PULSE_BIT[] = {{{bits}}};",
            "",
            f"#define STRINGS {len(table.strings)}",
            *_strings(table.strings),
            "",
            *_noticing(table.inputs),
            "",
            "static inline void pins_begin() {",
            *begin,
            "}",
            "",
            f"static inline bool pins_stop() {{ return !(PIN{stop[0]} & 1 << {stop[1]}); }}",
            "",
            "// false where that light is on no pin of this controller",
            "static inline bool pins_light(uint8_t output, uint8_t level) {",
            *(lit or ["  (void)output, (void)level;"]),
            "  return false;",
            "}",
            "#endif",
            "",
        ]
    )


def core_pins_h(table: PinTable) -> str:
    """pins.h for a board that is reached by its editor's core alone: numbers of pins, nothing else."""
    lights = table.lights
    inputs = table.inputs

    def numbers(values: Iterable[object]) -> str:
        return "{" + ", ".join(map(str, values)) + "}"

    out = [
        "// Which output is which pin, from the figure's plugs. Written by Karakuri; plug anew and export again rather than this.", "#pragma once", "#include <stdint.h>",
        f"#define BOARD_OUTPUTS {table.count}", f"#define GENERATOR_ADDRESS 0x{table.address:02X}", f"#define GENERATOR_CLOCK {round(table.clock_Hz)}UL",
        f"#define INPUTS {len(inputs)}", f"#define RECEIVERS {sum(row.receiver for row in inputs)}", f"#define LIGHTS {len(lights)}",
        f"static const uint8_t STOP_AT = {table.stop.port};  // a switch to ground",
    ]  # fmt: skip
    if inputs:
        out += [
            f"static const uint8_t INPUT_AT[] = {numbers(row.pin.port for row in inputs)};",
            f"static const uint8_t INPUT_ANALOG[] = {numbers(int(row.analog) for row in inputs)};",
            f"static const uint8_t INPUT_LOW[] = {numbers(int(row.low) for row in inputs)};  // its contact pulls it low",
            f"static const uint8_t INPUT_RECEIVER[] = {numbers(int(row.receiver) for row in inputs)};",
        ]
    if lights:
        out += [
            f"static const uint8_t LIGHT_OUTPUT[] = {numbers(row.number for row in lights)};",
            f"static const uint8_t LIGHT_AT[] = {numbers(row.pin.port for row in lights if row.pin)};",
        ]
    return "\n".join([*out, ""])


def _noticing(rows: tuple[InputRow, ...]) -> list[str]:
    """Inputs, and how an analog one is listened to, left adjusted, against the supply."""
    out = [f"#define INPUTS {len(rows)}", f"#define RECEIVERS {sum(row.receiver for row in rows)}"]
    if not rows:
        return out
    return [
        *out,
        f"static const char *const INPUT_NAME[] = {{{', '.join(chr(34) + row.pin.id + chr(34) for row in rows)}}};",
        f"static const uint8_t INPUT_ANALOG[] = {{{', '.join(str(int(row.pin.id[1:]) + 1) if row.analog else '0' for row in rows)}}};  // its channel and one, or 0",
        f"static volatile uint8_t *const INPUT_PIN[] = {{{', '.join(f'&PIN{row.pin.port[0]}' for row in rows)}}};",
        f"static const uint8_t INPUT_BIT[] = {{{', '.join(f'1 << {row.pin.port[1]}' for row in rows)}}};",
        f"static const uint8_t INPUT_LOW[] = {{{', '.join(str(int(row.low)) for row in rows)}}};  // its contact pulls it low",
        f"static const uint8_t INPUT_RECEIVER[] = {{{', '.join(str(int(row.receiver)) for row in rows)}}};",
        "static inline void pins_listen(uint8_t channel) {",
        "  ADMUX = 1 << REFS0 | 1 << ADLAR | (channel & 7);",
        "#ifdef MUX5",
        "  ADCSRB = channel > 7 ? 1 << MUX5 : 0;",
        "#endif",
        "}",
    ]


def _strings(rows: tuple[PinRow, ...]) -> list[str]:
    """Strings of lamps, and how long all of them take, in ticks of half a microsecond."""
    if not rows:
        return []
    ticks = sum(2 * round(string_s(row.lamps) * 1e6) for row in rows)
    return [
        f"static const uint8_t STRING_OUTPUT[] = {{{', '.join(str(row.number) for row in rows)}}};",
        f"static volatile uint8_t *const STRING_PORT[] = {{{', '.join(f'&PORT{row.pin.port[0]}' for row in rows if row.pin)}}};",
        f"static const uint8_t STRING_BIT[] = {{{', '.join(f'1 << {row.pin.port[1]}' for row in rows if row.pin)}}};",
        f"static const uint16_t STRING_LAMPS[] = {{{', '.join(str(row.lamps) for row in rows)}}};",
        f"const uint16_t STRING_TICKS = {min(ticks, 65535)};",
    ]


def _timer(n: int) -> str:
    """A timer set to dim: fast, eight bits, a few hundred times a second and more, so that nobody sees it flicker."""
    if n in (0, 2):
        clock = f"1 << CS{n}1 | 1 << CS{n}0" if n == 0 else "1 << CS22"  # F_CPU / 64, 977 Hz at 16 MHz
        return f"  TCCR{n}A = 1 << WGM{n}1 | 1 << WGM{n}0, TCCR{n}B = {clock};"
    return f"  TCCR{n}A = 1 << WGM{n}0, TCCR{n}B = 1 << WGM{n}2 | 1 << CS{n}1 | 1 << CS{n}0;"
