"""Copies kept for a crash: one a session, in the state folder, saying of which figure it is, from when, and whose process kept it.

A copy is found by what it says of itself, never by its name. Where the state folder cannot be written it lies beside the file, under
the one name derived from the file's.
"""

from __future__ import annotations

import contextlib
import json
import os
import time
import uuid
from datetime import datetime
from pathlib import Path
from typing import Any

from karakuri.errors import FileTrouble
from karakuri.files.disk import read_text, write_text
from karakuri.files.text import from_text, to_text
from karakuri.frozen import Frozen
from karakuri.model.figure import Figure
from karakuri.session.places import state_folder

FORMAT, OLD_S = "karakuri copy", 60 * 86400.0
_open: set[str] = set()
"""Sessions of this very process that are still open."""


class Copy(Frozen):
    """A copy found: where it lies, of which file ('' where there was none yet), the figure's name, when, s since 1970."""

    place: Path
    of: str
    name: str
    kept_at: float
    text: str

    def figure(self) -> Figure:
        """The figure in it. Raises FileTrouble."""
        return from_text(self.text, self.place.name)

    def when(self) -> str:
        """Day and time, local."""
        return datetime.fromtimestamp(self.kept_at).strftime("%d %B, %H:%M").lstrip("0")

    def drop(self) -> None:
        """Remove it: taken back and saved, or declined."""
        with contextlib.suppress(OSError):
            self.place.unlink()


def new_ident() -> str:
    """What one session's copy is called; the session counts as open until `closed`."""
    ident = uuid.uuid4().hex
    _open.add(ident)
    return ident


def closed(ident: str) -> None:
    """A session is over, however it ended."""
    _open.discard(ident)


def folder() -> Path:
    return state_folder() / "copies"


def keep(ident: str, figure: Figure, of: Path | None, mode: int | None = None) -> Path | None:
    """Write a session's copy, with the permissions of its file; None where nothing can be written."""
    facts: dict[str, Any] = {
        "format": FORMAT, "of": str(of.resolve()) if of is not None else "", "name": figure.name, "kept_at": time.time(),
        "process": os.getpid(), "since": _since(os.getpid()), "session": ident, "figure": to_text(figure),
    }  # fmt: skip
    text = json.dumps(facts, ensure_ascii=False)
    places = [folder() / f"{ident}.json", *([_beside(of)] if of is not None else [])]
    for k, place in enumerate(places):
        with contextlib.suppress(FileTrouble):
            write_text(text, place, make_folder=k == 0, mode=mode if mode is not None else 0o600)
            return place
    return None


def _beside(path: Path) -> Path:
    return path.parent / f".{path.name[:200]}.copy"


def _since(pid: int) -> str:
    """When a process began, as the system counts it: a number used again is another process."""
    with contextlib.suppress(OSError, IndexError, UnicodeDecodeError):
        return Path(f"/proc/{pid}/stat").read_text().rpartition(")")[2].split()[19]
    return ""


def _alive(facts: dict[str, Any]) -> bool:
    pid, since = int(facts.get("process", 0)), str(facts.get("since", ""))
    if pid == os.getpid():
        return facts.get("session") in _open
    return bool(since) and _since(pid) == since


def _read(place: Path) -> tuple[Copy, dict[str, Any]] | None:
    with contextlib.suppress(FileTrouble, ValueError, KeyError, TypeError):
        facts = json.loads(read_text(place))
        if facts["format"] == FORMAT:
            return Copy(
                place, str(facts["of"]), str(facts["name"]), float(facts["kept_at"]), str(facts["figure"])
            ), facts
    return None


def left_behind(path: Path | None) -> list[Copy]:
    """Copies whose session is gone: of this file, newer than it; without a file, of figures that never had one. Newest first.

    Leftovers, older than their file or two months old, are removed on the way.
    """
    places: list[Path] = []
    with contextlib.suppress(OSError):
        places += [p for p in folder().iterdir() if p.suffix == ".json"]
    if path is not None:
        places.append(_beside(path))
    wanted = str(path.resolve()) if path is not None else ""
    found = []
    for place in places:
        read = _read(place)
        if read is None or _alive(read[1]):
            continue
        copy = read[0]
        if copy.kept_at < time.time() - OLD_S or (copy.of and _written(Path(copy.of)) > copy.kept_at):
            copy.drop()
        elif copy.of == wanted:
            found.append(copy)
    return sorted(found, key=lambda copy: -copy.kept_at)


def _written(path: Path) -> float:
    try:
        return path.stat().st_mtime
    except OSError:
        return 0.0
