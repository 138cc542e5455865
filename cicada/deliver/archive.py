"""What an archive of a project is: a plain ZIP of stored files under names that go on any disk.

Nothing in it is compressed, so it can never be larger than it is; entries have no dates.
"""

import struct
import unicodedata
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import PurePosixPath
from typing import IO
from zipfile import BadZipFile, LargeZipFile

from cicada.core.model import Project, all_takes
from cicada.core.picture_parts import Images, source_of
from cicada.errors import BadProject

SUFFIX, PROJECT = ".zip", ".cicada"
# What says in an archive where the sounds come from.
TERMS = "sounds.txt"
# Entries, and bytes of their list.
MOST_ENTRIES, MOST_AT_ONCE = 1_000_000, 400_000_000
LONGEST = 255


def safe_name(name: str) -> bool:
    """Whether one step of a name goes on any disk, and leads nowhere."""
    try:
        short = 0 < len(name.encode()) <= LONGEST
    except UnicodeEncodeError:
        return False
    plain = name.isprintable() and name == name.strip() and not set(name) & set('/\\:*?"<>|')
    return short and plain and not name.startswith(".")


def same_for_a_disk(name: str) -> str:
    """What two names have in common that some disk takes for one."""
    return unicodedata.normalize("NFKC", name).casefold()


def named_by(project: Project, project_name: str) -> tuple[frozenset[str], frozenset[str]]:
    """The files that a project in an archive names, and the folders whose files it names."""
    files = {project_name, TERMS}
    for sound in project.sounds:
        files |= {str(PurePosixPath(take.file)) for take in all_takes(sound) if take.file}
    folders = set[str]()
    for scene in project.scenes:
        for part in scene.picture:
            source = str(PurePosixPath(source_of(part)))
            (folders if isinstance(part, Images) else files).add(source)
    return frozenset(files), frozenset(folders)


class Bounded:
    """A file of which no more is read at once than an honest archive needs."""

    def __init__(self, file: IO[bytes]) -> None:
        self._file = file
        self.seek, self.tell = file.seek, file.tell

    def seekable(self) -> bool:
        """It is a file."""
        return True

    def read(self, count: int = -1) -> bytes:
        """The next bytes; raises ``BadZipFile`` if that is too much to be a list of entries."""
        if count > MOST_AT_ONCE:
            raise BadZipFile
        return self._file.read(count)


@contextmanager
def understood(file: str) -> Iterator[None]:
    """Say in a sentence what is wrong with an archive, whatever is done to it."""
    try:
        yield
    except (
        BadZipFile, LargeZipFile, NotImplementedError, struct.error, EOFError, KeyError,
        OverflowError, RuntimeError, ValueError, OSError,
    ):  # fmt: skip
        raise BadProject(
            "is no archive that can be read", file=file, remedy="have it sent again"
        ) from None
