"""Left and right: a twin is the mirror image in every pose, a pair blinks and looks as one, and pairs are known by name or by a word."""

import numpy as np
import pytest
import trimesh
from hypothesis import given, settings
from hypothesis import strategies as st

from karakuri.bodies.tree import build_tree
from karakuri.catalogue import servo_class
from karakuri.errors import EditRefused, Trouble
from karakuri.exchange.meshes import shape_of
from karakuri.mechanics.kinematics import place, place_points
from karakuri.model.channel import JointChannel
from karakuri.model.drive import Drive
from karakuri.model.edit import Edit, Set, apply
from karakuri.model.figure import Figure
from karakuri.model.joint import Follow, Joint, Move, Support
from karakuri.model.joint_edits import remove_joint
from karakuri.model.makers import Life
from karakuri.model.part import Part
from karakuri.model.score import Score
from karakuri.model.sides import may_pair, mirrored, other_side, set_twin, twin_joint, twin_of, twin_part
from karakuri.model.stand import Posture
from karakuri.model.transmission import Lever
from karakuri.motion.makers.life import make
from karakuri.study.study import study
from tests.figures import random_figure


def left_arm(seed: int) -> tuple[Figure, str]:
    """A random figure, its second joint called left, with servos, one follower and everything that rides on it."""
    figure = random_figure(seed, 6, slides=True)
    rides = {"j1": "j0", "j2": "j1", "j3": "j1", "j4": "j3", "j5": "j0"}
    joints = []
    for j in figure.joints:
        fields = dict(j) | {
            "rides_on": rides.get(j.id, j.rides_on),
            "name": f"left {j.name}" if j.id in ("j1", "j2") else j.name,
        }
        if j.id == "j4":
            fields |= {
                "role": "follows",
                "follows": Follow(joint="j2" if seed % 2 else "j0", ratio=0.7, offset_deg=4.0, offset_mm=2.0),
            }
        joints.append(Joint(**fields))
    drives = tuple(Drive(id=f"d{j.id}", joint=j.id, actuator=servo_class("class_20")) for j in joints if j.id != "j4")
    return Figure(**(dict(figure) | {"joints": tuple(joints), "drives": drives})), "j1"


def placed_bodies(figure, pose, names):
    """Where bodies are (n, 3) m in a pose, joint → rad or m, in the order of names."""
    tree = build_tree(figure)
    q = np.zeros((len(tree.ids), 1))
    for ident, value in pose.items():
        q[tree.index(ident)] = value
    from karakuri.bodies.coordinates import complete

    at = place(tree, complete(tree.coupling, q))
    found = {b.id: place_points(tree, at, b.link, tree.body_at[i : i + 1])[0, :, 0] for i, b in enumerate(tree.bodies)}
    return np.array([found[name] for name in names])


@pytest.mark.parametrize("seed", range(12))
def test_a_twin_is_the_mirror_image_in_every_pose(seed):
    figure, ident = left_arm(seed)
    before = {p.id for p in figure.parts}
    edit, made = twin_joint(figure, ident)
    both = apply(figure, edit)
    theirs = [p.id for p in both.parts if p.id not in before]
    ours = [p.id for p in figure.parts if p.rides_on in ("j1", "j2", "j3", "j4")]
    assert len(theirs) == len(ours) and both.joint(made).name == "right joint 1" and twin_of(both, ident) == made
    rng = np.random.default_rng(seed)
    pose = {
        j: float(rng.uniform(-1, 1)) * (0.02 if figure.joint(j).kind == "slide" else 1.0) for j in ("j1", "j2", "j3")
    }
    reflected = mirrored(both, pose)
    assert set(reflected) == {twin_of(both, j) for j in pose}
    a, b = placed_bodies(both, pose, ours), placed_bodies(both, reflected, theirs)
    assert a * [1, -1, 1] == pytest.approx(b, abs=1e-9)
    for j in pose:  # the range holds the mirrored places of the range
        one, other = both.joint(j), both.joint(twin_of(both, j))
        field = "range_mm" if one.kind == "slide" else "range_deg"
        ends = sorted(mirrored(both, {j: end})[other.id] for end in getattr(one, field))
        assert getattr(other, field) == pytest.approx(tuple(ends)), j


@pytest.mark.parametrize("seed", range(3))
def test_twins_hold_as_much(seed):
    """The mirror image under the same gravity asks the same of its servos."""
    figure, ident = left_arm(seed)
    figure = Figure(**(dict(figure) | {"postures": figure.postures[:1]}))
    joints = tuple(Joint(**(dict(j) | {"axis": (0.0, 1.0, 0.0)})) if j.id == "j0" else j for j in figure.joints)
    figure = Figure(**(dict(figure) | {"joints": joints}))  # what both ride on nods, which is its own mirror image
    both = apply(figure, twin_joint(figure, ident)[0])
    results = study(both).results
    for r in results.joints:
        twin = twin_of(both, r.joint.id)
        if twin is not None and both.joint(twin).rides_on != both.joint(r.joint.id).rides_on:
            assert results.of(twin).hold.need == pytest.approx(r.hold.need, rel=2e-3), r.joint.id


def test_what_cannot_have_a_twin_says_why():
    figure, ident = left_arm(1)
    with pytest.raises(EditRefused, match="has a twin already"):
        twin_joint(apply(figure, twin_joint(figure, ident)[0]), ident)
    flat = apply(figure, Edit("x", tuple(Set(("joints", j.id, "at_mm"), (0.0, 0.0, 5.0)) for j in figure.joints)
                              + tuple(Set(("parts", p.id, "at_mm"), (1.0, 0.0, 5.0)) for p in figure.parts)))  # fmt: skip
    with pytest.raises(EditRefused, match="middle line"):
        twin_joint(flat, ident)
    lifted = apply(flat, twin_part(flat, flat.parts[0].id))
    assert lifted.parts[-1].at_mm == (1.0, 0.0, 15.0)


@settings(max_examples=60, deadline=None)
@given(
    st.lists(
        st.sampled_from(
            ["left", "Left", "LEFT", "right", "Right", "RIGHT", "lid", "a", "_", "-", ", ", " ", "é", "copy"]
        ),
        max_size=7,
    ).map("".join)
)
def test_left_and_right_are_whole_words_and_swap_back(name):
    assert other_side(other_side(name)) == name


@pytest.mark.parametrize(
    ("name", "wanted"),
    [
        ("Eye pan, left", "Eye pan, right"),
        ("LEFT ear", "RIGHT ear"),
        ("lid_right", "lid_left"),
        ("copyright", "copyright"),
        ("Left-Right", "Right-Left"),
    ],
)
def test_words_of_sides(name, wanted):
    assert other_side(name) == wanted


def eyes(**more):
    joints = tuple(Joint(id=f"a{i}", name=f"{what} {side}", axis=(0.0, 0.0, 1.0), timing=timing, ends=ends, range_deg=span)
                   for i, (what, side, timing, ends, span) in enumerate([
                       ("Pan", "left", "eye", ("a", "b"), (-30.0, 20.0)), ("Pan", "right", "eye", ("a", "b"), (-20.0, 30.0)),
                       ("Lid", "left", "lid", ("open", "shut"), (0.0, 25.0)), ("Lid", "right", "lid", ("open", "shut"), (0.0, 22.0))]))  # fmt: skip
    channels = tuple(JointChannel(id=f"c{j.id}", name=j.name, joints=(j.id,)) for j in joints)
    return Figure(
        joints=joints, scores=(Score(length_s=60.0, channels=channels, makers=(Life(waits_s=(2.0, 5.0)),)),), **more
    )


def test_a_left_and_a_right_one_look_and_blink_as_one():
    """Separate ribbons: they once looked each its own way."""
    made = make(eyes(), eyes().score.life)
    for one, other in (("ca0", "ca1"), ("ca2", "ca3")):
        assert len(made[one]) == len(made[other]) > 4
        for a, b in zip(made[one], made[other], strict=True):
            assert (a.departs, a.takes) == (b.departs, b.takes)
    assert all(a.target == b.target for a, b in zip(made["ca0"], made["ca1"], strict=True))
    assert {row.target for row in made["ca2"]} == {25.0, 0.0} and {row.target for row in made["ca3"]} == {22.0, 0.0}
    against = apply(eyes(), Edit("x", (Set(("joints", "a1", "axis"), (0.0, 0.0, -1.0)),)))
    made = make(against, against.score.life)
    assert all(a.target == -b.target for a, b in zip(made["ca0"], made["ca1"], strict=True))


def test_pairs_by_the_builders_word():
    figure = eyes()
    assert twin_of(figure, "a0") == "a1" and twin_of(figure, "a1") == "a0"
    named = apply(
        figure, Edit("x", (Set(("joints", "a0", "name"), "Sinister"), Set(("joints", "a1", "name"), "Dexter")))
    )
    assert twin_of(named, "a0") is None
    said = apply(named, set_twin(named, "a0", "a1"))
    assert twin_of(said, "a0") == "a1" and twin_of(said, "a1") == "a0"
    assert {j.id for j in may_pair(said, "a0")} == {"a1", "a2", "a3"}
    assert apply(said, remove_joint(said, "a1")).joint("a0").twin is None
    for wrong in ("a0", "gone", "base"):
        with pytest.raises(Trouble):
            apply(said, set_twin(said, "a0", wrong))
    with pytest.raises(Trouble, match="twin of two"):
        apply(said, set_twin(said, "a2", "a1"))


def test_a_pair_by_word_inside_a_twin_is_a_pair_again_and_stays_one():
    figures = [left_arm(seed)[0] for seed in range(12)]
    figure, mate = next((f, j.id) for f in figures for j in may_pair(f, "j2") if j.id in ("j3", "j4"))
    said, ident = apply(figure, set_twin(figure, "j2", mate)), "j1"
    both = apply(said, twin_joint(said, ident)[0])
    assert both.joint("j2").twin == mate
    copies = [
        j
        for j in both.joints
        if j.id not in {k.id for k in said.joints} and j.twin is not None and j.twin not in {k.id for k in said.joints}
    ]
    assert len(copies) == 1


@settings(max_examples=12, deadline=None)
@given(
    st.integers(0, 500),
    st.sampled_from([(1.0, 0.0, 0.0), (0.0, 1.0, 0.0), (0.0, 0.0, 1.0), (0.6, 0.5, 0.3)]),
    st.floats(60.0, 120.0),
)
def test_a_twin_by_a_lever_and_of_a_mesh_is_judged_as_the_first(seed, axis, stands):
    """A slanted mesh on an arm that horn and rod turn, to one side only: what is said of it and of its twin is the same."""
    rng = np.random.default_rng(seed)
    body = trimesh.creation.box(extents=(90.0, 40.0, 60.0))
    body.vertices[:, 2] += 0.4 * body.vertices[:, 1] + 0.2 * body.vertices[:, 0]
    body.vertices[body.vertices[:, 0] > 0] *= (1.0, 0.5, 1.3)
    shape = shape_of(np.asarray(body.vertices), np.asarray(body.faces), "x.stl")
    turned = tuple(float(v) for v in rng.uniform(-90, 90, 3))
    arm = Part(
        id="p", name="left hand", rides_on="j", shape=shape, at_mm=(30.0, 90.0, 140.0), turned_deg=turned, mass_g=300.0
    )
    joint = Joint(
        id="j",
        name="left arm",
        at_mm=(0.0, 60.0, 120.0),
        axis=axis,
        range_deg=(-12.0, 28.0),
        move=Move(by=20.0, time_s=0.5),
        support=Support(kind="bush"),
    )
    lever = Lever(horn_mm=12.0, lever_mm=20.0, axes_mm=50.0, lever_deg=stands)
    drive = Drive(id="d", joint="j", actuator=servo_class("class_20"), transmission=lever)
    postures = (Posture(id="level", name="level"), Posture(id="lean", name="lean", lean_deg=15.0))
    figure = Figure(joints=(joint,), parts=(arm,), drives=(drive,), postures=postures)
    edit, twin = twin_joint(figure, "j")
    found = study(apply(figure, edit)).findings
    mine = {f.id.replace(".j", "."): f for f in found if f.subject.id == "j" and f.rule != "stops"}
    other = {f.id.replace(f".{twin}", "."): f for f in found if f.subject.id == twin and f.rule != "stops"}
    assert mine.keys() == other.keys() and "linkage." in mine
    for ident, one in mine.items():
        assert one.verdict == other[ident].verdict, ident
        if one.reserve is not None:  # a demand that is next to nothing is that for both
            assert 1 / max(other[ident].reserve, 1e-9) == pytest.approx(
                1 / max(one.reserve, 1e-9), rel=1e-4, abs=1e-6
            ), ident
