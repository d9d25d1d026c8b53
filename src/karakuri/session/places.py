"""Where the session keeps what is not the builder's own file: the last figures, faults. XDG state folder."""

from __future__ import annotations

import contextlib
import os
from datetime import datetime
from pathlib import Path

from karakuri.errors import FileTrouble
from karakuri.files.disk import write_text


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
    with contextlib.suppress(FileTrouble, OSError, RuntimeError):
        write_text(
            "\n".join(map(str, [path.resolve(), *rest][:12])) + "\n", state_folder() / "lately", make_folder=True
        )


def note_fault(text: str) -> Path | None:
    """Write down a fault nobody foresaw, the newest hundred thousand letters kept; where it is, or None where nothing can be written."""
    path = state_folder() / "faults.txt"
    with contextlib.suppress(OSError, UnicodeError):
        path.parent.mkdir(parents=True, exist_ok=True)
        before = path.read_text("utf-8", "replace") if path.is_file() else ""
        stamp = datetime.now().isoformat(timespec="seconds")
        path.write_text(f"{before[-100_000:]}\n{stamp} {text}", "utf-8")
        return path
    return None
