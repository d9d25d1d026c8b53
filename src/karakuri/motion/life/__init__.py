"""What a figure does when nothing is asked of it, one file a kind, in a table.

To add a kind: its word in model/makers.py, its file here with `cast` and `happenings`, a line in LIVES; the player's C++ beside it.
"""

from __future__ import annotations

from karakuri.motion.life import blinks, breathes, ears, glances, sways, tail
from karakuri.motion.life.contract import Kind

LIVES: dict[str, Kind] = {
    "glances": Kind("Glances", glances.cast, glances.happenings),
    "blinks": Kind("Blinks", blinks.cast, blinks.happenings),
    "ears": Kind("Twitches its ears", ears.cast, ears.happenings),
    "tail": Kind("Swings its segments", tail.cast, tail.happenings),
    "breathes": Kind("Breathes", breathes.cast, breathes.happenings),
    "sways": Kind("Sways", sways.cast, sways.happenings),
}
"""In the order in which they are written: a later one keeps off what an earlier one moves."""
