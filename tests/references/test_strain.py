"""What rods, teeth and belts bear over a score, against the joint's torque sampled finely by inverse dynamics, and by virtual work at the joint."""

import math

import numpy as np
from hypothesis import assume, given, settings
from hypothesis import strategies as st

from karakuri.bodies.linkages import of_form
from karakuri.checks.contract import LOADS
from karakuri.mechanics.dynamics import inverse_dynamics
from karakuri.model.drive import Drive
from karakuri.model.edit import Edit, Set, apply
from karakuri.model.figure import Figure
from karakuri.model.joint import Joint
from karakuri.model.moves import Row
from karakuri.model.transmission import Belt, Gear
from karakuri.study.remedies import remedies
from karakuri.study.reuse import Reuse
from karakuri.study.study import study
from tests.figures import scored
from tests.references.test_linkages import levers, well

ROWS = st.lists(
    st.tuples(st.floats(0.15, 0.6), st.floats(-25.0, 25.0), st.sampled_from(["minimum jerk", "cosine", "trapezoid"])),
    min_size=1,
    max_size=4,
)
FORMS = st.one_of(levers(), st.builds(Gear, driver=st.integers(12, 60), driven=st.integers(12, 60)), st.builds(lambda a, b: Belt(driver=a, driven=b, axes_mm=200.0), st.integers(12, 60), st.integers(12, 60)))  # fmt: skip


def figure_of(form, rows, mass_g=400.0, servo="class_60"):
    at, written = 0.2, []
    for takes, target, profile in rows:
        written.append(Row(at, takes, target, profile, 0.3 if profile == "trapezoid" else 0.0))
        at += takes + 0.1
    figure = scored(*written, mass_g=mass_g, servo=servo, length_s=round(at + 0.3, 2))
    drive, joint = figure.drives[0], figure.joints[0]
    still = Joint(**(dict(joint) | {"move": None, "range_deg": (-30.0, 30.0)}))
    return Figure(**(dict(figure) | {"joints": (still,), "drives": (Drive(**(dict(drive) | {"transmission": form})),)}))


def sampled(found, figure, linkage):
    """The slow way, N: the joint's own torque at every two thousandth of the score, through what lies between."""
    loads, tree = found.results[LOADS], found.results.tree
    q, qd, qdd = loads.motion.state(np.linspace(0.0, figure.score.length_s, 2001) * (1 - 1e-9))
    torque = np.max([np.abs(inverse_dynamics(tree, q, qd, qdd, g)[0]) for g in found.results.gravities], axis=0)
    return float(linkage.pulls(q[0], torque).max())


@settings(max_examples=40, deadline=None)
@given(FORMS, ROWS)
def test_what_a_score_does_to_rod_teeth_and_belt_is_told_and_no_more(form, rows):
    linkage = of_form(form)
    if form.kind == "lever":
        well(form, 0.55)
    figure = figure_of(form, rows)
    found = study(figure, Reuse())
    r, load = found.results.joints[0], found.results[LOADS].joints[0]
    assume(r.geared is not None and r.geared.shut)
    slow = sampled(found, figure, linkage)
    rubs = float(linkage.pulls(np.linspace(-0.53, 0.53, 101), np.full(101, load.joint.friction)).max())
    assert load.borne[0] >= slow * (1 - 1e-2) - 1e-9  # a move is sampled at 25 places
    assert load.borne[0] <= (slow + rubs) * 1.02 + 1e-9
    told = [f for f in found.findings if f.rule == "strain"]
    if load.borne[0] > r.geared.most * (1 + 1e-6):
        assert told and all(f.at_s == load.borne[1] for f in told)
        assert any(f.id == "strain.tilt.shaft" for f in told)
    else:
        assert not told


@settings(max_examples=15, deadline=None)
@given(levers(), ROWS, st.floats(1.2, 3.0))
def test_a_slower_score_strains_less_and_a_heavier_head_more(lever, rows, by):
    well(lever, 0.55)

    def borne(rows, mass_g=400.0):
        found = study(figure_of(lever, rows, mass_g), Reuse())
        assume(found.results.joints[0].geared is not None and found.results.joints[0].geared.shut)
        return found.results[LOADS].joints[0].borne[0]

    here = borne(rows)
    assert borne([(takes * by, target, profile) for takes, target, profile in rows]) <= here * (1 + 5e-3) + 1e-6
    assert borne(rows, 600.0) >= here - 1e-9


def test_a_sudden_move_is_not_left_out():
    """As fast as the drive goes: sped up half the way, braked the other; a rod that would hold it still buckles."""
    rows = (Row(0.5, 0.0, 25.0, "sudden"), Row(1.5, 0.0, -25.0, "sudden"))
    from karakuri.model.transmission import Lever

    lever = Lever(horn_mm=15.0, lever_mm=20.0, axes_mm=60.0, lever_deg=90.0, thick_mm=0.8)
    figure = scored(*rows, mass_g=400.0, servo="class_60")
    drive, joint = figure.drives[0], figure.joints[0]
    figure = Figure(**(dict(figure) | {"joints": (Joint(**(dict(joint) | {"move": None})),), "drives": (Drive(**(dict(drive) | {"transmission": lever})),)}))  # fmt: skip
    found = study(figure, Reuse())
    load, r = found.results[LOADS].joints[0], found.results.joints[0]
    k = int(np.nanargmin(load.moves.least))
    least, inertia = float(load.moves.least[k]), float(r.placed.pull.inertia.max()) if r.placed is not None else None
    assert load.borne[0] > r.geared.force and least > 0
    tree = found.results.tree
    heavy = inertia if inertia is not None else float(inverse_dynamics(tree, np.zeros((1, 1)), np.zeros((1, 1)), np.ones((1, 1)), np.zeros(3))[0, 0])  # fmt: skip
    way = math.radians(50.0)
    thrown = heavy * 4.0 * way / least**2
    assert load.borne[0] >= float(of_form(lever).pulls(np.array([0.0]), np.array([thrown]))[0]) * 0.8
    rods = next(f for f in found.findings if f.id == "strain.tilt.rod")
    assert rods.verdict != "holds" and rods.move is not None
    offered = remedies(found, rods, Reuse())
    assert any(remedy.verdict == "holds" for remedy in offered)
    thicker = apply(figure, Edit("t", (Set(("drives", drive.id, "transmission", "thick_mm"), 5.0),)))
    assert next(f for f in study(thicker, Reuse()).findings if f.id == "strain.tilt.rod").verdict == "holds"
