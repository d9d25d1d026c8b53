"""The worst pose: against a grid up to 4 joints, by agreement of other starts beyond; tipping likewise."""

import itertools
import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from msgspec.structs import replace

from karakuri.bodies.tree import build_tree, posture_gravity
from karakuri.mechanics.statics import centre_of_mass, holding_torque_Nm
from karakuri.mechanics.tied import of_degree, tied_coordinate_ascent
from karakuri.mechanics.tipping import edges, footing, margin_m, worst_tipping
from karakuri.mechanics.turn import best_angle
from karakuri.mechanics.worst import QUICK_STARTS, worst_pose
from karakuri.model.edit import Edit, Set, apply
from karakuri.model.figure import Figure
from karakuri.model.joint import Follow, Joint
from karakuri.model.stand import Base
from tests.figures import head, random_figure


def pulls(figure):
    return np.array([posture_gravity(p, 9.80665) for p in figure.postures])


def grid(tree, steps):
    axes = [np.linspace(low, high, steps) for low, high in zip(tree.low, tree.high, strict=True)]
    return np.array(list(itertools.product(*axes))).T


@pytest.mark.parametrize(
    ("seed", "joints", "slides"),
    [(1, 1, False), (2, 2, False), (3, 3, False), (4, 3, True), (5, 4, False), (6, 4, False), (7, 2, True)],
)
def test_no_grid_point_is_worse(seed, joints, slides):
    figure = random_figure(seed, joints, slides)
    tree, gravities = build_tree(figure), pulls(figure)
    q = grid(tree, {1: 2001, 2: 101, 3: 25, 4: 13}[joints])
    for j in range(joints):
        if tree.slides[j]:
            continue
        best = max(float(np.abs(holding_torque_Nm(tree, q, g)[j]).max()) for g in gravities)
        found = worst_pose(tree, j, gravities)
        again = holding_torque_Nm(tree, found.pose[:, None], gravities[found.posture])[j, 0]
        assert again == pytest.approx(found.hold, rel=1e-9, abs=1e-12)
        assert abs(found.hold) >= best * (1 - 1e-7)
        assert abs(found.hold) <= best * 1.15 + 1e-9
        assert np.all(found.pose >= tree.low - 1e-12) and np.all(found.pose <= tree.high + 1e-12)
        moments = [_moment(tree, q, g, j) for g in gravities]
        assert found.moment >= max(moments) * (1 - 1e-4)


def _moment(tree, q, gravity, j):
    from karakuri.mechanics.kinematics import carried_mass, carried_moment, cross, place

    placed = place(tree, q)
    first = carried_moment(tree, placed)[j] - carried_mass(tree)[j] * placed.pivot[j]
    total = cross(first, np.broadcast_to(gravity[:, None], first.shape))
    along = np.einsum("in,in->n", placed.axis[j], total)
    return float(np.sqrt(np.maximum(0, (total**2).sum(axis=0) - along**2)).max())


@pytest.mark.parametrize("seed", [11, 12, 13])
def test_more_starts_find_nothing_worse_on_large_trees(seed):
    figure = random_figure(seed, 9)
    tree, gravities = build_tree(figure), pulls(figure)
    for j in (0, 3, 8):
        few, many = worst_pose(tree, j, gravities), worst_pose(tree, j, gravities, starts=256)
        assert abs(few.hold) == pytest.approx(abs(many.hold), rel=1e-6)
        assert few.agreement > 0


def test_joints_that_do_not_matter_stay_at_rest():
    figure = random_figure(21, 5)
    tree = build_tree(figure)
    last = len(tree.ids) - 1
    found = worst_pose(tree, last, pulls(figure)[:1])
    for k in range(len(tree.ids)):
        if k not in tree.chains[last] and k not in tree.below[last]:
            assert found.pose[k] == pytest.approx(np.clip(0.0, tree.low[k], tree.high[k]))


@pytest.mark.parametrize("seed", [1, 2, 3])
def test_tipping_against_a_grid(seed):
    figure = random_figure(seed, 3)
    base = Base(
        outline_mm=((-150.0, -120.0), (160.0, -120.0), (160.0, 130.0), (-150.0, 130.0), (0.0, 0.0)), floor_mm=-400.0
    )
    tree, gravities = build_tree(figure), pulls(figure)
    q = grid(tree, 25)
    corners, inward = edges(footing(base))
    assert len(corners) == 4
    worst = math.inf
    for g in gravities:
        at = centre_of_mass(tree, q).T - np.array([0, 0, -0.4])
        for corner, normal in zip(corners, inward, strict=True):
            d = (at[:, :2] - corner) @ normal
            lean = math.atan2(-g[:2] @ normal, -g[2])
            worst = min(worst, float((np.arctan2(d, at[:, 2]) - lean).min()))
    found = worst_tipping(tree, footing(base), gravities)
    assert found is not None
    assert found.angle <= worst + 1e-5
    assert found.angle >= worst - 0.02


def test_margin_is_the_distance_to_the_edge_seen_along_gravity():
    base = Base()
    level = np.array([0, 0, -9.81])
    assert margin_m(footing(base), np.array([0.03, 0.0, 0.2]), level) == pytest.approx(0.07)
    tilted = np.array([9.81 * math.sin(0.3), 0, -9.81 * math.cos(0.3)])
    assert margin_m(footing(base), np.array([0.03, 0.0, 0.2]), tilted) == pytest.approx(0.07 - 0.2 * math.tan(0.3))
    # 6 kg, b 110, h 380 mm: static angle atan(b/h) = 16.1° (any statics text)
    assert math.degrees(math.atan2(110, 380)) == pytest.approx(16.1, abs=0.05)


def test_a_figure_without_mass_does_not_tip():
    figure = head()
    empty = type(figure)(joints=figure.joints)
    assert worst_tipping(build_tree(empty), footing(empty.base), pulls(empty)) is None


@settings(max_examples=200, deadline=None)
@given(st.floats(-3, 3), st.floats(-3, 3), st.floats(-7, 7), st.floats(0, 9), st.floats(-7, 7))
def test_the_best_angle_is_that_of_trying_all(a, b, low, wide, now):
    """Of a cos q + b sin q over any range, also one wider than a turn; at most as good as trying finds it, at least as good as that."""
    found = float(best_angle(np.array([a]), np.array([b]), low, low + wide, np.array([now]))[0])
    if math.hypot(a, b) <= 1e-15:
        assert found == now  # nothing to choose by: it stays
        return
    q = np.linspace(low, low + wide, 4001)
    assert low - 1e-9 <= found <= low + wide + 1e-9
    assert a * math.cos(found) + b * math.sin(found) >= float((a * np.cos(q) + b * np.sin(q)).max()) - 1e-9


@settings(max_examples=60, deadline=None)
@given(st.integers(1, 2), st.lists(st.floats(-2, 2), min_size=5, max_size=5), st.floats(-4, 2), st.floats(0.01, 7))
def test_what_is_a_wave_of_a_coordinate_is_largest_where_trying_all_finds_it(degree, numbers, low, wide):
    """A torque and a torque's square along a coordinate that nothing follows: one closed step is as good as four thousand tries."""
    tree = replace(build_tree(head()), low=np.array([low]), high=np.array([low + wide]))

    def value(q):
        x = q[0]
        out = numbers[0] + numbers[1] * np.cos(x) + numbers[2] * np.sin(x)
        return out + (numbers[3] * np.cos(2 * x) + numbers[4] * np.sin(2 * x) if degree == 2 else 0.0)

    q = np.full((1, 1), low)
    best = tied_coordinate_ascent(tree, value, [0], q, of_degree(tree, value, degree))
    every = value(np.linspace(low, low + wide, 4001)[None, :])
    assert low - 1e-9 <= q[0, 0] <= low + wide + 1e-9 and best[0] == value(q)[0]
    assert best[0] >= every.max() - 1e-4 * (1 + np.ptp(every))


def following(figure: Figure, seed: int) -> Figure:
    """The same with its last turning joint led by one before it."""
    *others, last = figure.joints
    ahead = next((joint for joint in others if joint.kind == last.kind == "turn"), None)
    if ahead is None:
        return figure
    led = Joint(**(dict(last) | {"role": "follows", "follows": Follow(joint=ahead.id, ratio=(-1.5, -1.0, 0.5, 2.0)[seed % 4])}))  # fmt: skip
    return Figure(**(dict(figure) | {"joints": (*others, led)}))


@pytest.mark.parametrize("tied", [False, True], ids=["alone", "tied"])
@pytest.mark.parametrize("seed", range(12))
def test_what_is_searched_while_dragging_comes_close_to_what_settles(seed, tied):
    """From the last worst poses, after a part moved by up to 15 mm: a thousandth short at most, and never beyond; where joints are tied, and
    both are found by trying, never by more than a ten-thousandth."""
    beyond = 1 + (1e-4 if tied else 1e-6)
    figure = random_figure(seed, 2 + seed % 5, seed % 3 == 0)
    figure = following(figure, seed) if tied else figure
    part = next(p for p in figure.parts if p.rides_on != "base")
    x, y, z = part.at_mm
    moved = apply(figure, Edit("m", (Set(("parts", part.id, "at_mm"), (x + 15.0, y - 10.0, z + 5.0)),)))
    before, tree, gravities = build_tree(figure), build_tree(moved), pulls(moved)
    for j in (j for j in range(len(tree.ids)) if not tree.slides[j]):
        last, settled = worst_pose(before, j, gravities), worst_pose(tree, j, gravities)
        quick = worst_pose(tree, j, gravities, QUICK_STARTS, (last.pose, last.moment_pose), plain=False, hurried=True)
        assert 0.999 * abs(settled.hold) - 1e-9 <= abs(quick.hold) <= abs(settled.hold) * beyond + 1e-9
        assert quick.moment >= 0.98 * settled.moment - 1e-9
