"""The card of a joint on the Balance bench: what it needs and has, ballast at the allowed sites, the figure's stand."""

from __future__ import annotations

from karakuri.catalogue import lead_ml
from karakuri.model.edit import Edit
from karakuri.model.edits import ballast_edit, remove_item
from karakuri.sizing.followed import led_by
from karakuri.units import Quantity
from karakuri.workbench.benches.bench import grams
from karakuri.workbench.benches.drag_items import drag_items
from karakuri.workbench.benches.element_page import add_items
from karakuri.workbench.benches.fastening_page import add_fastening_items
from karakuri.workbench.benches.figure_page import add_site
from karakuri.workbench.benches.joint_page import setter, told_of
from karakuri.workbench.benches.rod_page import add_rod_items
from karakuri.workbench.desk import Desk
from karakuri.workbench.widgets.items import Block, Calc, Do, Head, Item, Note, Page, Write


def balance_page(desk: Desk, ident: str) -> Page:
    figure = desk.figure
    wished = figure.assumptions.wished_margin
    items: list[Item] = []
    title, subtitle = figure.name, "the whole figure"
    if ident:
        joint = figure.joint(ident)
        finding = told_of(desk, ident)
        title, subtitle = (
            joint.name,
            f"joint · {_what(desk, ident)}",
        )
        items.append(Block("v", finding, wished))
        if finding is not None:
            tone = {"fails": "verm", "tight": "ochre"}.get(finding.verdict, "ink")
            items += [Calc(f"d{i}", d, tone if i == 0 else "ink") for i, d in enumerate(finding.derivations)]
    items += _hanging(desk, ident) if ident else []
    items += _dragging(desk, ident) if ident else []
    items += add_items(desk)
    items += add_rod_items(desk, ident)
    items += add_fastening_items(desk)
    items.append(Head("hb", "Ballast, in grams of lead"))
    for site in figure.ballast_sites:
        part = next((p for p in figure.parts if p.id == site.ballast_id), None)
        items.append(
            Write(
                f"b{site.id}",
                f"at {site.name}",
                grams(part.mass_g if part else None),
                "mass",
                _lead(desk, site.id),
                "none",
            )
        )
        if part is not None and part.mass_g:
            ml, shot = lead_ml(part.mass_g)
            items.append(
                Note(
                    f"n{site.id}",
                    f"{ml:.0f} ml of solid lead, about {shot:.0f} ml as shot (60 % filled, an estimate); "
                    f"at most {desk.show(Quantity(site.most_g / 1e3, 'mass'))} there. Wash your hands after lead.",
                )
            )
    if not figure.ballast_sites:
        items.append(Note("nb", "No site is allowed yet. Say where ballast may go, and it will be sized."))
    items.append(Do("site", "Allow ballast somewhere", lambda: add_site(desk)))
    tipping = desk.finding("tipping")
    items.append(Head("ht", "Whole figure"))
    if tipping is not None:
        items += [
            Block("vt", tipping, wished),
            Note("nt", tipping.sentence.show(desk.units)),
            *(Calc(f"t{i}", d) for i, d in enumerate(tipping.derivations)),
        ]
    rocks = desk.finding("rocks", "score")
    if rocks is not None:
        items += [Block("vr", rocks, wished), Note("nr", rocks.sentence.show(desk.units))]
    items += [
        Head("hw", "Words"),
        Note(
            "nw",
            "Pose: where the joints stand. Posture: how the base stands. A pivot under the centre of mass tips on "
            "its own, one above it hangs, one at it floats.",
        ),
    ]
    return Page(title, subtitle, tuple(items), ("balance", ident))


def _what(desk: Desk, ident: str) -> str:
    joint = desk.figure.joint(ident)
    if joint.role == "free":
        return "nothing drives it"
    if joint.role == "follows":
        return f"follows {led_by(desk.figure, joint)[0].name}"
    if joint.kind == "slide":
        return "slides"
    return "no servo yet" if desk.figure.drive_of(ident) is None else "at its worst pose and posture"


def _hanging(desk: Desk, ident: str) -> list[Item]:
    """Of a joint that no servo holds, the sentence under its block."""
    finding = desk.finding("hangs", ident) or desk.finding("slides", ident)
    return [Note("nh", finding.sentence.show(desk.units))] if finding is not None else []


def _dragging(desk: Desk, ident: str) -> list[Item]:
    """What it rubs in, and what comes of that."""
    joint = desk.figure.joint(ident)
    items = [Head("hr", "What it rubs with"), *drag_items(joint, setter(desk, ident))]
    finding = desk.finding("drag", ident)
    if finding is not None:
        items += [
            Block("vr", finding, desk.figure.assumptions.wished_margin),
            Note("nr", finding.sentence.show(desk.units)),
        ]
        items += [Calc(f"r{i}", d) for i, d in enumerate(finding.derivations)]
    return items


def _lead(desk: Desk, site_id: str):
    def done(value: float) -> None:
        site = next(s for s in desk.figure.ballast_sites if s.id == site_id)
        ident, weight = site.ballast_id, round(value * 1e3, 3)
        if weight <= 0:
            if any(part.id == ident for part in desk.figure.parts):
                gone = remove_item(desk.figure, "parts", ident)
                desk.edit(Edit(f"take the ballast from {site.name}", gone.steps))
            return
        desk.edit(lambda: ballast_edit(desk.figure, site, weight))

    return done
