"""The sheet: its drawing with hands on it, which choose, drag, drop and edit."""

from math import floor

from PySide6.QtCore import QEvent, QPoint, QPointF, QRect, Qt, Signal
from PySide6.QtGui import (
    QContextMenuEvent,
    QDragEnterEvent,
    QDragLeaveEvent,
    QDragMoveEvent,
    QDropEvent,
    QFocusEvent,
    QHelpEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QWheelEvent,
)
from PySide6.QtWidgets import QToolTip
from typing_extensions import override

from cicada.core.editing import Cell
from cicada.core.layer_edits import ChangeLayer
from cicada.core.model import Clip, Keyframe, Layer
from cicada.core.scene_edits import ChangeProject
from cicada.window.drawing import theme
from cicada.window.drawing.heads import LEVEL_X, TOGGLES
from cicada.window.drawing.lanes import Lane
from cicada.window.drawing.layout import (
    HEAD,
    MARKS,
    ROW,
    RULER,
    TOP,
)
from cicada.window.drawing.rulers import end_box, part_ends
from cicada.window.drawing.traces import Row, spans
from cicada.window.drawing.view import UNITS
from cicada.window.sheet import hands
from cicada.window.sheet.canvas import SheetCanvas
from cicada.window.sheet.hover import hover_sentence
from cicada.window.sheet.mix_row import MixRow
from cicada.window.sheet.on_opened import OnOpened
from cicada.window.sheet.part_end import PartEnd
from cicada.window.sheet.snapping import Snapping, Targets
from cicada.window.state.frames import Frames
from cicada.window.state.hits import Hits
from cicada.window.state.planning import Planning
from cicada.window.state.session import Opened, Session
from cicada.window.state.sounds import Sounds
from cicada.window.widgets.drag import dragged_files, dragged_sound
from cicada.window.widgets.fields import NameField

GRIP = 5
# Where it is shown that keys go to the sheet.
FOCUS = QRect(0, 0, HEAD, 3)
Keys = Qt.KeyboardModifier
# How far from where a part of the picture ends, in pixels, is still on it.
NEAR_END = 4


class Sheet(SheetCanvas):
    """Lets what the canvas draws be chosen and edited with the mouse."""

    scrubbed = Signal(int)
    let_go_of_playhead = Signal()
    stepped = Signal(int)
    range_marked = Signal(int, int)
    sound_dropped = Signal(str, str, int)
    files_dropped = Signal(list, str, int)
    picture_dropped = Signal(list, int)
    menu_wanted = Signal(QPoint)
    ruler_menu_wanted = Signal(QPoint, int)
    plays_wanted = Signal(QPoint)
    point_menu_wanted = Signal(QPoint, list)

    def __init__(
        self,
        session: Session,
        planning: Planning,
        sounds: Sounds,
        frames: Frames,
        mix_row: MixRow,
        hits: Hits,
        snapping: Snapping,
    ) -> None:
        super().__init__(session, planning, sounds, frames, mix_row, hits)
        self.snapping = snapping
        self._hand: hands.Hand | None = None
        self.name_field: NameField | None = None
        self.on_opened = OnOpened(self)
        self.setAcceptDrops(True)
        self.viewport().setMouseTracking(True)
        self.viewport().setAcceptDrops(True)
        session.scene_changed.connect(self._keep_hold)
        self.document.changed.connect(self._keep_hold)

    def _keep_hold(self) -> None:
        """Let go of what is dragged if what it is dragged over is gone."""
        if self._hand is not None and not self._hand.stands():
            self.let_go()

    @override
    def paintEvent(self, event: QPaintEvent) -> None:
        super().paintEvent(event)
        painter = QPainter(self.viewport())
        if self.hasFocus():
            painter.fillRect(FOCUS, theme.MOSS)
        if self._hand is not None:
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            self._hand.paint(painter)

    @override
    def focusInEvent(self, event: QFocusEvent) -> None:
        super().focusInEvent(event)
        self.viewport().update(FOCUS)

    @override
    def focusOutEvent(self, event: QFocusEvent) -> None:
        super().focusOutEvent(event)
        self.viewport().update(FOCUS)

    def frame_said(self, frame: int) -> str:
        """A frame's number as people count."""
        return str(frame + self.document.project.first_frame)

    def choose_points(self, lane: Lane, indices: frozenset[int]) -> None:
        """Choose points of an opened line."""
        self.points = {lane.name: indices} if indices else {}
        self.redraw()

    def follow_clip(self, cell: Cell) -> None:
        """The opened clip stands on another frame now."""
        opened = self.session.opened
        self.session.choose(cell)
        if opened is not None and opened.frame is not None:
            self.session.open(Opened(cell.layer, cell.frame, opened.sound))

    # -- finding things ------------------------------------------------------------------------

    def layer_at(self, y: float) -> Layer | None:
        """The layer whose row is under a pixel line."""
        row = self.place.row_at(y)
        return None if row is None else self.traces.rows[row].layer

    def frame_at(self, x: float) -> int:
        """The frame of the scene under a pixel column, or the nearest."""
        return max(0, min(floor(self.place.frame(x)), self.session.scene.length - 1))

    def cell_at(self, point: QPointF) -> Cell | None:
        """The layer and frame under a point; of what sounds there, its keyframe."""
        layer = self.layer_at(point.y())
        if layer is None or point.x() < HEAD:
            return None
        keyframe = self.keyframe_at(point)
        frame = self.frame_at(point.x()) if keyframe is None else keyframe.frame
        return Cell(layer.id, frame)

    def keyframe_at(self, point: QPointF) -> Keyframe | None:
        """The keyframe of the layer whose shape is under a point."""
        layer = self.layer_at(point.y())
        if layer is None:
            return None
        near = [
            keyframe
            for keyframe in layer.keyframes
            if not isinstance(keyframe, Clip)
            and abs(self.place.frame_x(keyframe.frame) - point.x()) <= GRIP
        ]
        if near:
            return near[0]
        by_frame = {keyframe.frame: keyframe for keyframe in layer.keyframes}
        exact = by_frame.get(self.frame_at(point.x()))
        if exact is not None:
            return exact
        struck = self._struck_at(point)
        if struck is not None:
            return by_frame.get(struck)
        found = self.voice_at(point)
        if found is None:
            return None
        voice = found[0].voices[found[1]]
        return by_frame.get(voice.frame) if voice.layer == layer.id else None

    def _struck_at(self, point: QPointF) -> int | None:
        """The frame of the clip that was left out whose sign is under a point, if one is."""
        number = self.place.row_at(point.y())
        if number is None:
            return None
        near = [
            (abs(self.place.frame_x(strike.frame) - point.x()), strike.frame)
            for strike in self.traces.rows[number].strikes
        ]
        distance, frame = min(near, default=(GRIP + 1.0, 0))
        return frame if distance <= GRIP else None

    def voice_at(self, point: QPointF) -> tuple[Row, int] | None:
        """The row and number of the sounding under a point; of several the one begun last."""
        number = self.place.row_at(point.y())
        if number is None or point.x() < HEAD:
            return None
        row, place = self.traces.rows[number], self.place.place(point.x())
        least = GRIP / self.place.scale
        pillar = 14 / self.place.scale
        for index in reversed(range(len(row.voices))):
            start, end = float(row.starts[index]), float(row.ends[index])
            if start <= place < max(end, start + (pillar if row.held[index] else least)):
                return row, index
        return None

    def span_end(self, clip: Cell) -> int:
        """The frame a clip's span runs up to."""
        layer = next(layer for layer in self.session.scene.layers if layer.id == clip.layer)
        ends = {keyframe.frame: end for keyframe, end in spans(self.session.scene, layer)}
        return ends.get(clip.frame, self.session.scene.length)

    def _span_end_at(self, point: QPointF) -> Cell | None:
        """The clip whose span's end is under a point: the cell of its keyframe."""
        layer = self.layer_at(point.y())
        if layer is None or layer.guarded:
            return None
        standing = {keyframe.frame: keyframe for keyframe in layer.keyframes}
        for keyframe, end in spans(self.session.scene, layer):
            if not isinstance(keyframe, Clip):
                continue
            past = point.x() - self.place.frame_x(end)
            # What stands right behind it is taken hold of from its own first column on.
            right = 0 if isinstance(standing.get(end), Clip) else GRIP
            wide = self.place.frame_x(end) - self.place.frame_x(keyframe.frame)
            if -min(GRIP, wide / 2) <= past < right:
                return Cell(layer.id, keyframe.frame)
        return None

    def _on_ruler_at(self, point: QPointF) -> tuple[int, bool] | None:
        """The frame of the mark or press point (True) whose flag is under a point."""
        if point.y() > MARKS or point.x() < HEAD:
            return None
        scene = self.session.scene
        for press in scene.press_points:
            if abs(self.place.frame_x(press.frame) - point.x()) <= 7:
                return press.frame, True
        metrics = self.fontMetrics()
        for mark in reversed(scene.marks):
            left = self.place.frame_x(mark.frame)
            if left - 3 <= point.x() <= left + metrics.horizontalAdvance(mark.text) + 10:
                return mark.frame, False
        return None

    def targets(self, moved: frozenset[Cell]) -> Targets:
        """What a drag may snap to, but for the keyframes it moves."""
        return Targets(
            self.snapping, self.traces, self.sounds, self.hits, self.session.playhead, moved
        )

    # -- hands ---------------------------------------------------------------------------------

    @override
    def mousePressEvent(self, event: QMouseEvent) -> None:
        if event.button() != Qt.MouseButton.LeftButton:
            return
        point, keys = event.position(), event.modifiers()
        if point.x() < HEAD:
            self._hand = self._press_head(point)
        elif point.y() < TOP:
            self._hand = self._press_rulers(point, keys)
        elif (hand := self.on_opened.press(point, keys)) is not None:
            self._hand = hand
        elif point.y() < self.place.foot:
            self._hand = self._press_rows(point, keys)
        else:
            self._hand = hands.Scrub(self, point)

    def _press_rulers(self, point: QPointF, keys: Keys) -> hands.Hand | None:
        if keys & Keys.ShiftModifier:
            return hands.MarkRange(self, point)
        scene, project = self.session.scene, self.document.project
        last = project.scenes[-1].id == scene.id
        if last and end_box(self.place, scene.length).contains(point):
            below = QPoint(round(point.x()), MARKS + 22)
            self.plays_wanted.emit(self.viewport().mapToGlobal(below))
            return None
        end = self._part_end_at(point)
        if end is not None:
            return PartEnd(self, point, end)
        flag = self._on_ruler_at(point)
        if flag is not None:
            return hands.OnRuler(self, point, flag[0], press=flag[1])
        return hands.Scrub(self, point)

    def _press_rows(self, point: QPointF, keys: Keys) -> hands.Hand | None:
        span, cell = self._span_end_at(point), self.cell_at(point)
        layer = self.layer_at(point.y())
        if span is not None and not keys & Keys.ControlModifier:
            self.session.choose(span)
            # What was being typed is taken as the choice changes, and may have moved it away.
            return hands.SpanEnd(self, point, span) if span in self.session.chosen else None
        if cell is None or layer is None or self.keyframe_at(point) is None:
            return hands.Marquee(self, point, cell, keys)
        if keys & Keys.ShiftModifier:
            self._choose_range(cell)
            return None
        was_chosen = cell in self.session.chosen
        if keys & Keys.ControlModifier and not was_chosen:
            self.session.choose_also(cell)
        elif not was_chosen:
            self.session.choose(cell)
        self.session.spot = Cell(layer.id, self.frame_at(point.x()))
        if layer.guarded or cell not in self.session.chosen:
            return None
        return hands.Move(self, point, cell, was_chosen=was_chosen)

    def _choose_range(self, cell: Cell) -> None:
        """Choose every keyframe between the card's and this one, over their layers and frames."""
        first = self.session.cell or cell
        layers = [layer.id for layer in self.session.scene.layers]
        low, high = sorted((layers.index(first.layer), layers.index(cell.layer)))
        start, end = sorted((first.frame, cell.frame))
        inside = [
            Cell(layer.id, keyframe.frame)
            for layer in self.session.scene.layers[low : high + 1]
            for keyframe in layer.keyframes
            if start <= keyframe.frame <= end
        ]
        self.session.choose_all(inside, cell)

    @override
    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._hand is None:
            self._show_cursor(event.position())
        else:
            self._hand.move(event.position(), event.modifiers())

    @override
    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        hand, self._hand = self._hand, None
        if hand is not None:
            hand.drop()
            if isinstance(hand, hands.Move) and not hand.moved:
                self._clicked(hand, event.modifiers())
            self.viewport().update()

    def _clicked(self, hand: hands.Move, keys: Keys) -> None:
        """A keyframe was clicked, and not dragged."""
        spot = self.session.spot
        if not keys & Keys.ControlModifier:
            self.session.choose(hand.grabbed)
        elif hand.was_chosen:
            self.session.choose_also(hand.grabbed)
        self.session.spot = spot

    def let_go(self) -> bool:
        """Forget what is being dragged; whether anything was."""
        hand, self._hand = self._hand, None
        if hand is None:
            return False
        hand.let_go()
        self.viewport().update()
        return True

    def _show_cursor(self, point: QPointF) -> None:
        shape = Qt.CursorShape.ArrowCursor
        if point.x() < HEAD and self._edge_at(point) is not None:
            shape = Qt.CursorShape.SplitVCursor
        elif (over := self.on_opened.cursor(point)) is not None:
            shape = over
        elif point.x() >= HEAD and point.y() >= TOP:
            layer = self.layer_at(point.y())
            if self._span_end_at(point) is not None:
                shape = Qt.CursorShape.SplitHCursor
            elif layer is not None and not layer.guarded and self.keyframe_at(point) is not None:
                shape = Qt.CursorShape.OpenHandCursor
        elif self._part_end_at(point) is not None:
            shape = Qt.CursorShape.SplitHCursor
        elif self._on_ruler_at(point) is not None:
            shape = Qt.CursorShape.OpenHandCursor
        self.viewport().setCursor(shape)

    def _part_end_at(self, point: QPointF) -> int | None:
        """The frame on which a part of the picture begins or ends, under a point of the strip."""
        if point.x() < HEAD or not RULER <= point.y() < TOP:
            return None
        for frame in part_ends(self.session.scene):
            if abs(self.place.frame_x(frame) - point.x()) <= NEAR_END:
                return frame
        return None

    def _edge_at(self, point: QPointF) -> int | None:
        """The row whose lower edge is under a point of the heads."""
        for number, top, height in self.place.rows_in_sight():
            if abs(top + height - point.y()) <= 3 and self.traces.rows[number].layer is not None:
                return number
        return None

    def _press_head(self, point: QPointF) -> hands.Hand | None:
        if MARKS <= point.y() < MARKS + 21:
            self.show_unit(UNITS[(UNITS.index(self.unit) + 1) % len(UNITS)])
            return None
        edge = self._edge_at(point)
        if edge is not None:
            return hands.Height(self, point, edge)
        if point.y() >= self.place.foot and point.x() >= LEVEL_X - 8:
            return hands.Level(self, point, None)
        layer, row = self.layer_at(point.y()), self.place.row_at(point.y())
        if layer is None or row is None:
            return None
        below = point.y() - self.place.row_top(row)
        for field, _, left in TOGGLES:
            if left - 4 <= point.x() < left + 34 and below >= 25:
                change = {field: not getattr(layer, field)}
                self.document.do(ChangeLayer(layer=layer.id, changes=change))
                return None
        if point.x() >= LEVEL_X - 8:
            return hands.Level(self, point, row)
        frame = self.session.playhead if self.session.cell is None else self.session.cell.frame
        self.session.choose(Cell(layer.id, frame))
        return hands.LayerOrder(self, point, layer.id)

    @override
    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        point = event.position()
        layer = self.layer_at(point.y())
        if self.on_opened.type_at(point):
            return
        if point.x() < HEAD and layer is not None and point.x() < LEVEL_X - 8:
            self.rename_layer(layer)
        elif point.x() < HEAD and layer is not None:
            self.document.do(ChangeLayer(layer=layer.id, changes={"level": 1.0}))
        elif LEVEL_X - 8 <= point.x() < HEAD and point.y() >= self.place.foot:
            self.document.do(ChangeProject(changes={"level": 1.0}))
        elif point.y() < MARKS and point.x() >= HEAD:
            where = self.viewport().mapToGlobal(QPoint(round(point.x()), MARKS))
            self.ruler_menu_wanted.emit(where, self.frame_at(point.x()))
        elif point.y() >= self.place.foot:
            self.on_opened.open_line("")
        elif point.y() >= TOP and not self._show_keyframe_of(point):
            self._open_at(point)

    def _show_keyframe_of(self, point: QPointF) -> bool:
        """Go to the keyframe of a sounding that rings on from another scene or pass."""
        found = self.voice_at(point)
        if found is None or found[0].own[found[1]]:
            return False
        voice = found[0].voices[found[1]]
        self.session.show_scene(voice.scene)
        self.session.move_playhead(voice.frame)
        self.session.choose(Cell(voice.layer, voice.frame))
        self.show_frame(voice.frame)
        return True

    def _open_at(self, point: QPointF) -> None:
        """Open the clip under a point."""
        cell = self.cell_at(point)
        if cell is not None and isinstance(self.keyframe_at(point), Clip):
            self.on_opened.open_clip(cell)

    def rename_layer(self, layer: Layer) -> None:
        """Let the layer's name be typed in place."""
        row = self.traces.row_of(layer.id)
        if row is None:
            return
        self.show_row(layer.id)
        place = QRect(12, self.place.row_top(row) + 4, HEAD - 24, 26)
        self.name_field = NameField(layer.name, "Layer name", self.viewport(), place)
        self.name_field.left.connect(self.setFocus)
        self.name_field.named.connect(
            lambda name: self.document.do(ChangeLayer(layer=layer.id, changes={"name": name}))
        )

    @override
    def wheelEvent(self, event: QWheelEvent) -> None:
        turn = event.angleDelta()
        point = event.position()
        if event.modifiers() & Keys.ShiftModifier or abs(turn.x()) > abs(turn.y()):
            shown = (self.viewport().width() - HEAD) / self.place.scale
            self.scroll_to(self.place.left - (turn.x() or turn.y()) * shown / 1200)
        elif point.x() < HEAD:
            down = self.verticalScrollBar()
            down.setValue(down.value() - turn.y() * ROW // 120)
        else:
            self.zoom(1.25 ** (turn.y() / 120), point.x())
        event.accept()

    @override
    def contextMenuEvent(self, event: QContextMenuEvent) -> None:
        point = QPointF(event.pos())
        if point.y() < TOP and point.x() >= HEAD:
            self.ruler_menu_wanted.emit(event.globalPos(), self.frame_at(point.x()))
            return
        points = self.on_opened.point_menu(point)
        if points:
            self.point_menu_wanted.emit(event.globalPos(), points)
            return
        layer = self.layer_at(point.y())
        if layer is not None:
            cell = self.cell_at(point) or Cell(layer.id, self.session.playhead)
            if cell not in self.session.chosen:
                self.session.choose(cell)
        self.menu_wanted.emit(event.globalPos())

    @override
    def viewportEvent(self, event: QEvent) -> bool:
        if event.type() == QEvent.Type.ToolTip and isinstance(event, QHelpEvent):
            found = self.voice_at(QPointF(event.pos()))
            text = hover_sentence(self.traces, *found) if found is not None else ""
            QToolTip.showText(event.globalPos(), text, self.viewport())
            return True
        return super().viewportEvent(event)

    # -- dropping ------------------------------------------------------------------------------

    @override
    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        self.let_go()
        self.dragMoveEvent(event)

    @override
    def dragMoveEvent(self, event: QDragMoveEvent) -> None:
        point = event.position()
        sound = dragged_sound(event.mimeData())
        known = sound or dragged_files(event.mimeData())
        inside = point.x() >= HEAD and point.y() >= RULER
        if not known or not inside:
            self.let_go()
            event.ignore()
            return
        if not isinstance(self._hand, hands.Dropping):
            # It was outside, or the film has gone on into another scene meanwhile.
            self.let_go()
            self._hand = hands.Dropping(self, sound or "")
        self._hand.over(point, event.modifiers())
        event.acceptProposedAction()
        self.viewport().update()

    @override
    def dragLeaveEvent(self, event: QDragLeaveEvent) -> None:
        self.let_go()

    @override
    def dropEvent(self, event: QDropEvent) -> None:
        hand = self._hand
        self.let_go()
        if not isinstance(hand, hands.Dropping) or hand.cell is None:
            return
        event.acceptProposedAction()
        sound, (layer, frame) = dragged_sound(event.mimeData()), hand.cell
        if sound:
            self.sound_dropped.emit(sound, layer, frame)
        elif hand.on_strip:
            self.picture_dropped.emit(dragged_files(event.mimeData()), frame)
        else:
            self.files_dropped.emit(dragged_files(event.mimeData()), layer, frame)
