"""The rules, in the order of the benches. See contract.py for how to add one."""

from karakuri.checks import (
    actuators,
    cords,
    drag,
    effort,
    elements,
    fastenings,
    fits,
    hands,
    hangs,
    heat,
    hold,
    linkages,
    masses,
    move,
    park,
    rings,
    rods,
    shaft,
    shakes,
    slides,
    soft_limits,
    steps,
    stops,
    supply,
    tipping,
    toofast,
    travel,
    turning,
    unjudged,
    worn,
)
from karakuri.checks.contract import Rule, nothing

RULES: tuple[Rule, ...] = (
    Rule.of_joints("hold", hold.each, hold.propose),
    Rule.of_joints("move", move.each, move.propose),
    Rule.of_joints("shaft", shaft.each, shaft.propose),
    Rule.of_joints("linkage", linkages.each, linkages.propose),
    Rule.of_joints("steps", steps.each, steps.propose),
    Rule("shakes", shakes.find, shakes.propose),
    Rule("stops", stops.find, stops.propose),
    Rule.of_joints("travel", travel.each, travel.propose),
    Rule("hangs", hangs.find, hangs.propose),
    Rule("elements", elements.find, nothing),
    Rule("cords", cords.find, cords.propose),
    Rule("actuators", actuators.find, actuators.propose),
    Rule("turning", turning.find, turning.propose),
    Rule("hands", hands.find, hands.propose),
    Rule("slides", slides.find, slides.propose),
    Rule("rods", rods.find, rods.propose),
    Rule("drag", drag.find, drag.propose),
    Rule("tipping", tipping.find, tipping.propose),
    Rule("fastened", fastenings.find, fastenings.propose),
    Rule("worn", worn.find, worn.propose),
    Rule("supply", supply.find, supply.propose),
    Rule("fits", fits.find, fits.propose),
    Rule("masses", masses.find, nothing),
    Rule("toofast", toofast.find, toofast.propose),
    Rule("effort", effort.find, effort.propose),
    Rule("heat", heat.find, heat.propose),
    Rule("softlimits", soft_limits.find, soft_limits.propose),
    Rule("park", park.find, park.propose),
    Rule("rings", rings.find, rings.propose),
    Rule("unjudged", unjudged.find, nothing),
)

OF_THE_SCORE = frozenset({"toofast", "effort", "heat", "softlimits", "park", "rings"})
OF_BOTH = frozenset({"supply", "unjudged", "actuators"})
"""Rules that need the body and the score: judged anew whenever either changes."""
LATER = frozenset({"shakes"})
"""Rules whose findings stand as they were while a hand drags: what they rest on takes too long."""
