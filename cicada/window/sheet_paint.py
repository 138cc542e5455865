"""Painting the sheet: rulers, film strip, layer heads, and what will sound."""

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from PySide6.QtCore import QLineF, QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QImage, QPainter, QPainterPath, QPen, QPolygonF

from cicada.core.model import Layer, Project
from cicada.core.timebase import Timebase
from cicada.window import theme
from cicada.window.session import Cell
from cicada.window.sheet_layout import FILM, HEAD, MARKS, RULER, TOP, SheetLayout
from cicada.window.sounds import Sounds
from cicada.window.traces import Bar, RowTraces, SceneTraces, Strike, Trace
from cicada.window.waveform import columns_image, trace_columns

AlignLeft = Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter
DASHED, DOTTED = Qt.PenStyle.DashLine, Qt.PenStyle.DotLine
# The three toggles of a layer's head: field, word, left edge.
TOGGLES = (("mute", "mute", 18), ("solo", "solo", 58), ("guarded", "guard", 98))
STEPS = (1, 2, 4, 6, 12, 24, 48, 120, 240, 480, 1200, 2400, 7200, 14400, 72000, 720000)


@dataclass(slots=True)
class SheetView:
    """All the sheet is painted from."""

    project: Project
    traces: SceneTraces
    layout: SheetLayout
    sounds: Sounds
    cell: Cell | None
    film: Callable[[int, int], QImage | None]
    width: int
    height: int
    trial: Cell | None = None
    shown_sound: str | None = None


def paint_sheet(painter: QPainter, view: SheetView) -> None:
    """Paint everything but the playhead."""
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.fillRect(0, 0, view.width, view.height, theme.PAPER)
    _Sheet(painter, view).paint()


class _Sheet:
    def __init__(self, painter: QPainter, view: SheetView) -> None:
        self.p, self.view = painter, view
        self.layout, self.project = view.layout, view.project
        self.scene = view.traces.scene
        num, den = self.project.fps
        self.base = Timebase(num, den, self.project.rate)
        self.end_x = min(float(view.width), self.layout.x(self.scene.length))

    def paint(self) -> None:
        view, p = self.view, self.p
        p.save()
        p.setClipRect(QRectF(0, TOP, view.width, view.height - TOP))
        for index, row in enumerate(view.traces.rows):
            top = self.layout.row_top(index)
            if top < view.height and top + self.layout.rows[index] > TOP:
                self._row(row, top, self.layout.rows[index], index)
        self._press_points()
        p.restore()
        self._rulers()
        self._film()
        p.setPen(QPen(theme.RULE_STRONG, 1))
        p.drawLine(QPointF(HEAD + 0.5, 0), QPointF(HEAD + 0.5, view.height))
        if not view.traces.rows:
            p.setPen(theme.INK_SOFT)
            p.setFont(theme.font(14))
            p.drawText(
                QRectF(HEAD, TOP, view.width - HEAD, 120),
                Qt.AlignmentFlag.AlignCenter,
                "No layers yet. Drop a sound here, or add a layer with Ctrl+L.",
            )

    # -- rulers and film -----------------------------------------------------------------------

    def _major(self) -> int:
        fps = max(1, round(self.base.fps))
        for step in sorted({*STEPS, fps // 2 or 1, fps, 2 * fps, 5 * fps, 10 * fps, 60 * fps}):
            if step * self.layout.scale >= 46:
                return step
        return STEPS[-1]

    def _frames(self, step: int) -> range:
        first = max(0, int(self.layout.left) // step * step)
        last = min(self.scene.length, int(self.layout.place(self.view.width)) + 1)
        return range(first, last, step)

    def _rulers(self) -> None:
        p, view, x = self.p, self.view, self.layout.x
        p.fillRect(QRectF(0, 0, view.width, RULER), theme.CARD)
        p.fillRect(QRectF(self.end_x, 0, view.width - self.end_x, RULER), theme.PAPER)
        p.setFont(theme.font(11))
        p.setPen(theme.INK_SOFT)
        p.drawText(QRectF(18, MARKS + 1, 130, 20), AlignLeft, "seconds")
        p.drawText(QRectF(18, MARKS + 20, 130, 20), AlignLeft, "frames")
        p.save()
        p.setClipRect(QRectF(HEAD, 0, view.width - HEAD, RULER))
        major = self._major()
        minor = next((s for s in (1, 2, 3, 4, 6, 12, 24) if s * self.layout.scale >= 7), major)
        p.setPen(QPen(theme.RULE, 1))
        for frame in self._frames(minor):
            p.drawLine(QPointF(x(frame), RULER - 8), QPointF(x(frame), RULER))
        second = max(1, round(self.base.fps))
        for frame in self._frames(major):
            whole = frame % second == 0
            p.setPen(QPen(theme.RULE_STRONG if whole else theme.RULE, 1))
            p.drawLine(QPointF(x(frame), MARKS + (4 if whole else 22)), QPointF(x(frame), RULER))
            p.setPen(theme.INK)
            p.setFont(theme.font(11.5, 600 if whole else 400))
            text = str(frame + self.project.first_frame)
            p.drawText(QRectF(x(frame) + 4, MARKS + 20, 80, 20), AlignLeft, text)
            if whole:
                p.setPen(theme.INK_SOFT)
                p.setFont(theme.font(11))
                text = f"{self.base.seconds(frame):g} s"
                p.drawText(QRectF(x(frame) + 4, MARKS + 1, 80, 20), AlignLeft, text)
        for mark in self.scene.marks:
            self._mark(mark.frame, mark.text)
        for press in self.scene.press_points:
            left = x(press.frame)
            p.fillRect(QRectF(left - 4, 3, 8, 8), theme.INK)
            p.setPen(QPen(theme.INK, 1.4))
            p.drawLine(QPointF(left, 3), QPointF(left, RULER))
            p.setFont(theme.font(10.5))
            p.drawText(
                QRectF(left + 8, -1, 240, 18),
                AlignLeft,
                f"waits {press.label}" if press.label else "waits for a press",
            )
        p.restore()
        p.setPen(QPen(theme.RULE_STRONG, 1))
        p.drawLine(QPointF(0, 0.5), QPointF(view.width, 0.5))

    def _mark(self, frame: int, text: str) -> None:
        p, left = self.p, self.layout.x(frame)
        p.setFont(theme.font(10.5))
        width = p.fontMetrics().horizontalAdvance(text) + 10
        box = QRectF(left, 1.5, width, 15)
        p.setPen(QPen(theme.INK_SOFT, 1))
        p.setBrush(theme.ROW_OTHER)
        p.drawRect(box)
        p.drawLine(QPointF(left, 1.5), QPointF(left, RULER))
        p.setPen(theme.INK)
        p.drawText(box.adjusted(5, 0, 0, 0), AlignLeft, text)

    def _film(self) -> None:
        p, view = self.p, self.view
        p.fillRect(QRectF(0, RULER, view.width, FILM), theme.PAPER)
        p.setFont(theme.font(11))
        p.setPen(theme.INK_SOFT)
        p.drawText(QRectF(18, RULER, 130, FILM), AlignLeft, "picture")
        p.save()
        p.setClipRect(QRectF(HEAD, RULER, max(0.0, self.end_x - HEAD), FILM))
        if not self.scene.picture:
            p.fillRect(QRectF(HEAD, RULER + 2, self.end_x - HEAD, FILM - 6), theme.ROW_OTHER)
            text = "No picture. Choose a folder of numbered images with Ctrl+P."
            p.drawText(QRectF(HEAD + 12, RULER, 600, FILM - 2), AlignLeft, text)
            p.restore()
            return
        height = FILM - 6
        width = height * 16 / 9
        left = HEAD - (self.layout.left * self.layout.scale) % width
        while left < self.end_x:
            frame = int(max(0.0, self.layout.place(left)))
            box = QRectF(left + 0.5, RULER + 3, width - 1.5, height)
            image = view.film(min(frame, self.scene.length - 1), height)
            if image is None or image.isNull():
                p.fillRect(box, theme.ROW_OTHER)
            else:
                p.drawImage(box, image)
            left += width
        p.restore()

    def _press_points(self) -> None:
        p = self.p
        for press in self.scene.press_points:
            left = self.layout.x(press.frame)
            if left >= HEAD:
                p.setPen(QPen(theme.INK, 1.2))
                p.drawLine(QPointF(left, TOP), QPointF(left, self.view.height))

    # -- rows ----------------------------------------------------------------------------------

    def _row(self, row: RowTraces, top: int, height: int, index: int) -> None:
        p, view = self.p, self.view
        ground = theme.ROW if index % 2 == 0 else theme.ROW_OTHER
        p.fillRect(QRectF(0, top, view.width, height), ground)
        p.fillRect(QRectF(self.end_x, top, view.width - self.end_x, height), theme.PAPER)
        step = self._major()
        second = max(1, round(self.base.fps))
        for frame in self._frames(step):
            strong = frame % second == 0
            p.setPen(QPen(theme.RULE_STRONG if strong else theme.RULE, 1))
            left = self.layout.x(frame)
            p.drawLine(QPointF(left, top), QPointF(left, top + height))
        p.setPen(QPen(theme.RULE_STRONG, 1))
        p.drawLine(QPointF(0, top + height - 0.5), QPointF(view.width, top + height - 0.5))
        self._head(row, top, height, ground)
        p.save()
        p.setClipRect(QRectF(HEAD, top, view.width - HEAD, height), Qt.ClipOperation.IntersectClip)
        pale = row.layer is not None and (row.layer.mute or row.layer.off)
        p.setOpacity(0.45 if pale else 1.0)
        self._chosen_cell(row, top, height)
        for start, end, name in row.off:
            self._off(start, end, name, top, height)
        for bar in row.bars:
            self._bar(bar, top, height)
        for trace in sorted(row.traces, key=lambda trace: trace.voice.visit):
            self._trace(trace, row, top, height)
        for strike in row.strikes:
            self._strike(strike, top, height)
        self._trial(row, top, height)
        p.restore()

    def _head(self, row: RowTraces, top: int, height: int, ground: QColor) -> None:
        p, layer = self.p, row.layer
        p.fillRect(QRectF(0, top, HEAD, height - 1), ground)
        if layer is None:
            p.setFont(theme.font(11.5, italic=True))
            p.setPen(theme.INK_SOFT)
            p.drawText(QRectF(18, top, HEAD - 24, height), AlignLeft, f"from {row.name}")
            return
        p.setFont(theme.font(13, 600))
        p.setPen(theme.INK_SOFT if layer.off else theme.INK)
        name = p.fontMetrics().elidedText(row.name, Qt.TextElideMode.ElideRight, HEAD - 50)
        p.drawText(QRectF(18, top + 6, HEAD - 40, 22), AlignLeft, name)
        for field, word, left in TOGGLES:
            on = bool(getattr(layer, field))
            p.setFont(theme.font(11, 700 if on else 400))
            p.setPen(theme.MOSS.darker(120) if on else theme.INK_SOFT)
            box = QRectF(left, top + 28, 38, 18)
            p.drawText(box, AlignLeft, word)
            if on:
                width = p.fontMetrics().horizontalAdvance(word)
                p.fillRect(QRectF(left, top + 44, width, 1.6), theme.MOSS)
        self._level_bar(layer, top, height)

    def _level_bar(self, layer: Layer, top: int, height: int) -> None:
        p, x, tall = self.p, HEAD - 28, height - 20
        p.fillRect(QRectF(x + 0.5, top + 10, 1.5, tall), theme.RULE_STRONG)
        share = min(1.0, layer.level / 2)
        p.fillRect(QRectF(x - 0.5, top + 10 + tall * (1 - share), 3.5, tall * share), theme.MOSS)

    def _chosen_cell(self, row: RowTraces, top: int, height: int) -> None:
        cell = self.view.cell
        if cell is None or row.layer is None or cell.layer != row.layer.id:
            return
        left = self.layout.x(cell.frame)
        width = max(3.0, self.layout.scale)
        self.p.fillRect(QRectF(left, top, width, height - 1), theme.wash(theme.MOSS, 60))
        self.p.setPen(QPen(theme.MOSS, 1))
        self.p.drawLine(QPointF(left, top), QPointF(left, top + height - 1))

    def _trial(self, row: RowTraces, top: int, height: int) -> None:
        """A flag on the frame a sound is tried out on, for nothing is placed there."""
        trial = self.view.trial
        if trial is None or row.layer is None or trial.layer != row.layer.id:
            return
        p, left = self.p, self.layout.x(trial.frame)
        text = "tried out, not placed"
        p.setFont(theme.font(11, 600))
        width = p.fontMetrics().horizontalAdvance(text) + 12
        p.setPen(QPen(theme.INK, 1.4, DASHED))
        p.drawLine(QPointF(left, top), QPointF(left, top + height))
        p.fillRect(QRectF(left, top + height - 17, width, 16), theme.INK)
        p.setPen(theme.CARD)
        p.drawText(QRectF(left + 6, top + height - 17, width, 16), AlignLeft, text)

    def _is_chosen(self, row: RowTraces, frame: int) -> bool:
        return row.layer is not None and self.view.cell == Cell(row.layer.id, frame)

    # -- shapes --------------------------------------------------------------------------------

    def _trace(self, trace: Trace, row: RowTraces, top: int, height: int) -> None:
        x = self.layout.x
        if trace.held:
            self._pillar(trace, row, top, height)
            return
        colour = theme.SYNC_COLOURS[trace.voice.sync]
        if trace.waits_from is not None:
            colour = theme.OCHRE
            self._wait(trace, top, height)
        start, end = x(trace.start), max(x(trace.end), x(trace.start) + 2)
        if end < HEAD or start > self.view.width:
            return
        upper, lower = top + 7, top + height - 7
        if trace.voice.sync == "locked":
            self._locked(trace, start, end, upper, lower, colour)
        elif trace.come_from:
            self._ringing(trace, start, end, upper, lower, colour)
        else:
            self._free(trace, start, end, upper, lower, colour)
        self._wave(trace, row, start, end, upper, lower, colour)
        for place in trace.divisions:
            self.p.setPen(QPen(colour, 1))
            self.p.drawLine(QPointF(x(place), upper + 3), QPointF(x(place), lower - 3))
        self._label(trace, start, upper, colour)
        if trace.voice.ended in ("restarted", "hush") and not trace.goes_on:
            self._cut_mark(end, upper, lower, double=trace.voice.ended == "hush")
        if trace.clip.sound == self.view.shown_sound:
            self.p.setBrush(Qt.BrushStyle.NoBrush)
            self.p.setPen(QPen(theme.OCHRE, 2))
            around = QRectF(start - 3, upper - 4, end - start + 6, lower - upper + 8)
            self.p.drawRoundedRect(around, 6, 6)
        if (
            row.layer is not None
            and self._is_chosen(row, trace.voice.frame)
            and not trace.come_from
        ):
            self.p.setBrush(Qt.BrushStyle.NoBrush)
            self.p.setPen(QPen(theme.INK, 1.6))
            self.p.drawRoundedRect(
                QRectF(start - 1.5, upper - 2, end - start + 3, lower - upper + 4), 5, 5
            )

    def _locked(
        self, trace: Trace, start: float, end: float, upper: float, lower: float, colour: QColor
    ) -> None:
        p = self.p
        outline = QPolygonF([QPointF(start, upper), QPointF(end, upper)])
        if trace.cut:
            steps = 7
            for step in range(1, steps):
                along = upper + (lower - upper) * step / steps
                outline.append(QPointF(end - (4 if step % 2 else 0), along))
        outline.append(QPointF(end, lower))
        outline.append(QPointF(start, lower))
        p.setBrush(theme.wash(colour, 34))
        p.setPen(QPen(colour, 1.4))
        p.drawPolygon(outline)
        every = next((s for s in (1, 2, 4, 6, 12, 24) if s * self.layout.scale >= 4), 48)
        ticks = []
        for frame in range(int(trace.start) // every * every, int(trace.end) + 1, every):
            left = self.layout.x(frame)
            if start < left < end and HEAD <= left <= self.view.width:
                ticks.append(QLineF(left, lower - 4, left, lower))
        p.setPen(QPen(colour, 1))
        p.drawLines(ticks)

    def _free(
        self, trace: Trace, start: float, end: float, upper: float, lower: float, colour: QColor
    ) -> None:
        """A rounded block inside the span; past it a dashed outline with a foot at the real end."""
        p = self.p
        span_end = self.layout.x(trace.span_end)
        # A voice that begins past its span, as a queued one may, has only the outline.
        block_end = min(end, span_end) if span_end > start else start
        if block_end > start:
            p.setBrush(theme.wash(colour, 36))
            p.setPen(QPen(colour, 1.4))
            p.drawRoundedRect(QRectF(start, upper, block_end - start, lower - upper), 5, 5)
        if end > block_end:
            p.setBrush(theme.wash(colour, 12))
            p.setPen(theme.NO_PEN)
            p.drawRect(QRectF(block_end, upper + 2, end - block_end, lower - upper - 4))
            dashes = QPen(colour, 1.2, DASHED)
            p.setPen(dashes)
            p.drawLine(QPointF(block_end, upper + 2), QPointF(end, upper + 2))
            p.drawLine(QPointF(block_end, lower - 2), QPointF(end, lower - 2))
            p.setPen(QPen(colour, 1.6))
            if not trace.goes_on:
                p.drawLine(QPointF(end, upper + 2), QPointF(end, lower - 2))
                p.drawLine(QPointF(end - 5, lower - 2), QPointF(end, lower - 2))

    def _ringing(
        self, trace: Trace, start: float, end: float, upper: float, lower: float, colour: QColor
    ) -> None:
        p = self.p
        p.setBrush(theme.wash(colour, 12))
        p.setPen(theme.NO_PEN)
        p.drawRect(QRectF(start, upper + 2, end - start, lower - upper - 4))
        p.setPen(QPen(colour, 1.2, DOTTED))
        p.drawLine(QPointF(start, upper + 2), QPointF(end, upper + 2))
        p.drawLine(QPointF(start, lower - 2), QPointF(end, lower - 2))
        if not trace.goes_on:
            p.setPen(QPen(colour, 1.6))
            p.drawLine(QPointF(end, upper + 2), QPointF(end, lower - 2))

    def _wait(self, trace: Trace, top: int, height: int) -> None:
        assert trace.waits_from is not None
        p, foot = self.p, top + height - 5
        start, end = self.layout.x(trace.waits_from), self.layout.x(trace.start)
        p.setBrush(theme.CARD)
        p.setPen(QPen(theme.OCHRE, 1.4, DASHED))
        p.drawLine(QPointF(start, foot), QPointF(end, foot))
        p.drawLine(QPointF(end, foot), QPointF(end, foot - 8))
        p.setPen(QPen(theme.OCHRE, 1.4))
        p.drawRect(QRectF(start - 3.5, foot - 3.5, 7, 7))

    def _pillar(self, trace: Trace, row: RowTraces, top: int, height: int) -> None:
        """A hold: a pillar on its frame with a fermata and the time it adds."""
        p, x = self.p, self.layout.x(trace.voice.frame)
        colour = theme.PLUM
        box = QRectF(x, top + 6, 12, height - 12)
        p.setBrush(theme.wash(colour, 60))
        p.setPen(QPen(colour, 1.6 if not self._is_chosen(row, trace.voice.frame) else 2.6))
        p.drawRect(box)
        arc = QPainterPath()
        arc.moveTo(x + 16, top + 22)
        arc.arcTo(QRectF(x + 16, top + 13, 17, 17), 180, -180)
        p.setBrush(Qt.BrushStyle.NoBrush)
        p.drawPath(arc)
        p.setBrush(colour)
        p.drawEllipse(QPointF(x + 24.5, top + 19.5), 1.8, 1.8)
        p.setFont(theme.font(11.5, 600))
        p.drawText(QRectF(x + 38, top + 7, 260, 18), AlignLeft, f"{trace.name} holds the picture")
        p.setFont(theme.font(11.5))
        seconds = trace.held / self.project.rate
        p.drawText(QRectF(x + 18, top + 27, 200, 18), AlignLeft, f"+ {seconds:.2f} s")

    def _wave(
        self,
        trace: Trace,
        row: RowTraces,
        start: float,
        end: float,
        upper: float,
        lower: float,
        colour: QColor,
    ) -> None:
        axis, peaks = self.view.traces.axis, self.view.sounds.peaks(trace.voice.sound)
        low, high = max(int(start) + 1, HEAD), min(int(end), self.view.width)
        if axis is None or high - low < 2:
            return
        if peaks is None:
            self.p.setPen(QPen(theme.wash(colour, 120), 1, DOTTED))
            middle = (upper + lower) / 2
            self.p.drawLine(QPointF(low, middle), QPointF(high, middle))
            return
        edges = np.clip(
            self.layout.place(0) + np.arange(low, high + 1) / self.layout.scale, 0, None
        )
        layer = self.project.layer(trace.voice.layer)[1]
        columns = trace_columns(trace, layer, axis, peaks, edges)
        tall = int(lower - upper) - 6
        self.p.drawImage(
            QPointF(low, upper + 3), columns_image(columns, tall, theme.wash(colour, 205))
        )

    def _label(self, trace: Trace, start: float, upper: float, colour: QColor) -> None:
        p = self.p
        left = max(start, float(HEAD)) + 6
        if trace.come_from:
            text = f"{trace.name}, from {trace.come_from}"
            p.setFont(theme.font(11, italic=True))
        else:
            text = trace.name
            if trace.clip.loops == 0:
                text += "  ∞"
            elif trace.clip.loops > 1:
                text += f"  ×{trace.clip.loops}"
            if trace.waits_from is not None:
                text += f", waits {trace.start - trace.waits_from:.0f} f"
            p.setFont(theme.font(11, 600))
        width = self.layout.x(trace.end) - left
        # Three letters and an ellipsis say less than the shape alone.
        if width < min(64, p.fontMetrics().horizontalAdvance(text)):
            return
        p.setPen(colour.darker(115))
        shown = p.fontMetrics().elidedText(text, Qt.TextElideMode.ElideRight, int(width))
        p.drawText(QRectF(left, upper, width, 16), AlignLeft, shown)

    def _cut_mark(self, x: float, upper: float, lower: float, *, double: bool) -> None:
        p = self.p
        p.setPen(QPen(theme.INK, 2.2))
        p.drawLine(QPointF(x, upper - 1), QPointF(x, lower + 1))
        if double:
            p.setPen(QPen(theme.INK, 1))
            p.drawLine(QPointF(x - 4, upper - 1), QPointF(x - 4, lower + 1))

    def _bar(self, bar: Bar, top: int, height: int) -> None:
        """A rest is a thin bar, a hush a double bar; what is off or ends nothing is pale."""
        p, x = self.p, self.layout.x(bar.frame)
        colour = theme.INK_SOFT if bar.off or bar.idle or not bar.hush else theme.INK
        p.setPen(QPen(colour, 1.2, DOTTED if bar.off else Qt.PenStyle.SolidLine))
        p.drawLine(QPointF(x, top + 9), QPointF(x, top + height - 9))
        if bar.hush:
            p.setPen(QPen(colour, 2.6 if not bar.idle else 1.4))
            p.drawLine(QPointF(x + 4, top + 9), QPointF(x + 4, top + height - 9))

    def _strike(self, strike: Strike, top: int, height: int) -> None:
        p, x = self.p, self.layout.x(strike.frame)
        y = top + height - 12
        p.setBrush(theme.CARD)
        p.setPen(QPen(theme.INK, 1.4))
        p.drawRect(QRectF(x - 3.5, y - 3.5, 7, 7))
        p.drawLine(QPointF(x - 7, y + 6), QPointF(x + 7, y - 6))
        p.setFont(theme.font(11, italic=True))
        width = p.fontMetrics().horizontalAdvance(strike.reason)
        p.fillRect(QRectF(x + 9, y - 8, width + 6, 15), theme.wash(theme.ROW, 215))
        p.setPen(theme.INK_SOFT)
        p.drawText(QRectF(x + 12, y - 9, width + 10, 16), AlignLeft, strike.reason)

    def _off(self, start: int, end: int, name: str, top: int, height: int) -> None:
        p, x = self.p, self.layout.x(start)
        width = self.layout.x(end) - x
        p.setBrush(Qt.BrushStyle.NoBrush)
        p.setPen(QPen(theme.INK_SOFT, 1, DASHED))
        p.drawRoundedRect(QRectF(x, top + 7, width, height - 14), 5, 5)
        p.setFont(theme.font(11))
        p.drawText(QRectF(x + 6, top + 7, max(0.0, width - 8), 16), AlignLeft, f"{name}, off")
