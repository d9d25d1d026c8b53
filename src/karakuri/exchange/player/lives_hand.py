"""What a hand does as tables for the player: grips, the ribbons of each, poses around sticks."""

from __future__ import annotations

from collections.abc import Mapping

from karakuri.behaviour.hand.grasp import Grasp
from karakuri.behaviour.hand.push_pull import sign_of
from karakuri.behaviour.hand.smooth import share_of
from karakuri.exchange.player.rows import NONE, NOWHERE, Rows
from karakuri.model.figure import Figure
from karakuri.model.steering import Expressions, Follows, Grip, Keyed, PushPull, Wheels
from karakuri.motion.voice.following import KeepsUp

KINDS = ("follows", "keyed", "push pull", "wheels", "expressions")


def grip_rows(figure: Figure, at: Mapping[str, int], out: Rows, can: Mapping[str, KeepsUp]) -> tuple[int, int, int]:
    """Grips and what each moves; how many grips, ribbons of grips, and the most of one."""
    steering, rows, leds = figure.steering, [], list[tuple[object, ...]]()
    faces, places, most = list[float](), list[int](), 0
    if steering is not None and steering.grips and figure.behaviour is not None:
        order = {each.id: k for k, each in enumerate(figure.behaviour.inputs)}
        grasp = Grasp(figure, None, can)
        most = max((len(held.leads) for held, _ in grasp.grips), default=0)
        for k, (grip, (held, inputs)) in enumerate(zip(steering.grips, grasp.grips, strict=True)):
            own, first, poses = grasp.of_grip(grip.id), len(leds), tuple(held.leads)
            for ident, lead in held.leads.items():
                pace = grasp.ribbons[ident].pace if ident in own else 1.0
                leds.append(
                    (
                        at[ident],
                        ident in own,
                        lead.channel.runs,
                        lead.low * 100.0,
                        lead.high * 100.0,
                        lead.park * 100.0,
                        min(pace * 100.0, 1e9),
                    )
                )
            turned, springs = _turned(figure, grip)
            begin = len(faces)
            if isinstance(grip, Expressions):
                faces += [face.towards_deg for face in grip.faces]
                for face in grip.faces:
                    places += _face(figure, face.pose, poses, most)
            a, b = order[inputs[0]], order[inputs[-1]]
            pace = grip.pace * 100.0 if isinstance(grip, Keyed) else 0.0
            rows.append((KINDS.index(grip.kind), a, b, turned, springs, first, len(poses), begin, len(faces) - begin, share_of(grip.smooth_ms / 1e3), pace))  # fmt: skip
            assert k < NOWHERE
    out.add("GRIP", "Grip", 17, rows)
    out.add("LED", "Led", 19, leds)
    out.plain("FACE", "float", 4, faces)
    out.plain("FACE_PLACE", "int16_t", 2, places)
    return len(rows), len(leds), most


def _turned(figure: Figure, grip: Grip) -> tuple[bool, bool]:
    """Whether its way is the other way round, and whether what it is driven by springs back."""
    if isinstance(grip, Follows) and figure.behaviour is not None:
        return grip.turned, figure.behaviour.input(grip.input).springs
    if isinstance(grip, Keyed):
        return grip.turned, False
    if isinstance(grip, PushPull):
        return sign_of(figure, grip) < 0, False
    return isinstance(grip, Wheels) and grip.mirrored, False


def _face(figure: Figure, pose_id: str, ribbons: tuple[str, ...], most: int) -> list[int]:
    """Where a pose has each ribbon of a grip, and room up to the most of any."""
    found = (figure.pose(pose_id).place_of(figure.ribbons[ident]) for ident in ribbons)
    out = [NONE if place is None else round(place * 100) for place in found]
    return out + [NONE] * (most - len(out))
