"""Which window works on a project's file: one at a time, and another one may take it over.

A claim is a small file in the data folder that names a process. One of a process that is gone
counts for nothing.
"""

import os
from contextlib import suppress
from hashlib import blake2b
from pathlib import Path
from typing import Annotated
from uuid import uuid4

import msgspec
from msgspec import Meta, Struct

from cicada.disk.locking import locked
from cicada.disk.reading import read_within
from cicada.disk.writing import whole_file, write_all
from cicada.errors import BadProject, CicadaError

MOST = 10_000


class _Claim(Struct, frozen=True):
    """Whose a file is: a process, when that began (in the kernel's ticks), and the window in it."""

    process: Annotated[int, Meta(ge=1, le=1 << 31)]
    began: int
    window: str


class Claims:
    """What one window claims, and what others do. A data folder that cannot be written has none."""

    def __init__(self, folder: Path) -> None:
        self._folder = folder
        process = os.getpid()
        self._me = _Claim(process, _began(process), uuid4().hex)

    def take(self, file: Path) -> None:
        """Claim a file, whoever may have done so before."""
        with suppress(OSError, CicadaError):
            self._folder.mkdir(parents=True, exist_ok=True)
            with locked(self._folder), whole_file(self._path(file)) as made:
                write_all(made.file, msgspec.json.encode(self._me))

    def held(self, file: Path) -> bool:
        """Whether another window that is still there has claimed it."""
        claim = self._read(file)
        return claim not in (None, self._me) and _began(claim.process) == claim.began

    def let_go(self, file: Path) -> None:
        """Claim it no more."""
        if self._read(file) == self._me:
            with suppress(OSError):
                self._path(file).unlink()

    def _read(self, file: Path) -> _Claim | None:
        try:
            return msgspec.json.decode(read_within(self._path(file), MOST, BadProject), type=_Claim)
        except (CicadaError, msgspec.DecodeError, UnicodeDecodeError):
            return None

    def _path(self, file: Path) -> Path:
        name = blake2b(os.fsencode(file), digest_size=20).hexdigest()
        return self._folder / f"{name}.claim"


def _began(process: int) -> int:
    """When a process began, in the kernel's ticks; -1 if it is not there."""
    try:
        text = read_within(Path(f"/proc/{process}/stat"), MOST, BadProject)
        # The name, in brackets, may hold anything; field 22 of proc(5) is the 20th after it.
        return int(text.rpartition(b")")[2].split()[19])
    except (CicadaError, ValueError, IndexError):
        return -1
