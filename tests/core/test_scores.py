"""Several scores of one figure, and files from before there were several."""

import json
import random

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from karakuri.checks.rules import OF_THE_SCORE
from karakuri.demo import lamplighter_path, owl_path, walrus_path
from karakuri.errors import EditRefused, FileTrouble, Trouble
from karakuri.files.disk import load
from karakuri.files.text import from_text, to_text
from karakuri.model.edit import Edit, Remove, Set, apply
from karakuri.model.finding import VERDICTS
from karakuri.model.joint_edits import remove_joint
from karakuri.model.moves import Row, moves_of
from karakuri.model.score_edits import add_move, keep_score, of_every, play_score, remove_channel, remove_score
from karakuri.motion.makers.pin import pin_at
from karakuri.study.study import study
from tests.figures import scored

OWL = load(owl_path())
OWL = apply(OWL, remove_channel(OWL, OWL.score.voices[0]))


def before(figure=OWL, idle=True):
    """The text of a figure as version 1 wrote it."""
    data = json.loads(to_text(figure)) | {"version": 1}
    (score,) = data.pop("scores")
    pins = [maker for maker in score.pop("makers") if maker.pop("kind") == "pin"]
    data["score"] = {key: value for key, value in score.items() if key != "id"} | {"pins": pins}
    if idle:
        data["score"]["idle"] = {"seed": 5, "waits_s": [1.0, 3.0]}
    return data


def test_a_file_from_before_says_the_same_today():
    data = before(idle=False)
    assert from_text(json.dumps(data)) == OWL
    data["score"]["idle"] = {"seed": 5, "waits_s": [1.0, 3.0]}
    moves = data["score"]["channels"][0]["moves"]
    moves["made_by"] = ["idle", "gone", *[""] * (len(moves["departs_s"]) - 2)]
    figure = from_text(json.dumps(data))
    assert figure.score.life.seed == 5 and figure.score.pins == OWL.score.pins
    assert figure.score.moved[0].moves.made_by[:2] == ("life", "")  # whom nobody knows wrote nothing
    assert from_text(to_text(figure)) == figure


def test_idle_life_beside_a_pin_called_life_gets_another_id():
    data = before()
    data["score"]["pins"][0]["id"] = "life"
    figure = from_text(json.dumps(data))
    assert {maker.id for maker in figure.score.makers} >= {"life", "life_2"} and figure.score.life.id == "life_2"


@settings(max_examples=80, deadline=None)
@given(st.data())
def test_a_mutilated_file_from_before_is_told_or_read(data):
    plain = before()
    score = plain["score"]
    where = data.draw(st.sampled_from((plain, score, score["channels"][0], score["channels"][0]["moves"], score["pins"][0], score["idle"])))  # fmt: skip
    key = data.draw(st.sampled_from(sorted(where)))
    where[key] = data.draw(st.sampled_from((None, -1, 1e300, "x", [], {}, [[]], True, [1, "a"], 0, 1)))
    try:
        assert from_text(to_text(from_text(json.dumps(plain)))).version == 2
    except Trouble as trouble:
        assert str(trouble)


def test_a_score_of_before_is_refused_in_a_file_of_today():
    data = before() | {"version": 2}
    with pytest.raises(FileTrouble, match="score: expected no such field"):
        from_text(json.dumps(data))


def test_another_score_has_the_ribbons_and_what_is_done_stays_in_it():
    edit, ident = keep_score(OWL, "Night")
    two = apply(OWL, edit)
    assert two.score.id == ident and [c.id for c in two.score.moved] == [c.id for c in OWL.score.moved]
    assert not two.score.moves_something and two.scores[0] == OWL.score
    channel = two.score.moved[0]
    moved = apply(two, add_move(channel, Row(1.0, 0.5, 5.0))[0])
    assert moved.score.moves_something and moved.scores[0] == OWL.score
    pinned = apply(moved, pin_at(moved, "hoot", 4.0)[0])
    assert len(pinned.score.pins) == 1 and pinned.scores[0] == OWL.score
    back = apply(pinned, play_score(pinned, OWL.score.id))
    assert back.score == OWL.score and back.scores[1] == pinned.score
    assert from_text(to_text(back)) == back
    alone = apply(pinned, remove_score(pinned))
    assert alone.scores == OWL.scores
    with pytest.raises(EditRefused, match="at least one score"):
        remove_score(alone)


def test_every_score_is_judged_as_if_it_were_in_hand():
    """The worst that is told of one that is not in hand is what is told of it in hand, of all demo figures and with their moves shortened."""
    chance = random.Random(4)
    for path in (owl_path(), walrus_path(), lamplighter_path()):
        figure = load(path)
        moves = figure.score.moved
        two = apply(figure, keep_score(figure, "Other")[0])
        steps = []
        for channel in moves:
            rows = [row._replace(departs=row.departs * 0.7, takes=max(0.05, row.takes * chance.choice((0.3, 0.7))), made_by="") for row in channel.moves.rows()]  # fmt: skip
            steps.append(Set(("score", "channels", channel.id, "moves"), moves_of(rows)))
        night = apply(two, Edit("hurry", tuple(steps)))
        day = apply(night, play_score(night, figure.score.id))
        in_hand, beside = study(night), study(day)
        told = beside.finding(f"scores.{night.score.id}")
        alone = study(apply(day, Edit("drop", (Remove("scores", night.score.id),))))
        known = {f.id: f for f in alone.findings}
        assert told.verdict == min(
            (f.verdict for f in in_hand.findings if f.rule in OF_THE_SCORE - {"scores"}), key=VERDICTS.index
        )
        assert [f for f in beside.findings if f.rule != "scores"] == list(known.values())  # and changes nothing else
        assert "which is not in hand" in told.sentence.text


def test_what_a_ribbon_is_it_is_in_every_score():
    two = apply(OWL, keep_score(OWL, "Night")[0])
    channel = two.score.moved[0]
    parked = apply(two, Edit("park", of_every(two, channel.id, "park", 3.0)))
    assert {score.channel(channel.id).park for score in parked.scores} == {3.0}
    with pytest.raises(EditRefused, match="moves something else, or parks elsewhere"):
        apply(two, Edit("park", (Set(("score", "channels", channel.id, "park"), 3.0),)))
    joint = channel.joints[0]
    gone = apply(two, remove_joint(two, joint))
    assert all(score.channel_of(joint) is None for score in gone.scores)


def test_who_wrote_a_move_is_somebody():
    figure = scored(Row(0.0, 1.0, 5.0, made_by="life"))
    with pytest.raises(EditRefused, match="there is no maker 'life'"):
        apply(figure, Edit("forget", (Set(("score", "makers"), ()),)))
    with pytest.raises(EditRefused, match="there is no score 'night'"):
        apply(figure, Edit("play", (Set(("playing",), "night"),)))
