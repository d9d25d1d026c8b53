"""Chains of sizes: worked cases, Monte Carlo, brute force over all that may be off, and laws over random ones.

A seam opened by g makes a ring g ÷ π larger across; foam of t all round a head adds 2 π t (geometry). ISO 273, ISO 286-2, tap drills: from memory, check the
current text. Root of the sum of squares: any text on tolerances.
"""

import itertools
import math

import numpy as np
import pytest
from hypothesis import assume, given, settings
from hypothesis import strategies as st

from karakuri.catalogue import hole_sizes
from karakuri.checks.fits import propose
from karakuri.errors import EditRefused
from karakuri.files.text import from_text, to_text
from karakuri.model.chain import Chain, Link
from karakuri.model.chain_edits import KINDS, add_chain, add_link, drop_link, set_chain, set_link
from karakuri.model.edit import apply
from karakuri.model.figure import Figure
from karakuri.sizing.chains import adds, changed, gap_of, wedge_grows
from karakuri.study.reuse import Reuse
from karakuri.study.study import study


def with_chain(*links: Link, **fields) -> Figure:
    return Figure(chains=(Chain(id="c", name="Gap", links=links, **({"least_mm": 0.5} | fields)),))


def told(figure: Figure):
    return study(figure, Reuse()).finding("fits.c")


RIM = (
    Link(name="shell seat, radius", mm=164.0, plus_minus_mm=0.6),
    Link(name="foam", mm=8.0, plus_minus_mm=0.3, adds=False, count=3, may_change=True),
    Link(name="race, radius", mm=138.0, plus_minus_mm=0.1, adds=False),
    Link(name="glue line", mm=0.5, plus_minus_mm=0.2, adds=False),
)


def test_a_rim_gap_by_hand():
    """164 − 3 × 8 − 138 − 0.5 = 1.5 mm; root of (0.6² + 3 × 0.3² + 0.1² + 0.2²) = 0.82; 0.6 + 3 × 0.3 + 0.1 + 0.2 = 1.8; (1.5 − 0.5) ÷ 0.82 = 1.21, ÷ 1.8 = 0.55."""
    gap = gap_of(with_chain(*RIM).chains[0])
    assert (
        gap.middle * 1e3 == pytest.approx(1.5)
        and gap.likely * 1e3 == pytest.approx(0.8246, abs=1e-4)
        and gap.worst * 1e3 == pytest.approx(1.8)
    )
    assert gap.reserve("likely") == pytest.approx(1.2127, abs=1e-3) and gap.reserve("worst") == pytest.approx(
        0.5556, abs=1e-3
    )
    assert told(with_chain(*RIM)).verdict == "tight" and told(with_chain(*RIM, judge="worst")).verdict == "fails"
    assert sum(gap.shares) == pytest.approx(1.0) and gap.shares[0] == pytest.approx(0.36 / 0.68)


def test_a_wedge_in_the_seam_and_layers_of_foam():
    """A seam opened by 5 mm: 1.59 mm across. Three layers of 8 hold a seat of 24. Foam of 6 mm round 570 mm makes 607.7."""
    assert wedge_grows(0.005) * 1e3 == pytest.approx(1.59, abs=0.005)
    assert 570 + 2 * math.pi * 6 == pytest.approx(607.7, abs=0.01)
    ring = apply(Figure(), add_chain(Figure(), "ring"))
    chain = ring.chains[0]
    assert gap_of(chain).middle * 1e3 == pytest.approx(math.pi * (128 - 130))
    wedge = changed(chain, 1, 1.25)
    assert wedge == pytest.approx(2 * math.pi + 3.0) and wedge_grows(wedge - 3.0) == pytest.approx(2.0)
    seat = apply(Figure(), add_chain(Figure(), "seat")).chains[0]
    assert gap_of(seat).middle == pytest.approx(0.0)


def links(most=6):
    one = st.builds(
        lambda mm, off, up, n, times: Link(name="x", mm=mm, plus_minus_mm=off, adds=up, count=n, times=times),
        st.floats(0.0, 100.0), st.floats(0.0, 2.0), st.booleans(), st.integers(1, 4), st.sampled_from([1.0, math.pi, 2.0]),
    )  # fmt: skip
    return st.lists(one, min_size=1, max_size=most)


@settings(max_examples=60)
@given(links(4))
def test_at_worst_is_the_worst_of_all_corners(made):
    gap = gap_of(with_chain(*made).chains[0])
    pieces = [(link, k) for link in made for k in range(link.count)]
    assume(len(pieces) <= 11)
    sums = [
        sum(
            (1 if link.adds else -1) * link.times * (link.mm + way * link.plus_minus_mm)
            for (link, _), way in zip(pieces, ways, strict=True)
        )
        for ways in itertools.product((-1, 1), repeat=len(pieces))
    ]
    assert max(sums) == pytest.approx((gap.middle + gap.worst) * 1e3, abs=1e-9) and min(sums) == pytest.approx(
        (gap.middle - gap.worst) * 1e3, abs=1e-9
    )


@settings(max_examples=15, deadline=None)
@given(links(5), st.integers(0, 1000))
def test_what_is_likely_is_what_many_really_made_come_to(made, seed):
    """Monte Carlo: pieces off by a normal law with a third of their ± as its deviation, each by itself: three deviations of the gap are what is likely."""
    gap = gap_of(with_chain(*made).chains[0])
    assume(gap.likely > 1e-5)
    rng, total = np.random.default_rng(seed), np.zeros(40_000)
    for link in made:
        for _ in range(link.count):
            total += (
                (1 if link.adds else -1) * link.times * (link.mm + rng.normal(0, link.plus_minus_mm / 3, len(total)))
            )
    assert 3 * total.std() == pytest.approx(gap.likely * 1e3, rel=0.03)
    assert total.mean() == pytest.approx(gap.middle * 1e3, abs=0.05 * gap.likely * 1e3 + 1e-9)
    assert gap.likely <= gap.worst + 1e-12


@settings(max_examples=60)
@given(links(5), st.floats(1.01, 3.0), st.integers(0, 4))
def test_more_off_is_never_better_and_what_is_proposed_lies_in_the_middle(made, more, k):
    chain = with_chain(*made, least_mm=-5.0, most_mm=8.0).chains[0]
    k %= len(made)
    worse = Chain(
        **(
            dict(chain)
            | {
                "links": tuple(
                    Link(**(dict(x) | {"plus_minus_mm": x.plus_minus_mm * more})) if i == k else x
                    for i, x in enumerate(made)
                )
            }
        )
    )
    for judge in ("likely", "worst"):
        assert gap_of(worse).reserve(judge) <= gap_of(chain).reserve(judge) * (1 + 1e-12)
        assert gap_of(chain).reserve("worst") <= gap_of(chain).reserve("likely") * (1 + 1e-12)
    new = changed(chain, k, 1.25)
    if new is not None:
        moved = Chain(
            **(
                dict(chain)
                | {"links": tuple(Link(**(dict(x) | {"mm": new})) if i == k else x for i, x in enumerate(made))}
            )
        )
        assert gap_of(moved).middle * 1e3 == pytest.approx(1.5, abs=1e-6)
    assert gap_of(chain).middle == pytest.approx(sum(adds(x) for x in made))


@pytest.mark.parametrize("kind", KINDS)
def test_one_of_each_kind_is_judged_and_what_is_proposed_cures_it(kind):
    figure = apply(Figure(), add_chain(Figure(), kind))
    chain = figure.chains[0]
    finding = study(figure, Reuse()).finding(f"fits.{chain.id}")
    assert finding is not None and finding.verdict in ("holds", "tight", "fails")
    off = apply(figure, set_chain(figure, chain.id, "bounds", most_mm=None, least_mm=chain.least_mm + 3.0))
    whole = study(off, Reuse())
    broken = whole.finding(f"fits.{chain.id}")
    if broken.verdict == "fails":
        proposals = list(propose(broken, whole.results))
        cured = [study(apply(off, p.edit), Reuse()).finding(f"fits.{chain.id}").verdict for p in proposals]
        assert "holds" in cured
    assert from_text(to_text(figure)) == figure


def test_tables_by_name():
    """ISO 273: M3 3.2, 3.4, 3.6; tap drill M3 2.5; a 3 mm hole H7 0 to +10 µm, a 6 mm pin g6 −12 to −4."""
    sizes = hole_sizes()
    assert [sizes[f"hole for M3, {fit} (ISO 273)"][0] for fit in ("fine", "medium", "coarse")] == [3.2, 3.4, 3.6]
    assert sizes["tap drill M3 (coarse)"][0] == 2.5 == pytest.approx(3 - 0.5)
    assert sizes["hole 3 H7 (ISO 286)"] == pytest.approx((3.005, 0.005)) and sizes[
        "pin 6 g6 (ISO 286)"
    ] == pytest.approx((5.992, 0.004))


def test_what_contradicts_itself_is_refused_with_a_sentence():
    figure = with_chain(*RIM, most_mm=3.0)
    with pytest.raises(EditRefused, match="cannot be at most"):
        apply(figure, set_chain(figure, "c", "least", least_mm=4.0))
    with pytest.raises(EditRefused, match="keeps its last size"):
        one = with_chain(RIM[0])
        drop_link(one, "c", 0)
    more = apply(figure, add_link(figure, "c"))
    assert len(more.chains[0].links) == 5 and len(apply(more, drop_link(more, "c", 4)).chains[0].links) == 4
    exact = with_chain(Link(name="a", mm=3.0, plus_minus_mm=0.0))
    assert told(exact).verdict == "holds" and told(exact).reserve is None
    assert told(apply(exact, set_link(exact, "c", 0, "a", mm=0.2))).verdict == "fails"


def test_what_is_only_guessed_and_decides_is_to_be_measured():
    finding = told(with_chain(*RIM, judge="worst"))
    assert finding.actions and finding.actions[0].label == "Measure shell seat, radius"
    weighed = tuple(Link(**(dict(link) | {"origin": "weighed"})) for link in RIM)
    assert told(with_chain(*weighed, judge="worst")).actions == ()
    assert "fails" in told(with_chain(*RIM)).decides.text  # what is likely and what may be at worst tell differently
