"""Figure ↔ text: UTF-8 JSON, stable key order, two-space indent. Every fault of a bad text is told with its path."""

from __future__ import annotations

import json
from typing import Any

from pydantic_core import ValidationError

from karakuri.errors import Fault, FileTrouble
from karakuri.files.migrate import as_now
from karakuri.model.base import plain
from karakuri.model.edit import expected
from karakuri.model.figure import FORMAT, VERSION, Figure
from karakuri.values.value import as_data

_FIX = "Nothing was changed. Mend these places in a text editor and open it again."
MOST_FAULTS, MOST_ERRORS = 20, 50_000


def to_text(figure: Figure) -> str:
    """The figure as text; fields that have their default are left out, so that files stay short and diff well."""
    data = as_data(figure)
    return json.dumps({"format": FORMAT, "version": VERSION, **data}, indent=2, ensure_ascii=False) + "\n"


def from_text(text: str, where: str = "the text") -> Figure:
    """Parse → version → structure → cross-references. Raises FileTrouble with every fault and its path, twenty at most."""
    data = parsed(text, where)
    _known_version(data, where)
    text = as_now(data) or text
    try:
        return Figure.from_json(text)
    except ValidationError as trouble:
        count = trouble.error_count()
        errors = trouble.errors(include_url=False) if count <= MOST_ERRORS else []
        faults = [fault for error in errors[:MOST_FAULTS] for fault in faults_of(error, data)][:MOST_FAULTS]
        if not faults:
            faults = [
                Fault(
                    "the whole",
                    f"a figure with a few faults at most, listed here up to {MOST_ERRORS}",
                    f"{count} of them",
                )
            ]
        more = f", the first {len(faults)} are told" if count > len(faults) else ""
        raise FileTrouble(
            f"{where} is not a figure that can be used: {max(count, len(faults))} "
            f"{'place' if max(count, len(faults)) == 1 else 'places'} to mend{more}.",
            tuple(faults),
            _FIX,
        ) from trouble


def _kinds_of(path: str) -> str:
    """Which kinds there are of what stands at a path."""
    if path.startswith("elements"):
        return "a kind: spring, elastic, strut, pad, magnets, cord or torsion"
    return "a kind: box, sphere, ellipsoid, cylinder or point" if path.startswith("parts") else "a kind (see the schema)"  # fmt: skip


def parsed(text: str, where: str) -> dict[str, Any]:
    """JSON with an object at its head, each field once. Raises FileTrouble."""
    twice: list[str] = []

    def once(pairs: list[tuple[str, Any]]) -> dict[str, Any]:
        mapping = dict(pairs)
        if len(mapping) < len(pairs) and len(twice) < MOST_FAULTS:
            names = [name for name, _ in pairs]
            twice.extend(sorted({name for name in names if names.count(name) > 1}))
        return mapping

    try:
        data = json.loads(text, object_pairs_hook=once)
    except json.JSONDecodeError as trouble:
        fault = Fault(f"line {trouble.lineno}, column {trouble.colno}", "JSON", trouble.msg)
        raise FileTrouble(f"{where} is not JSON, so it cannot be read.", (fault,), _FIX) from trouble
    except RecursionError as trouble:
        fault = Fault("the whole", "JSON nested a few levels deep", "thousands of levels")
        raise FileTrouble(f"{where} cannot be read.", (fault,), _FIX) from trouble
    except ValueError as trouble:
        fault = Fault("the whole", "numbers of a few digits", "one with thousands of digits")
        raise FileTrouble(f"{where} cannot be read.", (fault,), _FIX) from trouble
    if twice:
        named = tuple(Fault(shortened(name), "each field once", "twice in one place") for name in twice[:MOST_FAULTS])
        raise FileTrouble(f"{where} says something twice, so it is not clear what it means.", named, _FIX)
    if not isinstance(data, dict):
        fault = Fault("the whole", "an object { … }", type(data).__name__)
        raise FileTrouble(f"{where} is JSON but not a figure.", (fault,), _FIX)
    return data


def _known_version(data: dict[str, Any], where: str) -> None:
    if data.get("format", FORMAT) != FORMAT:
        fault = Fault("format", f'"{FORMAT}"', shortened(data.get("format")))
        raise FileTrouble(f"{where} is another kind of file.", (fault,), _FIX)
    version = data.get("version", VERSION)
    if isinstance(version, int) and version > VERSION:
        fault = Fault("version", f"at most {VERSION}", str(version))
        raise FileTrouble(
            f"{where} was written by a newer Karakuri.",
            (fault,),
            "Nothing was changed. Open it with that newer version.",
        )


def faults_of(error: Any, data: dict[str, Any]) -> list[Fault]:
    """One fault of pydantic's as ours: one, or more where several references are wrong."""
    path = place_of(error["loc"], data)
    message = str(error["msg"]).removeprefix("Value error, ")
    if error["type"] == "value_error":
        return [_cross_fault(path, piece) for piece in message.split("; ", MOST_FAULTS)[:MOST_FAULTS]]
    if error["type"] == "extra_forbidden":
        return [Fault(path, "no such field (see the schema)", "this field")]
    if error["type"] in ("union_tag_not_found", "union_tag_invalid"):
        kind = error["input"].get("kind") if isinstance(error["input"], dict) else error["input"]
        return [
            Fault(
                f"{path}.kind",
                error["ctx"].get("expected_tags") or _kinds_of(path),
                shortened(kind) if kind is not None else "none",
            )
        ]
    if error["type"] == "missing":
        return [Fault(path, "a value", "nothing")]
    return [Fault(path, expected(error), shortened(error.get("input")))]


def _cross_fault(path: str, piece: str) -> Fault:
    head, colon, rest = piece.partition(": ")
    if colon and path == "the whole":
        return Fault(head, "references that exist and are used once", rest)
    return Fault(path, "values that go together", piece)


def shortened(value: Any) -> str:
    """What was found, on one line that a terminal may show."""
    if isinstance(value, (dict, list)):
        return f"{'an object' if isinstance(value, dict) else 'a list'} of {len(value)}"
    text = (
        json.dumps(value, ensure_ascii=False, default=str)
        if not isinstance(value, str)
        else json.dumps(plain(value[:80]), ensure_ascii=False)
    )
    return text if len(text) <= 60 else text[:57] + "…"


def place_of(loc: tuple[Any, ...], data: Any) -> str:
    """parts[2].at_mm[0], with the id of a list's item where it has one."""
    shown, here = "", data
    for bit in loc:
        if isinstance(bit, int):
            here = here[bit] if isinstance(here, list) and bit < len(here) else None
            name = here.get("id") if isinstance(here, dict) else None
            shown += f"[{plain(name[:60]) if isinstance(name, str) else bit}]"
        elif isinstance(here, dict) and bit in here:
            shown, here = f"{shown}.{bit}", here[bit]
        elif not (isinstance(here, dict) and here.get("kind", "joint" if ".channels[" in shown else None) == bit):
            shown = f"{shown}.{plain(str(bit)[:60])}"
    return shown.lstrip(".") or "the whole"
