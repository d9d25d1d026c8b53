"""The contract of an exporter: something of a figure as files for elsewhere.

To add one: write exchange/NAME.py (or a folder) with an EXPORTER and name it in exchange/exporters.py; the command line, the card of the
Rehearse bench and find-or-do offer it from there.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping
from pathlib import Path

from karakuri.course import ALONE, Course
from karakuri.errors import FileTrouble
from karakuri.files.disk import pieces, write_bytes, write_files
from karakuri.frozen import Frozen
from karakuri.model.figure import Figure
from karakuri.model.sound import Sound
from karakuri.motion.voice.following import KeepsUp

Chosen = Mapping[str, str]
Bytes = Callable[[Sound], bytes | None]


def _always(figure: Figure) -> bool:
    return True


def _nothing(sound: Sound) -> bytes | None:
    return None


class Media(Frozen, eq=False):
    """What is beside a figure: called with a sound the bytes of its file, None where it cannot be found; `can` what its ribbons keep up with, by id, s and rad
    or m, worked out when it is asked for."""

    data: Bytes = _nothing
    can: Callable[[], Mapping[str, KeepsUp]] = dict

    def __call__(self, sound: Sound) -> bytes | None:
        return self.data(sound)


no_media = Media()
"""Where there is nothing beside the figure."""


class Option(Frozen):
    """Something to choose: its id, also on the command line, its name on the card, the choices as (id, words), the first by default; `open` says of which figures: where the figure
    decides it itself nobody is asked."""

    id: str
    name: str
    help: str
    choices: tuple[tuple[str, str], ...]
    open: Callable[[Figure], bool] = _always

    @property
    def default(self) -> str:
        """The id of the first choice."""
        return self.choices[0][0]


class Exported(Frozen, eq=False):
    """Names and contents of the files, large ones piece by piece, and what is to be told about them once they are written."""

    files: Mapping[str, bytes | Iterable[bytes]]
    told: Callable[[], tuple[str, ...]]


class Exporter(Frozen, eq=False):
    """`name` says what it gives, `suffix` is that of its one file, or empty where it gives a folder of files.

    `of_score`: without a ribbon there is nothing to export. `size(figure, chosen)` says what it will take before it is written, or nothing; `write(figure, chosen, course, media)` makes the files, `media` giving a sound's bytes. Both
    raise FileTrouble where the figure cannot be exported so; making them raises GivenUp where `course` says stop.
    """

    id: str
    name: str
    suffix: str
    options: tuple[Option, ...]
    size: Callable[[Figure, Chosen], str]
    write: Callable[[Figure, Chosen, Course, Media], Exported]
    of_score: bool = True

    def chosen(self, some: Chosen) -> dict[str, str]:
        """A choice for every option: that of `some`, else the default."""
        return {option.id: some.get(option.id) or option.default for option in self.options}


def export(
    exporter: Exporter,
    figure: Figure,
    chosen: Chosen,
    where: Path,
    course: Course = ALONE,
    media: Media | Bytes = no_media,
) -> tuple[str, ...]:
    """Write what an exporter makes of a figure to a file or a folder; what is to be told. Raises FileTrouble, or GivenUp: then nothing is written."""
    if exporter.of_score and not figure.score.moved:
        raise FileTrouble(
            f"{figure.name} has no score yet; nothing was written.", (), "Lay out ribbons on the Score bench first."
        )
    beside = media if isinstance(media, Media) else Media(media)
    written = exporter.write(figure, exporter.chosen(chosen), course, beside)
    if exporter.suffix:
        (content,) = written.files.values()
        write_bytes(content, where)
    else:
        write_files(where, {name: b"".join(pieces(content)) for name, content in written.files.items()})
    return written.told()
