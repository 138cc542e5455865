"""The sheet: its drawing with hands on it, which choose, drag, drop and edit."""

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
from cicada.core.model import Clip, Layer
from cicada.core.scene_edits import ChangeProject
from cicada.window.drawing import theme
from cicada.window.drawing.heads import LEVEL_X, TOGGLES
from cicada.window.drawing.layout import (
    HEAD,
    MARKS,
    ROW,
    RULER,
    TOP,
)
from cicada.window.drawing.rulers import end_box
from cicada.window.drawing.sound_pictures import SoundPictures
from cicada.window.drawing.way_lanes import WayLane
from cicada.window.playing.trying import Trying
from cicada.window.sheet import hands, head_hands
from cicada.window.sheet.canvas import SheetCanvas
from cicada.window.sheet.draw_hand import DrawHand
from cicada.window.sheet.hand import Hand
from cicada.window.sheet.hover import hover_sentence
from cicada.window.sheet.mix_row import MixRow
from cicada.window.sheet.on_opened import OnOpened
from cicada.window.sheet.part_end import PartEnd
from cicada.window.sheet.snapping import Snapping
from cicada.window.sheet.value_hand import ValueHand
from cicada.window.state.conditions import Conditions
from cicada.window.state.frames import Frames
from cicada.window.state.hits import Hits
from cicada.window.state.planning import Planning
from cicada.window.state.session import Session
from cicada.window.state.sounds import Sounds
from cicada.window.state.ways import Ways
from cicada.window.widgets.drag import dragged_files, dragged_sound
from cicada.window.widgets.fields import NameField

# Where it is shown that keys go to the sheet.
FOCUS = QRect(0, 0, HEAD, 3)
Keys = Qt.KeyboardModifier


class Sheet(SheetCanvas):
    """Lets what the canvas draws be chosen and edited with the mouse."""

    sound_dropped = Signal(str, str, int)
    files_dropped = Signal(list, str, int)
    picture_dropped = Signal(list, int)
    menu_wanted = Signal(QPoint)
    ruler_menu_wanted = Signal(QPoint, int)
    plays_wanted = Signal(QPoint)
    point_menu_wanted = Signal(QPoint, list)
    way_chosen = Signal(str)

    def __init__(
        self,
        session: Session,
        planning: Planning,
        conditions: Conditions,
        trying: Trying,
        sounds: Sounds,
        pictures: SoundPictures,
        frames: Frames,
        mix_row: MixRow,
        hits: Hits,
        snapping: Snapping,
        ways: Ways,
    ) -> None:
        super().__init__(
            session, planning, conditions, trying, sounds, pictures, frames, mix_row, hits,
            snapping, ways,
        )  # fmt: skip
        self._hand: Hand | None = None
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
        elif (lane := self._lane_under(point)) is not None:
            self.way_chosen.emit(lane.value)
        elif self.draw_lane is not None and point.y() >= self.place.foot:
            self._hand = DrawHand(self, point, self.draw_lane)
        elif (drawn := self.value_lane) is not None and point.y() >= self.place.foot:
            self._hand = ValueHand(self, point, drawn)
        elif (hand := self.on_opened.press(point, keys)) is not None:
            self._hand = hand
        elif point.y() < self.place.foot:
            self._hand = self._press_rows(point, keys)
        else:
            self._hand = hands.ScrubHand(self, point)

    def _lane_under(self, point: QPointF) -> WayLane | None:
        """The way under a point, of those that are compared."""
        lanes = self.way_lanes
        inside = TOP <= point.y() < self.place.foot
        return lanes.at(point) if lanes is not None and inside else None

    def _press_rulers(self, point: QPointF, keys: Keys) -> Hand | None:
        if keys & Keys.ShiftModifier:
            return hands.MarkRange(self, point)
        scene, project = self.session.scene, self.document.project
        last = project.scenes[-1].id == scene.id
        if last and end_box(self.place, scene.length).contains(point):
            below = QPoint(round(point.x()), MARKS + 22)
            self.plays_wanted.emit(self.viewport().mapToGlobal(below))
            return None
        end = self.under.part_end(point)
        if end is not None:
            return PartEnd(self, point, end)
        flag = self.under.on_ruler(point)
        if flag is not None:
            return hands.RulerHand(self, point, flag[0], press=flag[1])
        return hands.ScrubHand(self, point)

    def _press_rows(self, point: QPointF, keys: Keys) -> Hand | None:
        span, cell = self.under.span_end(point), self.under.cell(point)
        layer = self.under.layer(point.y())
        if span is not None and not keys & Keys.ControlModifier:
            self.session.choose(span)
            # What was being typed is taken as the choice changes, and may have moved it away.
            return hands.SpanEnd(self, point, span) if span in self.session.chosen else None
        if cell is None or layer is None or self.under.keyframe(point) is None:
            return hands.Marquee(self, point, cell, keys)
        if keys & Keys.ShiftModifier:
            self._choose_range(cell)
            return None
        was_chosen = cell in self.session.chosen
        if keys & Keys.ControlModifier and not was_chosen:
            self.session.choose_also(cell)
        elif not was_chosen:
            self.session.choose(cell)
        self.session.spot = Cell(layer.id, self.under.frame(point.x()))
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
        if point.x() < HEAD and self.under.edge(point) is not None:
            shape = Qt.CursorShape.SplitVCursor
        elif self._lane_under(point) is not None:
            shape = Qt.CursorShape.PointingHandCursor
        elif (over := self.on_opened.cursor(point)) is not None:
            shape = over
        elif point.x() >= HEAD and point.y() >= TOP:
            layer = self.under.layer(point.y())
            if self.under.span_end(point) is not None:
                shape = Qt.CursorShape.SplitHCursor
            elif layer is not None and not layer.guarded and self.under.keyframe(point) is not None:
                shape = Qt.CursorShape.OpenHandCursor
        elif self.under.part_end(point) is not None:
            shape = Qt.CursorShape.SplitHCursor
        elif self.under.on_ruler(point) is not None:
            shape = Qt.CursorShape.OpenHandCursor
        self.viewport().setCursor(shape)

    def _press_head(self, point: QPointF) -> Hand | None:
        if MARKS <= point.y() < MARKS + 21:
            self.next_unit()
            return None
        edge = self.under.edge(point)
        if edge is not None:
            return head_hands.Height(self, point, edge)
        if point.y() >= self.place.foot and point.x() >= LEVEL_X - 8:
            return head_hands.LayerLevel(self, point, None)
        layer, row = self.under.layer(point.y()), self.place.row_at(point.y())
        if layer is None or row is None:
            return None
        below = point.y() - self.place.row_top(row)
        for field, _, left in TOGGLES:
            if left - 4 <= point.x() < left + 34 and below >= 25:
                change = {field: not getattr(layer, field)}
                self.document.do(ChangeLayer(layer=layer.id, changes=change))
                return None
        if point.x() >= LEVEL_X - 8:
            return head_hands.LayerLevel(self, point, row)
        frame = self.session.playhead if self.session.cell is None else self.session.cell.frame
        self.session.choose(Cell(layer.id, frame))
        return head_hands.LayerOrder(self, point, layer.id)

    @override
    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        point = event.position()
        layer = self.under.layer(point.y())
        if self._lane_under(point) is not None or self.on_opened.type_at(point):
            return
        if point.x() < HEAD and layer is not None and point.x() < LEVEL_X - 8:
            self.rename_layer(layer)
        elif point.x() < HEAD and layer is not None:
            self.document.do(ChangeLayer(layer=layer.id, changes={"level": 1.0}))
        elif LEVEL_X - 8 <= point.x() < HEAD and point.y() >= self.place.foot:
            self.document.do(ChangeProject(changes={"level": 1.0}))
        elif point.y() < MARKS and point.x() >= HEAD:
            where = self.viewport().mapToGlobal(QPoint(round(point.x()), MARKS))
            self.ruler_menu_wanted.emit(where, self.under.frame(point.x()))
        elif point.y() >= self.place.foot:
            if self.draw_lane is None and self.value_lane is None:
                self.on_opened.open_line("")
        elif point.y() >= TOP and not self._show_keyframe_of(point):
            self._open_at(point)

    def _show_keyframe_of(self, point: QPointF) -> bool:
        """Go to the keyframe of a sounding that rings on from another scene or pass."""
        found = self.under.voice(point)
        if found is None or found[0].own[found[1]]:
            return False
        voice = found[0].voices[found[1]]
        self.session.go_to(voice.scene, voice.cell)
        return True

    def _open_at(self, point: QPointF) -> None:
        """Open the clip under a point."""
        cell = self.under.cell(point)
        if cell is not None and isinstance(self.under.keyframe(point), Clip):
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
            self.ruler_menu_wanted.emit(event.globalPos(), self.under.frame(point.x()))
            return
        points = self.on_opened.point_menu(point)
        if points:
            self.point_menu_wanted.emit(event.globalPos(), points)
            return
        layer = self.under.layer(point.y())
        if layer is not None:
            cell = self.under.cell(point) or Cell(layer.id, self.session.playhead)
            if cell not in self.session.chosen:
                self.session.choose(cell)
        self.menu_wanted.emit(event.globalPos())

    @override
    def viewportEvent(self, event: QEvent) -> bool:
        if event.type() == QEvent.Type.ToolTip and isinstance(event, QHelpEvent):
            text = self._said_of(QPointF(event.pos()))
            QToolTip.showText(event.globalPos(), text, self.viewport())
            return True
        return super().viewportEvent(event)

    def _said_of(self, point: QPointF) -> str:
        """What is under a point, in words."""
        lane = self._lane_under(point)
        if lane is not None:
            how = "" if lane.now else f" A click sets it so, {lane.key} lets it be heard."
            return f"{lane.name}: {lane.words}.{how}"
        found = self.under.voice(point)
        return hover_sentence(self.traces, *found) if found is not None else ""

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
