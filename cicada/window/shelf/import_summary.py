"""What became of every file of an import, and what to do with those that are already here."""

from collections.abc import Callable

from PySide6.QtCore import Qt
from PySide6.QtWidgets import (
    QAbstractItemView,
    QDialog,
    QHBoxLayout,
    QHeaderView,
    QLabel,
    QPushButton,
    QTreeWidget,
    QTreeWidgetItem,
    QVBoxLayout,
    QWidget,
)

from cicada.window.drawing import theme
from cicada.window.shelf.entry import Answer, Entry
from cicada.window.shelf.importing import Importing
from cicada.window.words.quantities import begun, count

ENTRY = Qt.ItemDataRole.UserRole


class ImportSummary(QDialog):
    """One import, file by file; stays open beside the window for as long as one likes."""

    def __init__(self, parent: QWidget, importing: Importing) -> None:
        super().__init__(parent)
        self.setWindowTitle("What was imported")
        self.setStyleSheet(theme.style())
        self.resize(760, 460)
        self.importing = importing
        column = QVBoxLayout(self)
        column.setContentsMargins(18, 14, 18, 14)
        column.setSpacing(10)
        self.words = QLabel()
        self.words.setFont(theme.font(15, 600))
        column.addWidget(self.words)
        self.tree = QTreeWidget()
        self.tree.setColumnCount(2)
        self.tree.setHeaderHidden(True)
        self.tree.setRootIsDecorated(True)
        self.tree.setSelectionMode(QAbstractItemView.SelectionMode.ExtendedSelection)
        self.tree.header().setSectionResizeMode(0, QHeaderView.ResizeMode.Interactive)
        self.tree.setColumnWidth(0, 270)
        self.tree.setAccessibleName("Files of the import")
        self.tree.setFocusPolicy(Qt.FocusPolicy.ClickFocus)
        self.tree.itemSelectionChanged.connect(self._show_buttons)
        column.addWidget(self.tree, 1)
        column.addWidget(self._answers())
        importing.changed.connect(self.refresh)
        self.refresh()

    def _answers(self) -> QWidget:
        self.answers = QWidget()
        row = QHBoxLayout(self.answers)
        row.setContentsMargins(0, 0, 0, 0)
        self.which = QLabel()
        row.addWidget(self.which)
        row.addStretch(1)
        self.buttons: dict[Answer, QPushButton] = {}
        offers: tuple[tuple[Answer, str, str], ...] = (
            ("here", "Use what is here", "Nothing is stored twice; this is how it stands now"),
            ("both", "Keep both", "Put the file on the shelf as a sound of its own as well"),
            (
                "replace",
                "Replace",
                "Keep the sound as this file from now on; the one before becomes a take",
            ),
        )
        for answer, text, tip in offers:
            button = QPushButton(text)
            button.setToolTip(tip)
            button.setAutoDefault(False)
            button.clicked.connect(lambda _=False, answer=answer: self._answer(answer))
            row.addWidget(button)
            self.buttons[answer] = button
        return self.answers

    def refresh(self) -> None:
        """Show how every file stands."""
        self.words.setText(begun(self.importing.sentence()))
        chosen = {id(entry) for entry in self._chosen()}
        self.tree.blockSignals(True)
        self.tree.clear()
        self._items: list[QTreeWidgetItem] = []
        taken = self.importing.of("in")
        self._section("already here", self.importing.of("here"), self._here, opened=True)
        self._section("refused", self.importing.of("refused"), self._refused, opened=True)
        self._section("left when it was stopped", self.importing.of("left"), lambda _: "")
        converted = [entry for entry in taken if entry.changes]
        self._section(
            "converted", converted, lambda entry: "from " + ", ".join(entry.changes), opened=True
        )
        alike = [entry for entry in taken if entry.alike]
        self._section("named alike", alike, lambda entry: f"like {entry.alike}", opened=True)
        self._section("in", taken, self._in)
        self.tree.blockSignals(False)
        for item in self._items:
            item.setSelected(id(item.data(0, ENTRY)) in chosen)
        self._show_buttons()

    def _section(
        self,
        name: str,
        entries: list[Entry],
        say: Callable[[Entry], str],
        *,
        opened: bool = False,
    ) -> None:
        if not entries:
            return
        section = QTreeWidgetItem([f"{begun(name)}: {len(entries)}"])
        section.setFont(0, theme.font(13, 600))
        section.setFlags(Qt.ItemFlag.ItemIsEnabled)
        self.tree.addTopLevelItem(section)
        for entry in entries:
            item = QTreeWidgetItem([entry.path.name, say(entry)])
            item.setData(0, ENTRY, entry)
            item.setForeground(1, theme.BRICK if entry.state == "refused" else theme.INK_SOFT)
            item.setToolTip(0, str(entry.path))
            item.setToolTip(1, say(entry))
            section.addChild(item)
            self._items.append(item)
        section.setExpanded(opened)

    def _here(self, entry: Entry) -> str:
        sounds = self.importing.document.project.sounds
        name = next((sound.name for sound in sounds if sound.id == entry.sound), "a sound")
        return (
            f"the same file as {name}"
            if entry.bytes_too
            else f"the same sound as {name}, in another kind of file"
        )

    def _refused(self, entry: Entry) -> str:
        return entry.why.removeprefix(f"{entry.path}: ")

    def _in(self, entry: Entry) -> str:
        sounds = self.importing.document.project.sounds
        name = next((sound.name for sound in sounds if sound.id == entry.sound), "")
        return f"as {name}" if name else "not on the shelf any more"

    def _chosen(self) -> list[Entry]:
        return [item.data(0, ENTRY) for item in self.tree.selectedItems()]

    def _meant(self) -> list[Entry]:
        here = self.importing.of("here")
        return [entry for entry in self._chosen() if entry in here] or here

    def _show_buttons(self) -> None:
        here, meant = self.importing.of("here"), self._meant()
        self.answers.setVisible(bool(here))
        which = "all" if len(meant) == len(here) else "the chosen"
        files = count(len(meant), "file")
        which = "the file" if len(here) == 1 else f"{which} {files}"
        self.which.setText(f"For {which} already here:")
        self.buttons["replace"].setEnabled(any(not entry.bytes_too for entry in meant))

    def _answer(self, answer: Answer) -> None:
        for entry in self._meant():
            if answer != "replace" or not entry.bytes_too:
                self.importing.answer(entry, answer)
        if answer == "here":
            self.tree.clearSelection()
