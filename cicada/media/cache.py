"""Decoded sound on disk, keyed by content and opened memory-mapped.

What it holds can always be made again from the sound files, so losing it loses nothing.
"""

import os
from pathlib import Path

import numpy as np
import platformdirs
from numpy.typing import NDArray

from cicada.errors import CannotWrite
from cicada.media.whole import whole_file

Samples = NDArray[np.float32]


def user_cache() -> "SoundCache":
    """The cache in the user's cache folder (``CICADA_CACHE`` names another)."""
    named = os.environ.get("CICADA_CACHE")
    return SoundCache(Path(named) if named else Path(platformdirs.user_cache_dir("cicada")))


class SoundCache:
    """A folder of float32 arrays (channels, n), written whole or not at all."""

    def __init__(self, folder: Path) -> None:
        self.folder = folder

    def sound_key(self, content: str, rate: int) -> str:
        """The key of a sound file's samples at a project's rate."""
        return f"{content.removeprefix('blake2b:')}-{rate}"

    def speed_key(self, sound_key: str, first: int, last: int, speed: float) -> str:
        """The key of samples ``first..last`` of that at another speed."""
        return f"{sound_key}-{first}-{last}-{speed!r}"

    def path(self, key: str) -> Path:
        """Where that key's samples stand."""
        return self.folder / key[:2] / f"{key}.npy"

    def open(self, key: str) -> Samples | None:
        """The samples of ``key``, memory-mapped and read-only; None if they are not here."""
        path = self.path(key)
        try:
            opened: Samples = np.load(path, mmap_mode="r")
        except FileNotFoundError:
            return None
        except (OSError, ValueError, EOFError):
            path.unlink(missing_ok=True)
            return None
        # A plain array view of the mapping: slicing np.memmap itself is several times slower.
        return opened.view(np.ndarray)

    def put(self, key: str, samples: Samples) -> None:
        """Keep ``samples`` under ``key``."""
        path = self.path(key)
        try:
            path.parent.mkdir(parents=True, exist_ok=True)
            with whole_file(path) as part, part.open("wb") as file:
                plain = np.ascontiguousarray(samples)
                header = np.lib.format.header_data_from_array_1_0(plain)
                np.lib.format.write_array_header_1_0(file, header)
                file.write(plain.data)
        except OSError as error:
            raise CannotWrite(
                f"the cache of decoded sounds cannot be written ({error.strerror})",
                file=str(self.folder),
                remedy="free some space or set CICADA_CACHE to another folder",
            ) from None
