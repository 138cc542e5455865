"""What the player writes to: a protocol, a silent stand-in and one that records.

``check_output`` in the tests holds what every output must do.
"""

import time
from collections.abc import Callable
from typing import Protocol

import numpy as np
from typing_extensions import override

from cicada.core.arrays import Block
from cicada.errors import CicadaError

LATENCY = 0.15
# While somebody presses pads: less is sooner heard, and not every machine keeps up with it.
QUICK = 0.04
# The part of the latency that what was handed over may sink to before more is.
LOW = 0.6


class OutputFailed(CicadaError):
    """The sound device is not there, or has gone."""


class AudioOutput(Protocol):
    """Somewhere for samples to go, at ``rate`` samples a second.

    ``missed`` counts the blocks that came too late; ``shared`` says that another output may be
    opened while this one is.
    """

    rate: int
    name: str
    real: bool
    missed: int
    shared: bool = False

    def write(self, block: Block) -> None:
        """Hand over a block, shape (n, 2); waits for room. Raises ``OutputFailed``."""

    def delay(self) -> float:
        """Seconds until the sample handed over last will have been audible."""

    def rest(self) -> float:
        """Seconds that may go by before more is handed over, as far as the output knows."""
        return 0.0

    def close(self) -> None:
        """Let go of the device."""


class SilentOutput(AudioOutput):
    """Takes as long as a device would and makes no sound."""

    real = False

    def __init__(
        self,
        rate: int,
        reason: str = "no sound device",
        clock: Callable[[], float] = time.monotonic,
        sleep: Callable[[float], None] = time.sleep,
        latency: float = LATENCY,
    ) -> None:
        self.rate, self.name, self.missed = rate, reason, 0
        self._clock, self._sleep, self._latency = clock, sleep, latency
        self._done_at = clock()

    @override
    def write(self, block: Block) -> None:
        now = self._clock()
        self._done_at = max(self._done_at, now) + len(block) / self.rate
        ahead = self._done_at - self._latency - now
        if ahead > 0:
            self._sleep(ahead)

    @override
    def delay(self) -> float:
        return max(0.0, self._done_at - self._clock())

    @override
    def rest(self) -> float:
        return max(0.0, self.delay() - LOW * self._latency)

    @override
    def close(self) -> None:
        self._done_at = self._clock()


class RecordingOutput(AudioOutput):
    """Keeps what it is given, at once."""

    real = False
    name = "recording"
    missed = 0

    def __init__(self, rate: int) -> None:
        self.rate = rate
        self._blocks: list[Block] = []

    @override
    def write(self, block: Block) -> None:
        self._blocks.append(block.copy())

    @override
    def delay(self) -> float:
        return 0.0

    @override
    def close(self) -> None:
        """Nothing to let go of."""

    def recorded(self) -> Block:
        """All that was written so far, shape (n, 2)."""
        return np.concatenate([np.zeros((0, 2), np.float32), *self._blocks])
