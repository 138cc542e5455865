"""The steps taken, listed: choosing one has the project as it was after it."""

from PySide6.QtWidgets import QDialog, QLabel, QListWidget, QListWidgetItem, QVBoxLayout, QWidget

from cicada.window.state.document import Document
from cicada.window.words.quantities import begun


class HistoryList(QDialog):
    """Every step that was done, and those taken back; choosing one goes there."""

    def __init__(self, parent: QWidget, document: Document) -> None:
        super().__init__(parent)
        self._document = document
        self.setWindowTitle("All steps")
        self.resize(360, 420)
        column = QVBoxLayout(self)
        column.setContentsMargins(16, 14, 16, 14)
        words = QLabel("Choose a step to have the project as it was after it.")
        words.setObjectName("soft")
        words.setWordWrap(True)
        column.addWidget(words)
        self.list = QListWidget()
        self.list.setAccessibleName("Steps")
        column.addWidget(self.list, 1)
        self.list.currentRowChanged.connect(self._document.go_to_step)
        self._document.changed.connect(self._refresh)
        self._refresh()

    def _refresh(self) -> None:
        titles, done = self._document.titles()
        self.list.blockSignals(True)
        self.list.clear()
        self.list.addItem("as it was opened")
        for number, title in enumerate(titles):
            item = QListWidgetItem(begun(title))
            if number >= done:
                item.setForeground(self.palette().placeholderText())
                item.setToolTip("Taken back; choosing it does it again")
            self.list.addItem(item)
        self.list.setCurrentRow(done)
        self.list.blockSignals(False)
