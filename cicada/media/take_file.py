"""A recording on its way to disk: a plain 24-bit WAV that can be read whenever writing ends.

Its head (RIFF, or RF64 from 4 GB on, EBU Tech 3306) has room for either, and is brought up to date
each time ``head`` is called; ``mend`` does that for a file whose writer was killed.
"""

import os
import struct
from contextlib import suppress
from pathlib import Path
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from cicada.core.arrays import Block
from cicada.disk.why import why
from cicada.errors import BadSound, CannotWrite

FULL = 1 << 23
_BYTES = 3
_HEAD = struct.Struct("<4sI4s4sI28s4sIHHIIHH4sI")
_PLAIN, _WIDE = 16, 28
HEAD = _HEAD.size
"""Bytes of a take before its first sample."""
_NARROW = 2**32 - 1


class Shape(NamedTuple):
    """What a file of ours holds: sample frames a second, and channels."""

    rate: int
    channels: int


def to_24_bit(block: Block) -> NDArray[np.int32]:
    """Samples as whole numbers of 24 bits, those past full scale at its end."""
    return np.clip(np.rint(block.astype(np.float64) * FULL), -FULL, FULL - 1).astype("<i4")


def _head(shape: Shape, size: int) -> bytes:
    rate, channels = shape
    frame = _BYTES * channels
    whole = _HEAD.size - 8 + size + size % 2
    wide = whole > _NARROW
    sizes = struct.pack("<QQQI", whole, size, size // frame, 0) if wide else b""
    return _HEAD.pack(
        b"RF64" if wide else b"RIFF", _NARROW if wide else whole, b"WAVE",
        b"ds64" if wide else b"JUNK", _WIDE, sizes.ljust(_WIDE, b"\0"),
        b"fmt ", _PLAIN, 1, channels, rate, rate * frame, frame, 8 * _BYTES,
        b"data", _NARROW if wide else size,
    )  # fmt: skip


class TakeFile:
    """Takes samples as they come; what is written is whole sample frames at any moment."""

    def __init__(self, path: Path, shape: Shape) -> None:
        """Make the file, which must not be there yet; raises ``CannotWrite``."""
        self.path, self._shape = path, shape
        self._size = 0
        try:
            flags = os.O_RDWR | os.O_CREAT | os.O_EXCL | os.O_CLOEXEC
            self._handle = os.open(path, flags, 0o644)
        except OSError as error:
            raise self._said(error) from None
        try:
            self.head()
        except CannotWrite:
            os.close(self._handle)
            raise

    @property
    def frames(self) -> int:
        """How many sample frames it holds."""
        return self._size // self._frame

    @property
    def _frame(self) -> int:
        return _BYTES * self._shape.channels

    def _said(self, error: OSError) -> CannotWrite:
        return CannotWrite(
            f"cannot be written ({why(error)})", file=str(self.path), remedy="free some space"
        )

    def write(self, block: Block) -> None:
        """Add sample frames, shape (n, channels); raises ``CannotWrite`` and keeps what fits."""
        numbers = np.ascontiguousarray(to_24_bit(block))
        data = memoryview(numbers.view(np.uint8).reshape(-1, 4)[:, :_BYTES].tobytes())
        place = _HEAD.size + self._size
        try:
            while data:
                done = os.pwrite(self._handle, data, place)
                place, data = place + done, data[done:]
        except OSError as error:
            self._size = (place - _HEAD.size) // self._frame * self._frame
            raise self._said(error) from None
        self._size = place - _HEAD.size

    def cut(self, frames: int) -> None:
        """Keep only so many sample frames; raises ``CannotWrite``."""
        self._size = min(self._size, frames * self._frame)
        try:
            os.ftruncate(self._handle, _HEAD.size + self._size)
        except OSError as error:
            raise self._said(error) from None

    def head(self) -> None:
        """Have the head say how much there is; raises ``CannotWrite``."""
        try:
            os.pwrite(self._handle, _head(self._shape, self._size), 0)
        except OSError as error:
            raise self._said(error) from None

    def sync(self) -> None:
        """Have on the disk what was written; for a thread, as it may take long."""
        with suppress(OSError):
            os.fsync(self._handle)

    def close(self) -> None:
        """Have its head say all there is, and let it go; what cannot be written is left so."""
        with suppress(OSError):
            _finish(self._handle, self._shape, self._size)
        self.sync()
        os.close(self._handle)


def _finish(handle: int, shape: Shape, size: int) -> None:
    """Have a file be its head and ``size`` bytes, made even as the format wants it."""
    os.pwrite(handle, _head(shape, size), 0)
    os.ftruncate(handle, _HEAD.size + size + size % 2)


def mend(path: Path) -> int:
    """Have the head of a file of ours say all that is in it; its sample frames.

    Raises ``BadSound`` if it is no such file.
    """
    try:
        handle = os.open(path, os.O_RDWR | os.O_CLOEXEC | os.O_NOFOLLOW | os.O_NONBLOCK)
    except (OSError, ValueError) as error:
        raise BadSound(f"cannot be read ({why(error)})", file=str(path)) from None
    try:
        head = os.pread(handle, _HEAD.size, 0)
        shape = _shape_of(head)
        if shape is None:
            raise BadSound("is no recording made here", file=str(path), remedy="import it")
        frame = _BYTES * shape.channels
        size = max(0, os.fstat(handle).st_size - _HEAD.size) // frame * frame
        _finish(handle, shape, size)
        return size // frame
    except OSError as error:
        raise BadSound(f"cannot be mended ({why(error)})", file=str(path)) from None
    finally:
        os.close(handle)


def _shape_of(head: bytes) -> Shape | None:
    """What a head says it holds; None if it is none of ours."""
    if len(head) < _HEAD.size:
        return None
    parts = _HEAD.unpack(head)
    channels, rate, bits = parts[9], parts[10], parts[13]
    ours = parts[0] in (b"RIFF", b"RF64") and parts[2] == b"WAVE" and parts[6] == b"fmt "
    if not ours or bits != 8 * _BYTES or not channels or not rate or parts[14] != b"data":
        return None
    return Shape(rate, channels)
