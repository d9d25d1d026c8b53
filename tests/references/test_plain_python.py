"""The plain Python player that lives by itself against the window's engine: states and sounds to the tick, places to a rounding, over random behaviours of
everything there is; the exported program run by a Python of its own; its pins against the kernel's own header."""

import json
import os
import random
import shutil
import struct
import subprocess
import sys

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from karakuri.course import ALONE
from karakuri.demo import demo_path
from karakuri.errors import FileTrouble
from karakuri.exchange.contract import Media, export
from karakuri.exchange.exporters import exporter
from karakuri.exchange.outputs import outputs
from karakuri.exchange.player.known import Known
from karakuri.exchange.player.lives import cues_of, live_tables
from karakuri.exchange.player.pins import as_wired, computer_pins, pin_table
from karakuri.exchange.player.plain import plain
from karakuri.exchange.player.python.lives import pins
from karakuri.exchange.player.python.lives.living import Living
from karakuri.exchange.player.python.lives.ribbon import run
from karakuri.exchange.player.python.lives.sending import Sending
from karakuri.exchange.player.tables import tables
from karakuri.exchange.sound_copies import file_name
from karakuri.exchange.sounds import heard
from karakuri.files.disk import load
from karakuri.model.behaviour import Behaviour, State
from karakuri.model.board_edits import add_board
from karakuri.model.edit import apply
from karakuri.model.figure import Figure
from karakuri.model.profiles import DESCRIBED, PROFILE_KINDS
from karakuri.motion.profiles import PROFILES
from karakuri.session.sounds import Sounds
from karakuri.wiring.clashes import clashes
from karakuri.wiring.plug_in import plug_everything
from tests.lived import Lived, in_the_window, plugged_inputs, read, script
from tests.references.test_boards import sharing
from tests.references.test_living_player import lively, paced

TICKS, OFF_US = 1500, 3.0
"""A step of one tick of a soft take-over at its very beginning; else a rounding."""


def in_python(figure, known, events, ticks, cues=()):
    """The same engine that goes into exports, in this process."""
    live = live_tables(figure, pin_table(figure, *as_wired(figure)), 0, known.can, known.heard)
    made = {
        "tables": live.numbers,
        "defines": live.defines,
        "moves": live.moves,
        "channels": tables(figure, True).channels,
    }
    now, waiting, said, entered, places = {}, list(events), [], [], []
    living = Living(json.loads(json.dumps(made)), now.get, lambda n: said.append((living.ticks, n)), lambda s, t: entered.append((s, t)))  # fmt: skip
    for _ in range(ticks):
        while waiting and waiting[0][0] <= living.ticks + 1:
            _, which, reads = waiting.pop(0)
            now[which] = reads
        for word in (word for at, word in cues if at == living.ticks + 1):
            living.cue(live.cues.index(word))
        living.tick()
        places.append([living.place(c) for c in range(len(living.ribbons))])
    units = np.array([channel.measure(figure).si for channel in figure.score.moved])
    moved = (np.array(places) / 100 * units).T
    return Lived(entered, said, np.array([output.value(output.places(moved)) for output in outputs(figure)]))


@pytest.mark.parametrize("seed", range(20))
def test_it_lives_as_the_window_does(seed):
    figure, known = lively(seed)
    events = script(seed, plugged_inputs(figure), TICKS)
    cues = [
        (tick, random.Random(seed + tick).choice(cues_of(figure.behaviour) or ("",))) for tick in range(40, TICKS, 90)
    ]
    cues = [(tick, word) for tick, word in cues if word]
    ours = in_the_window(figure, known, events, TICKS, cues=cues)
    theirs = in_python(figure, known, events, TICKS, cues)
    assert theirs.entered == ours.entered
    due = [(at, number) for at, number in ours.said if at <= TICKS]
    assert [number for _, number in theirs.said] == [number for _, number in due]
    assert all(-1e-6 <= tick - at <= 1.01 for (tick, _), (at, _) in zip(theirs.said, due, strict=True))
    off = np.abs(theirs.values - ours.values)
    assert off.max() <= OFF_US and np.mean(off > 0.3) < 0.03


def on_a_computer(figure):
    """The same figure with its controller changed for a single-board computer, everything plugged in anew."""
    figure = Figure(**(dict(figure) | {"boards": (), "plugs": ()}))
    for kind in ("computer", "generator"):
        figure = apply(figure, add_board(figure, kind, kind)[0])
    return apply(figure, plug_everything(figure))


@pytest.fixture(scope="module")
def lamp():
    figure = on_a_computer(load(demo_path("lamplighter")))
    sounds = Sounds(demo_path("lamplighter").parent)
    known = Known({}, {s.sha256: heard(sounds.data(s), s.name).loudness for s in figure.sounds})
    return figure, known, Media(sounds.data)


def run_it(folder, *more):
    """By a Python of its own, with nothing installed."""
    command = [sys.executable, "-I", "-S", "player.py", *more]
    return subprocess.run(
        command, cwd=folder, capture_output=True, text=True, timeout=120, check=True
    ).stdout.splitlines()


def test_the_exported_program_lives_as_the_window_does(lamp, tmp_path):
    """The lamplighter, half a minute, its pins by a script: states and lines to the tick, and what each channel is sent."""
    figure, known, media = lamp
    assert not clashes(figure)
    told = export(exporter("player"), figure, {"form": "python"}, tmp_path, media=media)
    inputs = [figure.behaviour.input(row.ident) for row in computer_pins(figure).inputs]
    assert inputs and all(each.kind in ("button", "switch", "motion", "beam", "lift") for each in inputs)
    events = script(1, inputs, TICKS, 0.004)
    (tmp_path / "inputs.txt").write_text("".join(f"{tick} {k} {reads}\n" for tick, k, reads in events))
    lines = run_it(tmp_path, "--trace", str(TICKS), "--inputs", "inputs.txt")
    found = outputs(figure)
    theirs = read(lines, [int(o.plug.pin("signal")) for o in found], [o.pulses is None for o in found])
    ours = in_the_window(figure, known, events, TICKS, inputs=inputs)
    assert theirs.entered == ours.entered and len(ours.entered) > 3
    assert [n for _, n in theirs.said] == [n for at, n in ours.said if at <= TICKS] and theirs.said
    sent = np.array([paced(o, v) if o.pulses is not None else v for o, v in zip(found, ours.values, strict=True)])
    assert np.abs(theirs.values - sent).max() <= OFF_US
    copies = sorted(path.name for path in (tmp_path / "sounds").iterdir())
    assert copies == [file_name(figure, sound.id, ".wav") for sound in figure.sounds]
    words = (tmp_path / "README.txt").read_text()
    assert "IO17" in words and all(each.name in words for each in inputs) and "sounds lie in the folder sounds" in words
    unread = [each.name for each in figure.behaviour.inputs if each.id not in {i.id for i in inputs}]
    assert all(name in words for name in unread) and any("nothing to install" in line for line in told)


def test_servos_that_share_joints_stand_where_they_do_in_the_window():
    for kind in ("eye", "pair", "differential", "pair on a neck"):
        figure = sharing(kind, 1)
        found, rng = outputs(figure), np.random.default_rng(1)
        data = json.loads(json.dumps([row for row in _rows(figure)]))
        sending, channels = Sending(data), figure.score.moved
        for _ in range(40):
            places = [float(rng.uniform(*c.band(figure))) for c in channels]
            moved = np.array([[p * c.measure(figure).si] for p, c in zip(places, channels, strict=True)])
            sending.last = [None] * len(found)
            sent = sending.values([p * 100 for p in places])
            ours = [float(o.value(o.places(moved))[0]) for o in found]
            assert np.abs(np.array(sent) - ours).max() <= 0.6


def _rows(figure):
    return json.loads(
        plain(Figure(**(dict(figure) | {"behaviour": Behaviour(states=(State(id="a", name="A"),))})), ALONE, Known())[
            "figure.json"
        ]
    )["outputs"]


def test_a_computers_player_is_plain_python():
    figure = on_a_computer(load(demo_path("lamplighter")))
    with pytest.raises(FileTrouble, match="Choose plain Python"):
        export(exporter("player"), figure, {"form": "make"}, None)


@pytest.mark.skipif(shutil.which("gcc") is None, reason="apt-get install gcc")
def test_what_is_asked_of_the_gpio_chip_is_laid_out_as_the_kernel_has_it(tmp_path):
    """Numbers of both calls, sizes, places and flags by the compiler, from linux/gpio.h itself; and a chip that a test stands in for."""
    (tmp_path / "k.c").write_text("""
#include <stddef.h>
#include <stdio.h>
#include <linux/gpio.h>
int main(void) {
  printf("%lu %lu %zu %zu %zu %zu %zu %llu %llu %llu\\n", GPIO_V2_GET_LINE_IOCTL, GPIO_V2_LINE_GET_VALUES_IOCTL, sizeof(struct gpio_v2_line_request),
    offsetof(struct gpio_v2_line_request, config), offsetof(struct gpio_v2_line_request, num_lines), offsetof(struct gpio_v2_line_request, fd),
    sizeof(struct gpio_v2_line_values), GPIO_V2_LINE_FLAG_INPUT, GPIO_V2_LINE_FLAG_ACTIVE_LOW, GPIO_V2_LINE_FLAG_BIAS_PULL_UP);
}""")
    subprocess.run(["gcc", "-o", "k", "k.c"], cwd=tmp_path, check=True)
    told = [
        int(word)
        for word in subprocess.run(["./k"], cwd=tmp_path, capture_output=True, text=True, check=True).stdout.split()
    ]
    config = 4 * pins.LINES + pins.NAME
    assert told == [pins.GET_LINES, pins.GET_VALUES, pins.REQUEST, config, config + pins.LINE_CONFIG, pins.REQUEST - 4, pins.VALUES, pins.INPUT, pins.ACTIVE_LOW, pins.PULL_UP]  # fmt: skip


def test_pins_are_read_from_the_lines_they_were_asked_on(monkeypatch, tmp_path):
    """A stand-in for the chip: lines handed over by the file's number, levels by bit."""
    import fcntl

    lines, on = {}, {5, 17}

    def ioctl(file, call, data, change):
        if call == pins.GET_LINES:
            count = struct.unpack_from("<I", data, 4 * pins.LINES + pins.NAME + pins.LINE_CONFIG)[0]
            low = bool(struct.unpack_from("<Q", data, 4 * pins.LINES + pins.NAME)[0] & pins.ACTIVE_LOW)
            number = 100 + len(lines)
            lines[number] = (struct.unpack_from(f"<{count}I", data), low)
            struct.pack_into("<i", data, pins.REQUEST - 4, number)
            return
        _, mask = struct.unpack("<QQ", data)
        asked, _ = lines[file]
        struct.pack_into("<Q", data, 0, sum(1 << bit for bit, line in enumerate(asked) if line in on) & mask)

    monkeypatch.setattr(fcntl, "ioctl", ioctl)
    chip = tmp_path / "chip"
    chip.write_bytes(b"")
    made = pins.Pins(str(chip), [[4, False], None, [5, True], [6, True]], 17)
    assert [made.reads(k) for k in range(4)] == [0, None, 1000, 0] and made.stop()
    assert {low for _, low in lines.values()} == {False, True}
    on.clear()
    assert not made.stop() and made.reads(2) == 0


def test_the_stop_switch_brings_it_to_park_and_holds_it_there(lamp, tmp_path, monkeypatch):
    """A board and pins that a test stands in for: played on until the switch shuts, home, held while it is shut, begun anew."""
    figure, _, media = lamp
    export(exporter("player"), figure, {"form": "python"}, tmp_path, media=media)
    monkeypatch.syspath_prepend(str(tmp_path))
    program = {"__name__": "player", "__file__": str(tmp_path / "player.py")}
    exec(compile((tmp_path / "player.py").read_text(), "player.py", "exec"), program)
    data, frames, said = json.loads((tmp_path / "figure.json").read_text()), [], []
    parked = [each["park"] for each in data["outputs"]]

    class Board:
        def frame(self, what, number, outputs, values):
            frames.append((what, list(values)))

    class Pins:
        def stop(self):
            return len(frames) >= 150 and sum(what == "P" for what, _ in frames) < 40

        def reads(self, k):
            return 1000 if 20 < len(frames) < 60 else 0

    class Voice:
        say, hush = said.append, lambda self: said.append("hush")

    steps = program["live"](data, Board(), Pins(), Voice(), 0)
    for _ in zip(range(150 + 40 + 100), steps, strict=False):
        pass
    what = "".join(kind for kind, _ in frames)
    assert what.startswith("F" * 150) and "P" * 40 in what and what.rstrip("F").endswith("P") and "hush" in said
    begins = what.index("P")
    assert frames[begins - 1][1] == pytest.approx(parked, abs=0.5) and frames[begins][1] == parked
    home = [np.array(values) for _, values in frames[149:begins]]
    paces = np.abs(np.diff(home, axis=0)).max(axis=0) if len(home) > 1 else np.zeros(len(parked))
    for pace, each in zip(paces, data["outputs"], strict=True):
        assert each["light"] or pace <= 20.0 / 50 * each["us_per_deg"] + 0.01
    assert frames[-1][0] == "F"


def test_cues_are_typed_a_line_each_and_nobody_has_to(lamp, tmp_path, monkeypatch, capsys):
    figure, _, media = lamp
    export(exporter("player"), figure, {"form": "python"}, tmp_path, media=media)
    program = {"__name__": "player", "__file__": str(tmp_path / "player.py")}
    exec(compile((tmp_path / "player.py").read_text(), "player.py", "exec"), program)
    reads, writes = os.pipe()
    monkeypatch.setattr(sys, "stdin", os.fdopen(reads))
    typed, cues = program["typed"], ["encore", "à demain"]
    assert typed(cues) == []
    os.write(writes, "encore\n\n à demain \nbow\n".encode())
    assert typed(cues) == [0, 1] and "there are: encore, à demain" in capsys.readouterr().out
    os.close(writes)
    assert typed(cues) == [] and typed(cues) == [] and typed([]) == []


@settings(max_examples=200, deadline=None)
@given(
    st.sampled_from(PROFILE_KINDS),
    st.floats(0.05, 3.0),
    st.floats(-90, 90),
    st.floats(-200, 200),
    st.floats(0.05, 0.45),
    st.floats(0, 1.5),
)
def test_moves_run_as_the_windows_do(kind, takes, by, speed, shape, share):
    """Place and speed of every profile, broken off and taken up at any speed."""
    takes, by = round(takes, 4), round(by, 2)
    own = DESCRIBED[kind].shape
    counts = round(shape * own.counts) if own is not None else 0
    row = (takes * share, takes, by, speed, counts / own.counts if own is not None else 0.0)
    x, v, _ = PROFILES[kind].run(*(np.array([each]) for each in row))
    move = (0, round(takes * 1e4), round(by * 100), PROFILE_KINDS.index(kind), counts)
    place, pace = run(move, takes * share, 0.0, speed * 100)
    assert place == pytest.approx(float(x[0]) * 100, abs=0.05) and pace == pytest.approx(float(v[0]) * 100, abs=0.5)
