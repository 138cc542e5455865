"""Zones drawn over the picture, where they are clicked and drawn."""

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPen

from cicada.window.drawing import theme
from cicada.window.playing.zones import Zones

LEFT = Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter


class ZonesOver:
    """Zones as outlines with their pads' names; one that is drawn follows the pointer."""

    def __init__(self, zones: Zones) -> None:
        self.zones = zones
        self._held: tuple[QPointF, QPointF] | None = None

    def paint(self, painter: QPainter, box: QRectF) -> None:
        """Draw them over a picture that fills ``box``."""
        painter.setFont(theme.font(11, 600))
        for pad in self.zones.shown:
            assert pad.zone is not None
            left, top, width, height = pad.zone.at
            outline = QRectF(
                box.left() + left * box.width(), box.top() + top * box.height(),
                width * box.width(), height * box.height(),
            )  # fmt: skip
            _outline(painter, outline)
            words = pad.label if not pad.key else f"{pad.label}   {pad.key}"
            wide = min(painter.fontMetrics().horizontalAdvance(words) + 12.0, outline.width())
            ground = QRectF(outline.left(), outline.top(), wide, min(18.0, outline.height()))
            painter.fillRect(ground, QColor(0, 0, 0, 150))
            painter.setPen(QColor(255, 255, 255))
            painter.drawText(ground.adjusted(6, 0, 0, 0), LEFT, words)
        if self._held is not None:
            _outline(painter, QRectF(*self._held).normalized())

    def press(self, point: QPointF, box: QRectF) -> bool:
        """The button is down: begin to draw a zone, or press the pad of the one that is there."""
        if self.zones.drawing:
            self._held = point, point
            return True
        return box.contains(point) and self.zones.click(*_share(point, box))

    def move(self, point: QPointF) -> bool:
        """The pointer is here now; whether a zone is being drawn."""
        if self._held is None:
            return False
        self._held = self._held[0], point
        return True

    def drop(self, box: QRectF) -> bool:
        """The button is up; whether a zone was being drawn."""
        held, self._held = self._held, None
        if held is None:
            return False
        if self.zones.drawing:
            self.zones.drawn(*_share(held[0], box), *_share(held[1], box))
        return True


def _share(point: QPointF, box: QRectF) -> tuple[float, float]:
    return (point.x() - box.left()) / box.width(), (point.y() - box.top()) / box.height()


def _outline(painter: QPainter, outline: QRectF) -> None:
    """Light on dark, so that it is seen on any picture."""
    painter.setBrush(Qt.BrushStyle.NoBrush)
    for colour, width in ((QColor(0, 0, 0, 150), 3.2), (QColor(255, 255, 255, 235), 1.4)):
        painter.setPen(QPen(colour, width, Qt.PenStyle.DashLine))
        painter.drawRect(outline.adjusted(1, 1, -1, -1))
