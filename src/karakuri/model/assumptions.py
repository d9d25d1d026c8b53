"""Numbers the verdicts rest on that nobody measured: saved with the figure, shown where they act."""

from __future__ import annotations

from pydantic import Field

from karakuri.model.base import NotNegative, Positive, Share, Value


class Assumptions(Value):
    """Defaults are common practice, no published source, unless said otherwise."""

    gravity_mps2: Positive = Field(9.80665, description="Standard gravity, 3rd CGPM 1901.")
    stall_share: Share = Field(0.85, description="Share of an advertised stall torque that is really there.")
    held_share: Share = Field(0.30, description="Share of the usable torque that may be held for long.")
    held_share_plastic: Share = Field(0.25, description="The same for plastic gears, and where gears are not stated.")
    passing_share: Share = Field(0.60, description="Share of the usable torque that may be used in passing.")
    wished_margin: float = Field(1.25, ge=1, description="Reserve from which a verdict is 'holds'.")
    oversized_from: float = Field(3.0, gt=1, description="Reserve above which a smaller class is proposed.")
    growth_percent: NotNegative = Field(
        0.0, description="What will still be added to every part: bare 25, shell on 10, finished 0."
    )
    overshoot_deg: NotNegative = Field(1.5, description="How far a joint runs past its target, an estimate.")
    tilt_deg: float = Field(10.0, gt=0, lt=90, description="Tilt the figure must stand without tipping.")
