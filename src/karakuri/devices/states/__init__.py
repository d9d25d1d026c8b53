"""What the sender does, one file a state: step(known) is one frame of it. To add one: its file, its name here, and in driving.py what begins it."""

from collections.abc import Callable

from karakuri.devices.known import Known
from karakuri.devices.states import approaching, gathering, homing, live, playing, trying

STEPS: dict[str, Callable[[Known], None]] = {
    "gathering": gathering.step, "playing": playing.step, "live": live.step, "homing": homing.step, "approaching": approaching.step, "trying": trying.step,
}  # fmt: skip
"""Those in which something moves."""
