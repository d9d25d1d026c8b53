"""Tables of a living player: as numbers, as C++ text, and how many bytes of flash they take."""

from __future__ import annotations

from collections.abc import Iterable

NONE, NOWHERE = -32768, 255


class Rows:
    """Tables as they grow: rows of numbers, or of some numbers each, each table with its C++ name and type, and how many bytes a row has."""

    def __init__(self) -> None:
        self.tables: dict[str, tuple[str, int, list[object]]] = {}

    def add(self, name: str, kind: str, bytes_each: int, rows: Iterable[Iterable[object]]) -> None:
        self.tables[name] = (kind, bytes_each, [tuple(row) for row in rows])

    def plain(self, name: str, kind: str, bytes_each: int, values: Iterable[object]) -> None:
        self.tables[name] = (kind, bytes_each, list(values))

    @property
    def numbers(self) -> dict[str, list[object]]:
        """Each table's rows."""
        return {name: rows for name, (_, _, rows) in self.tables.items()}

    @property
    def flash(self) -> int:
        return sum(each * max(len(rows), 1) for _, each, rows in self.tables.values())

    def text(self) -> Iterable[str]:
        for name, (kind, _, rows) in self.tables.items():
            yield f"static const {kind} {name}[] PROGMEM = {{"
            yield from (
                f"  {row},"
                for row in [text_of(row) for row in rows] or ["0" if kind.endswith("_t") or kind == "float" else "{}"]
            )
            yield "};"


def text_of(value: object) -> str:
    """A number as C++ has it, or some of them in braces."""
    if isinstance(value, tuple):
        return "{" + ", ".join(map(text_of, value)) + "}"
    if isinstance(value, bool):
        return str(int(value))
    if isinstance(value, float):
        return f"{min(max(value, -1e9), 1e9):.7g}" + ("" if any(c in f"{value:.7g}" for c in ".en") else ".0") + "f"
    return f"{value}UL" if isinstance(value, int) and value > 32767 else str(value)
