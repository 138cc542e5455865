"""What a hand on the sheet is, and one whose edit is drawn while it is dragged.

A hand is made where the button goes down, told of every move, and dropped where it goes up. What
it would do is planned and drawn while it is dragged, and said beside the pointer; only dropping
it is an edit. Frames are snapped to always, other things unless the snap is held off.
"""

from collections.abc import Iterable

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPen
from typing_extensions import override

from cicada.core.editing import Cell, Edit
from cicada.core.overlaps import Loss, losses
from cicada.errors import CicadaError
from cicada.window.drawing import theme
from cicada.window.sheet.canvas import SheetCanvas
from cicada.window.sheet.snapping import Snapped, Targets
from cicada.window.words.quantities import count

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
