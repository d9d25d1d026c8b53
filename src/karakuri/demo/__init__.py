"""The demo figures, as ordinary figure files. All of it is invented."""

from pathlib import Path

DEMOS = {"owl": "Owl librarian", "walrus": "Walrus ferryman", "lamplighter": "Lamplighter"}


def demo_path(name: str) -> Path:
    """The file of a demo, by the name it has on the command line."""
    return Path(__file__).parent / f"{name}.karakuri"


def walrus_path() -> Path:
    """The walrus ferryman: a head worn for a harbour parade."""
    return demo_path("walrus")


def lamplighter_path() -> Path:
    """The lamplighter: a figure in a window, failing in three ways as it is shipped."""
    return demo_path("lamplighter")


def owl_path() -> Path:
    """The owl librarian: a barn-owl bust in a museum reading room."""
    return demo_path("owl")
