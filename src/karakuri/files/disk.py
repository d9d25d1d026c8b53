"""Text ↔ disk. A save that is interrupted leaves the old file whole: temporary file, flush, rename."""

from __future__ import annotations

import contextlib
import os
import tempfile
from pathlib import Path

from karakuri.errors import Fault, FileTrouble
from karakuri.files.text import from_text, to_text
from karakuri.model.figure import Figure

SUFFIX = ".karakuri"
MOST_BYTES = 64 * 1024 * 1024


def load(path: Path) -> Figure:
    """The figure in a file. Raises FileTrouble with what is wrong and where."""
    try:
        if path.stat().st_size > MOST_BYTES:
            raise FileTrouble(
                f"{path.name} is too large to be a figure.",
                (Fault(path.name, "at most 64 MB", f"{path.stat().st_size // 2**20} MB"),),
            )
        text = path.read_bytes().decode("utf-8")
    except UnicodeDecodeError as trouble:
        raise FileTrouble(
            f"{path.name} is not text.",
            (Fault(f"byte {trouble.start}", "UTF-8 text", "other bytes"),),
            "Nothing was changed. Save it as UTF-8 and open it again.",
        ) from trouble
    except OSError as trouble:
        raise FileTrouble(
            f"{path} cannot be read: {trouble.strerror or trouble}.", (), "See that the file is there and may be read."
        ) from trouble
    return from_text(text, path.name)


def save(figure: Figure, path: Path) -> None:
    """Write a figure. Raises FileTrouble; whatever happens, the file is the old one or the new one, whole."""
    write_text(to_text(figure), path)


def write_files(folder: Path, made: dict[str, bytes]) -> None:
    """Write several files into a folder, which is made where it is not there. Raises FileTrouble."""
    for name, data in made.items():
        write_bytes(data, folder / name)


def read_text(path: Path) -> str:
    """The text of a file that is no figure. Raises FileTrouble."""
    try:
        return path.read_bytes().decode("utf-8-sig")
    except (OSError, UnicodeDecodeError) as trouble:
        raise FileTrouble(
            f"{path} cannot be read: {trouble}.", (), "See that it is there and is UTF-8 text."
        ) from trouble


def write_text(text: str, path: Path) -> None:
    """Write text. Raises FileTrouble."""
    write_bytes(text.encode("utf-8"), path)


def write_bytes(data: bytes, path: Path) -> None:
    """Write by temporary file, flush, rename; the mode of a file that was there is kept. Raises FileTrouble."""
    handle, temporary = -1, ""
    try:
        target = path.resolve()
        target.parent.mkdir(parents=True, exist_ok=True)
        handle, temporary = tempfile.mkstemp(prefix=f".{target.name}.", suffix=".part", dir=target.parent)
        os.fchmod(handle, target.stat().st_mode & 0o777 if target.exists() else 0o644)
        with os.fdopen(handle, "wb") as stream:
            handle = -1
            stream.write(data)
            stream.flush()
            os.fsync(stream.fileno())
        os.replace(temporary, target)
        _sync_folder(target.parent)
    except (OSError, ValueError) as trouble:
        if handle >= 0:
            os.close(handle)
        if temporary:
            with contextlib.suppress(OSError):
                os.unlink(temporary)
        raise FileTrouble(
            f"{path} cannot be written: {getattr(trouble, 'strerror', None) or trouble}.",
            (),
            "Nothing is lost: save under another name or in another folder.",
        ) from trouble


def _sync_folder(folder: Path) -> None:
    with contextlib.suppress(OSError):
        handle = os.open(folder, os.O_RDONLY)
        try:
            os.fsync(handle)
        finally:
            os.close(handle)
