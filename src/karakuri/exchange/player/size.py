"""How much a player takes, told before it is written, against the chosen controller."""

from __future__ import annotations

from functools import lru_cache

from karakuri.catalogue.boards import board_kinds
from karakuri.exchange.player.kinds import KINDS, PulseKind
from karakuri.exchange.player.links import CODE_BYTES
from karakuri.exchange.player.tables import LIGHT, MOVE_BYTES, Tables
from karakuri.frozen import Frozen
from karakuri.units import digits

STATE_BYTES, STRINGS_BYTES, STRING_BYTES, GENERATORS_BYTES, GENERATOR_BYTES = 14, 350, 8, 600, 38


class Controller(Frozen):
    """A controller: its flash and RAM in bytes, what is kept for the stack, and where that comes from."""

    id: str
    name: str
    flash_bytes: int
    ram_bytes: int
    stack_bytes: int
    source: str
    core: bool = False


class Size(Frozen):
    """What a player takes, bytes, and whether the controller has it; an estimate, from above."""

    flash: int
    ram: int
    controller: Controller
    moves: int

    @property
    def fits(self) -> bool:
        """Whether flash and RAM, with room for the stack, are enough."""
        return (
            self.flash <= self.controller.flash_bytes
            and self.ram + self.controller.stack_bytes <= self.controller.ram_bytes
        )

    def words(self) -> str:
        """The sizes in a sentence."""
        c = self.controller
        flash, most, ram, all_ram = (digits(n, 0) for n in (self.flash, c.flash_bytes, self.ram, c.ram_bytes))
        each = f"{self.moves} moves of {MOVE_BYTES} bytes"
        needs = f"about {flash} of {most} bytes of flash ({each} among them) and {ram} of {all_ram} bytes of RAM"
        return needs if self.fits else f"{needs}: it does not fit"


@lru_cache(maxsize=1)
def controllers() -> tuple[Controller, ...]:
    """The controllers of the catalogue of boards that take a program of C++, smallest first."""
    found = [kind for kind in board_kinds() if kind.what == "controller" and not kind.computer]
    made = [Controller(k.id, k.chip, k.flash_bytes, k.ram_bytes, k.stack_bytes, k.source, k.core) for k in found]
    return tuple(sorted(made, key=lambda each: each.flash_bytes))


def size(score: Tables, controller: Controller, kind: PulseKind = KINDS[0]) -> Size:
    """What a player with these tables takes, bytes, pulses made by a kind."""
    flash = kind.code_bytes + score.flash_bytes + (CODE_BYTES if score.links else 0)
    servos = sum(row[2] != LIGHT for row in score.outputs) - score.hung
    ram = kind.ram_bytes + STATE_BYTES * len(score.channels) + 2 * len(score.outputs) + kind.servo_bytes * servos
    ram += score.live.ram_bytes - STATE_BYTES * len(score.channels) if score.live is not None else 0
    more = score.generators - (kind.id == "i2c")  # beyond the one that is counted with its kind
    if more > 0:
        flash, ram = flash + (0 if kind.id == "i2c" else GENERATORS_BYTES), ram + GENERATOR_BYTES * more
    if score.strings:
        flash, ram = flash + STRINGS_BYTES, ram + STRING_BYTES * score.strings
    return Size(flash, ram, controller, len(score.moves))
