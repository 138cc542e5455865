"""What windows that are gone have left unfinished, and whether it is to come back."""

from datetime import datetime
from pathlib import Path

from PySide6.QtCore import Qt
from PySide6.QtWidgets import (
    QDialog,
    QHBoxLayout,
    QLabel,
    QListWidget,
    QListWidgetItem,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from cicada.store.unfinished import Unfinished
from cicada.window.drawing import theme
from cicada.window.words.numbers import when_text
from cicada.window.words.quantities import begun, count


class UnfinishedDialog(QDialog):
    """Lists the projects, and of the one chosen every step that would come back.

    ``wanted`` is what was asked for: ``"back"``, ``"file"`` (the file as it is), ``"away"``, or
    empty for later. ``chosen`` is what it was asked of.
    """

    def __init__(self, parent: QWidget, found: list[Unfinished], changed: frozenset[Path]) -> None:
        """``changed`` are those whose file is another than when they were begun."""
        super().__init__(parent)
        self._found, self._changed = found, changed
        self.wanted = ""
        self.setWindowTitle("Unfinished work")
        self.setStyleSheet(theme.style())
        self.resize(680, 420)
        column = QVBoxLayout(self)
        column.setContentsMargins(22, 18, 22, 16)
        column.setSpacing(10)
        title = QLabel(
            "Cicada ended before this was saved. Nothing that was finished is lost."
            if len(found) == 1
            else f"Cicada ended before these {len(found)} projects were saved."
        )
        title.setFont(theme.font(15, 600))
        title.setWordWrap(True)
        column.addWidget(title)
        row = QHBoxLayout()
        row.setSpacing(14)
        self.list = QListWidget()
        self.list.setAccessibleName("Unfinished projects")
        self.list.setWordWrap(True)
        for each in found:
            when = when_text(datetime.fromtimestamp(each.when))
            item = QListWidgetItem(f"{each.name}\n{self._where(each)}, {when}")
            item.setToolTip(each.base.file if not each.unsaved else "")
            self.list.addItem(item)
        row.addWidget(self.list, 5)
        right = QVBoxLayout()
        right.setSpacing(6)
        self.words = QLabel()
        self.words.setWordWrap(True)
        right.addWidget(self.words)
        self.steps = QListWidget()
        self.steps.setAccessibleName("What comes back")
        self.steps.setSelectionMode(QListWidget.SelectionMode.NoSelection)
        self.steps.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        right.addWidget(self.steps, 1)
        row.addLayout(right, 6)
        column.addLayout(row, 1)
        buttons = QHBoxLayout()
        self.away = self._button("Throw it away…", "away")
        buttons.addWidget(self.away)
        buttons.addStretch(1)
        buttons.addWidget(self._button("Not now", ""))
        self.file = self._button("Open the file as it is", "file")
        buttons.addWidget(self.file)
        self.back = self._button("Bring it back", "back")
        self.back.setObjectName("main")
        self.back.setDefault(True)
        buttons.addWidget(self.back)
        column.addLayout(buttons)
        self.list.currentRowChanged.connect(self._show)
        self.list.setCurrentRow(0)
        self.back.setFocus()

    def _button(self, words: str, wanted: str) -> QPushButton:
        button = QPushButton(words)
        button.setAutoDefault(False)
        button.clicked.connect(lambda: self._want(wanted))
        return button

    def _want(self, wanted: str) -> None:
        self.wanted = wanted
        self.accept()

    @property
    def chosen(self) -> Unfinished:
        """The project that is looked at."""
        return self._found[max(0, self.list.currentRow())]

    @staticmethod
    def _where(found: Unfinished) -> str:
        return "never saved" if found.unsaved else found.base.file.rpartition("/")[2]

    def _show(self, row: int) -> None:
        found = self._found[max(0, row)]
        titles, done = found.history.titles()
        words = []
        if found.path in self._changed:
            words.append(
                "Its file was changed since. Bringing it back leaves the file as it is until "
                "you save."
            )
        if found.differs:
            words.append("The last of what was done could not be made out any more.")
        if titles:
            words.append(f"{count(done, 'step')} {'comes' if done == 1 else 'come'} back:")
        else:
            words.append("The project as it was comes back, without its single steps.")
        self.words.setText(" ".join(words))
        self.steps.clear()
        for number, step in enumerate(titles):
            item = QListWidgetItem(begun(step))
            if number >= done:
                item.setForeground(self.palette().placeholderText())
                item.setText(f"{begun(step)} (taken back)")
            self.steps.addItem(item)
        self.steps.scrollToBottom()
        self.file.setVisible(not found.unsaved)
