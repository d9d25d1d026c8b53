"""How a joint comes to rest after its wanted move, on the servo's card: what it is screwed to, its loop, and the move as it is made."""

from __future__ import annotations

import math

import numpy as np

from karakuri.actuators.position_loop import FRAME_S
from karakuri.catalogue import gives, stuff_name
from karakuri.checks.contract import SHAKES
from karakuri.model.drive import Drive
from karakuri.model.edits import set_field
from karakuri.sizing.shaking import Shaking
from karakuri.units import Quantity
from karakuri.workbench.desk import Desk
from karakuri.workbench.kit import Kit
from karakuri.workbench.widgets.items import Block, Calc, Head, Item, Note, Pick, Sketch, Write

FELT = "as its gears"
TALL = 132
NOTE = (
    "All of this is an estimate: how soon a servo pushes with all it has, and what horn and bracket give, no label says. A flick of a finger, "
    "filmed, tells how often it swings."
)


def mount_items(desk: Desk, drive: Drive) -> list[Item]:
    """Horn, bracket, and whose loop it is."""

    def put(path: tuple[str, ...], value: object, words: str) -> None:
        desk.edit(lambda: set_field(desk.figure, "drives", drive.id, path, value, words))

    horns, brackets = (tuple((key, stuff_name(key)) for key in gives()[each]) for each in ("horn", "bracket"))
    items: list[Item] = [
        Head("hg", "What it is screwed to"),
        Pick("horn", "Horn", stuff_name(drive.mount.horn) if drive.mount.horn else FELT, (("", FELT), *horns),
             lambda key: put(("mount", "horn"), key or None, "the horn")),
        Pick("bracket", "Bracket", stuff_name(drive.mount.bracket), brackets, lambda key: put(("mount", "bracket"), key, "the bracket")),
        Pick("loop", "Kept in place by", "a loop of one’s own" if drive.loop else "the servo itself",
             (("", "the servo itself"), ("own", "a loop of one’s own: sensor, pulses, pauses")),
             lambda key: put(("loop",), {} if key else None, "its loop")),
    ]  # fmt: skip
    if drive.loop is not None:
        loop = drive.loop
        numbers = (
            ("counts", "Its sensor counts", Quantity(loop.counts, "count"), lambda v: max(round(v), 1)),
            ("turn_deg", "over a turn of", Quantity(math.radians(loop.turn_deg), "angle"), lambda v: round(math.degrees(v), 4)),
            ("on_ms", "On for", Quantity(loop.on_ms / 1e3, "time"), lambda v: round(v * 1e3, 3)),
            ("off_ms", "then off for", Quantity(loop.off_ms / 1e3, "time"), lambda v: round(v * 1e3, 3)),
            ("dead_deg", "Off when nearer than", Quantity(math.radians(loop.dead_deg), "angle"), lambda v: round(math.degrees(v), 4)),
        )  # fmt: skip
        for field, words, quantity, read in numbers:
            items.append(
                Write(f"loop {field}", words, quantity, quantity.kind,
                      lambda v, field=field, read=read, words=words: put(("loop", field), read(v), words.lower()))
            )  # fmt: skip
    return items


def shaking_items(desk: Desk, ident: str) -> list[Item]:
    """What it does after the move; the picture; where the numbers come from."""
    finding = desk.finding("shakes", ident)
    found = (desk.study.results[SHAKES] or {}).get(ident) if desk.study is not None else None
    items: list[Item] = [Head("hk", "After the move")]
    if found is None:
        return [*items, Note("nk0", "Told when a servo is fitted and nothing is being dragged.")]
    if finding is not None:
        items += [Block("vk", finding, desk.figure.assumptions.wished_margin), Note("nk", finding.sentence.show(desk.units))]  # fmt: skip
    items.append(Sketch("response", TALL, lambda kit, x, y, w, h: draw_response(kit, desk, found, x, y, w, h)))
    if finding is not None:
        items += [Calc(f"k{i}", d) for i, d in enumerate(finding.derivations)]
    return [*items, Note("nk1", NOTE)]


def draw_response(kit: Kit, desk: Desk, found: Shaking, x: float, y: float, w: float, h: float) -> None:
    """Angle against time: what is told dotted, where the load is drawn out, and the band in which nothing is seen."""
    u = kit.u
    places = np.asarray(found.answer.places, dtype=float)
    step = found.answer.step
    frames = found.told.frames()
    most = max(found.told.by, float(places.max()), 1e-6)
    long = max(min(len(places) * step, 2.5), len(frames) * FRAME_S + 0.2)
    left, right, top, bottom = x + u(34), x + w - u(8), y + u(8), y + h - u(36)
    at = lambda t, v: (left + (right - left) * min(t / long, 1.0), bottom - (bottom - top) * v / most)  # noqa: E731
    low, high = at(0, found.answer.ends - found.visible)[1], at(0, found.answer.ends + found.visible)[1]
    kit.rect(left, high, right - left, max(low - high, 1.0), "moss_t")
    kit.line(left, bottom, right, bottom, "rule", 1)
    kit.line(left, top, left, bottom, "rule", 1)
    steps = [(0.0, 0.0), *((n * FRAME_S, float(v)) for n, v in enumerate(frames)), (long, float(frames[-1]))]
    kit.polyline([at(t, v) for t, v in steps], "ink3", 1.0, "dot")
    shown = [at(n * step, float(v)) for n, v in enumerate(places) if n * step <= long]
    if shown and shown[-1][0] < right:
        shown.append(at(long, float(places[-1])))
    kit.polyline(shown, "indigo", 1.8)
    kit.text(left - u(5), top + u(4), desk.show(Quantity(most, "angle")), 11, 400, "ink2", "r")
    kit.text(left - u(5), bottom, desk.show(Quantity(0.0, "angle")), 11, 400, "ink2", "r")
    kit.text(right, bottom + u(11), desk.show(Quantity(long, "time")), 11, 400, "ink2", "r")
    kit.text(left, bottom + u(11), desk.show(Quantity(0.0, "time")), 11, 400, "ink2")
    kit.text(x, bottom + u(26), kit.short("dotted as told, drawn as made, green unseen", w, 11, 400), 11, 400, "ink2")
