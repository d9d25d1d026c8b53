"""The law of the sender: between any two frames, on any path of states, no joint goes further than it may.

The sender runs against a board of the test's own, with a clock of the test's own; what is checked is what came over the wire.
"""

import contextlib
import re
import socket
import threading
import time
from collections import deque

import numpy as np
import pytest
from msgspec.structs import replace

from karakuri.demo import owl_path
from karakuri.devices.driving import MOVING, UNSURE_S, Sender
from karakuri.devices.governor import APPROACH_DEG_PER_S, FRAME_S, LIVE_DEG_PER_S, SAME_US
from karakuri.devices.link import Link
from karakuri.devices.prepare import program_of
from karakuri.devices.protocol import SILENCE_S, BoardTrouble, read_identity, read_input, read_places
from karakuri.devices.states.trying import MOST_PACE
from karakuri.files.disk import load
from karakuri.model.edit import Edit, Set, apply
from karakuri.model.figure import Figure
from karakuri.model.moves import Row, moves_of
from karakuri.model.score_edits import add_motor

OWL = load(owl_path())


class Bench:
    """A board that stands where it is told, parks after silence as the protocol says, and keeps what it was sent."""

    def __init__(self, rng) -> None:
        self.rng, self.time = rng, 0.0
        self.places: dict[int, float] = {}
        self.parks: dict[int, float] = {}
        self.heard_at = 0.0
        self.answers: deque[str] = deque()
        self.frames: list[tuple[str, dict[int, float]]] = []
        self.claims: dict[int, int] | None = None
        self.sender: Sender | None = None
        self.woken: dict[int, float] = {}

    def clock(self) -> float:
        return self.time

    def link(self, address: str) -> "Bench":
        return self

    def _silence(self) -> None:
        """Half a second without a line: every output goes to its park over two seconds."""
        quiet = self.time - self.heard_at - SILENCE_S
        if quiet > 0:
            share = min(1.0, quiet / 2.0)
            for o, place in self.places.items():
                self.places[o] = place + (self.parks.get(o, place) - place) * share
        self.heard_at = self.time

    def send(self, line: str) -> None:
        self._silence()
        word, _, rest = line.partition(" ")
        if word == "SET":
            pairs = {int(o): float(us) for o, us in re.findall(r"(\d+):(\d+)", rest)}
            self.frames.append((self.sender.state, {o: us - self.places.get(o, us) for o, us in pairs.items()}))
            self.places |= pairs
        elif word == "WAKE":
            (o, us), *_ = re.findall(r"(\d+):(\d+)", rest)
            self.places[int(o)] = float(us)
        elif word == "LIMIT":
            o, _, _, park = map(int, rest.split(":"))
            self.parks[o] = float(park)
        elif word == "RELEASE":
            self.places.pop(int(rest), None)
        told = self.claims if self.claims is not None else {o: round(us) for o, us in self.places.items()}
        self.answers.append({"ID": "BOARD karakuri-line 1 OUTPUTS 16 RATE 50",
                             "QUERY": " ".join(["AT", *(f"{o}:{us}" for o, us in told.items())])}.get(word, "OK"))  # fmt: skip

    def lines(self, wait_s: float = 0.0) -> list[str]:
        out = list(self.answers)
        self.answers.clear()
        return out

    def ask(self, line: str, patience_s: float = 1.0) -> str:
        self.answers.clear()
        self.send(line)
        return self.answers.pop()

    def close(self) -> None:
        pass


def edited(rng, figure):
    """The owl with another target somewhere, a shorter score, or a leap."""
    channel = figure.score.moved[int(rng.integers(4))]
    rows = list(channel.moves.rows())
    k = int(rng.integers(len(rows)))
    low, high = figure.joint(channel.joints[0]).range_deg
    rows[k] = Row(
        rows[k].departs, rows[k].takes, float(rng.uniform(low, high)), rng.choice(["minimum jerk", "sudden"]), 0.0
    )
    steps = [Set(("score", "channels", channel.id, "moves"), moves_of(rows))]
    if rng.random() < 0.5:
        steps.append(Set(("score", "length_s"), float(rng.uniform(2.0, 16.0))))
    return apply(figure, Edit("edit", tuple(steps)))


def allowed(sender: Sender, state: str, asked: np.ndarray) -> np.ndarray:
    """µs (o,): what an independent reading of the law lets an output move in one frame."""
    p = sender.program
    per_deg = p.us_per_deg
    pace = {"live": LIVE_DEG_PER_S, "playing": APPROACH_DEG_PER_S}.get(state, APPROACH_DEG_PER_S) * per_deg * FRAME_S
    return np.where(state == "playing", np.maximum(pace, np.minimum(asked, p.fastest * FRAME_S)), pace) + 1.5 + SAME_US


def walk(seed: int, lies: bool, seen: set[str]) -> None:
    rng = np.random.default_rng(seed)
    board = Bench(rng)
    figure = OWL
    sender = board.sender = Sender(lambda report: None, board.clock, board.link)
    sender.obey({"do": "load", "program": program_of(figure)})
    numbers = sender.program.numbers.tolist()
    parks = dict(zip(numbers, sender.program.park.tolist(), strict=True))
    for n in numbers[: 0 if seed % 3 == 0 else 10]:  # it was left standing anywhere, one of them even beyond its limits
        board.places[n] = float(rng.uniform(700, 2300)) if n == 1 else parks[n] + float(rng.uniform(-100, 100))
    for do in ("connect", "power", "approach"):
        sender.obey({"do": do, "address": "tcp:here:1"})
    for frame in range(4500):
        if rng.random() < 0.03 and (frame > 2500 or rng.random() < 0.01 or "ready" in seen):
            figure = _something(rng, board, sender, figure, lies)
        before, at = len(board.frames), sender.frame
        sender.tick()
        board.time += FRAME_S
        seen.add(sender.state)
        p = sender.program
        k = min(at, len(p.values) - 1)
        asked = np.abs(p.values[k].astype(float) - p.values[k - 1].astype(float))
        for state, moved in board.frames[before:]:
            state = "playing" if "playing" in (state, sender.state) else state
            limit = dict(zip(numbers, allowed(sender, state, asked).tolist(), strict=True))
            for o, by in moved.items():
                i = numbers.index(o)
                low, high = sorted((p.low[i], p.high[i]))
                assert p.lights[i] or low - 1 <= board.places[o] <= high + 1, "beyond its limits"
                assert lies or p.lights[i] or abs(by) <= limit[o], (seed, frame, state, o, by, limit[o])


def _something(rng, board, sender, figure, lies):
    """One thing a person, a machine or a board may do next."""
    numbers = sender.program.numbers.tolist()
    what = rng.choice(
        ["play", "play", "stop", "park", "approach", "live", "load", "stall", "connect", "power", "claim"]
    )
    if what == "live":
        aim = {str(n): float(rng.uniform(-1e4, 1e4)) for n in numbers if rng.random() < 0.7}
        sender.obey({"do": "live", "aim": aim | {"0": float(rng.choice([np.nan, np.inf, 1500.0]))}})
    elif what == "load":
        figure = edited(rng, OWL if rng.random() < 0.3 else figure)
        sender.obey({"do": "load", "program": program_of(figure)})
    elif what == "stall":
        board.time += float(rng.choice([0.05, UNSURE_S * 0.9, UNSURE_S * 1.1, 0.7, 4.0]))
    elif what == "claim":
        board.claims = {n: int(rng.integers(200, 3000)) for n in numbers} if lies and not board.claims else None
    elif what not in ("connect", "approach") or rng.random() < 0.1:
        sender.obey({"do": str(what), "frame": int(rng.integers(900)), "address": "tcp:here:1"})
        if what == "connect":
            sender.obey({"do": "power"})
            sender.obey({"do": "approach"})
    return figure


def test_no_joint_goes_further_than_it_may_between_two_frames():
    seen: set[str] = set()
    for seed in range(8):
        walk(seed, False, seen)
    assert {"playing", "gathering", "live", "homing", "ready", "approaching"} <= seen


def test_a_board_that_lies_is_sent_nothing_beyond_the_limits():
    seen: set[str] = set()
    for seed in range(20, 24):
        walk(seed, True, seen)
    assert "playing" in seen


def test_play_waits_until_everything_is_where_the_score_begins():
    board = Bench(np.random.default_rng(0))
    sender = board.sender = Sender(lambda report: None, board.clock, board.link)
    sender.obey({"do": "load", "program": replace(program_of(OWL))})
    board.places = {
        n: float(p) for n, p in zip(sender.program.numbers.tolist(), sender.program.park.tolist(), strict=True)
    }
    for do in ("connect", "power", "approach"):
        sender.obey({"do": do, "address": "x"})
    for _ in range(100):
        sender.tick()
        board.time += FRAME_S
    assert sender.state == "ready"
    sender.obey({"do": "play", "frame": 330})
    for _ in range(400):
        if sender.state == "playing":
            break
        assert sender.state == "gathering" and sender.frame == 330
        sender.tick()
        board.time += FRAME_S
    assert np.allclose(sender.now, sender.program.values[330], atol=SAME_US)
    assert "gathering" in MOVING


def test_what_runs_runs_only_while_somebody_says_so():
    """Random commands and pauses: a wheel is sent anything but its still only in the score, tried, or told live a moment ago; after a stop it is sent its still,
    whatever state that was in."""
    ran = set[str]()
    for seed in range(5):
        run_about(seed, ran)
    assert ran == {"playing", "trying", "live"}


def run_about(seed: int, ran: set[str]) -> None:
    rng = np.random.default_rng(seed)
    figure = apply(OWL, add_motor(OWL, "Wheel"))
    motor = figure.score.moved[-1]
    rows = [Row(0.4, 0.3, 80.0), Row(2.0, 1.0, -100.0), Row(9.0, 1.0, 50.0)]
    figure = apply(figure, Edit("runs", (Set(("score", "channels", motor.id, "moves"), moves_of(rows)),)))
    board = Bench(rng)
    sender = board.sender = Sender(lambda report: None, board.clock, board.link)
    sender.obey({"do": "load", "program": program_of(figure)})
    p = sender.program
    (o,) = np.flatnonzero(p.runs).tolist()
    wheel, still = int(p.numbers[o]), float(p.park[o])
    board.places = {int(n): float(v) for n, v in zip(p.numbers, p.park, strict=True)} | {wheel: 1800.0}
    sender.obey({"do": "connect", "address": "x"})
    sender.obey({"do": "stop"})  # it was left running, and nobody has confirmed anything yet
    assert board.places[wheel] == round(still)
    board.places[wheel] = 1800.0
    for do in ("power", "approach"):
        sender.obey({"do": do, "address": "x"})
    told = 0.0
    for _ in range(5000):
        if rng.random() < 0.012:
            what = str(
                rng.choice(
                    ["play", "play", "live", "live", "stop", "park", "approach", "try", "other", "stall", "load"]
                )
            )
            if what == "live":
                told = board.time
                sender.obey(
                    {"do": "live", "aim": {str(wheel): float(rng.uniform(900, 2100))} if rng.random() < 0.8 else {}}
                )
            elif what in ("try", "other"):
                sender.obey(
                    {"do": "try", "output": wheel if what == "try" else 0, "us": float(rng.uniform(1400, 1600))}
                )
            elif what == "stall":
                board.time += float(rng.choice([0.2, 0.45, 3.0]))
            elif what == "load":
                sender.obey({"do": "load", "program": program_of(figure)})
            else:
                sender.obey({"do": what, "frame": int(rng.integers(600))})
            if what == "stop":
                assert board.places[wheel] == round(still)
        before = len(board.frames)
        sender.tick()
        for state, _ in board.frames[before:]:
            running = abs(board.places[wheel] - still) > 1.0
            if running:
                ran.add(state)
            assert (
                not running
                or state in ("playing", "trying")
                or (state == "live" and board.time - told <= 0.3 + FRAME_S)
            )
        board.time += FRAME_S


@pytest.mark.parametrize("do", ["live", "try"])
def test_a_board_that_is_let_go_is_told_first_that_what_runs_stands_still(do):
    """The board's own way to park takes two seconds: a wheel is not left rolling for that long."""
    figure = apply(OWL, add_motor(OWL, "Wheel"))
    board, lines = Bench(np.random.default_rng(0)), []
    sender = board.sender = Sender(lambda report: None, board.clock, board.link)
    sender.obey({"do": "load", "program": program_of(figure)})
    p = sender.program
    wheel = int(p.numbers[int(np.flatnonzero(p.runs)[0])])
    board.places = {int(n): float(v) for n, v in zip(p.numbers, p.park, strict=True)}
    for each in ("connect", "power", "approach"):
        sender.obey({"do": each, "address": "x"})
    for frame in range(400):
        if frame >= 200:
            sender.obey({"do": do, "aim": {str(wheel): 1900.0}, "output": wheel, "us": 1600.0})
        sender.tick()
        board.time += FRAME_S
    assert board.places[wheel] >= 1590.0
    send, board.send = board.send, lambda line: (lines.append(line), send(line))[1]
    sender.obey({"do": "leave"})
    sets = [re.findall(rf"\b{wheel}:(\d+)", line) for line in lines if line.startswith("SET")]
    assert lines[-1] == "PARK" and [found[-1] for found in sets if found][-1] == "1500"


def test_a_sudden_move_is_sent_as_fast_as_its_servo_turns():
    figure = OWL
    rows = [Row(1.0, 0.0, 30.0, "sudden"), Row(3.0, 0.0, 0.0, "sudden")]
    figure = apply(figure, Edit("leap", (Set(("score", "channels", "neck_tilt_channel", "moves"), moves_of(rows)),)))
    p = program_of(figure)
    steps = np.abs(np.diff(p.values.astype(float), axis=0))
    assert (steps <= p.fastest * FRAME_S + 0.01).all()
    assert (steps / (p.fastest * FRAME_S)).max() == pytest.approx(1.0, abs=0.01)


@pytest.mark.parametrize(
    "line",
    [
        "",
        "AT 1",
        "AT x:1",
        "AT 1:" + "9" * 5000,
        "AT " + "9" * 5000 + ":1500",
        "AT 1:-5",
        "AT 1:1e9",
        "OK",
        "AT 1:99999999",
    ],
)
def test_odd_answers_are_troubles_not_ends(line):
    if line == "AT":
        return
    with pytest.raises(BoardTrouble):
        read_places(line)
    with pytest.raises(BoardTrouble):
        read_identity("BOARD karakuri-line 1 OUTPUTS " + "9" * 5000 + " RATE 50")


@pytest.mark.parametrize(
    "address",
    [
        "",
        "tcp:",
        "tcp:host",
        "tcp:host:x",
        "tcp:localhost:99999",
        "tcp:localhost:" + "9" * 5000,
        "tcp::0",
        "\0",
        "/dev/null\n",
        "A" * 5000,
        "/",
        "/tmp",
    ],
)
def test_odd_addresses_are_troubles(address):
    with pytest.raises(BoardTrouble):
        Link(address)


def test_a_plain_file_given_as_a_board_is_not_touched(tmp_path):
    figure = tmp_path / "figure.karakuri"
    figure.write_text("mine")
    with pytest.raises(BoardTrouble, match="not a board; it was not touched"):
        Link(str(figure))
    (tmp_path / "link").symlink_to(figure)
    with pytest.raises(BoardTrouble):
        Link(str(tmp_path / "link"))
    assert figure.read_text() == "mine"


# ---- one output by itself
@pytest.mark.parametrize("figure", [OWL, Figure()], ids=["owl", "nothing"])
def test_one_output_is_tried_slowly_and_no_other_moves(figure):
    """Random tries, stops and releases, with a figure and with a board and nothing else: no step is longer than its pace, none leaves 500 to 2500 µs, and only
    the one that is tried is told anything."""
    rng = np.random.default_rng(7)
    board, said = Bench(rng), []
    sender = board.sender = Sender(said.append, board.clock, board.link)
    sender.obey({"do": "load", "program": program_of(figure)})
    sender.obey({"do": "connect", "address": "x"})
    sender.obey({"do": "try", "output": 3, "us": 1500})
    assert sender.state == "joined" and "powered" in said[-1]["say"]
    sender.obey({"do": "power"})
    for wrong in (
        {"output": 16, "us": 1500},
        {"output": -1, "us": 1500},
        {"output": 3, "us": 2600},
        {"output": 3, "us": 100},
    ):
        sender.obey({"do": "try", **wrong})
        assert sender.state == "confirmed" and "can be tried" in said[-1]["say"]
    trying, pace, tried = 3, 100.0, set()
    for frame in range(3000):
        if frame % 40 == 0:
            what = rng.choice(["try", "try", "try", "stop", "release", "other"])
            if what in ("try", "other"):
                trying = int(rng.integers(16)) if what == "other" else trying
                pace = float(rng.choice([20.0, 100.0, 1e6]))
                sender.obey({"do": "try", "output": trying, "us": float(rng.uniform(500, 2500)), "pace": pace})
            else:
                sender.obey({"do": str(what)})
        before = len(board.frames)
        sender.tick()
        board.time += FRAME_S
        for state, moved in board.frames[before:]:
            assert state == "trying" and set(moved) == {trying}
            assert abs(moved[trying]) <= min(pace, MOST_PACE) * FRAME_S + 1.0
            assert 500 <= board.places[trying] <= 2500
            tried.add(trying)
    assert len(tried) > 5


def test_after_a_trial_the_figures_limits_are_back_and_all_are_approached_again():
    board, lines = Bench(np.random.default_rng(1)), []
    sender = board.sender = Sender(lambda report: None, board.clock, board.link)
    sender.obey({"do": "load", "program": program_of(OWL)})
    board.places = {
        n: float(p) for n, p in zip(sender.program.numbers.tolist(), sender.program.park.tolist(), strict=True)
    }
    for do in ("connect", "power", "approach"):
        sender.obey({"do": do, "address": "x"})
    for _ in range(60):
        sender.tick()
        board.time += FRAME_S
    assert sender.state == "ready"
    send, board.send = board.send, lambda line: (lines.append(line), send(line))[1]
    low, high = sorted((sender.program.low[1], sender.program.high[1]))
    sender.obey({"do": "try", "output": 1, "us": high + 120, "pace": 100})
    assert "LIMIT 1:500:2500:1500" in lines and not any(
        line.startswith("WAKE") for line in lines
    )  # it stands where it is known to stand
    for _ in range(1000):
        sender.tick()
        board.time += FRAME_S
    assert board.places[1] == pytest.approx(high + 120, abs=1)
    sender.obey({"do": "stop"})
    assert sender.state == "trying"
    sender.obey({"do": "play", "frame": 0})
    assert sender.state == "trying"  # a score does not begin from there
    lines.clear()
    sender.obey({"do": "approach"})
    assert f"LIMIT 1:{round(low)}:{round(high)}:{round(sender.program.park[1])}" in lines
    for _ in range(2000):
        sender.tick()
        board.time += FRAME_S
    assert sender.state == "ready" and board.places[1] == pytest.approx(sender.program.park[1], abs=1)


def test_a_stop_while_it_creeps_takes_its_pulses_away():
    board, lines = Bench(np.random.default_rng(1)), []
    sender = board.sender = Sender(lambda report: None, board.clock, board.link)
    sender.obey({"do": "load", "program": program_of(Figure())})
    for do in ("connect", "power"):
        sender.obey({"do": do, "address": "x"})
    send, board.send = board.send, lambda line: (lines.append(line), send(line))[1]
    sender.obey({"do": "try", "output": 5, "us": 1500})
    sender.tick()
    sender.obey({"do": "stop"})
    assert "RELEASE 5" in lines and sender.state == "confirmed"


def test_a_trial_that_was_held_up_goes_on_from_where_the_board_stands():
    """Silent for so long that the board began to park: it is not sent back at once."""
    board = Bench(np.random.default_rng(1))
    sender = board.sender = Sender(lambda report: None, board.clock, board.link)
    sender.obey({"do": "load", "program": program_of(Figure())})
    for do in ("connect", "power"):
        sender.obey({"do": do, "address": "x"})
    sender.obey({"do": "try", "output": 5, "us": 1500})
    for _ in range(120):
        sender.tick()
        board.time += FRAME_S
    sender.obey({"do": "try", "output": 5, "us": 2300, "pace": 200})
    for _ in range(200):
        sender.tick()
        board.time += FRAME_S
    assert board.places[5] == pytest.approx(2300, abs=1)
    board.time += 1.5
    before = len(board.frames)
    for _ in range(30):
        sender.tick()
        board.time += FRAME_S
    steps = [abs(moved[5]) for _, moved in board.frames[before:] if 5 in moved]
    assert steps and max(steps) <= 200 * FRAME_S + 1.0 and board.places[5] < 2250


@pytest.mark.parametrize(("line", "found"), [("IN 12 100", ("12", 100.0)), ("IN A1 0", ("A1", 0.0)), ("IN 12 101", None), ("IN 12", None), ("IN 12 -5", None), ("OK", None), ("IN " + "9" * 500 + " 1", None), ("IN ABCD1 5", None)])  # fmt: skip
def test_what_a_board_says_of_itself(line, found):
    assert read_input(line) == found


@contextlib.contextmanager
def served(serve):
    """A link to a board that does what `serve` does with its peer."""
    server = socket.create_server(("127.0.0.1", 0))

    def run():
        peer, _ = server.accept()
        serve(peer)
        peer.close()

    thread = threading.Thread(target=run, daemon=True)
    thread.start()
    link = Link(f"tcp:127.0.0.1:{server.getsockname()[1]}")
    yield link
    link.close()
    server.close()
    thread.join(2)


def test_an_event_between_a_question_and_its_answer_is_no_answer():
    """It comes with the next lines instead, in order."""

    def serve(peer):
        peer.recv(100)
        peer.sendall(b"IN 12 100\nIN A1 7\nAT 0:1500\nIN 12 0\n")
        peer.recv(100)

    with served(serve) as link:
        assert link.ask("QUERY") == "AT 0:1500"
        assert [read_input(line) for line in link.lines()] == [("12", 100.0), ("A1", 7.0), ("12", 0.0)]


def test_answers_to_lines_from_before_are_no_answer():
    """Where it stood when it was asked long ago, and the OK of a pulse whose answer nobody has read yet."""
    go = threading.Event()

    def serve(peer):
        peer.sendall(b"AT 0:1100\nOK\n")
        go.set()
        peer.recv(100)
        peer.sendall(b"OK\nNO such output\nAT 0:1500\n")
        peer.recv(100)

    with served(serve) as link:
        go.wait(5)
        time.sleep(0.05)
        assert link.ask("QUERY") == "AT 0:1500"
        assert link.lines() == ["AT 0:1100", "OK", "OK", "NO such output"]


class Slow(Link):
    """A wire on which what the board answers comes once somebody waits, or after the frame in which it was asked."""

    def __init__(self, board: Bench) -> None:
        self.board, self.address, self._rest, self._events = board, "x", b"", []
        self._wire, self._far = socket.socketpair()
        self._fd = self._wire.fileno()

    def send(self, line: str) -> None:
        self.board.send(line)

    def _read(self, wait_s: float) -> list[str]:
        if wait_s > 0:
            self._arrive()
        came = super()._read(0.0)
        self._arrive()
        return came

    def close(self) -> None:
        self._wire.close()
        self._far.close()

    def _arrive(self) -> None:
        self._far.sendall("".join(f"{line}\n" for line in self.board.lines()).encode())


@pytest.mark.parametrize("pause", [0.3, 0.45, 0.9, 1.1, 4000.0])
def test_a_machine_that_slept_has_not_lost_its_board(pause):
    """Whatever stood still and for how long, a board that answers when it is asked is there."""
    board = Bench(np.random.default_rng(2))
    link = Slow(board)
    sender = board.sender = Sender(lambda report: None, board.clock, lambda address: link)
    sender.obey({"do": "load", "program": program_of(OWL)})
    parks = zip(sender.program.numbers.tolist(), sender.program.park.tolist(), strict=True)
    board.places = {n: float(p) for n, p in parks}
    for do in ("connect", "power", "approach"):
        sender.obey({"do": do, "address": "x"})

    def ticks(*wanted):
        for _ in range(1500):
            if sender.state in wanted:
                return
            sender.tick()
            board.time += FRAME_S
        raise AssertionError(f"never {wanted}, but {sender.state}")

    ticks("ready")
    sender.obey({"do": "play", "frame": 40})
    ticks("playing")
    board.time += pause
    sender.tick()
    ticks("playing")
    at = sender.frame
    for _ in range(100):
        sender.tick()
        board.time += FRAME_S
    assert at >= 40 and sender.frame == at + 100
    board.lines = lambda: []  # and one that has nothing to say is not
    ticks("lost")
