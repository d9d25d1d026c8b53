"""What a figure does by itself, judged: the score that is judged is what the engine did, and what that asks of the figure is told."""

import numpy as np
import pytest

from karakuri.behaviour import drill as drilled
from karakuri.behaviour.drill import drill
from karakuri.behaviour.engine import Engine
from karakuri.behaviour.senses import TICK_HZ
from karakuri.bodies.tree import build_tree
from karakuri.catalogue import servo_class
from karakuri.checks.contract import LIVED
from karakuri.demo import demo_path
from karakuri.files.disk import load
from karakuri.mechanics.starts import rest_pose
from karakuri.model.behaviour import After, Attends, Behaviour, Input, Lives, Parks, Poses, Says, Start, State
from karakuri.model.channel import SoundChannel
from karakuri.model.edit import Add, Edit, Set, apply
from karakuri.model.edits import fit_servo
from karakuri.model.joint import Support
from karakuri.model.part import Part
from karakuri.model.power import Load, Power
from karakuri.model.score import Score
from karakuri.model.score_edits import keep_pose, put_score
from karakuri.model.sound import Sound
from karakuri.motion.score_motion import Tracks, score_motion
from karakuri.study.answers import Answers
from karakuri.study.orders import Order, Studied
from karakuri.study.reuse import Reuse
from karakuri.study.study import study
from tests.core.test_life import being
from tests.references.test_living_player import lively


@pytest.mark.parametrize("seed", range(12))
def test_the_score_that_is_judged_is_what_the_engine_did(seed, monkeypatch):
    """Of random lively figures, ribbon by ribbon, tick by tick; every state was there, and it begins and ends at park."""
    figure, known = lively(seed)
    places, made = [], []

    class Watched(Engine):
        def tick(self):
            super().tick()
            made[:] = [self]
            places.append([ribbon.at(self.now) for ribbon in self.stage.ribbons.values()])

    monkeypatch.setattr(drilled, "Engine", Watched)
    score = drill(figure, known.heard, known.can)
    table = np.array(places).T
    times = np.arange(1, table.shape[1] + 1) / TICK_HZ
    assert len(score.moved) == len(figure.ribbons) and all(made[0].counts.values())
    tracks, ends = Tracks(), np.array([0.0, score.length_s])
    for channel, did in zip(score.moved, table, strict=True):
        track = tracks.of(channel, 1.0)
        assert np.abs(track.at(times)[0] - did).max() < 0.02, channel.name
        assert track.at(ends)[0] == pytest.approx([channel.park] * 2, abs=0.011)
    for voice in score.voices[:1]:
        assert len(voice.plays) == len(made[0].stage.sounded)
    assert score == drill(figure, known.heard, known.can)
    assert score_motion(apply(figure, put_score(score)), build_tree(figure), rest_pose(build_tree(figure)), Tracks()).length == score.length_s  # fmt: skip


def nods(by_deg, axis=None, **power):
    """A figure whose score is empty, and which goes between two poses by itself."""
    figure = being(without=[j.id for j in being().joints if j.id != "neck_pan"])
    figure = apply(figure, fit_servo(figure, "neck_pan", servo_class("class_20")))
    bearing = Set(("joints", "neck_pan", "support"), Support(kind="turntable"))  # it throws its head about
    figure = apply(figure, Edit("bearing", (bearing,)))
    if axis is not None:
        figure = apply(figure, Edit("axis", (Set(("joints", "neck_pan", "axis"), axis),)))
    head = Part(id="head", name="Head", rides_on="neck_pan", mass_g=300.0, at_mm=(80.0, 0.0, 220.0))
    figure = apply(figure, Edit("head", (Set(("parts",), (head,)),)))
    figure = apply(figure, keep_pose(figure, "Away", {"neck_pan": min(by_deg, figure.joint("neck_pan").range_deg[1])}))
    away, home = (
        State(id="away", name="Away", plays=(Poses(pose=figure.poses[-1].id, takes_s=0.5),)),
        State(id="home", name="Home", plays=(Parks(),)),
    )
    starts = tuple(Start(id=f"to_{to}", to=to, on=After(between_s=(1.0, 1.5))) for to in ("home", "away"))
    behaviour = Behaviour(states=(home, away), starts=starts, approach_deg_per_s=400.0)
    steps = [Set(("behaviour",), behaviour), Set(("score", "makers"), ()), Set(("base", "held"), "fixed")]
    steps += [Set(("score", "channels", c.id, "moves"), type(c.moves)()) for c in figure.score.moved if len(c.moves)]
    if power:
        steps += [
            Set(("power",), Power(loads=(Load(id="c", name="C", kind="controller", amps=0.05, guess=False),))),
            Set(("supply", "current_A"), power["amps"]),
        ]
    return apply(figure, Edit("nods", tuple(steps)))


def verdict(figure):
    found = {f.id: f for f in study(figure).findings}
    return found["lived"].verdict, found["lived"]


def test_what_only_its_behaviour_asks_for_is_no_longer_said_to_hold():
    """The score is empty: by it nothing is drawn but by a controller, and a supply of 0.15 A is enough. By what it does it is not; a larger one is never worse."""
    order = ("fails", "not yet judged", "tight", "holds")
    seen = []
    for amps in (0.15, 0.4, 1.0, 3.0, 12.0):
        figure = nods(35.0, amps=amps)
        said, found = verdict(figure)
        seen.append(order.index(said))
        assert ("by itself" in found.sentence.text) and (
            said == "holds" or "supply" in found.sentence.text or found.sentence.text
        )
    assert seen == sorted(seen) and seen[0] == 0 and seen[-1] == 3


def test_a_heavier_head_never_makes_what_it_does_by_itself_better():
    order, seen = ("fails", "not yet judged", "tight", "holds"), []
    for times in (1.0, 4.0, 16.0, 64.0):
        figure = nods(40.0, axis=(0.0, 1.0, 0.0))
        steps = [
            Set(("parts", part.id, "mass_g"), min(part.mass_g * times, 200_000.0))
            for part in figure.parts
            if part.rides_on == "neck_pan"
        ]
        seen.append(order.index(verdict(apply(figure, Edit("heavier", tuple(steps))))[0]))
    assert seen == sorted(seen, reverse=True) and seen[-1] == 0


def test_nothing_is_said_where_it_does_nothing_by_itself_and_while_a_hand_drags():
    figure = nods(20.0)
    assert not any(f.rule == "lived" for f in study(apply(figure, Edit("none", (Set(("behaviour",), None),)))).findings)
    reuse = Reuse()
    whole = study(figure, reuse)
    part = figure.parts[0]
    moved = apply(figure, Edit("m", (Set(("parts", part.id, "mass_g"), part.mass_g * 1.01),)))
    quick = study(moved, reuse, quick=True, base=whole)
    assert [f for f in quick.findings if f.rule == "lived"] == [f for f in whole.findings if f.rule == "lived"] != []
    shorter = apply(figure, Edit("s", (Set(("score", "length_s"), 7.0),)))
    dragged = study(shorter, reuse, quick=True, base=whole)
    assert dragged.results[LIVED] is whole.results[LIVED]
    assert study(shorter, reuse, base=whole).results[LIVED] is not whole.results[LIVED]


def test_what_is_wrong_with_the_behaviour_is_told_once_and_not_of_every_score():
    """A state that nothing leads to: tight by itself, and no score that is not in hand is tight for it."""
    figure = nods(20.0)
    lost = State(id="lost", name="Lost", plays=(Lives(), Attends()))
    steps = (
        Set(("behaviour", "states"), (*figure.behaviour.states, lost)),
        Set(("behaviour", "inputs"), (Input(id="b", name="B", kind="button"),)),
    )
    figure = apply(figure, Edit("lost", steps))
    figure = apply(figure, put_score(Score(id="other", name="Other", length_s=3.0, channels=figure.score.channels)))
    assert any(f.rule == "behaviour" and f.verdict == "tight" for f in study(figure).findings)
    others = [f for f in study(figure).findings if f.rule == "scores"]
    assert all(f.verdict == "holds" for f in others)


def test_the_lamplighter_holds_in_what_it_does_by_itself():
    figure = load(demo_path("lamplighter"))
    said, found = verdict(figure)
    assert said == "holds" and "lived for" in found.sentence.text
    scores = study(figure).results[LIVED].score
    assert apply(figure, put_score(scores)).score.name == "What it does by itself"
    assert scores.loops and scores.moves_something


def test_it_is_told_behind_the_rest_and_what_was_offered_stands():
    """The window's answers: findings, remedies, then the same with what it does by itself, equal to a study of all at once; a newer order has it stand as it was found."""
    figure, told = nods(35.0, amps=0.15), []
    answers = Answers(told.append, lambda: 1)
    answers.order(Order(1, figure, False))
    kinds = [type(each).__name__ + ("+" if getattr(each, "further", False) else "") for each in told]
    assert kinds[0] == "Studied" and kinds[-2:] == ["Studied+", "Finished"] and kinds.count("Studied+") == 1
    assert not any(f.rule == "lived" for f in told[0].study.findings)
    whole = {f.id: (f.verdict, f.sentence.text) for f in study(figure).findings}
    assert {f.id: (f.verdict, f.sentence.text) for f in told[-2].study.findings} == whole
    told.clear()
    answers.order(Order(1, apply(figure, Edit("s", (Set(("score", "length_s"), 8.0),))), False))
    assert [f.verdict for f in told[0].study.findings if f.rule == "lived"] == ["fails"]
    still = apply(figure, Edit("none", (Set(("behaviour",), None),)))
    told.clear()
    answers.order(Order(1, still, False))
    assert not any(f.rule == "lived" for each in told if isinstance(each, Studied) for f in each.study.findings)


def test_two_scores_with_ribbons_of_their_own_for_a_joint_and_a_behaviour_that_never_rests_are_judged():
    figure = nods(20.0)
    mine = figure.score.moved[0]
    other = type(mine)(**(dict(mine) | {"id": "another", "name": "Another"}))
    figure = apply(
        figure, Edit("two", (Add("scores", Score(id="other", name="Other", length_s=3.0, channels=(other,))),))
    )
    assert len(figure.ribbons) == len(figure.score.moved) + 1 and len(drill(figure).moved) == len(figure.score.moved)
    sound = Sound(id="hello", name="Hello", file="voice/hello.wav", sha256="a" * 64, length_s=1.0)
    says = tuple(
        State(id=each, name=each, plays=(Says(sound="hello"),), stays_s=(0.0, 0.0)) for each in ("here", "there")
    )
    starts = tuple(Start(id=f"to_{to}", to=to, on=After(between_s=(0.0, 0.0))) for to in ("there", "here"))
    restless = apply(figure, Edit("r", (Add("sounds", sound), Add("score.channels", SoundChannel(id="voice", name="Voice")), Set(("behaviour",), Behaviour(states=says, starts=starts)))))  # fmt: skip
    done = study(restless)
    assert any(f.rule == "lived" for f in done.findings) and not any(f.rule == "unjudged" for f in done.findings)
    assert len(done.results[LIVED].score.voices[0].plays) <= 2000
