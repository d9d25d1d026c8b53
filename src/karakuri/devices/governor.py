"""The last word before the wire: how far an output may go from one frame to the next, whatever state asks for it.

The law: within its soft limits; never faster than its servo turns; and at 20 °/s, except where the score is followed from the very
place it had a frame before, or a slider is followed at its own pace. An output that stands elsewhere goes there at 20 °/s. Lights and what runs go
where they are sent.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from karakuri.devices.program import Program
from karakuri.frozen import Frozen

FRAME_S, APPROACH_DEG_PER_S, LIVE_DEG_PER_S, MOST_DEG_PER_S = 0.02, 20.0, 60.0, 1000.0
SAME_US, AT_ONCE = 0.75, 2000.0

Values = NDArray[np.float64]


class Governor(Frozen):
    """For one program. Pulses in µs (o,), a light in per mille; steps in µs a frame."""

    program: Program

    def inside(self, values: Values) -> Values:
        """The values within each output's limits."""
        p = self.program
        out: Values = np.clip(values, np.minimum(p.low, p.high), np.maximum(p.low, p.high))
        return out

    def pace(self, deg_per_s: float) -> Values:
        """The step of a frame (o,), µs, at a speed, °/s, or at the servo's own where that is less."""
        p = self.program
        step: Values = np.minimum(deg_per_s * p.us_per_deg, p.fastest) * FRAME_S
        return np.where(p.lights | p.runs, AT_ONCE, step)

    def towards(self, now: Values, wanted: Values, deg_per_s: float) -> Values:
        """One frame from `now` towards `wanted` at a speed, °/s."""
        goal, step = self.inside(wanted), self.pace(deg_per_s)
        return self.inside(now + np.clip(goal - now, -step, step))

    def along(self, now: Values, before: Values, wanted: Values) -> Values:
        """One frame of the score: from where it had each output the frame `before` to where it has it now.

        What does not stand where the score had it goes towards the score at 20 °/s.
        """
        on_it = np.abs(now - self.inside(before)) <= SAME_US
        own = np.minimum(np.abs(wanted - before) + SAME_US, self.program.fastest * FRAME_S + SAME_US)
        step = np.where(on_it, own, self.pace(APPROACH_DEG_PER_S))
        step = np.where(self.program.lights | self.program.runs, AT_ONCE, step)
        goal = self.inside(wanted)
        return self.inside(now + np.clip(goal - now, -step, step))

    def there(self, now: Values, wanted: Values) -> bool:
        """Whether every output stands where it is wanted."""
        return bool(np.all(np.abs(now - self.inside(wanted)) <= SAME_US))
