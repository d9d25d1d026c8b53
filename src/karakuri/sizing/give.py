"""How far gears, horn and bracket give under a torque: an estimate, ± 50 %."""

from __future__ import annotations

import math

from karakuri.catalogue import gives
from karakuri.frozen import Frozen
from karakuri.model.drive import Drive


class Give(Frozen):
    """Stiffness against turning, N·m/rad: of the gears, the horn and the bracket; and of gears and the others behind one another."""

    gears: float
    horn: float
    bracket: float

    @property
    def beyond(self) -> float:
        """Of horn and bracket together, which give where the servo does not feel it."""
        return 1.0 / (1.0 / self.horn + 1.0 / self.bracket)

    @property
    def whole(self) -> float:
        """Of all together."""
        return 1.0 / (1.0 / self.gears + 1.0 / self.beyond)

    @property
    def outside(self) -> float:
        """The share of the give that lies beyond what the servo feels."""
        return self.whole / self.beyond


def give_of(drive: Drive) -> Give:
    """Of a drive as it is screwed together: so many degrees at its advertised stall torque, by what each is made of."""
    stall, table = drive.acting(1.0).torque_Nm, gives()
    horn = drive.mount.horn or ("metal" if drive.actuator.gears == "metal" else "plastic")
    degrees = (table["gears"][drive.actuator.gears], table["horn"][horn], table["bracket"][drive.mount.bracket])
    gears, of_horn, bracket = (stall / math.radians(each) for each in degrees)
    return Give(gears, of_horn, bracket)
