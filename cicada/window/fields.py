"""Fields for one quantity each: they say how they read what was typed, and keep the old value."""

from collections.abc import Callable, Collection
from math import isnan, nan

from PySide6.QtCore import QEvent, QRect, Qt, Signal
from PySide6.QtGui import QFontMetrics, QKeyEvent, QWheelEvent
from PySide6.QtWidgets import QButtonGroup, QHBoxLayout, QLineEdit, QPushButton, QToolTip, QWidget
from typing_extensions import override

from cicada.core.model import Line
from cicada.window import theme


class QuantityField(QLineEdit):
    """A number with its unit. ``chosen`` comes with every value entered that can be read."""

    chosen = Signal(float)

    def __init__(
        self,
        name: str,
        parse: Callable[[str], float],
        show: Callable[[float], str],
        tip: str,
        step: float = 0.0,
    ) -> None:
        """``step`` is what the up and down keys and the wheel change it by; 0 for nothing."""
        super().__init__()
        self._step = step
        self.setAccessibleName(name)
        self.setToolTip(tip)
        self._parse, self._show = parse, show
        self.value = 0.0
        self.editingFinished.connect(self._entered)

    def set_value(self, value: float) -> None:
        """Show a value, unless something is being typed."""
        self.value = value
        if not self.hasFocus() or not self.isModified():
            self._write()

    def set_mixed(self) -> None:
        """Say that what is chosen has several values."""
        self.value = nan
        if not self.hasFocus() or not self.isModified():
            self._write()

    def _write(self) -> None:
        self.setText("" if isnan(self.value) else self._show(self.value))
        self.setPlaceholderText("mixed" if isnan(self.value) else "")
        self.setCursorPosition(0)
        self._mark(wrong=False)

    def _mark(self, *, wrong: bool) -> None:
        self.setProperty("wrong", wrong)
        self.style().unpolish(self)
        self.style().polish(self)

    def _entered(self) -> None:
        if not self.isModified():
            return
        self.setModified(False)
        try:
            value = self._parse(self.text())
        except ValueError as error:
            self._mark(wrong=True)
            QToolTip.showText(self.mapToGlobal(self.rect().bottomLeft()), str(error), self)
            self.setAccessibleDescription(str(error))
            return
        self.setAccessibleDescription("")
        changed = value != self.value
        self.value = value
        self._write()
        if changed:
            self.chosen.emit(value)

    @override
    def event(self, event: QEvent) -> bool:
        # While something is typed, Esc takes it back and silences nothing.
        if (
            event.type() == QEvent.Type.ShortcutOverride
            and isinstance(event, QKeyEvent)
            and event.key() == Qt.Key.Key_Escape
            and self.isModified()
        ):
            event.accept()
            return True
        return super().event(event)

    @override
    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Escape:
            self.setModified(False)
            self._write()
            return
        if self._step and event.key() in (Qt.Key.Key_Up, Qt.Key.Key_Down):
            self._take(1 if event.key() == Qt.Key.Key_Up else -1)
            return
        super().keyPressEvent(event)

    @override
    def wheelEvent(self, event: QWheelEvent) -> None:
        # Only with the focus: a wheel that happens to pass over must change nothing.
        if self._step and self.hasFocus() and event.angleDelta().y():
            self._take(1 if event.angleDelta().y() > 0 else -1)
            event.accept()
        else:
            event.ignore()

    def _take(self, steps: int) -> None:
        """Step the value, as if the new one had been typed."""
        if isnan(self.value):
            return
        self.setText(self._show(round(self.value + steps * self._step, 6)))
        self.setModified(True)
        self._entered()


class LineField(QLineEdit):
    """The points of a line, typed. ``chosen`` comes with every line that can be read."""

    chosen = Signal(object)

    def __init__(
        self, name: str, parse: Callable[[str], Line], show: Callable[[Line], str], example: str
    ) -> None:
        super().__init__()
        self.setAccessibleName(name)
        self._tip = f"Points in seconds of the clip, as in {example}; empty for none"
        self._parse, self._show, self._example = parse, show, example
        self.editingFinished.connect(self._entered)

    def set_values(self, values: Collection[Line]) -> None:
        """Show the line, or that what is chosen has several."""
        if self.hasFocus() and self.isModified():
            return
        alike = len(values) == 1
        self.setText(self._show(next(iter(values))) if alike else "")
        self.setToolTip(f"{self.text()}\n{self._tip}".strip())
        self.setPlaceholderText(self._example if alike else "mixed")
        self.setCursorPosition(0)

    def _entered(self) -> None:
        if not self.isModified():
            return
        self.setModified(False)
        try:
            points = self._parse(self.text())
        except ValueError as error:
            QToolTip.showText(self.mapToGlobal(self.rect().bottomLeft()), str(error), self)
            self.setAccessibleDescription(str(error))
            return
        self.setAccessibleDescription("")
        self.chosen.emit(points)


class NameField(QLineEdit):
    """A name typed in place: Enter or leaving takes it (``named``), Esc leaves it as it was."""

    named = Signal(str)

    def __init__(self, name: str, words: str, parent: QWidget, place: QRect) -> None:
        """``words`` say what is named, for screen readers."""
        super().__init__(name, parent)
        self._around, self._before, self._over = parent, name, False
        self.setGeometry(place)
        self.setAccessibleName(words)
        self.editingFinished.connect(lambda: self._end(self.text().strip()))
        self.selectAll()
        self.show()
        self.setFocus()

    def _end(self, name: str) -> None:
        if self._over:
            return
        self._over = True
        if self.hasFocus():
            self._around.setFocus()
        self.deleteLater()
        if name and name != self._before:
            self.named.emit(name)

    @override
    def event(self, event: QEvent) -> bool:
        # Esc is a key of the whole window otherwise.
        if (
            event.type() == QEvent.Type.ShortcutOverride
            and isinstance(event, QKeyEvent)
            and event.key() == Qt.Key.Key_Escape
        ):
            event.accept()
            return True
        return super().event(event)

    @override
    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Escape:
            self._end("")
        else:
            super().keyPressEvent(event)


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
