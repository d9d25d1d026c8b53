"""Meshes from files: against the solids and shells of textbooks, whichever way turned and written; hostile ones end in a sentence."""

import math

import numpy as np
import pytest
import trimesh
from hypothesis import given, settings
from hypothesis import strategies as st

from karakuri.bodies.inertia import area_m2, centre_mm, part_inertia, part_mass_kg, unit_inertia, volume_m3
from karakuri.bodies.outline import outline
from karakuri.bodies.shapes import kind_of, reshaped
from karakuri.bodies.tree import build_tree
from karakuri.course import Course, GivenUp
from karakuri.errors import FileTrouble
from karakuri.exchange.meshes import guessed_unit_mm, open_edges, read_mesh, shape_of, told_of, with_mesh
from karakuri.files.text import from_text, to_text
from karakuri.model.edit import apply
from karakuri.model.figure import Figure
from karakuri.model.part import Box, Cylinder, Material, Mesh, Part, Sphere
from karakuri.model.room import Room
from karakuri.model.sides import twin_part
from karakuri.sizing.scaled import scaled
from karakuri.study.study import study

PLA = Material(id="pla", name="PLA", density_kgm3=1240.0)


def box(*size):
    return trimesh.creation.box(extents=size)


def as_mesh(body, **more) -> Mesh:
    shape = shape_of(np.asarray(body.vertices), np.asarray(body.faces), "x.stl")
    return Mesh(**(dict(shape) | more))


@pytest.mark.parametrize("suffix", ["stl", "obj", "ply", "3mf"])
def test_a_box_of_a_file_is_the_box_of_a_textbook(suffix, tmp_path):
    path = tmp_path / f"b.{suffix}"
    body = box(100.0, 80.0, 60.0)
    body.apply_translation((500.0, -40.0, 7.0))
    body.export(path)
    shape, holes = read_mesh(path)
    assert (shape.closed, holes, shape.unit_mm, shape.triangles) == (True, 0, 1.0, 12)
    solid, shell = Box(size_mm=(100.0, 80.0, 60.0)), Box(size_mm=(100.0, 80.0, 60.0), wall_mm=1.2)
    assert volume_m3(shape) == pytest.approx(volume_m3(solid), rel=1e-6) and area_m2(shape) == pytest.approx(
        area_m2(solid), rel=1e-6
    )
    assert unit_inertia(shape) == pytest.approx(unit_inertia(solid), rel=1e-6)
    hollow = Mesh(**(dict(shape) | {"wall_mm": 1.2}))
    assert unit_inertia(hollow) == pytest.approx(unit_inertia(shell), rel=1e-6)
    printed = Part(id="p", name="p", material="pla", shape=Mesh(**(dict(hollow) | {"infill": 0.15})))
    assert part_mass_kg(printed, {"pla": PLA})[0] == pytest.approx(0.1368, abs=5e-5)  # the handbook's printed box
    look = outline(Part(id="p", name="p", shape=shape), np.eye(3), np.eye(3)[[0, 2]])
    assert np.ptp(look, axis=0) == pytest.approx((0.1, 0.06), rel=1e-5)


@settings(max_examples=15, deadline=None)
@given(st.integers(0, 10_000), st.tuples(*[st.floats(10.0, 120.0)] * 3))
def test_turned_in_the_file_or_turned_as_a_part_is_the_same(seed, size):
    """A slanted box in the file, against a box that the part turns: mass, centre and the whole tensor."""
    turned = trimesh.transformations.random_rotation_matrix(np.random.default_rng(seed).random(3))
    body = box(*size)
    body.apply_transform(turned)
    own = part_inertia(Part(id="p", name="p", shape=as_mesh(body)), 1.0)
    straight = np.diag(unit_inertia(Box(size_mm=size)))
    assert own == pytest.approx(turned[:3, :3] @ straight @ turned[:3, :3].T, rel=1e-6, abs=1e-12)


def test_what_is_heavier_at_one_end_hangs_from_its_own_centre():
    """A cone's centre lies a quarter up, its shell's a third of the way (any dynamics text); the tree takes it from there."""
    cone = trimesh.creation.cone(radius=60.0, height=150.0, sections=720)
    shape = as_mesh(cone)
    part = Part(id="p", name="p", shape=shape, at_mm=(10.0, 0.0, 75.0), turned_deg=(0.0, 0.0, 0.0), mass_g=300.0)
    assert centre_mm(part) == pytest.approx((10.0, 0.0, 37.5), abs=0.02)
    upside = Part(**(dict(part) | {"turned_deg": (180.0, 0.0, 0.0)}))
    assert centre_mm(upside)[2] == pytest.approx(112.5, abs=0.02)
    assert build_tree(Figure(parts=(part,))).com[-1] == pytest.approx((0.01, 0.0, 0.0375), abs=2e-5)
    m, r, h = 1.0, 0.06, 0.15
    assert unit_inertia(shape)[2] == pytest.approx(0.3 * m * r * r, rel=1e-3)
    assert unit_inertia(shape)[0] == pytest.approx(3 / 80 * m * (4 * r * r + h * h), rel=1e-3)


def test_balls_drums_and_their_shells():
    ball = as_mesh(trimesh.creation.icosphere(subdivisions=5, radius=90.0))
    assert unit_inertia(ball) == pytest.approx(unit_inertia(Sphere(radius_mm=90.0)), rel=2e-3)
    hollow = Mesh(**(dict(ball) | {"wall_mm": 1.0}))
    assert unit_inertia(hollow) == pytest.approx(unit_inertia(Sphere(radius_mm=90.0, wall_mm=1.0)), rel=2e-3)
    drum = trimesh.creation.cylinder(radius=70.0, height=200.0, sections=360)
    want = unit_inertia(Cylinder(radius_mm=70.0, height_mm=200.0, wall_mm=1.0))
    assert unit_inertia(as_mesh(drum, wall_mm=1.0)) == pytest.approx(want, rel=2e-3)
    assert kind_of(ball).far(ball) == pytest.approx(0.09, rel=2e-3)


def test_units_scale_and_the_file_of_the_figure(tmp_path):
    for size, unit in (((0.2, 0.1, 0.1), 1000.0), ((200.0, 100.0, 100.0), 1.0), ((4.0, 3.0, 2.0), 25.4)):
        assert guessed_unit_mm(size) == unit
    shape = as_mesh(box(4.0, 3.0, 2.0), unit_mm=25.4)
    assert volume_m3(shape) == pytest.approx(24 * 0.0254**3)
    figure = Figure(parts=(Part(id="p", name="p", shape=shape, mass_g=500.0),))
    assert from_text(to_text(figure)) == figure
    large = apply(figure, scaled(figure, 150.0)).parts[0]
    assert large.shape.unit_mm == pytest.approx(38.1) and large.mass_g == pytest.approx(500.0 * 1.5**3, rel=1e-4)
    assert reshaped(figure.parts[0], "mesh")["unit_mm"] == 25.4 and reshaped(figure.parts[0], "box")[
        "size_mm"
    ] == pytest.approx((101.6, 76.2, 50.8))
    taken = apply(figure, with_mesh(figure, "p", as_mesh(box(1.0, 2.0, 3.0)), "head.stl"))
    assert taken.parts[0].shape.file == "head.stl"


def test_one_with_holes_is_a_shell_and_says_so(tmp_path):
    body = box(100.0, 80.0, 60.0)
    open_ = trimesh.Trimesh(body.vertices, body.faces[:-2], process=False)
    open_.export(tmp_path / "o.stl")
    shape, holes = read_mesh(tmp_path / "o.stl")
    assert not shape.closed and shape.wall_mm == 2.0 and holes == 4 and open_edges(np.asarray(body.faces)) == 0
    assert "holes" in told_of(shape, holes) and "4 open edges" in told_of(shape, holes)
    with pytest.raises(ValueError, match="no inside"):
        Mesh(**(dict(shape) | {"wall_mm": 0.0}))
    inside_out = trimesh.Trimesh(body.vertices, body.faces[:, ::-1], process=False)
    assert unit_inertia(as_mesh(inside_out)) == pytest.approx(unit_inertia(as_mesh(body)))


@pytest.mark.parametrize(
    ("name", "data"),
    [
        ("a.stl", b""), ("a.stl", b"solid x\nendsolid x\n"), ("a.stl", b"\x00" * 90), ("a.obj", b"v 1 2\nf 1 2 3\n"), ("a.ply", b"ply\nformat ascii 1.0\n"),
        ("a.3mf", b"PK\x03\x04rubbish"), ("a.obj", b"v nan 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 3\n"), ("a.obj", b"v 0 0 0\nv 0 0 0\nv 0 0 0\nf 1 2 3\n"),
        ("a.obj", b"v 1e300 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 3\n"), ("a.obj", b"v 0 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 9\n"), ("a.txt", b"hello"), ("a.stl", bytes(range(256)) * 9),
    ],
)  # fmt: skip
def test_hostile_meshes_end_in_a_sentence(tmp_path, name, data):
    path = tmp_path / name
    path.write_bytes(data)
    with pytest.raises(FileTrouble) as trouble:
        read_mesh(path)
    assert name in str(trouble.value) and "Nothing was changed" in str(trouble.value)


def test_a_mesh_that_is_gone_and_one_that_is_given_up(tmp_path):
    with pytest.raises(FileTrouble, match="cannot be read"):
        read_mesh(tmp_path / "gone.stl")
    box(1.0, 1.0, 1.0).export(tmp_path / "b.stl")
    with pytest.raises(GivenUp):
        read_mesh(tmp_path / "b.stl", Course(lambda: True))


@settings(max_examples=25, deadline=None)
@given(st.binary(min_size=1, max_size=400), st.sampled_from(["stl", "obj", "ply", "3mf"]))
def test_no_bytes_at_all_end_the_program(data, suffix):
    import tempfile
    from pathlib import Path

    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / f"x.{suffix}"
        path.write_bytes(data)
        try:
            shape, _ = read_mesh(path)
            assert math.isfinite(shape.area)
        except FileTrouble:
            pass


def bumpy(seed: int) -> trimesh.Trimesh:
    """A ball with a few bumps and dents, drawn out and turned."""
    rng = np.random.default_rng(seed)
    ball = trimesh.creation.icosphere(subdivisions=4, radius=1.0)
    ways = np.asarray(ball.vertices)
    far = np.full(len(ways), 80.0)
    for _ in range(int(rng.integers(1, 5))):
        at = rng.normal(size=3)
        at /= np.linalg.norm(at)
        far += rng.uniform(-30, 40) * np.exp(-((ways - at) ** 2).sum(axis=1) / rng.uniform(0.02, 0.3))
    stretched = ways * np.maximum(far, 25.0)[:, None] * rng.uniform(0.7, 1.3, 3) + rng.uniform(-50, 50, 3)
    return trimesh.Trimesh(stretched, ball.faces, process=False)


@settings(max_examples=25)
@given(st.integers(0, 10_000))
def test_what_is_free_inside_a_mesh_is_never_told_too_large(seed):
    body = bumpy(seed)
    shape = shape_of(np.asarray(body.vertices), np.asarray(body.faces), "b.stl")
    sides = np.array(shape.inner)
    if not len(sides):
        return
    rng = np.random.default_rng(seed)
    middle = np.asarray(body.bounds).mean(axis=0)
    spots = rng.uniform(-1, 1, (400, 3)) * np.array(shape.size) / 2
    left = (sides[:, 3] - spots @ sides[:, :3].T).min(axis=1)
    spots, left = spots[left > 0], left[left > 0]
    if len(spots):
        _, away, _ = trimesh.proximity.closest_point_naive(body, spots + middle)
        assert (away >= left - 1e-6).all()


def test_what_is_free_inside_a_ball_is_nearly_all_of_it_and_of_a_box_its_six_sides():
    ball = trimesh.creation.icosphere(subdivisions=5, radius=80)
    free = np.array(shape_of(np.asarray(ball.vertices), np.asarray(ball.faces), "b.stl").inner)
    assert free[:, 3].min() > 0.93 * 80 and free[:, 3].max() < 80
    box = trimesh.creation.box((100, 80, 60))
    sides = np.array(shape_of(np.asarray(box.vertices), np.asarray(box.faces), "b.stl").inner)
    assert (sides[:, 3] > 27).all() and sides[:, 3].max() < 62


def shelled(wall: float, size: float) -> Figure:
    body = trimesh.creation.icosphere(subdivisions=4, radius=80)
    shape = shape_of(np.asarray(body.vertices), np.asarray(body.faces), "b.stl")
    skull = Part(id="skull", name="skull", shape=Mesh(**(dict(shape) | {"wall_mm": wall})), mass_g=200.0)
    battery = Part(id="cell", name="battery", shape=Box(size_mm=(size, 30.0, 30.0)), mass_g=90.0)
    return Figure(parts=(skull, battery), room=Room())


def test_what_lies_in_a_mesh_with_a_wall_is_judged_where_it_surely_fits_and_not_said_to_fail():
    assert {f.verdict for f in study(shelled(3.0, 80.0)).findings if f.rule == "room"} == {"holds"}
    for size in (138.0, 148.0):
        close = [f for f in study(shelled(3.0, size)).findings if f.rule == "room"]
        assert (
            not any(f.verdict == "fails" for f in close)
            and any(f.verdict == "not yet judged" for f in close)
            and any("surely free" in f.sentence.text for f in close)
        )
    assert {f.verdict for f in study(shelled(0.0, 80.0)).findings if f.rule == "room"} != {
        "holds"
    }  # solid: it is in the matter


def test_a_mesh_in_the_mirror_and_in_a_file_keeps_what_is_free():
    figure = shelled(3.0, 80.0)
    assert from_text(to_text(figure)) == figure
    twin = apply(figure, twin_part(figure, "skull")).parts[-1]
    ours, theirs = np.array(figure.parts[0].shape.inner), np.array(twin.shape.inner)
    assert np.allclose(theirs, ours * (1, -1, 1, 1))
