"""Which numbers of a value play what, as a strip and as a table; a gap is closed by a click."""

from collections.abc import Sequence

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QGridLayout, QLabel, QPushButton, QSizePolicy, QVBoxLayout, QWidget
from typing_extensions import override

from cicada.core.coverage import Stretch
from cicada.core.model import Placeable
from cicada.window.drawing import theme
from cicada.window.widgets.rows import soft
from cicada.window.words.answers import plays_text, stretch_text
from cicada.window.words.numbers import shown

HEIGHT, SIDE, BAND = 46, 8, 22
MIDDLE = Qt.AlignmentFlag.AlignCenter
# Bands of neighbours are told apart by how dark they are, as much as by their words.
SHADES = (58, 96)


class CoverageStrip(QWidget):
    """A value from its lowest to its highest number, with what plays where."""

    gap_clicked = Signal(int)

    def __init__(self) -> None:
        super().__init__()
        self.setMinimumHeight(HEIGHT)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setAccessibleName("which numbers play what")
        self._stretches: list[Stretch] = []
        self._words: list[str] = []
        self._gaps = True

    def show_stretches(
        self, stretches: Sequence[Stretch], words: Sequence[str], *, gaps: bool = True
    ) -> None:
        """Show these, each with its words; nothing to play is a gap, where ``gaps`` says so."""
        self._stretches, self._words, self._gaps = list(stretches), list(words), gaps
        self.update()

    @override
    def sizeHint(self) -> QSize:
        return QSize(300, HEIGHT)

    def _x(self, number: float) -> float:
        low, high = self._stretches[0].low, self._stretches[-1].high
        return SIDE + (number - low) / (high - low) * (self.width() - 2 * SIDE)

    def _bands(self) -> list[QRectF]:
        return [
            QRectF(self._x(each.low), 2, self._x(each.high) - self._x(each.low), BAND)
            for each in self._stretches
        ]

    @override
    def paintEvent(self, event: QPaintEvent) -> None:
        if not self._stretches:
            return
        p = QPainter(self)
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        p.setFont(theme.font(11))
        for number, (stretch, box) in enumerate(zip(self._stretches, self._bands(), strict=True)):
            gap = self._gaps and not stretch.parts
            shade = SHADES[number % 2] if stretch.parts else 40 if gap else 12
            p.fillRect(box, theme.wash(theme.BRICK if gap else theme.MOSS, shade))
            if gap:
                p.setPen(QPen(theme.BRICK, 1.2, Qt.PenStyle.DashLine))
                p.drawRect(box.adjusted(0.5, 0.5, -0.5, -0.5))
            p.setPen(theme.BRICK if gap else theme.INK)
            text = p.fontMetrics().elidedText(
                self._words[number], Qt.TextElideMode.ElideRight, int(box.width()) - 6
            )
            p.drawText(box, MIDDLE, text)
        self._numbers(p)

    def _numbers(self, p: QPainter) -> None:
        p.setPen(theme.INK_SOFT)
        last = -1e9
        for number in [self._stretches[0].low, *(each.high for each in self._stretches)]:
            x, text = self._x(number), shown(number)
            wide = p.fontMetrics().horizontalAdvance(text)
            left = min(max(0.0, x - wide / 2), self.width() - wide)
            if left > last + 6:
                p.drawLine(QPointF(x, BAND + 2), QPointF(x, BAND + 6))
                p.drawText(QRectF(left, BAND + 6, wide + 2, 16), text)
                last = left + wide

    @override
    def mousePressEvent(self, event: QMouseEvent) -> None:
        for number, box in enumerate(self._bands() if self._stretches else []):
            gap = self._gaps and not self._stretches[number].parts
            if gap and box.contains(event.position()):
                self.gap_clicked.emit(number)


class CoverageTable(QWidget):
    """The strip, and below it every stretch in words; ``gap_clicked`` comes with its number."""

    gap_clicked = Signal(int)

    def __init__(self) -> None:
        super().__init__()
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(4)
        self.title = QLabel()
        column.addWidget(self.title)
        self.strip = CoverageStrip()
        self.strip.gap_clicked.connect(self.gap_clicked)
        column.addWidget(self.strip)
        self._grid = QGridLayout()
        self._grid.setHorizontalSpacing(14)
        self._grid.setVerticalSpacing(2)
        self._grid.setColumnStretch(1, 1)
        column.addLayout(self._grid)
        self.closing: list[QPushButton] = []

    def show_coverage(
        self, title: str, stretches: Sequence[Stretch], names: Sequence[str], made: Placeable | None
    ) -> None:
        """Show what plays at which numbers; ``names`` are those of the parts."""
        self.title.setText(title)
        words = [plays_text(stretch, names, made) for stretch in stretches]
        self.strip.show_stretches(stretches, words, gaps=made is not None)
        while (item := self._grid.takeAt(0)) is not None:
            widget = item.widget()
            if widget is not None:
                # It is freed later, and must not be seen until then.
                widget.hide()
                widget.deleteLater()
        self.closing.clear()
        for row, (stretch, text) in enumerate(zip(stretches, words, strict=True)):
            self._grid.addWidget(soft(stretch_text(stretch)), row, 0)
            label = QLabel(text)
            label.setWordWrap(True)
            self._grid.addWidget(label, row, 1)
            if not stretch.parts and made is not None:
                label.setObjectName("wrong")
                button = QPushButton("Close the gap")
                button.setToolTip("What ends below it goes on up to where the next begins")
                button.clicked.connect(lambda _=False, row=row: self.gap_clicked.emit(row))
                self._grid.addWidget(button, row, 2)
                self.closing.append(button)
