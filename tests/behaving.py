"""Figures that do something by themselves, and random ones, for tests of behaviour."""

import random

from karakuri.model.behaviour import (
    Above,
    After,
    Behaviour,
    Below,
    Cue,
    Ended,
    Guard,
    Input,
    Lives,
    Parks,
    Pressed,
    Released,
    Start,
    State,
    Stopped,
)
from karakuri.model.figure import Figure
from tests.core.test_life import being


def keeper(**more) -> Figure:
    """Asleep, wakes when somebody comes, looks about, and sleeps again; powers down by a switch."""
    states = (
        State(id="asleep", name="Asleep", plays=(Parks(),)),
        State(id="awake", name="Awake", plays=(Lives(),), stays_s=(4.0, 6.0)),
        State(id="down", name="Powers down", plays=(Parks(),), priority=5, stays_s=(10.0, 15.0)),
    )
    starts = (
        Start(id="comes", to="awake", on=Pressed(input="door"), while_in=("asleep",), cool_s=1.0),
        Start(id="tires", to="asleep", on=Ended(), while_in=("awake",)),
        Start(id="off", to="down", on=Pressed(input="switch")),
        Start(id="again", to="asleep", on=Ended(), while_in=("down",)),
    )
    inputs = (Input(id="door", name="Door", kind="motion"), Input(id="switch", name="Switch", kind="switch"))
    behaviour = Behaviour(states=states, starts=starts, inputs=inputs)
    return Figure(**(dict(being(does=("glances", "blinks"), waits_s=(0.5, 1.5))) | {"behaviour": behaviour} | more))


def random_behaviour(seed: int, states: int = 6) -> Behaviour:
    """Anything that may be written."""
    chance = random.Random(seed)
    inputs = tuple(Input(id=f"i{k}", name=f"Input {k}", kind=kind, heading_deg=chance.uniform(-90, 90)) for k, kind in enumerate(("button", "knob", "motion", "switch")))  # fmt: skip
    made = []
    for k in range(states):
        plays = tuple(chance.choice((Lives(), Parks(), Parks())) for _ in range(chance.randrange(2)))
        stays = (0.1, 1.0) if chance.random() < 0.5 else None
        made.append(State(id=f"s{k}", name=f"State {k}", plays=plays, stays_s=stays, priority=chance.randrange(3), deaf=chance.random() < 0.2))  # fmt: skip
    starts = []
    for k in range(states * 2):
        ident = f"i{chance.randrange(4)}"
        on = chance.choice((Pressed(input=ident), Released(input=ident), Above(input=ident, level=chance.choice((0.0, 30.0, 70.0))), Below(input=ident, level=chance.choice((0.0, 40.0))), Stopped(input=ident, still_s=0.3), After(between_s=(0.2, 1.0)), Ended(), Cue(cue=chance.choice(("a", "b")))))  # fmt: skip
        guards = tuple(Guard(input=f"i{chance.randrange(4)}", state=chance.choice(("on", "off", "above", "below")), level=chance.choice((20.0, 60.0))) for _ in range(chance.choice((0, 0, 0, 1, 2))))  # fmt: skip
        home = (
            tuple(f"s{n}" for n in sorted(chance.sample(range(states), chance.randrange(1, 3))))
            if chance.random() < 0.7
            else ()
        )
        starts.append(Start(id=f"t{k}", to=f"s{chance.randrange(states)}", on=on, while_in=home, only=guards, chance=chance.choice((0.0, 0.5, 1.0, 1.0)), cool_s=chance.choice((0.0, 0.0, 0.5))))  # fmt: skip
    return Behaviour(states=tuple(made), starts=tuple(starts), inputs=inputs, seed=seed)
