"""All exporters, in the order in which they are offered."""

from karakuri.exchange.contract import Exporter
from karakuri.exchange.frames_csv import EXPORTER as FRAMES
from karakuri.exchange.player.exporter import EXPORTER as PLAYER
from karakuri.exchange.sound_copies import EXPORTER as SOUNDS
from karakuri.exchange.wiring_sheets import EXPORTER as WIRING

EXPORTERS = (FRAMES, PLAYER, SOUNDS, WIRING)


def exporter(ident: str) -> Exporter:
    """The exporter of that id. Raises StopIteration."""
    return next(each for each in EXPORTERS if each.id == ident)
