"""A value's line, drawn by hand: points are put, dragged, and dragged out to go."""

from PySide6.QtCore import QPointF
from PySide6.QtGui import QPainter
from typing_extensions import override

from cicada.core.answer_edits import DrawValue
from cicada.core.values import Line, Point
from cicada.window.drawing.value_lane import ValueLane
from cicada.window.sheet.canvas import SheetCanvas
from cicada.window.sheet.hand import Hand, Keys, paint_readout
from cicada.window.words.numbers import shown

STEP = "step"


class ValueHand(Hand):
    """Puts a point, or takes one along; with Ctrl between frames, with Shift as a step."""

    def __init__(self, sheet: SheetCanvas, point: QPointF, lane: ValueLane) -> None:
        super().__init__(sheet, point)
        self._lane, self._scene = lane, sheet.session.scene
        self._number = lane.point_at(point)
        self._others: Line = tuple(
            each for number, each in enumerate(lane.line) if number != self._number
        )
        self._shape = () if self._number is None else lane.line[self._number][2:]
        self._made: Point = (0.0, 0.0)
        self.moved = True
        self.drag(Keys.NoModifier)

    def _line(self) -> Line:
        if self._lane.is_out(self.point):
            return self._others
        return tuple(sorted((*self._others, self._made), key=lambda point: float(point[0])))

    @override
    def drag(self, keys: Keys) -> None:
        place = self._lane.layout.frame(self.point.x())
        if not keys & Keys.ControlModifier:
            place = round(place)
        frame = float(min(max(0.0, place), self._scene.length))
        shape = (STEP,) if keys & Keys.ShiftModifier else self._shape
        self._made = (round(frame, 3), self._lane.number_at(self.point.y()), *shape)
        self.sheet.show_value_line(self._line())

    @override
    def drop(self) -> None:
        line = self._line()
        self.sheet.show_value_line(None)
        if line != self._lane.line:
            self.sheet.document.do(
                DrawValue(scene=self._scene.id, value=self._lane.value.id, line=line)
            )

    @override
    def let_go(self) -> None:
        self.sheet.show_value_line(None)

    @override
    def paint(self, painter: QPainter) -> None:
        if self._lane.is_out(self.point):
            paint_readout(self.sheet, painter, self.point, ["let go: it is gone"])
            return
        frame, number = float(self._made[0]), float(self._made[1])
        told = shown(round(frame + self.sheet.document.project.first_frame, 3))
        paint_readout(self.sheet, painter, self.point, [shown(number), f"frame {told}"])
