"""New, open, save, settings: everything about the project's file."""

from pathlib import Path

from PySide6.QtCore import QObject, QSettings, Qt, Signal
from PySide6.QtWidgets import QApplication, QMenu

from cicada.core.editing import Changes, Edit, Several
from cicada.core.model import empty_project
from cicada.core.scene_edits import ChangeProject, ChangeScene
from cicada.errors import CicadaError
from cicada.window.frame.settings_dialog import SettingsDialog
from cicada.window.state.document import ChangedMeanwhile
from cicada.window.state.notices import Notices
from cicada.window.state.permission import Permission
from cicada.window.state.session import Session
from cicada.window.widgets.asking import Asking
from cicada.window.widgets.fields import TypedField
from cicada.window.words.quantities import count

RECENT = 8
# Folders named in a question at most.
SHOWN = 8
PROJECT_FILTER = "Cicada projects (*.cicada)"
SUFFIX = ".cicada"


class Files(QObject):
    """What can be done with the project as a file.

    ``leaving`` comes when another project is about to be opened, ``saved`` after a save, with the
    folder the project stood in if it had not been saved before, else None.
    """

    leaving = Signal()
    saved = Signal(object)

    def __init__(
        self,
        session: Session,
        permission: Permission,
        asking: Asking,
        notices: Notices,
        settings: QSettings,
    ) -> None:
        super().__init__()
        self.document, self.session = session.document, session
        self.permission, self.kept = permission, settings
        self.asking, self.notices = asking, notices
        self.document.became.connect(self._became)

    def _became(self) -> None:
        if self.document.path is not None:
            self.note_recent(self.document.path)

    # -- leaving -------------------------------------------------------------------------------

    def may_leave(self) -> bool:
        """Ask about unsaved changes; whether to go on."""
        self.take_what_is_typed()
        if not self.document.dirty:
            return True
        chosen = self.asking.choose(
            f"“{self.document.name}” has changes that are not saved.",
            ["Go on without saving", "Stay here", "Save"],
            safe=1,
            detail="Going on without saving gives up what was done since it was saved last.",
        )
        return chosen == 0 or (chosen == 2 and self.save())

    def take_what_is_typed(self) -> bool:
        """Enter the value that is being typed; whether it could be read, or there is none."""
        field = QApplication.focusWidget()
        if not isinstance(field, TypedField) or not field.being_typed:
            return True
        return field.enter()

    # -- opening -------------------------------------------------------------------------------

    def new(self) -> None:
        """Ask for the settings of a new project and begin it."""
        if not self.may_leave():
            return
        empty = empty_project("Untitled")
        dialog = SettingsDialog(self.asking.parent, empty, empty.scenes[0], new=True)
        if dialog.exec():
            project = empty_project(
                dialog.name_field.text().strip() or "Untitled",
                dialog.fps,
                dialog.rate,
                dialog.length,
            )
            changes = {"first_frame": dialog.first_frame}
            self.leaving.emit()
            self.document.let_go()
            self.document.new(ChangeProject(changes=changes).apply(project))
        dialog.deleteLater()

    def open(self) -> None:
        """Ask for a project and open it."""
        path = self.asking.file_to_open("Open a project", PROJECT_FILTER)
        if path is not None:
            self.open_file(path)

    def open_demo(self) -> None:
        """Make the demo if need be and open it."""
        from cicada.demo.harbour import demo_folder, make_demo, said_of

        QApplication.setOverrideCursor(Qt.CursorShape.WaitCursor)
        try:
            file = make_demo(demo_folder())
        except CicadaError as error:
            self.notices.say(str(error))
            return
        finally:
            QApplication.restoreOverrideCursor()
        if self.open_file(file) and (news := said_of(file)):
            self.notices.say(news)

    def open_file(self, path: Path) -> bool:
        """Open a project; what stands in the way is said, and nothing changes."""
        if not self.may_leave():
            return False
        return self.open_now(path)

    def open_now(self, path: Path) -> bool:
        """Open a project in place of this one, which is not asked about."""
        try:
            self.leaving.emit()
            self.document.open(path)
        except CicadaError as error:
            self.notices.tell(str(error))
            return False
        self.ask_about_outside()
        return True

    def ask_about_outside(self) -> None:
        """Ask whether the project may read what it names outside its own folder."""
        withheld = self.permission.withheld()
        if not withheld:
            return
        number = sum(map(len, withheld.values()))
        shown = [f"{folder}: {count(len(paths), 'file')}" for folder, paths in withheld.items()]
        more = [f"and {len(shown) - SHOWN} more folders"] if len(shown) > SHOWN else []
        chosen = self.asking.choose(
            f"This project wants to read {count(number, 'file')} outside its own folder.",
            ["Let it read them", "Leave them out"],
            safe=1,
            detail="\n".join([*shown[:SHOWN], *more]),
        )
        if chosen == 0:
            self.permission.allow(list(withheld))

    # -- saving --------------------------------------------------------------------------------

    def save(self) -> bool:
        """Save; whether it is saved."""
        if self.document.path is None:
            return self.save_as()
        if self.document.looking:
            return self.save_as()
        return self._save(self.document.path)

    def _save_over_changes(self, path: Path) -> bool:
        chosen = self.asking.choose(
            f"{self.document.file_name} was changed by another program since it was opened here.",
            ["Replace what is there", "Stay here", "Save under another name…"],
            safe=1,
            detail="What is there now stays among the earlier versions if it is replaced.",
        )
        if chosen == 2:
            return self.save_as()
        return chosen == 0 and self._save(path, replacing=True)

    def save_as(self) -> bool:
        """Ask for a name and save; whether it is saved."""
        name = self.asking.file_to_write("Save the project", PROJECT_FILTER, SUFFIX, (SUFFIX,))
        return name is not None and self._save(name)

    def _save(self, path: Path, *, replacing: bool = False) -> bool:
        left_out = not self.take_what_is_typed()
        unsaved = self.document.file.parent if self.document.path is None else None
        try:
            self.document.save(path, replacing=replacing)
        except ChangedMeanwhile:
            return self._save_over_changes(path)
        except CicadaError as error:
            self.notices.tell(str(error))
            return False
        self.note_recent(path)
        self.permission.allow_own()
        self.saved.emit(unsaved)
        typed = " What is being typed could not be read, and is not in it." if left_out else ""
        self.notices.say(f"Saved {self.document.file_name}.{typed}")
        return True

    def save_copy(self) -> None:
        """Ask for a name and save a copy there."""
        name = self.asking.file_to_write("Save a copy", PROJECT_FILTER, SUFFIX, (SUFFIX,))
        if name is None:
            return
        if name.absolute() == self.document.file.absolute():
            self.notices.tell(
                f"{name.name} is the project itself; choose another name for the copy"
            )
            return
        self.take_what_is_typed()
        try:
            self.document.save_copy(name)
        except CicadaError as error:
            self.notices.tell(str(error))
        else:
            self.notices.say(f"Saved a copy as {name.name}.")

    # -- the recent ones -----------------------------------------------------------------------

    def recent_files(self) -> list[str]:
        """The projects opened or saved last, the last one first."""
        kept = self.kept.value("recent", [])
        return [str(name) for name in kept] if isinstance(kept, list) else [str(kept)]

    def note_recent(self, path: Path) -> None:
        """Put a project first among the recent ones."""
        name = str(path.absolute())
        kept = [name, *(other for other in self.recent_files() if other != name)]
        self.kept.setValue("recent", kept[:RECENT])

    def fill_recent(self, menu: QMenu) -> None:
        """Offer the projects opened last."""
        menu.clear()
        for name in self.recent_files():
            action = menu.addAction(name)
            action.triggered.connect(lambda _=False, name=name: self.open_file(Path(name)))
        if menu.isEmpty():
            menu.addAction("Nothing yet").setEnabled(False)

    def settings(self) -> None:
        """Change the project's settings."""
        project, scene = self.document.project, self.session.scene
        dialog = SettingsDialog(self.asking.parent, project, scene, new=False)
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
