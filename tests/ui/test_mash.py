"""Random keys, presses and drags on the real window: no fault, and the figure in the end is one that can be saved and judged."""

import random

import pytest
from PyQt6.QtWidgets import QDialog, QFileDialog, QMenu

from karakuri.files.text import from_text, to_text
from tests.ui.random_hands import act, closed


@pytest.mark.parametrize("seed", [1, 2])
def test_random_hands(open_window, qtbot, seed, monkeypatch):
    monkeypatch.setattr(QMenu, "exec", lambda self, *given: None)
    for name in ("getOpenFileName", "getSaveFileName"):  # nobody is there to answer them
        monkeypatch.setattr(QFileDialog, name, staticmethod(lambda *given: ("", "")))
    monkeypatch.setattr(QDialog, "exec", lambda self: 0)
    monkeypatch.setattr("karakuri.study.answers.wanted", lambda findings: findings[:1])
    window, chance = open_window(), random.Random(seed)
    for _ in range(260):
        act(window, chance)
        closed()
    qtbot.wait(20)
    figure = window.desk.figure
    assert from_text(to_text(figure)) == figure and window.desk.study is not None
