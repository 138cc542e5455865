"""Words painted often, kept as pictures: drawing one takes a fifth of what writing takes."""

from functools import lru_cache
from math import ceil
from typing import NamedTuple

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QFontMetrics, QPainter, QPixmap

from cicada.window.drawing import theme

TALL = 20


class Letters(NamedTuple):
    """How something is written: the size in pixels, the weight, the colour."""

    size: float
    weight: int
    colour: QColor


def write(painter: QPainter, left: float, top: float, text: str, letters: Letters) -> None:
    """Write words in the middle of a line ``TALL`` pixels high, on whole pixels."""
    look = letters.size, letters.weight, letters.colour.rgba()
    image = _written(text, look, painter.device().devicePixelRatio())
    painter.drawPixmap(QPointF(round(left), round(top)), image)


@lru_cache(2048)
def _written(text: str, look: tuple[float, int, int], ratio: float) -> QPixmap:
    size, weight, colour = look
    font = theme.font(size, weight)
    wide = QFontMetrics(font).horizontalAdvance(text) + 2
    image = QPixmap(ceil(wide * ratio), ceil(TALL * ratio))
    image.setDevicePixelRatio(ratio)
    image.fill(Qt.GlobalColor.transparent)
    painter = QPainter(image)
    painter.setFont(font)
    painter.setPen(QColor.fromRgba(colour))
    middle = Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter
    painter.drawText(QRectF(0, 0, wide, TALL), middle, text)
    painter.end()
    return image
