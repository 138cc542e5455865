"""The commands about the picture: what it is made of, and where it is looked at."""

from typing import TYPE_CHECKING

from PySide6.QtCore import QObject, QSettings, Signal
from PySide6.QtWidgets import QMenu, QWidget

from cicada.window.picture.adding import Adding
from cicada.window.picture.view import OVER, PictureView
from cicada.window.playing.transport import Transport
from cicada.window.state.frames import Frames
from cicada.window.state.notices import Notices
from cicada.window.state.session import Session
from cicada.window.widgets.actions import Action

if TYPE_CHECKING:
    # They are made when first asked for, which most sittings never do.
    from cicada.window.picture.panel import PicturePanel
    from cicada.window.picture.window import PictureOverSheet, PictureWindow


class PictureCommands(QObject):
    """What the menus do to the picture of the scene shown.

    ``panel_wanted`` comes with what is to stand beside the card, ``window_opened`` with a window
    of the picture's own, in which all keys are to work.
    """

    panel_wanted = Signal(QWidget)
    window_opened = Signal(QWidget)

    def __init__(
        self,
        session: Session,
        frames: Frames,
        view: PictureView,
        adding: Adding,
        transport: Transport,
        covered: QWidget,
        notices: Notices,
        settings: QSettings,
    ) -> None:
        """``covered`` is what the picture is laid over when it is shown over the sheet."""
        super().__init__()
        self.session, self.frames, self.view, self.adding = session, frames, view, adding
        self.transport, self.covered = transport, covered
        self.notices, self.settings = notices, settings
        # The picture in a window of its own, and large over the sheet.
        self.own: PictureWindow | None = None
        # What it is made of, once that has been looked at.
        self.panel: PicturePanel | None = None
        self.over_sheet: PictureOverSheet | None = None

    def entries(self) -> list[Action | None]:
        """The entries of the menu."""
        return [
            ("picture", "Add to the picture…", "Ctrl+P", self.adding.choose),
            ("numbered", "Add numbered images…", "Ctrl+Alt+P", self.adding.choose_folder),
            ("parts", "What the picture is made of", "Ctrl+7", self.show_parts),
            ("picture_sound", "Take the picture's own sound", "Ctrl+Alt+T", self.adding.take_sound),
            ("look_again", "Read the picture's files again", "Ctrl+Alt+E", self.look_again),
        ]

    def views(self) -> list[Action | None]:
        """The entries of the View menu."""
        return [
            ("picture_window", "The picture in a window of its own", "Ctrl+5", self.show_window),
            ("picture_full", "The picture fills the screen", "Ctrl+6", self.fill_screen),
            ("picture_over_sheet", "The picture over the sheet, or not", "Ctrl+8",
             self.show_over_sheet),
        ]  # fmt: skip

    # -- looking at it -------------------------------------------------------------------------

    def restore(self) -> None:
        """Show it as it was shown last."""
        over = self.settings.value("picture/over", [])
        self.view.show_over(frozenset(over if isinstance(over, list) else [str(over)]))
        if self.settings.value("picture/over_sheet", "false") in (True, "true"):
            self.show_over_sheet()

    def show_parts(self) -> None:
        """Show what the picture is made of in the shelf's place, or the shelf again."""
        from cicada.window.picture.panel import PicturePanel

        if self.panel is None:
            self.panel = PicturePanel(self.session, self.frames, self.view, self.adding)
        self.panel_wanted.emit(self.panel)

    def show_over_sheet(self) -> None:
        """Show the picture large, over the sheet, or the sheet again."""
        from cicada.window.picture.window import PictureOverSheet

        if self.over_sheet is None:
            self.over_sheet = PictureOverSheet(self.view, self.transport, self.covered)
            self.over_sheet.show()
        else:
            self.over_sheet.deleteLater()
            self.over_sheet.hide()
            self.over_sheet = None
        self.settings.setValue("picture/over_sheet", self.over_sheet is not None)

    def show_window(self) -> None:
        """Show the picture in a window of its own, or close that."""
        from cicada.window.picture.window import PictureWindow

        if self.own is None:
            self.own = PictureWindow(self.view, self.transport)
            self.own.closed.connect(self._forget_window)
            self.window_opened.emit(self.own)
            self.own.show()
        else:
            self.own.close()

    def _forget_window(self) -> None:
        self.own = None

    def close_window(self) -> None:
        """Close the picture's own window, if it has one."""
        if self.own is not None:
            self.own.close()

    def fill_screen(self) -> None:
        """Let the picture fill the screen, or not."""
        if self.own is None:
            self.show_window()
        if self.own is not None:
            self.own.fill_screen()

    def over_menu(self, menu: QMenu) -> None:
        """What is drawn over the picture."""
        for name, words in OVER.items():
            action = menu.addAction(words)
            action.setCheckable(True)
            action.setChecked(name in self.view.over)
            action.triggered.connect(lambda _=False, name=name: self._switch_over(name))

    def _switch_over(self, name: str) -> None:
        over = self.view.over ^ {name}
        self.settings.setValue("picture/over", sorted(over))
        self.view.show_over(over)

    def look_again(self) -> None:
        """Read every file of the picture anew, for they may have been exported again."""
        self.frames.forget()
        self.notices.say("The picture's files are read again.")
