"""Painting the sheet: its rows with their heads, what ends what, and the mix below them."""

from collections.abc import Mapping

import numpy as np
from PySide6.QtCore import QLineF, QPointF, QRect, QRectF, Qt
from PySide6.QtGui import QPainter, QPen

from cicada.core.lines import Curve
from cicada.core.needs import driven_by
from cicada.core.outline import Columns
from cicada.window.drawing import theme
from cicada.window.drawing.draw_lane import DrawLane, paint_draw_lane
from cicada.window.drawing.heads import head_look, head_picture, paint_level
from cicada.window.drawing.labels import Letters, write
from cicada.window.drawing.layout import HEAD, TOP
from cicada.window.drawing.narrow import NARROW, in_sight, narrow_image, widths_in_pixels
from cicada.window.drawing.open_clip import OpenClip, OpenLine
from cicada.window.drawing.open_paint import paint_open_clip, paint_open_line
from cicada.window.drawing.rulers import (
    beats_in_sight,
    frames_in_sight,
    major_step,
    paint_film,
    paint_rulers,
)
from cicada.window.drawing.shapes import AlignLeft, Shapes
from cicada.window.drawing.traced import Trace
from cicada.window.drawing.traces import EVERYWHERE, Extent, Row
from cicada.window.drawing.value_lane import ValueLane, paint_value_lane
from cicada.window.drawing.view import SheetView
from cicada.window.drawing.waveform import columns_image
from cicada.window.drawing.way_paint import paint_way_lanes

# How far about a sounding, in pixels, its marks reach.
ABOUT = 12


def paint_sheet(
    painter: QPainter, view: SheetView, rows: Mapping[int, Extent] | None = None
) -> None:
    """Paint everything but the playhead, or only stretches of rows where nothing else has changed.

    The row -1 is the mix.
    """
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    sheet = _Sheet(painter, view)
    if rows is None:
        sheet.paint()
    else:
        sheet.paint_rows(rows)
        if -1 in rows:
            sheet.mix()


class _Sheet:
    def __init__(self, painter: QPainter, view: SheetView) -> None:
        self.p, self.view, self.layout = painter, view, view.layout
        self.scene, self.end_x = view.traces.scene, view.end_x
        value = view.value
        self.driven = None if value is None else driven_by(view.project, value[0].id)
        # The pixel columns being painted.
        self.part = 0, view.width
        second = max(1, round(view.base.fps))
        # Over all rows, each of which is clipped to itself: many small fills take longer.
        self.rules: dict[bool, list[QLineF]] = {False: [], True: []}
        on_beats = view.unit == "beats" and bool(view.traces.scene.tempo)
        found = (
            beats_in_sight(view)
            if on_beats
            else [(f % second == 0, f) for f in frames_in_sight(view, major_step(view))]
        )
        for strong, frame in found:
            x = round(view.layout.frame_x(frame)) + 0.5
            self.rules[strong].append(QLineF(x, TOP, x, self.layout.foot))

    def paint(self) -> None:
        self._below_rows()
        self.paint_rows({row: EVERYWHERE for row, _, _ in self.layout.rows_in_sight()})
        paint_rulers(self.p, self.view)
        paint_film(self.p, self.view)
        self.mix()
        self.p.setPen(QPen(theme.RULE_STRONG, 1))
        self.p.drawLine(QPointF(HEAD + 0.5, 0), QPointF(HEAD + 0.5, self.view.height))
        if not self.view.traces.rows:
            self._no_layers()

    def _below_rows(self) -> None:
        """The paper where there is nothing: all else is painted over its whole width."""
        rows, view = self.layout.rows_in_sight(), self.view
        end = max((top + height for _, top, height in rows), default=TOP)
        foot, mix = self.layout.foot, self.layout.foot + self.layout.mix
        for top, bottom in ((min(end, foot), foot), (mix, view.height)):
            if bottom > top:
                self.p.fillRect(0, top, view.width, bottom - top, theme.PAPER)

    def _no_layers(self) -> None:
        p = self.p
        box = QRectF(HEAD, TOP, self.view.width - HEAD, 120)
        p.setPen(theme.INK)
        p.setFont(theme.font(15, 600))
        p.drawText(box.adjusted(0, 0, 0, -30), Qt.AlignmentFlag.AlignCenter, "No layers yet")
        p.setPen(theme.INK_SOFT)
        p.setFont(theme.font(13))
        text = "Drop a sound here and it gets a layer of its own, or add an empty one with Ctrl+L."
        p.drawText(box.adjusted(0, 24, 0, 0), Qt.AlignmentFlag.AlignCenter, text)

    # -- rows ----------------------------------------------------------------------------------

    def paint_rows(self, rows: Mapping[int, Extent]) -> None:
        p, view = self.p, self.view
        p.save()
        foot = QRect(0, TOP, view.width, max(0, self.layout.foot - TOP))
        for number, top, height in self.layout.rows_in_sight():
            if number in rows:
                part = self._part(rows[number])
                self.part = part
                p.setClipRect(foot.intersected(QRect(part[0], top, part[1] - part[0], height)))
                self._row(view.traces.rows[number], number, top, height)
                self._across(number)
        p.restore()

    def _part(self, stretch: Extent) -> tuple[int, int]:
        """The pixel columns a stretch of places is drawn in, with what is drawn about it."""
        if stretch == EVERYWHERE:
            return 0, self.view.width
        low, high = (self.layout.x(place) for place in stretch)
        return max(0, round(low) - ABOUT), min(self.view.width, round(high) + ABOUT)

    def _row(self, row: Row, number: int, top: int, height: int) -> None:
        p, view = self.p, self.view
        ground = theme.ROW if number % 2 == 0 else theme.ROW_OTHER
        # On whole pixels: an edge between two costs as much as the whole fill.
        end = max(HEAD, min(view.width, round(self.end_x)))
        p.fillRect(HEAD, top, end - HEAD, height, ground)
        if end < view.width:
            p.fillRect(end, top, view.width - end, height, theme.PAPER)
        for strong, lines in self.rules.items():
            p.setPen(theme.rule_pen(theme.RULE_STRONG if strong else theme.RULE))
            p.drawLines(lines)
        if self.part[0] < HEAD:
            self._head(row, number, top, height)
        clip = p.clipBoundingRect().toRect()
        p.setClipRect(clip.intersected(QRect(HEAD, top, view.width - HEAD, height)))
        ways = view.ways
        if ways is not None and row.layer is not None and ways.cell.layer == row.layer.id:
            paint_way_lanes(p, view, ways)
        else:
            self._stands(row, top, height)
        p.setClipRect(clip)
        p.fillRect(0, top + height - 1, view.width, 1, theme.RULE_STRONG)

    def _stands(self, row: Row, top: int, height: int) -> None:
        """All that stands on a row and sounds from it."""
        p, view = self.p, self.view
        pale = row.layer is not None and row.layer.id in view.silent
        p.setOpacity(0.5 if pale else 1.0)
        self._chosen_cell(row, top, height)
        shapes = Shapes(p, view, row, top, height, self.driven)
        for off in row.off:
            shapes.off(off)
        for bar in row.bars:
            shapes.bar(bar)
        self._soundings(row, shapes, pale=pale)
        for strike in row.strikes:
            shapes.strike(strike)
        for place in row.presses:
            shapes.press(place)
        for pending in view.pending.get(row.layer.id, ()) if row.layer is not None else ():
            shapes.pending(pending)
        self._trial(row, top, height)
        p.setOpacity(1.0)
        self._opened(row)

    def _opened(self, row: Row) -> None:
        """What is opened in this row, over all that is drawn closed."""
        opened = self.view.opened
        if row.layer is None:
            return
        if isinstance(opened, OpenClip) and opened.cell.layer == row.layer.id:
            paint_open_clip(self.p, self.view, opened)
        elif isinstance(opened, OpenLine) and opened.layer is row.layer:
            paint_open_line(self.p, self.view, opened)

    def _soundings(self, row: Row, shapes: Shapes, *, pale: bool) -> None:
        view = self.view
        seen = in_sight(row, self.layout, *self.part)
        if not len(seen):
            return
        narrow = widths_in_pixels(row, self.layout.scale)[seen] < NARROW
        narrow &= ~row.held[seen]
        few = seen[narrow]
        if len(few):
            waves = view.waves(row)
            waves.fill(row, few, self._wave)
            height = max(6, int(shapes.lower - shapes.upper))
            left, image = narrow_image(row, few, self.layout, waves, height)
            self.p.drawImage(QPointF(left, shapes.upper), image)
        # What rings on from elsewhere lies beneath what begins here.
        wide = seen[~narrow]
        for index in wide[np.argsort(row.own[wide], kind="stable")].tolist():
            trace = row.trace(index)
            if self._is_opened(trace):
                continue
            gone = bool(view.gone) and self._is_gone(row, trace)
            self.p.setOpacity(0.25 if gone else 0.5 if pale else 1.0)
            shapes.trace(trace)
        self.p.setOpacity(1.0)
        if view.chosen or view.shown_sound is not None:
            for index in seen.tolist():
                if self._stands_out(row, index) and not self._is_opened(row.trace(index)):
                    shapes.ring(row.trace(index))

    def _is_opened(self, trace: Trace) -> bool:
        opened = self.view.opened
        return isinstance(opened, OpenClip) and trace is opened.trace

    def _is_gone(self, row: Row, trace: Trace) -> bool:
        cell = (trace.voice.layer, trace.voice.frame)
        return row.layer is not None and cell in self.view.gone and not trace.come_from

    def _stands_out(self, row: Row, index: int) -> bool:
        voice, view = row.voices[index], self.view
        return voice.sound == view.shown_sound or voice.cell in view.chosen

    def _wave(self, row: Row, index: int) -> Columns | None:
        """The waveform of a narrow voice, in a few columns over the whole of it."""
        view = self.view
        voice, axis = row.voices[index], view.traces.axis
        assert axis is not None
        return view.pictures.overview(view.traces, row.trace(index), voice)

    def _across(self, number: int) -> None:
        """What goes over several rows: press points, and what ends voices of other rows."""
        p, view = self.p, self.view
        top, bottom = TOP, self.layout.foot
        for press in self.scene.press_points:
            left = self.layout.frame_x(press.frame)
            if left >= HEAD and press.frame < self.scene.length:
                p.setPen(QPen(theme.INK, 1.2))
                p.drawLine(QPointF(left, top), QPointF(left, bottom))
        for tie in view.traces.ties:
            low, high = sorted((tie.row, tie.to))
            if not low <= number <= high or max(low, high) >= len(self.layout.rows):
                continue
            x = self.layout.x(tie.place)
            if not HEAD <= x <= view.width:
                continue
            middles = [
                self.layout.row_top(row) + self.layout.rows[row] / 2 for row in (tie.row, tie.to)
            ]
            p.setPen(QPen(theme.INK, 0.8, Qt.PenStyle.DashLine))
            p.drawLine(QPointF(x, middles[0]), QPointF(x, middles[1]))
            p.setPen(QPen(theme.INK, 1.6))
            p.drawLine(QPointF(x - 4, middles[1]), QPointF(x + 4, middles[1]))

    def _chosen_cell(self, row: Row, top: int, height: int) -> None:
        cell = self.view.cell
        if cell is None or row.layer is None or cell.layer != row.layer.id:
            return
        left = self.layout.frame_x(cell.frame)
        width = max(3.0, self.layout.scale)
        self.p.fillRect(QRectF(left, top, width, height - 1), theme.wash(theme.MOSS, 60))
        self.p.fillRect(QRectF(left, top, 1, height - 1), theme.MOSS)

    def _trial(self, row: Row, top: int, height: int) -> None:
        """A flag on the frame a sound is tried out on, for nothing is placed there."""
        trial = self.view.trial
        if trial is None or row.layer is None or trial.layer != row.layer.id:
            return
        p, left = self.p, self.layout.frame_x(trial.frame)
        text = "tried out, not placed"
        p.setFont(theme.font(11, 600))
        width = p.fontMetrics().horizontalAdvance(text) + 12
        p.setPen(QPen(theme.INK, 1.4, Qt.PenStyle.DashLine))
        p.drawLine(QPointF(left, top), QPointF(left, top + height))
        p.fillRect(QRectF(left, top + height - 17, width, 16), theme.INK)
        p.setPen(theme.CARD)
        p.drawText(QRectF(left + 6, top + height - 17, width, 16), AlignLeft, text)

    def _head(self, row: Row, number: int, top: int, height: int) -> None:
        cell = self.view.cell
        chosen = cell is not None and row.layer is not None and cell.layer == row.layer.id
        look = head_look(row, chosen=chosen, even=number % 2 == 0, night=theme.is_night())
        self.p.drawPixmap(0, top, head_picture(look, height, self.p.device().devicePixelRatio()))

    # -- the mix -------------------------------------------------------------------------------

    def mix(self) -> None:
        """The waveform of the whole mix, with its master line and what passes full scale."""
        p, view, top, tall = self.p, self.view, self.layout.foot, self.layout.mix
        if view.drawing is not None:
            paint_draw_lane(p, view, DrawLane(self.layout, view.drawing, 1 / view.base.fps))
            return
        if view.value is not None:
            paint_value_lane(p, view, ValueLane(self.layout, *view.value))
            return
        end = max(HEAD, min(view.width, round(self.end_x)))
        p.fillRect(0, top, end, tall, theme.CARD)
        p.fillRect(end, top, view.width - end, tall, theme.PAPER)
        p.fillRect(0, top, view.width, 1, theme.RULE_STRONG)
        write(p, 18, top + 3, "Mix", Letters(13, 600, theme.INK))
        overs = self._overs()
        ink = theme.BRICK if overs else theme.INK_SOFT
        write(p, 18, top + 20, self._mix_words(overs), Letters(11, 400, ink))
        paint_level(p, top, tall, view.project.level)
        low, high = HEAD, min(view.width, int(self.end_x))
        axis, mix = view.traces.axis, view.mix
        if axis is None or mix is None or high - low < 2 or mix.plan is not view.traces.plan:
            return
        places = self.layout.place(0) + np.arange(low, high + 1) / self.layout.scale
        moments = axis.samples(np.clip(places, 0, None))
        columns = mix.columns(moments).astype(np.float64)
        p.drawImage(
            QPointF(low, top + 3), columns_image(columns, tall - 6, theme.wash(theme.INK_SOFT, 150))
        )
        for x in overs:
            if low <= x <= high:
                p.fillRect(QRectF(x - 1, top + 1, 3, 6), theme.BRICK)
                p.fillRect(QRectF(x, top + 1, 1, tall - 2), theme.wash(theme.BRICK, 120))
        if isinstance(view.opened, OpenLine) and view.opened.layer is None:
            p.save()
            p.setClipRect(QRect(HEAD, top, view.width - HEAD, tall))
            paint_open_line(p, view, view.opened)
            p.restore()
        elif self.scene.master:
            p.setPen(QPen(theme.INK, 1.2))
            frames = np.array([self.layout.frame(x) for x in range(low, high, 2)])
            values = np.clip(Curve(self.scene.master).values(frames), 0, 1.0)
            ys = top + 4 + (1 - values) * (tall - 8)
            points = [QPointF(low + 2 * i, y) for i, y in enumerate(ys.tolist())]
            p.drawPolyline(points)

    def _overs(self) -> list[float]:
        """The pixel columns at which the mix of this scene passes full scale."""
        axis, mix = self.view.traces.axis, self.view.mix
        if axis is None or mix is None or mix.plan is not self.view.traces.plan:
            return []
        stay = axis.stay
        inside = [at for at in mix.overs if stay.start <= at < stay.end]
        if not inside:
            return []
        return [self.layout.x(place) for place in axis.places(np.array(inside)).tolist()]

    def _mix_words(self, overs: list[float]) -> str:
        mix = self.view.mix
        if mix is None or not mix.complete:
            return "being mixed …"
        peak = mix.peak_db
        if overs and peak is not None:
            return f"over by {peak:.1f} dB"
        return "silent" if peak is None else f"peak {peak:.1f} dB".replace("-", "−")
