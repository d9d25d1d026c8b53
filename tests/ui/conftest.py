"""The real window, offscreen, with a state folder of its own; studies run in place unless a test wants the thread."""

import pytest

from karakuri.demo import owl_path
from karakuri.session.session import Session
from karakuri.study.reuse import Reuse
from karakuri.workbench.start import application
from karakuri.workbench.window import Window


@pytest.fixture(scope="session")
def qapp():
    return application([])


@pytest.fixture(autouse=True)
def _state(tmp_path, monkeypatch):
    monkeypatch.setenv("XDG_STATE_HOME", str(tmp_path / "state"))


@pytest.fixture(autouse=True)
def _few_remedies(request, monkeypatch):
    """A study in place waits for every remedy: only a test that looks at them has them worked out, marked `remedies`."""
    if request.node.get_closest_marker("remedies") is None:
        monkeypatch.setattr("karakuri.study.answers.wanted", lambda findings: [])


FOUND = Reuse()


@pytest.fixture(autouse=True)
def _found_before(monkeypatch):
    """What one window worked out the next need not: most open the same owl. That nothing else follows from it is a law of its own."""
    monkeypatch.setattr("karakuri.study.answers.Reuse", lambda: FOUND)


@pytest.fixture
def open_window(qtbot, monkeypatch):
    """Opens windows; closes them without asking at the end."""
    made = []

    def make(session="owl", in_place=True, size=(1280, 800)) -> Window:
        session = Session.from_template(owl_path()) if session == "owl" else session
        window = Window(session, in_place=in_place)
        window.resize(*size)
        window.show()
        qtbot.waitExposed(window)
        qtbot.wait(10)
        made.append(window)
        return window

    yield make
    for window in made:
        try:
            monkeypatch.setattr(window.filing, "may_leave", lambda: True)
            window.close()
        except RuntimeError:
            pass
    qtbot.wait(5)
