"""The frames of a score all at once: for tests, whose scores are short."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from karakuri.exchange.outputs import board_stream, outputs, score_stream


@dataclass(frozen=True, eq=False)
class Frames:
    """times (n,) s, places (c, n) rad, m or share; how many of each channel were held at its limits (c,); the way home, s."""

    times: np.ndarray
    places: np.ndarray
    clamped: np.ndarray
    home_s: float


def score_frames(figure) -> Frames:
    """All frames of the figure's score."""
    stream = score_stream(figure)
    times, places, clamped = zip(*stream, strict=True)
    return Frames(np.concatenate(times), np.concatenate(places, axis=1), np.sum(clamped, axis=0), stream.home_s)


def board_values(figure):
    """Outputs, and what each is sent at every frame (o, n), µs, or per mille for a light."""
    found = outputs(figure)
    return found, np.concatenate(list(board_stream(found, score_stream(figure))), axis=1)
