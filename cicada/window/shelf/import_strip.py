"""How an import is getting on, at the foot of the shelf, and how it ended."""

from PySide6.QtCore import Qt, QTimer, Signal
from PySide6.QtWidgets import QFrame, QHBoxLayout, QLabel, QProgressBar, QPushButton, QVBoxLayout

from cicada.window.drawing import theme
from cicada.window.shelf.importing import Importing

TICK = 150


class ImportStrip(QFrame):
    """Hidden until something is imported; then its progress, then its summary."""

    summary_wanted = Signal()

    def __init__(self) -> None:
        super().__init__()
        self._importing: Importing | None = None
        column = QVBoxLayout(self)
        column.setContentsMargins(4, 3, 2, 2)
        column.setSpacing(3)
        self.bar = QProgressBar()
        self.bar.setTextVisible(False)
        self.bar.setFixedHeight(6)
        self.bar.setRange(0, 1000)
        self.bar.setAccessibleName("Share of the import done")
        column.addWidget(self.bar)
        row = QHBoxLayout()
        row.setSpacing(6)
        self.words = QLabel()
        self.words.setMinimumWidth(60)
        self.words.setWordWrap(True)
        self.words.setFont(theme.font(12))
        row.addWidget(self.words, 1)
        self.stop = QPushButton("Stop")
        self.stop.setToolTip("Stop importing; what is in stays")
        row.addWidget(self.stop)
        self.show_all = QPushButton("Show files")
        self.show_all.setToolTip("Every file of this import, and what became of it")
        self.show_all.clicked.connect(self.summary_wanted)
        row.addWidget(self.show_all)
        self.away = QPushButton("Put away")
        self.away.clicked.connect(self.hide)
        row.addWidget(self.away)
        column.addLayout(row)
        for button in (self.stop, self.show_all, self.away):
            button.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.stop.clicked.connect(self._cancel)
        self._timer = QTimer(self)
        self._timer.setInterval(TICK)
        self._timer.timeout.connect(self._show)
        self.hide()

    def follow(self, importing: Importing) -> None:
        """Show how this import gets on."""
        self._importing = importing
        importing.over.connect(self._show)
        self._timer.start()
        self.show()
        self._show()

    def _cancel(self) -> None:
        if self._importing is not None:
            self._importing.cancel()

    def _show(self) -> None:
        importing = self._importing
        if importing is None:
            return
        done = importing.done
        self.bar.setValue(round(1000 * importing.share))
        sentence = importing.sentence()
        self.words.setText(sentence)
        self.words.setToolTip(sentence)
        self.bar.setVisible(not done)
        self.stop.setVisible(not done)
        self.show_all.setVisible(done and bool(importing.entries))
        self.away.setVisible(done)
        if done:
            self._timer.stop()
