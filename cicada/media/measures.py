"""What can be measured of a sound: peak, loudness, silence at its ends, whether it loops."""

from typing import NamedTuple

import numpy as np
from msgspec import Struct

from cicada.core.arrays import Samples
from cicada.core.loudness import MOMENTARY, STEPS_A_SECOND, Loudness
from cicada.media.cache import SoundCache
from cicada.media.peaks import BRIEF, FINEST, level_lengths, peaks_of

# Below this, -60 dB of full scale, a head or tail counts as silent.
SILENCE = 0.001
AT_ONCE = 1 << 17


class Seam(NamedTuple):
    """A loop's join: the jump from last to first sample, and how much louder the head is, in dB."""

    jump: float
    step: float
    clicks: bool

    @property
    def clean(self) -> bool:
        """Whether nothing of it should be heard."""
        return not self.clicks and abs(self.step) < 3


class Measures(Struct, frozen=True):
    """``peak`` is linear, ``loudness`` LUFS, ``head`` and ``tail`` seconds.

    ``loudness`` is None if it is silent, or too short to have one; ``heard`` is what it is taken
    for then where sounds are made equally loud.
    """

    peak: float
    loudness: float | None
    heard: float | None
    head: float
    tail: float
    seam: Seam


def measured(cache: SoundCache, key: str, rate: int) -> Measures | None:
    """The measures of the samples under ``key``, taken once; None if these are not here."""
    known = known_measures(cache, key)
    if known is not None:
        return known
    samples = cache.open(key)
    if samples is None or not samples.right():
        return None
    if samples.shape[1] <= BRIEF:
        highs = peaks_of(samples.samples)
    else:
        peaks = cache.open(cache.peaks_key(key))
        if peaks is None or not peaks.right():
            return None
        highs = peaks.samples
    measures = measure(samples.samples, highs, rate)
    cache.write_note(f"{key}-measured", measures)
    return measures


def known_measures(cache: SoundCache, key: str) -> Measures | None:
    """The measures of ``key`` if they have been taken."""
    return cache.read_note(f"{key}-measured", Measures)


def measure(samples: Samples, peaks: Samples, rate: int) -> Measures:
    """Measure samples (channels, n) at ``rate`` with the peaks found of them."""
    finest = peaks[:, : level_lengths(samples.shape[1])[0]]
    highs = np.maximum(np.abs(finest[0]), np.abs(finest[1]))
    head, tail = _silences(samples, highs)
    loud = loudness(samples, rate)
    return Measures(
        float(highs.max(initial=0)),
        loud,
        heard_loudness(samples, rate) if loud is None else loud,
        round(head / rate, 4),
        round(tail / rate, 4),
        seam(samples, rate),
    )


def loudness(samples: Samples, rate: int) -> float | None:
    """Integrated loudness in LUFS of samples (channels, n); None if nothing passes the gates.

    A sound shorter than 0.4 s has none.
    """
    found = _metered(samples, rate).integrated
    return None if found is None else round(found, 2)


def heard_loudness(samples: Samples, rate: int) -> float | None:
    """How loud a sound is heard, in LUFS: its loudness, or if it is too short what a meter shows.

    That is its momentary loudness with silence after it; None for silence.
    """
    shortest = -(-MOMENTARY * rate // STEPS_A_SECOND)
    if samples.shape[1] >= shortest:
        return loudness(samples, rate)
    filled = np.pad(samples, ((0, 0), (0, shortest - samples.shape[1])))
    found = _metered(filled, rate).loudest
    return None if found is None else round(found, 2)


def _metered(samples: Samples, rate: int) -> Loudness:
    meter = Loudness(rate, len(samples))
    for first in range(0, samples.shape[1], AT_ONCE):
        meter.add(samples[:, first : first + AT_ONCE])
    return meter


def _silences(samples: Samples, highs: Samples) -> tuple[int, int]:
    """How many samples at the beginning and at the end are silent."""
    count = samples.shape[1]
    loud = np.flatnonzero(highs > SILENCE)
    if not len(loud):
        return count, 0
    first, last = int(loud[0]) * FINEST, int(loud[-1]) * FINEST
    begun = np.abs(samples[:, first : first + FINEST]).max(axis=0) > SILENCE
    ended = np.abs(samples[:, last : last + FINEST]).max(axis=0) > SILENCE
    tail = count - (last + int(np.flatnonzero(ended)[-1]) + 1)
    return first + int(np.flatnonzero(begun)[0]), tail


def seam(samples: Samples, rate: int) -> Seam:
    """The end against the beginning: a click is a jump well past the steps around it."""
    if not samples.shape[1]:
        return Seam(0.0, 0.0, clicks=False)
    near = max(2, rate // 20)
    head, tail = samples[:, :near].astype(np.float64), samples[:, -near:].astype(np.float64)
    jump = float(np.abs(head[:, 0] - tail[:, -1]).max())
    steps = np.abs(np.diff(np.concatenate((tail, head), axis=1), axis=1))
    # The join's own step is one of them, hence a percentile and not the largest.
    usual = float(np.percentile(steps, 98)) if steps.size else 0.0
    clicks = jump > max(0.003, 3 * usual)
    loud = [max(1e-5, float(np.sqrt(np.square(part).mean()))) for part in (head, tail)]
    return Seam(round(jump, 5), round(20 * float(np.log10(loud[0] / loud[1])), 1), clicks)
