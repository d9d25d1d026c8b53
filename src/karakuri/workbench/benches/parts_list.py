"""The list of parts under the joint they ride on: the drawing's twin. A group's head is the joint itself."""

from __future__ import annotations

from karakuri.bodies.inertia import part_mass_kg
from karakuri.bodies.shapes import described
from karakuri.bodies.tree import Tree, ordered_joints
from karakuri.model.part import Part
from karakuri.model.ref import FIGURE, Ref
from karakuri.units import MINUS, Quantity, show_number
from karakuri.workbench.desk import Desk
from karakuri.workbench.kit import Kit
from karakuri.workbench.marks import centre, origin
from karakuri.workbench.theme import REGION
from karakuri.workbench.widgets.ledger import Row


def columns(kit: Kit, width: float) -> dict[str, float]:
    """Right edges of the numbers and left edges of the words; the shape goes first where it is narrow."""
    u = kit.u
    out = {
        "how": width - u(12),
        "above": width - u(34),
        "ahead": width - u(78),
        "pm": width - u(163),
        "g": width - u(167),
    }
    out["shape"] = width - u(297) if width > u(430) else -1.0
    return out


def signed(desk: Desk, metres: float) -> str:
    text = show_number(Quantity(metres, "length"), desk.units)
    return "0" if text in (f"{MINUS}0", "0.00") else text


def head(kit: Kit, y: float, width: float, unit: str) -> None:
    c = columns(kit, width)
    kit.text(kit.u(4), y, "part", 12, 400, "ink3")
    if c["shape"] > 0:
        kit.text(c["shape"], y, "shape", 12, 400, "ink3")
    kit.text(c["g"], y, unit, 12, 400, "ink3", "r")
    kit.text(c["pm"] + kit.u(4), y, "±", 12, 400, "ink3")
    kit.text(c["ahead"], y, "ahead", 12, 400, "ink3", "r")
    kit.text(c["above"], y, "above", 12, 400, "ink3", "r")
    kit.text(width - kit.u(2), y, "how", 12, 400, "ink3", "r")


def rows(desk: Desk, tree: Tree) -> list[Row]:
    """Groups in the order of the tree, the base first, then the whole figure."""
    figure = desk.figure
    out: list[Row] = []
    for ident in ("base", *(joint.id for joint in ordered_joints(figure))):
        out.append(_group(desk, tree, ident))
        out += [
            _part(desk, part, "ink2" if ident == "base" else REGION[figure.joint(ident).region][0])
            for part in figure.parts
            if part.rides_on == ident
        ]
    out.append(_whole(desk, tree))
    return out


def _total(tree: Tree, link: int) -> tuple[float, float, float] | None:
    mass = float(tree.mass[link])
    return (mass, float(tree.com[link, 0]), float(tree.com[link, 2])) if mass > 0 else None


def _group(desk: Desk, tree: Tree, ident: str) -> Row:
    base = ident == "base"
    stand = desk.figure.base
    standing = "Rides on who wears it" if stand.held == "worn" else f"Stands on {stand.stands_on}"
    name = standing if base else f"Rides on {desk.figure.joint(ident).name}"
    ink = "ink" if base else REGION[desk.figure.joint(ident).region][0]
    total = _total(tree, -1 if base else tree.index(ident))

    def paint(kit: Kit, y: float, width: float, on: bool) -> None:
        c = columns(kit, width)
        kit.line(0, y - kit.u(9), width, y - kit.u(9), "rule")
        kit.text(kit.u(8), y, kit.short(name, c["g"] - kit.u(50), 12, 600), 12, 600, ink)
        _numbers(kit, desk, y, width, total, ink)

    spoken = f"{name}, {desk.show(Quantity(total[0], 'mass'))}" if total else name
    return Row(FIGURE if base else Ref("joint", ident), spoken, paint, 18, True, "ink2" if base else ink)


def _numbers(kit: Kit, desk: Desk, y: float, width: float, total: tuple[float, float, float] | None, ink: str) -> None:
    if total is None:
        return
    c = columns(kit, width)
    kit.text(c["g"], y, show_number(Quantity(total[0], "mass"), desk.units), 13, 600, "ink", "r")
    centre(kit, c["ahead"] - kit.u(39), y, kit.u(5), ink)
    kit.text(c["ahead"], y, signed(desk, total[1]), 12, 600, "ink", "r")
    kit.text(c["above"], y, signed(desk, total[2]), 12, 600, "ink", "r")


def _part(desk: Desk, part: Part, spine: str) -> Row:
    known = part_mass_kg(part, {m.id: m for m in desk.figure.materials})

    def paint(kit: Kit, y: float, width: float, on: bool) -> None:
        c, u = columns(kit, width), kit.u
        room = (c["shape"] if c["shape"] > 0 else c["g"] - u(44)) - u(24)
        words = kit.short(part.name, room, 12, 600 if on else 400)
        kit.text(u(16), y, words, 12, 600 if on else 400, "indigo" if on else "ink")
        if c["shape"] > 0:
            kit.text(
                c["shape"],
                y,
                described(part.shape),
                12,
                400,
                "ink2",
            )
        if known is None:
            kit.text(c["g"], y, "unknown", 12, 500, "ink2", "r")
        else:
            kit.text(c["g"], y, show_number(Quantity(known[0], "mass"), desk.units), 13, 600 if on else 400, "ink", "r")
            if known[2] != "weighed" or part.plus_minus_g is not None:
                kit.text(
                    c["pm"] + u(4),
                    y,
                    "±" + show_number(Quantity(known[1], "mass", rounding="up"), desk.units),
                    12,
                    500,
                    "brass",
                )
            origin(kit, c["how"], y, known[2])
        kit.text(c["ahead"], y, signed(desk, part.at_mm[0] / 1e3), 12, 400, "ink2", "r")
        kit.text(c["above"], y, signed(desk, part.at_mm[2] / 1e3), 12, 400, "ink2", "r")

    mass = desk.show(Quantity(known[0], "mass")) if known else "mass unknown"
    return Row(Ref("part", part.id), f"{part.name}, {mass}, {known[2] if known else ''}", paint, 18, False, spine)


def _whole(desk: Desk, tree: Tree) -> Row:
    mass = float(tree.mass.sum())
    bound = sum(body.bound for body in tree.bodies)
    com = (tree.mass[:, None] * tree.com).sum(axis=0) / mass if mass > 0 else (0.0, 0.0, 0.0)

    def paint(kit: Kit, y: float, width: float, on: bool) -> None:
        c = columns(kit, width)
        kit.line(0, y - kit.u(10), width, y - kit.u(10), "ink2")
        words = "Whole figure, servos in" if c["g"] > kit.u(190) else "Whole figure"
        kit.text(kit.u(8), y, words, 13, 600)
        if mass > 0:
            _numbers(kit, desk, y, width, (mass, float(com[0]), float(com[2])), "ink")
            kit.text(
                c["pm"] + kit.u(4),
                y,
                "±" + show_number(Quantity(bound, "mass", rounding="up"), desk.units),
                12,
                500,
                "brass",
            )

    return Row(("whole", ""), f"Whole figure, {desk.show(Quantity(mass, 'mass'))}", paint, 21)
