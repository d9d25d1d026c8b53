"""Which output of a board moves what, and how a place becomes a pulse: shared by everything that leaves for a board."""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np

from karakuri.actuators.pulses import PulseMap, pulse_map
from karakuri.actuators.servo import capability
from karakuri.bodies.coordinates import coupling
from karakuri.bodies.inertia import Array
from karakuri.model.figure import Figure
from karakuri.model.score import Channel
from karakuri.motion.frames import RATE_HZ, FrameStream, followed
from karakuri.motion.score_motion import Tracks
from karakuri.motion.track import Track
from karakuri.sizing.followed import as_driven


@dataclass(frozen=True, eq=False)
class Output:
    """One output of the board: a joint's servo, or a light (joint None). `channel` is its place in the score or −1: it stays at park.

    limits and park in rad (a light: share); `pulses` None for a light. `fastest` is the pulse a second, µs/s, at which its servo turns
    without load. Its place is gain × that of joint `leads`, which the channel moves, + offset rad: of what follows another joint, else 1 and 0.
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


def outputs(figure: Figure) -> tuple[Output, ...]:
    """Every turning joint with a servo, also where it follows another, then every light, by number. Numbers that nobody chose are the next free ones."""
    taken = {drive.output for drive in figure.drives if drive.output is not None}
    free = iter(n for n in range(256) if n not in taken)
    place = {joint: c for c, channel in enumerate(figure.score.channels) for joint in channel.joints}
    ids = tuple(joint.id for joint in figure.joints)
    tied, found = coupling(figure, ids), []
    for k, joint in enumerate(figure.joints):
        drive = figure.drive_of(joint.id)
        if drive is None or joint.kind != "turn" or joint.role == "free":
            continue
        leader, gain, offset = figure.joints[tied.leader[k]], float(tied.gain[k]), float(tied.offset[k])
        c = place.get(leader.id, -1)
        number = drive.output if drive.output is not None else next(free)
        low, high = (end * leader.measure.si for end in leader.range)
        park = figure.score.channels[c].park * leader.measure.si if c >= 0 else min(max(0.0, low), high)
        if gain == 0.0:  # it follows without moving
            c, gain, offset, low, high, park = -1, 1.0, 0.0, offset, offset, offset
        limits = sorted((gain * low + offset, gain * high + offset))
        mapped = pulse_map(as_driven(figure, joint), drive, figure.calibration_of(drive.id))
        can = capability(drive.actuator, figure.supply.voltage_V, figure.assumptions)
        fastest = can.free_speed * mapped.least_us_per_rad
        found.append(
            Output(number, joint.name, joint.id, c, mapped, (limits[0], limits[1]), gain * park + offset, fastest, leader.id, gain, offset)
        )  # fmt: skip
    for c, channel in enumerate(figure.score.channels):
        if channel.kind == "light":
            found.append(Output(next(free), channel.name, None, c, None, (0.0, 1.0), channel.park / 100))
    return tuple(sorted(found, key=lambda output: output.number))


def soft_limits(figure: Figure, channel: Channel) -> tuple[float, float]:
    """The soft limits of a channel, rad, m or share; of tied joints the narrower."""
    if channel.kind == "light":
        return 0.0, 1.0
    ranges, unit = [figure.joint(ident).range for ident in channel.joints], figure.measure(channel).si
    return max(r[0] for r in ranges) * unit, min(r[1] for r in ranges) * unit


def score_tracks(figure: Figure, kept: Tracks | None = None) -> tuple[Track, ...]:
    """The track of every channel, SI."""
    kept = kept or Tracks()
    return tuple(kept.of(channel, figure.measure(channel).si) for channel in figure.score.channels)


def score_stream(figure: Figure, rate_hz: float = RATE_HZ) -> FrameStream:
    """The frames of the figure's score at a rate in Hz, as they are wanted."""
    limits = tuple(soft_limits(figure, channel) for channel in figure.score.channels)
    lights = tuple(channel.kind == "light" for channel in figure.score.channels)
    return FrameStream(score_tracks(figure), limits, figure.score.length_s, lights, rate_hz)


def board_stream(found: tuple[Output, ...], stream: FrameStream) -> Iterator[Array]:
    """What each output is sent, (o, n) at a time: µs, or per mille for a light. A sudden move is sent as fast as its servo turns, which is
    all it can do: no frame asks for more."""
    last: list[float | None] = [None] * len(found)
    for times, places, _ in stream:
        values = np.empty((len(found), len(times)))
        for i, output in enumerate(found):
            place = output.led(places[output.channel]) if output.channel >= 0 else np.full(len(times), output.park)
            values[i] = followed(output.value(place), output.most_us, last[i])
            last[i] = float(values[i, -1])
        yield values
