"""New, open, save, settings: everything about the project's file."""

from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import QObject, Qt
from PySide6.QtWidgets import QApplication, QFileDialog, QMenu, QMessageBox

from cicada.core.editing import Changes, Edit, Several
from cicada.core.model import empty_project
from cicada.core.scene_edits import ChangeProject, ChangeScene
from cicada.errors import CicadaError
from cicada.window.settings_dialog import SettingsDialog

if TYPE_CHECKING:
    from cicada.window.main_window import MainWindow

RECENT = 8
PROJECT_FILTER = "Cicada projects (*.cicada)"


class Files(QObject):
    """What can be done with the project as a file."""

    def __init__(self, window: "MainWindow") -> None:
        super().__init__(window)
        self.window = window
        self.document, self.session = window.document, window.session

    def may_leave(self) -> bool:
        """Ask about unsaved changes; whether to go on."""
        if not self.document.dirty:
            return True
        box = QMessageBox(self.window)
        box.setText(f"“{self.document.name}” has changes that are not saved.")
        save = box.addButton("Save", QMessageBox.ButtonRole.AcceptRole)
        box.addButton("Leave them", QMessageBox.ButtonRole.DestructiveRole)
        stay = box.addButton("Stay here", QMessageBox.ButtonRole.RejectRole)
        box.setDefaultButton(save)
        box.setEscapeButton(stay)
        box.exec()
        clicked = box.clickedButton()
        box.deleteLater()
        if clicked is stay:
            return False
        return clicked is not save or self.save()

    def new(self) -> None:
        """Ask for the settings of a new project and begin it."""
        if not self.may_leave():
            return
        empty = empty_project("Untitled")
        dialog = SettingsDialog(self.window, empty, empty.scenes[0], new=True)
        if dialog.exec():
            project = empty_project(
                dialog.name_field.text().strip() or "Untitled",
                dialog.fps,
                dialog.rate,
                dialog.length,
            )
            changes = {"first_frame": dialog.first_frame}
            self._leave_file()
            self.document.new(ChangeProject(changes=changes).apply(project))
        dialog.deleteLater()

    def _leave_file(self) -> None:
        self.window.transport.stop()
        self.window.frames.forget()

    def open(self) -> None:
        """Ask for a project and open it."""
        name, _ = QFileDialog.getOpenFileName(
            self.window, "Open a project", self.folder(), PROJECT_FILTER
        )
        if name:
            self.open_file(Path(name))

    def open_demo(self) -> None:
        """Make the demo if need be and open it."""
        from cicada.demo.harbour import demo_folder, make_demo

        QApplication.setOverrideCursor(Qt.CursorShape.WaitCursor)
        try:
            file = make_demo(demo_folder())
        except CicadaError as error:
            self.window.say(str(error))
            return
        finally:
            QApplication.restoreOverrideCursor()
        self.open_file(file)

    def open_file(self, path: Path) -> bool:
        """Open a project; what stands in the way is said, and nothing changes."""
        if not self.may_leave():
            return False
        try:
            self._leave_file()
            self.document.open(path)
        except CicadaError as error:
            self.window.tell(str(error))
            return False
        self._note_recent(path)
        self.window.keeping.look_at_sources()
        self.window.collecting.settle()
        return True

    def save(self) -> bool:
        """Save; whether it is saved."""
        if self.document.path is None:
            return self.save_as()
        return self._save(self.document.path)

    def save_as(self) -> bool:
        """Ask for a name and save; whether it is saved."""
        name = self.ask_name("Save the project", PROJECT_FILTER, ".cicada")
        return name is not None and self._save(name)

    def _save(self, path: Path) -> bool:
        try:
            self.document.save(path)
        except CicadaError as error:
            self.window.tell(str(error))
            return False
        self._note_recent(path)
        self.window.say(f"Saved {path.name}.")
        return True

    def save_copy(self) -> None:
        """Ask for a name and save a copy there."""
        name = self.ask_name("Save a copy", PROJECT_FILTER, ".cicada")
        if name is None:
            return
        if name.absolute() == self.document.file.absolute():
            self.window.tell(f"{name.name} is the project itself; choose another name for the copy")
            return
        try:
            self.document.save_copy(name)
        except CicadaError as error:
            self.window.tell(str(error))
        else:
            self.window.say(f"Saved a copy as {name.name}.")

    def ask_name(self, title: str, names: str, suffix: str) -> Path | None:
        """Ask for a file to write; None if nobody wants to."""
        start = str(Path(self.folder()) / f"{self.document.name}{suffix}")
        name, _ = QFileDialog.getSaveFileName(self.window, title, start, names)
        if not name:
            return None
        path = Path(name)
        return path if path.suffix else path.with_suffix(suffix)

    def folder(self) -> str:
        """Where a question for a file begins."""
        return str(self.document.path.parent if self.document.path else Path.home())

    def _recent_files(self) -> list[str]:
        kept = self.window.settings.value("recent", [])
        return [str(name) for name in kept] if isinstance(kept, list) else [str(kept)]

    def _note_recent(self, path: Path) -> None:
        name = str(path.absolute())
        kept = [name, *(other for other in self._recent_files() if other != name)]
        self.window.settings.setValue("recent", kept[:RECENT])

    def fill_recent(self, menu: QMenu) -> None:
        """Offer the projects opened last."""
        menu.clear()
        for name in self._recent_files():
            action = menu.addAction(name)
            action.triggered.connect(lambda _=False, name=name: self.open_file(Path(name)))
        if menu.isEmpty():
            menu.addAction("Nothing yet").setEnabled(False)

    def settings(self) -> None:
        """Change the project's settings."""
        project, scene = self.document.project, self.session.scene
        dialog = SettingsDialog(self.window, project, scene, new=False)
        if dialog.exec():
            changes: Changes = {
                "name": dialog.name_field.text().strip() or project.name,
                "fps": dialog.fps,
                "rate": dialog.rate,
                "first_frame": dialog.first_frame,
            }
            edits: tuple[Edit, ...] = (
                ChangeProject(changes=changes),
                ChangeScene(scene=scene.id, changes={"length": dialog.length}),
            )
            self.document.do(Several(named="change the settings", edits=edits))
        dialog.deleteLater()
