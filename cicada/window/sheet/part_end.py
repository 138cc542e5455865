"""What the mouse does to the parts of the picture: on the film strip, and in the picture itself."""

from PySide6.QtCore import QPointF
from PySide6.QtGui import QPainter
from typing_extensions import override

from cicada.core.picture_edits import MovePartEnds
from cicada.window.sheet.canvas import SheetCanvas
from cicada.window.sheet.hand import EditHand, Keys, paint_readout


class PartEnd(EditHand):
    """Where parts of the picture begin and end, dragged on the film strip."""

    def __init__(self, sheet: SheetCanvas, point: QPointF, frame: int) -> None:
        super().__init__(sheet, point)
        self._from = self._to = frame
        self._what = ""

    @override
    def drag(self, keys: Keys) -> None:
        place = self.sheet.place.frame(self.point.x())
        near = self.snapped(place, keys)
        last = self.sheet.session.scene.length
        self._to = max(0, min(last, near.frame if near else round(place)))
        self._what = near.what if near else ""
        scene = self.sheet.session.scene_id
        self.try_out(MovePartEnds(scene=scene, frame=self._from, to=self._to))

    @override
    def paint(self, painter: QPainter) -> None:
        if self.moved:
            first = f"from {self.at_frame(self._to)}  ({self._to - self._from:+d} f)"
            what = f"at {self._what}" if self._what else ""
            paint_readout(self.sheet, painter, self.point, [first, what, self.refusal])
