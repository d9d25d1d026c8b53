"""Paints one ribbon: band, rest, holds and movements, beads, departures, response, effort thread, and what is wrong."""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray
from PyQt6.QtCore import QLineF
from PyQt6.QtGui import QPainterPath

from karakuri.frozen import Frozen
from karakuri.model.channel import MovedChannel
from karakuri.model.finding import Finding
from karakuri.motion.track import SUDDEN, Track
from karakuri.sizing.page import BIN_S
from karakuri.workbench.kit import Kit, polygon
from karakuri.workbench.marks import tag_path

CROWD = 7.0
"""Below so many pixels a move, beads become ticks and departures are left out."""


class Span(Frozen):
    """What stretch of time, s, lies between two x, pixels."""

    t0: float
    t1: float
    x0: float
    x1: float

    @property
    def per_s(self) -> float:
        return (self.x1 - self.x0) / (self.t1 - self.t0)

    def x(self, t):
        return self.x0 + (t - self.t0) * self.per_s

    def t(self, x: float) -> float:
        return self.t0 + (x - self.x0) / self.per_s


class Ribbon(Frozen, eq=False):
    """All that one row shows. low, high, park and the track in one SI unit; effort is torque ÷ held for each tenth of a second."""

    channel: MovedChannel
    track: Track
    low: float
    high: float
    ends: tuple[str, str]
    ink: str
    tint: str
    effort: NDArray[np.float64] | None = None
    behind: tuple[tuple[NDArray[np.float64], NDArray[np.float64]], ...] = ()
    faults: tuple[tuple[Finding, str], ...] = ()
    chosen: int = -1
    selected: bool = False

    @property
    def about_rest(self) -> bool:
        """Whether it goes up and down from where it parks: a joint does, a motor ahead and back, a level stands on its floor."""
        return self.channel.leads is not None or self.channel.runs

    def y(self, value, top: float, bottom: float):
        """Where a value lies in a band, pixels; a little beyond the band at most."""
        at = bottom - (value - self.low) / max(self.high - self.low, 1e-9) * (bottom - top)
        return np.clip(at, top - 4, bottom + 4)


def ribbon_edges(kit, y: float, tall: float) -> tuple[float, float]:
    """Top and bottom of the band in a row; `kit` is whoever knows the sizes."""
    return y + kit.u(4), y + tall - kit.u(10)


def in_view(track: Track, span: Span) -> NDArray[np.int64]:
    """Moves (k,) that are under way somewhere between t0 and t1."""
    first = int(np.searchsorted(track.departs, span.t0, side="right")) - 1
    last = int(np.searchsorted(track.departs, span.t1, side="right"))
    return np.arange(max(0, first), last)


def drawn_key(ribbon: Ribbon, span: Span) -> tuple:
    """What of the last study is seen in a row, as coarse as it is drawn."""
    faults = tuple((finding.move, finding.verdict, words) for finding, words in ribbon.faults)
    behind = tuple((float(times[0]), float(times[-1]), float(places.sum())) for times, places in ribbon.behind)
    first, step, used = _used(ribbon, span)
    return (first, step, *(part.tobytes() for part in _coarse(used)), faults, behind)


def _used(ribbon: Ribbon, span: Span) -> tuple[int, int, NDArray[np.float64]]:
    """The effort in view: first tenth of a second, how many are one piece of at least two pixels, and the largest of each piece."""
    whole = ribbon.effort if ribbon.effort is not None else np.zeros(0)
    first, last = max(0, int(span.t0 / BIN_S)), min(len(whole), math.ceil(span.t1 / BIN_S))
    step = max(1, round(2.0 / max(BIN_S * span.per_s, 1e-6)))
    if last <= first:
        return first, step, np.zeros(0)
    return first, step, np.maximum.reduceat(whole[first:last], np.arange(0, last - first, step))


def _coarse(used: NDArray[np.float64]) -> tuple[NDArray, NDArray]:
    """Which of four levels, and how thick, to half a pixel."""
    return np.digitize(used, (0.5, 0.67, 1.0)), np.round(2 * (1 + np.minimum(used, 1.3) * 3.4)) / 2


def paint_row(kit: Kit, ribbon: Ribbon, span: Span, y: float, tall: float) -> None:
    """The part of a row that depends on time; the label is painted apart."""
    top, bottom = ribbon_edges(kit, y, tall)
    kit.rect(span.x0, top, span.x1 - span.x0, bottom - top, ribbon.tint)
    rows = in_view(ribbon.track, span)
    crowded = len(rows) > (span.x1 - span.x0) / CROWD
    kit.p.save()
    kit.p.setClipRect(round(span.x0) - 1, round(y) - 2, round(span.x1 - span.x0) + 3, round(tall) + 4)
    _shape(kit, ribbon, span, top, bottom, rows, crowded)
    for x in (top, bottom):
        kit.line(span.x0, x, span.x1, x, ribbon.ink, 1.2)
    rest = float(ribbon.y(ribbon.track.park, top, bottom))
    if ribbon.about_rest:
        kit.line(span.x0, rest, span.x1, rest, ribbon.ink, 1, "dot")
    _faults(kit, ribbon, span, top, bottom)
    _behind(kit, ribbon, span, top, bottom)
    _beads(kit, ribbon, span, top, bottom, rows, crowded)
    _effort(kit, ribbon, span, bottom + kit.u(5))
    kit.p.restore()
    _tags(kit, ribbon, span, top, bottom)


def _sampled(ribbon: Ribbon, span: Span, rows: NDArray[np.int64], crowded: bool) -> tuple[NDArray, NDArray]:
    """Times and places of the curve, every few pixels and at every start and end; a leap on both its sides."""
    track = ribbon.track
    found = [np.linspace(span.t0, span.t1, max(8, int((span.x1 - span.x0) / 3.5)))]
    if not crowded and len(rows):
        a, b = track.departs[rows], track.ends[rows]
        found += [a, b[np.isfinite(b)], a[track.code[rows] == SUDDEN] - 1e-9]
    times = np.unique(np.concatenate(found))
    times = times[(times >= span.t0) & (times <= span.t1)]
    return times, track.at(times)[0]


def _shape(kit: Kit, ribbon: Ribbon, span: Span, top: float, bottom: float, rows, crowded: bool) -> None:
    """Pale where it holds, dark where it moves, the line over both."""
    times, places = _sampled(ribbon, span, rows, crowded)
    xs, ys = span.x(times), ribbon.y(places, top, bottom)
    track = ribbon.track
    base = float(ribbon.y(track.park, top, bottom)) if ribbon.about_rest else bottom
    whole = polygon(np.concatenate([xs[:1], xs, xs[-1:]]), np.concatenate([[base], ys, [base]]))
    kit.pen(None)
    kit.brush(ribbon.ink, 0.24)
    kit.p.drawPolygon(whole)
    if not crowded and len(rows) and ribbon.about_rest:
        path = QPainterPath()
        begins = np.searchsorted(times, track.departs[rows] - 1e-12)
        ends = np.searchsorted(times, np.minimum(track.ends[rows], span.t1) + 1e-12)
        for a, b in zip(begins.tolist(), ends.tolist(), strict=True):
            if b - a > 1:
                path.addPolygon(
                    polygon(
                        np.concatenate([xs[a : a + 1], xs[a:b], xs[b - 1 : b]]),
                        np.concatenate([[base], ys[a:b], [base]]),
                    )
                )
        kit.brush(ribbon.ink, 0.82)
        kit.p.drawPath(path)
    kit.pen(ribbon.ink if ribbon.about_rest else "brass_f", 1.5)
    kit.brush(None)
    kit.p.drawPolyline(polygon(xs, ys))


def _behind(kit: Kit, ribbon: Ribbon, span: Span, top: float, bottom: float) -> None:
    """Where the servo is behind what is asked: a line of ink over it."""
    for times, places in ribbon.behind:
        if times[0] < span.t1 and times[-1] > span.t0:
            kit.pen("ink", 1.1)
            kit.brush(None)
            kit.p.drawPolyline(polygon(span.x(times), ribbon.y(places, top, bottom)))


def _beads(kit: Kit, ribbon: Ribbon, span: Span, top: float, bottom: float, rows, crowded: bool) -> None:
    track = ribbon.track
    arrive = track.departs[rows] + track.takes[rows]
    targets = ribbon.y(track.target[rows], top, bottom) if len(rows) else rows
    if crowded:
        kit.pen("brass", 1)
        kit.p.drawLines([QLineF(x, bottom - 3, x, bottom) for x in np.unique(np.round(span.x(arrive))).tolist()])
        return
    for i, k in enumerate(rows.tolist()):
        x, y = float(span.x(arrive[i])), float(targets[i])
        fx = float(span.x(track.departs[k]))
        fy = float(ribbon.y(track.start[k], top, bottom))
        kit.line(fx, fy - kit.u(5), fx, fy + kit.u(5), "ink" if k == ribbon.chosen else ribbon.ink, 2.0)
        if k == ribbon.chosen:
            kit.circle(x, y, kit.u(6.5), None, "indigo", 2)
        kit.circle(x, y, kit.u(3.4), "brass_f", "ink", 1.1)


def _effort(kit: Kit, ribbon: Ribbon, span: Span, y: float) -> None:
    """At the foot: torque over torque held, thickness and colour."""
    first, step, used = _used(ribbon, span)
    if not len(used):
        return
    last = len(ribbon.effort)
    level, thick = _coarse(used)
    same = np.flatnonzero(np.diff(level) | (np.diff(thick) != 0)) + 1
    starts, ends = np.append(0, same), np.append(same, len(used))
    lines: dict[tuple[int, float], list[QLineF]] = {}
    for a, b in zip(starts.tolist(), ends.tolist(), strict=True):
        xa, xb = span.x((first + a * step) * BIN_S), span.x(min((first + b * step), last) * BIN_S)
        lines.setdefault((int(level[a]), float(thick[a])), []).append(
            QLineF(max(xa, span.x0), y, min(xb + 0.5, span.x1), y)
        )
    for (lev, wide), each in lines.items():
        kit.pen(("rule", "brass_f", "ochre_f", "verm")[lev], wide)
        kit.p.drawLines(each)


def _slot(ribbon: Ribbon, finding: Finding, span: Span, least: float) -> tuple[float, float] | None:
    """From where to where the faulty move is hatched, at least so many pixels; None out of view."""
    if finding.move is None:
        return None
    k = finding.move.number
    if k >= len(ribbon.track.departs):
        return None
    a = float(span.x(ribbon.track.departs[k]))
    b = float(span.x(ribbon.track.departs[k] + ribbon.track.takes[k]))
    if b - a < least:
        a, b = (a + b - least) / 2, (a + b + least) / 2
    return (a, b) if b > span.x0 and a < span.x1 else None


def _faults(kit: Kit, ribbon: Ribbon, span: Span, top: float, bottom: float) -> None:
    for finding, _ in ribbon.faults:
        slot = _slot(ribbon, finding, span, kit.u(14))
        if slot is None:
            continue
        path = QPainterPath()
        path.addRect(slot[0], top, slot[1] - slot[0], bottom - top)
        ink, ground = ("verm", "verm_t") if finding.verdict == "fails" else ("ochre", "ochre_t")
        kit.draw(path, ground, ink, 1.3, alpha=0.55)
        kit.hatch(path, ink, 5, 1.2, 60)


def _tags(kit: Kit, ribbon: Ribbon, span: Span, top: float, bottom: float) -> None:
    """What is wrong, beside the move it is about: at its left, else at its right; none over another."""
    taken: list[tuple[float, float]] = []
    tall = kit.u(17)
    y = (top + bottom) / 2
    for finding, words in ribbon.faults:
        slot = _slot(ribbon, finding, span, kit.u(14))
        if slot is None or not words:
            continue
        wide = kit.width(words, 12, 600) + kit.u(24)
        for a in (slot[0] - wide - kit.u(8), slot[1] + kit.u(8)):
            free = all(a + wide < b or a > c for b, c in taken)
            if a > span.x0 and a + wide < span.x1 and free:
                ink = "verm" if finding.verdict == "fails" else "ochre"
                kit.draw(tag_path(a, y - tall / 2, wide, tall, kit.u(5)), "card", ink, 1.2)
                kit.circle(a + kit.u(8), y, 2, "paper", ink)
                kit.text(a + kit.u(15), y, words, 12, 600, ink)
                edge = a + wide if a < slot[0] else a
                kit.line(edge, y, slot[0] if a < slot[0] else slot[1], y, ink, 1.2)
                taken.append((a, a + wide))
                break


def paint_label(kit: Kit, ribbon: Ribbon, left: float, right: float, y: float, tall: float) -> None:
    """Name and the values of the edges."""
    top, bottom = ribbon_edges(kit, y, tall)
    if ribbon.selected:
        kit.rect(left - kit.u(8), y + 0.5, right - left + kit.u(4), tall - 1, "sel")
        kit.rect(left - kit.u(8), y + 0.5, 3, tall - 1, "indigo")
    high, low = ribbon.ends
    room = right - left - kit.u(8) - max(kit.width(high, 11), kit.width(low, 11)) - kit.u(6)
    lines = _two_lines(kit, ribbon.channel.name, room, 600 if ribbon.selected else 500)
    for i, line in enumerate(lines):
        at = (top + bottom) / 2 + (i - (len(lines) - 1) / 2) * kit.u(15)
        kit.text(left, at, line, 13, 600 if ribbon.selected else 500, "indigo" if ribbon.selected else "ink")
    kit.text(right - kit.u(6), top + kit.u(4), high, 11, 400, "ink3", "r")
    kit.text(right - kit.u(6), bottom - kit.u(3), low, 11, 400, "ink3", "r")


def _two_lines(kit: Kit, name: str, room: float, weight: int) -> list[str]:
    """A name on at most two lines; the least needed words go first."""
    lines: list[str] = [""]
    for word in name.split(" "):
        longer = f"{lines[-1]} {word}".strip()
        if kit.width(longer, 13, weight) <= room:
            lines[-1] = longer
        elif len(lines) < 2 and lines[-1]:
            lines.append(kit.short(word, room, 13, weight))
        elif not lines[-1]:
            lines[-1] = kit.short(word, room, 13, weight)
        else:
            break
    return lines
