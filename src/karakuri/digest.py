"""A value's digest: equal for equal numbers, whoever made them. What is kept is kept under these."""

from __future__ import annotations

from hashlib import blake2b

import numpy as np

from karakuri.frozen import Frozen
from karakuri.values.value import Value

SIZE = 16
_PLAIN = frozenset((int, float, bool, str))


def digest(value: object) -> bytes:
    """16 bytes for a value of numbers, texts, tuples, arrays, frozen fields and values of the model. Raises TypeError for anything else.

    What is frozen remembers its own, so that a part shared by many values is gone through once.
    """
    out: list[bytes] = []
    _walk(value, out)
    return blake2b(b"".join(out), digest_size=SIZE).digest()


def _walk(value: object, out: list[bytes]) -> None:
    kind = type(value)
    if kind is float or kind is int or kind is str or kind is bool:
        out.append(f"{value!r};".encode())
    elif isinstance(value, np.ndarray):
        out.append(f"a{value.dtype.char}{value.shape}".encode())
        out.append(value.tobytes())
    elif isinstance(value, tuple):
        if _PLAIN.issuperset(map(type, value)):
            out.append(repr(value).encode())
            return
        out.append(f"({len(value)}".encode())
        for each in value:
            _walk(each, out)
    elif value is None or isinstance(value, bool | int | float | str | bytes):
        out.append(f"{value!r};".encode())
    elif isinstance(value, Frozen):
        out.append(_of_fields(value))
    elif isinstance(value, Value):
        out.append(f"<{type(value).__name__}".encode())
        _walk(tuple(each for _, each in value), out)
    else:
        raise TypeError(f"{type(value).__name__} has no digest")


def _of_fields(value: Frozen) -> bytes:
    known: bytes | None = value.__dict__.get("_digest")
    if known is None:
        inside: list[bytes] = [f"<{type(value).__name__}".encode()]
        for name in value.__struct_fields__:
            _walk(getattr(value, name), inside)
        known = blake2b(b"".join(inside), digest_size=SIZE).digest()
        value.__dict__["_digest"] = known
    return known
