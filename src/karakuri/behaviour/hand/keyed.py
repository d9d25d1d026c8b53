"""A ribbon goes one way while a key is pressed, the other way while the other is, and stays where it is while none or both are: what runs stands still then."""

from __future__ import annotations

from karakuri.behaviour.hand.contract import TICK_S, Held, Way, lead_of
from karakuri.model.figure import Figure
from karakuri.model.steering import Keyed


def make(figure: Figure, grip: Keyed) -> Held:
    """Of less sensitivity it goes slower."""
    lead = lead_of(figure, grip.channel, grip.to)
    at = [lead.park]

    def begins(way: Way) -> None:
        at[0] = min(max(way.stands(grip.channel), lead.low), lead.high)

    def wants(way: Way) -> dict[str, float]:
        if lead.channel.runs and way.on(grip.up) == way.on(grip.down):
            at[0] = lead.park
        by = (way.on(grip.up) - way.on(grip.down)) * grip.pace * way.share * TICK_S
        at[0] = min(max(at[0] + (-by if grip.turned else by), lead.low), lead.high)
        return {grip.channel: at[0]}

    return Held({grip.channel: lead}, wants, begins)
