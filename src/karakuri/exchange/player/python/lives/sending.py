"""From places to what outputs are sent: curves, servos that share joints, never further in a frame than a servo turns. The same as the bench's."""

from __future__ import annotations

import math

from .ribbon import NOWHERE

HUNDREDTHS = 18000 / math.pi


def _turned(at: list, axis: list, pivot: list, by: float) -> list:
    """A point turned about an axis through a pivot (Rodrigues' formula)."""
    off = [a - p for a, p in zip(at, pivot)]
    c, s = math.cos(by), math.sin(by)
    along = sum(a * o for a, o in zip(axis, off)) * (1 - c)
    cross = [axis[(i + 1) % 3] * off[(i + 2) % 3] - axis[(i + 2) % 3] * off[(i + 1) % 3] for i in range(3)]
    return [off[i] * c + cross[i] * s + axis[i] * along + pivot[i] for i in range(3)]


def linked(link: dict, places: list) -> float:
    """Where a servo that shares joints stands, hundredths of a degree: the far ball as the joints carry it, then the horn."""
    numbers, at, total = link["numbers"], link["numbers"][0:3], 0.0
    for channel, slides, gain, offset, axis, pivot, way in link["steps"]:
        q = gain * (places[channel] / HUNDREDTHS if channel != NOWHERE else 0.0) + offset
        total += way * q
        if not link["kind"]:
            at = [a + way * q * x for a, x in zip(at, axis)] if slides else _turned(at, axis, pivot, way * q)
    if link["kind"]:
        return total * HUNDREDTHS
    shaft, e1, e2, (horn, rod, side, begins) = numbers[3:6], numbers[6:9], numbers[9:12], numbers[12:16]
    at = [a - b for a, b in zip(at, shaft)]
    a, b = (sum(x * y for x, y in zip(e, at)) for e in (e1, e2))
    far = max(math.hypot(a, b), 1e-9)
    share = (sum(x * x for x in at) + horn * horn - rod * rod) / (2 * horn * far)
    turned = math.atan2(b, a) + side * math.acos(min(max(share, -1.0), 1.0)) - begins
    return math.remainder(turned, 2 * math.pi) * HUNDREDTHS


def _on_curve(curve: list, place: float) -> float:
    """Tenths of a microsecond at a place, straight between the knots."""
    if place <= curve[0][0]:
        return curve[0][1]
    for (x, y), (v, w) in zip(curve, curve[1:]):
        if place < v:
            return y + (place - x) / (v - x) * (w - y)
    return curve[-1][1]


class Sending:
    """`outputs` as figure.json has them."""

    def __init__(self, outputs: list) -> None:
        self.outputs = outputs
        self.last: list = [None] * len(outputs)

    def values(self, places: list) -> list:
        """What each output is sent, us or per mille, for places of all channels, hundredths."""
        out = []
        for k, each in enumerate(self.outputs):
            low, high, channel = each["low"], each["high"], each["channel"]
            place = places[channel] if channel != NOWHERE else min(max(0, low), high)
            if each["link"] is not None:
                place = linked(each["link"], places)
            if each["light"]:
                out.append(min(max(place, 0.0), 10000.0) / 10)
                continue
            wanted, before = _on_curve(each["curve"], min(max(place, low), high)), self.last[k]
            if before is not None:
                wanted = min(max(wanted, before - each["step"]), before + each["step"])
            self.last[k] = wanted
            out.append(wanted / 10)
        return out
