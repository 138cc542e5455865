"""Decoded sound on disk, keyed by content and opened memory-mapped.

What it holds can always be made again from the sound files, so losing it loses nothing. A file
that is opened is marked as used; what has not been used for longest goes first when the cache is
over its limit.
"""

import os
import shutil
import time
from collections.abc import Callable, Collection, Iterator
from contextlib import contextmanager, suppress
from pathlib import Path
from typing import IO, TypeVar

import msgspec
import numpy as np
import platformdirs

from cicada.core.arrays import Samples
from cicada.disk.reading import read_within
from cicada.disk.why import size_text, why
from cicada.disk.writing import new_file, sweep, whole_file
from cicada.errors import BadSound, CannotWrite

T = TypeVar("T")


LIMIT = 10 * 1000**3
# How stale the mark of the last use may be, so that opening a file seldom writes.
USED_EVERY = 60.0
HEADER = 128
COPY = 1 << 20
# Bytes of a note at most.
NOTE = 64_000_000


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

    def peaks_key(self, sound_key: str) -> str:
        """The key of that sound's peaks."""
        return f"{sound_key}-peaks"

    def speed_key(self, sound_key: str, first: int, last: int, speed: float) -> str:
        """The key of samples ``first..last`` of that at another speed."""
        return f"{sound_key}-{first}-{last}-{speed!r}"

    def path(self, key: str) -> Path:
        """Where that key's samples stand."""
        return self.folder / key[:2] / f"{key}.npy"

    def has(self, key: str) -> bool:
        """Whether ``key`` is here."""
        return self.path(key).exists()

    def open(self, key: str) -> Samples | None:
        """The samples of ``key``, memory-mapped and read-only; None if they are not here."""
        path = self.path(key)
        try:
            opened: Samples = np.load(path, mmap_mode="r")
            _mark_used(path)
        except FileNotFoundError:
            return None
        except (OSError, ValueError, EOFError):
            path.unlink(missing_ok=True)
            return None
        # A plain array view of the mapping: slicing np.memmap itself is several times slower.
        return opened.view(np.ndarray)

    def put(self, key: str, samples: Samples) -> None:
        """Keep ``samples`` under ``key``."""
        with self._written(self.path(key), samples.nbytes) as file:
            _write(file.fileno(), memoryview(_header(samples.shape)), 0)
            _write(file.fileno(), _bytes_of(samples), HEADER)

    @contextmanager
    def filling(self, channels: int, expected: int) -> Iterator["Filling"]:
        """Keep what is appended block by block, ``expected`` samples or others.

        It is kept if it has been given its ``key`` by the end of the block.
        """
        with self._safely(channels * expected * 4), new_file(self.folder) as made:
            filling = Filling(made.file, channels, expected)
            yield filling
            filling.finish()
            if filling.key:
                target = self.path(filling.key)
                target.parent.mkdir(exist_ok=True)
                made.become(target, 0o644)

    def read_note(self, name: str, kind: type[T]) -> T | None:
        """What was noted beside the samples; None if it is not here, or no longer readable."""
        try:
            return msgspec.json.decode(read_within(self._note(name), NOTE, BadSound), type=kind)
        except (BadSound, msgspec.DecodeError):
            return None

    def write_note(self, name: str, what: object) -> None:
        """Keep something small, to be read as the kind it is."""
        text = msgspec.json.encode(what)
        with self._written(self._note(name), len(text)) as file:
            _write(file.fileno(), memoryview(text), 0)

    def _note(self, name: str) -> Path:
        return self.folder / name[:2] / f"{name}.json"

    @contextmanager
    def _written(self, path: Path, size: int) -> Iterator[IO[bytes]]:
        with self._safely(size):
            path.parent.mkdir(exist_ok=True)
            with whole_file(path) as made:
                yield made.file

    @contextmanager
    def _safely(self, size: int) -> Iterator[None]:
        """Have room for ``size`` bytes, and say in a sentence what goes wrong."""
        try:
            self.folder.mkdir(parents=True, exist_ok=True)
            free = shutil.disk_usage(self.folder).free
            if size > free:
                raise CannotWrite(
                    f"the cache of decoded sounds needs {size_text(size)} and "
                    f"{size_text(free)} are free",
                    file=str(self.folder),
                    remedy="free some space or set CICADA_CACHE to another folder",
                )
            yield
        except OSError as error:
            raise CannotWrite(
                f"the cache of decoded sounds cannot be written ({why(error)})",
                file=str(self.folder),
                remedy="free some space or set CICADA_CACHE to another folder",
            ) from None

    def keep_to(self, limit: int, in_use: Collection[str] = ()) -> int:
        """Remove what was used longest ago until ``limit`` bytes are left; the bytes removed.

        Samples go before peaks, which are small and draw a sound that is not decoded. Nothing of
        the sound keys ``in_use`` goes.
        """
        used = tuple(in_use)
        total, loose = 0, list[tuple[bool, float, int, Path]]()
        for path in self.folder.glob("*/*"):
            with suppress(OSError):
                state = path.stat()
                total += state.st_size
                small = path.suffix == ".json" or path.stem.endswith("-peaks")
                if path.suffix != ".part" and not path.name.startswith(used):
                    loose.append((small, state.st_mtime, state.st_size, path))
        removed = 0
        for _, _, size, path in sorted(loose):
            if total - removed <= limit:
                break
            with suppress(OSError):
                path.unlink()
                removed += size
        for folder in (self.folder, *self.folder.glob("*/")):
            sweep(folder)
        return removed


class Filling:
    """An array (channels, n) on its way into a file, written before n is known for sure."""

    def __init__(self, file: IO[bytes], channels: int, expected: int) -> None:
        self._handle, self._channels, self._room = file.fileno(), channels, max(1, expected)
        self.length = 0
        self.key = ""
        # Called now and then while what has been written is moved about, which may take long.
        self.beat: Callable[[], object] = lambda: None

    def append(self, block: Samples) -> None:
        """Add a block of shape (frames, channels)."""
        if self.length + len(block) > self._room:
            self._spread(max(self.length + len(block), self._room * 5 // 4))
        for number in range(self._channels):
            place = self._place(number) + 4 * self.length
            _write(self._handle, _bytes_of(block[:, number]), place)
        self.length += len(block)

    def fit(self, length: int) -> None:
        """Make it exactly ``length`` samples long, with silence at the end if need be."""
        if self.length < length:
            self.append(np.zeros((length - self.length, self._channels), np.float32))
        self.length = length

    def finish(self) -> None:
        """Bring the channels together and say what the file is."""
        self._spread(self.length)
        os.ftruncate(self._handle, self._place(self._channels))
        _write(self._handle, memoryview(_header((self._channels, self.length))), 0)

    def _place(self, number: int) -> int:
        return HEADER + 4 * number * self._room

    def _spread(self, room: int) -> None:
        """Give every channel ``room`` samples."""
        old, new = self._room, room
        step = COPY if new < old else -COPY
        for number in range(1, self._channels) if new != old else ():
            source, target = HEADER + 4 * number * old, HEADER + 4 * number * new
            # Backwards when it moves on, or it would overwrite what is still to be read.
            starts = range(0, 4 * min(self.length, new), COPY)
            for start in starts if step > 0 else reversed(starts):
                self.beat()
                count = min(COPY, 4 * self.length - start)
                _write(self._handle, memoryview(os.pread(self._handle, count, source + start)),
                       target + start)  # fmt: skip
        self._room = room


def _header(shape: tuple[int, ...]) -> bytes:
    text = f"{{'descr': '<f4', 'fortran_order': False, 'shape': {shape}, }}"
    # Format 1.0 of numpy.lib.format: magic, version, length of the text, the text padded with
    # spaces and ended with a line feed.
    room = HEADER - 10
    return b"\x93NUMPY\x01\x00" + room.to_bytes(2, "little") + f"{text:<{room - 1}}\n".encode()


def _bytes_of(samples: Samples) -> memoryview:
    return np.ascontiguousarray(samples).reshape(-1).view(np.uint8).data


def _write(handle: int, data: memoryview, at: int) -> None:
    while data:
        done = os.pwrite(handle, data, at)
        data, at = data[done:], at + done


def _mark_used(path: Path) -> None:
    now = time.time()
    if now - path.stat().st_mtime > USED_EVERY:
        with suppress(OSError):
            os.utime(path, (now, now))
