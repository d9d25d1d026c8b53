"""Figure ↔ text: UTF-8 JSON, stable key order, two-space indent. Every fault of a bad text is told with its path."""

from __future__ import annotations

import json
from typing import Any

from pydantic import ValidationError

from karakuri.errors import Fault, FileTrouble
from karakuri.model.figure import FORMAT, VERSION, Figure

_FIX = "Nothing was changed. Mend these places in a text editor and open it again."


def to_text(figure: Figure) -> str:
    """The figure as text; fields that have their default are left out, so that files stay short and diff well."""
    data = figure.model_dump(mode="json", exclude_defaults=True)
    return json.dumps({"format": FORMAT, "version": VERSION, **data}, indent=2, ensure_ascii=False) + "\n"


def from_text(text: str, where: str = "the text") -> Figure:
    """Parse → version → structure → cross-references. Raises FileTrouble with every fault and its path."""
    data = _parsed(text, where)
    _known_version(data, where)
    try:
        return Figure.model_validate_json(text)
    except ValidationError as trouble:
        faults = tuple(fault for error in trouble.errors() for fault in _faults(error, data))
        raise FileTrouble(
            f"{where} is not a figure that can be used: {len(faults)} "
            f"{'place' if len(faults) == 1 else 'places'} to mend.",
            faults,
            _FIX,
        ) from trouble


def _parsed(text: str, where: str) -> dict[str, Any]:
    try:
        data = json.loads(text)
    except json.JSONDecodeError as trouble:
        fault = Fault(f"line {trouble.lineno}, column {trouble.colno}", "JSON", trouble.msg)
        raise FileTrouble(f"{where} is not JSON, so it cannot be read.", (fault,), _FIX) from trouble
    except RecursionError as trouble:
        fault = Fault("the whole", "JSON nested a few levels deep", "thousands of levels")
        raise FileTrouble(f"{where} cannot be read.", (fault,), _FIX) from trouble
    if not isinstance(data, dict):
        fault = Fault("the whole", "an object { … }", type(data).__name__)
        raise FileTrouble(f"{where} is JSON but not a figure.", (fault,), _FIX)
    return data


def _known_version(data: dict[str, Any], where: str) -> None:
    if data.get("format", FORMAT) != FORMAT:
        fault = Fault("format", f'"{FORMAT}"', repr(data.get("format")))
        raise FileTrouble(f"{where} is another kind of file.", (fault,), _FIX)
    version = data.get("version", VERSION)
    if isinstance(version, int) and version > VERSION:
        fault = Fault("version", f"at most {VERSION}", str(version))
        raise FileTrouble(
            f"{where} was written by a newer Karakuri.",
            (fault,),
            "Nothing was changed. Open it with that newer version.",
        )


def _faults(error: Any, data: dict[str, Any]) -> list[Fault]:
    path = _path(error["loc"], data)
    message = str(error["msg"]).removeprefix("Value error, ")
    if error["type"] == "value_error":
        return [_cross_fault(path, piece) for piece in message.split("; ")]
    if error["type"] == "extra_forbidden":
        return [Fault(path, "no such field (see the schema)", "this field")]
    if error["type"] in ("union_tag_not_found", "union_tag_invalid"):
        kind = error["input"].get("kind") if isinstance(error["input"], dict) else error["input"]
        return [
            Fault(
                f"{path}.kind",
                error["ctx"].get("expected_tags") or "a kind: box, sphere, ellipsoid, cylinder or point",
                _short(kind) if kind is not None else "none",
            )
        ]
    if error["type"] == "missing":
        return [Fault(path, "a value", "nothing")]
    return [Fault(path, message.removeprefix("Input should be ").removeprefix("a valid "), _short(error.get("input")))]


def _cross_fault(path: str, piece: str) -> Fault:
    head, colon, rest = piece.partition(": ")
    if colon and path == "the whole":
        return Fault(head, "references that exist and are used once", rest)
    return Fault(path, "values that go together", piece)


def _short(value: Any) -> str:
    text = json.dumps(value, ensure_ascii=False, default=str)
    return text if len(text) <= 60 else text[:57] + "…"


def _path(loc: tuple[Any, ...], data: Any) -> str:
    """parts[2].at_mm[0], with the id of a list's item where it has one."""
    shown, here = "", data
    for bit in loc:
        if isinstance(bit, int):
            here = here[bit] if isinstance(here, list) and bit < len(here) else None
            name = here.get("id") if isinstance(here, dict) else None
            shown += f"[{name if isinstance(name, str) else bit}]"
        elif isinstance(here, dict) and bit in here:
            shown, here = f"{shown}.{bit}", here[bit]
        elif not (isinstance(here, dict) and here.get("kind") == bit):
            shown = f"{shown}.{bit}"
    return shown.lstrip(".") or "the whole"
