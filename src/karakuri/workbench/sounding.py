"""Plays the voices while the score runs, where there is a sound device; where there is none the plumb line runs as exactly without."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

import numpy as np
from PyQt6.QtCore import QBuffer, QByteArray, QIODevice, QLoggingCategory, QObject

from karakuri.exchange.sounds import Heard

if TYPE_CHECKING:
    from karakuri.workbench.desk import Desk

NO_LIBRARY = "It runs silently here: the sound library libpulse0 is not installed."
NO_DEVICE = "It runs silently here: this computer has no sound device that plays."


class Sounding(QObject):
    """Begins each sound when the plumb line passes it, from within where running began within; silent at any pace but as written."""

    def __init__(self, desk: Desk) -> None:
        super().__init__(desk)
        self.desk = desk
        self._before = 0.0
        self._sink: Any = None
        self._buffer: QBuffer | None = None
        self._silent: str | None = None
        desk.transport.ran.connect(self._ran)
        desk.transport.moved.connect(self._moved)

    @property
    def silent(self) -> str:
        """Why nothing is played; '' where something would be."""
        if self._silent is None:
            QLoggingCategory.setFilterRules(
                "qt.multimedia.*=false"
            )  # what it tries before it finds none is nobody's news
            try:
                from PyQt6.QtMultimedia import QMediaDevices

                self._silent = NO_DEVICE if QMediaDevices.defaultAudioOutput().isNull() else ""
            except ImportError:
                self._silent = NO_LIBRARY
        return self._silent

    def _ran(self) -> None:
        """Running began or stopped, or its pace changed."""
        self.hush()
        if self._plays():
            self._before = self.desk.transport.now
            self._within(self._before)

    def _moved(self) -> None:
        now = self.desk.transport.now
        if not self._plays():
            self._before = now
            return
        if now < self._before:  # it began again
            self.hush()
            self._within(now)
        else:
            for voice in self.desk.figure.score.voices:
                for play in voice.plays:
                    if self._before < play.at_s <= now:
                        self._play(play.sound, now - play.at_s, play.level_percent / 100)
        self._before = now

    def _plays(self) -> bool:
        transport, score = self.desk.transport, self.desk.figure.score
        return transport.running and transport.pace == 1.0 and bool(score.voices) and not self.silent

    def _within(self, now: float) -> None:
        """The sound that is under way at a time, from there on."""
        for voice in self.desk.figure.score.voices:
            begun = [play for play in voice.plays if play.at_s <= now]
            if begun and now < begun[-1].at_s + self.desk.figure.sound(begun[-1].sound).length_s:
                self._play(begun[-1].sound, now - begun[-1].at_s, begun[-1].level_percent / 100)

    def _play(self, sound_id: str, since: float, level: float) -> None:
        found = self.desk.voices.whole(self.desk.figure.sound(sound_id))
        if found is not None:
            self.hush()
            self._begin(found, since, level)

    def say(self, sound_id: str) -> None:
        """Play a sound now, from its beginning."""
        if not self.silent:
            self._play(sound_id, 0.0, 1.0)

    def _begin(self, found: Heard, since: float, level: float) -> None:
        from PyQt6.QtMultimedia import QAudioFormat, QAudioSink, QMediaDevices

        form = QAudioFormat()
        form.setSampleRate(found.rate)
        form.setChannelCount(1)
        form.setSampleFormat(QAudioFormat.SampleFormat.Int16)
        self._buffer = QBuffer(self)
        self._buffer.setData(QByteArray(pulses_of(found, since, level)))
        self._buffer.open(QIODevice.OpenModeFlag.ReadOnly)
        self._sink = QAudioSink(QMediaDevices.defaultAudioOutput(), form, self)
        self._sink.start(self._buffer)

    def hush(self) -> None:
        """End what is played."""
        if self._sink is not None:
            self._sink.stop()
            self._sink.deleteLater()
            self._sink = None
        if self._buffer is not None:
            self._buffer.close()
            self._buffer.deleteLater()
            self._buffer = None


def pulses_of(found: Heard, since: float, level: float) -> bytes:
    """Its samples from `since` s on, level from 0 to 1, as little-endian 16-bit numbers."""
    first = min(len(found.samples), max(0, round(since * found.rate)))
    return (np.clip(found.samples[first:] * level, -1.0, 1.0) * 32767.0).astype("<i2").tobytes()
