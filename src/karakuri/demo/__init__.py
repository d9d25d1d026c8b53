"""The demo figures, as ordinary figure files. All of it is invented."""

from importlib.resources import files
from pathlib import Path


def owl_path() -> Path:
    """The owl librarian: a barn-owl bust in a museum reading room."""
    return Path(str(files(__package__) / "owl.karakuri"))
