"""Words by which cards and find-or-do ask the window for what it does with the clipboard, with files and with sides."""

from __future__ import annotations

from typing import TYPE_CHECKING

if TYPE_CHECKING:  # read when an export is first wanted, not at every start
    from karakuri.exchange.contract import Exporter

TAKE_OVER, TWIN, PASTE = "take frames over", "twin", "paste parts"
DRAWER_OUT, DRAWER_IN = "write my drawer", "take servos"
MESH = "take a shape from a mesh"
SOUND = "put a sound on the voice"
LAY = {"side": "lay a picture behind the side elevation", "front": "lay a picture behind the front elevation"}


def doing(exporter: Exporter) -> str:
    """The words that ask for an export."""
    return f"export {exporter.id}"
