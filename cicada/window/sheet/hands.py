"""What the mouse does on the sheet: one hand for each thing that can be dragged.

A hand is made where the button goes down, told of every move, and dropped where it goes up. What
it would do is planned and drawn while it is dragged, and said beside the pointer; only dropping
it is an edit. Frames are snapped to always, other things unless the snap is held off.
"""

from collections.abc import Iterable

from msgspec.structs import replace
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPen
from typing_extensions import override

from cicada.core.arrange import Shift
from cicada.core.editing import Cell, Edit
from cicada.core.keyframe_edits import MoveSpanEnd, PlaceClip
from cicada.core.layer_edits import ChangeLayer, MoveLayer
from cicada.core.model import Clip, Rest
from cicada.core.outline import loudest
from cicada.core.overlaps import Loss, losses
from cicada.core.placed import span_ends
from cicada.core.scene_edits import ChangeProject, MoveMark, MovePressPoint
from cicada.errors import CicadaError
from cicada.window.drawing import theme
from cicada.window.drawing.heads import level_bar
from cicada.window.drawing.layout import LEAST_ROW, MARKS, MOST_ROW, RULER, TOP
from cicada.window.sheet.canvas import SheetCanvas
from cicada.window.sheet.snapping import Snapped, Targets
from cicada.window.words.quantities import count, level_text, peaks_at

Keys = Qt.KeyboardModifier
# Movements less than this, in pixels, are those of a click.
FIRST_MOVE = 4
# The key that holds the snap off, and the one that copies what is dragged.
# Alt alone would do, but many desktops take a drag with it for themselves.
HOLD_OFF, COPIES = Keys.AltModifier | Keys.ShiftModifier, Keys.ControlModifier


class Hand:
    """The base of all: does nothing until it has moved far enough to mean it."""

    def __init__(self, sheet: SheetCanvas, point: QPointF) -> None:
        self.sheet, self.pressed = sheet, point
        self.point = point
        self.moved = False
        # What it was taken hold of in.
        self.ground = sheet.session.scene

    def move(self, point: QPointF, keys: Keys) -> None:
        """The pointer is here now."""
        self.point = point
        if (point - self.pressed).manhattanLength() >= FIRST_MOVE:
            self.moved = True
        if self.moved:
            self.drag(keys)
            self.sheet.viewport().update()

    def stands(self) -> bool:
        """Whether the scene it was taken hold of in is still there to drag it over."""
        return self.sheet.session.scene.id == self.ground.id

    def drag(self, keys: Keys) -> None:
        """Follow the pointer."""

    def drop(self) -> None:
        """The button is up."""

    def let_go(self) -> None:
        """Forget it: nothing is to happen."""

    def paint(self, painter: QPainter) -> None:
        """Draw what the hand is at."""


def paint_readout(sheet: SheetCanvas, painter: QPainter, at: QPointF, lines: Iterable[str]) -> None:
    """Say something in a small box beside a point."""
    shown = [line for line in lines if line]
    if not shown:
        return
    painter.setFont(theme.font(11.5, 600))
    metrics = painter.fontMetrics()
    width = max(metrics.horizontalAdvance(line) for line in shown) + 16
    height = 17 * len(shown) + 6
    port = sheet.viewport().rect()
    left = min(at.x() + 12, port.width() - width - 4.0)
    top = max(2.0, min(at.y() + 14, port.height() - height - 4.0))
    painter.setPen(QPen(theme.RULE_STRONG, 1))
    painter.setBrush(theme.CARD)
    painter.drawRoundedRect(QRectF(left, top, width, height), 4, 4)
    for number, line in enumerate(shown):
        painter.setPen(theme.INK if number == 0 else theme.INK_SOFT)
        painter.setFont(theme.font(11.5, 600 if number == 0 else 400))
        painter.drawText(QPointF(left + 8, top + 16 + 17 * number), line)


def losses_said(sheet: SheetCanvas, found: list[Loss]) -> str:
    """What an edit costs the clips around it, in a few words."""
    names = sheet.traces.names
    cut = [f"cuts {names[x.sound]} {count(x.frames, 'frame')} short" for x in found if x.frames]
    gone = [f"replaces {names[x.sound]}" for x in found if not x.frames]
    said = [*gone, *cut]
    return ", ".join(said[:3]) + (f" and {len(said) - 3} more" if len(said) > 3 else "")


class Scrub(Hand):
    """The playhead, dragged along the rulers."""

    def __init__(self, sheet: SheetCanvas, point: QPointF) -> None:
        super().__init__(sheet, point)
        self._go()

    @override
    def move(self, point: QPointF, keys: Keys) -> None:
        self.point = point
        self._go()

    def _go(self) -> None:
        frame = self.sheet.under.frame(self.point.x())
        if frame != self.sheet.session.playhead or not self.moved:
            self.moved = True
            self.sheet.session.move_playhead(frame)
            self.sheet.scrubbed.emit(frame)

    @override
    def drop(self) -> None:
        self.sheet.let_go_of_playhead.emit()

    @override
    def let_go(self) -> None:
        self.sheet.let_go_of_playhead.emit()


class MarkRange(Hand):
    """The range that is played, dragged on the rulers."""

    def frames(self) -> tuple[int, int]:
        """Its first and last frame, as far as it has been dragged."""
        sheet = self.sheet
        first, last = sorted(sheet.under.frame(p.x()) for p in (self.pressed, self.point))
        return first, last

    @override
    def drop(self) -> None:
        if self.moved:
            self.sheet.range_marked.emit(*self.frames())

    @override
    def paint(self, painter: QPainter) -> None:
        if not self.moved:
            return
        sheet, (first, last) = self.sheet, self.frames()
        left, right = sheet.place.frame_x(first), sheet.place.frame_x(last + 1)
        painter.fillRect(
            QRectF(left, MARKS, right - left, RULER - MARKS), theme.wash(theme.MOSS, 60)
        )
        base = sheet.planning.plan.timebase
        seconds = base.seconds(last + 1) - base.seconds(first)
        shown = sheet.document.project.shown
        text = f"{shown(first)} to {shown(last)}: {last + 1 - first} f, {seconds:.3f} s"
        paint_readout(sheet, painter, self.point, [text])


class EditHand(Hand):
    """A hand whose edit is planned and drawn while it is dragged."""

    def __init__(self, sheet: SheetCanvas, point: QPointF, moved: Iterable[Cell] = ()) -> None:
        super().__init__(sheet, point)
        self.own = frozenset(moved)
        self.targets = Targets(
            sheet.snapping, sheet.traces, sheet.sounds, sheet.hits, sheet.session.playhead, self.own
        )
        self._trial = sheet.planning.trial()
        self.edit: Edit | None = None
        self.refusal = ""
        self.found: list[Loss] = []

    def snapped(self, frame: float, keys: Keys) -> Snapped | None:
        """What is near a frame, unless the snap is held off."""
        if keys & HOLD_OFF:
            return None
        return self.targets.nearest(frame, self.sheet.place.scale)

    def try_out(self, edit: Edit | None) -> None:
        """Show what an edit would do; None shows the film as it is."""
        if edit == self.edit:
            return
        self.edit, self.refusal, self.found = edit, "", []
        if edit is None:
            self._trial.end()
            return
        try:
            made = self._trial.of(edit)
        except CicadaError as error:
            self.refusal = str(error)
            return
        project, scene = self.sheet.document.project, self.sheet.session.scene_id
        self.found = losses(project, made, scene, self.own)

    @override
    def stands(self) -> bool:
        """Whether nothing in the scene is another than it was taken hold of."""
        return self.sheet.session.scene is self.ground

    @override
    def drop(self) -> None:
        if self.moved and self.edit is not None:
            self.sheet.document.do(self.edit)
        # An edit that comes to nothing leaves the film as it is, and no trial of it.
        self._trial.end()

    @override
    def let_go(self) -> None:
        self._trial.end()

    def at_frame(self, frame: int) -> str:
        """A frame and its time, as the readout says them."""
        shown = self.sheet.document.project.shown(frame)
        seconds = self.sheet.planning.plan.timebase.seconds(frame)
        return f"frame {shown}, {seconds:.3f} s"


class Move(EditHand):
    """Chosen keyframes, dragged to other frames and layers, or copied there."""

    def __init__(
        self, sheet: SheetCanvas, point: QPointF, grabbed: Cell, *, was_chosen: bool = False
    ) -> None:
        self.was_chosen = was_chosen
        self._shift = Shift(sheet.session.scene, sheet.session.chosen)
        super().__init__(sheet, point, self._shift.all)
        self.grabbed = grabbed
        self._grabbed_x = sheet.place.frame_x(grabbed.frame)
        self._by, self._rows = 0, 0
        self._what = ""
        self._copies = False

    @override
    def drag(self, keys: Keys) -> None:
        sheet = self.sheet
        place = sheet.place.frame(self._grabbed_x + self.point.x() - self.pressed.x())
        near = self.snapped(place, keys)
        self._what = near.what if near else ""
        layers = [layer.id for layer in sheet.session.scene.layers]
        over = sheet.under.layer(self.point.y())
        row = layers.index(self.grabbed.layer)
        rows = 0 if over is None else layers.index(over.id) - row
        by = (near.frame if near else round(place)) - self.grabbed.frame
        self._by, self._rows = self._shift.within(by, rows)
        self._copies = bool(keys & COPIES)
        shift = self._shift.copying if self._copies else self._shift.moving
        self.try_out(shift(self._by, self._rows))

    @override
    def drop(self) -> None:
        super().drop()
        if self.moved and self.edit is not None and not self.refusal:
            cells = [self._shift.moved(c, self._by, self._rows) for c in self._shift.cells]
            lead = self._shift.moved(self.grabbed, self._by, self._rows)
            self.sheet.session.choose_all(cells, lead)

    @override
    def paint(self, painter: QPainter) -> None:
        if not self.moved:
            return
        to = self.grabbed.frame + self._by
        first = f"{'copy to ' if self._copies else ''}{self.at_frame(to)}  ({self._by:+d} f)"
        what = f"at {self._what}" if self._what else ""
        said = losses_said(self.sheet, self.found)
        paint_readout(self.sheet, painter, self.point, [first, what, said, self.refusal])


class SpanEnd(EditHand):
    """The end of a clip's span."""

    def __init__(self, sheet: SheetCanvas, point: QPointF, clip: Cell) -> None:
        super().__init__(sheet, point, (clip,))
        self._clip = clip
        self._to, self._what = clip.frame + 1, ""
        scene = sheet.session.scene
        ends = span_ends(scene, scene.layer(clip.layer))
        self._from = ends.get(clip.frame, scene.length)

    @override
    def drag(self, keys: Keys) -> None:
        place = self.sheet.place.frame(self.point.x())
        near = self.snapped(place, keys)
        self._to = max(self._clip.frame + 1, near.frame if near else round(place))
        self._what = near.what if near else ""
        layer, frame = self._clip
        self.try_out(MoveSpanEnd(layer=layer, frame=frame, to=self._to))

    @override
    def paint(self, painter: QPainter) -> None:
        if self.moved:
            span = count(self._to - self._clip.frame, "frame")
            change = f"  ({self._to - self._from:+d} f)"
            first = f"span ends at {self.at_frame(self._to)}{change}"
            what = f"at {self._what}" if self._what else ""
            paint_readout(
                self.sheet, painter, self.point, [first, f"{span} long", what, self.refusal]
            )


class Marquee(Hand):
    """A rectangle that chooses the keyframes in it; a click chooses the frame under it."""

    def __init__(self, sheet: SheetCanvas, point: QPointF, cell: Cell | None, keys: Keys) -> None:
        super().__init__(sheet, point)
        adds = keys & (Keys.ShiftModifier | Keys.ControlModifier)
        self._before = sheet.session.chosen if adds else frozenset()
        self._cell = cell

    @override
    def drag(self, keys: Keys) -> None:
        self.sheet.session.choose_all(self._before | self._inside())

    def _inside(self) -> frozenset[Cell]:
        sheet, box = self.sheet, self._box()
        found = set()
        for row, (number, top, height) in (
            (sheet.traces.rows[each[0]], each) for each in sheet.place.rows_in_sight()
        ):
            middle = top + height / 2
            if row.layer is None or not box.top() <= middle <= box.bottom() or number < 0:
                continue
            for keyframe in row.layer.keyframes:
                x = sheet.place.frame_x(keyframe.frame)
                if box.left() <= x <= box.right() and not isinstance(keyframe, Rest):
                    found.add(Cell(row.layer.id, keyframe.frame))
        return frozenset(found)

    def _box(self) -> QRectF:
        return QRectF(self.pressed, self.point).normalized()

    @override
    def drop(self) -> None:
        if not self.moved and self._cell is not None:
            self.sheet.session.choose(self._cell)
            self.sheet.session.move_playhead(self._cell.frame)
            self.sheet.stepped.emit(self._cell.frame)

    @override
    def paint(self, painter: QPainter) -> None:
        if self.moved:
            painter.setPen(QPen(theme.MOSS, 1, Qt.PenStyle.DashLine))
            painter.setBrush(theme.wash(theme.MOSS, 24))
            painter.drawRect(self._box())
            chosen = len(self.sheet.session.chosen)
            words = f"{count(chosen, 'keyframe')} chosen" if chosen else ""
            paint_readout(self.sheet, painter, self.point, [words])


class LayerOrder(Hand):
    """A layer, dragged by its head to another place."""

    @override
    def stands(self) -> bool:
        return self.sheet.session.scene is self.ground

    def __init__(self, sheet: SheetCanvas, point: QPointF, layer: str) -> None:
        super().__init__(sheet, point)
        self._layer, self._to = layer, -1

    @override
    def drag(self, keys: Keys) -> None:
        place, layers = self.sheet.place, self.sheet.session.scene.layers
        self._to = sum(
            self.point.y() > place.row_top(row) + place.rows[row] / 2
            for row in range(min(len(layers), len(place.rows)))
        )

    @override
    def drop(self) -> None:
        layers = [layer.id for layer in self.sheet.session.scene.layers]
        before = layers.index(self._layer)
        to = self._to - (self._to > before)
        if self.moved and to != before:
            self.sheet.document.do(MoveLayer(layer=self._layer, to=to))

    @override
    def paint(self, painter: QPainter) -> None:
        if self.moved:
            y = self.sheet.place.row_top(self._to)
            painter.fillRect(QRectF(0, y - 1.5, self.sheet.viewport().width(), 3), theme.MOSS)


class Height(Hand):
    """The lower edge of a row."""

    @override
    def stands(self) -> bool:
        return self.sheet.session.scene is self.ground

    def __init__(self, sheet: SheetCanvas, point: QPointF, row: int) -> None:
        super().__init__(sheet, point)
        self._row, self._before = row, sheet.place.rows[row]

    @override
    def drag(self, keys: Keys) -> None:
        height = round(self._before + self.point.y() - self.pressed.y())
        layer = self.sheet.traces.rows[self._row].layer
        if layer is not None:
            self.sheet.set_height(layer.id, max(LEAST_ROW, min(height, MOST_ROW)))


class Level(EditHand):
    """The level of a layer, or of the whole mix (no row), dragged on the bar in its head."""

    def __init__(self, sheet: SheetCanvas, point: QPointF, row: int | None) -> None:
        super().__init__(sheet, point)
        place, self._layer = sheet.place, None if row is None else sheet.traces.rows[row].layer
        top, height = (
            (place.foot, place.mix) if row is None else (place.row_top(row), place.rows[row])
        )
        self._upper, self._tall = level_bar(top, height)
        self._before = sheet.document.project.level if self._layer is None else self._layer.level
        self._level = self._before

    @override
    def drag(self, keys: Keys) -> None:
        share = 1 - (self.point.y() - self._upper) / self._tall
        step = 0.01 if keys & HOLD_OFF else 0.05
        self._level = round(max(0.0, min(2.0, 2 * share)) / step) * step
        self._level = round(self._level, 4)
        changes = {"level": self._level}
        if self._layer is None:
            self.try_out(ChangeProject(changes=changes))
        else:
            self.try_out(ChangeLayer(layer=self._layer.id, changes=changes))

    def peak(self) -> str:
        """What peaks the level causes, in words."""
        sheet = self.sheet
        if self._layer is None:
            mix = sheet.mix_row.mix
            if mix is None or mix.peak_db is None or not self._before or not self._level:
                return ""
            level = 10 ** (mix.peak_db / 20)
            # The mix is worked out anew while the level is dragged; until then it is reckoned.
            if mix.project.level == self._before:
                level *= self._level / self._before
            return f"the mix {peaks_at(level)}"
        project = sheet.document.project
        layer = replace(self._layer, level=self._level)
        clips = [k for k in layer.keyframes if isinstance(k, Clip)]
        loud = max(
            (loudest(project, layer, k, sheet.sounds.peaks(k.sound)) for k in clips), default=0.0
        )
        return f"its loudest clip {peaks_at(loud)}" if loud else ""

    @override
    def paint(self, painter: QPainter) -> None:
        if self.moved:
            lines = [level_text(self._level), self.peak()]
            paint_readout(self.sheet, painter, self.point, lines)


class OnRuler(EditHand):
    """A mark or a press point, dragged along the ruler; a click puts the playhead there."""

    def __init__(self, sheet: SheetCanvas, point: QPointF, frame: int, *, press: bool) -> None:
        super().__init__(sheet, point)
        self._frame, self._to, self._press = frame, frame, press
        self.targets.frames = {f: w for f, w in self.targets.frames.items() if f != frame}
        self._what = ""

    @override
    def drag(self, keys: Keys) -> None:
        place = self.sheet.place.frame(self.point.x())
        near = self.snapped(place, keys)
        last = self.sheet.session.scene.length - 1
        self._to = max(0, min(near.frame if near else round(place), last))
        self._what = near.what if near else ""
        kind = MovePressPoint if self._press else MoveMark
        edit = kind(scene=self.sheet.session.scene_id, frame=self._frame, to=self._to)
        self.try_out(edit if self._to != self._frame else None)

    @override
    def drop(self) -> None:
        super().drop()
        if not self.moved:
            self.sheet.session.move_playhead(self._frame)
            self.sheet.stepped.emit(self._frame)

    @override
    def paint(self, painter: QPainter) -> None:
        if self.moved:
            lines = [f"{self.at_frame(self._to)}  ({self._to - self._frame:+d} f)"]
            what = f"at {self._what}" if self._what else ""
            paint_readout(self.sheet, painter, self.point, [*lines, what])


class Dropping(EditHand):
    """Something dragged in from elsewhere: where it would stand, and what it would cut."""

    def __init__(self, sheet: SheetCanvas, sound: str) -> None:
        super().__init__(sheet, QPointF())
        self._sound = sound
        self.cell: Cell | None = None
        # Whether it is over the film strip, and becomes a part of the picture.
        self.on_strip = False
        self._what = ""
        self.moved = True

    @override
    def stands(self) -> bool:
        # What it would be put among is looked at anew with each move.
        return self.sheet.session.scene.id == self.ground.id

    def over(self, point: QPointF, keys: Keys) -> Cell:
        """The pointer is here: the cell it would be dropped on; no layer means a new one."""
        self.point = point
        place = self.sheet.place.frame(point.x())
        near = self.snapped(place, keys)
        last = self.sheet.session.scene.length - 1
        frame = max(0, min(near.frame if near else int(place // 1), last))
        self._what = near.what if near else ""
        layer = self.sheet.under.layer(point.y())
        self.on_strip = not self._sound and RULER <= point.y() < TOP
        self.cell = Cell("" if layer is None else layer.id, frame)
        if self._sound and layer is not None:
            self.try_out(PlaceClip(layer=layer.id, frame=frame, sound=self._sound))
        else:
            self.try_out(None)
        return self.cell

    @override
    def paint(self, painter: QPainter) -> None:
        if self.cell is None:
            return
        row = self.sheet.traces.row_of(self.cell.layer)
        first = self.at_frame(self.cell.frame)
        if self.on_strip:
            first += ", in the picture"
        elif row is None:
            first += ", on a new layer"
        else:
            top, height = self.sheet.place.row_top(row), self.sheet.place.rows[row]
            x = self.sheet.place.frame_x(self.cell.frame)
            painter.fillRect(QRectF(x - 1, top, 2, height), theme.MOSS)
        what = f"at {self._what}" if self._what else ""
        said = losses_said(self.sheet, self.found)
        paint_readout(self.sheet, painter, self.point, [first, what, said, self.refusal])
