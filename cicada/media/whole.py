"""Files that are written whole or not at all."""

import os
import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path


@contextmanager
def whole_file(target: Path, mode: int = 0o644) -> Iterator[Path]:
    """A path to write to, which takes the place of ``target`` when the block ends well.

    Otherwise it vanishes, and what stood at ``target`` stays as it was. A file that is replaced
    keeps its mode; a new one gets ``mode``.
    """
    handle, name = tempfile.mkstemp(dir=target.parent, prefix=".", suffix=".part")
    os.close(handle)
    part = Path(name)
    try:
        yield part
        part.chmod(target.stat().st_mode & 0o777 if target.exists() else mode)
        part.replace(target)
    except BaseException:
        part.unlink(missing_ok=True)
        raise
