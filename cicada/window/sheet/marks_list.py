"""The marks of the film, listed: found by their words, gone to, written on and cleared."""

from PySide6.QtCore import Qt
from PySide6.QtWidgets import (
    QDialog,
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QListWidget,
    QListWidgetItem,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from cicada.core.scene_edits import ClearMark, PutMark
from cicada.window.sheet.going_about import GoingAbout
from cicada.window.state.session import Session
from cicada.window.words.quantities import count

PLACE = Qt.ItemDataRole.UserRole


class MarksList(QDialog):
    """All marks of the film; choosing one goes there, typing looks for words in them."""

    def __init__(self, parent: QWidget, session: Session, going_about: GoingAbout) -> None:
        super().__init__(parent)
        self._session, self._going_about, self._document = session, going_about, session.document
        self.setWindowTitle("Marks")
        self.resize(440, 420)
        column = QVBoxLayout(self)
        column.setContentsMargins(16, 14, 16, 14)
        self.words = QLineEdit()
        self.words.setPlaceholderText("find in the marks")
        self.words.setClearButtonEnabled(True)
        self.words.setAccessibleName("Find in the marks")
        column.addWidget(self.words)
        self.list = QListWidget()
        self.list.setAccessibleName("Marks")
        column.addWidget(self.list, 1)
        self.note = QLabel()
        self.note.setObjectName("soft")
        self.note.setWordWrap(True)
        column.addWidget(self.note)
        row = QHBoxLayout()
        self.text = QLineEdit()
        self.text.setAccessibleName("What the mark says")
        self.text.setPlaceholderText("what the chosen mark says")
        self.remove = QPushButton("Clear the mark")
        self.remove.setAutoDefault(False)
        row.addWidget(self.text, 1)
        row.addWidget(self.remove)
        column.addLayout(row)
        self.words.textChanged.connect(self._refresh)
        self.list.currentItemChanged.connect(self._go)
        self.list.itemActivated.connect(lambda _: self.accept())
        self.text.editingFinished.connect(self._write)
        self.remove.clicked.connect(self._clear)
        self._document.changed.connect(self._refresh)
        self._refresh()

    def _refresh(self) -> None:
        chosen = self._chosen()
        project = self._document.project
        base = project.timebase
        wanted = self.words.text().casefold().split()
        self.list.blockSignals(True)
        self.list.clear()
        total = 0
        for scene in project.scenes:
            for mark in sorted(scene.marks, key=lambda mark: mark.frame):
                total += 1
                name = scene.label
                if not all(word in f"{mark.text} {name}".casefold() for word in wanted):
                    continue
                seconds = f"{base.seconds(mark.frame):.3f} s"
                shown = f"{name}, frame {project.shown(mark.frame)}, {seconds}"
                item = QListWidgetItem(f"{mark.text or 'no text'}   –   {shown}")
                item.setData(PLACE, (scene.id, mark.frame, mark.text))
                self.list.addItem(item)
                if (scene.id, mark.frame) == chosen:
                    self.list.setCurrentItem(item)
        self.list.blockSignals(False)
        found = self.list.count()
        empty = "No marks yet. M puts one at the playhead, also while the film plays."
        shown = count(total, "mark") if found == total else f"{found} of {count(total, 'mark')}"
        self.note.setText(shown if total else empty)
        self._show_text()

    def _chosen(self) -> tuple[str, int] | None:
        item: QListWidgetItem | None = self.list.currentItem()
        if item is None:
            return None
        scene, frame, _ = item.data(PLACE)
        return scene, frame

    def _show_text(self) -> None:
        item: QListWidgetItem | None = self.list.currentItem()
        self.text.setEnabled(item is not None)
        self.remove.setEnabled(item is not None)
        self.text.setText("" if item is None else item.data(PLACE)[2])

    def _go(self) -> None:
        self._show_text()
        chosen = self._chosen()
        if chosen is not None:
            self._session.show_scene(chosen[0])
            self._going_about.go_to(chosen[1])

    def _write(self) -> None:
        chosen = self._chosen()
        if chosen is not None and self.text.isModified():
            self.text.setModified(False)
            scene, frame = chosen
            self._document.do(PutMark(scene=scene, frame=frame, text=self.text.text().strip()))

    def _clear(self) -> None:
        chosen = self._chosen()
        if chosen is not None:
            self._document.do(ClearMark(scene=chosen[0], frame=chosen[1]))
