"""The player: a score as C++ for a small controller."""

from karakuri.behaviour.speech import jaws_of
from karakuri.catalogue.boards import board_kind
from karakuri.course import Course
from karakuri.exchange.contract import Chosen, Exported, Exporter, Media, Option
from karakuri.exchange.player.bundle import bundle, left_out, whole_tables
from karakuri.exchange.player.kinds import CORE, KINDS, PulseKind, pulse_kind
from karakuri.exchange.player.known import Known
from karakuri.exchange.player.live import LiveTables, live_words, lives
from karakuri.exchange.player.lives import live_tables
from karakuri.exchange.player.pins import as_wired, computer_pins, pin_table
from karakuri.exchange.player.plain import channels, plain
from karakuri.exchange.player.size import Controller, Size, controllers, size
from karakuri.exchange.sounds import heard
from karakuri.model.figure import Figure
from karakuri.model.loudness import Loudness

PLAYS = (("behaviour", "what it does by itself"), ("score", "the score alone"))
FORMS = (("make", "C++ to make"), ("sketch", "a sketch folder"), ("python", "plain Python"))


def _chosen(figure: Figure, chosen: Chosen) -> tuple[Controller, PulseKind]:
    """As the figure is wired; where that says nothing, as was chosen."""
    controller = next(c for c in controllers() if c.id == chosen["controller"])
    return as_wired(figure) or (controller, CORE if controller.core else pulse_kind(chosen["pulses"]))


def _known(figure: Figure, chosen: Chosen, media: Media, course: Course) -> Known | None:
    """What a player that lives by itself is to know; None of one that plays the score alone."""
    if chosen["plays"] != "behaviour" or not lives(figure):
        return None
    found = dict[str, Loudness]()
    for k, sound in enumerate(figure.sounds if jaws_of(figure) else ()):
        course.at(f"listening to {sound.name}", k / len(figure.sounds))
        data = media(sound)
        if data is not None:
            found[sound.sha256] = heard(data, sound.file, course).loudness
    return Known(media.can(), found)


def _size(figure: Figure, chosen: Chosen) -> tuple[Size, LiveTables | None]:
    """Before it is written: nobody has listened to its sounds then, and their moves are counted from above."""
    controller, kind = _chosen(figure, chosen)
    known = Known() if chosen["plays"] == "behaviour" and lives(figure) else None
    made = whole_tables(figure, pin_table(figure, controller, kind), known)
    return size(made, controller, kind), made.live


_KEPT: list[tuple[Figure, dict[str, str], str]] = []
"""What was told last: the card asks again with every word of a board."""


def _told_once(figure: Figure, chosen: Chosen) -> str:
    if not _KEPT or _KEPT[0][0] is not figure or _KEPT[0][1] != chosen:
        _KEPT[:] = [(figure, dict(chosen), _told(figure, chosen))]
    return _KEPT[0][2]


def _told(figure: Figure, chosen: Chosen) -> str:
    if chosen["form"] == "python":
        lived = chosen["plays"] == "behaviour" and lives(figure)
        return f"For {len(channels(figure))} channels of a pulse generator on the computer's bus.{_on_a_computer(figure) if lived else _left_out(figure)}"
    found, live = _size(figure, chosen)
    wired = as_wired(figure)
    by = f" As it is wired: {wired[0].name}, pulses by {wired[1].name}." if wired is not None else ""
    said = live_words(live) if live is not None else _left_out(figure)
    return f"The player takes {found.words()} (an estimate from above).{by}{said}"


def _on_a_computer(figure: Figure) -> str:
    """What of a figure that lives by itself a single-board computer does not do."""
    return live_words(live_tables(figure, computer_pins(figure), 0, {}, {}), True)


def _left_out(figure: Figure) -> str:
    words = left_out(figure).strip()
    return f" {words}" if words else ""


def _write(figure: Figure, chosen: Chosen, course: Course, media: Media) -> Exported:
    known = _known(figure, chosen, media, course)
    if chosen["form"] == "python":
        gone = [sound.name for sound in figure.sounds if known is not None and media(sound) is None]
        unsaid = (f"Not found beside the figure, and so never said: {', '.join(gone)}.",) if gone else ()
        words = (*unsaid, "Plain Python, nothing to install.", "Its README.txt says how to wire, copy and start it.")
        return Exported(plain(figure, course, known, media), lambda: words)
    files = bundle(figure, *_chosen(figure, chosen), chosen["form"] == "sketch", known)
    deaf = [
        sound.name
        for sound in figure.sounds
        if known is not None and jaws_of(figure) and sound.sha256 not in known.heard
    ]
    lost = (f"Not found beside the figure, and so said with a jaw that stands: {', '.join(deaf)}.",) if deaf else ()
    return Exported(
        files, lambda: (*lost, _told(figure, chosen), "Its README.txt says how to wire, build and send it.")
    )


def _unwired(figure: Figure) -> bool:
    return not any(board_kind(board.kind).what == "controller" for board in figure.boards)


EXPORTER = Exporter(
    "player",
    "the player",
    "",
    (
        Option("plays", "Plays", "what it plays, of a figure with a behaviour", PLAYS, lives),
        Option("form", "As", "in which form", FORMS),
        Option(
            "controller", "Controller", "for which controller", tuple((c.id, c.name) for c in controllers()), _unwired
        ),
        Option("pulses", "Pulses by", "who makes the pulses", tuple((kind.id, kind.name) for kind in KINDS), _unwired),
    ),
    _told_once,
    _write,
)
