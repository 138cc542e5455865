"""A sound's waveform with the place that is heard; a click asks for another place."""

import numpy as np
from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QImage, QMouseEvent, QPainter, QPaintEvent, QPen, QResizeEvent
from PySide6.QtWidgets import QSizePolicy, QWidget
from typing_extensions import override

from cicada.media.peaks import Peaks
from cicada.window.drawing import theme
from cicada.window.drawing.waveform import columns_image


class SeekTrack(QWidget):
    """Draws peaks over its whole width. ``sought`` says which share of the sound was clicked."""

    sought = Signal(float)

    def __init__(self, height: int) -> None:
        super().__init__()
        self.setFixedHeight(height)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setMinimumWidth(80)
        self._peaks: Peaks | None = None
        self._image: QImage | None = None
        self._at: float | None = None
        self._quiet = (0.0, 0.0)
        self._marks: tuple[float, ...] = ()

    @override
    def sizeHint(self) -> QSize:
        return QSize(240, self.height())

    def show_peaks(
        self,
        peaks: Peaks | None,
        quiet: tuple[float, float] = (0.0, 0.0),
        marks: tuple[float, ...] = (),
    ) -> None:
        """Draw these; ``quiet`` are the shares silent at head and tail, ``marks`` shares too."""
        if peaks is not self._peaks:
            self._image = None
        self._peaks, self._quiet, self._marks = peaks, quiet, marks
        self.update()

    def show_position(self, at: float | None) -> None:
        """Draw the place that is heard, as a share."""
        if at != self._at:
            self._at = at
            self.update()

    @override
    def resizeEvent(self, event: QResizeEvent) -> None:
        self._image = None

    @override
    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        box = QRectF(self.rect()).adjusted(0.5, 0.5, -0.5, -0.5)
        painter.setPen(QPen(theme.RULE, 1))
        painter.setBrush(theme.ROW)
        painter.drawRoundedRect(box, 5, 5)
        width = box.width()
        painter.setPen(theme.NO_PEN)
        painter.setBrush(theme.wash(theme.RULE_STRONG, 70))
        head, tail = self._quiet
        painter.drawRect(QRectF(box.left(), box.top(), head * width, box.height()))
        painter.drawRect(QRectF(box.right() - tail * width, box.top(), tail * width, box.height()))
        if self._peaks is not None:
            if self._image is None:
                edges = np.linspace(0, self._peaks.samples, max(2, int(width)) + 1)
                columns = self._peaks.columns(edges).astype(np.float64)
                loudest = float(np.abs(columns).max()) or 1.0
                self._image = columns_image(columns / loudest, self.height() - 6, theme.MOSS)
            painter.drawImage(QPointF(box.left(), 3), self._image)
        else:
            painter.setPen(QPen(theme.RULE_STRONG, 1, Qt.PenStyle.DotLine))
            middle = box.center().y()
            painter.drawLine(QPointF(box.left() + 8, middle), QPointF(box.right() - 8, middle))
        painter.setPen(QPen(theme.OCHRE, 1))
        for mark in self._marks:
            x = box.left() + mark * width
            painter.drawLine(QPointF(x, box.top()), QPointF(x, box.bottom()))
        if self._at is not None:
            x = box.left() + self._at * width
            painter.setPen(QPen(theme.INK, 1.5))
            painter.drawLine(QPointF(x, box.top()), QPointF(x, box.bottom()))

    @override
    def mousePressEvent(self, event: QMouseEvent) -> None:
        if event.button() == Qt.MouseButton.LeftButton:
            share = event.position().x() / max(1, self.width())
            self.sought.emit(max(0.0, min(1.0, share)))
