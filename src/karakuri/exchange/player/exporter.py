"""The player: a score as C++ for a small controller."""

from karakuri.course import Course
from karakuri.exchange.contract import Chosen, Exported, Exporter, Media, Option
from karakuri.exchange.player.bundle import bundle
from karakuri.exchange.player.kinds import KINDS, pulse_kind
from karakuri.exchange.player.size import Controller, Size, controllers, size
from karakuri.exchange.player.tables import tables
from karakuri.model.figure import Figure


def _controller(chosen: Chosen) -> Controller:
    return next(c for c in controllers() if c.id == chosen["controller"])


def _size(figure: Figure, chosen: Chosen) -> Size:
    return size(tables(figure), _controller(chosen), pulse_kind(chosen["pulses"]))


def _told(figure: Figure, chosen: Chosen) -> str:
    return f"The player takes {_size(figure, chosen).words()} (an estimate from above)."


def _write(figure: Figure, chosen: Chosen, course: Course, media: Media) -> Exported:
    files = bundle(figure, _controller(chosen), pulse_kind(chosen["pulses"]))
    return Exported(files, lambda: (_told(figure, chosen), "Its README.txt says how to wire, build and send it."))


EXPORTER = Exporter(
    "player",
    "the player",
    "",
    (
        Option("controller", "Controller", "for which controller", tuple((c.id, c.name) for c in controllers())),
        Option("pulses", "Pulses by", "who makes the pulses", tuple((kind.id, kind.name) for kind in KINDS)),
    ),
    _told,
    _write,
)
