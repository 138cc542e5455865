"""The open project: its value, where it is saved, what can be undone."""

from pathlib import Path
from uuid import uuid4

from PySide6.QtCore import QObject, Signal

from cicada.core.editing import Edit
from cicada.core.model import Project, empty_project
from cicada.errors import CicadaError
from cicada.store.projectfile import load, save
from cicada.store.sounds_folder import moved

Step = tuple[str, Project]


class Document(QObject):
    """One project. ``changed`` comes once for every finished change, with the old and the new."""

    changed = Signal(object, object)
    saved_state_changed = Signal()
    refused = Signal(str)

    def __init__(self, recovery: Path) -> None:
        """``recovery`` is the folder for what is not saved yet."""
        super().__init__()
        self._recovery = recovery
        self.path: Path | None = None
        self.project = empty_project("Untitled")
        self._undo: list[Step] = []
        self._redo: list[Step] = []
        self._joined: object = None
        # Another project is another era; the same one under another name is not.
        self.era = 0
        self._saved = self.project
        self._working_file = self._new_working_file()

    def _new_working_file(self) -> Path:
        # The folder itself is made when the first sound is kept in it.
        return self._recovery / f"unsaved-{uuid4().hex}" / "Untitled.cicada"

    @property
    def file(self) -> Path:
        """The file that paths in the project are relative to; before a save, a working one."""
        return self.path or self._working_file

    @property
    def copies_folder(self) -> Path:
        """Where copies of sounds stand that other programs work on."""
        return self._recovery / "copies"

    @property
    def name(self) -> str:
        """What the window calls it."""
        return self.project.name or self.file.stem

    @property
    def dirty(self) -> bool:
        """Whether there is something to lose."""
        return self.project is not self._saved

    def do(self, edit: Edit, joins: object = None) -> bool:
        """Make an edit; one that does not fit is said and changes nothing.

        It is undone together with the edit before it if both join the same thing.
        """
        try:
            project = edit.apply(self.project)
        except CicadaError as error:
            self.refused.emit(str(error))
            return False
        if project == self.project:
            return True
        title = edit.title
        if self._undo and joins is not None and joins is self._joined:
            title, before = getattr(joins, "title", title), self._undo.pop()[1]
            self._undo.append((title, before))
        else:
            self._undo.append((title, self.project))
        self._joined = joins
        self._redo.clear()
        self._show(project)
        return True

    def steps(self) -> list[Project]:
        """The project as it is and as every undo and redo would make it."""
        return [self.project, self._saved, *(project for _, project in (*self._undo, *self._redo))]

    def titles(self) -> tuple[list[str], int]:
        """What each step did, the first first, and how many of them are done."""
        done = [title for title, _ in self._undo]
        return [*done, *(title for title, _ in reversed(self._redo))], len(done)

    def go_to_step(self, done: int) -> None:
        """Take steps back or do them again until ``done`` of them are done."""
        self._joined = None
        project = self.project
        while len(self._undo) > done:
            title, before = self._undo.pop()
            self._redo.append((title, project))
            project = before
        while len(self._undo) < done and self._redo:
            title, after = self._redo.pop()
            self._undo.append((title, project))
            project = after
        if project is not self.project:
            self._show(project)

    @property
    def undo_title(self) -> str:
        """What undo would take back; empty if nothing."""
        return self._undo[-1][0] if self._undo else ""

    @property
    def redo_title(self) -> str:
        """What redo would do again; empty if nothing."""
        return self._redo[-1][0] if self._redo else ""

    def undo(self) -> None:
        """Take the last edit back."""
        self.go_to_step(max(0, len(self._undo) - 1))

    def redo(self) -> None:
        """Make the edit taken back last again."""
        self.go_to_step(len(self._undo) + 1)

    def _show(self, project: Project) -> None:
        old, self.project = self.project, project
        self.changed.emit(old, project)
        self.saved_state_changed.emit()

    def new(self, project: Project) -> None:
        """Begin anew with a project that is not saved yet."""
        self._working_file = self._new_working_file()
        self._become(project, None)

    def open(self, path: Path) -> None:
        """Open a project file; raises ``BadProject`` and changes nothing if it cannot be."""
        self._become(load(path), path)

    def _become(self, project: Project, path: Path | None) -> None:
        self._undo.clear()
        self._redo.clear()
        self._joined = None
        self.era += 1
        self.path, self._saved = path, project
        self._show(project)

    def save(self, path: Path | None = None) -> None:
        """Save, under another name if one is given; raises ``CannotWrite``."""
        target = path or self.file
        before = self.file
        written = moved(self.project, before, target)
        save(written, target)
        self.path = target
        if target.absolute() != before.absolute():
            self._undo = [(title, moved(step, before, target)) for title, step in self._undo]
            self._redo = [(title, moved(step, before, target)) for title, step in self._redo]
        if written != self.project:
            old, self.project = self.project, written
            self.changed.emit(old, written)
        self._saved = self.project
        self.saved_state_changed.emit()

    def save_copy(self, path: Path) -> None:
        """Save a copy elsewhere and stay with this file; raises ``CannotWrite``."""
        save(moved(self.project, self.file, path), path)
