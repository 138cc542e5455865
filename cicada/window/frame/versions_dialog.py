"""The project as it was saved before: when, how large, and what the sheet looked like."""

from PySide6.QtCore import Qt
from PySide6.QtGui import QPixmap
from PySide6.QtWidgets import (
    QDialog,
    QHBoxLayout,
    QLabel,
    QListWidget,
    QListWidgetItem,
    QVBoxLayout,
    QWidget,
)

from cicada.disk.why import size_text
from cicada.store.versions import KEPT, Version
from cicada.window.drawing import theme
from cicada.window.widgets.asking import do_or_leave
from cicada.window.words.numbers import when_text

# Of the pictures that are kept, and of the one that is shown.
WIDE, TALL = 960, 560
SHOWN = 480


class VersionsDialog(QDialog):
    """Lists the versions, the newest first; ``chosen`` is the one to be opened as a copy."""

    def __init__(self, parent: QWidget, name: str, versions: list[Version]) -> None:
        super().__init__(parent)
        self._versions = versions
        self.setWindowTitle(f"Earlier versions of {name}")
        self.setStyleSheet(theme.style())
        self.resize(800, 420)
        column = QVBoxLayout(self)
        column.setContentsMargins(22, 18, 22, 16)
        column.setSpacing(10)
        words = QLabel(
            f"Each time {name} is saved, what was saved is kept here, the last {KEPT} times."
        )
        words.setWordWrap(True)
        column.addWidget(words)
        row = QHBoxLayout()
        row.setSpacing(14)
        self.list = QListWidget()
        self.list.setAccessibleName("Versions")
        for version in versions:
            when = when_text(version.when).capitalize()
            self.list.addItem(
                QListWidgetItem(f"{when}:{version.when:%S}\n{size_text(version.size)}")
            )
        row.addWidget(self.list, 1)
        self.picture = QLabel()
        self.picture.setObjectName("soft")
        self.picture.setAlignment(Qt.AlignmentFlag.AlignCenter)
        self.picture.setFixedWidth(SHOWN)
        self.picture.setAccessibleName("The sheet as it was")
        row.addWidget(self.picture)
        column.addLayout(row, 1)
        buttons, self.open_copy = do_or_leave(self, "Open as a copy", "Leave all as it is")
        column.addLayout(buttons)
        self.list.currentRowChanged.connect(self._show)
        self.list.itemActivated.connect(lambda _: self.accept())
        self.list.setCurrentRow(0)

    @property
    def chosen(self) -> Version:
        """The version that is looked at."""
        return self._versions[max(0, self.list.currentRow())]

    def _show(self, row: int) -> None:
        picture = QPixmap()
        if 0 <= row < len(self._versions):
            picture.load(str(self._versions[row].picture))
        if picture.isNull():
            self.picture.setText("It was saved by a command: there is no picture of it.")
            return
        self.picture.setPixmap(
            picture.scaledToWidth(SHOWN, Qt.TransformationMode.SmoothTransformation)
        )
