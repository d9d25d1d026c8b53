"""The player in plain Python, for a single-board computer with a 16-channel generator on its bus: frames as they are sent, and a program that needs nothing."""

from __future__ import annotations

import json
import math
from collections.abc import Iterable, Iterator, Mapping
from importlib.resources import files
from typing import Any

import numpy as np

from karakuri.catalogue.boards import board_kind
from karakuri.course import Course
from karakuri.errors import Fault, FileTrouble
from karakuri.exchange.contract import Media
from karakuri.exchange.outputs import Output, board_stream, outputs, score_stream
from karakuri.exchange.player.followers import how_they_follow, programs_of_followers
from karakuri.exchange.player.known import Known
from karakuri.exchange.player.live import live_words
from karakuri.exchange.player.lives import live_tables
from karakuri.exchange.player.pins import computer_pins, generators_of
from karakuri.exchange.player.tables import tables
from karakuri.exchange.sound_copies import as_form, file_name, number_of
from karakuri.frozen import Frozen
from karakuri.model.figure import Figure
from karakuri.wiring.at_once import string_s
from karakuri.wiring.clashes import clashes
from karakuri.wiring.following import channels_of, followers

CHANNELS = 16


class At(Frozen):
    """Where an output of a computer is: on which of its generators and controllers that follow it, and on which channel of that, else a string of so many lamps that it sends itself; `where` in words
    where that is a pin of one that follows."""

    generator: int
    channel: int
    lamps: int = 0
    where: str = ""

    def words(self, several: bool) -> str:
        """The same in words."""
        if self.where:
            return self.where
        if self.lamps:
            return f"string of {self.lamps}"
        return f"channel {self.channel:2d}{f' of {self.generator + 1}' if several else ''}"


def channels(figure: Figure) -> tuple[tuple[Output, At], ...]:
    """Each output and where it is. Raises FileTrouble where one is on no channel and is no string of lamps on the computer itself, and for what clashes there."""
    kinds = {board.id: board_kind(board.kind) for board in figure.boards}
    order = [board.id for board in figure.boards if board.kind == "generator"]
    others = {board.id: (k, board, channels_of(figure, board)) for k, board in enumerate(followers(figure), len(order))}
    found, faults = list[tuple[Output, At]](), list[Fault]()
    for output in outputs(figure):
        plug, at = output.plug, None
        if plug is None:  # nothing is decided yet: as they are numbered
            at = At(0, output.number) if not order and not others and output.number < CHANNELS else None
        elif plug.board in order:
            at = At(order.index(plug.board), int(plug.pin("signal") or 0))
        elif plug.board in others:
            k, board, told = others[plug.board]
            at = At(k, told[plug.id], where=f"pin {plug.pin('signal')} of {board.name}")
        elif kinds[plug.board].computer and plug.lamps:
            at = At(-1, 0, plug.lamps)
        if at is None:
            number = "elsewhere" if plug is not None or order else str(output.number)
            faults.append(Fault(output.name, f"a channel of a generator, 0 to {CHANNELS - 1}", number))
        else:
            found.append((output, at))
    mine = {b.id: b.name for b in figure.boards if b.kind in ("computer", "generator") or b.id in others}
    faults += [Fault(mine[clash.board], "no clash", clash.words) for clash in clashes(figure) if clash.plugs and clash.board in mine]  # fmt: skip
    if faults:
        raise FileTrouble("The player was not written.", tuple(faults[:12]), "Plug all of it into pulse generators or controllers that follow, a string of lamps into the computer, on the Power bench under “the wiring”.")  # fmt: skip
    return tuple(found)


def plain(figure: Figure, course: Course, known: Known | None = None, media: Media | None = None) -> Mapping[str, bytes | Iterable[bytes]]:  # fmt: skip
    """All its files: name → bytes, the frames piece by piece; where it is `known` what a figure lives by, that instead of frames. Raises FileTrouble where
    something is on no channel."""
    found = channels(figure)
    generators = generators_of(figure)
    rows = []
    for output, at in found:
        us_per_deg = output.pulses.least_us_per_rad * math.pi / 180 if output.pulses is not None else 10.0
        ends = [float(v) for v in output.value(np.array(output.limits))] if output.pulses is not None else [0.0, 1000.0]
        rows.append(
            {
                "generator": at.generator, "number": at.channel, "lamps": at.lamps, "takes_s": string_s(at.lamps, board_kind("computer")), "name": output.name, "light": output.pulses is None, "runs": output.runs, "park": round(float(output.value(np.array([output.park]))[0]), 1),
                "range_deg": round(abs(ends[1] - ends[0]) / us_per_deg, 2), "us_per_deg": round(us_per_deg, 5),
            }
        )  # fmt: skip
    score = {
        "name": figure.name, "loops": figure.score.loops, "generators": [[each.address, each.clock_Hz] for each in generators], "outputs": rows,
    }  # fmt: skip
    folder = files("karakuri.exchange.player") / "python"
    program = (folder / "player.py.txt").read_bytes()
    if known is not None:
        return {"player.py": program, **{f"lives/{name}": (folder / "lives" / name).read_bytes() for name in LIVES}} | _living(figure, course, known, media, score, found)  # fmt: skip
    readme = README.format(
        name=figure.name, again=" again and again" if figure.score.loops else " once",
        rows=_rows(found, len(generators)), string=_string(found) + how_they_follow(figure, True),
    )  # fmt: skip
    return {
        "player.py": program, "score.json": json.dumps(score, indent=1, ensure_ascii=False).encode("utf-8"), "frames.csv": _frames(figure, course),
        "README.txt": readme.encode("utf-8"), **programs_of_followers(figure, True),
    }  # fmt: skip


def _living(figure: Figure, course: Course, known: Known, media: Media | None, score: dict[str, Any], found: tuple[tuple[Output, At], ...]) -> dict[str, bytes]:  # fmt: skip
    """What it does by itself as tables, copies of its sounds, and what to do with all of it."""
    pins, made = computer_pins(figure), tables(figure, True)
    live = live_tables(figure, pins, 0, known.can, known.heard)
    links = {link.output: link for link in made.links}
    outputs = []
    for k, (own, row) in enumerate(zip(score["outputs"], made.outputs, strict=True)):
        _, channel, _, places, pulses, low, high, step = row
        link = links.get(k)
        steps = [[s.channel, s.slides, s.gain, s.offset, s.axis, s.pivot, s.way] for s in link.steps] if link is not None else []  # fmt: skip
        outputs.append(own | {
            "channel": channel, "low": low, "high": high, "step": step, "curve": list(zip(places, pulses, strict=True)),
            "link": {"kind": link.kind, "steps": steps, "numbers": link.numbers} if link is not None else None,
        })  # fmt: skip
    copies = _sounds(figure, course, media)
    data = score | {
        "outputs": outputs, "channels": made.channels, "moves": live.moves, "tables": live.numbers, "defines": live.defines,
        "pins": [None if row.analog or row.receiver else [int(row.pin.port), row.low] for row in pins.inputs], "stop": int(pins.stop.port), "cues": live.cues,
        "sounds": {str(number): name for number, (name, _) in copies.items()},
    }  # fmt: skip
    words = live_words(live, True).strip()
    readme = README_LIVES.format(
        name=figure.name, rows=_rows(found, len(score["generators"])), string=_string(found) + how_they_follow(figure, True), stop=pins.stop.id,
        inputs="\n".join(f"  {row.pin.id:6s}       {row.name}{', between the pin and ground' if row.low else ''}" for row in pins.inputs),
        told=f"  {words}\n" if words else "", sounds=f"\n   {len(copies)} sounds lie in the folder sounds; `aplay` plays them by the computer’s own output (package alsa-utils), another\n   program with --play, a small sound player on a serial line with --words." if copies else "",
        behaviour=figure.behaviour.states[0].name if figure.behaviour is not None else "",
    )  # fmt: skip
    return {"figure.json": json.dumps(data, ensure_ascii=False).encode("utf-8"), "README.txt": readme.encode("utf-8"), **{f"sounds/{name}": data for name, data in copies.values()}, **programs_of_followers(figure, True)}  # fmt: skip


def _rows(found: tuple[tuple[Output, At], ...], generators: int) -> str:
    return "\n".join(f"  {at.words(generators > 1):15s} {o.name}{_what(o)}" for o, at in found)


def _string(found: tuple[tuple[Output, At], ...]) -> str:
    """What to do for a string of lamps that the computer sends, or nothing."""
    at = board_kind("computer").string
    if at is None or not any(each.lamps for _, each in found):
        return ""
    return (
        f"   The string of lamps: its data wire to {at.pin} (the data of SPI), its − joined with the computer's. Switch SPI on where you switch I2C on. If the lamps flicker,\n"
        "   the computer slows down to save power: let it keep its pace. Many want a level shifter between 3.3 V and 5 V.\n"
    )


def _what(output: Output) -> str:
    return ", a light" if output.pulses is None else ", a motor that runs" if output.runs else ""


def _sounds(figure: Figure, course: Course, media: Media | None) -> dict[int, tuple[str, bytes]]:
    """Copies of its sounds as WAV, by number; of what is not found beside the figure none."""
    out = dict[int, tuple[str, bytes]]()
    for k, sound in enumerate(figure.sounds if media is not None else ()):
        course.at(f"copying {sound.name}", k / len(figure.sounds))
        data = media(sound) if media is not None else None
        if data is not None:
            out[number_of(figure, sound.id)] = (file_name(figure, sound.id, ".wav"), as_form(data, "wav", sound.file))
    return out


def _frames(figure: Figure, course: Course) -> Iterator[bytes]:
    """What each output is sent at each frame, µs or per mille, to a tenth."""
    stream, at = score_stream(figure), 0
    for some in board_stream(outputs(figure), stream):
        course.at(f"frame {at} of {stream.count}", at / stream.count)
        at += some.shape[1]
        yield "".join(",".join(f"{value:.1f}" for value in frame) + "\n" for frame in some.T.tolist()).encode("ascii")


LIVES = ("__init__.py", "hand.py", "life.py", "living.py", "pins.py", "ribbon.py", "sending.py")
README_LIVES = """{name} lives by itself, on a single-board computer with a 16-channel pulse generator. Plain Python: nothing to install.

1  Wire the generator: its data and clock to the computer's I2C pins of those names, its logic + to 3.3 V, its − to ground. Servos get their own
   supply at the generator's terminals; its ground is joined there. Never feed servos from the computer.
{rows}
{string}2  What it notices with, on pins of the computer by the numbers of its GPIO chip; 3.3 V and no more.
{inputs}
  {stop:6s}       a switch to ground: while it is shut the figure goes to park and stays there
{told}3  Switch the bus on: in the computer's settings, under interfaces, I2C. Start it anew.
4  Copy this folder onto it.{sounds}
5  Take the horns off or hold clear, switch the servos' supply on, and in this folder:
     python3 player.py
   Joint after joint comes to park, then it begins with “{behaviour}”. Ctrl-C brings it to park and takes the pulses away.
   Where it says that it may not open /dev/i2c-1 or /dev/gpiochip0, put your account into the groups i2c, gpio and spi.
6  To start it by itself, let the computer's own scheduler run that line when it starts; it asks for nothing.

`python3 player.py --trace 100` writes frames as lines instead, without a generator.

Mind: fingers, hair and scarves get pinched where parts turn: keep clear while it is powered, with a switch for its supply within reach. If the
computer stops, the generator goes on sending the last pulse, and a motor runs on: only the switch takes the power away. This advises and
certifies nothing; local codes and licensed practice come first.
"""
README = """The score of {name}, for a single-board computer with a 16-channel pulse generator. Plain Python: nothing to install.

1  Wire the generator: its data and clock to the computer's I2C pins of those names, its logic + to 3.3 V, its − to ground. Servos get their own
   supply at the generator's terminals; its ground is joined there. Never feed servos from the computer.
{rows}
{string}2  Switch the bus on: in the computer's settings, under interfaces, I2C. Start it anew.
3  Copy this folder onto it.
4  Take the horns off or hold clear, switch the servos' supply on, and in this folder:
     python3 player.py
   Joint after joint comes to park, then the score runs{again}. Ctrl-C brings it to park and takes the pulses away.
5  To start it by itself, let the computer's own scheduler run that line when it starts; it asks for nothing.

`python3 player.py --trace 100` writes frames as lines instead, without a generator.

Mind: fingers, hair and scarves get pinched where parts turn: keep clear while it is powered, with a switch for its supply within reach. If the
computer stops, the generator goes on sending the last pulse, and a motor runs on: only the switch takes the power away. This advises and certifies nothing; local
codes and licensed practice come first.
"""
