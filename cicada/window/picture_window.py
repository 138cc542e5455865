"""The picture in a window of its own, for a second screen or to fill one."""

from typing import TYPE_CHECKING

from PySide6.QtCore import Qt
from PySide6.QtGui import QCloseEvent, QKeyEvent, QMouseEvent
from PySide6.QtWidgets import QVBoxLayout, QWidget
from typing_extensions import override

from cicada.window.picture_view import PictureView

if TYPE_CHECKING:
    from cicada.window.main_window import MainWindow


class PictureWindow(QWidget):
    """Follows the same playhead; the keys of the main window work here too."""

    def __init__(self, window: "MainWindow") -> None:
        super().__init__(window, Qt.WindowType.Window)
        self._window = window
        self.setWindowTitle("Picture")
        self.setStyleSheet("background: #101418;")
        self.view = PictureView(window.session, window.frames)
        self.view.show_over(window.picture.over)
        self.view.pressed.connect(window.transport.press)
        self.view.wait_for(window.picture.waiting)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.addWidget(self.view)
        self.resize(960, 540)
        for action in window.commands.actions.values():
            self.addAction(action)
        window.transport.waiting_changed.connect(self._follow)

    def _follow(self) -> None:
        self.view.wait_for(self._window.picture.waiting)

    def fill_screen(self) -> None:
        """Fill the screen, or stop doing so."""
        self.setWindowState(self.windowState() ^ Qt.WindowState.WindowFullScreen)

    @override
    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        self.fill_screen()

    @override
    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self._window.transport.press()
        else:
            super().keyPressEvent(event)

    @override
    def closeEvent(self, event: QCloseEvent) -> None:
        self._window.transport.waiting_changed.disconnect(self._follow)
        self._window.picture_window = None
        self.deleteLater()
        super().closeEvent(event)
