"""Values of the model: read, refused and told as pydantic's own classes do it, by a way of our own that costs nothing at start."""

import copy
import importlib
import pickle
import pkgutil
import random
from functools import cache
from typing import Annotated, Any, get_type_hints

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from pydantic_core import ValidationError

from karakuri.demo import DEMOS, demo_path
from karakuri.files.disk import load
from karakuri.files.schema import in_pydantic
from karakuri.model.joint import Joint, Move
from karakuri.model.moves import Moves
from karakuri.model.part import Part
from karakuri.values.checking import schema_of
from karakuri.values.fields import After, Before, FailFast, Field, fields_of
from karakuri.values.value import Form, Value, as_data
from tests.figures import random_figure


@cache
def kinds() -> tuple[type[Value], ...]:
    package = importlib.import_module("karakuri.model")
    modules = [
        importlib.import_module(f"karakuri.model.{info.name}") for info in pkgutil.iter_modules(package.__path__)
    ]
    found = {v for m in modules for v in vars(m).values() if isinstance(v, type) and issubclass(v, Value)}
    return tuple(sorted((k for k in found - {Value, Form} if fields_of(k)), key=lambda kind: kind.__name__))


def values_in(value: Any):
    if isinstance(value, Value):
        yield value
        value = tuple(each for _, each in value)
    if isinstance(value, tuple):
        for each in value:
            yield from values_in(each)


@cache
def samples() -> tuple[tuple[type[Value], Any], ...]:
    figures = [load(demo_path(name)) for name in DEMOS] + [random_figure(k, 4, slides=True) for k in range(5)]
    return tuple(dict((repr(v), (type(v), v)) for figure in figures for v in values_in(figure)).values())


ODD = (
    None,
    True,
    0,
    -1,
    10**9,
    1e12,
    float("nan"),
    float("-inf"),
    "",
    "x" * 300,
    "Ä b\x07",
    [],
    (),
    {},
    {"kind": "no"},
    [1.0, 2.0],
    (1, 2, 3),
    "base",
    b"x",
)


def spoilt(data: Any, rng: random.Random) -> Any:
    """The same with one thing in it changed, left out, added or of another type, somewhere."""
    data = copy.deepcopy(data)
    here = data
    while True:
        nested = [key for key, value in here.items() if isinstance(value, dict) and value]
        within = [
            each
            for value in here.values()
            if isinstance(value, list)
            for each in value
            if isinstance(each, dict) and each
        ]
        if within and rng.random() < 0.5:
            here = rng.choice(within)
        elif nested and rng.random() < 0.5:
            here = here[rng.choice(nested)]
        else:
            break
    key = rng.choice([*here, "besides"])
    if rng.random() < 0.2 and key in here:
        del here[key]
    elif isinstance(here.get(key), list) and here[key] and rng.random() < 0.5:
        here[key][rng.randrange(len(here[key]))] = rng.choice(ODD)
    else:
        here[key] = rng.choice(ODD)
    return data


def faults(read: Any, data: Any) -> set[tuple[str, tuple[Any, ...], str]]:
    try:
        read(data)
    except ValidationError as trouble:
        return {(e["type"], e["loc"], e["msg"]) for e in trouble.errors()}
    return set()


@given(st.integers(0, 10**9))
@settings(max_examples=400, deadline=None)
def test_what_is_refused_and_why_is_what_pydantic_refuses(seed):
    """Against pydantic's own classes of the same fields. They check no value as a whole, so of that they know nothing."""
    rng = random.Random(seed)
    kind, value = rng.choice(samples())
    data = as_data(value, all_fields=rng.random() < 0.5)
    for _ in range(rng.randrange(4)):
        data = spoilt(data, rng)
    if rng.random() < 0.5:
        data = tupled(data)
    theirs, ours = faults(in_pydantic(kind).model_validate, data), faults(kind.from_fields, data)
    filled = {
        each for each in theirs if "moves" in each[1] or kind.__name__ == "Moves"
    }  # a ribbon's columns are filled up before they are read
    assert theirs - filled <= ours, (kind, data)
    assert all(
        type_ == "value_error" or "moves" in loc or kind.__name__ == "Moves" for type_, loc, _ in ours - theirs
    ), (kind, data)


def tupled(data: Any) -> Any:
    if isinstance(data, dict):
        return {key: tupled(value) for key, value in data.items()}
    return tuple(map(tupled, data)) if isinstance(data, list) else data


def test_every_kind_of_value_can_be_read_and_has_what_pydantic_says_it_has():
    assert len(kinds()) > 100
    for kind in kinds():
        theirs = in_pydantic(kind).model_fields
        hints = get_type_hints(kind)
        assert (
            list(fields_of(kind))
            == list(theirs)
            == [n for n in hints if not isinstance(getattr(kind, n, None), property)]
        )
        for name, field in fields_of(kind).items():
            assert field.needed == theirs[name].is_required() and field.description == theirs[name].description
        schema_of(kind)


def test_whatever_is_read_reads_back_as_it_was():
    for kind, value in samples():
        for every in (False, True):
            data = as_data(value, every)
            assert kind.from_fields(tupled(data)) == value
        twin = pickle.loads(pickle.dumps(value))
        assert twin == value and hash(twin) == hash(value) and copy.deepcopy(value) == value and twin is not value
        assert list(dict(value)) == list(fields_of(kind)) and eval(repr(Move(by=1.0, time_s=2.0))) == Move(
            by=1.0, time_s=2.0
        )


def test_a_value_stays_as_it_was_made_and_a_changed_one_is_checked():
    joint = Joint(id="j", name="Jaw")
    with pytest.raises(AttributeError, match="frozen"):
        joint.name = "other"
    with pytest.raises(AttributeError, match="frozen"):
        del joint.name
    wide = joint.but(range_deg=(-50.0, 60.0))
    assert wide.range_deg == (-50.0, 60.0) and joint.range_deg == (-30.0, 30.0) and wide != joint
    assert wide == Joint(id="j", name="Jaw", range_deg=(-50.0, 60.0))
    for worse in ({"range_deg": (50.0, -50.0)}, {"range_deg": (-9e9, 0.0)}, {"colour": "red"}, {"name": 3}):
        with pytest.raises(ValidationError):
            joint.but(**worse)
    loose = joint.unchecked(range_deg=(-9e9, 9e9))
    assert loose.range_deg == (-9e9, 9e9) and loose.name == "Jaw" and type(loose) is Joint
    assert Joint.from_fields(joint) is joint
    assert joint != Part(id="j", name="Jaw") and joint != "j"


def test_a_default_is_left_out_but_for_the_kind():
    class Round(Form):
        kind: str = "round"
        wide: Annotated[float, Field(ge=0)] = 2.0
        inside: tuple[Move, ...] = ()

    assert as_data(Round()) == {"kind": "round"}
    assert as_data(Round(wide=3.0, inside=(Move(by=1.0, time_s=2.0),))) == {
        "kind": "round",
        "wide": 3.0,
        "inside": [{"by": 1.0, "time_s": 2.0}],
    }
    assert as_data(Round(), all_fields=True) == {"kind": "round", "wide": 2.0, "inside": []}


def test_an_annotation_nobody_reads_is_refused_at_once():
    class Odd(Value):
        when: complex = 1j

    with pytest.raises(TypeError, match="complex"):
        Odd()


def halved(value: float) -> float:
    if value > 90:
        raise ValueError("too much to halve")
    return value / 2


class Said(Value):
    """A field for each thing that can be said of one."""

    above: Annotated[float, Field(gt=1.0)] = 5.0
    between: Annotated[float, Field(ge=1.0, le=9.0)] = 5.0
    narrower: Annotated[float, Field(ge=1.0)] = Field(default=5.0, le=7.0, description="Declared.")
    maybe: Annotated[float | None, Field(ge=1.0)] = Field(default=None, le=9.0)
    letters: Annotated[str, Field(pattern="^[a-c]*$", min_length=2, max_length=4)] = "ab"
    few: Annotated[tuple[float, ...], FailFast(), Field(description="Besides.")] = Field(default=(1.0,), max_length=3)
    every: tuple[Annotated[float, Field(ge=0)], ...] = ()
    half: Annotated[float, After(halved)] = Field(default=1.0, ge=0)
    word: Annotated[float, Before(lambda word: 4.0 if word == "four" else word), After(halved)] = 1.0
    made: tuple[float, ...] = Field(default_factory=lambda: (1.0, 2.0))


@pytest.mark.parametrize(("field", "good", "bad"), [
    ("above", (1.1, 2), (1.0, 1, 0.5)),
    ("between", (1.0, 9.0), (0.9, 9.1, "5", True, None)),
    ("narrower", (1.0, 7.0), (0.9, 7.1)),
    ("maybe", (None, 1.0, 9.0), (0.9, 9.1)),
    ("letters", ("ab", "abca"), ("a", "abcab", "ad")),
    ("few", ((), (1.0, 2.0, 3.0)), ((1.0,) * 4, [1.0], ("a", "b"))),
    ("every", ((), (0.0,) * 9), ((-1.0, -2.0), (None,))),
    ("half", (0.0, 90.0), (-1.0, 91.0)),
    ("word", ("four", 90.0), ("five", 91.0)),
    ("made", ((), (3.0,)), ([3.0],)),
])  # fmt: skip
def test_each_thing_that_is_said_of_a_field_is_kept_to(field, good, bad):
    for value in good:
        Said(**{field: value})
    for value in bad:
        with pytest.raises(ValidationError) as told:
            Said(**{field: value})
        assert {each["loc"][0] for each in told.value.errors()} == {field}
        assert len(told.value.errors()) == (2 if field == "every" and len(value) == 2 else 1)


def test_what_is_said_is_done_in_its_order_and_told():
    moves = Moves(departs_s=(0.1,), takes_s=(0.2,), target=(3.0,))  # filled up before it is read
    assert moves.profile == ("minimum jerk",) and moves.made_by == ("",)
    made = Said(half=8.0, word="four", maybe=None)
    assert (made.half, made.word, made.made, Said().made) == (4.0, 2.0, (1.0, 2.0), (1.0, 2.0))
    assert [fields_of(Said)[name].description for name in ("narrower", "few", "above")] == [
        "Declared.",
        "Besides.",
        None,
    ]
    assert not any(field.needed for field in fields_of(Said).values()) and fields_of(Joint)["id"].needed


def test_values_of_two_kinds_are_two_though_they_say_the_same():
    class Left(Value):
        at: float = 1.0

    class Right(Left):
        turns: float = 2.0

        @property
        def at(self) -> float:  # worked out: no field any more
            return 1.0

    class Other(Value):
        at: float = 1.0

    assert Left() != Other() and Left() == Left(at=1.0) and len({Left(), Other(), Left(at=1.0)}) == 2
    assert list(fields_of(Right)) == ["turns"] and list(fields_of(Left)) == ["at"] and Right().at == 1.0
