"""The card of a chain of sizes: each size, by how much it may be off, how it is known, and what must stay."""

from __future__ import annotations

import math

from karakuri.catalogue import hole_sizes
from karakuri.model.chain import Chain, Link
from karakuri.model.chain_edits import KINDS, add_chain, add_link, drop_link, set_chain, set_link
from karakuri.model.edit import Edit, Remove
from karakuri.model.ref import Ref
from karakuri.units import Quantity
from karakuri.workbench.benches.bench import mm, rename
from karakuri.workbench.benches.part_page import ORIGINS
from karakuri.workbench.desk import Desk
from karakuri.workbench.widgets.items import Block, Calc, Do, Head, Item, Note, Page, Pick, Write, WriteText

JUDGE = {"likely": "what is likely", "worst": "what may be at worst"}
CAUTION = "Wear a mask and gloves for dust, solvents and resin; what is worn must come off with one pull. A fit is tried with everything worn that will be worn."
HOW = "Measure with a caliper, three times round, and write half of how far the readings differ as ±. Printed sizes are off by 0.1 to 0.3 mm; foam by more."


def chain_page(desk: Desk, ident: str) -> Page:
    """Everything of one chain."""
    chain = next(chain for chain in desk.figure.chains if chain.id == ident)
    finding = desk.finding("fits", ident)
    items: list[Item] = [Block("v", finding, desk.figure.assumptions.wished_margin)]
    if finding is not None:
        items.append(Note("nv", finding.sentence.show(desk.units)))

    def put(words: str, **fields: object) -> None:
        desk.edit(lambda: set_chain(desk.figure, ident, words, **fields))

    items += [
        WriteText("name", "Name", chain.name, lambda text: rename(desk, "chains", ident, text)),
        Pick("judge", "Judge by", JUDGE[chain.judge], tuple(JUDGE.items()), lambda key: put("judged by", judge=key)),
        Write("least", "Must be at least", mm(chain.least_mm), "length", lambda v: put("least gap", least_mm=round(v * 1e3, 4))),
        Write("most", "and at most", None if chain.most_mm is None else mm(chain.most_mm), "length", lambda v: put("most gap", most_mm=round(v * 1e3, 4)), "free"),
        *([] if chain.most_mm is None else [Do("no most", "As wide as it likes", lambda: put("most gap", most_mm=None))]),
    ]  # fmt: skip
    for number, link in enumerate(chain.links):
        items += _link(desk, chain, number, link)
    items.append(Do("more", "One more size", lambda: desk.edit(lambda: add_link(desk.figure, ident))))
    if finding is not None:
        items += [Calc(f"d{i}", d) for i, d in enumerate(finding.derivations)]
    gone = Edit(f"remove {chain.name}", (Remove("chains", ident),))
    items += [
        Note("how", HOW), Head("ha", "Actions"), Do("remove", "Remove this chain", lambda: desk.edit(gone)), *chains_items(desk), Head("hc", "Caution"), Note("nc", CAUTION, True),
    ]  # fmt: skip
    return Page(chain.name, KINDS[chain.kind], tuple(items), ("chain", ident))


def _link(desk: Desk, chain: Chain, number: int, link: Link) -> list[Item]:
    def put(words: str, **fields: object) -> None:
        desk.edit(lambda: set_link(desk.figure, chain.id, number, words, **fields))

    key = f"l{number}"
    sizes = hole_sizes()
    ways = (("+", "adds to the gap"), ("−", "takes from it"))
    may = (("", "is as it is"), ("yes", "may be chosen"))
    items: list[Item] = [
        Head(f"h{key}", f"Size {number + 1}"),
        WriteText(f"{key} name", "Is", link.name, lambda text: put("what it is", name=text.strip())),
        Write(f"{key} mm", "Size", mm(link.mm), "length", lambda v: put(link.name, mm=round(v * 1e3, 4))),
        Write(f"{key} off", "± at most", mm(link.plus_minus_mm), "length", lambda v: put(link.name, plus_minus_mm=round(abs(v) * 1e3, 4))),
        Write(f"{key} count", "How many alike", _count(link.count), "count", lambda v: put(link.name, count=max(round(v), 1))),
        Pick(f"{key} adds", "It", dict(ways)["+" if link.adds else "−"], ways, lambda way: put(link.name, adds=way == "+")),
        Pick(f"{key} round", "Measured", _across(link), (("", "along"), ("across", "across, counts all round")), lambda way: put(link.name, times=math.pi if way else 1.0)),
        Pick(f"{key} may", "Its size", dict(may)["yes" if link.may_change else ""], may, lambda way: put(link.name, may_change=bool(way))),
        Pick(f"{key} origin", "How known", link.origin, tuple((o, o) for o in ORIGINS if o != "slicer"), lambda way: put(link.name, origin=way)),
        Pick(f"{key} table", "From a table", "choose", tuple((name, name) for name in sizes), lambda name: put(name, mm=sizes[name][0], plus_minus_mm=sizes[name][1], origin="data sheet")),
    ]  # fmt: skip
    if len(chain.links) > 1:
        items.append(
            Do(
                f"{key} out",
                "Take it out",
                lambda: desk.edit(lambda: drop_link(desk.figure, chain.id, number)),
            )
        )
    return items


def _across(link: Link) -> str:
    return "across, counts all round" if abs(link.times - math.pi) < 1e-6 else "along"


def _count(value: int) -> Quantity:
    return Quantity(float(value), "count")


def chains_items(desk: Desk) -> list[Item]:
    """The chains there are, and one more of any kind."""

    def add(kind) -> None:
        if desk.edit(lambda: add_chain(desk.figure, kind)):
            desk.select(Ref("chain", desk.figure.chains[-1].id))

    items: list[Item] = [Head("hchains", "Chains of sizes")]
    items += [
        Do(f"chain {chain.id}", chain.name, lambda chain=chain: desk.select(Ref("chain", chain.id)))
        for chain in desk.figure.chains
    ]
    return [*items, Pick("add chain", "Add", "choose", tuple(KINDS.items()), add)]
