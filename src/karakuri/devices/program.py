"""What the sender is given: outputs with their limits, and what each is sent at every frame. Two files, so that it can be
handed over while frames go out, and hours of frames are read from the disk as they are sent."""

from __future__ import annotations

from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from karakuri.frozen import Frozen

IN_MEMORY = 16 * 2**20
"""Bytes of values up to which they are held in memory."""


class Program(Frozen, eq=False):
    """Outputs (o,): number, low, high, park in µs (a light: per mille), µs for each degree, the fastest its servo turns in µs/s,
    light or not, whether what it is sent is a speed, in order of approach.

    values (n, o): what is sent at frame n, µs or per mille.
    """

    numbers: NDArray[np.int64]
    low: NDArray[np.float64]
    high: NDArray[np.float64]
    park: NDArray[np.float64]
    us_per_deg: NDArray[np.float64]
    fastest: NDArray[np.float64]
    lights: NDArray[np.bool_]
    runs: NDArray[np.bool_]
    values: NDArray[np.float32]
    loops: bool

    def save(self, path: Path) -> None:
        """Write it as .npz, the values beside it as .npy."""
        np.save(path.with_suffix(".npy"), self.values)
        with path.open("wb") as file:
            np.savez(file, numbers=self.numbers, low=self.low, high=self.high, park=self.park, us_per_deg=self.us_per_deg, fastest=self.fastest,
                     lights=self.lights, runs=self.runs, loops=np.array(self.loops))  # fmt: skip

    @classmethod
    def load(cls, path: Path) -> Program:
        """Read it back; the values stay on the disk, and may be unlinked."""
        large = path.with_suffix(".npy").stat().st_size > IN_MEMORY
        values = np.load(path.with_suffix(".npy"), mmap_mode="r" if large else None, allow_pickle=False)
        with np.load(path, allow_pickle=False) as data:
            return cls(
                numbers=data["numbers"], low=data["low"], high=data["high"], park=data["park"], us_per_deg=data["us_per_deg"], fastest=data["fastest"], lights=data["lights"], runs=data["runs"], values=values,
                loops=bool(data["loops"]),
            )  # fmt: skip

    @staticmethod
    def discard(path: Path) -> None:
        """Take both files away; what was read from them can still be used."""
        for each in (path, path.with_suffix(".npy")):
            each.unlink(missing_ok=True)

    def whole(self, o: int) -> float:
        """The whole range of an output in degrees."""
        return float(abs(self.high[o] - self.low[o]) / max(self.us_per_deg[o], 1e-9))
