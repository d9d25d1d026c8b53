"""Numbers the verdicts rest on that nobody measured: saved with the figure, shown where they act."""

from karakuri.model.base import Share, Width_deg
from karakuri.values.fields import Field
from karakuri.values.value import Value


class Assumptions(Value):
    """Defaults are common practice, no published source, unless said otherwise."""

    gravity_mps2: float = Field(default=9.80665, ge=1e-6, le=1000, description="Standard gravity, 3rd CGPM 1901.")
    stall_share: Share = Field(default=0.85, description="Share of an advertised stall torque that is really there.")
    held_share: Share = Field(default=0.30, description="Share of the usable torque that may be held for long.")
    held_share_plastic: Share = Field(
        default=0.25, description="The same for plastic gears, and where gears are not stated."
    )
    passing_share: Share = Field(default=0.60, description="Share of the usable torque that may be used in passing.")
    together_share: Share = Field(
        default=0.90,
        description="Share of two servos on one joint that counts: they never stand quite alike, and work a little against each other.",
    )
    wished_margin: float = Field(default=1.25, ge=1, le=100, description="Reserve from which a verdict is 'holds'.")
    oversized_from: float = Field(
        default=3.0, gt=1, le=1000, description="Reserve above which a smaller class is proposed."
    )
    growth_percent: float = Field(
        default=0.0,
        ge=0,
        le=1000,
        description="What will still be added to every part: bare 25, shell on 10, finished 0.",
    )
    overshoot_deg: Width_deg = Field(default=1.5, description="How far a joint runs past its target, an estimate.")
    heat_window_s: float = Field(
        default=120.0,
        ge=1,
        le=86_400,
        description="How long a servo takes to get hot, an estimate: heat is judged over the worst such window.",
    )
    bump_g: float = Field(
        default=1.0,
        ge=0,
        le=50,
        description="Bump in any direction, in times gravity, that what magnets or springs hold shut must stand.",
    )
    wire_slack_percent: float = Field(
        default=10.0,
        ge=0,
        le=300,
        description="So much longer than the way through the pivots a wire is cut: common practice.",
    )
    wire_tail_mm: float = Field(
        default=40.0,
        ge=0,
        le=2000,
        description="And so much at each end, to open a plug and crimp it anew: common practice.",
    )
    wire_C: float = Field(
        default=50.0,
        ge=-40,
        le=200,
        description="So warm wires get in a closed figure, beside motors and bundled: common practice, no source.",
    )
    band_deg: float = Field(
        default=5.0, ge=0.1, le=180, description="So far off beyond its dead band a hobby servo pushes with all it has."
    )
    servo_lag_s: float = Field(
        default=0.08,
        ge=0,
        le=1,
        description="From a pulse to the servo where it was sent, 60 to 120 ms: common practice.",
    )
    visible_deg: float = Field(default=1.0, ge=0.01, le=90, description="So far past its end a move is seen to shake.")
    visible_mm: float = Field(
        default=0.5, ge=0, le=1000, description="So far at the rim is not seen, however many degrees it is."
    )
    sags_share: Share = Field(
        default=0.02, description="So much of its length a rod may sag at its tip before it is seen."
    )
    gears_rub_share: float = Field(
        default=0.03, ge=0, le=1, description="Share of its stall torque that a servo's gears rub with."
    )
    bearings_rub_share: float = Field(
        default=0.01,
        ge=0,
        le=1,
        description="The same of a joint of which nothing is said, where what rubs would calm it.",
    )
    give_damps: float = Field(
        default=0.03, ge=0, le=1, description="How what gives calms what swings on it: its damping ratio."
    )
    face_band_deg: float = Field(
        default=15.0, ge=0.1, le=180, description="So far up or down from ahead a worn face may look before it is seen."
    )
    tilt_deg: float = Field(default=10.0, ge=0.1, le=89, description="Tilt the figure must stand without tipping.")
