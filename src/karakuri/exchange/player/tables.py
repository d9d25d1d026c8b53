"""A score as tables for the player: whole numbers that fit a small controller, and the C++ text that holds them.

Times in tenths of a millisecond, places in hundredths of a degree (a light, a motor: of a per cent), pulses in tenths of a microsecond.
"""

from __future__ import annotations

import math

from karakuri.errors import Fault, FileTrouble
from karakuri.exchange.outputs import Output, outputs
from karakuri.exchange.player.links import LinkRow, link_row, links_text
from karakuri.exchange.player.live import CUE_KEYS, LiveTables
from karakuri.frozen import Frozen
from karakuri.model.figure import Figure
from karakuri.model.profiles import DESCRIBED, PROFILE_KINDS
from karakuri.wiring.following import followers

MOST_PLACE, MOST_TICKS, MOST_OUTPUTS, MOST_SHAPE = 32767, 2**32 - 1, 200, 65535
LIGHT, RUNS = 1, 2
MOVE_BYTES, CHANNEL_BYTES, OUTPUT_BYTES, KNOT_BYTES = 13, 11, 12, 4


OutputRow = tuple[int, int, int, tuple[int, ...], tuple[int, ...], int, int, int]
"""Number, channel, kind (0 a servo, 1 a light, 2 a motor that runs), places and pulses of its curve, low, high, step."""


class Tables(Frozen):
    """Rows as the player reads them; numbers in its own units. `strings` of lamps, pulse `generators`, and how many servos are `hung` on these."""

    name: str
    length: int
    loops: bool
    moves: tuple[tuple[int, int, int, int, int], ...]
    channels: tuple[tuple[int, int, int, int, int, int], ...]
    outputs: tuple[OutputRow, ...]
    names: tuple[str, ...]
    links: tuple[LinkRow, ...] = ()
    strings: int = 0
    generators: int = 0
    hung: int = 0
    live: LiveTables | None = None

    @property
    def flash_bytes(self) -> int:
        """Bytes of all tables in flash."""
        knots = KNOT_BYTES * sum(len(row[3]) for row in self.outputs) + sum(link.flash_bytes for link in self.links)
        knots += self.live.flash_bytes if self.live is not None else 0
        return (
            MOVE_BYTES * len(self.moves) + CHANNEL_BYTES * len(self.channels) + OUTPUT_BYTES * len(self.outputs) + knots
        )


def tables(figure: Figure, live: bool = False) -> Tables:
    """The tables of a figure's score; of one that lives by itself without the score's moves. Raises FileTrouble where something does not fit, with what and
    where."""
    score, faults = figure.score, list[Fault]()
    found = outputs(figure)
    for channel in score.moved:
        if channel.leads is not None and figure.joint(channel.leads).kind == "slide":
            faults.append(Fault(f"channel {channel.id}", "a joint that turns", "one that slides; the player drives servos that turn"))  # fmt: skip
    moving = {o.joint for o in found}
    for channel in tuple(figure.ribbons.values())[len(score.moved) :] if live else ():
        faults.append(
            Fault(
                f"channel {channel.id}", f"a ribbon of “{score.name}” too, the score in hand", "none: lay it out there"
            )
        )
    for channel in score.moved:
        for joint in channel.joints:
            if joint not in moving and figure.joint(joint).kind == "turn":
                steps = figure.drive_of(joint) is not None
                found_there = (
                    "a stepper: no exported player tells one its steps yet"
                    if steps
                    else "none: fit one on the Drive bench"
                )
                faults.append(Fault(f"channel {channel.id}", f"a servo on {figure.joint(joint).name}", found_there))
    for output in found:
        if output.number >= MOST_OUTPUTS:
            faults.append(Fault(f"output of {output.name}", f"a number below {MOST_OUTPUTS}", str(output.number)))
        if output.pulses is not None and max(abs(output.written(v)) for v in _places(output)) * 100 > MOST_PLACE:
            faults.append(Fault(f"output of {output.name}", "a servo's travel and a range within ± 327°", f"{math.degrees(min(_places(output))):.0f} … {math.degrees(max(_places(output))):.0f}°"))  # fmt: skip
    links = []
    for number, output in enumerate(found):
        link = link_row(number, output)
        if isinstance(link, Fault):
            faults.append(link)
        elif link is not None:
            links.append(link)
    moves: list[tuple[int, int, int, int, int]] = []
    channels = []
    for channel in score.moved:
        low, high = (round(100 * end) for end in channel.band(figure))
        rows = [row for row in channel.moves.rows() if row.departs <= score.length_s and not live]
        park = round(channel.park * 100)
        if max(abs(v) for v in (park, low, high)) > MOST_PLACE:
            faults.append(Fault(f"channel {channel.id}", "a park and soft limits within ± 327°", f"{channel.park:g}, {low / 100:g} … {high / 100:g}"))  # fmt: skip
        channels.append(
            (
                len(moves),
                len(rows),
                round(channel.park * 100),
                low,
                high,
                0 if channel.leads is not None else RUNS if channel.runs else LIGHT,
            )
        )
        for k, row in enumerate(rows):
            target = round(row.target * 100)
            if abs(target) > MOST_PLACE:
                faults.append(Fault(f"channel {channel.id}, move {k + 1}", "a target within ± 327°", f"{row.target:g}"))
            own = DESCRIBED[row.profile].shape
            shape = round(row.shape * own.counts) if own is not None else 0
            if row.takes * 1e4 > MOST_TICKS or shape > MOST_SHAPE:
                faults.append(Fault(f"channel {channel.id}, move {k + 1}", "times below 65 s for following, 119 h for all else", f"{row.takes:g} s, {row.shape:g}"))  # fmt: skip
            moves.append((round(row.departs * 1e4), round(row.takes * 1e4), target, PROFILE_KINDS.index(row.profile), min(shape, MOST_SHAPE)))  # fmt: skip
    if len(moves) > 65535:
        faults.append(Fault("the score", "at most 65 535 moves", str(len(moves))))
    if not channels:
        faults.append(Fault("the score", "at least one ribbon", "none"))
    if faults:
        raise FileTrouble("The player was not written.", tuple(faults[:12]), "Change these and export again.")
    others = {board.id for board in followers(figure)}
    generators = {board.id for board in figure.boards if board.kind == "generator"} | others
    return Tables(figure.name, round(score.length_s * 1e4), score.loops, tuple(moves), tuple(channels),
                  tuple(_output(o) for o in found), tuple(o.name for o in found), tuple(links), sum(o.plug is not None and o.plug.lamps > 0 and o.plug.board not in others for o in found),
                  len(generators), sum(o.pulses is not None and o.plug is not None and o.plug.board in generators for o in found))  # fmt: skip


def _output(o: Output) -> OutputRow:
    channel = o.channel if o.channel >= 0 else 255
    led = o.led_pulses
    if led is None:
        return (o.number, channel, LIGHT, (), (), 0, 10000, 0)
    *places, low, high = (round(o.written(v) * 100) for v in _places(o))
    pulses = tuple(round(p * 10) for p in led.pulses)
    return (
        o.number,
        channel,
        RUNS if o.runs else 0,
        tuple(places),
        pulses,
        low,
        high,
        round(min(o.most_us * 10, 65535)),
    )


def _places(o: Output) -> tuple[float, ...]:
    """The places of what leads it, rad, that its row holds: of its pulses, then its limits."""
    return (*(o.led_pulses.angles if o.led_pulses is not None else ()), *o.led_limits)


def header(score: Tables) -> str:
    """score.h: the tables as C++."""
    plain = "".join(c if c.isascii() and c.isprintable() and c not in '"\\' else "?" for c in score.name)
    lines = [
        f"// The score of {plain}. Written by Karakuri; change the figure and export again rather than this.",
        "#pragma once",
        '#include "player.h"',
        "",
        f"const uint32_t SCORE_LENGTH = {score.length}UL;  // tenths of a millisecond",
        f"const bool SCORE_LOOPS = {'true' if score.loops else 'false'};",
        "",
        "// departs, takes, target, profile, shape",
        "const Move MOVES[] PROGMEM = {",
        *(f"  {{{d}UL, {t}UL, {g}, {p}, {s}}}," for d, t, g, p, s in score.moves or ((0, 0, 0, 0, 0),)),
        "};",
        "",
        "// first move, count, park, low, high, kind",
        "const Channel CHANNEL[] PROGMEM = {",
        *("  {" + ", ".join(map(str, row)) + "}," for row in score.channels),
        "};",
        "",
        *links_text(score.links),
        "// the curves of all outputs, one after the other: place, pulse",
        "const Knot KNOT[] PROGMEM = {",
        *(f"  {{{a}, {p}}}," for row in score.outputs for a, p in zip(row[3], row[4], strict=True)),
        *([] if any(row[3] for row in score.outputs) else ["  {0, 0},"]),
        "};",
        "",
        "// number, channel, kind, first of its curve, count, low, high, step",
        "const Output OUTPUT[] PROGMEM = {",
        *(f"  {{{n}, {c}, {kind}, {sum(len(row[3]) for row in score.outputs[:i])}, {len(a)}, {low}, {high}, {step}}},  // {_plain(name)}"
          for i, ((n, c, kind, a, _, low, high, step), name) in enumerate(zip(score.outputs, score.names, strict=True))),
        "};",
        "",
    ]  # fmt: skip
    return "\n".join(lines)


def shape(score: Tables) -> str:
    """shape.h: how many of what there are, and whether it lives by itself."""
    lines = [
        "// Written by Karakuri.",
        "#pragma once",
        f"#define CHANNELS {len(score.channels)}",
        f"#define OUTPUTS {len(score.outputs)}",
    ]
    live = (
        ["#define LIVING", f"#define CUES {min(len(score.live.cues), len(CUE_KEYS))}"]
        if score.live is not None
        else ["#define CUES 0"]
    )
    return "\n".join([*lines, *live, ""])


def _plain(name: str) -> str:
    return "".join(c if c.isascii() and c.isprintable() and c != "\\" else "?" for c in name)
