"""The player that lives by itself against the window's engine: states to the tick, sounds to the tick, outputs to a fraction of a degree, over random behaviours
of everything there is; and on a simulated controller with its pins driven."""

import random
import shutil
import subprocess
from pathlib import Path

import numpy as np
import pytest

from karakuri.catalogue import servo_class
from karakuri.demo import demo_path
from karakuri.errors import FileTrouble
from karakuri.exchange.outputs import outputs
from karakuri.exchange.player.bundle import bundle, sketch_name, whole_tables
from karakuri.exchange.player.known import Known
from karakuri.exchange.player.pins import as_wired, pin_table
from karakuri.exchange.player.size import controllers, size
from karakuri.exchange.player.tables import tables
from karakuri.exchange.sounds import heard
from karakuri.files.disk import load, write_files
from karakuri.model.behaviour import (
    Attends,
    Behaviour,
    Input,
    Lights,
    Lives,
    Parks,
    Performs,
    Poses,
    Says,
    State,
    Steered,
)
from karakuri.model.board_edits import add_board, pull_out, set_board, set_pin
from karakuri.model.channel import SoundChannel
from karakuri.model.edit import Edit, Set, apply
from karakuri.model.edits import fit_servo
from karakuri.model.lines import Lines
from karakuri.model.loudness import Loudness
from karakuri.model.makers import Life, Voice
from karakuri.model.moves import Row, moves_of
from karakuri.model.score_edits import add_light, add_motor, add_section, keep_pose, of_every, set_moves
from karakuri.model.sound import Sound
from karakuri.model.steering import Follows, Steering
from karakuri.model.steering_edits import add_grip, change_steering
from karakuri.motion.voice.following import KeepsUp
from karakuri.session.sounds import Sounds
from karakuri.wiring.clashes import clashes
from karakuri.wiring.plug_in import move_plug, plug_everything
from tests.behaving import random_behaviour
from tests.core.test_life import ALL, being
from tests.lived import in_the_window, on_a_computer, plugged_inputs, read, script

HARNESS = Path(__file__).parent.parent / "board" / "simboard.c"
pytestmark = pytest.mark.skipif(shutil.which("g++") is None, reason="apt-get install g++")
OFF_DEG, MOSTLY_DEG, OFF_PERMILLE = 0.5, 0.05, 4.0
"""A soft step of one tick, where who takes hold is there a tick sooner; nearly always it is a rounding."""


def loudness(seed, digest):
    """Speech-like: some loud syllables and pauses."""
    chance, levels = np.random.default_rng(seed), []
    while len(levels) < 400:
        levels += [chance.uniform(0.2, 1.0)] * chance.integers(10, 40) + [0.001] * chance.integers(5, 60)
    return Loudness(sha256=digest, levels=np.array(levels[:400], dtype="<f4").tobytes())


def lively(seed):
    """A figure with everything a state can play, random states and starts, all plugged in; and what is known beside it."""
    chance = random.Random(seed)
    rows = {"neck_pan": [Row(0.5, 0.8, chance.uniform(-40, 40)), Row(2.0, 0.6, 0.0), Row(3.1, 0.0, 10.0, "sudden")], "look": [Row(1.0, 0.4, 8.0, "cosine"), Row(1.2, 0.5, -6.0)]}  # fmt: skip
    figure = being(rows, length_s=5.0, seed=seed, does=tuple(chance.sample(ALL, chance.randrange(1, len(ALL) + 1))), waits_s=(0.4, 1.6), head_joins_deg=chance.choice((None, 10.0, 15.0)))  # fmt: skip
    for joint in figure.joints:
        figure = apply(figure, fit_servo(figure, joint.id, servo_class("class_20")))
    for channel in figure.score.moved:
        low, high = channel.band(figure)
        if chance.random() < 0.5:
            figure = apply(figure, Edit("park", of_every(figure, channel.id, "park", round(chance.uniform(low, high) * 0.4, 1))))  # fmt: skip
    figure = apply(figure, add_light(figure, "Lamp"))
    figure = apply(figure, add_motor(figure, "Fan"))
    fan = figure.score.moved[-1]
    runs = moves_of([Row(0.6, 0.3, 80.0), Row(1.5, 3.0, chance.uniform(-90, 90), "following", 0.4), Row(3.2, 0.5, 40.0)][: chance.randrange(4)])  # fmt: skip
    figure = apply(figure, set_moves(fan, runs, "runs"))
    figure = apply(figure, add_section(figure, 0.8))
    for name in ("One", "Two"):
        figure = apply(figure, keep_pose(figure, name, {j.id: chance.uniform(*j.range) for j in figure.joints}))
    sounds = tuple(
        Sound(id=f"line{k}", name=f"Line {k}", file=f"{k}.wav", sha256=f"{k:x}" * 64, length_s=2.0) for k in range(4)
    )
    lines = (
        Lines(id="talk", name="Talk", openings=("line0",), lines=("line1", "line2", "line3"), order=chance.choice(("in order", "at random")), again_after=chance.randrange(3)),
    )  # fmt: skip
    figure = apply(figure, Edit("sounds", (Set(("sounds",), sounds), Set(("lines",), lines))))
    score = figure.score
    channels = (*score.channels, SoundChannel(id="mouth", name="Mouth"))
    makers = (Life(**dict(score.life)), Voice(id="speaks", voice="mouth", jaw="c_chest", ahead_s=0.08))
    figure = apply(figure, Edit("voice", (Set(("score", "channels"), channels), Set(("score", "makers"), makers))))
    deeds = (
        Lives(), Parks(), Attends(), Steered(), Poses(pose=figure.poses[0].id, takes_s=0.6), Poses(pose=figure.poses[1].id, takes_s=0.1), Lights(channel="lamp", level=70.0),
        Lights(channel="lamp", level=0.0, takes_s=0.0), Says(lines="talk"), Says(sound="line2"), Performs(score=score.id), Performs(score=score.id, section=figure.score.sections[0].id, again=True),
    )  # fmt: skip
    made = random_behaviour(seed, 5)
    states = tuple(
        State(**(dict(state) | {"plays": tuple(chance.sample(deeds, chance.randrange(1, 4)))})) for state in made.states
    )
    figure = apply(figure, Edit("behaviour", (Set(("behaviour",), Behaviour(**(dict(made) | {"states": states}))),)))
    for kind in chance.sample(("follows", "keyed", "push pull", "wheels", "expressions"), 3):
        figure = apply(figure, add_grip(figure, kind)[0])
    held = chance.choice([None, *(each.id for each in figure.behaviour.inputs if each.kind == "switch")])
    by = chance.choice([None, *(each.id for each in figure.behaviour.inputs if each.kind == "knob")])
    figure = apply(figure, change_steering(figure, "held", sensitivity_by=by, held_by=held, let_go=chance.choice(("holds", "parks")), pace=chance.uniform(40, 200)))  # fmt: skip
    figure = apply(figure, add_board(figure, "atmega2560", "Controller")[0])
    figure = apply(figure, add_board(figure, "generator", "Generator")[0])
    figure = apply(figure, plug_everything(figure))
    can = {c.id: KeepsUp((0.05, 0.2, 0.6, 1.4), (0.08, 0.14, 0.3, 0.62)) for c in figure.score.moved if c.leads is not None and chance.random() < 0.5}  # fmt: skip
    return figure, Known(can, {sound.sha256: loudness(k, sound.sha256) for k, sound in enumerate(sounds)})


def paced(output, values):
    """What is sent at most: no output goes further in a frame than its servo turns."""
    last, out = values[0], []
    for value in values:
        last = min(max(value, last - output.most_us), last + output.most_us)
        out.append(last)
    return np.array(out)


def compare(figure, ours, theirs, ticks):
    """The same states at the same ticks, the same sounds, and outputs no farther apart than a step's rounding. How far."""
    assert theirs.entered == ours.entered
    n = min(len(ours.said), len(theirs.said))
    due = [(at, number) for at, number in ours.said if at <= ticks]
    assert [number for _, number in theirs.said][: len(due)] == [number for _, number in due][: len(theirs.said)]
    assert all(-1e-6 <= tick - at <= 1.01 for (tick, _), (at, _) in zip(theirs.said[:n], due[:n], strict=False))
    worst = 0.0
    for output, mine, other in zip(outputs(figure), ours.values, theirs.values, strict=True):
        if output.pulses is None:
            assert np.max(np.abs(mine - other)) <= OFF_PERMILLE
            continue
        near = np.lib.stride_tricks.sliding_window_view(
            np.pad(paced(output, mine), 1, mode="edge"), 3
        )  # within one tick
        off = np.maximum(near.min(axis=1) - other, other - near.max(axis=1)) / (
            output.pulses.least_us_per_rad * np.pi / 180
        )
        assert np.mean(off > MOSTLY_DEG) < 0.1
        worst = max(worst, float(off.max()))
    return worst


@pytest.mark.parametrize("seed", (0, 1, 5, 6, 13, 17, 18, 59))
def test_a_player_lives_as_the_window_does(seed, tmp_path):
    """Half a minute of a random behaviour of everything, with inputs pressed, turned and let go."""
    figure, known = lively(seed)
    ticks = 1500
    events = script(seed, plugged_inputs(figure), ticks)
    theirs = on_a_computer(figure, known, tmp_path, events, ticks)
    worst = compare(figure, in_the_window(figure, known, events, ticks), theirs, ticks)
    assert worst <= OFF_DEG
    low_high = [output.value(np.array(output.limits)) for output in outputs(figure)]
    for (low, high), values in zip(low_high, theirs.values, strict=True):
        assert min(low, high) - 0.1 <= values.min() and values.max() <= max(low, high) + 0.1


needs_controller = pytest.mark.skipif(shutil.which("avr-g++") is None or not Path("/usr/include/simavr/sim_avr.h").exists(), reason="apt-get install gcc-avr avr-libc libsimavr-dev libelf-dev")  # fmt: skip
FLAGS = ("-mmcu=atmega328p", "-DF_CPU=16000000UL", "-Os", "-std=gnu++11", "-Wall", "-Wextra", "-ffunction-sections", "-fdata-sections", "-Wl,--gc-sections", "-Wl,--relax")  # fmt: skip
SOURCES = ("main.cpp", "play.cpp", "player.cpp", "ribbon.cpp", "living.cpp", "life.cpp", "hand.cpp")


def make_controller(folder, ticks, *hardware):
    """trace.elf by the serial port, or timer.elf for the pins, and what simulates the controller."""
    built = [("avr-g++", *FLAGS, f"-DTRACE_FRAMES={ticks}", "-o", "trace.elf" if "uart" in each else "timer.elf", *SOURCES, each) for each in hardware]  # fmt: skip
    for command in (*built, ("gcc", "-O2", "-o", "simboard", str(HARNESS), "-lsimavr", "-lelf")):
        done = subprocess.run(command, cwd=folder, capture_output=True, text=True, check=False)
        assert done.returncode == 0 and "warning" not in done.stderr, done.stderr


@needs_controller
@pytest.mark.parametrize("seed", (1, 2))
def test_the_lamplighter_lives_on_a_simulated_controller(seed, tmp_path):
    """Its pins driven by a script, half a minute: the same states and lines at the same ticks as in the window, the same frames. Its flash and RAM are told
    from above, within a tenth."""
    figure, ticks = load(demo_path("lamplighter")), 1500
    sounds = Sounds(demo_path("lamplighter").parent)
    known = Known({}, {s.sha256: heard(sounds.data(s), s.name).loudness for s in figure.sounds})
    events = script(seed, plugged_inputs(figure), ticks, 0.004)
    chip = controllers()[0]
    write_files(tmp_path, bundle(figure, chip, known=known))
    pins = pin_table(figure, *as_wired(figure)).inputs
    rows = []
    for tick, k, reads in events:
        row = pins[k]
        level = round(reads * 5) if row.analog else int((reads > 0) != row.low)
        rows.append(f"{tick} {'a' + row.pin.id[1:] if row.analog else row.pin.port} {level}\n")
    quiet = [f"0 {row.pin.port} {int(row.low)}\n" for row in pins if not row.analog]
    (tmp_path / "pins.txt").write_text("".join(quiet + rows))
    make_controller(tmp_path, ticks, "hardware_uart.cpp", "hardware_timer.cpp")
    ran = subprocess.run(["./simboard", "trace.elf", "trace", "pins.txt"], cwd=tmp_path, capture_output=True, text=True, timeout=300, check=True)  # fmt: skip
    found = outputs(figure)
    theirs = read(ran.stdout.splitlines(), [o.number for o in found], [o.pulses is None for o in found])
    assert compare(figure, in_the_window(figure, known, events, ticks), theirs, ticks) <= OFF_DEG
    assert len(theirs.entered) > 3 and theirs.said
    told = size(whole_tables(figure, pin_table(figure, *as_wired(figure)), known), chip)
    words = subprocess.run(["avr-size", "timer.elf"], cwd=tmp_path, capture_output=True, text=True, check=True).stdout.split("\n")[1].split()  # fmt: skip
    flash, ram = int(words[0]) + int(words[1]), int(words[1]) + int(words[2])
    assert flash <= told.flash <= 1.1 * flash and ram <= told.ram <= 1.1 * ram + 20, (flash, told.flash, ram, told.ram)


def received(tmp_path):
    """One servo on a generator, driven by a receiver's channel; a controller that measures it."""
    figure = apply(being(without=[j.id for j in being().joints if j.id != "neck_pan"]), Edit("x", ()))
    figure = apply(figure, fit_servo(figure, "neck_pan", servo_class("class_20")))
    channel = Input(id="rc", name="Channel 1", kind="receiver", reads=(1100.0, 1900.0))
    states = (State(id="hand", name="By hand", plays=(Steered(),)),)
    grip = Follows(id="g", name="Pan", input="rc", channel="c_neck_pan", smooth_ms=60.0)
    figure = apply(figure, Edit("rc", (Set(("behaviour",), Behaviour(states=states, inputs=(channel,))), Set(("steering",), Steering(grips=(grip,))))))  # fmt: skip
    for kind in ("atmega328p", "generator"):
        figure = apply(figure, add_board(figure, kind, kind)[0])
    figure = apply(figure, plug_everything(figure))
    drive = next(plug for plug in figure.plugs if plug.of == "drive")
    return apply(figure, move_plug(figure, drive.id, figure.boards[1].id))


@needs_controller
def test_a_receivers_pulses_drive_a_servo_and_a_lost_one_stops_it(tmp_path):
    """Pulses on the simulated pin, 1100, 1900, 1500 µs, then none: it goes to either end and the middle, to a degree, and stays where it is when they stop."""
    figure = received(tmp_path)
    assert not clashes(figure)
    write_files(tmp_path, bundle(figure, controllers()[0], known=Known()))
    pin = pin_table(figure, *as_wired(figure)).inputs[0].pin.port
    (tmp_path / "pins.txt").write_text("".join(f"{tick} ~{pin} {us}\n" for tick, us in ((0, 1100), (1200, 1900), (2600, 1500), (3600, 0), (3700, 0))))  # fmt: skip
    make_controller(tmp_path, 4400, "hardware_uart.cpp")
    ran = subprocess.run(["./simboard", "trace.elf", "trace", "pins.txt"], cwd=tmp_path, capture_output=True, text=True, timeout=300, check=True)  # fmt: skip
    (output,) = outputs(figure)
    values = read(ran.stdout.splitlines(), [output.number], [False]).values[0]
    degrees = np.degrees(output.pulses.angle(values))
    low, high = figure.joint("neck_pan").range_deg
    for tick, wanted in ((1190, low), (2590, high), (3590, (low + high) / 2)):
        assert degrees[tick] == pytest.approx(wanted, abs=1.0)
    assert np.ptp(degrees[-300:]) == 0.0, "nothing comes any more: it stands"


def test_a_receiver_beside_pulses_of_ones_own_is_a_clash():
    figure = received(None)
    drive = next(plug for plug in figure.plugs if plug.of == "drive")
    figure = apply(figure, move_plug(figure, drive.id, figure.boards[0].id))
    assert any("spoil" in clash.words for clash in clashes(figure))
    with pytest.raises(FileTrouble, match="not written"):
        bundle(figure, controllers()[0], known=Known())
    plug = next(plug for plug in figure.plugs if plug.of == "input")
    figure = apply(figure, set_board(figure, figure.boards[0].id, "kind", kind="atmega2560"))
    figure = apply(figure, set_pin(figure, plug.id, "signal", "30"))
    assert any("does not tell when it changes" in clash.words for clash in clashes(figure))


CORE_BOARD = Path(__file__).parent.parent / "board" / "core"


@pytest.mark.parametrize("seed", (0, 4, 8))
def test_a_32_bit_board_sends_its_generator_what_the_window_has(seed, tmp_path):
    """The sketch folder of a random lively figure, built over a stand-in for the editor's core, its pins driven by a script: what goes over the bus to the
    generator is, frame by frame, what the window has, to a count; and it says the same lines. Of those figures whose sticks all find one of its three pins that read a level."""
    figure, known = lively(seed)
    figure = apply(figure, set_board(figure, figure.boards[0].id, "kind", kind="rp2040"))
    for plug in figure.plugs:
        if plug.of in ("input", "light", "board", "voice"):
            figure = apply(figure, pull_out(figure, plug.id))
    figure = apply(figure, plug_everything(figure))
    assert not clashes(figure)
    ticks = 900
    files = bundle(figure, controllers()[0], known=known)
    name = sketch_name(figure)
    assert "3.3 V" in files["README.txt"].decode() and f"{name}/hardware_core.cpp" in files and "Makefile" not in files
    write_files(tmp_path, files)
    folder = tmp_path / name
    (folder / "sketch.cpp").write_text(f'#include "Arduino.h"\n#include "{name}.ino"\n')
    command = ("g++", "-O2", "-std=gnu++17", "-Wall", "-Wextra", f"-I{CORE_BOARD}", "-o", "board", *sorted(p.name for p in folder.glob("*.cpp")), str(CORE_BOARD / "core.cpp"))  # fmt: skip
    done = subprocess.run(command, cwd=folder, capture_output=True, text=True, check=False)
    assert done.returncode == 0 and "warning" not in done.stderr, done.stderr
    found, pins = outputs(figure), pin_table(figure, *as_wired(figure)).inputs
    start = sum(1 if row[2] else (row[6] - row[5]) * 50 // 2000 + 1 for row in tables(figure, True).outputs)
    events = script(seed, plugged_inputs(figure), ticks)
    rows = [f"0 {row.pin.port} {int(row.low)}\n" for row in pins if not row.analog]
    for tick, k, reads in events:
        level = round(reads * 1023 / 1000) if pins[k].analog else int((reads > 0) != pins[k].low)
        rows.append(f"{start + tick} {pins[k].pin.port} {level}\n")
    (folder / "pins.txt").write_text("".join(rows))
    ran = subprocess.run(["./board"], cwd=folder, capture_output=True, text=True, timeout=120, check=True, env={"FRAMES": str(start + ticks), "PINS": "pins.txt"}).stdout  # fmt: skip
    counts = np.zeros((16, start + ticks))
    frame = -1
    for line in ran.splitlines():
        words = line.split()
        if words[:2] == ["bus", "64"] and len(words) == 19:
            first = (int(words[2]) - 6) // 4
            frame += first == 0
            for k in range(4):
                counts[first + k, frame] = int(words[5 + 4 * k]) + 256 * int(words[6 + 4 * k])
    ours = in_the_window(figure, known, [(t, k, v if not pins[k].analog else round(v * 1023 / 1000) * 1000 // 1023) for t, k, v in events], ticks)  # fmt: skip
    moved = 0
    for output, mine in zip(found, ours.values, strict=True):
        if output.pulses is None:
            continue
        wanted = paced(output, mine) * 25.0 / 122
        near = np.lib.stride_tricks.sliding_window_view(np.pad(wanted, 1, mode="edge"), 3)
        got = counts[int(output.plug.pin("signal")), start:]
        off = np.maximum(near.min(axis=1) - got, got - near.max(axis=1))
        assert np.mean(off > 1.0) < 0.1 and off.max() < 3.0, output.name
        moved += bool(np.ptp(got) > 5)
    assert moved >= 3, "nothing moves: nothing is compared"
    said = [int(line.split()[1]) for line in ran.splitlines() if line.startswith("PLAY ")]
    assert said == [number for at, number in ours.said if at <= ticks][: len(said)]
