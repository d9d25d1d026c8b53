"""A pose pinned to a time: a move in every ribbon whose place it names, all together or one group after the other."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from karakuri.errors import EditRefused
from karakuri.model.edit import Edit
from karakuri.model.figure import Figure
from karakuri.model.ids import new_id
from karakuri.model.makers import Maker, Pin
from karakuri.model.moves import Row
from karakuri.model.score_edits import unwritten, written


def make(figure: Figure, maker: Maker) -> Mapping[str, list[Row]]:
    """Channel id → moves, s and the channel's own unit. Raises KeyError where its pose is gone."""
    assert isinstance(maker, Pin)
    places, lags = dict(figure.pose(maker.pose).places), _lags(figure, maker)
    rows: dict[str, list[Row]] = {}
    for channel in figure.score.moved:
        named = next((j for j in channel.joints if j in places), None)
        if named is not None:
            departs = max(0.0, maker.arrives_s - maker.takes_s + lags[channel.id])
            rows[channel.id] = [Row(departs, maker.takes_s, places[named])]
    return rows


def pin_pose(figure: Figure, pin: Pin) -> Edit:
    """Pin a pose to a time; a pin of the same id is moved there. Raises EditRefused where no ribbon moves what it names."""
    pose, rows = figure.pose(pin.pose), make(figure, pin)
    if not rows:
        raise EditRefused(f"{pose.name} has no ribbon to move yet. Lay the ribbons out first.")
    return written(figure, pin, rows, f"pin {pose.name}", f"pin {pin.id}")


def pin_at(figure: Figure, pose_id: str, at_s: float) -> tuple[Edit, str]:
    """Pin a pose to a time, and the id of the new pin."""
    at = max(0.02, at_s)
    ident = new_id(figure, f"{pose_id} at {at:.0f}")
    return pin_pose(figure, Pin(id=ident, pose=pose_id, arrives_s=at)), ident


def change_pin(figure: Figure, pin_id: str, **fields: Any) -> Edit:
    """Another time, length or manner for a pin."""
    pin = next(p for p in figure.score.pins if p.id == pin_id)
    return pin_pose(figure, Pin(**(dict(pin) | fields)))


def unpin(figure: Figure, pin_id: str) -> Edit:
    """Take a pin and its moves out."""
    pin = next(p for p in figure.score.pins if p.id == pin_id)
    return unwritten(figure, pin_id, f"take out {figure.pose(pin.pose).name}")


def _lags(figure: Figure, pin: Pin) -> dict[str, float]:
    """How much later than the first each channel departs: by the timing of its joint; only groups that move count."""
    places = {joint for joint, _ in figure.pose(pin.pose).places}
    groups: dict[str, int] = {}
    for channel in figure.score.moved:
        named = [j for j in channel.joints if j in places]
        if named:
            groups[channel.id] = figure.joint(named[0]).timed.order
    present = sorted(set(groups.values()))
    if pin.manner == "together":
        return {c.id: 0.0 for c in figure.score.moved}
    last = len(present) - 1
    return {
        c.id: (present.index(groups[c.id]) - last) * pin.gap_s if c.id in groups else 0.0 for c in figure.score.moved
    }
