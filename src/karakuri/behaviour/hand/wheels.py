"""A wheel left and one right: ahead drives both, a turn to the right the left one faster. What is more than a wheel's fastest slows both alike, so that it
turns about the point that was asked for. Let go they stop: a wheel that stood where it is would run on."""

from __future__ import annotations

from karakuri.behaviour.hand.contract import Held, Way, lead_of
from karakuri.model.figure import Figure
from karakuri.model.steering import Wheels


def make(figure: Figure, grip: Wheels) -> Held:
    """Speeds of a frame that rolls on two driven wheels: v ± half the track × turn rate, any book on mobile robots; common practice."""
    left, right = lead_of(figure, grip.left), lead_of(figure, grip.right)

    def wants(way: Way) -> dict[str, float]:
        ahead, turn = way.push(grip.ahead), way.push(grip.turn)
        most = max(1.0, abs(ahead) + abs(turn))
        a, b = way.share * (ahead + turn) / most, way.share * (ahead - turn) / most
        return {grip.left: left.pushed(a), grip.right: right.pushed(-b if grip.mirrored else b)}

    return Held({grip.left: left, grip.right: right}, wants, stops=True)
