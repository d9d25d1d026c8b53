"""What is told of elements over all their joints can do, and edits of them."""

import numpy as np
import pytest

from karakuri.bodies.tree import build_tree
from karakuri.catalogue import servo_class
from karakuri.checks.assist import MOST, STEP, _between, _least
from karakuri.checks.body_proposals import needed
from karakuri.checks.convex import WorstHold
from karakuri.errors import Trouble
from karakuri.mechanics.kinematics import place
from karakuri.mechanics.loads import length_of
from karakuri.model.drive import Drive
from karakuri.model.edit import Add, Edit, Remove, Set, apply
from karakuri.model.edits import remove_item
from karakuri.model.element import Anchor, Pad, Spring, Strut, Torsion, anchors
from karakuri.model.element_edits import KINDS, add_element, add_guide, drop_guide, set_anchor
from karakuri.model.figure import Figure
from karakuri.model.joint import Joint
from karakuri.model.sides import twin_joint
from karakuri.sizing.strung import in_pose, strung
from karakuri.study.study import study
from tests.figures import Y, head, part, random_elements, random_figure
from tests.references.test_followers_and_bounds import any_poses

RULE = {"cable": "cables", "actuator": "actuators", "motor": "turning", "hand": "hands"}

DOWN = np.array([[0.0, 0.0, -9.80665]])


def lever(**more) -> Figure:
    """A lever of 40 mm on a pivot, ±40°, with a spring from 60 mm ahead."""
    joint = Joint(id="j", name="lever", axis=Y, range_deg=(-40.0, 40.0))
    fields = {"free_mm": 30.0, "rate_N_per_mm": 0.2, "origin": "weighed"} | more
    ends = (Anchor(at_mm=(60.0, 0.0, 0.0)), Anchor(rides_on="j", at_mm=(0.0, 0.0, 40.0)))
    return Figure(
        joints=(joint,),
        parts=(part("m", "j", 50.0, (0.0, 0.0, 40.0)),),
        elements=(Spring(id="s", name="spring", ends=ends, **fields),),
    )


@pytest.mark.parametrize("seed", range(8))
def test_no_pose_draws_an_element_longer_or_shorter(seed):
    figure = random_elements(random_figure(seed, 4, slides=True), seed)
    tree = build_tree(figure)
    q = any_poses(tree, np.random.default_rng(seed), 2000)
    for i, load in enumerate(tree.loads):
        found, length = strung(tree, i, DOWN), length_of(tree, place(tree, q), q, load)
        assert found.shortest <= length.min() + 1e-3 * abs(length.min()) and found.longest >= length.max() - 1e-3 * abs(
            length.max()
        )
        there = in_pose(tree, found.at_longest)[i]
        assert there.s == pytest.approx(found.longest, rel=1e-9) and there.force == pytest.approx(found.most, abs=1e-9)


@pytest.mark.parametrize(("longest", "verdict"), [(60.0, "fails"), (100.0, "tight"), (200.0, "holds")])
def test_a_spring_drawn_too_far(longest, verdict):
    """Its way at −40° is √((60 + 40 sin 40°)² + (40 cos 40°)²) mm, by hand; it may be drawn from 30 mm to `longest`."""
    far = float(np.hypot(60 + 40 * np.sin(np.radians(40)), 40 * np.cos(np.radians(40))))
    told = study(lever(longest_mm=longest)).finding("elements.s")
    assert told.verdict == verdict and told.reserve == pytest.approx((longest - 30) / (far - 30), rel=1e-4)


@pytest.mark.parametrize(
    ("long", "stroke", "verdict"), [(85.0, 60.0, "fails"), (120.0, 110.0, "holds"), (120.0, 60.0, "fails")]
)
def test_a_strut_out_of_its_stroke(long, stroke, verdict):
    """The lever's way runs from 46 to 91 mm: a strut of 85 mm is pulled apart, one that only goes in to 60 mm is crushed."""
    figure = lever()
    strut = Strut(id="s", name="strut", ends=figure.elements[0].ends, long_mm=long, stroke_mm=stroke, force_N=5.0)
    told = study(Figure(**(dict(figure) | {"elements": (strut,)}))).finding("elements.s")
    assert told.verdict == verdict
    if verdict == "fails":
        assert ("drawn out to" if long < 91 else "pressed together to") in told.sentence.text


def test_what_does_nothing_says_why():
    text = lambda figure: study(figure).finding("elements.s").sentence.text  # noqa: E731
    assert "stays slack" in text(lever(free_mm=300.0))
    assert "say its rate" in text(lever(rate_N_per_mm=None))
    same = apply(lever(), set_anchor(lever().elements[0], 0, rides_on="j"))
    assert "rides on one body" in text(same)
    assert study(lever(rate_N_per_mm=None)).finding("elements.s").actions[0].subject.kind == "element"


@pytest.mark.parametrize("kind", sorted(KINDS))
def test_each_kind_is_added_moved_twinned_and_taken_away(kind):
    figure = head(at=(20.0, 30.0, 150.0))
    figure = apply(figure, Edit("x", (Set(("joints", "tilt", "at_mm"), (0.0, 25.0, 100.0)),)))
    added = apply(figure, add_element(figure, kind, "tilt"))
    element = added.elements[0]
    assert element.kind == kind and study(added).finding(f"{RULE.get(kind, 'elements')}.{element.id}") is not None
    twinned = apply(added, twin_joint(added, "tilt")[0])
    assert len(twinned.elements) == 2 and twinned.elements[1].name != element.name
    both = [study(twinned).results.of(j.id).hold.pulled for j in twinned.joints if twinned.drive_of(j.id)]
    assert both[0] == pytest.approx(both[1], abs=1e-9)
    gone = apply(twinned, remove_item(twinned, "joints", "tilt"))
    assert all("tilt" not in (getattr(e, "joint", ""), *(a.rides_on for a in anchors(e))) for e in gone.elements)
    assert not apply(added, Edit("x", (Remove("elements", element.id),))).elements
    if kind not in ("torsion", "motor", "hand"):
        moved = apply(added, set_anchor(element, 1, at_mm=(1.0, 2.0, 3.0)))
        assert anchors(moved.elements[0])[1].at_mm == (1.0, 2.0, 3.0)
        guided = apply(added, add_guide(element))
        assert (
            len(anchors(guided.elements[0])) == 3 and not apply(guided, drop_guide(guided.elements[0])).elements[0].over
        )


@pytest.mark.parametrize("make", [
    lambda: Strut(id="s", name="s", ends=(Anchor(), Anchor()), long_mm=50.0, stroke_mm=0.0, force_N=1.0),
    lambda: Pad(id="s", name="s", ends=(Anchor(), Anchor()), thick_mm=5.0, rate_N_per_mm=-1.0),
    lambda: Figure(elements=(Torsion(id="t", name="t", joint="nobody"),)),
    lambda: Figure(elements=(Spring(id="t", name="t", ends=(Anchor(rides_on="x"), Anchor()), free_mm=3.0),)),
])  # fmt: skip
def test_what_cannot_be_is_refused(make):
    with pytest.raises((ValueError, Trouble)):
        make()


@pytest.mark.parametrize("seed", range(6))
def test_the_softest_assist_spring_by_the_envelope_is_that_of_a_search(seed):
    """Against searching the whole edited figure at each rate, on random figures, with and without places where the joint may not rest."""
    figure = random_figure(seed, 4)
    joints = [
        Joint(**(dict(j) | ({"rests_deg": (j.range_deg[0] / 3, j.range_deg[1] / 3)} if k % 2 else {})))
        for k, j in enumerate(figure.joints)
    ]
    drives = tuple(Drive(id=f"d{j.id}", joint=j.id, actuator=servo_class("class_35")) for j in figure.joints)
    done = study(Figure(**(dict(figure) | {"joints": tuple(joints), "drives": drives})))
    compared = 0
    for r in done.results.joints:
        spring = _between(r, done.results)

        def fitted(rate, spring=spring):
            return Edit("s", (Add("elements", Spring(**(dict(spring) | {"rate_N_per_mm": round(rate / 1e3, 5)}))),))

        hold = WorstHold(done.results, r.joint.id, fitted, STEP, MOST)
        best = hold.at(hold.lowest())
        for limit in (1.2 * best, 0.5 * (best + r.hold.need), 0.9 * best):
            ours, theirs = _least(r, done.results, fitted, limit), hold.least(limit)
            if limit < best:
                assert ours is None and theirs is None
            elif theirs is not None and best < 0.95 * r.hold.need:
                compared += 1
                close = abs(ours - theirs) <= 0.03 * theirs + 2 * STEP
                assert close or needed(done.results, r.joint.id, fitted(theirs)) > 0.995 * limit, (r.joint.id, limit)
                assert needed(done.results, r.joint.id, fitted(ours)) <= 1.002 * limit
    assert compared >= 1 or seed not in (0, 1)
