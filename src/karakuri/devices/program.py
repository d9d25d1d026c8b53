"""What the sender is given: outputs with their limits, and what each is sent at every frame. One .npz file, so that it can be
handed over while frames go out."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

import numpy as np
from numpy.typing import NDArray


@dataclass(frozen=True, eq=False)
class Program:
    """Outputs (o,): number, low, high, park in µs (a light: per mille), µs for each degree, the fastest its servo turns in µs/s,
    light or not, in order of approach.

    values (n, o): what is sent at frame n, µs or per mille.
    """

    numbers: NDArray[np.int64]
    low: NDArray[np.float64]
    high: NDArray[np.float64]
    park: NDArray[np.float64]
    us_per_deg: NDArray[np.float64]
    fastest: NDArray[np.float64]
    lights: NDArray[np.bool_]
    values: NDArray[np.float32]
    loops: bool

    def save(self, path: Path) -> None:
        """Write it as .npz."""
        with path.open("wb") as file:
            np.savez(file, numbers=self.numbers, low=self.low, high=self.high, park=self.park, us_per_deg=self.us_per_deg, fastest=self.fastest,
                     lights=self.lights, values=self.values, loops=np.array(self.loops))  # fmt: skip

    @classmethod
    def load(cls, path: Path) -> Program:
        """Read it back."""
        with np.load(path, allow_pickle=False) as data:
            return cls(
                numbers=data["numbers"], low=data["low"], high=data["high"], park=data["park"], us_per_deg=data["us_per_deg"], fastest=data["fastest"], lights=data["lights"], values=data["values"],
                loops=bool(data["loops"]),
            )  # fmt: skip

    def whole(self, o: int) -> float:
        """The whole range of an output in degrees."""
        return float(abs(self.high[o] - self.low[o]) / max(self.us_per_deg[o], 1e-9))
