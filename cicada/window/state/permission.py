"""What the project may read outside its own folder."""

from pathlib import Path

from msgspec.structs import replace
from PySide6.QtCore import QObject, Signal

from cicada.core.model import Project
from cicada.store.allowed import Allowed, allow_own, mentioned, outside, permits
from cicada.window.state.document import Document


class Permission(QObject):
    """``changed`` comes when more is allowed; what is put into a project here is, by that."""

    changed = Signal()

    def __init__(self, document: Document, file: Path) -> None:
        super().__init__()
        self._document, self._allowed = document, Allowed(file)
        self._era = document.era
        # Pictures are asked for at every frame, and the disk need not be.
        self._known: dict[Path, bool] = {}
        self.changed.connect(self._known.clear)
        document.changed.connect(self._learn)

    @property
    def folders(self) -> frozenset[str]:
        """The folders that are allowed, by their real paths."""
        return self._allowed.folders

    def permits(self, path: Path) -> bool:
        """Whether the project may read what is there."""
        if path not in self._known:
            self._known[path] = permits(self.folders, self._document.file, path)
        return self._known[path]

    def withheld(self) -> dict[Path, list[Path]]:
        """What the project names and may not read, by the folder that would have to be allowed."""
        return outside(self.folders, self._document.project, self._document.file)

    def allow(self, folders: list[Path]) -> None:
        """Allow folders from now on."""
        self._allowed.add(folders)
        self.changed.emit()

    def allow_own(self) -> None:
        """Allow all that the project uses: it was saved here."""
        allow_own(self._document.project, self._document.file, self._allowed)
        self.changed.emit()

    def _learn(self, old: Project, new: Project) -> None:
        """What an edit puts into the project was chosen by the person before the window."""
        another, self._era = self._document.era != self._era, self._document.era
        if another:
            self._known.clear()
        foreign = new is self._document.came_from_disk
        if another or foreign or _same_files(old, new):
            return
        file = self._document.file
        before, after = _what_differs(old, new)
        known = {path for path, _ in mentioned(before, file)}
        more = [folder for path, folder in mentioned(after, file) if path not in known]
        if any(not self.permits(folder) for folder in more):
            self.allow(more)


def _same_files(old: Project, new: Project) -> bool:
    """Whether nothing was done to what files are in."""
    if old.sounds is not new.sounds or len(old.scenes) != len(new.scenes):
        return False
    pairs = zip(old.scenes, new.scenes, strict=True)
    return all(one.picture is other.picture for one, other in pairs)


def _what_differs(old: Project, new: Project) -> tuple[Project, Project]:
    """Both projects, but for the sounds that are the same in them: there may be thousands."""
    same = {id(sound) for sound in old.sounds} & {id(sound) for sound in new.sounds}
    before, after = (
        replace(each, sounds=tuple(sound for sound in each.sounds if id(sound) not in same))
        for each in (old, new)
    )
    return before, after
