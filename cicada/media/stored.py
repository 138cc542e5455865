"""Samples in a file of the cache, each piece of it compared with its sum before it is used.

A file is a ``.npy`` with a table behind its samples: a sum of each 256 KiB of them, and one of
the file's key, the header and the table. So a piece that has changed since it was written is
found when it is first looked at, and nobody has to read all of a long sound to play its beginning.
"""

import os
import re
import weakref
from collections.abc import Callable, Iterator
from typing import IO

import numpy as np
from xxhash import xxh3_64_digest, xxh3_64_intdigest

from cicada.core.arrays import Samples

HEADER = 128
PIECE = 1 << 18
SUM = 8
_SHAPE = re.compile(rb"'shape': \(([12]), (\d{1,16})\)")

Take = Callable[[int, int], memoryview | bytes]
"""Bytes of a file's samples: where they begin, and how many."""


def header(shape: tuple[int, ...]) -> bytes:
    """The head of a file of float32 samples of that shape."""
    text = f"{{'descr': '<f4', 'fortran_order': False, 'shape': {shape}, }}"
    # Format 1.0 of numpy.lib.format: magic, version, length of the text, the text padded with
    # spaces and ended with a line feed.
    room = HEADER - 10
    return b"\x93NUMPY\x01\x00" + room.to_bytes(2, "little") + f"{text:<{room - 1}}\n".encode()


def table(key: str, shape: tuple[int, ...], pieces: Iterator[memoryview | bytes]) -> bytes:
    """What stands behind the samples of ``key``, which come in their pieces."""
    sums = b"".join(xxh3_64_digest(piece) for piece in pieces)
    return sums + xxh3_64_digest(key.encode() + header(shape) + sums)


def pieces(size: int, take: Take) -> Iterator[memoryview | bytes]:
    """The pieces of ``size`` bytes of samples."""
    for start in range(0, size, PIECE):
        yield take(start, min(PIECE, size - start))


class Damaged(ValueError):
    """A file of the cache is not what was written."""


class Stored:
    """The samples of an opened file, shape (channels, n); none is given before it is proved right.

    Mapped, they are an array whose pages come when they are touched, and touching one of a file
    that has been cut short ends the process; else they are read, and what is missing is only
    missing.
    """

    def __init__(
        self,
        file: IO[bytes],
        key: str,
        *,
        mapped: bool,
        damaged: Callable[[], object] = lambda: None,
    ) -> None:
        """``damaged`` is called once, when a piece is found to be wrong.

        The file may be closed then. Raises ``Damaged`` if it is not that key's, or another size
        than it should be.
        """
        self._say = damaged
        head = os.pread(file.fileno(), HEADER, 0)
        found = _SHAPE.search(head)
        self.shape = (int(found[1]), int(found[2])) if found else (0, 0)
        self._size = 4 * self.shape[0] * self.shape[1]
        count = -(-self._size // PIECE)
        size = HEADER + self._size + SUM * (count + 1)
        if head != header(self.shape) or os.fstat(file.fileno()).st_size != size:
            raise Damaged
        sums = os.pread(file.fileno(), SUM * (count + 1), HEADER + self._size)
        if sums[SUM * count :] != xxh3_64_digest(key.encode() + head + sums[: SUM * count]):
            raise Damaged
        self._sums = sums
        self._left = set(range(count))
        self.damaged = False
        self._mapped: Samples | None = None
        if mapped:
            whole: Samples = np.zeros(self.shape, np.float32)
            if self._size:
                # A plain view: slicing np.memmap itself is several times slower.
                whole = np.memmap(file, np.float32, "r", HEADER, self.shape).view(np.ndarray)
            self._mapped, self._bytes = whole, whole.reshape(-1).view(np.uint8).data
        else:
            self._handle = os.dup(file.fileno())
            weakref.finalize(self, os.close, self._handle)

    @property
    def samples(self) -> Samples:
        """All of them, mapped: only what ``right_until`` has passed may be looked at."""
        assert self._mapped is not None
        return self._mapped

    def right_until(self, at: int) -> int:
        """Up to where, from sample ``at`` on, all is known to be right; ``at``: nothing is."""
        channels, length = self.shape
        if not self._left or at >= length:
            return at if self.damaged else length
        until = length
        for row in range(channels):
            number = 4 * (row * length + at) // PIECE
            if number in self._left:
                self._prove(number)
            until = min(until, (number + 1) * PIECE // 4 - row * length)
        return at if self.damaged else until

    def right(self, first: int = 0, last: int | None = None) -> bool:
        """Whether samples ``first..last`` are what was written."""
        last = self.shape[1] if last is None else min(last, self.shape[1])
        while first < last and (until := self.right_until(first)) > first:
            first = until
        return first >= last and not self.damaged

    def read(self, first: int = 0, last: int | None = None) -> Samples | None:
        """Samples ``first..last``, read now; None if they are not what was written."""
        channels, length = self.shape
        first, last = (min(max(0, x), length) for x in (first, length if last is None else last))
        count = max(0, last - first)
        if not self.right(first, last):
            return None
        rows = [self._take(4 * (row * length + first), 4 * count) for row in range(channels)]
        whole = b"".join(rows)
        if len(whole) != 4 * count * channels:
            return None
        return np.frombuffer(whole, np.float32).reshape(channels, count)

    def _prove(self, number: int) -> None:
        start = number * PIECE
        found = self._take(start, min(PIECE, self._size - start))
        wanted = self._sums[SUM * number : SUM * (number + 1)]
        if xxh3_64_intdigest(found) == int.from_bytes(wanted, "big"):
            self._left.discard(number)
        elif not self.damaged:
            self.damaged = True
            self._say()

    def _take(self, at: int, count: int) -> memoryview | bytes:
        if self._mapped is not None:
            return self._bytes[at : at + count]
        try:
            return os.pread(self._handle, count, HEADER + at)
        except OSError:
            return b""
