"""From a voice to a jaw, held against what is published: how an envelope rises and falls, how a move's time grows with its size, and the
digest by which a sound is known.

Envelope: one-pole follower, c = e^(−1 ÷ (f τ)); the response of a first-order system, any control text (Ogata, Modern Control Engineering, from memory):
to 90 % in τ ln 10. Minimum jerk: T = max(1.875 D ÷ v, √(5.7735 D ÷ a)), Flash & Hogan, J. Neurosci. 5, 1985. SHA-256: FIPS 180-4, example 'abc'.
"""

import io
import math

import numpy as np
import pytest

from karakuri.exchange.sounds import digest_of, heard, loudness_of
from karakuri.model.edit import Edit, Set, apply
from karakuri.model.moves import Row, moves_of
from karakuri.motion.voice.opening import Manner, envelope, opening
from karakuri.study.goes_along import goes_along
from karakuri.study.study import study
from tests.figures import scored

RATE = 200.0


def test_an_envelope_rises_to_nine_tenths_and_falls_to_one_tenth_in_ln_10_time_constants():
    fine = 10_000.0
    up = envelope(np.ones(3000), 0.010, 0.120, fine)
    assert np.argmax(up >= 0.9) / fine == pytest.approx(0.010 * math.log(10.0), abs=2 / fine)  # 23 ms
    down = envelope(np.concatenate([np.ones(3000), np.zeros(6000)]), 0.010, 0.120, fine)[3000:]
    assert np.argmax(down <= 0.1 * up[-1]) / fine == pytest.approx(0.120 * math.log(10.0), abs=2 / fine)  # 276 ms


def test_an_envelope_agrees_with_a_filter_of_the_library():
    from scipy.signal import lfilter

    level = np.abs(np.random.default_rng(3).normal(size=800))
    c = math.exp(-1.0 / (RATE * 0.05))
    assert np.allclose(envelope(level, 0.05, 0.05), lfilter([1 - c], [1, -c], level), atol=1e-12)


def test_the_digest_is_that_of_the_standard():
    assert digest_of(b"abc") == "ba7816bf8f01cfea414140de5dae2223b00361a396177a9cb410ff61f20015ad"


@pytest.mark.parametrize("rate", [8000, 11025, 44100, 48000, 96000])
def test_the_loudness_of_a_steady_tone_is_its_peak_over_root_two_at_any_rate(rate):
    tone = 0.5 * np.sin(2 * np.pi * 1000.0 * np.arange(2 * rate) / rate)
    level = loudness_of(tone.astype(np.float32), rate).level
    assert len(level) == 400 and np.allclose(level, 0.5 / math.sqrt(2.0), rtol=0.02)


def test_opening_is_linear_in_decibels_between_threshold_and_wide():
    rate, levels = 8000, np.array([0.0, -3.0, -9.0, -13.5, -24.0, -30.0])
    tone = np.sin(2 * np.pi * 500.0 * np.arange(rate) / rate)
    samples = np.concatenate([tone * 10 ** (dB / 20) for dB in levels]).astype(np.float32)
    share = opening(loudness_of(samples, rate), Manner(release_s=0.02))
    ends = share[199::200]
    assert np.allclose(ends, np.clip((24.0 + levels) / 21.0, 0, 1), atol=0.02)


@pytest.mark.parametrize("form", ["WAV", "FLAC", "OGG", "MP3"])
@pytest.mark.parametrize("channels", [1, 2])
def test_every_format_is_heard_alike(form, channels):
    import soundfile

    rate, t = 44100, np.arange(44100 * 2) / 44100
    tone = 0.4 * np.sin(2 * np.pi * 440 * t) * (t % 0.5 < 0.25)
    file = io.BytesIO()
    soundfile.write(file, np.repeat(tone[:, None], channels, axis=1), rate, format=form)
    made = heard(file.getvalue(), "tone")
    assert made.rate == rate and made.length_s == pytest.approx(2.0, abs=0.06)  # MP3 is made of frames
    sounding = made.loudness.level[10:40]
    assert np.allclose(sounding, 0.4 / math.sqrt(2.0), rtol=0.06)
    assert made.loudness.level[60:90].max() < 0.01


@pytest.mark.parametrize("mass_g", [60.0, 300.0, 700.0])
@pytest.mark.parametrize("servo", ["class_10", "class_20"])
def test_what_a_drive_is_said_to_keep_up_with_is_what_the_score_is_judged_by(mass_g, servo):
    """A move in just that time holds with the wished margin wherever it is made, or is not said to be possible; one in half of it does not hold."""
    figure = scored(Row(0.0, 1.0, 5.0), mass_g=mass_g, servo=servo, length_s=6.0)
    channel = figure.score.moved[0]
    can = goes_along(figure, channel)
    low, high = channel.band(figure)
    for size in (3.0, 12.0, high - low):
        least = can.least(math.radians(size))
        assert can.furthest(least) == pytest.approx(math.radians(size), rel=1e-6)
        for start in (low, high - size):
            for back in (False, True):
                ends = (start + size, start) if back else (start, start + size)
                for share, holds in ((1.0, True), (0.5, False)):
                    rows = [Row(0.0, 1.0, ends[0]), Row(2.0, round(least * share, 4), ends[1])]
                    moved = apply(figure, Edit("m", (Set(("score", "channels", channel.id, "moves"), moves_of(rows)),)))
                    moved = apply(moved, Edit("p", (Set(("score", "channels", channel.id, "park"), ends[0]),)))
                    found = study(moved, quick=False, watch=frozenset()).results.loads.of(0).moves
                    reserve = float(found.reserve[1])
                    assert reserve >= 1.25 - 0.02 if holds else reserve < 1.25
