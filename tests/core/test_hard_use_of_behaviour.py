"""Random edits of sounds, lines, life, scores and behaviour, in any order: what is left can be saved, read, judged and lived, and undone to the letter."""

import random

import pytest

from karakuri.behaviour.engine import Engine
from karakuri.behaviour.visitors import Visitors
from karakuri.demo import lamplighter_path, owl_path
from karakuri.errors import EditRefused, Trouble
from karakuri.files.disk import load
from karakuri.files.text import from_text, to_text
from karakuri.model.behaviour_edits import (
    TRIGGERS,
    add_guard,
    add_input,
    add_start,
    add_state,
    begin_with,
    behaviour_of,
    change_input,
    change_start,
    change_state,
    deed_words,
    deeds_for,
    first_behaviour,
    guard_words,
    remove_input,
    remove_start,
    remove_state,
    time_of_start,
    trigger_words,
)
from karakuri.model.edits import remove_item
from karakuri.model.joint_edits import remove_joint
from karakuri.model.score_edits import keep_score, play_score, remove_channel, remove_score, stretch_all
from karakuri.model.sound_edits import (
    add_jaw,
    change_lines,
    forget_lines,
    list_lines,
    move_play,
    put_sound,
    remove_play,
    say_lines,
)
from karakuri.motion.makers.life import live, set_life
from karakuri.motion.makers.voice import change_voice, with_jaws
from karakuri.motion.voice.following import NO_LIMIT
from karakuri.motion.voice.lines import said_when
from karakuri.session.session import Session
from karakuri.session.sounds import Sounds
from karakuri.study.study import study


def some(chance, items):
    """One of them. Raises EditRefused where there is none."""
    items = list(items)
    if not items:
        raise EditRefused("nothing there")
    return chance.choice(items)


def any_edit(figure, chance, heard):
    """Some edit of what speaks, lives and behaves; made now, so that it may be refused."""
    behaviour, score = behaviour_of(figure), figure.score

    def voice():
        return some(chance, score.voices)

    def play():
        one = voice()
        return one, some(chance, one.plays)

    def state():
        return some(chance, behaviour.states)

    def start():
        return some(chance, behaviour.starts)

    def each(edit):
        return edit[0] if isinstance(edit, tuple) else edit

    def said():
        lines = some(chance, figure.lines)
        return say_lines(figure, lines, said_when(figure, lines, 1, 2.0, score.length_s), 2.0)

    def spoken():
        maker = some(chance, [m for m in score.makers if m.kind == "voice"])
        return change_voice(figure, maker.id, heard, threshold_dB=chance.uniform(10, 40), ahead_s=chance.choice((None, 0.0, 0.2)))[0]  # fmt: skip

    def put():
        sound = some(chance, figure.sounds)
        fields = {"name": sound.name, "file": sound.file, "sha256": sound.sha256, "length_s": sound.length_s}
        return with_jaws(
            figure, put_sound(figure, fields, chance.uniform(0, score.length_s)), heard, lambda *_: NO_LIMIT
        )

    makers = {
        "put": put, "spoken": spoken, "said": said,
        "move": lambda: with_jaws(figure, move_play(*(lambda p: (p[0], p[1].id))(play()), chance.uniform(0, 20)), heard, lambda *_: NO_LIMIT),
        "off": lambda: remove_play(figure, *(lambda p: (p[0], p[1].id))(play())),
        "jaw": lambda: add_jaw(figure, voice(), some(chance, [c.id for c in score.moved if c.joints])),
        "mute": lambda: remove_channel(figure, voice()), "list": lambda: list_lines(figure),
        "lines": lambda: change_lines(figure, some(chance, figure.lines).id, "x", order=chance.choice(("in order", "at random")), every_s=chance.uniform(1, 9)),
        "forget": lambda: forget_lines(figure, some(chance, figure.lines).id),
        "unsound": lambda: remove_item(figure, "sounds", some(chance, figure.sounds).id),
        "life": lambda: set_life(figure, "x", does=tuple(chance.sample(("glances", "blinks", "breathes", "sways"), 2)), seed=chance.randrange(99)),
        "live": lambda: live(figure), "score": lambda: keep_score(figure, "Other"), "less": lambda: remove_score(figure),
        "turn": lambda: play_score(figure, some(chance, figure.scores).id), "slow": lambda: stretch_all(figure, chance.choice((0.9, 1.2))),
        "first": lambda: first_behaviour(figure), "state": lambda: add_state(figure, "State"),
        "plays": lambda: change_state(figure, state().id, "x", plays=tuple(d for _, _, d in chance.sample(deeds_for(figure), 2)), stays_s=chance.choice((None, (0.5, 2.0)))),
        "rank": lambda: change_state(figure, state().id, "x", priority=chance.randrange(10), deaf=chance.random() < 0.3),
        "out": lambda: remove_state(figure, state().id), "begin": lambda: begin_with(figure, state().id),
        "start": lambda: add_start(figure, state().id, chance.choice(list(TRIGGERS)), some(chance, behaviour.inputs).id, chance.choice(("", state().id))),
        "odds": lambda: change_start(figure, start().id, "x", chance=chance.choice((0.0, 0.4, 1.0)), cool_s=chance.choice((0.0, 3.0))),
        "when": lambda: time_of_start(figure, start().id, 0, chance.uniform(0, 5)), "guard": lambda: add_guard(figure, start().id, some(chance, behaviour.inputs).id, chance.choice(("on", "off"))),
        "stop": lambda: remove_start(figure, start().id), "input": lambda: add_input(figure, "Input", chance.choice(("button", "knob", "motion", "beam"))),
        "kind": lambda: change_input(figure, some(chance, behaviour.inputs).id, "x", kind=chance.choice(("knob", "motion", "switch"))),
        "noinput": lambda: remove_input(figure, some(chance, behaviour.inputs).id), "joint": lambda: remove_joint(figure, some(chance, figure.joints).id),
    }  # fmt: skip
    word = chance.choice([w for w in makers if w not in ("joint", "less", "mute", "unsound")] * 3 + list(makers))
    return word, lambda: each(makers[word]())


@pytest.mark.long
@pytest.mark.parametrize("seed", range(6))
def test_random_edits_leave_what_can_be_saved_judged_and_lived(seed):
    path = owl_path() if seed % 2 else lamplighter_path()
    figure, chance = load(path), random.Random(seed)
    heard = {each.sha256: each for each in Sounds(path.parent).loudness(figure)}
    session, done, refused = Session(figure), 0, 0
    for _ in range(70):
        _, make = any_edit(session.figure, chance, heard)
        try:
            session.edit(make)
            done += 1
        except Trouble as trouble:
            refused += 1
            assert str(trouble).strip()
    assert done > 25
    now = session.figure
    assert from_text(to_text(now)) == now
    told = study(now, heard=heard)
    assert not [f for f in told.findings if f.rule == "unjudged"], [
        f.sentence.text for f in told.findings if f.rule == "unjudged"
    ]
    behaviour = behaviour_of(now)
    for state in behaviour.states:
        assert all(deed_words(now, deed) for deed in state.plays)
    for start in behaviour.starts:
        assert trigger_words(behaviour, start.on) and all(guard_words(behaviour, guard) for guard in start.only)
    if behaviour.states:
        engine = Engine(now, Visitors(behaviour, seed, 2, 3.0).at, records=True, heard=heard)
        for k in range(20 * 50):
            engine.tick()
            if k % 50 == 0:
                for each in behaviour.inputs:
                    engine.hold(each.id, chance.choice((0.0, 100.0)))
        for ident, ribbon in engine.stage.ribbons.items():
            low, high = ribbon.channel.band(now)
            assert low <= ribbon.held(engine.now) <= high, ident
    while session.undo():
        pass
    assert session.figure == figure
