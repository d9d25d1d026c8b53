"""Sound files: WAV, FLAC, OGG and MP3 as samples, and how loud they are as time goes on. Decoding is libsndfile's."""

from __future__ import annotations

import hashlib
import io

import numpy as np
from numpy.typing import NDArray

from karakuri.course import ALONE, Course
from karakuri.errors import Fault, FileTrouble
from karakuri.frozen import Frozen
from karakuri.model.loudness import RATE_HZ, Loudness

MOST_BYTES, LONGEST_S, AT_ONCE_S = 500 * 2**20, 3600.0, 20.0
_AGAIN = "Nothing was changed. Save it anew as WAV, FLAC, OGG or MP3 and take it again."


class Heard(Frozen, eq=False):
    """A sound that was listened to: one channel's samples (n,) from −1 to 1 at `rate` Hz, and its loudness."""

    samples: NDArray[np.float32]
    rate: int
    loudness: Loudness

    @property
    def length_s(self) -> float:
        """How long it is, s."""
        return len(self.samples) / self.rate


def digest_of(data: bytes) -> str:
    """By which a sound is known, whatever it is called: SHA-256 (FIPS 180-4), 64 hexadecimal digits."""
    return hashlib.sha256(data).hexdigest()


def heard(data: bytes, where: str, course: Course = ALONE) -> Heard:
    """A sound file's bytes, listened to. Raises FileTrouble where they are no sound, are silent or too long, GivenUp where `course` says
    stop. Several channels become one, their mean."""
    import soundfile  # 0.1 s: only where there is a sound

    if len(data) > MOST_BYTES:
        raise _trouble(where, f"at most {MOST_BYTES // 2**20} MB", f"{len(data) / 2**20:.0f} MB")
    try:
        with soundfile.SoundFile(io.BytesIO(data)) as file:
            rate, frames = int(file.samplerate), int(file.frames)
            if frames > LONGEST_S * rate:
                raise _trouble(where, f"at most {LONGEST_S / 60:.0f} minutes", f"{frames / rate / 60:.0f} minutes")
            pieces: list[NDArray[np.float32]] = []
            for block in file.blocks(blocksize=max(1, round(AT_ONCE_S * rate)), dtype="float32", always_2d=True):
                course.at(f"listening to {where}", min(1.0, len(pieces) * AT_ONCE_S * rate / max(frames, 1)))
                pieces.append(block[:, 0] if block.shape[1] == 1 else block.mean(axis=1))
    except (soundfile.LibsndfileError, RuntimeError, ValueError, TypeError) as trouble:
        said = getattr(trouble, "error_string", None) or str(trouble)
        raise _trouble(where, "a sound: WAV, FLAC, OGG or MP3", str(said).rstrip(".").lower()) from trouble
    samples: NDArray[np.float32] = np.concatenate([*pieces, np.zeros(0, dtype=np.float32)])
    if len(samples) < rate / 100:
        raise _trouble(where, "a sound of at least a hundredth of a second", f"{len(samples)} samples")
    if not np.isfinite(samples).all():
        raise _trouble(where, "samples that are numbers", "some that are not")
    np.clip(samples, -1.0, 1.0, out=samples)
    return Heard(samples, rate, loudness_of(samples, rate, digest_of(data)))


def loudness_of(samples: NDArray[np.float32], rate: int, sha256: str = "0" * 64) -> Loudness:
    """How loud samples (n,) from −1 to 1 at a rate in Hz are: their root mean square in each two hundredth of a second."""
    edges = np.floor(np.arange(0, np.ceil(len(samples) * RATE_HZ / rate)) * rate / RATE_HZ).astype(np.int64)
    ends = np.append(edges[1:], len(samples))
    power = np.add.reduceat(np.square(samples), edges).astype(np.float64) / np.maximum(ends - edges, 1)
    return Loudness(sha256=sha256, levels=np.sqrt(power).astype("<f4").tobytes())


def _trouble(where: str, expected: str, found: str) -> FileTrouble:
    return FileTrouble(f"{where} cannot be listened to.", (Fault("the sound", expected, found),), _AGAIN)
