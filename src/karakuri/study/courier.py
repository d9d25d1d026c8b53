"""Figures and studies between two processes: what was sent once is named by its number from then on.

So both sides keep one object for each value, what did not change stays the same object, and an edit sends little more than itself.
"""

from __future__ import annotations

import io
import pickle
from collections.abc import Iterable
from typing import Any

from karakuri.frozen import Frozen
from karakuri.values.value import Value

MOST, MOST_BYTES = 6000, 8 * 2**20
WINDOW, STUDY = 0, 1
ANEW = b"anew"


class Courier:
    """One end of a line: `origin` is WINDOW or STUDY. Each end numbers what it sends; both keep what either sent.

    After many things an end begins anew, so that neither keeps all there ever was: the window says so before its next message, for then
    the answers under way are lost with it; the other end within its message.
    """

    def __init__(self, origin: int) -> None:
        self._origin = origin
        self._things: tuple[dict[int, object], dict[int, object]] = ({}, {})
        self._known: dict[int, tuple[int, int]] = {}
        self._bytes = 0

    @property
    def full(self) -> bool:
        """Whether it is time to begin anew."""
        return len(self._things[self._origin]) > MOST or self._bytes > MOST_BYTES

    def clear(self) -> None:
        """Forget all that was sent, both ways."""
        self._forget(WINDOW)
        self._forget(STUDY)

    def pack(self, message: object, shared: Iterable[object] = ()) -> bytes:
        """A message, with the figure's values in it and the `shared` things that were not sent before."""
        clear = self._origin == STUDY and self.full
        if clear:
            self._forget(STUDY)
        fresh: list[bytes] = []
        if self._origin == WINDOW:
            self._number_values(message, fresh)
        for thing in shared:
            self._number(thing, fresh)
        first = len(self._things[self._origin]) - len(fresh)
        self._bytes += sum(map(len, fresh))
        return pickle.dumps((clear, first, fresh, _dumped(message, self._known)), protocol=5)

    def unpack(self, data: bytes) -> Any:
        """The other end's message; what either end sent before is the object it was."""
        other = 1 - self._origin
        clear, first, fresh, message = pickle.loads(data)
        if clear:
            self._forget(other)
        for number, packed in enumerate(fresh, first):
            self._keep(other, number, _Reader(packed, self._things).load())
        return _Reader(message, self._things).load()

    def _forget(self, origin: int) -> None:
        for thing in self._things[origin].values():
            self._known.pop(id(thing), None)
        self._things[origin].clear()
        if origin == self._origin:
            self._bytes = 0

    def _keep(self, origin: int, number: int, thing: object) -> None:
        self._things[origin][number] = thing
        self._known[id(thing)] = (origin, number)

    def _number(self, thing: object, fresh: list[bytes]) -> None:
        if id(thing) not in self._known:
            fresh.append(_dumped(thing, self._known))
            self._keep(self._origin, len(self._things[self._origin]), thing)

    def _number_values(self, thing: object, fresh: list[bytes]) -> None:
        """Every value in a message, those inside others first."""
        if isinstance(thing, Value):
            if id(thing) not in self._known:
                for _, inside in thing:
                    self._number_values(inside, fresh)
                self._number(thing, fresh)
        elif isinstance(thing, tuple):
            if not (thing and isinstance(thing[0], int | float | str)):
                for each in thing:
                    self._number_values(each, fresh)
        elif isinstance(thing, Frozen):
            for name in thing.__struct_fields__:
                self._number_values(getattr(thing, name), fresh)


def sent(origin: int, number: int) -> object:
    """Stands in a message for the thing of that number; the reader puts its own table in this place."""
    raise NotImplementedError(origin, number)


class _Writer(pickle.Pickler):
    def __init__(self, file: io.BytesIO, known: dict[int, tuple[int, int]]) -> None:
        super().__init__(file, protocol=5)
        self._known = known

    def reducer_override(self, obj: object) -> Any:
        """Its number, where a thing was sent before. Asked for instances only, unlike persistent_id, which costs five times as much."""
        known = self._known.get(id(obj))
        return (sent, known) if known is not None else NotImplemented


class _Reader(pickle.Unpickler):
    def __init__(self, data: bytes, things: tuple[dict[int, object], dict[int, object]]) -> None:
        super().__init__(io.BytesIO(data))
        self._things = things

    def find_class(self, module: str, name: str) -> Any:
        """As ever, but for what stands for a thing that was sent."""
        if name == sent.__name__ and module == sent.__module__:
            return lambda origin, number: self._things[origin][number]
        return super().find_class(module, name)


def _dumped(thing: object, known: dict[int, tuple[int, int]]) -> bytes:
    out = io.BytesIO()
    _Writer(out, known).dump(thing)
    return out.getvalue()
