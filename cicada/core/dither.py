"""Samples as whole numbers: seeded TPDF dither where bits are lost, and no noise where none are.

The triangular noise of two steps is that of Lipshitz, Wannamaker and Vanderkooy, "Quantization and
Dither: A Theoretical Survey" (1992): it makes the error's mean and power independent of the signal.
"""

import numpy as np
from numpy.typing import NDArray

from cicada.core.arrays import Samples


class Dither:
    """Makes whole numbers of ``bits`` of samples, block by block; the same for the same seed."""

    def __init__(self, bits: int, seed: int) -> None:
        self._noise = np.random.Generator(np.random.PCG64(seed))
        self._scale = float(1 << (bits - 1))
        # How many samples did not fit.
        self.clipped = 0

    def whole(self, block: Samples) -> NDArray[np.int32]:
        """The next samples, shape (channels, n), as whole numbers, shape (n, channels).

        A sample that is one already stays: silence is silent, and what was whole is as it was.
        """
        scaled = np.ascontiguousarray(block.T).astype(np.float64) * self._scale
        first, second = self._noise.random((*scaled.shape, 2)).transpose(2, 0, 1)
        nearest = np.rint(scaled)
        exact = nearest == scaled
        whole = np.where(exact, nearest, np.rint(scaled + first - second))
        fitting = np.clip(whole, -self._scale, self._scale - 1)
        self.clipped += int(np.count_nonzero(fitting != whole))
        return fitting.astype(np.int32)
