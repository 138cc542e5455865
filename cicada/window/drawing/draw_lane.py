"""Where the draw time of each frame is drawn, below the rows, and drawn by hand."""

from collections.abc import Sequence

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPen, QPolygonF

from cicada.window.drawing import theme
from cicada.window.drawing.labels import Letters, write
from cicada.window.drawing.layout import HEAD, SheetLayout
from cicada.window.drawing.view import SheetView
from cicada.window.words.numbers import fixed

# Seconds at the lane's upper edge unless a frame takes longer, and at most.
USUAL, MOST = 0.25, 1.0
EDGE = 6


class DrawLane:
    """The seconds each frame of the scene takes, over its frames."""

    def __init__(self, layout: SheetLayout, times: Sequence[float], own: float) -> None:
        """``own`` is how long a frame lasts."""
        self.layout, self.times, self.own = layout, times, own
        self.highest = min(MOST, max(USUAL, max(times, default=0.0)))
        self.upper = float(layout.foot + EDGE)
        self.lower = float(layout.foot + layout.mix - EDGE)

    def y(self, seconds: float) -> float:
        """The pixel line of a time."""
        share = min(1.0, seconds / self.highest)
        return self.lower - share * (self.lower - self.upper)

    def seconds_at(self, y: float) -> float:
        """The time at a pixel line, to a millisecond."""
        share = min(1.0, max(0.0, (self.lower - y) / (self.lower - self.upper)))
        return round(share * self.highest, 3)


def paint_draw_lane(p: QPainter, view: SheetView, lane: DrawLane) -> None:
    """The lane with its scale; what is above a frame's own length makes the picture late."""
    top, tall = lane.layout.foot, lane.layout.mix
    p.fillRect(0, top, view.width, tall, theme.CARD)
    p.fillRect(0, top, view.width, 1, theme.RULE_STRONG)
    write(p, 18, top + 3, "Draw time", Letters(13, 600, theme.INK))
    write(p, 18, top + 20, "drag to draw it", Letters(11, 400, theme.INK_SOFT))
    write(p, 18, top + 34, "Esc closes", Letters(11, 400, theme.INK_SOFT))
    p.setFont(theme.font(10))
    for seconds in (0.0, lane.own, lane.highest):
        y = round(lane.y(seconds)) + 0.5
        p.setPen(QPen(theme.RULE_STRONG, 1, Qt.PenStyle.DotLine))
        p.drawLine(QPointF(HEAD, y), QPointF(view.width, y))
        p.setPen(theme.INK_SOFT)
        box = QRectF(HEAD - 60, y - 7, 54, 14)
        right = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
        p.drawText(box, right, f"{fixed(1000 * seconds, 0)} ms")
    count = len(lane.times)
    if not count:
        return
    first = max(0, int(lane.layout.frame(HEAD)))
    last = min(count, int(lane.layout.frame(view.width)) + 2)
    step = max(1, (last - first) // max(1, view.width))
    frames = range(first, last, step)
    heights = np.array(lane.times[first:last:step])
    steps = []
    for frame, seconds in zip(frames, heights.tolist(), strict=True):
        y = lane.y(seconds)
        steps += [
            QPointF(lane.layout.frame_x(frame), y), QPointF(lane.layout.frame_x(frame + step), y)
        ]  # fmt: skip
    p.save()
    p.setClipRect(QRectF(HEAD, top, view.width - HEAD, tall))
    p.setPen(QPen(theme.OCHRE, 1.6))
    p.drawPolyline(QPolygonF(steps))
    p.restore()
