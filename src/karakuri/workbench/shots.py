"""Makes the pictures for docs: one PNG of each main view, from the demo, at 1280 × 800."""

from __future__ import annotations

import sys
import tempfile
from pathlib import Path

from karakuri.demo import owl_path
from karakuri.session.session import Session
from karakuri.workbench.start import application
from karakuri.workbench.window import Window

VIEWS = (
    ("figure", "figure", ("part", "face_disc"), 1.0),
    ("drive", "drive", ("joint", "neck_tilt"), 1.0),
    ("balance", "balance", ("joint", "neck_tilt"), 1.0),
    ("limits", "limits", ("joint", "neck_tilt"), 1.0),
    ("new", "start", ("figure", ""), 1.0),
    ("figure-150", "figure", ("part", "face_disc"), 1.5),
)


def main(folder: Path) -> int:
    """Write the pictures into a folder."""
    import os

    app = application([])
    folder.mkdir(parents=True, exist_ok=True)
    with tempfile.TemporaryDirectory() as state:
        os.environ["XDG_STATE_HOME"] = state
        window = Window(Session.from_template(owl_path()), in_place=True)
        window.show()
        for name, bench, subject, scale in VIEWS:
            window.desk.set_scale(scale)
            window.desk.select(*subject)
            window.desk.turn_to(bench)
            if bench == "balance":
                worst = window.desk.study.results.of("neck_tilt").hold.worst
                window.desk.set_whole_pose(
                    dict(zip(window.desk.study.results.tree.ids, map(float, worst.pose), strict=True))
                )
            for _ in range(6):
                app.processEvents()
            window.grab().save(str(folder / f"{name}.png"))
        window.desk.close()
    return 0


if __name__ == "__main__":
    sys.exit(main(Path(sys.argv[1])))
