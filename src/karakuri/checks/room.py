"""Room: whether all parts go past each other over all that their joints do; what comes too near, in which pose; less range, a part aside, a larger shell."""

from __future__ import annotations

import math
from collections.abc import Iterable, Iterator

from msgspec.structs import replace

from karakuri.bodies.blocks import blocks, unlaid, worn_head
from karakuri.bodies.cut import unladen
from karakuri.bodies.shapes import kind_of
from karakuri.bodies.solids import Solid, solid_of
from karakuri.checks.contract import ROOM, Results, angle_words, wished
from karakuri.limits.travel import run_past
from karakuri.mechanics.kinematics import place
from karakuri.mechanics.pairs import MOST_PAIRS, Both, Nearest, RoomFound, place_of
from karakuri.mechanics.room import nearest
from karakuri.mechanics.section import Section, section
from karakuri.model.edit import Edit, Set
from karakuri.model.finding import Derivation, Finding, Proposal, Sentence, Verdict, finding_id
from karakuri.model.part import Mesh, Part
from karakuri.model.ref import Ref
from karakuri.model.room_edits import belong
from karakuri.sizing.followed import ranged
from karakuri.sizing.scaled import grown
from karakuri.units import Kind, Quantity

MOST_TOLD, HALVINGS, TRIED, STEP_MM = 12, 5, 600, 0.5
WITHIN, UNSEEN = finding_id("room", "within"), finding_id("room", "unseen")


def find(results: Results) -> Iterable[Finding]:
    found, room = results[ROOM], results.figure.room
    if room is None:
        return
    if found is None:
        about = finding_id("room")
        text = "Whether all parts go past each other is looked at once nothing is dragged."
        yield Finding(
            about, "room", Ref("room", about), "not yet judged", Sentence(text), measure=Sentence("not looked at yet")
        )
        return
    if found.too_many:
        text = f"There are more than {MOST_PAIRS} pairs of parts: too many to look at. Make one part of those that stay together."
        about = finding_id("room")
        yield Finding(
            about, "room", Ref("room", about), "not yet judged", Sentence(text), measure=Sentence("too many parts")
        )
        return
    gap = room.gap_mm / 1e3
    clear = True
    for each in told(found):
        finding = _pair(results, found, each, gap)
        if finding is not None:
            clear = False
            yield finding
    if found.within:
        yield _within(results, found)
    if found.unseen:
        yield _unseen(results, found)
    if found.glanced and found.compared:
        yield _glanced(clear)
    elif clear and found.compared:
        yield _clear(results, found, gap)


def _glanced(clear: bool) -> Finding:
    """At first, quickly, only what is too near in a few poses is told."""
    about = finding_id("room")
    text = "Whether all parts go past each other is being looked through."
    if clear:
        text = "In the few poses looked at so far nothing comes too near; all are being looked through."
    return Finding(
        about, "room", Ref("room", about), "not yet judged", Sentence(text), measure=Sentence("a few poses looked at")
    )


def told(found: RoomFound) -> tuple[Nearest, ...]:
    """The pairs that are told of: the nearest."""
    return found.near[:MOST_TOLD]


def pair_told(results: Results, ident: str) -> Nearest | None:
    """The pair that a finding of this id is about; None where it is about none."""
    found = results[ROOM]
    if found is None:
        return None
    return next((e for e in told(found) if _id(*parts_of(results, found, e.a, e.b)) == ident), None)


def parts_of(results: Results, found: RoomFound, a: int, b: int) -> tuple[Part, Part]:
    """The parts of two solids."""
    every = blocks(results.figure)
    return every[found.rows[a]], every[found.rows[b]]


def verdict_of_pair(each: Nearest, gap: float, enough: float) -> Verdict:
    """By the least there may be; by the most where that is too little already."""
    if each.most < gap:
        return "fails"
    if each.least >= enough:
        return "holds"
    if each.least >= gap:
        return "tight"
    return "fails" if each.settled else "not yet judged"


def _pair(results: Results, found: RoomFound, each: Nearest, gap: float) -> Finding | None:
    verdict = verdict_of_pair(each, gap, gap * wished(results))
    if verdict == "holds" or (found.glanced and verdict != "fails"):
        return None
    a, b = parts_of(results, found, each.a, each.b)
    if each.inside and verdict == "fails" and isinstance(a.shape, Mesh):
        return _unsure(results, a, b, each)
    where, angles = _where(results, each, 3)
    least = Quantity(max(each.least, 0.0), "length", rounding="down")
    quantities = (
        Quantity(abs(each.most), "length", rounding="up" if each.most < 0 else "down"),
        Quantity(gap, "length"),
        least,
        *angles,
    )
    inside = "the inside of " if each.inside else ""
    comes = "comes as near as {0}" if each.moving else "stands {0} away"
    to = "to" if each.moving else "from"
    if each.most < 0:
        text = f"{b.name} goes {{0}} {'into the wall of' if each.inside else 'into'} {a.name}{where}."
    elif verdict == "not yet judged":
        text = f"{b.name} {comes} {to} {inside}{a.name}{where}, and may come nearer elsewhere: not all poses are looked at yet."
    else:
        text = f"{b.name} {comes} {to} {inside}{a.name}{where}; {{1}} must stay."
    judged = verdict != "not yet judged"
    reserve = max(min(each.most, each.least if each.settled else each.most), 0.0) / gap
    derivation = Derivation("Least gap, in no pose less", "{0} found there; at least {1} everywhere", (quantities[0], least), quantities[0]) if each.most > 0 else None  # fmt: skip
    return Finding(
        _id(a, b), "room", Ref("room", _id(a, b)), verdict, Sentence(text, quantities), reserve=reserve if judged else None,
        measure=None if judged else Sentence("at least {0}", (least,)), derivations=(derivation,) if derivation is not None else (),
    )  # fmt: skip


def _unsure(results: Results, shell: Part, inner: Part, each: Nearest) -> Finding:
    """Of what lies in a mesh: by what is surely free inside it is too near, by dents and bulges that are left out it may not be."""
    where, angles = _where(results, each, 1)
    gap = Quantity(max(each.most, 0.0), "length", rounding="down")
    text = f"{inner.name} may come too near to the inside of {shell.name}{where}: what is surely free inside that mesh leaves {{0}}; bulges of it are not counted."
    return Finding(
        _id(shell, inner), "room", Ref("room", _id(shell, inner)), "not yet judged", Sentence(text, (gap, *angles)), measure=Sentence("at least {0}", (gap,))
    )  # fmt: skip


def _id(a: Part, b: Part) -> str:
    return finding_id("room", *sorted((a.id, b.id)))


def _where(results: Results, each: Nearest, start: int) -> tuple[str, tuple[Quantity, ...]]:
    """', NAME 12° nose-down, …' of the joints between both, those that others lead left out, with its quantities from number `start` on."""
    words: list[str] = []
    quantities: list[Quantity] = []
    for j in each.moving:
        joint = results.figure.joint(results.tree.ids[j])
        value = float(each.pose[j])
        if joint.role == "follows" or abs(value) < (math.radians(0.5) if joint.kind == "turn" else 5e-4):
            continue
        number = "{" + str(start + len(quantities)) + "}"
        beyond = (float(results.tree.low[j]) - value, value - float(results.tree.high[j]))
        if joint.kind == "turn" and max(beyond) > 1e-4:
            words.append(f"{joint.name} {number} past its range, {joint.ends[beyond[1] > beyond[0]]}")
            quantities.append(Quantity(max(beyond), "angle"))
        elif joint.kind == "turn":
            words.append(f"{joint.name} {angle_words(joint, value).replace('{0}', number)}")
            quantities.append(Quantity(abs(value), "angle"))
        else:
            words.append(f"{joint.name} {number} {joint.ends[1] if value > 0 else joint.ends[0]}")
            quantities.append(Quantity(abs(value), "length"))
    if not words:
        return (" at rest" if each.moving else ""), ()
    return f" with {', '.join(words)}", tuple(quantities)


def _within(results: Results, found: RoomFound) -> Finding:
    a, b = parts_of(results, found, *found.within[0])
    n = len(found.within)
    text = (
        f"{a.name} and {b.name} are in one another as they are drawn: an opening that one goes through, or a mistake."
        if n == 1
        else f"{n} pairs are in one another as they are drawn, {a.name} and {b.name} among them: openings that one goes through, or a mistake."
    )
    return Finding(
        WITHIN, "room", Ref("room", WITHIN), "not yet judged", Sentence(text), measure=Sentence(f"{n} in one another")
    )


def _unseen(results: Results, found: RoomFound) -> Finding:
    a, b = parts_of(results, found, *found.unseen[0])
    n = len(found.unseen)
    more = f" So do {n - 1} more." if n > 1 else ""
    text = f"{b.name} lies in {a.name}, a mesh of which it is not known what is free inside.{more} Give it a wall, read its file again, or put a box, egg or tube in its place."
    return Finding(
        UNSEEN, "room", Ref("room", UNSEEN), "not yet judged", Sentence(text), measure=Sentence("inside not known")
    )


def _clear(results: Results, found: RoomFound, gap: float) -> Finding:
    least = gap * wished(results)
    bare = len(blocks(results.figure)) - len(found.rows)
    besides = f" {bare} without a body, points and sheets, are not looked at." if bare > 1 else " One without a body, a point or a sheet, is not looked at." if bare else ""  # fmt: skip
    unsaid = len(unlaid(results.figure))
    if unsaid:
        besides += f" Nor {'are the cases of' if unsaid > 1 else 'is the case of'} {unsaid} {'servos' if unsaid > 1 else 'servo'}: how {'they lie' if unsaid > 1 else 'it lies'} is not said."
    if results.figure.base.held == "worn" and not worn_head(results.figure):
        besides += " Nor is the wearer’s head: where its ears are is not said."
    others = "All others" if found.within or found.unseen else "All parts"
    quantities = (Quantity(least, "length"), Quantity(gap, "length"))
    text = f"{others} stay at least {{0}} apart whatever their joints do, {found.compared} pairs of them; {{1}} must stay.{besides}"
    return Finding(
        finding_id("room"), "room", Ref("room", finding_id("room")), "holds", Sentence(text, quantities), measure=Sentence("{0} and more", quantities[:1])
    )  # fmt: skip


def propose(finding: Finding, results: Results) -> Iterable[Proposal]:
    """What may make room."""
    found, room = results[ROOM], results.figure.room
    if found is None or room is None:
        return
    if finding.id in (WITHIN, UNSEEN):
        pairs = [parts_of(results, found, a, b) for a, b in (found.within if finding.id == WITHIN else found.unseen)]
        yield from _together(results, pairs)
        return
    each = pair_told(results, finding.id)
    if each is None:
        return
    enough = room.gap_mm / 1e3 * wished(results)
    yield from _narrower(results, found, each, enough)
    yield from _aside(results, found, each, enough)
    yield from _larger(results, found, each, enough)


def _together(results: Results, pairs: list[tuple[Part, Part]]) -> Iterator[Proposal]:
    figure = results.figure
    if len(pairs) > 1:
        label = Sentence(f"All {len(pairs)} belong in one another")
        yield Proposal(belong(figure, [(a.id, b.id) for a, b in pairs]), label, "all")
    a, b = pairs[0]
    yield Proposal(belong(figure, [(a.id, b.id)]), Sentence(f"{a.name} and {b.name} belong in one another"), "one")


def _solids(results: Results, found: RoomFound) -> tuple[Solid, ...]:
    every = blocks(results.figure)
    made = (solid_of(every[row], place_of(results.tree, every[row].rides_on)) for row in found.rows)
    return tuple(solid for solid in made if solid is not None)


def section_of(results: Results, each: Nearest) -> Section:
    """A section through where a pair comes nearest. Raises ValueError where nobody asked for room."""
    found = results[ROOM]
    if found is None:
        raise ValueError("nobody asked for room")
    return section(unladen(results.tree), _solids(results, found), each)


def _narrower(results: Results, found: RoomFound, each: Nearest, enough: float) -> Iterator[Proposal]:
    """As much of one joint's range as leaves room, found by halving: a wider range never leaves more."""
    tree = results.tree
    solids = _solids(results, found)
    both = Both(solids[each.a], solids[each.b], each.inside)
    for j in each.moving:
        joint = results.figure.joint(results.tree.ids[j])
        if joint.role != "driven":
            continue
        low, high = float(tree.low[j]), float(tree.high[j])
        rest, value = float(tree.rest[j]), float(each.pose[j])
        if abs(value - rest) < 1e-6 or not low < high:
            continue
        fits, fails = 0.0, 1.0
        for _ in range(HALVINGS):
            share = (fits + fails) / 2
            ends = (low, rest + share * (high - rest)) if value > rest else (rest + share * (low - rest), high)
            lows, highs = tree.low.copy(), tree.high.copy()
            lows[j], highs[j] = ends
            there = run_past(results.figure, replace(tree, low=lows, high=highs))
            if nearest(unladen(there), both, enough, TRIED).least >= enough:
                fits = share
            else:
                fails = share
        if fits <= 0:
            continue
        si = joint.measure.si
        if value > rest:
            a, b = low / si, float(math.floor((rest + fits * (high - rest)) / si))
        else:
            a, b = float(math.ceil((rest + fits * (low - rest)) / si)), high / si
        if not a < b:
            continue
        kind: Kind = "angle" if joint.kind == "turn" else "length"
        label = Sentence(f"{joint.name} only {{0}} to {{1}}", (Quantity(a * si, kind), Quantity(b * si, kind)))
        yield Proposal(
            ranged(results.figure, joint, round(a, 3), round(b, 3), f"range of {joint.name}"),
            label,
            f"range {joint.id}",
        )


def _aside(results: Results, found: RoomFound, each: Nearest, enough: float) -> Iterator[Proposal]:
    """A part that may be moved, by what is missing, the way both are apart, a little more where that is not enough."""
    placed = place(unladen(results.tree), each.pose[:, None])
    for part, side in zip(parts_of(results, found, each.a, each.b), (-1.0, 1.0), strict=True):
        if not part.movable:
            continue
        link = place_of(results.tree, part.rides_on)
        way = side * (each.way if link < 0 else placed.rotation[link][:, :, 0].T @ each.way)
        for more in (1.0, 1.5, 2.5):
            by = math.ceil(more * (enough - each.most) * 1e3 / STEP_MM) * STEP_MM
            x, y, z = (round(float(p) + by * float(w), 1) + 0.0 for p, w in zip(part.at_mm, way, strict=True))
            label = Sentence(f"Move {part.name} {{0}}", (Quantity(by / 1e3, "length"),))
            yield Proposal(
                Edit(f"move {part.name}", (Set(("parts", part.id, "at_mm"), (x, y, z)),)), label, f"aside {part.id}"
            )


def _larger(results: Results, found: RoomFound, each: Nearest, enough: float) -> Iterator[Proposal]:
    if not each.inside:
        return
    shell, _ = parts_of(results, found, each.a, each.b)
    kind = kind_of(shell.shape)
    least = min(side for side in kind.size(shell.shape)) / 2e3
    for more in (0.5, 1.0, 1.6):
        percent = math.ceil(100 * more * (enough - each.most) / least)
        if not 0 < percent <= 60:
            continue
        label = Sentence(f"{shell.name} {{0}} larger", (Quantity(percent / 100, "percent"),))
        yield Proposal(Edit(f"{shell.name} larger", tuple(grown(shell, 1 + percent / 100))), label, "larger")
