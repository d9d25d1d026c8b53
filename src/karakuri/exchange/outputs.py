"""Which output of a board moves what, and how a place becomes a pulse: shared by everything that leaves for a board."""

from __future__ import annotations

import math
from collections.abc import Iterator, Mapping

import numpy as np

from karakuri.actuators.pulses import PulseMap, own_pulses, pulse_map
from karakuri.actuators.servo import capability
from karakuri.actuators.through import travelled
from karakuri.bodies.coordinates import Coupling, complete, coupling
from karakuri.bodies.inertia import Array
from karakuri.bodies.linkages import shared_of, shares
from karakuri.bodies.linkages.shared import Shared
from karakuri.catalogue.boards import board_kind
from karakuri.frozen import Frozen
from karakuri.model.board import Board, Plug
from karakuri.model.channel import MovedChannel
from karakuri.model.drive import Drive
from karakuri.model.figure import Figure
from karakuri.motion.frames import RATE_HZ, FrameStream, followed
from karakuri.motion.score_motion import Tracks
from karakuri.motion.track import Track
from karakuri.sizing.followed import as_driven
from karakuri.wiring.following import CHANNELS, follows, is_driven, told_channels


class Output(Frozen, eq=False):
    """One output of the board: a joint's servo, or a light or a motor that runs (joint None). `channel` is its place in the score or −1: it stays at park.

    limits and park in rad (a light, a motor: share); `pulses` None for a light. `fastest` is the pulse a second, µs/s, at which its servo turns
    without load. Its place is gain × that of joint `leads`, which the channel moves, + offset rad: of what follows another joint, else 1 and 0.
    Of a servo that shares joints with others, `mixed`, all is by its own angle, rad, and `channel` is −1. `plug` is how it is plugged in, None where that is not decided.
    """

    number: int
    name: str
    joint: str | None
    channel: int
    pulses: PulseMap | None
    limits: tuple[float, float]
    park: float
    fastest: float = math.inf
    leads: str | None = None
    gain: float = 1.0
    offset: float = 0.0
    mixed: Mixed | None = None
    plug: Plug | None = None

    @property
    def runs(self) -> bool:
        """Whether it is a motor that runs: where it stands is a speed."""
        return self.joint is None and self.pulses is not None

    def written(self, place: float) -> float:
        """A place of what leads it, rad or share, as its ribbon writes it: degrees or per cent."""
        return math.degrees(place) if self.joint is not None else place * 100.0

    def places(self, channels: Array) -> Array:
        """Its own places (n,), rad or share, for those of all channels (c, n), rad, m or share."""
        if self.mixed is not None:
            return self.mixed.places(channels)
        return self.led(channels[self.channel]) if self.channel >= 0 else np.full(channels.shape[1], self.park)

    def at(self, pose: Mapping[str, float]) -> float:
        """Its own place, rad or share, in a pose of joints by id, rad or m."""
        if self.mixed is not None:
            return self.mixed.at(pose)
        led = pose.get(self.leads or "")
        return self.park if led is None else float(self.led(np.array([led]))[0])

    def led(self, place: Array) -> Array:
        """Its own places (n,), rad or share, for those of what leads it."""
        return self.gain * place + self.offset

    @property
    def led_pulses(self) -> PulseMap | None:
        """Its pulses by the place of what leads it; None for a light."""
        return self.pulses.seen_from(self.gain, self.offset) if self.pulses is not None else None

    @property
    def led_limits(self) -> tuple[float, float]:
        """Its limits by the place of what leads it."""
        low, high = sorted((end - self.offset) / self.gain for end in self.limits)
        return low, high

    @property
    def most_us(self) -> float:
        """The furthest it may go in one frame, µs, in whole tenths as players count them."""
        return self.fastest if math.isinf(self.fastest) else max(1, math.floor(self.fastest / RATE_HZ * 10)) / 10

    def value(self, place: Array) -> Array:
        """Pulses (n,) µs, or per mille of light, for places (n,) rad or share."""
        if self.pulses is None:
            return np.clip(place, 0.0, 1.0) * 1000.0
        return self.pulses.pulse(np.clip(place, *self.limits))


class Mixed(Frozen, eq=False):
    """A servo whose place depends on several joints: its linkage, the joints by id, how they are tied, the channel of each or −1, and where those without
    one stand, (m,) rad or m."""

    drive: Shared
    ids: tuple[str, ...]
    tied: Coupling
    channels: tuple[int, ...]
    rest: Array

    def places(self, channels: Array) -> Array:
        """Where the servo stands, (n,) rad, for places of channels (c, n) rad or m."""
        q = np.repeat(self.rest[:, None], channels.shape[1], axis=1)
        for k, c in enumerate(self.channels):
            if c >= 0:
                q[k] = channels[c]
        return self.drive.row(complete(self.tied, q)).drive

    def at(self, pose: Mapping[str, float]) -> float:
        """Where it stands, rad, in a pose of joints by id, rad or m."""
        q = np.array([pose.get(ident, rest) for ident, rest in zip(self.ids, self.rest.tolist(), strict=True)])
        return float(self.drive.row(complete(self.tied, q[:, None])).drive[0])


def _mixed(figure: Figure, drive: Drive, tied: Coupling) -> Mixed | None:
    """What is said of a servo that shares joints with others; None of one that does not."""
    ids = tuple(joint.id for joint in figure.joints)
    if shares(figure, drive) == (drive.joint,):
        return None
    place = {joint: c for c, channel in enumerate(figure.score.moved) for joint in channel.joints}
    channels, rest = [], []
    for k, joint in enumerate(figure.joints):
        c = place.get(joint.id, -1) if tied.leader[k] == k else -1
        low, high = (end * joint.measure.si for end in joint.range)
        channels.append(c)
        rest.append(figure.score.moved[c].park * joint.measure.si if c >= 0 else min(max(0.0, low), high))
    shared = shared_of(figure, drive, {ident: k for k, ident in enumerate(ids)})
    return Mixed(shared, ids, tied, tuple(channels), np.array(rest))


def outputs(figure: Figure) -> tuple[Output, ...]:
    """Every turning joint with a servo, also where it follows another, then every light and every motor that runs, by number: that of the pin it is plugged into. What is plugged
    into none, or where another already is, has the next free one."""
    numbered, chosen = _numbers(figure)
    free = iter(n for n in range(1024) if n not in chosen)

    def number(ident: str) -> int:
        return numbered[ident][0] if ident in numbered else next(free)

    def plug(ident: str) -> Plug | None:
        return numbered[ident][1] if ident in numbered else None

    place = {joint: c for c, channel in enumerate(figure.score.moved) for joint in channel.joints}
    ids = tuple(joint.id for joint in figure.joints)
    tied, found = coupling(figure, ids), []
    for k, joint in enumerate(figure.joints):
        drive = figure.drive_of(joint.id)
        if drive is None or joint.kind != "turn" or joint.role == "free" or drive.actuator.stepper is not None:
            continue  # a stepper is told steps, not pulses
        leader, gain, offset = figure.joints[tied.leader[k]], float(tied.gain[k]), float(tied.offset[k])
        c = place.get(leader.id, -1)
        low, high = (end * leader.measure.si for end in leader.range)
        park = figure.score.moved[c].park * leader.measure.si if c >= 0 else min(max(0.0, low), high)
        if gain == 0.0:  # it follows without moving
            c, gain, offset, low, high, park = -1, 1.0, 0.0, offset, offset, offset
        can = capability(drive.acting(figure.assumptions.together_share), figure.supply.voltage_V, figure.assumptions)
        if (mixed := _mixed(figure, drive, tied)) is not None:
            mapped = own_pulses(figure, drive)
            parked = mixed.at({})
            low, high = travelled(figure, drive)
            fastest = can.free_speed * mapped.least_us_per_rad
            found.append(Output(number(drive.id), joint.name, joint.id, -1, mapped, (min(low, parked), max(high, parked)), parked, fastest, joint.id, mixed=mixed, plug=plug(drive.id)))  # fmt: skip
            continue
        limits = sorted((gain * low + offset, gain * high + offset))
        mapped = pulse_map(figure, as_driven(figure, joint), drive)
        fastest = can.free_speed * mapped.least_us_per_rad
        found.append(
            Output(number(drive.id), joint.name, joint.id, c, mapped, (limits[0], limits[1]), gain * park + offset, fastest, leader.id, gain, offset, plug=plug(drive.id))
        )  # fmt: skip
    for c, channel in enumerate(figure.score.moved):
        if channel.kind == "light":
            found.append(Output(number(channel.id), channel.name, None, c, None, (0.0, 1.0), channel.park / 100, plug=plug(channel.id)))  # fmt: skip
        elif channel.kind == "run":
            pulses = PulseMap((-1.0, 0.0, 1.0), (channel.back_us, channel.still_us, channel.ahead_us), True)
            found.append(Output(number(channel.id), channel.name, None, c, pulses, (-1.0, 1.0), 0.0, plug=plug(channel.id)))  # fmt: skip
    return tuple(sorted(found, key=lambda output: output.number))


def first_outputs(figure: Figure) -> dict[str, int]:
    """The number of each board's first output, by its id. Outputs of a second board come after those of the first, and so on, those of the controller that leads after those
    of generators and controllers that follow it."""
    begins, at = dict[str, int](), 0

    def last(board: Board) -> bool:
        return board_kind(board.kind).what == "controller" and not follows(figure, board)

    for board in sorted(figure.boards, key=last):
        begins[board.id] = at
        most = CHANNELS - 1 if follows(figure, board) else max((pin.output for pin in board_kind(board.kind).pins), default=-1)  # fmt: skip
        at += 1 + most
    return begins


def _numbers(figure: Figure) -> tuple[dict[str, tuple[int, Plug]], set[int]]:
    """The numbers of what is plugged in, by its id, and all of them; the first that is plugged into a pin has it."""
    begins = first_outputs(figure)
    told = told_channels(figure)
    boards, out, chosen = (
        {board.id: board_kind(board.kind) for board in figure.boards},
        dict[str, tuple[int, Plug]](),
        set[int](),
    )
    for plug in figure.plugs:
        pin = boards[plug.board].by_id.get(plug.pin("signal") or "")
        channel = told.get(plug.id, pin.output) if pin is not None and is_driven(plug) else -1
        if channel < 0:
            continue
        number = begins[plug.board] + channel
        if number not in chosen:
            out[plug.item] = (number, plug)
            chosen.add(number)
    return out, chosen


def soft_limits(figure: Figure, channel: MovedChannel) -> tuple[float, float]:
    """The soft limits of a channel, rad, m or share; of tied joints the narrower."""
    (low, high), unit = channel.band(figure), channel.measure(figure).si
    return low * unit, high * unit


def score_tracks(figure: Figure, kept: Tracks | None = None) -> tuple[Track, ...]:
    """The track of every channel, SI."""
    kept = kept or Tracks()
    return tuple(kept.of(channel, figure.measure(channel).si) for channel in figure.score.moved)


def score_stream(figure: Figure, rate_hz: float = RATE_HZ) -> FrameStream:
    """The frames of the figure's score at a rate in Hz, as they are wanted."""
    limits = tuple(soft_limits(figure, channel) for channel in figure.score.moved)
    moved = figure.score.moved
    return FrameStream(score_tracks(figure), limits, figure.score.length_s, tuple(c.leads is None for c in moved), rate_hz, tuple(c.runs for c in moved))  # fmt: skip


def board_stream(found: tuple[Output, ...], stream: FrameStream) -> Iterator[Array]:
    """What each output is sent, (o, n) at a time: µs, or per mille for a light. A sudden move is sent as fast as its servo turns, which is
    all it can do: no frame asks for more."""
    last: list[float | None] = [None] * len(found)
    for times, places, _ in stream:
        values = np.empty((len(found), len(times)))
        for i, output in enumerate(found):
            values[i] = followed(output.value(output.places(places)), output.most_us, last[i])
            last[i] = float(values[i, -1])
        yield values
