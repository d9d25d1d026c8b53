"""Joints the rules do not judge yet, each by name: those that slide, follow another or hang free; and an empty figure."""

from __future__ import annotations

from collections.abc import Iterable

from karakuri.checks.contract import Results
from karakuri.model.finding import Finding, Sentence

_WHY = {"slide": "it slides", "follows": "it follows another joint", "free": "it hangs free"}


def find(results: Results) -> Iterable[Finding]:
    for joint in results.figure.joints:
        why = "slide" if joint.kind == "slide" else joint.role
        if why in _WHY:
            yield Finding(
                f"unjudged.{joint.id}",
                "unjudged",
                joint.id,
                "figure",
                "not yet judged",
                Sentence(
                    f"{joint.name} is not judged yet: {_WHY[why]}; driven joints that turn are. What it carries is counted."
                ),
                measure=Sentence(_WHY[why]),
            )
