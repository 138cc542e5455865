"""How loud a whole mix is, without writing it."""

from dataclasses import dataclass
from math import log10

import numpy as np
from numpy.typing import NDArray

from cicada.core.mix import Mixer

# Larger blocks would leave the processor's cache, smaller ones cost more calls.
BLOCK = 24576


@dataclass(frozen=True, slots=True)
class MixLevels:
    """The peak of a mix, how many samples pass full scale, and the first that does."""

    peak: float
    over: int
    first_over: int | None

    @property
    def peak_db(self) -> float:
        """The peak in dB of full scale; minus infinity for silence."""
        return 20 * log10(self.peak) if self.peak else float("-inf")


class LevelMeter:
    """Adds up the levels of a mix, block by block."""

    def __init__(self) -> None:
        self.peak, self.over = 0.0, 0
        self.first_over: int | None = None

    def hear(self, block: NDArray[np.float32], start: int) -> None:
        """Take note of a block, shape (2, n), that begins at sample ``start``."""
        loudness = np.abs(block).max(axis=0, initial=0.0)
        self.peak = max(self.peak, float(loudness.max(initial=0.0)))
        if self.peak <= 1.0:
            return
        places = np.flatnonzero(loudness > 1.0)
        self.over += len(places)
        if self.first_over is None and len(places):
            self.first_over = start + int(places[0])

    def levels(self) -> MixLevels:
        """What was heard so far."""
        return MixLevels(self.peak, self.over, self.first_over)


def measure(mixer: Mixer) -> MixLevels:
    """The levels of the whole run."""
    meter = LevelMeter()
    for start in range(0, mixer.length, BLOCK):
        meter.hear(mixer.mix(start, min(BLOCK, mixer.length - start)), start)
    return meter.levels()
