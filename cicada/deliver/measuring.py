"""What a signal is: how long, how loud, how high it goes, and where it begins."""

from collections.abc import Iterable
from math import log10

import numpy as np

from cicada.core.arrays import Samples
from cicada.core.loudness import Loudness
from cicada.core.true_peak import TAPS, TruePeak

# Where sound begins, of full scale; the samples there that are kept, and those before it.
BEGUN, KEPT, BEFORE = 0.003, 8192, 1024
# How far in samples a file may be off before its beginning is not looked for any more.
FARTHEST = 1024
# From 0 to 1: below it two stretches have too little in common to be lined up.
ALIKE = 0.6


def decibels(peak: float) -> float | None:
    """A linear peak in dB of full scale; None for silence."""
    return 20 * log10(peak) if peak > 0 else None


class Measured:
    """Hears a signal block by block."""

    def __init__(self, rate: int, channels: int) -> None:
        self.rate, self.channels = rate, channels
        self._loudness, self._true_peak = Loudness(rate, channels), TruePeak(channels)
        self.frames, self._peak = 0, 0.0
        # What came last, what is kept of where sound begins, and where that is.
        self._last = np.zeros((channels, BEFORE), np.float32)
        self._head: list[Samples] = []
        self._kept = 0
        self.begins: int | None = None

    def add(self, block: Samples) -> None:
        """Hear the next samples, shape (channels, n)."""
        if not block.shape[1]:
            return
        self._loudness.add(block)
        self._true_peak.add(block)
        heights = np.abs(block).max(axis=0)
        self._peak = max(self._peak, float(heights.max()))
        if self.begins is None:
            loud = np.flatnonzero(heights > BEGUN)
            known = np.concatenate((self._last, block), axis=1)
            if len(loud):
                self.begins = self.frames + int(loud[0])
                self._keep(known[:, int(loud[0]) :])
            self._last = known[:, -BEFORE:]
        elif self._kept < KEPT:
            self._keep(block)
        self.frames += block.shape[1]

    def _keep(self, block: Samples) -> None:
        self._head.append(block[:, : KEPT - self._kept].copy())
        self._kept += self._head[-1].shape[1]

    def all_of(self, blocks: Iterable[Samples]) -> "Measured":
        """Hear all of it, to its end."""
        for block in blocks:
            self.add(block)
        # The last samples are followed by silence, in which it may still rise.
        self._true_peak.add(np.zeros((self.channels, TAPS), np.float32))
        return self

    @property
    def peak(self) -> float | None:
        """The highest sample in dB of full scale; None for silence."""
        return decibels(self._peak)

    @property
    def true_peak(self) -> float | None:
        """How high it goes between samples, in dB; None for silence."""
        return decibels(max(self._peak, float(self._true_peak.held.max())))

    @property
    def loudness(self) -> float | None:
        """In LUFS; None if it is silent, or too short to have one."""
        return self._loudness.integrated

    @property
    def head(self) -> Samples:
        """The samples about where sound begins, ``BEFORE`` of them before that."""
        return np.concatenate(self._head, axis=1) if self._head else self._last[:, :0]


def shifted(sent: Measured, stretch: Samples) -> int | None:
    """By how many samples what was read back comes later than what was written.

    ``stretch`` is read back from ``FARTHEST`` samples before the head of ``sent`` on, and as many
    longer: the place where both are most alike. None where coding has left too little of it.
    """
    head = sent.head.mean(axis=0).astype(np.float64)
    found = stretch.mean(axis=0).astype(np.float64)
    size = 1 << (len(head) + len(found)).bit_length()
    spectrum = np.fft.rfft(found, size) * np.conj(np.fft.rfft(head, size))
    alike = np.fft.irfft(spectrum, size)[: 2 * FARTHEST + 1]
    # Where it is louder it is not more alike.
    energy = np.concatenate(([0.0], np.cumsum(found**2)))
    heard = energy[len(head) :] - energy[: len(energy) - len(head)]
    alike = alike[: len(heard)] / np.sqrt(np.maximum(heard[: len(alike)], 1e-20))
    best = int(np.argmax(alike))
    return best - FARTHEST if alike[best] > ALIKE * np.sqrt(head @ head) else None
