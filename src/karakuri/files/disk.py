"""Text ↔ disk. A save that is interrupted leaves the old file whole: temporary file, flush, rename."""

from __future__ import annotations

import contextlib
import hashlib
import os
import re
import stat
import tempfile
import time
from collections.abc import Iterable
from pathlib import Path

from karakuri.errors import Fault, FileTrouble
from karakuri.files.text import from_text, to_text
from karakuri.model.figure import Figure

SUFFIX = ".karakuri"
WRITTEN = "written-by-karakuri.sha256"
LEFT, LEFT_S = re.compile(r"\..*\.(\d{1,9})\.[a-z0-9_]{8}\.part"), 60.0
MOST_BYTES, MOST_TABLE_BYTES = 64 * 1024 * 1024, 512 * 1024 * 1024


def load(path: Path) -> Figure:
    """The figure in a file. Raises FileTrouble with what is wrong and where."""
    try:
        text = read_bytes(path, MOST_BYTES).decode("utf-8-sig")
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


def read_bytes(path: Path, most: int) -> bytes:
    """The bytes of an ordinary file. Raises FileTrouble where it is another thing, such as a pipe or a folder, or larger than `most` bytes, OSError where it cannot be read."""
    found = path.stat()
    if not stat.S_ISREG(found.st_mode):
        raise FileTrouble(
            f"{path} is no file that can be read.", (Fault(path.name, "an ordinary file", "something else"),)
        )
    if found.st_size > most:
        raise FileTrouble(
            f"{path.name} is too large.",
            (Fault(path.name, f"at most {most // 2**20} MB", f"{found.st_size // 2**20} MB"),),
        )
    return path.read_bytes()


def stamp(path: Path) -> tuple[int, int, int] | None:
    """What tells one state of a file from another: time of writing ns, size, inode; None where there is no file."""
    try:
        found = path.stat()
    except OSError:
        return None
    return found.st_mtime_ns, found.st_size, found.st_ino


def save(figure: Figure, path: Path, make_folder: bool = False, mode: int | None = None) -> None:
    """Write a figure. Raises FileTrouble; whatever happens, the file is the old one or the new one, whole."""
    write_text(to_text(figure), path, make_folder, mode)


def write_files(folder: Path, contents: dict[str, bytes]) -> None:
    """Write several files into a folder, which is made where it is not there. Raises FileTrouble, and then nothing was written.

    Only what was written here before, and not changed since, is replaced: WRITTEN beside the files says which and how they were. A link
    in their place is not followed.
    """
    ours = _written(folder)
    for name, data in contents.items():
        there = folder / name
        if there.is_symlink():
            raise _in_the_way(there, "a link to somewhere else")
        if there.exists() and (not there.is_file() or _digest(_bytes(there)) not in (ours.get(name), _digest(data))):
            raise _in_the_way(there, "changed since" if name in ours else "something that was not written from here")
    if (folder / WRITTEN).is_symlink():
        raise _in_the_way(folder / WRITTEN, "a link to somewhere else")
    for name, data in contents.items():
        write_bytes(data, folder / name, make_folder=True)
    ours |= {name: _digest(data) for name, data in contents.items()}
    write_text("".join(f"{digest}  {name}\n" for name, digest in sorted(ours.items())), folder / WRITTEN)


def _written(folder: Path) -> dict[str, str]:
    """Name → SHA-256 of what was written into a folder from here."""
    with contextlib.suppress(OSError, FileTrouble, UnicodeDecodeError):
        lines = read_bytes(folder / WRITTEN, 2**20).decode("utf-8").splitlines()
        return {name: digest for digest, _, name in (line.partition("  ") for line in lines)}
    return {}


def _bytes(path: Path) -> bytes:
    try:
        return read_bytes(path, MOST_BYTES)
    except OSError as trouble:
        raise FileTrouble(
            f"{path} cannot be read: {trouble.strerror or trouble}.", (), "Choose another folder."
        ) from trouble


def _digest(data: bytes) -> str:
    return hashlib.sha256(data).hexdigest()


def _in_the_way(path: Path, found: str) -> FileTrouble:
    return FileTrouble(
        f"Nothing was written: {path} is in the way.",
        (Fault(path.name, "no file, or one written from here and not changed", found),),
        "Move it away, or choose another folder.",
    )


def read_text(path: Path) -> str:
    """The text of a file that is no figure. Raises FileTrouble."""
    try:
        return read_bytes(path, MOST_TABLE_BYTES).decode("utf-8-sig")
    except (OSError, UnicodeDecodeError) as trouble:
        raise FileTrouble(
            f"{path} cannot be read: {trouble}.", (), "See that it is there and is UTF-8 text."
        ) from trouble


def write_text(text: str, path: Path, make_folder: bool = False, mode: int | None = None) -> None:
    """Write text. Raises FileTrouble."""
    write_bytes(text.encode("utf-8"), path, make_folder, mode)


def pieces(data: bytes | Iterable[bytes]) -> Iterable[bytes]:
    """Contents piece by piece."""
    return (data,) if isinstance(data, bytes) else data


def write_bytes(data: bytes | Iterable[bytes], path: Path, make_folder: bool = False, mode: int | None = None) -> None:
    """Write by temporary file, flush, rename. Raises FileTrouble, or what the making of the pieces raises; the old file is whole then.

    The permissions of a file that was there are kept, else `mode`, by default rw-r--r--; one that may not be written is left alone. A
    folder that is not there is made only where that was asked for: a disk that is not mounted must not be written beside.
    """
    handle, temporary = -1, ""
    try:
        target = path.resolve()
        if make_folder:
            target.parent.mkdir(parents=True, exist_ok=True)
        there = target.stat() if target.exists() else None
        if there is not None and not stat.S_ISREG(there.st_mode):
            raise OSError(0, "it is no ordinary file")
        if there is not None and not there.st_mode & 0o222:
            raise OSError(0, "it may only be read")
        short = target.name.encode("utf-8", "surrogateescape")[:80].decode("utf-8", "ignore")
        handle, temporary = tempfile.mkstemp(prefix=f".{short}.{os.getpid()}.", suffix=".part", dir=target.parent)
        os.fchmod(handle, there.st_mode & 0o777 if there is not None else mode if mode is not None else 0o644)
        with os.fdopen(handle, "wb") as stream:
            handle = -1
            for piece in pieces(data):
                stream.write(piece)
            stream.flush()
            os.fsync(stream.fileno())
        os.replace(temporary, target)
        temporary = ""
        _sync_folder(target.parent)
        _sweep(target.parent)
    except (OSError, ValueError, RuntimeError) as trouble:  # RuntimeError: a loop of links
        raise FileTrouble(
            f"{path} cannot be written: {getattr(trouble, 'strerror', None) or trouble}.",
            (),
            "Nothing is lost: save under another name or in another folder.",
        ) from trouble
    finally:
        if handle >= 0:
            os.close(handle)
        if temporary:
            with contextlib.suppress(OSError):
                os.unlink(temporary)


def _sweep(folder: Path) -> None:
    """Take away what writers that were killed have left: parts of a process that is gone, once they are old enough to be nobody else's."""
    with contextlib.suppress(OSError):
        for entry in os.scandir(folder):
            left = LEFT.fullmatch(entry.name)
            if left is None or _alive(int(left[1])):
                continue
            with contextlib.suppress(OSError):
                if time.time() - entry.stat().st_mtime > LEFT_S:
                    os.unlink(entry.path)


def _alive(pid: int) -> bool:
    try:
        os.kill(pid, 0)
    except ProcessLookupError:
        return False
    except OSError:
        return True
    return True


def _sync_folder(folder: Path) -> None:
    with contextlib.suppress(OSError):
        handle = os.open(folder, os.O_RDONLY)
        try:
            os.fsync(handle)
        finally:
            os.close(handle)
