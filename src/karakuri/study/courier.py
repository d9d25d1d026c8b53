"""Figures and studies between two processes: a value of the figure that was sent once is named by its number from then on.

So both sides keep one object for each value, what did not change stays the same object, and an edit sends little more than itself.
"""

from __future__ import annotations

import io
import pickle
from typing import Any

from karakuri.model.base import Value

MOST_VALUES = 6000
ANEW = b"anew"


class Sender:
    """Numbers the values it sends. After many, `anew` says that both sides begin again, so that neither keeps all there ever was."""

    def __init__(self) -> None:
        self.known: dict[int, tuple[int, Value]] = {}
        self.values: dict[int, Value] = {}

    @property
    def full(self) -> bool:
        """Whether it is time to begin anew."""
        return len(self.values) > MOST_VALUES

    def clear(self) -> None:
        """Forget what was sent."""
        self.known.clear()
        self.values.clear()

    def pack(self, message: object) -> bytes:
        """A message of plain dataclasses and values, with all values that were not sent before."""
        fresh: list[tuple[int, bytes]] = []
        self._number(message, fresh)
        return pickle.dumps((fresh, _dumped(message, self.known)), protocol=5)

    def unpack(self, data: bytes) -> Any:
        """What the other side sent back: values it was sent are the objects that were sent."""
        return _Reader(data, self.values).load()

    def _number(self, thing: object, fresh: list[tuple[int, bytes]]) -> None:
        if isinstance(thing, Value):
            if id(thing) in self.known:
                return
            for _, inside in thing:
                self._number(inside, fresh)
            number = len(self.values)
            fresh.append((number, _dumped(thing, self.known)))
            self.known[id(thing)] = (number, thing)
            self.values[number] = thing
        elif isinstance(thing, tuple):
            if thing and isinstance(thing[0], int | float | str):
                return
            for each in thing:
                self._number(each, fresh)
        elif hasattr(thing, "__dataclass_fields__"):
            for name in thing.__dataclass_fields__:
                self._number(getattr(thing, name), fresh)


class Receiver:
    """The other side: unpacks what a Sender packed, and packs answers that name its values by number."""

    def __init__(self) -> None:
        self.values: dict[int, Value] = {}
        self._known: dict[int, tuple[int, Value]] = {}

    def clear(self) -> None:
        """Forget what was sent."""
        self.values.clear()
        self._known.clear()

    def unpack(self, data: bytes) -> Any:
        """The message."""
        fresh, message = pickle.loads(data)
        for number, packed in fresh:
            value = _Reader(packed, self.values).load()
            self.values[number] = value
            self._known[id(value)] = (number, value)
        return _Reader(message, self.values).load()

    def pack(self, message: object) -> bytes:
        """An answer."""
        return _dumped(message, self._known)


def sent(number: int) -> Value:
    """Stands in a message for the value of that number; the reader puts its own table in this place."""
    raise NotImplementedError(number)


class _Writer(pickle.Pickler):
    def __init__(self, file: io.BytesIO, known: dict[int, tuple[int, Value]]) -> None:
        super().__init__(file, protocol=5)
        self._known = known

    def reducer_override(self, obj: object) -> Any:
        """Its number, where a value was sent before. Asked for instances only, unlike persistent_id, which costs five times as much."""
        known = self._known.get(id(obj)) if isinstance(obj, Value) else None
        return (sent, (known[0],)) if known is not None else NotImplemented


class _Reader(pickle.Unpickler):
    def __init__(self, data: bytes, values: dict[int, Value]) -> None:
        super().__init__(io.BytesIO(data))
        self._values = values

    def find_class(self, module: str, name: str) -> Any:
        """As ever, but for what stands for a value that was sent."""
        if name == sent.__name__ and module == sent.__module__:
            return self._values.__getitem__
        return super().find_class(module, name)


def _dumped(thing: object, known: dict[int, tuple[int, Value]]) -> bytes:
    out = io.BytesIO()
    _Writer(out, known).dump(thing)
    return out.getvalue()
