"""What is wrong with what lies between a servo and its joint before anything is computed: then nothing of it is judged."""

from __future__ import annotations

from karakuri.bodies.coordinates import coupling
from karakuri.bodies.linkages import shares
from karakuri.model.drive import Drive
from karakuri.model.figure import Figure
from karakuri.model.transmission import Bevel


def flaw(figure: Figure, drive: Drive) -> str:
    """A clause that says it, '' where nothing is wrong."""
    read = shares(figure, drive)
    if drive.joint not in read:
        return "the ball of its rod sits on what it does not move: say what the ball is screwed to"
    form = drive.transmission
    if isinstance(form, Bevel):
        other = figure.drive_of(form.partner)
        theirs = other.transmission if other is not None else None
        name = figure.joint(form.partner).name
        if not isinstance(theirs, Bevel) or theirs.partner != drive.joint:
            return f"two servos turn its wheels together: {name} needs the other one"
        if theirs.turns == form.turns:
            return f"for the wheel between one servo goes one way and the other the opposite way; here both go the same way, that of {name} too"
        if form.between * theirs.side != theirs.between * form.side:
            return f"both servos take hold of one wheel between: teeth differ from those of {name}"
        if form.partner != figure.joint(drive.joint).rides_on and figure.joint(form.partner).rides_on != drive.joint:
            return f"the wheel between rides on what the other joint turns; {name} does not carry it, nor it {name}"
    ids = tuple(joint.id for joint in figure.joints)
    tied = coupling(figure, ids)
    loose = [figure.joint(ids[k]).name for k in tied.free if ids[k] in read]
    return (
        f"its rod reaches over {loose[0]}, which nothing drives: what the rod does to that is not known"
        if loose
        else ""
    )
