"""One of a few, as buttons beside each other."""

from collections.abc import Collection

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QFontMetrics
from PySide6.QtWidgets import QButtonGroup, QHBoxLayout, QPushButton, QWidget

from cicada.window.drawing import theme


class Choice(QWidget):
    """A few words to choose one from, all in sight."""

    chosen = Signal(str)

    def __init__(self, name: str, options: list[tuple[str, str, str]]) -> None:
        """``options`` are value, words and tip."""
        super().__init__()
        self.setAccessibleName(name)
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(6)
        self._group = QButtonGroup(self)
        self.buttons: dict[str, QPushButton] = {}
        for value, words, tip in options:
            button = QPushButton(words)
            button.setCheckable(True)
            button.setFocusPolicy(Qt.FocusPolicy.TabFocus)
            button.setToolTip(tip)
            # Room for the bold letters of the chosen one, so that nothing moves.
            wide = QFontMetrics(theme.font(13, 600)).horizontalAdvance(words)
            button.setMinimumWidth(wide + 26)
            button.setAccessibleName(f"{name}: {words}")
            button.clicked.connect(lambda _=False, value=value: self.chosen.emit(value))
            self._group.addButton(button)
            self.buttons[value] = button
            row.addWidget(button)
        row.addStretch(1)

    def set_value(self, value: str) -> None:
        """Show which is chosen; if it is in another row of the same choice, none."""
        self.set_values({value})

    def set_values(self, values: Collection[str]) -> None:
        """Show which are chosen; of several each is outlined, and none is pressed."""
        mixed = len(values) > 1
        self._group.setExclusive(False)
        for value, button in self.buttons.items():
            button.setChecked(not mixed and value in values)
            if button.property("mixed") != (mixed and value in values):
                button.setProperty("mixed", mixed and value in values)
                button.style().unpolish(button)
                button.style().polish(button)
        self._group.setExclusive(True)
        self.setAccessibleDescription("mixed" if mixed else "")
