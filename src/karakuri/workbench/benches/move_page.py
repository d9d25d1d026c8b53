"""The card of one move: when, how far, by which profile, and what the drive makes of it."""

from __future__ import annotations

import math

from karakuri.checks.of_move import findings_of_move
from karakuri.checks.phrases import late_by
from karakuri.model.channel import MovedChannel
from karakuri.model.edit import Edit
from karakuri.model.finding import Finding
from karakuri.model.profiles import DESCRIBED
from karakuri.model.ref import Ref
from karakuri.model.score_edits import remove_move, typed_move
from karakuri.motion.profiles import PROFILES
from karakuri.units import Quantity
from karakuri.workbench.benches.bench import CAUTION
from karakuri.workbench.benches.ribbon_row import Span, paint_row
from karakuri.workbench.benches.ribbon_values import RibbonValues, target_quantity, target_words
from karakuri.workbench.desk import Desk
from karakuri.workbench.kit import Kit
from karakuri.workbench.widgets.items import Block, Calc, Do, Fact, Head, Item, Note, Page, Pick, Sketch, Write


def to_channel_unit(desk: Desk, channel: MovedChannel, si: float) -> float:
    """SI as the channel writes it: degrees, mm or percent."""
    return si / desk.figure.measure(channel).si


def findings_of(desk: Desk, channel: MovedChannel, k: int) -> list[Finding]:
    """What the rules say of one move, worst first."""
    return findings_of_move(desk.study.results, channel.id, k) if desk.study is not None else []


def move_page(desk: Desk, channel: MovedChannel, k: int) -> Page:
    """The card of move k of a channel."""
    row = channel.moves.row(k)
    findings = findings_of(desk, channel, k)
    kind = target_quantity(desk, channel, 0.0).kind

    def change(words: str, **fields: object) -> None:
        held: list[int] = []

        def made() -> Edit:
            edit, at = typed_move(desk.figure.score.channel(channel.id), k, words, **fields)
            held.append(at)
            return edit

        if desk.edit(made):
            desk.hold_move(channel.id, held[0])

    items: list[Item] = []
    if channel.leads is not None:
        block = findings[0] if findings else None
        items.append(Block("v", block, desk.figure.assumptions.wished_margin))
        items += [Note(f"s{i}", f.sentence.show(desk.units)) for i, f in enumerate(findings)]
    arrives = row.departs + row.takes
    items += [
        Write("dep", "Leaves at", Quantity(row.departs, "time"), "time",
              lambda v: change("departure", departs=v, takes=arrives - v)),
        Write("arr", "Arrives at", Quantity(arrives, "time"), "time",
              lambda v: change("arrival", takes=v - row.departs)),
        Write("takes", "Takes", Quantity(row.takes, "time"), "time", lambda v: change("stretch a move", takes=v)),
        Write("to", "Goes to", target_quantity(desk, channel, row.target), kind,
              lambda v: change("target", target=to_channel_unit(desk, channel, v))),
        Fact("from", "From", target_words(desk, channel, _start(desk, channel, k))),
        Pick("how", "Profile", row.profile, tuple((key, d.words) for key, d in DESCRIBED.items()), lambda key: change("profile", profile=key)),
    ]  # fmt: skip
    own = DESCRIBED[row.profile].shape
    if own is not None:
        items.append(Write("shape", own.label, Quantity(row.shape, own.kind), own.kind, lambda v: change("shape", shape=v)))  # fmt: skip
    items += [Calc(f"d{f.rule}{i}", d) for f in findings for i, d in enumerate(f.derivations)]
    items += _late(desk, channel, k)
    if channel.leads is not None:
        items += [Head("hd", "Near"), Sketch("near", 96, lambda kit, x, y, w, h: _near(kit, desk, channel, k, x, y, w, h))]  # fmt: skip
    if (maker := desk.figure.score.maker(row.made_by)) is not None:
        items.append(Note("by", f"It was written by {maker.spoken()}; changing it makes it your own."))  # fmt: skip
    items += [
        Do("before", "Move before", lambda: desk.select(Ref("move", channel.id, max(0, k - 1))), "" if k else "It is the first."),
        Do("next", "Next move", lambda: desk.select(Ref("move", channel.id, min(len(channel.moves) - 1, k + 1))),
           "" if k + 1 < len(channel.moves) else "It is the last."),
        Do("rm", "Take this move out", lambda: desk.edit(lambda: remove_move(desk.figure.score.channel(channel.id), k))),
        Head("hc", "Caution"),
        Note("c", CAUTION, True),
    ]  # fmt: skip
    by = f"{row.profile}, leaves at {row.departs:.2f} s, arrives at {arrives:.2f} s"
    return Page(f"{channel.name}, move to {target_words(desk, channel, row.target)}", by, tuple(items), ("move", channel.id))  # fmt: skip


def _start(desk: Desk, channel: MovedChannel, k: int) -> float:
    moving = desk.moving()
    track = moving.tracks[moving.channels.index(channel)]
    return to_channel_unit(desk, channel, float(track.start[k]))


def _late(desk: Desk, channel: MovedChannel, k: int) -> list[Item]:
    """How much later than asked the drive arrives, an estimate."""
    study = desk.study
    late = late_by(study.results, channel.id, k) if study is not None else None
    if late is None or late < 5e-4 or PROFILES[channel.moves.row(k).profile].arrives is False:
        return []
    words = "An estimate: the servo follows until it is asked more speed than it has, then goes as fast as the torque-speed line lets it."
    return [Fact("late", "Would arrive late by", f"{late * 1e3:.0f}", "ms", words)]


def _near(kit: Kit, desk: Desk, channel: MovedChannel, k: int, x: float, y: float, w: float, h: float) -> None:
    """The move drawn large, with what the servo makes of it; nothing while the card is about to change."""
    channel = next((c for c in desk.figure.score.moved if c.id == channel.id), channel)
    if channel not in desk.figure.score.moved or k >= len(channel.moves):
        return
    row = channel.moves.row(k)
    margin = max(row.takes * 0.6, 0.05)
    a = max(0.0, row.departs - margin)
    b = max(a + 0.1, min(row.departs + row.takes + margin * 1.6, desk.figure.score.length_s + 0.1))
    span = Span(a, b, x, x + w)
    ribbon = RibbonValues(desk).of(channel, span)
    paint_row(kit, _bare(ribbon), span, y, h - kit.u(14))
    for i in range(3):
        t = a + (b - a) * i / 2
        kit.text(x + w * i / 2, y + h - kit.u(9), f"{t:.2f}" if math.isfinite(t) else "", 11, 500, "ink2", "lcr"[i])


def _bare(ribbon):
    """Without tags, which want more room."""
    from msgspec.structs import replace

    return replace(ribbon, faults=tuple((f, "") for f, _ in ribbon.faults))
