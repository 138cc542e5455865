"""Room tone: noise with the levels of a room in thirds of an octave, and how these are measured."""

from collections.abc import Iterator

import numpy as np

from cicada.core.arrays import Block, Samples
from cicada.core.made import BANDS, RoomTone
from cicada.synth.plain import AT_ONCE, Real

# Samples of a piece of noise that is coloured at once, and of a spectrum that is measured.
_PIECE = 1 << 15
_EDGE = 2 ** (1 / 6)


def _bins(rate: int) -> list[tuple[int, int]]:
    """The bins of a piece's spectrum that are each band's: from one to before another."""
    per_bin = rate / _PIECE
    found = []
    for middle in BANDS:
        low, high = middle / _EDGE / per_bin, middle * _EDGE / per_bin
        first = max(1, round(low))
        found.append((first, min(_PIECE // 2, max(first + 1, round(high)))))
    return found


def band_levels(samples: Samples, rate: int) -> tuple[float, ...]:
    """The RMS of each of ``BANDS`` in samples of shape (channels, n), all channels together.

    The mean of overlapping spectra with a Hann window (P. Welch, 1967), as power in each band.
    """
    window = np.hanning(_PIECE)
    power, count = np.zeros(_PIECE // 2 + 1), 0
    for channel in samples:
        padded = np.pad(channel, (0, max(0, _PIECE - len(channel))))
        for first in range(0, len(padded) - _PIECE + 1, _PIECE // 2):
            piece = padded[first : first + _PIECE]
            power += np.abs(np.fft.rfft(piece * window)) ** 2
            count += 1
    if not count:
        return (0.0,) * len(BANDS)
    # One side of the spectrum holds half of the power.
    density = 2 * power / count / (np.sum(window**2) * _PIECE)
    return tuple(round(float(np.sqrt(density[first:last].sum())), 9) for first, last in _bins(rate))


def blocks(making: RoomTone, frames: int, rate: int) -> Iterator[Block]:
    """All of it: pieces of noise, each coloured in its spectrum, laid over each other by half."""
    sides = 2 if making.wide else 1
    sources = [np.random.default_rng((making.seed, 7, side)) for side in range(sides)]
    shape = _shape(making, rate)
    # The halves of two pieces that overlap differ, so their powers add up to the same.
    window = np.sin(np.pi * (np.arange(_PIECE) + 0.5) / _PIECE)
    over = [np.zeros(_PIECE // 2) for _ in range(sides)]
    for side, source in enumerate(sources):
        over[side] = (_piece(source, shape) * window)[_PIECE // 2 :]
    given = 0
    gathered: list[Block] = []
    while given < frames:
        block = np.empty((_PIECE // 2, sides), np.float32)
        for side, source in enumerate(sources):
            piece = _piece(source, shape) * window
            block[:, side] = over[side] + piece[: _PIECE // 2]
            over[side] = piece[_PIECE // 2 :]
        gathered.append(block[: frames - given])
        given += len(gathered[-1])
        if given >= frames or len(gathered) * _PIECE // 2 >= AT_ONCE:
            yield np.concatenate(gathered)
            gathered = []


def _shape(making: RoomTone, rate: int) -> Real:
    """What each bin of white noise is multiplied by to have the levels of the bands."""
    shape = np.zeros(_PIECE // 2 + 1)
    for level, (first, last) in zip(making.bands, _bins(rate), strict=True):
        # A bin of white noise of RMS 1 has the power 2/_PIECE.
        shape[first:last] = level / np.sqrt(2 * (last - first) / _PIECE) if last > first else 0.0
    return shape


def _piece(source: "np.random.Generator", shape: Real) -> Real:
    return np.asarray(np.fft.irfft(np.fft.rfft(source.standard_normal(_PIECE)) * shape, _PIECE))
