"""What goes on after what: steps of putting together, putting on and measuring, what each needs to be there, and what it shuts off."""

from typing import Annotated, Literal

from karakuri.model.base import Identifier, Name
from karakuri.values.fields import Field
from karakuri.values.value import Value

DoingKind = Literal["put", "wear", "measure"]
Ids = Annotated[tuple[Identifier, ...], Field(max_length=100)]


class Doing(Value):
    """One step. Of a measurement, what it needs is what must be on while it is taken."""

    id: Identifier
    name: Name
    kind: DoingKind = Field(default="put", description="put together, put on the wearer, or measured.")
    needs: Ids = Field(default=(), description="Steps that must be done before: what it sits on, in or through.")
    shuts: Ids = Field(
        default=(), description="Steps that cannot be done any more after it: not reached, or not pushed in."
    )
    for_good: bool = Field(default=False, description="Glued or otherwise never taken back.")
    helper: bool = Field(default=False, description="Wants a second person.")
    minutes: float = Field(default=1.0, ge=0, le=10_000)
    apart: bool = Field(default=False, description="Comes off for transport.")
    done: bool = False
