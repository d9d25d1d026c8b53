"""The card of a symptom: what of this figure may cause what is seen, each with its number and the way to its bench."""

from __future__ import annotations

from karakuri.checks.symptoms import SYMPTOMS, causes
from karakuri.model.finding import show_reserve
from karakuri.workbench.desk import Desk
from karakuri.workbench.routes import bench_of, open_finding
from karakuri.workbench.widgets.items import Do, Head, Item, Note, Page

MOST = 12


def symptom_page(desk: Desk, ident: str) -> Page:
    symptom = next(s for s in SYMPTOMS if s.id == ident)
    findings = causes(symptom, desk.figure, desk.study.findings) if desk.study is not None else ()
    likely = [f for f in findings if f.verdict != "holds"]
    holding = [f for f in findings if f.verdict == "holds"]
    items: list[Item] = [Head("hl", "What may cause it here")]
    if not likely:
        items.append(
            Note("n0", "Nothing that is computed causes it as the figure stands; what comes nearest is below.")
        )
    for title, some in (
        ("", likely[:MOST]),
        ("Computed, and not the cause", holding[: MOST - min(len(likely), MOST - 3)]),
    ):
        if title and some:
            items.append(Head("hh", title))
        for finding in some:
            number = f" {show_reserve(finding.reserve)}" if finding.reserve is not None else ""
            words = f"{finding.verdict}{number}, on {bench_of(finding).capitalize()}"
            items.append(Do(f"f {finding.id}", words, lambda f=finding: open_finding(desk, f)))
            items.append(Note(f"n {finding.id}", finding.sentence.show(desk.units)))
    items.append(Head("hb", "Not computed: look for"))
    items += [Note(f"b{i}", f"{words[0].upper()}{words[1:]}.") for i, words in enumerate(symptom.beyond)]
    return Page(
        f"It {symptom.seen[0]}" if symptom.id != "mouth" else "The mouth hardly moves",
        "by what is seen",
        tuple(items),
        ("symptom", ident),
    )
