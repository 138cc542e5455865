"""The shelf: the sounds of the project, to be found, listened to and dragged onto the sheet."""

from operator import is_not

from PySide6.QtCore import QPoint, Qt, QTimer, Signal
from PySide6.QtGui import QDragEnterEvent, QDropEvent, QResizeEvent
from PySide6.QtWidgets import (
    QComboBox,
    QFrame,
    QHBoxLayout,
    QLabel,
    QPushButton,
    QScrollArea,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)
from typing_extensions import override

from cicada.core.model import Placeable, Project, Sound
from cicada.window.drawing import theme
from cicada.window.drawing.sound_pictures import SoundPictures
from cicada.window.playing.listen_bar import ListenBar
from cicada.window.playing.listening import Listening
from cicada.window.shelf.import_strip import ImportStrip
from cicada.window.shelf.made_parts import MadeParts
from cicada.window.shelf.shelf_list import RowPainter, ShelfList, ShelfModel
from cicada.window.shelf.shelf_search import FILTERS, FOLDER, ORDERS, TAG, Known, Uses, Wish
from cicada.window.shelf.sound_details import SoundDetails
from cicada.window.shelf.sound_files import SoundFiles
from cicada.window.state.measuring import Measuring
from cicada.window.state.notices import Notices
from cicada.window.state.presence import Presence
from cicada.window.state.session import Session
from cicada.window.state.sounds import Sounds
from cicada.window.widgets.drag import let_files_in, take_files
from cicada.window.widgets.search_field import SearchField
from cicada.window.words.quantities import count

# From this width on there is room for the details beside the list.
WIDE = 700
LIST_WIDTH = 400
# Less than this, the list makes do with fewer controls over it.
ROOMY = 352
# What of a project the shelf shows.
SHOWN = ("sounds", "blends", "pools", "playlists", "values", "pads", "scenes")
NOTHING = "Nothing here yet.\nDrop sounds or folders here, paste them,\nor import them with Ctrl+I."


class Shelf(QFrame):
    """The sounds of the project; ``details`` stand beside them where there is room."""

    files_dropped = Signal(list)
    import_wanted = Signal()
    details_wanted = Signal()
    menu_wanted = Signal(QPoint)

    def __init__(
        self,
        session: Session,
        sounds: Sounds,
        pictures: SoundPictures,
        presence: Presence,
        measuring: Measuring,
        listening: Listening,
        files: SoundFiles,
        notices: Notices,
    ) -> None:
        super().__init__()
        self.setObjectName("card")
        self.setMinimumWidth(312)
        self.setAcceptDrops(True)
        self._session, self._presence, self._measuring = session, presence, measuring
        self._listening, self._files = listening, files
        self._uses = Uses()
        self._scenes: tuple[object, ...] = ()
        self.model = ShelfModel(session)
        self._painter = RowPainter(session, pictures, self.model, listening)
        self.list = ShelfList(self.model, self._painter, listening)
        self.details = SoundDetails(session, sounds, presence, measuring, listening, files)
        self.parts = MadeParts(session, notices)
        self.aside = QStackedWidget()
        self.aside.addWidget(self.details)
        self.aside.addWidget(self.parts)
        self.strip = ImportStrip()
        self._build()
        self._refreshing = QTimer(self)
        self._refreshing.setSingleShot(True)
        self._refreshing.setInterval(200)
        self._refreshing.timeout.connect(self.refresh)
        self._connect(sounds)
        self.refresh()

    # -- building ------------------------------------------------------------------------------

    def _build(self) -> None:
        row = QHBoxLayout(self)
        row.setContentsMargins(10, 8, 8, 6)
        row.setSpacing(14)
        self._left = QWidget()
        column = QVBoxLayout(self._left)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(4)
        column.addWidget(self._top())
        column.addWidget(self._asking())
        column.addWidget(self.list, 1)
        self._empty = QLabel(NOTHING)
        self._empty.setObjectName("soft")
        self._empty.setAlignment(Qt.AlignmentFlag.AlignCenter)
        column.addWidget(self._empty, 1)
        self.bar = ListenBar(self._listening)
        column.addWidget(self.bar)
        column.addWidget(self.strip)
        row.addWidget(self._left, 1)
        # What does not fit is scrolled, never squeezed.
        self.around = QScrollArea()
        self.around.setObjectName("pages")
        self.around.setFrameShape(QFrame.Shape.NoFrame)
        self.around.setWidgetResizable(True)
        self.around.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.around.setWidget(self.aside)
        row.addWidget(self.around, 2)
        self.around.hide()

    def _top(self) -> QWidget:
        top = QWidget()
        row = QHBoxLayout(top)
        row.setContentsMargins(4, 0, 2, 0)
        title = QLabel("Shelf")
        title.setFont(theme.font(13, 600))
        row.addWidget(title)
        self._count = QLabel()
        self._count.setObjectName("soft")
        row.addWidget(self._count)
        row.addStretch(1)
        self.listen = QPushButton("Listen")
        self.listen.setToolTip("Hear the chosen sound by itself (L); Esc silences")
        self.listen.clicked.connect(self._listen)
        self.more = QPushButton("Details")
        self.more.setToolTip("All that is known of the chosen sound (D)")
        self.more.clicked.connect(self.details_wanted)
        self.importing = QPushButton("Import…")
        self.importing.setToolTip("Put sound files on the shelf (Ctrl+I)")
        self.importing.clicked.connect(self.import_wanted)
        for button in (self.listen, self.more, self.importing):
            button.setFocusPolicy(Qt.FocusPolicy.TabFocus)
            row.addWidget(button)
        return top

    def _asking(self) -> QWidget:
        self._ask = QWidget()
        row = QHBoxLayout(self._ask)
        row.setContentsMargins(2, 0, 2, 2)
        row.setSpacing(6)
        self.search = SearchField()
        row.addWidget(self.search, 1)
        self.only = QComboBox()
        self.only.setAccessibleName("Which sounds")
        self.only.setFixedWidth(124)
        row.addWidget(self.only)
        self.order = QComboBox()
        self.order.setAccessibleName("Order")
        self.order.setFixedWidth(120)
        for name, text in ORDERS.items():
            self.order.addItem(text, name)
        row.addWidget(self.order)
        return self._ask

    def _connect(self, sounds: Sounds) -> None:
        self.search.textChanged.connect(self._ask_anew)
        self.search.left.connect(self.list.setFocus)
        self.only.activated.connect(self._ask_anew)
        self.order.activated.connect(self._ask_anew)
        self.list.selectionModel().selectionChanged.connect(self._take_choice)
        self.list.selectionModel().currentChanged.connect(self._take_choice)
        self.list.files_dropped.connect(self.files_dropped)
        self.list.listen_wanted.connect(self._listening.toggle)
        self.list.sought.connect(self._seek)
        self.parts.listen_wanted.connect(self._listening.toggle)
        self.list.activated.connect(self.details_wanted)
        self.list.customContextMenuRequested.connect(
            lambda point: self.menu_wanted.emit(self.list.viewport().mapToGlobal(point))
        )
        self._session.document.changed.connect(self._document_changed)
        self._session.sound_changed.connect(self._show_choice)
        self._session.sounds_chosen.connect(self._show_choice)
        self._presence.changed.connect(self.refresh)
        self._files.sources_changed.connect(self.refresh)
        self._measuring.changed.connect(self._refreshing.start)
        self._listening.changed.connect(self._show_listening)
        sounds.changed.connect(self.list.viewport().update)

    # -- what is shown -------------------------------------------------------------------------

    def _document_changed(self, old: Project, new: Project) -> None:
        if any(getattr(old, name) is not getattr(new, name) for name in SHOWN):
            self.refresh()

    def _ask_anew(self) -> None:
        self.model.wish = Wish(
            self.search.text(), self.only.currentData() or "", self.order.currentData()
        )
        self._show_rows()

    def refresh(self) -> None:
        """Show the sounds as they are now."""
        project = self._session.document.project
        uses = self.model.known.uses
        about = tuple(getattr(project, name) for name in SHOWN)
        if len(self._scenes) != len(about) or any(map(is_not, self._scenes, about)):
            self._scenes, uses = about, self._uses.of(project)
        self.model.known = Known(
            uses, self._presence.missing, frozenset(self._files.changed_sources), self._loudness,
            self._seconds,
        )  # fmt: skip
        self._fill_only(project)
        self._show_rows()
        self.list.viewport().update()

    def _seconds(self, made: Placeable) -> float:
        self.model.all()
        return self.model.lengths[made.id] / self.model.project.rate

    def _loudness(self, sound: Sound) -> float | None:
        measures = self._measuring.of(sound)
        return None if measures is None else measures.loudness

    def _fill_only(self, project: Project) -> None:
        """Offer the filters, and the folders and tags there are."""
        shelf = list(project.all_placeables())
        folders = sorted({sound.folder for sound in shelf if sound.folder})
        tags = sorted({tag for sound in shelf for tag in sound.tags})
        wanted = [
            *FILTERS.items(),
            *((f"{FOLDER}{name}", f"In {name}") for name in folders),
            *((f"{TAG}{name}", f"Tagged {name}") for name in tags),
        ]
        if wanted == [
            (self.only.itemData(row), self.only.itemText(row)) for row in range(self.only.count())
        ]:
            return
        chosen = self.only.currentData() or ""
        self.only.clear()
        for name, text in wanted:
            self.only.addItem(text, name)
        self.only.setCurrentIndex(max(0, self.only.findData(chosen)))
        self.only.view().setMinimumWidth(180)
        if (self.only.currentData() or "") != chosen:
            self._ask_anew()

    def _show_rows(self) -> None:
        before = self.chosen()
        if self.model.refresh():
            self._choose(before)
            self._take_choice()
        number, shown = len(self.model.all()), len(self.model.sounds)
        sounds = len(self._session.document.project.sounds)
        text = count(sounds, "sound") if number else ""
        if number > sounds:
            text += f" + {number - sounds}"
            self._count.setToolTip(f"and {number - sounds} made of sounds")
        self._count.setText(text if shown == number else f"{shown} of {number}")
        self._empty.setText(NOTHING if not number else "No sound is like that.")
        self._empty.setVisible(shown == 0)
        self.list.setVisible(shown > 0)
        self._ask.setVisible(number > 0)
        self._show_choice()

    # -- what is chosen ------------------------------------------------------------------------

    def chosen(self) -> tuple[str, ...]:
        """The sounds that are chosen, in the order shown."""
        return self._session.chosen_sounds

    def _selected(self) -> tuple[str, ...]:
        """The rows that are selected, as sounds."""
        rows = sorted(index.row() for index in self.list.selectionModel().selectedIndexes())
        return tuple(self.model.sounds[row].id for row in rows)

    def _choose(self, ids: tuple[str, ...]) -> None:
        wanted = frozenset(ids)
        rows = [row for row, sound in enumerate(self.model.sounds) if sound.id in wanted]
        current = [row for row in rows if self.model.sounds[row].id == self._session.sound]
        self.list.choose_rows(rows, (current or rows or [-1])[0])

    def _show_choice(self) -> None:
        chosen = self.chosen()
        if frozenset(chosen) != frozenset(self._selected()):
            self._choose(chosen)
        self.listen.setEnabled(bool(chosen))
        self.more.setEnabled(bool(chosen))
        sounds = {sound.id for sound in self._session.document.project.sounds}
        lead = self._session.sound
        made = lead is not None and lead not in sounds
        self.aside.setCurrentWidget(self.parts if made else self.details)
        if made and lead is not None:
            self.parts.show_made(lead)
        self.details.show_sounds(chosen)

    def _take_choice(self) -> None:
        """What is selected in the list is what is chosen."""
        chosen, lead = self._selected(), self._session.sound
        if chosen:
            current = self.list.currentIndex()
            now = self.model.sounds[current.row()].id if current.isValid() else chosen[0]
            lead = now if now in chosen else chosen[0]
            if isinstance(self._listening.what, str) and lead != self._session.sound:
                self._listening.stop()
        elif not self.model.sounds or lead in [s.id for s in self.model.sounds]:
            lead = None
        self._session.choose_sounds(chosen, lead)

    # -- listening -----------------------------------------------------------------------------

    def _listen(self) -> None:
        if self._session.sound is not None:
            self._listening.toggle(self._session.sound)

    def _seek(self, sound: str, share: float) -> None:
        self._listening.listen(sound, share * self._listening.length)

    def _show_listening(self) -> None:
        self.listen.setText("Stop" if self._listening.what is not None else "Listen")
        self.list.viewport().update()

    def find_words(self) -> None:
        """Put the cursor into the search field."""
        self.search.setFocus()
        self.search.selectAll()

    @override
    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        wide = self.width() >= WIDE
        self.around.setVisible(wide)
        self._left.setMaximumWidth(min(LIST_WIDTH, self.width() // 3 + 60) if wide else 16_777_215)
        self.more.setVisible(not wide)
        # The mark in a row listens, too, and the number of sounds can be done without.
        roomy = self._left.maximumWidth() >= LIST_WIDTH and self.width() >= ROOMY
        self.listen.setVisible(roomy)
        self._count.setVisible(roomy)
        for box in (self.only, self.order):
            box.setFixedWidth(122 if roomy else 112)

    @override
    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        let_files_in(event)

    @override
    def dropEvent(self, event: QDropEvent) -> None:
        take_files(event, self.files_dropped.emit)
