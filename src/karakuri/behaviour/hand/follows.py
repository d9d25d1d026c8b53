"""A ribbon goes where an input stands. A stick lets go in the middle: that is park. A knob has no middle: its way is the ribbon's, end to end."""

from __future__ import annotations

from karakuri.behaviour.hand.contract import Held, Way, lead_of
from karakuri.model.figure import Figure
from karakuri.model.steering import Follows


def make(figure: Figure, grip: Follows) -> Held:
    """Of less sensitivity it goes a share of the way from park."""
    assert figure.behaviour is not None
    lead, of = lead_of(figure, grip.channel, grip.to), figure.behaviour.input(grip.input)

    def wants(way: Way) -> dict[str, float]:
        push = -way.push(grip.input) if grip.turned else way.push(grip.input)
        whole = lead.pushed(push) if of.springs else lead.low + (lead.high - lead.low) * (push + 1.0) / 2.0
        return {grip.channel: lead.park + way.share * (whole - lead.park)}

    return Held({grip.channel: lead}, wants)
