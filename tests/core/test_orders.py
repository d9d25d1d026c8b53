"""Orders of putting together: against brute force over all orders of small sets, and worked cases of a worn head."""

import itertools

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from karakuri.checks.orders import propose
from karakuri.errors import EditRefused
from karakuri.files.text import from_text, to_text
from karakuri.model.edit import apply
from karakuri.model.figure import Figure
from karakuri.model.order import Doing
from karakuri.model.order_edits import add_doing, moved, put_in_order, related, remove_doing, set_doing
from karakuri.sizing.order import amiss, before, circle, off, ordered, takes_min
from karakuri.study.reuse import Reuse
from karakuri.study.study import study


def sets(most=6):
    """Steps that need and shut off some of each other, circles among them."""

    def made(n, pairs, kinds):
        ids = [f"s{k}" for k in range(n)]
        needs, shuts = {i: set() for i in ids}, {i: set() for i in ids}
        for a, b, kind in pairs:
            if a % n != b % n:
                (needs if kind else shuts)[ids[a % n]].add(ids[b % n])
        return tuple(
            Doing(id=i, name=i, needs=tuple(sorted(needs[i])), shuts=tuple(sorted(shuts[i])), for_good=k)
            for i, k in zip(ids, kinds, strict=False)
        )

    pair = st.tuples(st.integers(0, 9), st.integers(0, 9), st.booleans())
    return st.builds(
        made, st.integers(1, most), st.lists(pair, max_size=8), st.lists(st.booleans(), min_size=most, max_size=most)
    )


def kept(doings, ids) -> bool:
    place, must = {ident: k for k, ident in enumerate(ids)}, before(doings)
    return all(place[each] < place[ident] for ident, some in must.items() for each in some)


@settings(max_examples=150)
@given(sets())
def test_of_all_orders_that_can_be_kept_the_one_nearest_the_front_is_found(doings):
    """Brute force: of all permutations that keep every 'before' the first by present places; none: a circle is named, each of whose steps waits for the next."""
    place = {doing.id: k for k, doing in enumerate(doings)}
    good = [ids for ids in itertools.permutations([d.id for d in doings]) if kept(doings, ids)]
    found = ordered(doings)
    if good:
        assert found == min(good, key=lambda ids: [place[i] for i in ids]) and circle(doings) == ()
    else:
        assert found is None
        round_, must = circle(doings), before(doings)
        assert len(round_) >= 2 and all(b in must[a] for a, b in zip(round_, (*round_[1:], round_[0]), strict=True))
        shorter = [
            c
            for n in range(2, len(round_))
            for c in itertools.permutations(must, n)
            if all(b in must[a] for a, b in zip(c, (*c[1:], c[0]), strict=True))
        ]
        assert not shorter


@settings(max_examples=100)
@given(sets(5))
def test_what_comes_off_first_is_all_that_sits_on_it_or_shuts_it_off(doings):
    """Brute force: the smallest set with the step in it from which nothing that stays on needs, or shuts off, anything that is gone."""
    if ordered(doings) is None:
        return
    ids = [d.id for d in doings]
    for ident in ids:
        smallest = None
        for n in range(1, len(ids) + 1):
            for some in itertools.combinations(ids, n):
                stays = [d for d in doings if d.id not in some]
                if ident in some and not any(set(some) & {*d.needs, *d.shuts} for d in stays):
                    smallest = set(some)
                    break
            if smallest:
                break
        found = off(doings, ident)
        assert set(found.steps) == smallest and found.steps[-1] == ident
        assert set(found.stuck) == {d.id for d in doings if d.id in smallest and d.for_good}
        must = before(doings)
        gone: set[str] = set()
        for each in found.steps:  # nothing comes off while something that sits on it is still on
            assert not any(each in must[other] for other in set(found.steps) - gone - {each})
            gone.add(each)


def worn() -> tuple[Doing, ...]:
    """A head that goes over all that is worn: measured with the hood on, its fan's lead led out before the head shuts the way."""
    return (
        Doing(id="harness", name="harness", kind="wear", helper=True, minutes=3.0),
        Doing(id="hood", name="hood and spectacles", kind="wear", needs=("harness",)),
        Doing(id="ring", name="neck ring measured", kind="measure", needs=("hood", "harness")),
        Doing(id="lead", name="fan lead to the left hip", kind="wear", needs=("harness",)),
        Doing(id="head", name="head", kind="wear", needs=("hood",), shuts=("lead", "ring"), apart=True, minutes=2.0),
        Doing(id="latch", name="two latches", kind="wear", needs=("head",)),
    )


def told(figure: Figure) -> dict:
    return {f.id: f for f in study(figure, Reuse()).findings if f.rule == "order"}


def test_a_worn_head_goes_on_and_comes_off():
    figure = Figure(order=worn())
    findings = told(figure)
    assert (
        findings["order"].verdict == "holds" and "once two latches is off" in findings["order.head.apart"].sentence.text
    )
    assert off(worn(), "hood").steps == ("latch", "head", "hood") and off(worn(), "hood").stuck == ()
    assert takes_min(worn()) == 9.0 and from_text(to_text(figure)) == figure


def test_what_comes_too_early_cannot_be_reached_or_does_not_count():
    early = Figure(order=(*worn()[:3], worn()[4], worn()[3], worn()[5]))  # the head before the fan's lead
    finding = told(early)["order.lead.shut"]
    assert finding.verdict == "fails" and "cannot be reached any more after head" in finding.sentence.text
    whole = study(early, Reuse())
    mended = apply(early, next(iter(propose(finding, whole.results))).edit)
    assert told(mended)["order"].verdict == "holds"
    bare = Figure(order=(worn()[0], worn()[2], worn()[1], *worn()[3:]))  # the ring measured before the hood is on
    assert "does not count: hood and spectacles is not on yet" in told(bare)["order.ring"].sentence.text
    done = tuple(Doing(**(dict(d) | {"done": d.id in ("harness", "ring")})) for d in worn())
    unmet = told(Figure(order=done))["order.ring.unmet"]
    assert unmet.verdict == "fails" and "Measure it again" in unmet.sentence.text
    lost = tuple(
        Doing(**(dict(d) | {"done": d.id in ("harness", "hood", "ring", "head"), "for_good": d.id == "head"}))
        for d in worn()
    )
    assert "never comes off again" in told(Figure(order=lost))["order.lead.shut"].sentence.text
    assert told(Figure(order=lost))["order.head.apart"].verdict == "fails"


def test_a_circle_is_named_and_cut():
    figure = Figure(order=worn())
    figure = apply(figure, related(figure, "hood", "needs", "latch", True))
    finding = told(figure)["order"]
    assert finding.verdict == "fails" and "which waits for" in finding.sentence.text and set(told(figure)) == {"order"}
    whole = study(figure, Reuse())
    assert any(circle(apply(figure, p.edit).order) == () for p in propose(finding, whole.results))


def test_steps_are_added_moved_and_taken_out_with_all_that_names_them():
    figure = Figure(order=worn())
    assert apply(figure, moved(figure, "latch", -9)).order[0].id == "latch"
    less = apply(figure, remove_doing(figure, "hood"))
    assert all("hood" not in (*d.needs, *d.shuts) for d in less.order) and len(less.order) == 5
    with pytest.raises(EditRefused, match="before itself"):
        related(figure, "hood", "needs", "hood", True)
    with pytest.raises(EditRefused, match="no other step"):
        apply(figure, set_doing(figure, "hood", "x", needs=("nobody",)))
    more = apply(figure, add_doing(figure, "gloves"))
    assert (
        more.order[-1].name == "gloves"
        and apply(more, put_in_order(more, ("gloves", *(d.id for d in worn())))).order[0].name == "gloves"
    )
    assert amiss(figure.order, 0).missing == () and told(Figure()) == {}
