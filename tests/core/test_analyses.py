"""Analyses of a whole figure: worked out when asked for, from all they rest on and nothing else; one that goes wrong is never silence."""

import numpy as np
import pytest
from msgspec.structs import replace

from karakuri.bodies.cut import cut, weighing
from karakuri.bodies.tree import build_tree, posture_gravity
from karakuri.checks.contract import CORDS, DRAGS, STROKES, WORN
from karakuri.checks.rules import LATER, OF_BOTH, OF_THE_SCORE, RULES
from karakuri.course import ALONE
from karakuri.demo import demo_path
from karakuri.files.disk import load
from karakuri.mechanics.equilibrium import equilibrium
from karakuri.mechanics.hanging import _all_free, _at_rest, _drawn, _others_free
from karakuri.model.edit import Edit, Set, apply
from karakuri.model.fastening import MagnetFace
from karakuri.sizing.drag import dragging, returning
from karakuri.sizing.fastened import fastened, held_rows
from karakuri.study import analyses, of_body
from karakuri.study.reuse import Reuse
from karakuri.study.study import first_look, study
from tests.core.test_stroke import neck
from tests.references.test_equilibrium import hanging

WALRUS = load(demo_path("walrus"))


@pytest.mark.parametrize("seed", range(6))
def test_what_joints_rub_with_and_what_brings_them_back_needs_only_what_they_feel(seed):
    figure = hanging(seed)
    figure = apply(figure, Edit("rub", tuple(
        Set(("joints", joint.id, "drag"), {"kind": "bearing", "bearing": "print", "radius_mm": 6.0}) for joint in figure.joints
    )))  # fmt: skip
    tree = build_tree(figure)
    gravities = np.array([posture_gravity(p, 9.80665) for p in figure.postures])
    for joint in figure.joints:
        j, wanted = tree.index(joint.id), (-0.3, 0.4)
        felt = cut(tree, j)
        ours, theirs = dragging(felt.tree, felt.j, joint, gravities), dragging(tree, j, joint, gravities)
        assert ours.value == pytest.approx(theirs.value, rel=1e-6, abs=1e-9)
        ours, theirs = returning(felt.tree, felt.j, wanted, gravities), returning(tree, j, wanted, gravities)
        assert ours.torque == pytest.approx(theirs.torque, rel=1e-5, abs=1e-6)


@pytest.mark.parametrize("seed", range(6))
def test_what_holds_something_on_feels_only_that(seed):
    """Not what else the figure weighs, where nothing hangs in it; where something does, all of it."""
    figure, rng = hanging(seed), np.random.default_rng(seed)
    held, rides = figure.joints[-1].id, figure.joints[-1].rides_on
    it = MagnetFace(id="m", name="m", rides_on=rides, carries=(held,), at_mm=(1.0, 2.0, 3.0), off=(0.3, 0.2, 1.0))
    gravities = rng.normal(size=(2, 3)) * 9.8
    tree = build_tree(figure)
    for whole in (tree, replace(tree, coupling=replace(tree.coupling, hangs=()))):
        ours = fastened(it, weighing(whole, held_rows(whole, it.carries)), 0, gravities, 9.8)
        theirs = fastened(it, whole, 0, gravities, 9.8)
        assert ours.used == pytest.approx(theirs.used, rel=1e-9) and ours.outgrown_by == theirs.outgrown_by


@pytest.mark.parametrize("seed", range(6))
def test_all_that_hangs_is_let_go_in_one_search_as_each_by_itself(seed):
    """Held joints stay where they are drawn, and the rest comes to rest as if nothing else were searched for beside it."""
    tree = build_tree(hanging(seed, kinds=("spring", "torsion")))
    joints, gravity = tree.coupling.free, np.array([0.5, 0.0, -9.8])
    drawn = [(q, np.repeat(gravity[:, None], q.shape[1], axis=1)) for q in (_drawn(tree, j) for j in joints)]
    for j, (q, g), (let_go, held) in zip(joints, drawn, _at_rest(tree, joints, drawn), strict=True):
        alone, others = equilibrium(_all_free(tree), q, g), equilibrium(_others_free(tree, j), q, g)
        for ours, theirs in ((let_go.q, alone), (held, others)):
            surely = theirs.stable & theirs.converged  # what stands on a summit may be touched either way
            assert ours[:, surely] == pytest.approx(theirs.q[:, surely], abs=1e-4)
        assert (held[j] == q[j]).all()


def _one_edit(rng, figure):
    body = figure.parts[int(rng.integers(len(figure.parts)))]
    joint = figure.joints[int(rng.integers(len(figure.joints)))]
    element = figure.elements[int(rng.integers(len(figure.elements)))]
    fastening = figure.fastenings[int(rng.integers(len(figure.fastenings)))]
    choices = [
        Set(("parts", body.id, "mass_g"), float(rng.uniform(10, 400))),
        Set(("parts", body.id, "at_mm"), tuple(float(v) for v in rng.uniform(-120, 120, 3))),
        Set(("joints", joint.id, "at_mm"), tuple(float(v) for v in rng.uniform(-80, 80, 3))),
        Set(("joints", joint.id, "friction_Nm"), float(rng.uniform(0, 0.2))),
        Set(("elements", element.id, "count"), int(rng.integers(1, 4))),
        Set(("fastenings", fastening.id, "count"), int(rng.integers(1, 6))),
        Set(("fastenings", fastening.id, "spread_mm"), float(rng.uniform(5, 90))),
        Set(("base", "worn", "pitch_deg"), float(rng.uniform(-20, 20))),
        Set(("base", "worn", "turn_s"), float(rng.uniform(0.2, 2))),
        Set(("base", "worn", "by"), str(rng.choice(["head", "shoulders", "rods", "gimbal"]))),
        Set(("base", "worn", "contact_mm2"), float(rng.uniform(500, 9000))),
        Set(("postures", figure.postures[1].id, "lean_deg"), float(rng.uniform(-40, 60))),
        Set(("postures", figure.postures[1].id, "lasts_s"), float(rng.uniform(5, 600))),
        Set(("assumptions", "bump_g"), float(rng.uniform(0.2, 3))),
    ]
    return choices[int(rng.integers(len(choices)))]


@pytest.mark.long
@pytest.mark.parametrize("seed", range(2))
def test_what_is_kept_of_a_worn_figure_was_the_right_one(seed):
    """Random single edits of what is worn, hung, pulled by a cord and held on by magnets: study with reuse is study without."""
    rng, figure, reuse = np.random.default_rng(seed), WALRUS, Reuse()
    for _ in range(10):
        figure = apply(figure, Edit("one", (_one_edit(rng, figure),)))
        kept, fresh = ({f.id: f for f in study(figure, *some).findings} for some in ((reuse,), ()))
        assert kept.keys() == fresh.keys()
        for ident, theirs in fresh.items():
            ours = kept[ident]
            assert (ours.verdict, ours.sentence.text) == (theirs.verdict, theirs.sentence.text), ident
            for a, b in ((ours.reserve, theirs.reserve), (ours.reserve_low, theirs.reserve_low)):
                assert a == b or a == pytest.approx(b, rel=5e-3), ident


@pytest.mark.parametrize("demo", ["owl", "walrus", "lamplighter"])
def test_a_first_look_tells_what_a_quick_study_tells(demo):
    figure = load(demo_path(demo))
    found = study(figure, quick=True).findings
    rules = {rule.id: rule for rule in RULES if rule.id not in OF_THE_SCORE | OF_BOTH | LATER}
    seen = 0
    for finding in found:
        if finding.rule in rules:
            seen += 1
            again = first_look(figure, finding, rules[finding.rule], Reuse(), ALONE)
            assert again is not None and again.verdict == finding.verdict, finding.id
            assert again.reserve == finding.reserve or again.reserve == pytest.approx(finding.reserve, rel=1e-3)
    assert seen > 10


def test_a_first_look_works_out_nothing_it_is_not_asked_for():
    finding = next(f for f in study(WALRUS).findings if f.rule == "worn" and f.verdict != "holds")
    reuse = Reuse()
    first_look(WALRUS, finding, next(rule for rule in RULES if rule.id == "worn"), reuse, ALONE)
    assert dict(reuse.computed) == {"worn": 1}


def test_what_went_wrong_is_told_and_so_is_what_rests_on_it(monkeypatch):
    """Drag that could not be worked out must not leave an actuator judged as if nothing rubbed."""

    def wrong(given):
        raise ArithmeticError("it went wrong")

    key = DRAGS.name
    table = analyses.ANALYSES | {key: replace(analyses.ANALYSES[key], run=wrong)}
    monkeypatch.setattr("karakuri.study.study.ANALYSES", table)
    done = study(neck())
    assert done.results[DRAGS] is None and done.results[STROKES] is None
    told = [f for f in done.findings if f.verdict == "not yet judged" and "could not be judged" in f.sentence.text]
    assert any("it went wrong" in f.sentence.text for f in told)
    assert {f.verdict for f in done.findings if f.rule == "actuators"} == {"not yet judged"}


def test_every_analysis_is_asked_for_once_and_in_any_order():
    done = study(WALRUS)
    assert set(done.results.found) == set(analyses.ANALYSES)
    assert done.results[WORN] and done.results[CORDS] and of_body.RETURN
