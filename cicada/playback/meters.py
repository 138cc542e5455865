"""What comes out, measured block by block, and how that is told: as rows of a ring of numbers.

A row is whole once its place in the ring is counted; who reads less often than the ring goes round
misses the oldest. What was highest since playing began is in every row.
"""

from collections.abc import Iterator
from math import isnan, nan
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from cicada.core.layer_meter import LayerMeter
from cicada.core.metering import NOTHING, Metered, SignalMeter
from cicada.core.mix import Mixer
from cicada.playback.messages import FILM, Load

Row = NDArray[np.float64]
# Rows of the ring, eleven seconds at 48 kHz, and the layers that are told apart.
ROWS, MOST_LAYERS = 1024, 256


class Reading(NamedTuple):
    """One block that came out.

    ``written`` samples had been handed over before it; ``plays`` counts what was begun up to it,
    ``load`` is the number of the plan it is of, ``doing`` and ``sample`` are as in ``Status``.
    ``left`` and ``right`` are its highest samples. ``over_at`` is the run sample at which it passes
    full scale first, or -1. ``true_over`` is how high it goes between samples where that is past
    full scale, else 0, and ``true_at`` at which run sample, which may be a few blocks before.
    ``layers`` are the peaks of the plan's layers, in the project's order.
    """

    written: int
    plays: int
    load: int
    doing: int
    sample: float
    left: float
    right: float
    over_at: float
    true_over: float
    true_at: float
    whole: Metered
    chosen: Metered
    layers: NDArray[np.float32]


_FIRST = 10
_METERED = 7
_FIXED = _FIRST + 2 * _METERED + 1
WIDTH = _FIXED + MOST_LAYERS


def packed(reading: Reading) -> Row:
    """A reading as a row of numbers."""
    layers = reading.layers[:MOST_LAYERS]
    where = (reading.written, reading.plays, reading.load, reading.doing, reading.sample)
    peaks = (reading.left, reading.right, reading.over_at, reading.true_over, reading.true_at)
    measured = (*_numbers(reading.whole), *_numbers(reading.chosen))
    return np.array([*where, *peaks, *measured, len(layers), *layers.tolist()], np.float64)


def unpacked(row: Row) -> Reading:
    """A row as the reading it is of."""
    numbers = row[:_FIXED].tolist()
    written, plays, load, doing, sample, *peaks = numbers[:_FIRST]
    left, right, over_at, true_over, true_at = peaks
    count = int(numbers[_FIXED - 1])
    return Reading(
        int(written), int(plays), int(load), int(doing), sample, left, right, over_at, true_over,
        true_at,
        _metered(numbers[_FIRST : _FIRST + _METERED]),
        _metered(numbers[_FIRST + _METERED : _FIXED - 1]),
        row[_FIXED : _FIXED + count].astype(np.float32),
    )  # fmt: skip


def _numbers(metered: Metered) -> tuple[float, ...]:
    said = (metered.momentary, metered.short, metered.integrated, *metered.true_peaks)
    sides = (metered.balance, metered.correlation)
    return tuple(nan if number is None else number for number in (*said, *sides))


def _metered(numbers: list[float]) -> Metered:
    said = [None if isnan(number) else number for number in numbers]
    return Metered(
        said[0], said[1], said[2], (numbers[3], numbers[4]), said[5], said[6]
    )  # fmt: skip


class Ring:
    """Rows in memory that two processes share: one writes, one reads."""

    def __init__(self, memory: "memoryview | NDArray[np.float64]") -> None:
        numbers = np.frombuffer(memory, np.float64)
        # The first number counts the rows that were written.
        self._count, self._rows = numbers[:1], numbers[1:].reshape(ROWS, WIDTH)
        self._read = 0

    def write(self, reading: Reading) -> None:
        """Add a row."""
        count, row = int(self._count[0]), packed(reading)
        self._rows[count % ROWS, : len(row)] = row
        self._count[0] = count + 1

    def read(self) -> Iterator[Reading]:
        """The rows that were not read yet and are still there, in their order."""
        count = int(self._count[0])
        # What may be written over while it is read is left out.
        self._read = max(self._read, count - ROWS + 16)
        while self._read < count:
            yield unpacked(self._rows[self._read % ROWS].copy())
            self._read += 1


SIZE = 1 + ROWS * WIDTH


class Meters:
    """Measures what the player hands over."""

    def __init__(self, rate: int) -> None:
        self._rate = rate
        self._whole, self._chosen = SignalMeter(rate), SignalMeter(rate)
        self.layer = ""

    def begin(self) -> None:
        """Something else is played: what is held is forgotten."""
        self._whole, self._chosen = SignalMeter(self._rate), SignalMeter(self._rate)

    def choose(self, layer: str) -> None:
        """Measure that layer closely, too."""
        self.layer = layer
        self._chosen = SignalMeter(self._rate)

    def watch(self, mixer: Mixer, load: Load) -> None:
        """Have a mixer measure its layers."""
        mixer.meter = LayerMeter(load.project, self.layer)

    def read(
        self,
        block: NDArray[np.float32],
        where: tuple[int, int, int, int, float],
        pace: float,
        mixer: Mixer | None,
    ) -> Reading:
        """Measure a block, shape (2, n), that is handed over.

        ``where`` are the first five fields of its reading; ``mixer`` is what mixed it.
        """
        doing, sample = where[3:]
        left, right = np.abs(block).max(axis=1).tolist()
        layers = np.zeros(0, np.float32)
        kept: list[NDArray[np.float32]] = []
        if mixer is not None and mixer.meter is not None:
            layers, kept = mixer.meter.take()
        over_at, true_over, true_at = -1.0, 0.0, -1.0
        if doing == FILM:
            over = self._whole.add(block)
            for each in kept:
                self._chosen.add(each)
            if over is not None:
                true_over, true_at = over.peak, sample + (block.shape[1] - over.back) * pace
            if max(left, right) > 1.0:
                first = int(np.argmax(np.abs(block).max(axis=0) > 1.0))
                over_at = sample + first * pace
        else:
            self._whole.settle()
            self._chosen.settle()
        chosen = self._chosen.metered if self.layer else NOTHING
        peaks = (left, right, over_at, true_over, true_at)
        return Reading(*where, *peaks, self._whole.metered, chosen, layers)
