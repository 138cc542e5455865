"""What the sheet stands on: the scene shown on its axis, its rows, and what of them is in sight."""

from typing import Literal

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QAbstractScrollArea, QSizePolicy

from cicada.window.drawing.layout import (
    CLIP_OPEN,
    CLOSEST,
    HEAD,
    LINE_OPEN,
    MIX,
    ROW,
    TALL_ROW,
    THIN_ROW,
    TOP,
    SheetLayout,
)
from cicada.window.drawing.traces import Row, SceneTraces
from cicada.window.drawing.view import UNITS
from cicada.window.state.planning import Planning
from cicada.window.state.session import Session

# Pixels a frame at which a scene can be read at ease.
EASY = 4.6


class Ground(QAbstractScrollArea):
    """The traces of a scene at a zoom; whoever draws them overrides ``redraw``."""

    looked_elsewhere = Signal()

    def __init__(self, session: Session, planning: Planning) -> None:
        super().__init__()
        self.session, self.planning, self.document = session, planning, session.document
        self.place = SheetLayout()
        self.unit = UNITS[0]
        self.waits_open = False
        self._traces: SceneTraces | None = None
        self._heights: dict[str, int] = {}
        # How the scale was come by: fitted as far as is easy to read, whole, or by hand.
        self._fitting: Literal["easy", "whole", "by hand"] = "easy"
        self.setFrameShape(QAbstractScrollArea.Shape.NoFrame)
        self.setMinimumHeight(TOP + ROW + MIX)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.verticalScrollBar().valueChanged.connect(self._scrolled)

    def redraw(self) -> None:
        """Paint everything anew at the next chance."""
        self.viewport().update()

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
            project,
            planning.plan,
            project.scenes[index],
            planning.number,
            opened=self.waits_open,
            inputs=planning.inputs,
        )
        self.place.of_frame, self.place.frame_of = made.of_frame, made.frame_at
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
        height = max(height, self._wanted_for_ways(row.layer.id))
        if opened is None or opened.layer != row.layer.id:
            return height
        return max(height, LINE_OPEN if opened.frame is None else CLIP_OPEN)

    def _wanted_for_ways(self, layer: str) -> int:
        """The room a row needs where ways are compared on it; whoever draws them overrides it."""
        return 0

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

    def next_unit(self) -> None:
        """Let the upper ruler count something else."""
        self.show_unit(UNITS[(UNITS.index(self.unit) + 1) % len(UNITS)])

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
            if voice.cell in self.session.chosen
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
