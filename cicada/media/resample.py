"""Changing rate and speed, each in one call on the whole stretch (semantics.md, section 1)."""

import numpy as np
import soxr
from numpy.typing import NDArray

from cicada.core.timebase import decimal_ratio, resampled_length, round_half_up

Samples = NDArray[np.float32]


def to_rate(samples: Samples, own_rate: int, rate: int) -> Samples:
    """``samples`` (channels, n) at ``own_rate``, taken to ``rate``: exactly N samples long."""
    length = resampled_length(samples.shape[1], own_rate, rate)
    if own_rate == rate:
        return samples
    return _resampled(samples, float(own_rate), float(rate), length)


def to_speed(samples: Samples, speed: float) -> Samples:
    """``samples`` played ``speed`` times as fast, exactly L samples long."""
    numerator, denominator = decimal_ratio(speed)
    length = round_half_up(samples.shape[1] * denominator, numerator)
    return _resampled(samples, speed, 1.0, length)


def _resampled(samples: Samples, own: float, wanted: float, length: int) -> Samples:
    if not samples.shape[1] or not length:
        return np.zeros((samples.shape[0], length), np.float32)
    frames = soxr.resample(np.ascontiguousarray(samples.T), own, wanted, quality="HQ")
    if len(frames) == length:
        return np.ascontiguousarray(frames.T)
    result = np.zeros((samples.shape[0], length), np.float32)
    kept = min(length, len(frames))
    result[:, :kept] = frames[:kept].T
    return result
