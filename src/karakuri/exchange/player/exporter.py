"""The player: a score as C++ for a small controller."""

from karakuri.course import Course
from karakuri.exchange.contract import Chosen, Exported, Exporter, Media, Option
from karakuri.exchange.player.bundle import bundle, left_out
from karakuri.exchange.player.kinds import KINDS, PulseKind, pulse_kind
from karakuri.exchange.player.pins import as_wired
from karakuri.exchange.player.plain import channels, plain
from karakuri.exchange.player.size import Controller, Size, controllers, size
from karakuri.exchange.player.tables import tables
from karakuri.model.figure import Figure

FORMS = (("make", "C++ to make"), ("sketch", "a sketch folder"), ("python", "plain Python"))


def _chosen(figure: Figure, chosen: Chosen) -> tuple[Controller, PulseKind]:
    """As the figure is wired; where that says nothing, as was chosen."""
    return as_wired(figure) or (
        next(c for c in controllers() if c.id == chosen["controller"]),
        pulse_kind(chosen["pulses"]),
    )


def _size(figure: Figure, chosen: Chosen) -> Size:
    return size(tables(figure), *_chosen(figure, chosen))


def _told(figure: Figure, chosen: Chosen) -> str:
    if chosen["form"] == "python":
        return f"For {len(channels(figure))} channels of a pulse generator on the computer's bus.{_left_out(figure)}"
    wired = as_wired(figure)
    by = f" As it is wired: {wired[0].name}, pulses by {wired[1].name}." if wired is not None else ""
    return f"The player takes {_size(figure, chosen).words()} (an estimate from above).{by}{_left_out(figure)}"


def _left_out(figure: Figure) -> str:
    words = left_out(figure).strip()
    return f" {words}" if words else ""


def _write(figure: Figure, chosen: Chosen, course: Course, media: Media) -> Exported:
    if chosen["form"] == "python":
        return Exported(
            plain(figure, course),
            lambda: ("Plain Python, nothing to install.", "Its README.txt says how to wire, copy and start it."),
        )
    files = bundle(figure, *_chosen(figure, chosen), chosen["form"] == "sketch")
    return Exported(files, lambda: (_told(figure, chosen), "Its README.txt says how to wire, build and send it."))


EXPORTER = Exporter(
    "player",
    "the player",
    "",
    (
        Option("form", "As", "in which form", FORMS),
        Option("controller", "Controller", "for which controller", tuple((c.id, c.name) for c in controllers())),
        Option("pulses", "Pulses by", "who makes the pulses", tuple((kind.id, kind.name) for kind in KINDS)),
    ),
    _told,
    _write,
)
