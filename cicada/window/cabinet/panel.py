"""The cabinet, beside the card: searched as one types, heard, tried, put into the film."""

from collections.abc import Callable
from functools import partial
from pathlib import Path

from PySide6.QtGui import QResizeEvent, QShowEvent
from PySide6.QtWidgets import (
    QComboBox,
    QFrame,
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QMenu,
    QPushButton,
    QSizePolicy,
    QVBoxLayout,
)
from typing_extensions import override

from cicada.cabinet.catalogue import Row
from cicada.core.editing import Cell
from cicada.errors import CicadaError
from cicada.jobs.files import take_in
from cicada.media.ingest import Ingested
from cicada.store.importing import Shelf
from cicada.window.cabinet.cabinet import Cabinet
from cicada.window.cabinet.row_list import CabinetList, CabinetModel, RowPainter
from cicada.window.drawing import theme
from cicada.window.playing.listening import Listening
from cicada.window.playing.trying import Trying
from cicada.window.shelf.import_commands import ImportCommands
from cicada.window.state.notices import Notices
from cicada.window.state.session import Session
from cicada.window.state.work import Work
from cicada.window.widgets.asking import Asking
from cicada.window.widgets.rows import soft
from cicada.window.widgets.search_field import SearchField
from cicada.window.words.cabinet import HINT, progress_text

# Pixels across from which on there is room for what is said of sounds, and at least.
ROOMY, LEAST = 560, 336


class CabinetPanel(QFrame):
    """Shows what ``Cabinet`` finds."""

    def __init__(
        self,
        session: Session,
        cabinet: Cabinet,
        listening: Listening,
        trying: Trying,
        imports: ImportCommands,
        work: Work,
        asking: Asking,
        notices: Notices,
    ) -> None:
        super().__init__()
        self.setObjectName("card")
        # The window promises how small it becomes; the rows do with less.
        self.setMinimumWidth(LEAST)
        self._session, self._cabinet, self._listening = session, cabinet, listening
        self._trying, self._imports, self._work = trying, imports, work
        self._asking, self._notices = asking, notices
        # Whether they are heard one after the other, and the row that is heard.
        self._in_turn, self._heard = False, -1
        column = QVBoxLayout(self)
        column.setContentsMargins(12, 10, 10, 8)
        column.setSpacing(5)
        column.addLayout(self._head())
        column.addLayout(self._asked())
        self.model = CabinetModel(cabinet)
        self.list = CabinetList(self.model, RowPainter(cabinet, listening))
        self.list.listen_wanted.connect(self.listen)
        self.list.star_wanted.connect(lambda row: cabinet.say([row], star=not row.star))
        self.list.place_wanted.connect(self.place)
        self.list.chosen_changed.connect(self._show_chosen)
        column.addWidget(self.list, 1)
        column.addLayout(self._deeds())
        column.addLayout(self._said())
        cabinet.found.connect(self._show_found)
        cabinet.progressed.connect(self._show_progress)
        cabinet.told.connect(lambda text: notices.say(text, lasting=True))
        listening.changed.connect(self._follow_listening)
        self._show_chosen()

    # -- building ------------------------------------------------------------------------------

    def _head(self) -> QHBoxLayout:
        row = QHBoxLayout()
        title = QLabel("Cabinet")
        title.setFont(theme.font(13, 600))
        row.addWidget(title)
        self.progress = soft("")
        self.progress.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
        row.addWidget(self.progress, 1)
        self.turn = QPushButton("In turn")
        self.turn.setCheckable(True)
        self.turn.setToolTip("Hear what is found one after the other")
        self.turn.clicked.connect(self.hear_in_turn)
        row.addWidget(self.turn)
        self.folders = QPushButton("Folders")
        menu = QMenu(self.folders)
        menu.aboutToShow.connect(lambda: self._fill(menu))
        self.folders.setMenu(menu)
        row.addWidget(self.folders)
        return row

    def _asked(self) -> QHBoxLayout:
        row = QHBoxLayout()
        row.setSpacing(6)
        self.search = SearchField()
        self.search.setPlaceholderText(HINT)
        self.search.setToolTip(f"Search the cabinet as you type: {HINT}")
        self.search.setAccessibleName("Search the cabinet")
        self.search.textChanged.connect(lambda _: self._ask())
        self.search.left.connect(self._to_list)
        row.addWidget(self.search, 3)
        self.where = QComboBox()
        self.where.setAccessibleName("Which folder")
        self.where.addItem("All folders", None)
        self.where.activated.connect(lambda _: self._ask())
        self.where.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Fixed)
        row.addWidget(self.where, 2)
        return row

    def _deeds(self) -> QHBoxLayout:
        row = QHBoxLayout()
        row.setSpacing(4)
        self.try_here = self._button("Try", "Hear it against the picture, unplaced", self.try_out)
        self.put = self._button("Place", "Place it where the next keyframe goes (Shift+Enter)",
                                self.place)  # fmt: skip
        self.keep = self._button("To the shelf", "Put what is chosen on the shelf", self.shelve)
        self.like = self._button("Like this", "Sounds that are like this one", self.find_like)
        for button in (self.try_here, self.put, self.keep, self.like):
            row.addWidget(button)
        row.addStretch(1)
        return row

    def _button(self, words: str, tip: str, do: Callable[[], None]) -> QPushButton:
        button = QPushButton(words)
        button.setToolTip(tip)
        button.clicked.connect(lambda *_: do())
        return button

    def _said(self) -> QHBoxLayout:
        row = QHBoxLayout()
        row.setSpacing(4)
        self.fields: dict[str, QLineEdit] = {}
        for name, tip in (
            ("tags", "Words to find it by, with commas between them"),
            ("note", "Anything worth knowing"), ("terms", "What may be done with it"),
        ):  # fmt: skip
            field = QLineEdit()
            field.setPlaceholderText(name)
            field.setAccessibleName(name)
            field.setToolTip(f"{tip}; it goes with what the file holds, and into projects with it")
            field.setMinimumWidth(40)
            field.editingFinished.connect(partial(self._say, name))
            self.fields[name] = field
            row.addWidget(field)
        return row

    def _to_list(self) -> None:
        self.list.setFocus()
        if not self.list.chosen():
            self.list.choose(0)

    # -- showing -------------------------------------------------------------------------------

    @override
    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        first = not self._cabinet.begun
        self._cabinet.look_at_it()
        if first:
            self._ask()
        self._show_progress()

    @override
    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        # Beside the card the rows need the room; with the whole lower half there is some.
        for field in self.fields.values():
            field.setVisible(self.width() >= ROOMY)

    def _ask(self) -> None:
        folder = self.where.currentData()
        self._cabinet.ask(self.search.text(), folder)

    def _show_found(self, rows: list[Row]) -> None:
        chosen = {row.file.id for row in self.list.chosen()}
        self.model.show_rows(rows)
        if chosen:
            again = next((n for n, row in enumerate(rows) if row.file.id in chosen), -1)
            self.list.choose(again)
        self._show_progress()
        self._show_folders()

    def _show_progress(self) -> None:
        self.progress.setText(progress_text(self._cabinet.progress, len(self.model.rows)))

    def _show_folders(self) -> None:
        folders = self._cabinet.catalogue.folders
        listed = [self.where.itemData(n) for n in range(1, self.where.count())]
        if listed == list(folders):
            return
        chosen = self.where.currentData()
        self.where.clear()
        self.where.addItem("All folders", None)
        for folder in folders.values():
            self.where.addItem(Path(folder.path).name or folder.path, folder.id)
        self.where.setCurrentIndex(max(0, self.where.findData(chosen)))

    def _show_chosen(self) -> None:
        rows = self.list.chosen()
        for button in (self.try_here, self.put, self.like):
            button.setEnabled(len(rows) == 1)
        self.keep.setEnabled(bool(rows))
        for name, field in self.fields.items():
            said = {getattr(row.own, name, "") for row in rows}
            field.setEnabled(bool(rows))
            if not field.hasFocus():
                text = said.pop() if len(said) == 1 else ""
                field.setText(", ".join(text.split("\n")) if name == "tags" else text)
                field.setModified(False)

    def _fill(self, menu: QMenu) -> None:
        menu.clear()
        menu.addAction("Add a folder…").triggered.connect(self.add_folder)
        if self._cabinet.catalogue.folders:
            menu.addSeparator()
        for folder in self._cabinet.catalogue.folders.values():
            away = " (away)" if folder.away else ""
            action = menu.addAction(f"Watch no more: {folder.path}{away}")
            action.triggered.connect(partial(self._remove_folder, folder.id))

    def add_folder(self, *_: object) -> None:
        """Ask for a folder and watch it."""
        path = self._asking.folder_to_open("A folder of sounds for the cabinet")
        if path is not None:
            self._cabinet.add_folder(path)

    def _remove_folder(self, folder: int, *_: object) -> None:
        self._cabinet.remove_folder(folder)

    # -- hearing -------------------------------------------------------------------------------

    def _path(self, row: Row) -> Path | None:
        path = self._cabinet.catalogue.path(row)
        if path is None or self._cabinet.catalogue.away(row):
            self._notices.say(f"{row.name} is on a drive that is away.")
            return None
        return path

    def listen(self, row: Row) -> None:
        """Hear a sound, or stop that."""
        path = self._path(row)
        if path is not None:
            self._in_turn = False
            self.turn.setChecked(False)
            self._listening.toggle(path)

    def hear_in_turn(self, *, on: bool = True) -> None:
        """Hear what is found one after the other, from the chosen one on; or stop."""
        self._in_turn = on and bool(self.model.rows)
        self.turn.setChecked(self._in_turn)
        if not self._in_turn:
            self._listening.stop()
            return
        chosen = self.list.currentIndex()
        self._hear(max(0, chosen.row()) if chosen.isValid() else 0)

    def _hear(self, number: int) -> None:
        """Hear a row, or the next that can be heard."""
        while number < len(self.model.rows):
            path = self._cabinet.catalogue.path(self.model.rows[number])
            if path is not None and not self._cabinet.catalogue.away(self.model.rows[number]):
                self._heard = number
                self.list.choose(number)
                self._listening.listen(path)
                return
            number += 1
        self._in_turn = False
        self.turn.setChecked(False)

    def _follow_listening(self) -> None:
        self.list.viewport().update()
        if self._in_turn and self._listening.what is None:
            self._hear(self._heard + 1)

    # -- into the film -------------------------------------------------------------------------

    def _one(self) -> Row | None:
        rows = self.list.chosen()
        if not rows:
            self._notices.say("Choose a sound in the cabinet first.")
        return rows[0] if rows else None

    def _cell(self) -> Cell:
        place = self._session.place()
        if place is not None:
            return place
        return Cell("", self._session.playhead)

    def place(self) -> None:
        """Put the chosen sound on the shelf and on the cell where the next keyframe goes."""
        row = self._one()
        path = None if row is None else self._path(row)
        if path is not None:
            cell = self._trying.place() if self._trying.sound is not None else None
            self._imports.import_files([path], cell or self._cell())
            self._trying.settle()

    def shelve(self) -> None:
        """Put the chosen sounds on the shelf."""
        paths = [path for row in self.list.chosen() if (path := self._path(row)) is not None]
        if paths:
            self._imports.import_files(paths)

    def find_like(self) -> None:
        """Show what is like the chosen sound."""
        row = self._one()
        if row is not None:
            if not row.measured:
                self._notices.say("It is not measured yet, so nobody knows what it is like.")
                return
            self._cabinet.like(row)

    def try_out(self) -> None:
        """Hear the chosen sound against the picture, as if it were placed at the playhead."""
        row = self._one()
        path = None if row is None else self._path(row)
        if path is None:
            return
        self._listening.stop()
        rate = self._session.document.project.rate

        def taken(found: Ingested) -> None:
            document = self._session.document
            try:
                fresh = Shelf(document.project).new(path, found, document.file, file="")
            except CicadaError as error:
                self._notices.say(str(error))
                return
            self._trying.try_out_new(fresh, self.place)

        self._work.jobs.run(
            take_in, path, rate, self._work.cache.folder,
            done=taken, failed=self._notices.say, watched=True,
        )  # fmt: skip

    # -- what is said of it --------------------------------------------------------------------

    def _say(self, name: str) -> None:
        field = self.fields[name]
        if not field.isModified():
            return
        field.setModified(False)
        text = field.text().strip()
        if name == "tags":
            words = [word.strip() for word in text.split(",")]
            text = "\n".join(dict.fromkeys(word for word in words if word))
        self._cabinet.say(self.list.chosen(), **{name: text})
