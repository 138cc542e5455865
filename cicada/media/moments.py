"""Moments inside a sound: where it begins to be heard, its hits, and how long it dies away.

All take the samples of a sound, shape (channels, n), which may be memory-mapped, and look at them
piece by piece. Places are samples.
"""

from typing import NamedTuple

import numpy as np
from msgspec import Struct
from numpy.typing import NDArray

from cicada.core.arrays import Read, Samples
from cicada.media.cache import SoundCache
from cicada.media.peaks import FINEST, Peaks

Levels = NDArray[np.float64]

AT_ONCE = 1 << 18
# The envelope has a value for every 2 ms; a hit is 9 dB louder than the 20 ms before it, and
# not more than 40 dB below the loudest there is. Hits are at least 60 ms apart.
STEP = 0.002
BEFORE, RISE, FLOOR, APART = 10, 10 ** (9 / 20), 10 ** (-40 / 20), 30
# Steps of the envelope on either side that a peak is the loudest of.
SMOOTH = 12
# A hit's first sample is where it reaches this share of the loudest in the 20 ms around it.
FOOT = 0.2
# Hits of more than this many seconds of a sound are not looked for.
LONGEST = 600.0


class Hit(NamedTuple):
    """A hit: the sample it begins at, the sample it is loudest at, and how loud that is."""

    onset: int
    peak: int
    level: float


class LoudPart(NamedTuple):
    """The part of a sound that is louder than a threshold, half-open; empty if none is."""

    first: int
    last: int


class Moments(Struct, frozen=True):
    """What was found in a sound: its hits and the samples of its peaks, in order.

    A peak is the loudest moment between two times at which the sound is less than half as loud.
    """

    hits: tuple[Hit, ...]
    peaks: tuple[int, ...]


def moments_in(cache: SoundCache, key: str, rate: int) -> Moments | None:
    """The moments of the samples under ``key``, found once; None if these are not here."""
    known = known_moments(cache, key)
    stored = cache.open(key)
    if known is not None or stored is None or not stored.right(0, round(LONGEST * rate)):
        return known
    found = find_moments(stored.samples, rate)
    cache.write_note(f"{key}-moments", found)
    return found


def known_moments(cache: SoundCache, key: str) -> Moments | None:
    """The moments of ``key`` if they have been found."""
    return cache.read_note(f"{key}-moments", Moments)


def loud_part(read: Read, peaks: Peaks, threshold: float, part: LoudPart) -> LoudPart:
    """The part of ``part`` from the first to the last sample above ``threshold`` (linear).

    Found by the sound's peaks, so that however long it is, only its edges are looked at.
    """
    low, high = peaks.loud_stretch(threshold, *part)
    if low >= high:
        return LoudPart(part.first, part.first)
    edge = 2 * FINEST
    head = np.flatnonzero(_loudest(read(low, min(high, low + edge))) > threshold)
    start = max(low, high - edge)
    tail = np.flatnonzero(_loudest(read(start, high)) > threshold)
    return LoudPart(low + int(head[0]), start + int(tail[-1]) + 1)


def find_moments(samples: Samples, rate: int) -> Moments:
    """The hits of a sound at ``rate``; of a very long one those of its first ten minutes."""
    samples = samples[:, : round(LONGEST * rate)]
    levels = envelope(samples, rate)
    hop = _hop(rate)
    if not len(levels) or levels.max() <= 0:
        return Moments((), ())
    hits = []
    begins = _rises(levels)
    for number, index in enumerate(begins):
        following = begins[number + 1] if number + 1 < len(begins) else len(levels)
        hits.append(_hit(samples, hop, index, following))
    return Moments(tuple(hits), tuple(_peaks(samples, levels, hop)))


def envelope(samples: Samples, rate: int) -> Levels:
    """The loudest sample of every 2 ms."""
    hop, count = _hop(rate), samples.shape[1]
    levels = np.zeros(-(-count // hop))
    piece = max(1, AT_ONCE // hop) * hop
    for start in range(0, count, piece):
        loud = _loudest(samples[:, start : start + piece])
        edges = np.arange(0, len(loud), hop)
        first = start // hop
        levels[first : first + len(edges)] = np.maximum.reduceat(loud, edges)
    return levels


def suggested_overlap(samples: Samples, rate: int) -> float:
    """Seconds its loops might overlap by: what the sound takes to die away by 20 dB at its end.

    Counted from the last time it is within 20 dB of its loudest; 0 for one that stays loud, and
    at most half of it.
    """
    levels = envelope(samples, rate)
    if not len(levels) or levels.max() <= 0:
        return 0.0
    smooth = np.maximum.reduceat(levels, np.arange(0, len(levels), 5))
    loud = np.flatnonzero(smooth > smooth.max() / 10)
    tail = (len(smooth) - 1 - int(loud[-1])) * 5 * STEP
    return float(round(min(tail, samples.shape[1] / rate / 2), 3))


def _hop(rate: int) -> int:
    return max(1, round(rate * STEP))


def _loudest(samples: Samples) -> Levels:
    return np.asarray(np.abs(np.asarray(samples, np.float64)).max(axis=0))


def _rises(levels: Levels) -> list[int]:
    """The steps at which the envelope rises out of what was before, first of each hit."""
    padded = np.concatenate((np.zeros(BEFORE), levels))
    windows = np.lib.stride_tricks.sliding_window_view(padded, BEFORE)[: len(levels)]
    before = np.maximum(windows.max(axis=1), 1e-5)
    found = np.flatnonzero((levels > before * RISE) & (levels > levels.max() * FLOOR))
    begins: list[int] = []
    for index in found.tolist():
        if not begins or index - begins[-1] >= APART:
            begins.append(index)
    return begins


def _peaks(samples: Samples, levels: Levels, hop: int) -> list[int]:
    """The loudest sample of every swelling of the envelope that falls to its half after it."""
    # Over 50 ms, or every wave of a low tone would be a swelling of its own.
    wide = np.lib.stride_tricks.sliding_window_view(np.pad(levels, SMOOTH), 2 * SMOOTH + 1)
    smooth = wide.max(axis=1).tolist()
    floor = max(smooth) * FLOOR
    found: list[int] = []
    rising, best, lowest = True, 0, 0.0
    for index, level in enumerate([*smooth, 0.0]):
        if rising and level > smooth[best]:
            best = index
        elif rising and level < smooth[best] / 2:
            if smooth[best] > floor:
                found.append(_loudest_near(samples, best * hop, hop))
            rising, lowest = False, level
        elif not rising:
            lowest = min(lowest, level)
            if level > 2 * lowest and level > floor:
                rising, best = True, index
    return found


def _loudest_near(samples: Samples, at: int, hop: int) -> int:
    start = max(0, at - SMOOTH * hop)
    return start + int(_loudest(samples[:, start : at + (SMOOTH + 1) * hop]).argmax())


def _hit(samples: Samples, hop: int, index: int, following: int) -> Hit:
    """The samples of the hit that rises at a step of the envelope."""
    start = max(0, (index - 1) * hop)
    near = _loudest(samples[:, start : (index + BEFORE) * hop])
    reached = np.flatnonzero(near >= near.max() * FOOT)
    onset = start + int(reached[0])
    # The loudest moment of a hit is looked for until the next one, a quarter second at most.
    far = min(following, index + round(0.25 / STEP)) * hop
    body = _loudest(samples[:, onset : max(onset + 1, far)])
    peak = int(body.argmax())
    return Hit(onset, onset + peak, float(body[peak]))
