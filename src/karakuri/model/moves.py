"""The moves of one ribbon: one immutable block of columns; an edit replaces one block."""

from itertools import pairwise
from typing import Annotated, Any, NamedTuple, Self

from karakuri.model.base import Time_s
from karakuri.model.profiles import DEFAULT_SHAPE, DESCRIBED, ProfileKind
from karakuri.values.fields import FailFast, Field
from karakuri.values.value import Value

MOST_MOVES, LEAST_MOVE_S = 200_000, 1e-4
Target = Annotated[float, Field(ge=-20_000, le=20_000)]
MadeBy = Annotated[str, Field(max_length=60)]


class Row(NamedTuple):
    """One move: s, s, degrees (mm for a slide, percent for a light), profile, its number, which maker wrote it."""

    departs: float
    takes: float
    target: float
    profile: ProfileKind = "minimum jerk"
    shape: float = 0.0
    made_by: str = ""


class Moves(Value):
    """The moves of one channel as columns of equal length, in order of departure."""

    departs_s: Annotated[tuple[Time_s, ...], FailFast()] = Field(default=(), max_length=MOST_MOVES)
    takes_s: Annotated[tuple[Time_s, ...], FailFast()] = ()
    target: Annotated[tuple[Target, ...], FailFast()] = Field(
        default=(), description="Degrees; mm for a sliding joint; percent for a light."
    )
    profile: Annotated[tuple[ProfileKind, ...], FailFast()] = Field(
        default=(), description="Left out: minimum jerk throughout."
    )
    shape: Annotated[tuple[Time_s, ...], FailFast()] = Field(
        default=(),
        description="Ramp share of a trapezoid, time constant in s of following, else 0. Left out: as usual.",
    )
    made_by: Annotated[tuple[MadeBy, ...], FailFast()] = Field(
        default=(), description="The id of the maker that wrote it; empty or left out: by hand."
    )

    @classmethod
    def _read(cls, data: Any) -> Any:
        if not isinstance(data, dict):
            return data
        data = {key: tuple(value) if isinstance(value, list) else value for key, value in data.items()}
        n = len(data["departs_s"]) if isinstance(data.get("departs_s"), tuple) else 0
        profile = data.get("profile") or ("minimum jerk",) * n
        if not isinstance(profile, tuple):
            return data
        usual = tuple(DEFAULT_SHAPE.get(kind, 0.0) if isinstance(kind, str) else 0.0 for kind in profile)
        return data | {
            "profile": profile,
            "shape": data.get("shape") or usual,
            "made_by": data.get("made_by") or ("",) * n,
        }

    def _check(self) -> Self:
        n = len(self.departs_s)
        for name in ("takes_s", "target", "profile", "shape", "made_by"):
            if len(getattr(self, name)) != n:
                raise ValueError(f"departs_s has {n} entries, {name} has {len(getattr(self, name))}")
        for k, (a, b) in enumerate(pairwise(self.departs_s)):
            if b < a:
                raise ValueError(f"times run forwards: move {k + 2} departs at {b:g} s, before {a:g} s")
        short = next((k for k, takes in enumerate(self.takes_s) if 0 < takes < LEAST_MOVE_S), None)
        if short is not None:
            raise ValueError(
                f"a move takes 0 s or at least {LEAST_MOVE_S:g} s, move {short + 1} takes {self.takes_s[short]:g} s"
            )
        for kind, shape in zip(self.profile, self.shape, strict=True):
            own = DESCRIBED[kind].shape
            if own is not None and not own.least <= shape <= own.most:
                raise ValueError(f"{own.bounds}, not {shape:g}")
        return self

    def __len__(self) -> int:
        return len(self.departs_s)

    def row(self, k: int) -> Row:
        """One move. Raises IndexError."""
        return Row(self.departs_s[k], self.takes_s[k], self.target[k], self.profile[k], self.shape[k], self.made_by[k])

    def rows(self) -> tuple[Row, ...]:
        """All moves, as rows."""
        return tuple(
            map(
                Row._make,
                zip(self.departs_s, self.takes_s, self.target, self.profile, self.shape, self.made_by, strict=True),
            )
        )


def moves_of(rows: list[Row] | tuple[Row, ...]) -> Moves:
    """A block from rows in any order; equal departures keep their order."""
    ordered = sorted(rows, key=lambda row: row.departs)
    columns: tuple[tuple[Any, ...], ...] = tuple(zip(*ordered, strict=True)) if ordered else ((),) * 6
    return Moves(
        departs_s=columns[0],
        takes_s=columns[1],
        target=columns[2],
        profile=columns[3],
        shape=columns[4],
        made_by=columns[5],
    )
