"""The meters beside the card: loudness and peaks of the whole, each layer's peak, and overs."""

import time
from functools import partial
from math import log10

from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import (
    QColor,
    QHideEvent,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QPolygonF,
    QShowEvent,
)
from PySide6.QtWidgets import (
    QFrame,
    QHBoxLayout,
    QLabel,
    QMenu,
    QPushButton,
    QScrollArea,
    QSizePolicy,
    QVBoxLayout,
    QWidget,
)
from typing_extensions import override

from cicada.window.drawing import theme
from cicada.window.playing.metering import Metering, Over
from cicada.window.state.session import Session
from cicada.window.widgets.rows import soft
from cicada.window.words.loudness import lufs_text, peak_text, sides_text
from cicada.window.words.quantities import count

# What the scales go down to, in dB, and how fast a peak falls again, in dB a second.
FLOOR, FALL = -48.0, 30.0
WHOLE, ROW, NAME, NUMBER = 122, 22, 112, 46
# What is written below the layer that is measured closely.
CLOSE = 32
MARGIN = 4
LEFT = Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter
RIGHT = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
# So many frames past full scale are listed, the worst first.
LISTED = 24


def share(level: float, top: float = 0.0) -> float:
    """How far along a scale that ends at ``top`` dB a linear level is, from 0 to 1."""
    if level <= 0:
        return 0.0
    return max(0.0, min(1.0, (20 * log10(level) - FLOOR) / (top - FLOOR)))


class Falling:
    """A level that rises at once and falls evenly."""

    def __init__(self) -> None:
        self.level, self._at = 0.0, 0.0

    def take(self, level: float, now: float) -> float:
        """What it shows at ``now`` (seconds), with ``level`` the highest since it was asked."""
        fallen = self.level * 10 ** (-FALL * min(1.0, now - self._at) / 20)
        self.level, self._at = max(level, fallen if fallen > 1e-4 else 0.0), now
        return self.level


class MetersPanel(QFrame):
    """Shows what ``Metering`` has; follows it only while it is seen."""

    def __init__(self, session: Session, metering: Metering) -> None:
        super().__init__()
        self.setObjectName("card")
        self._session, self._metering = session, metering
        column = QVBoxLayout(self)
        column.setContentsMargins(12, 10, 10, 8)
        column.setSpacing(4)
        row = QHBoxLayout()
        title = QLabel("Meters")
        title.setFont(theme.font(13, 600))
        row.addWidget(title)
        row.addStretch(1)
        row.addWidget(soft("true peak so far, dB"))
        column.addLayout(row)
        self.whole = Whole(metering)
        column.addWidget(self.whole)
        self.layers = Layers(session, metering)
        area = QScrollArea()
        area.setFrameShape(QFrame.Shape.NoFrame)
        area.setWidgetResizable(True)
        area.setWidget(self.layers)
        area.viewport().setAutoFillBackground(False)
        self.layers.setAutoFillBackground(False)
        area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        column.addWidget(area, 1)
        self.overs = QPushButton()
        self.overs.setObjectName("over")
        self.overs.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Fixed)
        self.overs.setToolTip("The frames on which it passes full scale, to go to")
        self.overs.setMenu(QMenu(self))
        self.overs.menu().aboutToShow.connect(self._list_overs)
        self.overs.hide()
        column.addWidget(self.overs)
        self._shown: dict[Over, float] = {}
        metering.changed.connect(self._follow)
        metering.film_changed.connect(self.whole.update)
        session.scene_changed.connect(self.layers.refresh)
        session.document.changed.connect(self.layers.refresh)

    @override
    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        self._metering.want_film(on=True)
        self.layers.refresh()
        self._show_overs()

    @override
    def hideEvent(self, event: QHideEvent) -> None:
        super().hideEvent(event)
        self._metering.want_film(on=False)

    def _follow(self) -> None:
        if not self.isVisible():
            return
        now = time.monotonic()
        self.whole.follow(now)
        self.layers.follow(now)
        if self._metering.overs != self._shown:
            self._show_overs()

    # -- past full scale -------------------------------------------------------------------------

    def _worst_first(self) -> list[Over]:
        overs = self._metering.overs
        there = {scene.id for scene in self._session.document.project.scenes}
        return sorted((x for x in overs if x.scene in there), key=lambda x: -overs[x])

    def _show_overs(self) -> None:
        """Say on how many frames it is over, and where the most."""
        self._shown = dict(self._metering.overs)
        found = self._worst_first()
        self.overs.setVisible(bool(found))
        if found:
            frames = len({(over.scene, over.frame) for over in found})
            more = "or more " if self._metering.more_overs else ""
            words = f"Over on {more}{count(frames, 'frame')}, most"
            self.overs.setText(f"{words} {self._words(found[0])}")

    def _words(self, over: Over) -> str:
        project = self._session.document.project
        by = peak_text(self._metering.overs[over]).lstrip("+")
        how = "between samples " if over.true else ""
        frame = f"frame {project.shown(over.frame)}"
        here = over.scene == self._session.scene_id
        where = frame if here else f"{frame} of {project.scene(over.scene).label}"
        return f"{how}by {by} dB on {where}"

    def _list_overs(self) -> None:
        menu = self.overs.menu()
        menu.clear()
        for over in self._worst_first()[:LISTED]:
            menu.addAction(f"Go there: {self._words(over)}", partial(self._go, over))

    def _go(self, over: Over) -> None:
        self._session.show_scene(over.scene)
        self._session.move_playhead(over.frame)
        self._session.gone_to.emit(over.frame)


class Whole(QWidget):
    """Left and right against a scale in dB, and loudness against one in LUFS."""

    def __init__(self, metering: Metering) -> None:
        super().__init__()
        self._metering = metering
        self.setFixedHeight(WHOLE)
        self.setAccessibleName("Loudness of the whole")
        self._sides = Falling(), Falling()
        self._peaks = 0.0, 0.0
        self._painted: tuple[object, ...] = ()

    def follow(self, now: float) -> None:
        """Show what is audible now."""
        metering = self._metering
        left, right = metering.sides
        self._peaks = self._sides[0].take(left, now), self._sides[1].take(right, now)
        wide = max(1, self.width())
        pixels = tuple(round(share(peak, 3.0) * wide) for peak in self._peaks)
        said = metering.whole._replace(balance=None, correlation=None)
        balance = round((metering.whole.balance or 0.0) * 50)
        alike = round((metering.whole.correlation or 0.0) * 50)
        painted = (
            pixels,
            lufs_text(said.momentary),
            said.integrated,
            said.true_peaks,
            balance,
            alike,
        )
        if painted != self._painted:
            self._painted = painted
            self.setAccessibleDescription(self._words())
            self.update()

    def _words(self) -> str:
        whole = self._metering.whole
        return (
            f"{lufs_text(whole.momentary)} now, {lufs_text(whole.short)} over 3 s, "
            f"{lufs_text(whole.integrated)} LUFS so far; "
            f"true peak {peak_text(max(whole.true_peaks))} dB; "
            f"{sides_text(whole.balance, whole.correlation)}"
        )

    @override
    def paintEvent(self, event: QPaintEvent) -> None:
        p = QPainter(self)
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        self._paint_sides(p)
        self._paint_loudness(p)
        self._paint_balance(p)

    def _paint_sides(self, p: QPainter) -> None:
        """Two lines on a scale, with the highest true peaks as numbers."""
        left, right = 16.0, self.width() - NUMBER - 6.0
        held = self._metering.whole.true_peaks
        _scale(p, (left, right), (3.0, 26.0), 3.0, (-36, -24, -12, 0))
        for number, (name, peak) in enumerate(zip("LR", self._peaks, strict=True)):
            y, high = 8.0 + number * 13, held[number]
            p.setFont(theme.font(11))
            p.setPen(theme.INK_SOFT)
            p.drawText(QRectF(0, y - 8, 14, 16), LEFT, name)
            _line(p, left, right, y, share(peak, 3.0), over=peak > 1)
            ink = theme.BRICK if high > 1 else theme.INK
            if high > 0:
                at = left + (right - left) * share(high, 3.0)
                p.fillRect(QRectF(at - 1, y - 5, 2, 10), ink)
            p.setPen(ink)
            p.drawText(QRectF(right + 4, y - 8, NUMBER, 16), RIGHT, peak_text(high))

    def _paint_loudness(self, p: QPainter) -> None:
        whole, film = self._metering.whole, self._metering.film
        left, right, y = 16.0, self.width() - 10.0, 50.0
        _scale(p, (left, right), (y - 4, y + 5), 0.0, (-36, -23, -14, 0))
        now = 0.0 if whole.momentary is None else _loud_share(whole.momentary)
        _line(p, left, right, y, now, over=False)
        for value, mark in ((whole.short, _tick), (whole.integrated, _diamond)):
            if value is not None:
                mark(p, left + (right - left) * _loud_share(value), y, theme.MOSS)
        if film is not None and film.loudness is not None:
            _diamond(p, left + (right - left) * _loud_share(film.loudness), y, None)
        p.setFont(theme.font(12))
        p.setPen(theme.INK)
        said, short, so_far = map(lufs_text, (whole.momentary, whole.short, whole.integrated))
        p.drawText(
            QRectF(16, 70, self.width() - 20, 16), LEFT,
            f"{said} now   {short} over 3 s   {so_far} so far   LUFS",
        )  # fmt: skip
        p.setPen(theme.INK_SOFT)
        p.drawText(QRectF(16, 87, self.width() - 20, 16), LEFT, self._film_words())

    def _film_words(self) -> str:
        film = self._metering.film
        if film is None:
            return "whole film: being measured …" if self._metering.busy else "whole film: –"
        loud = "silent, or too short to measure"
        if film.loudness is not None:
            loud = f"{lufs_text(film.loudness)} LUFS"
        return f"whole film: {loud}, true peak {peak_text(film.true_peak)} dB"

    def _paint_balance(self, p: QPainter) -> None:
        """Where the sound stands from left to right, and how alike the sides are."""
        whole, y = self._metering.whole, 113.0
        half = (self.width() - 16.0) / 2
        p.setFont(theme.font(11))
        for number, (name, value, ends) in enumerate(
            (("balance", whole.balance, ("L", "R")), ("alike", whole.correlation, ("−1", "+1")))
        ):
            left = 16 + number * half + (62 if number == 0 else 52)
            wide = half - 96
            p.setPen(theme.INK_SOFT)
            p.drawText(QRectF(16 + number * half, y - 8, 50, 16), LEFT, name)
            p.drawText(QRectF(left - 22, y - 8, 16, 16), RIGHT, ends[0])
            p.drawText(QRectF(left + wide + 5, y - 8, 18, 16), LEFT, ends[1])
            p.fillRect(QRectF(left, y - 0.5, wide, 1), theme.RULE_STRONG)
            p.fillRect(QRectF(left + wide / 2, y - 4, 1, 8), theme.RULE_STRONG)
            if value is not None:
                against = number == 1 and value < 0
                p.setBrush(theme.BRICK if against else theme.MOSS)
                p.setPen(theme.NO_PEN)
                p.drawEllipse(QPointF(left + wide * (value + 1) / 2, y), 4, 4)


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
            _line(p, left, right, y, share(peak, 3.0), over=peak > 1)
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


def _loud_share(value: float) -> float:
    return max(0.0, min(1.0, (value - FLOOR) / -FLOOR))


def _scale(
    p: QPainter,
    across: tuple[float, float],
    down: tuple[float, float],
    end: float,
    marks: tuple[int, ...],
) -> None:
    """Hairlines at some dB of a scale that ends at ``end``, with their numbers below."""
    (left, right), (top, bottom) = across, down
    p.setFont(theme.font(9))
    p.setPen(theme.INK_SOFT)
    for mark in marks:
        x = left + (right - left) * (mark - FLOOR) / (end - FLOOR)
        p.fillRect(QRectF(x, top, 1, bottom - top), theme.RULE_STRONG)
        text = str(mark).replace("-", "−")
        p.drawText(QRectF(x - 15, bottom, 30, 11), Qt.AlignmentFlag.AlignCenter, text)


def _line(p: QPainter, left: float, right: float, y: float, part: float, *, over: bool) -> None:
    """A hairline with its first part thick."""
    p.fillRect(QRectF(left, y - 0.5, right - left, 1), theme.RULE_STRONG)
    p.fillRect(QRectF(left, y - 2, (right - left) * part, 4), theme.BRICK if over else theme.MOSS)


def _tick(p: QPainter, x: float, y: float, colour: QColor | None) -> None:
    p.fillRect(QRectF(x - 1, y - 6, 2, 12), colour or theme.INK)


def _diamond(p: QPainter, x: float, y: float, colour: QColor | None) -> None:
    """Filled for what was heard, open for what there is."""
    p.setPen(QPen(colour or theme.INK, 1.2))
    p.setBrush(colour if colour is not None else Qt.BrushStyle.NoBrush)
    points = [(x, y - 5), (x + 4, y), (x, y + 5), (x - 4, y)]
    p.drawPolygon(QPolygonF([QPointF(*point) for point in points]))
