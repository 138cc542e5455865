"""Files that are written whole or not at all."""

import os
import re
import tempfile
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from pathlib import Path

_PART = re.compile(r"\.(\d+)-.*\.part$")


@contextmanager
def part_file(folder: Path) -> Iterator[Path]:
    """A new file in ``folder`` that vanishes at the end of the block, unless it has been moved."""
    handle, name = tempfile.mkstemp(dir=folder, prefix=f".{os.getpid()}-", suffix=".part")
    os.close(handle)
    part = Path(name)
    try:
        yield part
    finally:
        part.unlink(missing_ok=True)


@contextmanager
def whole_file(target: Path, mode: int = 0o644) -> Iterator[Path]:
    """A path to write to, which takes the place of ``target`` when the block ends well.

    Otherwise it vanishes, and what stood at ``target`` stays as it was. A file that is replaced
    keeps its mode; a new one gets ``mode``.
    """
    with part_file(target.parent) as part:
        yield part
        part.chmod(target.stat().st_mode & 0o777 if target.exists() else mode)
        part.replace(target)


def remove_orphans(folder: Path) -> None:
    """Remove what processes that have been killed were still writing in ``folder``."""
    for path in folder.glob(".*.part"):
        match = _PART.match(path.name)
        if match is not None and not _alive(int(match[1])):
            path.unlink(missing_ok=True)


def _alive(process: int) -> bool:
    with suppress(PermissionError):
        try:
            os.kill(process, 0)
        except ProcessLookupError:
            return False
    return True
