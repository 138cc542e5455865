"""The journal: what was done to a project since it was saved, written down as it is done.

A journal is a file of lines, each a checksum and a record in JSON. The first is the ``base``, the
project everything else was done to; then come ``edit``, ``join`` (an edit that is undone together
with the one before it), ``undo`` and ``redo``, each with the digest of the project after it.

Each record is one write to the kernel as the edit is made, so that a kill loses nothing that was
finished; a thread has what was written put on the disk every half second, so that a power cut
loses no more than that. A last record that is torn is dropped. A journal is locked while its
window lives, which ends with its process however that ends.
"""

import errno
import fcntl
import os
import threading
import time
import zlib
from collections.abc import Callable
from contextlib import suppress
from hashlib import blake2b
from pathlib import Path
from typing import Any, Literal, NamedTuple
from uuid import uuid4

import msgspec
from msgspec import Raw, Struct
from msgspec.structs import replace

from cicada.core.all_edits import decoded, encoded
from cicada.core.digest import Digests
from cicada.core.editing import Edit
from cicada.core.history import History
from cicada.core.model import Project
from cicada.errors import BadProject
from cicada.store.validate import validate

SUFFIX = ".journal"
# Bytes after which what is written so far is replaced by the project as it is.
COMPACT = 5 << 20
# Seconds between two times that what was written is put on the disk, and after which a disk that
# has not done so is taken to hang.
SYNC, HANGS = 0.5, 2.0


class Base(Struct, frozen=True, kw_only=True, omit_defaults=True):
    """What a journal begins with.

    ``file`` is where the project stands or is to stand, ``content`` the hash of the bytes there
    when it was read or saved (empty: it was never saved), ``saved`` the digest of what they hold.
    """

    project: Project
    file: str
    content: str = ""
    saved: str = ""


class _Record(Struct, frozen=True, kw_only=True, omit_defaults=True):
    kind: Literal["base", "edit", "join", "undo", "redo"]
    hash: str
    base: Base | None = None
    title: str = ""
    edit: Raw = Raw()


_ENCODER = msgspec.json.Encoder()
_DECODER = msgspec.json.Decoder(_Record)


def content_hash(data: bytes) -> str:
    """What the bytes of a project file are known by."""
    return blake2b(data, digest_size=20).hexdigest()


def _line(record: _Record) -> bytes:
    data = _ENCODER.encode(record)
    return b"%08x %s\n" % (zlib.crc32(data), data)


def _write_whole(file: int, line: bytes) -> None:
    """One write; where the disk takes a part of it only, it is full."""
    if os.write(file, line) != len(line):
        raise OSError(errno.ENOSPC, os.strerror(errno.ENOSPC))


class Journal:
    """Writes down what is done to one project after another.

    ``trouble`` is empty, or says why what is done is not protected. Nothing it does raises.
    """

    def __init__(self, folder: Path) -> None:
        """Journals stand in ``folder``, which is made when the first is begun."""
        self._folder = folder
        self._digests = Digests()
        self._base: Base | None = None
        self.path: Path | None = None
        self._file = -1
        # The length of what is whole, and of its base.
        self._length = self._base_length = 0
        # How many steps of those written down can be taken back, and made again.
        self._undo = self._redo = 0
        self.trouble = ""
        self._change = threading.Condition()
        self._unsynced_since: float | None = None
        self._closed = self._named = False
        self._syncer: threading.Thread | None = None

    # -- whose journal it is -------------------------------------------------------------------

    def become(self, project: Project, file: Path, content: str = "") -> None:
        """Another project, or this one saved, is what edits are made to; nothing is undone.

        What was written before is not needed any more, and goes. The next journal begins with
        the first edit.
        """
        self.forget()
        saved = self._digests.of(project) if content else ""
        self._base = Base(project=project, file=str(file.absolute()), content=content, saved=saved)

    def take_over(self, found: "Unfinished") -> None:
        """Go on writing where a window that is gone has left off."""
        self.forget()
        self._base = replace(found.base, project=found.history.project)
        try:
            file = os.open(found.path, os.O_RDWR | os.O_CLOEXEC)
            fcntl.flock(file, fcntl.LOCK_EX | fcntl.LOCK_NB)
            os.ftruncate(file, found.length)
            os.lseek(file, 0, os.SEEK_END)
        except OSError as error:
            self._fail(error)
            return
        self.path, self._file = found.path, file
        self._length = self._base_length = found.length
        titles, self._undo = found.history.titles()
        self._redo = len(titles) - self._undo

    def forget(self) -> None:
        """What was written down is not needed: it is saved, or not wanted."""
        self._drop(remove=True)
        self.trouble = ""
        self._undo = self._redo = 0

    def close(self) -> None:
        """Write no more, and leave what was written for the next start."""
        self._drop(remove=False)
        with self._change:
            self._closed = True
            self._change.notify()
        if self._syncer is not None:
            self._syncer.join()

    def _drop(self, *, remove: bool) -> None:
        with self._change:
            file, self._file = self._file, -1
            self._unsynced_since = None
            path, self.path = self.path, None
        if file >= 0 and path is not None:
            with suppress(OSError):
                if remove:
                    path.unlink()
                else:
                    os.fdatasync(file)
            os.close(file)

    # -- writing -------------------------------------------------------------------------------

    def edited(self, edit: Edit, title: str, project: Project, *, joined: bool) -> None:
        """An edit was made, after which the project is this one."""
        try:
            data = Raw(encoded(edit))
        except (TypeError, ValueError, msgspec.MsgspecError):
            # One that cannot be written down costs its steps, and not what it did.
            self._begin(project)
            return
        digest = self._digests.of(project)
        kind: Literal["edit", "join"] = "join" if joined else "edit"
        if self._write(_Record(kind=kind, hash=digest, title=title, edit=data), project):
            self._undo, self._redo = max(1, self._undo + (not joined)), 0

    def undone(self, project: Project) -> None:
        """A step was taken back."""
        if not self._undo:
            # It was made before what is written down here begins.
            self._begin(project)
        elif self._write(_Record(kind="undo", hash=self._digests.of(project)), project):
            self._undo, self._redo = self._undo - 1, self._redo + 1

    def redone(self, project: Project) -> None:
        """A step was made again."""
        if not self._redo:
            self._begin(project)
        elif self._write(_Record(kind="redo", hash=self._digests.of(project)), project):
            self._undo, self._redo = self._undo + 1, self._redo - 1

    def is_now(self, project: Project) -> None:
        """The project is another without an edit, after which no step can be undone."""
        self._begin(project)

    def _write(self, record: _Record, project: Project) -> bool:
        """Write a record down; False if the project as it is was written instead, or nothing."""
        if self.trouble or self._length - self._base_length > COMPACT:
            # After a failure the project as it is makes whole what is missing.
            self._begin(project)
            return False
        if self.path is None and self._base is not None:
            self._begin(self._base.project)
        if self.path is None or self._base is None:
            return False
        return self._append(_line(record))

    def _append(self, line: bytes) -> bool:
        try:
            _write_whole(self._file, line)
        except OSError as error:
            with suppress(OSError):
                os.ftruncate(self._file, self._length)
                os.lseek(self._file, self._length, os.SEEK_SET)
            self._fail(error)
            return False
        self._length += len(line)
        with self._change:
            if self._unsynced_since is None:
                self._unsynced_since = time.monotonic()
                self._change.notify()
        return True

    def _begin(self, project: Project) -> None:
        """Begin a journal with the project as it is, in place of the one there was."""
        if self._base is None:
            return
        base = replace(self._base, project=project)
        record = _Record(kind="base", hash=self._digests.of(project), base=base)
        before, file, path = self.path, -1, self._folder / f"{uuid4().hex}{SUFFIX}"
        try:
            self._folder.mkdir(parents=True, exist_ok=True)
            # Locked before it can be seen under its name, so that no other window takes it.
            part = path.with_suffix(".part")
            file = os.open(part, os.O_RDWR | os.O_CREAT | os.O_EXCL | os.O_CLOEXEC, 0o600)
            fcntl.flock(file, fcntl.LOCK_EX | fcntl.LOCK_NB)
            line = _line(record)
            _write_whole(file, line)
            part.rename(path)
        except OSError as error:
            if file >= 0:
                os.close(file)
                with suppress(OSError):
                    part.unlink()
            self._fail(error)
            return
        self._drop(remove=before is not None)
        self._base, self.path, self.trouble = base, path, ""
        self._undo = self._redo = 0
        self._length = self._base_length = len(line)
        with self._change:
            self._file, self._named = file, False
            self._unsynced_since = time.monotonic()
            self._change.notify()
        if self._syncer is None:
            self._syncer = threading.Thread(target=self._sync, name="cicada-journal", daemon=True)
            self._syncer.start()

    def _fail(self, error: OSError) -> None:
        self.trouble = error.strerror or "the disk does not take it"

    # -- putting it on the disk ----------------------------------------------------------------

    @property
    def behind(self) -> float:
        """Seconds that the oldest of what is not on the disk yet has waited."""
        since = self._unsynced_since
        return 0.0 if since is None else time.monotonic() - since

    @property
    def protects(self) -> bool:
        """Whether what is done is safe from a crash, and from a power cut by and by."""
        return not self.trouble and self.behind < HANGS

    def sync(self) -> None:
        """Put what is written on the disk; by the thread, or where it must be now."""
        with self._change:
            file, since = self._file, self._unsynced_since
            if file < 0 or since is None:
                return
            # A file of our own: the one written to may be closed meanwhile.
            file = os.dup(file)
        try:
            os.fdatasync(file)
            if not self._named:
                _sync_folder(self._folder)
                self._named = True
            with self._change:
                if self._unsynced_since == since:
                    self._unsynced_since = None
        except OSError as error:
            self._fail(error)
        finally:
            os.close(file)

    def _sync(self) -> None:
        """What the thread does."""
        while True:
            with self._change:
                while not self._closed and self._unsynced_since is None:
                    self._change.wait()
                if self._closed:
                    return
                self._change.wait(SYNC)
            self.sync()


def _sync_folder(folder: Path) -> None:
    """Put on the disk under which names files stand in a folder."""
    file = os.open(folder, os.O_RDONLY | os.O_CLOEXEC)
    try:
        os.fsync(file)
    finally:
        os.close(file)


# -- reading ------------------------------------------------------------------------------------


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
        data = path.read_bytes()
        when = path.stat().st_mtime
    except OSError:
        return None
    lines = _whole_lines(data)
    records = [_record(line) for line in lines]
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
    records: list[_Record | None],
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


def _whole_lines(data: bytes) -> list[bytes]:
    """The lines up to the first that is not as it was written; a torn last one is none."""
    lines = []
    for line in data.splitlines(keepends=True):
        if not line.endswith(b"\n") or line[:8] != b"%08x" % zlib.crc32(line[9:-1]):
            break
        lines.append(line)
    return lines


def _record(line: bytes) -> _Record | None:
    try:
        return _DECODER.decode(line[9:-1])
    except (msgspec.MsgspecError, ValueError, RecursionError):
        return None


def _after(history: History, record: _Record) -> History | None:
    """The history after a record; None if it does not fit."""
    if record.kind == "undo":
        return history.undone()
    if record.kind == "redo":
        return history.redone()
    if record.kind == "base":
        return None
    try:
        edit = decoded(bytes(record.edit))
        made = edit.apply(history.project)
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
