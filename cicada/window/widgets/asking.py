"""Questions in our own words: every button says what it does, and Enter does what is safe."""

from collections.abc import Callable, Sequence
from pathlib import Path
from typing import TypeVar

from PySide6.QtCore import Qt
from PySide6.QtWidgets import (
    QComboBox,
    QDialog,
    QFileDialog,
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from cicada.disk.paths import is_there
from cicada.window.state.document import Document
from cicada.window.words.quantities import begun

T = TypeVar("T")
WIDTH = 400


class Question(QDialog):
    """A sentence, and what can be done about it. ``chosen`` is the number of a verb."""

    def __init__(
        self, parent: QWidget, text: str, verbs: Sequence[str], safe: int, detail: str = ""
    ) -> None:
        """``safe`` is the verb that Enter and Esc stand for."""
        super().__init__(parent)
        self.setWindowTitle("Cicada")
        self.chosen = safe
        column = QVBoxLayout(self)
        column.setContentsMargins(22, 20, 22, 16)
        column.setSpacing(10)
        self.words = QLabel(text)
        self.detail = QLabel(detail)
        self.detail.setObjectName("soft")
        self.detail.setVisible(bool(detail))
        for label in (self.words, self.detail):
            label.setTextFormat(Qt.TextFormat.PlainText)
            label.setWordWrap(True)
            label.setMinimumWidth(WIDTH)
            # Long paths have no spaces to be broken at.
            label.setMaximumWidth(2 * WIDTH)
            column.addWidget(label)
        row = QHBoxLayout()
        row.setContentsMargins(0, 8, 0, 0)
        row.addStretch(1)
        self.buttons: list[QPushButton] = []
        for number, verb in enumerate(verbs):
            button = QPushButton(verb)
            button.setAutoDefault(number == safe)
            button.clicked.connect(lambda _=False, number=number: self._choose(number))
            row.addWidget(button)
            self.buttons.append(button)
        self.buttons[safe].setDefault(True)
        self.buttons[safe].setFocus()
        column.addLayout(row)

    def _choose(self, number: int) -> None:
        self.chosen = number
        self.accept()


def choose(parent: QWidget, text: str, verbs: Sequence[str], *, safe: int, detail: str = "") -> int:
    """Ask what is to be done; the number of the verb, ``safe`` if nobody chooses."""
    question = Question(parent, text, verbs, safe, detail)
    question.exec()
    chosen = question.chosen
    question.deleteLater()
    return chosen


def tell(parent: QWidget, text: str) -> None:
    """Say something that must be seen."""
    choose(parent, begun(text).rstrip(".") + ".", ["Go on"], safe=0)


def do_or_leave(
    dialog: QDialog, verb: str, otherwise: str = "Leave it as it is"
) -> tuple[QHBoxLayout, QPushButton]:
    """The buttons below what is typed, and of them the one that takes it."""
    row = QHBoxLayout()
    row.addStretch(1)
    leave = QPushButton(otherwise)
    leave.setAutoDefault(False)
    leave.clicked.connect(dialog.reject)
    row.addWidget(leave)
    does = QPushButton(verb)
    does.setDefault(True)
    does.clicked.connect(dialog.accept)
    row.addWidget(does)
    return row, does


class TypedQuestion(QDialog):
    """Something to be typed, read as it is typed; what cannot be read is said, not taken."""

    def __init__(
        self,
        parent: QWidget,
        title: str,
        label: str,
        text: str,
        verb: str,
        read: Callable[[str], object],
        offered: Sequence[str] = (),
    ) -> None:
        """``read`` raises ``ValueError`` with a sentence; ``offered`` can be chosen, too."""
        super().__init__(parent)
        self._read = read
        self.setWindowTitle(title)
        column = QVBoxLayout(self)
        column.setContentsMargins(22, 18, 22, 16)
        column.setSpacing(8)
        words = QLabel(label)
        words.setWordWrap(True)
        words.setMinimumWidth(WIDTH)
        column.addWidget(words)
        self.box: QComboBox | None = None
        if offered:
            self.box = QComboBox()
            self.box.setEditable(True)
            self.box.addItems(list(offered))
            self.box.setCurrentText(text)
            column.addWidget(self.box)
        field = self.box.lineEdit() if self.box is not None else QLineEdit(text)
        assert field is not None
        self.field = field
        self.field.setAccessibleName(title)
        self.field.selectAll()
        if self.box is None:
            column.addWidget(self.field)
        self.says = QLabel()
        self.says.setObjectName("wrong")
        self.says.setWordWrap(True)
        self.says.setMinimumWidth(WIDTH)
        column.addWidget(self.says)
        row, self.verb = do_or_leave(self, verb)
        column.addLayout(row)
        self.field.textChanged.connect(self._look)
        self.field.setFocus()
        self._look()

    def _look(self) -> None:
        problem = ""
        try:
            self._read(self.field.text())
        except ValueError as error:
            problem = str(error)
        self.says.setText(begun(problem))
        self.verb.setEnabled(not problem)


def any_words(text: str) -> str:
    """What was typed, without spaces around it."""
    return text.strip()


def some_words(text: str) -> str:
    """What was typed; raises ``ValueError`` if that is nothing."""
    if not text.strip():
        raise ValueError("type something")
    return text.strip()


class Asking:
    """Asks over a window, and begins in the project's folder where a file is asked for."""

    def __init__(self, parent: QWidget, document: Document) -> None:
        self.parent, self._document = parent, document

    def choose(self, text: str, verbs: Sequence[str], *, safe: int, detail: str = "") -> int:
        """See the function of that name."""
        return choose(self.parent, text, verbs, safe=safe, detail=detail)

    def ask(
        self,
        title: str,
        label: str,
        text: str,
        verb: str,
        read: Callable[[str], T],
        offered: Sequence[str] = (),
    ) -> T | None:
        """Ask for something typed; what ``read`` made of it, or None if it is left as it is."""
        question = TypedQuestion(self.parent, title, label, text, verb, read, offered)
        agreed, typed = question.exec(), question.field.text()
        question.deleteLater()
        return read(typed) if agreed else None

    def file_to_open(self, title: str, names: str = "") -> Path | None:
        """Ask for a file that is there; ``names`` are the kinds offered."""
        name, _ = QFileDialog.getOpenFileName(self.parent, title, self._folder, names)
        return Path(name) if name else None

    def files_to_open(self, title: str, names: str) -> list[Path]:
        """Ask for files that are there."""
        found, _ = QFileDialog.getOpenFileNames(self.parent, title, self._folder, names)
        return [Path(name) for name in found]

    def folder_to_open(self, title: str) -> Path | None:
        """Ask for a folder."""
        name = QFileDialog.getExistingDirectory(self.parent, title, self._folder)
        return Path(name) if name else None

    def file_to_write(
        self, title: str, names: str, suffix: str, suffixes: tuple[str, ...] = ()
    ) -> Path | None:
        """Ask for a file to write; None if nobody wants to.

        A name without one of ``suffixes`` (any, if none are given) gets ``suffix``; a file that is
        there under the name this makes is not written over unasked.
        """
        start = str(Path(self._folder) / f"{_file_name(self._document.name)}{suffix}")
        while True:
            name, _ = QFileDialog.getSaveFileName(self.parent, title, start, names)
            if not name:
                return None
            path = Path(name)
            ends = path.suffix.lower() in suffixes if suffixes else bool(path.suffix)
            if ends:
                return path
            path = path.with_name(path.name + suffix)
            there = f"{path.name} is there already."
            verbs = ["Replace it", "Choose another name"]
            if not is_there(path) or self.choose(there, verbs, safe=1) == 0:
                return path
            start = str(path)

    @property
    def _folder(self) -> str:
        return str(self._document.folder)


def _file_name(name: str) -> str:
    """A project's name as a file may be called."""
    kept = "".join("-" if letter in '/\\:*?"<>|\0' or letter < " " else letter for letter in name)
    # A file's name has 255 bytes at most, and something is put behind it while it is written.
    return kept.encode()[:180].decode(errors="ignore").strip(" .") or "Untitled"
