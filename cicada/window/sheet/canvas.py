"""The sheet's drawing: the plan of a scene, painted once into a pixmap that is mended.

After an edit only what differs is painted anew: at once with what was put there in outline, and
when the new plan is there with what sounds. The playhead moves over the pixmap.
"""

from collections.abc import Iterable
from typing import cast

from PySide6.QtCore import QRect, QRectF, Qt, Signal
from PySide6.QtGui import QImage, QPainter, QPaintEvent, QPixmap, QResizeEvent
from typing_extensions import override

from cicada.core.editing import Cell
from cicada.core.model import Project
from cicada.core.values import Line
from cicada.window.drawing import theme
from cicada.window.drawing.draw_lane import DrawLane
from cicada.window.drawing.growing import Growing, extent, paint_growing
from cicada.window.drawing.lanes import Lane
from cicada.window.drawing.layout import HEAD, MARKS, MIX, MIX_OPEN
from cicada.window.drawing.narrow import RowWaves
from cicada.window.drawing.open_clip import Openable, OpenClip, OpenLine
from cicada.window.drawing.paint import paint_sheet
from cicada.window.drawing.pending import gone_and_pending, touched
from cicada.window.drawing.playhead import FLAG, FLAG_TALL, paint_flag
from cicada.window.drawing.sound_pictures import SoundPictures
from cicada.window.drawing.traces import EVERYWHERE, Extent, Row, SceneTraces
from cicada.window.drawing.value_lane import ValueLane
from cicada.window.drawing.view import Pending, SheetView
from cicada.window.drawing.way_lanes import WayLanes
from cicada.window.playing.trying import Trying
from cicada.window.sheet.compared import Compared
from cicada.window.sheet.ground import Ground
from cicada.window.sheet.mix_row import MixRow
from cicada.window.sheet.snapping import Snapping
from cicada.window.sheet.under import Under
from cicada.window.state.conditions import Conditions
from cicada.window.state.frames import Frames, Urgency
from cicada.window.state.hits import Hits
from cicada.window.state.planning import Planning
from cicada.window.state.session import Opened, Session
from cicada.window.state.sounds import Sounds
from cicada.window.state.ways import Ways
from cicada.window.widgets.fields import NameField

# Among the rows to be painted anew: the mix below them.
THE_MIX = -1


class SheetCanvas(Ground):
    """Draws the plan of the scene shown; what hands are at is said by its signals."""

    scrubbed = Signal(int)
    let_go_of_playhead = Signal()
    stepped = Signal(int)
    range_marked = Signal(int, int)

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
        self.ways, self._compared = ways, Compared(ways)
        super().__init__(session, planning)
        self.conditions, self.trying = conditions, trying
        self.sounds, self.pictures, self.frames = sounds, pictures, frames
        self.mix_row, self.hits, self.snapping = mix_row, hits, snapping
        self.under = Under(self)
        # What is being typed in place, if anything is.
        self.name_field: NameField | None = None
        self._picture: QPixmap | None = None
        self._waves: dict[int, RowWaves] = {}
        self._dirty: dict[int, Extent] = {}
        self._pending: dict[str, list[Pending]] = {}
        self._gone: frozenset[Cell] = frozenset()
        self._unheard = planning.silent
        self._shown_playhead = -1
        # A take that is being recorded.
        self._growing: Growing | None = None
        # The points chosen of what is opened, by the name of their line.
        self.points: dict[str, frozenset[int]] = {}
        self._opened: Openable | None = None
        # The draw time under a hand that draws it.
        self._drawn: list[float] | None = None
        # The line of a value, likewise.
        self._drawn_line: Line | None = None
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Sheet")
        # The sheet paints all of itself, so nothing beneath it need be painted first.
        self.viewport().setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)
        for signal in (
            session.cell_changed, session.shown_sound_changed, trying.changed, hits.changed,
            frames.forgotten,
        ):  # fmt: skip
            signal.connect(self.redraw)
        self._drawn_range = self._range_now()
        conditions.range_changed.connect(self._keep_range)
        conditions.changed.connect(self._keep_range)
        conditions.drawing_changed.connect(self._open)
        conditions.tolerance_changed.connect(self.redraw)
        session.scene_changed.connect(self._another_scene)
        session.opened_changed.connect(self._open)
        ways.changed.connect(self._show_ways)
        session.playhead_moved.connect(self._playhead_moved)
        session.gone_to.connect(self.show_frame)
        planning.planned.connect(self._new_plan)
        self.document.changed.connect(self.show_edit)
        sounds.changed.connect(self._new_sounds)
        frames.arrived.connect(self._new_picture)
        mix_row.changed.connect(self._new_mix)
        mix_row.around = self._looked_at

    def _range_now(self) -> tuple[tuple[int, int] | None, bool]:
        return self.range, self.conditions.scope == "range"

    def _keep_range(self) -> None:
        """Playing on plans more of the film and changes nothing of the range."""
        if self._range_now() != self._drawn_range:
            self._drawn_range = self._range_now()
            self.redraw()

    @override
    def _new_traces(self) -> SceneTraces:
        # What is kept of a row is known by the row, which is another one now.
        self._waves, self._opened = {}, None
        return super()._new_traces()

    @property
    def range(self) -> tuple[int, int] | None:
        """The frames of the scene shown that are marked to be played."""
        marked = self.conditions.range
        if marked is None or marked.scene != self.session.scene_id:
            return None
        return marked.first, marked.last

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
        if opened is not None:
            self.ways.close_all()
        below = self.conditions.drawing or (opened is not None and not opened.layer)
        self.place.mix = MIX_OPEN if below else MIX
        self._share_height(self.traces)
        self._set_scroll_bars()
        if opened is not None and opened.layer:
            self.show_row(opened.layer)
        self.redraw()

    def show_drawing(self, times: list[float] | None) -> None:
        """Show a draw time that is being drawn; None: the one there is."""
        self._drawn = times
        self._soil(THE_MIX, EVERYWHERE)
        self.viewport().update()

    @property
    def draw_lane(self) -> DrawLane | None:
        """Where the draw time is drawn, while it is."""
        if not self.conditions.drawing:
            return None
        times = self._drawn or self.conditions.times_of(self.session.scene)
        return DrawLane(self.place, times, 1 / self.document.project.timebase.fps)

    def show_value_line(self, line: Line | None) -> None:
        """Show a value's line that is being drawn; None: the one there is."""
        self._drawn_line = line
        self._soil(THE_MIX, EVERYWHERE)
        self.viewport().update()

    @property
    def value_lane(self) -> ValueLane | None:
        """Where a value's line is drawn, while it is."""
        wanted = self.conditions.drawn_value
        value = next((v for v in self.document.project.values if v.id == wanted), None)
        if value is None:
            return None
        line = self._drawn_line
        if line is None:
            line = self.session.scene.value_lines.get(value.id, ())
        return ValueLane(self.place, value, line)

    # -- ways that are compared ------------------------------------------------------------------

    @override
    def _wanted_for_ways(self, layer: str) -> int:
        return self._compared.height(layer)

    def _show_ways(self) -> None:
        """Give the ways that are compared their room."""
        self._compared.forget()
        if self.waits_open and self.ways.cell is not None:
            # Each way has waits of its own, so frames have one width in all of them.
            self.open_waits(on=False)
        self._share_height(self.traces)
        self._set_scroll_bars()
        if self.ways.cell is not None:
            self.show_row(self.ways.cell.layer)
        self.redraw()

    @override
    def open_waits(self, *, on: bool) -> None:
        if on:
            self.ways.close_all()
        super().open_waits(on=on)

    @property
    def way_lanes(self) -> WayLanes | None:
        """The ways that are compared, as they are drawn now."""
        cell = self.ways.cell
        row = None if cell is None else self.traces.row_of(cell.layer)
        return None if row is None else self._compared.lanes(self.place.row_top(row))

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
        opened, compared = self.session.opened, self.ways.cell
        return (opened is not None and opened.layer == layer) or (
            compared is not None and compared.layer == layer
        )

    def _soil(self, number: int, stretch: Extent) -> None:
        """Have a stretch of a row painted anew."""
        low, high = self._dirty.get(number, stretch)
        self._dirty[number] = (min(low, stretch[0]), max(high, stretch[1]))

    def _new_plan(self) -> None:
        before, self._traces = self._traces, None
        self._compared.forget()
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
            and old.value_lines == new.value_lines
            and before.plan.glides == now.plan.glides
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

    def choose_points(self, lane: Lane, indices: frozenset[int]) -> None:
        """Choose points of an opened line."""
        self.points = {lane.name: indices} if indices else {}
        self.redraw()

    @override
    def redraw(self) -> None:
        self._picture = None
        self._opened = None
        self._dirty.clear()
        self.viewport().update()

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
        if self._growing is not None and (at := self._growing_row()) is not None:
            paint_growing(painter, self._growing, self.place, *at)
        self._paint_playhead(painter, line=line)

    def show_growing(self, growing: Growing | None) -> None:
        """Draw a take as it comes in, over its row; None: no more."""
        if growing == self._growing:
            return
        for each in (self._growing, growing):
            self._growing = each
            if each is not None and (at := self._growing_row()) is not None:
                self.viewport().update(extent(each, self.place, *at))

    def _growing_row(self) -> tuple[int, int] | None:
        """The first pixel line and the height of its row, if that is on the sheet."""
        row = None if self._growing is None else self.traces.row_of(self._growing.layer)
        return None if row is None else (self.place.row_top(row), self.place.rows[row])

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
        painter = QPainter(picture)
        paint_sheet(painter, self.view_now(), rows)
        painter.end()
        self._picture = picture
        self._dirty.clear()
        return picture

    def view_now(self) -> SheetView:
        """All the sheet is painted from."""
        port = self.viewport()
        return SheetView(
            project=self.planning.project,
            traces=self.traces,
            layout=self.place,
            sounds=self.sounds,
            pictures=self.pictures,
            waves=self._waves_of,
            film=self._film,
            film_ratio=self.frames.ratio(self.traces.scene),
            mix=self.mix_row.mix,
            width=port.width(),
            height=port.height(),
            unit=self.unit,
            cell=self.session.cell,
            chosen=self.session.chosen,
            trial=self.trying.cell,
            shown_sound=self.session.shown_sound,
            silent=self.planning.silent,
            pending=self._pending,
            gone=self._gone,
            opened=self.opened,
            ways=self.way_lanes,
            tolerance=self.conditions.tolerance,
            drawing=None if (lane := self.draw_lane) is None else lane.times,
            value=None if (drawn := self.value_lane) is None else (drawn.value, drawn.line),
            points=self.points,
            range=self.range,
            range_is_played=self.conditions.scope == "range",
        )

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
        number = str(self.document.project.shown(frame))
        paint_flag(painter, x, top, number, self.devicePixelRatioF())
