"""What a figure costs, as far as prices are known: by what turns with which joint, parts and servos apart."""

from __future__ import annotations

from karakuri.frozen import Frozen
from karakuri.model.figure import Figure
from karakuri.model.part import BASE


class Cost(Frozen):
    """Of one joint, by id, or of the base: `parts` that ride on it and `servo` that turns it, in the figure's currency; `unknown` things without a price."""

    joint: str
    parts: float
    servo: float
    unknown: int

    @property
    def whole(self) -> float:
        """Both together, in the figure's currency."""
        return self.parts + self.servo


def total(found: tuple[Cost, ...]) -> Cost:
    """All of them together, in the figure's currency."""
    parts, servo = sum(each.parts for each in found), sum(each.servo for each in found)
    return Cost("", parts, servo, sum(each.unknown for each in found))


def costs(figure: Figure) -> tuple[Cost, ...]:
    """The base, then each joint that costs anything or has something without a price; money in the figure's currency."""
    out = []
    for ident in (BASE, *(joint.id for joint in figure.joints)):
        prices = [part.price for part in figure.parts if part.rides_on == ident]
        drive = figure.drive_of(ident)
        servos = [drive.acting(1.0).price] if drive is not None else []
        unknown = sum(price is None for price in (*prices, *servos))
        cost = Cost(ident, sum(p or 0.0 for p in prices), sum(p or 0.0 for p in servos), unknown)
        if cost.whole > 0 or unknown:
            out.append(cost)
    return tuple(out)
