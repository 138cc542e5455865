"""A line for each layer's peak."""

from PySide6.QtCore import QRectF, QSize, Qt
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent
from PySide6.QtWidgets import QWidget
from typing_extensions import override

from cicada.window.drawing import theme
from cicada.window.playing.meter_lines import LEFT, NUMBER, RIGHT, Falling, paint_line, share
from cicada.window.playing.metering import Metering
from cicada.window.state.session import Session
from cicada.window.words.loudness import lufs_text, peak_text, sides_text

ROW, NAME, MARGIN = 22, 112, 4
# What is written below the layer that is measured closely.
CLOSE = 32


class Layers(QWidget):
    """A line for each layer of the scene; the chosen one is measured closely."""

    def __init__(self, session: Session, metering: Metering) -> None:
        super().__init__()
        self._session, self._metering = session, metering
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Peaks of the layers")
        self._ids: list[str] = []
        self._levels: dict[str, Falling] = {}
        self._pixels: dict[str, tuple[int, str]] = {}
        self.setToolTip("A click measures a layer closely: loudness, true peak and sides")

    def refresh(self) -> None:
        """Take the layers of the scene that is shown."""
        ids = [layer.id for layer in self._session.scene.layers]
        if ids != self._ids:
            self._ids = ids
            self._levels = {layer: self._levels.get(layer, Falling()) for layer in ids}
            self.updateGeometry()
        if self._metering.layer and self._metering.layer not in ids:
            self._metering.choose("")
        self.setMinimumHeight(self.sizeHint().height())
        self.update()

    @override
    def sizeHint(self) -> QSize:
        return QSize(300, ROW * len(self._ids) + (CLOSE if self._metering.layer else 0) + 2)

    def follow(self, now: float) -> None:
        """Show what is audible now."""
        peaks = self._metering.layers
        wide = max(1, self.width() - NAME - NUMBER)
        pixels = {
            layer: (
                round(share(falling.take(peaks.get(layer, 0.0), now), 3.0) * wide),
                peak_text(self._metering.highest.get(layer, 0.0)),
            )
            for layer, falling in self._levels.items()
        }
        if self._metering.layer:
            pixels[""] = (0, " ".join(self._close_words()))
        if pixels != self._pixels:
            self._pixels = pixels
            self.update()

    def _close_words(self) -> tuple[str, str]:
        chosen = self._metering.chosen
        now, short, so_far = map(lufs_text, (chosen.momentary, chosen.short, chosen.integrated))
        peak = peak_text(max(chosen.true_peaks))
        sides = sides_text(chosen.balance, chosen.correlation)
        return (
            f"{now} now   {short} over 3 s   {so_far} so far   LUFS",
            f"true peak {peak}, {sides}",
        )

    @override
    def paintEvent(self, event: QPaintEvent) -> None:
        p = QPainter(self)
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        names = {layer.id: layer.label for layer in self._session.scene.layers}
        left, right, top = float(NAME), self.width() - NUMBER - 6.0, 0.0
        for layer in self._ids:
            y, close = top + ROW / 2, layer == self._metering.layer
            p.setFont(theme.font(12, 600 if close else 400))
            p.setPen(theme.INK if close else theme.INK_SOFT)
            name = p.fontMetrics().elidedText(
                names.get(layer, ""), Qt.TextElideMode.ElideRight, NAME - 10
            )
            p.drawText(QRectF(MARGIN, y - 9, NAME - 8, 18), LEFT, name)
            peak, high = self._levels[layer].level, self._metering.highest.get(layer, 0.0)
            paint_line(p, left, right, y, share(peak, 3.0), over=peak > 1)
            if high > 0:
                at = left + (right - left) * share(high, 3.0)
                p.fillRect(QRectF(at - 1, y - 5, 2, 10), theme.INK)
            p.setPen(theme.INK_SOFT)
            p.drawText(QRectF(right + 4, y - 9, NUMBER, 18), RIGHT, peak_text(high))
            top += ROW
            if close:
                p.setFont(theme.font(11))
                p.setPen(theme.INK)
                room = self.width() - 2 * MARGIN
                for number, line in enumerate(self._close_words()):
                    words = p.fontMetrics().elidedText(line, Qt.TextElideMode.ElideRight, room)
                    p.drawText(QRectF(MARGIN, top - 4 + 14 * number, room, 16), LEFT, words)
                top += CLOSE
        if self.hasFocus():
            p.fillRect(QRectF(0, 0, 2, self.height()), theme.MOSS)

    def _at(self, y: float) -> str:
        """The layer under a pixel line."""
        top = 0.0
        for layer in self._ids:
            top += ROW + (CLOSE if layer == self._metering.layer else 0)
            if y < top:
                return layer
        return ""

    def _choose(self, layer: str) -> None:
        self._metering.choose("" if layer == self._metering.layer else layer)
        self.setMinimumHeight(self.sizeHint().height())
        self.updateGeometry()
        self.update()

    @override
    def mousePressEvent(self, event: QMouseEvent) -> None:
        layer = self._at(event.position().y())
        if layer:
            self._choose(layer)

    @override
    def keyPressEvent(self, event: QKeyEvent) -> None:
        step = {Qt.Key.Key_Up: -1, Qt.Key.Key_Down: 1}.get(Qt.Key(event.key()), 0)
        if not step or not self._ids:
            super().keyPressEvent(event)
            return
        before = self._metering.layer
        at = self._ids.index(before) if before in self._ids else (-1 if step > 0 else 0)
        self._choose(self._ids[max(0, min(len(self._ids) - 1, at + step))])
