"""Moments inside a sound: where it begins to be heard, its strokes, and how long it dies away.

All take the samples of a sound, shape (channels, n), which may be memory-mapped, and look at them
piece by piece. Places are samples.
"""

from typing import NamedTuple

import numpy as np
from msgspec import Struct
from numpy.typing import NDArray

Samples = NDArray[np.float32]
Levels = NDArray[np.float64]

AT_ONCE = 1 << 18
# The envelope has a value for every 2 ms; a stroke is 9 dB louder than the 20 ms before it, and
# not more than 40 dB below the loudest there is. Strokes are at least 60 ms apart.
STEP = 0.002
BEFORE, RISE, FLOOR, APART = 10, 10 ** (9 / 20), 10 ** (-40 / 20), 30
# A stroke's first sample is where it reaches this share of the loudest in the 20 ms around it.
FOOT = 0.2
# Strokes of more than this many seconds of a sound are not looked for.
LONGEST = 600.0


class Stroke(NamedTuple):
    """A stroke: the sample it begins at, the sample it is loudest at, and how loud that is."""

    onset: int
    peak: int
    level: float


class Part(NamedTuple):
    """The part of a sound that is louder than a threshold, half-open; empty if none is."""

    first: int
    last: int


class Moments(Struct, frozen=True):
    """What was found in a sound: its strokes, in order."""

    strokes: tuple[Stroke, ...]


def loud_part(samples: Samples, threshold: float) -> Part:
    """The part from the first to the last sample above ``threshold`` (linear)."""
    count = samples.shape[1]
    first, last = count, 0
    for start in range(0, count, AT_ONCE):
        above = np.flatnonzero(_loudest(samples[:, start : start + AT_ONCE]) > threshold)
        if len(above):
            first = min(first, start + int(above[0]))
            last = start + int(above[-1]) + 1
    return Part(first, last) if first < last else Part(0, 0)


def find_moments(samples: Samples, rate: int) -> Moments:
    """The strokes of a sound at ``rate``; of a very long one those of its first ten minutes."""
    samples = samples[:, : round(LONGEST * rate)]
    levels = envelope(samples, rate)
    hop = _hop(rate)
    if not len(levels) or levels.max() <= 0:
        return Moments(())
    strokes = []
    begins = _rises(levels)
    for number, index in enumerate(begins):
        following = begins[number + 1] if number + 1 < len(begins) else len(levels)
        strokes.append(_stroke(samples, hop, index, following))
    return Moments(tuple(strokes))


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
    """The steps at which the envelope rises out of what was before, first of each stroke."""
    padded = np.concatenate((np.zeros(BEFORE), levels))
    windows = np.lib.stride_tricks.sliding_window_view(padded, BEFORE)[: len(levels)]
    before = np.maximum(windows.max(axis=1), 1e-5)
    found = np.flatnonzero((levels > before * RISE) & (levels > levels.max() * FLOOR))
    begins: list[int] = []
    for index in found.tolist():
        if not begins or index - begins[-1] >= APART:
            begins.append(index)
    return begins


def _stroke(samples: Samples, hop: int, index: int, following: int) -> Stroke:
    """The samples of the stroke that rises at a step of the envelope."""
    start = max(0, (index - 1) * hop)
    near = _loudest(samples[:, start : (index + BEFORE) * hop])
    reached = np.flatnonzero(near >= near.max() * FOOT)
    onset = start + int(reached[0])
    # The loudest moment of a stroke is looked for until the next one, a quarter second at most.
    far = min(following, index + round(0.25 / STEP)) * hop
    body = _loudest(samples[:, onset : max(onset + 1, far)])
    peak = int(body.argmax())
    return Stroke(onset, onset + peak, float(body[peak]))
