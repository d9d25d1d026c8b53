"""Where the session keeps what is not the builder's own file: autosaves, the last figure. XDG state folder."""

from __future__ import annotations

import contextlib
import os
from pathlib import Path

from karakuri.errors import FileTrouble
from karakuri.files.disk import SUFFIX, write_text


def state_folder() -> Path:
    """$XDG_STATE_HOME/karakuri, by default ~/.local/state/karakuri."""
    base = os.environ.get("XDG_STATE_HOME") or str(Path.home() / ".local" / "state")
    return Path(base) / "karakuri"


def last_figures() -> tuple[Path, ...]:
    """Figures opened lately that are still there, newest first."""
    with contextlib.suppress(OSError, UnicodeDecodeError):
        lines = (state_folder() / "lately").read_text("utf-8").splitlines()
        return tuple(path for path in map(Path, lines) if path.is_file())
    return ()


def remember(path: Path) -> None:
    """Put a figure at the head of the list. A state folder that cannot be written costs nothing but the list."""
    rest = [p for p in last_figures() if p != path.resolve()]
    with contextlib.suppress(FileTrouble):
        write_text("\n".join(map(str, [path.resolve(), *rest][:12])) + "\n", state_folder() / "lately")


def autosave_beside(path: Path) -> Path:
    """Autosave of a figure that has a file: hidden beside it, marked with this process."""
    return path.parent / f".{path.name}.{os.getpid()}.autosave"


def autosave_apart(name: str) -> Path:
    """Autosave of a figure without a file, or whose folder cannot be written."""
    return state_folder() / f"{name or 'unnamed'}{SUFFIX}.{os.getpid()}.autosave"


def _alive(pid: int) -> bool:
    try:
        os.kill(pid, 0)
    except ProcessLookupError:
        return False
    except OSError:
        return True
    return True


def left_behind(path: Path | None) -> tuple[Path, ...]:
    """Autosaves whose process is gone: of this file, and of figures that never had one; newest first."""
    found: list[Path] = []
    with contextlib.suppress(OSError):
        if path is not None:
            found += path.parent.glob(f".{path.name}.*.autosave")
            found += state_folder().glob(f"{path.name}.*.autosave")
        else:
            found += state_folder().glob("*.autosave")
    dead = [
        p
        for p in found
        if (pid := p.name.split(".")[-2]).isdigit() and (int(pid) == os.getpid() or not _alive(int(pid)))
    ]
    return tuple(sorted(dead, key=lambda p: p.stat().st_mtime, reverse=True))
