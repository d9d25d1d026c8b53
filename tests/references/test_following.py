"""Controllers that follow another on its bus: both programs on simulated controllers, what one says written into the other's bus byte by byte; wires, clashes, exports."""

import json
import random
import subprocess

import numpy as np
import pytest

from karakuri.catalogue.boards import board_kind
from karakuri.checks.wiring import propose
from karakuri.demo import owl_path
from karakuri.errors import FileTrouble
from karakuri.exchange.contract import export
from karakuri.exchange.exporters import exporter
from karakuri.exchange.player.bundle import bundle, sketch_name
from karakuri.exchange.player.followers import folder_of
from karakuri.exchange.player.pins import as_wired
from karakuri.exchange.player.size import controllers
from karakuri.files.disk import load, write_files
from karakuri.files.text import from_text, to_text
from karakuri.model.board import Board, Plug
from karakuri.model.board_edits import pull_out, set_board, set_plug
from karakuri.model.edit import Edit, Set, apply
from karakuri.study.study import study
from karakuri.wiring.at_once import at_once
from karakuri.wiring.clashes import clashes
from karakuri.wiring.following import address_of, channels_of, followers, leaders
from karakuri.wiring.plug_in import not_plugged, plug_everything
from karakuri.wiring.table import wires
from tests.frames import board_values
from tests.references.test_boards import (  # fmt: skip
    AVR,
    CORE,
    HARNESS,
    WORDS,
    build,
    calm,
    needs,
    needs_harness,
    pulses_of,
    simulated,
)

BUS = {"atmega328p": ("A4", "A5"), "atmega2560": ("20", "21"), "rp2040": ("GP4", "GP5"), "computer": ("IO2", "IO3")}
OWN, THEIRS = ("4", "5", "6", "7"), ("4", "5", "6", "7", "3")
PATIENCE = 4000 * 5
"""Cycles that the one that leads waits for a byte at the least: its loop takes more than five."""


def following(figure, own=OWN, theirs=THEIRS, kind="atmega328p", other="atmega328p", address=None):
    """Servos in order on pins of the one that leads, then on those of the one that follows; the light on what is left of these."""
    boards = (Board(id="chip", name="Controller", kind=kind), Board(id="second", name="Lamps", kind=other, address=address))  # fmt: skip
    plugs = [Plug(id="bus", board="chip", of="board", item="second", pins=tuple(zip(("data", "clock"), BUS[kind], strict=True)))]  # fmt: skip
    things = [("drive", d.id) for d in figure.drives] + [("light", c.id) for c in figure.score.channels if c.kind == "light"]  # fmt: skip
    places = [*(("chip", pin) for pin in own), *(("second", pin) for pin in theirs)]
    for k, ((of, item), (board, pin)) in enumerate(zip(things, places, strict=True)):
        plugs.append(Plug(id=f"plug{k}", board=board, of=of, item=item, pins=(("signal", pin),)))
    return apply(figure, Edit("follow", (Set(("boards",), boards), Set(("plugs",), tuple(plugs)))))


def stringed(figure, lamps):
    return apply(figure, set_plug(figure, next(p.id for p in figure.plugs if p.of == "light"), "string", lamps=lamps))


def said(out):
    """What the one that leads said to address 0x48, message by message."""
    return [[int(v) for v in line.split()[1:]] for line in out.splitlines() if line.startswith("bus48 ")]


def heard(folder, figure, messages, seconds, chip="atmega328p"):
    """What the one that follows does on its pins, told messages ('cycle', bytes)."""
    name = folder_of(figure, figure.boards[1])
    write_files(folder, bundle(figure, controllers()[0]))
    build(folder / name, "avr-g++", f"-mmcu={chip}", *AVR[2:], "-o", "../follower.elf", "follower_main.cpp", "follower.cpp", "hardware_timer.cpp")  # fmt: skip
    (folder / "speech.txt").write_text("".join(f"{cycle} 72 {' '.join(map(str, each))}\n" for cycle, each in messages))
    build(folder, "gcc", "-O2", "-o", "simboard", str(HARNESS), "-lsimavr", "-lelf")
    done = subprocess.run(["./simboard", "follower.elf", "pins", str(seconds), chip], cwd=folder, capture_output=True, text=True, timeout=180, check=True, env={"SPEAKS": "speech.txt"})  # fmt: skip
    return done.stdout


def frame(*pulses_us):
    """One message of pulses, µs; 0 none."""
    counts = [round(us * 25 / 122) for us in pulses_us] + [0] * (16 - len(pulses_us))
    return [6, *(byte for count in counts for byte in (0, 0, count & 255, count >> 8))]


@needs("avr-g++", "gcc")
@needs_harness
@pytest.mark.parametrize(("other", "theirs"), [("atmega328p", THEIRS), ("atmega2560", ("22", "23", "24", "25", "44"))])
def test_both_do_what_the_frames_say(other, theirs, tmp_path):
    """From tables to the pins of both: own pulses to a microsecond, the other's to a count of the bus; frames of both 20 ms apart; nobody waits for the other."""
    figure = following(calm(load(owl_path())), theirs=theirs, other=other)
    assert not clashes(figure) and as_wired(figure)[1].id == "timer"
    out = simulated(tmp_path / "leads", figure, "atmega328p", "timer", 6)
    messages = said(out)
    assert [len(each) for each in messages[:3]] == [2, 2, 2] and len(messages) == pytest.approx(6 * 50, abs=8)
    theirs_out = heard(tmp_path / "follows", figure, [(160_000 + 320_000 * k, each) for k, each in enumerate(messages)], 6, other)  # fmt: skip
    found, wanted = board_values(figure)
    mine, others = pulses_of(out), pulses_of(theirs_out)
    for i, output in enumerate(found):
        board = output.plug.board
        pulses = (mine if board == "chip" else others)[board_kind("atmega328p" if board == "chip" else other).by_id[output.plug.pin("signal")].port]  # fmt: skip
        if output.pulses is None:
            assert np.median(pulses[-50:, 1]) / np.median(np.diff(pulses[-50:, 0])) == pytest.approx(wanted[i, 50] / 1000, abs=0.01)  # fmt: skip
            continue
        assert np.abs(pulses[-20:, 1] / 16 - wanted[i, 50]).max() < (1.0 if board == "chip" else 3.5), output.name
        assert np.abs(np.diff(pulses[-20:, 0]) - 320_000).max() <= (16 if board == "chip" else 800)
    assert int(theirs_out.rsplit("waited ", 1)[1]) < PATIENCE / 4


@needs("avr-g++", "gcc")
@needs_harness
def test_silence_parks_it_slowly_and_it_comes_back_no_faster(tmp_path):
    """A second of words, three of silence, words again: half a second after the last it goes to park in two, its light dark at once; then at 20° a second to where it is told."""
    figure = following(calm(load(owl_path())))
    told = [1900.0, 1100.0, 1700.0, 1300.0]
    light = round(0.5 * 4095)
    words = frame(*told)
    words[1 + 16 + 2 : 1 + 16 + 4] = [light & 255, light >> 8]
    messages = [(160_000 + 320_000 * k, words) for k in (*range(50), *range(200, 500))]
    out = pulses_of(heard(tmp_path, figure, messages, 9))
    silent, again = 50 * 320_000, 200 * 320_000
    for k, pin in enumerate(("D4", "D5", "D6", "D7")):
        at, us = out[pin][:, 0], out[pin][:, 1] / 16
        steady = us[(at > 10 * 320_000) & (at < silent)]
        assert np.abs(steady - told[k]).max() < 3.5
        parking = (at > silent + 23 * 320_000) & (at < again)
        moves = np.abs(np.diff(us[parking]))
        assert us[parking][-1] == pytest.approx(1500, abs=1.5) and moves.max() <= abs(told[k] - 1500) / 100 + 1.5
        assert abs(us[(at > silent + 75 * 320_000) & (at < silent + 77 * 320_000)][0] - told[k]) > 0.4 * abs(told[k] - 1500)  # fmt: skip
        back = us[at > again - 640_000]
        assert (
            np.abs(np.diff(back)).max() <= 4.4 + 0.5 and np.abs(back[-5:] - told[k]).max() < 3.5
        )  # 20° a second of 11 µs a degree
    dark = out["D3"][:, 0]
    assert not ((dark > silent + 27 * 320_000) & (dark < again)).any() and (dark < silent).any() and (dark > again).any()  # fmt: skip


@needs("avr-g++", "gcc")
@needs_harness
def test_noise_on_the_bus_is_not_taken_over(tmp_path):
    """Half messages, other registers, other addresses and settings between whole ones: only whole frames move anything."""
    figure, rng = following(calm(load(owl_path()))), random.Random(3)
    messages = []
    for k in range(150):  # a whole frame, and where the next would be something else
        messages.append((160_000 + 640_000 * k, frame(1600, 1400, 1550, 1450)))
        junk = rng.choice(
            ([0, 32], [254, 121], [6, 0, 0, 255, 15], [7, *[255] * 10], [70, *[255] * 6], [22, 1, 1, 255, 1], [])
        )
        messages.append((480_000 + 640_000 * k, junk))
    out = pulses_of(heard(tmp_path, figure, messages, 3))
    assert len(out["D4"]) > 140
    for pin, wanted in zip(("D4", "D5", "D6", "D7"), (1600, 1400, 1550, 1450), strict=True):
        assert np.abs(out[pin][5:, 1] / 16 - wanted).max() < 3.5


@needs("avr-g++", "gcc")
@needs_harness
@pytest.mark.parametrize("alone", [False, True])
def test_its_lamps_are_sent_in_every_frame_and_nobody_waits_for_them(alone, tmp_path):
    """As many as are told to fit, beside four servos or alone: 24 bits a lamp in every frame, no pulse late, and the one that leads is never kept waiting for long."""
    owl = calm(load(owl_path()))
    own, theirs = ((*OWN, "8", "9", "10", "12"), ("3",)) if alone else (OWN, THEIRS)
    figure = stringed(following(owl, own=own, theirs=theirs), 1)
    lamps = 1 + int(at_once(figure, figure.boards[1]).left / 34e-6) - 12
    figure = stringed(figure, lamps)
    told = at_once(figure, figure.boards[1])
    assert 0.9 * told.left < told.strings <= told.left and (not alone or lamps > 400)
    us = told.pulses / max(told.count, 1) * 1e6  # as wide as they get
    words = frame(*[us] * told.count)
    k = channels_of(figure, figure.boards[1])[next(p.id for p in figure.plugs if p.lamps)]
    words[1 + 4 * k + 2 : 1 + 4 * k + 4] = [0xFF, 0x0F]
    out = heard(tmp_path, figure, [(160_000 + 320_000 * n, words) for n in range(150)], 3)
    pulses = pulses_of(out)
    bits = pulses["D3"]
    sends = np.split(bits, np.flatnonzero(np.diff(bits[:, 0]) > 16 * 50) + 1)
    whole = [each for each in sends if len(each) == 24 * lamps]
    assert len(whole) >= 140 and int(out.rsplit("waited ", 1)[1]) < PATIENCE / 4
    for pin in ("D4", "D5", "D6", "D7") if not alone else ():
        assert np.abs(pulses[pin][5:, 1] / 16 - us).max() < 3.5
        assert np.abs(np.diff(pulses[pin][5:, 0]) - 320_000).max() <= 800


@needs("avr-g++", "gcc")
@needs_harness
def test_lamps_that_would_reach_into_the_time_of_the_bus_are_not_sent(tmp_path):
    """Sixty more than fit: rather no lamps than one that leads kept waiting. Pulses go on."""
    figure = stringed(following(calm(load(owl_path()))), 1)
    told = at_once(figure, figure.boards[1])
    us = told.pulses / told.count * 1e6
    lamps = int((0.020 - told.pulses - 0.0016) / 34e-6)
    words = frame(*[us] * told.count)
    out = heard(tmp_path, stringed(figure, lamps), [(160_000 + 320_000 * n, words) for n in range(100)], 2)
    assert int(out.rsplit("waited ", 1)[1]) < PATIENCE / 4 and "D3" not in pulses_of(out)
    assert np.abs(pulses_of(out)["D4"][5:, 1] / 16 - us).max() < 3.5


@needs("avr-g++", "gcc")
@needs_harness
def test_its_sketch_folder_compiles_as_its_editor_would(tmp_path):
    figure = following(calm(load(owl_path())))
    write_files(tmp_path, bundle(figure, controllers()[0], sketch=True))
    name = folder_of(figure, figure.boards[1])
    folder, readme = tmp_path / name, (tmp_path / "README.txt").read_text()
    assert f"{name}/{name}.ino" in readme and "0x48" in readme and "pin 3 of Lamps" in readme and "4.7 k" in readme
    assert (tmp_path / sketch_name(figure)).is_dir() and (tmp_path / "plugs-2.svg").exists()
    (folder / "core.cpp").write_text(CORE)
    (folder / "words.h").write_text(WORDS)
    (folder / f"{name}_ino.cpp").write_text(f'#include "words.h"\n#include "{name}.ino"\n')
    build(folder, *AVR, "-o", "pins.elf", *sorted(path.name for path in folder.glob("*.cpp")))


@needs("avr-g++", "make")
def test_its_makefile_makes_it(tmp_path):
    figure = following(calm(load(owl_path())))
    write_files(tmp_path, bundle(figure, controllers()[0]))
    told = build(tmp_path / folder_of(figure, figure.boards[1]), "make")
    assert (tmp_path / folder_of(figure, figure.boards[1]) / "follower.hex").exists() and "text" in told


def test_a_computer_leads_too(tmp_path):
    """Plain Python tells it its channels at its address, as it tells a generator."""
    figure = following(calm(load(owl_path())), own=(), theirs=("4", "5", "6", "7", "8", "9", "10", "12", "3"), kind="computer")  # fmt: skip
    assert not [each for each in clashes(figure) if each.plugs]
    export(exporter("player"), figure, {"form": "python"}, tmp_path)
    score = json.loads((tmp_path / "score.json").read_text())
    assert score["generators"] == [[72, 25e6]] and [each["number"] for each in score["outputs"]] == list(range(9))
    readme = (tmp_path / "README.txt").read_text()
    assert "pin 4 of Lamps" in readme and "level shifter" in readme and "400 kHz" in readme
    assert (tmp_path / "follows_lamps" / "follows_lamps.ino").exists()
    levels = next(f for f in study(figure).findings if f.id == "wiring.second.bus_level")
    assert levels.verdict == "tight" and "level shifter" in levels.sentence.text
    assert next(f for f in study(following(calm(load(owl_path())))).findings if f.id == "wiring.second.bus_level").verdict == "holds"  # fmt: skip


def test_two_that_lead_are_refused_until_one_follows_and_all_goes_where_it_may():
    owl = load(owl_path())
    boards = (Board(id="a", name="A", kind="atmega328p"), Board(id="b", name="B", kind="atmega328p"))
    apart = apply(owl, Edit("two", (Set(("boards",), boards), Set(("plugs",), ()))))
    assert [board.id for board in leaders(apart)] == ["a", "b"] and not followers(apart)
    assert [thing.item for thing in not_plugged(apart) if thing.of == "board"] == ["b"]
    with pytest.raises(FileTrouble, match="one controller that leads"):
        as_wired(apart)
    joined = apply(apart, plug_everything(apart))
    assert [board.id for board in followers(joined)] == ["b"] and not not_plugged(joined)
    assert not [each for each in clashes(joined) if each.plugs]
    bus = next(plug for plug in joined.plugs if plug.of == "board")
    made = [wire for wire in wires(joined) if wire.plug == bus.id]
    assert sorted(wire.lead for wire in made) == ["clock", "data", "minus"]  # two supplies on one line feed each other
    assert bundle(joined, controllers()[0])["follows_b/follower.cpp"]
    assert from_text(to_text(joined)) == joined
    again = apply(joined, pull_out(joined, bus.id))
    assert [board.id for board in leaders(again)] == ["a", "b"]


def test_what_one_that_follows_cannot_do_is_told():
    figure = following(load(owl_path()))
    voice = next(c for c in figure.score.channels if c.kind == "sound")
    odd = apply(figure, Edit("odd", (Set(("plugs",), (*figure.plugs, Plug(id="v", board="second", of="voice", item=voice.id, pins=(("words", "1"), ("busy", "8"))))),)))  # fmt: skip
    assert any("decides nothing" in each.words for each in clashes(odd))
    on_bus = apply(figure, set_plug(figure, "plug4", "pin", pins=(("signal", "A4"),)))
    assert any("its bus" in each.words for each in clashes(on_bus))
    far = apply(figure, set_board(figure, "second", "address", address=120))
    assert any("address 120" in each.words for each in clashes(far))
    same = following(load(owl_path()), address=0x40)
    same = apply(same, Edit("generator", (
        Set(("boards",), (*same.boards, Board(id="g", name="G", kind="generator"))),
        Set(("plugs",), (*same.plugs, Plug(id="bus2", board="chip", of="board", item="g", pins=(("data", "A4"), ("clock", "A5"))))),
    )))  # fmt: skip
    told = study(same)
    clash = next(f for f in told.findings if f.rule == "wiring" and "same address" in f.sentence.text)
    offered = list(propose(clash, told.results))
    assert any(not [c for c in clashes(apply(same, each.edit)) if c.plugs] for each in offered)
    circle = apply(figure, Edit("circle", (Set(("plugs",), (*figure.plugs, Plug(id="back", board="second", of="board", item="chip", pins=(("data", "A4"), ("clock", "A5"))))),)))  # fmt: skip
    assert any("leads nobody" in each.words or "decides nothing" in each.words for each in clashes(circle))
    with pytest.raises(FileTrouble):
        bundle(circle, controllers()[0])
    assert address_of(figure.boards[1]) == 0x48


def test_too_many_lamps_are_offered_a_second_controller():
    """Where a string does not fit beside the pulses, one more controller that follows sends it: all of the wiring holds then."""
    owl = load(owl_path())
    boards = (Board(id="a", name="A", kind="atmega328p"),)
    figure = apply(owl, Edit("one", (Set(("boards",), boards), Set(("plugs",), ()))))
    figure = stringed(apply(figure, plug_everything(figure)), 400)
    told = study(figure)
    strings = next(f for f in told.findings if f.id == "wiring.a.strings")
    assert strings.verdict == "fails"
    second = next(each for each in propose(strings, told.results) if "second controller" in each.label.text)
    after = apply(figure, second.edit)
    assert not [each for each in clashes(after) if each.plugs] and len(followers(after)) == 1
    held = [f for f in study(after).findings if f.id.endswith(".strings")]
    assert [f.verdict for f in held] == ["holds"]
