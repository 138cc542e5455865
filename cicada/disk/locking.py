"""One at a time in a folder: whoever reads a file, changes it and writes it back holds its lock."""

import fcntl
import os
import time
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from cicada.disk.why import why
from cicada.errors import CannotWrite

# Seconds another one is waited for: what is done under the lock takes a moment.
PATIENCE = 20.0
LOOK = 0.02


@contextmanager
def locked(folder: Path, patience: float = PATIENCE) -> Iterator[None]:
    """Hold the folder's own lock, which leaves no file; raises ``CannotWrite``.

    Another one that holds it is waited for, ``patience`` seconds.

    A disk that knows no locks is gone on with without.
    """
    try:
        handle = os.open(folder, os.O_RDONLY | os.O_DIRECTORY | os.O_CLOEXEC)
    except (OSError, ValueError) as error:
        raise CannotWrite(
            f"cannot be opened ({why(error)})", file=str(folder), remedy="choose another folder"
        ) from None
    try:
        _wait_for(handle, folder, patience)
        yield
    finally:
        os.close(handle)


def _wait_for(handle: int, folder: Path, patience: float) -> None:
    until = time.monotonic() + patience
    while True:
        try:
            fcntl.flock(handle, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except BlockingIOError:
            if time.monotonic() > until:
                raise CannotWrite(
                    "another program does not get done with saving here",
                    file=str(folder),
                    remedy="end it, or try again later",
                ) from None
            time.sleep(LOOK)
        except OSError:
            return
        else:
            return
