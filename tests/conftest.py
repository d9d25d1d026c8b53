"""With KARAKURI_NO_QT=1 every Qt binding is unimportable: the core must not notice."""

import os
import sys
from importlib.abc import MetaPathFinder

from hypothesis import settings

# No test fails because the machine was busy.
settings.register_profile("unhurried", deadline=None)
settings.load_profile("unhurried")


class _NoQt(MetaPathFinder):
    def find_spec(self, name, path=None, target=None):
        if name.split(".")[0] in ("PyQt6", "PyQt5", "PySide6", "PySide2"):
            raise ImportError(f"{name} is made unimportable for this run")
        return None


os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

if os.environ.get("KARAKURI_NO_QT"):
    sys.meta_path.insert(0, _NoQt())
    collect_ignore = ["ui"]


def pytest_collection_modifyitems(items):
    """What takes long comes first, so that at the end nobody waits for it alone."""
    items.sort(key=lambda item: item.get_closest_marker("long") is None)


def pytest_collection_finish(session):
    """As the program does: what is loaded is not searched for garbage again and again, and where there are widgets no other thread searches."""
    from karakuri import heap

    if any(item.path.parent.name == "ui" for item in session.items):
        heap.by_hand()
    else:
        heap.loaded()


def pytest_runtest_teardown():
    from karakuri import heap

    heap.if_due()
