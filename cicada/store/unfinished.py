"""What windows that are gone have left unfinished, read back from their journals."""

import fcntl
import os
from collections.abc import Callable
from pathlib import Path
from typing import Any, NamedTuple

from cicada.core.all_edits import applied, decoded
from cicada.core.digest import Digests
from cicada.core.history import History
from cicada.core.model import Project
from cicada.disk.reading import read_within
from cicada.errors import BadProject
from cicada.store.journal_lines import SUFFIX, Base, Record, record_of, whole_lines
from cicada.store.validate import validate

# Bytes of a journal at most; it is compacted long before.
LARGEST = 1_000_000_000


class Unfinished(NamedTuple):
    """What a journal holds: where it was begun, and what comes back.

    ``differs`` says that going through it again came to something else than was written; then
    ``history`` ends with the last that was the same. ``length`` are the bytes up to there.
    """

    path: Path
    base: Base
    history: History
    length: int
    differs: bool
    when: float

    @property
    def name(self) -> str:
        """What the window called it."""
        return self.history.project.name or Path(self.base.file).stem

    @property
    def unsaved(self) -> bool:
        """Whether it never was saved anywhere."""
        return not self.base.content

    @property
    def changes(self) -> bool:
        """Whether it comes to anything but what was saved."""
        return self.unsaved or Digests().of(self.history.project) != self.base.saved


def read(path: Path) -> Unfinished | None:
    """What the journal at ``path`` holds; None if that is nothing that can be used."""
    try:
        data = read_within(path, LARGEST, BadProject)
        when = path.stat().st_mtime
    except (OSError, BadProject):
        return None
    lines = whole_lines(data)
    records = [record_of(line) for line in lines]
    base = records[0].base if records and records[0] is not None else None
    if base is None or not _valid(base.project):
        return None
    history, length, differs = _replayed(base, lines, records)
    if not _valid(history.project):
        history, length, differs = _replayed(base, lines, records, fits=_valid)
    return Unfinished(path, base, history, length, differs, when)


def _replayed(
    base: Base,
    lines: list[bytes],
    records: list[Record | None],
    fits: Callable[[Project], bool] = lambda _: True,
) -> tuple[History, int, bool]:
    """What records come to, up to the first that comes to something else than was written.

    Also the bytes up to there, and whether there was one.
    """
    digests, history, length = Digests(), History(base.project), len(lines[0])
    for line, record in zip(lines[1:], records[1:], strict=True):
        after = None if record is None else _after(history, record)
        if record is None or after is None or digests.of(after.project) != record.hash:
            return history, length, True
        if not fits(after.project):
            return history, length, True
        history, length = after, length + len(line)
    return history, length, False


def _valid(project: Project) -> bool:
    try:
        validate(project)
    except BadProject:
        return False
    return True


def _after(history: History, record: Record) -> History | None:
    """The history after a record; None if it does not fit."""
    if record.kind == "undo":
        return history.undone()
    if record.kind == "redo":
        return history.redone()
    if record.kind == "base":
        return None
    try:
        edit = decoded(bytes(record.edit))
        made = applied(edit, history.project)
    except Exception:  # noqa: BLE001 - whatever it is that was written, it does not fit
        return None
    return history.done(record.title, made, joined=record.kind == "join")


def is_open(path: Path) -> bool:
    """Whether the window that writes a journal is still there."""
    try:
        file = os.open(path, os.O_RDWR | os.O_CLOEXEC)
    except OSError:
        return False
    try:
        fcntl.flock(file, fcntl.LOCK_EX | fcntl.LOCK_NB)
    except OSError:
        return True
    finally:
        os.close(file)
    return False


def unfinished(folder: Path) -> list[Unfinished]:
    """What windows that are gone have left unfinished, the newest first.

    Journals that come to nothing but what was saved are left out, and stay.
    """
    found: list[Any] = [read(path) for path in _journals(folder) if not is_open(path)]
    kept = [each for each in found if each is not None and each.changes]
    return sorted(kept, key=lambda each: -each.when)


def _journals(folder: Path) -> list[Path]:
    try:
        return sorted(folder.glob(f"*{SUFFIX}"))
    except OSError:
        return []
