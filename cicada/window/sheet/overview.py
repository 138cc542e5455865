"""The overview strip: the whole scene in a line, and the part of it that is on the sheet."""

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt, QTimer
from PySide6.QtGui import QImage, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QSizePolicy, QWidget
from typing_extensions import override

from cicada.window.drawing import theme
from cicada.window.drawing.layout import HEAD
from cicada.window.sheet.sheet import Sheet

TALL = 16
EDGE = 6
LEAST = 8.0
# Milliseconds after the last edit at which the strip is drawn anew.
PAUSE = 150
KIND_COLOURS = (theme.SLATE, theme.MOSS, theme.PLUM, theme.OCHRE)


class Overview(QWidget):
    """Dragging the part shown scrolls; dragging its edges zooms; a click elsewhere goes there."""

    def __init__(self, sheet: Sheet) -> None:
        super().__init__()
        self._sheet = sheet
        self.setFixedHeight(TALL)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setMouseTracking(True)
        self.setAccessibleName("Overview of the scene")
        self._grabbed = ""
        self._from = 0.0
        self._was = (0.0, 0.0)
        sheet.looked_elsewhere.connect(self.update)
        sheet.session.scene_changed.connect(self._forget)
        self._image: QImage | None = None
        self._pause = QTimer(self)
        self._pause.setSingleShot(True)
        self._pause.setInterval(PAUSE)
        self._pause.timeout.connect(self._forget)
        sheet.planning.planned.connect(self._pause.start)
        sheet.session.playhead_moved.connect(self.update)

    def _x(self, place: float) -> float:
        return HEAD + place / self._sheet.length * (self.width() - HEAD - 12)

    def _place(self, x: float) -> float:
        return (x - HEAD) / max(1, self.width() - HEAD - 12) * self._sheet.length

    def shown(self) -> tuple[float, float]:
        """The places at the left and the right edge of the sheet."""
        place = self._sheet.place
        wide = (self._sheet.viewport().width() - HEAD) / place.scale
        return place.left, min(place.left + wide, self._sheet.length)

    def window_box(self) -> QRectF:
        """Where the part shown is drawn."""
        left, right = (self._x(place) for place in self.shown())
        return QRectF(left, 1, max(LEAST, right - left), TALL - 3)

    def _drawn(self) -> QImage:
        """Every row of the scene as lines of pixels; painted anew when edits pause."""
        traces = self._sheet.traces
        wide, count = max(1, self.width() - HEAD - 12), max(1, len(traces.rows))
        tall = TALL - 7
        colours = np.array([0, *(c.rgb() for c in KIND_COLOURS)], np.uint32)
        lines = np.zeros((tall, wide), np.uint8)
        scale = wide / self._sheet.length
        for number, row in enumerate(traces.rows):
            if not row.voices:
                continue
            low = np.clip(row.starts * scale, 0, wide - 1).astype(np.int64)
            high = np.clip(np.ceil(row.ends * scale), 1, wide).astype(np.int64)
            line = np.zeros(wide, np.uint8)
            for kind in np.unique(row.kinds).tolist():
                these = row.kinds == kind
                begin = np.bincount(low[these], minlength=wide + 1)
                sounding = np.cumsum(begin - np.bincount(high[these], minlength=wide + 1))
                line[sounding[:wide] > 0] = kind + 1
            first = number * tall // count
            lines[first : max(first + 1, (number + 1) * tall // count)] = line
        pixels = colours[lines]
        image = QImage(pixels.data, wide, tall, 4 * wide, QImage.Format.Format_ARGB32)
        return image.copy()

    def _forget(self) -> None:
        self._image = None
        self.update()

    @override
    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.fillRect(self.rect(), theme.PAPER)
        traces = self._sheet.traces
        painter.setPen(theme.INK_SOFT)
        painter.setFont(theme.font(11))
        painter.drawText(QRectF(18, 0, 140, TALL), Qt.AlignmentFlag.AlignVCenter, "whole scene")
        painter.fillRect(QRectF(HEAD, 2, self.width() - HEAD - 12, TALL - 5), theme.ROW)
        if self._image is None or self._image.width() != max(1, self.width() - HEAD - 12):
            self._image = self._drawn()
        painter.setOpacity(0.6)
        painter.drawImage(QPointF(HEAD, 3), self._image)
        painter.setOpacity(1.0)
        x = self._x(traces.of_frame(self._sheet.session.playhead))
        painter.fillRect(QRectF(x, 1, 1, TALL - 3), theme.INK)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(QPen(theme.MOSS, 1.6))
        painter.setBrush(theme.wash(theme.MOSS, 22))
        painter.drawRoundedRect(self.window_box(), 3, 3)

    def _part_at(self, point: QPointF) -> str:
        box = self.window_box()
        if abs(point.x() - box.left()) <= EDGE / 2:
            return "left"
        if abs(point.x() - box.right()) <= EDGE / 2:
            return "right"
        return "all" if box.left() < point.x() < box.right() else ""

    @override
    def mousePressEvent(self, event: QMouseEvent) -> None:
        point = event.position()
        self._grabbed = self._part_at(point)
        if not self._grabbed:
            left, right = self.shown()
            self._sheet.scroll_to(self._place(point.x()) - (right - left) / 2)
            self._grabbed = "all"
        self._from, self._was = self._place(point.x()), self.shown()

    @override
    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        point = event.position()
        if not event.buttons() & Qt.MouseButton.LeftButton:
            part = self._part_at(point)
            edge = part in ("left", "right")
            self.setCursor(Qt.CursorShape.SizeHorCursor if edge else Qt.CursorShape.ArrowCursor)
            return
        moved = self._place(point.x()) - self._from
        left, right = self._was
        if self._grabbed == "all":
            self._sheet.scroll_to(left + moved)
            return
        least = LEAST / max(1, self.width()) * self._sheet.length
        if self._grabbed == "left":
            left = min(max(0.0, left + moved), right - least)
        else:
            right = max(min(self._sheet.length, right + moved), left + least)
        self._sheet.show_places(left, right)
