"""What the mouse does on an opened clip or line: one hand for each thing that can be dragged."""

from collections.abc import Iterable
from typing import Literal

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPen
from typing_extensions import override

from cicada.core.editing import Cell, Edit
from cicada.core.keyframe_edits import ChangeKeyframes
from cicada.core.points import moved_points, place_of, value_of, with_point
from cicada.core.reshaping import ReshapeClip
from cicada.core.shaping import Shaped
from cicada.core.timebase import samples_to_seconds
from cicada.core.values import Line
from cicada.errors import BadEdit
from cicada.media.moments import LoudPart, loud_part
from cicada.window.drawing import theme
from cicada.window.drawing.lanes import Lane
from cicada.window.drawing.neighbours import edge_words
from cicada.window.drawing.open_clip import Grip, OpenClip
from cicada.window.sheet.canvas import SheetCanvas
from cicada.window.sheet.hand import (
    HOLD_OFF,
    EditHand,
    Hand,
    Keys,
    losses_said,
    paint_readout,
)
from cicada.window.sheet.snapping import NEAR
from cicada.window.words.numbers import fixed, shown
from cicada.window.words.quantities import count, decibels, pan_text

# Below this, linear, a sound is taken as silent: -50 dB.
SILENT = 10 ** (-50 / 20)
# Values go by this much, and with the snap held off by a fifth of it.
STEP = 0.05


def value_words(lane: Lane, value: float) -> str:
    """A lane's value as its readout says it."""
    if lane.kind == "pan":
        return pan_text(value)
    return f"{shown(value * 100, 4)} %, {decibels(value)}"


class Points(EditHand):
    """Points of a line, dragged together; pressed on the line itself, a new one among them."""

    def __init__(
        self, sheet: SheetCanvas, point: QPointF, lane: Lane, index: int | None, keys: Keys
    ) -> None:
        super().__init__(sheet, point)
        self._lane, self._before = lane, lane.line
        self._line: Line = lane.line
        self._new = index is None
        if index is None:
            # On a frame, unless the snap is held off, or frames are narrower than a hand is.
            x, frame = point.x(), round(sheet.place.frame(point.x()))
            if not keys & HOLD_OFF and (
                sheet.place.scale >= 6 or not isinstance(sheet.opened, OpenClip)
            ):
                x = sheet.place.frame_x(frame)
            place = lane.place_at(x)
            self._line, index = with_point(lane.line, place, lane.curve().at(place))
            sheet.points = {lane.name: frozenset({index})}
        elif index not in sheet.points.get(lane.name, frozenset()):
            sheet.points = {lane.name: frozenset({index})}
        self._index = index
        self._chosen = sheet.points[lane.name]
        self._at = place_of(self._line[index]), value_of(self._line[index])
        self._now = self._line
        sheet.redraw()
        if self._new:
            self.try_out(lane.put(self._line))

    @staticmethod
    def _stepped(value: float, step: float) -> float:
        return round(round(value / step) * step, 6)

    @override
    def drag(self, keys: Keys) -> None:
        lane, sheet = self._lane, self.sheet
        x = lane.x_of(self._at[0]) + self.point.x() - self.pressed.x()
        frame = sheet.place.frame(x)
        near = self.snapped(frame, keys)
        if near is not None:
            x = sheet.place.frame_x(near.frame)
        elif not keys & HOLD_OFF and sheet.place.scale >= 6:
            x = sheet.place.frame_x(round(frame))
        y = lane.y(self._at[1]) + self.point.y() - self.pressed.y()
        step = STEP / 5 if keys & HOLD_OFF else STEP
        value = self._stepped(lane.value_at(y), step)
        if abs(self.point.y() - self.pressed.y()) < 4:
            value = self._at[1]
        place = lane.place_at(x) if abs(self.point.x() - self.pressed.x()) >= 4 else self._at[0]
        self._now = moved_points(
            self._line,
            self._chosen,
            place - self._at[0],
            value - self._at[1],
            last=lane.last,
            values=lane.values,
        )
        self.try_out(lane.put(self._now) if self._now != self._before else None)

    @override
    def drop(self) -> None:
        if self._new:
            self.moved = True
        super().drop()

    @override
    def paint(self, painter: QPainter) -> None:
        one = self._now[self._index]
        lines = [value_words(self._lane, value_of(one)), self._lane.said(place_of(one))]
        if len(self._chosen) > 1:
            lines.append(f"{count(len(self._chosen), 'point')} together")
        paint_readout(self.sheet, painter, self.point, [*lines, self.refusal])


class PointMarquee(Hand):
    """A rectangle that chooses the points of a line that are in it."""

    def __init__(self, sheet: SheetCanvas, point: QPointF, lane: Lane) -> None:
        super().__init__(sheet, point)
        self._lane = lane

    def _box(self) -> QRectF:
        return QRectF(self.pressed, self.point).normalized()

    @override
    def drag(self, keys: Keys) -> None:
        box, lane = self._box(), self._lane
        inside = [i for i in range(len(lane.line)) if box.contains(lane.point(i))]
        self.sheet.points = {lane.name: frozenset(inside)}
        self.sheet.redraw()

    @override
    def drop(self) -> None:
        if not self.moved:
            self.sheet.points = {}
            self.sheet.redraw()

    @override
    def paint(self, painter: QPainter) -> None:
        if self.moved:
            painter.setPen(QPen(theme.INK_SOFT, 1, Qt.PenStyle.DashLine))
            painter.setBrush(theme.wash(theme.INK_SOFT, 24))
            painter.drawRect(self._box())


class _Reshaping(EditHand):
    """The base of hands that make another clip of the one that is opened."""

    named = "shape the clip"

    def __init__(self, sheet: SheetCanvas, point: QPointF, opened: OpenClip) -> None:
        super().__init__(sheet, point, (opened.cell,))
        self.open = opened
        self.shaped: Shaped | None = None
        self.what = ""

    def moment(self, x: float, keys: Keys) -> int:
        """The moment at a pixel column: of a frame, unless the snap is held off."""
        opened, place = self.open, self.sheet.place
        near = self.snapped(place.frame(x), keys)
        self.what = f"at {near.what}" if near else ""
        if near is not None:
            return opened.shaping.clock.enters(near.frame)
        if keys & HOLD_OFF:
            self.what = "to the sample"
            return opened.moment_at(x)
        return opened.shaping.clock.enters(max(0, round(place.frame(x))))

    def show(self, shaped: Shaped) -> None:
        """Try out another shape of the clip."""
        self.shaped = shaped
        same = shaped.clip == self.open.clip
        edit = ReshapeClip(cell=self.open.cell, clip=shaped.clip, named=self.named)
        self.try_out(None if same else edit)

    @override
    def drop(self) -> None:
        super().drop()
        if self.moved and self.edit is not None and self.shaped is not None and not self.refusal:
            self.sheet.session.follow_clip(Cell(self.open.cell.layer, self.shaped.clip.frame))

    def at(self, frame: int) -> int:
        """A frame as the readout says it."""
        return self.sheet.document.project.shown(frame)

    def said(self) -> Iterable[str]:
        """What the readout says first."""
        return ()

    @override
    def paint(self, painter: QPainter) -> None:
        if self.moved:
            gave = self.shaped.gave if self.shaped else ""
            around = edge_words(self.sheet.opened)
            lost = losses_said(self.sheet, self.found)
            lines = [*self.said(), self.what, gave, *around, lost, self.refusal]
            paint_readout(self.sheet, painter, self.point, lines)


class Trim(_Reshaping):
    """The beginning or the end of what is played of a sound."""

    def __init__(
        self, sheet: SheetCanvas, point: QPointF, opened: OpenClip, end: Literal["head", "tail"]
    ) -> None:
        super().__init__(sheet, point, opened)
        self._end = end
        self._silence = self._edge_of_silence()
        self.named = "trim the clip's beginning" if end == "head" else "trim the clip's end"

    def _edge_of_silence(self) -> int | None:
        """The moment the sound begins to be heard, or is heard no more, while it can be known."""
        shaping, sounds = self.open.shaping, self.sheet.sounds
        read, peaks = sounds.read(shaping.clip.sound), sounds.peaks(shaping.clip.sound)
        if read is None or peaks is None:
            return None
        loud = loud_part(read, peaks, SILENT, LoudPart(0, shaping.whole))
        return shaping.moment_of(loud.first if self._end == "head" else loud.last)

    @override
    def drag(self, keys: Keys) -> None:
        moment = self.moment(self.point.x(), keys)
        silence = self._silence
        near = silence is not None and abs(self.open.x_of(silence) - self.point.x()) <= NEAR
        if silence is not None and near and not keys & HOLD_OFF:
            moment, self.what = silence, "at the edge of the silence, −50 dB"
        shaping = self.open.shaping
        try:
            head = self._end == "head"
            self.show(shaping.trim_head(moment) if head else shaping.trim_tail(moment))
        except BadEdit as error:
            self.refusal = str(error)

    @override
    def said(self) -> Iterable[str]:
        opened = self.sheet.opened
        if not isinstance(opened, OpenClip):
            return
        shaping, rate = opened.shaping, opened.rate
        head = self._end == "head"
        moment = opened.begins if head else opened.first_loop_ends
        frame = shaping.clock.frame_at(moment)
        into = moment - shaping.clock.enters(frame)
        if not head and not into:
            # It ends as that frame begins: the one before is the last it is heard on.
            frame -= 1
        more = f" + {fixed(into / rate * 1000, 1)} ms" if into else ""
        yield f"{'starts' if head else 'ends'} on frame {self.at(frame)}{more}"
        before = self.open.shaping.timing
        moved = shaping.timing.first - before.first if head else shaping.timing.last - before.last
        sign = "+" if moved >= 0 else ""
        long = fixed(shaping.timing.loop / rate, 3)
        yield f"{sign}{fixed(moved / rate, 3)} s of the sound, {long} s long"


class Fade(_Reshaping):
    """A fade's corner."""

    def __init__(
        self,
        sheet: SheetCanvas,
        point: QPointF,
        opened: OpenClip,
        end: Literal["fade_in", "fade_out"],
    ) -> None:
        super().__init__(sheet, point, opened)
        self._end: Literal["fade_in", "fade_out"] = end
        self._seconds = 0.0

    @override
    def drag(self, keys: Keys) -> None:
        opened = self.open
        moment = self.moment(self.point.x(), keys)
        over = opened.fade_ends
        samples = moment - opened.begins if self._end == "fade_in" else over - moment
        samples = max(0, min(samples, over - opened.begins))
        self._seconds = samples_to_seconds(samples, opened.rate)
        edit: Edit = ChangeKeyframes(
            cells=(opened.cell,), changes={self._end: self._seconds}, what="the fade"
        )
        self.try_out(None if self._seconds == getattr(opened.clip, self._end) else edit)

    @override
    def said(self) -> Iterable[str]:
        name = "fade in" if self._end == "fade_in" else "fade out"
        fps = self.sheet.planning.plan.timebase.fps
        yield f"{name} {fixed(self._seconds, 3)} s, {fixed(self._seconds * fps, 1)} f"


class Slip(_Reshaping):
    """The sound, slipped under its place."""

    named = "slip the sound"

    @override
    def drag(self, keys: Keys) -> None:
        opened = self.open
        by = opened.moment_at(self.pressed.x()) - opened.moment_at(self.point.x())
        if not keys & HOLD_OFF:
            frame = opened.traces.plan.timebase.start(1)
            by = round(by / frame) * frame
        self.show(opened.shaping.slip(opened.shaping.heard_before_speed(by)))

    @override
    def said(self) -> Iterable[str]:
        opened = self.sheet.opened
        if isinstance(opened, OpenClip):
            first = opened.shaping.timing.first
            by = first - self.open.shaping.timing.first
            said = fixed(by / opened.rate, 3)
            yield f"plays from {fixed(first / opened.rate, 3)} s of the sound ({said} s)"


class Land(_Reshaping):
    """A hit, dragged onto the frame it is to be heard on."""

    named = "land the hit on a frame"

    def __init__(self, sheet: SheetCanvas, point: QPointF, opened: OpenClip, hit: Grip) -> None:
        super().__init__(sheet, point, opened)
        self._sample, self._kind = hit.sample, hit.kind
        self._frame = 0

    @override
    def drag(self, keys: Keys) -> None:
        place = self.sheet.place.frame(self.point.x())
        near = self.snapped(place, keys)
        self.what = f"at {near.what}" if near else ""
        last = self.sheet.session.scene.length - 1
        self._frame = max(0, min(near.frame if near else round(place), last))
        try:
            self.show(self.open.shaping.land(self._sample, self._frame))
        except BadEdit as error:
            self.try_out(None)
            self.refusal = str(error)

    @override
    def said(self) -> Iterable[str]:
        name = self.open.sound.label
        yield f"the {self._kind} of {name} lands on frame {self.at(self._frame)}"
        opened = self.sheet.opened
        if isinstance(opened, OpenClip):
            delay = opened.clip.delay
            more = f" and waits {fixed(delay * 1000, 1)} ms" if delay else ""
            yield f"it starts on frame {self.at(opened.clip.frame)}{more}"


class Overlap(_Reshaping):
    """The beginning of the second loop, dragged into the first: how far loops overlap."""

    def __init__(self, sheet: SheetCanvas, point: QPointF, opened: OpenClip) -> None:
        super().__init__(sheet, point, opened)
        self._seconds = opened.clip.loop_overlap

    @override
    def drag(self, keys: Keys) -> None:
        opened = self.open
        loop = opened.shaping.timing.loop
        moment = opened.moment_at(self.point.x())
        samples = max(0, min(opened.first_loop_ends - moment, loop // 2))
        seconds = samples_to_seconds(samples, opened.rate)
        self._seconds = seconds if keys & HOLD_OFF else round(seconds, 2)
        edit = ChangeKeyframes(
            cells=(opened.cell,), changes={"loop_overlap": self._seconds}, what="the loop overlap"
        )
        self.try_out(None if self._seconds == opened.clip.loop_overlap else edit)

    @override
    def said(self) -> Iterable[str]:
        fps = self.sheet.planning.plan.timebase.fps
        yield f"loops overlap by {fixed(self._seconds, 3)} s, {fixed(self._seconds * fps, 1)} f"


def hand_on_clip(sheet: SheetCanvas, point: QPointF, opened: OpenClip) -> Hand | None:
    """The hand for what is under a point of an opened clip; None leaves it to the sheet."""
    grip = opened.grip_at(point)
    if grip is None:
        return None
    if grip.kind in ("head", "tail"):
        return Trim(sheet, point, opened, "head" if grip.kind == "head" else "tail")
    if grip.kind in ("fade_in", "fade_out"):
        return Fade(sheet, point, opened, "fade_in" if grip.kind == "fade_in" else "fade_out")
    if grip.kind in ("hit", "peak"):
        return Land(sheet, point, opened, grip)
    if grip.kind == "overlap":
        return Overlap(sheet, point, opened)
    return Slip(sheet, point, opened)
