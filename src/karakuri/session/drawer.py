"""A drawer of one's own servos: kept beside the settings, offered for every joint of every figure."""

from __future__ import annotations

from pathlib import Path

from karakuri.errors import FileTrouble
from karakuri.files.disk import read_text, write_text
from karakuri.files.servos import servos_from_text, servos_to_text
from karakuri.model.drive import Actuator
from karakuri.session.places import state_folder


def drawer_file() -> Path:
    """servos.json in the state folder."""
    return state_folder() / "servos.json"


class Drawer:
    """Read when it is first asked for. What cannot be read is left as it is: nothing is ever written over it."""

    def __init__(self) -> None:
        self._servos: tuple[Actuator, ...] | None = None
        self.trouble = ""

    def servos(self) -> tuple[Actuator, ...]:
        """What lies in it, by name; nothing, and `trouble` says why, where its file cannot be read."""
        if self._servos is None:
            self._servos = ()
            if drawer_file().exists():
                try:
                    self._servos = servos_from_text(read_text(drawer_file()), str(drawer_file()))
                except FileTrouble as trouble:
                    self.trouble = str(trouble)
        return self._servos

    def put(self, *servos: Actuator) -> None:
        """Put servos in, in place of those of the same name. Raises FileTrouble."""
        names = {servo.name for servo in servos}
        self._keep((*(s for s in self.servos() if s.name not in names), *servos))

    def take_out(self, name: str) -> None:
        """Take one out. Raises FileTrouble."""
        self._keep(tuple(s for s in self.servos() if s.name != name))

    def write_to(self, path: Path) -> None:
        """All of them as a file to give away. Raises FileTrouble."""
        write_text(servos_to_text(self.servos()), path)

    def take_from(self, path: Path) -> int:
        """Put in what a file holds, all or nothing; how many. Raises FileTrouble."""
        servos = servos_from_text(read_text(path), path.name)
        self.put(*servos)
        return len(servos)

    def _keep(self, servos: tuple[Actuator, ...]) -> None:
        if self.trouble:
            raise FileTrouble(
                f"The drawer cannot be read and is left as it is: {self.trouble}",
                (),
                f"Mend {drawer_file()}, or move it away.",
            )
        ordered = tuple(sorted(servos, key=lambda servo: servo.name.lower()))
        write_text(servos_to_text(ordered), drawer_file(), make_folder=True)
        self._servos = ordered
