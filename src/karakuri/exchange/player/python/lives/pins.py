"""Pins of the computer that notice, by the kernel's own interface to its GPIO chip: linux/gpio.h, version 2. Nothing to install."""

from __future__ import annotations

import os
import struct

LINES, NAME, LINE_CONFIG, REQUEST, VALUES = 64, 32, 272, 592, 16
GET_LINES, GET_VALUES = 0xC250B407, 0xC010B40E
INPUT, ACTIVE_LOW, PULL_UP = 1 << 2, 1 << 1, 1 << 8


def request(lines: list, low: bool) -> bytearray:
    """What is asked of the chip: lines as inputs; `low`: pulled up, and on while something pulls them to ground."""
    out = bytearray(REQUEST)
    struct.pack_into(f"<{len(lines)}I", out, 0, *lines)
    struct.pack_into("<32s", out, 4 * LINES, b"figure")
    struct.pack_into("<Q", out, 4 * LINES + NAME, INPUT | (ACTIVE_LOW | PULL_UP if low else 0))
    struct.pack_into("<I", out, 4 * LINES + NAME + LINE_CONFIG, len(lines))
    return out


def handed(answer: bytearray) -> int:
    """The file by which the chip hands the lines over."""
    return struct.unpack_from("<i", answer, REQUEST - 4)[0]


class Pins:
    """Lines of one chip: `rows` are (line, low), None for what cannot be read; the stop switch is a line that is pulled up."""

    def __init__(self, chip: str, rows: list, stop: int) -> None:
        import fcntl

        self.ioctl, self.at = fcntl.ioctl, {}
        file = os.open(chip, os.O_RDWR)
        try:
            for low in (False, True):
                wanted: list = [(k, row[0]) for k, row in enumerate(rows) if row is not None and bool(row[1]) == low]
                wanted += [("stop", stop)] if low else []
                if wanted:
                    asked = request([line for _, line in wanted], low)
                    fcntl.ioctl(file, GET_LINES, asked, True)
                    self.at.update({who: (handed(asked), bit) for bit, (who, _) in enumerate(wanted)})
        finally:
            os.close(file)

    def on(self, who) -> bool:
        """Whether an input, by its number, or the stop switch is on."""
        file, bit = self.at[who]
        values = bytearray(struct.pack("<QQ", 0, 1 << bit))
        self.ioctl(file, GET_VALUES, values, True)
        return bool(struct.unpack("<QQ", values)[0] >> bit & 1)

    def reads(self, k: int):
        """1000 or 0; None where nothing can be read."""
        return (1000 if self.on(k) else 0) if k in self.at else None

    def stop(self) -> bool:
        """Whether somebody asks for a stop."""
        return self.on("stop")
