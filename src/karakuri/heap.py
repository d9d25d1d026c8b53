"""When the garbage collector may pause a process. What it finds is little, for most goes as it is let go of; a search through all there is
takes 20 to 60 ms, and falls into the middle of a drag."""

from __future__ import annotations

import gc

SELDOM = (10_000, 5, 5)
IDLE_S = 1.0
"""So long nothing was done: then nobody waits for a search."""


def loading() -> None:
    """No search while modules are loaded: all of it stays."""
    gc.disable()


def loaded() -> None:
    """What is there by now is never searched, and what comes seldom, unless `tidy` is called."""
    gc.freeze()
    gc.set_threshold(*SELDOM)
    gc.enable()


def tidy() -> None:
    """Search through what came since."""
    gc.collect()
