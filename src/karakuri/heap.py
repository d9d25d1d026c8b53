"""When the garbage collector may pause a process, and in which thread. What it finds is little, for most goes as it is let go of; a search through all
there is takes 20 to 60 ms, and falls into the middle of a drag. And where there are widgets it must not search in whatever thread happens to make
the next object: a widget that is let go of there ends the program."""

from __future__ import annotations

import gc
from collections.abc import Iterator
from contextlib import contextmanager

SELDOM = (10_000, 5, 5)
"""So many objects more than went, so many searches of the youngest, so many of the middle ones, before the next of each."""
IDLE_S, LOOK_S = 1.0, 0.3
"""So long nothing was done: then nobody waits for a search. So often it is looked whether one is due."""


def loading() -> None:
    """No search while modules are loaded: all of it stays."""
    gc.disable()


def loaded() -> None:
    """What is there by now is never searched, and what comes seldom, in any thread: for a process without widgets."""
    gc.freeze()
    gc.set_threshold(*SELDOM)
    gc.enable()


@contextmanager
def held_off() -> Iterator[None]:
    """No search while this lasts, and what is due right after: somebody waits. For a process without widgets."""
    gc.disable()
    try:
        yield
    finally:
        gc.enable()
        if_due()


def by_hand() -> None:
    """What is there by now is never searched, and what comes only where `if_due` or `tidy` is called: for a process with widgets."""
    gc.freeze()
    gc.disable()


def if_due() -> None:
    """Search what is due, in this thread."""
    for generation, (count, most) in reversed(list(enumerate(zip(gc.get_count(), SELDOM, strict=True)))):
        if count > most:
            gc.collect(generation)
            return


def tidy() -> None:
    """Search through what came since."""
    gc.collect()
