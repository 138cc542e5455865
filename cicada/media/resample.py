"""Changing rate and speed, block by block (semantics.md, section 1).

A stream of soxr gives the same samples, bit for bit, as one call on the whole stretch, and needs
no memory for it.
"""

from collections.abc import Iterator

import numpy as np
import soxr

from cicada.core.arrays import Block

AT_ONCE = 1 << 17


class RateChange:
    """Takes blocks (frames, channels) from rate ``own`` to ``wanted``."""

    def __init__(self, own: float, wanted: float, channels: int) -> None:
        self._stream = (
            None
            if own == wanted
            else soxr.ResampleStream(own, wanted, channels, dtype="float32", quality="HQ")
        )
        self._channels = channels
        # A block of a very low rate would become a huge one.
        self._step = max(1, int(AT_ONCE * min(1.0, own / wanted)))

    def take(self, block: Block) -> Iterator[Block]:
        """What is settled once ``block`` is known."""
        if self._stream is None:
            yield block
            return
        for start in range(0, len(block), self._step):
            yield self._stream.resample_chunk(block[start : start + self._step])

    def rest(self) -> Iterator[Block]:
        """What is left at the end."""
        if self._stream is not None:
            nothing = np.zeros((0, self._channels), np.float32)
            yield self._stream.resample_chunk(nothing, last=True)
