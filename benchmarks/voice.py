"""Three minutes of voice from its file to the moves of a jaw, of each format: listened to, turned into moves that its servo keeps up with, written into the score."""

from __future__ import annotations

import io
import statistics
from collections.abc import Iterator

import numpy as np

from benchmarks.timing import timed

PROMISE = "3 minutes of voice to jaw within 0.5 s"


def measure(smoke: bool) -> Iterator[str]:
    import soundfile

    from karakuri.demo import owl_path
    from karakuri.exchange.sounds import heard
    from karakuri.files.disk import load
    from karakuri.model.edit import apply
    from karakuri.model.moves import Moves
    from karakuri.model.score_edits import remove_channel, set_moves
    from karakuri.model.sound_edits import put_sound
    from karakuri.motion.makers.voice import with_jaws
    from karakuri.motion.voice.opening import turns_of
    from karakuri.study.goes_along import goes_along

    rate, seconds = 44100, 5 if smoke else 180
    t = np.arange(rate * seconds) / rate
    talk = np.clip(np.sin(2 * np.pi * 4.3 * t) + 0.4 * np.sin(2 * np.pi * 1.1 * t), 0, None) * (
        np.sin(2 * np.pi * 0.13 * t) > -0.5
    )
    sound = 0.3 * talk * np.random.default_rng(1).normal(0, 1, len(t))
    owl = load(owl_path())
    owl = apply(owl, remove_channel(owl, owl.score.voices[0]))
    owl = apply(owl, set_moves(owl.score.moving("beak_channel"), Moves(), "bare"))
    for form in ("WAV", "FLAC", "OGG", "MP3"):
        out = io.BytesIO()
        with soundfile.SoundFile(out, "w", rate, 1, format=form) as file:
            for first in range(0, len(sound), rate):
                file.write(sound[first : first + rate])
        data, made = out.getvalue(), []

        def all_of_it(data: bytes = data, made: list = made) -> None:
            turns_of.cache_clear()
            found = heard(data, "talk")
            fields = {"name": "talk", "file": "talk.wav", "sha256": found.loudness.sha256, "length_s": found.length_s}
            loud = {found.loudness.sha256: found.loudness}
            edit = with_jaws(
                owl,
                put_sound(owl, fields, 1.0),
                loud,
                lambda figure, ident: goes_along(figure, figure.score.moving(ident)),
            )
            made.append(len(apply(owl, edit).score.moving("beak_channel").moves))

        all_of_it()
        times = [timed(all_of_it) for _ in range(1 if smoke else 5)]
        yield f"{seconds} s of {form}, {len(data) / 1e6:.1f} MB: {statistics.median(times):.2f} s at the median, {max(times):.2f} at most, {made[-1]} moves"
