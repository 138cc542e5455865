"""What meters show of a signal of two sides: loudness, true peak, balance and correlation."""

from math import exp, sqrt
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from cicada.core.loudness import Loudness
from cicada.core.true_peak import TruePeak

# Seconds over which balance and correlation are taken.
SIDES = 0.3
# Blocks that are measured together: one at a time costs four times as much.
TOGETHER = 8
# Below so much energy there are no sides.
FAINT = 1e-9


class Metered(NamedTuple):
    """Loudness in LUFS (None: nothing to be said yet), true peaks so far (linear).

    ``balance`` goes from -1 (left alone) to 1 (right alone), ``correlation`` from -1 (one side the
    other's inverse) to 1 (both alike); both are None in silence.
    """

    momentary: float | None
    short: float | None
    integrated: float | None
    true_peaks: tuple[float, float]
    balance: float | None
    correlation: float | None


NOTHING = Metered(None, None, None, (0.0, 0.0), None, None)


class Over(NamedTuple):
    """A true peak past full scale, and how many samples before the end of what was heard it is."""

    peak: float
    back: int


class SignalMeter:
    """Hears a signal block by block, and measures a few blocks together."""

    def __init__(self, rate: int) -> None:
        self._rate = rate
        self._loudness, self._true_peak = Loudness(rate), TruePeak()
        self._waiting: list[NDArray[np.float32]] = []
        # The powers of left and right, and what they have in common, of late.
        self._sides = (0.0, 0.0, 0.0)
        self.metered = NOTHING

    def add(self, block: NDArray[np.float32]) -> Over | None:
        """Hear the next samples, shape (2, n); a true peak past full scale that this brings."""
        self._waiting.append(block)
        return self.settle() if len(self._waiting) >= TOGETHER else None

    def settle(self) -> Over | None:
        """Measure what was heard up to now; a true peak past full scale that this brought out."""
        if not self._waiting:
            return None
        block = np.concatenate(self._waiting, axis=1)
        self._waiting = []
        self._loudness.add(block)
        self._weigh_sides(block)
        peak, at = self._true_peak.add(block)
        self.metered = self._measured()
        return Over(peak, block.shape[1] - at) if peak > 1.0 else None

    def _weigh_sides(self, block: NDArray[np.float32]) -> None:
        left, right = block
        fades = exp(-block.shape[1] / (SIDES * self._rate))
        now = float(left @ left), float(right @ right), float(left @ right)
        a, b, c = (old * fades + new for old, new in zip(self._sides, now, strict=True))
        self._sides = a, b, c

    def _measured(self) -> Metered:
        left, right, both = self._sides
        loud = left + right > FAINT
        balance = (right - left) / (right + left) if loud else None
        product = sqrt(left * right)
        correlation = both / product if loud and product > FAINT else None
        held = self._true_peak.held
        level = self._loudness
        return Metered(
            level.momentary, level.short, level.integrated, (float(held[0]), float(held[1])),
            balance, correlation,
        )  # fmt: skip
