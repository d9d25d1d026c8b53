"""Servos on a controller's own pins and on several generators, strings of lamps sent by SPI, cues on a serial line: on simulated pins and buses, and in plain Python."""

import json
import os
import random
import shutil
import subprocess
import sys
import time
from importlib.resources import files

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from karakuri.actuators.generator import prescale, real_rate_hz, tick_us
from karakuri.catalogue.boards import board_kind
from karakuri.checks.wiring import propose
from karakuri.demo import demo_path, owl_path
from karakuri.exchange.contract import export
from karakuri.exchange.exporters import exporter
from karakuri.exchange.outputs import outputs
from karakuri.exchange.player.bundle import bundle, sketch_name
from karakuri.exchange.player.kinds import pulse_kind
from karakuri.exchange.player.known import Known
from karakuri.exchange.player.live import CUE_KEYS, LiveTables, live_words
from karakuri.exchange.player.lives import cues_of
from karakuri.exchange.player.pins import as_wired, pin_table
from karakuri.exchange.player.size import controllers, size
from karakuri.exchange.player.tables import tables
from karakuri.files.disk import load, write_files
from karakuri.model.behaviour import Behaviour, Cue, Input, Start
from karakuri.model.board import Board, Plug
from karakuri.model.board_edits import plug_in, pull_out, set_pin, set_plug
from karakuri.model.edit import Edit, Set, apply
from karakuri.study.study import study
from karakuri.wiring.at_once import at_once
from karakuri.wiring.clashes import clashes
from karakuri.wiring.plug_in import not_plugged, pins_for, plug_everything
from karakuri.wiring.table import wires
from tests.frames import board_values
from tests.lived import in_the_window, on_a_computer, plugged_inputs, read, script
from tests.references.test_boards import AVR, build, calm, narrow, needs, needs_harness, pulses_of, simulated
from tests.references.test_living_player import CORE_BOARD, compare, lively, make_controller


def spread(figure, kind, pins, *generators):
    """Servos in order on pins of a controller, then on those channels of one generator after another; lights on the pins that are left."""
    ids = [f"gen{k}" for k in range(len(generators))]
    boards = [Board(id="chip", name="Controller", kind=kind)]
    boards += [Board(id=g, name=f"Generator {k}", kind="generator", address=0x40 + k) for k, g in enumerate(ids)]
    bus = {"atmega328p": ("A4", "A5"), "rp2040": ("GP4", "GP5"), "computer": ("IO2", "IO3")}[kind]
    plugs = [Plug(id=f"bus{k}", board="chip", of="board", item=g, pins=(("data", bus[0]), ("clock", bus[1]))) for k, g in enumerate(ids)]  # fmt: skip
    channels = [(g, str(c)) for g, some in zip(ids, generators, strict=True) for c in some]
    mine = [("chip", pin) for pin in pins]
    servos = len(figure.drives) - len(channels)
    places = [*mine[:servos], *channels, *mine[servos:]]
    lights = [c.id for c in figure.score.channels if c.kind == "light"]
    for k, (of, item) in enumerate([("drive", d.id) for d in figure.drives] + [("light", c) for c in lights]):
        board, pin = places[k]
        plugs.append(Plug(id=f"plug{k}", board=board, of=of, item=item, pins=(("signal", pin),)))
    return apply(figure, Edit("spread", (Set(("boards",), tuple(boards)), Set(("plugs",), tuple(plugs)))))


def stringed(figure, lamps):
    return apply(figure, set_plug(figure, next(p.id for p in figure.plugs if p.of == "light"), "string", lamps=lamps))


def told(out, board):
    """Frames that a generator got, (n, 16) counts, after its three settings."""
    word = "bus" if board == 0 else f"bus{0x40 + board:x}"
    lines = [[int(v) for v in line.split()[1:]] for line in out.splitlines() if line.split()[0] == word]
    assert lines[:3] == [[0x00, 0x10], [0xFE, prescale(50)], [0x00, 0x20]]
    frames = np.array([each[1:] for each in lines[3:] if len(each) == 65]).reshape(-1, 16, 4)
    return frames[:, :, 2] + 256 * frames[:, :, 3]


@needs("avr-g++", "gcc")
@needs_harness
@pytest.mark.parametrize("lamps", (0, 60))
def test_own_pins_and_two_generators_at_once(lamps, tmp_path):
    """Three servos on pins of the controller, three and two on two generators: each is sent what it was before, pulses to a microsecond, counts to one, with a string of
    lamps in what is left of a frame; no frame is longer than 20 ms."""
    figure = spread(calm(load(owl_path())), "atmega328p", ("4", "5", "6", "3"), (0, 15, 3), (7, 8))
    figure = stringed(figure, lamps) if lamps else figure
    assert not clashes(figure)
    chip, kind = as_wired(figure)
    assert (chip.id, kind.id) == ("atmega328p", "timer")
    out = simulated(tmp_path, figure, "atmega328p", "timer", 6)
    found, wanted = board_values(figure)
    pulses, counts, tick = pulses_of(out), [told(out, 0), told(out, 1)], tick_us(real_rate_hz(prescale(50)))
    kinds = {board.id: board for board in figure.boards}
    for i, output in enumerate(found):
        board, pin = output.plug.board, output.plug.pin("signal")
        if output.pulses is None:
            continue
        if kinds[board].kind == "generator":
            sent = counts[int(board[3:])][-60:, int(pin)]
            assert np.abs(sent * tick - wanted[i, 50]).max() <= tick, output.name
        else:
            sent = pulses[board_kind("atmega328p").by_id[pin].port][-20:]
            assert np.abs(sent[:, 1] / 16 - wanted[i, 50]).max() < 1.0, output.name
            assert np.abs(np.diff(sent[:, 0]) - 320_000).max() <= 16
    unused = [n for n in range(16) if n not in (0, 15, 3)]
    assert not counts[0][:, unused].any() and len(counts[0]) == pytest.approx(6 * 50, abs=6)
    if lamps:
        bits = pulses["D3"]
        sends = np.split(bits, np.flatnonzero(np.diff(bits[:, 0]) > 16 * 50) + 1)
        assert sum(len(each) == 24 * lamps for each in sends) > 200


SET = [[0x00, 0x10], [0xFE, prescale(50)], [0x00, 0x20]]


@needs("avr-g++", "gcc")
@needs_harness
def test_a_generator_that_lost_its_power_is_set_anew_and_nobody_waits_for_it(tmp_path, monkeypatch):
    """Nobody answers at 0x41 from 3 to 4 s: the other's frames and own pulses go on every 20 ms; back again it is set as at the beginning, then sent its frames."""
    monkeypatch.setenv("AWAY", "3 4")
    figure = spread(calm(load(owl_path())), "atmega328p", ("4", "5", "6", "3"), (0, 15, 3), (7, 8))
    out = simulated(tmp_path, figure, "atmega328p", "timer", 6)
    lines = [[int(v) for v in line.split()[1:]] for line in out.splitlines() if line.startswith("bus41 ")]
    settings = [k for k, each in enumerate(lines) if len(each) == 2]
    assert (
        [lines[k] for k in settings] == SET * 2
        and settings[3] > 100
        and settings[3:] == list(range(settings[3], settings[3] + 3))
    )
    assert len(lines) - 6 == pytest.approx(5 * 50, abs=10) and len(told(out, 0)) == pytest.approx(6 * 50, abs=6)
    starts = pulses_of(out)["D4"][:, 0]
    assert np.abs(np.diff(starts[-150:]) - 320_000).max() <= 16


@needs("avr-g++", "gcc")
@needs_harness
def test_as_many_lamps_as_are_told_to_fit_beside_two_generators(tmp_path):
    """At the bound that is told, all it has moving: every frame has its lamps."""
    figure = stringed(spread(narrow(load(owl_path()), 8.0), "atmega328p", ("4", "5", "6", "3"), (0, 15, 3), (7, 8)), 1)
    light = next(plug.id for plug in figure.plugs if plug.of == "light")
    one = at_once(figure, figure.boards[0])
    most = int((one.left - 300e-6) / 34e-6)
    figure = apply(figure, set_plug(figure, light, "string", lamps=most))
    assert at_once(figure, figure.boards[0]).strings <= one.left
    bits = pulses_of(simulated(tmp_path, figure, "atmega328p", "timer", 12))["D3"]
    sends = np.split(bits, np.flatnonzero(np.diff(bits[:, 0]) > 16 * 50) + 1)
    begins = np.array([each[0, 0] for each in sends[1:-1] if len(each) == 24 * most])
    assert len(begins) > 200 and (np.diff(begins[-150:]) / 16e6).max() < 0.030


@needs("avr-g++")
@pytest.mark.parametrize("generators", (((0, 15, 3),), ((0, 15, 3), (7, 8))))
def test_size_told_of_a_player_with_both(generators, tmp_path):
    pins = ("4", "5", "6", "7", "8", "3") if len(generators) == 1 else ("4", "5", "6", "3")
    figure = spread(load(owl_path()), "atmega328p", pins, *generators)
    write_files(tmp_path, bundle(figure, controllers()[0]))
    build(tmp_path, *AVR, "-o", "p.elf", "main.cpp", "play.cpp", "player.cpp", "hardware_timer.cpp")
    text, data, bss = map(int, build(tmp_path, "avr-size", "p.elf").splitlines()[1].split()[:3])
    needed = size(tables(figure), controllers()[0], pulse_kind("timer"))
    assert text + data <= needed.flash <= 1.10 * (text + data), (text + data, needed.flash)
    assert data + bss <= needed.ram <= 1.12 * (data + bss), (data + bss, needed.ram)


def test_make_flash_sends_the_program_it_is_wired_for():
    for pins, generators, kind in (
        (("4", "5", "6", "7", "8", "3"), ((0, 15, 3),), "timer"),
        (("3",), (range(8),), "i2c"),
    ):
        figure = spread(load(owl_path()), "atmega328p", pins, *generators)
        files = bundle(figure, controllers()[0])
        assert f"PULSES ?= {kind}\n" in files["Makefile"].decode() and f"make {kind} " in files["README.txt"].decode()


# ---- strings of lamps by SPI
def by_spi(kind, lamps):
    pin = board_kind(kind).string.pin
    return stringed(spread(calm(load(owl_path())), kind, (pin,), (0, 15, 3, 5), (7, 8, 1, 2)), lamps)


def decoded(bytes_sent, hz):
    """What lamps make of bits on the wire, by the windows of data sheets of 5 V lamps with one data wire, from memory: 0.22 to 0.38 or 0.25 to 0.55 µs high is a 0, 0.58
    to 1.0 a 1, so 0.25 to 0.38 and 0.65 to 0.95 are both, low for less than 5 µs between."""
    bits = np.unpackbits(np.array(bytes_sent, np.uint8))
    edges = np.flatnonzero(np.diff(np.concatenate([[0], bits, [0]])))
    high, low = np.diff(edges)[::2] / hz * 1e6, np.diff(edges)[1::2] / hz * 1e6
    assert (((high > 0.25) & (high < 0.38)) | ((high > 0.65) & (high < 0.95))).all() and low.max() < 5.0
    return np.packbits((high > 0.5).astype(np.uint8)).tolist()


def on_a_32_bit_board(figure, tmp_path):
    """Its sketch, built over the stand-in for the editor's core; no pin is driven. The folder with ./board."""
    write_files(tmp_path, bundle(figure, controllers()[0]))
    folder = tmp_path / sketch_name(figure)
    (folder / "sketch.cpp").write_text(f'#include "Arduino.h"\n#include "{folder.name}.ino"\n')
    sources = sorted(path.name for path in folder.glob("*.cpp"))
    build(folder, "g++", "-O2", "-std=gnu++17", "-Wall", "-Wextra", f"-I{CORE_BOARD}", "-o", "board", *sources, str(CORE_BOARD / "core.cpp"))  # fmt: skip
    (folder / "pins.txt").write_text("")
    return folder


@pytest.mark.skipif(shutil.which("g++") is None, reason="apt-get install g++")
@pytest.mark.parametrize("lamps", (1, 60, 300))
def test_a_32_bit_board_sends_two_generators_and_a_string(lamps, tmp_path):
    figure = by_spi("rp2040", lamps)
    assert not clashes(figure)
    fits = at_once(figure, figure.boards[0])
    assert fits.strings <= fits.left
    folder = on_a_32_bit_board(figure, tmp_path)
    out = subprocess.run(["./board"], cwd=folder, capture_output=True, text=True, timeout=120, check=True, env={"FRAMES": "1200", "PINS": "pins.txt"}).stdout  # fmt: skip
    lines = [line.split() for line in out.splitlines()]
    found, wanted = board_values(figure)
    tick, light = tick_us(real_rate_hz(prescale(50))), next(i for i, o in enumerate(found) if o.pulses is None)
    sent = np.zeros((2, 16))
    for words in lines:
        if words[0] == "bus" and len(words) == 19:
            first = (int(words[2]) - 6) // 4
            sent[int(words[1]) - 64, first : first + 4] = [
                int(words[5 + 4 * k]) + 256 * int(words[6 + 4 * k]) for k in range(4)
            ]
    for i, output in enumerate(found):
        if output.pulses is not None:
            got = sent[int(output.plug.board[3:]), int(output.plug.pin("signal"))] * tick
            assert got == pytest.approx(wanted[i, 50], abs=tick), output.name
    strings = [words for words in lines if words[0] == "spi"]
    assert len(strings) > 550 and {int(words[1]) for words in strings} == {2_800_000}
    assert decoded([int(w) for w in strings[-1][2:]], 2.8e6) == [int(wanted[light, 50] * 255 / 1000)] * 3 * lamps


@pytest.mark.skipif(shutil.which("g++") is None, reason="apt-get install g++")
def test_a_32_bit_board_sets_a_generator_anew_that_lost_its_power(tmp_path):
    figure = by_spi("rp2040", 1)
    folder = on_a_32_bit_board(figure, tmp_path)
    env = {"FRAMES": "400", "PINS": "pins.txt", "AWAY": "65 100 150"}
    out = subprocess.run(
        ["./board"], cwd=folder, capture_output=True, text=True, timeout=120, check=True, env=env
    ).stdout
    lines = [[int(v) for v in line.split()[1:]] for line in out.splitlines() if line.startswith("bus 65 ")]
    settings = [k for k, each in enumerate(lines) if len(each) == 3]
    assert [lines[k][1:] for k in settings] == SET * 2 and settings[3] > 300
    assert sum(line.startswith("bus 64 ") for line in out.splitlines()) == 3 + 4 * 400


@settings(max_examples=60, deadline=None)
@given(st.integers(0, 255), st.integers(1, 5), st.floats(2.65e6, 2.85e6))
def test_every_level_is_read_by_lamps_as_it_was_meant(level, lamps, hz):
    """Also where the clock of SPI is a few per cent off, as its dividers make it."""
    program = {"__name__": "player", "__file__": "player.py"}
    exec(compile(_program(), "player.py", "exec"), program)
    assert decoded(list(program["Lamps"].bits(level) * 3 * lamps), hz) == [level] * 3 * lamps


def _program():
    return (files("karakuri.exchange.player") / "python" / "player.py.txt").read_text("utf-8")


@pytest.mark.skipif(shutil.which("gcc") is None, reason="apt-get install gcc")
def test_calls_to_spi_are_numbered_as_the_kernel_has_them(tmp_path):
    """By the compiler, from linux/spi/spidev.h itself."""
    (tmp_path / "k.c").write_text("""
#include <stdio.h>
#include <linux/spi/spidev.h>
int main(void) { printf("%lu %lu %lu\\n", SPI_IOC_WR_MODE, SPI_IOC_WR_BITS_PER_WORD, SPI_IOC_WR_MAX_SPEED_HZ); }""")
    subprocess.run(["gcc", "-o", "k", "k.c"], cwd=tmp_path, check=True)
    words = subprocess.run(["./k"], cwd=tmp_path, capture_output=True, text=True, check=True).stdout.split()
    program = {"__name__": "player", "__file__": "player.py"}
    exec(compile(_program(), "player.py", "exec"), program)
    assert [int(word) for word in words] == [program[name] for name in ("SPI_MODE", "SPI_BITS", "SPI_SPEED")]


def test_a_computer_sends_two_generators_and_a_string(tmp_path, monkeypatch):
    """Devices that a test stands in for: a frame to either generator, the lamps after them; parked lamps are dark at the end."""
    import fcntl

    figure = by_spi("computer", 60)
    assert not clashes(figure)
    export(exporter("player"), figure, {"form": "python"}, tmp_path)
    data = json.loads((tmp_path / "score.json").read_text())
    assert [each[0] for each in data["generators"]] == [0x40, 0x41]
    words = (tmp_path / "README.txt").read_text()
    assert "string of 60" in words and "IO10" in words and "channel 15 of 1" in words and "channel  7 of 2" in words
    program = {"__name__": "player", "__file__": str(tmp_path / "player.py")}
    exec(compile((tmp_path / "player.py").read_text(), "player.py", "exec"), program)
    named, sent, asked = [], [], []
    monkeypatch.setattr(os, "open", lambda name, flags: named.append(name) or len(named) - 1)
    monkeypatch.setattr(os, "write", lambda file, out: sent.append((named[file], file, bytes(out))))
    monkeypatch.setattr(os, "close", lambda file: None)
    monkeypatch.setattr(fcntl, "ioctl", lambda file, call, value, *more: asked.append((named[file], call, value)))
    boards = program["Boards"](1, data["generators"], data["outputs"], "/dev/spidev0.0")
    assert named == ["/dev/i2c-1", "/dev/i2c-1", "/dev/spidev0.0"] and (named[0], program["I2C_SLAVE"], 0x41) in asked
    found, wanted = board_values(figure)
    sent.clear()
    boards.due = time.monotonic()  # the frame begins now, however long the above took
    boards.frame("F", 50, data["outputs"], wanted[:, 50].tolist())
    assert [(name, len(out)) for name, _, out in sent] == [
        ("/dev/i2c-1", 65),
        ("/dev/i2c-1", 65),
        ("/dev/spidev0.0", 720),
    ]
    light = next(i for i, o in enumerate(found) if o.pulses is None)
    assert decoded(list(sent[2][2]), 2.8e6) == [int(wanted[light, 50] * 255 / 1000)] * 180
    tick = tick_us(real_rate_hz(prescale(50)))
    for i, output in enumerate(found):
        if output.pulses is not None:
            k, n = int(output.plug.board[3:]), 4 * int(output.plug.pin("signal"))
            assert (sent[k][2][n + 3] + 256 * sent[k][2][n + 4]) * tick == pytest.approx(wanted[i, 50], abs=tick)
    sent.clear()
    boards.close(data["outputs"])
    assert not any(sent[0][2][1:]) and not any(sent[1][2][1:]) and decoded(list(sent[2][2]), 2.8e6) == [0] * 180


def test_a_generator_that_falls_silent_is_left_out_and_told_anew_once_it_answers(tmp_path, monkeypatch, capsys):
    """The other goes on at every frame; said once; back again it is first set as at the beginning, for it may have lost its power."""
    import fcntl

    figure = by_spi("computer", 5)
    export(exporter("player"), figure, {"form": "python"}, tmp_path)
    data = json.loads((tmp_path / "score.json").read_text())
    program = {"__name__": "player", "__file__": str(tmp_path / "player.py")}
    exec(compile((tmp_path / "player.py").read_text(), "player.py", "exec"), program)
    opened, sent, dead = [], [], set()

    def write(file, out):
        if file in dead:
            raise OSError(121, "Remote I/O error")
        sent.append((file, bytes(out)))

    monkeypatch.setattr(os, "open", lambda name, flags: opened.append(name) or len(opened) - 1)
    monkeypatch.setattr(os, "write", write)
    monkeypatch.setattr(fcntl, "ioctl", lambda *some: None)
    boards = program["Boards"](1, data["generators"], data["outputs"], "/dev/spidev0.0")
    parked = [each["park"] for each in data["outputs"]]
    sent.clear()
    dead.add(0)
    for k in range(3):
        boards.frame("F", k, data["outputs"], parked)
    assert [file for file, _ in sent] == [1, 2] * 3 and capsys.readouterr().out.count("does not answer") == 1
    dead.clear()
    sent.clear()
    boards.frame("F", 3, data["outputs"], parked)
    assert [len(out) for file, out in sent if file == 0] == [65, 2, 2, 2] and "answers again" in capsys.readouterr().out


def test_plain_python_traces_all_of_its_generators_and_its_string(tmp_path):
    figure = by_spi("computer", 5)
    export(exporter("player"), figure, {"form": "python"}, tmp_path)
    command = [sys.executable, "-I", "-S", "player.py", "--trace", "80"]
    out = subprocess.run(command, cwd=tmp_path, capture_output=True, text=True, timeout=120, check=True).stdout
    rows = np.array([[int(v) for v in line.split()[2:]] for line in out.splitlines() if line[0] == "F"])
    found, wanted = board_values(figure)
    assert rows.shape == (80, 33)
    for i, output in enumerate(found):
        at = 32 if output.pulses is None else 16 * int(output.plug.board[3:]) + int(output.plug.pin("signal"))
        assert np.abs(rows[:, at] / (10 if output.pulses else 1) - wanted[i, :80]).max() <= (
            0.06 if output.pulses else 0.6
        )


@settings(max_examples=60, deadline=None)
@given(st.sampled_from(("rp2040", "computer")), st.integers(0, 10**6), st.integers(1, 1000))
def test_a_string_has_one_pin_and_keeps_others_to_itself(kind, seed, lamps):
    """Wherever it and a button are put: nothing clashes just where it is on its own pin, no longer than is sent at once, and the button is on another than those that go with it. What is
    plugged in by the program clashes only for too many lamps."""
    chance, at = random.Random(seed), board_kind(kind).string
    figure = by_spi(kind, lamps)
    figure = apply(
        figure, Edit("b", (Set(("behaviour",), Behaviour(inputs=(Input(id="go", name="Go", kind="button"),))),))
    )
    light = next(p for p in figure.plugs if p.of == "light")
    able = [
        p.id for p in board_kind(kind).pins if "digital" in p.does and p.id not in ("GP4", "GP5", board_kind(kind).stop)
    ]
    pin, other = chance.sample([*able, *[at.pin] * 9, *at.takes * 3], 2)
    figure = apply(figure, set_pin(figure, light.id, "signal", pin))
    figure = apply(figure, plug_in(figure, "chip", "input", "go", (("signal", other),)))
    too_many = bool(at.most) and lamps > at.most
    wrong = pin != at.pin or too_many or other in (pin, *at.takes)
    assert bool(clashes(figure)) == wrong, (pin, other, lamps)
    if pin != at.pin and other != at.pin and other not in at.takes:
        ids = {f.id: f for f in study(figure).findings}
        assert any(f.verdict == "fails" for f in ids.values() if f.rule == "wiring")
    bare = apply(figure, pull_out(figure, light.id))
    bare = apply(bare, pull_out(bare, next(p.id for p in bare.plugs if p.of == "input")))
    draft = next(t for t in not_plugged(bare) if t.of == "light")
    string = Plug(id="s", board="chip", of="light", item=draft.item, lamps=lamps)
    assert pins_for(bare, bare.boards[0], string) == (("signal", at.pin),)
    again = apply(bare, plug_in(bare, "chip", "light", draft.item, (("signal", at.pin),)))
    again = stringed(again, lamps)
    again = apply(again, plug_everything(again))
    assert bool(clashes(again)) == too_many
    taken = apply(bare, plug_in(bare, "chip", "input", "go", (("signal", at.takes[0]),)))
    assert pins_for(taken, taken.boards[0], string) is None


def test_lamps_fed_by_more_than_they_take_and_data_that_may_be_too_low_are_told():
    """0.7 of 5 V is 3.5 V; the supply as it is written decides the other."""
    for kind, volts, ids in (
        ("rp2040", 5.0, {"data"}),
        ("rp2040", 6.0, {"data", "level"}),
        ("atmega328p", 5.0, set()),
        ("rp2040", 4.6, set()),
        ("atmega328p", 7.4, {"level"}),
    ):
        figure = (
            by_spi("rp2040", 12)
            if kind == "rp2040"
            else stringed(spread(calm(load(owl_path())), kind, ("3",), range(8)), 12)
        )
        figure = apply(figure, Edit("v", (Set(("supply", "voltage_V"), volts),)))
        light = next(p.id for p in figure.plugs if p.of == "light")
        found = {
            f.id.split(".")[-1]: f
            for f in study(figure).findings
            if f.rule == "wiring" and f.id.startswith(f"wiring.{light}.")
        }
        assert {each for each in found if each in ("data", "level")} == ids, (kind, volts)
        assert all(found[each].verdict == "tight" for each in ids)
        for each in sorted(ids):  # each is settled by what is offered, and only it
            (remedy,) = propose(found[each], study(figure).results)
            after = {f.id for f in study(apply(figure, remedy.edit)).findings}
            assert found[each].id not in after and all(found[o].id in after for o in ids - {each})
        own = apply(figure, set_plug(figure, light, "own", fed_alone=True))
        plus = next(wire for wire in wires(own) if wire.plug == light and wire.lead == "plus")
        assert plus.b.name == "5 V of its own" and plus.b.ref.kind == "supply"


# ---- cues on a serial line
def cued(seed):
    """Random cues, one each so often, of a random lively figure that knows some."""
    figure, known = lively(seed)
    cues = cues_of(figure.behaviour)
    chance = random.Random(seed)
    return figure, known, [(tick, chance.choice(cues)) for tick in range(40, 1400, 70)] if cues else []


@pytest.mark.skipif(shutil.which("g++") is None, reason="apt-get install g++")
@pytest.mark.parametrize("seed", (1, 4, 5, 12, 22, 25))
def test_a_cue_starts_in_the_player_what_it_starts_in_the_window(seed, tmp_path):
    figure, known, given_cues = cued(seed)
    assert given_cues
    events, names = script(seed, plugged_inputs(figure), 1500), cues_of(figure.behaviour)
    both = sorted([*events, *((tick, 255, names.index(cue)) for tick, cue in given_cues)], key=lambda each: each[0])
    theirs = on_a_computer(figure, known, tmp_path, both, 1500)
    ours = in_the_window(figure, known, events, 1500, cues=given_cues)
    without = in_the_window(figure, known, events, 1500)
    assert without.entered != ours.entered, "the cues matter"
    assert compare(figure, ours, theirs, 1500) <= 0.5
    readme = (tmp_path / "README.txt").read_text()
    assert all(f"{key} “{cue}”" in readme for key, cue in zip(CUE_KEYS, names, strict=False))


@needs("avr-g++", "gcc")
@needs_harness
def test_a_letter_on_a_simulated_controllers_serial_line_is_a_cue(tmp_path):
    """The lamplighter with two cues more, on its own controller: letters that mean one, and others that mean nothing."""
    figure, ticks = load(demo_path("lamplighter")), 900
    states = [state.id for state in figure.behaviour.states]
    starts = tuple(Start(id=f"cued{k}", to=states[k], on=Cue(cue=name)) for k, name in ((1, "wake up"), (2, "again")))
    figure = apply(figure, Edit("cues", (Set(("behaviour", "starts"), (*figure.behaviour.starts, *starts)),)))
    known, names, (chip, kind) = Known(), cues_of(figure.behaviour), as_wired(figure)
    given_cues = [(tick, names[tick % 2]) for tick in (41, 160, 280, 303, 555, 700)]
    write_files(tmp_path, bundle(figure, chip, known=known))
    pins = pin_table(figure, chip, kind).inputs
    rows = [f"0 {row.pin.port} {int(row.low)}\n" for row in pins if not row.analog]
    for tick, cue in given_cues:
        rows += [f"{tick} ? 35\n", f"{tick} ? {ord(CUE_KEYS[names.index(cue)])}\n"]
    (tmp_path / "pins.txt").write_text("".join(rows))
    make_controller(tmp_path, ticks, "hardware_uart.cpp")
    ran = subprocess.run(["./simboard", "trace.elf", "trace", "pins.txt"], cwd=tmp_path, capture_output=True, text=True, timeout=300, check=True)  # fmt: skip
    found = outputs(figure)
    theirs = read(ran.stdout.splitlines(), [o.number for o in found], [o.pulses is None for o in found])
    quiet = [(1, k, 0) for k in range(len(pins))]
    ours = in_the_window(figure, known, quiet, ticks, cues=given_cues)
    assert [state for state, _ in theirs.entered] == [state for state, _ in ours.entered]
    assert max(abs(a - b) for (_, a), (_, b) in zip(theirs.entered, ours.entered, strict=True)) <= 2, (
        "a letter takes its time"
    )
    assert len(ours.entered) > len(in_the_window(figure, known, quiet, ticks).entered) + 3


@pytest.mark.skipif(shutil.which("g++") is None, reason="apt-get install g++")
def test_each_letter_is_the_cue_that_the_readme_says(tmp_path):
    header = files("karakuri.exchange.player") / "cpp" / "hardware.h"
    (tmp_path / "k.cpp").write_text(f'#include <stdio.h>\n#include "{header}"\nint main() {{ for (int c = 0; c < 256; c++) printf("%d ", cue_of(c)); }}')  # fmt: skip
    build(tmp_path, "g++", "-o", "k", "k.cpp")
    told_so = [int(word) for word in build(tmp_path, "./k").split()]
    assert told_so == [CUE_KEYS.index(chr(c)) if chr(c) in CUE_KEYS else 255 for c in range(256)]


def test_more_cues_than_letters_are_told():
    many = tuple(f"cue{k}" for k in range(40))
    words = live_words(LiveTables("", {}, {}, (), 0, 0, (), many, ()))
    assert "z “cue34”" in words and "Nobody gives it the cues “cue35”" in words
