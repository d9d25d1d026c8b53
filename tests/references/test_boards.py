"""Pulses, frames, the player and the firmware: against data sheet arithmetic, the csv module, NumPy, compiled C++ and a simulated
controller. Where the compilers or the simulator are missing, the tests say what to install and are skipped."""

import csv
import io
import re
import shutil
import signal
import subprocess
import sys
import time
from pathlib import Path

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from karakuri.actuators.calibrate import clock_hz, tooth
from karakuri.actuators.generator import prescale, real_rate_hz, resolution_rad, tick_us
from karakuri.bodies.tree import build_tree
from karakuri.catalogue.boards import board_kind
from karakuri.demo import demo_path, owl_path
from karakuri.devices.protocol import read_input
from karakuri.errors import FileTrouble
from karakuri.exchange.contract import export
from karakuri.exchange.exporters import exporter
from karakuri.exchange.frames_csv import read, take_over
from karakuri.exchange.outputs import outputs, score_stream
from karakuri.exchange.player.bundle import bundle, sketch_name
from karakuri.exchange.player.kinds import KINDS, pulse_kind
from karakuri.exchange.player.size import controllers, size
from karakuri.exchange.player.tables import MOVE_BYTES, tables
from karakuri.files.disk import load, write_files
from karakuri.model.board import Board, Plug
from karakuri.model.board_edits import add_board, plug_in, pull_out, set_board, set_pin, set_plug
from karakuri.model.channel import JointChannel, RunChannel
from karakuri.model.edit import Edit, Set, apply
from karakuri.model.figure import Figure
from karakuri.model.moves import Row, moves_of
from karakuri.model.record import Calibration, Entry, NamedPlace
from karakuri.model.record_edits import moved
from karakuri.model.score import Score
from karakuri.model.score_edits import add_motor
from karakuri.motion.frames import frame_times
from karakuri.session.session import Session
from karakuri.wiring.at_once import LAMP_S, RESET_S, at_once
from tests.figures import as_csv, scored
from tests.frames import board_values, score_frames
from tests.references.test_shared import differential, eye, pair

HARNESS = Path(__file__).parent.parent / "board" / "simboard.c"
WANTED = {"g++": "g++", "avr-g++": "gcc-avr avr-libc", "simavr": "simavr", "gcc": "gcc"}


def needs(*tools):
    missing = [WANTED[tool] for tool in tools if shutil.which(tool) is None]
    return pytest.mark.skipif(bool(missing), reason=f"apt-get install {' '.join(missing)}")


needs_harness = pytest.mark.skipif(
    not Path("/usr/include/simavr/sim_avr.h").exists() or shutil.which("gcc") is None,
    reason="apt-get install gcc libsimavr-dev libelf-dev",
)


# ---- pulses: data sheet of a 16-channel 12-bit I²C PWM controller (from memory): prescale = round(25 MHz ÷ (4096 f)) − 1
def test_prescale_and_ticks():
    assert prescale(50) == 121 and prescale(60) == 101
    assert real_rate_hz(121) == pytest.approx(50.03, abs=5e-3)
    assert tick_us(50) == pytest.approx(4.883, abs=5e-4)
    assert 1500 / tick_us(50) == pytest.approx(307.2)
    assert 1500 / tick_us(real_rate_hz(121)) == pytest.approx(307.38, abs=6e-3)
    assert (prescale(1), prescale(5000)) == (255, 3)


def test_a_fast_oscillator_shortens_pulses():
    """26 instead of 25 MHz: 1500 µs become 1442 µs."""
    count = 1500 / tick_us(50)
    assert count * tick_us(real_rate_hz(121, 26e6) / real_rate_hz(121) * 50) == pytest.approx(1442.3, abs=0.1)


def test_its_own_clock_from_one_pulse_that_was_measured():
    """1500 µs asked, 1442.3 measured: 26 MHz."""
    assert clock_hz(1500.0, 1442.3) == pytest.approx(26e6, rel=1e-3)
    assert clock_hz(1500.0, 1500.0 * 25 / 25.7) == pytest.approx(25.7e6)
    with pytest.raises(ValueError, match="20 to 30 MHz"):
        clock_hz(1500.0, 2500.0)


@settings(max_examples=200, deadline=None)
@given(st.floats(-3.1, 3.1), st.integers(8, 50), st.floats(-1000, 1000).filter(lambda v: abs(v) > 100))
def test_the_tooth_to_choose_leaves_less_than_half_a_tooth_and_no_other_leaves_less(off, teeth, us_per_rad):
    found, pitch = tooth(off, teeth, us_per_rad), 2 * np.pi / teeth
    assert abs(found.left) <= pitch / 2 + 1e-9
    assert found.left == pytest.approx(off + found.steps * pitch)
    assert min(abs(off + n * pitch) for n in range(-teeth, teeth + 1)) == pytest.approx(abs(found.left), abs=1e-9)
    assert found.left + found.trim_us / us_per_rad == pytest.approx(
        0.0, abs=1e-9
    )  # at the trimmed pulse it stands in the middle


def test_a_swapped_part_moves_every_place_by_as_much():
    places = (NamedPlace(name="shut", pulse_us=1500.0), NamedPlace(name="open", pulse_us=1820.0))
    assert moved(places, "shut", 1475.0) == (("shut", 1500.0, 1475.0), ("open", 1820.0, 1795.0))
    assert moved(places, "open", 1820.0) == (("shut", 1500.0, 1500.0), ("open", 1820.0, 1820.0))


def test_resolution():
    """11.11 µs a degree: 0.44° a count."""
    assert np.degrees(resolution_rad(np.degrees(11.11))) == pytest.approx(0.44, abs=1e-3)


# ---- frames
def test_frame_times_do_not_drift_in_three_hours():
    """540 000 frames: every time is the double nearest to k ÷ 50, whether worked out at once or some thousand at a time."""
    times = frame_times(540_001)
    assert times[-1] == 10_800.0
    assert all(times[k] == k / 50 for k in (1, 12_345, 333_333, 539_999))
    at = 0
    figure = scored(Row(1.0, 2.0, 20.0), length_s=10_800.0)
    for part, _, _ in score_stream(figure):
        assert part[0] == at / 50
        at += len(part)
    assert at == 540_001 + 50  # and a second to go home by 20°


def test_frames_are_held_in_the_band_and_end_at_park():
    made = score_frames(scored(Row(0.2, 0.4, 45.0), length_s=1.0))  # the range ends at 30°
    degrees = np.degrees(made.places[0])
    assert degrees.max() == pytest.approx(30.0) and made.clamped[0] > 10
    assert degrees[0] == 0.0 and degrees[-1] == pytest.approx(0.0)
    assert made.home_s == pytest.approx(1.5, abs=0.02)
    home = np.diff(degrees[round(1.0 * 50) :]) * 50
    assert home.min() == pytest.approx(-20.0, rel=1e-6)


# ---- CSV, by the csv module and NumPy
def test_csv_by_other_readers():
    owl = load(owl_path())
    made = score_frames(owl)
    text = as_csv(owl)
    rows = list(csv.reader(io.StringIO(text)))
    assert rows[0][0] == "time_s" and rows[0][-1] == "lamp [%]"
    assert len(rows) == len(made.times) + 1
    table = np.loadtxt(io.StringIO(text), delimiter=",", skiprows=1)
    assert table[:, 0] == pytest.approx(made.times)
    assert table[:, 1] == pytest.approx(np.degrees(made.places[0]), abs=5.1e-4)
    assert table[:, -1] == pytest.approx(made.places[-1] * 100, abs=5.1e-4)


def test_csv_taken_over_moves_as_it_did():
    owl = load(owl_path())
    made = score_frames(owl)
    edit, off = take_over(owl, read(as_csv(owl)), 0.25)
    again = score_frames(apply(owl, edit))
    assert off <= 0.25
    assert np.abs(np.degrees(again.places[:6, : len(made.times)] - made.places[:6])).max() < 1.2


@settings(max_examples=40, deadline=None)
@given(st.lists(st.tuples(st.floats(0, 2), st.floats(0.05, 2), st.floats(-30, 30), st.sampled_from(("minimum jerk", "cosine", "trapezoid", "sudden", "following"))), min_size=1, max_size=8))  # fmt: skip
def test_csv_round_trip(found):
    shape = {"trapezoid": 0.25, "following": 0.1}
    figure = scored(*(Row(a, b, c, kind, shape.get(kind, 0.0)) for a, b, c, kind in found), length_s=4.0)
    made = score_frames(figure)
    table = read(as_csv(figure))
    assert table.times == pytest.approx(made.times)
    assert table.columns["nod"][1] == pytest.approx(np.degrees(made.places[0]), abs=5.1e-4)


# ---- the player
@pytest.fixture(scope="module")
def player(tmp_path_factory):
    folder = tmp_path_factory.mktemp("player")
    owl = load(owl_path())
    write_files(folder, bundle(owl, controllers()[0]))
    return folder, owl


def build(folder: Path, *command: str) -> str:
    done = subprocess.run(command, cwd=folder, capture_output=True, text=True, check=False)
    assert done.returncode == 0, done.stdout + done.stderr
    assert "warning" not in done.stderr, done.stderr
    return done.stdout


AVR = ("avr-g++", "-mmcu=atmega328p", "-DF_CPU=16000000UL", "-Os", "-std=gnu++11", "-Wall", "-Wextra",
       "-ffunction-sections", "-fdata-sections", "-Wl,--gc-sections", "-Wl,--relax")  # fmt: skip


def traced(lines: list[str], whats: str) -> np.ndarray:
    return np.array([[int(v) for v in line.split()[2:]] for line in lines if line[:1] in whats and line[1:2] == " "])


def compare(owl, got: np.ndarray) -> None:
    """Every frame of every output within half a microsecond, a tenth of a 12-bit count; lights within a per mille."""
    found, wanted = board_values(owl)
    n = min(len(got), wanted.shape[1])
    assert n > 300
    for i, output in enumerate(found):
        scale = 10 if output.pulses else 1
        assert np.abs(got[:n, output.number] / scale - wanted[i, :n]).max() <= (0.5 if output.pulses else 1.0), (
            output.name
        )


@needs("g++")
def test_player_compiled_by_gpp_plays_our_frames(player):
    folder, owl = player
    build(folder, "make", "host")
    out = subprocess.run(["./player-host"], cwd=folder, env={"TRACE_FRAMES": "1000"}, capture_output=True, text=True, check=True).stdout.splitlines()  # fmt: skip
    started = traced(out, "S")
    firsts = [int(np.argmax(started[:, k] > 0)) for k in range(8)]
    assert firsts == sorted(firsts) and len(set(firsts)) == 8  # one joint after the other
    assert (started[: firsts[1], 0] > 0).mean() == pytest.approx(0.25, abs=0.02)  # sparse pulses
    compare(owl, traced(out, "FH"))


@needs("g++")
@pytest.mark.parametrize("kind", ["minimum jerk", "cosine", "trapezoid", "sudden", "following"])
def test_player_overlapping_moves_and_the_way_home(kind, tmp_path):
    shape = {"trapezoid": 0.25, "following": 0.15}.get(kind, 0.0)
    rows = (
        Row(0.1, 0.9, 25.0),
        Row(0.5, 0.6, -20.0, kind, shape),
        Row(0.7345, 0.8, 44.0, kind, shape),
        Row(2.0, 0.4, 12.0, kind, shape),
    )
    figure = scored(*rows, length_s=2.9, loops=False)
    write_files(tmp_path, bundle(figure, controllers()[0]))
    build(tmp_path, "make", "host")
    out = subprocess.run(["./player-host"], cwd=tmp_path, env={"TRACE_FRAMES": "1000"}, capture_output=True, text=True, check=True).stdout.splitlines()  # fmt: skip
    got = traced(out, "FH")
    _, wanted = board_values(figure)
    assert len(got) == wanted.shape[1]
    assert np.abs(got[:, 0] / 10 - wanted[0]).max() <= 0.5


@needs("g++")
@pytest.mark.parametrize("seed", range(5))
def test_player_plays_random_scores_as_we_do(seed, tmp_path):
    """Every profile, overlaps, calibrated and turned servos, lights, parks off zero."""
    rng = np.random.default_rng(seed)
    owl = load(owl_path())
    for name, pulses in (("Fan", {}), ("Wheel", {"still_us": 1480.0, "ahead_us": 1000.0, "back_us": 2100.0})):
        owl = apply(owl, add_motor(owl, name))
        motor = RunChannel(**(dict(owl.score.moved[-1]) | pulses))
        owl = apply(owl, Edit("pulses", (Set(("score", "channels"), (*owl.score.channels[:-1], motor)),)))
    kinds = (("minimum jerk", 0.0), ("cosine", 0.0), ("trapezoid", 0.2), ("sudden", 0.0), ("following", 0.12))
    steps = []
    for channel in owl.score.moved:
        low, high = channel.band(owl)
        at, rows = float(rng.uniform(0, 0.5)), []
        for _ in range(int(rng.integers(3, 9))):
            kind, shape = kinds[int(rng.integers(5))]
            takes = round(float(rng.uniform(0.03, 0.9)), 3)
            rows.append(Row(round(at, 3), takes, round(float(rng.uniform(low, high)), 2), kind, shape))
            at += takes * float(rng.uniform(0.4, 1.8))
        park = round(float(rng.uniform(low, high)) * 0.5, 2)
        steps.append(Set(("score", "channels", channel.id, "moves"), moves_of(rows)))
        if not channel.runs:
            steps.append(Set(("score", "channels", channel.id, "park"), park))
    steps += [Set(("score", "length_s"), 5.0), Set(("score", "loops"), False), Set(("score", "makers"), ())]
    session = Session(apply(owl, Edit("random", tuple(steps))))
    for drive in owl.drives[::2]:
        low, high = owl.joint(drive.joint).range_deg
        pulses = (2210.0, 1483.5, 790.0) if rng.uniform() < 0.5 else (811.0, 1522.5, 2190.0)
        made = Calibration(angles_deg=(low - 11.0, (low + high) / 2 + 2, high + 9.0), pulses_us=pulses)
        entry = Entry(date="2026-02-03", kind="calibration", drive=drive.id, calibration=made)
        session.note(lambda entry=entry: entry)
    figure = session.figure
    write_files(tmp_path, bundle(figure, controllers()[0]))
    build(tmp_path, "make", "host")
    out = subprocess.run(["./player-host"], cwd=tmp_path, env={"TRACE_FRAMES": "2000"}, capture_output=True, text=True, check=True).stdout.splitlines()  # fmt: skip
    got = traced(out, "FH")
    found, wanted = board_values(figure)
    assert abs(len(got) - wanted.shape[1]) <= 1
    n = min(len(got), round(5.0 * 50) + 1)
    for i, output in enumerate(found):
        scale = 10 if output.pulses else 1
        assert np.abs(got[:n, output.number] / scale - wanted[i, :n]).max() <= (0.6 if output.pulses else 1.0), (
            output.name
        )
        assert got[-1, output.number] / scale == pytest.approx(wanted[i, -1], abs=0.6 if output.pulses else 1.0)  # home


def sharing(kind: str, seed: int) -> Figure:
    """Two joints that servos share, with a random score of both; one kind with its neck left out of the score."""
    rng = np.random.default_rng(seed)
    figure = {"eye": eye, "pair": pair, "differential": differential, "pair on a neck": lambda: pair(third=True)}[
        kind
    ]()
    channels = []
    for joint in figure.joints:
        if joint.id == "pan" and kind == "pair on a neck":
            continue
        at, rows = 0.2, []
        for _ in range(6):
            takes = round(float(rng.uniform(0.2, 0.7)), 3)
            rows.append(Row(round(at, 3), takes, round(float(rng.uniform(*joint.range_deg)), 2)))
            at += takes * float(rng.uniform(0.6, 1.4))
        park = round(float(rng.uniform(*joint.range_deg)) * 0.4, 2)
        channels.append(JointChannel(id=joint.id, name=joint.name, joints=(joint.id,), park=park, moves=moves_of(rows)))
    return Figure(**(dict(figure) | {"scores": (Score(length_s=5.0, loops=False, channels=tuple(channels)),)}))


@needs("g++")
@pytest.mark.parametrize("kind", ["eye", "pair", "differential", "pair on a neck"])
def test_player_works_out_servos_that_share_joints_as_we_do(kind, tmp_path):
    """Every frame within half a microsecond of ours, which is the closed form of the rod; ours within what is asked of all joints together."""
    figure = sharing(kind, 3)
    write_files(tmp_path, bundle(figure, controllers()[0]))
    build(tmp_path, "make", "host")
    out = subprocess.run(["./player-host"], cwd=tmp_path, env={"TRACE_FRAMES": "2000"}, capture_output=True, text=True, check=True).stdout.splitlines()  # fmt: skip
    found, wanted = board_values(figure)
    got = traced(out, "FH")
    assert len(got) == wanted.shape[1]
    for i, output in enumerate(found):
        assert np.abs(got[:, output.number] / 10 - wanted[i]).max() <= 0.5, output.name
        assert np.ptp(wanted[i]) > 20 or output.joint == "pan"
    group = build_tree(figure).groups[0]
    assert sum(output.mixed is not None for output in found) >= 1 and group.reads


@needs("avr-g++")
def test_size_told_of_a_player_that_shares_joints(tmp_path):
    """From above, and not by more than a tenth."""
    for kind in KINDS:
        figure = sharing("pair", 1)
        folder = tmp_path / kind.id
        folder.mkdir()
        write_files(folder, bundle(figure, controllers()[0], kind))
        build(folder, *AVR, "-o", "p.elf", "main.cpp", "play.cpp", "player.cpp", f"hardware_{kind.id}.cpp")
        text, data, bss = (int(v) for v in build(folder, "avr-size", "p.elf").splitlines()[1].split()[:3])
        told = size(tables(figure), controllers()[0], kind)
        assert text + data <= told.flash <= 1.10 * (text + data), (kind.id, text + data, told.flash)
        assert data + bss <= told.ram <= 1.12 * (data + bss), kind.id


@needs("avr-g++", "simavr")
def test_player_in_a_simulated_controller_plays_our_frames(player):
    folder, owl = player
    build(
        folder, *AVR, "-DTRACE_FRAMES=600", "-o", "trace.elf", "main.cpp", "play.cpp", "player.cpp", "hardware_uart.cpp"
    )
    done = subprocess.run(["simavr", "-m", "atmega328p", "-f", "16000000", "trace.elf"], cwd=folder, capture_output=True, text=True, timeout=120, check=False)  # fmt: skip
    lines = re.sub(r"\x1b\[[0-9;]*m", "", done.stdout + done.stderr).splitlines()
    compare(owl, traced([line.rstrip(".") for line in lines], "FH"))


def pulses_of(out: str) -> dict[str, np.ndarray]:
    """Of each pin that had any: when a pulse rose and how wide it was, (n, 2) cycles."""
    found: dict[str, list[list[int]]] = {}
    for line in out.splitlines():
        if line.startswith("pulse "):
            _, pin, at, wide = line.split()
            found.setdefault(pin, []).append([int(at), int(wide)])
    return {pin: np.array(some) for pin, some in found.items()}


@needs("avr-g++", "gcc")
@needs_harness
def test_pulses_on_the_pins_of_a_simulated_controller(tmp_path):
    """The controller's own timer: 50 frames a second to a cycle, pulses within 1 µs of what is sent."""
    owl = load(owl_path())
    narrow = tuple(Set(("joints", j.id, "range_deg"), (-3.0, 3.0)) for j in owl.joints)
    park = tuple(Set(("score", "channels", c.id, field), value) for c in owl.score.moved for field, value in (("moves", moves_of([])), ("park", 0.0)))  # fmt: skip
    calm = apply(owl, Edit("narrow", (*narrow, *park)))
    write_files(tmp_path, bundle(calm, controllers()[0]))
    build(tmp_path, *AVR, "-o", "pins.elf", "main.cpp", "play.cpp", "player.cpp", "hardware_timer.cpp")
    build(tmp_path, "gcc", "-O2", "-o", "simboard", str(HARNESS), "-lsimavr", "-lelf")
    out = subprocess.run(["./simboard", "pins.elf", "pins", "4"], cwd=tmp_path, capture_output=True, text=True, timeout=120, check=True).stdout  # fmt: skip
    pulses = pulses_of(out)
    found, wanted = board_values(calm)
    for output, pin in zip(
        [o for o in found if o.pulses], ("D4", "D5", "D6", "D7", "B0", "B1", "B2", "B4"), strict=True
    ):
        wide = pulses[pin][-20:, 1] / 16
        assert np.abs(wide - wanted[output.number, 0]).max() < 1.0, output.name
    steady = pulses["D4"][-100:, 0]
    assert np.abs(np.diff(steady) - 320_000).max() <= 8


@needs("avr-g++")
@pytest.mark.parametrize("kind", [kind.id for kind in KINDS])
def test_size_told_before_export(kind, player):
    folder, owl = player
    build(folder, *AVR, "-o", f"{kind}.elf", "main.cpp", "play.cpp", "player.cpp", f"hardware_{kind}.cpp")
    text, data, bss = map(int, build(folder, "avr-size", f"{kind}.elf").splitlines()[1].split()[:3])
    told = size(tables(owl), controllers()[0], pulse_kind(kind))
    assert text + data <= told.flash <= 1.10 * (text + data)
    assert data + bss <= told.ram <= 1.12 * (data + bss)
    assert told.fits


def test_bytes_a_move():
    one, two = tables(scored(Row(0, 1, 5))), tables(scored(Row(0, 1, 5), Row(1, 1, 0)))
    assert two.flash_bytes - one.flash_bytes == MOVE_BYTES == 13


# ---- the firmware, by an independent client
@needs("avr-g++", "gcc")
@needs_harness
@pytest.mark.parametrize("kind", [kind.id for kind in KINDS])
def test_firmware_answers_the_protocol_in_simulation(kind, player):
    folder, _ = player
    build(folder, *AVR, "-o", f"firmware-{kind}.elf", "firmware.cpp", f"hardware_{kind}.cpp")
    build(folder, "gcc", "-O2", "-o", "simboard", str(HARNESS), "-lsimavr", "-lelf")
    board = subprocess.Popen(["./simboard", f"firmware-{kind}.elf", "uart"], cwd=folder, stdin=subprocess.PIPE, stdout=subprocess.PIPE, text=True)  # fmt: skip
    try:

        def ask(line: str) -> str:
            board.stdin.write(line + "\n")
            board.stdin.flush()
            answer = board.stdout.readline()
            while answer.startswith("Loaded"):
                answer = board.stdout.readline()
            return answer.strip()

        time.sleep(0.3)
        assert ask("ID").startswith(("BOARD karakuri-line 1 OUTPUTS 16 RATE 50", "NO"))  # the first letters may be lost
        assert ask("ID") == "BOARD karakuri-line 1 OUTPUTS 16 RATE 50"
        assert ask("QUERY") == "AT"
        assert ask("LIMIT 2:900:2100:1500") == "OK"
        assert ask("WAKE 200 2:1500") == "OK"
        assert ask("QUERY") == "AT 2:1500"
        assert ask("SET 0 2:2600") == "OK"
        time.sleep(0.1)
        assert ask("QUERY") == "AT 2:2100"  # the limit is kept on board
        assert ask("SET 400 2:1000") == "OK"
        time.sleep(0.15)
        under_way = int(ask("QUERY").split(":")[1])
        assert 1000 < under_way < 2100
        for wrong in (
            "SET 20 16:1500",
            "SET 20 2:9",
            "SET -1 2:1500",
            "LIMIT 2:2000:1000:1500",
            "WAKE 10 77:1500",
            "RELEASE 99",
            "HELLO",
        ):
            assert ask(wrong).startswith("NO "), wrong
        assert ask("RELEASE 2") == "OK"
        assert ask("QUERY") == "AT"
        assert ask("SET 0 2:1200") == "OK"
        # Silence: after half a second of it, it parks by itself over two seconds. A busy machine simulates slower than time runs,
        # and every question breaks the silence, so the waits grow.
        for patience in (1.0, 2.0, 4.0, 8.0, 16.0, 32.0):
            time.sleep(patience)
            stands = ask("QUERY")
            if stands == "AT 2:1500":
                break
        assert stands == "AT 2:1500"
    finally:
        board.stdin.close()
        board.wait(5)
        board.stdout.close()


# ---- as it is wired: the same table in the window, in pins.h and on the pins of a simulated controller
def narrow(figure, deg):
    """Its joints turn so little that all are soon at park."""
    return apply(figure, Edit("narrow", tuple(Set(("joints", j.id, "range_deg"), (-deg, deg)) for j in figure.joints)))


def calm(figure):
    """Nothing moves, every light is on in part."""
    figure = narrow(figure, 3.0)
    steps = [Set(("score", "makers"), ()), Set(("score", "length_s"), 2.0)]
    for channel in figure.score.moved:
        steps.append(
            Set(
                ("score", "channels", channel.id, "moves"),
                moves_of([Row(0.1, 0.1, 40.0)] if channel.leads is None else []),
            )
        )
        steps.append(Set(("score", "channels", channel.id, "park"), 0.0))
    return apply(figure, Edit("calm", tuple(steps)))


def wired(figure, kind, pins, generator=None):
    """On one controller: servos and lights in order on those pins, or the servos on those of a generator."""
    boards = [Board(id="chip", name="Controller", kind=kind)]
    plugs = []
    if generator is not None:
        boards.append(Board(id="gen", name="Generator", kind="generator"))
        plugs.append(Plug(id="bus", board="chip", of="board", item="gen", pins=(("data", "A4"), ("clock", "A5"))))
    servos = [drive.id for drive in figure.drives]
    lights = [channel.id for channel in figure.score.channels if channel.kind == "light"]
    for k, (of, item) in enumerate([("drive", d) for d in servos] + [("light", c) for c in lights]):
        on = "gen" if generator is not None and k < len(generator) else "chip"
        pin = generator[k] if on == "gen" else pins[k - (len(generator) if generator else 0)]
        plugs.append(Plug(id=f"plug{k}", board=on, of=of, item=item, pins=(("signal", pin),)))
    return apply(figure, Edit("wire", (Set(("boards",), tuple(boards)), Set(("plugs",), tuple(plugs)))))


def simulated(folder, figure, chip, hardware, seconds=4) -> str:
    folder.mkdir(exist_ok=True)
    write_files(folder, bundle(figure, controllers()[0]))
    build(
        folder,
        "avr-g++",
        f"-mmcu={chip}",
        *AVR[2:],
        "-o",
        "pins.elf",
        "main.cpp",
        "play.cpp",
        "player.cpp",
        f"hardware_{hardware}.cpp",
    )
    build(folder, "gcc", "-O2", "-o", "simboard", str(HARNESS), "-lsimavr", "-lelf")
    command = ["./simboard", "pins.elf", "pins", str(seconds), chip]
    return subprocess.run(command, cwd=folder, capture_output=True, text=True, timeout=180, check=True).stdout


WAYS = [
    ("atmega328p", ("9", "2", "A3", "12", "13", "A1", "10", "4"), "5"),
    ("atmega328p", ("4", "5", "6", "7", "8", "9", "10", "12"), "11"),
    ("atmega2560", ("22", "30", "A15", "2", "49", "17", "53", "A7"), "44"),
    ("atmega2560", ("23", "24", "25", "26", "27", "28", "29", "37"), "10"),
]


@needs("avr-g++", "gcc")
@needs_harness
@pytest.mark.parametrize(("chip", "pins", "light"), WAYS)
def test_what_is_plugged_in_is_on_its_pin_and_on_no_other(chip, pins, light, tmp_path):
    figure = wired(calm(load(owl_path())), chip, (*pins, light))
    out = simulated(tmp_path, figure, chip, "timer")
    found, wanted = board_values(figure)
    kind, pulses = board_kind(chip), pulses_of(out)
    assert set(pulses) == {kind.by_id[pin].port for pin in (*pins, light)}
    for i, output in enumerate(found):
        pin = kind.by_id[output.plug.pin("signal")]
        if output.pulses is not None:
            assert np.abs(pulses[pin.port][-20:, 1] / 16 - wanted[i, 50]).max() < 1.0, output.name
        else:
            wide, apart = np.median(pulses[pin.port][-40:, 1]), np.median(np.diff(pulses[pin.port][-40:, 0]))
            assert (
                wide / apart == pytest.approx(0.40, abs=0.02) and 16e6 / apart > 400
            )  # on for its share, too fast to flicker


@needs("avr-g++", "gcc")
@needs_harness
@pytest.mark.parametrize("clock", [25e6, 26.3e6])
def test_a_generator_on_the_bus_is_told_our_frames(clock, tmp_path):
    """It answers in simulation. By the data sheet of a 16-channel 12-bit I²C PWM controller, from memory: asleep for the prescale, then awake; from register 6 on,
    four bytes a channel, on at 0 and off at a count; a count is (prescale + 1) ÷ clock."""
    channels = ("3", "15", "0", "7", "8", "1", "12", "5")
    figure = wired(narrow(load(owl_path()), 8.0), "atmega328p", ("6",), channels)
    if clock != 25e6:  # as measured: its pulses are those asked for all the same
        figure = apply(figure, set_board(figure, "gen", "clock", clock_MHz=clock / 1e6))
    out = simulated(tmp_path, figure, "atmega328p", "i2c", 16)
    told = [[int(v) for v in line.split()[1:]] for line in out.splitlines() if line.startswith("bus ")]
    assert told[:3] == [[0x00, 0x10], [0xFE, prescale(50, clock)], [0x00, 0x20]]
    frames = np.array([each[1:] for each in told[3:] if len(each) == 65]).reshape(-1, 16, 4)
    assert len(frames) == len(told) - 3 - (len(told[-1]) != 65) and (frames[:, :, :2] == 0).all()
    counts = frames[:, :, 2] + 256 * frames[:, :, 3]
    found, wanted = board_values(figure)
    servos = [output for output in found if output.pulses is not None]
    taken = sorted(output.number for output in servos)
    assert taken == sorted(int(c) for c in channels) and not counts[:, [n for n in range(16) if n not in taken]].any()
    started = int(np.argmax((counts[:, taken] > 0).all(axis=1)))  # all are on: approached, then the score, which loops
    got = counts[started:] * tick_us(real_rate_hz(prescale(50, clock), clock))
    begins = [
        k
        for k in range(len(got) - 150)
        if all(
            np.abs(got[k : k + 150, o.number] - wanted[i, :150]).max() <= tick_us(50)
            for i, o in enumerate(found)
            if o.pulses is not None
        )
    ]
    assert begins, "three seconds of the score, frame by frame, each within a count"


def test_players_that_are_wired_wrong_are_refused():
    figure = wired(calm(load(owl_path())), "atmega328p", ("4", "5", "6", "7", "8", "9", "10", "12", "11"))
    chip = controllers()[0]
    assert (
        "PULSES = 8" in bundle(figure, controllers()[1])["pins.h"].decode()
    )  # what is wired comes before what is chosen
    assert b"ATmega328P" in bundle(figure, controllers()[1])["README.txt"]
    with pytest.raises(FileTrouble, match="plug it in"):
        bundle(apply(figure, pull_out(figure, "plug0")), chip)
    with pytest.raises(FileTrouble, match="asked for by"):
        bundle(apply(figure, set_pin(figure, "plug0", "signal", "5")), chip)
    two = apply(figure, add_board(figure, "atmega328p", "Another")[0])
    with pytest.raises(FileTrouble, match="one controller"):
        bundle(two, chip)
    numbered = apply(figure, add_board(figure, "line", "Numbered")[0])
    numbered = apply(numbered, plug_in(numbered, numbered.boards[-1].id, "drive", figure.drives[0].id, (("signal", "0"),)))  # fmt: skip
    with pytest.raises(FileTrouble, match="a pulse generator, or the controller itself"):
        bundle(numbered, chip)


# ---- strings of lamps beside pulses
def stringed(figure, chip, pins, lamps):
    made = wired(figure, chip, pins)
    light = next(plug.id for plug in made.plugs if plug.of == "light")
    return apply(made, set_plug(made, light, "string", lamps=lamps))


@needs("avr-g++", "gcc")
@needs_harness
@pytest.mark.parametrize(("chip", "pins", "port"), [("atmega328p", ("4", "5", "6", "7", "8", "9", "10", "12", "3"), "D3"), ("atmega2560", ("22", "23", "24", "25", "26", "27", "28", "29", "44"), "L5")])  # fmt: skip
def test_a_string_is_sent_in_the_dead_time_and_no_pulse_is_late(chip, pins, port, tmp_path):
    """Pulses on simulated pins with the string and without: not one differs by a microsecond; the bits of it by an 800 kbit/s data sheet, from memory: 0.25 to
    0.55 µs high for a 0, 0.65 to 0.95 for a 1, 1.25 ± 0.6 µs a bit, 24 bits a lamp."""
    narrowed = calm(load(owl_path()))
    lamps = 60
    figure = stringed(narrowed, chip, pins, lamps)
    told = at_once(figure, figure.boards[0])
    assert 0 < told.strings <= told.left
    with_it = pulses_of(simulated(tmp_path / "with", figure, chip, "timer"))
    without = pulses_of(simulated(tmp_path / "without", wired(narrowed, chip, pins), chip, "timer"))
    kind = board_kind(chip)
    for pin in pins[:8]:
        one, other = (some[kind.by_id[pin].port][-30:] for some in (with_it, without))
        assert np.abs(np.median(one[:, 1]) - np.median(other[:, 1])) <= 4 and np.ptp(one[:, 1]) <= 16  # cycles: 1 µs
    bits = with_it[port]
    sends = np.split(bits, np.flatnonzero(np.diff(bits[:, 0]) > 16 * 50) + 1)
    whole = [each for each in sends if len(each) == 24 * lamps]
    assert len(whole) >= 40 and all(len(each) % 24 == 0 for each in sends[1:-1])
    last = whole[-1]
    values = np.packbits((last[:, 1] > 16 * 0.6).astype(np.uint8))
    assert set(values.tolist()) == {round(0.40 * 255)}
    high = last[:, 1] / 16
    assert ((high > 0.25) & (high < 0.55) | (high > 0.65) & (high < 0.95)).all()
    steps = np.diff(last[:, 0]) / 16
    assert np.median(steps) == pytest.approx(1.25, abs=0.1) and steps.max() < 5
    took = (last[-1, 0] - last[0, 0]) / 16e6
    assert 0.8 * LAMP_S * lamps < took < LAMP_S * lamps
    starts = with_it[kind.by_id[pins[0]].port][:, 0]  # the first servo's pulse begins a frame
    after = [each[0, 0] - starts[starts < each[0, 0]][-1] for each in whole[-20:]]
    assert (
        min(after) / 16e6 > sum(np.median(with_it[kind.by_id[p].port][-30:, 1]) for p in pins[:8]) / 16e6
    )  # behind the last pulse
    assert np.abs(np.diff(starts[-60:]) - 320_000).max() <= 16


@needs("avr-g++", "gcc")
@needs_harness
@pytest.mark.parametrize("generator", [False, True])
def test_as_many_lamps_as_are_told_to_fit_are_sent_in_every_frame(generator, tmp_path):
    """A score that moves all it has, at the bound that is told: a false 'holds' would be frames without their lamps."""
    owl = narrow(load(owl_path()), 8.0)
    channels = ("0", "1", "2", "3", "4", "5", "6", "7")
    figure = (
        wired(owl, "atmega328p", ("3",), channels)
        if generator
        else wired(owl, "atmega328p", ("4", "5", "6", "7", "8", "9", "10", "12", "3"))
    )
    chip = figure.boards[0]
    light = next(plug.id for plug in figure.plugs if plug.of == "light")
    one = at_once(apply(figure, set_plug(figure, light, "string", lamps=1)), chip)
    most = min(1000, int((one.left - RESET_S) / LAMP_S))
    figure = apply(figure, set_plug(figure, light, "string", lamps=most))
    told = at_once(figure, chip)
    assert told.strings <= told.left < told.strings + 2 * LAMP_S
    out = pulses_of(simulated(tmp_path, figure, "atmega328p", "i2c" if generator else "timer", 16))
    bits = out["D3"]
    sends = np.split(bits, np.flatnonzero(np.diff(bits[:, 0]) > 16 * 50) + 1)
    begins = np.array([each[0, 0] for each in sends[1:-1] if len(each) == 24 * most])
    apart = np.diff(begins[-150:]) / 16e6
    assert len(begins) > 200 and apart.max() < 0.030 and np.median(apart) == pytest.approx(0.020, abs=2e-4)


@needs("avr-g++")
@pytest.mark.parametrize("generator", [False, True])
def test_size_told_of_a_player_with_a_string(generator, tmp_path):
    channels = tuple(str(n) for n in range(8)) if generator else None
    pins = ("3",) if generator else ("4", "5", "6", "7", "8", "9", "10", "12", "3")
    figure = wired(load(owl_path()), "atmega328p", pins, channels)
    figure = apply(
        figure, set_plug(figure, next(plug.id for plug in figure.plugs if plug.of == "light"), "string", lamps=12)
    )
    kind = pulse_kind("i2c" if generator else "timer")
    write_files(tmp_path, bundle(figure, controllers()[0]))
    build(tmp_path, *AVR, "-o", "p.elf", "main.cpp", "play.cpp", "player.cpp", f"hardware_{kind.id}.cpp")
    text, data, bss = map(int, build(tmp_path, "avr-size", "p.elf").splitlines()[1].split()[:3])
    told = size(tables(figure), controllers()[0], kind)
    assert text + data <= told.flash <= 1.10 * (text + data) and data + bss <= told.ram <= 1.12 * (data + bss)


# ---- other forms
CORE = r"""
// As the editors usual for such boards have it: timers set for dimming, milliseconds counted by an interrupt, then setup() and loop().
#include <avr/interrupt.h>
#include <avr/io.h>
void setup();
void loop();
volatile unsigned long ms;
ISR(TIMER0_OVF_vect) { for (volatile unsigned char i = 0; i < 20; i++) ms++; }
int main() {
  sei();
  TCCR0A = 3, TCCR0B = 3, TIMSK0 = 1;
  TCCR1B = 3, TCCR1A = 1;
  TCCR2B = 4, TCCR2A = 1;
  setup();
  for (;;) loop();
}
"""

WORDS = """
// What such an editor puts before a sketch: words that a player's own names must keep away from.
#pragma once
#include <stdint.h>
#include <avr/pgmspace.h>
#define HIGH 0x1
#define LOW 0x0
#define INPUT 0x0
#define OUTPUT 0x1
#define INPUT_PULLUP 0x2
#define PI 3.1415926535897932384626433832795
#define min(a,b) ((a)<(b)?(a):(b))
#define max(a,b) ((a)>(b)?(a):(b))
#define abs(x) ((x)>0?(x):-(x))
#define round(x) ((x)>=0?(long)((x)+0.5):(long)((x)-0.5))
#define bit(b) (1UL << (b))
typedef bool boolean;
typedef uint8_t byte;
void setup();
void loop();
"""


@needs("avr-g++", "gcc")
@needs_harness
def test_the_sketch_folder_compiles_as_its_editor_would_and_plays_on_the_pins(tmp_path):
    """Every .cpp and the .ino of the folder together, beside a core of its own that counts milliseconds; pulses within a microsecond all the same."""
    figure = wired(calm(load(owl_path())), "atmega328p", ("4", "5", "6", "7", "8", "9", "10", "12", "11"))
    write_files(tmp_path, bundle(figure, controllers()[0], sketch=True))
    name = sketch_name(figure)
    folder = tmp_path / name
    assert (folder / f"{name}.ino").exists() and not (folder / "main.cpp").exists()
    assert {path.suffix for path in folder.iterdir()} == {".ino", ".cpp", ".h"}
    readme = (tmp_path / "README.txt").read_text()
    assert f"{name}.ino" in readme and "pin 12" in readme and (tmp_path / "plugs-1.svg").exists()
    (folder / "core.cpp").write_text(CORE)
    (folder / "words.h").write_text(WORDS)
    (folder / f"{name}_ino.cpp").write_text(f'#include "words.h"\n#include "{name}.ino"\n')
    build(folder, *AVR, "-o", "pins.elf", *sorted(path.name for path in folder.glob("*.cpp")))
    build(folder, "gcc", "-O2", "-o", "simboard", str(HARNESS), "-lsimavr", "-lelf")
    out = subprocess.run(
        ["./simboard", "pins.elf", "pins", "4"], cwd=folder, capture_output=True, text=True, timeout=120, check=True
    ).stdout
    found, wanted = board_values(figure)
    pulses = pulses_of(out)
    for i, output in enumerate(found):
        if output.pulses is not None:
            pin = board_kind("atmega328p").by_id[output.plug.pin("signal")]
            assert np.abs(pulses[pin.port][-20:, 1] / 16 - wanted[i, 50]).max() < 1.0, output.name


@pytest.mark.parametrize(
    ("name", "stem"), [("Lamplighter", "lamplighter"), ("3 owls", "figure_3_owls"), ("Ö */ “x”", "x"), ("…", "figure")]
)
def test_names_of_sketches(name, stem):
    assert sketch_name(Figure(name=name)) == stem


def test_plain_python_sends_our_frames(tmp_path):
    """Run by a Python of its own, with nothing installed: slow start one after another, then our frames to a tenth of a microsecond, over and over."""
    channels = ("3", "15", "0", "7", "8", "1", "12", "5")
    figure = wired(narrow(load(owl_path()), 8.0), "atmega328p", (), (*channels, "9"))
    export(exporter("player"), figure, {"form": "python"}, tmp_path)
    found, wanted = board_values(figure)
    count = wanted.shape[1] + 60
    command = [sys.executable, "-I", "-S", "player.py", "--trace", str(count)]
    out = subprocess.run(
        command, cwd=tmp_path, capture_output=True, text=True, timeout=120, check=True
    ).stdout.splitlines()
    started, got = traced(out, "S"), traced(out, "F")
    at = [int(o.plug.pin("signal")) for o in found]
    firsts = [int(np.argmax(started[:, n] > 0)) for n, o in zip(at, found, strict=True) if o.pulses is not None]
    assert len(set(firsts)) == 8 and len(got) == count
    for i, (n, output) in enumerate(zip(at, found, strict=True)):
        scale = 10 if output.pulses else 1
        loop = np.concatenate([wanted[i], wanted[i, :60]])
        assert np.abs(got[:, n] / scale - loop).max() <= (0.06 if output.pulses else 0.6), output.name
    assert "channel 15" in (tmp_path / "README.txt").read_text()


def test_plain_python_told_to_stop_goes_to_park_and_takes_the_pulses_away(tmp_path):
    """With a generator that is a file: what it is told last is no pulse at all, what it is told before that is park."""
    figure = wired(narrow(load(owl_path()), 3.0), "atmega328p", (), ("3", "15", "0", "7", "8", "1", "12", "5", "9"))
    export(exporter("player"), figure, {"form": "python"}, tmp_path)
    program = (tmp_path / "player.py").read_text()
    stub = program.replace('"/dev/i2c-%d" % bus, os.O_RDWR', '"bus.bin", os.O_RDWR | os.O_CREAT').replace(
        "fcntl.ioctl(self.file, I2C_SLAVE, address)", "assert address == 0x40"
    )
    assert stub != program
    (tmp_path / "player.py").write_text(stub)
    running = subprocess.Popen([sys.executable, "-I", "-S", "player.py"], cwd=tmp_path, stdout=subprocess.DEVNULL)
    time.sleep(6.0)
    running.send_signal(signal.SIGINT)
    running.wait(20)
    data = (tmp_path / "bus.bin").read_bytes()
    assert data[:6] == bytes((0x00, 0x10, 0xFE, prescale(50), 0x00, 0x20)) and (len(data) - 6) % 65 == 0
    frames = np.frombuffer(data[6:], np.uint8).reshape(-1, 65)
    assert (frames[:, 0] == 6).all() and not frames[-1, 1:].any()
    assert 150 < len(frames) < 400  # fifty a second
    words = frames[-2, 1:].reshape(16, 4).astype(int)
    tick = tick_us(real_rate_hz(prescale(50)))
    for output in outputs(figure):
        if output.pulses is not None and frames[len(frames) // 2, 1:].any():
            count = words[int(output.plug.pin("signal")), 2] + 256 * words[int(output.plug.pin("signal")), 3]
            assert count * tick == pytest.approx(float(output.value(np.array([output.park]))[0]), abs=tick)


def test_plain_python_is_refused_where_something_is_on_no_channel(tmp_path):
    figure = wired(calm(load(owl_path())), "atmega328p", ("4", "5", "6", "7", "8", "9", "10", "12", "11"))
    with pytest.raises(FileTrouble, match="a channel of a generator"):
        export(exporter("player"), figure, {"form": "python"}, tmp_path)


@needs("avr-g++", "gcc")
@needs_harness
def test_the_firmware_says_of_itself_what_its_inputs_do(tmp_path):
    """The lamplighter's own wiring: sensors that go high, a switch that pulls low, a level, each on its pin; told once for each change."""
    figure = load(demo_path("lamplighter"))
    write_files(tmp_path, bundle(figure, controllers()[0]))
    build(tmp_path, *AVR, "-o", "f.elf", "firmware.cpp", "hardware_timer.cpp")
    build(tmp_path, "gcc", "-O2", "-o", "simboard", str(HARNESS), "-lsimavr", "-lelf")
    board = subprocess.Popen(
        ["./simboard", "f.elf", "uart"], cwd=tmp_path, stdin=subprocess.PIPE, stdout=subprocess.PIPE, text=True
    )
    kind = board_kind("atmega328p")
    at = {plug.item: plug.pin("signal") for plug in figure.plugs if plug.of == "input"}
    seen: list[tuple[str, float]] = []

    def until(wanted, *lines):
        for line in lines:
            board.stdin.write(line + "\n")
        board.stdin.flush()
        for _ in range(400):
            line = board.stdout.readline().strip()
            event = read_input(line)
            if event is not None:
                seen.append(event)
                if event == wanted:
                    return
            if line.startswith(("AT", "OK", "NO", "BOARD")) or event is not None:
                board.stdin.write("QUERY\n")  # it goes on being spoken to
                board.stdin.flush()
        raise AssertionError((wanted, seen[-10:]))

    def drive(ident, level):
        port = kind.by_id[at[ident]].port
        return f"!{port} {level}"

    try:
        board.stdin.write(
            "".join(
                f"{line}\n"
                for line in (*(drive(i, 0) for i in ("left", "ahead", "right")), drive("off", 1), "!a1 0", "ID", "ID")
            )
        )
        board.stdin.flush()
        time.sleep(0.5)
        until((at["left"], 100.0), drive("left", 1), "QUERY")
        until((at["left"], 0.0), drive("left", 0), "QUERY")
        until((at["off"], 100.0), drive("off", 0), "QUERY")
        until((at["off"], 0.0), drive("off", 1), "QUERY")
        until((at["daylight"], 50.1), "!a1 2510", "QUERY")
        told = [level for pin, level in seen if pin == at["left"]]
        assert told[-2:] == [100.0, 0.0] and not any(pin == at["right"] and level for pin, level in seen)
    finally:
        board.stdin.close()
        board.wait(5)
        board.stdout.close()
