"""The programs of controllers that follow another on its bus: a folder each, tables and sources, and what is said of them."""

from __future__ import annotations

import math
import re
from importlib.resources import files

import numpy as np

from karakuri.catalogue.boards import board_kind
from karakuri.exchange.outputs import Output, outputs
from karakuri.exchange.player.pins import PinRow, PinTable
from karakuri.exchange.player.pins_h import pins_h
from karakuri.model.board import Board
from karakuri.model.figure import Figure
from karakuri.motion.frames import RATE_HZ
from karakuri.wiring.following import address_of, channels_of, followers, hangs_on

SOURCES = ("follower.cpp", "follower.h", "hardware.h", "hardware_avr.h", "strings.h", "hardware_timer.cpp")
SLOW_DEG_PER_S = 20.0
"""As fast as everything goes to park."""
SHAPE = "// It follows another controller.\n#pragma once\n#define FOLLOWS\n"


def folder_of(figure: Figure, board: Board) -> str:
    """The folder of a follower's program: its name in small letters, another than any other's."""
    names: list[str] = []
    for each in followers(figure):
        stem = re.sub(r"[^a-z0-9]+", "_", each.name.lower()).strip("_")[:30] or "board"
        name = f"follows_{stem}"
        names.append(name if name not in names else f"{name}_{len(names) + 1}")
    return names[[each.id for each in followers(figure)].index(board.id)]


def programs_of_followers(figure: Figure, sketch: bool) -> dict[str, bytes]:
    """All files of all of them: name → bytes, each program in a folder of its own; as a `sketch` folder that the usual editor opens, or with a Makefile."""
    out: dict[str, bytes] = {}
    source = files("karakuri.exchange.player") / "cpp"
    for board in followers(figure):
        name, kind = folder_of(figure, board), board_kind(board.kind)
        inside = {each: (source / each).read_bytes() for each in SOURCES}
        inside |= {"pins.h": pins_h(follower_pins(figure, board)).encode("utf-8"), "follow_tables.h": _tables(figure, board).encode("utf-8"), "shape.h": SHAPE.encode("utf-8")}  # fmt: skip
        if sketch:
            inside[f"{name}.ino"] = INO.format(name=in_comment(board.name)).encode("utf-8")
        else:
            inside["follower_main.cpp"] = (source / "follower_main.cpp").read_bytes()
            inside["Makefile"] = MAKEFILE.replace("@CONTROLLER@", kind.id).encode("utf-8")
        out |= {f"{name}/{each}": data for each, data in inside.items()}
    return out


def follower_pins(figure: Figure, board: Board) -> PinTable:
    """What is on which of its pins; an output is the channel by which it is told."""
    kind, channels = board_kind(board.kind), channels_of(figure, board)
    rows = []
    for output in driven_by(figure, board):
        plug = output.plug
        assert plug is not None
        pin = kind.by_id.get(plug.pin("signal") or "")
        rows.append(PinRow(channels[plug.id], output.name, output.pulses is None, pin, f"pin {plug.pin('signal')}", plug.lamps))  # fmt: skip
    return PinTable(tuple(sorted(rows, key=lambda row: row.number)), kind.by_id[kind.stop], (), kind)


def driven_by(figure: Figure, board: Board) -> tuple[Output, ...]:
    """What is plugged into a board."""
    return tuple(output for output in outputs(figure) if output.plug is not None and output.plug.board == board.id)


def _tables(figure: Figure, board: Board) -> str:
    """Its address, and of each channel what it is, where it parks, and how far it goes in a frame on its way there and back."""
    channels, of = channels_of(figure, board), dict[int, Output]()
    for output in driven_by(figure, board):
        assert output.plug is not None
        of[channels[output.plug.id]] = output
    count = max(of, default=0) + 1
    kinds, parks, slow = [], [], []
    for k in range(count):
        one = of.get(k)
        light, runs = one is None or one.pulses is None, one is not None and one.runs
        kinds.append("LIGHT" if light else "RUNS" if runs else "SERVO")
        park = 0 if one is None or light else round(float(one.value(np.array([one.park]))[0]) * 10)
        parks.append(park)
        us_per_deg = 0.0 if one is None or one.pulses is None else one.pulses.least_us_per_rad * math.pi / 180
        slow.append(max(1, math.floor(us_per_deg * SLOW_DEG_PER_S / RATE_HZ * 10)))

    def row(values: list[object]) -> str:
        return "{" + ", ".join(map(str, values)) + "}"

    names = [f"//   {k}: {in_comment(of[k].name)}" for k in sorted(of)]
    return "\n".join(
        [
            "// By which address it is spoken to, and its channels. Written by Karakuri; plug anew and export again rather than this.",
            *names, "#pragma once", "#include <stdint.h>", "enum { SERVO, LIGHT, RUNS };", f"const uint8_t FOLLOW_ADDRESS = 0x{address_of(board) or 0:02X};",
            f"const uint8_t CHANNELS = {count};", f"static const uint8_t KIND[] = {row([*kinds])};", f"static const uint16_t PARK[] = {row([*parks])};  // tenths of a microsecond",
            f"static const uint16_t SLOW[] = {row([*slow])};  // the same in a frame: 20 degrees a second", "",
        ]
    )  # fmt: skip


def in_comment(name: str) -> str:
    """A name as a comment of C++ may have it."""
    return "".join(c for c in name if c.isascii() and c.isprintable() and c not in "*/\\")


def how_they_follow(figure: Figure, sketch: bool) -> str:
    """What to do with them, for the README; nothing where none follows."""
    rows = []
    for board in followers(figure):
        chief, name = hangs_on(figure, board), folder_of(figure, board)
        assert chief is not None
        what = (
            f"open {name}/{name}.ino and send it to that board"
            if sketch
            else f"`make flash PORT=` in the folder {name}"
        )
        rows.append(
            f"   {board.name} follows {chief.name} on its bus, at 0x{address_of(board) or 0:02X}: it has a program of its own, {what}."
        )
        kind = board_kind(chief.kind)
        if kind.volts is not None and kind.volts < 4:
            rows.append(f"   {chief.name} has {kind.volts:g} V: a level shifter for a bus goes between the two.")
        if kind.computer:
            rows.append(
                f"   Let {chief.name}'s bus go at 400 kHz, in its settings: at less it has no time left for lamps."
            )
    if not rows:
        return ""
    rows.append(
        "   Data to data, clock to clock, - to -; plus stays apart: each is fed by itself. Where no pulse generator hangs on that bus, two resistors of 4.7 k"
    )
    rows.append(
        "   go from data and clock to the logic + of the one that leads. Half a second without a word, and one that follows goes to park by itself."
    )
    return "\n".join(["", *rows, ""]) if sketch else "\n".join([*rows, ""])


INO = """// {name} follows another controller. Written by Karakuri; README.txt beside this folder says what to do with it.
#include "follower.h"

void setup() {{ follow_begin(); }}
void loop() {{ follow_on(); }}
"""
MAKEFILE = """# make            the program of a controller that follows (follower.hex) and its size
# make flash PORT=/dev/…   sends it with avrdude
CONTROLLER ?= @CONTROLLER@
CLOCK ?= 16000000UL
PROGRAMMER ?= stk500v1
AVR = avr-g++ -mmcu=$(CONTROLLER) -DF_CPU=$(CLOCK) -Os -std=gnu++11 -Wall -Wextra -ffunction-sections -fdata-sections -Wl,--gc-sections -Wl,--relax

follower.hex: follower.elf
\tavr-size $<
\tavr-objcopy -O ihex -R .eeprom $< $@
follower.elf: follower_main.cpp follower.cpp hardware_timer.cpp follower.h follow_tables.h hardware.h hardware_avr.h strings.h pins.h shape.h
\t$(AVR) -o $@ follower_main.cpp follower.cpp hardware_timer.cpp
flash: follower.hex
\tavrdude -p $(CONTROLLER) -c $(PROGRAMMER) -P $(PORT) -U flash:w:follower.hex:i
clean:
\trm -f *.elf *.hex
.PHONY: flash clean
"""
