"""The card of the whole figure: how finished it is, what it stands on and is fed by, postures and assumptions."""

from __future__ import annotations

import math

from karakuri.model.edit import Edit, Set
from karakuri.model.edits import add_posture, allow_ballast, foot_of, remove_item, set_field
from karakuri.model.ref import Ref
from karakuri.units import Quantity
from karakuri.workbench.benches.bench import degrees, grams, mm
from karakuri.workbench.benches.meets_items import meets_items
from karakuri.workbench.benches.picture_page import picture_items
from karakuri.workbench.benches.size_items import price_items, size_items
from karakuri.workbench.desk import Desk
from karakuri.workbench.widgets.items import Block, Do, Head, Item, Note, Page, Pick, Write, WriteText
from karakuri.workbench.wishes import PASTE

FINISH = (("25", "bare mechanism, + 25 %"), ("10", "shell on, + 10 %"), ("0", "finished, nothing to add"))
HELD = {"stands": "stands free", "fixed": "is screwed down", "worn": "is worn or carried"}
SHARES = (
    ("wished_margin", "Wished margin", "ratio", 1.0),
    ("stall_share", "Of the advertised stall", "ratio", 1.0),
    ("held_share", "Held for long", "ratio", 1.0),
    ("held_share_plastic", "Plastic gears", "ratio", 1.0),
    ("passing_share", "In passing", "ratio", 1.0),
    ("overshoot_deg", "Overshoot", "angle", 180 / math.pi),
    ("tilt_deg", "Tilt to stand", "angle", 180 / math.pi),
    ("bump_g", "Bump, times weight", "ratio", 1.0),
)


def set_whole(desk: Desk, path: tuple[str, ...], value: object, words: str) -> None:
    desk.edit(Edit(words, (Set(path, value),), ".".join(path)))


def show_wearer(desk: Desk) -> None:
    desk.select(Ref("wearer"))
    desk.turn_to("balance")


def foot(desk: Desk) -> tuple[float, float]:
    """Depth and width of the outline, mm."""
    xs, ys = ([c[i] for c in desk.figure.base.outline_mm] for i in (0, 1))
    return max(xs) - min(xs), max(ys) - min(ys)


def figure_page(desk: Desk) -> Page:
    figure = desk.figure
    items: list[Item] = [
        Block("v", desk.finding("tipping"), figure.assumptions.wished_margin),
        WriteText("name", "Name", figure.name, lambda t: set_whole(desk, ("name",), t.strip(), "name of the figure")),
        *_finish_items(desk),
        *_base_items(desk),
        *_supply_items(desk),
        *_posture_items(desk),
        *_site_items(desk),
        *picture_items(desk),
        *size_items(desk),
        *price_items(desk),
        *meets_items(desk),
        Do("paste", "Paste a parts list from a spreadsheet", lambda: desk.wanted.emit(PASTE)),
        *_assumption_items(desk),
    ]
    return Page(figure.name, f"the whole figure · stands on {figure.base.stands_on}", tuple(items), ("figure",))


def _finish_items(desk: Desk) -> list[Item]:
    growth = f"{desk.figure.assumptions.growth_percent:g}"
    return [
        Pick("finish", "State", dict(FINISH).get(growth, f"+ {growth} %"), FINISH,
             lambda key: set_whole(desk, ("assumptions", "growth_percent"), float(key), "how finished it is")),
        Note("ng", "What will still be added counts as a share on every part (common practice, no source)."),
    ]  # fmt: skip


def _base_items(desk: Desk) -> list[Item]:
    base, (depth, width) = desk.figure.base, foot(desk)

    def outline(depth_mm: float, width_mm: float) -> None:
        set_whole(desk, ("base", "outline_mm"), foot_of(round(depth_mm, 2), round(width_mm, 2)), "foot")

    return [
        Head("hs", "Stands on"),
        WriteText("on", "Stands on", base.stands_on, lambda t: set_whole(desk, ("base", "stands_on"), t.strip(), "what it stands on")),
        Pick("held", "and there it", HELD[base.held], tuple(HELD.items()), lambda key: set_whole(desk, ("base", "held"), key, "how it is held")),
        *([Do("wearer", "Who wears it, and how", lambda: show_wearer(desk))] if base.held == "worn" else []),
        Write("depth", "Foot, deep", mm(depth), "length", lambda v: outline(v * 1e3, foot(desk)[1])),
        Write("width", "Foot, wide", mm(width), "length", lambda v: outline(foot(desk)[0], v * 1e3)),
    ]  # fmt: skip


def _supply_items(desk: Desk) -> list[Item]:
    supply = desk.figure.supply
    return [
        Head("hv", "Supply"),
        Write("volts", "Voltage", Quantity(supply.voltage_V, "voltage"), "voltage",
              lambda v: set_whole(desk, ("supply", "voltage_V"), v, "supply voltage")),
        Write("amps", "Current", Quantity(supply.current_A, "current"), "current",
              lambda v: set_whole(desk, ("supply", "current_A"), v, "supply current")),
        Note("nv", "Servos on a supply of their own, fused; a common ground. Lithium cells: the right charger, never charged in the figure."),
    ]  # fmt: skip


def _posture_items(desk: Desk) -> list[Item]:
    postures = desk.figure.postures
    items: list[Item] = [Head("hp", "Postures: how the base stands")]
    for posture in postures:
        items.append(
            Write(
                f"lean {posture.id}",
                f"{posture.name} leans",
                degrees(posture.lean_deg),
                "angle",
                _lean(desk, posture.id),
            )
        )
        if len(postures) > 1:
            items.append(
                Do(f"drop {posture.id}", f"Remove {posture.name}", lambda i=posture.id: _drop(desk, "postures", i))
            )
    return [*items, Do("posture", "Add a posture", lambda: _add_posture(desk))]  # fmt: skip


def _site_items(desk: Desk) -> list[Item]:
    joints = {"base": "the base"} | {j.id: j.name for j in desk.figure.joints}
    items: list[Item] = [Head("hb", "Ballast sites")]
    for site in desk.figure.ballast_sites:
        items += [
            Write(f"most {site.id}", f"{site.name}, at most", grams(site.most_g), "mass", _most(desk, site.id)),
            Pick(f"on {site.id}", "it rides on", joints[site.rides_on], tuple(joints.items()), _site_on(desk, site.id)),
            *(
                Write(f"{axis}{site.id}", f"  {word}", mm(site.at_mm[k]), "length", _site_at(desk, site.id, k))
                for k, axis, word in ((0, "x", "ahead"), (2, "z", "above"))
            ),
        ]
    return [*items, Do("site", "Allow ballast somewhere", lambda: add_site(desk))]


def _assumption_items(desk: Desk) -> list[Item]:
    known = desk.figure.assumptions
    return [
        Head("ha", "Assumptions, saved with the figure"),
        *(
            Write(field, words, Quantity(getattr(known, field) / scale, kind), kind, _share(desk, field, scale, words))
            for field, words, kind, scale in SHARES
        ),
        Note("na", "Shares and margins: common practice, no source."),
    ]


def _share(desk: Desk, field: str, scale: float, words: str):
    return lambda v: set_whole(desk, ("assumptions", field), round(v * scale, 6), words.lower())


def _lean(desk: Desk, ident: str):
    return lambda v: desk.edit(
        lambda: set_field(desk.figure, "postures", ident, ("lean_deg",), round(math.degrees(v), 4), "lean")
    )


def _most(desk: Desk, ident: str):
    return lambda v: desk.edit(
        lambda: set_field(desk.figure, "ballast_sites", ident, ("most_g",), round(v * 1e3, 4), "most ballast")
    )


def _site_on(desk: Desk, ident: str):
    return lambda key: desk.edit(
        lambda: set_field(desk.figure, "ballast_sites", ident, ("rides_on",), key, "what carries it")
    )


def _site_at(desk: Desk, ident: str, which: int):
    def done(value: float) -> None:
        site = next(s for s in desk.figure.ballast_sites if s.id == ident)
        at = list(site.at_mm)
        at[which] = round(value * 1e3, 3)
        desk.edit(lambda: set_field(desk.figure, "ballast_sites", ident, ("at_mm",), tuple(at), "place"))

    return done


def _add_posture(desk: Desk) -> None:
    desk.edit(lambda: add_posture(desk.figure))


def add_site(desk: Desk) -> None:
    desk.edit(lambda: allow_ballast(desk.figure, desk.joint_in_hand()))


def _drop(desk: Desk, collection: str, ident: str) -> None:
    desk.edit(lambda: remove_item(desk.figure, collection, ident))
