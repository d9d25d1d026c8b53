"""The wiring to take to the bench: all wires as CSV, a list to cut and crimp by, and a drawing of each board to print.

CSV by RFC 4180, with a header row; lengths in millimetres, gauges in AWG (ASTM B258), section in mm². Drawings are SVG 1.1, one A4 page a board.
"""

from __future__ import annotations

import csv
import io
import math
from collections import Counter
from xml.sax.saxutils import escape

from karakuri.catalogue.boards import board_kind
from karakuri.course import Course
from karakuri.errors import FileTrouble
from karakuri.exchange.contract import Chosen, Exported, Exporter, Media
from karakuri.model.board import Board
from karakuri.model.figure import Figure
from karakuri.power.wire import diameter_m
from karakuri.wiring.clashes import clashes
from karakuri.wiring.plug_in import not_plugged
from karakuri.wiring.table import Wire, wires

SIGNS = {"+": "plus", "−": "minus", "logic +": "logic plus"}
HEAD = ("wire", "from", "lead", "to", "pin", "colour", "gauge_AWG", "section_mm2", "cut_mm", "plug", "way", "crosses")
INKS = {"white": "#8a8578", "red": "#b3261e", "black": "#1f1f1f", "yellow": "#b58900", "green": "#2f6b2f", "blue": "#26407f"}  # fmt: skip
WIDE, HIGH, TOP, LEFT = 297.0, 210.0, 24.0, 12.0
MOST_NAME, MOST_FAR, STUB = 34, 22, 10.0


def plugs_of(found: tuple[Wire, ...]) -> dict[int, tuple[str, int]]:
    """Of each wire by its number, its plug's name and its way in it, from 1: what belongs to one thing shares a plug."""
    names: dict[str, str] = {}
    ways: Counter[str] = Counter()
    out = {}
    for wire in found:
        key = wire.plug or f"{wire.a.ref.kind} {wire.a.ref.id}"
        name = names.setdefault(key, f"P{len(names) + 1}")
        ways[name] += 1
        out[wire.number] = (name, ways[name])
    return out


def section_mm2(awg: int) -> float:
    """The section of a solid wire of a gauge in AWG, mm² (ASTM B258)."""
    return math.pi / 4 * (diameter_m(awg) * 1e3) ** 2


def wires_csv(figure: Figure) -> str:
    """All wires, one a row."""
    found = wires(figure)
    plugs = plugs_of(found)
    rows: list[tuple[object, ...]] = [HEAD]
    for wire in found:
        name, way = plugs[wire.number]
        cut = "" if wire.length is None else f"{wire.length * 1e3:.0f}"
        crosses = "; ".join(figure.joint(joint).name for joint in wire.crosses)
        rows.append(
            (wire.number, wire.a.name, SIGNS.get(wire.a.pin, wire.a.pin), wire.b.name, SIGNS.get(wire.b.pin, wire.b.pin), wire.colour, wire.awg,
             f"{section_mm2(wire.awg):.3f}", cut, name, way, crosses)
        )  # fmt: skip
    return _csv(rows)


def cuts_csv(figure: Figure) -> str:
    """What to cut and crimp: pieces alike together, longest first, then the plugs with their ways, then how much of each wire all of it is."""
    found = wires(figure)
    plugs = plugs_of(found)
    alike: dict[tuple[int, str, int], list[int]] = {}
    for wire in found:
        if wire.length is not None:
            alike.setdefault((wire.awg, wire.colour, round(wire.length * 1e3)), []).append(wire.number)
    rows: list[tuple[object, ...]] = [("what", "gauge_AWG", "colour", "cut_mm", "pieces", "crimps", "wires")]
    for (awg, colour, mm), some in sorted(alike.items(), key=lambda each: (each[0][0], each[0][1], -each[0][2])):
        rows.append(("cut", awg, colour, mm, len(some), 2 * len(some), " ".join(map(str, some))))
    unknown = [wire.number for wire in found if wire.length is None]
    if unknown:
        rows.append(("length not known", "", "", "", len(unknown), 2 * len(unknown), " ".join(map(str, unknown))))
    of_plug: dict[str, list[int]] = {}
    for wire in found:
        of_plug.setdefault(plugs[wire.number][0], []).append(wire.number)
    for name, numbers in of_plug.items():
        rows.append((f"plug {name}, {len(numbers)} ways", "", "", "", 1, len(numbers), " ".join(map(str, numbers))))
    whole: Counter[tuple[int, str]] = Counter()
    for (awg, colour, mm), some in alike.items():
        whole[(awg, colour)] += mm * len(some)
    for (awg, colour), mm in sorted(whole.items()):
        rows.append(("altogether", awg, colour, mm, "", "", ""))
    return _csv(rows)


def _csv(rows: list[tuple[object, ...]]) -> str:
    out = io.StringIO()
    csv.writer(out, lineterminator="\r\n").writerows([[_safe(str(cell)) for cell in row] for row in rows])
    return out.getvalue()


def _safe(cell: str) -> str:
    """A name that a spreadsheet would take for a sum stands behind an apostrophe."""
    return f"'{cell}" if cell[:1] in ("=", "+", "-", "@") else cell


def drawing(figure: Figure, board: Board, found: tuple[Wire, ...]) -> str:
    """One board with all that is plugged into it as an A4 page: each thing in a box, its wires numbered, in their colours, from its leads to the pins."""
    mine = [
        wire for wire in found if wire.b.ref.id == board.id or wire.a.ref.id == board.id or _feeds(figure, wire, board)
    ]
    things: dict[str, list[Wire]] = {}
    for wire in mine:
        things.setdefault(wire.plug or f"{wire.a.ref.kind} {wire.a.ref.id}", []).append(wire)
    sides: tuple[list[list[Wire]], list[list[Wire]]] = ([], [])
    for some in things.values():  # the side with fewer wires takes the next
        sides[sum(map(len, sides[0])) > sum(map(len, sides[1]))].append(some)
    lines = max((sum(len(some) + 1.2 for some in side) for side in sides), default=1.0)
    step = min(6.0, (HIGH - TOP - 16.0) / max(lines, 1.0))
    size, plugs = min(3.2, step * 0.62), plugs_of(found)
    out = [
        f'<svg xmlns="http://www.w3.org/2000/svg" version="1.1" width="{WIDE}mm" height="{HIGH}mm" viewBox="0 0 {WIDE} {HIGH}" font-family="sans-serif">',
        f'<rect width="{WIDE}" height="{HIGH}" fill="white"/>',
        _text(LEFT, 12, f"{figure.name}: {board.name}", 6, "start", "bold"),
        _text(LEFT, 18, f"{board_kind(board.kind).name}. Wires by their numbers; mm to cut, AWG. Take the power away before you touch any of it.", 3.2),
    ]  # fmt: skip
    mid, half, box = WIDE / 2, 22.0, 78.0
    out.append(f'<rect x="{mid - half}" y="{TOP}" width="{2 * half}" height="{lines * step + 4:.2f}" fill="#f6f1e4" stroke="#1f1f1f" stroke-width="0.5"/>')  # fmt: skip
    out.append(_text(mid, TOP + lines * step + 9, board.name, 3.6, "middle", "bold"))
    for right, side in enumerate(sides):
        y = TOP + 4.0
        x0 = WIDE - LEFT - box if right else LEFT
        for some in side:
            far = some[0].b.name if some[0].a.ref.id == board.id else some[0].a.name
            name = plugs[some[0].number][0]
            out.append(f'<rect x="{x0}" y="{y - step * 0.7:.2f}" width="{box}" height="{(len(some) + 0.9) * step:.2f}" fill="none" stroke="#1f1f1f" stroke-width="0.3" rx="1"/>')  # fmt: skip
            out.append(_text(x0 + 2, y, f"{name}  {far[:MOST_NAME]}", size, "start", "bold"))
            for wire in some:
                y += step
                own = wire.a.ref.id == board.id
                lead, pin = (wire.b.pin, wire.a.pin) if own else (wire.a.pin, wire.b.pin)
                cut = "?" if wire.length is None else f"{wire.length * 1e3:.0f}"
                ink = INKS.get(wire.colour, "#1f1f1f")
                here = own or wire.b.ref.id == board.id
                edge, way = (x0, -1) if right else (x0 + box, 1)
                end = (mid + half if right else mid - half) if here else edge + way * STUB
                line = y - size * 0.35
                out.append(f'<line x1="{edge}" y1="{line:.2f}" x2="{end}" y2="{line:.2f}" stroke="{ink}" stroke-width="{0.9 if wire.feeds else 0.5}"/>')  # fmt: skip
                out.append(_text(edge + way * STUB / 2, y - size * 0.55, str(wire.number), size, "middle"))
                out.append(_text(x0 + 2, y, f"{wire.number}  {lead}, {wire.colour}", size))
                out.append(_text(x0 + box - 2, y, f"{cut} mm, {wire.awg}", size, "end"))
                if here:  # what goes elsewhere ends before the board, and says where to
                    out.append(_text(mid + half - 2 if right else mid - half + 2, y, pin or "no pin", size, "end" if right else "start"))  # fmt: skip
                else:
                    out.append(
                        _text(
                            end + way, y, f"to {wire.b.name} {pin}"[:MOST_FAR], size * 0.9, "end" if right else "start"
                        )
                    )
            y += step * 1.2
    out.append("</svg>")
    return "\n".join(out) + "\n"


def _feeds(figure: Figure, wire: Wire, board: Board) -> bool:
    """A wire of a thing that is plugged into the board, and goes to the rail instead."""
    return any(plug.id == wire.plug and plug.board == board.id for plug in figure.plugs)


def _text(x: float, y: float, words: str, size: float, anchor: str = "start", weight: str = "normal") -> str:
    return f'<text x="{x:.2f}" y="{y:.2f}" font-size="{size:.2f}" text-anchor="{anchor}" font-weight="{weight}">{escape(words)}</text>'  # fmt: skip


def _write(figure: Figure, chosen: Chosen, course: Course, media: Media) -> Exported:
    if not figure.boards:
        raise FileTrouble("There is no wiring yet; nothing was written.", (), "Add boards on the Power bench, under “the wiring”.")  # fmt: skip
    found = wires(figure)
    files = {"wires.csv": wires_csv(figure).encode("utf-8"), "cut-and-crimp.csv": cuts_csv(figure).encode("utf-8")}
    for k, board in enumerate(figure.boards, 1):
        course.at(f"drawing of {board.name}", k / len(figure.boards))
        files[f"board-{k}.svg"] = drawing(figure, board, found).encode("utf-8")

    def told() -> tuple[str, ...]:
        notes = [f"{len(found)} wires, {len(figure.boards)} drawings."]
        left, wrong = not_plugged(figure), clashes(figure)
        if left:
            notes.append(f"Not in it, as it is plugged in nowhere: {', '.join(each.name for each in left)}.")
        if wrong:
            notes.append(f"Do not wire it so yet. {wrong[0].words}")
        unknown = sum(wire.length is None for wire in found)
        if unknown:
            notes.append(f"Of {unknown} wires the length is not known: say where both ends are, or measure.")
        return tuple(notes)

    return Exported(files, told)


EXPORTER = Exporter("wiring", "the wiring", "", (), lambda figure, chosen: "", _write, of_score=False)
