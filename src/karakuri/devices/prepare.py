"""From a figure to the program of the sender."""

from __future__ import annotations

import math
import tempfile

import numpy as np
from numpy.typing import NDArray

from karakuri.course import ALONE, Course
from karakuri.devices.program import IN_MEMORY, Program
from karakuri.exchange.outputs import board_stream, outputs, score_stream
from karakuri.model.figure import Figure
from karakuri.motion.frames import RATE_HZ


def _room(frames: int, outputs: int) -> NDArray[np.float32]:
    """Room for the values (n, o): in memory, or, for hours of them, in a file that goes with them."""
    if frames * outputs * 4 <= IN_MEMORY or not outputs:
        return np.empty((frames, outputs), dtype=np.float32)
    with tempfile.TemporaryFile() as file:
        return np.memmap(file, dtype=np.float32, mode="w+", shape=(frames, outputs))


def program_of(figure: Figure, course: Course = ALONE) -> Program:
    """Outputs, limits and all frames of a figure's score at 50 Hz; values (n, o) in µs, a light in per mille. Raises GivenUp where
    `course` says stop."""
    found, stream = outputs(figure), score_stream(figure)
    values, at = _room(stream.count, len(found)), 0
    for some in board_stream(found, stream):
        course.at("frames", at / stream.count)
        values[at : at + some.shape[1]] = some.T
        at += some.shape[1]
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
        runs=np.array([o.runs for o in found], dtype=bool),
        values=values,
        loops=figure.score.loops,
    )
