"""What a finding, an action, a selection or find-or-do points at: typed, never a text to be parsed."""

from __future__ import annotations

from typing import Any, Literal

from karakuri.frozen import Frozen
from karakuri.model.figure import Figure
from karakuri.model.leads import called

RefKind = Literal[
    "figure",
    "supply",
    "score",
    "part",
    "joint",
    "drive",
    "ballast_site",
    "element",
    "posture",
    "channel",
    "move",
    "pose",
    "pin",
    "maker",
    "play",
    "sound",
    "lines",
    "behaviour",
    "state",
    "start",
    "input",
    "grip",
    "section",
    "symptom",
    "rod",
    "fastening",
    "picture",
    "chain",
    "doing",
    "room",
    "wearer",
    "load",
    "board",
    "plug",
]
WHERE: dict[str, tuple[str, ...]] = {
    "part": ("parts",),
    "joint": ("joints",),
    "drive": ("drives",),
    "ballast_site": ("ballast_sites",),
    "element": ("elements",),
    "rod": ("rods",),
    "fastening": ("fastenings",),
    "picture": ("pictures",),
    "chain": ("chains",),
    "doing": ("order",),
    "posture": ("postures",),
    "pose": ("poses",),
    "channel": ("score", "channels"),
    "move": ("score", "channels"),
    "pin": ("score", "pins"),
    "maker": ("score", "makers"),
    "play": ("score", "channels"),
    "sound": ("sounds",),
    "lines": ("lines",),
    "state": ("behaviour", "states"),
    "start": ("behaviour", "starts"),
    "input": ("behaviour", "inputs"),
    "grip": ("steering", "grips"),
    "section": ("score", "sections"),
    "load": ("power", "loads"),
    "board": ("boards",),
    "plug": ("plugs",),
}
"""Where in a figure items of a kind stand; the others are the one of their kind."""


class Ref(Frozen):
    """One thing of a figure. `number` is which move of the ribbon, or which sound of the voice, `id`, counted from 0; −1 for all else."""

    kind: RefKind = "figure"
    id: str = ""
    number: int = -1


FIGURE = Ref()


def item_of(figure: Figure, ref: Ref) -> Any:
    """The item that a reference points at (a move, a play: its channel), or None where there is no such item any more."""
    path = WHERE.get(ref.kind)
    if path is None:
        return figure
    items: Any = figure
    for name in path:
        items = getattr(items, name, None) or ()
    found = next((item for item in items if item.id == ref.id), None)
    if ref.kind in ("move", "play") and found is not None:
        inside = getattr(found, "moves" if ref.kind == "move" else "plays", ())
        return found if 0 <= ref.number < len(inside) else None
    return found


def nearest(figure: Figure, ref: Ref) -> Ref:
    """The reference itself while its item is there, else what the item belonged to, else the whole figure."""
    if item_of(figure, ref) is not None:
        return ref
    if ref.kind in ("move", "play"):
        return nearest(figure, Ref("channel", ref.id))
    return FIGURE


def name_of(figure: Figure, ref: Ref) -> str:
    """What the item is called on screen; '' where it is gone or the whole figure is meant."""
    item = item_of(figure, ref)
    if ref.kind == "wearer":
        return "its face" if ref.id == "face" else "its wearer"
    if item is None or ref.kind in ("figure", "supply", "score", "symptom", "room", "behaviour"):
        return ""
    if ref.kind == "drive":
        return f"servo of {figure.joint(item.joint).name}"
    if ref.kind == "pin":
        return figure.pose(item.pose).name
    if ref.kind == "plug":
        return called(figure, item)
    if ref.kind == "start" and figure.behaviour is not None:
        return f"start of {figure.behaviour.state(item.to).name}"
    if ref.kind == "maker":
        return str(item.spoken())
    return str(item.name)
