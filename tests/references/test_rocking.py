"""Whether what a score throws about lifts a figure off its foot: against MuJoCo's inverse dynamics of the same figure floating free, and by laws."""

import mujoco
import numpy as np
import pytest
from msgspec.structs import replace

from karakuri.bodies.cut import pressing
from karakuri.bodies.tree import build_tree
from karakuri.checks.contract import ROCKS, STANDING, TOPPLES
from karakuri.demo import owl_path
from karakuri.files.disk import load
from karakuri.mechanics.dynamics import thrown
from karakuri.mechanics.rocking import rocking
from karakuri.mechanics.starts import rest_pose
from karakuri.mechanics.tipping import edges, footing
from karakuri.model.edit import Edit, Set, apply
from karakuri.model.figure import Figure
from karakuri.model.joint import Move
from karakuri.model.moves import Row, moves_of
from karakuri.model.score_edits import stretch_all
from karakuri.motion.profiles import PROFILES
from karakuri.motion.score_motion import Tracks, score_motion
from karakuri.sizing.moved import Swing, states_of
from karakuri.sizing.wanted import AskedMove
from karakuri.study.remedies import remedies
from karakuri.study.requests.swings import Topples
from karakuri.study.reuse import Reuse
from karakuri.study.study import study
from tests.figures import head, random_figure, scored
from tests.references.mujoco_twin import CRUMB, CRUMB_R, compensated, xml
from tests.references.test_score_mujoco import randomly_scored

G = 9.80665


def floating(figure):
    """The figure with nothing to stand on: what has to be done to its base is what the floor gives."""
    free = f'<body name="base"><freejoint name="free"/><geom type="sphere" size="{CRUMB_R}" mass="{CRUMB}"/>'
    model = mujoco.MjModel.from_xml_string(xml(figure).replace('<body name="base">', free))
    return model, mujoco.MjData(model)


def wrenches(figure, ids, q, qd, qdd, gravity):
    """Force N and moment N·m about the datum, (3, n) each, by mj_inverse."""
    model, data = floating(figure)
    model.opt.gravity[:] = gravity
    out = []
    for i in range(q.shape[1]):
        data.qpos[:7], data.qvel[:], data.qacc[:] = (0, 0, 0, 1, 0, 0, 0), 0.0, 0.0
        for k, ident in enumerate(ids):
            joint = model.joint(ident)
            data.qpos[joint.qposadr[0]], data.qvel[joint.dofadr[0]], data.qacc[joint.dofadr[0]] = q[k, i], qd[k, i], qdd[k, i]  # fmt: skip
        mujoco.mj_inverse(model, data)
        out.append(data.qfrc_inverse[:6].copy())
    both = np.array(out).T
    return both[:3], both[3:]


def moving(figure, count=40):
    tree = build_tree(figure)
    motion = score_motion(figure, tree, rest_pose(tree), Tracks())
    times = np.sort(np.random.default_rng(2).uniform(0, figure.score.length_s, count))
    return tree, times, motion.state(times)


@pytest.mark.parametrize("seed", range(6))
def test_what_the_base_gives_is_what_mujoco_finds(seed):
    figure = compensated(randomly_scored(seed))
    tree, _, (q, qd, qdd) = moving(figure)
    force, moment = thrown(tree, q, qd, qdd)
    theirs = wrenches(figure, tree.ids, q, qd, qdd, (0.0, 0.0, 0.0))
    for ours, other in ((force, theirs[0]), (moment, theirs[1])):
        assert np.abs(ours - other).max() <= 1e-8 * max(np.abs(other).max(), 1e-9)


@pytest.mark.parametrize("seed", range(6))
def test_the_worst_moment_is_the_one_a_plain_sum_finds(seed):
    """Along each edge, what MuJoCo has the floor give, leaned or not: where the moment about the edge would have to pull, against standing still."""
    figure = compensated(randomly_scored(seed))
    tree, times, (q, qd, qdd) = moving(figure)
    on = footing(figure.base)
    gravities = np.array([[0.0, 0.0, -G], [0.6, 0.4, -G]])
    found = rocking(tree, on, gravities, times, q, qd, qdd)
    corners, inward = edges(on)
    least = np.inf
    for gravity in gravities:
        moved, stood = wrenches(figure, tree.ids, q, qd, qdd, gravity), wrenches(figure, tree.ids, q, 0 * qd, 0 * qdd, gravity)  # fmt: skip
        for corner, inner in zip(corners, inward, strict=True):
            at = np.array([*corner, on.floor_mm / 1e3])
            along = np.array([inner[1], -inner[0], 0.0])

            def lever(wrench, at=at, along=along):
                """How far inside the edge the floor's force acts, m: its moment about the edge over its upward part."""
                force, moment = wrench
                return ((moment.T - np.cross(at, force.T)) @ along) / force[2]

            may, has = lever(stood), lever(moved)
            for i in range(len(times)):
                if may[i] > 0 and (moved[0][2, i] <= 0 or may[i] - has[i] > 1e-6):
                    least = min(least, may[i] / (may[i] - has[i]) if moved[0][2, i] > 0 else 0.0)
    if found is None:
        assert least == np.inf
    else:
        assert found.reserve == pytest.approx(least, rel=1e-6, abs=1e-9)


def standing(*rows, mass_g=1500.0, half=60.0, **more) -> Figure:
    """A heavy head on a slim foot."""
    figure = scored(*rows, mass_g=mass_g, servo="class_60", **more)
    foot = tuple((x * half, y * half) for x, y in ((-1, -1), (1, -1), (1, 1), (-1, 1)))
    return Figure(**(dict(figure) | {"base": figure.base.but(outline_mm=foot, held="stands")}))


def told(figure):
    found = study(figure, Reuse())
    return found, next((f for f in found.findings if f.rule == "rocks"), None)


def test_slower_rocks_less_by_the_square_and_a_wider_foot_stands_firmer():
    figure = standing(Row(0.2, 0.25, 25.0), Row(1.0, 0.25, -25.0))
    _, here = told(figure)
    for by in (1.5, 2.0, 3.0):
        _, slower = told(apply(figure, stretch_all(figure, by)))
        assert slower.reserve == pytest.approx(here.reserve * by**2, rel=0.12) and slower.reserve > here.reserve
    _, wide = told(Figure(**(dict(figure) | {"base": standing(half=90.0).base})))
    assert wide.reserve > here.reserve * 1.3
    assert here.capacity.value < 0.06 * 1.5 and here.at_s is not None


def test_a_sudden_move_throws_as_hard_as_its_drive_can():
    _, soft = told(standing(Row(0.2, 0.5, 20.0)))
    _, hard = told(standing(Row(0.2, 0.0, 20.0, "sudden")))
    assert hard.reserve < soft.reserve


def test_what_rocks_is_offered_a_way_out_and_what_is_screwed_down_is_not_asked():
    figure = standing(Row(0.2, 0.14, 28.0), Row(1.0, 0.14, -28.0))
    found, rocks = told(figure)
    assert rocks.verdict == "fails" and "lifts off its foot" in rocks.sentence.text
    assert any(remedy.verdict == "holds" for remedy in remedies(found, rocks, Reuse()))
    held = Figure(**(dict(figure) | {"base": figure.base.but(held="fixed")}))
    assert told(held)[1] is None and study(held, Reuse()).results[ROCKS] is None
    assert told(head())[1] is None  # nothing moves


def test_an_owl_that_bows_too_fast_is_told_before_it_does():
    owl = load(owl_path())
    assert told(owl)[1].verdict == "holds"
    channel = next(c for c in owl.score.channels if "neck_tilt" in c.joints)
    rows = [row._replace(takes=min(row.takes, 0.12)) for row in channel.moves.rows()]
    quick = apply(owl, Edit("quick", (Set(("scores", owl.score.id, "channels", channel.id, "moves"), moves_of(rows)),)))
    assert told(quick)[1].reserve < told(owl)[1].reserve / 2


LEANING = np.array([[0.0, 0.0, -G], [2.0, -1.0, -9.5]])


@pytest.mark.parametrize("seed", range(14))
def test_a_wanted_move_shifts_hardly_more_anywhere_than_where_it_is_tried(seed):
    """Two thousand other poses of all joints, moments and starts of a move, of a slide too: the floor's load is shifted by at most a tenth more of what there is than is told."""
    figure = random_figure(seed, 2 + seed % 4, slides=seed % 2 == 0)
    foot = tuple((x * 600.0, y * 600.0) for x, y in ((-1, -1), (1, -1), (1, 1), (-1, 1)))
    figure = figure.but(base=figure.base.but(outline_mm=foot, held="stands", floor_mm=-300.0))
    full, rng = build_tree(figure), np.random.default_rng(seed)
    tree = replace(pressing(full), low=full.low, high=full.high)
    m, n, on = len(tree.ids), 2000, footing(figure.base)
    k = int(rng.integers(m))
    move = AskedMove(
        min(0.02 if tree.slides[k] else 0.5, float(tree.high[k] - tree.low[k])), 0.25, "minimum jerk", 0.0, 0.0
    )
    standing = study(figure, Reuse()).results[STANDING]
    told, _ = Topples(tree, on, (Swing(k, move, (standing.pose,)),), LEANING).run(False, ())
    q, share = rng.uniform(tree.low[:, None], tree.high[:, None], (m, n)), rng.uniform(0, 1, n)
    start, way = (
        rng.uniform(tree.low[k], max(tree.high[k] - move.by, tree.low[k] + 1e-9), n),
        rng.choice([-1.0, 1.0], n),
    )
    x, v, a = PROFILES["minimum jerk"].run(
        share * move.time, np.full(n, move.time), np.full(n, move.by), np.zeros(n), np.zeros(n)
    )
    q[k] = np.where(way > 0, start + x, start + move.by - x)
    qd, qdd = np.zeros((m, n)), np.zeros((m, n))
    qd[k], qdd[k] = way * v, way * a
    found = rocking(tree, on, LEANING, np.zeros(n), q, qd, qdd)
    assert found.reserve >= told.reserve / 1.1
    tried = states_of(tree, [Swing(k, move, (standing.pose,))])
    assert np.isclose(tried.q[k], told.pose[k]).any()  # climbed, it is still on its way
    beyond = states_of(
        tree, [Swing(k, move, (tree.high + 1.0, tree.low - 1.0))]
    ).q  # known of a figure that reached farther
    others = np.arange(m) != k
    assert (beyond[others] <= tree.high[others, None] + 1e-9).all() and (
        beyond[others] >= tree.low[others, None] - 1e-9
    ).all()
    every = tuple(
        Swing(j, replace(move, by=min(move.by, float(tree.high[j] - tree.low[j]))), (standing.pose,)) for j in range(m)
    )
    worst, _ = Topples(tree, on, every, LEANING).run(False, ())
    assert worst.reserve <= 1.02 * min(
        one[0].reserve for one in (Topples(tree, on, (each,), LEANING).run(False, ()) for each in every) if one
    )


def test_what_is_tried_of_a_wanted_move_is_sped_up_first_and_braked_then_either_way():
    tree = build_tree(head(ranges=(-20.0, 10.0)))
    move = AskedMove(np.radians(30.0), 0.4, "minimum jerk", 0.0, 0.0)
    tried = states_of(tree, [Swing(0, move, ())])
    q, qd, qdd = tried.q[0], tried.qd[0], tried.qdd[0]
    gone = np.where(qd > 0, q - tree.low[0], tree.high[0] - q)[np.abs(qd) > 1e-6]
    pushed = (np.sign(qd) * qdd)[np.abs(qd) > 1e-6]
    assert (
        (pushed[gone < 0.45 * move.by] > 0).all()
        and (pushed[gone > 0.55 * move.by] < 0).all()
        and (qd > 0.1).any()
        and (qd < -0.1).any()
    )
    assert np.abs(qdd).max() == pytest.approx(
        (10 / 3**0.5) * move.by / move.time**2, rel=1e-3
    )  # minimum jerk, any textbook on robot motion
    assert np.abs(qd).max() == pytest.approx(1.875 * move.by / move.time, rel=1e-3)


def test_a_wanted_move_alone_rocks_too_and_is_slowed():
    """Without a score: no less than the same move does in one, and a way out is offered."""
    moving = standing(Row(0.2, 0.14, 28.0), Row(1.0, 0.14, -28.0))
    still = moving.but(scores=(moving.score.but(channels=()),))
    assert told(still)[1] is None
    wanted = apply(still, Edit("wanted", (Set(("joints", "tilt", "move"), Move(by=56.0, time_s=0.14)),)))
    found, rocks = told(wanted)
    assert (
        found.results.of("tilt").move.reserve < 1.0 and "as written: its servo cannot go so fast" in rocks.sentence.text
    )
    assert (
        rocks.verdict == "fails"
        and rocks.at_s is None
        and "Tilt on its wanted move throws the figure" in rocks.sentence.text
    )
    assert found.results[TOPPLES].of == "tilt" and found.results[ROCKS] is None
    assert found.results[TOPPLES].reserve <= told(moving)[0].results[ROCKS].reserve * 1.02
    offered = remedies(found, rocks, Reuse())
    assert any(remedy.edit.name.startswith("slow") for remedy in offered) and any(
        remedy.verdict == "holds" for remedy in offered
    )
    for remedy in offered:  # as it is said of what is only proposed, so it is
        assert told(apply(wanted, remedy.edit))[1].verdict == remedy.verdict, remedy.edit.name
    slow = apply(wanted, Edit("slow", (Set(("joints", "tilt", "move", "time_s"), 1.4),)))
    assert "as written" not in told(slow)[1].sentence.text
    assert told(slow)[1].reserve == pytest.approx(100 * rocks.reserve, rel=0.05)  # by the square of ten times as long
    both = moving.but(joints=wanted.joints)
    assert told(both)[0].results[TOPPLES].reserve <= told(both)[0].results[ROCKS].reserve and told(both)[1].at_s is None
    assert told(wanted.but(base=wanted.base.but(held="fixed")))[1] is None
