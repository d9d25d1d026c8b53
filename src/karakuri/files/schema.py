"""The JSON Schema of a figure file, made from the model so that the two cannot drift."""

from __future__ import annotations

from typing import Any

from karakuri.model.figure import Figure


def schema() -> dict[str, Any]:
    """The schema (JSON Schema 2020-12) that every .karakuri file obeys."""
    described = Figure.model_json_schema(mode="validation")
    return {"$schema": "https://json-schema.org/draft/2020-12/schema", **described}
