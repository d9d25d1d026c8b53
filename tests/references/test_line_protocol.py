"""The line protocol, spoken by an independent client that knows docs/protocol.md only, and the sender under faults.

No test asserts how long something took but the board's own half second of silence.
"""

import queue
import re
import socket
import time
from pathlib import Path

import numpy as np
import pytest
from msgspec.structs import replace

from karakuri.demo import owl_path
from karakuri.devices.client import SenderProcess
from karakuri.devices.prepare import program_of
from karakuri.devices.program import Program
from karakuri.devices.protocol import BoardTrouble, limit_line, read_identity, read_places, set_lines
from karakuri.devices.standins.process import StandIn
from karakuri.files.disk import load


class Client:
    """Plain sockets and files; nothing of karakuri's."""

    def __init__(self, address: str) -> None:
        if address.startswith("tcp:"):
            _, host, port = address.split(":")
            with socket.create_connection((host, int(port)), 5) as made:
                self.wire = made.makefile("rwb", buffering=0)
        else:
            self.wire = Path(address).open("r+b", buffering=0)  # noqa: SIM115 - closed by the test
        self.rest = b""

    def say(self, line: str) -> None:
        self.wire.write(line.encode() + b"\n")

    def hear(self) -> str:
        while b"\n" not in self.rest:
            self.rest += self.wire.read(4096)
        line, _, self.rest = self.rest.partition(b"\n")
        return line.decode()

    def ask(self, line: str) -> str:
        self.say(line)
        return self.hear()


@pytest.fixture(params=["tcp", "pty"])
def board(request):
    made = StandIn(terminal=request.param == "pty")
    client = Client(made.address)
    yield client
    client.wire.close()
    made.close()


def test_every_command_by_an_independent_client(board):
    assert board.ask("ID") == "BOARD karakuri-line 1 OUTPUTS 16 RATE 50"
    assert board.ask("QUERY") == "AT"
    assert board.ask("LIMIT 3:1000:2000:1400") == "OK"
    assert board.ask("SET 0 3:1700 4:1200") == "OK"
    assert board.ask("QUERY") == "AT 3:1700 4:1200"
    assert board.ask("SET 0 3:2900") == "OK"
    assert board.ask("QUERY") == "AT 3:2000 4:1200"  # kept within its limit
    assert board.ask("SET 1000 3:1000") == "OK"
    time.sleep(0.2)
    assert 1000 < int(re.findall(r"3:(\d+)", board.ask("QUERY"))[0]) < 2000
    assert board.ask("RELEASE 4") == "OK"
    assert "4:" not in board.ask("QUERY")
    assert board.ask("WAKE 500 7:1600") == "OK"
    assert "7:1600" in board.ask("QUERY")
    assert board.ask("RELEASE ALL") == "OK"
    assert board.ask("QUERY") == "AT"


@pytest.mark.parametrize("line", ["", " ", "SET", "SET x 1:1500", "SET 20 1", "SET 20 1:", "SET 20 99:1500", "SET 20 1:99999", "SET -5 1:1500",
                                  "SET 99999999 1:1500", "LIMIT 1:2:3", "LIMIT 1:2000:1000:1500", "WAKE 1:1500", "RELEASE x", "set 20 1:1500",
                                  "FAULT nap", "\x00\x07", "A" * 500])  # fmt: skip
def test_what_makes_no_sense_is_refused_and_changes_nothing(board, line):
    if not line.strip():
        board.say(line)
        assert board.ask("QUERY") == "AT"
        return
    assert board.ask(line).startswith("NO ")
    assert board.ask("QUERY") == "AT"


def test_silence_parks(board):
    assert board.ask("LIMIT 0:1000:2000:1200") == "OK"
    assert board.ask("SET 0 0:2000") == "OK"
    time.sleep(0.7)
    first = int(board.ask("QUERY").split(":")[1])
    assert first < 2000
    for _ in range(40):
        time.sleep(0.1)
        if board.ask("QUERY") == "AT 0:1200":
            return
    pytest.fail("it never came to park")


def test_reading_and_writing_lines():
    assert limit_line(1, 2000, 1000, 2500) == "LIMIT 1:1000:2000:2000"
    lines = set_lines(20, [(i, 1500.4) for i in range(40)])
    assert all(len(line) <= 199 for line in lines)
    assert sum(line.count(":1500") for line in lines) == 40
    assert read_places("AT 0:1500 12:900") == {0: 1500.0, 12: 900.0}
    for wrong in ("", "OK", "AT 0", "AT x:1", "BOARD"):
        with pytest.raises(BoardTrouble):
            read_places(wrong)
    with pytest.raises(BoardTrouble, match="newer firmware"):
        read_identity("BOARD karakuri-line 2 OUTPUTS 16 RATE 50")
    with pytest.raises(BoardTrouble, match="expected 'BOARD"):
        read_identity("hello")


def test_a_program_survives_the_disk(tmp_path):
    made = program_of(load(owl_path()))
    made.save(tmp_path / "p.npz")
    again = Program.load(tmp_path / "p.npz")
    assert again.values == pytest.approx(made.values) and again.loops == made.loops
    assert again.numbers.tolist() == made.numbers.tolist()


class Desk:
    """A sender and a stand-in; `until` waits for a state and keeps what was said."""

    def __init__(self) -> None:
        self.reports: queue.SimpleQueue = queue.SimpleQueue()
        self.sender, self.board = SenderProcess(self.reports.put), StandIn()
        self.said: list[str] = []
        self.last: dict = {}
        program = program_of(load(owl_path()))
        self.program = replace(
            program, us_per_deg=np.full(len(program.numbers), 1e6)
        )  # ranges of a moment, to approach fast
        self.sender.load(self.program)

    def until(self, *states: str, seconds: float = 15) -> dict:
        end = time.monotonic() + seconds
        while time.monotonic() < end:
            try:
                report = self.reports.get(timeout=0.5)
            except queue.Empty:
                continue
            if report.get("say"):
                self.said.append(report["say"])
            self.last = {**self.last, **report}
            if report.get("state") in states and "frame" in report:
                return report
        raise AssertionError(f"never {states}; last {self.last}; said {self.said}")

    def ready(self) -> None:
        self.sender.tell("connect", address=self.board.address)
        self.until("joined")
        self.sender.tell("power")
        self.sender.tell("approach")
        self.until("ready")

    def close(self) -> None:
        self.sender.close()
        self.board.close()


@pytest.fixture
def desk():
    made = Desk()
    yield made
    made.close()


def test_nothing_moves_before_power_is_confirmed(desk):
    desk.sender.tell("connect", address=desk.board.address)
    desk.until("joined")
    for do in ("approach", "play", "live"):
        desk.sender.tell(do, aim={"0": 1600})
    desk.sender.tell("say", line="QUERY")
    for _ in range(400):  # what was asked before may be answered later
        report = desk.until("joined")
        if report["answers"] and any("confirm" in text for text in desk.said):
            break
    assert report["sent"] == 0 and report["reported"] == {}
    assert any("confirm" in text for text in desk.said)


def test_joints_approach_one_after_the_other_then_it_plays(desk):
    slow = replace(desk.program, us_per_deg=np.where(np.arange(len(desk.program.numbers)) < 3, 40.0, 1e6))
    desk.sender.load(slow)
    desk.sender.tell("connect", address=desk.board.address)
    desk.until("joined")
    desk.sender.tell("power")
    desk.sender.tell("approach")
    awake: list[int] = []
    while True:
        report = desk.until("approaching", "ready")
        awake.append(len(report["reported"]))
        if report["state"] == "ready":
            break
    assert awake == sorted(awake) and awake[0] <= 2 and len(set(awake)) >= 3
    desk.sender.tell("play")
    first = desk.until("playing")
    frames = [first["frame"]]
    while frames[-1] < first["frame"] + 60:
        frames.append(desk.until("playing")["frame"])
    assert desk.last["refused"] == desk.last["nonsense"] == 0
    desk.sender.tell("stop")
    at = desk.until("ready")
    desk.sender.tell("park")
    desk.until("homing", "ready")
    assert "Stopped. It stands where it is." in desk.said
    assert at["places"]


def test_a_stop_while_a_joint_is_woken_takes_its_pulses_away(desk):
    """Its place is not known, so it cannot be told to stand: without pulses it does."""
    desk.sender.load(replace(desk.program, us_per_deg=np.full(len(desk.program.numbers), 10.0)))
    desk.sender.tell("connect", address=desk.board.address)
    desk.until("joined")
    desk.sender.tell("power")
    desk.sender.tell("approach")
    while not desk.until("approaching")["reported"]:
        pass
    desk.sender.tell("stop")
    while "0" in desk.until("confirmed")["reported"]:
        pass


def test_an_edit_while_playing_is_taken_up_between_frames(desk):
    desk.ready()
    desk.sender.tell("play")
    before = desk.until("playing")["sent"]
    for shift in range(20):
        values = desk.program.values.copy()
        values[:, 0] = 1400 + 10 * shift
        desk.sender.load(replace(desk.program, values=values))
    while True:
        report = desk.until("playing")
        if report["places"]["0"] == 1590.0 and report["sent"] > before + 30:
            break
    assert report["refused"] == 0


def test_sliders_are_followed_within_limits(desk):
    desk.ready()
    desk.sender.tell("live", aim={"0": 99999, "1": 1500})
    top = float(max(desk.program.low[0], desk.program.high[0]))
    while True:
        report = desk.until("live")
        if report["reported"].get("0") == round(top):
            break


@pytest.mark.parametrize(
    ("fault", "words"), [("mute", ("silent", "answer")), ("babbles", ("nonsense",)), ("dies", ("",))]
)
def test_a_lost_board_is_told_and_joined_again(desk, fault, words):
    desk.ready()
    desk.sender.tell("play")
    desk.until("playing")
    desk.sender.tell("say", line=f"FAULT {fault}")
    desk.until("lost")
    # a mute board is silent between frames, or, where the machine was busy just then, does not answer what was asked
    assert any(word in text and "parks by itself" in text for text in desk.said for word in words), desk.said
    if fault == "dies":
        for _ in range(30):  # it comes back by itself after two seconds, and knows nothing
            desk.sender.tell("connect", address=desk.board.address)
            if desk.until("joined", "lost")["state"] == "joined":
                break
            time.sleep(0.2)
        desk.sender.tell("power")
        desk.sender.tell("approach")
        desk.until("ready")


def test_a_late_board_is_only_late(desk):
    desk.ready()
    desk.sender.tell("play")
    desk.until("playing")
    desk.sender.tell("say", line="FAULT late")
    sent = desk.until("playing")["sent"]
    while desk.until("playing", "lost")["sent"] < sent + 75:
        assert desk.last["state"] == "playing"


@pytest.mark.parametrize("address", ["tcp:127.0.0.1:1", "tcp:nowhere", "/dev/no-such-port", ""])
def test_no_board_there_is_a_sentence(desk, address):
    desk.sender.tell("connect", address=address)
    desk.until("lost")
    assert any("No board answers" in text or "no address" in text for text in desk.said), desk.said


def test_a_board_that_is_too_small_is_refused(desk):
    desk.sender.load(replace(desk.program, numbers=np.arange(20, 20 + len(desk.program.numbers))))
    desk.sender.tell("connect", address=desk.board.address)
    desk.until("lost")
    assert any("16 outputs" in text and "wants number" in text for text in desk.said)
