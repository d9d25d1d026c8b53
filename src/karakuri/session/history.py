"""Undo: (name, figure before, figure after, merge key). No Qt."""

from __future__ import annotations

from karakuri.frozen import Frozen
from karakuri.model.figure import Figure

MOST = 500


class Done(Frozen):
    """One step that was carried out."""

    name: str
    before: Figure
    after: Figure
    merge_key: str | None


class History:
    """Steps done and undone. A drag, or typing in one field, is one step: equal merge keys that follow each other."""

    def __init__(self) -> None:
        self._done: list[Done] = []
        self._undone: list[Done] = []
        self._open = False

    def push(self, step: Done) -> None:
        """Keep a step; what was undone is gone from then on."""
        self._undone.clear()
        last = self._done[-1] if self._done else None
        if last is not None and self._open and step.merge_key is not None and last.merge_key == step.merge_key:
            self._done[-1] = Done(step.name, last.before, step.after, step.merge_key)
        else:
            self._done.append(step)
            del self._done[:-MOST]
        self._open = True

    def close_step(self) -> None:
        """The next step begins anew, even with the same merge key."""
        self._open = False

    def undo(self) -> Figure | None:
        """The figure before the last step, or None."""
        if not self._done:
            return None
        self._open = False
        self._undone.append(self._done.pop())
        return self._undone[-1].before

    def redo(self) -> Figure | None:
        """The figure after the step last undone, or None."""
        if not self._undone:
            return None
        self._open = False
        self._done.append(self._undone.pop())
        return self._done[-1].after

    @property
    def undo_name(self) -> str | None:
        """Name of the step that undo takes back."""
        return self._done[-1].name if self._done else None

    @property
    def redo_name(self) -> str | None:
        """Name of the step that redo does again."""
        return self._undone[-1].name if self._undone else None
