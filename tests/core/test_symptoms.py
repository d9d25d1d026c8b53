"""By what is seen: every rule that is named exists, every symptom lists what bears on it, the worst first."""

from karakuri.checks.rules import RULES
from karakuri.checks.symptoms import SYMPTOMS, causes, symptom_of
from karakuri.demo import owl_path
from karakuri.session.session import Session
from karakuri.study.study import study

WANTED = ("leans", "flips", "shakes", "twitches", "stalls", "too slow", "gets hot", "slams", "falls off", "mouth hardly moves", "won't stay put")  # fmt: skip


def test_every_symptom_is_understood_and_names_rules_there_are():
    rules = {rule.id for rule in RULES} | {"weigh"}
    assert [symptom_of(words).seen[0] for words in WANTED] == list(WANTED)
    assert all(set(s.rules) <= rules and s.beyond for s in SYMPTOMS)
    assert symptom_of("it shakes").id == "shakes" and symptom_of("won’t stay put").id == "stays"
    assert (
        symptom_of("wobb", whole=False).id == "shakes"
        and symptom_of("wobb") is None
        and symptom_of("xyzw", False) is None
    )
    words = [w for s in SYMPTOMS for w in s.seen]
    assert len(words) == len(set(words))


def test_causes_are_findings_of_those_rules_worst_first():
    figure = Session.from_template(owl_path()).figure
    findings = study(figure).findings
    ranks = ["fails", "not yet judged", "tight", "holds"]
    for symptom in SYMPTOMS:
        found = causes(symptom, figure, findings)
        assert {f.rule for f in found} <= set(symptom.rules)
        assert [ranks.index(f.verdict) for f in found] == sorted(ranks.index(f.verdict) for f in found)
    assert causes(symptom_of("stalls"), figure, findings)[0].id == "move.neck_tilt"
    mouth = causes(symptom_of("mouth hardly moves"), figure, findings)
    assert mouth and all(
        "beak" in f.id.lower() or f.subject.kind not in ("joint", "drive", "channel", "move") for f in mouth
    )
