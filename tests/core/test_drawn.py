"""Paths of parts as drawn, and that every kind of thing says its kind in a file."""

import math
import types
import typing

import pytest
from hypothesis import given
from hypothesis import strategies as st
from pydantic_core import ValidationError

from karakuri.demo import DEMOS, demo_path
from karakuri.errors import FileTrouble
from karakuri.files.disk import load
from karakuri.files.text import from_text, to_text
from karakuri.model.channel import JointChannel
from karakuri.model.drag import Bearing, Pulled
from karakuri.model.drawn import POINTS, Drawn, pieces, written
from karakuri.model.figure import Figure
from karakuri.model.joint import Joint
from karakuri.model.part import Part
from karakuri.model.picture import Picture
from karakuri.values.fields import fields_of
from karakuri.values.value import Form, Value

NUMBERS = st.floats(-500, 500).map(lambda v: round(v, 2))


@given(st.lists(st.tuples(st.sampled_from("LCQ"), st.lists(NUMBERS, min_size=6, max_size=6)), min_size=1, max_size=8), st.booleans())  # fmt: skip
def test_a_path_reads_back_however_it_is_spaced(rows, commas):
    gap = "," if commas else " "
    text, wanted = "M 1 2", [("M", ((1.0, 2.0),))]
    for letter, numbers in rows:
        some = numbers[: 2 * POINTS[letter]]
        text += letter + gap.join(f"{n:g}" for n in some)
        wanted.append((letter, tuple((float(f"{a:g}"), float(f"{b:g}")) for a, b in zip(some[::2], some[1::2], strict=True))))  # fmt: skip
    assert pieces(text + "Z") == (*wanted, ("Z", ()))


@pytest.mark.parametrize("path", ["", "M", "M 1 2", "L 1 2", "M 1 2 L 3", "M 1 2 A 3 4", "M 1 2 L 1e9 0", "M 1 2 L nan 0", "M 1 2 Z 3", "0 0 1 1", "m 1 2 l 3 4"])  # fmt: skip
def test_what_is_no_path_is_told(path):
    with pytest.raises(ValidationError, match=r"expected|begins|Infinity|finite"):
        Drawn(view="side", path=path)


def test_corners_are_written_as_a_path():
    assert pieces(written([(0.0, 0.0), (10.04, 0.0), (10.0, 5.0)])) == (
        ("M", ((0.0, 0.0),)), ("L", ((10.0, 0.0),)), ("L", ((10.0, 5.0),)), ("Z", ()),
    )  # fmt: skip


@pytest.mark.parametrize("name", sorted(DEMOS))
def test_demos_are_drawn_from_the_side_and_the_front(name):
    figure = load(demo_path(name))
    assert figure.name == DEMOS[name]
    for view in ("side", "front"):
        drawn = [part for part in figure.parts if any(each.view == view for each in part.drawn)]
        assert len(drawn) >= 7
        for part in drawn:  # a drawing lies about where the part does
            xs = [x for each in part.drawn if each.view == view for _, points in pieces(each.path) for x, _ in points]
            assert min(xs) - 130 < part.at_mm[0 if view == "side" else 1] < max(xs) + 130
    assert from_text(to_text(figure), "x") == figure


def _unions(kind, seen):
    """Every union that is told apart by a kind, anywhere in a value's fields."""
    for field in fields_of(kind).values():
        yield from _in(field.kind, field.metadata, field, seen)


def _in(annotation, metadata, field, seen):
    args = typing.get_args(annotation)
    told_apart = typing.get_origin(annotation) in (typing.Union, types.UnionType)
    models = [a for a in args if told_apart and isinstance(a, type) and issubclass(a, Value)]
    if len(models) > 1:
        yield models
    for each in (annotation, *args):
        if isinstance(each, type) and issubclass(each, Value) and each not in seen:
            seen.add(each)
            yield from _unions(each, seen)
        elif each is not annotation:
            yield from _in(each, (), field, seen)


def test_whatever_there_are_several_kinds_of_writes_its_kind():
    """A kind left at its default is not left out of the file: without it, it could not be read again."""
    unions = list(_unions(Figure, {Figure}))
    assert len(unions) >= 3  # shapes, elements, what rubs
    for models in unions:
        assert all(issubclass(model, Form) or model is JointChannel for model in models), models  # no kind: a joint's


@pytest.mark.parametrize(
    "drag", [Bearing(), Bearing(bearing="foam", radius_mm=9.0), Pulled(up_g=200.0, down_g=50.0), None]
)
def test_what_a_joint_rubs_in_reads_back(drag):
    figure = Figure(joints=(Joint(id="j", name="Jaw", drag=drag),))
    text = to_text(figure)
    assert from_text(text, "x") == figure
    bare = text.replace('"kind": "bearing"', "").replace('"kind": "pulled"', "")
    if drag is not None and ",\n" in bare:  # as files were written for a while
        import json
        import re

        assert from_text(json.dumps(json.loads(re.sub(r"\{\s*,", "{", re.sub(r",(\s*[}\]])", r"\1", bare)))), "x") == figure  # fmt: skip


def test_a_bad_path_is_told_with_its_place():
    figure = Figure(parts=(Part(id="a", name="a", drawn=(Drawn(view="side", path="M 0 0 L 1 1"),)),))
    with pytest.raises(FileTrouble, match=r"parts\[a\].*drawn.*path"):
        from_text(to_text(figure).replace("M 0 0 L 1 1", "M 0 0 X 1 1"), "x")


@given(
    x=st.floats(-500, 5000), y=st.floats(-500, 5000), first=st.tuples(st.floats(0, 900), st.floats(0, 900)),
    way=st.floats(0, 6.28), apart=st.floats(2, 900), long=st.floats(5, 900), at=st.tuples(st.floats(-500, 500), st.floats(-500, 500)),
)  # fmt: skip
def test_a_picture_lies_between_its_marks(x, y, first, way, apart, long, at):
    to = (first[0] + apart * math.cos(way), first[1] + apart * math.sin(way))
    it = Picture(id="p", name="p", file="p.png", from_px=first, to_px=to, length_mm=long, at_mm=at)
    assert it.pixel(*it.place(x, y)) == pytest.approx((x, y), abs=1e-6)
    assert it.place(*first) == pytest.approx(at) and math.dist(it.place(*to), at) == pytest.approx(long, rel=1e-6)
    right, up = it.place(x, y)
    assert it.place(x + 10, y)[0] > right and it.place(x, y + 10)[1] < up
