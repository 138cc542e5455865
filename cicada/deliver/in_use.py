"""What a project or a command mentions is never written over."""

import os
from collections.abc import Collection, Iterator
from pathlib import Path

from cicada.core.model import Project, all_takes
from cicada.core.picture_parts import Images, source_of
from cicada.disk.paths import inside, is_folder
from cicada.errors import CannotWrite
from cicada.store.sounds_folder import sound_file, standing


def refuse_in_use(
    output: Path, project: Project, project_file: Path, others: Collection[Path] = ()
) -> None:
    """Raise ``CannotWrite`` if an output is a file of the project, or one of ``others``.

    They are known by what the disk knows them by, so links and other names make no difference.
    """
    for path in (project_file, *others, *_mentioned(project, project_file)):
        if _same(output, path):
            what = "is the project itself" if path == project_file else "is in use by the project"
            _refuse(output, what)
    for folder in _folders(project, project_file):
        if is_folder(folder) and (inside(folder, output) or _has(folder, output)):
            _refuse(output, "is in a folder of the project's picture")


def _refuse(output: Path, what: str) -> None:
    raise CannotWrite(what, file=str(output), remedy="choose another name")


def _mentioned(project: Project, project_file: Path) -> Iterator[Path]:
    for sound in project.sounds:
        if sound.origin:
            yield Path(sound.origin)
        for take in all_takes(sound):
            path = sound_file(take, project_file)
            if path is not None:
                yield path
    for scene in project.scenes:
        for part in scene.picture:
            yield standing(project_file, source_of(part))


def _folders(project: Project, project_file: Path) -> Iterator[Path]:
    for scene in project.scenes:
        for part in scene.picture:
            if isinstance(part, Images):
                yield standing(project_file, part.folder)


def _has(folder: Path, output: Path) -> bool:
    """Whether one of a folder's files is the output under another name."""
    try:
        known = output.stat()
        if folder.stat().st_dev != known.st_dev:
            return False
        with os.scandir(folder) as entries:
            return any(entry.inode() == known.st_ino for entry in entries)
    except OSError:
        return False


def _same(one: Path, other: Path) -> bool:
    try:
        if os.path.realpath(one) == os.path.realpath(other):
            return True
        return one.samefile(other)
    except (OSError, ValueError):
        return False
