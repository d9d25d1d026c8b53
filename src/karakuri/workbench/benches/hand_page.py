"""The cards of driving by hand: all of it, one grip, and how an input reads."""

from __future__ import annotations

from karakuri.behaviour.hand.told import Told, told_of
from karakuri.behaviour.reading import level
from karakuri.model.behaviour import ANALOG, HANDED, Input
from karakuri.model.behaviour_edits import behaviour_of, change_input
from karakuri.model.figure import Figure
from karakuri.model.ref import Ref, item_of
from karakuri.model.steering import Expressions, Follows, Grip, Keyed, PushPull, Wheels
from karakuri.model.steering_edits import (
    GRIPS,
    add_face,
    add_grip,
    change_face,
    change_grip,
    change_steering,
    end_of_grip,
    first_steering,
    remove_grip,
    steering_of,
)
from karakuri.units import Quantity
from karakuri.workbench.benches.behaviour_page import DEG, added, input_page
from karakuri.workbench.benches.pose_page import seconds
from karakuri.workbench.desk import Desk
from karakuri.workbench.widgets.items import Do, Fact, Head, Item, Note, Page, Pick, Write, WriteText

CAUTION = "Who drives it by hand sees it and everybody near it. A dead man’s switch stops it when the hand lets go; a switch that takes the power away stays within reach. What pinches, pinches at once: local codes and licensed practice come first."
LET_GO = (("holds", "stands where it is"), ("parks", "goes to park, softly"))
NOBODY = "none"
INPUTS: dict[str, dict[str, str]] = {
    "follows": {"input": "Knob or stick"}, "keyed": {"up": "Key up", "down": "Key down"}, "push pull": {"together": "Both the same way", "against": "One against the other"},
    "wheels": {"ahead": "Ahead and back", "turn": "To the right"}, "expressions": {"ahead": "Ahead and back", "across": "To the right"},
}  # fmt: skip
RIBBONS: dict[str, dict[str, str]] = {
    "follows": {"channel": "Ribbon"}, "keyed": {"channel": "Ribbon"}, "push pull": {"first": "One ribbon", "second": "The other"},
    "wheels": {"left": "Left wheel", "right": "Right wheel"}, "expressions": {},
}  # fmt: skip


def hand_page(desk: Desk) -> Page:
    """The card for what of the driving is in hand."""
    ref, item = desk.subject, item_of(desk.figure, desk.subject)
    if ref.kind == "grip" and item is not None:
        return grip_page(desk, item)
    if ref.kind == "input" and item is not None:
        return reading_page(desk, item)
    return whole_page(desk)


def whole_page(desk: Desk) -> Page:
    """What holds for all grips."""
    steering = steering_of(desk.figure)

    def write(words: str, **fields: object) -> None:
        desk.edit(lambda: change_steering(desk.figure, words, **fields))

    items: list[Item] = [Head("hc", "Caution"), Note("c", CAUTION, True)]
    if not steering.grips:
        items.append(Do("first", "Drive it by hand", lambda: desk.edit(lambda: first_steering(desk.figure))))
    items.append(Pick("grip", "Drive also", "choose", tuple((key, words) for key, (words, _, _) in GRIPS.items()), lambda kind: added(desk, "grip", lambda: add_grip(desk.figure, kind))))  # fmt: skip
    items += [Do(f"to {grip.id}", grip.name[:36], lambda grip=grip: desk.select(Ref("grip", grip.id))) for grip in steering.grips]  # fmt: skip
    if not steering.grips:
        return Page("By hand", "nothing yet", tuple(items), ("by hand", ""))
    inputs = _inputs(desk)
    fine, middle, full = steering.sensitivities
    items += [
        Head("hs", "How far a full push goes"),
        *(Write(f"share{k}", name, Quantity(share / 100, "percent"), "percent", lambda v, k=k: write("sensitivity", sensitivities=_grown((fine, middle, full), k, v * 100))) for k, (name, share) in enumerate((("Fine", fine), ("Middle", middle), ("Full", full)))),
        Pick("by", "Chosen by", _named(desk, steering.sensitivity_by) or "the tag above", ((NOBODY, "the tag above"), *inputs), lambda key: write("what chooses", sensitivity_by=None if key == NOBODY else key)),
        Head("hd", "Dead man’s switch"),
        Pick("held", "Held", _named(desk, steering.held_by) or NOBODY, ((NOBODY, NOBODY), *inputs), lambda key: write("dead man’s switch", held_by=None if key == NOBODY else key)),
        Pick("letgo", "Let go it", dict(LET_GO)[steering.let_go], LET_GO, lambda key: write("what it does let go", let_go=key)),
        Note("nd", "Here it is latched by a press; on the figure it has to be held. Who takes hold again moves what stands elsewhere at 20 a second until it is where the hand is." if steering.held_by else "Nothing stops it when the hand lets go. Give it a button that has to be held."),
        Head("hp", "All of it"),
        Write("pace", "Never faster than", Quantity(steering.pace * DEG, "speed"), "speed", lambda v: write("pace", pace=round(v / DEG, 1))),
        Write("within", "Recorded within", Quantity(steering.within * DEG, "angle"), "angle", lambda v: write("tolerance", within=round(v / DEG, 2))),
        Note("nw", "What is recorded becomes as few moves as stay so near to what the hand did; they are ordinary moves, and Ctrl+Z takes them away."),
    ]  # fmt: skip
    return Page("By hand", f"{len(steering.grips)} {'grips' if len(steering.grips) != 1 else 'grip'}", tuple(items), ("by hand", ""))  # fmt: skip


def _grown(shares: tuple[float, float, float], k: int, percent: float) -> tuple[float, float, float]:
    """Sensitivities with one of them other; its neighbours give way."""
    value = round(min(max(percent, 1.0), 100.0), 1)
    out = [min(s, value) if n < k else max(s, value) if n > k else value for n, s in enumerate(shares)]
    return out[0], out[1], out[2]


def _inputs(desk: Desk) -> tuple[tuple[str, str], ...]:
    return tuple((each.id, each.name) for each in behaviour_of(desk.figure).inputs)


def _named(desk: Desk, ident: str | None) -> str:
    return next((each.name for each in behaviour_of(desk.figure).inputs if each.id == ident), "")


def grip_page(desk: Desk, grip: Grip) -> Page:
    """One grip: its inputs, its ribbons, its ends, how late it is."""
    figure, inputs = desk.figure, _inputs(desk)

    def write(words: str, **fields: object) -> None:
        desk.edit(lambda: change_grip(desk.figure, grip.id, words, **fields))

    ribbons = tuple((c.id, c.name) for c in figure.score.moved)
    items: list[Item] = [WriteText("name", "Name", grip.name, lambda text: write("name", name=text.strip())), Head("hi", "What the hand moves")]  # fmt: skip
    for field, label in INPUTS[grip.kind].items():
        ident = getattr(grip, field)
        items.append(Pick(field, label, _named(desk, ident), inputs, lambda key, field=field: write("input", **{field: key})))  # fmt: skip
    items += [Do(f"read {ident}", f"How {_named(desk, ident)} reads"[:36], lambda ident=ident: desk.select(Ref("input", ident))) for ident in dict.fromkeys(grip.inputs)]  # fmt: skip
    items.append(Head("hr", "What goes with it"))
    for field, label in RIBBONS[grip.kind].items():
        name = next((n for i, n in ribbons if i == getattr(grip, field)), "in another score")
        items.append(Pick(field, label, name, ribbons, lambda key, field=field: write("ribbon", **{field: key})))
    items += _own(desk, grip, write)
    items.append(Write("smooth", "Stays behind by", seconds(grip.smooth_ms / 1e3), "time", lambda v: write("smoothing", smooth_ms=round(min(max(v * 1e3, 0.0), 2000.0), 1))))  # fmt: skip
    items += _told(desk, grip, told_of(figure, grip.id, desk.abilities.known(figure)))
    items += [Head("ha", "Actions"), Do("rm", "Take it out of hand", lambda: desk.edit(lambda: remove_grip(desk.figure, grip.id)))]  # fmt: skip
    return Page(grip.name, GRIPS[grip.kind][0], tuple(items), ("grip", grip.id))


def _own(desk: Desk, grip: Grip, write) -> list[Item]:
    """What only this kind of grip has."""
    figure = desk.figure
    if isinstance(grip, Follows | Keyed):
        channel = figure.ribbons[grip.channel]
        measure = figure.measure(channel)
        ends = grip.to or channel.band(figure)
        names = (
            ("At its low end", "At its high end") if isinstance(grip, Follows) else ("Down as far as", "Up as far as")
        )
        items: list[Item] = [
            Write(f"end{k}", names[k], measure.quantity(ends[k]), measure.kind, lambda v, k=k: desk.edit(lambda: end_of_grip(desk.figure, grip, k, measure.written(v, 2))))
            for k in range(2)
        ]  # fmt: skip
        if isinstance(grip, Keyed):
            items.append(Write("keypace", "A second", measure.quantity(grip.pace), measure.kind, lambda v: write("pace", pace=measure.written(v, 2))))  # fmt: skip
        return items
    if isinstance(grip, Wheels):
        ways = (("yes", "sits the other way round"), ("no", "sits as the left one"))
        return [Note("runs", _wheels(figure, grip), True), Pick("mirrored", "The right one", dict(ways)["yes" if grip.mirrored else "no"], ways, lambda key: write("way round", mirrored=key == "yes"))]  # fmt: skip
    if isinstance(grip, PushPull):
        return [Note("npp", "Of a left and a right joint the same way is as in a mirror.")]
    assert isinstance(grip, Expressions)
    items = [Note("nf", "Degrees from the stick pushed ahead, to its right.")]
    for k, face in enumerate(grip.faces):
        name = figure.pose(face.pose).name
        items.append(Write(f"face{k}", name[:24], Quantity(face.towards_deg * DEG, "angle"), "angle", lambda v, k=k: desk.edit(lambda: change_face(desk.figure, grip, k, v / DEG))))  # fmt: skip
        items.append(Do(f"off{k}", f"Not: {name}"[:36], lambda k=k: desk.edit(lambda: change_face(desk.figure, grip, k, None))))  # fmt: skip
    poses = tuple((pose.id, pose.name) for pose in figure.poses)
    if poses:
        items.append(Pick("face", "A pose more", "choose", poses, lambda key: desk.edit(lambda: add_face(desk.figure, grip, key))))  # fmt: skip
    return items


def _wheels(figure: Figure, grip: Wheels) -> str:
    """What stops its wheels."""
    if all(figure.ribbons[ident].runs for ident in grip.channels):
        return "Let go, they stop; Stop, Esc and another state stop them too. Wheels off the ground until you trust it, a switch for their supply within reach."
    return "Let go, they stop. Stop, Esc or another state leave the ribbon of a joint where it stands, and so a wheel on it running: take ribbons of motors that run, or have a switch of its own within reach."


def _told(desk: Desk, grip: Grip, told: Told) -> list[Item]:
    ms = [f"{1e3 * t:.0f}" for t in (told.reads, told.smooths, told.sends, told.late)]
    items: list[Item] = [
        Fact("late", "Late in all", ms[3], "ms", f"read after {ms[0]} ms on average, smoothed {ms[1]}, sent {ms[2]}: {ms[0]} + {ms[1]} + {ms[2]}; its servo comes after that"),
        Fact("calm", "Of a shaking", f"{100 * told.calms:.0f}", "%", "is left, of one without rhythm from reading to reading; more smoothing leaves less and is later"),
    ]  # fmt: skip
    names = {c.id: c.name for c in desk.figure.score.moved}
    if isinstance(grip, Expressions):
        moves = ", ".join(names[ident] for ident in told.whole if ident in names)
        items.insert(0, Note("moves", f"It moves {moves}." if moves else "It moves nothing: every ribbon of its poses is in another grip, or none is in any pose. Take those out of hand, or add a pose."))  # fmt: skip
    items += [Fact(f"w{ident}", f"{names.get(ident, '')[:20]}, end to end", f"{s:.2f}", "s", "at the pace above, or as its drive turns") for ident, s in told.whole.items() if s > 0]  # fmt: skip
    return items


def reading_page(desk: Desk, each: Input) -> Page:
    """How an input reads, above what its own card says."""
    page = input_page(desk, each)
    if each.kind not in HANDED:
        return page

    def write(words: str, **fields: object) -> None:
        desk.edit(lambda: change_input(desk.figure, each.id, words, **fields))

    receiver = each.kind == "receiver"
    kind = "pulse" if receiver else "percent"
    by = 1e-6 if receiver else 0.01
    low, high = each.ends
    now = desk.board.read.get(each.id) if desk.driving else None
    reads = f"{now:.0f}" if now is not None else "not known"
    why = "" if now is not None else "Join a board with this plugged in, and turn it."

    def ends(a: float, b: float) -> None:
        inside = each.middle is not None and min(a, b) < each.middle < max(a, b)
        write("ends", reads=(round(a, 1), round(b, 1)), middle=each.middle if inside else None)

    items: list[Item] = [
        Head("hr", "How it reads"),
        Fact("now", "Reads now", reads, "µs" if receiver and now is not None else "%" if now is not None else "", f"stands at {level(each, now):.0f} %" if now is not None else ""),
        Write("low", "At its low end", Quantity(low * by, kind), kind, lambda v: ends(v / by, high)),
        Do("lownow", "That is its low end", lambda: ends(now or 0.0, high), why),
        Write("high", "At its high end", Quantity(high * by, kind), kind, lambda v: ends(low, v / by)),
        Do("highnow", "That is its high end", lambda: ends(low, now or 0.0), why),
        Write("middle", "Let go", Quantity(each.middle * by, kind) if each.middle is not None else None, kind, lambda v: write("middle", middle=round(v / by, 1)), "half way", emptied=lambda: write("middle", middle=None)),
        Do("middlenow", "That is its middle", lambda: write("middle", middle=round(now or 0.0, 1)), why),
        Write("still", "Still within", Quantity(each.still_percent / 100, "percent"), "percent", lambda v: write("stillness", still_percent=round(min(max(v * 100, 0.0), 40.0), 1))),
        Note("nr", "Ends the other way round turn it. Near its middle it counts as let go." if each.kind in ANALOG else ""),
    ]  # fmt: skip
    return Page(page.title, page.subtitle, (*items, *page.items), page.subject)
