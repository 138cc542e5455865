"""What sounds, and what it crosses over from: whatever comes next, it is faded to in 10 ms."""

from collections.abc import Callable

import numpy as np

from cicada.core.arrays import Samples
from cicada.core.timebase import round_half_up
from cicada.playback.feeds import Feed, Sound, ramp
from cicada.playback.messages import IDLE, SCRUBBING


class Crossing:
    """The feed that sounds, and the one that is being left."""

    def __init__(self, rate: int) -> None:
        self.feed: Feed | None = None
        self._leaving: Feed | None = None
        self._left = 0
        self._cross = round_half_up(rate, 100)

    @property
    def silent(self) -> bool:
        """Whether nothing sounds any more, nor fades."""
        return self.feed is None and self._leaving is None

    def to(self, feed: Feed | None) -> None:
        """Turn to another feed, or to silence."""
        self._leaving, self._left = self.feed, 0
        if self._leaving is None and feed is not None and feed.sample and feed.doing != SCRUBBING:
            # Begun in the middle: it fades in, as if it came after something.
            self._leaving = Sound(np.zeros((2, self._cross), np.float32), IDLE)
        self.feed = feed

    def to_under(self, under: Feed, feed: Feed | None) -> None:
        """Turn to a feed while ``under`` goes on below its beginning, fading."""
        self._leaving, self._left, self.feed = under, 0, feed

    def ended(self) -> None:
        """The feed has no more, and nothing follows it."""
        self.feed, self._leaving = None, None

    def read(self, count: int, at_the_end: Callable[[], None]) -> Samples:
        """The next ``count`` samples, shape (2, count).

        ``at_the_end`` is called when the feed has no more, and gives another one or ends it.
        """
        block = np.zeros((2, count), np.float32)
        filled = 0
        while filled < count and self.feed is not None:
            read = self.feed.read(count - filled)
            if not read.shape[1]:
                at_the_end()
                continue
            if self._leaving is not None:
                read = read * ramp(self._left, read.shape[1], self._cross)
            block[:, filled : filled + read.shape[1]] = read
            self._add_leaving(block[:, filled : filled + read.shape[1]])
            filled += read.shape[1]
        if self.feed is None and self._leaving is not None:
            self._add_leaving(block[:, filled:])
        return block

    def _add_leaving(self, block: Samples) -> None:
        """Add what is being left, fading, to the block, and forget it when the cross is over."""
        if self._leaving is None:
            return
        count = min(block.shape[1], self._cross - self._left)
        read = self._leaving.read(count)
        fade = 1 - ramp(self._left, read.shape[1], self._cross)
        block[:, : read.shape[1]] += read * fade
        self._left += count
        if self._left >= self._cross:
            self._leaving = None
