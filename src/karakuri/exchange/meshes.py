"""Meshes of other programs, STL, OBJ, PLY and 3MF, read by trimesh: how much there is of them, how they turn, what they look like from afar.

Volume and inertia by the divergence theorem (trimesh's own); of the surface alone each triangle by its own second moments (any text on finite
elements). Corners for outlines: the outermost along many directions, evenly spread.
"""

from __future__ import annotations

import io
import math
import struct
import zipfile
from pathlib import Path
from typing import Any

import numpy as np

from karakuri.bodies.inertia import Array
from karakuri.course import ALONE, Course
from karakuri.errors import Fault, FileTrouble
from karakuri.exchange.hollows import SIDES, hollow
from karakuri.model.edit import Edit, Set
from karakuri.model.figure import Figure
from karakuri.model.part import MESH_UNITS, Mesh
from karakuri.units import digits

SUFFIXES = (".stl", ".obj", ".ply", ".3mf")
LARGEST_BYTES, MOST_TRIANGLES = 500_000_000, 5_000_000
LOOKS, WALL_MM = 240, 2.0
_FAULTS = (ValueError, TypeError, KeyError, IndexError, AttributeError, OSError, EOFError, struct.error, zipfile.BadZipFile, MemoryError, ArithmeticError, ImportError)  # fmt: skip


def read_mesh(path: Path, course: Course = ALONE) -> tuple[Mesh, int]:
    """A file as a shape, in the unit it most likely has, and how many open edges it has; one with holes is a shell of WALL_MM mm. Raises FileTrouble,
    GivenUp."""
    suffix = path.suffix.lower()
    if suffix not in SUFFIXES:
        raise _refused(path, "a mesh: " + ", ".join(SUFFIXES), suffix or "no ending")
    try:
        size = path.stat().st_size
        data = path.read_bytes() if size <= LARGEST_BYTES else b""
    except OSError as trouble:
        raise FileTrouble(
            f"{path.name} cannot be read: {trouble.strerror or trouble}.", (), "Nothing was changed."
        ) from trouble
    if not 0 < size <= LARGEST_BYTES:
        raise _refused(path, f"1 to {LARGEST_BYTES // 1_000_000} MB", f"{size / 1e6:.1f} MB")
    course.at("reading its triangles", 0.1)
    vertices, faces = _triangles(path, data, suffix)
    course.at("weighing them", 0.7)
    shape = shape_of(vertices, faces, path.name, merged=True)
    course.at("looking for holes", 0.95)
    return Mesh(**(dict(shape) | {"unit_mm": guessed_unit_mm(shape.size)})), 0 if shape.closed else open_edges(faces)


def _triangles(path: Path, data: bytes, suffix: str) -> tuple[Array, Any]:
    import trimesh

    if suffix == ".3mf":
        try:
            with zipfile.ZipFile(io.BytesIO(data)) as packed:
                if sum(each.file_size for each in packed.infolist()) > 2 * LARGEST_BYTES:
                    raise _refused(path, f"at most {2 * LARGEST_BYTES // 1_000_000} MB unpacked", "more")
        except _FAULTS as trouble:
            raise _refused(path, "a 3MF file", "something else") from trouble
    try:
        with np.errstate(all="ignore"):
            found: Any = trimesh.load_mesh(io.BytesIO(data), file_type=suffix[1:])
        vertices, faces = np.asarray(found.vertices, dtype=float), np.asarray(found.faces)
    except _FAULTS as trouble:
        raise _refused(
            path, f"a mesh as {suffix[1:].upper()} has it", f"something that cannot be read ({trouble})"[:120]
        ) from trouble
    return vertices, faces


def shape_of(vertices: Array, faces: Any, name: str, merged: bool = False) -> Mesh:
    """A shape from vertices (n, 3), mm or any other unit, and triangles (m, 3) of them; `merged`: each corner is there once. Raises FileTrouble."""
    import trimesh

    path = Path(name)
    if len(faces) == 0:
        raise _refused(path, "triangles", "none")
    if len(faces) > MOST_TRIANGLES:
        raise _refused(path, f"at most {MOST_TRIANGLES:,} triangles", f"{len(faces):,}")
    used = vertices[np.unique(faces)]
    if not np.isfinite(used).all():
        raise _refused(path, "numbers for all corners", "some that are none")
    low, high = used.min(axis=0), used.max(axis=0)
    if float((high - low).max()) <= 0 or float(np.abs(used).max()) > 1e8:
        raise _refused(path, "a size", "a point, or numbers beyond all measure")
    middle = (low + high) / 2
    body: Any = trimesh.Trimesh(vertices - middle, faces, process=not merged)
    corners = np.asarray(body.triangles, dtype=float)
    areas = np.asarray(body.area_faces, dtype=float)
    area = float(areas.sum())
    if area <= 0:
        raise _refused(path, "triangles with a surface", "none")
    closed = bool(body.is_watertight) and abs(float(body.volume)) > 1e-12 * area**1.5
    shell_at, shell_turns = _surface(corners, areas)
    solid_at, solid_turns, volume = shell_at, shell_turns, 0.0
    if closed:
        told = body.mass_properties
        way = 1.0 if told.volume > 0 else -1.0  # turned inside out
        volume = abs(float(told.volume))
        tensor = way * np.asarray(told.inertia, dtype=float) / volume / float(told.density)
        solid_at, solid_turns = _three(np.asarray(told.center_mass, dtype=float)), _six(tensor)
        closed = bool(np.isfinite(tensor).all()) and min(solid_turns[:3]) > 0
    wide = np.maximum(high - low, 1e-9 * float((high - low).max()))
    inner = next(filter(None, (hollow(corners, np.array(at), looks(SIDES)) for at in (solid_at, (0.0, 0.0, 0.0)))), ())
    return Mesh(
        inner=inner, file=name[:500], closed=closed, size=_three(wide), volume=volume, area=area, solid_at=solid_at, solid_turns=solid_turns,
        shell_at=shell_at, shell_turns=shell_turns, hull=_outermost(used - middle), triangles=len(faces), wall_mm=0.0 if closed else WALL_MM,
    )  # fmt: skip


def open_edges(faces: Any) -> int:
    """How many edges (m, 3) triangles have that belong to one of them alone: the rims of holes, in number."""
    edges = np.sort(np.concatenate([faces[:, [0, 1]], faces[:, [1, 2]], faces[:, [2, 0]]]), axis=1)
    _, counts = np.unique(edges, axis=0, return_counts=True)
    return int((counts == 1).sum())


def _surface(
    corners: Array, areas: Array
) -> tuple[tuple[float, float, float], tuple[float, float, float, float, float, float]]:
    """Centre, and inertia tensor for each unit of mass about it, of triangles (m, 3, 3) as thin sheets: each third at the middles of its sides, which
    is exact for second moments."""
    middles = (corners + np.roll(corners, 1, axis=1)) / 2
    weights = np.repeat(areas / (3 * areas.sum()), 3)
    points = middles.reshape(-1, 3)
    centre = weights @ points
    off = points - centre
    second = (off * weights[:, None]).T @ off
    return _three(centre), _six(np.trace(second) * np.eye(3) - second)


def _six(tensor: Array) -> tuple[float, float, float, float, float, float]:
    return tuple(float(tensor[i, j]) for i, j in ((0, 0), (1, 1), (2, 2), (0, 1), (0, 2), (1, 2)))  # type: ignore[return-value]


def _three(values: Array) -> tuple[float, float, float]:
    x, y, z = (float(v) for v in values)
    return x, y, z


def looks(count: int) -> Array:
    """So many ways (n, 3), unit, evenly spread (a Fibonacci sphere)."""
    k = np.arange(count) + 0.5
    up, around = 1 - 2 * k / count, math.pi * (1 + math.sqrt(5)) * k
    level = np.sqrt(1 - up * up)
    return np.stack([level * np.cos(around), level * np.sin(around), up], axis=1)


def _outermost(points: Array) -> tuple[tuple[float, float, float], ...]:
    """The outermost of points (n, 3) along LOOKS directions (a Fibonacci sphere)."""
    each = looks(LOOKS).T
    best, most = np.zeros(LOOKS, dtype=np.int64), np.full(LOOKS, -np.inf)
    for begin in range(0, len(points), 50_000):
        reach = points[begin : begin + 50_000] @ each
        at = reach.argmax(axis=0)
        top = reach[at, np.arange(LOOKS)]
        best, most = np.where(top > most, begin + at, best), np.maximum(top, most)
    return tuple(_three(np.round(points[i], 6)) for i in sorted(set(best.tolist())))


def guessed_unit_mm(size: tuple[float, float, float]) -> float:
    """How long one unit of a file most likely is, mm, by how large what it holds is: parts are 5 mm to 2 m large. Common practice, no source."""
    most = max(size)
    return next((unit for unit in (1.0, 1000.0, 25.4, 10.0) if 5.0 <= most * unit <= 2000.0), 1.0)


def with_mesh(figure: Figure, part_id: str, shape: Mesh, file: str) -> Edit:
    """A part with that shape, from a file beside the figure or anywhere; wall and filling as the part had them, where it may."""
    part = figure.part(part_id)
    kept = {name: getattr(part.shape, name) for name in ("wall_mm", "infill") if getattr(part.shape, name, 0.0)}
    return Edit(
        f"shape of {part.name}",
        (Set(("parts", part_id, "shape"), Mesh(**(dict(shape) | {"file": file[:500]} | kept))),),
    )


def told_of(shape: Mesh, holes: int) -> str:
    """What was read, for the person at the bench: how large it is in mm, and where it is open."""
    x, y, z = (digits(shape.unit_mm * side, 0) for side in shape.size)
    words = f"{digits(shape.triangles, 0)} triangles, {x} × {y} × {z} mm if one unit of the file is {dict(MESH_UNITS)[shape.unit_mm]}; say otherwise on the card."
    if shape.closed:
        return words
    return f"{words} It has holes, {digits(holes, 0)} open edges: it counts as a shell of {WALL_MM:g} mm; mend it where it was made to weigh what is inside."


def _refused(path: Path, expected: str, got: str) -> FileTrouble:
    return FileTrouble(f"{path.name} was not taken.", (Fault(path.name, expected, got),), "Nothing was changed. Write it anew as STL, closed, in millimetres.")  # fmt: skip
