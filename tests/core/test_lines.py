"""Lists of lines: laws of what is said next, saying them in a score, and numbered copies for small players."""

from itertools import islice, pairwise

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from karakuri.demo import owl_path
from karakuri.errors import EditRefused, FileTrouble
from karakuri.exchange.contract import export
from karakuri.exchange.exporters import exporter
from karakuri.exchange.sounds import heard
from karakuri.files.disk import load
from karakuri.files.text import from_text, to_text
from karakuri.model.behaviour_edits import first_behaviour
from karakuri.model.edit import Edit, Set, apply
from karakuri.model.edits import remove_item
from karakuri.model.lines import Lines
from karakuri.model.sound import Sound
from karakuri.model.sound_edits import change_lines, forget_lines, list_lines, remove_play, say_lines
from karakuri.motion.life.chance import Chance
from karakuri.motion.voice.lines import said, said_when
from karakuri.session.sounds import Sounds

OWL = load(owl_path())


def listed(n=5, openings=0, **more):
    ids = tuple(f"s{k}" for k in range(n + openings))
    return Lines(id="l", name="L", lines=ids[openings:], openings=ids[:openings], **more)


@settings(max_examples=60, deadline=None)
@given(st.integers(1, 12), st.integers(0, 3), st.integers(0, 2**31 - 1))
def test_in_order_means_from_somewhere_on_and_round_again(n, openings, seed):
    lines = listed(n, openings)
    out = list(islice(said(lines, Chance(seed)), openings + 3 * n))
    assert tuple(out[:openings]) == lines.openings  # once, and first
    rest = out[openings:]
    assert rest[:n] == rest[n : 2 * n] == rest[2 * n :] and sorted(rest[:n]) == sorted(lines.lines)
    start = lines.lines.index(rest[0])
    assert rest[:n] == [*lines.lines[start:], *lines.lines[:start]]


@settings(max_examples=60, deadline=None)
@given(st.integers(1, 12), st.integers(0, 8), st.integers(0, 2**31 - 1))
def test_at_random_none_of_the_last_few_is_said_again(n, again, seed):
    lines = listed(n, order="at random", again_after=again)
    out = list(islice(said(lines, Chance(seed)), 400))
    last = min(again, n - 1)
    for k, line in enumerate(out):
        assert line not in out[max(0, k - last) : k]
    assert set(out) == set(lines.lines)


def test_where_it_begins_is_random_and_the_same_for_a_seed():
    lines = listed(5)
    firsts = [next(said(lines, Chance(seed))) for seed in range(500)]
    counts = [firsts.count(line) for line in lines.lines]
    assert min(counts) > 60 and firsts == [next(said(lines, Chance(seed))) for seed in range(500)]
    assert list(said(listed(0, 2), Chance(1))) == ["s0", "s1"] and not list(said(listed(0), Chance(1)))


@settings(max_examples=40, deadline=None)
@given(
    st.lists(st.floats(0.3, 12.0), min_size=1, max_size=6),
    st.floats(0.5, 20.0),
    st.floats(0, 30.0),
    st.floats(1.0, 120.0),
)
def test_no_line_is_said_over_another_nor_past_the_end(lengths, every, begins, room):
    sounds = tuple(Sound(id=f"s{k}", name=f"S{k}", file=f"s{k}.wav", sha256=f"{k}" * 64, length_s=round(s, 3)) for k, s in enumerate(lengths))  # fmt: skip
    lines = Lines(id="l", name="L", lines=tuple(s.id for s in sounds), every_s=round(every, 2))
    figure = apply(OWL, Edit("s", (Set(("sounds",), (*OWL.sounds, *sounds)), Set(("lines",), (lines,)))))
    when = said_when(figure, lines, 3, begins, begins + room)
    for (a, one), (b, _) in pairwise(when):
        assert b - a >= max(every, figure.sound(one).length_s) - 0.011
    assert all(at >= begins - 1e-3 and at + figure.sound(line).length_s <= begins + room + 1e-3 for at, line in when)


def test_lines_are_listed_said_said_anew_and_forgotten():
    edit, ident = list_lines(OWL)
    figure = apply(OWL, edit)
    assert figure.lines[0].lines == ("oh", "please_read_softly", "hoo_hoo")
    opening = {"openings": ("oh",), "lines": ("please_read_softly", "hoo_hoo")}
    figure = apply(figure, change_lines(figure, ident, "pace", every_s=2.5, **opening))
    lines = figure.lines[0]
    when = said_when(figure, lines, 1, 0.0, figure.score.length_s)
    said_once = apply(figure, say_lines(figure, lines, when, 0.0))
    mine = [play for play in said_once.score.voices[0].plays if play.made_by == ident]
    assert len(mine) == len(when) > 3 and len(said_once.score.voices[0].plays) == len(when) + 3
    again = apply(said_once, say_lines(said_once, lines, when[:2], 0.0))
    assert len([play for play in again.score.voices[0].plays if play.made_by == ident]) == 2
    assert from_text(to_text(again)) == again
    left = apply(again, forget_lines(again, ident))
    assert not left.lines and len(left.score.voices[0].plays) == 5
    with pytest.raises(EditRefused, match="is in a list of lines"):
        bare = apply(figure, Edit("x", (Set(("score", "channels", "voice", "plays"), ()),)))
        remove_item(bare, "sounds", bare.sounds[0].id)
    with pytest.raises(EditRefused, match="there is no sound 'gone'"):
        apply(figure, change_lines(figure, ident, "x", lines=("gone",)))
    kept = apply(figure, remove_play(figure, figure.score.voices[0], figure.score.voices[0].plays[0].id))
    assert len(kept.sounds) == 3  # a list still says it
    with pytest.raises(EditRefused, match="no sound yet"):
        list_lines(apply(OWL, Edit("x", (Set(("sounds",), ()), Set(("scores",), (type(OWL.score)(),))))))


@pytest.mark.parametrize("form", ["mp3", "wav", "same"])
def test_numbered_copies_stand_in_the_order_of_their_numbers_with_a_list(tmp_path, form):
    figure = apply(OWL, list_lines(OWL)[0])
    told = export(exporter("sounds"), figure, {"copies": form}, tmp_path / "card", media=Sounds(owl_path().parent).data)
    names = sorted(p.name for p in (tmp_path / "card").iterdir() if p.name[0].isdigit())
    assert len(names) == 3 and [name[:4] for name in names] == ["0001", "0002", "0003"] and "numbered" in told[0]
    listed = (tmp_path / "card" / "LIST.txt").read_text()
    assert all(name in listed for name in names) and "Lines 1: in order" in listed
    for name, sound in zip(names, figure.sounds, strict=True):
        found = heard((tmp_path / "card" / name).read_bytes(), name)
        assert found.length_s == pytest.approx(sound.length_s, abs=0.1) and np.abs(found.samples).max() > 0.3


def test_copies_of_sounds_that_are_gone_are_not_half_written(tmp_path):
    with pytest.raises(FileTrouble, match="not all sounds can be found"):
        export(exporter("sounds"), OWL, {"copies": "mp3"}, tmp_path / "card")
    assert not (tmp_path / "card").exists()
    bare = apply(OWL, Edit("x", (Set(("sounds",), ()), Set(("scores",), (type(OWL.score)(),)))))
    with pytest.raises(FileTrouble, match="has no sounds"):
        export(exporter("sounds"), bare, {"copies": "mp3"}, tmp_path / "card")


def test_a_player_whose_sounds_are_gone_says_so_and_is_written_all_the_same(tmp_path):
    """The owl speaks in a state of its own; its files are not there."""
    owl = apply(OWL, first_behaviour(OWL))
    told = export(exporter("player"), owl, {"controller": "atmega2560", "pulses": "i2c"}, tmp_path / "gone")
    assert any("Not found beside the figure" in line for line in told) and any("never noticed" in line for line in told)
    whole = export(
        exporter("player"),
        owl,
        {"controller": "atmega2560", "pulses": "i2c"},
        tmp_path / "here",
        media=Sounds(owl_path().parent).data,
    )
    assert not any("Not found" in line for line in whole)
    tables = [(tmp_path / name / "score.h").read_text().count("UL, ") for name in ("gone", "here")]
    assert tables[1] > tables[0] + 10, "the jaw's moves are in it"
