"""What a sound is like, in a few numbers: its spectrum and how it swells and fades.

Sounds are alike whose numbers are near. Levels are left out, for a quieter copy is the same sound;
bands are so wide that a small change of pitch stays inside them.
"""

from functools import cache
from itertools import pairwise
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from cicada.core.arrays import Samples

Vector = NDArray[np.float32]
# Bands from here to there, so many; places along the envelope; and how many numbers that makes.
_LOW, _HIGH, BANDS, PLACES = 60.0, 16_000.0, 28, 16
SIZE = 3 * BANDS + PLACES + 3
_WINDOW, _FLOOR = 2048, 1e-7
# Seconds of a long sound that are looked at, and moments of these.
LOOKED_AT, _MOMENTS = 20.0, 160
# How much each kind of number counts: spectrum, its change, its beginning, envelope, length,
# middle, noisiness; found on families of sounds other than those of the tests.
_WEIGHTS = (0.27, 0.55, 1.03, 0.53, 1.29, 0.34, 0.45)


class Likeness(NamedTuple):
    """What a sound is like, shape (SIZE,), and the middle of its spectrum in Hz (0: silence)."""

    numbers: Vector
    brightness: float


def likeness(samples: Samples, rate: int) -> Likeness:
    """What a sound is like; ``samples`` are of shape (channels, n)."""
    mono = samples[:, : round(LOOKED_AT * rate)].mean(axis=0, dtype=np.float64)
    heard = np.flatnonzero(np.abs(mono) > np.abs(mono).max(initial=0.0) * 0.01)
    if not len(heard):
        return Likeness(np.zeros(SIZE, np.float32), 0.0)
    mono = mono[heard[0] : heard[-1] + 1]
    levels = _bands(mono, rate)
    power = levels.sum(axis=0)
    loud = power > power.max() * 1e-4
    shape = _decibels(levels[:, loud].mean(axis=1))
    spread = np.log10(levels[:, loud] + _FLOOR * power.max()).std(axis=1)
    first = _decibels(levels[:, : max(1, levels.shape[1] // 8)].mean(axis=1))
    envelope = _envelope(mono)
    hertz = _middles()
    total = levels.sum(axis=1)
    centre = float((np.log2(hertz) * total).sum() / total.sum())
    length, noisy = 4 * np.log2(len(mono) / rate + 0.02), 4 * _noisiness(levels[:, loud])
    parts = (shape, 10 * spread, first, 20 * envelope, [length], [4 * centre], [noisy])
    weighted = [w * np.asarray(part) for w, part in zip(_WEIGHTS, parts, strict=True)]
    return Likeness(np.concatenate(weighted).astype(np.float32), float(2**centre))


def features(samples: Samples, rate: int) -> Vector:
    """The numbers of a sound alone."""
    return likeness(samples, rate).numbers


def _middles() -> NDArray[np.float64]:
    return np.asarray(_LOW * (_HIGH / _LOW) ** ((np.arange(BANDS) + 0.5) / BANDS))


def _bands(mono: NDArray[np.float64], rate: int) -> NDArray[np.float64]:
    """The power of each band in each moment, shape (BANDS, moments); bands overlap."""
    padded = np.pad(mono, (0, max(0, _WINDOW - len(mono))))
    starts = np.arange(0, len(padded) - _WINDOW + 1, _WINDOW // 2)
    # However long it is, so many moments tell what it is like.
    if len(starts) > 400:
        starts = starts[np.linspace(0, len(starts) - 1, 400).astype(int)]
    frames = (padded[starts[:, None] + np.arange(_WINDOW)] * _window()).astype(np.float32)
    spectrum = np.fft.rfft(frames, axis=1)
    power = spectrum.real**2 + spectrum.imag**2
    return np.asarray((power.astype(np.float64) @ _triangles(rate)).T)


@cache
def _window() -> NDArray[np.float64]:
    return np.hanning(_WINDOW)


@cache
def _triangles(rate: int) -> NDArray[np.float64]:
    """How much each bin counts in each band: all, in its middle, and nothing two bands away."""
    hertz = np.fft.rfftfreq(_WINDOW, 1 / rate)
    place = np.log(np.maximum(hertz, 1.0) / _LOW) / np.log(_HIGH / _LOW) * BANDS - 0.5
    away = np.abs(place[:, None] - np.arange(BANDS))
    return np.asarray(np.maximum(0.0, 1.0 - away / 2.0))


def _decibels(power: NDArray[np.float64]) -> NDArray[np.float64]:
    """Levels against the whole, in dB, nothing further below than 50."""
    total = power.sum()
    if not total:
        return np.zeros(len(power))
    return np.asarray(np.maximum(-50.0, 10 * np.log10(power / total + _FLOOR)) / 5)


def _envelope(mono: NDArray[np.float64]) -> NDArray[np.float64]:
    """How loud it is along its length, its loudest being 1."""
    ends = np.linspace(0, len(mono), PLACES + 1).astype(int)
    levels = [float(np.sqrt(np.mean(mono[a:b] ** 2))) if b > a else 0.0 for a, b in pairwise(ends)]
    highest = max(levels) or 1.0
    return np.asarray([(level / highest) ** 0.5 for level in levels])


def _noisiness(levels: NDArray[np.float64]) -> float:
    """How even its spectrum is: 0 for one tone, 1 for white noise."""
    mean = levels.mean(axis=1) + 1e-20
    return float(np.exp(np.log(mean).mean()) / mean.mean())


def nearest(vectors: Vector, wanted: Vector, count: int) -> NDArray[np.intp]:
    """The rows of ``vectors`` (n, SIZE) that are most like one, the most alike first."""
    apart = ((vectors - wanted) ** 2).sum(axis=1)
    count = min(count, len(apart))
    found = np.argpartition(apart, count - 1)[:count] if count else np.array([], np.intp)
    return np.asarray(found[np.argsort(apart[found], kind="stable")])
