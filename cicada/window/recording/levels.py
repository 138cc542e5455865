"""The level of an input: how loud it is now, the highest so far, and whether it clips."""

from math import log10

from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QPainter, QPaintEvent
from PySide6.QtWidgets import QWidget
from typing_extensions import override

from cicada.playback.recorder import Standing
from cicada.window.drawing import theme
from cicada.window.words.quantities import count, decibels

FLOOR = -54.0
_TALL, _BAR = 34, 8
# What a level should reach: from here to there there is room above and noise far below.
_GOOD = -18.0, -6.0


class InputLevel(QWidget):
    """A bar for each channel on a scale of dB; a mark where it was highest, and words beside it."""

    def __init__(self) -> None:
        super().__init__()
        self.setFixedHeight(_TALL)
        self.setMinimumWidth(160)
        self.setAccessibleName("Level of the input")
        self._standing: Standing | None = None
        self._channels = 1
        self.words = ""

    def show_standing(self, standing: Standing | None, channels: int) -> None:
        """Show what comes in; None: nothing does."""
        self._standing, self._channels = standing, channels
        if standing is None or not standing.rate:
            self.words = ""
        elif standing.clipped:
            self.words = f"clipped {count(standing.clipped, 'time')}"
        elif standing.held > 0:
            self.words = f"highest {decibels(standing.held)}"
        else:
            self.words = "silence"
        self.setAccessibleDescription(self.words)
        self.update()

    @override
    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        wide = self.width()
        painter.setFont(theme.font(11))
        low, high = (wide * _share(level) for level in _GOOD)
        painter.fillRect(QRectF(low, 0, high - low, 2 * _BAR + 3), theme.wash(theme.MOSS, 28))
        standing = self._standing
        peaks = (0.0, 0.0) if standing is None else (standing.left, standing.right)
        for row in range(2):
            top = row * (_BAR + 3)
            painter.fillRect(QRectF(0, top, wide, _BAR), theme.wash(theme.RULE, 160))
            peak = peaks[row if self._channels > 1 else 0]
            hot = standing is not None and standing.clipped > 0
            if peak > 0:
                painter.fillRect(
                    QRectF(0, top, wide * _share(_db(peak)), _BAR),
                    theme.BRICK if hot else theme.MOSS,
                )
        if standing is not None and standing.held > 0:
            painter.fillRect(
                QRectF(min(wide - 2, wide * _share(_db(standing.held))), 0, 2, 2 * _BAR + 3),
                theme.INK,
            )
        below = QRectF(0, 2 * _BAR + 4, wide, _TALL - 2 * _BAR - 4)
        left = Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignBottom
        right = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignBottom
        painter.setPen(theme.BRICK if standing is not None and standing.clipped else theme.INK_SOFT)
        painter.drawText(below, right, self.words)
        painter.setPen(theme.INK_SOFT)
        painter.drawText(below, left, "aim at −18 to −6 dB")


def _db(peak: float) -> float:
    return 20 * log10(peak) if peak > 0 else FLOOR


def _share(db: float) -> float:
    return max(0.0, min(1.0, 1 - db / FLOOR))
