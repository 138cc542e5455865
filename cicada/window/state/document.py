"""The open project: its value, where it is saved, what can be undone, and its journal."""

from collections.abc import Callable
from pathlib import Path
from typing import NamedTuple
from uuid import uuid4

from PySide6.QtCore import QCoreApplication, QObject, QTimer, Signal

from cicada.core.all_edits import applied
from cicada.core.editing import Edit
from cicada.core.history import History
from cicada.core.model import Project, empty_project
from cicada.disk.locking import locked
from cicada.disk.paths import is_there, real_file
from cicada.disk.writing import real_target
from cicada.errors import BadProject, CannotWrite, CicadaError
from cicada.store.journal import Journal
from cicada.store.projectfile import content_hash, dumps, loads, read_bytes, save, write_atomically
from cicada.store.sounds_folder import moved
from cicada.store.unfinished import Unfinished, unfinished
from cicada.store.versions import Versions
from cicada.window.state.guard import guard

# Seconds that another program that is saving is waited for.
PATIENCE = 3.0


class ChangedMeanwhile(CannotWrite):
    """The file is not as this window has read or written it."""


class _Before(NamedTuple):
    """How the document stood before what is being done now."""

    turn: int
    history: History
    saved: Project | None
    joined: object


class Document(QObject):
    """One project. ``changed`` comes once for every finished change, with the old and the new.

    ``became`` comes when it is another project than before, however it was come by.
    """

    changed = Signal(object, object)
    became = Signal()
    saved_state_changed = Signal()
    refused = Signal(str)

    def __init__(
        self,
        recovery: Path,
        with_made_files: Callable[[Project, Path], Project] = lambda project, _: project,
    ) -> None:
        """``recovery`` is the folder for what is not saved yet.

        ``with_made_files`` has sounds made here written beside a file, and the project say so.
        """
        super().__init__()
        self.with_made_files = with_made_files
        self.recovery = recovery
        self.journals = recovery / "journals"
        self.journal = Journal(self.journals)
        self.versions = Versions(recovery.parent / "versions")
        self.path: Path | None = None
        self._history = History(empty_project("Untitled"))
        self._joined: object = None
        # Another project is another era; the same one under another name is not.
        self.era = 0
        self._saved: Project | None = self.project
        # What the file's bytes are known by, as far as this window has read or written them.
        self.content = ""
        # The name the file was opened by, which may be a link to it.
        self._named: Path | None = None
        # Another window works on it: nothing is done to it here.
        self.looking = False
        # What was taken from the file after it was opened, which nobody here has put together.
        self.came_from_disk: Project | None = None
        self._before: _Before | None = None
        self._working_file = self.next_working_file()
        self.journal.become(self.project, self._working_file)

    def next_working_file(self) -> Path:
        """Where the next project that is not saved yet stands; its folder is made when needed."""
        return self.recovery / f"unsaved-{uuid4().hex}" / "Untitled.cicada"

    @property
    def project(self) -> Project:
        """The project as it is."""
        return self._history.project

    @property
    def file(self) -> Path:
        """The file that paths in the project are relative to; before a save, a working one."""
        return self.path or self._working_file

    @property
    def folder(self) -> Path:
        """Where a question for a file begins."""
        return self.path.parent if self.path is not None else Path.home()

    @property
    def copies_folder(self) -> Path:
        """Where copies of sounds stand that other programs work on."""
        return self.recovery / "copies"

    @property
    def file_name(self) -> str:
        """The name its file goes by."""
        return (self._named or self.file).name

    @property
    def name(self) -> str:
        """What the window calls it."""
        return self.project.name or (self._named or self.file).stem

    @property
    def dirty(self) -> bool:
        """Whether there is something to lose."""
        return self.project is not self._saved

    # -- editing -------------------------------------------------------------------------------

    def do(self, edit: Edit, joins: object = None) -> bool:
        """Make an edit; one that does not fit is said and changes nothing.

        It is undone together with the edit before it if both join the same thing.
        """
        if self._only_looks():
            return False
        try:
            project = applied(edit, self.project)
        except CicadaError as error:
            self.refused.emit(str(error))
            return False
        if project == self.project:
            return True
        joined = self._history.undo is not None and joins is not None and joins is self._joined
        title = getattr(joins, "title", edit.title) if joined else edit.title
        self._remember()
        guard.lately.append(type(edit).__name__)
        self.journal.edited(edit, title, project, joined=joined)
        self._joined = joins
        self._show(self._history.done(title, project, joined=joined))
        return True

    def look_on(self, *, on: bool) -> None:
        """Whether another window works on it, and this one does nothing to it."""
        if on != self.looking:
            self.looking = on
            self.saved_state_changed.emit()

    def _only_looks(self) -> bool:
        if self.looking:
            self.refused.emit(
                "another window works on this project; take it over, or save it under another name"
            )
        return self.looking

    def steps(self) -> list[Project]:
        """The project as it is and as every undo and redo would make it, and as it is saved."""
        return [*self._history.projects(), *((self._saved,) if self._saved is not None else ())]

    def needing_sounds(self) -> list[Project]:
        """All projects that need the sounds beside this one: steps, versions, unfinished work."""
        left = [x for x in unfinished(self.journals) if x.base.file == str(self.file)]
        steps = [project for each in left for project in each.history.projects()]
        return [*self.steps(), *self.versions.projects(self.file), *steps]

    def titles(self) -> tuple[list[str], int]:
        """What each step did, the first first, and how many of them are done."""
        return self._history.titles()

    def go_to_step(self, done: int) -> None:
        """Take steps back or do them again until ``done`` of them are done."""
        history = self._history
        number = history.titles()[1]
        if done == number or (done < number and not history.undo) or self._only_looks():
            return
        self._remember()
        self._joined = None
        while number > done and history.undo is not None:
            history, number = history.undone(), number - 1
            self.journal.undone(history.project)
        while number < done and history.redo is not None:
            history, number = history.redone(), number + 1
            self.journal.redone(history.project)
        if history is not self._history:
            self._show(history)

    @property
    def undo_title(self) -> str:
        """What undo would take back; empty if nothing."""
        return self._history.undo.title if self._history.undo else ""

    @property
    def redo_title(self) -> str:
        """What redo would do again; empty if nothing."""
        return self._history.redo.title if self._history.redo else ""

    def undo(self) -> None:
        """Take the last edit back."""
        if self._history.undo is not None and not self._only_looks():
            self._remember()
            self._joined = None
            self.journal.undone(self._history.undo.project)
            self._show(self._history.undone())

    def redo(self) -> None:
        """Make the edit taken back last again."""
        if self._history.redo is not None and not self._only_looks():
            self._remember()
            self._joined = None
            self.journal.redone(self._history.redo.project)
            self._show(self._history.redone())

    def _show(self, history: History) -> None:
        old, self._history = self.project, history
        self.changed.emit(old, history.project)
        self.saved_state_changed.emit()

    # -- what fails half-way -------------------------------------------------------------------

    def _remember(self) -> None:
        """Note how all stands, so that it can be put back if what is being done now fails."""
        if self._before is None or self._before.turn != guard.turn:
            self._before = _Before(guard.turn, self._history, self._saved, self._joined)
            if QCoreApplication.instance() is not None:
                QTimer.singleShot(0, self, self._finished)

    def _finished(self) -> None:
        self._before = None

    def put_back(self) -> bool:
        """What was being done has failed: have all as it was before; whether that was otherwise."""
        before, self._before = self._before, None
        if before is None or before.turn != guard.turn or before.history is self._history:
            return False
        self._saved, self._joined = before.saved, before.joined
        self.journal.is_now(before.history.project)
        self._show(before.history)
        return True

    # -- files ---------------------------------------------------------------------------------

    def new(self, project: Project, *, begun_at: Path | None = None) -> None:
        """Begin anew with a project that is not saved yet.

        One that is worth saving already has its sounds beside the working file ``begun_at``.
        """
        begun = begun_at is not None
        self._working_file = begun_at or self.next_working_file()
        self._become(History(project), None, "", None if begun else project)
        self.journal.become(project, self.file)
        if begun:
            self.journal.is_now(project)
        self.became.emit()

    def open(self, path: Path) -> None:
        """Open a project file; raises ``BadProject`` and changes nothing if it cannot be.

        A link is followed once: what is saved and kept belongs to the file it leads to.
        """
        named, path = path, real_file(path, BadProject)
        data = read_bytes(path)
        try:
            project = loads(data)
        except BadProject as error:
            raise error.at(str(path)) from None
        content = content_hash(data)
        self._become(History(project), path, content, project)
        if path != named.absolute():
            self._named = named
        self.journal.become(project, path, content)
        self.became.emit()

    def take_what_is_there(self) -> None:
        """Have the project as its file is now, as a step that can be undone.

        Raises ``BadProject`` and changes nothing if it cannot be read.
        """
        data = read_bytes(self.file)
        try:
            project = loads(data)
        except BadProject as error:
            raise error.at(str(self.file)) from None
        self._joined = self._before = None
        self.content, self._saved, self.came_from_disk = content_hash(data), project, project
        self.journal.become(project, self.file, self.content)
        self._show(self._history.done("take what is in the file", project))

    def bring_back(self, found: Unfinished) -> None:
        """Go on with what a window that is gone has left unfinished."""
        file = Path(found.base.file)
        if found.unsaved:
            self._working_file = file
        path = None if found.unsaved else file
        # What it was saved as is in the file, if anywhere: here it is not, so it is to be saved.
        self._become(found.history, path, found.base.content, None)
        self.journal.take_over(found)
        self.became.emit()

    def _become(
        self, history: History, path: Path | None, content: str, saved: Project | None
    ) -> None:
        self._joined = self._before = None
        self.era += 1
        self.path, self._saved, self.content = path, saved, content
        self._named, self.looking = None, False
        self._show(history)

    def changed_on_disk(self) -> bool:
        """Whether the project's file is not as this window has read or written it."""
        if self.path is None or not self.content or not is_there(self.path):
            return False
        try:
            return content_hash(read_bytes(self.path)) != self.content
        except BadProject:
            return True

    def save(self, path: Path | None = None, *, replacing: bool = False) -> None:
        """Save, under another name if one is given; raises ``CannotWrite``.

        A file that is not as this window has read or written it is replaced only if that is said,
        and else ``ChangedMeanwhile`` is raised.
        """
        target = real_target(path or self.file)
        if self.looking and target == self.path:
            raise CannotWrite(
                "another window works on it", file=str(target), remedy="choose another name"
            )
        before, old = self.file, self.project
        written = self.with_made_files(moved(old, before, target), target)
        data = dumps(written)
        with locked(target.parent, PATIENCE):
            if target == self.path and not replacing and self.changed_on_disk():
                raise ChangedMeanwhile("was changed by another program", file=str(target))
            self.versions.keep_what_is_there(target)
            write_atomically(target, data)
        # What is done from now on is not undone with what is in the file.
        self._before = self._joined = None
        if target != self.path:
            named = path or target
            self._named = None if named.absolute() == target else named
            self.looking = False
        self.path, self.content = target, content_hash(data)
        if target.absolute() != before.absolute():
            self._history = self._history.changed(lambda step: moved(step, before, target))
        self._history = self._history._replace(project=written)
        if written is not old:
            self.changed.emit(old, written)
        self._saved = self.project
        self.journal.become(self.project, target, self.content)
        self.saved_state_changed.emit()

    def save_copy(self, path: Path) -> None:
        """Save a copy elsewhere and stay with this file; raises ``CannotWrite``."""
        save(self.with_made_files(moved(self.project, self.file, path), path), path)

    def let_go(self) -> None:
        """What was not saved is not wanted."""
        self.journal.forget()

    def close(self) -> None:
        """Write no more."""
        self.journal.close()
