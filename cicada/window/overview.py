"""The overview strip: the whole scene in a line, and the part of it that is on the sheet."""

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QSizePolicy, QWidget
from typing_extensions import override

from cicada.window import theme
from cicada.window.sheet import Sheet
from cicada.window.sheet_layout import HEAD

TALL = 16
EDGE = 6
LEAST = 8.0


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
        sheet.planning.planned.connect(self.update)
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

    @override
    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.fillRect(self.rect(), theme.PAPER)
        traces = self._sheet.traces
        painter.setPen(theme.INK_SOFT)
        painter.setFont(theme.font(11))
        painter.drawText(QRectF(18, 0, 140, TALL), Qt.AlignmentFlag.AlignVCenter, "whole scene")
        painter.fillRect(QRectF(HEAD, 2, self._x(self._sheet.length) - HEAD, TALL - 5), theme.ROW)
        tall = max(1.0, (TALL - 7) / max(1, len(traces.rows)))
        colours = (theme.SLATE, theme.MOSS, theme.PLUM, theme.OCHRE)
        for number, row in enumerate(traces.rows):
            top = 3 + number * (TALL - 7) / max(1, len(traces.rows))
            for start, end, kind in zip(row.starts, row.ends, row.kinds, strict=True):
                left = self._x(float(start))
                wide = max(1.0, self._x(float(end)) - left)
                painter.fillRect(QRectF(left, top, wide, tall), theme.wash(colours[kind], 150))
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
