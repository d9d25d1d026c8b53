"""Room: what is said is said whole, whatever the window's size and the text's; large windows are used, and what is in the way folds."""

import pytest
from PyQt6.QtCore import Qt

from karakuri.workbench.kit import fit, wrapped
from karakuri.workbench.theme import DAY, Look
from tests.ui.hand import Hand


@pytest.mark.parametrize(
    ("size", "scale"), [((1280, 800), 1.0), ((1024, 700), 1.5), ((1920, 1080), 1.0), ((1280, 800), 1.5)]
)
def test_findings_stay_in_their_rows_and_remedies_are_whole(open_window, qtbot, size, scale):
    window = open_window(size=size)
    window.desk.set_scale(scale)
    qtbot.wait(20)
    strip = window.strip
    rows = [row for row in strip.rows if row.isVisible()]
    assert len(rows) == strip.visible_rows() and strip.columns() == (2 if size[0] >= 1600 else 1)
    for row, tags in zip(rows, strip.tags, strict=False):
        row.repaint()
        assert row.painted and all(
            said.rect.top() >= -2 and said.rect.bottom() <= row.height() + 2 for said in row.painted
        )
        assert row.geometry().bottom() <= strip.height() and not any(
            row.geometry().intersects(r.geometry()) for r in rows if r is not row
        )
        shown = [tag for tag in tags if tag.isVisible()]
        if shown:
            assert shown[0].width() >= min(shown[0].sizeHint().width(), strip.width() // strip.columns() // 2 - 40)


def test_a_sentence_too_long_for_its_row_is_cut_and_says_so(qapp):
    look = Look(DAY)
    text = " ".join(["weight"] * 60)
    size, lines = fit(look, text, 200, ((13, 2), (11.5, 3)))
    assert size == 11.5 and len(lines) == 3 and lines[-1].endswith("…")
    assert fit(look, "short", 200, ((13, 2), (11.5, 3))) == (13, wrapped(look, "short", 200, 13))


def test_the_score_grows_and_its_figure_is_made_large_by_a_key(open_window, qtbot):
    window = open_window(size=(1920, 1080))
    desk, hand = window.desk, Hand(window, qtbot)
    desk.turn_to("score")
    qtbot.wait(20)
    bench = window.benches["score"]
    filled = bench.ribbons.head() + bench.ribbons.row_tall() * len(desk.figure.score.channels)
    assert filled > 0.9 * bench.ribbons.height()
    small = bench.front.width() * bench.front.height()
    bench.ribbons.setFocus()
    hand.key(Qt.Key.Key_M)
    assert bench.front.width() >= bench.width() / 3 and bench.front.height() > 0.9 * bench.height()
    assert not bench.front.geometry().intersects(bench.ribbons.geometry())
    hand.key(Qt.Key.Key_M)
    assert bench.front.width() * bench.front.height() == small


def test_the_findings_fold_to_one_row_and_back(open_window, qtbot):
    window = open_window()
    hand = Hand(window, qtbot)
    tall = window.strip.height()
    hand.alt(Qt.Key.Key_F)
    assert window.strip.visible_rows() == 1 and window.strip.height() < tall / 2
    hand.alt(Qt.Key.Key_F)
    assert window.strip.height() == tall
