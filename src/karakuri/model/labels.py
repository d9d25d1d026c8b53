"""How the fields of a value are called and shown on its card."""

from __future__ import annotations

from karakuri.frozen import Frozen
from karakuri.values.fields import fields_of
from karakuri.values.value import Value


class Label(Frozen):
    """How a field of an actuator or an element is called and shown: kind of quantity, SI of one unit of the file, and the share an estimate may be off."""

    words: str
    kind: str
    si: float = 1.0
    share: float = 0.0


def labels_of(kind: type[Value]) -> dict[str, Label]:
    """The numbers of a kind of value by field, in the order of its card."""
    found = {}
    for name, field in fields_of(kind).items():
        label = next((m for m in field.metadata if isinstance(m, Label)), None)
        if label is not None:
            found[name] = label
    return found
