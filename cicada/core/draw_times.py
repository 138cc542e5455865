"""How long drawing each picture of a scene is pretended to take: by a line, and with spikes."""

from collections.abc import Sequence
from random import Random

import numpy as np

Point = tuple[float, float]


def by_line(length: int, points: Sequence[Point]) -> tuple[float, ...]:
    """Seconds for each frame, straight between points of (frame, seconds), flat outside."""
    if not points:
        return (0.0,) * length
    frames, seconds = zip(*sorted(points), strict=True)
    values = np.interp(np.arange(length), frames, seconds)
    return tuple(round(float(value), 6) for value in values)


def with_spikes(
    length: int, base: float, spike: float, every: float, seed: int
) -> tuple[float, ...]:
    """``base`` seconds for each frame but for one in ``every`` on average, which takes ``spike``.

    The same seed gives the same frames, and those of a longer scene begin with those of a shorter.
    """
    random = Random(seed)
    chance = 1 / max(1.0, every)
    return tuple(spike if random.random() < chance else base for _ in range(length))
