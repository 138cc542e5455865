"""Lowest and highest sample of every stretch of a sound, at several scales, for drawing."""

from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

Samples = NDArray[np.float32]

FINEST = 64
COARSER = 8
LEVELS = 4
# Stretches worked on at a time, so that the turned-round copy stays in the processor's cache.
AT_ONCE = 1024


def level_lengths(samples: int) -> list[int]:
    """How many stretches each level has for a sound of that many samples, finest first."""
    lengths = [-(-samples // FINEST)]
    for _ in range(LEVELS - 1):
        lengths.append(-(-lengths[-1] // COARSER))
    return lengths


def find_peaks(samples: Samples) -> Samples:
    """Shape (2, all levels one after the other): lows and highs over all channels."""
    lengths = level_lengths(samples.shape[1])
    peaks = np.zeros((2, sum(lengths)), np.float32)
    _finest(samples, peaks[:, : lengths[0]])
    at = 0
    for length, following in pairwise(lengths):
        finer = peaks[:, at : at + length]
        at += length
        whole = length // COARSER
        coarser = peaks[:, at : at + following]
        grouped = finer[:, : whole * COARSER].reshape(2, whole, COARSER)
        grouped[0].min(axis=1, out=coarser[0, :whole])
        grouped[1].max(axis=1, out=coarser[1, :whole])
        if whole < following:
            coarser[0, whole] = finer[0, whole * COARSER :].min()
            coarser[1, whole] = finer[1, whole * COARSER :].max()
    return peaks


def _finest(samples: Samples, into: Samples) -> None:
    count = samples.shape[1]
    whole = count // FINEST
    for number, channel in enumerate(samples):
        for start in range(0, whole, AT_ONCE):
            end = min(whole, start + AT_ONCE)
            turned = np.ascontiguousarray(
                channel[start * FINEST : end * FINEST].reshape(end - start, FINEST).T
            )
            low, high = turned.min(axis=0), turned.max(axis=0)
            if number:
                low, high = (
                    np.minimum(low, into[0, start:end]),
                    np.maximum(high, into[1, start:end]),
                )
            into[0, start:end], into[1, start:end] = low, high
    if whole < into.shape[1]:
        into[0, whole] = samples[:, whole * FINEST :].min()
        into[1, whole] = samples[:, whole * FINEST :].max()


class Peaks:
    """The peaks of one sound, ready to be asked for a stretch at a scale."""

    def __init__(self, peaks: Samples, samples: int) -> None:
        self.samples = samples
        self._levels = []
        at = 0
        for length in level_lengths(samples):
            self._levels.append(peaks[:, at : at + length])
            at += length

    def columns(self, edges: NDArray[np.float64]) -> Samples:
        """Lows and highs between each two of the ``edges`` (samples, ascending): (2, n)."""
        widths = (edges[-1] - edges[0]) / max(1, len(edges) - 1)
        level, scale = 0, FINEST
        while level + 1 < len(self._levels) and scale * COARSER <= widths:
            level, scale = level + 1, scale * COARSER
        peaks = self._levels[level]
        count = peaks.shape[1]
        if not count:
            return np.zeros((2, len(edges) - 1), np.float32)
        firsts = np.clip((edges[:-1] / scale).astype(np.int64), 0, count - 1)
        lasts = np.clip(np.ceil(edges[1:] / scale).astype(np.int64), firsts + 1, count)
        bounds = np.empty(2 * len(firsts), np.int64)
        bounds[0::2], bounds[1::2] = firsts, lasts
        # One more column, so that an end at the very end is a legal place for reduceat.
        padded = np.pad(peaks[:, firsts[0] : lasts[-1]], ((0, 0), (0, 1)), mode="edge")
        bounds -= firsts[0]
        low = np.minimum.reduceat(padded[0], bounds)[0::2]
        high = np.maximum.reduceat(padded[1], bounds)[0::2]
        inside = (edges[1:] > 0) & (edges[:-1] < self.samples)
        return np.where(inside, np.stack((low, high)), np.float32(0))
