"""Identifiers of new things."""

from __future__ import annotations

import re

from karakuri.model.figure import KINDS, Figure


def new_id(figure: Figure, name: str, taken: set[str] | None = None) -> str:
    """An identifier made from a name that nothing in the figure uses yet, nor any of those `taken`, which it then joins."""
    stem = re.sub(r"[^a-z0-9]+", "_", name.lower()).strip("_") or "part"
    if not stem[0].isalpha():
        stem = "n_" + stem
    stem = stem[:50]
    used = {item.id for kind in KINDS for item in getattr(figure, kind)} | {"base", "life"}
    used |= {
        item.id
        for score in figure.scores
        for kind in ("channels", "makers", "sections")
        for item in getattr(score, kind)
    }
    if figure.behaviour is not None:
        used |= {item.id for kind in ("states", "starts", "inputs") for item in getattr(figure.behaviour, kind)}
    if figure.steering is not None:
        used |= {grip.id for grip in figure.steering.grips}
    if figure.power is not None:
        used |= {load.id for load in figure.power.loads}
    used |= taken or set()
    candidate, n = stem, 2
    while candidate in used:
        candidate, n = f"{stem}_{n}", n + 1
    if taken is not None:
        taken.add(candidate)
    return candidate
