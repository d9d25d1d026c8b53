"""Starters: whole figures and their features set down from one or two sizes, by the schools builders follow.

A starter is a file in features/ with one Starter; kinds/ holds what figures stand on and are clad in. All proportions here are common practice, no source.
"""

from __future__ import annotations

from karakuri.starters.contract import Kind, Starter
from karakuri.starters.features import (
    brows,
    ears,
    eyes_drawn,
    eyes_four,
    eyes_horn,
    eyes_two,
    finger,
    gripper,
    jaw_cord,
    jaw_split,
    jaw_whole,
    lids,
    neck_leans,
    neck_nods,
    neck_rods,
    neck_turns,
    tail,
)
from karakuri.starters.kinds import bare, bust, held, rolling, window, worn

KINDS: tuple[Kind, ...] = (bare.KIND, bust.KIND, worn.KIND, held.KIND, window.KIND, rolling.KIND)
STARTERS: tuple[Starter, ...] = tuple(
    module.STARTER
    for module in (
        neck_turns, neck_nods, neck_leans, neck_rods, jaw_whole, jaw_split, jaw_cord, lids,
        eyes_horn, eyes_two, eyes_four, eyes_drawn, brows, ears, tail, finger, gripper,
    )
)  # fmt: skip
"""In the order in which they are hung on: what carries the others first."""


def kind(ident: str) -> Kind:
    """The kind of that id. Raises KeyError."""
    return {each.id: each for each in KINDS}[ident]


def starter(ident: str) -> Starter:
    """The starter of that id. Raises KeyError."""
    return {each.id: each for each in STARTERS}[ident]
