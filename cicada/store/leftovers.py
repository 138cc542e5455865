"""Folders of projects that were never saved, where their sounds stand until they are."""

import re
import shutil
import time
from collections.abc import Collection, Iterable
from contextlib import suppress
from pathlib import Path
from typing import NamedTuple

from cicada.disk.paths import is_file, is_folder, is_link
from cicada.media.ingest import content_hash
from cicada.store.journal_lines import SUFFIX
from cicada.store.unfinished import read

_FOLDER = re.compile(r"unsaved-[0-9a-f]{32}")
# Seconds for which a folder that was just written to is let be: a window may be at it.
FRESH = 3600.0


class Leftover(NamedTuple):
    """The folder of a project that no window has open, what is in it, and since when."""

    path: Path
    files: int
    size: int
    when: float


def folders(recovery: Path) -> list[Path]:
    """All folders of unsaved projects."""
    with suppress(OSError):
        return sorted(
            path
            for path in recovery.iterdir()
            if _FOLDER.fullmatch(path.name) and is_folder(path) and not is_link(path)
        )
    return []


def leftovers(recovery: Path, journals: Path) -> list[Leftover]:
    """The folders that no journal is about and nobody has written to for an hour."""
    needed = set()
    with suppress(OSError):
        for path in journals.glob(f"*{SUFFIX}"):
            found = read(path)
            if found is not None:
                needed.add(Path(found.base.file).parent)
    kept = []
    for folder in folders(recovery):
        files = _files(folder)
        with suppress(OSError):
            when = max([folder.stat().st_mtime, *(file.stat().st_mtime for file in files)])
            size = sum(file.stat().st_size for file in files)
            if folder not in needed and time.time() - when > FRESH:
                kept.append(Leftover(folder, len(files), size, when))
    return kept


def remove_needless(found: Iterable[Path], beside: Collection[Path]) -> list[Path]:
    """Remove the folders that are empty or have every file beside a saved project; which.

    ``beside`` are the sounds folders of saved projects. A file is there if one of its name is, with
    the same content.
    """
    gone = []
    for folder in found:
        if all(_stands(file, beside) for file in _files(folder)):
            remove(folder)
            gone.append(folder)
    return gone


def remove(folder: Path) -> None:
    """Remove the folder of an unsaved project with all in it; what cannot be stays."""
    if _FOLDER.fullmatch(folder.name) and not is_link(folder):
        shutil.rmtree(folder, ignore_errors=True)


def _files(folder: Path) -> list[Path]:
    with suppress(OSError):
        return [path for path in folder.rglob("*") if not is_folder(path)]
    return []


def _stands(file: Path, beside: Collection[Path]) -> bool:
    for folder in beside:
        twin = folder / file.name
        with suppress(OSError):
            same = is_file(twin) and twin.stat().st_size == file.stat().st_size
            if same and content_hash(twin) == content_hash(file):
                return True
    return False
