"""Enter in windows that are no dialogs."""

from PySide6.QtCore import QEvent, QObject, Qt
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QPushButton
from typing_extensions import override


class EnterPresses(QObject):
    """Enter activates the button that has the focus; Qt does that for dialogs only."""

    @override
    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if (
            event.type() == QEvent.Type.KeyPress
            and isinstance(event, QKeyEvent)
            and event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter)
            and isinstance(watched, QPushButton)
        ):
            watched.click()
            return True
        return False
