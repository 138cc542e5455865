"""The sheet's drawing: the plan of a scene, painted once into a pixmap that is mended.

After an edit only what differs is painted anew: at once with what was put there in outline, and
when the new plan is there with what sounds. The playhead moves over the pixmap.
"""

from collections.abc import Iterable
from typing import Literal, cast

from PySide6.QtCore import QRect, QRectF, Qt, Signal
from PySide6.QtGui import (
    QImage,
    QPainter,
    QPaintEvent,
    QPixmap,
    QResizeEvent,
)
from PySide6.QtWidgets import QAbstractScrollArea, QSizePolicy
from typing_extensions import override

from cicada.core.editing import Cell
from cicada.core.model import Project
from cicada.window.drawing import theme
from cicada.window.drawing.layout import (
    CLIP_OPEN,
    CLOSEST,
    HEAD,
    LINE_OPEN,
    MARKS,
    MIX,
    MIX_OPEN,
    ROW,
    TALL_ROW,
    THIN_ROW,
    TOP,
    SheetLayout,
)
from cicada.window.drawing.narrow import RowWaves
from cicada.window.drawing.open_clip import Openable, OpenClip, OpenLine
from cicada.window.drawing.paint import paint_sheet
from cicada.window.drawing.pending import gone_and_pending, touched
from cicada.window.drawing.playhead import FLAG, FLAG_TALL, paint_flag
from cicada.window.drawing.traces import EVERYWHERE, Row, SceneTraces, Stretch
from cicada.window.drawing.view import UNITS, Pending, SheetView
from cicada.window.sheet.mix_row import MixRow
from cicada.window.state.frames import Frames, Urgency
from cicada.window.state.hits import Hits
from cicada.window.state.planning import Planning
from cicada.window.state.session import Opened, Session
from cicada.window.state.sounds import Sounds

# Pixels a frame at which a scene can be read at ease.
EASY = 4.6
# Among the rows to be painted anew: the mix below them.
THE_MIX = -1


class SheetCanvas(QAbstractScrollArea):
    """Draws the plan of the scene shown, at any zoom."""

    looked_elsewhere = Signal()

    def __init__(
        self,
        session: Session,
        planning: Planning,
        sounds: Sounds,
        frames: Frames,
        mix_row: MixRow,
        hits: Hits,
    ) -> None:
        super().__init__()
        self.hits = hits
        self.session, self.planning, self.sounds, self.frames = session, planning, sounds, frames
        self.document, self.mix_row = session.document, mix_row
        self.place = SheetLayout()
        self.unit = UNITS[0]
        self.waits_open = False
        self._picture: QPixmap | None = None
        self._traces: SceneTraces | None = None
        self._waves: dict[int, RowWaves] = {}
        self._heights: dict[str, int] = {}
        self._dirty: dict[int, Stretch] = {}
        self._pending: dict[str, list[Pending]] = {}
        self._gone: frozenset[Cell] = frozenset()
        self._unheard = planning.silent
        # How the scale was come by: fitted as far as is easy to read, whole, or by hand.
        self._fitting: Literal["easy", "whole", "by hand"] = "easy"
        self._shown_playhead = -1
        # Where a sound is tried out, if one is.
        self.trial: Cell | None = None
        # The frames marked to be played, and whether they are what is played.
        self.range: tuple[int, int] | None = None
        self.range_is_played = False
        # The points chosen of what is opened, by the name of their line.
        self.points: dict[str, frozenset[int]] = {}
        self._opened: Openable | None = None
        self.setFrameShape(QAbstractScrollArea.Shape.NoFrame)
        self.setMinimumHeight(TOP + ROW + MIX)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Sheet")
        # The sheet paints all of itself, so nothing beneath it need be painted first.
        self.viewport().setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)
        self.verticalScrollBar().valueChanged.connect(self._scrolled)
        session.scene_changed.connect(self._another_scene)
        session.cell_changed.connect(self.redraw)
        session.shown_sound_changed.connect(self.redraw)
        session.opened_changed.connect(self._open)
        session.playhead_moved.connect(self._playhead_moved)
        planning.planned.connect(self._new_plan)
        self.document.changed.connect(self.show_edit)
        sounds.changed.connect(self._new_sounds)
        hits.changed.connect(self.redraw)
        frames.arrived.connect(self._new_picture)
        frames.forgotten.connect(self.redraw)
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
        # What is kept of a row is known by the row, which is another one now.
        self._waves = {}
        made = SceneTraces(
            project, planning.plan, project.scenes[index], planning.number, opened=self.waits_open
        )
        self.place.of_frame, self.place.frame_of = made.of_frame, made.frame_at
        self._opened = None
        self._share_height(made)
        return made

    def _share_height(self, traces: SceneTraces) -> None:
        """Give every row its height: more than the usual one where the window is tall."""
        room = self.place.foot - TOP
        usual = max(ROW, min(TALL_ROW, room // max(1, len(traces.rows))))
        self.place.rows = tuple(self._height_of(row, usual) for row in traces.rows)

    def _height_of(self, row: Row, usual: int) -> int:
        if row.layer is None:
            return THIN_ROW
        height, opened = self._heights.get(row.layer.id, usual), self.session.opened
        if opened is None or opened.layer != row.layer.id:
            return height
        return max(height, LINE_OPEN if opened.frame is None else CLIP_OPEN)

    # -- what is opened ------------------------------------------------------------------------

    @property
    def opened(self) -> Openable | None:
        """What is opened to be shaped, as it is drawn now."""
        if self._opened is None and self.session.opened is not None:
            self._opened = self._now_open(self.session.opened)
        return self._opened

    def _now_open(self, wanted: Opened) -> Openable | None:
        traces = self.traces
        found = wanted.within(traces.project, traces.scene.id)
        if found is None or traces.scene.id != self.session.scene_id:
            return None
        width = self.viewport().width()
        if not found.layer:
            return OpenLine(traces, self.place, None, width)
        row = traces.row_of(found.layer)
        if row is None:
            return None
        if found.frame is None:
            return OpenLine(traces, self.place, traces.rows[row].layer, width)
        cell = Cell(found.layer, found.frame)
        return OpenClip(traces, self.place, row, cell, self.hits.of(found.sound), width)

    def _open(self) -> None:
        """Give what is opened its room."""
        self.points = {}
        self._opened = None
        opened = self.session.opened
        self.place.mix = MIX_OPEN if opened is not None and not opened.layer else MIX
        self._share_height(self.traces)
        self._set_scroll_bars()
        if opened is not None and opened.layer:
            self.show_row(opened.layer)
        self.redraw()

    def set_height(self, layer: str, height: int) -> None:
        """Give a layer's row another height."""
        self._heights[layer] = height
        self._share_height(self.traces)
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
            if number is not None and self._is_open(layer):
                self._soil(number, EVERYWHERE)
            elif number is not None:
                self._soil(number, touched(self._traces, number, self._gone, self._pending[layer]))
        self.viewport().update()

    def _is_open(self, layer: str) -> bool:
        return self.session.opened is not None and self.session.opened.layer == layer

    def _soil(self, number: int, stretch: Stretch) -> None:
        """Have a stretch of a row painted anew."""
        low, high = self._dirty.get(number, stretch)
        self._dirty[number] = (min(low, stretch[0]), max(high, stretch[1]))

    def _new_plan(self) -> None:
        before, self._traces = self._traces, None
        known = self._waves
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
            self._fit_unless_zoomed()
            self._set_scroll_bars()
            self.redraw()
            return
        for number, _, _ in self.place.rows_in_sight():
            row, old = now.rows[number], before.rows[number]
            changed = row.changed_from(old)
            if row.layer is not None and self._is_open(row.layer.id):
                self._soil(number, EVERYWHERE)
            if changed is None:
                row.take_over(old)
                if id(old) in known:
                    self._waves[id(row)] = known[id(old)]
            else:
                self._soil(number, changed)
            if row.layer is not None and row.layer.id in marked:
                self._soil(number, marked[row.layer.id])
        if before.ties != now.ties:
            for number, _, _ in self.place.rows_in_sight():
                self._soil(number, EVERYWHERE)
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
        self._fitting = "easy"
        self.place.left = 0.0
        self._fit_unless_zoomed()
        self.redraw()

    def open_waits(self, *, on: bool) -> None:
        """Give standstills their true width, or none."""
        self.waits_open = on
        self._traces = None
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
        self._opened = None
        self._dirty.clear()
        self.viewport().update()

    # -- zoom and scroll -----------------------------------------------------------------------

    def fit(self) -> None:
        """Show the whole scene, also when it becomes longer or the window larger."""
        self._fitting = "whole"
        self._fit_unless_zoomed()
        self.redraw()

    def show_places(self, first: float, last: float) -> None:
        """Show a stretch of the axis from edge to edge."""
        self._fitting = "by hand"
        width = self.viewport().width() - HEAD
        self.place.scale = min(CLOSEST, width / max(1e-6, last - first))
        self.place.left = first
        self._set_scroll_bars()
        self.redraw()

    def fit_chosen(self) -> bool:
        """Show what is chosen as large as it goes, from start to end; whether anything is."""
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
        return bool(found)

    def _fit_unless_zoomed(self) -> None:
        """Until somebody zooms, a scene is shown whole, or as much as is easy to read.

        Where it is looked at stays.
        """
        width = self.viewport().width() - HEAD
        if self._fitting == "by hand" or width <= 50:
            return
        scale = max(0.001, width * 0.985 / self.length)
        if self._fitting == "whole":
            self.place.left = 0.0
        self.place.scale = scale if self._fitting == "whole" else max(EASY, scale)
        self._set_scroll_bars()

    def zoom(self, factor: float, x: float | None = None) -> None:
        """Zoom about a pixel column, or the playhead."""
        self._fitting = "by hand"
        about = self.place.frame_x(self.session.playhead) if x is None else x
        least = (self.viewport().width() - HEAD) * 0.5 / self.length
        self.place.zoom(factor, max(about, HEAD), least=min(least, 1.0))
        self._set_scroll_bars()
        self.redraw()

    def scroll_to(self, place: float) -> None:
        """Put a place at the left edge."""
        self._fitting = "by hand"
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
        self._share_height(self.traces)
        self._fit_unless_zoomed()
        self._set_scroll_bars()
        self.redraw()

    @override
    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self.viewport())
        self.paint_area(painter, cast("Iterable[QRect]", event.region()))

    def paint_area(self, painter: QPainter, area: Iterable[QRect]) -> None:
        """Paint a part of the sheet from the picture of it, and the playhead over that."""
        picture = self._painted()
        ratio = picture.devicePixelRatio()
        line = False
        for part in area:
            line = line or part.height() > FLAG_TALL
            if ratio == 1:
                painter.drawPixmap(part.topLeft(), picture, part)
            else:
                source = QRectF(
                    part.x() * ratio, part.y() * ratio, part.width() * ratio, part.height() * ratio
                )
                painter.drawPixmap(QRectF(part), picture, source)
        self._paint_playhead(painter, line=line)

    def _painted(self) -> QPixmap:
        """The picture of the sheet as it is, mended where it is out of date."""
        picture, rows = self._picture, None
        if picture is not None and not self._dirty:
            return picture
        port = self.viewport()
        ratio = port.devicePixelRatioF()
        if picture is not None:
            rows = dict(self._dirty)
        else:
            picture = QPixmap(round(port.width() * ratio), round(port.height() * ratio))
            picture.setDevicePixelRatio(ratio)
        traces = self.traces
        painter = QPainter(picture)
        view = SheetView(
            self.planning.project, traces, self.place, self.sounds, self._waves_of, self._film,
            self.frames.ratio(traces.scene),
            self.mix_row.mix, port.width(), port.height(), self.unit, self.session.cell,
            self.session.chosen, self.trial, self.session.shown_sound, self.planning.silent,
            self._pending, self._gone, self.opened, self.points, self.range, self.range_is_played,
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
        if self.planning.era != self.document.era:
            # The plan is still that of the project before, whose files stand elsewhere.
            return None
        tall = round(height * self.devicePixelRatioF())
        return self.frames.picture(self.traces.scene, frame, tall, Urgency.STRIP)

    def step_area(self, before: int, after: int) -> list[QRect]:
        """The pixels to be painted anew where the playhead goes from one frame to another."""
        low, high = sorted(round(self.place.frame_x(frame)) for frame in (before, after))
        top, half = MARKS + 20, FLAG // 2
        below = top + FLAG_TALL
        tall = self.place.height - below
        if low == high:
            return [QRect(low - half, top, FLAG, FLAG_TALL)]
        if high - low <= FLAG:
            flags = QRect(low - half, top, FLAG + high - low, FLAG_TALL)
            return [flags, QRect(low, below, high - low + 1, tall)]
        return [
            part
            for x in (low, high)
            for part in (QRect(x - half, top, FLAG, FLAG_TALL), QRect(x, below, 1, tall))
        ]

    def _new_picture(self, urgency: int) -> None:
        """A picture was fetched: if it is for the film strip, that is drawn anew."""
        if urgency == Urgency.STRIP:
            self.redraw()

    def _playhead_moved(self) -> None:
        for part in self.step_area(self._shown_playhead, self.session.playhead):
            self.viewport().update(part)

    def _paint_playhead(self, painter: QPainter, *, line: bool) -> None:
        """The playhead's flag, and its line where more than the flag is painted."""
        frame = self.session.playhead
        self._shown_playhead = frame
        x = round(self.place.frame_x(frame))
        if x < HEAD:
            return
        top = MARKS + 20
        if line:
            painter.fillRect(x, top, 1, self.place.height - top, theme.INK)
        number = str(frame + self.document.project.first_frame)
        paint_flag(painter, x, top, number, self.devicePixelRatioF())
