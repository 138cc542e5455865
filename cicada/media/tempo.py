"""The tempo of a sound and its first beat, from where its spectrum rises.

Frames of the spectrum are compared with those before (log magnitudes, rises alone), which gives an
envelope of onsets. Periods are weighed by its autocorrelation at the period and its multiples; the
best are refined by laying a comb over the whole length, so that the last beat is right as well as
the first.
"""

from math import log2

import numpy as np
from msgspec import Struct
from numpy.typing import NDArray

from cicada.core.arrays import Samples
from cicada.media.cache import SoundCache

Levels = NDArray[np.float64]

# Seconds between two values of the envelope, and of sound that each looks at.
HOP, WINDOW = 0.004, 0.024
# Hits of more than this many seconds are not listened to, and of less nothing can be said.
LONGEST, SHORTEST = 300.0, 1.5
SLOWEST, FASTEST = 50.0, 220.0
# A tempo people would tap is likeliest about here, and half as likely an octave away.
USUAL, OCTAVES = 112.0, 1.0
# Bands the spectrum is gathered in: enough to tell a drum from a hat.
BANDS = 24
# So many tempos are offered; how regular a sound is whose tempo is sure, and how noise may be.
OFFERED, SURE, NOISE = 4, 0.45, 0.2
# Halves, doubles and thirds; and what is nearer than this is the same tempo.
FACTORS, ALIKE = (0.5, 2.0, 1.5, 2 / 3, 3.0, 1 / 3), 0.02


class Found(Struct, frozen=True):
    """A tempo: beats a minute, the second of a beat in the sound, and how regular it is (0 to 1).

    The beat is the first the comb has within the sound.
    """

    bpm: float
    first: float
    regular: float


class Tempos(Struct, frozen=True):
    """The tempos of a sound, the likeliest first; none where it cannot be known."""

    found: tuple[Found, ...]

    @property
    def sure(self) -> bool:
        """Whether the first is hardly wrong but for its half or double."""
        return bool(self.found) and self.found[0].regular >= SURE


def tempos_in(cache: SoundCache, key: str, rate: int) -> Tempos | None:
    """The tempos of the samples under ``key``, found once; None if these are not here."""
    known = cache.read_note(f"{key}-tempo", Tempos)
    stored = cache.open(key)
    if known is not None or stored is None or not stored.right(0, round(LONGEST * rate)):
        return known
    found = find_tempos(stored.samples, rate)
    cache.write_note(f"{key}-tempo", found)
    return found


def find_tempos(samples: Samples, rate: int) -> Tempos:
    """The tempos of a sound, shape (channels, n), at ``rate``; of a long one by its beginning."""
    samples = samples[:, : round(LONGEST * rate)]
    if samples.shape[1] < SHORTEST * rate:
        return Tempos(())
    onsets = onset_envelope(samples, rate)
    if onsets.max(initial=0.0) <= 0:
        return Tempos(())
    found = _apart([_refined(onsets, period) for period in _periods(onsets)])
    likely = sorted(found, key=lambda each: -each.regular * _prior(each.bpm))[:OFFERED]
    if not likely or likely[0].regular < NOISE:
        return Tempos(())
    # Any of these may be what is meant by the best.
    for factor in FACTORS:
        bpm = likely[0].bpm * factor
        if SLOWEST <= bpm <= FASTEST and all(abs(x.bpm / bpm - 1) > ALIKE for x in likely):
            likely.append(_refined(onsets, 60 / bpm / HOP))
    return Tempos(tuple(_on_attacks(each, samples, rate) for each in likely))


def _prior(bpm: float) -> float:
    """How likely a tempo is before a sound is heard."""
    return float(2 ** -((log2(bpm / USUAL) / OCTAVES) ** 2))


def onset_envelope(samples: Samples, rate: int) -> Levels:
    """How much the spectrum rises at each hop, with the slow part taken off."""
    hop, window = max(1, round(HOP * rate)), max(16, round(WINDOW * rate))
    count = (samples.shape[1] - window) // hop + 1
    if count < 8:
        return np.zeros(0)
    shape = np.hanning(window)
    edges = np.unique(np.geomspace(1, window // 2, BANDS + 1).astype(int))
    levels = np.empty((count, len(edges) - 1))
    at_once = 4096
    for first in range(0, count, at_once):
        last = min(count, first + at_once)
        piece = samples[:, first * hop : (last - 1) * hop + window].mean(axis=0, dtype=np.float64)
        frames = np.lib.stride_tricks.sliding_window_view(piece, window)[::hop]
        power = np.square(np.abs(np.fft.rfft(frames * shape, axis=1)))
        levels[first:last] = np.add.reduceat(power, edges[:-1], axis=1)
    loud = float(levels.sum(axis=1).max())
    if loud <= 0:
        return np.zeros(0)
    heights = np.log10(1 + 1e5 * levels / loud)
    # Against what it was two hops before: an attack takes longer than one.
    rises = np.maximum(0.0, heights[3:] - heights[:-3]).sum(axis=1)
    rises = np.concatenate((np.zeros(3), rises))
    slow = max(3, round(0.4 / HOP))
    base = np.convolve(np.pad(rises, slow // 2, mode="edge"), np.ones(slow) / slow, "same")
    return np.asarray(np.maximum(0.0, rises - base[slow // 2 : slow // 2 + len(rises)]))


def _autocorrelation(onsets: Levels) -> Levels:
    """How alike the envelope is to itself so many hops later, as a share of its energy."""
    centred = onsets - onsets.mean()
    size = 1 << (2 * len(centred) - 1).bit_length()
    power = np.square(np.abs(np.fft.rfft(centred, size)))
    alike = np.fft.irfft(power, size)[: len(centred)]
    # Later ones have fewer pairs: by how many, they are made even.
    pairs = np.arange(len(centred), 0, -1)
    even = alike / pairs * len(centred)
    return np.asarray(even / max(1e-12, even[0]))


def _periods(onsets: Levels) -> list[float]:
    """Promising beat lengths, in hops."""
    alike = _autocorrelation(onsets)
    far = len(alike) * 3 // 4
    low, high = 60 / FASTEST / HOP, min(60 / SLOWEST / HOP, far / 2)
    if high <= low:
        return []
    periods = np.arange(low, high, 0.5)
    scores = np.zeros(len(periods))
    for multiple, weight in ((1, 1.0), (2, 0.8), (3, 0.5), (4, 0.6)):
        places = periods * multiple
        inside = places < far
        # The highest nearby: beats do not fall on whole hops.
        near = np.max(
            [np.interp(places + step, np.arange(len(alike)), alike) for step in (-1, 0, 1)], axis=0
        )
        scores += np.where(inside, weight * near, 0.0)
    scores *= [_prior(60 / (period * HOP)) ** 0.5 for period in periods]
    peaks = [
        index
        for index in range(1, len(scores) - 1)
        if scores[index] >= scores[index - 1] and scores[index] > scores[index + 1]
    ]
    best = sorted(peaks, key=lambda index: -scores[index])[: 2 * OFFERED]
    return [float(periods[index]) for index in best]


def _refined(onsets: Levels, period: float) -> Found:
    """The tempo near a period whose beats gather most of the onsets, and its first beat."""
    best, length = (-1.0, period, 0.0), len(onsets)
    width, steps = 0.03, 41
    for _ in range(4):
        for tried in np.linspace(best[1] * (1 - width), best[1] * (1 + width), steps):
            gathered, phase = _comb(onsets, float(tried))
            if gathered > best[0]:
                best = gathered, float(tried), phase
        # Until the last beat is known to a quarter of a hop.
        width /= 8
        if width * length < 0.25 * best[1]:
            break
    gathered, period, phase = best
    # What evenly spread onsets would gather in as many places.
    bare = _spread_out(period)
    regular = max(0.0, min(1.0, (gathered - bare) / (1 - bare)))
    return Found(round(60 / (period * HOP), 3), round(phase * HOP, 4), round(regular, 3))


# Hops about a beat in which an onset counts as on it.
REACH = 4


def _spread_out(period: float) -> float:
    return min(0.9, (2 * REACH + 1) / period)


def _comb(onsets: Levels, period: float) -> tuple[float, float]:
    """The share of all onsets on the beats of the best phase, and that phase in hops."""
    bins = max(8, int(period))
    places = (np.arange(len(onsets)) % period) * (bins / period)
    folded = np.bincount(places.astype(int) % bins, weights=onsets, minlength=bins)
    around = np.concatenate((folded[-REACH:], folded, folded[:REACH]))
    gathered = np.convolve(around, np.ones(2 * REACH + 1), "valid")
    index = int(gathered.argmax())
    near = around[index : index + 2 * REACH + 1]
    # The middle of what was gathered, not of the place.
    middle = float((near * np.arange(-REACH, REACH + 1)).sum() / max(1e-12, near.sum()))
    phase = ((index + 0.5 + middle) * period / bins) % period
    return float(gathered[index] / max(1e-12, onsets.sum())), phase


def _apart(found: list[Found]) -> list[Found]:
    """Without those that are nearly the same as a more regular one."""
    kept: list[Found] = []
    for each in sorted(found, key=lambda each: -each.regular):
        if all(abs(each.bpm / other.bpm - 1) > ALIKE for other in kept):
            kept.append(each)
    return kept


def _on_attacks(found: Found, samples: Samples, rate: int) -> Found:
    """The tempo drawn through where sounds begin about its beats, all along the sound.

    The envelope sees an attack early and over a few hops; loudness, millisecond by millisecond,
    has it where the ear does.
    """
    step = max(1, round(0.001 * rate))
    count = samples.shape[1] // step
    loud = np.abs(samples[:, : count * step]).max(axis=0).reshape(count, step).max(axis=1)
    rises = np.maximum(0.0, np.diff(loud.astype(np.float64), prepend=0.0))
    rises = np.convolve(rises, np.ones(5), "same")
    period, first = 60 / found.bpm, found.first
    for reach in (30, 16, 8):
        beats = np.arange(int((count / 1000 - first) / period) + 1)
        middles = np.rint((first + beats * period) * 1000).astype(int)
        inside = (middles >= 0) & (middles + reach < count)
        beats, middles = beats[inside], middles[inside]
        if len(beats) < 2:
            return found
        around = middles[:, None] + np.arange(-reach, reach + 1)
        heights = rises[np.maximum(around, 0)]
        attacks = (middles + heights.argmax(axis=1) - reach) / 1000
        weights = heights.max(axis=1)
        if (weights > 0).sum() < 2:
            return found
        # The middle half of them all: some beats are rests, and noise is somewhere in them.
        rest = attacks - (first + beats * period)
        usual = float(np.median(rest[weights > 0]))
        weights = np.where(np.abs(rest - usual) <= reach / 2000, weights, 0.0)
        if (weights > 0).sum() >= 2:
            length, start = np.polyfit(beats, attacks, 1, w=np.sqrt(weights))
            # A line through two or three may lie anywhere: the comb has seen more.
            if abs(length / period - 1) < ALIKE / 2:
                period, first = float(length), float(start)
    first %= period
    # One that begins with the sound may seem to lie just before it.
    first = 0.0 if period - first < 0.006 else first
    return Found(round(60 / period, 3), round(first, 4), found.regular)
