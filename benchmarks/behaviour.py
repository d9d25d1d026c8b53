"""A behaviour of 40 states with 4 walkers, run as fast as it goes, and ten hours of it: memory flat, no drift."""

from __future__ import annotations

import resource
import time
from collections.abc import Iterator

PROMISE = "40 states and 4 walkers at 200 times real time at least; 10 hours at speed with memory flat"


def forty():
    from karakuri.demo import owl_path
    from karakuri.files.disk import load
    from karakuri.model.behaviour import (
        After,
        Attends,
        Behaviour,
        Ended,
        Input,
        Lights,
        Lives,
        Parks,
        Performs,
        Poses,
        Pressed,
        Says,
        Start,
        State,
    )
    from karakuri.model.figure import Figure

    owl = load(owl_path())
    deeds = [
        (Lives(),),
        (Poses(pose="hoot"), Lights(channel="lamp", level=60.0)),
        (Says(sound="oh"), Attends()),
        (Performs(score="score"),),
        (Parks(),),
    ]
    states = tuple(
        State(id=f"s{k}", name=f"State {k}", plays=deeds[k % 5], stays_s=(2.0, 5.0), priority=k % 3) for k in range(40)
    )
    inputs = tuple(
        Input(id=f"m{k}", name=f"Motion {k}", kind="motion", heading_deg=-60.0 + 40.0 * k, wide_deg=50.0)
        for k in range(4)
    )
    starts = tuple(Start(id=f"e{k}", to=f"s{(k + 1) % 40}", on=Ended(), while_in=(f"s{k}",)) for k in range(40))
    starts += tuple(
        Start(id=f"p{k}", to=f"s{(7 * k) % 40}", on=Pressed(input=f"m{k % 4}"), cool_s=3.0, chance=0.5)
        for k in range(40)
    )
    starts += tuple(Start(id=f"a{k}", to=f"s{(11 * k) % 40}", on=After(between_s=(5.0, 20.0))) for k in range(20))
    return Figure(**(dict(owl) | {"behaviour": Behaviour(states=states, starts=starts, inputs=inputs)}))


def measure(smoke: bool) -> Iterator[str]:
    from karakuri.behaviour.engine import Engine
    from karakuri.behaviour.visitors import Visitors

    figure = forty()
    engine = Engine(figure, Visitors(figure.behaviour, 1, 4, 6.0).at)
    engine.run(5.0)
    seconds = 20.0 if smoke else 600.0
    begin = time.perf_counter()
    engine.run(seconds)
    took = time.perf_counter() - begin
    yield f"{seconds:.0f} s in {took:.2f} s: {seconds / took:.0f} times real time, {len(engine.entered)} states entered"
    hours = 0.01 if smoke else 10.0
    engine.run(hours * 360.0)
    first = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss
    engine.run(hours * 3240.0)
    last = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss
    wanted = 5.0 + seconds + hours * 3600.0
    yield f"{hours:g} hours: at most {first / 1024:.1f} MiB after a tenth of it, {last / 1024:.1f} MiB at its end, {engine.now - wanted:+.3f} s off"
