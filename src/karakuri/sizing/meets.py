"""What stops what from curing, eats it, or does not stick to it: looked up, never guessed."""

from __future__ import annotations

from functools import lru_cache
from typing import Literal

from karakuri.catalogue import meeting
from karakuri.frozen import Frozen
from karakuri.model.finding import Verdict

What = Literal["stops the cure", "eats it", "does not stick", "fine", "not known"]
VERDICTS: dict[What, Verdict] = {
    "stops the cure": "fails",
    "eats it": "fails",
    "does not stick": "fails",
    "fine": "holds",
    "not known": "not yet judged",
}


class Met(Frozen):
    """Two that meet: what happens, why, what goes between, how long to wait, and who says so."""

    what: What
    why: str
    between: str
    wait: str
    source: str

    @property
    def verdict(self) -> Verdict:
        """Of what happens, as findings have it."""
        return VERDICTS[self.what]


def wet_ones() -> dict[str, str]:
    """What is put on wet, by id, in words."""
    return {row["id"]: row["name"] for row in meeting()["wet"]}


def dry_ones() -> dict[str, str]:
    """What it is put on, by id, in words."""
    return {row["id"]: row["name"] for row in meeting()["on"]}


@lru_cache(maxsize=1)
def _table() -> dict[tuple[str, str], Met]:
    rows = meeting()["rows"]
    return {(r["wet"], r["on"]): Met(r["what"], r["why"], r["between"], r["wait"], r["source"]) for r in rows}


def met(wet: str, on: str) -> Met:
    """What happens where one is put wet on the other, by their ids; 'not known' where nobody wrote it down."""
    return _table().get((wet, on)) or Met("not known", "nobody wrote it down here", "", "", "")


def troubles(on: str) -> tuple[tuple[str, Met], ...]:
    """Everything that must not go on something as it is: id of what is wet, and what happens."""
    return tuple((wet, found) for (wet, dry), found in _table().items() if dry == on and found.verdict == "fails")
