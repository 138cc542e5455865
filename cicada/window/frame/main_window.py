"""The window: the sheet on top, the rail below it, then picture, clip card and shelf."""

from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import QByteArray, QEvent, QSettings, QTimer
from PySide6.QtGui import QCloseEvent, QDragEnterEvent, QDropEvent
from PySide6.QtWidgets import QPushButton, QWidget
from typing_extensions import override

from cicada.media.cache import SoundCache
from cicada.playback.recorder_process import RecorderProcess
from cicada.window.drawing import theme
from cicada.window.frame.connections import connect
from cicada.window.frame.menu_table import OF_THE_SHEET, table
from cicada.window.frame.menus import Menus
from cicada.window.frame.parts import Parts
from cicada.window.playing.link import PlayerMaker
from cicada.window.recording.input import RecorderLink
from cicada.window.state.guard import Caught
from cicada.window.widgets.drag import let_files_in, take_files
from cicada.window.widgets.enter import EnterPresses

if TYPE_CHECKING:
    from cicada.window.cabinet.cabinet import KeeperLink


def _keeper(file: Path, starter: Path) -> "KeeperLink":
    """The keeper of the cabinet; what it needs is loaded when somebody looks at that."""
    from cicada.cabinet.process import KeeperProcess

    return KeeperProcess(file, starter)


class MainWindow(Parts):
    """One project in one window."""

    def __init__(
        self,
        cache: SoundCache,
        recovery: Path,
        make_player: PlayerMaker,
        settings: QSettings,
        make_recorder: Callable[[], RecorderLink] = RecorderProcess,
        make_keeper: "Callable[[Path, Path], KeeperLink] | None" = None,
    ) -> None:
        super().__init__(
            cache, recovery, make_player, settings, make_recorder, make_keeper or _keeper
        )
        self.menus = Menus(self, self.document)
        self.menus.fill(self.menu_bar, table(self), OF_THE_SHEET, (self.sheet, self.picture))
        self.setAcceptDrops(True)
        self._enter = EnterPresses()
        for button in self.findChildren(QPushButton):
            button.installEventFilter(self._enter)
        theme.use(night=self.settings.value("window/night", "false") in (True, "true"))
        # Last, so that every part is polished once and not at each step of the building.
        self.setStyleSheet(theme.style())
        connect(self, self.menus)
        self.document.changed.connect(self._show_title)
        self.document.saved_state_changed.connect(self._show_title)
        self.resize(1280, 800)
        self._restore()
        self._show_title()
        self.sheet.setFocus()

    def _show_title(self) -> None:
        changed = " •" if self.document.dirty else ""
        self.setWindowTitle(f"{self.document.name}{changed} – Cicada")

    def went_wrong(self, told: list[Caught]) -> None:
        """Something in Cicada itself has failed: have the project as it was, and say so."""
        put_back = self.document.put_back()
        self.sheet.let_go()
        self.planning.end_trials()
        QTimer.singleShot(0, self, lambda: self._say_what_went_wrong(told, put_back=put_back))

    def _say_what_went_wrong(self, told: list[Caught], *, put_back: bool) -> None:
        self.trouble.say(told, put_back=put_back)
        self.card.refresh()
        for part in self.findChildren(QWidget):
            part.update()

    # -- what comes from outside ---------------------------------------------------------------

    @override
    def changeEvent(self, event: QEvent) -> None:
        super().changeEvent(event)
        shown = self.isVisible() and self.isActiveWindow()
        if event.type() == QEvent.Type.ActivationChange and shown:
            self.sound_files.look_at_sources()

    @override
    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        let_files_in(event)

    @override
    def dropEvent(self, event: QDropEvent) -> None:
        take_files(event, self.dropped.on_picture)

    # -- keeping -------------------------------------------------------------------------------

    def _restore(self) -> None:
        for name, part in (("halves", self.halves), ("parts", self.lower_half.parts)):
            state = self.settings.value(f"window/{name}")
            if isinstance(state, QByteArray):
                part.restoreState(state)
        geometry = self.settings.value("window/geometry")
        if isinstance(geometry, QByteArray):
            self.restoreGeometry(geometry)
        self.on_picture.restore()

    def _remember(self) -> None:
        self.settings.setValue("window/halves", self.halves.saveState())
        self.settings.setValue("window/parts", self.lower_half.parts.saveState())
        self.settings.setValue("window/geometry", self.saveGeometry())

    @override
    def closeEvent(self, event: QCloseEvent) -> None:
        if not self.files.may_leave():
            event.ignore()
            return
        self.document.let_go()
        self._remember()
        self.shut_down()
        event.accept()

    def end(self) -> None:
        """End without asking: what was not saved comes back at the next start."""
        self._remember()
        self.shut_down()

    def shut_down(self) -> None:
        """End all that runs beside the window."""
        self.on_picture.close_window()
        self.close_cabinet()
        for part in (
            self.imports, self.recording, self.decoding, self.remote, self.transport,
            self.metering, self.mix_row, self.clipboard, self.jobs, self.drawing_time, self.ways,
            self.planning, self.presence, self.elsewhere, self.frames, self.document,
            self.collecting, self.pages, self.log,
        ):  # fmt: skip
            part.close()
