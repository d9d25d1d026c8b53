"""Texts of figures as they were written before, as they are written today. Nothing is judged here: what is wrong stays wrong, and is told of."""

from __future__ import annotations

import json
from typing import Any

from karakuri.model.figure import VERSION

OLD_LIFE = "idle"


def as_now(data: dict[str, Any]) -> str | None:
    """A text of today for one as it was written before; None where nothing of it is written otherwise today. `data` becomes what the text
    says, so that faults are looked up in it."""
    changed = _direct_drives(data)
    changed = _numbered(data) or changed
    version = data.get("version")
    if version is None or (type(version) is int and version == 1):
        changed = _one_score(data) or changed
        if version == 1:
            data["version"], changed = VERSION, True
    return json.dumps(data) if changed else None


def _direct_drives(data: dict[str, Any]) -> bool:
    """Drives said their kind while there was only one."""
    drives = data.get("drives")
    before = [each for each in drives if isinstance(each, dict) and each.get("kind") == "direct"] if isinstance(drives, list) else []  # fmt: skip
    for drive in before:
        del drive["kind"]
    return bool(before)


def _numbered(data: dict[str, Any]) -> bool:
    """Servos said the number of their output themselves, while there were no boards."""
    drives = data.get("drives")
    if not isinstance(drives, list) or "boards" in data or "plugs" in data:
        return False
    before = [each for each in drives if isinstance(each, dict) and "output" in each]
    numbers = [(drive, drive.pop("output")) for drive in before]
    plugged = [(drive, n) for drive, n in numbers if n is not None]
    if plugged:
        ids = {str(drive.get("id")) for drive in drives if isinstance(drive, dict)}
        data["boards"] = [{"id": _free("board", ids), "name": "Board", "kind": "line"}]
        data["plugs"] = [
            {"id": f"plug_{k + 1}", "board": data["boards"][0]["id"], "of": "drive", "item": drive.get("id"), "pins": [["signal", str(n) if type(n) is int else n]]}
            for k, (drive, n) in enumerate(plugged)
        ]  # fmt: skip
    return bool(before)


def _one_score(data: dict[str, Any]) -> bool:
    """There was one score, and its pins and its idle life stood in fields of their own."""
    if "score" not in data:
        return False
    score = data.pop("score")
    if not isinstance(score, dict) or "scores" in data:
        data.setdefault("scores", score if isinstance(score, list) else [score])
        return True
    pins, idle = score.pop("pins", None), score.pop("idle", None)
    makers: list[Any] = []
    if pins is not None:
        makers += [{"kind": "pin", **pin} if isinstance(pin, dict) else pin for pin in pins] if isinstance(pins, list) else [pins]  # fmt: skip
    known = {pin["id"] for pin in makers if isinstance(pin, dict) and isinstance(pin.get("id"), str)}
    life = _free("life", known)
    if _renamed(score, known, life) or idle is not None:
        makers.append({"kind": "life", "id": life, **idle} if isinstance(idle, dict) else idle or {"kind": "life", "id": life})  # fmt: skip
    if makers:
        score["makers"] = makers
    data["scores"] = [{"id": "score", **score}]
    return True


def _free(name: str, taken: set[str]) -> str:
    n, found = 2, name
    while found in taken:
        n, found = n + 1, f"{name}_{n}"
    return found


def _renamed(score: dict[str, Any], pins: set[str], life: str) -> bool:
    """Moves of idle life say so by its id, those of a pin that is gone are by hand; whether there were any of idle life."""
    channels, lived = score.get("channels"), False
    for channel in channels if isinstance(channels, list) else ():
        moves = channel.get("moves") if isinstance(channel, dict) else None
        by = moves.get("made_by") if isinstance(moves, dict) else None
        if isinstance(moves, dict) and isinstance(by, list):
            lived = lived or OLD_LIFE in by
            moves["made_by"] = [
                life if word == OLD_LIFE else word if not isinstance(word, str) or word in pins else "" for word in by
            ]
    return lived
