"""The exported player of a figure that lives by itself beside the window's engine: both given the same inputs, tick by tick."""

import random
import subprocess
from dataclasses import dataclass
from pathlib import Path

import numpy as np

from karakuri.behaviour.engine import Engine
from karakuri.behaviour.reading import level
from karakuri.behaviour.senses import TICK_HZ
from karakuri.exchange.outputs import outputs
from karakuri.exchange.player.bundle import bundle
from karakuri.exchange.player.known import Known
from karakuri.exchange.player.pins import as_wired, pin_table
from karakuri.exchange.player.size import controllers
from karakuri.exchange.sound_copies import number_of
from karakuri.files.disk import write_files
from karakuri.model.behaviour import ANALOG, HANDED


@dataclass
class Lived:
    """What one of both did: (state, tick) as it entered them, (tick, number) of sounds, and what outputs were sent, (o, n): µs, or per mille of a light."""

    entered: list
    said: list
    values: np.ndarray


def script(seed, inputs, ticks, every=0.01):
    """When which input reads what: pressed, turned and let go at random; a button for a few ticks, for nobody sees less."""
    chance, out = random.Random(seed), []
    for tick in range(1, ticks):
        for k, each in enumerate(inputs):
            if chance.random() < every or (tick == 1 and each.kind in HANDED):
                reads = chance.randint(900, 2100) if each.kind == "receiver" else chance.randint(0, 1000) if each.kind in ANALOG else chance.choice((0, 1000))  # fmt: skip
                out.append((tick, k, reads))
            elif tick == 1:  # a pin always reads something
                out.append((tick, k, 0))
    return out


def read(lines, numbers, lights):
    """What a player wrote."""
    entered, said, frames = [], [], []
    for line in lines:
        words = line.split()
        if words[:1] == ["E"]:
            entered.append((int(words[1]), int(words[2])))
        elif words[:1] == ["V"]:
            said.append((len(frames) + 1, int(words[1])))
        elif words[:1] == ["F"]:
            frames.append([int(word) for word in words[2:]])
    table = np.array(frames, dtype=float).T[numbers]
    return Lived(entered, said, np.where(np.array(lights)[:, None], table, table / 10))


def on_a_computer(figure, known, folder: Path, events, ticks):
    """The player built by g++ and run: a figure with all its inputs plugged in."""
    write_files(folder, bundle(figure, controllers()[0], known=known))
    done = subprocess.run(["make", "host"], cwd=folder, capture_output=True, text=True, check=False)
    assert done.returncode == 0 and "warning" not in done.stderr, done.stderr
    return again_on_a_computer(figure, folder, events, ticks)


def again_on_a_computer(figure, folder: Path, events, ticks):
    """The same player with other inputs."""
    (folder / "inputs.txt").write_text("".join(f"{tick} {k} {reads}\n" for tick, k, reads in events))
    ran = subprocess.run(["./player-host"], cwd=folder, capture_output=True, text=True, check=True, env={"TRACE_FRAMES": str(ticks), "TRACE_INPUTS": "inputs.txt"})  # fmt: skip
    found = outputs(figure)
    return read(ran.stdout.splitlines(), [o.number for o in found], [o.pulses is None for o in found])


def plugged_inputs(figure):
    """Inputs in the order in which the player knows them."""
    by = {each.id: each for each in figure.behaviour.inputs}
    return [by[row.ident] for row in pin_table(figure, *as_wired(figure)).inputs]


def in_the_window(figure, known, events, ticks, seed=None, inputs=None, cues=()):
    """The window's engine with the same inputs."""
    inputs, levels, waiting = inputs or plugged_inputs(figure), {}, list(events)

    def sensed(time):
        while waiting and waiting[0][0] <= round(time * TICK_HZ):
            _, k, reads = waiting.pop(0)
            each = inputs[k]
            levels[each.id] = level(each, reads if each.kind == "receiver" else reads / 10)
        return dict(levels)

    engine, places = Engine(figure, sensed, seed, records=True, heard=known.heard, can=known.can), []
    channels = figure.score.moved
    units = [channel.measure(figure).si for channel in channels]
    for tick in range(1, ticks + 1):
        for word in (word for at, word in cues if at == tick):
            engine.cue(word)
        engine.tick()
        places.append([engine.stage.ribbons[c.id].held(engine.now) * u for c, u in zip(channels, units, strict=True)])
    found, moved = outputs(figure), np.array(places).T
    names = [state.id for state in figure.behaviour.states]
    entered = [(names.index(each.state), round(each.at * TICK_HZ)) for each in engine.entered]
    said = [(at * TICK_HZ, number_of(figure, ident)) for at, ident in engine.stage.sounded]
    return Lived(entered, said, np.array([output.value(output.places(moved)) for output in found]))


def nothing_known():
    """Nothing holds ribbons back, nobody listened to a sound."""
    return Known()
