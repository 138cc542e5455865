"""A tempo that is tapped."""

from collections.abc import Sequence
from typing import NamedTuple

import numpy as np

# Seconds without a tap after which a new tempo is begun.
PAUSE = 3.0
FEWEST = 3


class Tapped(NamedTuple):
    """Beats a minute, how far off that may be, and when the first beat was, in seconds."""

    bpm: float
    sure: float
    first: float


def recent(taps: Sequence[float]) -> list[float]:
    """The taps since the last pause, in seconds."""
    times = sorted(taps)
    for index in range(len(times) - 1, 0, -1):
        if times[index] - times[index - 1] > PAUSE:
            return times[index:]
    return times


def tapped(taps: Sequence[float]) -> Tapped | None:
    """The tempo of evenly meant taps at ``taps`` seconds; None while they are too few.

    A line through all of them: a beat that was left out counts as one, and ``sure`` is twice the
    standard error of the slope.
    """
    times = np.array(recent(taps))
    if len(times) < FEWEST:
        return None
    gaps = np.diff(times)
    # Among the shorter ones, for the longer have beats left out.
    usual = float(np.quantile(gaps, 0.2, method="lower"))
    if usual <= 0:
        return None
    beats = np.concatenate(([0.0], np.cumsum(np.maximum(1, np.rint(gaps / usual)))))
    length, first = np.polyfit(beats, times, 1)
    rest = times - (first + length * beats)
    spread = np.square(beats - beats.mean()).sum()
    error = np.sqrt(np.square(rest).sum() / max(1, len(times) - 2) / spread)
    bpm = 60 / float(length)
    return Tapped(bpm, 2 * bpm * float(error) / float(length), float(first))
