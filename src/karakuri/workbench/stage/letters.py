"""Letters and names in an elevation: bobs by their mass, ballast sites, names in columns at the edges."""

from __future__ import annotations

import math

from karakuri.model.ref import Ref
from karakuri.workbench.kit import Kit
from karakuri.workbench.marks import bob
from karakuri.workbench.stage.view import View

LETTERS = "abcdefghijklmnopqrstuvwxyz"


def draw_sites(kit: Kit, view: View) -> None:
    scene, s = view.scene, view.u(9)
    view.taken = _occupied(view)
    for i, site in enumerate(scene.figure.ballast_sites):
        x, y = view.to_screen(scene.at(scene.link(site.rides_on), site.at_mm))
        kit.rect(x - s, y - s, 2 * s, 2 * s, "moss_t", "moss", 1.4, "dash")
        for dx, dy in (
            (-1, -1),
            (1, -1),
            (-1, 1),
            (1, 1),
        ):  # beside the corner that no other site's letter stands at
            tx, ty = x + dx * (s + 3 + view.u(5)), y + dy * s
            if all(abs(tx - a) > view.u(13) or abs(ty - b) > view.u(13) for a, b in view.taken):
                kit.text(tx, ty, LETTERS[i].upper(), 12, 700, "moss", "c", "paper")
                view.taken.append((tx, ty))
                break


def draw_bobs(kit: Kit, view: View) -> None:
    scene = view.scene
    taken = view.taken
    for i, body in enumerate(b for b in scene.tree.bodies if b.kind == "part"):
        x, y = view.to_screen(scene.at(body.link, body.at))
        tall = max(8.5, 0.6 * math.sqrt(body.mass * 1e3)) * view.desk.look.scale
        bob(kit, x, y - tall / 2, tall)
        half = kit.width(LETTERS[i % 26], 12, 600) / 2
        for side in (1, -1):
            tx = x + side * (tall * 0.42 + 3 + half)
            if all(abs(tx - a) > view.u(13) or abs(y - b) > view.u(13) for a, b in taken):
                kit.text(tx, y, LETTERS[i % 26], 12, 600, "indigo", "c", "card" if view.drawn else None)
                taken.append((tx, y))
                break


def draw_names(kit: Kit, view: View) -> None:
    """Names in columns at the edges, a short level piece, then straight to a ring on the part."""
    scene, middle = view.scene, view.width / 2
    rows = []
    for part in scene.figure.parts:
        x, y = view.to_screen(scene.at(scene.link(part.rides_on), part.at_mm))
        rows.append((part, x, y))
    step, top, bottom = view.u(17), view.u(34), view.height - view.u(14)
    fits = max(1, int((bottom - top) / step))
    for side in ("l", "r"):
        mine = sorted((r for r in rows if (r[1] < middle) == (side == "l")), key=lambda r: r[2])
        mine = sorted(sorted(mine, key=lambda r: -_weight(view, r[0]))[:fits], key=lambda r: r[2])
        ys = _spread([r[2] for r in mine], step, top, bottom)
        named = [(*row, ty, _short(kit, view, row[0])) for row, ty in zip(mine, ys, strict=True)]
        column = max((kit.width(words, 12, 600) for *_, words in named), default=0.0) + view.u(10)
        for part, x, y, ty, words in named:
            _name(kit, view, part, x, y, ty, side, words, column)


def _name(kit: Kit, view: View, part, x: float, y: float, ty: float, side: str, words: str, column: float) -> None:
    on = view.desk.subject == Ref("part", part.id)
    way = 1 if side == "l" else -1
    edge = view.u(4) if side == "l" else view.width - view.u(4)
    kit.text(edge, ty, words, 12, 600 if on else 500, "indigo" if on else "ink", side)
    start = edge + way * (kit.width(words, 12, 600 if on else 500) + 4)
    kit.polyline([(start, ty), (edge + way * column, ty), (x, y)], "indigo" if on else "rule", 1.6 if on else 1)
    kit.circle(x, y, 2.4, "card", "indigo" if on else "ink2", 1.3)


def _weight(view: View, part) -> float:
    return 1e9 if view.desk.subject == Ref("part", part.id) else (part.mass_g or 0.0)


def _short(kit: Kit, view: View, part) -> str:
    """The name, or as many of its words as there is room for."""
    return kit.short(part.name, view.u(100), 12, 600)


def _occupied(view: View) -> list[tuple[float, float]]:
    """Where marks stand that no letter may cover: pivots, centres of mass, ends of what is strung."""
    scene = view.scene
    marks = [scene.whole, *scene.placed.pivot[:, :, 0], *(point for now in scene.strung for point in now.points)]
    ident = view.desk.joint_in_hand()
    if ident in scene.tree.ids:
        marks.append(scene.centres[scene.tree.index(ident)])
    return [view.to_screen(scene.room @ point) for point in marks]


def _spread(wanted: list[float], step: float, top: float, bottom: float) -> list[float]:
    """Places near the wanted ones, at least a step apart, between top and bottom."""
    out: list[float] = []
    for y in wanted:
        out.append(max(y, top, out[-1] + step if out else top))
    limit = bottom
    for i in reversed(range(len(out))):
        out[i] = min(out[i], limit)
        limit = out[i] - step
    return out
