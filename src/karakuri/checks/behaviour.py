"""What a behaviour can never do: states that are never reached, ends it never leaves, triggers that can't fire."""

from __future__ import annotations

from collections.abc import Iterable

from karakuri.behaviour.reach import examine
from karakuri.checks.contract import Results
from karakuri.model.finding import Finding, Sentence, finding_id
from karakuri.model.ref import Ref


def find(results: Results) -> Iterable[Finding]:
    behaviour = results.figure.behaviour
    if behaviour is None or not behaviour.states:
        return
    found = examine(behaviour)
    for state in found.unreached:
        text = f"“{state.name}” is never reached: no start that can fire leads there."
        yield Finding(finding_id("behaviour", state.id, "unreached"), "behaviour", Ref("state", state.id), "tight", Sentence(text), measure=Sentence("never reached"))  # fmt: skip
    for state in found.dead_ends:
        text = f"Nothing leads on from “{state.name}”: once there it stays until it is switched off."
        yield Finding(finding_id("behaviour", state.id, "end"), "behaviour", Ref("state", state.id), "tight", Sentence(text), measure=Sentence("no way on"))  # fmt: skip
    for start, why in found.silent:
        text = f"“{behaviour.state(start.to).name}” is never started so: {why}."
        yield Finding(finding_id("behaviour", start.id, "silent"), "behaviour", Ref("start", start.id), "tight", Sentence(text), measure=Sentence("cannot fire"))  # fmt: skip
    if not (found.unreached or found.dead_ends or found.silent):
        text = f"Every one of its {len(behaviour.states)} states can be reached, and left again."
        yield Finding(finding_id("behaviour"), "behaviour", Ref("behaviour"), "holds", Sentence(text), measure=Sentence("all can be reached"))  # fmt: skip
