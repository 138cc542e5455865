"""Painting what is opened on the sheet: a clip with its lanes and handles, or a line alone."""

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPainterPath, QPen, QPolygonF

from cicada.core.lines import fade_gain
from cicada.core.values import FadeShape
from cicada.media.peaks import FINEST, Peaks
from cicada.window.drawing import theme
from cicada.window.drawing.lanes import Lane
from cicada.window.drawing.layout import HEAD
from cicada.window.drawing.neighbours import edge_words
from cicada.window.drawing.open_clip import Grip, OpenClip, OpenLine
from cicada.window.drawing.view import SheetView
from cicada.window.drawing.waveform import columns_image, seen_height, trace_columns

AlignLeft = Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter
AlignRight = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
# Pixels a sample from which on each is drawn as a dot.
DOTS = 6.0


def paint_open_clip(p: QPainter, view: SheetView, opened: OpenClip) -> None:
    """A clip, large: the whole of its sound pale, what is heard of it dark, and its lines."""
    _Clip(p, view, opened).paint()


def paint_open_line(p: QPainter, view: SheetView, opened: OpenLine) -> None:
    """A layer's line or the master line over what sounds."""
    for lane in opened.lanes:
        _scale(p, lane, whole_row=True)
        paint_lane(p, view, lane, theme.INK)


def paint_lane(p: QPainter, view: SheetView, lane: Lane, colour: QColor) -> None:
    """A line with its points; without points, dashed where it would be."""
    if lane.right - lane.left < 1:
        return
    p.setBrush(Qt.BrushStyle.NoBrush)
    style = Qt.PenStyle.SolidLine if lane.line else Qt.PenStyle.DashLine
    p.setPen(QPen(colour, 1.8, style))
    p.drawPolyline(lane.polyline())
    chosen = view.points.get(lane.name, frozenset())
    for index in range(len(lane.line)):
        at = lane.point(index)
        if not HEAD - 6 <= at.x() <= view.width + 6:
            continue
        # What lies beyond the end of the clip waits there, pale.
        inside = lane.left - 1 <= at.x() <= lane.right + 1
        p.setOpacity(1.0 if inside else 0.35)
        p.setPen(QPen(colour, 1.8))
        p.setBrush(colour if index in chosen else theme.CARD)
        p.drawEllipse(at, 4.5, 4.5)
    p.setOpacity(1.0)


def _scale(p: QPainter, lane: Lane, *, whole_row: bool = False) -> None:
    """Hairlines at the values one looks for, named at the left edge."""
    if lane.kind == "level":
        marks = [(lane.highest, f"{lane.highest * 100:.3g} %"), (1.0, "100 %"), (0.0, "0 %")]
    else:
        marks = [(-1.0, "left"), (0.0, "middle"), (1.0, "right")]
    p.setFont(theme.font(10))
    # Beside the lane, where there is room; of a whole row inside it, at its quieter end.
    beside = lane.left - HEAD >= 50
    box = QRectF(lane.left - 52 if beside else lane.left + 3, 0, 48, 12)
    if whole_row:
        beside, box = True, QRectF(lane.right - 52, 0, 48, 12)
    for value, words in marks:
        y = lane.y(value)
        if abs(value) < lane.highest and value != lane.lowest:
            p.setPen(QPen(theme.wash(theme.INK_SOFT, 90), 1, Qt.PenStyle.DotLine))
            p.drawLine(QPointF(lane.left, round(y) + 0.5), QPointF(lane.right, round(y) + 0.5))
        p.setPen(theme.INK_SOFT)
        box.moveTop(min(max(y - 6, lane.upper - 3), lane.lower - 9))
        p.drawText(box, AlignRight if beside else AlignLeft, words)


class _Clip:
    def __init__(self, painter: QPainter, view: SheetView, opened: OpenClip) -> None:
        self.p, self.view, self.open = painter, view, opened
        self.colour = theme.SYNC_COLOURS[opened.clip.sync]

    def paint(self) -> None:
        p, opened = self.p, self.open
        wave = opened.wave
        ground = QRectF(HEAD, opened.top + 1, self.view.width - HEAD, opened.height - 2)
        p.fillRect(ground, theme.wash(theme.CARD, 225))
        self._span()
        left, right = opened.x_of(opened.begins), opened.x_of(opened.ends)
        body = QRectF(left, wave.top(), max(1.0, right - left), wave.height())
        p.fillRect(body, theme.wash(self.colour, 20))
        peaks = self.view.sounds.peaks(opened.clip.sound)
        if peaks is not None and not self._samples():
            self._ghost(peaks)
            self._heard()
            self._joins(peaks)
        self._edges(body)
        self._fades(body)
        self._strip()
        self._slip()
        for lane in opened.lanes:
            if lane.kind == "pan":
                self._pan_ground(lane)
            _scale(p, lane)
            colour = theme.strong(self.colour) if lane.kind == "level" else theme.INK
            paint_lane(p, self.view, lane, colour)

    def _span(self) -> None:
        """Where the span ends, for what is beyond it rings past it."""
        trace = self.open.trace
        if trace is None:
            return
        x = self.open.layout.x(trace.span_end)
        self.p.setPen(QPen(theme.INK_SOFT, 1, Qt.PenStyle.DashLine))
        top = self.open.top + 2
        self.p.drawLine(QPointF(x, top), QPointF(x, top + self.open.height - 4))
        self.p.setFont(theme.font(10))
        self.p.setPen(theme.INK_SOFT)
        self.p.drawText(QRectF(x + 4, top, 80, 13), AlignLeft, "span ends")

    # -- waveforms -----------------------------------------------------------------------------

    def _columns(self, left: float, right: float) -> np.ndarray:
        low, high = max(HEAD, int(left)), min(self.view.width, int(right) + 1)
        return np.arange(low, max(low, high) + 1, dtype=np.float64)

    def _image(self, left: float, columns: np.ndarray, colour: QColor) -> None:
        wave = self.open.wave
        image = columns_image(columns, int(wave.height()), colour)
        self.p.drawImage(QPointF(left, wave.top()), image)

    def _ghost(self, peaks: Peaks) -> None:
        """The sound as it came, with what is trimmed off, behind what is heard."""
        opened, shaping = self.open, self.open.shaping
        start, end = shaping.moment_of(0), shaping.moment_of(shaping.whole)
        xs = self._columns(opened.x_of(start), opened.x_of(end))
        if len(xs) < 2:
            return
        since = opened.moments_at(xs) - opened.begins + shaping.timing.offset
        places = np.clip(shaping.timing.first + since * opened.clip.speed, 0, shaping.whole)
        columns = peaks.columns(np.maximum.accumulate(places)).astype(np.float64)
        columns[:, np.diff(places) <= 0] = 0
        self._image(xs[0], columns, theme.wash(theme.INK_SOFT, 46))

    def _heard(self) -> None:
        opened, trace = self.open, self.open.trace
        axis = self.view.traces.axis
        if trace is None or axis is None:
            return
        xs = self._columns(opened.layout.x(trace.start), opened.layout.x(trace.end))
        if len(xs) < 2:
            return
        places = opened.layout.left + (xs - HEAD) / opened.layout.scale
        moments = axis.samples(np.clip(places, 0, None))
        columns = trace_columns(self.view.traces, trace, self.view.sounds.peaks, moments)
        if columns is None:
            return
        self._image(xs[0], columns, theme.wash(self.colour, 190))

    def _joins(self, peaks: Peaks) -> None:
        """Where loops overlap: the end of one and the beginning of the next over each other."""
        opened, timing = self.open, self.open.shaping.timing
        overlap = timing.loop - timing.step
        if not overlap or timing.loops == 1:
            return
        first = max(1, int((opened.moment_at(HEAD) - opened.begins) // timing.step))
        for number in range(first, first + 60):
            if timing.loops and number >= timing.loops:
                break
            start = opened.begins - timing.offset + number * timing.step
            left, right = opened.x_of(start), opened.x_of(min(start + overlap, opened.ends))
            if left > self.view.width or start >= opened.ends:
                break
            if right - left < 3:
                continue
            xs = self._columns(left, right)
            if len(xs) < 2:
                continue
            since = np.clip(opened.moments_at(xs) - start, 0, overlap)
            level = opened.lanes[0].curve().values(opened.lanes[0].places_at(xs[:-1]))
            level = level * opened.clip.level
            self.p.fillRect(
                QRectF(left, opened.wave.top(), right - left, opened.wave.height()),
                theme.wash(theme.OCHRE, 34),
            )
            for base, colour in ((timing.step, theme.OCHRE), (0, self.colour)):
                places = timing.first + (base + since) * opened.clip.speed
                columns = peaks.columns(np.maximum.accumulate(places)).astype(np.float64)
                self._image(xs[0], columns * level, theme.wash(colour, 150))

    def _samples(self) -> bool:
        """Single samples, where the zoom is close enough to tell them apart; whether it is."""
        opened, shaping = self.open, self.open.shaping
        base = self.view.base
        a_pixel = base.rate / base.fps / opened.layout.scale * opened.clip.speed
        read = self.view.sounds.read(opened.clip.sound)
        if read is None or a_pixel > FINEST / 4:
            return False
        first = max(0, shaping.sample_at(opened.moment_at(HEAD)))
        last = min(shaping.whole, shaping.sample_at(opened.moment_at(self.view.width)) + 2)
        if last - first < 2 or last - first > 40_000:
            return False
        wave, middle = opened.wave, opened.wave.center().y()
        start = opened.x_of(shaping.moment_of(first))
        heights = seen_height(np.asarray(read(first, last), np.float64).mean(axis=0))
        xs = start + np.arange(last - first) / a_pixel
        ys = middle - heights * wave.height() / 2
        points = [QPointF(x, y) for x, y in zip(xs.tolist(), ys.tolist(), strict=True)]
        self.p.setPen(QPen(theme.strong(self.colour), 1.4))
        self.p.drawPolyline(points)
        if 1 / a_pixel >= DOTS:
            self.p.setBrush(theme.strong(self.colour))
            for at in points:
                self.p.drawEllipse(at, 2, 2)
        return True

    # -- handles -------------------------------------------------------------------------------

    def _edges(self, body: QRectF) -> None:
        """The trim ends: bars with a short flag towards what is heard."""
        p, opened = self.p, self.open
        for grip in opened.grips:
            if grip.kind not in ("head", "tail"):
                continue
            x, inward = grip.at.x(), 7 if grip.kind == "head" else -7
            p.setPen(QPen(theme.INK, 2))
            p.drawLine(QPointF(x, body.top()), QPointF(x, body.bottom()))
            p.drawLine(QPointF(x, body.top() + 1), QPointF(x + inward, body.top() + 1))
            p.drawLine(QPointF(x, body.bottom() - 1), QPointF(x + inward, body.bottom() - 1))
            p.setBrush(theme.CARD)
            p.setPen(QPen(theme.INK, 1.4))
            p.drawRoundedRect(QRectF(x - 3, grip.at.y() - 10, 6, 20), 3, 3)

    def _fades(self, body: QRectF) -> None:
        opened, clip = self.open, self.open.clip
        into, out = opened.fades
        if clip.fade_in:
            self._fade(body.left(), into, body, clip.fade_shape, rising=True)
        if clip.fade_out and opened.shaping.timing.total is not None:
            over = opened.x_of(opened.fade_ends)
            self._fade(out, over, body, clip.fade_shape, rising=False)
        self.p.setPen(QPen(theme.INK, 1.4))
        self.p.setBrush(theme.CARD)
        for grip in opened.grips:
            x, y = grip.at.x(), grip.at.y()
            if grip.kind in ("fade_in", "fade_out"):
                way = 1 if grip.kind == "fade_in" else -1
                corner = [QPointF(x, y - 4), QPointF(x, y + 6), QPointF(x + 8 * way, y - 4)]
                self.p.drawPolygon(QPolygonF(corner))
            elif grip.kind == "overlap":
                self.p.drawEllipse(grip.at, 4, 4)

    def _fade(
        self, left: float, right: float, body: QRectF, shape: FadeShape, *, rising: bool
    ) -> None:
        if right - left < 1:
            return
        xs = np.linspace(left, right, 24)
        share = (xs - left) / (right - left)
        gains = fade_gain(shape, share if rising else 1 - share)
        path = QPainterPath(QPointF(xs[0], body.bottom() - gains[0] * body.height()))
        for x, gain in zip(xs[1:].tolist(), gains[1:].tolist(), strict=True):
            path.lineTo(QPointF(x, body.bottom() - gain * body.height()))
        self.p.setBrush(Qt.BrushStyle.NoBrush)
        self.p.setPen(QPen(theme.INK_SOFT, 1.4))
        self.p.drawPath(path)

    def _strip(self) -> None:
        """The name, and a flag for every hit."""
        p, opened = self.p, self.open
        left = max(HEAD + 4.0, opened.x_of(opened.begins) + 20)
        name = opened.sound.label
        p.setFont(theme.font(11.5, 600))
        wide = p.fontMetrics().horizontalAdvance(name)
        p.fillRect(QRectF(left - 3, opened.top + 2, wide + 6, 14), theme.wash(theme.CARD, 220))
        p.setPen(theme.strong(self.colour))
        p.drawText(QRectF(left, opened.top + 1, wide + 20, 16), AlignLeft, name)
        for grip in opened.hits:
            self._flag(grip)
        self._around(left + wide + 16)

    def _around(self, left: float) -> None:
        """How it stands to what sounds before and after it on its layer."""
        p, opened = self.p, self.open
        words = " · ".join(edge_words(opened))
        p.setFont(theme.font(10.5))
        wide = p.fontMetrics().horizontalAdvance(words) + 8
        end = min(self.view.width - 8.0, max(opened.x_of(opened.ends), left + wide))
        if words and end - wide >= left:
            box = QRectF(end - wide, opened.top + 2, wide, 14)
            p.fillRect(box, theme.wash(theme.CARD, 220))
            p.setPen(theme.INK_SOFT)
            p.drawText(box, AlignRight, words)

    def _flag(self, grip: Grip) -> None:
        """A hit that was found is an open triangle, one set by hand a full one; a peak a dot."""
        p, x, y = self.p, grip.at.x(), grip.at.y()
        if not HEAD - 6 <= x <= self.view.width + 6:
            return
        if grip.kind == "peak":
            p.setPen(QPen(theme.INK, 1.2))
            p.setBrush(theme.CARD)
            p.drawEllipse(grip.at, 3, 3)
            return
        p.setPen(QPen(theme.wash(theme.INK, 90), 1))
        p.drawLine(QPointF(x, y), QPointF(x, self.open.wave.bottom()))
        p.setPen(QPen(theme.INK, 1.3))
        p.setBrush(theme.INK if grip.own else theme.CARD)
        p.drawPolygon(QPolygonF([QPointF(x - 5, y - 5), QPointF(x + 5, y - 5), QPointF(x, y + 3)]))

    def _slip(self) -> None:
        p, band = self.p, self.open.slip_band
        if band.width() < 4:
            return
        p.fillRect(band, theme.wash(self.colour, 40))
        p.setPen(QPen(theme.wash(theme.INK_SOFT, 150), 1))
        middle, y = band.center().x(), band.center().y()
        for step in range(-3, 4):
            x = round(middle + step * 4) + 0.5
            p.drawLine(QPointF(x, y - 2.5), QPointF(x, y + 2.5))
        if band.width() > 120:
            p.setFont(theme.font(10))
            p.setPen(theme.INK_SOFT)
            p.drawText(band.adjusted(6, 0, 0, 0), AlignLeft, "slip the sound")

    def _pan_ground(self, lane: Lane) -> None:
        p = self.p
        box = QRectF(lane.left, lane.upper, lane.right - lane.left, lane.lower - lane.upper)
        p.fillRect(box, theme.wash(theme.INK_SOFT, 16))
