"""Decoded sound on disk, keyed by content.

What it holds can always be made again from the sound files, so losing it loses nothing, and what
is not as it was written is taken away and made anew. When a file was opened last stands in the
time of an empty file beside it; what has not been used for longest goes first when the cache is
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
from xxhash import xxh3_64_digest

from cicada.core.arrays import Samples
from cicada.disk.paths import is_folder, is_there
from cicada.disk.reading import open_file, read_within
from cicada.disk.why import size_text, why
from cicada.disk.writing import new_file, sweep, whole_file
from cicada.errors import BadSound, CannotWrite
from cicada.media.stored import HEADER, SUM, Damaged, Stored, header, pieces, table

T = TypeVar("T")


LIMIT = 10 * 1000**3
# To look for room for so few bytes would take longer than to write them.
SMALL = 1_000_000
# How stale the mark of the last use may be, so that opening a file seldom writes.
USED_EVERY = 60.0
USED = ".used"
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

    @property
    def limit(self) -> int:
        """How many bytes it may have; set for all who use it."""
        try:
            return int(read_within(self.folder / "limit", 30, BadSound))
        except (BadSound, ValueError):
            return LIMIT

    def set_limit(self, size: int) -> None:
        """Let it have so many bytes from now on; raises ``CannotWrite``."""
        with self._safely(0), whole_file(self.folder / "limit") as made:
            made.file.write(str(size).encode())

    def too_large(self, size: int) -> str:
        """Why so many bytes more cannot be kept; empty if they can, or are very few."""
        if size <= SMALL:
            return ""
        limit, free = self.limit, shutil.disk_usage(_there_already(self.folder)).free
        if size > limit:
            return f"takes {size_text(size)} decoded, and the cache may have {size_text(limit)}"
        if size > free:
            return f"takes {size_text(size)} decoded, and {size_text(free)} are free"
        return ""

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
        return self.folder / f"{key[:2]}/{key}.npy"

    def has(self, key: str) -> bool:
        """Whether ``key`` is here."""
        return is_there(self.path(key))

    def open(self, key: str) -> Stored | None:
        """The samples of ``key``, memory-mapped; None if they are not here.

        For processes that may die of a file cut short meanwhile: workers and the player.
        """
        return self._opened(key, mapped=True)

    def reading(self, key: str) -> Stored | None:
        """The samples of ``key``, to be read; None if they are not here."""
        return self._opened(key, mapped=False)

    def _opened(self, key: str, *, mapped: bool) -> Stored | None:
        path = self.path(key)
        try:
            file = open_file(path, BadSound)
        except BadSound:
            return None
        with file:
            number = os.fstat(file.fileno()).st_ino
            try:
                stored = Stored(file, key, mapped=mapped, damaged=lambda: self._forget(key, number))
            except Damaged:
                self._forget(key, number)
                return None
            except (OSError, ValueError):
                # It cannot be had now, which says nothing about what it holds.
                return None
        self._mark_used(key)
        return stored

    def _forget(self, key: str, number: int) -> None:
        """Take away the file of ``key`` that had that number: it is not what was written."""
        path = self.path(key)
        with suppress(OSError):
            # It may have been made anew meanwhile.
            if path.stat().st_ino == number:
                path.unlink()

    def put(self, key: str, samples: Samples) -> None:
        """Keep ``samples`` under ``key``."""
        with self._written(self.path(key), samples.nbytes) as file:
            data = _bytes_of(samples)
            sums = table(
                key, samples.shape, pieces(len(data), lambda at, count: data[at : at + count])
            )
            _write(file.fileno(), memoryview(header(samples.shape)), 0)
            _write(file.fileno(), data, HEADER)
            _write(file.fileno(), memoryview(sums), HEADER + len(data))

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
                if not is_folder(target.parent):
                    target.parent.mkdir(exist_ok=True)
                made.become(target, 0o644)

    def read_note(self, name: str, kind: type[T]) -> T | None:
        """What was noted beside the samples; None if it is not here, or no longer readable."""
        try:
            text = read_within(self._note(name), NOTE, BadSound)
            right = xxh3_64_digest(text[SUM:]) == text[:SUM]
            return msgspec.json.decode(text[SUM:], type=kind) if right else None
        except (BadSound, msgspec.DecodeError):
            return None

    def write_note(self, name: str, what: object) -> None:
        """Keep something small, to be read as the kind it is."""
        text = msgspec.json.encode(what)
        text = xxh3_64_digest(text) + text
        with self._written(self._note(name), len(text)) as file:
            _write(file.fileno(), memoryview(text), 0)

    def _note(self, name: str) -> Path:
        return self.folder / f"{name[:2]}/{name}.note"

    @contextmanager
    def _written(self, path: Path, size: int) -> Iterator[IO[bytes]]:
        with self._safely(size):
            if not is_folder(path.parent):
                path.parent.mkdir(exist_ok=True)
            with whole_file(path) as made:
                yield made.file

    @contextmanager
    def _safely(self, size: int) -> Iterator[None]:
        """Have room for ``size`` bytes, and say in a sentence what goes wrong."""
        try:
            if not is_folder(self.folder):
                self.folder.mkdir(parents=True, exist_ok=True)
            problem = self.too_large(size)
            if problem:
                raise CannotWrite(
                    problem,
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
            if path.suffix not in (".npy", ".note"):
                continue
            with suppress(OSError):
                state = path.stat()
                total += state.st_size
                small = path.suffix == ".note" or path.stem.endswith("-peaks")
                if not path.name.startswith(used):
                    loose.append((small, _last_used(path, state), state.st_size, path))
        removed = 0
        for _, _, size, path in sorted(loose):
            if total - removed <= limit:
                break
            with suppress(OSError):
                path.unlink()
                path.with_name(f"{path.stem}{USED}").unlink(missing_ok=True)
                removed += size
        for folder in (self.folder, *self.folder.glob("*/")):
            sweep(folder)
        return removed

    def _mark_used(self, key: str) -> None:
        mark = self.path(key).with_name(f"{key}{USED}")
        with suppress(OSError):
            if not is_there(mark) or abs(time.time() - mark.stat().st_mtime) > USED_EVERY:
                mark.touch()


def _last_used(path: Path, state: os.stat_result) -> float:
    with suppress(OSError):
        return path.with_name(f"{path.stem}{USED}").stat().st_mtime
    return state.st_mtime


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
        shape, end = (self._channels, self.length), self._place(self._channels)
        sums = table(self.key, shape, pieces(end - HEADER, self._read))
        os.ftruncate(self._handle, end)
        _write(self._handle, memoryview(header(shape)), 0)
        _write(self._handle, memoryview(sums), end)

    def _read(self, at: int, count: int) -> bytes:
        self.beat()
        return os.pread(self._handle, count, HEADER + at)

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


def _bytes_of(samples: Samples) -> memoryview:
    return np.ascontiguousarray(samples).reshape(-1).view(np.uint8).data


def _write(handle: int, data: memoryview, at: int) -> None:
    while data:
        done = os.pwrite(handle, data, at)
        data, at = data[done:], at + done


def _there_already(folder: Path) -> Path:
    """The folder, or of those it is in the nearest that is there."""
    return next((each for each in (folder, *folder.parents) if is_folder(each)), Path("/"))
