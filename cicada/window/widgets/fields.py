"""Fields for one quantity each: they say how they read what was typed, and keep the old value."""

from collections.abc import Callable, Collection
from math import inf, isnan, nan
from time import monotonic
from typing import NamedTuple, Protocol

from PySide6.QtCore import QEvent, QRect, Qt, Signal
from PySide6.QtGui import QKeyEvent, QWheelEvent
from PySide6.QtWidgets import QLineEdit, QToolTip, QWidget
from typing_extensions import override

from cicada.core.values import Line
from cicada.window.words.quantities import (
    TimeUnits,
    level_readings,
    level_stepped,
    level_text,
    pan_stepped,
    pan_text,
    parse_level,
    parse_pan,
    parse_seconds,
    parse_speed,
    seconds_text,
    speed_readings,
    speed_stepped,
    speed_text,
    time_readings,
    time_stepped,
)

# Seconds without a step after which the next one is undone by itself.
PAUSE = 1.0


class EscapedField(QLineEdit):
    """A field in which Esc has a meaning of its own, as long as ``holds_escape``."""

    def holds_escape(self) -> bool:
        """Whether Esc is for the field now, and not for the window."""
        return self.isModified()

    def escaped(self) -> None:
        """Esc was pressed."""

    @override
    def event(self, event: QEvent) -> bool:
        # Esc is a key of the whole window otherwise, which silences.
        if (
            event.type() == QEvent.Type.ShortcutOverride
            and isinstance(event, QKeyEvent)
            and event.key() == Qt.Key.Key_Escape
            and self.holds_escape()
        ):
            event.accept()
            return True
        return super().event(event)

    @override
    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Escape:
            self.escaped()
        else:
            super().keyPressEvent(event)


class TypedField(EscapedField):
    """What is typed is read when it is entered; what cannot be read is said, and taken back."""

    # Enter has taken what was typed: the keys may go elsewhere.
    left = Signal()

    def __init__(self, name: str) -> None:
        super().__init__()
        self.setAccessibleName(name)
        self.editingFinished.connect(self.enter)

    @override
    def keyPressEvent(self, event: QKeyEvent) -> None:
        super().keyPressEvent(event)
        entered = event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter)
        if entered and not self.property("wrong"):
            self.left.emit()

    @property
    def being_typed(self) -> bool:
        """Whether something is being typed that is not entered yet."""
        return self.hasFocus() and (self.isModified() or bool(self.property("wrong")))

    def take(self, text: str) -> None:
        """Read what was typed; raises ``ValueError`` with a sentence."""
        raise NotImplementedError

    def write(self) -> None:
        """Show the value there is."""
        raise NotImplementedError

    def enter(self) -> bool:
        """Take what was typed, if anything was; whether it could be read."""
        if not self.isModified():
            return True
        self.setModified(False)
        try:
            self.take(self.text())
        except ValueError as error:
            self._mark(wrong=True)
            QToolTip.showText(self.mapToGlobal(self.rect().bottomLeft()), str(error), self)
            self.setAccessibleDescription(str(error))
            return False
        return True

    def shown(self) -> None:
        """The value is shown as it is: nothing is wrong any more."""
        self.setAccessibleDescription("")
        self.setCursorPosition(0)
        self._mark(wrong=False)

    @override
    def escaped(self) -> None:
        self.setModified(False)
        self.write()

    def _mark(self, *, wrong: bool) -> None:
        if self.property("wrong") != wrong:
            self.setProperty("wrong", wrong)
            self.style().unpolish(self)
            self.style().polish(self)


class Stepping(Protocol):
    """What a value is some steps on."""

    def __call__(self, value: float, steps: int, /, *, fine: bool) -> float:
        """The value ``steps`` up, or down where they are negative."""


class Kind(NamedTuple):
    """How a quantity is read, shown, told in all its readings, and stepped."""

    parse: Callable[[str], float]
    show: Callable[[float], str]
    tip: str
    readings: Callable[[float], str] | None = None
    step: Stepping | None = None


def whole(
    parse: Callable[[str], float], show: Callable[[float], str], tip: str, least: float = -inf
) -> Kind:
    """A quantity that goes by whole steps, and not below ``least``."""

    def step(value: float, steps: int, /, *, fine: bool) -> float:
        return max(least, value + steps)

    return Kind(parse, show, tip, None, step)


LEVEL = Kind(
    parse_level,
    level_text,
    "40 %, -8 dB or 0.4x; a bare number is %",
    level_readings,
    level_stepped,
)
PAN = Kind(parse_pan, pan_text, "40 left, middle, 100 right", None, pan_stepped)
SPEED = Kind(
    parse_speed,
    speed_text,
    "2x, 50 % or -12 st; a bare number is a factor. 2x is an octave up",
    speed_readings,
    speed_stepped,
)


def time(units: Callable[[], TimeUnits], tip: str = "") -> Kind:
    """A length of time, told in seconds and frames; ``tip`` says what it is."""
    how = "0.5 s, 250 ms, 12 f, 2 b, 0:02:12 or 2 s + 5 f; a bare number is seconds"

    def step(value: float, steps: int, /, *, fine: bool) -> float:
        return time_stepped(value, steps, units(), fine=fine)

    return Kind(
        lambda text: parse_seconds(text, units()),
        lambda value: seconds_text(value, units()),
        f"{tip}\n{how}".strip(),
        lambda value: time_readings(value, units()),
        step,
    )


class Steps:
    """Some steps of a field, made one after the other."""

    last = 0.0


class QuantityField(TypedField):
    """A number with its unit. ``chosen`` comes with every value entered that can be read.

    Up and Down and the wheel step it; with Shift in finer steps.
    """

    chosen = Signal(float)
    # The steps that are being made, one after the other without a pause: they are undone together.
    stepping: "Steps | None" = None

    def __init__(self, name: str, kind: Kind) -> None:
        super().__init__(name)
        self._kind = kind
        self.value = nan
        self._steps: Steps | None = None
        self._tell()

    def set_value(self, value: float) -> None:
        """Show a value, unless something is being typed."""
        self.value = value
        if not self.being_typed:
            self.write()

    def set_values(self, values: Collection[float]) -> None:
        """Show the value of all that is chosen, or that they differ."""
        self.set_value(next(iter(values)) if len(set(values)) == 1 else nan)

    @override
    def write(self) -> None:
        mixed = isnan(self.value)
        self.setText("" if mixed else self._kind.show(self.value))
        self.setPlaceholderText("mixed" if mixed else "")
        self._tell()
        self.shown()

    def _tell(self) -> None:
        told = (
            "" if isnan(self.value) or not self._kind.readings else self._kind.readings(self.value)
        )
        self.setToolTip(f"{told}\n{self._kind.tip}".strip())

    @override
    def take(self, text: str) -> None:
        value = self._kind.parse(text)
        changed = value != self.value
        self.value = value
        self.write()
        if changed:
            self.chosen.emit(value)

    @override
    def keyPressEvent(self, event: QKeyEvent) -> None:
        if self._kind.step and event.key() in (Qt.Key.Key_Up, Qt.Key.Key_Down):
            up = 1 if event.key() == Qt.Key.Key_Up else -1
            self._step(up, fine=bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier))
            return
        super().keyPressEvent(event)

    @override
    def wheelEvent(self, event: QWheelEvent) -> None:
        # Only with the focus: a wheel that happens to pass over must change nothing.
        turn = event.angleDelta().y() or event.angleDelta().x()
        if self._kind.step and self.hasFocus() and turn:
            fine = bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
            self._step(1 if turn > 0 else -1, fine=fine)
            event.accept()
        else:
            event.ignore()

    def _step(self, steps: int, *, fine: bool) -> None:
        """Step the value, unless what comes of it is none."""
        if isnan(self.value) or self._kind.step is None:
            return
        value = self._kind.step(self.value, steps, fine=fine)
        try:
            self._kind.parse(self._kind.show(value))
        except ValueError:
            return
        if value != self.value:
            self.setModified(False)
            self.set_value(value)
            now = monotonic()
            if self._steps is None or now - self._steps.last > PAUSE:
                self._steps = Steps()
            self._steps.last = now
            QuantityField.stepping = self._steps
            try:
                self.chosen.emit(value)
            finally:
                QuantityField.stepping = None


class LineField(TypedField):
    """The points of a line, typed. ``chosen`` comes with every line that can be read."""

    chosen = Signal(object)

    def __init__(
        self, name: str, parse: Callable[[str], Line], show: Callable[[Line], str], example: str
    ) -> None:
        super().__init__(name)
        self._tip = f"Points in seconds of the clip, as in {example}; empty for none"
        self._parse, self._show, self._example = parse, show, example
        self._values: Collection[Line] = ((),)

    def set_values(self, values: Collection[Line]) -> None:
        """Show the line, or that what is chosen has several."""
        self._values = values
        if not self.being_typed:
            self.write()

    @override
    def write(self) -> None:
        alike = len(self._values) == 1
        self.setText(self._show(next(iter(self._values))) if alike else "")
        self.setToolTip(f"{self.text()}\n{self._tip}".strip())
        self.setPlaceholderText(self._example if alike else "mixed")
        self.shown()

    @override
    def take(self, text: str) -> None:
        points = self._parse(text)
        self.shown()
        self.chosen.emit(points)


class NameField(EscapedField):
    """A name typed in place: Enter or leaving takes it (``named``), Esc leaves it as it was."""

    named = Signal(str)
    left = Signal()

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
        self.left.emit()
        if name and name != self._before:
            self.named.emit(name)

    @override
    def holds_escape(self) -> bool:
        return True

    @override
    def escaped(self) -> None:
        self._end("")
