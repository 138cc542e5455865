"""Recordings on their way into a project: on disk as they come, and offered after a crash.

Each is a sound file, or one for each round, and beside it a note of what it is. Whoever records
holds a lock on the note, which ends with its process however that ends.
"""

import fcntl
import os
from collections.abc import Iterator
from contextlib import suppress
from pathlib import Path
from typing import NamedTuple
from uuid import uuid4

import msgspec
from msgspec import Struct
from msgspec.structs import replace

from cicada.disk.paths import is_file, is_link
from cicada.disk.reading import read_within
from cicada.disk.why import why
from cicada.errors import BadProject, BadSound, CannotWrite
from cicada.media.take_file import HEAD, mend

_NOTE = ".recording"
# Bytes of a note at most, and the last second it may be of (the year 9999).
_MOST, _LATEST = 100_000, 253_370_764_800


class About(Struct, frozen=True):
    """What is recorded: when it began (seconds since 1970), in which project, what it is called."""

    when: float
    project: str
    name: str


class Kept(NamedTuple):
    """A recording nobody is at: its note, what that says, and its files with their lengths."""

    note: Path
    about: About
    files: tuple[tuple[Path, int], ...]

    @property
    def frames(self) -> int:
        """Sample frames in all."""
        return sum(frames for _, frames in self.files)


class UnderWay:
    """A recording that somebody is at; ``path`` is where its sound goes."""

    def __init__(self, note: Path, handle: int) -> None:
        self.note, self._handle = note, handle
        self.path = note.with_suffix(".wav")

    def leave(self) -> None:
        """It stays where it is, to be offered."""
        with suppress(OSError):
            os.close(self._handle)

    def forget(self) -> None:
        """It is in a project now, or not wanted."""
        remove(self.note)
        self.leave()


def begin(folder: Path, about: About) -> UnderWay:
    """A new recording; raises ``CannotWrite``."""
    note = folder / f"{uuid4().hex}{_NOTE}"
    try:
        folder.mkdir(parents=True, exist_ok=True)
        handle = os.open(note, os.O_RDWR | os.O_CREAT | os.O_EXCL | os.O_CLOEXEC, 0o600)
        # A disk that knows no locks is gone on with without.
        with suppress(OSError):
            fcntl.flock(handle, fcntl.LOCK_EX | fcntl.LOCK_NB)
        os.write(handle, msgspec.json.encode(about))
    except OSError as error:
        raise CannotWrite(
            f"cannot be written ({why(error)})", file=str(folder), remedy="free some space"
        ) from None
    return UnderWay(note, handle)


def take_up(note: Path) -> UnderWay:
    """A recording that nobody is at; raises ``CannotWrite`` if somebody is."""
    try:
        handle = os.open(note, os.O_RDWR | os.O_CLOEXEC | os.O_NOFOLLOW | os.O_NONBLOCK)
        fcntl.flock(handle, fcntl.LOCK_EX | fcntl.LOCK_NB)
    except OSError as error:
        raise CannotWrite(
            f"is in use ({why(error)})", file=str(note), remedy="close the other window"
        ) from None
    return UnderWay(note, handle)


def kept(folder: Path) -> list[Kept]:
    """The recordings that nobody is at, the newest first, their files mended."""
    found = []
    for note in _notes(folder):
        if in_use(note):
            continue
        files = tuple((path, frames) for path in _files(note) if (frames := _mended(path)))
        if files:
            found.append(Kept(note, _about(note), files))
        elif not any(_holds_anything(path) for path in _files(note)):
            remove(note)
    return sorted(found, key=lambda each: each.about.when, reverse=True)


def _about(note: Path) -> About:
    """What a note says; where nobody can read it, what can be said without it."""
    try:
        about = msgspec.json.decode(read_within(note, _MOST, BadProject), type=About)
    except (BadProject, msgspec.DecodeError, UnicodeDecodeError):
        about = About(_changed(note), "", "Recording")
    # A clock that says what no calendar has is none.
    return about if 0 <= about.when < _LATEST else replace(about, when=0.0)


def _holds_anything(path: Path) -> bool:
    """Whether there is more in a file than a take begins with; what cannot be read stays, too."""
    try:
        return path.stat().st_size > HEAD
    except OSError:
        return True


def _changed(note: Path) -> float:
    try:
        return note.stat().st_mtime
    except OSError:
        return 0.0


def any_kept(folder: Path) -> bool:
    """Whether there may be any."""
    return any(not in_use(note) for note in _notes(folder))


def in_use(note: Path) -> bool:
    """Whether somebody records it now, or has just brought it in."""
    try:
        handle = os.open(note, os.O_RDONLY | os.O_CLOEXEC | os.O_NOFOLLOW | os.O_NONBLOCK)
    except OSError:
        return True
    try:
        fcntl.flock(handle, fcntl.LOCK_EX | fcntl.LOCK_NB)
    except BlockingIOError:
        return True
    except OSError:
        return False
    finally:
        os.close(handle)
    return False


def remove(note: Path) -> None:
    """Remove a recording with its note; what cannot be removed stays."""
    for path in (*_files(note), note):
        with suppress(OSError):
            path.unlink()


def _notes(folder: Path) -> list[Path]:
    with suppress(OSError):
        return [path for path in folder.iterdir() if path.suffix == _NOTE and _ours(path)]
    return []


def _files(note: Path) -> Iterator[Path]:
    """The files of a recording, in the order of their rounds."""
    with suppress(OSError):
        paths = [p for p in note.parent.iterdir() if p.suffix == ".wav" and _ours(p)]
        ours = [p for p in paths if p.stem.split("-")[0] == note.stem]
        yield from sorted(ours, key=lambda path: (len(path.stem), path.stem))


def _ours(path: Path) -> bool:
    return is_file(path) and not is_link(path)


def _mended(path: Path) -> int:
    """The sample frames of a file; 0 if it is none that can be read."""
    try:
        return mend(path)
    except BadSound:
        return 0
