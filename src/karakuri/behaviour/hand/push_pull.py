"""Two ribbons on one stick: pushed one way both go the same way, pushed the other way one against the other. Of a left and a right joint the way counts
as it is seen in the mirror."""

from __future__ import annotations

from karakuri.behaviour.hand.contract import Held, Way, lead_of
from karakuri.model.figure import Figure
from karakuri.model.sides import same_way, twin_of
from karakuri.model.steering import PushPull


def make(figure: Figure, grip: PushPull) -> Held:
    """Sum and difference of both pushes."""
    first, second = lead_of(figure, grip.first), lead_of(figure, grip.second)
    sign = sign_of(figure, grip)

    def wants(way: Way) -> dict[str, float]:
        both, apart = way.share * way.push(grip.together), way.share * way.push(grip.against)
        return {grip.first: first.pushed(both + apart), grip.second: second.pushed(sign * (both - apart))}

    return Held({grip.first: first, grip.second: second}, wants)


def sign_of(figure: Figure, grip: PushPull) -> float:
    """−1 where its ribbons are of a left and a right joint that turn the other way, else 1."""
    one, other = (figure.ribbons[ident].leads for ident in grip.channels)
    twins = one is not None and other is not None and twin_of(figure, one) == other
    return same_way(figure.joint(one), figure.joint(other)) if twins and one and other else 1.0
