"""What lies outside a project's own folder is read only if this person has allowed the folder.

A project from somebody else may name any file. The folders allowed are kept in the data folder by
their real paths; importing, linking or saving here allows those a project then uses.
"""

import os
from collections.abc import Collection, Iterator
from pathlib import Path

import msgspec

from cicada.core.model import Project, all_takes
from cicada.core.picture_parts import Images, source_of
from cicada.disk.locking import locked
from cicada.disk.paths import is_link, real_file
from cicada.disk.reading import read_within
from cicada.errors import BadProject, CicadaError
from cicada.store.folders import data_folder
from cicada.store.projectfile import write_atomically
from cicada.store.sounds_folder import sound_file, standing

MOST = 4_000_000


def mentioned(project: Project, project_file: Path) -> Iterator[tuple[Path, Path]]:
    """Every file and folder a project names, with the folder that is allowed for it."""
    for sound in project.sounds:
        for take in all_takes(sound):
            path = sound_file(take, project_file)
            if path is not None:
                yield path, path.parent
    for scene in project.scenes:
        for part in scene.picture:
            path = standing(project_file, source_of(part))
            yield path, path if isinstance(part, Images) else path.parent


class Allowed:
    """The folders that are allowed."""

    def __init__(self, file: Path | None = None) -> None:
        self._file = file or data_folder() / "allowed.json"
        self.folders: frozenset[str] = frozenset(self._read())

    def _read(self) -> list[str]:
        try:
            return msgspec.json.decode(read_within(self._file, MOST, BadProject), type=list[str])
        except (CicadaError, msgspec.DecodeError, UnicodeDecodeError):
            return []

    def add(self, folders: Collection[Path]) -> None:
        """Allow folders from now on; a data folder that cannot be written forgets it at the end."""
        wanted = frozenset(str(real_file(folder, BadProject)) for folder in folders)
        if wanted <= self.folders:
            return
        self.folders |= wanted
        try:
            self._file.parent.mkdir(parents=True, exist_ok=True)
            with locked(self._file.parent):
                self.folders |= frozenset(self._read())
                write_atomically(self._file, msgspec.json.encode(sorted(self.folders)))
        except (OSError, CicadaError):
            return


def permits(folders: Collection[str], project_file: Path, path: Path) -> bool:
    """Whether a project may read what is at a path, links followed; ``folders`` are real ones."""
    try:
        real, home = os.path.realpath(path), os.path.realpath(project_file.parent)
    except (OSError, ValueError):
        return False
    return any(real == each or real.startswith(f"{each.rstrip('/')}/") for each in (home, *folders))


def outside(
    folders: Collection[str], project: Project, project_file: Path
) -> dict[Path, list[Path]]:
    """What a project names and may not read: folders to allow, each with the files in it."""
    found: dict[Path, list[Path]] = {}
    permitted: dict[Path, bool] = {}
    for path, folder in mentioned(project, project_file):
        # What lies in a permitted folder, and is no link, is permitted: most are in one folder.
        parent = path.parent
        if parent not in permitted:
            permitted[parent] = permits(folders, project_file, parent)
        if (permitted[parent] and not is_link(path)) or permits(folders, project_file, path):
            continue
        found.setdefault(folder, []).append(path)
    return found


def allow_own(project: Project, project_file: Path, allowed: Allowed) -> None:
    """Allow what a project uses that was made or saved here."""
    allowed.add(outside(allowed.folders, project, project_file))
