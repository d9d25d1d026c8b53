"""What a start opens: the figure named, the demo, or the last one."""

from __future__ import annotations

from pathlib import Path

from karakuri.demo import DEMOS, demo_path
from karakuri.errors import Trouble
from karakuri.session.places import last_figures
from karakuri.session.session import Session


def opened(arguments: list[str]) -> tuple[Session | None, str]:
    """The session, None where there is nothing to open, and what went wrong, or nothing. `--demo` opens the owl, `--demo walrus` the
    walrus."""
    names = [argument for argument in arguments if not argument.startswith("--")]
    try:
        if "--demo" in arguments:
            asked = names[0] if names and names[0] in DEMOS else "owl"
            return Session.from_template(demo_path(asked)), ""
        if names:
            return Session.open(Path(names[0])), ""
        if last_figures():
            return Session.open(last_figures()[0]), ""
    except Trouble as trouble:
        return None, str(trouble)
    return None, ""
