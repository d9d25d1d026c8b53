"""Laws of what is asked of a joint, each against a slower independent way: followers, free joints, uncertain masses, rest, side load."""

import math
import re

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from msgspec.structs import replace

from karakuri.bodies.coordinates import complete
from karakuri.bodies.tree import build_tree, posture_gravity
from karakuri.catalogue import servo_class
from karakuri.cli.main import pose_report
from karakuri.errors import Trouble
from karakuri.mechanics.ascent import held_torque_Nm
from karakuri.mechanics.equilibrium import complete as hung
from karakuri.mechanics.kinematics import place
from karakuri.mechanics.side import largest_side
from karakuri.mechanics.starts import rest_pose
from karakuri.mechanics.worst import drive_inertia, drive_torque_Nm, worst_pose
from karakuri.model.channel import JointChannel
from karakuri.model.drive import Drive
from karakuri.model.edit import Edit, Set, apply
from karakuri.model.figure import Figure
from karakuri.model.joint import Follow, Joint
from karakuri.model.moves import Row, moves_of
from karakuri.model.score import Score
from karakuri.motion.score_motion import Tracks, score_motion
from karakuri.sizing.hold import extremes, weighed
from karakuri.study.reuse import Reuse
from karakuri.study.study import study
from tests.figures import Y, head, part, random_elements, random_figure, scored
from tests.references.mujoco_twin import Twin, compensated

DOWN = np.array([0.0, 0.0, -9.80665])


def following(seed: int, joints: int = 4, slides: bool = False) -> Figure:
    """A random figure in which some joints follow one that comes before them, followers of followers among them; one hangs free."""
    rng = np.random.default_rng(1000 + seed)
    figure = random_figure(seed, joints, slides)
    made = []
    for i, joint in enumerate(figure.joints):
        fields = dict(joint)
        if i and rng.random() < 0.6:
            ahead = f"j{int(rng.integers(i))}"
            offset = float(rng.uniform(-20, 20))
            key = "offset_mm" if joint.kind == "slide" else "offset_deg"
            fields |= {
                "role": "follows",
                "follows": Follow(joint=ahead, ratio=float(rng.uniform(-1.6, 1.6)), **{key: offset}),
            }
        elif i and rng.random() < 0.3 and joint.kind == "turn":
            fields["role"] = "free"
        made.append(Joint(**fields))
    return Figure(**(dict(figure) | {"joints": tuple(made)}))


def any_poses(tree, rng, n):
    q = tree.low[:, None] + rng.random((len(tree.ids), n)) * (tree.high - tree.low)[:, None]
    q[:, : n // 3] = np.where(rng.random((len(tree.ids), n // 3)) < 0.5, tree.low[:, None], tree.high[:, None])
    return complete(tree.coupling, q)


@pytest.mark.parametrize("seed", range(10))
def test_no_pose_that_followers_can_take_asks_more(seed):
    figure = following(seed)
    tree, rng = build_tree(figure), np.random.default_rng(seed)
    gravities = np.array([posture_gravity(p, 9.80665) for p in figure.postures])
    q = any_poses(tree, rng, 4000)
    for j in range(4):
        found = worst_pose(
            tree, j, gravities
        )  # of a follower: what its own servo, or the link that moves it, must hold
        brute = max(
            float(np.abs(drive_torque_Nm(tree, j, hung(tree, q[:, :1000].copy(), g), g)).max()) for g in gravities
        )
        assert abs(found.hold) >= brute * (1 - 2e-3) - 1e-9
        there = hung(tree, found.pose[:, None].copy(), gravities[found.posture])
        driven = [k for k in range(4) if k not in tree.coupling.hangs]
        assert np.allclose(there[:, 0], found.pose, atol=1e-6) and (found.pose >= tree.low - 1e-9)[driven].all()
        again = float(drive_torque_Nm(tree, j, there, gravities[found.posture])[0])
        assert again == pytest.approx(found.hold, abs=1e-9 + 1e-6 * abs(found.hold))


@pytest.mark.parametrize("seed", range(8))
def test_what_follows_loads_its_leader_as_in_mujoco(seed):
    """Virtual work against MuJoCo's own numbers: the leader's torque is the sum of gain × the torque of each joint that moves with it."""
    figure = compensated(following(seed))
    tree = build_tree(figure)
    rng = np.random.default_rng(seed)
    q = any_poses(tree, rng, 1)
    force = Twin(figure).inverse(dict(zip(tree.ids, q[:, 0].tolist(), strict=True)))
    gravity = posture_gravity(figure.postures[0], 9.80665)
    for j, ident in enumerate(tree.ids):
        if tree.coupling.leader[j] == j:
            theirs = sum(gain * force[tree.ids[k]] for k, gain in tree.coupling.loads[j])
            ours = float(drive_torque_Nm(tree, j, q, gravity)[0])
            assert ours == pytest.approx(theirs, abs=1e-9 * (1 + abs(theirs))), ident


@pytest.mark.parametrize("seed", range(8))
def test_a_follower_stands_where_its_leader_puts_it_everywhere(seed):
    """Score, pose command, rest: the same chain of ratios and offsets, worked out here by hand."""
    figure = following(seed, 5, slides=True)
    tree = build_tree(figure)
    leads = [j for j in figure.joints if j.role != "follows"]
    rows = moves_of([Row(0.2, 0.5, 12.0 if leads[0].kind == "turn" else 4.0)])
    channel = JointChannel(id="c", name="c", joints=(leads[0].id,), moves=rows)
    moved = Figure(**(dict(figure) | {"scores": (Score(length_s=2.0, channels=(channel,)),)}))
    state = score_motion(moved, tree, rest_pose(tree), Tracks()).state(np.array([0.0, 0.45, 1.5]))

    def by_hand(ident, place_of):
        joint = figure.joint(ident)
        if joint.role != "follows":
            return place_of(ident)
        add = joint.follows.offset_mm if joint.kind == "slide" else joint.follows.offset_deg
        return joint.follows.ratio * by_hand(joint.follows.joint, place_of) + add

    def unit(ident):
        return 1e-3 if figure.joint(ident).kind == "slide" else math.pi / 180

    for t in range(3):
        for k, ident in enumerate(tree.ids):
            asked = by_hand(ident, lambda i, t=t: state[0][tree.index(i), t] / unit(i))
            assert state[0][k, t] == pytest.approx(asked * unit(ident), abs=1e-9)
    setting = f"{leads[0].id}={7.0 if leads[0].kind == 'turn' else 2.0}"
    told = {row["joint"]: row.get("at_deg", row.get("at_mm")) for row in pose_report(figure, [setting], None)["joints"]}
    for ident in tree.ids:
        assert told[ident] == pytest.approx(by_hand(ident, lambda i: told[i]), abs=1e-6)
    follower = next((j for j in figure.joints if j.role == "follows"), None)
    if follower is not None:
        with pytest.raises(Trouble, match="follows"):
            pose_report(figure, [f"{follower.id}=3"], None)


def test_circles_of_followers_are_refused():
    a = Joint(id="a", name="a", role="follows", follows=Follow(joint="b"))
    b = Joint(id="b", name="b", role="follows", follows=Follow(joint="a"))
    with pytest.raises(ValueError, match="follows itself"):
        Figure(joints=(a, b))


def test_a_bell_that_rubs_on_an_arm_may_be_anywhere():
    """Seen once: told holds 2.05, true 0.90, because the bell was searched over a default range it does not keep to."""
    arm = Joint(id="arm", name="Arm", at_mm=(0.0, 0.0, 100.0), axis=Y, range_deg=(-5.0, 5.0))
    bell = Joint(id="bell", name="Bell", rides_on="arm", role="free", at_mm=(60.0, 0.0, 100.0), axis=Y, friction_Nm=0.3)
    figure = Figure(joints=(arm, bell), parts=(part("clapper", "bell", 300.0, (60.0, 0.0, 20.0)),),
                    drives=(Drive(id="s", joint="arm", actuator=servo_class("class_10")),))  # fmt: skip
    need = study(figure).results.of("arm").hold.need
    assert need == pytest.approx(0.3 * 9.80665 * (0.06 + 0.08), rel=2e-3)
    stopped = apply(figure, Edit("x", (Set(("joints", "bell", "stops_deg"), (-10.0, 10.0)),)))
    assert study(stopped).results.of("arm").hold.need < need


# ---- uncertain masses


@pytest.mark.parametrize("seed", range(10))
def test_no_pose_and_no_masses_within_their_bounds_ask_more_or_less(seed):
    figure = random_figure(seed, 3)
    tree, rng = build_tree(figure), np.random.default_rng(seed)
    gravities = np.array([posture_gravity(p, 9.80665) for p in figure.postures])
    mass, bound = (np.array([getattr(b, n) for b in tree.bodies]) for n in ("mass", "bound"))
    q = any_poses(tree, rng, 1500)
    for j in range(3):
        found = worst_pose(tree, j, gravities)
        told = extremes(
            tree,
            j,
            gravities,
            (found.pose, found.moment_pose),
            lambda other, g, poses, j=j: worst_pose(other, j, g, 4, poses, False),
        )
        assert told.low <= abs(found.hold) * (1 + 1e-9) <= told.high * (1 + 1e-9)
        for k in range(12):
            some = mass + bound * (rng.choice([-1.0, 1.0], len(mass)) if k % 2 else rng.uniform(-1, 1, len(mass)))
            other = weighed(tree, some)
            brute = max(float(np.abs(drive_torque_Nm(other, j, q, g)).max()) for g in gravities)
            worst = abs(worst_pose(other, j, gravities).hold)
            assert brute <= told.high * (1 + 2e-3) and worst <= told.high * (1 + 2e-3)
            assert worst >= told.low * (1 - 1e-9)


def test_an_exactly_balanced_pair_of_guesses_is_not_ample():
    figure = head(mass_g=1000.0, at=(60.0, 0.0, 100.0), ranges=(-1.0, 1.0))
    rear = part("rear", "tilt", 1000.0, (-60.0, 0.0, 100.0), mass_origin="guess")
    front = type(figure.parts[0])(**(dict(figure.parts[0]) | {"mass_origin": "guess"}))
    figure = Figure(**(dict(figure) | {"parts": (front, rear, figure.parts[1])}))
    hold = study(figure).results.of("tilt").hold
    assert hold.need < 0.02 and hold.high == pytest.approx(2 * 0.3 * 9.80665 * 0.06, rel=1e-2)
    told = study(figure)
    assert told.finding("hold.tilt").reserve_low < 2.0
    assert any(f.rule == "weigh" and "rear" in f.sentence.text for f in told.findings)


# ---- rest, side load, heat


def test_outside_where_it_rests_a_hold_counts_in_passing():
    wide = head(mass_g=700.0, servo="class_20")
    base = study(wide).finding("hold.tilt")
    resting = apply(wide, Edit("x", (Set(("joints", "tilt", "rests_deg"), (-5.0, 5.0)),)))
    told = study(resting)
    r = told.results.of("tilt")
    assert told.finding("hold.tilt").reserve == pytest.approx(
        min(r.can.continuous / r.hold.rest, r.can.intermittent / r.hold.need)
    )
    assert told.finding("hold.tilt").reserve > base.reserve and r.hold.rest < r.hold.need
    whole = apply(wide, Edit("x", (Set(("joints", "tilt", "rests_deg"), (-90.0, 90.0)),)))
    assert study(whole).finding("hold.tilt").reserve == pytest.approx(base.reserve)


@settings(max_examples=30, deadline=None)
@given(st.floats(0.5, 30.0), st.floats(100.0, 4000.0))
def test_the_sentence_tells_the_pose_that_decides(wide, mass):
    """What it needs and where are those of what the verdict compares: where it may rest, or in passing; of what drops, the worst of all."""
    figure = head(mass_g=mass, servo="class_20", rests_deg=(-wide, wide))
    done = study(figure)
    r, finding = done.results.of("tilt"), done.finding("hold.tilt")
    where, needs = finding.sentence.quantities[0].value, finding.sentence.quantities[1].value
    drops = r.hold.need > r.can.stall
    assert ("drops" in finding.sentence.text) == drops
    assert needs == pytest.approx(r.hold.need if drops else finding.demand.value)
    if not drops and not r.hold.passing_binds(r.can):
        assert abs(where) <= math.radians(wide) + 1e-9
    tree, gravity = done.results.tree, done.results.gravities[0]
    assert abs(held_torque_Nm(tree, 0, np.array([[where]]), gravity)[0]) == pytest.approx(needs)


@settings(max_examples=15, deadline=None)
@given(st.floats(1.0, 30.0), st.floats(1.0, 30.0), st.floats(100.0, 2500.0))
def test_a_wider_rest_never_holds_better(a, b, mass):
    narrow, wide = sorted((a, b))
    figure = head(mass_g=mass, servo="class_20")
    reserves = [
        study(apply(figure, Edit("x", (Set(("joints", "tilt", "rests_deg"), (-w, w)),)))).finding("hold.tilt").reserve
        for w in (narrow, wide)
    ]
    assert reserves[1] <= reserves[0] * (1 + 1e-9)


@pytest.mark.parametrize("seed", range(8))
def test_side_load_over_all_poses(seed):
    """Brute force: the weight carried, across the axis as it stands in a thousand poses; once 4.5 % were missing."""
    figure = random_figure(seed, 4)
    tree, rng = build_tree(figure), np.random.default_rng(seed)
    gravities = np.array([posture_gravity(p, 9.80665) for p in figure.postures])
    axis = place(tree, any_poses(tree, rng, 3000)).axis
    for j in range(4):
        mass = sum(tree.mass[k] for k in tree.carried(j))
        brute = max(float(np.linalg.norm(np.cross(axis[j].T, g), axis=1).max()) for g in gravities) * mass
        told = largest_side(tree, j, gravities)
        assert brute * (1 - 1e-6) <= told <= mass * float(np.linalg.norm(gravities, axis=1).max()) * (1 + 1e-9)
        assert largest_side(replace(tree, mass=2 * tree.mass), j, gravities) == pytest.approx(2 * told)


def test_the_same_shaking_is_as_hot_in_a_long_score():
    """Five minutes of shaking were 1.14 in a 302 s score and 3.95 in an hour."""
    rows = [Row(0.5 + 0.5 * k, 0.5, 25.0 if k % 2 == 0 else -25.0) for k in range(600)]
    short, long = (
        study(scored(*rows, length_s=length, mass_g=500.0)).results.loads.joints[0] for length in (302.0, 3600.0)
    )
    assert long.rms == pytest.approx(short.rms, rel=1e-3) and long.rms_over == 120.0
    late = [row._replace(departs=row.departs + 400.0) for row in rows[:300]]
    there = study(scored(*late, length_s=900.0, mass_g=500.0)).results.loads.joints[0]
    assert 399.0 <= there.rms_at <= 431.5 and there.rms == pytest.approx(short.rms, rel=1e-2)
    assert long.rms >= study(scored(*rows[:8], length_s=4.5, mass_g=500.0)).results.loads.joints[0].rms * 0.98


@pytest.mark.parametrize("kind", ["trapezoid", "minimum jerk", "cosine"])
def test_the_root_mean_square_is_that_of_a_fine_integration(kind):
    """Within half a per cent; 25 samples a move were 5.5 % low where the acceleration steps."""
    rows = [
        Row(0.3 + 0.37 * k, 0.29, 28.0 if k % 2 == 0 else -28.0, kind, 0.1 if kind == "trapezoid" else 0.0)
        for k in range(20)
    ]
    figure = scored(*rows, length_s=8.0, mass_g=60.0, servo="class_35")
    results = study(figure).results
    played, score = results.loads.joints[0], results.loads.motion
    t = (np.arange(1_600_000) + 0.5) * (8.0 / 1_600_000)
    q, _, qdd = score.state(t)
    torque = drive_torque_Nm(results.tree, 0, q, results.gravities[0])
    inertia = drive_inertia(results.tree, q[:, :1], 0)[0] + played.joint.reflected
    fine = math.sqrt(float(np.mean((inertia * qdd[0] + torque) ** 2)))
    assert played.rms == pytest.approx(fine, rel=5e-3)


@pytest.mark.long
@pytest.mark.parametrize("seed", [0, 1, 2, 3])
def test_study_with_reuse_is_study_without(seed):
    """Random single edits of figures with followers, rest, guesses, and in two of them springs: every kept result must have been the right
    one."""
    rng = np.random.default_rng(seed)
    figure, reuse = following(seed, 4), Reuse()
    if seed >= 2:
        figure = random_elements(figure, seed, count=2)
    drives = tuple(
        Drive(id=f"d{j.id}", joint=j.id, actuator=servo_class("class_20")) for j in figure.joints if j.role == "driven"
    )
    rows = moves_of([Row(0.2, 0.4, 10.0), Row(1.0, 0.4, 0.0)])
    channels = tuple(JointChannel(id=f"c{d.joint}", name=d.joint, joints=(d.joint,), moves=rows) for d in drives)
    figure = Figure(**(dict(figure) | {"drives": drives, "scores": (Score(length_s=2.0, channels=channels),)}))
    for _ in range(3 if any(j.role == "free" for j in figure.joints) else 12):  # what hangs in two ways takes long
        figure = apply(figure, Edit("one", (_one_edit(rng, figure),)))
        kept, fresh = study(figure, reuse), study(figure)
        ours = {f.id: (f.verdict, f.reserve, f.reserve_low, f.reserve_high) for f in kept.findings}
        theirs = {f.id: (f.verdict, f.reserve, f.reserve_low, f.reserve_high) for f in fresh.findings}
        assert ours.keys() == theirs.keys()
        assert called(kept.findings) <= _now(figure)  # nothing is called what it was called before
        for ident, (_, *numbers) in theirs.items():
            for a, b in zip(ours[ident][1:], numbers, strict=True):
                assert (a is None) == (b is None) and (a is None or a == pytest.approx(b, rel=5e-3)), ident


def called(findings):
    """Every name of the edits below that stands in what is told."""
    words = " ".join(
        f"{f.sentence.text} {f.decides.text if f.decides else ''} {' '.join(d.title for d in f.derivations)}"
        for f in findings
    )
    return set(re.findall(r"\b(?:thing|turn|posture|there) \d+", words))


def _now(figure):
    return {
        n for item in (*figure.parts, *figure.joints, *figure.postures) for n in (item.name, *getattr(item, "ends", ()))
    }


def _one_edit(rng, figure):
    joint = figure.joints[int(rng.integers(len(figure.joints)))]
    body = figure.parts[int(rng.integers(len(figure.parts)))]
    drive = figure.drives[int(rng.integers(len(figure.drives)))]
    choices = [
        lambda: Set(("parts", body.id, "mass_g"), float(rng.uniform(10, 800))),
        lambda: Set(("parts", body.id, "plus_minus_g"), float(rng.uniform(0, 200))),
        lambda: Set(("parts", body.id, "at_mm"), tuple(float(v) for v in rng.uniform(-120, 120, 3))),
        lambda: Set(("joints", joint.id, "range_deg"), (float(rng.uniform(-80, 0)), float(rng.uniform(1, 80)))),
        lambda: Set(("joints", joint.id, "at_mm"), tuple(float(v) for v in rng.uniform(-80, 80, 3))),
        lambda: Set(("joints", joint.id, "axis"), tuple(float(v) for v in rng.normal(size=3))),
        lambda: Set(("joints", joint.id, "friction_Nm"), float(rng.uniform(0, 0.2))),
        lambda: Set(
            ("joints", joint.id, "drag"),
            {"kind": "bearing", "bearing": str(rng.choice(["print", "bush"])), "radius_mm": float(rng.uniform(2, 30))},
        ),
        lambda: Set(
            ("joints", joint.id, "drag"), {"kind": "pulled", "up_g": float(rng.uniform(0, 500)), "down_g": 0.0}
        ),
        lambda: Set(("drives", drive.id, "mount"), {"bracket": str(rng.choice(["metal", "foam"]))}),
        lambda: Set(("assumptions", "visible_deg"), float(rng.uniform(0.5, 3))),
        lambda: Set(("joints", joint.id, "rests_deg"), (-4.0, 6.0)),
        lambda: Set(("joints", joint.id, "stops_deg"), (-95.0, 95.0)),
        lambda: Set(("joints", joint.id, "move", "time_s"), float(rng.uniform(0.1, 2))),
        lambda: Set(("joints", joint.id, "move", "profile"), "sudden"),
        lambda: Set(
            ("drives", drive.id, "actuator"), servo_class(str(rng.choice(["class_4", "class_35", "class_60"])))
        ),
        lambda: Set(("supply", "voltage_V"), float(rng.uniform(4.8, 8.4))),
        lambda: Set(("assumptions", "growth_percent"), float(rng.uniform(0, 30))),
        lambda: Set(("assumptions", "passing_share"), float(rng.uniform(0.4, 0.8))),
        lambda: Set(("assumptions", "heat_window_s"), float(rng.uniform(1, 5))),
        lambda: Set(("postures", "lean", "lean_deg"), float(rng.uniform(-40, 40))),
        lambda: Set(("postures", "lean", "name"), f"posture {int(rng.integers(100))}"),
        lambda: Set(("parts", body.id, "name"), f"thing {int(rng.integers(100))}"),
        lambda: Set(("joints", joint.id, "name"), f"turn {int(rng.integers(100))}"),
        lambda: Set(("joints", joint.id, "ends"), ("here", f"there {int(rng.integers(100))}")),
        lambda: Set(("supply", "current_A"), float(rng.uniform(1, 20))),
        lambda: Set(("assumptions", "wished_margin"), float(rng.uniform(1.05, 1.6))),
    ]
    if figure.elements:
        element = figure.elements[int(rng.integers(len(figure.elements)))]
        choices = [
            choices[int(rng.integers(len(choices)))],
            lambda: Set(("elements", element.id, "count"), int(rng.integers(1, 4))),
            lambda: Set(("elements", element.id, "origin"), str(rng.choice(["weighed", "guess"]))),
            lambda: Set(("elements", element.id, "name"), f"spring {int(rng.integers(100))}"),
            lambda: Set(("elements", element.id, "mass_g"), float(rng.uniform(0, 60))),
        ]
        if element.kind == "torsion":
            choices.append(lambda: Set(("elements", element.id, "free_deg"), float(rng.uniform(-40, 40))))
        else:
            place = tuple(float(v) for v in rng.uniform(-100, 100, 3))
            ends = (element.ends[0], {"rides_on": element.ends[1].rides_on, "at_mm": place})
            choices.append(lambda: Set(("elements", element.id, "ends"), ends))
    if joint.role == "follows":
        choices += [lambda: Set(("joints", joint.id, "follows", "ratio"), float(rng.uniform(-2, 2))),
                    lambda: Set(("joints", joint.id, "follows", "offset_deg"), float(rng.uniform(-20, 20)))]  # fmt: skip
    return choices[int(rng.integers(len(choices)))]()
