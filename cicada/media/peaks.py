"""Lowest and highest sample of every stretch of a sound, at several scales, for drawing."""

from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from cicada.core.arrays import Samples

FINEST = 64
COARSER = 8
LEVELS = 4
# Of a sound of so many samples or fewer no peaks are kept: they are found as fast as read.
BRIEF = 50_000
# Stretches worked on at a time, so that the turned-round copy stays in the processor's cache.
AT_ONCE = 512


def level_lengths(samples: int) -> list[int]:
    """How many stretches each level has for a sound of that many samples, finest first."""
    lengths = [-(-samples // FINEST)]
    for _ in range(LEVELS - 1):
        lengths.append(-(-lengths[-1] // COARSER))
    return lengths


class PeakGatherer:
    """Finds the peaks of a sound that comes block by block, each of shape (frames, channels)."""

    def __init__(self) -> None:
        self._found: list[tuple[Samples, Samples]] = []
        self._left: Samples | None = None
        # Kept, for a fresh one of that size would cost as much as the work in it.
        self._turned = np.empty((0, AT_ONCE), np.complex128)

    def append(self, block: Samples) -> None:
        """Take the next block."""
        if self._left is not None:
            missing = FINEST - len(self._left)
            self._left = np.concatenate((self._left, block[:missing]))
            block = block[missing:]
            if len(self._left) < FINEST:
                return
            self._found.append(_extremes(self._left))
            self._left = None
        whole = len(block) // FINEST
        for start in range(0, whole, AT_ONCE):
            end = min(whole, start + AT_ONCE)
            self._found.append(self._stretches(block[start * FINEST : end * FINEST]))
        if whole * FINEST < len(block):
            self._left = block[whole * FINEST :].copy()

    def _stretches(self, block: Samples) -> tuple[Samples, Samples]:
        """The peaks of whole stretches, four lows and four highs of each.

        They are turned round, so that the lowest of one is that of a column, which is quick, and
        four samples at a time, so that turning is quick too.
        """
        count = len(block) // FINEST
        fours = np.ascontiguousarray(block).reshape(-1).view(np.complex128).reshape(count, -1)
        if len(self._turned) != fours.shape[1]:
            self._turned = np.empty((fours.shape[1], AT_ONCE), np.complex128)
        self._turned[:, :count] = fours.T
        rows = self._turned.view(np.float32)[:, : 4 * count]
        return rows.min(axis=0), rows.max(axis=0)

    def peaks(self, samples: int) -> Samples:
        """Shape (2, all levels one after the other): lows and highs over all channels.

        The sound is made ``samples`` long, with silence at its end if need be.
        """
        if self._left is not None:
            self._found.append(_extremes(self._left))
            self._left = None
        lengths = level_lengths(samples)
        peaks = np.zeros((2, sum(lengths)), np.float32)
        if self._found:
            for number, (lowest, fours) in enumerate(
                zip((np.minimum, np.maximum), zip(*self._found, strict=True), strict=True)
            ):
                one, two, three, four = np.concatenate(fours)[: 4 * lengths[0]].reshape(-1, 4).T
                peaks[number, : len(one)] = lowest(lowest(one, two), lowest(three, four))
        at = 0
        for length, following in pairwise(lengths):
            finer = peaks[:, at : at + length]
            at += length
            whole = length // COARSER
            coarser = peaks[:, at : at + following]
            turned = finer[:, : whole * COARSER].reshape(2, whole, COARSER).transpose(0, 2, 1)
            turned = np.ascontiguousarray(turned)
            turned[0].min(axis=0, out=coarser[0, :whole])
            turned[1].max(axis=0, out=coarser[1, :whole])
            if whole < following:
                coarser[:, whole] = (
                    finer[0, whole * COARSER :].min(),
                    finer[1, whole * COARSER :].max(),
                )
        return peaks


def peaks_of(samples: Samples) -> Samples:
    """The peaks of a whole sound, shape (channels, n), as ``PeakGatherer`` finds them."""
    gatherer = PeakGatherer()
    gatherer.append(np.ascontiguousarray(samples.T))
    return gatherer.peaks(samples.shape[1])


def _extremes(stretch: Samples) -> tuple[Samples, Samples]:
    return np.full(4, stretch.min(), np.float32), np.full(4, stretch.max(), np.float32)


class Peaks:
    """The peaks of one sound, ready to be asked for a stretch at a scale."""

    def __init__(self, peaks: Samples, samples: int) -> None:
        self.samples, self.size = samples, peaks.nbytes
        self._levels = []
        at = 0
        for length in level_lengths(samples):
            self._levels.append(peaks[:, at : at + length])
            at += length

    def loudest(self, first: int, last: int) -> int:
        """The sample, to a stretch of ``FINEST``, where ``first..last`` is loudest."""
        finest = self._levels[0]
        low, high = first // FINEST, max(first // FINEST + 1, -(-last // FINEST))
        stretch = np.abs(finest[:, low:high]).max(axis=0, initial=0.0)
        return (low + int(stretch.argmax()) if len(stretch) else low) * FINEST

    def highest(self, first: int, last: int) -> float:
        """How loud ``first..last`` gets at most, to a stretch of ``FINEST`` samples."""
        low, high = first // FINEST, -(-last // FINEST)
        return float(np.abs(self._levels[0][:, low:high]).max(initial=0.0))

    def loud_stretch(self, threshold: float, first: int, last: int) -> tuple[int, int]:
        """The samples from the first to the last stretch in ``first..last`` above a threshold.

        To a stretch of ``FINEST``; empty if there is none.
        """
        low, high = first // FINEST, -(-last // FINEST)
        loud = np.flatnonzero(np.abs(self._levels[0][:, low:high]).max(axis=0) > threshold)
        if not len(loud):
            return first, first
        start, end = (low + int(loud[0])) * FINEST, (low + int(loud[-1]) + 1) * FINEST
        return max(first, start), min(last, end)

    def columns(self, edges: NDArray[np.float64]) -> Samples:
        """Lows and highs between each two of the ``edges`` (samples, ascending): (2, n).

        Of one edge or none there is nothing to be between.
        """
        if len(edges) < 2:
            return np.zeros((2, 0), np.float32)
        widths = (edges[-1] - edges[0]) / max(1, len(edges) - 1)
        level, scale = 0, FINEST
        while level + 1 < len(self._levels) and scale * COARSER <= widths:
            level, scale = level + 1, scale * COARSER
        peaks = self._levels[level]
        count = peaks.shape[1]
        if not count:
            return np.zeros((2, len(edges) - 1), np.float32)
        # Not np.clip, which takes several times as long for so few numbers.
        firsts = np.minimum(np.maximum((edges[:-1] / scale).astype(np.int64), 0), count - 1)
        lasts = np.ceil(edges[1:] / scale).astype(np.int64)
        lasts = np.minimum(np.maximum(lasts, firsts + 1), count)
        bounds = np.empty(2 * len(firsts), np.int64)
        bounds[0::2], bounds[1::2] = firsts, lasts
        # One more column, so that an end at the very end is a legal place for reduceat.
        seen = peaks[:, firsts[0] : lasts[-1]]
        padded = np.concatenate((seen, seen[:, -1:]), axis=1)
        bounds -= firsts[0]
        low = np.minimum.reduceat(padded[0], bounds)[0::2]
        high = np.maximum.reduceat(padded[1], bounds)[0::2]
        inside = (edges[1:] > 0) & (edges[:-1] < self.samples)
        return np.where(inside, np.stack((low, high)), np.float32(0))
