"""Everything in the menus: names, keys and what they do. No key is used twice."""

from collections.abc import Callable
from typing import TYPE_CHECKING, Any

from PySide6.QtCore import QObject, Qt
from PySide6.QtGui import QAction, QKeySequence
from PySide6.QtWidgets import (
    QMenu,
    QMenuBar,
)

from cicada.core.editing import Cell
from cicada.deliver.mixdown import FORMATS
from cicada.deliver.work import Ready, make_ready
from cicada.errors import CicadaError
from cicada.window.clip.commands import ShapeCommands
from cicada.window.drawing.view import UNITS
from cicada.window.frame.delivering import Mixing
from cicada.window.picture.commands import PictureCommands
from cicada.window.playing.commands import PlayCommands
from cicada.window.sheet.commands import SheetCommands
from cicada.window.shelf.commands import Action, ShelfCommands
from cicada.window.state.guard import guard
from cicada.window.widgets.asking import choose

if TYPE_CHECKING:
    from cicada.window.frame.main_window import MainWindow

OF_THE_SHEET = {
    "next", "back", "next_ten", "back_ten", "first", "last", "up", "down", "clear",
    "cut", "copy_keyframes", "duplicate", "choose_all", "choose_same", "nudge_on", "nudge_back",
    "nudge_on_ten", "nudge_back_ten", "nudge_up", "nudge_down", "insert", "insert_ten",
    "remove_frame", "remove_ten", "layer_up", "layer_down",
}  # fmt: skip


class Commands(QObject):
    """The window's commands, as actions."""

    def __init__(self, window: "MainWindow") -> None:
        super().__init__(window)
        self.window = window
        self.document, self.session = window.document, window.session
        self.actions: dict[str, QAction] = {}
        self.mixing = Mixing(window)
        self.on_shelf = ShelfCommands(window)
        self.on_sheet = SheetCommands(window)
        self.shaping = ShapeCommands(window)
        self.playing = PlayCommands(window)
        self.pictures = PictureCommands(window)
        self._preparing = False
        # Sounds, by id and content, that could not be made ready or have been.
        self._given_up: set[tuple[str, str]] = set()

    # -- menus ---------------------------------------------------------------------------------

    def fill(self, bar: QMenuBar) -> None:
        """Put the menus into the bar."""
        window = self.window
        sheet, on_sheet = window.sheet, self.on_sheet
        files = window.files
        menus: list[tuple[str, list[Action | None]]] = [
            ("&Project", [
                ("new", "New…", "Ctrl+N", files.new),
                ("open", "Open…", "Ctrl+O", files.open),
                ("recent", "Recent", "", lambda: None),
                ("demo", "Open the demo", "Ctrl+Shift+D", files.open_demo),
                None,
                ("save", "Save", "Ctrl+S", files.save),
                ("save_as", "Save under another name…", "Ctrl+Shift+S", files.save_as),
                ("copy", "Save a copy…", "Ctrl+Alt+S", files.save_copy),
                ("versions", "Earlier versions…", "Ctrl+Alt+O", window.going_back.show_versions),
                ("unfinished", "Unfinished work…", "Ctrl+Alt+U", window.going_back.show_unfinished),
                ("leftovers", "What unsaved projects left…", "Ctrl+Alt+L",
                 window.going_back.show_leftovers),
                None,
                ("settings", "Settings…", "Ctrl+,", files.settings),
                ("mixdown", "Mixdown…", "Ctrl+M", self.mixdown),
                None,
                ("quit", "Quit", "Ctrl+Q", window.close),
            ]),
            ("&Edit", on_sheet.editing()),
            ("&Shelf", self.on_shelf.entries()),
            ("P&lace", on_sheet.placing()),
            ("S&hape", self.shaping.entries()),
            ("La&yer", on_sheet.layers()),
            ("S&cene", [*on_sheet.scenes(), None, *self.pictures.entries()]),
            ("Pl&ay", [
                *self.playing.entries(),
                ("next", "One frame on", "Right", lambda: self.step(1)),
                ("back", "One frame back", "Left", lambda: self.step(-1)),
                ("next_ten", "Ten frames on", "Shift+Right", lambda: self.step(10)),
                ("back_ten", "Ten frames back", "Shift+Left", lambda: self.step(-10)),
                ("first", "First frame", "Home", lambda: self.go_to(0)),
                ("last", "Last frame", "End", lambda: self.go_to(self.session.scene.length - 1)),
                ("up", "Layer above", "Up", lambda: self.change_row(-1)),
                ("down", "Layer below", "Down", lambda: self.change_row(1)),
            ]),
            ("&View", [
                ("closer", "Zoom in", "+", lambda: sheet.zoom(1.5)),
                ("farther", "Zoom out", "-", lambda: sheet.zoom(1 / 1.5)),
                ("fit", "The whole scene", "0", sheet.fit),
                ("fit_chosen", "What is chosen", "9", self.fit_chosen),
                ("waits", "Open the waits, or close them", "Shift+A",
                 lambda: sheet.open_waits(on=not sheet.waits_open)),
                ("unit", "Seconds, timecode or beats", "Shift+U", self.next_unit),
                ("snap", "Snap, or not", "B", window.snapping.switch),
                ("night", "Night or day", "Ctrl+Shift+B", window.switch_night),
                None,
                ("wide_picture", "Widen the picture", "Ctrl+1",
                 lambda: window.widen(window.picture)),
                ("wide_card", "Widen the clip card", "Ctrl+2", lambda: window.widen(window.card)),
                ("wide_shelf", "Widen the shelf", "Ctrl+3", lambda: window.widen(window.side)),
                ("sounding", "What sounds now, or the shelf", "Ctrl+4",
                 lambda: window.show_beside(window.sounding)),
                *self.pictures.views(),
            ]),
            ("&Help", [
                ("keys", "Keys", "F1", window.show_keys),
                ("shapes", "Shapes on the sheet", "Shift+F1", window.show_shapes),
                ("sentence", "Say what the chosen clip does", "Ctrl+Space",
                 self.on_sheet.say_what_sounds),
                ("about", "About Cicada", "Ctrl+F1", self.about),
            ]),
        ]  # fmt: skip
        shaping = self.shaping
        submenus: dict[str, list[tuple[str, Callable[[QMenu], None]]]] = {
            "&Edit": [("What inserted frames move", on_sheet.scopes)],
            "S&hape": [
                ("Let it end on", shaping.end_menu),
                ("Trim silence below", shaping.silence_menu),
                ("Match loudness", shaping.matching.menu),
                ("Style", shaping.style_menu),
            ],
            "Pl&ay": self.playing.menus(),
            "&View": [("Snap to", on_sheet.snaps), ("Over the picture", self.pictures.over_menu)],
        }
        for title, entries in menus:
            menu = bar.addMenu(title)
            menu.setAccessibleName(title.replace("&", ""))
            for entry in entries:
                if entry is None:
                    menu.addSeparator()
                elif entry[0] == "recent":
                    self._recent = menu.addMenu("Recent")
                    self._recent.aboutToShow.connect(lambda: files.fill_recent(self._recent))
                else:
                    self._add(menu, *entry)
            if title == "S&hape":
                self._draw_while_hovered(menu, [entry[0] for entry in entries if entry])
            for words, fill in submenus.get(title, ()):
                self._add_menu(menu, words, fill)
        self.refresh()

    def _draw_while_hovered(self, menu: QMenu, names: list[str]) -> None:
        for name in names:
            self.actions[name].hovered.connect(lambda name=name: self.shaping.look_at(name))
        menu.aboutToHide.connect(lambda: self.shaping.look_at(""))

    def _add_menu(self, menu: QMenu, words: str, fill: Callable[[QMenu], None]) -> None:
        """A menu in a menu, filled when it is opened: what it offers depends on what is chosen."""
        inner = menu.addMenu(words)

        def refill() -> None:
            inner.clear()
            try:
                fill(inner)
            except CicadaError as error:
                inner.addAction(str(error)).setEnabled(False)

        inner.aboutToShow.connect(refill)

    def _add(self, menu: QMenu, name: str, text: str, key: str, do: Callable[[], Any]) -> None:
        action = QAction(text, self.window)
        action.setShortcut(QKeySequence(key))

        def begin() -> None:
            guard.lately.append(name)
            do()

        action.triggered.connect(begin)
        if name in OF_THE_SHEET:
            # Lists, tabs and fields have these keys for themselves while they have the focus.
            action.setShortcutContext(Qt.ShortcutContext.WidgetShortcut)
            self.window.sheet.addAction(action)
            self.window.picture.addAction(action)
        menu.addAction(action)
        self.actions[name] = action

    def refresh(self) -> None:
        """Name what undo and redo would do, and switch off what cannot be done."""
        if "undo" not in self.actions:
            return
        undo, redo = self.document.undo_title, self.document.redo_title
        self.actions["undo"].setText(f"Undo: {undo}" if undo else "Undo")
        self.actions["undo"].setEnabled(bool(undo))
        self.actions["redo"].setText(f"Redo: {redo}" if redo else "Redo")
        self.actions["redo"].setEnabled(bool(redo))

    # -- sounds --------------------------------------------------------------------------------

    def place_here(self) -> None:
        """Put the sound chosen on the shelf on the chosen cell, or where it is tried out."""
        cell, sound = self.session.place(), self.session.sound
        tried = self.window.trying.sound
        if tried is not None:
            sound, cell = tried, self.window.trying.place()
        if cell is None or sound is None:
            self.window.say("Choose a sound on the shelf and a frame on a layer first.")
            return
        self.window.arranging.place(sound, cell)

    def prepare(self) -> None:
        """Have what the plan needs decoded, then draw and play with it."""
        window, project = self.window, self.document.project
        standing = window.presence.standing
        hashes = {sound.id: sound.hash for sound in project.sounds}
        wanted = {(s, hashes.get(s, "")) for s in standing.unready} - self._given_up
        if self._preparing or not wanted:
            return
        self._preparing = True
        window.say("Getting the sounds ready…", lasting=True)

        def done(ready: Ready) -> None:
            self._preparing = False
            # Asked for again only if they are other files by then.
            self._given_up |= wanted
            window.sounds.refresh()
            window.transport.load()
            window.presence.look()
            window.keeping.keep_cache()
            window.say("; ".join(ready.refused.values()), lasting=bool(ready.refused))

        def failed(sentence: str) -> None:
            self._preparing = False
            self._given_up |= wanted
            window.say(sentence, lasting=True)

        window.jobs.run(
            make_ready,
            project,
            standing.files,
            window.sounds.cache.folder,
            done=done,
            failed=failed,
        )

    # -- mix -----------------------------------------------------------------------------------

    def mixdown(self) -> None:
        """Ask for a file and mix the film into it."""
        names = " ".join(f"*{suffix}" for suffix in FORMATS)
        path = self.window.files.ask_name("Mixdown", f"Sound files ({names})", ".wav")
        if path is not None:
            self.mixing.mix_to(path)

    # -- moving about --------------------------------------------------------------------------

    def silence(self) -> None:
        """Silence everything; if nothing sounds, let go of what is chosen."""
        transport = self.window.transport
        if self.window.sheet.let_go():
            return
        if self.window.trying.sound is not None:
            self.window.trying.let_go()
            return
        opened = self.window.sheet.on_opened
        sounding = transport.sounding
        self.window.listening.stop()
        transport.stop()
        if sounding or opened.close():
            return
        if self.pictures.over_sheet is not None:
            self.pictures.show_over_sheet()
        elif any(
            part.isHidden() for part in (self.window.picture, self.window.card, self.window.side)
        ):
            self.window.widen(None)
        elif self.session.shown_sound is not None:
            self.session.show_uses(None)
        else:
            self.session.choose(None)

    def step(self, frames: int) -> None:
        """Move the playhead, and let the frame stepped onto be heard."""
        self.go_to(self.session.playhead + frames)

    def go_to(self, frame: int) -> None:
        """Put the playhead on a frame."""
        last = self.session.scene.length - 1
        if self.session.playhead == max(0, min(frame, last)):
            self.window.say(f"This is the scene's {'first' if frame <= 0 else 'last'} frame.")
        frame = max(0, min(frame, last))
        self.session.move_playhead(frame)
        self.window.sheet.show_frame(frame)
        # Several that are chosen stay so: whoever looks about does not want to choose them again.
        if self.session.cell is not None and len(self.session.chosen) < 2:
            self.session.choose(Cell(self.session.cell.layer, frame))
        self.window.transport.step(frame)

    def change_row(self, by: int) -> None:
        """Choose the playhead's frame on the layer above or below."""
        layers = [layer.id for layer in self.session.scene.layers]
        if not layers:
            self.window.say("There is no layer yet: Ctrl+L adds one.")
            return
        cell = self.session.cell
        row = layers.index(cell.layer) + by if cell and cell.layer in layers else 0
        if not 0 <= row < len(layers):
            self.window.say(f"This is the {'lowest' if by > 0 else 'top'} layer.")
        row = max(0, min(row, len(layers) - 1))
        self.session.choose(Cell(layers[row], self.session.playhead))

    def fit_chosen(self) -> None:
        """Show what is chosen as large as it goes."""
        if not self.window.sheet.fit_chosen():
            self.window.say("Nothing is chosen.")

    def next_unit(self) -> None:
        """Let the upper ruler count something else."""
        sheet = self.window.sheet
        sheet.show_unit(UNITS[(UNITS.index(sheet.unit) + 1) % len(UNITS)])

    # -- help ----------------------------------------------------------------------------------

    def about(self) -> None:
        """Say what this is."""
        from cicada import __version__

        choose(
            self.window, f"Cicada {__version__}", ["Go on"], safe=0,
            detail="The sheet draws what will sound.",
        )  # fmt: skip
