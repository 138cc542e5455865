"""The shapes of what sounds, one by one: shape says how it keeps time, colour repeats it."""

import numpy as np
from PySide6.QtCore import QLineF, QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPainterPath, QPen, QPolygonF

from cicada.core.editing import Cell
from cicada.core.needs import Driven
from cicada.window.drawing import theme
from cicada.window.drawing.inside import drawn
from cicada.window.drawing.inside_paint import paint_inside, paint_tint
from cicada.window.drawing.layout import HEAD, Box
from cicada.window.drawing.traced import Bar, Off, Strike, Trace
from cicada.window.drawing.traces import Row
from cicada.window.drawing.view import Pending, SheetView
from cicada.window.drawing.waveform import columns_image, trace_columns
from cicada.window.words.drift import ahead_text, tolerance_of

AlignLeft = Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter
DASHED, DOTTED = Qt.PenStyle.DashLine, Qt.PenStyle.DotLine
PILLAR = 12
# How much of a sound's beginning no words cover, in pixels, and the least they are worth.
BEGINNING, LEAST_WORDS = 18, 40


class Shapes:
    """Paints the shapes of one row."""

    def __init__(
        self,
        painter: QPainter,
        view: SheetView,
        row: Row,
        top: int,
        height: int,
        driven: Driven | None = None,
    ) -> None:
        self.p, self.view, self.layout = painter, view, view.layout
        self.row, self.top, self.height = row, top, height
        self.upper, self.lower = top + 6.0, top + height - 6.0
        # What the value drives whose line is shown.
        self.driven = driven
        # Where sounds begin: what an animator looks for, and no words may hide.
        self.begins = np.sort(self.layout.xs(row.starts)) if len(row.starts) else np.zeros(0)

    def _write(self, left: float, top: float, text: str, colour: QColor, *, right: float) -> None:
        """Write in the painter's font, up to ``right`` and never over where a sound begins.

        On a little of the row's ground, so that no waveform runs through the letters.
        """
        p, metrics = self.p, self.p.fontMetrics()
        left = self._past_beginnings(left)
        following = self.begins[np.searchsorted(self.begins, left - 2) :]
        right = min(right, float(following[0]) - 4 if len(following) else right)
        wide = float(metrics.horizontalAdvance(text))
        if right - left < min(wide, LEAST_WORDS):
            return
        if wide > right - left:
            # Three letters and an ellipsis say less than the shape alone.
            if right - left < 64:
                return
            text = metrics.elidedText(text, Qt.TextElideMode.ElideRight, int(right - left))
            wide = float(metrics.horizontalAdvance(text))
        self.written(QRectF(left - 2, top + 1, wide + 4, 13))
        p.setPen(colour)
        p.drawText(QRectF(left, top - 1, wide + 2, 16), AlignLeft, text)

    def _write_up_to(
        self, left: float, top: float, text: str, colour: QColor, right: float
    ) -> None:
        self._write(left, top, text, colour, right=right)

    def _past_beginnings(self, left: float) -> float:
        """The first place from ``left`` on that no sound begins shortly before."""
        at = int(np.searchsorted(self.begins, left - BEGINNING, side="right"))
        while at < len(self.begins) and self.begins[at] <= left + 2:
            left, at = float(self.begins[at]) + BEGINNING, at + 1
        return left

    def written(self, box: QRectF) -> None:
        """Give words their ground."""
        self.p.fillRect(box, theme.wash(theme.ROW, 190))

    def _chosen(self, frame: int) -> bool:
        layer = self.row.layer
        return layer is not None and Cell(layer.id, frame) in self.view.chosen

    # -- soundings -----------------------------------------------------------------------------

    def trace(self, trace: Trace) -> None:
        """One voice with its waveform and its name."""
        if trace.held:
            self._pillar(trace)
            return
        x = self.layout.x
        colour = theme.SYNC_COLOURS[trace.voice.sync]
        if trace.waits_from is not None:
            colour = theme.OCHRE
            self._wait(trace)
        start = x(trace.start)
        box = Box(start, max(x(trace.end), start + 2), self.upper, self.lower)
        if box.end < HEAD or box.start > self.view.width:
            return
        if trace.voice.sync == "locked":
            self._locked(trace, box, colour)
        elif trace.come_from:
            self._ringing(trace, box, colour)
        else:
            self._free(trace, box, colour)
        if self.driven is not None:
            paint_tint(self.p, self.view, trace, box, self.driven)
        self._wave(trace, box, colour)
        name, others = drawn(self.view.traces, trace) or ("", [])
        paint_inside(self.p, self.view, trace, box, colour, self._write_up_to, others)
        for place in trace.divisions:
            self.p.setPen(QPen(colour, 1))
            self.p.drawLine(QPointF(x(place), box.upper + 3), QPointF(x(place), box.lower - 3))
        self._label(trace, box, colour, name)
        if trace.voice.ended in ("restarted", "hush") and not trace.goes_on:
            self._cut_mark(box, double=trace.voice.ended == "hush")
        self._in_the_wait(trace, box)
        self._ahead(trace, box)

    def _ahead(self, trace: Trace, box: Box) -> None:
        """Say at its end by how much a voice is ahead of the picture there, if that is seen."""
        axis, project = self.view.traces.axis, self.view.project
        drift = None if axis is None or trace.goes_on else axis.drifts.get(trace.voice.key)
        if drift is None or drift.last <= tolerance_of(project, self.view.tolerance):
            return
        # Where another sound begins, it would be taken for that one's.
        if self._past_beginnings(box.end + 6) == box.end + 6:
            self.p.setFont(theme.font(10, italic=True))
            words, edge = f"{ahead_text(drift.last, project)} ahead", float(self.view.width)
            self._write(box.end + 6, box.upper + 1, words, theme.OCHRE, right=edge)

    def ring(self, trace: Trace) -> None:
        """What says that a voice is chosen, or that its sound is looked for."""
        x = self.layout.x
        start = x(trace.start)
        end = start + PILLAR if trace.held else max(x(trace.end), start + 2)
        if trace.clip.sound == self.view.shown_sound:
            self._around(start, end, theme.OCHRE, 3)
        if self._chosen(trace.voice.frame) and not trace.come_from:
            self._around(start, end, theme.INK, 1.5)

    def _around(self, start: float, end: float, colour: QColor, gap: float) -> None:
        self.p.setBrush(Qt.BrushStyle.NoBrush)
        self.p.setPen(QPen(colour, 1.8))
        rect = QRectF(start, self.upper, end - start, self.lower - self.upper)
        self.p.drawRoundedRect(rect.adjusted(-gap, -gap, gap, gap), 5, 5)

    def _locked(self, trace: Trace, box: Box, colour: QColor) -> None:
        p = self.p
        outline = QPolygonF([QPointF(box.start, box.upper), QPointF(box.end, box.upper)])
        if trace.cut:
            steps = 7
            for step in range(1, steps):
                along = box.upper + (box.lower - box.upper) * step / steps
                outline.append(QPointF(box.end - (4 if step % 2 else 0), along))
        outline.append(QPointF(box.end, box.lower))
        outline.append(QPointF(box.start, box.lower))
        p.setBrush(theme.wash(colour, 34))
        p.setPen(QPen(colour, 1.4))
        p.drawPolygon(outline)
        every = next((s for s in (1, 2, 4, 6, 12, 24) if s * self.layout.scale >= 4), 48)
        first = max(trace.start, self.layout.place(HEAD))
        last = min(trace.end, self.layout.place(self.view.width))
        frames = self.layout.frame_of(first), self.layout.frame_of(last)
        ticks = []
        for frame in range(int(frames[0]) // every * every, int(frames[1]) + 1, every):
            left = self.layout.frame_x(frame)
            if box.start < left < box.end:
                ticks.append(QLineF(left, box.lower - 4, left, box.lower))
        p.setPen(QPen(colour, 1))
        p.drawLines(ticks)

    def _free(self, trace: Trace, box: Box, colour: QColor) -> None:
        """A rounded block inside the span; past it a dashed outline with a foot at the real end."""
        p = self.p
        span_end = self.layout.x(trace.span_end)
        # A voice that begins past its span, as a queued one may, has only the outline.
        block_end = min(box.end, span_end) if span_end > box.start else box.start
        if block_end > box.start:
            p.setBrush(theme.wash(colour, 36))
            p.setPen(QPen(colour, 1.4))
            rect = QRectF(box.start, box.upper, block_end - box.start, box.lower - box.upper)
            p.drawRoundedRect(rect, 5, 5)
        if box.end > block_end:
            past = Box(block_end, box.end, box.upper + 2, box.lower - 2)
            self._open_ended(past, colour, DASHED)
            if not trace.goes_on:
                p.setPen(QPen(colour, 1.6))
                p.drawLine(QPointF(past.end, past.upper), QPointF(past.end, past.lower))
                p.drawLine(QPointF(past.end - 5, past.lower), QPointF(past.end, past.lower))

    def _ringing(self, trace: Trace, box: Box, colour: QColor) -> None:
        inner = Box(box.start, box.end, box.upper + 2, box.lower - 2)
        self._open_ended(inner, colour, DOTTED)
        if not trace.goes_on:
            self.p.setPen(QPen(colour, 1.6))
            self.p.drawLine(QPointF(box.end, inner.upper), QPointF(box.end, inner.lower))

    def _open_ended(self, box: Box, colour: QColor, style: Qt.PenStyle) -> None:
        p = self.p
        p.setBrush(theme.wash(colour, 12))
        p.setPen(theme.NO_PEN)
        # Dashes are counted from the sheet's edge, so that a long outline costs what is seen.
        start, end = max(box.start, HEAD - 12.0), min(box.end, self.view.width + 12.0)
        p.drawRect(QRectF(start, box.upper, end - start, box.lower - box.upper))
        p.setPen(QPen(colour, 1.2, style))
        p.drawLine(QPointF(start, box.upper), QPointF(end, box.upper))
        p.drawLine(QPointF(start, box.lower), QPointF(end, box.lower))

    def _wait(self, trace: Trace) -> None:
        assert trace.waits_from is not None
        p, foot = self.p, self.top + self.height - 5
        start, end = self.layout.x(trace.waits_from), self.layout.x(trace.start)
        p.setPen(QPen(theme.OCHRE, 1.4, DASHED))
        p.drawLine(QPointF(max(start, HEAD - 8.0), foot), QPointF(end, foot))
        p.drawLine(QPointF(end, foot), QPointF(end, foot - 8))
        p.setBrush(theme.CARD)
        p.setPen(QPen(theme.OCHRE, 1.4))
        p.drawRect(QRectF(start - 3.5, foot - 3.5, 7, 7))

    def _pillar(self, trace: Trace) -> None:
        """A hold: a pillar on its frame with a fermata and the time it adds."""
        p, x, top = self.p, self.layout.x(trace.start), self.top
        colour = theme.PLUM
        wide = self.layout.x(trace.end) - x
        opened = wide > PILLAR
        box = Box(x, x + max(wide, PILLAR), top + 6, top + self.height - 6)
        p.setBrush(theme.wash(colour, 60))
        p.setPen(QPen(colour, 1.6))
        p.drawRect(QRectF(box.start, box.upper, box.end - box.start, box.lower - box.upper))
        if opened:
            self._wave(trace, box, colour)
        left = x + 4 if opened else x + PILLAR
        p.setPen(QPen(colour, 1.6))
        arc = QPainterPath()
        arc.moveTo(left + 4, top + 22)
        arc.arcTo(QRectF(left + 4, top + 13, 17, 17), 180, -180)
        p.setBrush(Qt.BrushStyle.NoBrush)
        p.drawPath(arc)
        p.setBrush(colour)
        p.drawEllipse(QPointF(left + 12.5, top + 19.5), 1.8, 1.8)
        p.setFont(theme.font(11.5, 600))
        edge = float(self.view.width)
        self._write(left + 26, top + 7, f"{trace.name} holds the picture", colour, right=edge)
        p.setFont(theme.font(11.5))
        seconds = trace.held / self.view.project.rate
        self._write(left + 6, top + 26, f"+ {seconds:.2f} s", colour, right=edge)

    def _in_the_wait(self, trace: Trace, box: Box) -> None:
        """Say how far into a standstill a voice starts or ends, where waits have no width."""
        axis = self.view.traces.axis
        if axis is None or any(wait.width for wait in axis.waits):
            return
        self.p.setFont(theme.font(10, italic=True))
        for seconds, word, x in (
            (trace.starts_in, "starts", box.start),
            (trace.ends_in, "ends", box.end),
        ):
            if seconds is not None:
                text = f"{word} {seconds:.1f} s into the wait"
                edge = float(self.view.width)
                self._write(x + 6, box.lower - 14, text, theme.INK_SOFT, right=edge)

    def _wave(self, trace: Trace, box: Box, colour: QColor) -> None:
        axis = self.view.traces.axis
        low, high = max(int(box.start) + 1, HEAD), min(int(box.end), self.view.width)
        if axis is None or high - low < 2:
            return
        places = self.layout.place(0) + np.arange(low, high + 1) / self.layout.scale
        moments = axis.samples(np.clip(places, 0, None))
        columns = trace_columns(self.view.traces, trace, self.view.sounds.peaks, moments)
        if columns is None:
            self.p.setPen(QPen(theme.wash(colour, 120), 1, DOTTED))
            middle = (box.upper + box.lower) / 2
            self.p.drawLine(QPointF(low, middle), QPointF(high, middle))
            return
        tall = int(box.lower - box.upper) - 6
        if tall > 2:
            image = columns_image(columns, tall, theme.wash(colour, 205))
            self.p.drawImage(QPointF(low, box.upper + 3), image)

    def _label(self, trace: Trace, box: Box, colour: QColor, drawn_part: str) -> None:
        p = self.p
        left = max(box.start, float(HEAD)) + 6
        if trace.come_from:
            text = f"{trace.name}, from {trace.come_from}"
            p.setFont(theme.font(11, italic=True))
        else:
            text = trace.name
            if drawn_part:
                text += f": {drawn_part}"
            if trace.clip.loops == 0:
                text += "  ∞"
            elif trace.clip.loops > 1:
                text += f"  ×{trace.clip.loops}"
            if trace.waits_from is not None:
                text += f", waits {trace.start - trace.waits_from:.0f} f"
            p.setFont(theme.font(11, 600))
        self._write(left, box.upper + 1, text, theme.strong(colour), right=box.end)

    def _cut_mark(self, box: Box, *, double: bool) -> None:
        p, x = self.p, box.end
        p.setPen(QPen(theme.INK, 2.2))
        p.drawLine(QPointF(x, box.upper - 1), QPointF(x, box.lower + 1))
        if double:
            p.setPen(QPen(theme.INK, 1))
            p.drawLine(QPointF(x - 4, box.upper - 1), QPointF(x - 4, box.lower + 1))

    # -- keyframes that sound nothing ----------------------------------------------------------

    def bar(self, bar: Bar) -> None:
        """A rest is a thin bar, a hush a double bar; what is off or ends nothing is pale."""
        p, x = self.p, self.layout.frame_x(bar.frame)
        if not HEAD - 8 <= x <= self.view.width + 8:
            return
        upper, lower = self.upper + 3, self.lower - 3
        if self._chosen(bar.frame):
            self._around(x - 2, x + (6 if bar.hush else 2), theme.INK, 1.5)
        pale = bar.off or bar.idle or not bar.hush
        p.setPen(
            QPen(
                theme.INK_SOFT if pale else theme.INK,
                1.2,
                DOTTED if bar.off or bar.idle else Qt.PenStyle.SolidLine,
            )
        )
        p.drawLine(QPointF(x, upper), QPointF(x, lower))
        if bar.hush:
            style = DOTTED if bar.off or bar.idle else Qt.PenStyle.SolidLine
            p.setPen(QPen(theme.INK_SOFT if pale else theme.INK, 1.4 if pale else 2.6, style))
            p.drawLine(QPointF(x + 4, upper), QPointF(x + 4, lower))

    def press(self, place: float) -> None:
        """A press of the row's pad: a finger's breadth above where it counted."""
        p, x = self.p, self.layout.x(place)
        if not HEAD - 8 <= x <= self.view.width + 8:
            return
        p.setPen(QPen(theme.INK, 1))
        p.drawLine(QPointF(x, self.top + 2), QPointF(x, self.top + self.height - 3))
        p.setPen(theme.NO_PEN)
        p.setBrush(theme.INK)
        p.drawEllipse(QPointF(x, self.top + 5), 3.5, 3.5)

    def strike(self, strike: Strike) -> None:
        """A keyframe whose sound was left out, struck through, with the reason."""
        p, x = self.p, self.layout.frame_x(strike.frame)
        if not HEAD - 300 <= x <= self.view.width + 8:
            return
        y = self.lower - 6
        if self._chosen(strike.frame):
            self._around(x - 6, x + 6, theme.INK, 1.5)
        p.setBrush(theme.CARD)
        p.setPen(QPen(theme.INK, 1.4))
        p.drawRect(QRectF(x - 3.5, y - 3.5, 7, 7))
        p.drawLine(QPointF(x - 7, y + 6), QPointF(x + 7, y - 6))
        p.setFont(theme.font(11, italic=True))
        edge = float(self.view.width)
        self._write(x + 12, y - 8, strike.reason, theme.INK_SOFT, right=edge)

    def off(self, off: Off) -> None:
        """A clip that is switched off, as an outline of its span."""
        self._outline(off.frame, off.end, f"{off.name}, off")

    def pending(self, pending: Pending) -> None:
        """A keyframe that was just put there, until the plan says what sounds."""
        self._outline(pending.frame, pending.end, pending.name)

    def _outline(self, frame: int, end: int, text: str) -> None:
        p = self.p
        x, right = self.layout.frame_x(frame), self.layout.frame_x(end)
        if right < HEAD or x > self.view.width:
            return
        p.setBrush(Qt.BrushStyle.NoBrush)
        p.setPen(QPen(theme.INK_SOFT, 1, DASHED))
        left = max(x, HEAD - 12.0)
        right = min(right, self.view.width + 12.0)
        p.drawRoundedRect(QRectF(left, self.upper, right - left, self.lower - self.upper), 5, 5)
        if self._chosen(frame):
            self._around(left, right, theme.INK, 1.5)
        p.setFont(theme.font(11))
        self._write(max(left, float(HEAD)) + 6, self.upper, text, theme.INK_SOFT, right=right)
