"""Speaks the lines of the demo figures into sound files beside them, by espeak-ng: `python -m karakuri.demo.voices`. What it makes is shipped."""

from __future__ import annotations

import io
import subprocess
import sys
from pathlib import Path

FOLDER = Path(__file__).parent / "voice"
OWL = ("en-gb", "38", "125")
LAMPLIGHTER = ("en-gb", "22", "140")
LINES: dict[str, tuple[tuple[str, str, str], str]] = {
    "owl-oh": (OWL, "Oh!"),
    "owl-softly": (OWL, "Please, read softly."),
    "owl-hoo": (OWL, "Hoo, hoo."),
    "lamplighter-evening": (LAMPLIGHTER, "Good evening to you."),
    "lamplighter-dark": (LAMPLIGHTER, "It gets dark early now."),
    "lamplighter-mind": (LAMPLIGHTER, "Mind the step."),
    "lamplighter-wind": (LAMPLIGHTER, "The wind is up tonight."),
    "lamplighter-home": (LAMPLIGHTER, "Home safe, friend."),
    "lamplighter-night": (LAMPLIGHTER, "Good night. The lamps are yours."),
}
"""File → accent, pitch (0 to 99) and words a minute, and what is said."""


def speak(manner: tuple[str, str, str], text: str) -> bytes:
    """A line as Ogg Vorbis, silence at both ends taken off. Raises OSError where espeak-ng is not installed."""
    import numpy as np
    import soundfile

    accent, pitch, pace = manner
    command = ["espeak-ng", "-v", accent, "-p", pitch, "-s", pace, "--stdout", text]
    samples, rate = soundfile.read(io.BytesIO(subprocess.run(command, capture_output=True, check=True).stdout))
    loud = np.flatnonzero(np.abs(samples) > 0.01)
    samples = samples[max(0, loud[0] - rate // 50) : loud[-1] + rate // 10] * (0.9 / np.abs(samples).max())
    out = io.BytesIO()
    with soundfile.SoundFile(out, "w", rate, 1, format="OGG", subtype="VORBIS") as file:
        for first in range(0, len(samples), rate):  # its encoder wants small pieces
            file.write(samples[first : first + rate])
    return out.getvalue()


def main() -> int:
    """Write them all."""
    FOLDER.mkdir(exist_ok=True)
    for name, (manner, text) in LINES.items():
        (FOLDER / f"{name}.ogg").write_bytes(speak(manner, text))
    return 0


if __name__ == "__main__":
    sys.exit(main())
