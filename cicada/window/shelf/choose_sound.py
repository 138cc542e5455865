"""A small question: which other sound is meant."""

from collections.abc import Sequence

from PySide6.QtCore import Qt
from PySide6.QtWidgets import (
    QDialog,
    QLabel,
    QListWidget,
    QListWidgetItem,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from cicada.core.model import Placeable, Sound
from cicada.window.drawing import theme
from cicada.window.shelf.shelf_search import Known, ShelfSearch, Wish
from cicada.window.widgets.search_field import SearchField
from cicada.window.words.answers import kind_of

ID = Qt.ItemDataRole.UserRole


class ChooseSound(QDialog):
    """``chosen`` is the id of the sound picked, None if none is."""

    def __init__(
        self, parent: QWidget, question: str, sounds: Sequence[Placeable], yes: str
    ) -> None:
        super().__init__(parent)
        self.setWindowTitle("Choose a sound")
        self.setStyleSheet(theme.style())
        self.resize(420, 420)
        self._sounds, self._search = sounds, ShelfSearch()
        column = QVBoxLayout(self)
        column.setContentsMargins(16, 14, 16, 14)
        words = QLabel(question)
        words.setWordWrap(True)
        column.addWidget(words)
        self.search = SearchField()
        self.search.textChanged.connect(self._fill)
        column.addWidget(self.search)
        self.take = QPushButton(yes)
        self.take.setObjectName("main")
        self.take.clicked.connect(self.accept)
        self.list = QListWidget()
        self.list.setAccessibleName("Sounds")
        self.list.itemDoubleClicked.connect(self.accept)
        self.list.currentRowChanged.connect(self._row_chosen)
        self.search.left.connect(self.list.setFocus)
        column.addWidget(self.list, 1)
        column.addWidget(self.take)
        self._fill("")

    def _fill(self, words: str) -> None:
        self.list.clear()
        for sound in self._search.find(self._sounds, Wish(words, order="name"), Known()):
            length = f"{sound.frames / sound.rate:.2f} s" if isinstance(sound, Sound) else ""
            item = QListWidgetItem(f"{sound.label}   {length or kind_of(sound)}")
            item.setData(ID, sound.id)
            self.list.addItem(item)
        self.list.setCurrentRow(0)

    def _row_chosen(self, row: int) -> None:
        self.take.setEnabled(row >= 0)

    @property
    def chosen(self) -> str | None:
        """The id of the sound picked."""
        row = self.list.currentRow()
        return str(self.list.item(row).data(ID)) if row >= 0 else None
