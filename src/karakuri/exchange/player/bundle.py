"""All files of a player: name → bytes. Whoever writes them decides where."""

from __future__ import annotations

import re
from importlib.resources import files

from msgspec.structs import replace

from karakuri.catalogue.boards import board_kind
from karakuri.errors import FileTrouble
from karakuri.exchange.player.followers import folder_of, how_they_follow, in_comment, programs_of_followers
from karakuri.exchange.player.kinds import CORE, KINDS, PulseKind
from karakuri.exchange.player.known import Known
from karakuri.exchange.player.live import LiveTables, live_words, lives
from karakuri.exchange.player.lives import live_tables
from karakuri.exchange.player.pins import PinTable, as_wired, pin_table
from karakuri.exchange.player.pins_h import core_pins_h, pins_h
from karakuri.exchange.player.size import Controller, Size, size
from karakuri.exchange.player.tables import RUNS, Tables, header, shape, tables
from karakuri.exchange.sound_copies import number_of
from karakuri.exchange.wiring_sheets import drawing
from karakuri.model.behaviour import Performs, Says
from karakuri.model.figure import Figure
from karakuri.wiring.following import followers
from karakuri.wiring.table import wires

SOURCES = ("main.cpp", "play.cpp", "play.h", "player.cpp", "player.h", "ribbon.cpp", "ribbon.h", "living.cpp", "living.h", "life.cpp", "hand.cpp", "hardware.h", "hardware_avr.h", "strings.h", "generators.h", "hardware_timer.cpp", "hardware_i2c.cpp",
           "hardware_uart.cpp", "hardware_host.cpp", "firmware.cpp")  # fmt: skip
SKETCH = (
    "play.cpp",
    "play.h",
    "player.cpp",
    "player.h",
    "ribbon.cpp",
    "ribbon.h",
    "living.cpp",
    "living.h",
    "life.cpp",
    "hand.cpp",
    "hardware.h",
    "hardware_avr.h",
    "strings.h",
    "generators.h",
)


def bundle(
    figure: Figure, controller: Controller, kind: PulseKind = KINDS[0], sketch: bool = False, known: Known | None = None
) -> dict[str, bytes]:
    """The player of a figure for a controller; what the figure's own boards say comes before it. With what is `known` beside the figure it plays what that does
    by itself, else the score in hand. Raises FileTrouble where it does not fit, with how much it would take, and where something is plugged in nowhere. As a
    `sketch` it is one folder that the editors usual for such boards open."""
    controller, kind = as_wired(figure) or (controller, CORE if controller.core else kind)
    sketch = sketch or controller.core
    pins = pin_table(figure, controller, kind)
    score = whole_tables(figure, pins, known)
    needs = size(score, controller, kind)
    if not needs.fits:
        raise FileTrouble(f"The player was not written: it takes {needs.words()}.", (),
                          "Take moves out, or choose a larger controller.")  # fmt: skip
    servos = [row[0] for row in score.outputs if not row[2]]
    if not as_wired(figure) and any(number >= kind.outputs for number in servos):
        more = next((other.name for other in KINDS if other.outputs > max(servos)), "")
        raise FileTrouble(
            f"The player was not written: the {kind.name} drives outputs 0 to {kind.outputs - 1}, "
            f"and a servo sits on output {max(servos)}.", (),
            f"{f'Choose the {more}, or put' if more else 'Put'} the servos on the lower outputs.",
        )  # fmt: skip
    folder = files("karakuri.exchange.player") / "cpp"
    made = {
        "pins.h": (core_pins_h(pins) if controller.core else pins_h(pins)).encode("utf-8"),
        "score.h": header(score).encode("utf-8"),
        "shape.h": shape(score).encode("utf-8"),
    }
    made["living_tables.h"] = (score.live.text if score.live is not None else NO_LIFE).encode("utf-8")
    if sketch:
        name = sketch_name(figure)
        inside = {
            each: (folder / each).read_bytes() for each in (*_sketch_files(controller), f"hardware_{kind.id}.cpp")
        } | made
        inside[f"{name}.ino"] = (folder / "sketch.ino").read_text(encoding="utf-8").replace("@NAME@", in_comment(figure.name)).encode("utf-8")  # fmt: skip
        return {f"{name}/{each}": data for each, data in inside.items()} | {
            "README.txt": sketch_readme(score, needs, kind, pins, name, figure).encode("utf-8"),
            **drawings(figure), **programs_of_followers(figure, True),
        }  # fmt: skip
    out = {name: (folder / name).read_bytes() for name in SOURCES} | made
    makefile = (
        (folder / "Makefile")
        .read_text(encoding="utf-8")
        .replace("@CONTROLLER@", controller.id)
        .replace("@PULSES@", kind.id)
    )
    out["Makefile"] = makefile.encode("utf-8")
    out["README.txt"] = readme(score, needs, kind, pins, figure).encode("utf-8")
    return out | drawings(figure) | programs_of_followers(figure, False)


def _sketch_files(controller: Controller) -> tuple[str, ...]:
    return tuple(
        each for each in SKETCH if not controller.core or each not in ("hardware_avr.h", "strings.h", "generators.h")
    )


NO_LIFE = "// It plays a score and nothing else.\n#pragma once\n"


def whole_tables(figure: Figure, pins: PinTable, known: Known | None) -> Tables:
    """All tables of a player: of what a figure does by itself where that is `known`, else of its score. Raises FileTrouble."""
    if known is None:
        return tables(figure)
    score = tables(figure, True)
    live = live_tables(figure, pins, 0, known.can, known.heard)
    return replace(score, moves=live.moves, live=live)


def lives_text(figure: Figure, pins: PinTable, live: LiveTables) -> str:
    """What a living player does, notices and says, for its README."""
    behaviour = figure.behaviour
    assert behaviour is not None
    out = [
        "",
        "What it does by itself",
        f"  It begins with “{behaviour.states[0].name}”: {len(behaviour.states)} states, {len(behaviour.starts)} things that start one.",
    ]
    out += [f"  {each}" for each in (live_words(live).strip(),) if each]
    if pins.inputs:
        out += [
            "  It notices with",
            *(
                f"    pin {row.pin.id:6s} {row.name}{', between the pin and ground' if row.low else ''}"
                for row in pins.inputs
            ),
        ]
    if figure.sounds and any(isinstance(deed, Says | Performs) for state in behaviour.states for deed in state.plays):
        words = next((plug.pin("words") for plug in figure.plugs if plug.of == "voice" and plug.pin("words")), None)
        where = f"pin {words}" if words else "the sending pin, into which nothing is plugged yet"
        out += [
            f"  It says its lines through {where}: words at 9600 baud, “PLAY 3” for the third sound. Most sound players want bytes of",
            "  their own: write them in avr_say, in hardware_avr.h. Export the sounds for a small player too, in the same numbers:",
            *(f"    {number_of(figure, sound.id):4d}  {sound.name}" for sound in figure.sounds),
        ]
    return "\n".join([*out, ""])


def left_out(figure: Figure) -> str:
    """A sentence on what of the figure is not in a player of its score, or nothing."""
    some = ["its behaviour and what it notices"] if lives(figure) else []
    some += ["its voice"] if figure.score.voices else []
    return (
        f"\nNot in it: {' and '.join(some)}; it plays the score “{figure.score.name}” and nothing else.\n"
        if some
        else ""
    )


def sketch_name(figure: Figure) -> str:
    """What its folder, and the file of the same name in it, are called: letters, digits and underscores, no digit first."""
    stem = re.sub(r"[^a-z0-9]+", "_", figure.name.lower()).strip("_")[:40]
    return stem if stem and stem[0].isalpha() else f"figure_{stem}".rstrip("_")


def _then(score: Tables) -> str:
    """What it does once all is at park."""
    return "lives by itself" if score.live is not None else f"plays {'again and again' if score.loops else 'once'}"


def _rest(figure: Figure, pins: PinTable, score: Tables) -> str:
    return lives_text(figure, pins, score.live) if score.live is not None else left_out(figure)


def drawings(figure: Figure) -> dict[str, bytes]:
    """A drawing of each board with what is plugged in, where the figure has boards."""
    found = wires(figure)
    return {f"plugs-{k}.svg": drawing(figure, board, found).encode("utf-8") for k, board in enumerate(figure.boards, 1)}


def sketch_readme(score: Tables, needs: Size, kind: PulseKind, pins: PinTable, name: str, figure: Figure) -> str:
    """The same for somebody who has never built a program."""
    rows = [f"  {row.where:34s} {row.name}" for row in pins.rows]
    drawn = " The drawings plugs-1.svg and so on\n   open in any browser and can be printed." if figure.boards else ""
    logic = board_kind(needs.controller.id).volts
    volts = (
        "5 V" if logic is None or logic > 4 else f"{logic:g} V, and nothing that gives more than {logic:g} V to any pin"
    )
    rest = len(followers(figure))
    many = sum(row.wired for row in pins.generators) - rest
    generator = "" if (kind.id == "timer" or rest) and not many else f"\n{'Each' if many > 1 else 'The'} generator's data and clock go to the controller's bus pins of those names, its logic + to {volts}, its - to ground.\n"  # fmt: skip
    if many > 1:
        generator += f"   Their addresses, set by solder bridges: {', '.join(f'{row.name} 0x{row.address:02X}' for row in pins.generators[:many])}.\n"
    generator += how_they_follow(figure, True)
    if pins.strings and pins.kind.string is not None:
        generator += "   Many strings of lamps want a level shifter between 3.3 V and 5 V on their data wire.\n"
    return f"""{score.name}: how to get its movement onto an {needs.controller.name.split(",")[0]} board

You need: the board, its cable, a computer with the free editor that is usual for such boards, and the figure wired as below.

1  Wire it. Switch everything off first.
{chr(10).join(rows)}
  {pins.stop.id:34s} a switch to ground: while it is shut the figure goes to park and stays there
{generator}   Servos get a supply of their own, never the board's; its ground is joined with the board's.{drawn}
2  Take the horns off the servos, or keep clear of all that moves.
3  Open the folder {name} in the editor: File, Open, {name}.ino. Other tabs open with it; leave them as they are.
4  Under Tools choose the board and the port it is plugged into.
5  Press the arrow that uploads. It takes about {needs.flash:,} of {needs.controller.flash_bytes:,} bytes; the editor says so too.{_and_those_that_follow(figure)}
6  Switch the servos' supply on. One joint after the other comes to park, then it {_then(score)}.
{_rest(figure, pins, score)}
If it does not
  Nothing moves: is the supply on, and its ground joined with the board's? A servo hums at its end: switch off, put its horn on anew (see
  "In this order" on the Limits bench), export again. It begins anew again and again: the supply is too weak, see the Power bench.

Mind
  Fingers, hair and scarves get pinched where parts turn: keep clear while it is powered, with a switch for its supply within reach.
{_runs(score)}  This advises and certifies nothing; local codes and licensed practice come first.
"""


def _and_those_that_follow(figure: Figure) -> str:
    names = ", ".join(folder_of(figure, board) for board in followers(figure))
    return f"\n   Then the same with each board that follows, from a folder of its own: {names}." if names else ""


def _runs(score: Tables) -> str:
    """What to mind of motors that run."""
    names = [name for row, name in zip(score.outputs, score.names, strict=True) if row[2] == RUNS]
    if not names:
        return ""
    return f"  {' and '.join(names)}: wheels off the ground until you trust it. A controller that is stopped or begins anew stands still only as far as the\n  motor's own controller sees to it: without pulses most stop, some run on. Try that first.\n"


def _on_the_bus(pins: PinTable) -> str:
    """Which generators hang on the bus, where it is said."""
    wired = [f"{row.name} at 0x{row.address:02X}" for row in pins.generators if row.wired]
    return f"  On the bus: {', '.join(wired)}.\n" if wired else ""


def readme(score: Tables, needs: Size, kind: PulseKind, pins: PinTable, figure: Figure) -> str:
    """What to wire, how to build, and what to mind."""
    rows = [f"  output {row.number:2d}   {row.where:26s} {row.name}" for row in pins.rows]
    make = f"make {kind.id}"
    return f"""The {"behaviour" if score.live is not None else "score"} of {score.name}, for {needs.controller.name}.

It takes {needs.words()} (an estimate from above; `{make}` tells the real size).

Build and send
  {make}           needs gcc-avr and avr-libc
  make flash       needs avrdude; say PORT=
  make host        the same player on a computer, writing its frames

Wiring
{chr(10).join(rows)}
  {pins.stop.id}               a switch to ground: the figure goes to park and stays there
{_on_the_bus(pins)}{how_they_follow(figure, False)}  Servos get their own supply; its ground is joined with the controller's.

What it does
  At power-up nobody knows where the servos stand: one joint after the other is brought to park with sparse pulses.
  Then it {_then(score)}. Soft limits are kept on board. If the program hangs for
  a quarter of a second, the watchdog begins it anew, with the slow start.
{_rest(figure, pins, score)}
Mind
  Fingers, hair and scarves get pinched where parts turn: keep clear while it is powered. The first time, take the horns off
  or hold clear.
{_runs(score)}  This advises and certifies nothing; local codes and licensed practice come first.
"""
