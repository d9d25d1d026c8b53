"""A joint that follows another, as what moves it meets it: a servo of its own, or a link from the one it follows."""

from __future__ import annotations

from karakuri.bodies.coordinates import coupling
from karakuri.model.edit import Edit, Set
from karakuri.model.figure import Figure
from karakuri.model.joint import Joint
from karakuri.sizing.wanted import profile_of

LEAST_MOVE = 1e-3
"""A move by less, in degrees or millimetres, is none."""


def led_by(figure: Figure, joint: Joint) -> tuple[Joint, float, float]:
    """What leads a joint, itself where nothing does, and ratio and offset from there, in the units both are written in."""
    tied = coupling(figure, tuple(each.id for each in figure.joints))
    k = next(i for i, each in enumerate(figure.joints) if each.id == joint.id)
    leader, own = figure.joints[tied.leader[k]], joint.measure.si
    return leader, float(tied.gain[k]) * leader.measure.si / own, float(tied.offset[k]) / own


def as_driven(figure: Figure, joint: Joint) -> Joint:
    """A follower goes, moves and rests as its leader does, times its ratio; any other joint is as it is written. Never raises: a ratio may take
    it farther than a file may say, which the rules then tell."""
    if joint.role != "follows":
        return joint
    leader, ratio, offset = led_by(figure, joint)

    def here(ends: tuple[float, float]) -> tuple[float, float]:
        low, high = sorted(round(ratio * end + offset, 9) for end in ends)
        return low, high

    move = (
        leader.move if figure.drive_of(joint.id) is not None else None
    )  # what a link moves is judged with what it follows
    by, asked = abs(ratio) * move.by if move is not None else 0.0, None
    if move is not None and by >= LEAST_MOVE:
        asked = move.unchecked(by=by, profile=profile_of(leader, move)[0])
    rests = joint.rests_deg
    if rests is None and leader.rests_deg is not None and joint.kind == leader.kind == "turn":
        rests = here(leader.rests_deg)
    return joint.unchecked(**{joint.named("range"): here(leader.range), "move": asked, "rests_deg": rests})


def ranged(figure: Figure, joint: Joint, low: float, high: float, words: str) -> Edit:
    """Another wanted range, in degrees or millimetres; of a follower, that of what it follows."""
    leader, ratio, offset = led_by(figure, joint) if joint.role == "follows" else (joint, 1.0, 0.0)
    ends = (low, high)
    if leader.id != joint.id:
        back = sorted(round((end - offset) / ratio, 3) for end in ends) if ratio else leader.range
        ends = (back[0], back[1])
    return Edit(words, (Set(("joints", leader.id, leader.named("range")), ends),), f"{joint.id} range")
