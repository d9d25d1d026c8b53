"""The rules, in the order of the benches. See contract.py for how to add one."""

from karakuri.checks import hold, masses, move, shaft, stops, supply, tipping, travel, unjudged
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
    Rule("unjudged", unjudged.find, nothing),
)
