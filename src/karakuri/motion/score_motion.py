"""The whole figure as the score asks it: a track for every channel, and where each joint of the tree gets its motion from."""

from __future__ import annotations

from collections import OrderedDict
from functools import cached_property

import numpy as np
from msgspec.structs import replace

from karakuri.bodies.inertia import Array
from karakuri.bodies.tree import Tree
from karakuri.frozen import Frozen
from karakuri.model.channel import MovedChannel
from karakuri.model.figure import Figure
from karakuri.model.moves import Moves
from karakuri.motion.running import Running, running
from karakuri.motion.track import NOTHING, Track, build_track


class Tracks:
    """Tracks of channels whose moves did not change are built once; compared by identity, bounded."""

    def __init__(self, most: int = 512) -> None:
        self._kept: OrderedDict[tuple[int, float, float], tuple[Moves, Track]] = OrderedDict()
        self._most = most

    def of(self, channel: MovedChannel, unit: float) -> Track:
        """The track of a channel; unit turns its targets into SI."""
        key = (id(channel.moves), channel.park, unit)
        if key not in self._kept:
            self._kept[key] = (channel.moves, build_track(channel, unit))
            if len(self._kept) > self._most:
                self._kept.popitem(last=False)
        self._kept.move_to_end(key)
        return self._kept[key][1]


class ScoreMotion(Frozen, eq=False):
    """Channels in the score's order. `source` (m,): the channel of each joint of the tree, −1 none; `gain`, `offset` for followers.

    `rest` (m,) rad or m is where joints without a channel stand; length in s. `running`: what turns on by itself, and `leads` (m,) the row of what each joint
    goes with.
    """

    channels: tuple[MovedChannel, ...]
    tracks: tuple[Track, ...]
    source: tuple[int, ...]
    gain: Array
    offset: Array
    rest: Array
    length: float
    running: tuple[Running, ...] = ()
    leads: tuple[int, ...] = ()

    def state(self, times: Array) -> tuple[Array, Array, Array]:
        """q, qd, qdd (m, k) in rad (m) and s at times (k,) s."""
        m, k = len(self.source), len(times)
        q = np.repeat(self.rest[:, None], k, axis=1)
        qd, qdd = np.zeros((m, k)), np.zeros((m, k))
        at = {c: self.tracks[c].at(times) for c in set(self.source) - {-1}}
        for j, c in enumerate(self.source):
            if c >= 0:
                x, v, a = at[c]
                q[j], qd[j], qdd[j] = self.gain[j] * x + self.offset[j], self.gain[j] * v, self.gain[j] * a
        for each in self.running:
            x, v, a = each.at(times)
            for j, leader in enumerate(self.leads):
                if leader == each.row:
                    q[j], qd[j], qdd[j] = self.gain[j] * x + self.offset[j], self.gain[j] * v, self.gain[j] * a
        return q, qd, qdd

    def excerpt(self, begin: float, end: float) -> ScoreMotion:
        """As much of it as decides what happens from begin to end, s: what moves no joint is left out, and so is what a channel is called."""
        moving = set(self.source)
        tracks = tuple(t.excerpt(begin, end) if c in moving else NOTHING for c, t in enumerate(self.tracks))
        return replace(self, channels=(), tracks=tracks)

    @cached_property
    def trackless(self) -> ScoreMotion:
        """All of it but what the channels do: for keys, beside the digests of their excerpts."""
        return replace(self, channels=(), tracks=())

    def excerpt_key(self, begin: float, end: float) -> bytes:
        """The digest of that excerpt's tracks, worked out once for each track and time."""
        return b"".join(self.tracks[c].excerpt_key(begin, end) for c in sorted(set(self.source) - {-1}))


def score_motion(figure: Figure, tree: Tree, rest: Array, tracks: Tracks) -> ScoreMotion:
    """The score over the figure's tree; rest (m,) rad or m is where joints without a channel stand. Followers go with their leader."""
    channels = figure.score.moved
    place = {joint: c for c, channel in enumerate(channels) for joint in channel.joints}
    tied = tree.coupling
    source = [place.get(ident, -1) for ident in tree.ids]
    own = [c >= 0 and tied.leader[j] == j for j, c in enumerate(source)]
    for j, leader in enumerate(tied.leader):
        if leader != j:
            source[j] = source[leader]
    gain = np.where(own, 1.0, tied.gain)
    offset = np.where(own, 0.0, tied.offset)
    each = tuple(tracks.of(channel, figure.measure(channel).si) for channel in channels)
    turns = tuple(one for one in running(figure, tree.ids) if source[one.row] < 0)
    return ScoreMotion(channels, each, tuple(source), gain, offset, rest, figure.score.length_s, turns, tied.leader)
