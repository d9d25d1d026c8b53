"""Pictures behind an elevation, read once and kept while their files stay as they are."""

from __future__ import annotations

from pathlib import Path

from PyQt6.QtGui import QImage, QImageReader

from karakuri.model.picture import Picture

MOST_PX, MOST_KEPT = 2400, 8
_kept: dict[str, tuple[float, QImage, float]] = {}


def file_of(picture: Picture, folder: Path | None) -> Path:
    """Where its file is: from the figure's folder, or as it says."""
    path = Path(picture.file)
    return path if path.is_absolute() or folder is None else folder / path


def read_size(path: Path) -> tuple[int, int] | None:
    """Its pixels, wide and tall; None where it is no picture that can be read."""
    size = QImageReader(str(path)).size()
    return (size.width(), size.height()) if size.isValid() else None


def image_of(path: Path) -> tuple[QImage, float] | None:
    """The picture, made smaller where it is very large, and how many of its own pixels are one of that; None where it cannot be read."""
    try:
        stamp = path.stat().st_mtime
    except OSError:
        return None
    known = _kept.get(str(path))
    if known is not None and known[0] == stamp:
        return known[1], known[2]
    reader = QImageReader(str(path))
    reader.setAutoTransform(True)
    size = reader.size()
    if not size.isValid():
        return None
    shrink = max(1.0, max(size.width(), size.height()) / MOST_PX)
    if shrink > 1.0:
        reader.setScaledSize(size / shrink)
    image = reader.read()
    if image.isNull():
        return None
    if len(_kept) >= MOST_KEPT:
        _kept.clear()
    _kept[str(path)] = (stamp, image, shrink)
    return image, shrink
