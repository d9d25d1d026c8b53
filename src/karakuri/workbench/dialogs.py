"""Questions in the window's own dress, and where files are looked for."""

from __future__ import annotations

from pathlib import Path

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QDialog, QFileDialog, QHBoxLayout, QLabel, QVBoxLayout, QWidget

from karakuri.files.disk import SUFFIX
from karakuri.session.session import Session
from karakuri.workbench.desk import Desk
from karakuri.workbench.widgets.tag import Tag

FIGURES = f"Figures (*{SUFFIX})"


class Question(QDialog):
    """A question with an answer on each tag. The first is the one Enter gives, the last the one Esc gives."""

    def __init__(self, desk: Desk, text: str, more: str, answers: dict[str, str], parent: QWidget) -> None:
        super().__init__(parent)
        self.setWindowTitle("Karakuri")
        self.setStyleSheet("QDialog{{background:{paper};}} QLabel{{color:{ink};}}".format(**desk.look.colours))
        self.answer = list(answers)[-1]
        column = QVBoxLayout(self)
        column.setContentsMargins(desk.look.u(20), desk.look.u(16), desk.look.u(20), desk.look.u(12))
        column.setSpacing(desk.look.u(10))
        for words, weight in ((text, 600), (more, 400)):
            if words:
                label = QLabel(words, self)
                font = label.font()
                font.setPixelSize(desk.look.u(14))
                font.setWeight(weight)
                label.setFont(font)
                label.setWordWrap(True)
                label.setMinimumWidth(desk.look.u(420))
                column.addWidget(label)
        row = QHBoxLayout()
        row.addStretch(1)
        self.tags = {key: Tag(desk, words, self, lambda key=key: self._take(key)) for key, words in answers.items()}
        for tag in self.tags.values():
            tag.setFixedSize(tag.sizeHint())
            row.addWidget(tag)
        column.addLayout(row)
        self.tags[next(iter(answers))].setFocus()

    def _take(self, key: str) -> None:
        self.answer = key
        self.accept()

    def keyPressEvent(self, event) -> None:
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            held = next((key for key, tag in self.tags.items() if tag.hasFocus()), next(iter(self.tags)))
            self._take(held)
        else:
            super().keyPressEvent(event)


def ask(desk: Desk, parent: QWidget, text: str, more: str, answers: dict[str, str]) -> str:
    """The key of the answer given."""
    question = Question(desk, text, more, answers, parent)
    question.exec()
    question.deleteLater()
    return question.answer


def stem_of(session: Session) -> str:
    """What a file of the figure is called at first, without its ending."""
    return session.figure.name.lower().replace(" ", "-").replace("/", "-")


def beside(session: Session, name: str = "") -> str:
    """A name in the figure's folder, or at home where it has none yet."""
    return str((session.path.parent if session.path is not None else Path.home()) / name)


def figure_to_open(session: Session, parent: QWidget) -> Path | None:
    name, _ = QFileDialog.getOpenFileName(parent, "Open a figure", beside(session), f"{FIGURES};;All files (*)")
    return Path(name) if name else None


def picture_to_lay(session: Session, parent: QWidget) -> Path | None:
    name, _ = QFileDialog.getOpenFileName(
        parent, "A picture to trace over", beside(session), "Pictures (*.png *.jpg *.jpeg);;All files (*)"
    )
    return Path(name) if name else None


def sound_to_take(session: Session, parent: QWidget) -> Path | None:
    name, _ = QFileDialog.getOpenFileName(
        parent, "A sound for the voice", beside(session), "Sounds (*.wav *.flac *.ogg *.mp3);;All files (*)"
    )
    return Path(name) if name else None


def figure_to_save(session: Session, parent: QWidget) -> Path | None:
    name, _ = QFileDialog.getSaveFileName(
        parent, "Save the figure as", beside(session, stem_of(session) + SUFFIX), FIGURES
    )
    return Path(name) if name else None
