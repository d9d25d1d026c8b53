"""All files of a player: name → bytes. Whoever writes them decides where."""

from __future__ import annotations

from importlib.resources import files

from karakuri.errors import FileTrouble
from karakuri.exchange.player.kinds import KINDS, PulseKind
from karakuri.exchange.player.pins import PinTable, as_wired, pin_table, pins_h
from karakuri.exchange.player.size import Controller, Size, size
from karakuri.exchange.player.tables import Tables, header, tables
from karakuri.model.figure import Figure

SOURCES = ("main.cpp", "player.cpp", "player.h", "hardware.h", "hardware_avr.h", "strings.h", "hardware_timer.cpp", "hardware_i2c.cpp",
           "hardware_uart.cpp", "hardware_host.cpp", "firmware.cpp")  # fmt: skip


def bundle(figure: Figure, controller: Controller, kind: PulseKind = KINDS[0]) -> dict[str, bytes]:
    """The player of a figure for a controller; what the figure's own boards say comes before it. Raises FileTrouble where it does not fit, with how much it
    would take, and where something is plugged in nowhere."""
    controller, kind = as_wired(figure) or (controller, kind)
    score = tables(figure)
    needs = size(score, controller, kind)
    if not needs.fits:
        raise FileTrouble(f"The player was not written: it takes {needs.words()}.", (),
                          "Take moves out, or choose a larger controller.")  # fmt: skip
    pins = pin_table(figure, controller, kind)
    servos = [row[0] for row in score.outputs if not row[2]]
    if not as_wired(figure) and any(number >= kind.outputs for number in servos):
        more = next((other.name for other in KINDS if other.outputs > max(servos)), "")
        raise FileTrouble(
            f"The player was not written: the {kind.name} drives outputs 0 to {kind.outputs - 1}, "
            f"and a servo sits on output {max(servos)}.", (),
            f"{f'Choose the {more}, or put' if more else 'Put'} the servos on the lower outputs.",
        )  # fmt: skip
    folder = files("karakuri.exchange.player") / "cpp"
    out = {name: (folder / name).read_bytes() for name in SOURCES}
    out["pins.h"] = pins_h(pins).encode("utf-8")
    out["score.h"] = header(score).encode("utf-8")
    makefile = (folder / "Makefile").read_text(encoding="utf-8").replace("@CONTROLLER@", controller.id)
    out["Makefile"] = makefile.encode("utf-8")
    out["README.txt"] = readme(score, needs, kind, pins).encode("utf-8")
    return out


def readme(score: Tables, needs: Size, kind: PulseKind, pins: PinTable) -> str:
    """What to wire, how to build, and what to mind."""
    rows = [f"  output {row.number:2d}   {row.where:26s} {row.name}" for row in pins.rows]
    make = f"make {kind.id}"
    return f"""The score of {score.name}, for {needs.controller.name}.

It takes {needs.words()} (an estimate from above; `{make}` tells the real size).

Build and send
  {make}           needs gcc-avr and avr-libc
  make flash       needs avrdude; say PORT=
  make host        the same player on a computer, writing its frames

Wiring
{chr(10).join(rows)}
  {pins.stop.id}               a switch to ground: the figure goes to park and stays there
  Servos get their own supply; its ground is joined with the controller's.

What it does
  At power-up nobody knows where the servos stand: one joint after the other is brought to park with sparse pulses.
  Then the score runs{", again and again" if score.loops else " once"}. Soft limits are kept on board. If the program hangs for
  a quarter of a second, the watchdog begins it anew, with the slow start.

Mind
  Fingers, hair and scarves get pinched where parts turn: keep clear while it is powered. The first time, take the horns off
  or hold clear. This advises and certifies nothing; local codes and licensed practice come first.
"""
