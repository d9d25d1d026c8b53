"""The card of who wears a figure: what carries it, how they bend, what that asks of them, and the four ways beside each other."""

from __future__ import annotations

import math
from collections.abc import Callable

from PyQt6.QtCore import QPointF
from PyQt6.QtGui import QPainterPath

from karakuri.catalogue import people
from karakuri.checks.contract import WORN
from karakuri.model.edit import Edit, Set
from karakuri.model.edits import set_field
from karakuri.model.labels import labels_of
from karakuri.model.worn import NECKS, WAYS, Wearer, Worn
from karakuri.model.worn_edits import add_bends, guess_again, guessed_again, missing_bends
from karakuri.sizing.worn import Stance, WayFound
from karakuri.units import Quantity
from karakuri.workbench.benches.bench import degrees, mm
from karakuri.workbench.desk import Desk
from karakuri.workbench.kit import Kit
from karakuri.workbench.widgets.items import Block, Calc, Do, Head, Item, Note, Page, Pick, Sketch, Write

CAUTION = (
    "Guidance is not a promise. Stop at pain, numbness or dizziness; a release that opens with one hand, and somebody beside you. A cord "
    "near a neck or tied to a face parts by itself when it catches. Look, breathe and cool off in it. A harness that bears a person’s "
    "weight is for a qualified engineer."
)
OF_WAY = {"rods": ("hips_share",), "gimbal": ("stick_mm",)}


def wearer_page(desk: Desk) -> Page:
    worn = desk.figure.base.worn
    found = desk.study.results[WORN] if desk.study is not None else None
    finding, face = desk.finding("worn"), desk.finding("worn", "face")

    def put(path: tuple[str, ...], value: object, words: str) -> None:
        desk.edit(Edit(words, (Set(("base", "worn", *path), value),), "worn " + ".".join(path)))

    items: list[Item] = [Block("v", finding, desk.figure.assumptions.wished_margin)]
    if finding is not None:
        items += [
            Note("nv", finding.sentence.show(desk.units)),
            *(Calc(f"d{i}", d) for i, d in enumerate(finding.derivations)),
        ]
    if face is not None:
        items += [Block("vf", face, 1.0), Note("nf", face.sentence.show(desk.units))]
    items += [
        Head("hw", "Carried by"),
        Pick("by", "It rests on", WAYS[worn.by], tuple(WAYS.items()), lambda key: put(("by",), key, "what carries it")),
        Sketch("wearer", 92, wearer_sketch),
        Write("pitch", "Mounted pitched up", degrees(worn.pitch_deg), "angle", lambda v: put(("pitch_deg",), round(math.degrees(v), 3), "pitch of the mount")),
        *_numbers(worn, Worn, (*OF_WAY.get(worn.by, ()), *(("contact_mm2",) if worn.by in ("rods", "gimbal") else ("contact_mm2", "ahead_mm", "behind_mm"))), (), put),
        *_place("ears", "The middle between your ears", worn.ears_mm, found[0].ears if found else None, lambda at: put(("ears_mm",), at, "where the ears are")),
        *(_place("gimbal", "The gimbal’s middle", worn.gimbal_mm, None, lambda at: put(("gimbal_mm",), at, "where the gimbal is")) if worn.by == "gimbal" else ()),
        Head("hy", "Who wears it"),
        *_numbers(worn.wearer, Wearer, ("height_mm", "mass_g"), ("wearer",), put),
        *_numbers(worn.wearer, Wearer, ("head_long_mm", "head_wide_mm", "head_around_mm", "padding_mm"), ("wearer",), put),
        Pick("neck", "Neck like", NECKS[worn.wearer.neck], tuple(NECKS.items()), lambda key: put(("wearer", "neck"), key, "strength of the neck")),
        *_numbers(worn, Worn, ("turn_deg", "turn_s"), (), put),
        *_guesses(desk, found),
        *_bends(desk, found[0] if found else None),
        *_ways(desk, found),
        Head("hs", "Where the numbers are from"),
        *(Note(f"s{key}", f"{people()[key]['source'][0].upper()}{people()[key]['source'][1:]}.") for key in ("guidance", "necks", "skin", "segments", "places", "guesses")),
        Head("hc", "Caution"),
        Note("nc", CAUTION, True),
    ]  # fmt: skip
    return Page("Worn", f"by {WAYS[worn.by]}", tuple(items), ("wearer",))


def _numbers(owner: object, kind: type[Worn] | type[Wearer], fields: tuple[str, ...], path: tuple[str, ...], put: Callable) -> list[Item]:  # fmt: skip
    """Fields with a label, empty while they are guessed."""
    labels, out = labels_of(kind), []
    for field in fields:
        label, value = labels[field], getattr(owner, field)
        quantity = None if value is None else Quantity(value * label.si, label.kind)
        out.append(Write(field, label.words, quantity, label.kind, lambda v, field=field, label=label: put((*path, field), round(v / label.si, 6), label.words.lower()), "a guess"))  # fmt: skip
    return out


def _place(key: str, title: str, at, taken, put: Callable) -> list[Item]:
    """A place by its coordinates; while it is guessed, what it is taken to be stands there once a number is written."""
    now = at or (tuple(round(v * 1e3, 1) for v in taken) if taken else (0.0, 0.0, 0.0))
    out: list[Item] = [Note(f"n{key}", title + (":" if at else ", a guess so far:"))]
    for which, words in ((0, "  ahead"), (2, "  above"), (1, "  to its left")):

        def done(v: float, which: int = which) -> None:
            new = list(now)
            new[which] = round(v * 1e3, 2)
            put(tuple(new))

        out.append(Write(f"{key}{which}", words, mm(now[which]) if at else None, "length", done, f"{now[which]:g}"))
    return out


def _guesses(desk: Desk, found: tuple[WayFound, ...] | None) -> list[Item]:
    worn = desk.figure.base.worn
    out: list[Item] = []
    if found and found[0].guessed:
        out.append(Note("ng", "Guessed so far: " + ", ".join(found[0].guessed) + "."))
    if worn != guessed_again(desk.figure):
        out.append(Do("guess", "Guess all of it again", lambda: desk.edit(lambda: guess_again(desk.figure))))
    return out


def _bends(desk: Desk, found: WayFound | None) -> list[Item]:
    """The postures: how far trunk and head lean, how long, and what that asks."""
    items: list[Item] = [Head("hb", "How they bend")]
    for i, posture in enumerate(desk.figure.postures):
        items.append(
            Do(f"see {posture.id}", f"See it {posture.name}", lambda ident=posture.id: desk.set_posture(ident))
        )
        if found is not None and i < len(found.stances):
            items.append(Note(f"t{posture.id}", _told(desk, found, found.stances[i])))
        head = posture.lean_deg if posture.head_deg is None else posture.head_deg
        items += [
            Write(f"trunk {posture.id}", "  trunk leans", degrees(posture.lean_deg), "angle", _put(desk, posture.id, "lean_deg", "lean of the trunk")),
            Write(f"head {posture.id}", "  head leans", degrees(head), "angle", _put(desk, posture.id, "head_deg", "lean of the head")),
            Write(f"lasts {posture.id}", "  kept up for", None if posture.lasts_s is None else Quantity(posture.lasts_s, "time"), "time", _put(desk, posture.id, "lasts_s", "how long"), "a guess"),
            Pick(f"faces {posture.id}", "  face looks", "straight ahead" if posture.faces else "where it will", (("yes", "straight ahead"), ("", "where it will")), _faces(desk, posture.id)),
        ]  # fmt: skip
    if missing_bends(desk.figure):
        items.append(Do("bends", "Add the usual postures", lambda: desk.edit(lambda: add_bends(desk.figure))))
    return items


def _told(desk: Desk, found: WayFound, stands: Stance) -> str:
    show = lambda value, kind: desk.show(Quantity(value, kind, rounding="up"))  # noqa: E731
    parts = [f"neck {show(stands.neck, 'force')}, {show(abs(stands.moment), 'torque')}, of it {show(abs(stands.own), 'torque')} the head itself"]  # fmt: skip
    if stands.shoulders or stands.hips:
        parts.append(f"shoulders {show(stands.shoulders, 'force')}, hips {show(stands.hips, 'force')}, moment there {show(abs(stands.shoulders_moment), 'torque')}")  # fmt: skip
    parts.append(f"skin {show(stands.pressure, 'contact')}")
    if stands.strap > 0:
        parts.append(f"a strap holds {show(stands.strap, 'force')}")
    way = "up" if stands.face > 0 else "down"
    parts.append(f"face {show(abs(stands.face), 'angle')} {way}")
    minutes = "an hour or more" if stands.minutes >= 60 else f"about {stands.minutes:.0f} min" if stands.minutes >= 2 else f"about {60 * stands.minutes:.0f} s"  # fmt: skip
    return "; ".join(parts) + f"; such a neck bears it {minutes}."


def _ways(desk: Desk, found: tuple[WayFound, ...] | None) -> list[Item]:
    if not found:
        return []
    items: list[Item] = [Head("h4", "The ways, beside each other")]
    for each in sorted(found, key=lambda each: list(WAYS).index(each.by)):
        worst = max(each.stances, key=lambda s: s.share)
        neck = desk.show(Quantity(abs(worst.moment), "torque", rounding="up"))
        mass = desk.show(Quantity(each.mass, "mass"))
        adds = desk.show(Quantity(each.adds, "mass"))
        reserve = "nothing asked" if math.isinf(each.worst.reserve) else f"{math.floor(each.worst.reserve * 100) / 100:.2f}"  # fmt: skip
        words = WAYS[each.by][0].upper() + WAYS[each.by][1:]
        left = ", ".join(each.axes)
        items.append(Note(f"way {each.by}", f"{words}: {reserve}. Left to the head: {left}. {mass} and about {adds} to carry it, a guess. Neck at most {neck}, {desk.figure.postures[worst.posture].name}."))  # fmt: skip
    return items


def _put(desk: Desk, ident: str, field: str, words: str) -> Callable[[float], object]:
    scale = 1.0 if field == "lasts_s" else 180 / math.pi
    return lambda v: desk.edit(lambda: set_field(desk.figure, "postures", ident, (field,), round(v * scale, 4), words))


def _faces(desk: Desk, ident: str) -> Callable[[str], object]:
    return lambda key: desk.edit(
        lambda: set_field(desk.figure, "postures", ident, ("faces",), bool(key), "where the face looks")
    )


def wearer_sketch(kit: Kit, x: float, y: float, w: float, h: float) -> None:
    """What to measure: from the figure's datum to the ear holes, and how far its pads reach."""
    u = kit.u
    cx, cy = x + u(52), y + u(42)
    head = QPainterPath()
    head.addEllipse(QPointF(cx, cy), u(25), u(28))
    kit.draw(head, None, "indigo", 1.4, "dash")
    for side in (-1, 1):
        kit.polyline([(cx + side * u(9), cy + u(27)), (cx + side * u(12), cy + u(40)), (cx + side * u(48), cy + u(48))], "indigo", 1.4, "dash")  # fmt: skip
    kit.circle(cx - u(5), cy + u(3), u(3), "card", "indigo", 1.6)
    kit.line(cx - u(24), cy - u(26), cx + u(24), cy - u(26), "brass", 4)
    marks = ((cy - u(26), cx + u(24), "what touches,", "half of length × width"), (cy + u(6), cx - u(5), "your ear holes,", "ahead and above the datum"))  # fmt: skip
    for at, begin, first, second in marks:
        kit.line(begin, at, cx + u(46), at, "ink3", 1, "dot")
        kit.text(cx + u(50), at - u(6), first, 11, 400, "ink2")
        kit.text(cx + u(50), at + u(7), second, 11, 400, "ink2")
