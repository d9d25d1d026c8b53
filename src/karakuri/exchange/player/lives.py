"""What a figure does by itself as tables for the player: states, what each plays, what starts it, inputs, life and grips, in the units of its C++ (living.h)."""

from __future__ import annotations

import math
from collections.abc import Iterable, Mapping

import numpy as np

from karakuri.behaviour.deeds import rows_between, stretch_of
from karakuri.behaviour.hand.grasp import Grasp
from karakuri.behaviour.hand.smooth import share_of
from karakuri.behaviour.speech import jaws_of, spoken
from karakuri.exchange.player.live import LiveTables, MoveRow, ribbons_of
from karakuri.exchange.player.pins import PinTable
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
from karakuri.model.channel import MovedChannel
from karakuri.model.figure import Figure
from karakuri.model.loudness import Loudness
from karakuri.model.moves import Row
from karakuri.model.profiles import DESCRIBED, PROFILE_KINDS
from karakuri.model.sides import same_way, twin_of
from karakuri.model.steering import Expressions, Follows, Grip, Keyed, PushPull, Wheels
from karakuri.motion.life import LIVES, glances
from karakuri.motion.life.contract import Actor
from karakuri.motion.makers.voice import ahead_of, shut_and_wide
from karakuri.motion.score_motion import Tracks
from karakuri.motion.voice.following import NO_LIMIT, KeepsUp

NONE, NOWHERE, FOREVER, TICK_HZ = -32768, 255, 0xFFFFFFFF, 50
ON = ("pressed", "released", "above", "below", "stopped", "after", "ended", "cue")
DEEDS = ("score", "pose", "light", "park", "line", "sound", "life", "attends", "steered")
GUARDS = ("on", "off", "above", "below")
KINDS = ("follows", "keyed", "push pull", "wheels", "expressions")
MOVE_BYTES, MOST_A_SECOND = 13, 8
"""Of a move in the table; and so many moves a second a jaw makes at most with a sound nobody has listened to yet, twice the content of a voice in Hz."""
PARTS = ("eye pan", "eye tilt", "head pan", "head tilt")
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


class _Rows:
    """Tables as they grow: rows of numbers, each table with its C++ name and type, and how many bytes a row has."""

    def __init__(self) -> None:
        self.tables: dict[str, tuple[str, int, list[str]]] = {}

    def add(self, name: str, kind: str, bytes_each: int, rows: Iterable[Iterable[object]]) -> None:
        made = ["{" + ", ".join(map(_text, row)) + "}" for row in rows]
        self.tables[name] = (kind, bytes_each, made)

    def plain(self, name: str, kind: str, bytes_each: int, values: Iterable[object]) -> None:
        self.tables[name] = (kind, bytes_each, [_text(value) for value in values])

    @property
    def flash(self) -> int:
        return sum(each * max(len(rows), 1) for _, each, rows in self.tables.values())

    def text(self) -> Iterable[str]:
        for name, (kind, _, rows) in self.tables.items():
            yield f"static const {kind} {name}[] PROGMEM = {{"
            yield from (f"  {row}," for row in rows or ["0" if kind.endswith("_t") or kind == "float" else "{}"])
            yield "};"


def _text(value: object) -> str:
    if isinstance(value, bool):
        return str(int(value))
    if isinstance(value, float):
        return f"{min(max(value, -1e9), 1e9):.7g}" + ("" if any(c in f"{value:.7g}" for c in ".en") else ".0") + "f"
    return f"{value}UL" if isinstance(value, int) and value > 32767 else str(value)


def live_tables(
    figure: Figure, pins: PinTable, first_move: int, can: Mapping[str, KeepsUp], heard: Mapping[str, Loudness]
) -> LiveTables:
    """The tables of a figure that lives by itself; `first_move` moves stand in the table before its own; `can` by ribbon and `heard` by digest as makers of
    moves are given them: times s, places rad or m."""
    behaviour = figure.behaviour
    assert behaviour is not None
    ribbons = ribbons_of(figure)
    at = {channel.id: k for k, channel in enumerate(ribbons)}
    out, moves = _Rows(), list[MoveRow]()

    def slice_of(rows: Iterable[Row]) -> tuple[int, int]:
        begin = first_move + len(moves)
        moves.extend(move_row(row) for row in rows)
        return begin, first_move + len(moves) - begin

    played, plays = _deeds(figure, behaviour, at, out, slice_of)
    silent = _speech(figure, at, out, slice_of, can, heard)
    _starts(behaviour, out)
    unread = _inputs(behaviour, pins, out)
    kinds, glancers, does = _life(figure, at, out, can)
    grips, leds, most = _grips(figure, at, out, can)
    out.add("KEEPS", "Keeps", 37, (_keeps(channel, figure, can.get(channel.id, NO_LIMIT)) for channel in ribbons))
    life, steering = figure.score.life, figure.steering
    held, by, shares, parks = NOWHERE, NOWHERE, (1.0, 1.0, 1.0), False
    if steering is not None:
        order = {each.id: k for k, each in enumerate(behaviour.inputs)}
        held, by = order.get(steering.held_by or "", NOWHERE), order.get(steering.sensitivity_by or "", NOWHERE)
        shares, parks = tuple(s / 100 for s in steering.sensitivities), steering.let_go == "parks"  # type: ignore[assignment]
    out.plain("SENSITIVITY", "float", 4, shares)
    again = [_again_after(each.again_after, len(each.lines)) for each in figure.lines]
    defines = {
        "PLAYS": plays, "DOES": does, "INPUTS_KNOWN": len(behaviour.inputs), "STARTS": len(behaviour.starts), "LINES": len(figure.lines), "MOST_AGAIN": max(again, default=0),
        "MOST_DEEDS": max(played, 1), "JAWS": len(jaws_of(figure)), "LIFE_KINDS": kinds, "GLANCERS": glancers, "GRIPS": grips, "LEDS": leds, "MOST_LED": max(most, 1),
        "HELD_BY": held, "SENSED_BY": by, "LET_GO_PARKS": parks, "BEHAVIOUR_SEED": f"{behaviour.seed}UL", "APPROACH": f"{behaviour.approach_deg_per_s * 100:.1f}f",
        "WAITS_LOW": _text(float(life.waits_s[0])), "WAITS_HIGH": _text(float(life.waits_s[1])), "BREATHS": _text(float(life.breaths_per_min)),
        "HEAD_JOINS": _text(-1.0 if life.head_joins_deg is None else life.head_joins_deg * 100.0),
    }  # fmt: skip
    text = "\n".join([
        "// What the figure does by itself, for living.h. Written by Karakuri; change the figure and export again rather than this.", "#pragma once", '#include "living.h"', "",
        *(f"#define {name} {int(value) if isinstance(value, bool) else value}" for name, value in defines.items()), "", *out.text(), "",
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
    mute = tuple(sorted({start.on.cue for start in behaviour.starts if isinstance(start.on, Cue)}))
    spoken_s = sum(sound.length_s for sound in figure.sounds if sound.name in silent)
    unknown = math.ceil(len(jaws_of(figure)) * spoken_s * MOST_A_SECOND * MOVE_BYTES)
    return LiveTables(text, tuple(moves), out.flash + code + unknown, ram, unread, mute, silent)


def _code_bytes(plays: int, does: int, jaws: bool) -> int:
    """Bytes of code for kinds of deeds and of life, a bit each."""
    code = CORE + sum(each for k, each in enumerate(OF_DEED) if plays & 1 << k)
    code += READY if plays & ~(4 | 8) else 0
    code += OF_LIFE + STIRS * does.bit_count() if plays & 64 else 0
    code += SHIFT if plays & 128 or (plays & 64 and does & 1) else 0
    return code + (JAWED if jaws and plays & (16 | 32) else 0)


# ---- states and what they play
def _deeds(figure: Figure, behaviour: Behaviour, at: Mapping[str, int], out: _Rows, slice_of) -> tuple[int, int]:  # type: ignore[no-untyped-def]
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
    channels, poses = ribbons_of(figure), list[int]()
    for ident in posed:
        places = dict(figure.pose(ident).places)
        named = (next((joint for joint in channel.joints if joint in places), None) for channel in channels)
        poses += [NONE if joint is None else round(places[joint] * 100) for joint in named]
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


def _speech(figure: Figure, at: Mapping[str, int], out: _Rows, slice_of, can: Mapping[str, KeepsUp], heard: Mapping[str, Loudness]) -> tuple[str, ...]:  # type: ignore[no-untyped-def]  # fmt: skip
    """Sounds, lists of lines, jaws and how they go with each sound; the names of sounds nobody could listen to."""
    channels = {channel.id: channel for channel in ribbons_of(figure)}
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
def _starts(behaviour: Behaviour, out: _Rows) -> None:
    inputs = {each.id: k for k, each in enumerate(behaviour.inputs)}
    order = {state.id: k for k, state in enumerate(behaviour.states)}
    rows, guards = [], list[tuple[int, int, int]]()
    for start in behaviour.starts:
        first = len(guards)
        guards += [(inputs[g.input], GUARDS.index(g.state), round(g.level * 100)) for g in start.only]
        rows.append((order[start.to], ON.index(start.on.kind), inputs.get(getattr(start.on, "input", ""), NOWHERE), _level(start), *_span(start),
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


def _inputs(behaviour: Behaviour, pins: PinTable, out: _Rows) -> tuple[str, ...]:
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


# ---- life
def _life(figure: Figure, at: Mapping[str, int], out: _Rows, can: Mapping[str, KeepsUp]) -> tuple[int, int, int]:
    """Kinds of life, who stirs; how many kinds and glancers, and which kinds, a bit each."""
    owned: list[tuple[int, int]] = []
    actors: list[tuple[object, ...]] = []
    kinds: list[tuple[int, int, int]] = []

    def row(actor: Actor, part: int) -> tuple[object, ...]:
        first = len(owned)
        owned.extend((at[c.id], int(sign)) for c, sign in actor.ribbons if c.id in at)
        keeps = next((at[c.id] for c, _ in actor.ribbons if actor.can is not NO_LIMIT and can.get(c.id) is actor.can), NOWHERE)  # fmt: skip
        return first, len(owned) - first, actor.low * 100.0, actor.high * 100.0, part, keeps

    glancers = [row(actor, PARTS.index(actor.part)) for actor in glances.cast(figure, can)]
    for k, (word, kind) in enumerate(LIVES.items()):
        cast = kind.cast(figure, can) if word in figure.score.life.does else ()
        if cast and word == "glances":
            kinds.append((k, 0, len(glancers)))
        elif cast:
            kinds.append((k, len(actors), len(cast)))
            actors += [row(actor, int(actor.part == "high")) for actor in cast]
    out.add("GLANCER", "Actor", 12, glancers)
    out.add("ACTOR", "Actor", 12, actors)
    out.add("ACTOR_RIBBON", "ActorRibbon", 2, owned)
    out.add("LIFE", "LifeKind", 3, kinds)
    return len(kinds), len(glancers), sum(1 << k for k, _, _ in kinds)


def _keeps(channel: MovedChannel, figure: Figure, can: KeepsUp) -> tuple[object, ...]:
    unit = channel.measure(figure).si
    far = [min(round(d / unit * 100), 65535) for d in can.distances[:6]]
    times = [FOREVER if math.isinf(t) else round(t * 1e4) for t in can.times[:6]]
    pad = [0] * (6 - len(far))
    return len(far), "{" + ", ".join(map(str, far + pad)) + "}", "{" + ", ".join(f"{t}UL" for t in times + pad) + "}"


# ---- by hand
def _grips(figure: Figure, at: Mapping[str, int], out: _Rows, can: Mapping[str, KeepsUp]) -> tuple[int, int, int]:
    """Grips and what each moves; how many grips, ribbons of grips, and the most of one."""
    steering, rows, leds = figure.steering, [], list[tuple[object, ...]]()
    faces, places, most = list[float](), list[int](), 0
    if steering is not None and steering.grips and figure.behaviour is not None:
        order = {each.id: k for k, each in enumerate(figure.behaviour.inputs)}
        grasp = Grasp(figure, None, can)
        most = max((len(held.leads) for held, _ in grasp.grips), default=0)
        for k, (grip, (held, inputs)) in enumerate(zip(steering.grips, grasp.grips, strict=True)):
            own, first, poses = grasp.of_grip(grip.id), len(leds), tuple(held.leads)
            for ident, lead in held.leads.items():
                pace = grasp.ribbons[ident].pace if ident in own else 1.0
                leds.append(
                    (
                        at[ident],
                        ident in own,
                        lead.low * 100.0,
                        lead.high * 100.0,
                        lead.park * 100.0,
                        min(pace * 100.0, 1e9),
                    )
                )
            turned, springs = _turned(figure, grip)
            begin = len(faces)
            if isinstance(grip, Expressions):
                faces += [face.towards_deg for face in grip.faces]
                for face in grip.faces:
                    places += _face(figure, face.pose, poses, most)
            a, b = order[inputs[0]], order[inputs[-1]]
            pace = grip.pace * 100.0 if isinstance(grip, Keyed) else 0.0
            rows.append((KINDS.index(grip.kind), a, b, turned, springs, first, len(poses), begin, len(faces) - begin, share_of(grip.smooth_ms / 1e3), pace))  # fmt: skip
            assert k < NOWHERE
    out.add("GRIP", "Grip", 17, rows)
    out.add("LED", "Led", 18, leds)
    out.plain("FACE", "float", 4, faces)
    out.plain("FACE_PLACE", "int16_t", 2, places)
    return len(rows), len(leds), most


def _turned(figure: Figure, grip: Grip) -> tuple[bool, bool]:
    """Whether its way is the other way round, and whether what it is driven by springs back."""
    turned, springs = False, False
    if isinstance(grip, Follows | Keyed):
        turned = grip.to is not None and grip.to[0] > grip.to[1]
    if isinstance(grip, Follows) and figure.behaviour is not None:
        of = figure.behaviour.input(grip.input)
        springs = of.kind == "stick" or of.middle is not None
    if isinstance(grip, Wheels):
        turned = grip.mirrored
    if isinstance(grip, PushPull):
        ribbons = {channel.id: channel for channel in ribbons_of(figure)}
        one, other = ribbons[grip.first].leads, ribbons[grip.second].leads
        twins = one is not None and other is not None and twin_of(figure, one) == other
        turned = bool(twins and one and other and same_way(figure.joint(one), figure.joint(other)) < 0)
    return turned, springs


def _face(figure: Figure, pose_id: str, poses: tuple[str, ...], most: int) -> list[int]:
    """Where a pose has each ribbon of a grip, and room up to the most of any."""
    ribbons, kept = {c.id: c for c in ribbons_of(figure)}, dict(figure.pose(pose_id).places)
    named = (next((joint for joint in ribbons[ident].joints if joint in kept), None) for ident in poses)
    out = [NONE if joint is None else round(kept[joint] * 100) for joint in named]
    return out + [NONE] * (most - len(out))
