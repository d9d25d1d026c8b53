"""The exception tree. Everything the application raises on purpose stands below Trouble.

Trouble
├── FileTrouble      a file could not be read or written; carries every fault with its path
│   └── FileChanged  it was written by another program since it was read
├── EditRefused      an edit would leave a figure that cannot exist, or breaks a reference
└── BadQuantity      typed text is no number, no sum, or has a unit of another kind
"""

from __future__ import annotations

from karakuri.frozen import Frozen


class Trouble(Exception):  # noqa: N818 - trouble is what the people at the bench call it
    """Base of all that Karakuri raises on purpose; its text is a sentence for the person at the bench."""


class Fault(Frozen):
    """One fault of a file: where it stands, what was expected, what came."""

    path: str
    expected: str
    got: str

    def __str__(self) -> str:
        return f"{self.path}: expected {self.expected}, found {self.got}"


class FileTrouble(Trouble):
    """A file could not be used. `faults` lists each place; `what_to_do` says how to go on."""

    def __init__(self, message: str, faults: tuple[Fault, ...] = (), what_to_do: str = "") -> None:
        self.message, self.faults, self.what_to_do = message, faults, what_to_do
        lines = [message, *(f"  {fault}" for fault in faults)]
        super().__init__("\n".join(lines + ([what_to_do] if what_to_do else [])))


class FileChanged(FileTrouble):
    """A file is not the one that was read: another program, or a second window, has written it since."""


class EditRefused(Trouble):
    """An edit was not carried out; the figure is as it was."""


class BadQuantity(Trouble):
    """Typed text could not be understood as a quantity of the kind the field wants."""
