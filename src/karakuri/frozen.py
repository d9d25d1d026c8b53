"""What a result is made of."""

from __future__ import annotations

from typing import dataclass_transform

from msgspec import Struct, field


@dataclass_transform(frozen_default=True, field_specifiers=(field,))
class Frozen(Struct, frozen=True, dict=True, weakref=True):
    """Fields with names, set once, equal where all are equal. Not checked: for what the program itself makes. A changed one is made by `replace` of msgspec.structs."""
