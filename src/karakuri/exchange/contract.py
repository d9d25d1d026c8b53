"""The contract of an exporter: something of a figure as files for elsewhere.

To add one: write exchange/NAME.py (or a folder) with an EXPORTER and name it in exchange/exporters.py; the command line, the card of the
Rehearse bench and find-or-do offer it from there.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from pathlib import Path

from karakuri.errors import FileTrouble
from karakuri.files.disk import write_files, write_text
from karakuri.model.figure import Figure

Chosen = Mapping[str, str]


@dataclass(frozen=True)
class Option:
    """Something to choose: its id, also on the command line, its name on the card, the choices as (id, words), the first by default."""

    id: str
    name: str
    help: str
    choices: tuple[tuple[str, str], ...]

    @property
    def default(self) -> str:
        """The id of the first choice."""
        return self.choices[0][0]


@dataclass(frozen=True, eq=False)
class Exported:
    """Names and contents of the files, and what is to be told about them."""

    files: Mapping[str, bytes]
    told: tuple[str, ...]


@dataclass(frozen=True, eq=False)
class Exporter:
    """`name` says what it gives, `suffix` is that of its one file, or empty where it gives a folder of files.

    `size(figure, chosen)` says what it will take before it is written, or nothing; `write(figure, chosen)` makes the files. Both raise
    FileTrouble where the figure cannot be exported so.
    """

    id: str
    name: str
    suffix: str
    options: tuple[Option, ...]
    size: Callable[[Figure, Chosen], str]
    write: Callable[[Figure, Chosen], Exported]

    def chosen(self, some: Chosen) -> dict[str, str]:
        """A choice for every option: that of `some`, else the default."""
        return {option.id: some.get(option.id) or option.default for option in self.options}


def export(exporter: Exporter, figure: Figure, chosen: Chosen, where: Path) -> tuple[str, ...]:
    """Write what an exporter makes of a figure to a file or a folder; what is to be told. Raises FileTrouble."""
    if not figure.score.channels:
        raise FileTrouble(
            f"{figure.name} has no score yet; nothing was written.", (), "Lay out ribbons on the Score bench first."
        )
    written = exporter.write(figure, exporter.chosen(chosen))
    if exporter.suffix:
        (content,) = written.files.values()
        write_text(content.decode("utf-8"), where)
    else:
        write_files(where, dict(written.files))
    return written.told
