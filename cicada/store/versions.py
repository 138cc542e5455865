"""What a project was each time it was saved: the last ten of each, in the data folder.

A version is the file as it was saved, maybe with a picture of the sheet beside it. They stand in a
folder for each project file, with a note of where that is.
"""

import re
from contextlib import suppress
from datetime import datetime
from hashlib import blake2b
from pathlib import Path
from typing import NamedTuple

from cicada.core.model import Project
from cicada.disk.paths import is_there
from cicada.disk.why import why
from cicada.errors import CannotWrite, CicadaError
from cicada.store.projectfile import content_hash, load, read_bytes, write_atomically

KEPT = 10
NOTE = "of.txt"
_NAME = re.compile(r"(\d{8}-\d{6}-\d{6})-[0-9a-f]{8}\.cicada")


class Version(NamedTuple):
    """A project as it was saved at some time; ``picture`` may not be there."""

    path: Path
    when: datetime
    size: int
    picture: Path


class Versions:
    """The versions kept in a folder."""

    def __init__(self, folder: Path) -> None:
        self._folder = folder

    def _of(self, file: Path) -> Path:
        named = str(file.absolute()).encode("utf-8", "surrogateescape")
        return self._folder / blake2b(named, digest_size=8).hexdigest()

    def keep(self, file: Path, data: bytes) -> Path | None:
        """Keep what was saved as ``file``; where it stands. Raises ``CannotWrite``.

        What is the newest version already is not kept again, and the oldest beyond ten go.
        """
        known = self.of(file)
        name = content_hash(data)[:8]
        if known and known[0].path.stem.endswith(name) and _bytes(known[0].path) == data:
            return known[0].path
        folder = self._of(file)
        made = folder / f"{datetime.now():%Y%m%d-%H%M%S-%f}-{name}.cicada"
        try:
            folder.mkdir(parents=True, exist_ok=True)
        except OSError as error:
            raise CannotWrite(
                f"cannot be written ({why(error)})", file=str(folder), remedy="free some space"
            ) from None
        note = folder / NOTE
        if not is_there(note):
            write_atomically(note, str(file.absolute()).encode("utf-8", "surrogateescape"))
        write_atomically(made, data)
        for old in self.of(file)[KEPT:]:
            for path in (old.path, old.picture):
                with suppress(OSError):
                    path.unlink(missing_ok=True)
        return made

    def keep_what_is_there(self, file: Path) -> Path | None:
        """Keep a project file as it stands now; where, or None if it cannot be.

        A version that cannot be kept must not keep anybody from saving.
        """
        try:
            return self.keep(file, read_bytes(file))
        except (OSError, CicadaError):
            return None

    def of(self, file: Path) -> list[Version]:
        """The versions of a project file, the newest first."""
        found = []
        with suppress(OSError):
            for path in self._of(file).iterdir():
                match = _NAME.fullmatch(path.name)
                if match is None:
                    continue
                with suppress(OSError, ValueError):
                    when = datetime.strptime(match[1], "%Y%m%d-%H%M%S-%f")
                    size = path.stat().st_size
                    found.append(Version(path, when, size, path.with_suffix(".png")))
        return sorted(found, key=lambda version: version.path.name, reverse=True)

    def projects(self, file: Path) -> list[Project]:
        """The versions of a project file that can be read."""
        found = []
        for version in self.of(file):
            with suppress(CicadaError):
                found.append(load(version.path))
        return found


def _bytes(path: Path) -> bytes:
    with suppress(CicadaError):
        return read_bytes(path)
    return b""
