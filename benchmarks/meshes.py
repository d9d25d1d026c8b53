"""A mesh of about a million triangles from its file to mass and inertia, against trimesh alone in the same process."""

from __future__ import annotations

import statistics
import tempfile
from collections.abc import Iterator
from pathlib import Path

from benchmarks.timing import timed

PROMISE = "a mesh of a million triangles within twice the time of trimesh alone"


def measure(smoke: bool) -> Iterator[str]:
    import trimesh

    from karakuri.exchange.meshes import read_mesh

    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "ball.stl"
        trimesh.creation.icosphere(subdivisions=4 if smoke else 8, radius=90.0).export(path)

        def alone() -> None:
            body = trimesh.load_mesh(path)
            assert body.is_watertight and body.mass_properties.volume > 0

        read_mesh(path)
        pairs = [(timed(alone), timed(lambda: read_mesh(path))) for _ in range(1 if smoke else 3)]
        ratio = statistics.median(ours / theirs for theirs, ours in pairs)
        yield f"{20 * 4 ** (4 if smoke else 8):,} triangles: {statistics.median(o for _, o in pairs):.2f} s, {ratio:.2f} times trimesh alone"
