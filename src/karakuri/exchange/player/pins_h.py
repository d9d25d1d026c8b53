"""pins.h: the table of pins as C++, for an 8-bit controller and for a board that is reached by its editor's core alone."""

from __future__ import annotations

import math
from collections.abc import Iterable

from karakuri.actuators.generator import prescale
from karakuri.catalogue.boards import BoardKind
from karakuri.exchange.player.pins import GeneratorRow, InputRow, PinRow, PinTable
from karakuri.motion.frames import RATE_HZ
from karakuri.wiring.at_once import string_s


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
            "#include <stdint.h>",
            f"#define GENERATORS {sum(row.wired for row in table.generators)}",
            *(_generators(table.generators) if table.generators else []),
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
            *_strings(table.strings, table.kind),
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
        f"#define BOARD_OUTPUTS {table.count}", f"#define GENERATORS {len(table.generators)}", *_generators(table.generators), f"#define STRINGS {len(table.strings)}",
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
    for row in table.strings:  # one at most: it goes by SPI
        us = math.ceil(string_s(row.lamps, table.kind) * 1e6)
        out += [
            f"static const uint8_t STRING_OUTPUT = {row.number};",
            f"static const uint16_t STRING_LAMPS = {row.lamps};",
            f"static const uint32_t STRING_US = {us};",
        ]
    return "\n".join([*out, ""])


def _generators(rows: tuple[GeneratorRow, ...]) -> list[str]:
    """Pulse generators on the bus: address, clock, prescale for 50 frames a second, and the output that is the first of their sixteen."""
    return [
        "#include <stdint.h>",
        *(
            f"// {row.name.encode('ascii', 'replace').decode()}: outputs {row.first} to {row.first + 15}"
            for row in rows
        ),
        f"static const uint8_t GENERATOR_ADDRESS[] = {{{', '.join(f'0x{row.address:02X}' for row in rows)}}};",
        f"static const uint32_t GENERATOR_KHZ[] = {{{', '.join(f'{round(row.clock_Hz / 1000)}UL' for row in rows)}}};",
        f"static const uint8_t GENERATOR_PRESCALE[] = {{{', '.join(str(prescale(RATE_HZ, row.clock_Hz)) for row in rows)}}};  // 50 frames a second",
        f"static const uint8_t GENERATOR_FIRST[] = {{{', '.join(str(row.first) for row in rows)}}};",
    ]


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


def _strings(rows: tuple[PinRow, ...], kind: BoardKind) -> list[str]:
    """Strings of lamps, and how long all of them take, in ticks of half a microsecond."""
    if not rows:
        return []
    ticks = sum(2 * round(string_s(row.lamps, kind) * 1e6) for row in rows)
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
