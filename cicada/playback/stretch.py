"""Slower at the same pitch: pieces of the mix are laid over each other where they fit best.

The method is waveform similarity overlap-add (Verhelst and Roelands, 1993): every piece is taken
near the place its time asks for, moved by as much as makes it most like what would have followed
the piece before.
"""

from collections.abc import Callable

import numpy as np

from cicada.core.arrays import Samples

# Seconds from one piece to the next; each is twice as long. And how far one may be moved.
HOP, MOST = 0.02, 0.01


class Stretcher:
    """Reads a mix and gives it back at a ``pace`` below 1."""

    def __init__(self, source: Callable[[int], Samples], pace: float, rate: int) -> None:
        """``source`` gives the next samples, shape (2, n); fewer or none at its end."""
        self._source, self._pace = source, pace
        self._hop, self._most = round(HOP * rate), round(MOST * rate)
        window = np.hanning(2 * self._hop + 1)[:-1].astype(np.float32)
        self._rise, self._fall = window[: self._hop], window[self._hop :]
        # What was read, from input sample ``_from`` on.
        self._read = np.zeros((2, 0), np.float32)
        self._from = 0
        self._number = 0
        # Where the piece begins whose second half is still to be laid under the next.
        self._last = 0
        self._ready = np.zeros((2, 0), np.float32)

    def read(self, count: int) -> Samples:
        """The next ``count`` samples, shape (2, count); silence after the source's end."""
        while self._ready.shape[1] < count:
            self._ready = np.concatenate((self._ready, self._next()), axis=1)
        block, self._ready = self._ready[:, :count], self._ready[:, count:]
        return block

    def _next(self) -> Samples:
        """One hop more."""
        hop = self._hop
        if not self._number:
            # The first piece has nothing before it to be faded from: its own beginning, as it is.
            self._number = 1
            return self._stretch(0, hop)
        following = self._last + hop
        place = self._best(round(self._number * hop * self._pace), following)
        out = self._stretch(following, hop) * self._fall + self._stretch(place, hop) * self._rise
        self._number += 1
        self._last = place
        self._forget(min(place, round(self._number * hop * self._pace) - self._most))
        return np.asarray(out)

    def _best(self, near: int, following: int) -> int:
        """The place about ``near`` from where it is most like what stands at ``following``."""
        low = max(0, near - self._most)
        wanted = self._stretch(following, self._hop).sum(axis=0)
        there = self._stretch(low, self._hop + near + self._most - low).sum(axis=0)
        if not wanted.any() or not there.any():
            return near
        size = 1 << (len(there) + len(wanted)).bit_length()
        spectrum = np.fft.rfft(there, size) * np.conj(np.fft.rfft(wanted, size))
        alike = np.fft.irfft(spectrum, size)[: len(there) - self._hop + 1]
        power = np.concatenate(([0.0], np.cumsum(there.astype(np.float64) ** 2)))
        power = power[self._hop :] - power[: -self._hop]
        return low + int(np.argmax(alike / np.sqrt(power + 1e-9)))

    def _stretch(self, start: int, count: int) -> Samples:
        """Input samples ``start..start+count``, read as far as needed."""
        while self._from + self._read.shape[1] < start + count:
            wanted = max(self._hop, start + count - self._from - self._read.shape[1])
            more = self._source(wanted)
            short = wanted - more.shape[1]
            self._read = np.concatenate(
                (self._read, more, np.zeros((2, short), np.float32)), axis=1
            )
        at = start - self._from
        return self._read[:, at : at + count]

    def _forget(self, before: int) -> None:
        """Let go of what is not needed any more."""
        gone = max(0, min(before - self._from, self._read.shape[1]))
        self._read, self._from = self._read[:, gone:], self._from + gone
