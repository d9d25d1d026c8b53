"""Paints one voice: how loud each sound is, as bars under a line, with what it is called at its beginning; a dotted slip where it cannot be heard."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from karakuri.frozen import Frozen
from karakuri.model.channel import SoundChannel
from karakuri.model.loudness import RATE_HZ, Loudness
from karakuri.workbench.benches.ribbon_row import Span, ribbon_edges
from karakuri.workbench.kit import Kit, polygon

BAR = 4.0


class Sounding(Frozen, eq=False):
    """One sound in a row: from `begins` to `ends` s; `loudness` is None where it was not listened to."""

    begins: float
    ends: float
    name: str
    loudness: Loudness | None
    chosen: bool = False


class VoiceRow(Frozen, eq=False):
    """All that the row of a voice shows. `more` stands small beside its name."""

    channel: SoundChannel
    sounds: tuple[Sounding, ...]
    ink: str
    tint: str
    more: str = ""
    selected: bool = False


def paint_voice(kit: Kit, row: VoiceRow, span: Span, y: float, tall: float) -> None:
    """The part of the row that depends on time."""
    top, bottom = ribbon_edges(kit, y, tall)
    bottom += kit.u(4)
    kit.p.save()
    kit.p.setClipRect(round(span.x0) - 1, round(y) - 2, round(span.x1 - span.x0) + 3, round(tall) + 4)
    kit.line(span.x0, bottom, span.x1, bottom, row.ink, 1.2)
    free = span.x0
    for sound in row.sounds:
        if sound.ends > span.t0 and sound.begins < span.t1:
            _sound(kit, sound, row, span, top, bottom)
            free = _name(kit, sound, row, span, (top + bottom) / 2 + kit.u(4), free)
    kit.p.restore()


def _sound(kit: Kit, sound: Sounding, row: VoiceRow, span: Span, top: float, bottom: float) -> None:
    x0, x1 = float(span.x(sound.begins)), float(span.x(sound.ends))
    ink = "indigo" if sound.chosen else row.ink
    level = sound.loudness.level if sound.loudness is not None else np.zeros(0)
    if not len(level):
        kit.rect(x0, top, max(x1 - x0, 4), bottom - top, None, "ink3", 1.2, "dash")
    else:
        a, b = max(x0, span.x0), min(x1, span.x1)
        xs = np.arange(np.floor((a - x0) / BAR) * BAR + x0, b + BAR, BAR)
        heights = _heights(level, (xs - x0) / span.per_s, BAR / span.per_s) * (bottom - top - 1)
        kit.pen(None)
        kit.brush(ink, 0.18)
        kit.p.drawPolygon(polygon(np.concatenate([xs[:1], xs, xs[-1:]]), np.concatenate([[bottom], bottom - heights, [bottom]])))  # fmt: skip
        for x, height in zip(xs.tolist(), heights.tolist(), strict=True):
            if height > 1.0 and a <= x <= b:
                kit.line(x, bottom - height, x, bottom, ink, 1.6)
        kit.pen(ink, 1.2)
        kit.brush(None)
        kit.p.drawPolyline(polygon(xs, bottom - heights))
    kit.line(x0, top, x0, bottom, ink, 2.0)
    kit.circle(x0, bottom, kit.u(3.4), "brass_f", "ink", 1.1)
    if sound.chosen:
        kit.circle(x0, bottom, kit.u(6.5), None, "indigo", 2)


def _heights(level: NDArray[np.float64], at: NDArray[np.float64], wide: float) -> NDArray[np.float64]:
    """The loudest of each bar, (n,) of the loudest of all, at times (n,) s that wide."""
    starts = np.clip((at * RATE_HZ).astype(int), 0, len(level) - 1)
    ends = np.clip(np.maximum(((at + wide) * RATE_HZ).astype(int), starts + 1), 1, len(level))
    most = float(level.max()) or 1.0
    return np.array([level[a:b].max() / most for a, b in zip(starts.tolist(), ends.tolist(), strict=True)])


def _name(kit: Kit, sound: Sounding, row: VoiceRow, span: Span, y: float, free: float) -> float:
    """What it is called, at the left of its beginning where there is room, else after it; where the next name may begin."""
    words, x0 = f"“{sound.name}”", float(span.x(sound.begins))
    wide = kit.width(words, 12, 500)
    a = x0 - wide - kit.u(6)
    if a < free:
        a = x0 + kit.u(7)
    if a < free or a + wide > span.x1:
        return free
    if a > x0:
        kit.rect(a - 2, y - kit.u(8), wide + 4, kit.u(15), "paper")
    kit.text(a, y, words, 12, 500, "indigo" if sound.chosen else "ink2")
    return max(a + wide + kit.u(6), float(span.x(sound.begins)))


def paint_voice_label(kit: Kit, row: VoiceRow, left: float, right: float, y: float, tall: float) -> None:
    """Its name, and how many sounds there are."""
    top, bottom = ribbon_edges(kit, y, tall)
    if row.selected:
        kit.rect(left - kit.u(8), y + 0.5, right - left + kit.u(4), tall - 1, "sel")
        kit.rect(left - kit.u(8), y + 0.5, 3, tall - 1, "indigo")
    weight = 600 if row.selected else 500
    more = kit.width(row.more, 11) + kit.u(8)
    kit.text(left, (top + bottom) / 2, kit.short(row.channel.name, right - left - more - kit.u(6), 13, weight), 13, weight, "indigo" if row.selected else "ink")  # fmt: skip
    kit.text(right - kit.u(6), (top + bottom) / 2, row.more, 11, 400, "ink3", "r")


def drawn_of(row: VoiceRow) -> tuple:
    """What is seen of a row, for whoever keeps its picture."""
    sounds = tuple((s.begins, s.ends, s.name, id(s.loudness), s.chosen) for s in row.sounds)
    return (row.channel.name, sounds, row.ink, row.more, row.selected)
