"""How loud a sound is as time goes on: what the study and makers of moves are given of it, known by its digest."""

import numpy as np
from numpy.typing import NDArray

from karakuri.values.value import Value

RATE_HZ = 200.0


class Loudness(Value):
    """Levels at RATE_HZ, one for each two hundredth of a second from the beginning on, as little-endian 32-bit numbers: root mean square, 1 for full scale."""

    sha256: str
    levels: bytes

    @property
    def level(self) -> NDArray[np.float64]:
        """Levels (n,), 1 for full scale."""
        out = np.frombuffer(self.levels, dtype="<f4").astype(np.float64)
        out.setflags(write=False)
        return out

    @property
    def length_s(self) -> float:
        """How long the sound is, s, to a two hundredth."""
        return len(self.levels) / 4 / RATE_HZ
