"""A stretch of a sound at its speed, as it is kept: what a player fetches, before it shapes it."""

import numpy as np

from cicada.core.arrays import Samples
from cicada.core.needs import Need
from cicada.core.tone import Source, Sources, right


class Stretch:
    """Its samples at the project's rate, on both sides; silent where they cannot be had."""

    loops = False

    def __init__(self, need: Need, length: int, rate: int, sources: Sources) -> None:
        self.need, self.length, self.rate = need, length, rate
        self._sources = sources
        self._source: Source | None = sources.source(*need)

    @property
    def mono(self) -> bool:
        """Whether both sides of it are the same."""
        return self._source is None or len(self._source.samples) == 1

    def block(self, start: int, count: int) -> Samples:
        """Samples ``start..start+count``, shape (2, count)."""
        for _ in range(2):
            source = self._source
            if source is None:
                break
            if right(source, start, start + count):
                samples = source.samples[:, start : start + count]
                return np.array(np.broadcast_to(samples, (2, count)))
            # It was damaged on the disk since it was opened: it is made anew once.
            self._source = self._sources.source(*self.need)
        return np.zeros((2, count), np.float32)
