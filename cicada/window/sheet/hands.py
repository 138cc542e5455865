"""What the mouse does on rulers and rows: one hand for each thing that can be dragged."""

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPen
from typing_extensions import override

from cicada.core.arrange import Shift
from cicada.core.editing import Cell
from cicada.core.keyframe_edits import MoveSpanEnd, PlaceClip
from cicada.core.model import Rest
from cicada.core.placed import span_ends
from cicada.core.scene_edits import MoveMark, MovePressPoint
from cicada.window.drawing import theme
from cicada.window.drawing.layout import MARKS, RULER, TOP
from cicada.window.sheet.canvas import SheetCanvas
from cicada.window.sheet.hand import (
    COPIES,
    EditHand,
    Hand,
    Keys,
    losses_said,
    paint_readout,
)
from cicada.window.words.quantities import count


class ScrubHand(Hand):
    """The playhead, dragged along the rulers."""

    def __init__(self, sheet: SheetCanvas, point: QPointF) -> None:
        super().__init__(sheet, point)
        self._go()

    @override
    def move(self, point: QPointF, keys: Keys) -> None:
        self.point = point
        self._go()

    def _go(self) -> None:
        frame = self.sheet.under.frame(self.point.x())
        if frame != self.sheet.session.playhead or not self.moved:
            self.moved = True
            self.sheet.session.move_playhead(frame)
            self.sheet.scrubbed.emit(frame)

    @override
    def drop(self) -> None:
        self.sheet.let_go_of_playhead.emit()

    @override
    def let_go(self) -> None:
        self.sheet.let_go_of_playhead.emit()


class MarkRange(Hand):
    """The range that is played, dragged on the rulers."""

    def frames(self) -> tuple[int, int]:
        """Its first and last frame, as far as it has been dragged."""
        sheet = self.sheet
        first, last = sorted(sheet.under.frame(p.x()) for p in (self.pressed, self.point))
        return first, last

    @override
    def drop(self) -> None:
        if self.moved:
            self.sheet.range_marked.emit(*self.frames())

    @override
    def paint(self, painter: QPainter) -> None:
        if not self.moved:
            return
        sheet, (first, last) = self.sheet, self.frames()
        left, right = sheet.place.frame_x(first), sheet.place.frame_x(last + 1)
        painter.fillRect(
            QRectF(left, MARKS, right - left, RULER - MARKS), theme.wash(theme.MOSS, 60)
        )
        base = sheet.planning.plan.timebase
        seconds = base.seconds(last + 1) - base.seconds(first)
        shown = sheet.document.project.shown
        text = f"{shown(first)} to {shown(last)}: {last + 1 - first} f, {seconds:.3f} s"
        paint_readout(sheet, painter, self.point, [text])


class Move(EditHand):
    """Chosen keyframes, dragged to other frames and layers, or copied there."""

    def __init__(
        self, sheet: SheetCanvas, point: QPointF, grabbed: Cell, *, was_chosen: bool = False
    ) -> None:
        self.was_chosen = was_chosen
        self._shift = Shift(sheet.session.scene, sheet.session.chosen)
        super().__init__(sheet, point, self._shift.all)
        self.grabbed = grabbed
        self._grabbed_x = sheet.place.frame_x(grabbed.frame)
        self._by, self._rows = 0, 0
        self._what = ""
        self._copies = False

    @override
    def drag(self, keys: Keys) -> None:
        sheet = self.sheet
        place = sheet.place.frame(self._grabbed_x + self.point.x() - self.pressed.x())
        near = self.snapped(place, keys)
        self._what = near.what if near else ""
        layers = [layer.id for layer in sheet.session.scene.layers]
        over = sheet.under.layer(self.point.y())
        row = layers.index(self.grabbed.layer)
        rows = 0 if over is None else layers.index(over.id) - row
        by = (near.frame if near else round(place)) - self.grabbed.frame
        self._by, self._rows = self._shift.within(by, rows)
        self._copies = bool(keys & COPIES)
        shift = self._shift.copying if self._copies else self._shift.moving
        self.try_out(shift(self._by, self._rows))

    @override
    def drop(self) -> None:
        super().drop()
        if self.moved and self.edit is not None and not self.refusal:
            cells = [self._shift.moved(c, self._by, self._rows) for c in self._shift.cells]
            lead = self._shift.moved(self.grabbed, self._by, self._rows)
            self.sheet.session.choose_all(cells, lead)

    @override
    def paint(self, painter: QPainter) -> None:
        if not self.moved:
            return
        to = self.grabbed.frame + self._by
        first = f"{'copy to ' if self._copies else ''}{self.at_frame(to)}  ({self._by:+d} f)"
        what = f"at {self._what}" if self._what else ""
        said = losses_said(self.sheet, self.found)
        paint_readout(self.sheet, painter, self.point, [first, what, said, self.refusal])


class SpanEnd(EditHand):
    """The end of a clip's span."""

    def __init__(self, sheet: SheetCanvas, point: QPointF, clip: Cell) -> None:
        super().__init__(sheet, point, (clip,))
        self._clip = clip
        self._to, self._what = clip.frame + 1, ""
        scene = sheet.session.scene
        ends = span_ends(scene, scene.layer(clip.layer))
        self._from = ends.get(clip.frame, scene.length)

    @override
    def drag(self, keys: Keys) -> None:
        place = self.sheet.place.frame(self.point.x())
        near = self.snapped(place, keys)
        self._to = max(self._clip.frame + 1, near.frame if near else round(place))
        self._what = near.what if near else ""
        layer, frame = self._clip
        self.try_out(MoveSpanEnd(layer=layer, frame=frame, to=self._to))

    @override
    def paint(self, painter: QPainter) -> None:
        if self.moved:
            span = count(self._to - self._clip.frame, "frame")
            change = f"  ({self._to - self._from:+d} f)"
            first = f"span ends at {self.at_frame(self._to)}{change}"
            what = f"at {self._what}" if self._what else ""
            paint_readout(
                self.sheet, painter, self.point, [first, f"{span} long", what, self.refusal]
            )


class Marquee(Hand):
    """A rectangle that chooses the keyframes in it; a click chooses the frame under it."""

    def __init__(self, sheet: SheetCanvas, point: QPointF, cell: Cell | None, keys: Keys) -> None:
        super().__init__(sheet, point)
        adds = keys & (Keys.ShiftModifier | Keys.ControlModifier)
        self._before = sheet.session.chosen if adds else frozenset()
        self._cell = cell

    @override
    def drag(self, keys: Keys) -> None:
        self.sheet.session.choose_all(self._before | self._inside())

    def _inside(self) -> frozenset[Cell]:
        sheet, box = self.sheet, self._box()
        found = set()
        for row, (number, top, height) in (
            (sheet.traces.rows[each[0]], each) for each in sheet.place.rows_in_sight()
        ):
            middle = top + height / 2
            if row.layer is None or not box.top() <= middle <= box.bottom() or number < 0:
                continue
            for keyframe in row.layer.keyframes:
                x = sheet.place.frame_x(keyframe.frame)
                if box.left() <= x <= box.right() and not isinstance(keyframe, Rest):
                    found.add(Cell(row.layer.id, keyframe.frame))
        return frozenset(found)

    def _box(self) -> QRectF:
        return QRectF(self.pressed, self.point).normalized()

    @override
    def drop(self) -> None:
        if not self.moved and self._cell is not None:
            self.sheet.session.choose(self._cell)
            self.sheet.session.move_playhead(self._cell.frame)
            self.sheet.stepped.emit(self._cell.frame)

    @override
    def paint(self, painter: QPainter) -> None:
        if self.moved:
            painter.setPen(QPen(theme.MOSS, 1, Qt.PenStyle.DashLine))
            painter.setBrush(theme.wash(theme.MOSS, 24))
            painter.drawRect(self._box())
            chosen = len(self.sheet.session.chosen)
            words = f"{count(chosen, 'keyframe')} chosen" if chosen else ""
            paint_readout(self.sheet, painter, self.point, [words])


class RulerHand(EditHand):
    """A mark or a press point, dragged along the ruler; a click puts the playhead there."""

    def __init__(self, sheet: SheetCanvas, point: QPointF, frame: int, *, press: bool) -> None:
        super().__init__(sheet, point)
        self._frame, self._to, self._press = frame, frame, press
        self.targets.frames = {f: w for f, w in self.targets.frames.items() if f != frame}
        self._what = ""

    @override
    def drag(self, keys: Keys) -> None:
        place = self.sheet.place.frame(self.point.x())
        near = self.snapped(place, keys)
        last = self.sheet.session.scene.length - 1
        self._to = max(0, min(near.frame if near else round(place), last))
        self._what = near.what if near else ""
        kind = MovePressPoint if self._press else MoveMark
        edit = kind(scene=self.sheet.session.scene_id, frame=self._frame, to=self._to)
        self.try_out(edit if self._to != self._frame else None)

    @override
    def drop(self) -> None:
        super().drop()
        if not self.moved:
            self.sheet.session.move_playhead(self._frame)
            self.sheet.stepped.emit(self._frame)

    @override
    def paint(self, painter: QPainter) -> None:
        if self.moved:
            lines = [f"{self.at_frame(self._to)}  ({self._to - self._frame:+d} f)"]
            what = f"at {self._what}" if self._what else ""
            paint_readout(self.sheet, painter, self.point, [*lines, what])


class Dropping(EditHand):
    """Something dragged in from elsewhere: where it would stand, and what it would cut."""

    def __init__(self, sheet: SheetCanvas, sound: str) -> None:
        super().__init__(sheet, QPointF())
        self._sound = sound
        self.cell: Cell | None = None
        # Whether it is over the film strip, and becomes a part of the picture.
        self.on_strip = False
        self._what = ""
        self.moved = True

    @override
    def stands(self) -> bool:
        # What it would be put among is looked at anew with each move.
        return self.sheet.session.scene.id == self.ground.id

    def over(self, point: QPointF, keys: Keys) -> Cell:
        """The pointer is here: the cell it would be dropped on; no layer means a new one."""
        self.point = point
        place = self.sheet.place.frame(point.x())
        near = self.snapped(place, keys)
        last = self.sheet.session.scene.length - 1
        frame = max(0, min(near.frame if near else int(place // 1), last))
        self._what = near.what if near else ""
        layer = self.sheet.under.layer(point.y())
        self.on_strip = not self._sound and RULER <= point.y() < TOP
        self.cell = Cell("" if layer is None else layer.id, frame)
        if self._sound and layer is not None:
            self.try_out(PlaceClip(layer=layer.id, frame=frame, sound=self._sound))
        else:
            self.try_out(None)
        return self.cell

    @override
    def paint(self, painter: QPainter) -> None:
        if self.cell is None:
            return
        row = self.sheet.traces.row_of(self.cell.layer)
        first = self.at_frame(self.cell.frame)
        if self.on_strip:
            first += ", in the picture"
        elif row is None:
            first += ", on a new layer"
        else:
            top, height = self.sheet.place.row_top(row), self.sheet.place.rows[row]
            x = self.sheet.place.frame_x(self.cell.frame)
            painter.fillRect(QRectF(x - 1, top, 2, height), theme.MOSS)
        what = f"at {self._what}" if self._what else ""
        said = losses_said(self.sheet, self.found)
        paint_readout(self.sheet, painter, self.point, [first, what, said, self.refusal])
