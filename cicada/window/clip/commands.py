"""The Shape menu: everything that shapes the chosen clip, by its name.

What an entry or a button would do is drawn on the sheet while the pointer rests on it.
"""

from collections.abc import Callable

from PySide6.QtCore import QObject, QPoint, Signal
from PySide6.QtWidgets import QMenu

from cicada.core.model import Clip
from cicada.errors import BadEdit
from cicada.window.clip.card import Card
from cicada.window.clip.choosing_parts import ChoosingParts
from cicada.window.clip.chosen_clip import ChosenClip, Making
from cicada.window.clip.comparing import Comparing
from cicada.window.clip.cutting import Cutting
from cicada.window.clip.deciding import Deciding
from cicada.window.clip.landing import Landing
from cicada.window.clip.lines import Lines
from cicada.window.clip.looping import Looping
from cicada.window.clip.matching import Matching
from cicada.window.clip.styling import Styling
from cicada.window.playing.transport import Transport
from cicada.window.state.clipboard import Clipboard
from cicada.window.state.hits import Hits
from cicada.window.state.sounds import Sounds
from cicada.window.state.work import Work
from cicada.window.widgets.actions import Action
from cicada.window.widgets.asking import Asking
from cicada.window.widgets.menus import pop_up


class ClipCommands(QObject):
    """What the Shape menu and the card's buttons do.

    ``others_wanted`` comes with the name of a command that is to be done from a menu.
    """

    others_wanted = Signal(str)

    def __init__(
        self,
        chosen: ChosenClip,
        comparing: Comparing,
        deciding: Deciding,
        card: Card,
        sounds: Sounds,
        hits: Hits,
        clipboard: Clipboard,
        transport: Transport,
        work: Work,
        asking: Asking,
    ) -> None:
        super().__init__()
        self.chosen, self.comparing, self.deciding = chosen, comparing, deciding
        self.card, self.clipboard = card, clipboard
        self.sheet, self.session, self.notices = chosen.sheet, chosen.session, chosen.notices
        self.cutting = Cutting(chosen, sounds, asking)
        self.landing = Landing(chosen, hits)
        self.lines = Lines(chosen)
        self.looping = Looping(chosen, transport, work)
        self.styling = Styling(chosen, asking)
        self.parts = ChoosingParts(chosen)
        self.matching = Matching(chosen, work, asking)

    def entries(self) -> list[Action | None]:
        """The entries of the Shape menu."""
        cutting = self.cutting

        def trim(*, head: bool) -> Callable[[], None]:
            return lambda: cutting.trim_here(head=head)

        return [
            ("open_clip", "Open the clip, or close it", "E", self.open_clip),
            ("ways", "Compare locked, free and hold", "Shift+F", self.deciding.compare_sync),
            ("passes", "Compare if sounding, next pass", "Shift+G", self.deciding.compare_passes),
            ("open_line", "Open the layer's line", "Shift+L", self.open_line),
            ("open_master", "Open the master line", "Shift+K", self.open_master),
            None,
            ("head_here", "Let it begin at the playhead", "A", trim(head=True)),
            ("tail_here", "Let it end at the playhead", "Z", trim(head=False)),
            ("split", "Split it at the playhead", "I", cutting.split),
            ("trim_silence", "Trim the silence", "Q", cutting.trim_silence_again),
            ("loop_to_fill", "Loop it to fill its span", "F", cutting.loop_to_fill),
            None,
            ("land", "Land the nearest hit here", "V", self.landing.land),
            ("hit", "Set a hit here, or take it off", "Shift+V", self.landing.set_hit),
            None,
            ("gesture", "Move, swell or dip…", "Y", self.gesture),
            ("copy_lines", "Copy its lines", "Ctrl+Alt+C", self.clipboard.copy_lines),
            ("paste_lines", "Paste lines", "Ctrl+Alt+V", self.clipboard.paste_lines),
            ("soften", "Soften its hard edges", "Shift+Y", self.lines.soften),
            None,
            ("join", "Listen to the join of its loops", "J", self.looping.listen_to_join),
            ("overlap", "Overlap its loops as it dies away", "Shift+J", self.looping.overlap),
            None,
            ("hold_version", "Hold these settings to compare", "Shift+C", self.comparing.hold),
            ("flip_version", "Flip to the held ones and back", "C", self.comparing.flip),
            ("match_versions", "Hear both equally loud, or not", "Ctrl+Shift+V",
             self.comparing.match_levels),
            ("keep_version", "Keep what is heard now", "Ctrl+Shift+C", self.comparing.keep),
        ]  # fmt: skip

    def menus(self) -> list[tuple[str, Callable[[QMenu], None]]]:
        """The menus in the menu, filled when they are opened."""
        return [
            ("Let it end on", self.cutting.end_menu),
            ("Trim silence below", self.cutting.silence_menu),
            ("Match loudness", self.matching.menu),
            ("Fit its loop to beats", self.looping.fit_menu),
            ("Place one of its parts instead", self.parts.menu),
            ("Style", self.styling.menu),
        ]

    # -- opening -------------------------------------------------------------------------------

    def open_clip(self) -> None:
        """Open the chosen clip on the sheet, or close it."""
        cell, opened = self.session.cell, self.session.opened
        if opened is not None and cell is not None and (opened.layer, opened.frame) == cell:
            self.sheet.on_opened.close()
        elif cell is not None and isinstance(self.session.keyframe(), Clip):
            self.sheet.on_opened.open_clip(cell)
        elif not self.sheet.on_opened.close():
            self.notices.say("Choose a clip first.")

    def open_line(self) -> None:
        """Open the chosen layer's line, or close it."""
        layer, opened = self.session.layer(), self.session.opened
        if layer is None:
            self.notices.say("Choose a layer first.")
        elif opened is not None and opened.layer == layer.id and opened.frame is None:
            self.sheet.on_opened.close()
        else:
            self.sheet.on_opened.open_line(layer.id)

    def open_master(self) -> None:
        """Open the master line, or close it."""
        opened = self.session.opened
        if opened is not None and not opened.layer:
            self.sheet.on_opened.close()
        else:
            self.sheet.on_opened.open_line("")

    # -- the card's buttons --------------------------------------------------------------------

    def gesture(self) -> None:
        """Offer to draw a move, a swell or a dip, beside the card."""
        self.lines.gesture(self.card.mapToGlobal(QPoint(20, 40)))

    def look_at(self, command: str) -> None:
        """Draw what a command would do, while the pointer rests on its button or entry."""
        makes: dict[str, Making] = {**self.cutting.edits(), "land": self.landing.edit}
        if command in makes and isinstance(self.session.keyframe(), Clip):
            self.chosen.look_at(makes[command])
        else:
            self.chosen.trial.end()

    def show(self, command: str, at: QPoint) -> None:
        """A button of the card was pressed: open its menu there, or do its command."""
        menus: dict[str, Callable[[QMenu], None]] = {
            "trim_silence": self.cutting.silence_menu,
            "end_on": self.cutting.end_menu,
            "match": self.matching.menu,
        }
        if command == "gesture":
            self.lines.gesture(at)
        elif command in menus:
            menu = QMenu(self.card)
            try:
                menus[command](menu)
            except BadEdit as error:
                menu.deleteLater()
                self.notices.say(str(error))
                return
            pop_up(menu, at)
        else:
            self.others_wanted.emit(command)
