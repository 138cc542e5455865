"""The commands on keyframes: the menus Edit and Place, and the one on the sheet itself."""

from PySide6.QtCore import QObject, Signal
from PySide6.QtGui import QAction, QActionGroup
from PySide6.QtWidgets import QMenu

from cicada.core.model import Clip
from cicada.window.playing.trying import Trying
from cicada.window.sheet.hover import hover_sentence
from cicada.window.sheet.sheet import Sheet
from cicada.window.sheet.snapping import KINDS
from cicada.window.state.arranging import SCOPES, Arranging
from cicada.window.state.clipboard import Clipboard
from cicada.window.state.notices import Notices
from cicada.window.widgets.actions import Action


class SheetCommands(QObject):
    """What the menus Edit and Place do to keyframes.

    ``files_wanted`` comes when files are to be pasted, ``history_wanted`` when all steps are to be
    seen.
    """

    files_wanted = Signal()
    history_wanted = Signal()

    def __init__(
        self,
        sheet: Sheet,
        arranging: Arranging,
        clipboard: Clipboard,
        trying: Trying,
        notices: Notices,
    ) -> None:
        super().__init__()
        self.document, self.session, self.sheet = sheet.document, sheet.session, sheet
        self.arranging, self.clipboard = arranging, clipboard
        self.trying, self.notices = trying, notices

    # -- menus ---------------------------------------------------------------------------------

    def editing(self) -> list[Action | None]:
        """The entries of the Edit menu."""
        do = self.arranging
        return [
            ("undo", "Undo", "Ctrl+Z", self.document.undo),
            ("redo", "Redo", "Ctrl+Shift+Z", self.document.redo),
            ("history", "All steps…", "Ctrl+H", self.history_wanted.emit),
            None,
            ("cut", "Cut", "Ctrl+X", self.clipboard.cut),
            ("copy_keyframes", "Copy", "Ctrl+C", self.clipboard.copy),
            ("paste", "Paste", "Ctrl+V", self.paste),
            ("duplicate", "Duplicate", "Ctrl+D", do.duplicate),
            ("clear", "Clear the keyframe", "Del", self.clear),
            None,
            ("choose_all", "Choose all keyframes", "Ctrl+A", do.choose_everything),
            ("choose_same", "Choose all of this sound", "Ctrl+Shift+A", do.choose_same_sound),
            None,
            ("nudge_on", "Move one frame on", "Alt+Right", lambda: do.shift(1)),
            ("nudge_back", "Move one frame back", "Alt+Left", lambda: do.shift(-1)),
            ("nudge_on_ten", "Move ten frames on", "Alt+Shift+Right", lambda: do.shift(10)),
            ("nudge_back_ten", "Move ten frames back", "Alt+Shift+Left", lambda: do.shift(-10)),
            ("to_playhead", "Move to the playhead", "Shift+N",
             lambda: do.move_to(self.session.playhead)),
            ("nudge_up", "Move to the layer above", "Alt+Up", lambda: do.shift(0, -1)),
            ("nudge_down", "Move to the layer below", "Alt+Down", lambda: do.shift(0, 1)),
            None,
            ("insert", "Insert a frame", "Ctrl+Right", lambda: do.insert_frames(1)),
            ("insert_ten", "Insert ten frames", "Ctrl+Shift+Right", lambda: do.insert_frames(10)),
            ("remove_frame", "Remove a frame", "Ctrl+Left", lambda: do.remove_frames(1)),
            ("remove_ten", "Remove ten frames", "Ctrl+Shift+Left", lambda: do.remove_frames(10)),
        ]  # fmt: skip

    def placing(self) -> list[Action | None]:
        """The entries of the Place menu."""
        do = self.arranging
        return [
            ("place", "Place the shelf's sound here", "P", self.place_here),
            ("rest", "Rest here", "R", do.put_rest),
            ("hush", "Hush here", "H", do.put_hush),
            ("hush_sounding", "Hush all that sounds here", "Shift+H", do.hush_here),
            ("hush_chosen", "Hush what is chosen here", "Ctrl+Shift+H", do.hush_chosen),
            None,
            ("swap", "Put the shelf's sound in its place", "Shift+P", self.swap_sound),
            ("leave_rest", "Take the sound off, leave a rest", "Shift+R",
             lambda: do.take_sounds_off("rests")),
            ("leave_mark", "Take the sound off, leave a mark", "Shift+M",
             lambda: do.take_sounds_off("marks")),
            ("off", "Switch off, or on", "O", do.switch_off),
        ]  # fmt: skip

    def scopes(self, menu: QMenu) -> None:
        """The menu that says what inserted and removed frames move."""
        group = QActionGroup(menu)
        for scope, words in SCOPES.items():
            action = menu.addAction(f"Frames move {words}")
            action.setCheckable(True)
            action.setChecked(scope == self.arranging.scope)
            group.addAction(action)
            action.triggered.connect(
                lambda _=False, scope=scope: setattr(self.arranging, "scope", scope)
            )

    def snaps(self, menu: QMenu) -> None:
        """The menu of what is snapped to."""
        snapping = self.sheet.snapping
        for kind, words in KINDS.items():
            action = menu.addAction(words)
            action.setCheckable(True)
            action.setChecked(kind in snapping.kinds)
            action.toggled.connect(lambda on, kind=kind: snapping.choose(kind, on=on))

    def cell_menu(self) -> list[str | QAction]:
        """What the menu on the sheet offers: first what concerns the sounding under it.

        An empty name is a line between.
        """
        names: tuple[str, ...]
        if isinstance(self.session.keyframe(), Clip):
            names = (
                "open_clip", "split", "trim_silence", "loop_to_fill", "",
                "hush_chosen", "end_with_span", "off", "mute", "to_playhead", "swap",
                "leave_rest", "leave_mark",
                "", "cut", "copy_keyframes", "paste", "duplicate", "choose_same", "clear",
            )  # fmt: skip
        elif self.session.keyframe() is not None:
            names = ("off", "", "cut", "copy_keyframes", "paste", "duplicate", "clear")
        else:
            names = ("place", "rest", "hush", "hush_sounding", "paste")
        layer = (
            "", "add_layer", "rename_layer", "duplicate_layer", "layer_off", "past_scene",
            "remove_layer",
        )  # fmt: skip
        found: list[str | QAction] = [*names, *layer]
        if "end_with_span" in found:
            found[found.index("end_with_span")] = self._end_with_span()
        return found

    def _end_with_span(self) -> QAction:
        action = QAction("Let it end with its span", self.sheet)
        clip = self.session.keyframe()
        action.setEnabled(isinstance(clip, Clip) and clip.sync != "locked" and clip.ends == "ring")
        action.triggered.connect(lambda: self.arranging.change({"ends": "span"}, "what ends it"))
        return action

    # -- clipboard and sounds ------------------------------------------------------------------

    def paste(self) -> None:
        """Paste keyframes onto the sheet, or copied files onto the shelf."""
        if self.clipboard.can_paste():
            self.clipboard.paste()
        else:
            self.files_wanted.emit()

    def clear(self) -> None:
        """Take what is chosen away: points of an opened line, or keyframes."""
        if not self.sheet.on_opened.remove_points():
            self.arranging.clear()

    def place_here(self) -> None:
        """Put the sound chosen on the shelf on the chosen cell, or where it is tried out."""
        cell, sound = self.session.place(), self.session.sound
        if self.trying.sound is not None and self.trying.placing is not None:
            self.trying.placing()
            return
        if self.trying.sound is not None:
            sound, cell = self.trying.sound, self.trying.place()
        if cell is None or sound is None:
            self.notices.say("Choose a sound on the shelf and a frame on a layer first.")
            return
        self.arranging.place(sound, cell)
        self.trying.settle()

    def swap_sound(self) -> None:
        """Put the shelf's sound on the chosen clips; their settings stay."""
        if self.session.sound is None:
            self.notices.say("Choose a sound on the shelf first.")
        else:
            self.arranging.replace_sound(self.session.sound)

    def say_what_sounds(self) -> None:
        """Say in a sentence what the chosen clip does, for those who cannot hover."""
        for row in self.sheet.traces.rows:
            for index, voice in enumerate(row.voices):
                if voice.cell == self.session.cell:
                    self.notices.say(hover_sentence(self.sheet.traces, row, index), lasting=True)
                    return
        chosen = isinstance(self.session.keyframe(), Clip)
        self.notices.say("It does not sound here." if chosen else "Choose a clip first.")
