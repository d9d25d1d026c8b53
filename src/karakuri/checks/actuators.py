"""A linear actuator: whether its stroke reaches, whether it pushes and pulls hard enough, how fast, where it goes dead, and what would flatten
the force it must give."""

from __future__ import annotations

import math
from collections.abc import Iterable

from karakuri.catalogue import helpers
from karakuri.checks.contract import PACES, STROKES, Results, angle_words, not_weighed, torque, wished
from karakuri.model.edit import Add, Edit
from karakuri.model.element import Anchor, Linear, Spring, Strut
from karakuri.model.element_edits import set_anchor, set_element
from karakuri.model.finding import Derivation, Finding, Proposal, Sentence, finding_id, verdict_of
from karakuri.model.ids import new_id
from karakuri.model.joint import Joint
from karakuri.model.ref import Ref
from karakuri.sizing.stroke import Pace, StrokeFound, flattened
from karakuri.units import Kind, Quantity

MORE = 1.02
"""What the score asks is told where it is more than this times what is asked standing."""


def find(results: Results) -> Iterable[Finding]:
    found = {each.i: each for each in results[STROKES] or ()}
    for i, element in enumerate(results.figure.elements):
        if not isinstance(element, Linear):
            continue
        if i in found:
            yield _one(results, element, found[i])
            yield from _paced(results, element, found[i])
            continue
        text = f"{element.name} drives nothing: its ends must lie on either side of one joint, and of one alone."
        yield Finding(finding_id("actuators", element.id), "actuators", Ref("element", element.id), "not yet judged", Sentence(text), measure=Sentence("it drives nothing"))  # fmt: skip


def _one(results: Results, it: Linear, found: StrokeFound) -> Finding:
    joint = results.figure.joint(results.tree.ids[found.j])
    ident, about = finding_id("actuators", it.id), Ref("element", it.id)
    unknown = results.weightless((joint.id,))
    if unknown:
        return not_weighed(ident, "actuators", about, it.name, unknown)
    reserves = _reserves(joint, found)
    which = min(reserves, key=lambda name: reserves[name])
    reserve = reserves[which]
    verdict = verdict_of(reserve, wished(results)) if math.isfinite(reserve) else "holds"
    return Finding(
        ident,
        "actuators",
        about,
        verdict,
        _sentence(it, joint, found, which, reserve),
        reserve=reserve if math.isfinite(reserve) else None,
        measure=None if math.isfinite(reserve) else Sentence("hardly any force"),
        derivations=tuple(_derivations(joint, found)),
    )


def _paced(results: Results, it: Linear, found: StrokeFound) -> Iterable[Finding]:
    """What the score asks of its speed, and of its force where that is more than standing anywhere."""
    asked = next((each for each in results[PACES] or () if each.i == found.i), None)
    if asked is None or asked.speed <= 1e-9 or found.dead_at is not None:
        return
    if asked.force > MORE * found.asked:
        yield _forced(results, it, found, asked)
    reserve = found.speed / asked.speed
    does = "keeps up with the score" if reserve >= 1 else "cannot keep up with the score"
    text = f"{it.name} {does}: {{0}} are asked of it at {{1}}, it goes {{2}}."
    most, has = Quantity(asked.speed, "stroke_speed", rounding="up"), Quantity(found.speed, "stroke_speed", rounding="down")  # fmt: skip
    yield Finding(
        finding_id("actuators", it.id, "score"),
        "actuators",
        Ref("element", it.id),
        verdict_of(reserve, wished(results)),
        Sentence(text, (most, Quantity(asked.at, "time"), has)),
        reserve=reserve,
        demand=most,
        capacity=has,
        at_s=asked.at,
    )


def _forced(results: Results, it: Linear, found: StrokeFound, asked: Pace) -> Finding:
    """What the score asks of its force, with what speeds up."""
    reserve = found.force / asked.force
    does = "has the force for the score" if reserve >= 1 else "has not the force for the score"
    text = f"{it.name} {does}: {{0}} are asked of it at {{1}}, where it speeds up or slows down, {{3}} standing; it has {{2}}."
    most, has = Quantity(asked.force, "force", rounding="up"), Quantity(found.force, "force", rounding="down")
    still = Quantity(found.asked, "force", rounding="up")
    turns = results.figure.joint(results.tree.ids[found.j]).kind == "turn"
    over = (
        (torque(asked.effort), Quantity(asked.arm, "length"))
        if turns
        else (Quantity(asked.effort, "force"), Quantity(asked.arm, "ratio"))
    )
    derivation = Derivation("Asked of it there", "{0} ÷ {1} arm, the least it has meanwhile", over, most)
    return Finding(
        finding_id("actuators", it.id, "force"), "actuators", Ref("element", it.id), verdict_of(reserve, wished(results)),
        Sentence(text, (most, Quantity(asked.force_at, "time"), has, still)), reserve=reserve, demand=most, capacity=has, at_s=asked.force_at,
        derivations=(derivation,),
    )  # fmt: skip


def _reserves(joint: Joint, found: StrokeFound) -> dict[str, float]:
    """What there is ÷ what is asked, of each that may fail."""
    by = (joint.move.by if joint.move else 0.0) * joint.measure.si
    return {
        "dead": 0.0 if found.dead_at is not None else math.inf,
        "reach": found.covered if found.covered < 1 else math.inf,
        "force": found.force / found.asked if found.asked > 1e-9 else math.inf,
        "speed": joint.move.time_s / found.takes_s(by) if joint.move and by > 0 and joint.move.time_s > 0 else 0.0 if joint.move and by > 0 else math.inf,
    }  # fmt: skip


def _where(joint: Joint, at: float) -> tuple[str, Quantity]:
    """Template piece with {0}, and the quantity, of a place of the joint."""
    if joint.kind == "slide":
        return "at {0}", Quantity(at, "length")
    words = angle_words(joint, at)
    return ("at " + words if "{0}" in words else words), Quantity(abs(at), "angle")


def _sentence(it: Linear, joint: Joint, found: StrokeFound, which: str, reserve: float) -> Sentence:
    kind: Kind = "angle" if joint.kind == "turn" else "length"
    wide = abs(float(found.places[-1] - found.places[0]))
    if which == "dead":
        words, at = _where(joint, found.dead_at or 0.0)
        return Sentence(f"{it.name} goes dead on the way: {words} it stands in line with {joint.name} and no longer turns it.", (at,))  # fmt: skip
    if which == "reach":
        text = f"{it.name} reaches {{0}} of the range of {joint.name}: that takes lengths from {{1}} to {{2}} between its pins, and it stands from {{3}} to {{4}}."
        lengths = tuple(Quantity(v, "length") for v in (float(found.length.min()), float(found.length.max()), found.short, found.long))  # fmt: skip
        return Sentence(text, (Quantity(found.covered, "percent", rounding="down"), *lengths))
    if which == "speed":
        assert joint.move is not None
        by = joint.move.by * joint.measure.si
        does = "makes" if reserve >= 1 else "cannot make"
        text = f"{it.name} {does} {{0}} in {{1}}: {{2}} at its speed of {{3}}."
        return Sentence(text, (Quantity(by, kind), Quantity(joint.move.time_s, "time"), Quantity(found.takes_s(by), "time", rounding="up"), Quantity(found.speed, "stroke_speed")))  # fmt: skip
    push, pull = float(found.pushes.max()), float(found.pulls.max())
    most = found.pushes if push >= pull else found.pulls
    words, at = _where(joint, float(found.places[int(most.argmax())]))
    does = "moves" if reserve >= 1 else "cannot move"
    way = "push" if push >= pull else "pull"
    text = (
        f"{it.name} {does} {joint.name}: it must {way} {{1}} {words}; it has {{2}}. All the way, {{3}}, takes it {{4}}."
    )
    values = (at, Quantity(found.asked, "force", rounding="up"), Quantity(found.force, "force", rounding="down"), Quantity(wide, kind), Quantity(found.whole_s, "time", rounding="up"))  # fmt: skip
    return Sentence(text, values)


def _derivations(joint: Joint, found: StrokeFound) -> Iterable[Derivation]:
    if joint.kind != "turn" or found.dead_at is not None:
        return
    most = found.pushes if found.pushes.max() >= found.pulls.max() else found.pulls
    k = int(most.argmax())
    if most[k] > 1e-6:
        arm = abs(float(found.arm[k]))
        yield Derivation(
            "Where it must give most",
            "{0} ÷ {1} arm",
            (Quantity(float(most[k]) * arm, "torque"), Quantity(arm, "length")),
            Quantity(float(most[k]), "force", rounding="up"),
        )
    yield Derivation(
        "Slowest on the way",
        "{0} ÷ {1} arm",
        (Quantity(found.speed, "velocity"), Quantity(found.speed / found.slowest, "length")),
        Quantity(found.slowest, "speed", rounding="down"),
    )


def propose(finding: Finding, results: Results) -> Iterable[Proposal]:
    if finding.verdict in ("holds", "not yet judged"):
        return
    i = next(k for k, each in enumerate(results.figure.elements) if each.id == finding.subject.id)
    it, found = results.figure.elements[i], next(each for each in results[STROKES] or () if each.i == i)
    assert isinstance(it, Linear)
    reserves, wish = _reserves(results.figure.joint(results.tree.ids[found.j]), found), wished(results)
    for ending, which in (("score", "speed"), ("force", "force")):
        if finding.id == finding_id("actuators", it.id, ending):
            reserves = dict.fromkeys(reserves, math.inf) | {which: finding.reserve or 0.0}
    if reserves["dead"] > 0:
        yield from _other(it, found, reserves, wish)
    if reserves["force"] < wish:
        yield from _beside(results, it, found)
    if min(reserves["force"], reserves["dead"]) < wish:
        yield from _farther(results, it, found)


def _other(it: Linear, found: StrokeFound, reserves: dict[str, float], wish: float) -> Iterable[Proposal]:
    """Another one that is sold: a stroke that reaches, standing shorter than the shortest; strong and fast enough."""
    fields: dict[str, float] = {}
    words: list[str] = []
    values: list[Quantity] = []

    def asks(text: str, quantity: Quantity) -> None:
        words.append(text.replace("{}", f"{{{len(values)}}}"))
        values.append(quantity)

    if reserves["reach"] < 1:
        fits = [stroke for stroke in helpers()["strokes_mm"] if stroke / 1e3 >= found.needs]
        low = float(found.length.min()) * 1e3
        short = math.floor(low - (fits[0] - found.needs * 1e3) / 2) if fits else 0
        if not fits or short < fits[0] + 10:  # no body is shorter than its own stroke
            return
        fields |= {"stroke_mm": float(fits[0]), "short_mm": float(short)}
        asks("{} of stroke", Quantity(fits[0] / 1e3, "length"))
        asks("{} all in", Quantity(short / 1e3, "length"))
    if reserves["force"] < wish:
        strong = [force for force in helpers()["forces_N"] if force >= it.force_N / max(reserves["force"], 1e-6) * wish]
        if not strong:
            return
        fields["force_N"] = float(strong[0])
        asks("{}", Quantity(strong[0], "force"))
    if reserves["speed"] < wish:
        if reserves["speed"] <= 0:
            return
        speed = math.ceil(it.speed_mmps / reserves["speed"] * wish)
        fields["speed_mmps"] = float(speed)
        asks("{}", Quantity(speed / 1e3, "stroke_speed"))
    yield Proposal(set_element(it, "another one", **fields), Sentence("One with " + ", ".join(words), tuple(values)), "other")  # fmt: skip


def _beside(results: Results, it: Linear, found: StrokeFound) -> Iterable[Proposal]:
    """The spring or strut of common size that leaves it least to do, from pin to pin beside it."""
    best: dict[str, tuple[float, Spring | Strut]] = {}
    name, ends = it.name, (Anchor(**dict(it.ends[0])), Anchor(**dict(it.ends[1])))
    low, high = float(found.length.min()), float(found.length.max())
    for row in helpers()["springs"]:
        if low * 1e3 >= row["free_mm"] and high * 1e3 <= row["longest_mm"]:
            forces = row["rate_N_per_mm"] * (found.length * 1e3 - row["free_mm"])
            spring = Spring(id=new_id(results.figure, f"{it.id}_spring"), name=f"spring beside {name}"[:80], ends=ends, origin="typical", **row)  # fmt: skip
            best["spring"] = _less(best.get("spring"), flattened(found, forces), spring)
    for row in helpers()["struts"]:
        if low * 1e3 >= row["long_mm"] - row["stroke_mm"] and high * 1e3 <= row["long_mm"]:
            pressed = (row["long_mm"] - found.length * 1e3) / row["stroke_mm"]
            forces = -row["force_N"] * (1 + 0.3 * pressed)
            strut = Strut(id=new_id(results.figure, f"{it.id}_strut"), name=f"strut beside {name}"[:80], ends=ends, origin="typical", **row)  # fmt: skip
            best["strut"] = _less(best.get("strut"), flattened(found, forces), strut)
    for asked, made in best.values():
        if asked < 0.95 * found.asked:
            edit = Edit(f"fit a {made.kind} beside {name}", (Add("elements", made),))
            if isinstance(made, Spring):
                yield Proposal(edit, Sentence("A spring beside it, {0}, {1} free", (Quantity((made.rate_N_per_mm or 0.0) * 1e3, "rate"), Quantity(made.free_mm / 1e3, "length"))), "spring")  # fmt: skip
            else:
                yield Proposal(edit, Sentence("A gas strut beside it, {0}, {1} long", (Quantity(made.force_N, "force"), Quantity(made.long_mm / 1e3, "length"))), "strut")  # fmt: skip


def _less(known: tuple[float, Spring | Strut] | None, asked: float, made: Spring | Strut) -> tuple[float, Spring | Strut]:  # fmt: skip
    return (asked, made) if known is None or asked < known[0] else known


def _farther(results: Results, it: Linear, found: StrokeFound) -> Iterable[Proposal]:
    """Its end on the joint farther from the pivot: more arm, and more stroke."""
    joint = results.figure.joint(results.tree.ids[found.j])
    if joint.kind != "turn":
        return
    which = next((k for k in (0, 1) if it.ends[k].rides_on != joint.rides_on), 1)
    pivot, at = joint.at_mm, it.ends[which].at_mm
    for times in (1.25, 1.5, 2.0):
        x, y, z = (round(p + times * (a - p), 1) for p, a in zip(pivot, at, strict=True))
        number = 0 if which == 0 else 1 + len(it.over)
        yield Proposal(set_anchor(it, number, at_mm=(x, y, z)), Sentence(f"Its end {times:g} times as far from the pivot"), "farther")  # fmt: skip
