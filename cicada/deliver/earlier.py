"""What was delivered earlier: only that is replaced unasked, and only while it is as it was.

Kept in the data folder, for this person, by the real paths of the files.
"""

import os
from collections.abc import Iterable
from pathlib import Path

import msgspec
from xxhash import xxh3_128

from cicada.disk.locking import locked
from cicada.disk.paths import is_link, is_there
from cicada.disk.reading import open_file, read_within
from cicada.errors import BadProject, BadSound, CicadaError
from cicada.store.folders import data_folder
from cicada.store.projectfile import write_atomically

# Bytes of the file that are read, and deliveries that are remembered; the oldest are forgotten.
MOST, FILES = 16_000_000, 20_000
AT_ONCE = 1 << 20


class Made(msgspec.Struct, frozen=True):
    """By which recipe of which project a file was made, and what it held then."""

    project: str
    recipe: str
    content: str


class Earlier:
    """The files that were delivered, by their real paths."""

    def __init__(self, file: Path | None = None) -> None:
        self._file = file or data_folder() / "delivered.json"

    def _read(self) -> dict[str, Made]:
        try:
            known = read_within(self._file, MOST, BadProject)
            return msgspec.json.decode(known, type=dict[str, Made])
        except (CicadaError, msgspec.MsgspecError, ValueError, RecursionError):
            return {}

    def in_the_way(self, paths: Iterable[Path], project: Path, recipe: str) -> list[Path]:
        """Of some outputs those that are there, and that this recipe did not make as they are."""
        known, found = self._read(), list[Path]()
        for path in paths:
            if not is_there(path) and not is_link(path):
                continue
            made = known.get(_real(path))
            ours = made is not None and (made.project, made.recipe) == (_real(project), recipe)
            if made is None or not ours or made.content != _content(path):
                found.append(path)
        return found

    def remember(self, paths: Iterable[Path], project: Path, recipe: str) -> None:
        """A recipe has made some files; a data folder that cannot be written forgets it."""
        made = {_real(path): Made(_real(project), recipe, _content(path)) for path in paths}
        try:
            self._file.parent.mkdir(parents=True, exist_ok=True)
            with locked(self._file.parent):
                known = {at: each for at, each in self._read().items() if at not in made}
                kept = dict(list({**known, **made}.items())[-FILES:])
                write_atomically(self._file, msgspec.json.encode(kept))
        except (OSError, CicadaError):
            return


def _real(path: Path) -> str:
    return os.fsdecode(os.fsencode(os.path.realpath(path)).decode("utf-8", "replace"))


def _content(path: Path) -> str:
    """What a file holds, in short; empty if it cannot be read."""
    digest = xxh3_128()
    try:
        with open_file(path, BadSound) as file:
            while piece := file.read(AT_ONCE):
                digest.update(piece)
    except (BadSound, OSError):
        return ""
    return digest.hexdigest()
