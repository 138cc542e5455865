"""A take as it comes in, drawn where it will stand: how loud it was so far."""

from typing import NamedTuple

from PySide6.QtCore import QPointF, QRect, QRectF
from PySide6.QtGui import QPainter, QPen, QPolygonF

from cicada.window.drawing import theme
from cicada.window.drawing.layout import HEAD, SheetLayout


class Growing(NamedTuple):
    """It begins on ``frame`` of a layer, lasts ``frames``; ``peaks`` are spread over that."""

    layer: str
    frame: int
    frames: float
    peaks: tuple[float, ...]


def extent(growing: Growing, place: SheetLayout, top: int, height: int) -> QRect:
    """What it covers of the sheet."""
    left = max(HEAD, round(place.frame_x(growing.frame)))
    right = max(left, round(place.frame_x(growing.frame + growing.frames)))
    return QRect(left, top + 2, right - left + 1, height - 4)


def paint_growing(
    painter: QPainter, growing: Growing, place: SheetLayout, top: int, height: int
) -> None:
    """Paint it over its row."""
    box = QRectF(extent(growing, place, top, height))
    first = place.frame_x(growing.frame)
    last = place.frame_x(growing.frame + growing.frames)
    painter.save()
    painter.setClipRect(box)
    painter.fillRect(box, theme.wash(theme.BRICK, 36))
    if growing.peaks:
        step, middle = (last - first) / len(growing.peaks), box.center().y()
        tall = [max(0.5, min(1.0, peak) * 0.45 * box.height()) for peak in growing.peaks]
        # Each peak is of what came before it was looked at.
        upper = [QPointF(first + step * (n + 0.5), middle - t) for n, t in enumerate(tall)]
        lower = [QPointF(first + step * (n + 0.5), middle + t) for n, t in enumerate(tall)]
        painter.setPen(theme.NO_PEN)
        painter.setBrush(theme.wash(theme.BRICK, 150))
        painter.drawPolygon(QPolygonF([*upper, *reversed(lower)]))
    painter.setPen(QPen(theme.BRICK, 1))
    painter.drawLine(box.topLeft(), box.bottomLeft())
    painter.restore()
