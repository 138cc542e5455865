"""The sheet: the timeline's widget. Painted once into a pixmap; the playhead moves over it."""

from enum import Enum, auto
from functools import lru_cache
from math import floor

from PySide6.QtCore import QPoint, QPointF, QRect, QRectF, Qt, Signal
from PySide6.QtGui import (
    QContextMenuEvent,
    QDragEnterEvent,
    QDragLeaveEvent,
    QDragMoveEvent,
    QDropEvent,
    QImage,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QPixmap,
    QResizeEvent,
    QWheelEvent,
)
from PySide6.QtWidgets import QAbstractScrollArea, QLineEdit, QSizePolicy
from typing_extensions import override

from cicada.core.edits import ChangeLayer, MoveKeyframes, MoveSpanEnd
from cicada.core.model import Clip, Keyframe, Layer, Rest
from cicada.window import theme
from cicada.window.frames import Frames
from cicada.window.planning import Planning
from cicada.window.session import Cell, Session
from cicada.window.sheet_layout import HEAD, MARKS, ROW, RULER, THIN_ROW, TOP, SheetLayout
from cicada.window.sheet_paint import TOGGLES, SheetView, paint_sheet
from cicada.window.shelf_drag import dragged_files, dragged_sound
from cicada.window.sounds import Sounds
from cicada.window.traces import SceneTraces, scene_traces, spans

GRIP = 5
FIRST_MOVE = 4
FLAG = 38
# Pixels a frame at which a scene can be read at ease.
EASY = 4.6


@lru_cache(maxsize=512)
def _flag(number: int, ratio: float) -> QPixmap:
    """The playhead's flag with a frame's number; drawing the digits costs most of a step."""
    flag = QPixmap(round(FLAG * ratio), round(18 * ratio))
    flag.setDevicePixelRatio(ratio)
    flag.fill(Qt.GlobalColor.transparent)
    painter = QPainter(flag)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.setPen(theme.NO_PEN)
    painter.setBrush(theme.INK)
    painter.drawRoundedRect(QRectF(0, 0, FLAG, 18), 4, 4)
    painter.setPen(theme.CARD)
    painter.setFont(theme.font(11.5, 700))
    painter.drawText(QRectF(0, 0, FLAG, 18), Qt.AlignmentFlag.AlignCenter, str(number))
    painter.end()
    return flag


class _Hand(Enum):
    """What the mouse is doing."""

    NOTHING = auto()
    SCRUB = auto()
    MOVE = auto()
    SPAN_END = auto()


class Sheet(QAbstractScrollArea):
    """Draws the plan of the scene shown, and lets it be edited with the mouse."""

    scrubbed = Signal(int)
    sound_dropped = Signal(str, str, int)
    files_dropped = Signal(list, str, int)
    menu_wanted = Signal(QPoint)

    def __init__(
        self, session: Session, planning: Planning, sounds: Sounds, frames: Frames
    ) -> None:
        super().__init__()
        self.session, self.planning, self.sounds, self.frames = session, planning, sounds, frames
        self.document = session.document
        self.place = SheetLayout()
        self._picture: QPixmap | None = None
        self._traces: SceneTraces | None = None
        self._zoomed = False
        self._hand = _Hand.NOTHING
        self._pressed_at = QPointF()
        self._grabbed: Cell | None = None
        self._dragged_to: Cell | None = None
        self._moved = False
        self._rename: QLineEdit | None = None
        self._shown_playhead = -1
        # Where a sound is tried out, if one is.
        self.trial: Cell | None = None
        self.setFrameShape(QAbstractScrollArea.Shape.NoFrame)
        self.setMinimumHeight(TOP + 2 * ROW)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Sheet")
        self.setAcceptDrops(True)
        self.viewport().setMouseTracking(True)
        # The sheet paints all of itself, so nothing beneath it need be painted first.
        self.viewport().setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)
        self.viewport().setAcceptDrops(True)
        self.horizontalScrollBar().valueChanged.connect(self._scrolled)
        self.verticalScrollBar().valueChanged.connect(self._scrolled)
        session.scene_changed.connect(self._another_scene)
        session.cell_changed.connect(self.redraw)
        session.shown_sound_changed.connect(self.redraw)
        session.playhead_moved.connect(self._playhead_moved)
        planning.planned.connect(self._new_plan)
        self.document.changed.connect(self._new_plan)
        sounds.changed.connect(self.redraw)
        frames.arrived.connect(self.redraw)

    # -- what is shown -------------------------------------------------------------------------

    @property
    def traces(self) -> SceneTraces:
        """The geometry on the sheet, worked out when first asked for."""
        if self._traces is None:
            project = self.planning.project
            ids = [scene.id for scene in project.scenes]
            index = ids.index(self.session.scene_id) if self.session.scene_id in ids else 0
            self._traces = scene_traces(project, self.planning.plan, project.scenes[index])
            heights = [ROW if row.layer is not None else THIN_ROW for row in self._traces.rows]
            self.place.rows = tuple(heights)
        return self._traces

    def _new_plan(self) -> None:
        self._traces = None
        self._set_scroll_bars()
        self.redraw()

    def _another_scene(self) -> None:
        self._traces = None
        self._zoomed = False
        self._fit_unless_zoomed()
        self.redraw()

    def redraw(self) -> None:
        """Paint everything anew at the next chance."""
        self._picture = None
        self.viewport().update()

    def fit(self) -> None:
        """Show the whole scene."""
        width = self.viewport().width() - HEAD
        self.place.scale = max(0.001, width * 0.985 / self.session.scene.length)
        self.place.left = 0.0
        self._set_scroll_bars()
        self.redraw()

    def _fit_unless_zoomed(self) -> None:
        """Until somebody zooms, a scene is shown whole, or as much as is easy to read."""
        if not self._zoomed and self.viewport().width() > HEAD + 50:
            self.fit()
            self.place.scale = max(EASY, self.place.scale)
            self._set_scroll_bars()

    def zoom(self, factor: float, x: float | None = None) -> None:
        """Zoom about a pixel column, or the playhead."""
        self._zoomed = True
        about = self.place.x(self.session.playhead) if x is None else x
        least = (self.viewport().width() - HEAD) * 0.5 / self.session.scene.length
        self.place.zoom(factor, max(about, HEAD), least=min(least, 1.0))
        self._set_scroll_bars()
        self.redraw()

    def _set_scroll_bars(self) -> None:
        width = self.viewport().width()
        self.place.keep_inside(self.session.scene.length, width)
        shown = (width - HEAD) / self.place.scale
        across = self.horizontalScrollBar()
        across.blockSignals(True)
        across.setRange(0, max(0, round((self.session.scene.length + 0.06 * shown - shown) * 10)))
        across.setPageStep(max(1, round(shown * 10)))
        across.setValue(round(self.place.left * 10))
        across.blockSignals(False)
        tall = sum(self.place.rows) if self.traces else 0
        down = self.verticalScrollBar()
        down.setRange(0, max(0, tall - (self.viewport().height() - TOP)))
        down.setPageStep(max(1, self.viewport().height() - TOP))

    def _scrolled(self) -> None:
        across = self.horizontalScrollBar()
        if abs(across.value() - self.place.left * 10) >= 1:
            self.place.left = across.value() / 10
        self.place.top = self.verticalScrollBar().value()
        self.redraw()

    def show_frame(self, frame: int) -> None:
        """Scroll so that a frame can be seen."""
        x = self.place.x(frame)
        if not HEAD <= x <= self.viewport().width() - 20:
            self.place.left = frame - (self.viewport().width() - HEAD) * 0.15 / self.place.scale
            self._set_scroll_bars()
            self.redraw()

    # -- painting ------------------------------------------------------------------------------

    @override
    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._fit_unless_zoomed()
        self._set_scroll_bars()
        self.redraw()

    @override
    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self.viewport())
        self.paint_area(painter, event.rect())
        if self._dragged_to is not None:
            self._paint_drag(painter)

    def paint_area(self, painter: QPainter, area: QRect) -> None:
        """Paint a part of the sheet from the picture of it, and the playhead over that."""
        if self._picture is None:
            self._picture = self._painted()
        ratio = self._picture.devicePixelRatio()
        if ratio == 1:
            painter.drawPixmap(area.topLeft(), self._picture, area)
        else:
            source = QRectF(
                area.x() * ratio, area.y() * ratio, area.width() * ratio, area.height() * ratio
            )
            painter.drawPixmap(QRectF(area), self._picture, source)
        self._paint_playhead(painter)

    def _painted(self) -> QPixmap:
        port = self.viewport()
        ratio = port.devicePixelRatioF()
        picture = QPixmap(round(port.width() * ratio), round(port.height() * ratio))
        picture.setDevicePixelRatio(ratio)
        painter = QPainter(picture)
        paint_sheet(
            painter,
            SheetView(
                self.planning.project,
                self.traces,
                self.place,
                self.sounds,
                self.session.cell,
                self._film,
                port.width(),
                port.height(),
                self.trial,
                self.session.shown_sound,
            ),
        )
        painter.end()
        return picture

    def _film(self, frame: int, height: int) -> QImage | None:
        path = self.frames.path(self.traces.scene, self.document.file, frame)
        return None if path is None else self.frames.picture(path, height)

    def playhead_area(self, frame: int) -> QRect:
        """The pixels the playhead covers on a frame."""
        x = round(self.place.x(frame))
        return QRect(x - FLAG // 2 - 1, 0, FLAG + 2, self.viewport().height())

    def _playhead_moved(self) -> None:
        self.viewport().update(self.playhead_area(self._shown_playhead))
        self.viewport().update(self.playhead_area(self.session.playhead))

    def _paint_playhead(self, painter: QPainter) -> None:
        frame = self.session.playhead
        self._shown_playhead = frame
        x = round(self.place.x(frame))
        if x < HEAD:
            return
        top = MARKS + 20
        painter.fillRect(x, top, 1, self.viewport().height() - top, theme.INK)
        number = frame + self.document.project.first_frame
        painter.drawPixmap(x - FLAG // 2, top, _flag(number, self.devicePixelRatioF()))

    def _paint_drag(self, painter: QPainter) -> None:
        """Where what is dragged will stand, and on which frame that is."""
        assert self._dragged_to is not None
        row = self._row_of(self._dragged_to.layer)
        top = self.place.row_top(row) if row is not None else TOP
        x = self.place.x(self._dragged_to.frame)
        height = self.place.rows[row] if row is not None else ROW
        painter.setPen(QPen(theme.MOSS, 2))
        painter.drawLine(QPointF(x, top), QPointF(x, top + height))
        change = ""
        if self._grabbed is not None and self._hand == _Hand.MOVE:
            change = f"  ({self._dragged_to.frame - self._grabbed.frame:+d})"
        shown = self._dragged_to.frame + self.document.project.first_frame
        seconds = self.planning.plan.timebase.seconds(self._dragged_to.frame)
        text = f"frame {shown}, {seconds:.3f} s{change}"
        painter.setFont(theme.font(11.5, 600))
        width = painter.fontMetrics().horizontalAdvance(text) + 14
        left = min(x + 8, self.viewport().width() - width - 4)
        box = QRectF(left, top + height - 24, width, 20)
        painter.setBrush(theme.CARD)
        painter.drawRoundedRect(box, 4, 4)
        painter.setPen(theme.INK)
        painter.drawText(box, Qt.AlignmentFlag.AlignCenter, text)

    # -- finding things ------------------------------------------------------------------------

    def _row_of(self, layer: str) -> int | None:
        for index, row in enumerate(self.traces.rows):
            if row.layer is not None and row.layer.id == layer:
                return index
        return None

    def _layer_at(self, y: float) -> Layer | None:
        row = self.place.row_at(y)
        return None if row is None else self.traces.rows[row].layer

    def frame_at(self, x: float) -> int:
        """The frame of the scene under a pixel column, or the nearest."""
        return max(0, min(floor(self.place.place(x)), self.session.scene.length - 1))

    def cell_at(self, point: QPointF) -> Cell | None:
        """The layer and frame under a point; of what sounds there, its keyframe."""
        layer = self._layer_at(point.y())
        if layer is None or point.x() < HEAD:
            return None
        keyframe = self._keyframe_at(point)
        frame = self.frame_at(point.x()) if keyframe is None else keyframe.frame
        return Cell(layer.id, frame)

    def _keyframe_at(self, point: QPointF) -> Keyframe | None:
        """The keyframe whose shape is under a point."""
        layer = self._layer_at(point.y())
        row = self.place.row_at(point.y())
        if layer is None or row is None:
            return None
        for keyframe in layer.keyframes:
            if abs(self.place.x(keyframe.frame) - point.x()) <= GRIP and isinstance(keyframe, Rest):
                return keyframe
        place = self.place.place(point.x())
        by_frame = {keyframe.frame: keyframe for keyframe in layer.keyframes}
        exact = by_frame.get(self.frame_at(point.x()))
        if exact is not None:
            return exact
        for trace in reversed(self.traces.rows[row].traces):
            widest = max(trace.end, trace.start + 14 / self.place.scale if trace.held else 0)
            if not trace.come_from and trace.start <= place < widest:
                return by_frame.get(trace.voice.frame)
        return None

    def _span_end_at(self, point: QPointF) -> Cell | None:
        """The clip whose span's end is under a point: the cell of its keyframe."""
        layer = self._layer_at(point.y())
        if layer is None or layer.guarded:
            return None
        for keyframe, end in spans(self.session.scene, layer):
            if abs(self.place.x(end) - point.x()) <= GRIP and isinstance(keyframe, Clip):
                return Cell(layer.id, keyframe.frame)
        return None

    # -- hands ---------------------------------------------------------------------------------

    @override
    def mousePressEvent(self, event: QMouseEvent) -> None:
        point = event.position()
        if event.button() != Qt.MouseButton.LeftButton:
            return
        self._pressed_at, self._moved = point, False
        if point.y() < TOP and point.x() >= HEAD:
            self._hand = _Hand.SCRUB
            self._scrub(point)
            return
        if point.x() < HEAD:
            self._press_head(point)
            return
        span = self._span_end_at(point)
        cell = self.cell_at(point)
        self.session.choose(span or cell)
        if span is not None:
            self._hand, self._grabbed = _Hand.SPAN_END, span
        elif cell is not None and self._keyframe_at(point) is not None:
            self._hand, self._grabbed = _Hand.MOVE, cell
        elif cell is not None:
            self.session.move_playhead(cell.frame)
            self.scrubbed.emit(cell.frame)

    @override
    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        point = event.position()
        if self._hand == _Hand.NOTHING:
            self._show_cursor(point)
            return
        if self._hand == _Hand.SCRUB:
            self._scrub(point)
            return
        if (point - self._pressed_at).manhattanLength() >= FIRST_MOVE:
            self._moved = True
        if self._moved and self._grabbed is not None:
            self._dragged_to = self._drag_target(point)
            self.viewport().update()

    def _drag_target(self, point: QPointF) -> Cell:
        assert self._grabbed is not None
        if self._hand == _Hand.SPAN_END:
            frame = round(self.place.place(point.x()))
            return Cell(self._grabbed.layer, max(self._grabbed.frame + 1, frame))
        change = round((point.x() - self._pressed_at.x()) / self.place.scale)
        layer = self._layer_at(point.y())
        last = self.session.scene.length - 1
        frame = max(0, min(self._grabbed.frame + change, last))
        return Cell(self._grabbed.layer if layer is None else layer.id, frame)

    @override
    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        hand, grabbed, target = self._hand, self._grabbed, self._dragged_to
        self._hand, self._grabbed, self._dragged_to = _Hand.NOTHING, None, None
        self.viewport().update()
        if not self._moved or grabbed is None or target is None:
            return
        if hand == _Hand.SPAN_END:
            self.document.do(MoveSpanEnd(layer=grabbed.layer, frame=grabbed.frame, to=target.frame))
        elif hand == _Hand.MOVE and target != grabbed:
            self.move_keyframe(grabbed, target)

    def move_keyframe(self, cell: Cell, target: Cell) -> None:
        """Move a keyframe, and with a clip the rest that gives it its room."""
        layer = next(x for x in self.session.scene.layers if x.id == cell.layer)
        frames = [cell.frame]
        by = target.frame - cell.frame
        later = sorted(k.frame for k in layer.keyframes if k.frame > cell.frame)
        at = {keyframe.frame: keyframe for keyframe in layer.keyframes}
        if later and isinstance(at[cell.frame], Clip) and isinstance(at[later[0]], Rest):
            frames.append(later[0])
        if frames[-1] + by >= self.session.scene.length:
            frames = frames[:1]
        edit = MoveKeyframes(
            layer=cell.layer,
            frames=tuple(frames),
            by=by,
            to_layer=None if target.layer == cell.layer else target.layer,
        )
        if self.document.do(edit):
            self.session.choose(target)

    def _scrub(self, point: QPointF) -> None:
        frame = self.frame_at(point.x())
        if frame != self.session.playhead or not self._moved:
            self._moved = True
            self.session.move_playhead(frame)
            self.scrubbed.emit(frame)

    def _show_cursor(self, point: QPointF) -> None:
        shape = Qt.CursorShape.ArrowCursor
        if point.x() >= HEAD and point.y() >= TOP:
            if self._span_end_at(point) is not None:
                shape = Qt.CursorShape.SplitHCursor
            elif self._keyframe_at(point) is not None:
                shape = Qt.CursorShape.OpenHandCursor
        self.viewport().setCursor(shape)

    def _press_head(self, point: QPointF) -> None:
        layer, row = self._layer_at(point.y()), self.place.row_at(point.y())
        if layer is None or row is None:
            return
        below = point.y() - self.place.row_top(row)
        for field, _, left in TOGGLES:
            if left - 4 <= point.x() < left + 34 and below >= 27:
                change = {field: not getattr(layer, field)}
                self.document.do(ChangeLayer(layer=layer.id, changes=change))
                return
        frame = self.session.playhead if self.session.cell is None else self.session.cell.frame
        self.session.choose(Cell(layer.id, frame))

    @override
    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        layer = self._layer_at(event.position().y())
        if layer is not None and event.position().x() < HEAD:
            self.rename_layer(layer)

    def rename_layer(self, layer: Layer) -> None:
        """Let the layer's name be typed in place."""
        row = self._row_of(layer.id)
        if row is None:
            return
        field = QLineEdit(layer.name, self.viewport())
        field.setGeometry(12, self.place.row_top(row) + 4, HEAD - 24, 26)
        field.setAccessibleName("Layer name")
        self._rename = field

        def finish() -> None:
            if self._rename is field:
                self._rename = None
                name = field.text().strip()
                field.deleteLater()
                if name and name != layer.name:
                    self.document.do(ChangeLayer(layer=layer.id, changes={"name": name}))

        field.editingFinished.connect(finish)
        field.selectAll()
        field.show()
        field.setFocus()

    @override
    def wheelEvent(self, event: QWheelEvent) -> None:
        turn = event.angleDelta()
        point = event.position()
        if event.modifiers() & Qt.KeyboardModifier.ShiftModifier or abs(turn.x()) > abs(turn.y()):
            across = self.horizontalScrollBar()
            across.setValue(
                across.value() - round((turn.x() or turn.y()) * across.pageStep() / 1200)
            )
        elif point.x() < HEAD:
            down = self.verticalScrollBar()
            down.setValue(down.value() - turn.y() * ROW // 120)
        else:
            self.zoom(1.25 ** (turn.y() / 120), point.x())
        event.accept()

    @override
    def contextMenuEvent(self, event: QContextMenuEvent) -> None:
        point = QPointF(event.pos())
        layer = self._layer_at(point.y())
        if layer is not None:
            cell = self.cell_at(point) or Cell(layer.id, self.session.playhead)
            self.session.choose(cell)
        self.menu_wanted.emit(event.globalPos())

    # -- dropping ------------------------------------------------------------------------------

    @override
    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        self.dragMoveEvent(event)

    @override
    def dragMoveEvent(self, event: QDragMoveEvent) -> None:
        point = event.position()
        layer = self._layer_at(point.y())
        known = dragged_sound(event.mimeData()) or dragged_files(event.mimeData())
        if not known or point.x() < HEAD or point.y() < RULER:
            self._dragged_to = None
            event.ignore()
        else:
            self._dragged_to = Cell("" if layer is None else layer.id, self.frame_at(point.x()))
            event.acceptProposedAction()
        self.viewport().update()

    @override
    def dragLeaveEvent(self, event: QDragLeaveEvent) -> None:
        self._dragged_to = None
        self.viewport().update()

    @override
    def dropEvent(self, event: QDropEvent) -> None:
        target, self._dragged_to = self._dragged_to, None
        self.viewport().update()
        if target is None:
            return
        event.acceptProposedAction()
        sound = dragged_sound(event.mimeData())
        if sound:
            self.sound_dropped.emit(sound, target.layer, target.frame)
        else:
            self.files_dropped.emit(dragged_files(event.mimeData()), target.layer, target.frame)
