"""Choosing sounds to import: files and folders, listened to before they are taken."""

from collections.abc import Callable
from pathlib import Path
from typing import Any

from PySide6.QtCore import QDir, QModelIndex, QStandardPaths, Qt
from PySide6.QtGui import QCloseEvent, QKeyEvent, QKeySequence, QShortcut
from PySide6.QtWidgets import (
    QAbstractItemView,
    QComboBox,
    QDialog,
    QFileSystemModel,
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QListWidget,
    QListWidgetItem,
    QPushButton,
    QTreeView,
    QVBoxLayout,
    QWidget,
)
from typing_extensions import override

from cicada.disk.paths import is_file, is_folder
from cicada.jobs.files import Found, find_sounds
from cicada.media.blocks import SoundInfo
from cicada.media.decode import describe
from cicada.store.importing import INSIDE_UP_TO, SUFFIXES
from cicada.window.drawing import theme
from cicada.window.playing.listen_bar import ListenBar
from cicada.window.playing.listening import Listening
from cicada.window.shelf.entry import Kept
from cicada.window.state.jobs import STOPPED, Job, Jobs
from cicada.window.words.quantities import count

PLACE = Qt.ItemDataRole.UserRole
WHERE: tuple[tuple[Kept, str], ...] = (
    ("size", f"Inside the project up to {INSIDE_UP_TO // 1_000_000} MB, larger ones linked"),
    ("inside", "All inside the project"),
    ("linked", "All linked where they are"),
)


class ImportDialog(QDialog):
    """All sounds that can be read are shown; ``paths`` are the files and folders chosen."""

    def __init__(
        self, parent: QWidget, listening: Listening, jobs: Jobs, folder: Path, project: Path | None
    ) -> None:
        super().__init__(parent)
        self.setWindowTitle("Import sounds")
        self.setStyleSheet(theme.style())
        self.resize(940, 560)
        self._listening, self._jobs = listening, jobs
        self._counting: Job | None = None
        self._asked = 0
        self.model = QFileSystemModel(self)
        self.model.setOption(QFileSystemModel.Option.DontUseCustomDirectoryIcons)
        self.model.setFilter(QDir.Filter.AllDirs | QDir.Filter.Files | QDir.Filter.NoDotAndDotDot)
        names = [f"*{suffix}" for suffix in sorted(SUFFIXES)]
        self.model.setNameFilters(names + [name.upper() for name in names])
        self.model.setNameFilterDisables(False)
        column = QVBoxLayout(self)
        column.setContentsMargins(18, 14, 18, 14)
        column.setSpacing(8)
        column.addLayout(self._top())
        middle = QHBoxLayout()
        middle.setSpacing(12)
        middle.addWidget(self._places(project))
        middle.addWidget(self._files(), 1)
        column.addLayout(middle, 1)
        self.facts = QLabel()
        self.facts.setObjectName("soft")
        column.addWidget(self.facts)
        self.bar = ListenBar(listening, always=True)
        self.bar.wanted.connect(self._listen)
        column.addWidget(self.bar)
        column.addLayout(self._bottom())
        self.go_to(folder if is_folder(folder) else Path.home())
        self._chosen()
        self.files.setFocus()

    def _top(self) -> QHBoxLayout:
        row = QHBoxLayout()
        self.up = QPushButton("One folder up")
        self.up.setAutoDefault(False)
        self.up.clicked.connect(lambda: self.go_to(self.folder.parent))
        row.addWidget(self.up)
        self.path = QLineEdit()
        self.path.setAccessibleName("Folder")
        self.path.setToolTip("The folder shown; type another and press Enter")
        self.path.returnPressed.connect(self._typed)
        row.addWidget(self.path, 1)
        return row

    def _places(self, project: Path | None) -> QListWidget:
        self.places = QListWidget()
        self.places.setFixedWidth(150)
        self.places.setAccessibleName("Places")
        wanted = [("Home", Path.home())]
        if project is not None:
            wanted.insert(0, ("Beside the project", project))
        standard = QStandardPaths.StandardLocation
        for name, place in (
            ("Desktop", standard.DesktopLocation),
            ("Downloads", standard.DownloadLocation),
            ("Music", standard.MusicLocation),
            ("Videos", standard.MoviesLocation),
        ):
            found = QStandardPaths.writableLocation(place)
            if found and is_folder(Path(found)) and Path(found) != Path.home():
                wanted.append((name, Path(found)))
        wanted.append(("Whole machine", Path("/")))
        for name, path in wanted:
            item = QListWidgetItem(name)
            item.setData(PLACE, path)
            item.setToolTip(str(path))
            self.places.addItem(item)
        self.places.itemClicked.connect(lambda item: self.go_to(item.data(PLACE)))
        return self.places

    def _files(self) -> QTreeView:
        self.files = QTreeView()
        self.files.setModel(self.model)
        self.files.setAccessibleName("Sounds and folders")
        self.files.setSelectionMode(QAbstractItemView.SelectionMode.ExtendedSelection)
        self.files.setRootIsDecorated(False)
        self.files.setItemsExpandable(False)
        self.files.setUniformRowHeights(True)
        self.files.setSortingEnabled(True)
        self.files.sortByColumn(0, Qt.SortOrder.AscendingOrder)
        self.files.setColumnWidth(0, 380)
        self.files.setColumnHidden(2, True)
        self.files.doubleClicked.connect(self._open)
        self.files.selectionModel().selectionChanged.connect(self._chosen)
        space = QShortcut(QKeySequence(Qt.Key.Key_Space), self.files)
        space.setContext(Qt.ShortcutContext.WidgetWithChildrenShortcut)
        space.activated.connect(self._listen)
        return self.files

    def _bottom(self) -> QHBoxLayout:
        row = QHBoxLayout()
        row.addWidget(QLabel("Keep"))
        self.keep = QComboBox()
        self.keep.setAccessibleName("Where they are kept")
        for keeping, text in WHERE:
            self.keep.addItem(text, keeping)
        row.addWidget(self.keep)
        row.addStretch(1)
        leave = QPushButton("Import nothing")
        leave.setAutoDefault(False)
        leave.clicked.connect(self.reject)
        row.addWidget(leave)
        self.take = QPushButton("Import")
        self.take.setObjectName("main")
        self.take.setAutoDefault(False)
        self.take.clicked.connect(self.accept)
        row.addWidget(self.take)
        return row

    # -- looking about -------------------------------------------------------------------------

    @property
    def folder(self) -> Path:
        """The folder shown."""
        return Path(self.model.rootPath())

    def go_to(self, folder: Path) -> None:
        """Show a folder."""
        self.files.setRootIndex(self.model.setRootPath(str(folder)))
        self.files.clearSelection()
        self.path.setText(str(folder))
        self.up.setEnabled(folder != folder.parent)

    def _typed(self) -> None:
        path = Path(self.path.text()).expanduser()
        if is_folder(path):
            self.go_to(path)
        elif is_folder(path.parent):
            self.go_to(path.parent)
            self.files.setCurrentIndex(self.model.index(str(path)))
        else:
            self.facts.setText(f"There is no folder {path}.")

    def _open(self, index: QModelIndex) -> None:
        if self.model.isDir(index):
            self.go_to(Path(self.model.filePath(index)))
        else:
            self.accept()

    @property
    def paths(self) -> list[Path]:
        """What is chosen."""
        rows = self.files.selectionModel().selectedRows()
        return [Path(self.model.filePath(row)) for row in rows]

    @property
    def kept(self) -> Kept:
        """Where what is imported is to be kept."""
        kept: Kept = self.keep.currentData()
        return kept

    def _chosen(self) -> None:
        """Say what is chosen, and count what a folder holds."""
        rows = self.files.selectionModel().selectedRows()
        paths = self.paths
        if self._listening.what is not None and self._listening.what not in paths:
            self._listening.stop()
        self._want_no_more()
        single = len(rows) == 1 and is_file(paths[0])
        self.bar.offer(paths[0] if single else None)
        if not rows:
            self._say_number(0)
            self.facts.setText("Choose sounds, or whole folders; Space listens to one.")
            return
        if not any(is_folder(path) for path in paths):
            self._say_number(len(paths))
            self.facts.setText("")
            if single:
                self._counting = self._jobs.run(
                    describe, paths[0], watched=True,
                    done=self._if_wanted(self._say_facts),
                    failed=self._if_wanted(self._say_refusal),
                )  # fmt: skip
            return
        self._say_number(0)
        self.facts.setText("Counting the sounds in it…")

        def counted(found: Found) -> None:
            self._say_number(len(found.sounds))
            others = f"; {count(found.others, 'other file')} stay where they are"
            self.facts.setText(
                f"{count(len(found.sounds), 'sound')} in what is chosen"
                + (others if found.others else "")
            )

        self._counting = self._jobs.run(
            find_sounds, paths, done=self._if_wanted(counted), failed=lambda _: None
        )

    def _want_no_more(self) -> None:
        """What is being found out is of something that is not chosen any more."""
        self._asked += 1
        if self._counting is not None:
            self._counting.cancel()
            self._counting = None

    def _if_wanted(self, say: Callable[[Any], None]) -> Callable[[Any], None]:
        """Say what was found out, unless something else is chosen by then, or the dialog gone."""
        asked = self._asked

        def arrived(found: Any) -> None:  # noqa: ANN401 - handed on
            if asked == self._asked:
                self._counting = None
                say(found)

        return arrived

    def _say_facts(self, info: SoundInfo) -> None:
        channels = {1: "mono", 2: "stereo"}.get(info.channels, f"{info.channels} channels")
        notes = "".join(f"; {note}" for note in info.notes)
        rate, seconds = f"{info.rate / 1000:g} kHz", f"{info.frames / info.rate:.2f} s"
        self.facts.setText(f"{info.encoding}, {rate}, {channels}, {seconds}{notes}")

    def _say_refusal(self, sentence: str) -> None:
        if sentence != STOPPED:
            self.facts.setText(sentence)

    def _say_number(self, number: int) -> None:
        self.take.setText(f"Import {count(number, 'sound')}")
        self.take.setEnabled(number > 0)

    def _listen(self) -> None:
        paths = self.paths
        if len(paths) == 1 and is_file(paths[0]):
            self._listening.toggle(paths[0])

    @override
    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Escape and self._listening.what is not None:
            self._listening.stop()
        elif event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            index = self.files.currentIndex()
            if index.isValid() and self.model.isDir(index):
                self._open(index)
            elif not self.path.hasFocus() and self.take.isEnabled():
                self.accept()
        elif event.key() == Qt.Key.Key_Backspace:
            self.go_to(self.folder.parent)
        else:
            super().keyPressEvent(event)

    @override
    def done(self, result: int) -> None:
        self._want_no_more()
        if isinstance(self._listening.what, Path):
            self._listening.stop()
        super().done(result)

    @override
    def closeEvent(self, event: QCloseEvent) -> None:
        self.done(0)
        super().closeEvent(event)
