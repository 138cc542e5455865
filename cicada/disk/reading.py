"""The one door in: files a person or another program has made, read within bounds."""

import os
import stat
from pathlib import Path
from typing import IO

from cicada.disk.why import why
from cicada.errors import CicadaError

AT_ONCE = 1 << 20


def open_file(path: Path, refuse: type[CicadaError]) -> IO[bytes]:
    """A file, opened to be read without a buffer.

    What is not there, may not be read or is no file (a folder, a pipe, a device) is refused with
    an error of the kind given.
    """
    try:
        # Without waiting: the other end of a pipe may never be opened.
        handle = os.open(path, os.O_RDONLY | os.O_NONBLOCK | os.O_CLOEXEC)
    except FileNotFoundError:
        raise refuse(
            "is not there", file=str(path), remedy="check the name and the folder"
        ) from None
    except (OSError, ValueError) as error:
        raise refuse(
            f"cannot be read ({why(error)})",
            file=str(path),
            remedy="check its name and its permissions",
        ) from None
    mode = os.fstat(handle).st_mode
    if stat.S_ISREG(mode):
        return os.fdopen(handle, "rb", buffering=0)
    os.close(handle)
    if stat.S_ISDIR(mode):
        raise refuse("is a folder", file=str(path), remedy="name a file in it")
    raise refuse("is no file", file=str(path), remedy="choose a file")


def read_within(path: Path, most: int, refuse: type[CicadaError]) -> bytes:
    """All of a file of ``most`` bytes at most; see ``open_file``."""
    with open_file(path, refuse) as file:
        parts, room = [], most + 1
        try:
            while room and (part := file.read(min(room, AT_ONCE))):
                parts.append(part)
                room -= len(part)
        except OSError as error:
            raise refuse(
                f"cannot be read ({why(error)})", file=str(path), remedy="try it again"
            ) from None
    if not room:
        raise refuse(
            f"is larger than the {most // 1_000_000} MB such a file may have",
            file=str(path),
            remedy="see whether it is the file you mean",
        )
    return b"".join(parts)
