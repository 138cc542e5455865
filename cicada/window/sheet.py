"""The sheet: the timeline's widget. Painted once into a pixmap; the playhead moves over it.

After an edit only the rows that differ are painted anew: at once with what was put there in
outline, and when the new plan is there with what sounds.
"""

from collections.abc import Iterable
from functools import lru_cache
from math import floor
from typing import cast

from PySide6.QtCore import QEvent, QPoint, QPointF, QRect, QRectF, Qt, Signal
from PySide6.QtGui import (
    QColor,
    QContextMenuEvent,
    QDragEnterEvent,
    QDragLeaveEvent,
    QDragMoveEvent,
    QDropEvent,
    QHelpEvent,
    QImage,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPixmap,
    QResizeEvent,
    QWheelEvent,
)
from PySide6.QtWidgets import QAbstractScrollArea, QLineEdit, QSizePolicy, QToolTip
from typing_extensions import override

from cicada.core.editing import Cell
from cicada.core.layer_edits import ChangeLayer
from cicada.core.model import Clip, Keyframe, Layer, Project
from cicada.window import hands, theme
from cicada.window.frames import Frames
from cicada.window.heads_paint import LEVEL_X, TOGGLES
from cicada.window.hover import hover_sentence
from cicada.window.mix_row import MixRow
from cicada.window.narrow import RowWaves
from cicada.window.pending import gone_and_pending, touched
from cicada.window.planning import Planning
from cicada.window.rulers_paint import end_box
from cicada.window.session import Session
from cicada.window.sheet_layout import (
    CLOSEST,
    HEAD,
    MARKS,
    MIX,
    ROW,
    RULER,
    THIN_ROW,
    TOP,
    SheetLayout,
)
from cicada.window.sheet_paint import paint_sheet
from cicada.window.sheet_view import UNITS, Pending, SheetView
from cicada.window.shelf_drag import dragged_files, dragged_sound
from cicada.window.snapping import Snapping, Targets
from cicada.window.sounds import Sounds
from cicada.window.traces import EVERYWHERE, Row, SceneTraces, Stretch, spans

GRIP = 5
FLAG, FLAG_TALL, DIGIT = 38, 18, 7
# Pixels a frame at which a scene can be read at ease.
EASY = 4.6
# Among the rows to be painted anew: the mix below them.
THE_MIX = -1
Keys = Qt.KeyboardModifier


@lru_cache(maxsize=256)
def _flag(number: str, width: int, ratio: float, ink: int) -> QPixmap:
    """The playhead's flag with a number but for its last digit.

    Drawing letters costs more than all else of a step, so each is drawn once, and a flag put
    together once for ten frames.
    """
    flag, painter = _sheer(width, ratio)
    painter.drawPixmap(0, 0, _blank(width, ratio, ink))
    left = (width - (len(number) + 1) * DIGIT) // 2
    for place, letter in enumerate(number):
        painter.drawPixmap(left + place * DIGIT, 0, _digit(letter, ratio, ink))
    painter.end()
    return flag


@lru_cache(maxsize=16)
def _blank(width: int, ratio: float, ink: int) -> QPixmap:
    """A flag with nothing on it."""
    flag, painter = _sheer(width, ratio)
    painter.setPen(theme.NO_PEN)
    painter.setBrush(QColor(ink))
    painter.drawRoundedRect(QRectF(0, 0, width, FLAG_TALL), 4, 4)
    painter.end()
    return flag


@lru_cache(maxsize=64)
def _digit(letter: str, ratio: float, ink: int) -> QPixmap:
    """A digit for a flag of that colour."""
    digit, painter = _sheer(DIGIT, ratio)
    painter.setPen(theme.CARD)
    painter.setFont(theme.font(11.5, 700))
    box = QRectF(0, 0, DIGIT, FLAG_TALL)
    painter.drawText(box, Qt.AlignmentFlag.AlignCenter, letter)
    painter.end()
    return digit


def _sheer(width: int, ratio: float) -> tuple[QPixmap, QPainter]:
    """A pixmap as high as the flag, with nothing on it, and a painter for it."""
    pixmap = QPixmap(round(width * ratio), round(FLAG_TALL * ratio))
    pixmap.setDevicePixelRatio(ratio)
    pixmap.fill(Qt.GlobalColor.transparent)
    painter = QPainter(pixmap)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    return pixmap, painter


class Sheet(QAbstractScrollArea):
    """Draws the plan of the scene shown, and lets it be edited with the mouse."""

    scrubbed = Signal(int)
    sound_dropped = Signal(str, str, int)
    files_dropped = Signal(list, str, int)
    menu_wanted = Signal(QPoint)
    ruler_menu_wanted = Signal(QPoint, int)
    plays_wanted = Signal(QPoint)
    looked_elsewhere = Signal()

    def __init__(
        self,
        session: Session,
        planning: Planning,
        sounds: Sounds,
        frames: Frames,
        mix_row: MixRow,
        snapping: Snapping,
    ) -> None:
        super().__init__()
        self.session, self.planning, self.sounds, self.frames = session, planning, sounds, frames
        self.document, self.mix_row, self.snapping = session.document, mix_row, snapping
        self.place = SheetLayout()
        self.unit = UNITS[0]
        self.opened = False
        self._picture: QPixmap | None = None
        self._traces: SceneTraces | None = None
        self._waves: dict[int, RowWaves] = {}
        self._heights: dict[str, int] = {}
        self._dirty: dict[int, Stretch] = {}
        self._pending: dict[str, list[Pending]] = {}
        self._gone: frozenset[Cell] = frozenset()
        self._unheard = planning.silent
        self._zoomed = False
        self._hand: hands.Hand | None = None
        self._rename: QLineEdit | None = None
        self._shown_playhead = -1
        # Where a sound is tried out, if one is.
        self.trial: Cell | None = None
        self.setFrameShape(QAbstractScrollArea.Shape.NoFrame)
        self.setMinimumHeight(TOP + 2 * ROW + MIX)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Sheet")
        self.setAcceptDrops(True)
        self.viewport().setMouseTracking(True)
        # The sheet paints all of itself, so nothing beneath it need be painted first.
        self.viewport().setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)
        self.viewport().setAcceptDrops(True)
        self.verticalScrollBar().valueChanged.connect(self._scrolled)
        session.scene_changed.connect(self._another_scene)
        session.cell_changed.connect(self.redraw)
        session.shown_sound_changed.connect(self.redraw)
        session.playhead_moved.connect(self._playhead_moved)
        planning.planned.connect(self._new_plan)
        self.document.changed.connect(self.show_edit)
        sounds.changed.connect(self._new_sounds)
        frames.arrived.connect(self.redraw)
        mix_row.changed.connect(self._new_mix)
        mix_row.around = self._looked_at

    # -- what is shown -------------------------------------------------------------------------

    @property
    def traces(self) -> SceneTraces:
        """The geometry on the sheet, worked out when first asked for."""
        if self._traces is None:
            self._traces = self._new_traces()
        return self._traces

    def _new_traces(self) -> SceneTraces:
        planning = self.planning
        project = planning.project
        ids = [scene.id for scene in project.scenes]
        index = ids.index(self.session.scene_id) if self.session.scene_id in ids else 0
        made = SceneTraces(
            project, planning.plan, project.scenes[index], planning.number, opened=self.opened
        )
        self.place.of_frame, self.place.frame_of = made.of_frame, made.frame_at
        self.place.rows = tuple(self._height_of(row) for row in made.rows)
        return made

    def _height_of(self, row: Row) -> int:
        return THIN_ROW if row.layer is None else self._heights.get(row.layer.id, ROW)

    def set_height(self, layer: str, height: int) -> None:
        """Give a layer's row another height."""
        self._heights[layer] = height
        self.place.rows = tuple(self._height_of(row) for row in self.traces.rows)
        self._set_scroll_bars()
        self.redraw()

    @property
    def length(self) -> float:
        """How long the scene is, in places."""
        return self.traces.of_frame(self.traces.scene.length)

    def show_edit(self, old: Project, new: Project) -> None:
        """Show at once what was put where; what will sound follows with the plan."""
        if self._traces is None or self._picture is None:
            return
        rows = gone_and_pending(old, new, self.session.scene_id, self._traces.names)
        if rows is None:
            return
        self._gone, self._pending = rows
        for layer in {cell.layer for cell in self._gone} | set(self._pending):
            number = self._traces.row_of(layer)
            if number is not None:
                self._soil(number, touched(self._traces, number, self._gone, self._pending[layer]))
        self.viewport().update()

    def _soil(self, number: int, stretch: Stretch) -> None:
        """Have a stretch of a row painted anew."""
        low, high = self._dirty.get(number, stretch)
        self._dirty[number] = (min(low, stretch[0]), max(high, stretch[1]))

    def _new_plan(self) -> None:
        before, self._traces = self._traces, None
        now = self.traces
        marked = {
            layer: touched(before, number, self._gone, self._pending.get(layer, []))
            for layer in {cell.layer for cell in self._gone} | set(self._pending)
            if before is not None and (number := before.row_of(layer)) is not None
        }
        self._gone, self._pending = frozenset(), {}
        unheard, self._unheard = self._unheard, self.planning.silent
        if (
            unheard != self.planning.silent
            or before is None
            or self._picture is None
            or not self._same_ground(before, now)
        ):
            self._waves.clear()
            self._set_scroll_bars()
            self.redraw()
            return
        waves: dict[int, RowWaves] = {}
        for number, _, _ in self.place.rows_in_sight():
            row, old = now.rows[number], before.rows[number]
            changed = row.changed_from(old)
            if changed is None:
                row.take_over(old)
                if id(old) in self._waves:
                    waves[id(row)] = self._waves[id(old)]
            else:
                self._soil(number, changed)
            if row.layer is not None and row.layer.id in marked:
                self._soil(number, marked[row.layer.id])
        if before.ties != now.ties:
            for number, _, _ in self.place.rows_in_sight():
                self._soil(number, EVERYWHERE)
        self._waves = waves
        self.viewport().update()

    def _same_ground(self, before: SceneTraces, now: SceneTraces) -> bool:
        """Whether nothing but rows can differ."""
        old, new = before.scene, now.scene
        if (before.axis is None) != (now.axis is None) or before.number != now.number:
            return False
        same_axis = before.axis is None or (now.axis is not None and before.axis.same_as(now.axis))
        return (
            same_axis
            and old.id == new.id
            and (old.length, old.marks, old.press_points, old.tempo, old.master, old.picture)
            == (new.length, new.marks, new.press_points, new.tempo, new.master, new.picture)
            and [row.name for row in before.rows] == [row.name for row in now.rows]
            and before.project.plays == now.project.plays
            and before.project.first_frame == now.project.first_frame
            and before.names == now.names
        )

    def _new_sounds(self) -> None:
        self._waves.clear()
        self.redraw()

    def _new_mix(self) -> None:
        self._soil(THE_MIX, EVERYWHERE)
        self.viewport().update()

    def _looked_at(self) -> int:
        axis = self.traces.axis
        return 0 if axis is None else axis.sample(self.place.left)

    def _another_scene(self) -> None:
        self._traces = None
        self._zoomed = False
        self._fit_unless_zoomed()
        self.redraw()

    def open_waits(self, *, on: bool) -> None:
        """Give standstills their true width, or none."""
        self.opened = on
        self._traces = None
        self._waves.clear()
        self._fit_unless_zoomed()
        self._set_scroll_bars()
        self.redraw()

    def show_unit(self, unit: str) -> None:
        """Let the upper ruler count seconds, timecode or beats."""
        self.unit = unit
        self.redraw()

    def redraw(self) -> None:
        """Paint everything anew at the next chance."""
        self._picture = None
        self._dirty.clear()
        self.viewport().update()

    # -- zoom and scroll -----------------------------------------------------------------------

    def fit(self) -> None:
        """Show the whole scene."""
        width = self.viewport().width() - HEAD
        self.place.scale = max(0.001, width * 0.985 / self.length)
        self.place.left = 0.0
        self._set_scroll_bars()
        self.redraw()

    def show_places(self, first: float, last: float) -> None:
        """Show a stretch of the axis from edge to edge."""
        self._zoomed = True
        width = self.viewport().width() - HEAD
        self.place.scale = min(CLOSEST, width / max(1e-6, last - first))
        self.place.left = first
        self._set_scroll_bars()
        self.redraw()

    def fit_chosen(self) -> None:
        """Show what is chosen as large as it goes: the chosen soundings from start to end."""
        found = [
            (float(row.starts[index]), float(row.ends[index]))
            for row in self.traces.rows
            for index, voice in enumerate(row.voices)
            if (voice.layer, voice.frame) in self.session.chosen
        ]
        if not found and self.session.cell is not None:
            at = self.traces.of_frame(self.session.cell.frame)
            found = [(at, at + 24)]
        if found:
            first, last = min(a for a, _ in found), max(b for _, b in found)
            room = 0.05 * max(1e-3, last - first)
            self.show_places(first - room, last + room)

    def _fit_unless_zoomed(self) -> None:
        """Until somebody zooms, a scene is shown whole, or as much as is easy to read."""
        if not self._zoomed and self.viewport().width() > HEAD + 50:
            self.fit()
            self.place.scale = max(EASY, self.place.scale)
            self._set_scroll_bars()

    def zoom(self, factor: float, x: float | None = None) -> None:
        """Zoom about a pixel column, or the playhead."""
        self._zoomed = True
        about = self.place.frame_x(self.session.playhead) if x is None else x
        least = (self.viewport().width() - HEAD) * 0.5 / self.length
        self.place.zoom(factor, max(about, HEAD), least=min(least, 1.0))
        self._set_scroll_bars()
        self.redraw()

    def scroll_to(self, place: float) -> None:
        """Put a place at the left edge."""
        self._zoomed = True
        self.place.left = place
        self._set_scroll_bars()
        self.redraw()

    def _set_scroll_bars(self) -> None:
        width = self.viewport().width()
        self.place.height = self.viewport().height()
        tall = sum(self.place.rows) if self.traces else 0
        self.place.keep_inside(self.length, width)
        down = self.verticalScrollBar()
        room = self.place.foot - TOP
        down.setRange(0, max(0, tall - room))
        down.setPageStep(max(1, room))
        self.looked_elsewhere.emit()

    def _scrolled(self) -> None:
        self.place.top = self.verticalScrollBar().value()
        self.redraw()

    def show_frame(self, frame: int) -> None:
        """Scroll so that a frame can be seen."""
        x = self.place.frame_x(frame)
        if not HEAD <= x <= self.viewport().width() - 20:
            shown = (self.viewport().width() - HEAD) / self.place.scale
            self.place.left = self.traces.of_frame(frame) - 0.15 * shown
            self._set_scroll_bars()
            self.redraw()

    def show_row(self, layer: str) -> None:
        """Scroll so that a layer can be seen."""
        row = self.traces.row_of(layer)
        if row is None:
            return
        down, top = self.verticalScrollBar(), sum(self.place.rows[:row])
        room = self.place.foot - TOP
        if top < down.value():
            down.setValue(top)
        elif top + self.place.rows[row] > down.value() + room:
            down.setValue(top + self.place.rows[row] - room)

    # -- painting ------------------------------------------------------------------------------

    @override
    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self.place.height = self.viewport().height()
        self._fit_unless_zoomed()
        self._set_scroll_bars()
        self.redraw()

    @override
    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self.viewport())
        self.paint_area(painter, cast("Iterable[QRect]", event.region()))
        if self._hand is not None:
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            self._hand.paint(painter)

    def paint_area(self, painter: QPainter, area: Iterable[QRect]) -> None:
        """Paint a part of the sheet from the picture of it, and the playhead over that."""
        picture = self._painted()
        ratio = picture.devicePixelRatio()
        for part in area:
            if ratio == 1:
                painter.drawPixmap(part.topLeft(), picture, part)
            else:
                source = QRectF(
                    part.x() * ratio, part.y() * ratio, part.width() * ratio, part.height() * ratio
                )
                painter.drawPixmap(QRectF(part), picture, source)
        self._paint_playhead(painter)

    def _painted(self) -> QPixmap:
        """The picture of the sheet as it is, mended where it is out of date."""
        port = self.viewport()
        ratio = port.devicePixelRatioF()
        picture, rows = self._picture, None
        if picture is not None:
            if not self._dirty:
                return picture
            rows = dict(self._dirty)
        else:
            picture = QPixmap(round(port.width() * ratio), round(port.height() * ratio))
            picture.setDevicePixelRatio(ratio)
        traces = self.traces
        painter = QPainter(picture)
        view = SheetView(
            self.planning.project, traces, self.place, self.sounds, self._waves_of, self._film,
            self.mix_row.mix, port.width(), port.height(), self.unit, self.session.cell,
            self.session.chosen, self.trial, self.session.shown_sound, self.planning.silent,
            self._pending, self._gone,
        )  # fmt: skip
        paint_sheet(painter, view, rows)
        painter.end()
        self._picture = picture
        self._dirty.clear()
        return picture

    def _waves_of(self, row: Row) -> RowWaves:
        waves = self._waves.get(id(row))
        if waves is None:
            waves = self._waves[id(row)] = RowWaves(len(row.voices))
        return waves

    def _film(self, frame: int, height: int) -> QImage | None:
        path = self.frames.path(self.traces.scene, self.document.file, frame)
        return None if path is None else self.frames.picture(path, height)

    def step_area(self, before: int, after: int) -> list[QRect]:
        """The pixels to be painted anew where the playhead goes from one frame to another."""
        low, high = sorted(round(self.place.frame_x(frame)) for frame in (before, after))
        top, half = MARKS + 20, FLAG // 2
        below = top + FLAG_TALL
        tall = self.place.height - below
        if high - low <= FLAG:
            flags = QRect(low - half, top, FLAG + high - low, FLAG_TALL)
            return [flags, QRect(low, below, high - low + 1, tall)]
        return [
            part
            for x in (low, high)
            for part in (QRect(x - half, top, FLAG, FLAG_TALL), QRect(x, below, 1, tall))
        ]

    def _playhead_moved(self) -> None:
        for part in self.step_area(self._shown_playhead, self.session.playhead):
            self.viewport().update(part)

    def _paint_playhead(self, painter: QPainter) -> None:
        frame = self.session.playhead
        self._shown_playhead = frame
        x = round(self.place.frame_x(frame))
        if x < HEAD:
            return
        top = MARKS + 20
        painter.fillRect(x, top, 1, self.place.height - top, theme.INK)
        number = str(frame + self.document.project.first_frame)
        ratio, ink = self.devicePixelRatioF(), theme.INK.rgb()
        wide = max(FLAG, len(number) * DIGIT + 10)
        left = x - wide // 2
        painter.drawPixmap(left, top, _flag(number[:-1], wide, ratio, ink))
        last = left + (wide + len(number) * DIGIT) // 2 - DIGIT
        painter.drawPixmap(last, top, _digit(number[-1], ratio, ink))

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
        found = self.voice_at(point)
        if found is None:
            return None
        voice = found[0].voices[found[1]]
        return by_frame.get(voice.frame) if voice.layer == layer.id else None

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
        for keyframe, end in spans(self.session.scene, layer):
            near = abs(self.place.frame_x(end) - point.x()) <= GRIP
            if near and isinstance(keyframe, Clip):
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
        return Targets(self.snapping, self.traces, self.sounds, self.session.playhead, moved)

    # -- hands ---------------------------------------------------------------------------------

    @override
    def mousePressEvent(self, event: QMouseEvent) -> None:
        if event.button() != Qt.MouseButton.LeftButton:
            return
        point, keys = event.position(), event.modifiers()
        if point.x() < HEAD:
            self._hand = self._press_head(point)
        elif point.y() < TOP:
            self._hand = self._press_rulers(point)
        elif point.y() < self.place.foot:
            self._hand = self._press_rows(point, keys)
        else:
            self._hand = hands.Scrub(self, point)

    def _press_rulers(self, point: QPointF) -> hands.Hand | None:
        scene, project = self.session.scene, self.document.project
        last = project.scenes[-1].id == scene.id
        if last and end_box(self.place, scene.length).contains(point):
            below = QPoint(round(point.x()), MARKS + 22)
            self.plays_wanted.emit(self.viewport().mapToGlobal(below))
            return None
        flag = self._on_ruler_at(point)
        if flag is not None:
            return hands.OnRuler(self, point, flag[0], press=flag[1])
        return hands.Scrub(self, point)

    def _press_rows(self, point: QPointF, keys: Keys) -> hands.Hand | None:
        span, cell = self._span_end_at(point), self.cell_at(point)
        layer = self.layer_at(point.y())
        if span is not None and not keys & Keys.ControlModifier:
            self.session.choose(span)
            return hands.SpanEnd(self, point, span)
        if cell is None or layer is None or self.keyframe_at(point) is None:
            return hands.Marquee(self, point, cell, keys)
        if keys & Keys.ShiftModifier:
            self._choose_range(cell)
            return None
        if keys & Keys.ControlModifier and cell not in self.session.chosen:
            self.session.choose_also(cell)
        elif cell not in self.session.chosen:
            self.session.choose(cell)
        if layer.guarded:
            return None
        return hands.Move(self, point, cell)

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
            still = isinstance(hand, hands.Move) and not hand.moved
            if still and not event.modifiers() & Keys.ControlModifier:
                self.session.choose(self.cell_at(event.position()))
            self.viewport().update()

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
        elif point.x() >= HEAD and point.y() >= TOP:
            layer = self.layer_at(point.y())
            if self._span_end_at(point) is not None:
                shape = Qt.CursorShape.SplitHCursor
            elif layer is not None and not layer.guarded and self.keyframe_at(point) is not None:
                shape = Qt.CursorShape.OpenHandCursor
        elif self._on_ruler_at(point) is not None:
            shape = Qt.CursorShape.OpenHandCursor
        self.viewport().setCursor(shape)

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
        if point.x() < HEAD and layer is not None and point.x() < LEVEL_X - 8:
            self.rename_layer(layer)
        elif point.x() < HEAD and layer is not None:
            self.document.do(ChangeLayer(layer=layer.id, changes={"level": 1.0}))
        elif point.y() < MARKS and point.x() >= HEAD:
            where = self.viewport().mapToGlobal(QPoint(round(point.x()), MARKS))
            self.ruler_menu_wanted.emit(where, self.frame_at(point.x()))

    def rename_layer(self, layer: Layer) -> None:
        """Let the layer's name be typed in place."""
        row = self.traces.row_of(layer.id)
        if row is None:
            return
        self.show_row(layer.id)
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
                self.setFocus()

        field.editingFinished.connect(finish)
        field.selectAll()
        field.show()
        field.setFocus()

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
        self._hand = hands.Dropping(self, dragged_sound(event.mimeData()) or "")
        self.dragMoveEvent(event)

    @override
    def dragMoveEvent(self, event: QDragMoveEvent) -> None:
        point = event.position()
        known = dragged_sound(event.mimeData()) or dragged_files(event.mimeData())
        inside = point.x() >= HEAD and point.y() >= RULER
        if not known or not inside or not isinstance(self._hand, hands.Dropping):
            self.let_go()
            event.ignore()
            return
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
        else:
            self.files_dropped.emit(dragged_files(event.mimeData()), layer, frame)
