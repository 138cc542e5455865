"""The menus: entries become actions, which are done by their names from anywhere."""

from collections.abc import Callable, Mapping, Sequence
from typing import NamedTuple

from PySide6.QtCore import QObject, QPoint, Qt
from PySide6.QtGui import QAction, QKeySequence
from PySide6.QtWidgets import QMenu, QMenuBar, QWidget

from cicada.errors import CicadaError
from cicada.window.state.document import Document
from cicada.window.state.guard import guard
from cicada.window.widgets.actions import Action
from cicada.window.widgets.menus import pop_up

Fill = Callable[[QMenu], None]


class Inner(NamedTuple):
    """A menu in a menu, filled when it is opened: what it offers depends on what is chosen."""

    words: str
    fill: Fill


class Menu(NamedTuple):
    """A menu of the bar; None is a line between. ``look`` is told which entry is pointed at."""

    title: str
    entries: Sequence[Action | Inner | None]
    look: Callable[[str], None] | None = None


class Menus(QObject):
    """The window's commands, as ``actions`` by their names."""

    def __init__(self, window: QWidget, document: Document) -> None:
        super().__init__(window)
        self._window, self._document = window, document
        self.actions: dict[str, QAction] = {}

    def fill(
        self, bar: QMenuBar, menus: Sequence[Menu], local: frozenset[str], over: Sequence[QWidget]
    ) -> None:
        """Put the menus into the bar.

        Lists, tabs and fields have the keys of the ``local`` ones for themselves while they have
        the focus; they work ``over`` these parts.
        """
        for title, entries, look in menus:
            menu = bar.addMenu(title)
            menu.setAccessibleName(title.replace("&", ""))
            for entry in entries:
                if entry is None:
                    menu.addSeparator()
                elif isinstance(entry, Inner):
                    self._add_inner(menu, entry)
                else:
                    self._add(menu, entry, look, over if entry[0] in local else ())
            if look is not None:
                menu.aboutToHide.connect(lambda look=look: look(""))
        self.refresh()

    def _add(
        self,
        menu: QMenu,
        entry: Action,
        look: Callable[[str], None] | None,
        over: Sequence[QWidget],
    ) -> None:
        name, text, key, do = entry
        action = QAction(text, self._window)
        action.setShortcut(QKeySequence(key))

        def begin() -> None:
            guard.lately.append(name)
            do()

        action.triggered.connect(begin)
        if look is not None:
            action.hovered.connect(lambda: look(name))
        if over:
            action.setShortcutContext(Qt.ShortcutContext.WidgetShortcut)
        for part in over:
            part.addAction(action)
        menu.addAction(action)
        self.actions[name] = action

    def _add_inner(self, menu: QMenu, entry: Inner) -> None:
        inner = menu.addMenu(entry.words)

        def refill() -> None:
            inner.clear()
            try:
                entry.fill(inner)
            except CicadaError as error:
                inner.addAction(str(error)).setEnabled(False)

        inner.aboutToShow.connect(refill)

    # -- by name -------------------------------------------------------------------------------

    def do(self, name: str) -> None:
        """Do the command of that name."""
        self.actions[name].trigger()

    def pop_up(self, names: Sequence[str | QAction], at: QPoint) -> None:
        """Offer commands in a menu; an empty name is a line between."""
        menu = QMenu(self._window)
        for name in names:
            if isinstance(name, QAction):
                menu.addAction(name)
            elif name:
                menu.addAction(self.actions[name])
            else:
                menu.addSeparator()
        pop_up(menu, at)

    def lend(self, window: QWidget) -> None:
        """Let all keys work in another window, too."""
        window.addActions(list(self.actions.values()))

    # -- what can be done ----------------------------------------------------------------------

    def switch(self, possible: Mapping[str, bool]) -> None:
        """Switch commands on and off."""
        for name, on in possible.items():
            self.actions[name].setEnabled(on)

    def refresh(self) -> None:
        """Name what undo and redo would do."""
        titles = {"Undo": self._document.undo_title, "Redo": self._document.redo_title}
        for word, title in titles.items():
            action = self.actions[word.lower()]
            action.setText(f"{word}: {title}" if title else word)
            action.setEnabled(bool(title))
