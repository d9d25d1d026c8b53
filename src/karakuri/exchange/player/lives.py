"""What a figure does by itself as tables for the player: states, what each plays, what starts it, inputs, life and grips, in the units of its C++ (living.h)."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterable, Mapping

import numpy as np

from karakuri.behaviour.deeds import rows_between, stretch_of
from karakuri.behaviour.senses import TICK_HZ
from karakuri.behaviour.speech import jaws_of, spoken
from karakuri.exchange.player.live import LiveTables, MoveRow
from karakuri.exchange.player.lives_hand import grip_rows
from karakuri.exchange.player.lives_life import keeps_row, life_rows
from karakuri.exchange.player.pins import PinTable
from karakuri.exchange.player.rows import NONE, NOWHERE, Rows, text_of
from karakuri.exchange.sound_copies import number_of
from karakuri.model.behaviour import (
    HANDED,
    SEES,
    After,
    Behaviour,
    Cue,
    Deed,
    Lights,
    Performs,
    Poses,
    Says,
    Start,
    Stopped,
)
from karakuri.model.figure import Figure
from karakuri.model.loudness import Loudness
from karakuri.model.moves import Row
from karakuri.model.profiles import DESCRIBED, PROFILE_KINDS
from karakuri.motion.makers.voice import ahead_of, shut_and_wide
from karakuri.motion.score_motion import Tracks
from karakuri.motion.voice.following import NO_LIMIT, KeepsUp

SliceOf = Callable[[Iterable[Row]], tuple[int, int]]
ON = ("pressed", "released", "above", "below", "stopped", "after", "ended", "cue")
DEEDS = ("score", "pose", "light", "park", "line", "sound", "life", "attends", "steered")
GUARDS = ("on", "off", "above", "below")
MOVE_BYTES, MOST_A_SECOND = 13, 8
"""Of a move in the table; and so many moves a second a jaw makes at most with a sound nobody has listened to yet, twice the content of a voice in Hz."""
RIBBON_BYTES, ACT_BYTES, START_BYTES, INPUT_BYTES, LIFE_BYTES, LED_BYTES, LIST_BYTES, OTHER_BYTES = (
    104,
    19,
    10,
    9,
    10,
    19,
    9,
    160,
)
CORE, READY, SHIFT, JAWED, STIRS, OF_LIFE = 6000, 1500, 2400, 700, 430, 2450
OF_DEED = (2100, 450, 500, 850, 850, 600, 0, 2200, 4300)
"""Bytes of code: what all need, what shares the rest, and what each kind of deed needs more, from above by what avr-g++ makes of it with -Os."""


def move_row(row: Row) -> MoveRow:
    """A move in the player's numbers."""
    own = DESCRIBED[row.profile].shape
    shape = min(round(row.shape * own.counts), 65535) if own is not None else 0
    return round(row.departs * 1e4), round(row.takes * 1e4), round(row.target * 100), PROFILE_KINDS.index(row.profile), shape  # fmt: skip


def live_tables(
    figure: Figure, pins: PinTable, first_move: int, can: Mapping[str, KeepsUp], heard: Mapping[str, Loudness]
) -> LiveTables:
    """The tables of a figure that lives by itself; `first_move` moves stand in the table before its own; `can` by ribbon and `heard` by digest as makers of
    moves are given them: times s, places rad or m."""
    behaviour = figure.behaviour
    assert behaviour is not None
    ribbons = tuple(figure.ribbons.values())
    at = {channel.id: k for k, channel in enumerate(ribbons)}
    out, moves = Rows(), list[MoveRow]()

    def slice_of(rows: Iterable[Row]) -> tuple[int, int]:
        begin = first_move + len(moves)
        moves.extend(move_row(row) for row in rows)
        return begin, first_move + len(moves) - begin

    played, plays = _deeds(figure, behaviour, at, out, slice_of)
    silent = _speech(figure, at, out, slice_of, can, heard)
    _starts(behaviour, out)
    unread = _inputs(behaviour, pins, out)
    kinds, glancers, does = life_rows(figure, at, out, can)
    grips, leds, most = grip_rows(figure, at, out, can)
    out.add("KEEPS", "Keeps", 37, (keeps_row(channel, figure, can.get(channel.id, NO_LIMIT)) for channel in ribbons))
    life, steering = figure.score.life, figure.steering
    held, by, shares, parks = NOWHERE, NOWHERE, (1.0, 1.0, 1.0), False
    if steering is not None:
        order = {each.id: k for k, each in enumerate(behaviour.inputs)}
        held, by = order.get(steering.held_by or "", NOWHERE), order.get(steering.sensitivity_by or "", NOWHERE)
        shares, parks = tuple(s / 100 for s in steering.sensitivities), steering.let_go == "parks"  # type: ignore[assignment]
    out.plain("SENSITIVITY", "float", 4, shares)
    again = [_again_after(each.again_after, len(each.lines)) for each in figure.lines]
    defines: dict[str, int | float | bool] = {
        "PLAYS": plays, "DOES": does, "INPUTS_KNOWN": len(behaviour.inputs), "STARTS": len(behaviour.starts), "LINES": len(figure.lines), "MOST_AGAIN": max(again, default=0),
        "MOST_DEEDS": max(played, 1), "JAWS": len(jaws_of(figure)), "LIFE_KINDS": kinds, "GLANCERS": glancers, "GRIPS": grips, "LEDS": leds, "MOST_LED": max(most, 1),
        "HELD_BY": held, "SENSED_BY": by, "LET_GO_PARKS": parks, "BEHAVIOUR_SEED": behaviour.seed, "APPROACH": behaviour.approach_deg_per_s * 100.0,
        "WAITS_LOW": float(life.waits_s[0]), "WAITS_HIGH": float(life.waits_s[1]), "BREATHS": float(life.breaths_per_min),
        "HEAD_JOINS": -1.0 if life.head_joins_deg is None else life.head_joins_deg * 100.0,
    }  # fmt: skip
    text = "\n".join([
        "// What the figure does by itself, for living.h. Written by Karakuri; change the figure and export again rather than this.", "#pragma once", '#include "living.h"', "",
        *(f"#define {name} {text_of(value)}" for name, value in defines.items()), "", *out.text(), "",
    ])  # fmt: skip
    ram = (
        RIBBON_BYTES * len(ribbons)
        + ACT_BYTES * max(played, 1)
        + START_BYTES * (len(behaviour.starts) + 1)
        + INPUT_BYTES * (len(behaviour.inputs) + 1)
        + OTHER_BYTES
    )
    ram += max(played, 1) * len(ribbons) if plays & 1 else 0
    ram += (LIST_BYTES + max(again, default=0)) * len(figure.lines) if plays & 16 else 0
    ram += LIFE_BYTES * (kinds + 1) if plays & 64 else 0
    ram += 4 * (glancers + 1) * (bool(plays & 128) + bool(plays & 128 or does & 1))
    ram += LED_BYTES * (leds + 1) + 5 * (grips + 1) + 8 if plays & 256 else 0
    code = _code_bytes(plays, does, bool(jaws_of(figure)))
    cues = cues_of(behaviour)
    spoken_s = sum(sound.length_s for sound in figure.sounds if sound.name in silent)
    unknown = math.ceil(len(jaws_of(figure)) * spoken_s * MOST_A_SECOND * MOVE_BYTES)
    return LiveTables(text, out.numbers, defines, tuple(moves), out.flash + code + unknown, ram, unread, cues, silent)


def _code_bytes(plays: int, does: int, jaws: bool) -> int:
    """Bytes of code for kinds of deeds and of life, a bit each."""
    code = CORE + sum(each for k, each in enumerate(OF_DEED) if plays & 1 << k)
    code += READY if plays & ~(4 | 8) else 0
    code += OF_LIFE + STIRS * does.bit_count() if plays & 64 else 0
    code += SHIFT if plays & 128 or (plays & 64 and does & 1) else 0
    return code + (JAWED if jaws and plays & (16 | 32) else 0)


# ---- states and what they play
def _deeds(
    figure: Figure, behaviour: Behaviour, at: Mapping[str, int], out: Rows, slice_of: SliceOf
) -> tuple[int, int]:
    """States, deeds, performances, poses; the most deeds a state has, and which kinds of deeds there are, a bit each."""
    sounds = {sound.id: k for k, sound in enumerate(figure.sounds)}
    lists = {lines.id: k for k, lines in enumerate(figure.lines)}
    performed, posed = list[Performs](), list[str]()
    deeds: list[tuple[int, int, int, int]] = []
    states: list[tuple[int, ...]] = []
    from_rows: list[int] = []
    for state in behaviour.states:
        first = len(deeds)
        deeds += [row for deed in state.plays if (row := _deed(deed, at, sounds, lists, performed, posed)) is not None]
        starts = [k for k, start in enumerate(behaviour.starts) if not start.while_in or state.id in start.while_in]
        stays = tuple(round(s * 1e4) for s in state.stays_s or (0.0, 0.0))
        states.append(
            (
                first,
                len(deeds) - first,
                len(from_rows),
                len(starts),
                *stays,
                state.stays_s is not None,
                state.priority,
                state.deaf,
                0,
            )
        )
        from_rows += starts
    out.add("STATE", "State", 18, states)
    out.plain("FROM", "uint16_t", 2, from_rows)
    out.add("DEED", "Deed", 8, deeds)
    performances, parts, said = [], [], list[tuple[int, int]]()
    tracks = Tracks()
    for deed in performed:
        score = next(each for each in figure.scores if each.id == deed.score)
        begin, end = stretch_of(score, deed)
        mine = {channel.id: channel for channel in score.moved}
        for ident in at:
            channel = mine.get(ident)
            if channel is None:
                parts.append((0, 0, NONE))
                continue
            place = float(tracks.of(channel, 1.0).at(np.array([begin]))[0][0])
            parts.append((*slice_of(rows_between(channel, begin, end)), round(place * 100)))
        says = sorted((round((play.at_s - begin) * 1e4), sounds[play.sound]) for voice in score.voices for play in voice.plays if begin <= play.at_s < end)  # fmt: skip
        performances.append((round((end - begin) * 1e4), deed.again, len(said), len(says)))
        said += says
    out.add("PERFORMANCE", "Performance", 9, performances)
    out.add("PART", "Part", 6, parts)
    out.add("SAID", "Said", 5, said)
    channels, poses = tuple(figure.ribbons.values()), list[int]()
    for ident in posed:
        found = (figure.pose(ident).place_of(channel) for channel in channels)
        poses += [NONE if place is None else round(place * 100) for place in found]
    out.plain("POSE", "int16_t", 2, poses)
    most = max((len(state.plays) for state in behaviour.states), default=0)
    return most, sum(1 << kind for kind in {row[0] for row in deeds})


def _deed(
    deed: Deed, at: Mapping[str, int], sounds: Mapping[str, int], lists: Mapping[str, int], performed: list[Performs], posed: list[str]
) -> tuple[int, int, int, int] | None:  # fmt: skip
    if isinstance(deed, Performs):
        if deed not in performed:
            performed.append(deed)
        return 0, performed.index(deed), 0, 0
    if isinstance(deed, Poses):
        if deed.pose not in posed:
            posed.append(deed.pose)
        return 1, posed.index(deed.pose), 0, round(deed.takes_s * 1e4)
    if isinstance(deed, Lights):
        return (2, at[deed.channel], round(deed.level * 100), round(deed.takes_s * 1e4)) if deed.channel in at else None
    if isinstance(deed, Says):
        return (4, lists[deed.lines], 0, 0) if deed.lines is not None else (5, sounds[deed.sound or ""], 0, 0)
    return DEEDS.index(deed.kind), 0, 0, 0


def _again_after(wanted: int, lines: int) -> int:
    return max(0, min(wanted, lines - 1))


def _speech(figure: Figure, at: Mapping[str, int], out: Rows, slice_of: SliceOf, can: Mapping[str, KeepsUp], heard: Mapping[str, Loudness]) -> tuple[str, ...]:  # fmt: skip
    """Sounds, lists of lines, jaws and how they go with each sound; the names of sounds nobody could listen to."""
    channels = figure.ribbons
    jaws, speech, silent = jaws_of(figure), list[tuple[int, int, int]](), list[str]()
    for sound in figure.sounds:
        loudness = heard.get(sound.sha256)
        if loudness is None and jaws:
            silent.append(sound.name)
        for voice in jaws:
            rows = spoken(figure, voice, channels[voice.jaw], loudness, can) if loudness is not None else ()
            speech.append((*slice_of(rows), 0))
    out.add("SOUND", "Sound", 6, ((round(s.length_s * 1e4), number_of(figure, s.id)) for s in figure.sounds))
    out.add("JAW", "Jaw", 7, ((at[v.jaw], round(100 * shut_and_wide(figure, v, channels[v.jaw])[0]), round(1e4 * ahead_of(figure, v))) for v in jaws))  # fmt: skip
    out.add("SPEECH", "Part", 6, speech)
    sounds = {sound.id: k for k, sound in enumerate(figure.sounds)}
    lists, lines = [], list[int]()
    for each in figure.lines:
        lists.append((len(lines), len(each.openings), len(each.lines), each.order == "in order", _again_after(each.again_after, len(each.lines))))  # fmt: skip
        lines += [sounds[ident] for ident in (*each.openings, *each.lines)]
    out.add("LISTS", "Lines", 6, lists)
    out.plain("LINE", "uint8_t", 1, lines)
    return tuple(silent)


# ---- what starts what
def cues_of(behaviour: Behaviour) -> tuple[str, ...]:
    """The cues that start something, in the order by which a player counts them."""
    return tuple(sorted({start.on.cue for start in behaviour.starts if isinstance(start.on, Cue)}))[:NOWHERE]


def _starts(behaviour: Behaviour, out: Rows) -> None:
    inputs = {each.id: k for k, each in enumerate(behaviour.inputs)}
    cues = {cue: k for k, cue in enumerate(cues_of(behaviour))}
    order = {state.id: k for k, state in enumerate(behaviour.states)}
    rows, guards = [], list[tuple[int, int, int]]()
    for start in behaviour.starts:
        first = len(guards)
        guards += [(inputs[g.input], GUARDS.index(g.state), round(g.level * 100)) for g in start.only]
        rows.append((order[start.to], ON.index(start.on.kind), cues.get(start.on.cue, NOWHERE) if isinstance(start.on, Cue) else inputs.get(getattr(start.on, "input", ""), NOWHERE), _level(start), *_span(start),
                     first, len(start.only), math.ceil(start.chance * 2**24), _ticks(start.cool_s)))  # fmt: skip
    out.add("START", "Start", 23, rows)
    out.add("GUARD", "Guard", 4, guards)


def _level(start: Start) -> int:
    if isinstance(start.on, Stopped):
        return min(_ticks(start.on.still_s), 65535)
    return round(getattr(start.on, "level", 50.0) * 100)


def _span(start: Start) -> tuple[int, int]:
    low, high = start.on.between_s if isinstance(start.on, After) else (0.0, 0.0)
    return round(low * 1e4), round(high * 1e4)


def _ticks(seconds: float) -> int:
    return math.ceil(seconds * TICK_HZ - 1e-9)


def _inputs(behaviour: Behaviour, pins: PinTable, out: Rows) -> tuple[str, ...]:
    """Inputs and where each is plugged in; the names of those that are plugged in nowhere."""
    where = {row.ident: k for k, row in enumerate(pins.inputs)}
    rows = []
    for each in behaviour.inputs:
        by = 1.0 if each.kind == "receiver" else 10.0  # of a thousand
        low, high = (end * by for end in each.ends)
        middle = (low + high) / 2 if each.middle is None else each.middle * by
        handed = each.kind in HANDED
        rows.append((where.get(each.id, NOWHERE), handed, each.kind in SEES, low, high, middle, float(each.still_percent), float(each.heading_deg), float(each.weight)))  # fmt: skip
    out.add("INPUT", "Input", 27, rows)
    return tuple(each.name for each in behaviour.inputs if each.id not in where)
