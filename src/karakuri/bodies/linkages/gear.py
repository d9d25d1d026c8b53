"""Two toothed wheels. Ratio by teeth; what presses the shafts apart by the usual pressure angle of 20° (any text on gears)."""

from __future__ import annotations

import math

from karakuri.bodies.linkages.even import Even
from karakuri.model.transmission import Gear

TYPICAL, BETWEEN = 0.95, (0.9, 0.98)
"""What comes through of one pair of wheels: common practice, no source."""
BACKLASH_MM = 0.2
"""Of printed wheels: common practice, no source."""
PRESSURE = math.radians(20.0)


def linkage_of(gear: Gear) -> Even:
    """SI of a pair of wheels."""
    ratio = gear.driven / gear.driver * (1.0 if gear.turns == "same" else -1.0)
    slack = BACKLASH_MM if gear.backlash_mm is None else gear.backlash_mm
    known = gear.efficiency
    bounds = BETWEEN if known is None else (known, known)
    radius = gear.module_mm * gear.driven / 2e3
    return Even(ratio, radius, slack / 1e3, 1.0 / math.cos(PRESSURE), TYPICAL if known is None else known, bounds)
