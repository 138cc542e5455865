"""The field that words to look for are typed into."""

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QKeyEvent
from typing_extensions import override

from cicada.window.widgets.fields import EscapedField


class SearchField(EscapedField):
    """Words to look for; Down and Enter go to what was found, Esc forgets the words."""

    left = Signal()

    def __init__(self) -> None:
        super().__init__()
        self.setPlaceholderText("Search")
        self.setToolTip("Search names, notes, tags and folders as you type (Ctrl+F)")
        self.setAccessibleName("Search the shelf")
        self.setClearButtonEnabled(True)

    @override
    def holds_escape(self) -> bool:
        return bool(self.text())

    @override
    def escaped(self) -> None:
        self.clear()
        self.left.emit()

    @override
    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() in (Qt.Key.Key_Down, Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.left.emit()
        else:
            super().keyPressEvent(event)
