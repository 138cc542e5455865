"""The outline of a part over the picture, which is dragged and sized there."""

from typing import Literal, NamedTuple

from PySide6.QtCore import QObject, QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QColor, QPainter, QPen

from cicada.core.picture_parts import Place
from cicada.media.pictures import placed
from cicada.window.drawing import theme

# How far from a corner, in pixels, is still on it.
NEAR = 9
Which = Literal["place", "moves_to"]
LEAST = 0.02


class Outlined(NamedTuple):
    """The part whose places are shown: where it is on its first frame and, if it moves, its last.

    ``size`` is that of its source.
    """

    size: QSize
    place: Place
    moves_to: Place | None


class PlaceOutline(QObject):
    """The outline of a part over the picture. It is dragged to move it, by a corner to size it.

    ``changed`` says which of its places becomes what, when it is let go.
    """

    changed = Signal(str, tuple)

    def __init__(self) -> None:
        super().__init__()
        self.part: Outlined | None = None
        self._held: tuple[Which, bool, QPointF, Place] | None = None
        self._now: Place | None = None

    @property
    def dragging(self) -> bool:
        """Whether it is being dragged."""
        return self._held is not None

    def _place(self, which: Which) -> Place | None:
        if self.part is None:
            return None
        if self._held is not None and self._held[0] == which:
            return self._now
        return self.part.place if which == "place" else self.part.moves_to

    def _outline(self, which: Which, box: QRectF) -> QRectF | None:
        place = self._place(which)
        if self.part is None or place is None:
            return None
        return placed(self.part.size, place, box.size().toSize()).translated(box.topLeft())

    def paint(self, painter: QPainter, box: QRectF) -> None:
        """Draw it over a picture that fills ``box``."""
        first, last = self._outline("place", box), self._outline("moves_to", box)
        for colour, width in ((QColor(0, 0, 0, 150), 3.2), (QColor(255, 255, 255, 235), 1.4)):
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.setPen(QPen(colour, width))
            if first is not None:
                painter.drawRect(first.adjusted(1, 1, -1, -1))
            if first is not None and last is not None:
                painter.drawLine(first.center(), last.center())
                painter.setPen(QPen(colour, width, Qt.PenStyle.DashLine))
                painter.drawRect(last.adjusted(1, 1, -1, -1))
        painter.setPen(QPen(QColor(0, 0, 0, 150), 1))
        painter.setBrush(theme.CARD)
        for outline in (first, last):
            if outline is not None:
                for corner in _corners(outline):
                    painter.drawRect(QRectF(corner - QPointF(3, 3), corner + QPointF(3, 3)))

    def press(self, point: QPointF, box: QRectF) -> bool:
        """Take hold of what is under the pointer; whether there is anything."""
        whiches: tuple[Which, Which] = ("moves_to", "place")
        for by_corner in (True, False):
            for which in whiches:
                outline, place = self._outline(which, box), self._place(which)
                if outline is None or place is None:
                    continue
                on_corner = any(
                    (corner - point).manhattanLength() <= NEAR for corner in _corners(outline)
                )
                if on_corner if by_corner else outline.contains(point):
                    self._held, self._now = (which, by_corner, point, place), place
                    return True
        return False

    def move(self, point: QPointF, box: QRectF) -> None:
        """The pointer is here now."""
        if self._held is None:
            return
        _, by_corner, pressed, (x, y, size) = self._held
        if by_corner:
            middle = box.topLeft() + QPointF(x * box.width(), y * box.height())
            was, now = (_length(p - middle) for p in (pressed, point))
            self._now = (x, y, round(max(LEAST, size * now / max(was, 1.0)), 3))
        else:
            by = point - pressed
            self._now = (
                round(x + by.x() / box.width(), 3), round(y + by.y() / box.height(), 3), size,
            )  # fmt: skip

    def drop(self) -> None:
        """The button is up."""
        held, now, self._held, self._now = self._held, self._now, None, None
        if held is not None and now is not None and now != held[3]:
            self.changed.emit(held[0], now)


def _corners(box: QRectF) -> list[QPointF]:
    return [box.topLeft(), box.topRight(), box.bottomLeft(), box.bottomRight()]


def _length(vector: QPointF) -> float:
    return float((vector.x() ** 2 + vector.y() ** 2) ** 0.5)
