"""A scene before and after a change of the frame rate, on one axis of seconds."""

from collections.abc import Callable, Sequence
from dataclasses import replace
from typing import NamedTuple

from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QPainter, QPaintEvent, QPen, QWheelEvent
from PySide6.QtWidgets import QWidget
from typing_extensions import override

from cicada.core.frame_rate import Shift
from cicada.core.model import Project
from cicada.core.plan import Plan
from cicada.core.timebase import fps_text
from cicada.window.drawing import theme
from cicada.window.drawing.layout import HEAD, SheetLayout
from cicada.window.drawing.shapes import Shapes
from cicada.window.drawing.traces import SceneTraces
from cicada.window.drawing.view import SheetView

# How high a row is for one of the two, and the ruler above all.
HALF, RULER, GAP = 30, 22, 8
LEFT = Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter
# The least seconds that are shown from edge to edge, and from how many pixels on frames are drawn.
LEAST, FRAME = 0.25, 4.0


class Side(NamedTuple):
    """The film at one of the two rates."""

    project: Project
    plan: Plan


class BeforeAfter(QWidget):
    """Draws each layer twice, above as it is and below as it would be; the wheel zooms."""

    def __init__(self, view: Callable[[], SheetView]) -> None:
        super().__init__()
        self._view = view
        self._scene = ""
        self._sides: tuple[Side, Side] | None = None
        self._shifts: Sequence[Shift] = ()
        self._traces: list[SceneTraces] = []
        # The seconds at the left edge, and how many are shown; 0: the whole scene.
        self._first, self._shown = 0.0, 0.0
        self.setAccessibleName("The scene before and after")

    def show_sides(
        self, scene: str, before: Side | None, after: Side | None, shifts: Sequence[Shift]
    ) -> None:
        """Show a scene at both rates; without one of them it is being planned."""
        if scene != self._scene:
            self._first = self._shown = 0.0
        self._scene, self._shifts = scene, [each for each in shifts if each.scene == scene]
        self._sides = None if before is None or after is None else (before, after)
        self._traces = []
        for side in self._sides or ():
            found = side.project.scene(scene)
            self._traces.append(SceneTraces(side.project, side.plan, found))
        self.setMinimumHeight(self.sizeHint().height())
        self.update()

    def look_at(self, shift: Shift) -> None:
        """Show one shift so large that the frames of both rates can be told apart."""
        if self._sides is None:
            return
        base = self._sides[0].project.timebase
        self._shown = max(LEAST, 8 / base.fps)
        self._first = max(0.0, base.seconds(shift.before) - self._shown / 3)
        self.update()

    @override
    def sizeHint(self) -> QSize:
        rows = len(self._traces[0].scene.layers) if self._traces else 1
        return QSize(700, RULER + max(1, rows) * (2 * HALF + GAP) + 4)

    def _seconds(self) -> float:
        """How long the longer of the two is."""
        assert self._sides is not None
        return max(
            side.project.timebase.seconds(side.project.scene(self._scene).length)
            for side in self._sides
        )

    @property
    def _scale(self) -> float:
        """Pixels a second."""
        return (self.width() - HEAD - 12) / (self._shown or self._seconds())

    def _x(self, seconds: float) -> float:
        return HEAD + (seconds - self._first) * self._scale

    @override
    def wheelEvent(self, event: QWheelEvent) -> None:
        if self._sides is None:
            return
        whole = self._seconds()
        under = self._first + (event.position().x() - HEAD) / self._scale
        shown = (self._shown or whole) / 1.25 ** (event.angleDelta().y() / 120)
        share = (under - self._first) / (self._shown or whole)
        self._shown = 0.0 if shown >= whole else max(LEAST, shown)
        now = self._shown or whole
        self._first = max(0.0, min(under - share * now, whole - now))
        self.update()
        event.accept()

    # -- painting ------------------------------------------------------------------------------

    @override
    def paintEvent(self, event: QPaintEvent) -> None:
        p = QPainter(self)
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        p.fillRect(self.rect(), theme.PAPER)
        if self._sides is None:
            p.setPen(theme.INK_SOFT)
            p.setFont(theme.font(13))
            p.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter, "being planned …")
            return
        views = [self._view_of(index) for index in range(2)]
        for number, layer in enumerate(self._traces[0].scene.layers):
            top = RULER + number * (2 * HALF + GAP)
            for index, view in enumerate(views):
                self._paint_row(p, view, index, number, top + index * HALF)
            self._paint_shifts(p, layer.id, top)
            p.setFont(theme.font(12, 600))
            p.setPen(theme.INK)
            name = p.fontMetrics().elidedText(layer.label, Qt.TextElideMode.ElideRight, HEAD - 70)
            p.drawText(QRectF(10, top + HALF - 10, HEAD - 60, 20), LEFT, name)
            p.setFont(theme.font(10))
            p.setPen(theme.INK_SOFT)
            for index, side in enumerate(self._sides):
                box = QRectF(HEAD - 66, top + index * HALF, 60, HALF)
                right = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
                p.drawText(box, right, f"{fps_text(side.project.fps)} fps")
        self._paint_ruler(p)

    def _view_of(self, index: int) -> SheetView:
        assert self._sides is not None
        side, traces = self._sides[index], self._traces[index]
        layout = SheetLayout(
            scale=self._scale / side.project.timebase.fps,
            left=self._first * side.project.timebase.fps,
            of_frame=traces.of_frame,
            frame_of=traces.frame_at,
        )
        return replace(
            self._view(), project=side.project, traces=traces, layout=layout, width=self.width(),
            cell=None, chosen=frozenset(), shown_sound=None, pending={}, opened=None, ways=None,
        )  # fmt: skip

    def _paint_row(self, p: QPainter, view: SheetView, index: int, number: int, top: int) -> None:
        wide = self.width() - HEAD
        p.save()
        p.setClipRect(QRectF(HEAD, top, wide, HALF))
        p.fillRect(QRectF(HEAD, top, wide, HALF), theme.ROW if index == 0 else theme.CARD)
        base = view.base
        if self._scale / base.fps >= FRAME:
            p.setPen(theme.rule_pen(theme.RULE_STRONG))
            first, last = base.fps * self._first, base.fps * (self._first + wide / self._scale)
            for frame in range(int(first), int(last) + 2):
                x = view.layout.x(frame)
                p.drawLine(QPointF(x, top), QPointF(x, top + HALF))
        rows = view.traces.rows
        shapes = Shapes(p, view, rows[number], top, HALF)
        for bar in rows[number].bars:
            shapes.bar(bar)
        for each in rows[number].traces:
            shapes.trace(each)
        p.restore()
        p.fillRect(QRectF(HEAD, top + HALF - 1, wide, 1), theme.RULE)

    def _paint_shifts(self, p: QPainter, layer: str, top: int) -> None:
        """From where each keyframe stood to where it comes to stand."""
        assert self._sides is not None
        before, after = (side.project.timebase for side in self._sides)
        p.save()
        p.setClipRect(QRectF(HEAD, top, self.width() - HEAD, 2 * HALF))
        for shift in self._shifts:
            if shift.layer == layer and (shift.late or shift.delay):
                a, b = self._x(before.seconds(shift.before)), self._x(after.seconds(shift.after))
                p.setPen(QPen(theme.OCHRE, 2 if shift.pushed else 1.2))
                p.drawLine(QPointF(a, top + 4), QPointF(a, top + HALF - 5))
                p.drawLine(QPointF(a, top + HALF - 5), QPointF(b, top + HALF + 5))
                p.drawLine(QPointF(b, top + HALF + 5), QPointF(b, top + 2 * HALF - 4))
        p.restore()

    def _paint_ruler(self, p: QPainter) -> None:
        p.setFont(theme.font(11))
        shown = self._shown or self._seconds()
        step = next(x for x in (0.05, 0.1, 0.25, 0.5, 1, 2, 5, 10, 30, 60, 300, 3600, 1e9)
                    if x * self._scale >= 70)  # fmt: skip
        number = int(self._first / step)
        while number * step <= self._first + shown:
            x = self._x(number * step)
            if x >= HEAD:
                p.fillRect(QRectF(x, 4, 1, RULER - 4), theme.RULE_STRONG)
                p.setPen(theme.INK_SOFT)
                p.drawText(QRectF(x + 4, 2, 70, RULER - 4), LEFT, f"{number * step:g} s")
            number += 1
