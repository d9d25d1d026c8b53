"""What motion asks of what carries the joints: against MuJoCo's forces between bodies, and as laws over random figures."""

import mujoco
import numpy as np
import pytest
from msgspec.structs import replace

from karakuri.bodies.tree import build_tree
from karakuri.catalogue import servo_class
from karakuri.checks.contract import SWINGS, TILTS
from karakuri.mechanics.starts import rest_pose
from karakuri.mechanics.statics import across_squared, wrench_on
from karakuri.mechanics.support import across_axes
from karakuri.model.drive import Drive
from karakuri.model.edit import Edit, Set, apply
from karakuri.model.element import Motor
from karakuri.model.figure import Figure
from karakuri.model.joint import Joint, Move, Support
from karakuri.model.moves import Row
from karakuri.model.part import Part
from karakuri.model.score_edits import stretch_all
from karakuri.motion.profiles import PROFILES
from karakuri.motion.score_motion import Tracks, score_motion
from karakuri.sizing.least_time import TRIANGLE
from karakuri.sizing.moved import Swing, states_of
from karakuri.sizing.tilted import tilted, tilted_in
from karakuri.sizing.wanted import AskedMove, asked_move
from karakuri.study.remedies import remedies
from karakuri.study.reuse import Reuse
from karakuri.study.study import study
from tests.figures import X, Z, part, random_elements, random_figure, scored
from tests.references.mujoco_twin import Twin, compensated
from tests.references.test_score_mujoco import randomly_scored

G = 9.80665
GRAVITIES = np.array([[0.0, 0.0, -G], [2.0, -1.0, -9.5]])


def swung(tree, k, move, offs, gravities, poses):
    """What one wanted move asks of joints by row."""
    return tilted_in(tree, offs, gravities, *states_of(tree, [Swing(k, move, poses)]).in_time)[0]


def theirs(twin, ids, q, qd, qdd, gravity):
    """Side load N and tilting moment N·m of every joint, (2, m), by MuJoCo's force between a body and its parent, moved to the pivot."""
    twin.inverse(*(dict(zip(ids, each, strict=True)) for each in (q, qd, qdd)), gravity)
    mujoco.mj_rnePostConstraint(twin.model, twin.data)
    out = []
    for ident in ids:
        body, joint = twin.model.body(ident).id, twin.model.joint(ident).id
        moment, force = twin.data.cfrc_int[body][:3], twin.data.cfrc_int[body][3:]
        centre, axis = twin.data.subtree_com[twin.model.body_rootid[body]], twin.data.xaxis[joint]
        moment = moment + np.cross(centre - twin.data.xanchor[joint], force)
        out.append([np.linalg.norm(each - axis * (each @ axis)) for each in (force, moment)])
    return np.array(out).T


@pytest.mark.parametrize("seed", range(8))
def test_what_a_joint_gives_across_its_axis_is_what_mujoco_finds(seed):
    figure = compensated(randomly_scored(seed))
    tree, twin = build_tree(figure), Twin(figure)
    motion = score_motion(figure, tree, rest_pose(tree), Tracks())
    state = motion.state(np.sort(np.random.default_rng(seed).uniform(0, figure.score.length_s, 20)))
    for gravity, ours in zip(GRAVITIES, across_axes(tree, range(len(tree.ids)), *state, GRAVITIES), strict=True):
        for i in range(20):
            for mine, other in zip(ours, theirs(twin, tree.ids, *(each[:, i] for each in state), gravity), strict=True):
                assert np.abs(mine[:, i] - other).max() <= 1e-8 * max(other.max(), 1e-9)


@pytest.mark.parametrize("seed", range(10))
def test_standing_still_it_is_the_weight_and_what_is_strung(seed):
    tree = build_tree(random_elements(random_figure(seed, 3), seed))
    rng = np.random.default_rng(seed)
    q = rng.uniform(tree.low[:, None], tree.high[:, None], (len(tree.ids), 12))
    for gravity, (side, tilt) in zip(GRAVITIES, across_axes(tree, range(len(q)), q, 0 * q, 0 * q, GRAVITIES), strict=True):  # fmt: skip
        for j in range(len(q)):
            force, moment = wrench_on(tree, j, q, gravity)
            assert side[j] == pytest.approx(np.sqrt(across_squared(tree, j, q, force)), rel=1e-9, abs=1e-9)
            assert tilt[j] == pytest.approx(np.sqrt(across_squared(tree, j, q, moment)), rel=1e-9, abs=1e-9)


def test_a_weight_on_an_arm_by_hand():
    """Carried round an upright axis at so many rad/s, 0.5 kg 0.2 m out and 0.1 m up: m r ω² from the side, and that times the height besides the weight’s own moment."""
    joint = Joint(id="j", name="j", axis=Z)
    figure = Figure(name="f", joints=(joint,), parts=(part("p", "j", 500.0, (200.0, 0.0, 100.0)),))
    figure = apply(figure, Edit("as it is", (Set(("assumptions", "growth_percent"), 0.0),)))
    tree = build_tree(figure)
    for speed in (0.0, 2.0, 7.0, 15.0):
        ((side, tilt),) = across_axes(tree, [0], np.zeros((1, 1)), np.full((1, 1), speed), np.zeros((1, 1)), GRAVITIES[:1])  # fmt: skip
        pull = 0.5 * 0.2 * speed**2
        assert side[0, 0] == pytest.approx(pull) and tilt[0, 0] == pytest.approx(pull * 0.1 + 0.5 * G * 0.2)


def most(figure):
    tree = build_tree(figure)
    motion = score_motion(figure, tree, rest_pose(tree), Tracks())
    times = np.arange(0.0, figure.score.length_s, 0.002)
    offs = tuple((j, 0.01 * j) for j in range(len(tree.ids)))
    return tilted(tree, offs, GRAVITIES, times, *motion.state(times))


@pytest.mark.parametrize("seed", range(6))
def test_a_slower_score_asks_less_down_to_what_standing_asks(seed):
    figure = randomly_scored(seed)
    rows = [most(apply(figure, stretch_all(figure, by))) for by in (1.0, 2.0, 16.0)]
    for quick, slow, slowest in zip(*rows, strict=True):
        for name in ("moment", "side"):
            a, b, c = (getattr(each, name) for each in (quick, slow, slowest))
            # motion adds to weight as the square of its pace, whichever way: what it asks beyond standing is within that
            assert b.value <= max(a.value, b.still + (a.value - a.still) / 4 + 0.3 * a.value) and c.value == pytest.approx(c.still, rel=0.2, abs=1e-3)  # fmt: skip


SLIDING = [seed for seed in range(12, 40) if any(j.kind == "slide" for j in random_figure(seed, 2 + seed % 4, slides=True).joints)]  # fmt: skip


@pytest.mark.parametrize("seed", [*range(12), *SLIDING[:8]])
def test_a_wanted_move_asks_hardly_more_anywhere_than_where_it_is_tried(seed):
    """Two thousand other poses of all joints, moments and starts of a move, of a slide too, ask at most a tenth more than what is told."""
    tree, rng = build_tree(random_figure(seed, 2 + seed % 4, slides=seed >= 12)), np.random.default_rng(seed)
    m = len(tree.ids)
    slides = [j for j in range(m) if tree.slides[j]]
    k = slides[0] if slides else int(rng.integers(m))
    move = AskedMove(min(0.015 if slides else 0.5, float(tree.high[k] - tree.low[k])), 0.25, "minimum jerk", 0.0, 0.0)
    told = swung(tree, k, move, tuple((j, 0.0) for j in range(m)), GRAVITIES, ())
    profile = PROFILES["minimum jerk"]
    n = 2000
    q, share = rng.uniform(tree.low[:, None], tree.high[:, None], (m, n)), rng.uniform(0, 1, n)
    start, way = (
        rng.uniform(tree.low[k], max(tree.high[k] - move.by, tree.low[k] + 1e-9), n),
        rng.choice([-1.0, 1.0], n),
    )
    x, v, a = profile.run(share * move.time, np.full(n, move.time), np.full(n, move.by), np.zeros(n), np.zeros(n))
    q[k] = np.where(way > 0, start + x, start + move.by - x)
    qd, qdd = np.zeros((m, n)), np.zeros((m, n))
    qd[k], qdd[k] = way * v, way * a
    for side, tilt in across_axes(tree, range(m), q, qd, qdd, GRAVITIES):
        for j, found in enumerate(told):
            assert side[j].max() <= 1.1 * found.side.value + 1e-6, (j, "side")
            assert tilt[j].max() <= 1.1 * found.moment.value + 1e-6, (j, "moment")


def test_a_sudden_wanted_move_is_one_at_all_its_servo_has():
    """Half the way sped up and half braked in the time given: nothing asks less of what carries it than that."""
    tree = build_tree(random_figure(3, 3))
    offs = tuple((j, 0.0) for j in range(3))
    sudden, soft = (swung(tree, 0, AskedMove(0.4, 0.3, kind, shape, 0.0), offs, GRAVITIES, ()) for kind, shape in (("sudden", 0.0), TRIANGLE))  # fmt: skip
    assert sudden == soft


@pytest.mark.parametrize("seed", range(4))
def test_a_bearing_away_from_the_pivot_is_tilted_by_the_side_load_too(seed):
    tree = build_tree(random_figure(seed, 3))
    rng = np.random.default_rng(seed)
    q, qd, qdd = (rng.uniform(-1, 1, (3, 30)) * scale for scale in (0.5, 4.0, 40.0))
    for j in range(3):
        near, far = (tilted(tree, ((j, off),), GRAVITIES, np.arange(30.0), q, qd, qdd)[0] for off in (0.0, 0.05))
        wanted = max((tilt[0] + 0.05 * side[0]).max() for side, tilt in across_axes(tree, [j], q, qd, qdd, GRAVITIES))
        assert far.moment.value == pytest.approx(wanted) and far.moment.value > near.moment.value and far.side == near.side  # fmt: skip


def test_a_move_as_fast_as_it_goes_is_as_hard_as_its_servo_makes_it():
    """However long it is given: half of the way sped up and half braked in the time its servo needs."""
    figure = nodding(grams=300.0)
    lazy, made = (apply(figure, Edit("wanted", (Set(("joints", "tilt", "move"), Move(by=50.0, time_s=time_s, profile="sudden")),))) for time_s in (5.0, 3.0))  # fmt: skip
    found = study(lazy, Reuse()).results
    r = found.joints[0]
    assert r.move.least < 1.0
    (own,) = swung(found.tree, 0, replace(r.own, time=r.move.least), ((0, 0.0),), found.gravities, (r.hold.worst.moment_pose,))  # fmt: skip
    assert found[SWINGS]["tilt"].moment.value == pytest.approx(own.moment.value)
    assert study(made, Reuse()).results[SWINGS]["tilt"].moment.value == pytest.approx(own.moment.value)


def told(figure, rule="tilts"):
    found = study(figure, Reuse())
    return found, next((f for f in found.findings if f.rule == rule), None)


def nodding(takes=1.0, grams=150.0, **more):
    """A head high above a nod's servo shaft, and beside it: what tilts the shaft as it is thrown about."""
    return scored(Row(0.3, takes, 28.0), Row(1.5, takes, -28.0), mass_g=grams, at=(0.0, 140.0, 200.0), servo="class_60", **more)  # fmt: skip


def test_a_quick_score_on_a_bare_shaft_is_told_and_a_slow_one_is_not():
    slow, nothing = told(nodding(grams=600.0))
    shaft = next(f for f in slow.findings if f.rule == "shaft")
    assert nothing is None and shaft.verdict == "holds"
    found, tilts = told(nodding(takes=0.12, grams=600.0))
    asked = found.results[TILTS]["tilt"]
    assert tilts is not None and tilts.verdict != "holds" and tilts.at_s == asked.moment.at_s
    assert tilts.demand.value == pytest.approx(asked.moment.value) and asked.moment.value > 1.2 * shaft.demand.value
    offered = remedies(found, tilts, Reuse())
    assert any(remedy.verdict == "holds" for remedy in offered)
    _, sudden = told(scored(Row(0.3, 0.0, 28.0, "sudden"), mass_g=600.0, at=(0.0, 140.0, 200.0), servo="class_60"))
    assert sudden is not None and sudden.demand.value > shaft.demand.value


def test_a_wanted_move_alone_throws_too_and_is_slowed():
    still = Figure(**(dict(nodding(grams=600.0)) | {"scores": (nodding().score.but(channels=()),)}))
    assert told(still)[1] is None
    quick = apply(still, Edit("quick", (Set(("joints", "tilt", "move"), Move(by=50.0, time_s=0.12)),)))
    found, tilts = told(quick)
    assert tilts is not None and tilts.at_s is None and "wanted move" in tilts.sentence.text
    assert found.results[SWINGS]["tilt"].moment.of == "tilt"
    assert any(remedy.edit.name.startswith("slow") for remedy in remedies(found, tilts, Reuse()))


def test_what_a_pan_throws_its_nod_feels():
    """A quick pan under a nodding head pulls sideways at the nod's shaft though the nod itself stands still."""
    figure = random_figure(1, 2)
    pan = Joint(id="pan", name="pan", axis=Z, range_deg=(-60.0, 60.0), move=Move(by=90.0, time_s=0.25))
    nod = Joint(id="nod", name="nod", rides_on="pan", axis=X, at_mm=(0.0, 0.0, 60.0), range_deg=(-20.0, 20.0))
    figure = Figure(
        **(dict(figure) | {"joints": (pan, nod), "parts": (part("head", "nod", 800.0, (80.0, 0.0, 120.0)),)})
    )
    tree = build_tree(figure)
    at = swung(tree, 0, asked_move(pan, pan.move, 0.0), ((0, 0.0), (1, 0.0)), GRAVITIES[:1], ())[1]
    slow = swung(tree, 0, replace(asked_move(pan, pan.move, 0.0), time=2.5), ((0, 0.0), (1, 0.0)), GRAVITIES[:1], ())[1]
    assert at.side.value > 1.5 * slow.side.value


def shaken(**move):
    """A nod on a slide that goes sideways: what stands high above the nod's shaft is thrown about by the slide."""
    slide = Joint(id="slide", name="slide", kind="slide", axis=X, range_mm=(0.0, 60.0), **move)
    nod = Joint(id="nod", name="nod", rides_on="slide", axis=X, at_mm=(0.0, 0.0, 60.0), range_deg=(-20.0, 20.0))
    drive = Drive(id="d", joint="nod", actuator=servo_class("class_60"))
    return Figure(joints=(slide, nod), drives=(drive,), parts=(part("head", "nod", 600.0, (0.0, 0.0, 200.0)),))


def test_a_wanted_move_of_a_slide_throws_what_rides_on_it():
    """600 g thrown to and fro along the shaft, 140 mm above it: at most by 5.774 × way ÷ time² (minimum jerk, any textbook on robot motion), by hand."""
    still, quick = (study(shaken(**more), Reuse()) for more in ({}, {"move": Move(by=50.0, time_s=0.06)}))
    shaft = next(f for f in still.findings if f.rule == "shaft")
    assert not still.results[SWINGS] and all(f.rule != "tilts" for f in still.findings)
    asked = quick.results[SWINGS]["nod"]
    tilts_it = 0.6 * (10 / 3**0.5) * 0.05 / 0.06**2 * 0.14
    assert asked.moment.of == "slide" and asked.moment.value == pytest.approx(tilts_it, rel=1e-3)
    assert asked.side.value == pytest.approx(0.6 * G, rel=1e-3)  # the push is along the shaft
    tilts = next(f for f in quick.findings if f.rule == "tilts")
    assert (
        tilts.reserve < shaft.reserve and tilts.verdict != "holds" and "slide on its wanted move" in tilts.sentence.text
    )
    assert any(remedy.edit.name.startswith("slow") for remedy in remedies(quick, tilts, Reuse()))
    written = apply(
        shaken(move=Move(by=50.0, time_s=0.06)), Edit("follows", (Set(("joints", "slide", "role"), "free"),))
    )
    assert not study(written, Reuse()).results[SWINGS]  # nothing moves it
    turned = Motor(id="m", name="m", joint="slide")
    assert not study(shaken(move=Move(by=50.0, time_s=0.06)).but(elements=(turned,)), Reuse()).results[
        SWINGS
    ]  # a motor knows of no move


@pytest.mark.parametrize("seed", range(8))
def test_guessed_masses_keep_what_carries_within_its_bounds(seed):
    """Whatever the masses are within what they may be off by, the support's reserve in the same pose stays between low and high."""
    rng = np.random.default_rng(seed)
    figure = Figure(**(dict(random_figure(seed, 2)) | {"postures": random_figure(seed, 2).postures[:1]}))
    parts = [Part(**(dict(p) | {"plus_minus_g": round(0.25 * p.mass_g, 1)})) for p in figure.parts]
    joints = tuple(Joint(**(dict(j) | {"support": Support(kind="bush")})) for j in figure.joints)
    figure = Figure(**(dict(figure) | {"parts": tuple(parts), "joints": joints}))
    results = study(figure, Reuse()).results
    r = results.joints[0]
    low, high = r.shaft.interval
    assert r.shaft.more > 0 and low < r.shaft.reserve < high
    sure = r.shaft.by_weight
    pose = r.hold.worst.moment_pose
    for _ in range(40):
        signs = rng.choice([-1.0, 1.0], len(parts))
        other = [Part(**(dict(p) | {"mass_g": p.mass_g + s * p.plus_minus_g})) for p, s in zip(parts, signs, strict=True)]  # fmt: skip
        tree = build_tree(Figure(**(dict(figure) | {"parts": tuple(other)})))
        moment = float(np.sqrt(across_squared(tree, 0, pose[:, None], wrench_on(tree, 0, pose[:, None], results.gravities[0])[1]))[0])  # fmt: skip
        assert sure[0] * (1 - 1e-9) <= r.shaft.permitted / moment <= sure[1] * (1 + 1e-9)


def test_what_stands_untilted_is_thrown_with_its_guessed_mass_too():
    """Straight above its pivot nothing tilts it standing; thrown, its bounds are those of its mass."""
    figure = scored(Row(0.3, 0.12, 28.0), mass_g=600.0, at=(0.0, 0.0, 200.0), servo="class_60")
    r = study(figure, Reuse()).results.joints[0]
    asked = r.shaft.asking(2.0, 10.0)
    assert r.shaft.moment < 1e-9 and r.shaft.more_side > 0
    assert asked.more / 2.0 == pytest.approx(r.shaft.more_side / r.shaft.side) == asked.more_side / 10.0


@pytest.mark.parametrize("per_min", [20.0, 90.0])
def test_a_motor_that_turns_on_throws_without_any_score(per_min):
    """An arm carried right round by a motor, on a joint above: m r ω² from the side and the weight, by hand; twice the pace asks more, no score at all is needed."""
    turn = Joint(id="turn", name="turn", axis=Z, role="free")
    arm = Joint(id="arm", name="arm", rides_on="turn", axis=X, at_mm=(100.0, 0.0, 50.0), support=Support(kind="bush"))
    motor = Motor(id="m", name="motor", joint="turn", turns_per_min=per_min, at_voltage_V=6.0, gets_V=6.0)
    weight = part("w", "arm", 400.0, (100.0, 60.0, 50.0), mass_origin="weighed", plus_minus_g=0.0)
    figure = Figure(name="f", joints=(turn, arm), parts=(weight,), elements=(motor,), drives=(Drive(id="d", joint="arm", actuator=servo_class("class_20")),))  # fmt: skip
    figure = apply(figure, Edit("as it is", (Set(("assumptions", "growth_percent"), 0.0),)))
    assert not figure.score.moves_something
    found = study(figure, Reuse()).results[TILTS]["arm"]
    omega = 2 * np.pi * per_min / 60
    assert found.side.value == pytest.approx(0.4 * np.hypot(G, 0.06 * omega**2), rel=1e-6)
    assert study(apply(figure, Edit("gone", (Set(("elements",), ()),))), Reuse()).results[TILTS] == {}
