"""Further views of the picture: in a window of its own, and large over the sheet."""

from PySide6.QtCore import QEvent, QObject, Qt, Signal
from PySide6.QtGui import QCloseEvent, QKeyEvent, QMouseEvent, QPainter, QPaintEvent
from PySide6.QtWidgets import QVBoxLayout, QWidget
from typing_extensions import override

from cicada.window.drawing import theme
from cicada.window.drawing.layout import RULER
from cicada.window.picture.view import PictureView
from cicada.window.playing.transport import Transport


class SecondView(PictureView):
    """The picture once more, with all that is said and drawn on the first."""

    def __init__(self, first: PictureView, transport: Transport) -> None:
        super().__init__(first.session, first.frames, transport, first.zones.zones)
        self._first = first
        first.told.connect(self._follow)
        self._follow()

    def _follow(self) -> None:
        self.show_over(self._first.over)


class PictureOverSheet(SecondView):
    """The picture over the sheet, below its rulers, so that one can go on scrubbing."""

    def __init__(self, first: PictureView, transport: Transport, upper: QWidget) -> None:
        """``upper`` is the half of the window that it covers."""
        super().__init__(first, transport)
        self._upper = upper
        self.setParent(upper)
        upper.installEventFilter(self)
        self._cover()

    def _cover(self) -> None:
        self.setGeometry(0, RULER + 1, self._upper.width(), self._upper.height() - RULER - 1)

    @override
    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if event.type() == QEvent.Type.Resize:
            self._cover()
        return False

    @override
    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.fillRect(self.rect(), theme.PAPER)
        painter.end()
        super().paintEvent(event)


class PictureWindow(QWidget):
    """Follows the same playhead; the keys of the main window work here too."""

    closed = Signal()

    def __init__(self, first: PictureView, transport: Transport) -> None:
        super().__init__(first, Qt.WindowType.Window)
        self._transport = transport
        self.setWindowTitle("Picture")
        self.setStyleSheet("background: #101418;")
        self.view = SecondView(first, transport)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.addWidget(self.view)
        self.resize(960, 540)

    def fill_screen(self) -> None:
        """Fill the screen, or stop doing so."""
        self.setWindowState(self.windowState() ^ Qt.WindowState.WindowFullScreen)

    @override
    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        self.fill_screen()

    @override
    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self._transport.press()
        else:
            super().keyPressEvent(event)

    @override
    def closeEvent(self, event: QCloseEvent) -> None:
        self.closed.emit()
        self.deleteLater()
        super().closeEvent(event)
