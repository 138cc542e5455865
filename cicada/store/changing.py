"""Changing a project file without a window: the newest there is, under a lock, never an old state.

What was there and what is there now are kept among the versions.
"""

from collections.abc import Callable
from pathlib import Path

from cicada.core.model import Project
from cicada.disk.locking import locked
from cicada.disk.paths import is_link, is_there
from cicada.errors import CannotWrite
from cicada.store.allowed import Allowed, allow_own
from cicada.store.folders import data_folder
from cicada.store.projectfile import load, save
from cicada.store.versions import Versions


def make(project: Project, file: Path) -> None:
    """Write a project where nothing stands yet; raises ``CannotWrite``."""
    with locked(file.parent):
        if is_there(file) or is_link(file):
            raise CannotWrite("is there already", file=str(file), remedy="choose another name")
        save(project, file)
    _versions().keep_what_is_there(file)


def change(file: Path, how: Callable[[Project], Project]) -> None:
    """Save what ``how`` makes of the project as it is now; raises what it and saving raise."""
    with locked(file.parent):
        versions = _versions()
        project = load(file)
        made = how(project)
        if made == project:
            return
        versions.keep_what_is_there(file)
        save(made, file)
        versions.keep_what_is_there(file)
        allow_own(made, file, Allowed())


def _versions() -> Versions:
    return Versions(data_folder() / "versions")
