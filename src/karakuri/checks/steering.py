"""What a hand drives and nobody stops: motors without a dead man's switch, wheels on ribbons whose place is kept when all else is stopped."""

from __future__ import annotations

from collections.abc import Iterable

from karakuri.checks.contract import Results
from karakuri.model.finding import Finding, Proposal, Sentence, finding_id
from karakuri.model.ref import Ref
from karakuri.model.steering import Wheels
from karakuri.model.steering_edits import add_dead_man


def find(results: Results) -> Iterable[Finding]:
    figure, steering = results.figure, results.figure.steering
    if steering is None or figure.behaviour is None:
        return
    ribbons = figure.ribbons
    for grip in steering.grips:
        jointed = [ribbons[c].name for c in grip.channels if not ribbons[c].runs]
        if isinstance(grip, Wheels) and jointed:
            text = f"{grip.name}: {' and '.join(jointed)} {'is a ribbon of joints' if len(jointed) == 1 else 'are ribbons of joints'}. Stop and Esc leave such a one where it stands, and so a wheel on it running: take motors that run."
            yield Finding(finding_id("steering", grip.id, "kept"), "steering", Ref("grip", grip.id), "tight", Sentence(text), measure=Sentence("runs on after Stop"))  # fmt: skip
    running = [grip for grip in steering.grips if any(ribbons[c].runs for c in grip.channels)]
    if not running:
        return
    names = " and ".join(ribbons[c].name for grip in running for c in grip.channels if ribbons[c].runs)
    one = sum(ribbons[c].runs for grip in running for c in grip.channels) == 1
    if steering.held_by is None:
        text = f"{names} {'runs' if one else 'run'} by hand with no dead man's switch: a knob left turned, or a stick that sticks, and nobody stops {'it' if one else 'them'}."
        yield Finding(finding_id("steering", "dead_man"), "steering", Ref("grip", running[0].id), "tight", Sentence(text), measure=Sentence("no dead man's switch"))  # fmt: skip
        return
    held = figure.behaviour.input(steering.held_by)
    if held.kind != "button":
        text = f"{names} {'runs' if one else 'run'} by hand while {held.name} is on, and that is no button: let go, it may stay on. A dead man's switch springs back."
        yield Finding(finding_id("steering", "dead_man"), "steering", Ref("grip", running[0].id), "tight", Sentence(text), measure=Sentence("may stay on"))  # fmt: skip
        return
    text = f"{names} {'runs' if one else 'run'} by hand only while {held.name} is held."
    yield Finding(finding_id("steering", "dead_man"), "steering", Ref("grip", running[0].id), "holds", Sentence(text), measure=Sentence("only while it is held"))  # fmt: skip


def propose(finding: Finding, results: Results) -> Iterable[Proposal]:
    if finding.id == finding_id("steering", "dead_man") and finding.verdict != "holds":
        yield Proposal(add_dead_man(results.figure), Sentence("A dead man's switch"), "dead man")
