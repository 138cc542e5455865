"""A value on the pads' panel: its name, a slider, its ends, its line, and who watches it."""

from collections.abc import Sequence

from msgspec.structs import replace
from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import (
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QPushButton,
    QSlider,
    QVBoxLayout,
    QWidget,
)

from cicada.core.answers import Value
from cicada.core.coverage import Stretch
from cicada.window.widgets.coverage_view import CoverageTable
from cicada.window.widgets.rows import soft
from cicada.window.words.numbers import read, shown

STEPS = 1000


class ValueRow(QWidget):
    """``moved`` comes with a number, ``changed`` with the value as it is to be and why.

    ``drawn`` says whether its line is to be drawn, ``let_go`` and ``removed`` that it is to follow
    its line again or to go.
    """

    moved = Signal(float)
    changed = Signal(object, str)
    drawn = Signal(bool)
    let_go = Signal()
    removed = Signal()

    def __init__(self, value: Value, number: float, *, is_drawn: bool) -> None:
        super().__init__()
        self.value = value
        self._column = QVBoxLayout(self)
        self._column.setContentsMargins(0, 4, 0, 4)
        self._column.setSpacing(3)
        self._column.addLayout(self._moving(number))
        self._below = QHBoxLayout()
        self._below.setSpacing(6)
        self._column.addLayout(self._below)
        self._setting(is_drawn=is_drawn)

    def _moving(self, number: float) -> QHBoxLayout:
        value, row = self.value, QHBoxLayout()
        row.setSpacing(8)
        name = QLineEdit(value.label)
        name.setAccessibleName("value's name")
        name.setFixedWidth(120)

        def named() -> None:
            text = name.text().strip()
            if text and text != value.label:
                self.changed.emit(replace(value, name=text), "rename the value")

        name.editingFinished.connect(named)
        row.addWidget(name)
        now = QLabel(shown(number, 3))
        now.setFixedWidth(44)
        self.slider = QSlider(Qt.Orientation.Horizontal)
        self.slider.setRange(0, STEPS)
        self.slider.setAccessibleName(value.label)
        self.slider.setValue(round((number - value.low) / (value.high - value.low) * STEPS))

        def moved(step: int) -> None:
            at = value.low + (value.high - value.low) * step / STEPS
            now.setText(shown(at, 3))
            self.moved.emit(at)

        self.slider.valueChanged.connect(moved)
        row.addWidget(self.slider, 1)
        row.addWidget(now)
        return row

    def _setting(self, *, is_drawn: bool) -> None:
        row, value = self._below, self.value
        for number, (words, end) in enumerate((("from", value.low), ("to", value.high))):
            row.addWidget(soft(words))
            row.addWidget(self._end(number, end))
        row.addStretch(1)
        draw = QPushButton("Draw")
        draw.setCheckable(True)
        draw.setChecked(is_drawn)
        draw.setToolTip("Draw its line in this scene, below the rows; Esc closes")
        draw.clicked.connect(self.drawn)
        row.addWidget(draw)
        back = QPushButton("Line")
        back.setToolTip("Let it follow its line again")
        back.clicked.connect(self.let_go)
        row.addWidget(back)
        gone = QPushButton("×")
        gone.setFixedWidth(36)
        gone.setAccessibleName("remove the value")
        gone.setToolTip("Remove the value, with its lines and all that follows it")
        gone.clicked.connect(self.removed)
        row.addWidget(gone)

    def show_watches(
        self, stretches: Sequence[Stretch], names: Sequence[str], *, is_open: bool
    ) -> None:
        """Offer to see which pads watch which numbers."""
        row = QHBoxLayout()
        who = dict.fromkeys(names[place] for stretch in stretches for place in stretch.parts)
        row.addWidget(soft(f"watched by {', '.join(who)}"), 1)
        self.watched = QPushButton("Where")
        self.watched.setCheckable(True)
        self.watched.setChecked(is_open)
        self.watched.setToolTip("Which pads act as it comes to which numbers")
        row.addWidget(self.watched)
        self._column.addLayout(row)
        table = CoverageTable()
        table.show_coverage(f"Which pads watch {self.value.label}", stretches, names, None)
        table.setVisible(is_open)
        self.watched.clicked.connect(lambda on: table.setVisible(on))  # noqa: PLW0108 # it is called with nothing else
        self._column.addWidget(table)

    def _end(self, number: int, end: float) -> QLineEdit:
        field, value = QLineEdit(shown(end)), self.value
        field.setAccessibleName(("lowest", "highest")[number])
        field.setToolTip(("The lowest it can be", "The highest it can be")[number])
        field.setFixedWidth(44)

        def entered() -> None:
            try:
                given = read(field.text())
            except ValueError:
                field.setText(shown(end))
                return
            low, high = (given, value.high) if number == 0 else (value.low, given)
            start = value.start if value.start is None else min(max(value.start, low), high)
            if given != end:
                made = replace(value, low=low, high=high, start=start)
                self.changed.emit(made, "the ends of the value")

        field.editingFinished.connect(entered)
        return field
