"""What the arrays of sound hold, under one name everywhere."""

from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

Samples = NDArray[np.float32]
"""Sound of one rate, shape (channels, n)."""
Block = NDArray[np.float32]
"""A stretch of sound as files and devices have it, shape (n, channels)."""
Read = Callable[[int, int], Samples]
"""Gives samples ``first..last`` of a sound, silence where it has none."""
RunSamples = NDArray[np.int64]
"""Moments of a run or of a clip, in samples."""
Numbers = NDArray[np.float64]
