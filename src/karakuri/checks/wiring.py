"""What is plugged into what: pins that clash, what is plugged in nowhere, wires that are too short in some pose, what a pin may give, volts lost on the way to a servo.

Only where the figure has boards. A wire as long as the way through the pivots between its ends reaches in every pose; one shorter than the straight line in some
pose does not. That 5 % of the volts may be lost along a servo's own wires: common practice, no source.
"""

from __future__ import annotations

from collections.abc import Iterable

from karakuri.catalogue.boards import board_kind
from karakuri.checks import strings
from karakuri.checks.contract import POWER, Results, wished
from karakuri.checks.power import LOST
from karakuri.frozen import Frozen
from karakuri.model.board import Board, Plug
from karakuri.model.board_edits import set_board, set_pin, set_plug
from karakuri.model.figure import Figure
from karakuri.model.finding import Derivation, Finding, Proposal, Sentence, Verdict, finding_id, verdict_of
from karakuri.model.leads import called, leads_of
from karakuri.model.ref import Ref
from karakuri.power.fed import most_V
from karakuri.power.supply import stall_sum
from karakuri.power.wire import drop_V, ohm_per_m
from karakuri.units import Quantity
from karakuri.wiring.clashes import Clash, clashes
from karakuri.wiring.following import address_of, addresses_of, followers, hangs_on
from karakuri.wiring.plug_in import free_pins, not_plugged, pins_for, plug_everything
from karakuri.wiring.table import Wire, cut_m, ways_of, wires
from karakuri.wiring.ways import farthest, poses_to_try

GAUGES = (24, 22, 20, 18, 16, 14, 12, 10)
NAMED = 6
BUS_HIGH = 0.7
"""Of what its logic gets, on its bus: I2C-bus specification UM10204, from memory."""
ALL_CALL = 0x70
"""The address to which every such generator answers: its data sheet, from memory."""


def find(results: Results) -> Iterable[Finding]:
    figure = results.figure
    if not figure.boards:
        return
    wrong = clashes(figure)
    for clash in wrong:
        yield _clash(clash)
    yield from _open(results, wrong)
    for plug in figure.plugs:
        if plug.along_mm is not None:
            yield from _reach(results, plug)
    for board in followers(figure):
        yield from _levels(figure, board)
    for board in figure.boards:
        yield from _fed(results, board)
        yield from _given(results, board)
    yield from strings.find(results)
    yield from _lost(results)
    yield from _reaches(results)


def _clash(clash: Clash) -> Finding:
    ref = Ref("plug", clash.plugs[-1]) if clash.plugs else Ref("board", clash.board)
    verdict, measure = ("fails", "clashes") if clash.plugs else ("not yet judged", "hangs on nothing")
    return Finding(finding_id("wiring", clash.board, clash.key), "wiring", ref, verdict, Sentence(clash.words), measure=Sentence(measure))  # type: ignore[arg-type]  # fmt: skip


def _open(results: Results, wrong: tuple[Clash, ...]) -> Iterable[Finding]:
    """What is not plugged in, or only half; where nothing is wrong, that it all is."""
    figure, board = results.figure, Ref("board", results.figure.boards[0].id)
    names = [each.name for each in not_plugged(figure)]
    half = [called(figure, plug) for plug in figure.plugs if any(lead.signal and plug.pin(lead.id) is None for lead in leads_of(figure, plug))]  # fmt: skip
    if names or half:
        some = [*names, *half]
        told = ", ".join(some[:NAMED]) + (f" and {len(some) - NAMED} more" if len(some) > NAMED else "")
        text = f"Plugged in nowhere yet, or not with all its leads: {told}."
        yield Finding(finding_id("wiring", "open"), "wiring", board, "not yet judged", Sentence(text), measure=Sentence(f"{len(some)} not plugged in"))  # fmt: skip
    elif not wrong:
        text = f"All {len(figure.plugs)} things are plugged in, every pin does what is asked of it, and none is asked twice.{_not_plugs(figure)}"
        yield Finding(finding_id("wiring", "open"), "wiring", board, "holds", Sentence(text), measure=Sentence("every pin once"))  # fmt: skip


def _not_plugs(figure: Figure) -> str:
    """What else wants wires and is no plug."""
    names = [element.name for element in figure.elements if element.kind in ("motor", "actuator")]
    return f" Not among them, with wires of their own: {', '.join(names[:NAMED])}." if names else ""


def _reach(results: Results, plug: Plug) -> Iterable[Finding]:
    """A wire of a written length, against the way it has to go."""
    figure, tree = results.figure, results.tree
    ways = ways_of(figure, plug)
    name, ident, ref = called(figure, plug), finding_id("wiring", plug.id, "reach"), Ref("plug", plug.id)
    if ways is None or plug.along_mm is None:
        text = f"The wires of {name} are written to be {{0}} long; whether they reach is known once it is said where all their ends are."
        long = Quantity((plug.along_mm or 0.0) / 1e3, "length")
        yield Finding(ident, "wiring", ref, "not yet judged", Sentence(text, (long,)), measure=Sentence("an end is not said"))  # fmt: skip
        return
    wide, longest = plug.along_mm / 1e3, max(made.length for _, _, made in ways)
    least = max(farthest(tree, a, b, poses_to_try(tree, made.crosses)) for a, b, made in ways)
    quantities = (Quantity(wide, "length", rounding="down"), Quantity(least, "length", rounding="up"), Quantity(longest, "length", rounding="up"))  # fmt: skip
    if wide < least:
        verdict, text = (
            "fails",
            f"The wires of {name} are {{0}} long, and its two ends get {{1}} apart in some pose: they tear out.",
        )
    elif wide < longest:
        verdict = "tight"
        text = f"The wires of {name} are {{0}} long: enough for the {{1}} they get apart in a straight line, not for the {{2}} by way of the pivots, where nothing pulls."
    else:
        verdict, text = "holds", f"The wires of {name} are {{0}} long; by way of the pivots {{2}} reach in every pose."
    measure = Sentence("{0} long", (quantities[0],))
    yield Finding(ident, "wiring", ref, verdict, Sentence(text, quantities), measure=measure)  # type: ignore[arg-type]


def _fed(results: Results, board: Board) -> Iterable[Finding]:
    """Whether a controller takes the volts that servos get, just charged too, where it is fed by these."""
    kind, has = board_kind(board.kind), most_V(results.figure)
    if not kind.feeds or board.fed_alone:
        return
    volts, takes = Quantity(has, "voltage"), list[str]()
    quantities = [volts]
    for name, low, high in kind.feeds:
        takes.append(f"{{{len(quantities)}}} to {{{len(quantities) + 1}}} at {name}")
        quantities += [Quantity(low, "voltage", rounding="up"), Quantity(high, "voltage", rounding="down")]
    charged = " just charged" if has > results.figure.supply.voltage_V else ""
    text = f"{board.name} is fed by what feeds the servos, {{0}}{charged}: it takes {' or '.join(takes)}"
    verdict: Verdict = "holds"
    if has > kind.feeds[-1][2]:
        verdict, text = "fails", f"{text}, and more ends it."
    elif has < kind.feeds[0][1]:
        verdict, text = "fails", f"{text}, and does not run on less."
    elif kind.feed(has) is None:
        verdict, text = (
            "tight",
            f"{text}. At {kind.feeds[-1][0]} its logic gets a volt less than that, at the other it ends.",
        )
    else:
        text += "."
    if verdict != "holds":
        text += " Feed it by 5 V of its own, a converter or a plug, its minus joined."
    yield Finding(finding_id("wiring", board.id, "fed"), "wiring", Ref("board", board.id), verdict, Sentence(text, tuple(quantities)), measure=Sentence("{0} feeds it", (volts,)))  # fmt: skip


def _levels(figure: Figure, board: Board) -> Iterable[Finding]:
    """Whether the bus of the one that leads gets high enough for a controller that follows: data sheets want 0.7 of what its logic gets."""
    chief = hangs_on(figure, board)
    gives, logic = board_kind(chief.kind).volts if chief is not None else None, board_kind(board.kind).volts
    if chief is None or gives is None or logic is None:
        return
    comes, wants = Quantity(gives, "voltage", rounding="down"), Quantity(BUS_HIGH * logic, "voltage", rounding="up")
    low = gives < BUS_HIGH * logic
    text = f"The bus of {chief.name} goes up to {{0}}, and {board.name}, which follows on it, wants {{1}} to be sure that it is high (0.7 of what its logic gets)"
    text += ": it may hear nothing, and its own pull-ups could end the other. A level shifter for a bus goes between." if low else "."  # fmt: skip
    yield Finding(finding_id("wiring", board.id, "bus_level"), "wiring", Ref("board", board.id), "tight" if low else "holds", Sentence(text, (comes, wants)), measure=Sentence("{0} of {1}", (comes, wants)))  # fmt: skip


def _given(results: Results, board: Board) -> Iterable[Finding]:
    """What the pins of a board give to lights that they feed themselves."""
    figure, kind = results.figure, board_kind(board.kind)
    straight = [plug for plug in figure.plugs if plug.board == board.id and plug.of == "light" and plug.straight]
    if not straight or kind.pin_mA is None:
        return
    loads = {load.channel: load for load in (figure.power.loads if figure.power is not None else ()) if load.channel}
    for plug in straight:
        name, load = called(figure, plug), loads.get(plug.item)
        ident, ref = finding_id("wiring", plug.id, "pin"), Ref("plug", plug.id)
        most = Quantity(kind.pin_mA / 1e3, "current", rounding="down")
        if load is None or load.amps <= 0.0:
            text = f"{name} is fed by a pin of {board.name}, which gives {{0}}: write what it draws on the Power bench."
            yield Finding(ident, "wiring", ref, "not yet judged", Sentence(text, (most,)), measure=Sentence("its current is not written"))  # fmt: skip
            continue
        reserve, draws = kind.pin_mA / 1e3 / load.amps, Quantity(load.amps, "current", rounding="up")
        guess = ", a guess" if load.guess else ""
        text = f"{name} draws {{0}}{guess} from a pin of {board.name}, which gives {{1}} for long; more wants a transistor."
        yield Finding(ident, "wiring", ref, verdict_of(reserve, wished(results)), Sentence(text, (draws, most)), reserve=reserve, demand=draws, capacity=most)  # fmt: skip
    if kind.all_mA is not None:
        amps = sum(loads[plug.item].amps for plug in straight if plug.item in loads)
        unknown = [called(figure, plug) for plug in straight if plug.item not in loads]
        reserve, most, draws = kind.all_mA / 1e3 / max(amps, 1e-9), Quantity(kind.all_mA / 1e3, "current", rounding="down"), Quantity(amps, "current", rounding="up")  # fmt: skip
        if not unknown or reserve < 1.0:
            text = f"All lights that {board.name} feeds itself draw {{0}} together; all its pins give {{1}}."
            yield Finding(finding_id("wiring", board.id, "all"), "wiring", Ref("board", board.id), verdict_of(reserve, wished(results)), Sentence(text, (draws, most)), reserve=reserve, demand=draws, capacity=most)  # fmt: skip


class _Drop(Frozen):
    """What a stalled servo loses along its own wires, V, with their length, m, and the current, A."""

    plug: Plug
    wire: Wire
    length: float
    amps: float
    volts: float


def drops(figure: Figure) -> tuple[_Drop, ...]:
    """Of each servo whose wires' length is known, worst first."""
    drives, plugs, out = {drive.id: drive for drive in figure.drives}, {plug.id: plug for plug in figure.plugs}, []
    stalls, at_C = dict(stall_sum(figure).each), figure.assumptions.wire_C
    for wire in wires(figure):
        if not (wire.feeds and wire.lead == "plus" and wire.length is not None and wire.plug in plugs):
            continue
        plug = plugs[wire.plug]
        if plug.of == "drive" and drives[plug.item].actuator.stepper is None:
            amps = stalls[drives[plug.item].joint]
            out.append(_Drop(plug, wire, wire.length, amps, drop_V(amps, wire.length, wire.awg, at_C)))
    return tuple(sorted(out, key=lambda each: -each.volts))


def _lost(results: Results) -> Iterable[Finding]:
    figure, found = results.figure, drops(results.figure)
    servos = [plug for plug in figure.plugs if plug.of == "drive"]
    if not found:
        if servos:
            text = "What the servos lose along their wires, and whether those reach, is known once it is said where the boards lie."
            yield Finding(finding_id("wiring", "lost"), "wiring", Ref("board", servos[0].board), "not yet judged", Sentence(text), measure=Sentence("no place is said"))  # fmt: skip
        return
    worst, may = found[0], LOST * figure.supply.voltage_V
    name, lost, most = called(figure, worst.plug), Quantity(worst.volts, "voltage", rounding="up"), Quantity(may, "voltage", rounding="down")  # fmt: skip
    unknown = len(servos) - len(found)
    if worst.volts > may:
        verdict, text = (
            "tight",
            f"Stalled, the {name} loses {{0}} along its own wires; {{1}} is what is usually allowed. It is weaker than it is judged then.",
        )
    elif unknown > 0:
        verdict, text = (
            "not yet judged",
            f"Stalled, the {name} loses most along its own wires, {{0}}; of {unknown} more the length of the wires is not known.",
        )
    else:
        verdict, text = (
            "holds",
            f"Stalled, the {name} loses most along its own wires, {{0}}; {{1}} is what is usually allowed.",
        )
    sum_ = Derivation(
        f"Lost along {worst.wire.awg} AWG at {figure.assumptions.wire_C:g} °C, there and back", "{0} × {1}",
        (Quantity(worst.amps, "current"), Quantity(2.0 * worst.length * ohm_per_m(worst.wire.awg, figure.assumptions.wire_C), "resistance")), lost,
    )  # fmt: skip
    yield Finding(finding_id("wiring", "lost"), "wiring", Ref("plug", worst.plug.id), verdict, Sentence(text, (lost, most)), measure=Sentence("{0} lost", (lost,)), derivations=(sum_,))  # type: ignore[arg-type]  # fmt: skip


def _reaches(results: Results) -> Iterable[Finding]:
    """Volts at the servo that gets least, under what it and all together draw over the score."""
    power, found = results.figure.power, results[POWER]
    if power is None or found is None or not found.at_servos:
        return
    worst = min(found.at_servos, key=lambda each: each.volts if each.known else each.least)
    plug = next(each for each in results.figure.plugs if each.id == worst.plug)
    name, gets, least = called(results.figure, plug), Quantity(worst.volts, "voltage", rounding="down"), Quantity(power.least_V, "voltage", rounding="up")  # fmt: skip
    amps = Quantity(worst.amps, "current", rounding="up")
    quantities = (gets, least, amps)
    if worst.known and worst.volts < power.least_V:
        verdict, text = (
            "fails",
            f"The {name} gets {{0}} at its worst moment over the score, drawing up to {{2}}: below {{1}} it twitches.",
        )
    elif not worst.known and worst.least < power.least_V:
        verdict, text = (
            "not yet judged",
            f"The {name} gets {{0}} if it stalls, {{2}}; what it is loaded with is not known. {{1}} is asked.",
        )
    elif worst.least < power.least_V:
        verdict, text = (
            "tight",
            f"The {name} gets {{0}} at its worst moment over the score, and below {{1}} if its own peak came with that of all together.",
        )
    else:
        verdict, text = (
            "holds",
            f"The {name} gets least, {{0}} at its worst moment over the score, drawing up to {{2}}; {{1}} is asked.",
        )
    if found.unwritten and verdict in ("holds", "tight"):
        verdict, text = (
            "not yet judged",
            text + " Not counted, as no current is written of it: " + ", ".join(found.unwritten) + ".",
        )
    yield Finding(finding_id("wiring", "volts"), "wiring", Ref("plug", plug.id), verdict, Sentence(text, quantities), measure=Sentence("{0} at the servo", (gets,)))  # type: ignore[arg-type]  # fmt: skip


def propose(finding: Finding, results: Results) -> Iterable[Proposal]:
    """Another pin, all plugged in, a longer wire, a transistor, a thicker wire."""
    figure = results.figure
    if finding.verdict == "holds":
        return
    if finding.id == finding_id("wiring", "open"):
        if not_plugged(figure):
            yield Proposal(plug_everything(figure), Sentence("Plug everything in where it fits"), "plug")
        return
    if finding.id == finding_id("wiring", finding.subject.id, "fed"):
        board = next(each for each in figure.boards if each.id == finding.subject.id)
        yield Proposal(set_board(figure, board.id, "5 V of its own", fed_alone=True), Sentence(f"Feed {board.name} by 5 V of its own"), "fed")  # fmt: skip
        return
    if finding.id.rsplit(".", 1)[-1] in strings.TOLD:
        yield from strings.propose(finding, results)
        return
    plug = next((each for each in figure.plugs if each.id == finding.subject.id), None)
    if finding.subject.kind != "plug" or plug is None:
        return
    name = called(figure, plug)
    if plug.of == "board":
        yield from _other_address(figure, plug)
    if finding.id == finding_id("wiring", plug.id, "reach"):
        ways = ways_of(figure, plug)
        if ways is not None:
            long = cut_m(figure, max(made.length for _, _, made in ways))
            yield Proposal(set_plug(figure, plug.id, "longer wires", along_mm=round(long * 1e3)), Sentence("Make them {0} long", (Quantity(long, "length"),)), "longer")  # fmt: skip
    elif finding.id == finding_id("wiring", plug.id, "pin"):
        yield Proposal(set_plug(figure, plug.id, "a transistor", straight=False), Sentence(f"Feed {name} through a transistor"), "transistor")  # fmt: skip
    elif finding.id in (finding_id("wiring", "lost"), finding_id("wiring", "volts")):
        for awg in GAUGES:
            if awg < plug.power_awg:
                edit = set_plug(figure, plug.id, f"{awg} AWG", power_awg=awg)
                yield Proposal(edit, Sentence(f"Feed {name} by {awg} AWG"), "gauge")
    else:
        yield from _other_pins(figure, plug)


def _other_address(figure: Figure, plug: Plug) -> Iterable[Proposal]:
    """The next address that nobody on that bus has, for one that hangs there."""
    hung = next(each for each in figure.boards if each.id == plug.item)
    low, high = addresses_of(hung)
    others = {each.item for each in figure.plugs if each.board == plug.board and each.of == "board" and each.id != plug.id}  # fmt: skip
    taken = {address_of(each) for each in figure.boards if each.id in others}
    own, solder = address_of(hung), board_kind(hung.kind).follows is None
    free = next((n for n in range(low, high + 1) if n not in taken and n != ALL_CALL), None)
    if free is not None and (own in taken or own is None or not low <= own <= high):
        yield Proposal(set_board(figure, hung.id, "address", address=free), Sentence(f"{'Solder' if solder else 'Set'} {hung.name} to address {free} (0x{free:02X})"), "address")  # fmt: skip


def _other_pins(figure: Figure, plug: Plug) -> Iterable[Proposal]:
    """The first free pin for the lead that clashes, on its own board, else on any other that has all it wants."""
    board = next(each for each in figure.boards if each.id == plug.board)
    name = called(figure, plug)
    for lead in leads_of(figure, plug):
        for pin in free_pins(figure, board, lead, plug)[:4] if lead.signal else ():
            if pin.id != plug.pin(lead.id):
                yield Proposal(set_pin(figure, plug.id, lead.id, pin.id), Sentence(f"Put {name} on pin {pin.id}"), f"pin {lead.id}")  # fmt: skip
    for other in figure.boards:
        if other.id == board.id:
            continue
        pins = pins_for(figure, other, Plug(**(dict(plug) | {"board": other.id, "pins": ()})))
        if pins:
            edit = set_plug(figure, plug.id, f"to {other.name}", board=other.id, pins=pins)
            yield Proposal(edit, Sentence(f"Put {name} on {other.name}, pin {pins[0][1]}"), "board")
