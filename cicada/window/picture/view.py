"""The picture: the frame under the playhead."""

from PySide6.QtCore import QPoint, QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import (
    QColor,
    QContextMenuEvent,
    QDragEnterEvent,
    QDropEvent,
    QImage,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QResizeEvent,
)
from PySide6.QtWidgets import QWidget
from typing_extensions import override

from cicada.core.picture_parts import source_of
from cicada.core.stack import USUAL_RATIO, drawn_on
from cicada.window.drawing import theme
from cicada.window.picture.outline import PlaceOutline
from cicada.window.picture.zones_over import ZonesOver
from cicada.window.playing.transport import Transport
from cicada.window.playing.zones import Zones
from cicada.window.state.frames import Frames, Urgency
from cicada.window.state.session import Session
from cicada.window.widgets.drag import let_files_in, take_files
from cicada.window.words.quantities import begun, waits_text

# Pictures are fetched at a few heights only, so that a moving splitter does not fetch each anew.
HEIGHTS = (180, 270, 360, 540, 720, 1080, 1440, 2160)


# What can be drawn over the picture: two frames that stay on every screen, a cross, the number.
OVER = {"safe": "Safe areas", "centre": "The centre", "number": "The frame's number"}
SAFE = (0.035, 0.05)


class PictureView(QWidget):
    """Shows the picture of the playhead's frame, as large as fits."""

    files_dropped = Signal(list)
    painted = Signal(int)
    menu_wanted = Signal(QPoint)
    # What is drawn over it has changed.
    told = Signal()

    def __init__(
        self, session: Session, frames: Frames, transport: Transport, zones: Zones
    ) -> None:
        super().__init__()
        self._transport = transport
        # What is drawn over it, of ``OVER``.
        self.over: frozenset[str] = frozenset()
        self.setAcceptDrops(True)
        self.session, self.frames = session, frames
        self._image: QImage | None = None
        self.shown_frame: int | None = None
        # Whether the picture of the playhead's frame is still on its way.
        self._awaited = False
        # Of the part whose place can be dragged, if one is.
        self.outline = PlaceOutline()
        self.zones = ZonesOver(zones)
        zones.changed.connect(self._show_wait)
        self.setMinimumSize(200, 112)
        self.setAccessibleName("Picture")
        session.playhead_moved.connect(self.refresh)
        session.scene_changed.connect(self.refresh)
        session.document.changed.connect(self.refresh)
        frames.arrived.connect(self._take)
        frames.forgotten.connect(self.refresh)
        transport.waiting_changed.connect(self._show_wait)
        self._show_wait()

    def _take(self, urgency: int) -> None:
        """Something was fetched: perhaps what is waited for."""
        if urgency != Urgency.STRIP and self._awaited:
            self.refresh()

    def refresh(self) -> None:
        """Fetch and show the picture of the playhead's frame."""
        session, frames = self.session, self.frames
        scene, frame = session.scene, session.playhead
        shown = self._transport.picture
        if shown is not None and shown[0] == scene.id:
            frame = shown[1]
        wanted = self.height() * self.devicePixelRatioF()
        height = next((h for h in HEIGHTS if h >= wanted), HEIGHTS[-1])
        image = frames.picture(scene, frame, height)
        self._awaited = image is None
        if image is None:
            return
        if image is self._image and frame == self.shown_frame:
            self.update()
        else:
            self._image, self.shown_frame = image, frame
            # At once, for Qt lets an update wait some milliseconds and sound does not.
            self.repaint()
        frames.ahead(scene, frame, height)

    @override
    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self.refresh()

    @override
    def sizeHint(self) -> QSize:
        return QSize(404, 227)

    @override
    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        box = QRectF(self.rect())
        image = self._image
        if image is None or image.isNull():
            painter.fillRect(_fitted(box, USUAL_RATIO), theme.ROW_OTHER)
            painter.setPen(theme.INK_SOFT)
            painter.setFont(theme.font(13))
            if not self._awaited:
                painter.drawText(box, Qt.AlignmentFlag.AlignCenter, self._empty_words())
            self.zones.paint(painter, _fitted(box, USUAL_RATIO))
            self._paint_wait(painter, _fitted(box, USUAL_RATIO))
            return
        painter.drawImage(_fitted(box, image.width() / image.height()), image)
        fitted = _fitted(box, image.width() / image.height())
        self._paint_over(painter, fitted)
        self.outline.paint(painter, fitted)
        self.zones.paint(painter, fitted)
        self._paint_wait(painter, fitted)
        if self.shown_frame is not None:
            self.painted.emit(self.shown_frame)

    def show_over(self, over: frozenset[str]) -> None:
        """Draw these over the picture."""
        self.over = over
        self.update()
        self.told.emit()

    def _paint_over(self, painter: QPainter, box: QRectF) -> None:
        """Guides and the frame's number, light on dark so that they are seen on any picture."""
        for colour, width in ((QColor(0, 0, 0, 140), 3.0), (QColor(255, 255, 255, 220), 1.0)):
            painter.setPen(QPen(colour, width))
            if "safe" in self.over:
                for share in SAFE:
                    aside = box.width() * share, box.height() * share
                    painter.drawRect(box.adjusted(aside[0], aside[1], -aside[0], -aside[1]))
            if "centre" in self.over:
                middle, arm = box.center(), box.height() * 0.06
                painter.drawLine(middle - QPointF(arm, 0), middle + QPointF(arm, 0))
                painter.drawLine(middle - QPointF(0, arm), middle + QPointF(0, arm))
        if "number" in self.over and self.shown_frame is not None:
            number = str(self.session.document.project.shown(self.shown_frame))
            painter.setFont(theme.font(max(13, box.height() * 0.06), 600))
            wide = painter.fontMetrics().horizontalAdvance(number) + 16
            tall = painter.fontMetrics().height() + 6
            place = QRectF(box.right() - wide - 8, box.top() + 8, wide, tall)
            painter.fillRect(place, QColor(0, 0, 0, 150))
            painter.setPen(QColor(255, 255, 255))
            painter.drawText(place, Qt.AlignmentFlag.AlignCenter, number)

    @property
    def waiting(self) -> str:
        """What the picture waits for; empty if it does not."""
        point = self._transport.waiting
        return "" if point is None else begun(waits_text(point))

    def _show_wait(self) -> None:
        hand, arrow = Qt.CursorShape.PointingHandCursor, Qt.CursorShape.ArrowCursor
        cross = Qt.CursorShape.CrossCursor
        drawing = bool(self.zones.zones.drawing)
        self.setCursor(cross if drawing else hand if self.waiting else arrow)
        self.update()

    def _paint_wait(self, painter: QPainter, box: QRectF) -> None:
        if not self.waiting:
            return
        strip = QRectF(box.left(), box.bottom() - 44, box.width(), 44)
        painter.fillRect(strip, theme.wash(theme.CARD, 235))
        painter.setPen(theme.INK)
        painter.setFont(theme.font(13, 600))
        inside = strip.adjusted(12, 4, -12, -4)
        metrics = painter.fontMetrics()
        words = metrics.elidedText(self.waiting, Qt.TextElideMode.ElideRight, int(inside.width()))
        painter.drawText(inside, Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignTop, words)
        painter.setPen(theme.INK_SOFT)
        painter.setFont(theme.font(11.5))
        painter.drawText(
            inside, Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignBottom,
            "Enter or a click here lets it go on",
        )  # fmt: skip

    def _box(self) -> QRectF:
        """Where the picture is in the view."""
        image = self._image
        ratio = USUAL_RATIO if image is None or image.isNull() else image.width() / image.height()
        return _fitted(QRectF(self.rect()), ratio)

    @override
    def mousePressEvent(self, event: QMouseEvent) -> None:
        if event.button() != Qt.MouseButton.LeftButton:
            return
        if self.zones.press(event.position(), self._box()):
            self.update()
        elif self.waiting:
            self._transport.press()
        else:
            self.outline.press(event.position(), self._box())

    @override
    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if not self.zones.move(event.position()):
            self.outline.move(event.position(), self._box())
        self.update()

    @override
    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if not self.zones.drop(self._box()):
            self.outline.drop()
        self.update()

    @override
    def contextMenuEvent(self, event: QContextMenuEvent) -> None:
        self.menu_wanted.emit(event.globalPos())

    @override
    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        let_files_in(event)

    @override
    def dropEvent(self, event: QDropEvent) -> None:
        take_files(event, self.files_dropped.emit)

    def _empty_words(self) -> str:
        """What stands in the picture's place."""
        scene = self.session.scene
        if not scene.picture:
            return (
                "No picture yet.\nDrop images, a video or a folder\nof numbered images here,\n"
                "or choose them with Ctrl+P."
            )
        drawn = drawn_on(scene, self.session.playhead)
        if not drawn:
            return "No part of the picture\nstands on this frame."
        source = source_of(drawn[-1].part)
        return f"The picture cannot be shown:\n{source}\nChoose it again with Ctrl+P."


def _fitted(box: QRectF, ratio: float) -> QRectF:
    width = min(box.width(), box.height() * ratio)
    height = width / ratio
    return QRectF(box.left() + (box.width() - width) / 2, box.top(), width, height)
