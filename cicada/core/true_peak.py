"""True peak: how high a signal goes between its samples, by oversampling 16 times.

A windowed sinc for each of the places between two samples (ITU-R BS.1770-4, annex 2, asks for at
least 4 times). Only where the sum of the samples about a place, each weighted by the most it can
matter, is above what is held already can it be raised; elsewhere nothing is reckoned.
"""

from functools import cache
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

Samples = NDArray[np.floating]

TIMES, TAPS = 16, 40
# The passband ends where the mirror of 0.45 of the rate begins, evenly on both sides of half.
_BETA = 6.0


class _Filter(NamedTuple):
    """``phases`` of shape (TAPS, TIMES - 1), the most each tap matters, and the sum of that."""

    phases: NDArray[np.float32]
    most: NDArray[np.float32]
    whole: float


@cache
def _filter() -> _Filter:
    places = np.arange(TAPS)[:, None] - (TAPS // 2 - 1) - np.arange(1, TIMES)[None, :] / TIMES
    reach = np.clip(1 - (places / (TAPS / 2)) ** 2, 0, None)
    phases = np.sinc(places) * np.i0(_BETA * np.sqrt(reach)) / np.i0(_BETA)
    phases /= phases.sum(axis=0)
    most = np.abs(phases).max(axis=1)
    return _Filter(phases.astype(np.float32), most.astype(np.float32), float(most.sum()))


class TruePeak:
    """``held`` is the highest so far, for each channel."""

    def __init__(self, channels: int = 2) -> None:
        self._filter = _filter()
        self.held = np.zeros(channels)
        self._before = np.zeros((channels, TAPS - 1), np.float32)

    def add(self, block: Samples) -> tuple[float, int]:
        """Hear the next samples, shape (channels, n): how high they go, and about which of them.

        It is said where it is past full scale, or past what was held; 0 where it is neither.
        """
        known = np.concatenate((self._before, block.astype(np.float32)), axis=1)
        self._before = known[:, -(TAPS - 1) :].copy()
        said = 0.0, 0
        for channel, samples in enumerate(known):
            heights = np.abs(samples)
            at = int(heights.argmax())
            highest = float(heights[at])
            least = max(min(self.held[channel], 1.0), highest)
            if highest * self._filter.whole > least:
                between = self._between(samples, heights, least)
                highest, at = max((highest, at), between)
            if highest > min(self.held[channel], 1.0):
                said = max(said, (highest, max(0, at - TAPS + 1)))
            self.held[channel] = max(self.held[channel], highest)
        return said

    def _between(
        self, samples: NDArray[np.float32], heights: NDArray[np.float32], least: float
    ) -> tuple[float, int]:
        """The highest between samples and where, if it may be above ``least``; else 0."""
        most, phases = self._filter.most, self._filter.phases
        reachable = np.convolve(heights, most[::-1], "valid")
        wanted = np.flatnonzero(reachable > least)
        if not len(wanted):
            return 0.0, 0
        windows = np.lib.stride_tricks.sliding_window_view(samples, TAPS)[wanted]
        found = np.abs(windows @ phases)
        window, phase = divmod(int(found.argmax()), TIMES - 1)
        return float(found[window, phase]), int(wanted[window]) + TAPS // 2 - 1
