"""Paths as they are meant: links followed once, and what a file says kept inside a folder."""

import os
from pathlib import Path

from cicada.disk.why import why
from cicada.errors import CicadaError


def real_file(path: Path, refuse: type[CicadaError]) -> Path:
    """The file a path leads to, links followed; one that is not there stands where it says."""
    try:
        real = Path(os.path.realpath(path))
        circle = real.is_symlink()
    except (OSError, ValueError) as error:
        raise refuse(
            f"cannot be read ({why(error)})", file=str(path), remedy="check its name"
        ) from None
    if circle:
        raise refuse("its links lead in a circle", file=str(path), remedy="name the file itself")
    return real


def is_there(path: Path) -> bool:
    """Whether anything is there; no if that cannot be seen, or no path can be so."""
    # These of os.path raise nothing, whatever a path holds.
    return os.path.exists(path)  # noqa: PTH110


def is_file(path: Path) -> bool:
    """Whether a file is there, links followed."""
    return os.path.isfile(path)  # noqa: PTH113


def is_folder(path: Path) -> bool:
    """Whether a folder is there, links followed."""
    return os.path.isdir(path)  # noqa: PTH112


def is_link(path: Path) -> bool:
    """Whether a link is there, wherever it leads."""
    return os.path.islink(path)  # noqa: PTH114


def inside(folder: Path, path: Path) -> bool:
    """Whether a path leads to somewhere in a folder, whatever links are on the way."""
    try:
        real, home = os.path.realpath(path), os.path.realpath(folder)
    except (OSError, ValueError):
        return False
    return os.path.commonpath((real, home)) == home


def text_of(path: Path) -> str:
    """A path as text that can be written in a file; letters that are none are replaced."""
    return os.fsencode(path).decode("utf-8", "replace")


def is_text(path: Path) -> bool:
    """Whether a path can be written in a file and read back."""
    return text_of(path) == str(path)
