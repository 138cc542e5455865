"""Painting the ways a clip could be set, one below the other in its own row."""

from dataclasses import replace

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPen

from cicada.core.editing import Cell
from cicada.window.drawing import theme
from cicada.window.drawing.layout import HEAD
from cicada.window.drawing.shapes import AlignLeft, Shapes
from cicada.window.drawing.traces import Row, SceneTraces
from cicada.window.drawing.view import SheetView
from cicada.window.drawing.way_lanes import LANE, WORDS, WayLane, WayLanes


def paint_way_lanes(painter: QPainter, view: SheetView, ways: WayLanes) -> None:
    """Paint them over the row's ground."""
    for number, lane in enumerate(ways.lanes):
        _paint_lane(painter, view, ways.cell, lane, ways.top + number * LANE)


def _paint_lane(p: QPainter, view: SheetView, cell: Cell, lane: WayLane, top: int) -> None:
    wide = view.width - HEAD
    if lane.now:
        p.fillRect(QRectF(HEAD, top, wide, LANE), theme.wash(theme.MOSS, 26))
        p.fillRect(QRectF(HEAD + 1, top, 3, LANE - 1), theme.MOSS)
    if lane.traces is not None:
        _paint_clip(p, view, cell, lane.traces, top + WORDS)
    _write(p, view, cell, lane, top)
    p.setPen(QPen(theme.RULE_STRONG, 1, Qt.PenStyle.DotLine))
    p.drawLine(QPointF(HEAD, top + LANE - 0.5), QPointF(view.width, top + LANE - 0.5))


def _paint_clip(p: QPainter, view: SheetView, cell: Cell, traces: SceneTraces, top: int) -> None:
    """What the clip sounds, and why where it does not; nothing of the others on its layer."""
    number = traces.row_of(cell.layer)
    if number is None:
        return
    row: Row = traces.rows[number]
    shapes = Shapes(p, replace(view, traces=traces, pending={}), row, top, LANE - WORDS)
    # The words of the others are not here to be kept clear of.
    shapes.begins = np.sort(view.layout.xs(row.starts[[v.cell == cell for v in row.voices]]))
    own = [index for index, voice in enumerate(row.voices) if voice.cell == cell]
    for index in sorted(own, key=lambda index: bool(row.own[index])):
        shapes.trace(row.trace(index))
    for strike in row.strikes:
        if strike.frame == cell.frame:
            shapes.strike(strike)


def _write(p: QPainter, view: SheetView, cell: Cell, lane: WayLane, top: int) -> None:
    """Its key, its name and what it does, in one line that is always in sight."""
    left = max(HEAD + 10.0, min(view.layout.frame_x(cell.frame), view.width - 520.0))
    p.setFont(theme.font(12, 600))
    p.setPen(theme.INK)
    said = " (as it is)" if lane.now else ""
    said += ", heard now" if lane.heard else ""
    name = f"{lane.key}  {lane.name}{said}"
    width = p.fontMetrics().horizontalAdvance(name)
    p.drawText(QRectF(left, top + 2, width + 4, WORDS), AlignLeft, name)
    p.setFont(theme.font(12))
    p.setPen(theme.INK_SOFT)
    left += width + 10
    room = view.width - left - 8
    words = lane.words if lane.traces is not None else "being planned …"
    text = p.fontMetrics().elidedText(words, Qt.TextElideMode.ElideRight, int(room))
    p.drawText(QRectF(left, top + 2, room, WORDS), AlignLeft, text)
