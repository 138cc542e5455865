"""The playhead's flag, put together from digits that are drawn once.

Drawing letters costs more than all else of a step of the playhead.
"""

from functools import lru_cache

from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPixmap

from cicada.window.drawing import theme

FLAG, FLAG_TALL, DIGIT = 38, 18, 7


def paint_flag(painter: QPainter, x: int, top: int, number: str, ratio: float) -> None:
    """The flag with a frame's number, about a pixel column."""
    ink = theme.INK.rgb()
    wide = max(FLAG, len(number) * DIGIT + 10)
    left = x - wide // 2
    painter.drawPixmap(left, top, _flag(number[:-1], wide, ratio, ink))
    last = left + (wide + len(number) * DIGIT) // 2 - DIGIT
    painter.drawPixmap(last, top, _digit(number[-1], ratio, ink))


@lru_cache(maxsize=256)
def _flag(number: str, width: int, ratio: float, ink: int) -> QPixmap:
    """The playhead's flag with a number but for its last digit.

    It is put together once for ten frames.
    """
    flag, painter = _sheer(width, ratio)
    painter.drawPixmap(0, 0, _blank(width, ratio, ink))
    left = (width - (len(number) + 1) * DIGIT) // 2
    for place, letter in enumerate(number):
        painter.drawPixmap(left + place * DIGIT, 0, _digit(letter, ratio, ink))
    painter.end()
    return flag


@lru_cache(maxsize=16)
def _blank(width: int, ratio: float, ink: int) -> QPixmap:
    """A flag with nothing on it."""
    flag, painter = _sheer(width, ratio)
    painter.setPen(theme.NO_PEN)
    painter.setBrush(QColor(ink))
    painter.drawRoundedRect(QRectF(0, 0, width, FLAG_TALL), 4, 4)
    painter.end()
    return flag


@lru_cache(maxsize=64)
def _digit(letter: str, ratio: float, ink: int) -> QPixmap:
    """A digit for a flag of that colour."""
    digit, painter = _sheer(DIGIT, ratio)
    painter.setPen(theme.CARD)
    painter.setFont(theme.font(11.5, 700))
    box = QRectF(0, 0, DIGIT, FLAG_TALL)
    painter.drawText(box, Qt.AlignmentFlag.AlignCenter, letter)
    painter.end()
    return digit


def _sheer(width: int, ratio: float) -> tuple[QPixmap, QPainter]:
    """A pixmap as high as the flag, with nothing on it, and a painter for it."""
    pixmap = QPixmap(round(width * ratio), round(FLAG_TALL * ratio))
    pixmap.setDevicePixelRatio(ratio)
    pixmap.fill(Qt.GlobalColor.transparent)
    painter = QPainter(pixmap)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    return pixmap, painter
