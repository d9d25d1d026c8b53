"""Which pins are free and fit, and plugging in all that is not yet."""

from __future__ import annotations

from karakuri.catalogue.boards import BoardPin
from karakuri.errors import EditRefused
from karakuri.frozen import Frozen
from karakuri.model.board import PULSED, Board, Plug, PluggedKind
from karakuri.model.board_edits import plug_in
from karakuri.model.edit import Add, Edit, Step
from karakuri.model.figure import Figure
from karakuri.model.ids import new_id
from karakuri.model.leads import Lead, leads_of
from karakuri.wiring.clashes import MOST_BY_TIMER, PULSE_TIMER
from karakuri.wiring.following import follows, may_follow, told_at
from karakuri.wiring.table import kind_of

PLUGGED: dict[str, PluggedKind] = {"light": "light", "run": "run", "sound": "voice"}


class Thing(Frozen):
    """What can be plugged in: what it is, its id, its name."""

    of: PluggedKind
    item: str
    name: str


def things(figure: Figure) -> tuple[Thing, ...]:
    """All that can be plugged into a board, boards that hang on a bus first, controllers that follow another among them, then servos, lights, motors, voices and inputs."""
    hung = {board.id for board in may_follow(figure)}
    found = [Thing("board", b.id, b.name) for b in figure.boards if kind_of(b).address is not None or b.id in hung]
    for drive in figure.drives:
        joint = figure.joint(drive.joint)
        if joint.kind == "turn" and joint.role != "free":
            what = "servo" if drive.actuator.stepper is None else "stepper"
            found.append(Thing("drive", drive.id, f"{what} of {joint.name}"))
    seen: set[str] = set()
    for score in figure.scores:
        for channel in score.channels:
            if not channel.joints and channel.id not in seen:
                seen.add(channel.id)
                found.append(Thing(PLUGGED[channel.kind], channel.id, channel.name))
    found += [
        Thing("input", each.id, each.name) for each in (figure.behaviour.inputs if figure.behaviour is not None else ())
    ]
    return tuple(found)


def not_plugged(figure: Figure) -> tuple[Thing, ...]:
    """Of those, what is plugged into no board."""
    plugged = {(plug.of, plug.item) for plug in figure.plugs}
    return tuple(each for each in things(figure) if (each.of, each.item) not in plugged)


def fits(board: Board, pin: BoardPin, lead: Lead) -> bool:
    """Whether a pin does what a lead wants without a clash with what the player needs of the board."""
    if lead.wants not in pin.does:
        return False
    if kind_of(board).what != "controller":
        return True
    return pin.id != kind_of(board).stop and not (lead.wants == "dim" and pin.timer == PULSE_TIMER)


def free_pins(figure: Figure, board: Board, lead: Lead, plug: Plug) -> tuple[BoardPin, ...]:
    """Pins of a board that fit a lead of `plug` and nothing else is plugged into; a bus is free for all, a string of lamps that goes by SPI has one pin and keeps
    others to itself."""
    others = [each for each in figure.plugs if each.board == board.id and each.id != plug.id]
    taken = {*told_at(figure, board), *(pin for each in others for _, pin in each.pins)}
    shared, string = lead.wants in ("data", "clock"), kind_of(board).string
    together = {*string.takes, string.pin} if string is not None else set()
    if string is not None and plug.lamps:
        return tuple(pin for pin in kind_of(board).pins if pin.id == string.pin and taken.isdisjoint(together))
    if any(each.lamps for each in others):
        taken |= together
    return tuple(pin for pin in kind_of(board).pins if fits(board, pin, lead) and (shared or pin.id not in taken))


def _worth(pin: BoardPin, lead: Lead) -> tuple[int, int, int]:
    """Which of the pins that fit to take: the one that does least else, outputs by their number."""
    rare = sum(ability in pin.does for ability in ("dim", "data", "clock", "send", "analog")) if lead.wants in ("pulse", "digital") else 0  # fmt: skip
    first = (
        0 if lead.wants == "pulse" and pin.timer == PULSE_TIMER else 1
    )  # a servo costs nothing where no light can be
    return rare if first else 0, first, pin.output if pin.output >= 0 else 999


def pins_for(figure: Figure, board: Board, plug: Plug) -> tuple[tuple[str, str], ...] | None:
    """Free pins for all leads of a thing; None where the board has none."""
    chosen: list[tuple[str, str]] = []
    for lead in leads_of(figure, plug):
        if not lead.signal:
            continue
        used = {pin for _, pin in chosen}
        free = [pin for pin in free_pins(figure, board, lead, plug) if pin.id not in used]
        if not free:
            return None
        chosen.append((lead.id, min(free, key=lambda pin: _worth(pin, lead)).id))
    if plug.of in PULSED and kind_of(board).what == "controller" and any(lead == "signal" for lead, _ in chosen):
        pulses = [p for p in figure.plugs if p.board == board.id and p.of in PULSED and p.pin("signal") and p.id != plug.id]  # fmt: skip
        if len(pulses) >= MOST_BY_TIMER:
            return None
    return tuple(chosen)


def boards_for(figure: Figure, thing: Thing) -> list[Board]:
    """Boards in the order in which one would plug a thing in: of servos, those that hand power on first."""
    order = [board for board in figure.boards if kind_of(board).what != "rail" and board.id != thing.item]
    if thing.of in PULSED:
        order.sort(key=lambda board: not kind_of(board).rail)
    elif thing.of != "board":
        order.sort(key=lambda board: kind_of(board).what != "controller")
    if thing.of in ("input", "voice"):  # one that follows decides nothing
        order = [board for board in order if not follows(figure, board)]
    return order


def home_of(figure: Figure, thing: Thing) -> Plug | None:
    """Where a thing is plugged in, or else a plug for it into the first board with pins that fit; None where there is none."""
    for board in boards_for(figure, thing):
        if thing.of == "board" and (kind_of(board).what != "controller" or follows(figure, board)):
            continue
        draft = Plug(id=new_id(figure, f"plug {thing.item}"), board=board.id, of=thing.of, item=thing.item)
        pins = pins_for(figure, board, draft)
        if pins is not None:
            return Plug(**(dict(draft) | {"pins": pins}))
    return None


def plug_thing(figure: Figure, thing: Thing) -> Edit:
    """One thing into the first board where it fits. Raises EditRefused where it fits nowhere."""
    plug = home_of(figure, thing)
    if plug is None:
        raise EditRefused(f"No free pin fits {thing.name}. Add a board: a pulse generator drives sixteen servos.")
    return Edit(f"plug {thing.name} in"[:80], (Add("plugs", plug),))


def move_plug(figure: Figure, ident: str, board_id: str) -> Edit:
    """A thing to another board, on the pins there that fit; with none where none is free."""
    plug = next(each for each in figure.plugs if each.id == ident)
    board = next(each for each in figure.boards if each.id == board_id)
    pins = pins_for(figure, board, Plug(**(dict(plug) | {"board": board_id, "pins": ()}))) or ()
    return plug_in(figure, board_id, plug.of, plug.item, pins)


def plug_everything(figure: Figure) -> Edit:
    """Plug in all that is not yet, each where it fits. Raises EditRefused where nothing more fits, naming what is left over."""
    plugs, now, left = list[Plug](), figure, list[str]()
    for thing in not_plugged(figure):
        plug = home_of(now, thing)
        if plug is None:
            left.append(thing.name)
        else:
            plugs.append(plug)
            now = Figure(**(dict(now) | {"plugs": (*now.plugs, plug)}))
    if not plugs:
        if not left:
            raise EditRefused("Everything is plugged in.")
        raise EditRefused(f"No free pin fits {', '.join(left[:4])}{' and more' if len(left) > 4 else ''}. Add a board: a pulse generator drives sixteen servos.")  # fmt: skip
    return Edit("plug everything in", tuple(Add("plugs", plug) for plug in plugs))


def to_output(figure: Figure, drive_id: str, number: int) -> Edit:
    """A servo to the pin that is output `number` of its board, or of the first that makes pulses; where there is no board, of one of numbered outputs.
    Raises EditRefused where that board has no such output."""
    drive = next(each for each in figure.drives if each.id == drive_id)
    old = next((plug for plug in figure.plugs if (plug.of, plug.item) == ("drive", drive_id)), None)
    able = [
        board for board in figure.boards if any(pin.output >= 0 and "pulse" in pin.does for pin in kind_of(board).pins)
    ]
    board = next((each for each in able if old is not None and each.id == old.board), able[0] if able else None)
    before: tuple[Step, ...] = ()
    if board is None:
        board = Board(id=new_id(figure, "board"), name="Board", kind="line")
        before = (Add("boards", board),)
        figure = Figure(**(dict(figure) | {"boards": (*figure.boards, board)}))
    pin = kind_of(board).of_output(number)
    if pin is None:
        last = max(each.output for each in kind_of(board).pins)
        raise EditRefused(f"{board.name} has outputs 0 to {last}; there is no output {number}.")
    made = plug_in(figure, board.id, "drive", drive_id, (("signal", pin.id),))
    return Edit(f"output of {figure.joint(drive.joint).name}", (*before, *made.steps))
