"""The cards of behaviour: all of it, a state, a start, an input."""

from __future__ import annotations

from karakuri.behaviour.reach import cues
from karakuri.checks.contract import LIVED
from karakuri.model.behaviour import ANALOG, After, Cue, Input, Lights, Performs, Start, State, Stopped
from karakuri.model.behaviour_edits import (
    BY_INPUT,
    TRIGGERS,
    add_guard,
    add_input,
    add_start,
    add_state,
    begin_with,
    behaviour_of,
    change,
    change_guard,
    change_input,
    change_start,
    change_state,
    deed_words,
    deeds_for,
    first_behaviour,
    guard_words,
    other_deed,
    other_trigger,
    remove_input,
    remove_start,
    remove_state,
    time_of_start,
    trigger_words,
)
from karakuri.model.ref import FIGURE, Ref, item_of
from karakuri.model.score_edits import put_score
from karakuri.units import Quantity
from karakuri.workbench.benches.pose_page import seconds
from karakuri.workbench.desk import Desk
from karakuri.workbench.widgets.items import Block, Do, Head, Item, Note, Page, Pick, Write, WriteText

KINDS = (
    ("button", "a button"), ("switch", "a switch"), ("knob", "a knob"), ("stick", "a stick’s way"), ("motion", "a motion sensor"), ("beam", "a light beam"),
    ("lift", "a lift alarm"), ("sound", "a sound level"), ("receiver", "a receiver’s channel"),
)  # fmt: skip
DEG = 0.017453292519943295
CAUTION = "What moves by itself moves when somebody is near: keep fingers and hair out of reach of it, and a switch that takes the power away within reach. Flashing above three times a second can harm; local codes and licensed practice come first."


def behaviour_page(desk: Desk) -> Page | None:
    """The card for what of the behaviour is in hand; None where something else is."""
    ref, item = desk.subject, item_of(desk.figure, desk.subject)
    if ref.kind == "state" and item is not None:
        return state_page(desk, item)
    if ref.kind == "start" and item is not None:
        return start_page(desk, item)
    if ref.kind == "input" and item is not None:
        return input_page(desk, item)
    return whole_page(desk)


def whole_page(desk: Desk) -> Page:
    behaviour = behaviour_of(desk.figure)
    items: list[Item] = [Head("hc", "Caution"), Note("c", CAUTION, True)]
    if not behaviour.states:
        items.append(Do("first", "Set a behaviour down", lambda: desk.edit(lambda: first_behaviour(desk.figure))))
    for rule in ("behaviour", "lived"):
        found = [f for f in desk.study.findings if f.rule == rule] if desk.study is not None else []
        if found:
            items += [Block(f"v {rule}", found[0], desk.figure.assumptions.wished_margin), *(Note(f"f{k} {rule}", f.sentence.show(desk.units)) for k, f in enumerate(found[:6]))]  # fmt: skip
    items += [
        Do("state", "Add a state", lambda: added(desk, "state", lambda: add_state(desk.figure, f"State {len(behaviour.states) + 1}"))),
        Pick("input", "Add an input", "choose", KINDS, lambda kind: added(desk, "input", lambda: add_input(desk.figure, dict(KINDS)[kind].split(" ", 1)[1].capitalize(), kind))),
    ]  # fmt: skip
    if behaviour.states:
        each = tuple((state.id, state.name) for state in behaviour.states)
        items += [
            Pick("begin", "Begins with", behaviour.states[0].name, each, lambda key: desk.edit(lambda: begin_with(desk.figure, key))),
            Write("seed", "Seed", Quantity(behaviour.seed, "count"), "count", lambda v: desk.edit(lambda: change(desk.figure, "seed of the behaviour", seed=round(v)))),
            Write("pace", "Goes to where it begins", Quantity(behaviour.approach_deg_per_s * DEG, "speed"), "speed", lambda v: desk.edit(lambda: change(desk.figure, "pace of approach", approach_deg_per_s=round(v / DEG, 1)))),
        ]  # fmt: skip
        lived = desk.study.results[LIVED] if desk.study is not None else None
        why = "" if lived is not None else "It is being lived and judged."
        items.append(Do("lived", "What it did, as a score", lambda: desk.edit(lambda: put_score(lived.score)) if lived is not None else None, why))  # fmt: skip
        items.append(Note("ln", "The same that is judged, with visitors and every state once: to be looked at under the plumb line."))  # fmt: skip
    for word in cues(behaviour):
        items.append(Do(f"cue {word}", f"Give the cue “{word}”", lambda word=word: desk.living.cue(word)))
    return Page("Behaviour", f"{len(behaviour.states)} states, {len(behaviour.starts)} starts", tuple(items), ("behaviour", ""))  # fmt: skip


def added(desk: Desk, kind: str, make) -> None:
    """Carry out an edit that adds something, and take that in hand."""
    made: list[str] = []

    def edit():
        done, ident = make()
        made.append(ident)
        return done

    if desk.edit(edit):
        desk.select(Ref(kind, made[-1]))


def state_page(desk: Desk, state: State) -> Page:
    figure, behaviour = desk.figure, behaviour_of(desk.figure)

    def write(words: str, **fields: object) -> None:
        desk.edit(lambda: change_state(desk.figure, state.id, words, **fields))

    deeds = deeds_for(figure)
    items: list[Item] = [WriteText("name", "Name", state.name, lambda text: write("name", name=text.strip())), Head("hp", "What it plays, all at once")]  # fmt: skip
    for k, deed in enumerate(state.plays):
        items.append(Do(f"out{k}", f"Not: {deed_words(figure, deed)}"[:38], lambda k=k: write("what it plays", plays=(*state.plays[:k], *state.plays[k + 1 :]))))  # fmt: skip
        if isinstance(deed, Performs):
            items.append(Do(f"again{k}", "Once only" if deed.again else "Again and again", lambda k=k, d=deed: desk.edit(lambda: other_deed(desk.figure, state.id, k, "how often it plays", again=not d.again))))  # fmt: skip
        if isinstance(deed, Lights):
            items.append(Write(f"level{k}", "To", Quantity(deed.level / 100, "percent"), "percent", lambda v, k=k: desk.edit(lambda: other_deed(desk.figure, state.id, k, "level", level=round(v * 100, 1)))))  # fmt: skip
    items += [
        Pick("add", "Also plays", "choose", tuple((key, words) for key, words, _ in deeds), lambda key: write("what it plays", plays=(*state.plays, next(d for k, _, d in deeds if k == key)))),
        Head("hh", "How long"),
        Write("stay0", "Stays at least", seconds(state.stays_s[0]) if state.stays_s else None, "time", lambda v: write("stay", stays_s=(round(v, 2), max(round(v, 2), state.stays_s[1] if state.stays_s else 0.0))), "no stay", emptied=lambda: write("stay", stays_s=None)),
        Write("stay1", "Stays at most", seconds(state.stays_s[1]) if state.stays_s else None, "time", lambda v: write("stay", stays_s=(min(state.stays_s[0] if state.stays_s else round(v, 2), round(v, 2)), round(v, 2))), "no stay", emptied=lambda: write("stay", stays_s=None)),
        Write("prio", "Importance", Quantity(state.priority, "count"), "count", lambda v: write("importance", priority=round(v))),
        Pick("deaf", "While it lasts it", "is deaf" if state.deaf else "hears", (("hears", "hears"), ("deaf", "is deaf")), lambda key: write("hearing", deaf=key == "deaf")),
        Head("hs", "What starts it"),
    ]  # fmt: skip
    for start in behaviour.starts:
        if start.to == state.id:
            items.append(
                Do(
                    f"s{start.id}",
                    trigger_words(behaviour, start.on)[:36],
                    lambda start=start: desk.select(Ref("start", start.id)),
                )
            )
    first = behaviour.inputs[0].id if behaviour.inputs else ""
    items += [
        Pick("by", "Start it also when", "choose", tuple((key, words) for key, (words, _) in TRIGGERS.items()), lambda kind: added(desk, "start", lambda: add_start(desk.figure, state.id, kind, first))),
        Head("ha", "Actions"),
        Do("begin", "Begin with it", lambda: desk.edit(lambda: begin_with(desk.figure, state.id)), "" if behaviour.states[0].id != state.id else "It is the first already."),
        Do("rm", "Take this state out", lambda: desk.edit(lambda: remove_state(desk.figure, state.id))),
        Do("all", "All of the behaviour", lambda: desk.select(FIGURE)),
    ]  # fmt: skip
    return Page(state.name, "a state", tuple(items), ("state", state.id))


def start_page(desk: Desk, start: Start) -> Page:
    behaviour = behaviour_of(desk.figure)

    def write(words: str, **fields: object) -> None:
        desk.edit(lambda: change_start(desk.figure, start.id, words, **fields))

    on, inputs = start.on, tuple((each.id, each.name) for each in behaviour.inputs)
    finding = desk.finding("behaviour", start.id, "silent")
    items: list[Item] = [Note("f", finding.sentence.show(desk.units))] if finding is not None else []
    by = getattr(on, "input", behaviour.inputs[0].id if behaviour.inputs else "")
    kinds = tuple((key, words) for key, (words, _) in TRIGGERS.items() if key not in BY_INPUT or behaviour.inputs)
    items.append(Pick("kind", "When", TRIGGERS[on.kind][0], kinds, lambda kind: write("trigger", on=TRIGGERS[kind][1](by))))  # fmt: skip

    def trigger(words: str, **fields: object) -> None:
        desk.edit(lambda: other_trigger(desk.figure, start.id, words, **fields))

    if on.kind in BY_INPUT:
        items.append(Pick("by", "Input", behaviour.input(by).name, inputs, lambda ident: trigger("input", input=ident)))
    if on.kind in ("above", "below"):
        items.append(Write("level", "Level", Quantity(on.level / 100, "percent"), "percent", lambda v: trigger("level", level=round(v * 100, 1))))  # fmt: skip
    if isinstance(on, Stopped):
        items.append(Write("still", "Stands still for", seconds(on.still_s), "time", lambda v: trigger("how long", still_s=round(v, 2))))  # fmt: skip
    if isinstance(on, After):
        for k, label in enumerate(("After at least", "After at most")):
            items.append(Write(f"t{k}", label, seconds(on.between_s[k]), "time", lambda v, k=k: desk.edit(lambda: time_of_start(desk.figure, start.id, k, round(v, 2)))))  # fmt: skip
    if isinstance(on, Cue):
        items.append(WriteText("cue", "Cue", on.cue, lambda text: trigger("cue", cue=text.strip())))
    items += [
        Write("chance", "Chance", Quantity(start.chance, "percent"), "percent", lambda v: write("chance", chance=round(v, 3))),
        Write("cool", "Not again within", seconds(start.cool_s), "time", lambda v: write("cool-down", cool_s=round(v, 2))),
        Head("hw", "While in"),
        Note("w", ", ".join(behaviour.state(i).name for i in start.while_in) or "Any state."),
        Pick("add", "Also while in", "choose", tuple((s.id, s.name) for s in behaviour.states if s.id not in start.while_in), lambda ident: write("where from", while_in=(*start.while_in, ident))),
    ]  # fmt: skip
    if start.while_in:
        items.append(Pick("less", "Not while in", "choose", tuple((i, behaviour.state(i).name) for i in start.while_in), lambda ident: write("where from", while_in=tuple(i for i in start.while_in if i != ident))))  # fmt: skip
    items.append(Head("hg", "Only while"))
    for k, guard in enumerate(start.only):
        if guard.state in ("above", "below"):
            name = f"{behaviour.input(guard.input).name} {guard.state}"
            items.append(Write(f"gl{k}", name[:30], Quantity(guard.level / 100, "percent"), "percent", lambda v, k=k: desk.edit(lambda: change_guard(desk.figure, start.id, k, level=round(v * 100, 1)))))  # fmt: skip
        items.append(Do(f"g{k}", f"Not needed: {guard_words(behaviour, guard)}", lambda k=k: write("guard", only=(*start.only[:k], *start.only[k + 1 :]))))  # fmt: skip
    if inputs:
        levels = {each.id for each in behaviour.inputs if each.kind in ANALOG}
        ways = tuple((f"{i} {way}", f"{name} is {way}") for i, name in inputs for way in (("above", "below") if i in levels else ("on", "off")))  # fmt: skip
        items.append(Pick("guard", "Only while", "choose", ways, lambda key: desk.edit(lambda: add_guard(desk.figure, start.id, *key.split()))))  # fmt: skip
    items += [
        Head("ha", "Actions"),
        Do("state", f"To {behaviour.state(start.to).name}", lambda: desk.select(Ref("state", start.to))),
        Do("rm", "Take this start out", lambda: desk.edit(lambda: remove_start(desk.figure, start.id))),
    ]
    return Page(behaviour.state(start.to).name, "what starts it", tuple(items), ("start", start.id))


def input_page(desk: Desk, each: Input) -> Page:
    def write(words: str, **fields: object) -> None:
        desk.edit(lambda: change_input(desk.figure, each.id, words, **fields))

    items: list[Item] = [
        WriteText("name", "Name", each.name, lambda text: write("name", name=text.strip())),
        Pick("kind", "It is", dict(KINDS)[each.kind], KINDS, lambda kind: write("kind", kind=kind)),
    ]  # fmt: skip
    if behaviour_of(desk.figure).states:  # else nothing notices it
        items.append(Do("press", "On, or off again", lambda: desk.living.hold(each.id, 0.0 if desk.living.engine is not None and desk.living.engine.level(each.id) >= 50 else 100.0)))  # fmt: skip
    if each.kind in ("motion", "beam"):
        place = each.at_mm or (0.0, 0.0, 0.0)
        items += [
            Write("head", "Looks to its left", Quantity(each.heading_deg * DEG, "angle"), "angle", lambda v: write("heading", heading_deg=round(v / DEG, 2))),
            Write("wide", "Sees so wide", Quantity(each.wide_deg * DEG, "angle"), "angle", lambda v: write("width", wide_deg=round(v / DEG, 2))),
            Write("reach", "Sees so far", Quantity(each.reach_mm / 1e3, "length"), "length", lambda v: write("reach", reach_mm=round(v * 1e3, 1))),
            Write("weight", "Counts", Quantity(each.weight, "ratio"), "ratio", lambda v: write("weight", weight=round(v, 3))),
            *(Write(f"at{k}", label, Quantity(place[k] / 1e3, "length"), "length", lambda v, k=k: write("place", at_mm=tuple(round(v * 1e3, 1) if n == k else place[n] for n in range(3)))) for k, label in enumerate(("Ahead", "To its left"))),
            Note("n", "Where it turns to: the mean of where its sensors look, weighted by how much each counts, twenty times a second (common practice)."),
        ]  # fmt: skip
    items.append(Do("rm", "Take this input out", lambda: desk.edit(lambda: remove_input(desk.figure, each.id))))
    return Page(each.name, dict(KINDS)[each.kind], tuple(items), ("input", each.id))
