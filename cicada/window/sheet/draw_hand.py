"""The draw time of frames, drawn by hand."""

from PySide6.QtCore import QPointF
from PySide6.QtGui import QPainter
from typing_extensions import override

from cicada.core.draw_times import by_line
from cicada.window.drawing.draw_lane import DrawLane
from cicada.window.sheet.canvas import SheetCanvas
from cicada.window.sheet.hand import Hand, Keys, paint_readout
from cicada.window.words.numbers import fixed


class DrawHand(Hand):
    """What it passes over gets the time it is at; with Shift held, straight from where it began."""

    def __init__(self, sheet: SheetCanvas, point: QPointF, lane: DrawLane) -> None:
        super().__init__(sheet, point)
        self._lane, self._before = lane, list(lane.times)
        self._drawn = list(lane.times)
        self._last = self._at(point)
        self._began = self._last
        self.moved = True
        self.drag(Keys.NoModifier)

    def _at(self, point: QPointF) -> tuple[int, float]:
        return self.sheet.under.frame(point.x()), self._lane.seconds_at(point.y())

    @override
    def drag(self, keys: Keys) -> None:
        now = self._at(self.point)
        straight = bool(keys & Keys.ShiftModifier)
        start = self._began if straight else self._last
        if straight:
            self._drawn = list(self._before)
        first, last = sorted((start[0], now[0]))
        between = by_line(
            last - first + 1, [(start[0] - first, start[1]), (now[0] - first, now[1])]
        )
        self._drawn[first : last + 1] = between
        self._drawn[now[0]] = now[1]
        self._last = now
        self.sheet.show_drawing(self._drawn)

    @override
    def drop(self) -> None:
        self.sheet.conditions.draw_scene(self.sheet.session.scene_id, tuple(self._drawn))
        self.sheet.show_drawing(None)

    @override
    def let_go(self) -> None:
        self.sheet.show_drawing(None)

    @override
    def paint(self, painter: QPainter) -> None:
        frame, seconds = self._at(self.point)
        shown = self.sheet.document.project.shown(frame)
        reaches = "in time" if seconds <= self._lane.own else f"{fixed(1 / seconds, 1)} a second"
        lines = [f"{fixed(1000 * seconds, 0)} ms", f"frame {shown}, {reaches}"]
        paint_readout(self.sheet, painter, self.point, lines)
