"""What becomes of rods, of what holds something on and of servos fixed elsewhere when a joint or a part goes."""

from __future__ import annotations

from collections.abc import Set as Set_

from karakuri.model.edit import Remove, Set, Step
from karakuri.model.figure import Figure
from karakuri.model.part import BASE
from karakuri.model.steering import Expressions, Grip
from karakuri.model.transmission import Ball, Bevel, Direct


def without(figure: Figure, gone: str, on: str = BASE) -> tuple[Step, ...]:
    """What rode on the joint that goes rides on what carried it, and nothing is carried or held that is gone."""
    steps: list[Step] = []
    for collection, items in (("rods", figure.rods), ("fastenings", figure.fastenings)):
        for item in items:
            if item.rides_on == gone:
                steps.append(Set((collection, item.id, "rides_on"), on))
            if gone in item.carries:
                carries = tuple(each for each in item.carries if each != gone)
                steps.append(Set((collection, item.id, "carries"), carries))
    lost = {gone, *(drive.id for drive in figure.drives if drive.joint == gone)}
    if figure.room is not None and any(lost & {pair.one, pair.other} for pair in figure.room.together):
        pairs = tuple(pair for pair in figure.room.together if not lost & {pair.one, pair.other})
        steps.append(Set(("room",), figure.room.but(together=pairs)))
    steps += unplugged(figure, lost)
    for board in figure.boards:
        if board.part == gone:
            steps.append(Set(("boards", board.id, "part"), None))
    for board in figure.boards:
        if board.rides_on == gone:
            steps.append(Set(("boards", board.id, "rides_on"), on))
    left = {plug.id for plug in figure.plugs if not lost & {plug.item, plug.board}}
    for plug in figure.plugs:
        if plug.rides_on == gone and plug.id in left:
            steps.append(Set(("plugs", plug.id, "rides_on"), on))
    for drive in figure.drives:
        form = drive.transmission
        if drive.joint == gone:
            continue
        if drive.rides_on == gone:
            steps.append(Set(("drives", drive.id, "rides_on"), on))
        if isinstance(form, Ball) and form.ball_on == gone:
            steps.append(Set(("drives", drive.id, "transmission", "ball_on"), on))
        if isinstance(form, Bevel) and form.partner == gone:
            steps.append(Set(("drives", drive.id, "transmission"), Direct()))
    return tuple(steps)


def unplugged(figure: Figure, gone: set[str]) -> tuple[Step, ...]:
    """What was plugged in by those ids is not any more."""
    return tuple(Remove("plugs", plug.id) for plug in figure.plugs if plug.item in gone or plug.board in gone)


def ungripped(figure: Figure, channels: Set_[str] = frozenset(), poses: Set_[str] = frozenset()) -> tuple[Step, ...]:
    """What a hand does without ribbons and poses of those ids: a grip that names such a ribbon goes, a pose goes from around its stick."""
    steering = figure.steering
    if steering is None:
        return ()
    grips = list[Grip]()
    for grip in steering.grips:
        if channels & set(grip.channels):
            continue
        if isinstance(grip, Expressions) and any(face.pose in poses for face in grip.faces):
            faces = tuple(face for face in grip.faces if face.pose not in poses)
            grips.append(Expressions(**(dict(grip) | {"faces": faces})))
        else:
            grips.append(grip)
    return (Set(("steering", "grips"), tuple(grips)),) if tuple(grips) != steering.grips else ()
