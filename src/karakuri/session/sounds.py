"""The sound files of an open figure: where they lie, what is in them, and that they go with the figure when it is saved elsewhere.

What is taken from anywhere is kept by its digest in the state folder until the figure is saved, so that a figure without a file, or one found again
after a crash, has its sounds. A file beside the figure is never written over.
"""

from __future__ import annotations

import contextlib
import threading
from collections import OrderedDict
from collections.abc import Iterable
from pathlib import Path

from karakuri.course import ALONE, Course
from karakuri.errors import Fault, FileTrouble
from karakuri.exchange.sounds import MOST_BYTES, Heard, digest_of, heard
from karakuri.files.disk import read_bytes, write_bytes
from karakuri.model.figure import Figure
from karakuri.model.loudness import Loudness
from karakuri.model.sound import FORMATS, Sound
from karakuri.session.places import state_folder

KEPT_WHOLE, FOLDER = 6, "sounds"


class Sounds:
    """Of one session; from any thread. `folders` are where the figure lies, or the one it was made from."""

    def __init__(self, *folders: Path) -> None:
        self.folders: tuple[Path, ...] = folders
        self._lock = threading.Lock()
        self._digests: dict[Path, tuple[tuple[int, int], str]] = {}
        self._whole: OrderedDict[str, Heard] = OrderedDict()
        self._loud: dict[str, Loudness] = {}

    def find(self, sound: Sound) -> Path | None:
        """Where a sound lies: beside the figure, or kept; None where it is nowhere, or another than the one that was taken."""
        places = [folder / sound.file for folder in self.folders] + [_kept(sound.sha256, sound.file)]
        return next((place for place in places if self._digest(place) == sound.sha256), None)

    def hear(self, sound: Sound, course: Course = ALONE) -> Heard | None:
        """What is in it; None where it cannot be found, or is no sound. GivenUp where `course` says stop."""
        with self._lock:
            if sound.sha256 in self._whole:
                self._whole.move_to_end(sound.sha256)
                return self._whole[sound.sha256]
        place = self.find(sound)
        if place is None:
            return None
        with contextlib.suppress(OSError, FileTrouble):
            found = heard(read_bytes(place, MOST_BYTES), place.name, course)
            if found.loudness.sha256 == sound.sha256:
                self._keep(found)
                return found
        return None

    def loudness(self, figure: Figure, course: Course = ALONE) -> tuple[Loudness, ...]:
        """How loud each of a figure's sounds is, of those that can be listened to, each once."""
        out: dict[str, Loudness] = {}
        for k, sound in enumerate(figure.sounds):
            course.at(f"listening to {sound.name}", k / len(figure.sounds))
            known = self._loud.get(sound.sha256)
            if known is None or self.find(sound) is None:
                found = self.hear(sound, course)
                known = found.loudness if found is not None and self.find(sound) is not None else None
            if known is not None:
                out[sound.sha256] = known
        return tuple(out.values())

    def data(self, sound: Sound) -> bytes | None:
        """The bytes of its file; None where it cannot be found."""
        place = self.find(sound)
        with contextlib.suppress(OSError, FileTrouble):
            return read_bytes(place, MOST_BYTES) if place is not None else None
        return None

    def take(self, path: Path, taken: Iterable[str] = (), course: Course = ALONE) -> tuple[dict[str, object], Heard]:
        """A sound file from anywhere, as the fields of a sound but its id; `taken` are files that others have. Raises FileTrouble."""
        if path.suffix.lower() not in FORMATS:
            fault = Fault(path.name, "a file named .wav, .flac, .ogg or .mp3", path.suffix or "no ending")
            raise FileTrouble(
                f"{path.name} cannot be listened to.", (fault,), "Save it as one of these and take it again."
            )
        try:
            data = read_bytes(path, MOST_BYTES)
        except OSError as trouble:
            raise FileTrouble(f"{path} cannot be read: {trouble.strerror or trouble}.", (), "See that the file is there and may be read.") from trouble  # fmt: skip
        found = heard(data, path.name, course)
        ident = found.loudness.sha256
        name = self._beside(path) or _free(path, set(taken))
        with contextlib.suppress(FileTrouble):  # it still lies where it was taken from
            write_bytes(data, _kept(ident, name), make_folder=True)
        self._keep(found)
        shown = "".join(c if c.isprintable() else " " for c in path.stem)[:80].strip() or "sound"
        return {"name": shown, "file": name, "sha256": ident, "length_s": max(0.001, round(found.length_s, 3))}, found

    def put_beside(self, figure: Figure, folder: Path) -> list[str]:
        """Put a figure's sounds into a folder where they are not there yet; the names of those that could not be put there."""
        left = []
        for sound in figure.sounds:
            target = folder / sound.file
            if self._digest(target) == sound.sha256:
                continue
            source = self.find(sound)
            try:
                if source is None or target.exists() or target.is_symlink():
                    left.append(sound.name)
                else:
                    write_bytes(read_bytes(source, MOST_BYTES), target, make_folder=True)
            except (OSError, FileTrouble):
                left.append(sound.name)
        self.folders = (folder, *(other for other in self.folders if other != folder))
        return left

    def _keep(self, found: Heard) -> None:
        with self._lock:
            self._loud[found.loudness.sha256] = found.loudness
            self._whole[found.loudness.sha256] = found
            while len(self._whole) > KEPT_WHOLE:
                self._whole.popitem(last=False)

    def _beside(self, path: Path) -> str | None:
        """Its path from the figure's folder, where it lies in there."""
        for folder in self.folders[:1]:
            with contextlib.suppress(ValueError, OSError):
                return path.resolve().relative_to(folder.resolve()).as_posix()
        return None

    def _digest(self, path: Path) -> str:
        """The digest of a file, '' where there is none; read again only where it was written since."""
        try:
            found = path.stat()
            stamp = (found.st_mtime_ns, found.st_size)
            known = self._digests.get(path)
            if known is None or known[0] != stamp:
                known = self._digests[path] = (stamp, digest_of(read_bytes(path, MOST_BYTES)))
            return known[1]
        except (OSError, FileTrouble, ValueError):
            return ""


def _kept(sha256: str, file: str) -> Path:
    return state_folder() / FOLDER / f"{sha256}{Path(file).suffix.lower()}"


def _free(path: Path, taken: set[str]) -> str:
    """A name in the folder of sounds that no other sound has."""
    stem = "".join(c if c.isalnum() or c in "-_ " else "_" for c in path.stem)[:80].strip() or "sound"
    n, name = 2, f"{FOLDER}/{stem}{path.suffix.lower()}"
    while name in taken:
        n, name = n + 1, f"{FOLDER}/{stem} {n}{path.suffix.lower()}"
    return name
