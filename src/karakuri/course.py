"""How a long study is followed, and given up."""

from __future__ import annotations

from collections.abc import Callable

from karakuri.frozen import Frozen


class GivenUp(Exception):  # noqa: N818 - no fault
    """Nobody waits for this study any more."""


def _never() -> bool:
    return False


def _nothing(what: str, share: float) -> None:
    return None


class Course(Frozen):
    """`stop()` says that nobody waits any more; `went(what, share)` is told what is under way and how far it is, 0 to 1."""

    stop: Callable[[], bool] = _never
    went: Callable[[str, float], None] = _nothing

    def at(self, what: str, share: float) -> None:
        """Between two pieces of work. Raises GivenUp."""
        if self.stop():
            raise GivenUp
        self.went(what, share)


ALONE = Course()
