"""Lines that wait to be printed in another order than they come in, in a file if they are many."""

import tempfile
from collections.abc import Iterator
from contextlib import ExitStack
from heapq import merge
from itertools import pairwise
from operator import itemgetter
from typing import IO, Self

import msgspec

from cicada.disk.why import why
from cicada.errors import CannotWrite

Key = tuple[int | str, ...]
_Line = tuple[Key, str]
# Lines kept in memory, and bytes read at a time of each sorted part of the file.
IN_MEMORY, AT_ONCE = 100_000, 1 << 15
_ENCODE = msgspec.msgpack.Encoder().encode
_DECODE = msgspec.msgpack.Decoder(_Line).decode


class WaitingLines:
    """Lines with the keys they are ordered by; what was added first is first among equals."""

    def __init__(self) -> None:
        self._lines: list[_Line] = []
        self._file: IO[bytes] | None = None
        # Where each sorted part of the file begins, and where the last ends.
        self._parts = [0]
        self._closing = ExitStack()

    def __enter__(self) -> Self:
        return self

    def __exit__(self, *_: object) -> None:
        self._closing.close()

    def add(self, key: Key, line: str) -> None:
        """Add a line; raises ``CannotWrite`` if no more can wait."""
        self._lines.append((key, line))
        if len(self._lines) >= IN_MEMORY:
            self._put_away()

    def clear(self) -> None:
        """Forget them all."""
        self._lines, self._parts = [], [self._parts[-1]]

    def in_order(self) -> Iterator[str]:
        """All of them, by their keys."""
        self._lines.sort(key=itemgetter(0))
        parts = [self._part(first, last) for first, last in pairwise(self._parts)]
        return (line for _, line in merge(*parts, self._lines, key=itemgetter(0)))

    def _put_away(self) -> None:
        self._lines.sort(key=itemgetter(0))
        try:
            if self._file is None:
                self._file = self._closing.enter_context(tempfile.TemporaryFile())  # noqa: SIM115 - so it is
            for line in self._lines:
                data = _ENCODE(line)
                self._file.write(len(data).to_bytes(4, "little") + data)
            self._file.flush()
        except OSError as error:
            raise CannotWrite(
                f"what is to be printed cannot wait there ({why(error)})",
                file=tempfile.gettempdir(),
                remedy="free some space, or set TMPDIR to another folder",
            ) from None
        self._parts.append(self._file.tell())
        self._lines = []

    def _part(self, first: int, last: int) -> Iterator[_Line]:
        assert self._file is not None
        left = b""
        at = first
        while at < last or left:
            if at < last:
                self._file.seek(at)
                read = self._file.read(min(AT_ONCE, last - at))
                at += len(read)
                left += read
            start = 0
            while start + 4 <= len(left):
                end = start + 4 + int.from_bytes(left[start : start + 4], "little")
                if end > len(left):
                    break
                yield _DECODE(left[start + 4 : end])
                start = end
            left = left[start:]
