"""The picture: the frame under the playhead."""

from PySide6.QtCore import QRectF, QSize, Qt, Signal
from PySide6.QtGui import QDragEnterEvent, QDropEvent, QImage, QPainter, QPaintEvent
from PySide6.QtWidgets import QWidget
from typing_extensions import override

from cicada.window import theme
from cicada.window.frames import Frames
from cicada.window.session import Session
from cicada.window.shelf_drag import dragged_files

# Pictures are fetched at a few heights only, so that a moving splitter does not fetch each anew.
HEIGHTS = (180, 270, 360, 540, 720, 1080)


class PictureView(QWidget):
    """Shows the picture of the playhead's frame, as large as fits."""

    files_dropped = Signal(list)

    def __init__(self, session: Session, frames: Frames) -> None:
        super().__init__()
        self.setAcceptDrops(True)
        self._session, self._frames = session, frames
        self._image: QImage | None = None
        self.shown_frame: int | None = None
        self.setMinimumSize(200, 112)
        self.setAccessibleName("Picture")
        session.playhead_moved.connect(self.refresh)
        session.scene_changed.connect(self.refresh)
        session.document.changed.connect(self.refresh)
        frames.arrived.connect(self.refresh)

    def refresh(self) -> None:
        """Fetch and show the picture of the playhead's frame."""
        session = self._session
        path = self._frames.path(session.scene, session.document.file, session.playhead)
        if path is None:
            self._image = None
        else:
            height = next((h for h in HEIGHTS if h >= self.height()), HEIGHTS[-1])
            image = self._frames.picture(path, height)
            if image is not None:
                self._image, self.shown_frame = image, session.playhead
        self.update()

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
            painter.fillRect(_fitted(box, 16 / 9), theme.ROW_OTHER)
            painter.setPen(theme.INK_SOFT)
            painter.setFont(theme.font(13))
            painter.drawText(box, Qt.AlignmentFlag.AlignCenter, self._empty_words())
            return
        painter.drawImage(_fitted(box, image.width() / image.height()), image)

    @override
    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        if dragged_files(event.mimeData()):
            event.acceptProposedAction()

    @override
    def dropEvent(self, event: QDropEvent) -> None:
        files = dragged_files(event.mimeData())
        if files:
            event.acceptProposedAction()
            self.files_dropped.emit(files)

    def _empty_words(self) -> str:
        """What stands in the picture's place."""
        if self._session.scene.picture:
            folder = self._session.scene.picture[-1].folder
            return f"The picture cannot be shown:\n{folder}\nChoose it again with Ctrl+P."
        return "No picture yet.\nDrop a folder of numbered images\nhere, or choose one with Ctrl+P."


def _fitted(box: QRectF, ratio: float) -> QRectF:
    width = min(box.width(), box.height() * ratio)
    height = width / ratio
    return QRectF(box.left() + (box.width() - width) / 2, box.top(), width, height)
