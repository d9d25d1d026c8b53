"""A fault inside one rule, one joint or the score: that alone is not judged, and says why; all the rest is."""

import pytest
from msgspec.structs import replace

from karakuri.catalogue import servo_class
from karakuri.checks import contract, hold
from karakuri.checks.rules import RULES
from karakuri.checks.unjudged import is_broken
from karakuri.demo import owl_path
from karakuri.files.disk import load
from karakuri.model.channel import JointChannel
from karakuri.model.drive import Drive
from karakuri.model.edit import Edit, Set
from karakuri.model.edit import apply as edited
from karakuri.model.figure import Figure, Supply
from karakuri.model.joint import Joint
from karakuri.model.moves import Row, moves_of
from karakuri.model.score import Score
from karakuri.study import remedies as ways
from karakuri.study import study as room
from karakuri.study.remedies import remedies
from karakuri.study.reuse import Reuse
from karakuri.study.study import study
from tests.figures import part


def ids(done):
    return {f.id: f.verdict for f in done.findings}


@pytest.fixture(scope="module")
def owl():
    return load(owl_path())


@pytest.fixture(scope="module")
def whole(owl):
    return study(owl)


def breaking(monkeypatch, name, text="x"):
    """Put an analysis that goes wrong in the place of the one of that name."""

    def fault(*given):
        raise FloatingPointError(text)

    table = {key: replace(a, run=fault) if key == name else a for key, a in room.ANALYSES.items()}
    monkeypatch.setattr(room, "ANALYSES", table)


@pytest.mark.parametrize("place", ["neck_tilt", "standing", "stalls", "loads"])
def test_a_fault_in_one_thing_leaves_the_others_judged(owl, whole, monkeypatch, place):
    real = room.joint_results

    def fault(*given):
        if given[2].id == place:
            raise FloatingPointError("overflow\n\x1b[31m")
        return real(*given)

    monkeypatch.setattr(room, "joint_results", fault)
    breaking(monkeypatch, place, "overflow\n\x1b[31m")
    done = study(owl)
    new = [f for f in done.findings if f.id not in ids(whole)]
    assert len(new) == 1 and new[0].verdict == "not yet judged" and "overflow" in new[0].sentence.text
    assert new[0].sentence.text.isprintable()
    lost = set(ids(whole)) - set(ids(done))
    assert lost and all(ids(done)[i] == ids(whole)[i] for i in set(ids(whole)) - lost if not i.startswith("supply"))


def test_a_fault_in_one_rule_stands_in_its_place(owl, whole, monkeypatch):
    def fault(results):
        yield from hold.each(results.joints[0], results)
        raise ZeroDivisionError("x")

    rules = tuple(contract.Rule("hold", fault, r.propose) if r.id == "hold" else r for r in RULES)
    monkeypatch.setattr(room, "RULES", rules)
    done = study(owl)
    of_rule = [f for f in done.findings if f.rule == "hold"]
    assert [f.verdict for f in of_rule] == ["not yet judged"]
    assert {i for i, f in ids(whole).items() if not i.startswith("hold")} <= set(ids(done))


def test_a_score_that_broke_is_judged_again_once_it_can_be(owl, whole, monkeypatch):
    breaking(monkeypatch, "loads")
    reuse = Reuse()
    broken = study(owl, reuse)
    monkeypatch.undo()
    again = study(edited(owl, Edit("name", (Set(("name",), "owl"),))), reuse, base=broken)
    assert ids(again) == ids(whole)


def test_a_way_out_that_breaks_something_is_not_offered(owl, whole, monkeypatch):
    finding = next(
        f for f in whole.findings if f.rule in ("hold", "shaft", "stops", "tipping") and remedies(whole, f, Reuse())
    )
    real = room.joint_results

    def fault(*given):
        raise FloatingPointError("x")

    monkeypatch.setattr(room, "joint_results", fault)
    assert remedies(whole, finding, Reuse()) == ()
    monkeypatch.setattr(room, "joint_results", real)
    monkeypatch.setattr(ways, "study", fault)
    assert remedies(whole, finding, Reuse()) == ()


@pytest.mark.parametrize("spare", [1.02, 100.0])
def test_a_servo_whose_load_is_not_known_is_never_counted_as_drawing_nothing(owl, spare):
    """Take a mass away: what it rides on may draw up to its stall. With room for that the supply holds, without it is not judged."""
    whole = study(owl)
    draws = max(f.demand.value for f in whole.findings if f.id in ("supply.score", "supply.start"))
    blind = edited(owl, Edit("x", (Set(("parts", "lower_beak", "mass_g"), None), Set(("parts", "lower_beak", "material"), None),
                                   Set(("supply", "current_A"), draws * spare))))  # fmt: skip
    verdicts = ids(study(blind))
    told = {verdicts["supply.score"], verdicts["supply.start"]}
    assert ("not yet judged" in told) == (spare < 2) and (spare < 2 or told == {"holds"})


def test_what_is_not_known_is_counted_as_no_less_than_whatever_it_may_turn_out():
    """Two joints beside each other, the mass on one of them unknown: with any mass it draws no more than is counted now."""
    arm, nod = (Joint(id=i, name=i, at_mm=(0.0, y, 100.0)) for i, y in (("arm", -200.0), ("nod", 200.0)))
    drives = tuple(Drive(id=f"{j.id}_servo", joint=j.id, actuator=servo_class("class_25")) for j in (arm, nod))
    channels = tuple(JointChannel(id=f"{j.id}_ribbon", name=j.name, joints=(j.id,), moves=moves_of([Row(0.5, 0.4, 20.0), Row(2.0, 0.6, 0.0)])) for j in (arm, nod))  # fmt: skip

    def demands(mass):
        parts = (part("a", "arm", 300.0, (40.0, -200.0, 130.0)), part("b", "nod", mass, (40.0, 200.0, 130.0)))
        figure = Figure(joints=(arm, nod), parts=parts, drives=drives, supply=Supply(current_A=60.0), scores=(Score(length_s=3.0, channels=channels),))  # fmt: skip
        done = study(figure)
        return [done.finding(f"supply.{key}").demand.value for key in ("score", "start")]

    unknown = demands(None)
    for mass in (1.0, 50.0, 400.0, 2000.0):
        assert all(known <= most + 1e-9 for known, most in zip(demands(mass), unknown, strict=True)), mass


def test_a_supply_with_braces_in_its_name_is_judged(owl):
    done = study(edited(owl, Edit("x", (Set(("supply", "name"), "pack {does} {0} {"),))))
    assert not any(map(is_broken, done.findings)) and done.finding("supply.score") is not None
