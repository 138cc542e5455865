"""The journal: what was done to a project since it was saved, written down as it is done.

What its lines hold is in ``journal_lines``, how they are read back in ``unfinished``.

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
from contextlib import suppress
from pathlib import Path
from typing import Literal
from uuid import uuid4

import msgspec
from msgspec import Raw
from msgspec.structs import replace

from cicada.core.all_edits import encoded
from cicada.core.digest import Digests
from cicada.core.editing import Edit
from cicada.core.model import Project
from cicada.store.journal_lines import SUFFIX, Base, Record, line_of
from cicada.store.unfinished import Unfinished

# Bytes after which what is written so far is replaced by the project as it is.
COMPACT = 5 << 20
# Seconds between two times that what was written is put on the disk, and after which a disk that
# has not done so is taken to hang.
SYNC, HANGS = 0.5, 2.0


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

    def take_over(self, found: Unfinished) -> None:
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
        if self._write(Record(kind=kind, hash=digest, title=title, edit=data), project):
            self._undo, self._redo = max(1, self._undo + (not joined)), 0

    def undone(self, project: Project) -> None:
        """A step was taken back."""
        if not self._undo:
            # It was made before what is written down here begins.
            self._begin(project)
        elif self._write(Record(kind="undo", hash=self._digests.of(project)), project):
            self._undo, self._redo = self._undo - 1, self._redo + 1

    def redone(self, project: Project) -> None:
        """A step was made again."""
        if not self._redo:
            self._begin(project)
        elif self._write(Record(kind="redo", hash=self._digests.of(project)), project):
            self._undo, self._redo = self._undo + 1, self._redo - 1

    def is_now(self, project: Project) -> None:
        """The project is another without an edit, after which no step can be undone."""
        self._begin(project)

    def _write(self, record: Record, project: Project) -> bool:
        """Write a record down; False if the project as it is was written instead, or nothing."""
        if self.trouble or self._length - self._base_length > COMPACT:
            # After a failure the project as it is makes whole what is missing.
            self._begin(project)
            return False
        if self.path is None and self._base is not None:
            self._begin(self._base.project)
        if self.path is None or self._base is None:
            return False
        return self._append(line_of(record))

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
        record = Record(kind="base", hash=self._digests.of(project), base=base)
        before, file, path = self.path, -1, self._folder / f"{uuid4().hex}{SUFFIX}"
        try:
            self._folder.mkdir(parents=True, exist_ok=True)
            # Locked before it can be seen under its name, so that no other window takes it.
            part = path.with_suffix(".part")
            file = os.open(part, os.O_RDWR | os.O_CREAT | os.O_EXCL | os.O_CLOEXEC, 0o600)
            fcntl.flock(file, fcntl.LOCK_EX | fcntl.LOCK_NB)
            line = line_of(record)
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
