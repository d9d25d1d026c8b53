"""What holds something on: by hand for a weight straight under and beside its face, against random bumps, and as laws."""

import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from karakuri.bodies.elements.magnets import BR_TESLA, pull_of_pair
from karakuri.bodies.tree import build_tree
from karakuri.checks.fastenings import GAPS_MM, gap_for, propose
from karakuri.demo import walrus_path
from karakuri.files.disk import load
from karakuri.files.text import from_text, to_text
from karakuri.model.drag import Bearing
from karakuri.model.edit import apply
from karakuri.model.edits import remove_item
from karakuri.model.fastening import Bands, HookLoop, MagnetFace
from karakuri.model.fastening_edits import fasten, held_by, set_fastening
from karakuri.model.figure import Figure
from karakuri.model.joint import Joint
from karakuri.model.stand import Posture
from karakuri.sizing.fastened import LOOP_PULL_PA, SLIPS, fastened, grip_of
from karakuri.study.remedies import remedies
from karakuri.study.reuse import Reuse
from karakuri.study.study import study
from tests.figures import Z, part

G = 9.80665
LEVEL = np.array([[0.0, 0.0, -G]])


def held(grams=300.0, at=(0.0, 0.0, -30.0), off=(0.0, 0.0, -1.0), kind=MagnetFace, lean=0.0, **fields) -> Figure:
    """Something so heavy, so far from the middle of its face."""
    it = kind(id="f", name="face", carries=("m",), off=off, **({"count": 2} | fields))
    return Figure(
        parts=(part("m", "base", grams, at, mass_origin="weighed", plus_minus_g=0.0),),
        fastenings=(it,),
        postures=(Posture(id="level", name="level", lean_deg=lean),),
    )


def of(figure, bump=G):
    return fastened(figure.fastenings[0], build_tree(figure), 0, LEVEL, bump)


def test_a_weight_straight_under_its_face_is_held_by_pull_alone():
    found = of(held(), bump=0.0)
    pull = 2 * float(pull_of_pair(0.010, 0.003, BR_TESLA["N42"], np.array([0.3e-3]))[0])
    assert found.grip.pull == pytest.approx(pull, rel=1e-6)
    assert found.used == pytest.approx(0.3 * G / pull, rel=1e-6) and found.shear == pytest.approx(0, abs=1e-9)
    assert found.holds_kg == pytest.approx(pull / G, rel=1e-6)


def test_a_weight_beside_its_face_shifts_and_peels_it():
    """Off forward, 50 mm ahead: m g along the face, m g × 50 mm about its edge."""
    found = of(held(at=(50.0, 0.0, 0.0), off=(1.0, 0.0, 0.0), spread_mm=60.0), bump=0.0)
    grip = found.grip
    by_hand = 0.3 * G / (SLIPS * grip.pull) + 0.3 * G * 0.050 / (grip.pull * 0.030)
    assert found.used == pytest.approx(by_hand, rel=1e-6)


@given(
    x=st.floats(-80, 80), y=st.floats(-80, 80), z=st.floats(-80, 80), seed=st.integers(0, 10**6), bump=st.floats(0, 30)
)
@settings(max_examples=60, deadline=None)
def test_no_bump_asks_more(x, y, z, seed, bump):
    rng = np.random.default_rng(seed)
    off = rng.normal(size=3)
    found = of(held(at=(x, y, z), off=tuple(map(float, off))), bump)
    normal, grip, arm = off / np.linalg.norm(off), found.grip, np.array([x, y, z]) / 1e3
    ways = rng.normal(size=(4000, 3))
    force = 0.3 * (LEVEL + bump * ways / np.linalg.norm(ways, axis=1)[:, None])
    out = force @ normal
    along = force - out[:, None] * normal
    turning = np.cross(arm, force)
    twist = turning @ normal
    tilting = turning - twist[:, None] * normal
    used = np.maximum(out, 0) / grip.pull + (np.linalg.norm(along, axis=1) + np.abs(twist) / 0.020) / grip.shear + np.linalg.norm(tilting, axis=1) / grip.tilt  # fmt: skip
    assert found.used >= used.max() * (1 - 1e-5)


@given(
    grams=st.floats(10, 900), x=st.floats(-60, 60), z=st.floats(-60, 60), gap=st.floats(0.05, 4), wide=st.floats(5, 25),
    count=st.integers(1, 6), spread=st.floats(10, 120),
)  # fmt: skip
@settings(max_examples=50, deadline=None)
def test_laws_of_what_is_held(grams, x, z, gap, wide, count, spread):
    fields = {"gap_mm": gap, "wide_mm": wide, "count": count, "spread_mm": spread}
    found = of(held(grams, (x, 0.0, z), **fields))
    assert of(held(2 * grams, (x, 0.0, z), **fields)).used == pytest.approx(2 * found.used, rel=1e-6)
    assert of(held(grams, (x, 0.0, z), **(fields | {"gap_mm": gap * 1.5}))).used >= found.used * (1 - 1e-9)
    assert of(held(grams, (x, 0.0, z), **(fields | {"count": 2 * count}))).used == pytest.approx(found.used / 2, rel=1e-6)  # fmt: skip
    assert of(held(grams, (x, 0.0, z), **(fields | {"spread_mm": 2 * spread}))).used <= found.used * (1 + 1e-9)
    mirrored = held(grams, (-x, 0.0, z), **fields)
    assert of(mirrored).used == pytest.approx(found.used, rel=1e-6)
    assert of(held(grams, (x, 0.0, z), **fields), bump=2 * G).used >= found.used * (1 - 1e-9)
    it = held(grams, (x, 0.0, z), **fields).fastenings[0]
    wanted = gap_for(it, found.reserve, 1.25)
    if wanted is not None:
        there = of(held(grams, (x, 0.0, z), **(fields | {"gap_mm": wanted})))
        assert there.reserve >= 1.25 * (1 - 1e-6)
        wider = next((g for g in GAPS_MM if g > wanted), None)
        if wider is not None:
            assert of(held(grams, (x, 0.0, z), **(fields | {"gap_mm": wider}))).reserve < 1.25


def test_hook_and_loop_and_elastic_hold_by_their_size():
    loop = grip_of(HookLoop(id="a", name="a", long_mm=50.0, wide_mm=20.0, count=2))
    assert loop.pull == pytest.approx(LOOP_PULL_PA * 2 * 0.050 * 0.020) and loop.off == 0.5
    bands = grip_of(Bands(id="a", name="a", pull_N=4.0, count=3, spread_mm=80.0))
    assert bands.pull == 12.0 and bands.tilt == pytest.approx(12.0 * 0.040)
    figure = held(kind=HookLoop)
    assert apply(figure, held_by(figure.fastenings[0], "magnets")).fastenings[0].kind == "magnets"
    assert from_text(to_text(figure), "x") == figure


def test_it_says_with_what_it_was_outgrown_and_every_cure_was_studied():
    figure, reuse = load(walrus_path()), Reuse()
    heavier = apply(figure, set_fastening(figure.fastenings[0], "gap", gap_mm=2.0))
    done = study(heavier, reuse)
    finding = done.finding("fastened.horn_magnets")
    assert finding.verdict == "fails" and "outgrown with storm horns" in finding.sentence.text
    offered = remedies(done, finding, reuse)
    assert offered and all(study(apply(heavier, r.edit)).finding(finding.id).verdict == r.verdict for r in offered[:2])
    gone = apply(heavier, remove_item(heavier, "parts", "horn_pair"))
    assert gone.fastenings[0].carries == () and study(gone).finding("fastened.horn_magnets") is None
    part_held = apply(figure, fasten(figure, "cap"))
    assert study(part_held).finding("fastened.cap_held") is not None


def test_magnets_that_hold_a_joint_on_make_it_drag():
    """A head that turns on its ring, held down by magnets: what presses the ring rubs."""
    joint = Joint(id="pan", name="Pan", role="free", axis=Z, drag=Bearing(bearing="turntable", radius_mm=60.0))
    bare = Figure(joints=(joint,), parts=(part("m", "pan", 500.0, (0.0, 0.0, 40.0)),))
    it = MagnetFace(id="f", name="f", carries=("pan",), count=6)
    drag = lambda figure: next(iter(study(figure).results.found["drags"]))  # noqa: E731
    with_magnets = Figure(**(dict(bare) | {"fastenings": (it,)}))
    added = drag(with_magnets).value - drag(bare).value
    assert added == pytest.approx(0.02 * grip_of(it).pull * 0.060, rel=1e-6) and math.isfinite(added)


@pytest.mark.parametrize("kind", [MagnetFace, HookLoop, Bands])
def test_a_remedy_says_what_it_does(kind):
    """Every number on a label is what its edit writes."""
    done = study(held(grams=1900.0, kind=kind))
    finding = done.finding("fastened.f")
    assert finding.verdict != "holds"
    seen = set()
    for offered in propose(finding, done.results):
        there = apply(done.results.figure, offered.edit).fastenings[0]
        said = [quantity.value * 1e3 for quantity in offered.label.quantities]
        if offered.group == "number":
            assert offered.label.text == f"{there.count} of them" and there.count > 2
        elif offered.group == "kind":
            assert there.kind == "magnets"
        else:
            written = {"gap": ("gap_mm",), "discs": ("wide_mm", "thick_mm"), "spread": ("spread_mm",)}[offered.group]
            assert said == pytest.approx([getattr(there, field) for field in written])
        seen.add(offered.group)
    assert seen >= {"number", "spread"}
