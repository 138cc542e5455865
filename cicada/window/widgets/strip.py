"""A line over the foot of the window: something to be said, and buttons for what can be done."""

from collections.abc import Callable

from PySide6.QtCore import SignalInstance
from PySide6.QtWidgets import QFrame, QHBoxLayout, QLabel, QPushButton, QSizePolicy


class Strip(QFrame):
    """Not seen until it is shown; ``words`` is what it says."""

    def __init__(self, name: str, says: str) -> None:
        """``name`` is the style sheet's, ``says`` what it tells, for those who cannot see it."""
        super().__init__()
        self.setObjectName(name)
        self._row = QHBoxLayout(self)
        self._row.setContentsMargins(18, 4, 14, 4)
        self._row.setSpacing(8)
        self.words = QLabel()
        self.words.setAccessibleName(says)
        self.words.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
        self._row.addWidget(self.words, 1)
        self.hide()

    def button(self, text: str, does: Callable[[], object] | SignalInstance) -> QPushButton:
        """One button more, at its end."""
        made = QPushButton(text)
        made.clicked.connect(does)
        self._row.addWidget(made)
        return made
