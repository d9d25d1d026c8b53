"""A behaviour lived as it is judged: for a while with visitors, then every state by itself, sticks from end to end; what it did as a score.

Forty seconds, two visitors, five seconds a state: a sample. What other visitors and other chances make it do may ask for more.
"""

from __future__ import annotations

from collections.abc import Mapping

from karakuri.behaviour.engine import Engine
from karakuri.behaviour.visitors import Visitors
from karakuri.model.behaviour import HANDED
from karakuri.model.channel import Channel, MovedChannel, Play, SoundChannel
from karakuri.model.figure import Figure
from karakuri.model.ids import new_id
from karakuri.model.loudness import Loudness
from karakuri.model.moves import moves_of
from karakuri.model.score import Score
from karakuri.motion.voice.following import KeepsUp

VISITED_S, VISITORS, STATE_S, STATES_S, SWEEP_S, REST_S = 40.0, 2, 5.0, 100.0, 1.0, 0.5
MOST_SAID, SWEEPS = 2000, (100.0, 0.0, 100.0, 50.0)
NAME = "What it does by itself"


def drill(figure: Figure, heard: Mapping[str, Loudness] | None = None, can: Mapping[str, KeepsUp] | None = None) -> Score:  # fmt: skip
    """What it did, as a score that begins and ends at park; `heard` by digest and `can` by ribbon as makers of moves are given them. Raises ValueError where there is no state to begin in."""
    behaviour = figure.behaviour
    if behaviour is None or not behaviour.states:
        raise ValueError("there is no state to begin in")
    visitors = Visitors(behaviour, behaviour.seed, VISITORS)
    engine = Engine(figure, visitors.at, records=True, heard=heard, can=can)
    engine.run(VISITED_S)
    sticks = [each.id for each in behaviour.inputs if each.kind in HANDED]
    held_by = figure.steering.held_by if figure.steering is not None else None
    for state in behaviour.states:
        if held_by is not None:
            engine.hold(held_by, 100.0)
        engine.enter(state.id)
        if sticks and any(deed.kind == "steered" for deed in state.plays):
            for level in SWEEPS:
                for stick in sticks:
                    engine.hold(stick, level)
                engine.run(SWEEP_S)
            sticks = []  # a hand does the same wherever it may
        engine.run(min(STATE_S, STATES_S / len(behaviour.states)))
    return _score(figure, engine, _home(engine))


def _home(engine: Engine) -> float:
    """All ribbons to park from wherever they are; when they are there, s."""
    now, ends = engine.now, engine.now
    engine.stage.hush(now)
    for ident, ribbon in engine.stage.ribbons.items():
        ribbon.cut(now)
        when, place = ribbon.ready(now)
        takes = engine.stage.pace(ident, ribbon.channel.park - place)
        if takes > 0.0:
            ribbon.add(when, takes, ribbon.channel.park)
        ends = max(ends, when + takes)
    return round(ends + REST_S, 2)


def _score(figure: Figure, engine: Engine, ends: float) -> Score:
    """What all ribbons did up to then, and what was said."""
    channels, taken = list[Channel](), set[str]()
    for ident, ribbon in engine.stage.ribbons.items():
        made: MovedChannel = figure.ribbons[ident]
        if taken & set(made.joints):
            continue  # another score's ribbon of the same joint: a score has one
        taken |= set(made.joints)
        channels.append(type(made)(**(dict(made) | {"moves": moves_of(ribbon.lived(ends))})))
    voice = next((voice for score in figure.scores for voice in score.voices), None)
    if voice is not None:
        plays = tuple(
            Play(id=f"said{k}", sound=sound, at_s=round(at, 4))
            for k, (at, sound) in enumerate(engine.stage.sounded[:MOST_SAID])
        )
        channels.append(SoundChannel(**(dict(voice) | {"plays": plays})))
    return Score(id=new_id(figure, "lived"), name=NAME, length_s=ends, loops=True, channels=tuple(channels))
