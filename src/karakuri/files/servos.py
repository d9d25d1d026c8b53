"""Servos ↔ text: a list of them as JSON, for a drawer of one's own and to give away.

{"format": "karakuri servos", "version": 1, "servos": [{"name": …, "torque_Nm": …}]}
"""

from __future__ import annotations

import json
from typing import Any

from pydantic_core import ValidationError

from karakuri.errors import Fault, FileTrouble
from karakuri.files.text import MOST_FAULTS, faults_of, parsed, shortened
from karakuri.model.drive import Actuator
from karakuri.values.value import as_data, many_from_json

FORMAT, VERSION, MOST = "karakuri servos", 1, 500


def servos_to_text(servos: tuple[Actuator, ...]) -> str:
    """The servos as text, fields at their default left out."""
    rows = [as_data(servo) for servo in servos]
    return json.dumps({"format": FORMAT, "version": VERSION, "servos": rows}, indent=2, ensure_ascii=False) + "\n"


def servos_from_text(text: str, where: str) -> tuple[Actuator, ...]:
    """The servos of a text. Raises FileTrouble with every fault and its path; nothing is taken then."""
    data = parsed(text, where)
    rows = data.get("servos")
    if data.get("format") != FORMAT or data.get("version") != VERSION or not isinstance(rows, list):
        raise FileTrouble(f"{where} is not a list of servos.", (Fault("format", f"'{FORMAT}', version {VERSION}, and servos", shortened(data.get("format"))),),
                          "Take one that was written from a drawer of servos.")  # fmt: skip
    if len(rows) > MOST:
        raise FileTrouble(f"{where} has {len(rows)} servos; {MOST} at most are kept in a drawer.")
    try:
        return many_from_json(Actuator, json.dumps(rows))
    except ValidationError as trouble:
        faults = [
            fault
            for error in trouble.errors(include_url=False)[:MOST_FAULTS]
            for fault in faults_of(_in_list(error), data)
        ]
        raise FileTrouble(f"{where} has servos that cannot be used; none was taken.", tuple(faults[:MOST_FAULTS]), "Mend these places in a text editor.") from trouble  # fmt: skip


def _in_list(error: Any) -> Any:
    return {**error, "loc": ("servos", *error["loc"])}
