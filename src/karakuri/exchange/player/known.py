"""What is known beside a figure, for a player that lives by itself."""

from __future__ import annotations

from collections.abc import Mapping

from msgspec import field

from karakuri.frozen import Frozen
from karakuri.model.loudness import Loudness
from karakuri.motion.voice.following import KeepsUp


class Known(Frozen):
    """What ribbons keep up with, by id, s and rad or m, and how loud sounds are, by digest."""

    can: Mapping[str, KeepsUp] = field(default_factory=dict)
    heard: Mapping[str, Loudness] = field(default_factory=dict)
