"""The rules, in the order of the benches. See contract.py for how to add one."""

from karakuri.checks import (
    effort,
    heat,
    hold,
    masses,
    move,
    park,
    shaft,
    soft_limits,
    stops,
    supply,
    tipping,
    toofast,
    travel,
    unjudged,
)
from karakuri.checks.contract import Rule, nothing

RULES: tuple[Rule, ...] = (
    Rule("hold", hold.find, hold.propose),
    Rule("move", move.find, move.propose),
    Rule("shaft", shaft.find, shaft.propose),
    Rule("stops", stops.find, stops.propose),
    Rule("travel", travel.find, travel.propose),
    Rule("tipping", tipping.find, tipping.propose),
    Rule("supply", supply.find, supply.propose),
    Rule("masses", masses.find, nothing),
    Rule("toofast", toofast.find, toofast.propose),
    Rule("effort", effort.find, effort.propose),
    Rule("heat", heat.find, heat.propose),
    Rule("softlimits", soft_limits.find, soft_limits.propose),
    Rule("park", park.find, park.propose),
    Rule("unjudged", unjudged.find, nothing),
)

OF_THE_SCORE = frozenset({"toofast", "effort", "heat", "softlimits", "park"})
OF_BOTH = frozenset({"supply", "unjudged"})
"""Rules that need the body and the score: judged anew whenever either changes."""
