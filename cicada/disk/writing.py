"""The one door out: files that are written whole or not at all.

A file has no name until it is whole, so that a process that is killed leaves nothing. Where the
disk knows no such files it has a name of ours, and ``sweep`` takes away what is left of it.
"""

import os
import re
import secrets
import shutil
import stat
import tempfile
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from functools import cache
from pathlib import Path
from typing import IO

from cicada.disk.paths import is_folder, is_link
from cicada.disk.why import why
from cicada.errors import CannotWrite

_PART = re.compile(r"\.(\d+)-[a-z0-9_]{8}\.part")


class NewFile:
    """A file on its way; ``file`` writes to it, and others can open it meanwhile at ``path``."""

    def __init__(self, folder: Path) -> None:
        self._folder = folder
        self._named: Path | None = None
        try:
            handle = os.open(folder, os.O_TMPFILE | os.O_RDWR | os.O_CLOEXEC, 0o600)
            self.path = Path(f"/proc/self/fd/{handle}")
        except FileNotFoundError:
            raise
        except OSError:
            handle, name = tempfile.mkstemp(dir=folder, prefix=f".{os.getpid()}-", suffix=".part")
            self.path = self._named = Path(name)
        self.file: IO[bytes] = os.fdopen(handle, "w+b", buffering=0)

    def become(self, target: Path, mode: int) -> None:
        """Stand at ``target``, in place of what is there, with that mode."""
        self.file.flush()
        os.fchmod(self.file.fileno(), mode)
        if self._named is None:
            with suppress(FileExistsError):
                _link(self.file.fileno(), target)
                return
            part = f".{os.getpid()}-{secrets.token_hex(4)}.part"
            self._named = _link(self.file.fileno(), target.with_name(part))
        self._named.replace(target)
        self._named = None

    def close(self) -> None:
        """Be gone, unless it has become something."""
        self.file.close()
        if self._named is not None:
            self._named.unlink(missing_ok=True)


def _link(handle: int, path: Path) -> Path:
    """Give a file a name, where nothing stands yet."""
    # Only with a folder named does Python follow the link in /proc to the file; any will do, for
    # that path is a whole one.
    os.link(f"/proc/self/fd/{handle}", path, src_dir_fd=handle)
    return path


@contextmanager
def new_file(folder: Path) -> Iterator[NewFile]:
    """A new file in ``folder`` that is gone at the end of the block, unless it became something."""
    made = NewFile(folder)
    try:
        yield made
    finally:
        made.close()


@contextmanager
def whole_file(target: Path, *, lasting: bool = False) -> Iterator[NewFile]:
    """A new file that takes the place of ``target`` when the block ends well.

    Otherwise it is gone, and what stood at ``target`` stays as it was. A file that is replaced
    keeps its mode, a link leads on to what is written; what is no file is not replaced
    (``CannotWrite``). ``lasting``: it and its name are on the disk when the block is over.
    """
    # Where nothing is there is no link to follow nor mode to keep, which is most often.
    new = not _stands(target)
    if not new:
        target = real_target(target)
    with new_file(target.parent) as made:
        yield made
        if lasting:
            made.file.flush()
            os.fsync(made.file.fileno())
        mode = 0o666 & ~_umask()
        if not new:
            with suppress(FileNotFoundError):
                mode = target.stat().st_mode & 0o777
        made.become(target, mode)
    if lasting:
        sync_folder(target.parent)


def _stands(path: Path) -> bool:
    """Whether there may be anything at a path."""
    try:
        os.lstat(path)
    except FileNotFoundError:
        return False
    except (OSError, ValueError):
        return True
    return True


def write_all(file: IO[bytes], data: bytes) -> None:
    """Write all of ``data``: a file without a buffer may take a part of it only."""
    left = memoryview(data)
    while left:
        left = left[file.write(left) :]


def sync_folder(folder: Path) -> None:
    """Have the names in a folder on the disk."""
    handle = os.open(folder, os.O_RDONLY | os.O_CLOEXEC)
    try:
        os.fsync(handle)
    finally:
        os.close(handle)


def real_target(path: Path) -> Path:
    """Where what is written to ``path`` is to stand, links followed; raises ``CannotWrite``."""
    try:
        real = Path(os.path.realpath(path, strict=False))
        if real.is_symlink():
            raise CannotWrite(
                "its links lead in a circle", file=str(path), remedy="choose another name"
            )
        mode = real.stat().st_mode
    except FileNotFoundError:
        return real
    except (OSError, ValueError) as error:
        raise CannotWrite(
            f"cannot be written ({why(error)})", file=str(path), remedy="choose another name"
        ) from None
    if stat.S_ISREG(mode):
        return real
    what = "a folder" if stat.S_ISDIR(mode) else "no file"
    raise CannotWrite(f"is {what}", file=str(path), remedy="choose another name")


def sweep(folder: Path) -> None:
    """Take away what processes that are gone were still writing in ``folder``."""
    with suppress(OSError):
        for path in folder.iterdir():
            match = _PART.fullmatch(path.name)
            if match is not None and not _alive(int(match[1])):
                with suppress(OSError):
                    if is_folder(path) and not is_link(path):
                        shutil.rmtree(path)
                    else:
                        path.unlink()


def _alive(process: int) -> bool:
    with suppress(PermissionError):
        try:
            os.kill(process, 0)
        except (ProcessLookupError, OverflowError):
            return False
    return True


@cache
def _umask() -> int:
    # To ask the system for it is to change it for a moment, under the hands of other threads.
    with suppress(OSError, ValueError), open("/proc/self/status", encoding="utf-8") as status:  # noqa: PTH123
        for line in status:
            if line.startswith("Umask:"):
                return int(line.split()[1], 8)
    return 0o022
