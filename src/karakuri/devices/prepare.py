"""From a figure to the program of the sender."""

from __future__ import annotations

import math

import numpy as np

from karakuri.devices.program import Program
from karakuri.exchange.outputs import board_values, score_frames
from karakuri.model.figure import Figure
from karakuri.motion.frames import RATE_HZ


def program_of(figure: Figure) -> Program:
    """Outputs, limits and all frames of a figure's score at 50 Hz; values (n, o) in µs, a light in per mille."""
    found, values = board_values(figure, score_frames(figure, RATE_HZ))
    ends = [(0.0, 1000.0) if o.pulses is None else tuple(o.value(np.array(o.limits)).tolist()) for o in found]
    return Program(
        numbers=np.array([o.number for o in found], dtype=np.int64),
        low=np.array([e[0] for e in ends], dtype=float),
        high=np.array([e[1] for e in ends], dtype=float),
        park=np.array([float(o.value(np.array([o.park]))[0]) for o in found], dtype=float),
        us_per_deg=np.array(
            [o.pulses.least_us_per_rad * math.pi / 180 if o.pulses else 10.0 for o in found], dtype=float
        ),
        fastest=np.array([o.most_us * RATE_HZ for o in found], dtype=float),
        lights=np.array([o.pulses is None for o in found], dtype=bool),
        values=values.T.astype(np.float32),
        loops=figure.score.loops,
    )
