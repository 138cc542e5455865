"""The lines and signs that meters are drawn with, and how a level falls."""

from math import log10

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPen, QPolygonF

from cicada.window.drawing import theme

# What the scales go down to, in dB, and how fast a peak falls again, in dB a second.
FLOOR, FALL = -48.0, 30.0
LEFT = Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter
RIGHT = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
# What a number beside a line takes, in pixels.
NUMBER = 46


def share(level: float, top: float = 0.0) -> float:
    """How far along a scale that ends at ``top`` dB a linear level is, from 0 to 1."""
    if level <= 0:
        return 0.0
    return max(0.0, min(1.0, (20 * log10(level) - FLOOR) / (top - FLOOR)))


class Falling:
    """A level that rises at once and falls evenly."""

    def __init__(self) -> None:
        self.level, self._at = 0.0, 0.0

    def take(self, level: float, now: float) -> float:
        """What it shows at ``now`` (seconds), with ``level`` the highest since it was asked."""
        fallen = self.level * 10 ** (-FALL * min(1.0, now - self._at) / 20)
        self.level, self._at = max(level, fallen if fallen > 1e-4 else 0.0), now
        return self.level


def loud_share(value: float) -> float:
    """How far along the scale of loudness a value in LUFS is, from 0 to 1."""
    return max(0.0, min(1.0, (value - FLOOR) / -FLOOR))


def paint_scale(
    p: QPainter,
    across: tuple[float, float],
    down: tuple[float, float],
    end: float,
    marks: tuple[int, ...],
) -> None:
    """Hairlines at some dB of a scale that ends at ``end``, with their numbers below."""
    (left, right), (top, bottom) = across, down
    p.setFont(theme.font(9))
    p.setPen(theme.INK_SOFT)
    for mark in marks:
        x = left + (right - left) * (mark - FLOOR) / (end - FLOOR)
        p.fillRect(QRectF(x, top, 1, bottom - top), theme.RULE_STRONG)
        text = str(mark).replace("-", "−")
        p.drawText(QRectF(x - 15, bottom, 30, 11), Qt.AlignmentFlag.AlignCenter, text)


def paint_line(
    p: QPainter, left: float, right: float, y: float, part: float, *, over: bool
) -> None:
    """A hairline with its first part thick."""
    p.fillRect(QRectF(left, y - 0.5, right - left, 1), theme.RULE_STRONG)
    p.fillRect(QRectF(left, y - 2, (right - left) * part, 4), theme.BRICK if over else theme.MOSS)


def paint_tick(p: QPainter, x: float, y: float, colour: QColor | None) -> None:
    """An upright stroke."""
    p.fillRect(QRectF(x - 1, y - 6, 2, 12), colour or theme.INK)


def paint_diamond(p: QPainter, x: float, y: float, colour: QColor | None) -> None:
    """Filled for what was heard, open for what there is."""
    p.setPen(QPen(colour or theme.INK, 1.2))
    p.setBrush(colour if colour is not None else Qt.BrushStyle.NoBrush)
    points = [(x, y - 5), (x + 4, y), (x, y + 5), (x - 4, y)]
    p.drawPolygon(QPolygonF([QPointF(*point) for point in points]))
