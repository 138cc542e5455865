"""The samples of a file as they are written: at its rate, in its channels, by its gain."""

from collections.abc import Iterator
from math import ceil, gcd
from typing import Protocol

import numpy as np

from cicada.core.arrays import Samples
from cicada.core.timebase import round_half_up
from cicada.deliver.levels import BLOCK
from cicada.media.resample import RateChange

# Samples of a loop that a change of its rate looks back and ahead at least.
ROUND = 8192


class Blocks(Protocol):
    """Samples that can be had block by block, shape (2, length), as ``core.passage`` mixes them."""

    rate: int
    length: int
    loops: bool

    def block(self, start: int, count: int) -> Samples:
        """Samples ``start..start+count``, which are all inside."""


class Signal:
    """What is written of a passage; it can be gone through again and again."""

    def __init__(self, passage: Blocks, rate: int, *, mono: bool) -> None:
        self._passage, self.rate, self.mono = passage, rate, mono
        self.channels = 1 if mono else 2
        self.length = max(1, round_half_up(passage.length * rate, passage.rate))

    def blocks(self) -> Iterator[Samples]:
        """All of it in order, each of shape (channels, n)."""
        for block in self._stereo():
            yield (block[:1] + block[1:]) * np.float32(0.5) if self.mono else block

    def _stereo(self) -> Iterator[Samples]:
        passage = self._passage
        if self.rate == passage.rate:
            for start in range(0, passage.length, BLOCK):
                yield passage.block(start, min(BLOCK, passage.length - start))
        elif passage.loops:
            yield from self._round_the_loop()
        else:
            yield from _cut(
                self._changed(0, passage.length, passage.rate, self.rate), 0, self.length
            )

    def _round_the_loop(self) -> Iterator[Samples]:
        """A loop comes out a whole number of samples long, with its end known at its beginning."""
        own, wanted = self._passage.length, self.length
        step = own // gcd(own, wanted)
        before = step * ceil(ROUND / step)
        changed = self._changed(-before, own + before, own, wanted)
        yield from _cut(changed, before * wanted // own, wanted)

    def _changed(self, start: int, end: int, own: int, wanted: int) -> Iterator[Samples]:
        change = RateChange(own, wanted, 2)
        for block in self._read(start, end):
            for changed in change.take(np.ascontiguousarray(block.T)):
                yield np.ascontiguousarray(changed.T)
        for changed in change.rest():
            yield np.ascontiguousarray(changed.T)

    def _read(self, start: int, end: int) -> Iterator[Samples]:
        """From ``start`` to ``end``, round and round where that is outside."""
        length = self._passage.length
        while start < end:
            at = start % length
            count = min(BLOCK, length - at, end - start)
            yield self._passage.block(at, count)
            start += count


def _cut(blocks: Iterator[Samples], skip: int, length: int) -> Iterator[Samples]:
    """Of what comes ``length`` samples after the first ``skip``, silence where it is over."""
    at, end = 0, skip + length
    for block in blocks:
        inside = block[:, max(0, skip - at) : max(0, end - at)]
        at += block.shape[1]
        if inside.shape[1]:
            yield inside
    if at < end:
        yield np.zeros((2, end - max(at, skip)), np.float32)
