"""Painting what stands above the rows: rulers, marks, press points, and the film strip."""

from collections.abc import Iterator
from math import floor

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QLineF, QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPen

from cicada.core.beats import beats
from cicada.core.model import Scene
from cicada.core.stack import ends
from cicada.window.drawing import theme
from cicada.window.drawing.labels import Letters, write
from cicada.window.drawing.layout import FILM, HEAD, MARKS, RULER, STRIP, SheetLayout
from cicada.window.drawing.view import SheetView
from cicada.window.words.quantities import plays_text, waits_text

AlignLeft = Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter
STEPS = (1, 2, 4, 6, 12, 24, 48, 120, 240, 480, 1200, 2400, 7200, 14400, 72000, 720000)
PARTS = (0.5, 0.25, 0.1, 0.05, 0.025, 0.01, 0.005, 0.002, 0.001)
# Beats that are less wide, in pixels, are drawn by fours.
LEAST_BEAT = 7.0
ROOM = 46
# How high the bars are below frames that last too long, and on pictures that are dropped.
LATE = 3


def major_step(view: SheetView) -> int:
    """How many frames apart numbered lines are."""
    fps = max(1, round(view.base.fps))
    for step in sorted({*STEPS, fps // 2 or 1, fps, 2 * fps, 5 * fps, 10 * fps, 60 * fps}):
        if step * view.layout.scale >= ROOM:
            return step
    return STEPS[-1]


def frames_in_sight(view: SheetView, step: int) -> range:
    """Every ``step``-th frame on the sheet."""
    layout = view.layout
    first = max(0, floor(layout.frame(HEAD)) // step * step)
    last = min(view.traces.scene.length, floor(layout.frame(view.width)) + 1)
    return range(first, last, step)


def beats_in_sight(view: SheetView) -> list[tuple[bool, float]]:
    """Each beat on the sheet: whether it is the first of four, and its frame; or only those."""
    base, scene, layout = view.base, view.traces.scene, view.layout
    low, high = (layout.frame(x) for x in (HEAD, view.width))
    start, end = base.start(floor(max(0, low))), base.start(floor(high) + 1)
    end = min(end, base.start(scene.length))
    slowest = min(60 * base.fps / tempo.bpm for tempo in scene.tempo) * layout.scale
    return [
        (number % 4 == 1, base.position(moment))
        for number, moment in beats(scene, base, start, end)
        if slowest >= LEAST_BEAT or number % 4 == 1
    ]


def paint_rulers(p: QPainter, view: SheetView) -> None:
    """The rulers with what stands on them."""
    _Rulers(p, view).paint()


class _Rulers:
    def __init__(self, painter: QPainter, view: SheetView) -> None:
        self.p, self.view, self.layout = painter, view, view.layout
        self.scene, self.base = view.traces.scene, view.base

    def paint(self) -> None:
        p, view = self.p, self.view
        end = max(HEAD, min(view.width, round(view.end_x)))
        p.fillRect(0, 0, end, RULER, theme.CARD)
        p.fillRect(end, 0, view.width - end, RULER, theme.PAPER)
        soft = Letters(11, 400, theme.INK_SOFT)
        write(p, 18, MARKS + 1, f"{view.unit} ▾", soft)
        write(p, 18, MARKS + 20, "frames", soft)
        p.save()
        p.setClipRect(QRectF(HEAD, 0, view.width - HEAD, RULER))
        self._range()
        self._frames()
        upper = [(round(x), text) for x, text in self._upper()]
        p.setPen(theme.rule_pen(theme.RULE_STRONG))
        p.drawLines([QLineF(x + 0.5, MARKS + 4, x + 0.5, MARKS + 20) for x, _ in upper])
        for x, text in upper:
            write(p, x + 4, MARKS + 1, text, soft)
        self._late()
        self._waits()
        flags = sorted(
            [(mark.frame, mark.text, False) for mark in self.scene.marks]
            + [(p.frame, waits_text(p), True) for p in self.scene.press_points]
        )
        inside = [flag for flag in flags if flag[0] < self.scene.length]
        for number, (frame, text, press) in enumerate(inside):
            following = inside[number + 1 : number + 2]
            until = self.layout.frame_x(following[0][0]) if following else float(self.view.width)
            self._flag(self.layout.frame_x(frame), until, text, press=press)
        self._end()
        p.restore()
        p.setPen(QPen(theme.RULE_STRONG, 1))
        p.drawLine(QPointF(0, 0.5), QPointF(view.width, 0.5))

    def _range(self) -> None:
        """The frames marked to be played: a band, with a foot at either end."""
        if self.view.range is None:
            return
        first, last = self.view.range
        left, right = self.layout.frame_x(first), self.layout.frame_x(last + 1)
        played = self.view.range_is_played
        self.p.fillRect(
            QRectF(left, MARKS + 1, right - left, RULER - MARKS - 1),
            theme.wash(theme.MOSS, 56 if played else 22),
        )
        ink = theme.MOSS if played else theme.INK_SOFT
        self.p.fillRect(QRectF(left, RULER - 4, right - left, 3), ink)
        for x in (left, right - 2):
            self.p.fillRect(QRectF(x, MARKS + 1, 2, RULER - MARKS - 2), ink)

    def _frames(self) -> None:
        p, x = self.p, self.layout.frame_x
        major = major_step(self.view)
        minor = next((s for s in (1, 2, 3, 4, 6, 12, 24) if s * self.layout.scale >= 7), major)
        ticks = [round(x(frame)) + 0.5 for frame in frames_in_sight(self.view, minor)]
        p.setPen(theme.rule_pen(theme.RULE))
        p.drawLines([QLineF(at, RULER - 8, at, RULER) for at in ticks])
        second = max(1, round(self.base.fps))
        numbered = frames_in_sight(self.view, major)
        for whole in (False, True):
            frames = [frame for frame in numbered if (frame % second == 0) == whole]
            p.setPen(theme.rule_pen(theme.RULE_STRONG if whole else theme.RULE))
            at = [round(x(frame)) + 0.5 for frame in frames]
            p.drawLines([QLineF(left, MARKS + 22, left, RULER) for left in at])
            letters = Letters(11.5, 600 if whole else 400, theme.INK)
            for frame in frames:
                text = str(self.view.project.shown(frame))
                write(p, x(frame) + 4, MARKS + 20, text, letters)

    def _upper(self) -> Iterator[tuple[float, str]]:
        """Where the upper ruler has lines, and what it says there."""
        if self.view.unit == "beats":
            yield from self._beats()
            return
        major, second = major_step(self.view), max(1, round(self.base.fps))
        if self.layout.scale > 4 * ROOM and self.view.unit == "seconds":
            yield from self._parts()
            return
        step = major if major % second == 0 else -(-major // second) * second
        for frame in frames_in_sight(self.view, step):
            seconds = f"{self.base.seconds(frame):g} s"
            text = seconds if self.view.unit == "seconds" else self.base.timecode(frame)
            yield self.layout.frame_x(frame), text

    def _parts(self) -> Iterator[tuple[float, str]]:
        """Parts of a second, where a frame is wide."""
        fps = self.base.fps
        step = min((s for s in PARTS if s * fps * self.layout.scale >= 70), default=PARTS[-1])
        digits = len(f"{step:g}".partition(".")[2])
        number = max(0, floor(self.layout.frame(HEAD) / fps / step))
        while (frame := number * step * fps) <= self.scene.length:
            x = self.layout.frame_x(frame)
            if x > self.view.width:
                break
            yield x, f"{number * step:.{digits}f} s"
            number += 1

    def _beats(self) -> Iterator[tuple[float, str]]:
        if not self.scene.tempo:
            yield self.layout.frame_x(0), "no tempo: click here to set one"
            return
        low, high = (self.layout.frame(x) for x in (HEAD, self.view.width))
        start, end = self.base.start(floor(max(0, low))), self.base.start(floor(high) + 1)
        end = min(end, self.base.start(self.scene.length))
        last = -ROOM * 1.0
        for number, moment in beats(self.scene, self.base, start, end):
            x = self.layout.frame_x(self.base.position(moment))
            if x - last >= ROOM * 0.6 or number == 1:
                yield x, str(number)
                last = x

    def _waits(self) -> None:
        """Where opened waits break the rulers."""
        axis = self.view.traces.axis
        for wait in axis.waits if axis is not None else ():
            if wait.width:
                left = self.layout.frame_x(wait.frame)
                width = wait.width * self.layout.scale
                box = QRectF(left, MARKS + 1, width, RULER - MARKS - 1)
                self.p.fillRect(box, theme.wash(theme.PLUM, 40))
                self.p.setPen(QPen(theme.PLUM, 1))
                self.p.setFont(theme.font(10.5, italic=True))
                text = f"waits {wait.samples / self.base.rate:.2f} s"
                self.p.drawText(box, Qt.AlignmentFlag.AlignCenter, text)

    def _late(self) -> None:
        """The frames that a slow machine stretches, and those on which sound leads there."""
        axis = self.view.traces.axis
        if axis is not None and (len(axis.late) or len(axis.leads)):
            late = np.repeat(axis.late[:, None], 2, axis=1)
            _bars(self.p, self.view, late, RULER - LATE, LATE, theme.OCHRE)
            _bars(self.p, self.view, axis.leads, RULER - LATE, LATE, theme.SLATE)

    def _flag(self, left: float, until: float, text: str, *, press: bool) -> None:
        """A mark or a press point, with as much of its text as there is room for."""
        p = self.p
        p.setFont(theme.font(10.5))
        room = int(until - left - (14 if press else 12))
        text = p.fontMetrics().elidedText(text, Qt.TextElideMode.ElideRight, max(0, room))
        width = p.fontMetrics().horizontalAdvance(text)
        p.setPen(QPen(theme.INK if press else theme.INK_SOFT, 1.4 if press else 1))
        p.drawLine(QPointF(left, 1.5), QPointF(left, RULER))
        if press:
            p.fillRect(QRectF(left - 4, 3, 8, 8), theme.INK)
        else:
            p.setBrush(theme.ROW_OTHER)
            p.drawRect(QRectF(left, 1.5, width + 10, 15))
        p.setPen(theme.INK)
        p.drawText(
            QRectF(left + (8 if press else 5), -1 if press else 0, width + 4, 18), AlignLeft, text
        )

    def _end(self) -> None:
        """Where the film is over: how often it plays."""
        view = self.view
        if view.project.scenes[-1].id != self.scene.id:
            return
        left = self.layout.frame_x(self.scene.length)
        if left > view.width:
            return
        p = self.p
        p.setPen(QPen(theme.INK, 1.4))
        p.drawLine(QPointF(left, MARKS), QPointF(left, RULER))
        box = end_box(view.layout, self.scene.length)
        words = plays_text(view.project.plays)
        write(p, box.left(), box.top(), words, Letters(10.5, 400, theme.INK_SOFT))


def end_box(layout: SheetLayout, length: int) -> QRectF:
    """Where it is said how often the film plays."""
    left = layout.frame_x(length)
    return QRectF(left + 5, MARKS + 1, 100, 20)


def paint_film(p: QPainter, view: SheetView) -> None:
    """The film strip with the ends of the picture's parts, or what to do to have one."""
    scene = view.traces.scene
    p.fillRect(0, RULER, view.width, FILM, theme.PAPER)
    soft = Letters(11, 400, theme.INK_SOFT)
    write(p, 18, RULER + 9, "picture", soft)
    p.save()
    p.setClipRect(QRectF(HEAD, RULER, max(0.0, view.end_x - HEAD), FILM))
    if not scene.picture:
        p.fillRect(QRectF(HEAD, RULER + 2, view.end_x - HEAD, FILM - 6), theme.ROW_OTHER)
        text = "No picture. Drop images, a video or a folder here, or choose them with Ctrl+P."
        write(p, HEAD + 12, RULER + 8, text, soft)
        p.restore()
        return
    width = STRIP * view.film_ratio
    for left, frame in _strip(view, width):
        box = QRectF(left + 0.5, RULER + 3, width - 1.5, STRIP)
        image = view.film(frame, STRIP)
        if image is None or image.isNull():
            p.fillRect(box, theme.ROW_OTHER)
        else:
            p.drawImage(box, image)
    _part_ends(p, view)
    axis = view.traces.axis
    if axis is not None and len(axis.dropped):
        _bars(p, view, axis.dropped, RULER + 3, STRIP, theme.wash(theme.PAPER, 190))
        _bars(p, view, axis.dropped, RULER + 3 + STRIP - LATE, LATE, theme.BRICK)
    p.restore()


def _bars(
    p: QPainter, view: SheetView, runs: NDArray[np.int64], top: int, height: int, colour: QColor
) -> None:
    """A bar over each run of frames in sight, first and last; those on one pixel are one."""
    layout = view.layout
    low, high = np.searchsorted(
        runs[:, 1], (floor(layout.frame(HEAD)), floor(layout.frame(view.width)) + 1)
    )
    sides = {
        (round(layout.frame_x(first)), round(layout.frame_x(last + 1)))
        for first, last in runs[low : high + 1].tolist()
    }
    for left, right in sides:
        p.fillRect(left, top, max(1, right - left - (right - left > 3)), height, colour)


def _strip(view: SheetView, width: float) -> Iterator[tuple[float, int]]:
    """Where the strip's pictures begin, and of which frames they are.

    Close up every frame has its own, at its beginning.
    """
    layout, last = view.layout, view.traces.scene.length - 1
    if layout.scale >= width:
        for frame in range(int(max(0.0, layout.frame(HEAD))), last + 1):
            left = layout.frame_x(frame)
            if left > view.end_x:
                return
            yield left, frame
        return
    left = HEAD - (layout.left * layout.scale) % width
    while left < view.end_x:
        yield left, min(int(max(0.0, layout.frame(left))), last)
        left += width


def _part_ends(p: QPainter, view: SheetView) -> None:
    """A notch wherever a part of the picture begins or ends inside the scene."""
    scene = view.traces.scene
    for frame in part_ends(scene):
        x = round(view.layout.frame_x(frame))
        p.fillRect(QRectF(x - 2, RULER + 1, 5, FILM - 4), theme.PAPER)
        p.fillRect(QRectF(x, RULER + 1, 1, FILM - 4), theme.INK)
        p.fillRect(QRectF(x - 2, RULER + 1, 5, 3), theme.INK)
        p.fillRect(QRectF(x - 2, RULER + FILM - 6, 5, 3), theme.INK)


def part_ends(scene: Scene) -> list[int]:
    """The frames inside a scene on which a part of its picture begins or ends."""
    found = {part.start for part in scene.picture}
    found |= {ends(part, scene.length) for part in scene.picture}
    return sorted(frame for frame in found if 0 < frame < scene.length)
