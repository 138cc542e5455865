"""The foot of the window: what is said, whether work is protected, what stands beside the card."""

from PySide6.QtCore import QTimer
from PySide6.QtWidgets import QFrame, QHBoxLayout, QLabel, QPushButton, QSizePolicy

from cicada.window.state.document import Document
from cicada.window.words.quantities import begun

NOTE_SECONDS = 8
# Milliseconds between two looks at whether what is done is written down.
LOOK = 1000


class Foot(QFrame):
    """A line of words, and a button for each part that can stand beside the card."""

    def __init__(self, document: Document, beside: list[QPushButton]) -> None:
        super().__init__()
        self._document = document
        self.setFixedHeight(21)
        row = QHBoxLayout(self)
        row.setContentsMargins(18, 0, 18, 2)
        self.note = QLabel()
        self.note.setObjectName("soft")
        self.note.setAccessibleName("Messages")
        self.note.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
        row.addWidget(self.note, 1)
        self.unprotected = QLabel()
        self.unprotected.setObjectName("wrong")
        self.unprotected.hide()
        row.addWidget(self.unprotected)
        for button in beside:
            row.addWidget(button)
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.timeout.connect(self.note.clear)
        self._lasts, self._era = False, 0
        # Whether what is done is safe depends on a disk, which says nothing by itself.
        self._looks = QTimer(self)
        self._looks.setInterval(LOOK)
        self._looks.timeout.connect(self.show_protection)
        self._looks.start()
        document.changed.connect(self._unsay)

    def say(self, text: str, lasting: bool) -> None:  # noqa: FBT001 - a signal says it so
        """Say something in one line."""
        self.note.setText(begun(text))
        self.note.setToolTip(begun(text))
        self._lasts, self._era = lasting, self._document.era
        self._timer.stop()
        if not lasting:
            self._timer.start(NOTE_SECONDS * 1000)

    def _unsay(self) -> None:
        """The project is another than what was said was about."""
        if not self._lasts or self._era != self._document.era:
            self.note.clear()

    def show_protection(self) -> None:
        """Say it, for as long as what is done would not survive a crash."""
        journal = self._document.journal
        if journal.protects:
            self.unprotected.hide()
            return
        why = journal.trouble or "the disk is not answering"
        self.unprotected.setText(f"Not protected: {why}")
        self.unprotected.setToolTip(
            "What you do now is not written down as you do it. Save often, and free some space."
        )
        self.unprotected.show()
