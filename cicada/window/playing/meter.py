"""The meter: how loud it is that comes out."""

from math import log10

from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QPainter, QPaintEvent
from PySide6.QtWidgets import QWidget
from typing_extensions import override

from cicada.window.drawing import theme
from cicada.window.playing.metering import Metering

FLOOR_DB = -48.0
FALL = 0.92


class Meter(QWidget):
    """Two bars for the level that comes out, with the highest of late, in dB."""

    def __init__(self, metering: Metering) -> None:
        super().__init__()
        self._metering = metering
        metering.changed.connect(self._follow)
        self.setFixedHeight(26)
        self.setMinimumWidth(96)
        self.setMaximumWidth(156)
        self.setAccessibleName("Level")
        self._bars = [0.0, 0.0]
        self._highest = [0.0, 0.0]

    def _follow(self) -> None:
        self.show_peaks(*self._metering.sides)

    def show_peaks(self, left: float, right: float) -> None:
        """Take the newest peaks; bars fall slowly."""
        before = (*self._bars, *self._highest)
        for side, peak in enumerate((left, right)):
            bar = max(peak, self._bars[side] * FALL)
            self._bars[side] = bar if bar > 1e-4 else 0.0
            highest = max(self._bars[side], self._highest[side] * 0.995)
            self._highest[side] = highest if highest > 1e-3 else 0.0
        if (*self._bars, *self._highest) != before:
            self.update()

    @override
    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        width = self.width() - 46
        for side in range(2):
            top = 5 + side * 10
            painter.fillRect(QRectF(0, top, width, 6), theme.RULE)
            over = self._bars[side] > 1.0
            painter.fillRect(
                QRectF(0, top, width * _share(self._bars[side]), 6),
                theme.BRICK if over else theme.MOSS,
            )
            if self._highest[side]:
                at = width * _share(self._highest[side])
                painter.fillRect(QRectF(at, top - 1, 2, 8), theme.INK)
        highest = max(self._highest)
        text = f"{round(_decibels(highest))} dB" if highest else "–"
        painter.setFont(theme.font(12))
        painter.setPen(theme.INK_SOFT)
        painter.drawText(
            QRectF(width, 0, 46, 26),
            Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter,
            text,
        )


def _decibels(level: float) -> float:
    return 20 * log10(level) if level > 0 else FLOOR_DB


def _share(level: float) -> float:
    return max(0.0, min(1.0, 1 - _decibels(level) / FLOOR_DB))
