"""A value's line over the frames of a scene, in the place of the mix, and drawn by hand there."""

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPen, QPolygonF

from cicada.core.answers import Value
from cicada.core.lines import Curve
from cicada.core.values import Line
from cicada.window.drawing import theme
from cicada.window.drawing.labels import Letters, write
from cicada.window.drawing.layout import HEAD, SheetLayout
from cicada.window.drawing.view import SheetView
from cicada.window.words.numbers import shown

EDGE = 7
# Pixels about a point that are the point, and how far out of the lane one is dragged to go.
NEAR, OUT = 7, 26
DOT = 3.5


class ValueLane:
    """The numbers of a value over the frames of the scene shown."""

    def __init__(self, layout: SheetLayout, value: Value, line: Line) -> None:
        self.layout, self.value, self.line = layout, value, line
        self.upper = float(layout.foot + EDGE)
        self.lower = float(layout.foot + layout.mix - EDGE)

    def y(self, number: float) -> float:
        """The pixel line of a number; one out of reach stands at the edge."""
        low, high = self.value.low, self.value.high
        share = min(1.0, max(0.0, (number - low) / (high - low)))
        return self.lower - share * (self.lower - self.upper)

    def number_at(self, y: float) -> float:
        """The number at a pixel line, to a thousandth of its reach."""
        low, high = self.value.low, self.value.high
        share = min(1.0, max(0.0, (self.lower - y) / (self.lower - self.upper)))
        return round(low + round(share, 3) * (high - low), 6)

    def dots(self) -> list[QPointF]:
        """Where the points of the line stand."""
        return [
            QPointF(self.layout.frame_x(float(point[0])), self.y(float(point[1])))
            for point in self.line
        ]

    def point_at(self, at: QPointF) -> int | None:
        """The number of the point under a place."""
        for number, dot in enumerate(self.dots()):
            if abs(dot.x() - at.x()) <= NEAR and abs(dot.y() - at.y()) <= NEAR:
                return number
        return None

    def is_out(self, at: QPointF) -> bool:
        """Whether a place is so far out of the lane that what is dragged there goes."""
        return not self.upper - OUT <= at.y() <= self.lower + OUT


def paint_value_lane(p: QPainter, view: SheetView, lane: ValueLane) -> None:
    """The lane with its scale; over the line, where the value really goes in this run."""
    top, tall, value = lane.layout.foot, lane.layout.mix, lane.value
    p.fillRect(0, top, view.width, tall, theme.CARD)
    p.fillRect(0, top, view.width, 1, theme.RULE_STRONG)
    write(p, 18, top + 3, value.label, Letters(13, 600, theme.INK))
    write(p, 18, top + 20, "click, drag, drag out", Letters(11, 400, theme.INK_SOFT))
    p.setFont(theme.font(10))
    right = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
    for number in (value.low, value.high):
        y = round(lane.y(number)) + 0.5
        p.setPen(QPen(theme.RULE_STRONG, 1, Qt.PenStyle.DotLine))
        p.drawLine(QPointF(HEAD, y), QPointF(view.width, y))
        p.setPen(theme.INK_SOFT)
        p.drawText(QRectF(HEAD - 60, y - 7, 54, 14), right, shown(number))
    p.save()
    p.setClipRect(QRectF(HEAD, top, view.width - HEAD, tall))
    p.setRenderHint(QPainter.RenderHint.Antialiasing)
    xs = np.arange(HEAD, view.width + 2, 2)
    frames = np.array([lane.layout.frame(float(x)) for x in xs])
    drawn = Curve(lane.line, value.begins).values(np.maximum(frames, 0.0))
    p.setPen(QPen(theme.SLATE, 1.8 if lane.line else 1.0))
    p.drawPolyline(
        QPolygonF([QPointF(x, lane.y(y)) for x, y in zip(xs.tolist(), drawn.tolist(), strict=True)])
    )
    _paint_run(p, view, lane, xs, drawn)
    p.setPen(QPen(theme.SLATE, 1.5))
    p.setBrush(theme.CARD)
    for dot in lane.dots():
        p.drawEllipse(dot, DOT, DOT)
    p.restore()


def _paint_run(
    p: QPainter, view: SheetView, lane: ValueLane, xs: np.ndarray, drawn: np.ndarray
) -> None:
    """Where glides take the value in the run that is drawn."""
    traces, axis = view.traces, view.traces.axis
    if axis is None or all(glide.value != lane.value.id for glide in traces.plan.glides):
        return
    places = lane.layout.left + (xs - HEAD) / lane.layout.scale
    inside = (places >= 0) & (places <= traces.scene.length)
    moments = axis.samples(places[inside]).astype(np.float64)
    went = traces.following.track(lane.value.id).about(moments)
    p.setPen(QPen(theme.OCHRE, 1.6, Qt.PenStyle.DashLine))
    pairs = zip(xs[inside].tolist(), went.tolist(), strict=True)
    p.drawPolyline(QPolygonF([QPointF(x, lane.y(y)) for x, y in pairs]))
