"""How a figure stands or is carried: postures, and the base with what is under it."""

from typing import Annotated, Literal, Self

from karakuri.model.base import Coordinate_mm, Identifier, Name
from karakuri.model.worn import WayKind, Worn
from karakuri.values.fields import Field
from karakuri.values.value import Value

Acceleration = tuple[
    Annotated[float, Field(ge=-1000, le=1000)],
    Annotated[float, Field(ge=-1000, le=1000)],
    Annotated[float, Field(ge=-1000, le=1000)],
]


class Posture(Value):
    """How the base stands or is moved: rolled about x (left side up +), then leaned about y (nose-down +). Of a worn figure, how far its
    wearer's trunk leans, and the head, which the base then does as far as it rides on them."""

    id: Identifier
    name: Name
    lean_deg: float = Field(default=0.0, ge=-180, le=180)
    roll_deg: float = Field(default=0.0, ge=-180, le=180)
    acceleration_mps2: Acceleration = Field(
        default=(0.0, 0.0, 0.0), description="Of the base, in the base's own frame."
    )
    head_deg: float | None = Field(
        default=None,
        ge=-180,
        le=180,
        description="Of a worn figure: how far the wearer's head leans forward from upright; left out: as the trunk.",
    )
    lasts_s: float | None = Field(
        default=None, ge=0.1, le=86_400, description="How long it is kept up at a time; left out: guessed."
    )
    faces: bool = Field(
        default=True, description="Of a worn figure: whether its face should look straight ahead in it."
    )


class Base(Value):
    """What the figure stands on: the outline of its feet, seen from above, in the base's frame."""

    outline_mm: tuple[tuple[Coordinate_mm, Coordinate_mm], ...] = Field(
        default=((-100.0, -100.0), (100.0, -100.0), (100.0, 100.0), (-100.0, 100.0)), max_length=500
    )
    floor_mm: Coordinate_mm = Field(default=0.0, description="Height of the floor under the outline.")
    stands_on: Name = "a table"
    held: Literal["stands", "fixed", "worn"] = Field(
        default="stands",
        description="Only what stands can tip: fixed is screwed or clamped down, worn is carried by a person.",
    )
    worn: Worn = Field(default_factory=Worn, description="How it is worn; counts where it is.")

    def _check(self) -> Self:
        if len(self.outline_mm) < 3:
            raise ValueError(f"an outline needs at least 3 corners, not {len(self.outline_mm)}")
        xs, ys = [c[0] for c in self.outline_mm], [c[1] for c in self.outline_mm]
        if max(xs) - min(xs) < 1e-6 or max(ys) - min(ys) < 1e-6:
            raise ValueError("an outline needs a width and a depth")
        return self


def stance(base: Base, posture: Posture, by: WayKind) -> Posture:
    """The posture of the base of a figure that is worn in that way: it leans with head or trunk, or hangs level, less its pitch."""
    head = posture.lean_deg if posture.head_deg is None else posture.head_deg
    leans = {"head": head, "shoulders": posture.lean_deg, "rods": posture.lean_deg, "gimbal": 0.0}[by]
    roll = 0.0 if by == "gimbal" else posture.roll_deg
    lean = (leans - base.worn.pitch_deg + 180) % 360 - 180
    return Posture(**(dict(posture) | {"lean_deg": lean, "roll_deg": roll}))
