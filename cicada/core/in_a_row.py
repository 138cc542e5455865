"""A playlist put together: its pieces added up, block by block (live.md, section L2)."""

from collections.abc import Callable, Iterator, Sequence
from typing import NamedTuple

import numpy as np

from cicada.core.arrays import Samples
from cicada.core.lengths import Row
from cicada.core.timebase import round_half_up

ReadPart = Callable[[str, int, int], Samples | None]
"""Samples from one place to another of a sound, shape (1 or 2, n); None if it is not there."""


class Piece(NamedTuple):
    """One loop of a part: where it starts, and how much of its sound is heard."""

    sound: str
    start: int
    heard: int
    cut: bool


def pieces(rows: Sequence[Row], length: int) -> Iterator[Piece]:
    """Every loop of a playlist in the order they start; what rings beyond its end is cut there."""
    for row in rows:
        for start in row.starts:
            heard = min(row.length, length - start)
            yield Piece(row.sound, start, heard, heard < row.length)


def blocks(
    rows: Sequence[Row], length: int, rate: int, channels: int, read: ReadPart, size: int
) -> Iterator[Samples]:
    """The samples of a playlist in blocks of ``size``, each of shape (channels, n)."""
    coming, sounding = pieces(rows, length), list[Piece]()
    following = next(coming, None)
    for start in range(0, length, size):
        end = min(length, start + size)
        out = np.zeros((channels, end - start), np.float32)
        while following is not None and following.start < end:
            sounding.append(following)
            following = next(coming, None)
        for piece in sounding:
            _add(out, piece, start, end, rate, read)
        sounding = [piece for piece in sounding if piece.start + piece.heard > end]
        yield out


def _add(out: Samples, piece: Piece, start: int, end: int, rate: int, read: ReadPart) -> None:
    low, high = max(start, piece.start), min(end, piece.start + piece.heard)
    if low >= high:
        return
    samples = read(piece.sound, low - piece.start, high - piece.start)
    if samples is None:
        return
    ramp = min(round_half_up(rate, 500), piece.heard // 2) if piece.cut else 0
    if ramp and high > piece.start + piece.heard - ramp:
        left = piece.start + piece.heard - np.arange(low, high)
        samples = samples * np.minimum(1.0, left / (ramp + 1)).astype(np.float32)
    out[:, low - start : high - start] += samples
