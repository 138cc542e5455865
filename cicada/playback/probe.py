"""The sound by which the way from output to input is measured: noise, found by correlation."""

import numpy as np

from cicada.core.arrays import Block, Samples

# Seconds, its peak, and its soft edges in seconds.
LENGTH, LEVEL, EDGE = 0.5, 0.25, 0.005
# How far the best place must stand out of all the others, as a multiple of their mean.
_STANDS_OUT = 12.0


def probe(rate: int) -> Samples:
    """The sound at a rate, shape (n,); the same each time."""
    noise = np.random.default_rng(19).uniform(-1.0, 1.0, round(LENGTH * rate))
    edge = np.minimum(1.0, (np.arange(len(noise)) + 0.5) / (EDGE * rate))
    return np.asarray(LEVEL * noise * edge * edge[::-1], np.float32)


def probe_as_heard(played_at: int, rate: int) -> Samples:
    """The sound as it was played at one rate, at the rate of the input."""
    if played_at == rate:
        return probe(rate)
    import soxr

    return np.asarray(soxr.resample(probe(played_at), played_at, rate), np.float32)


def found(heard: Block, sought: Samples) -> int | None:
    """Where in ``heard``, shape (n, channels), the sound sought begins; None if it is not there.

    The place is that of the largest cross-correlation, summed over the channels; a cable that
    turns the signal over does not matter.
    """
    if len(heard) < len(sought):
        return None
    size = 1 << (len(heard) + len(sought) - 1).bit_length()
    pattern = np.conj(np.fft.rfft(sought.astype(np.float64), size))
    alike = np.zeros(len(heard) - len(sought) + 1)
    for channel in heard.T:
        spectrum = np.fft.rfft(channel.astype(np.float64), size)
        alike += np.abs(np.fft.irfft(spectrum * pattern, size)[: len(alike)])
    best = int(np.argmax(alike))
    mean = float(alike.mean())
    return best if mean > 0 and alike[best] > _STANDS_OUT * mean else None
