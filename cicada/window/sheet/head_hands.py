"""What the mouse does in the heads of the rows: layers ordered, made higher, louder."""

from msgspec.structs import replace
from PySide6.QtCore import QPointF, QRectF
from PySide6.QtGui import QPainter
from typing_extensions import override

from cicada.core.layer_edits import ChangeLayer, MoveLayer
from cicada.core.model import Clip
from cicada.core.outline import loudest
from cicada.core.scene_edits import ChangeProject
from cicada.window.drawing import theme
from cicada.window.drawing.heads import level_bar
from cicada.window.drawing.layout import LEAST_ROW, MOST_ROW
from cicada.window.sheet.canvas import SheetCanvas
from cicada.window.sheet.hand import HOLD_OFF, EditHand, Hand, Keys, paint_readout
from cicada.window.words.quantities import level_text, peaks_at


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


class LayerLevel(EditHand):
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
