"""Making a blend, a pool or a playlist of what is chosen on the shelf, in one gesture."""

from collections.abc import Callable

from PySide6.QtCore import QObject, Signal

from cicada.core.making import (
    MadeEdit,
    making_blend,
    making_playlist,
    making_pool,
    unequal,
)
from cicada.core.needs import may_be_part
from cicada.errors import BadEdit
from cicada.window.shelf.choose_sound import ChooseSound
from cicada.window.shelf.shelf import Shelf
from cicada.window.state.notices import Notices
from cicada.window.state.session import Session
from cicada.window.widgets.actions import Action
from cicada.window.widgets.asking import Asking
from cicada.window.words.numbers import shown


class Making(QObject):
    """The commands; ``made`` comes when something new stands on the shelf and is to be seen."""

    made = Signal()

    def __init__(self, session: Session, shelf: Shelf, asking: Asking, notices: Notices) -> None:
        super().__init__()
        self._session, self._shelf = session, shelf
        self._asking, self._notices = asking, notices
        shelf.parts.adding_wanted.connect(self.add_part)

    def entries(self) -> list[Action | None]:
        """The entries of the Shelf menu."""
        return [
            ("make_pool", "Make a pool of them", "Ctrl+Alt+1", self.make_pool),
            ("make_blend", "Make a blend of them", "Ctrl+Alt+2", self.make_blend),
            ("make_playlist", "Make a playlist of them", "Ctrl+Alt+3", self.make_playlist),
        ]

    def make_pool(self) -> None:
        """One of the chosen sounds is drawn each time."""
        project = self._session.document.project
        self._make(lambda: making_pool(project, self._session.chosen_sounds))

    def make_playlist(self) -> None:
        """The chosen sounds in a row."""
        project = self._session.document.project
        self._make(lambda: making_playlist(project, self._session.chosen_sounds))

    def make_blend(self) -> None:
        """The chosen sounds as strengths of one piece; unequal lengths are asked about."""
        project, chosen = self._session.document.project, self._session.chosen_sounds
        value = project.values[0].id if project.values else None
        apart = unequal(project, chosen) if len(chosen) > 1 else None
        repeat = False
        if apart is not None:
            answer = self._asking.choose(
                f"They are of unequal length: {shown(round(apart[0], 3))} to "
                f"{shown(round(apart[1], 3))} s.",
                ["Cut to the shortest", "Repeat the short ones", "Choose others"],
                safe=2,
                detail="The parts of a blend start together and end together.",
            )
            if answer not in (0, 1):
                return
            repeat = answer == 1
        self._make(lambda: making_blend(project, chosen, value, repeat=repeat))

    def _make(self, make: Callable[[], MadeEdit]) -> None:
        try:
            edit, own = make()
            done = self._session.document.do(edit)
        except BadEdit as error:
            self._notices.say(str(error))
            return
        if done:
            self._session.choose_sounds((own,), own)
            self.made.emit()
            made = self._session.document.project.placeable(own)
            self._notices.say(f"{made.label} stands on the shelf; drag it onto a layer.")

    def add_part(self) -> None:
        """Ask for something on the shelf to be a part of what is shown."""
        made, project = self._shelf.parts.made(), self._session.document.project
        if made is None:
            return
        fitting = [
            each for each in project.all_placeables()
            if each.id != made.id and may_be_part(project, made, each.id)
        ]  # fmt: skip
        dialog = ChooseSound(self._shelf, f"A part of {made.label}:", fitting, "Add it")
        if dialog.exec() and dialog.chosen is not None:
            self._shelf.parts.add_part(dialog.chosen)
        dialog.deleteLater()
