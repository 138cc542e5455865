"""Loudness as ITU-R BS.1770-4 and EBU R 128 define it, added up block by block.

The weighting filter is the recommendation's two biquads. They are run as one state-space system in
pieces of ``PIECE`` samples: within a piece as a product of matrices, from piece to piece by the
state, which is carried on in logarithmically many steps. NumPy alone does that fast enough to meter
while playing; a package that filters would have to be loaded by the player first.
"""

from functools import cache
from math import log10, pi, tan
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

Numbers = NDArray[np.float64]

PIECE = 64
# Energies are kept for each hundredth of a second.
STEPS_A_SECOND = 100
MOMENTARY, SHORT = 40, 300
# Blocks of 400 ms for the gates begin every 100 ms.
GATE_EVERY = 10
ABSOLUTE_GATE, RELATIVE_GATE = -70.0, -10.0
# The gated blocks are counted in classes of so many LU, up to the highest there can be.
CLASS, HIGHEST = 0.01, 60.0


class Biquad(NamedTuple):
    """A filter of second order: ``b`` over ``a``, of which the first is 1."""

    b: Numbers
    a: Numbers


def weighting(rate: int) -> tuple[Biquad, Biquad]:
    """The two stages at a sample rate: a shelf for the head, and a high pass.

    BS.1770-4 gives coefficients at 48 kHz only; these are of the same analog filters by the
    bilinear transform, and equal to those at 48 kHz.
    """
    shelf, gain, q = 1681.974450955533, 3.999843853973347, 0.7071752369554196
    k, over = tan(pi * shelf / rate), 10 ** (gain / 20)
    middle = over**0.4996667741545416
    a0 = 1 + k / q + k * k
    first = Biquad(
        np.array([over + middle * k / q + k * k, 2 * (k * k - over), over - middle * k / q + k * k])
        / a0,
        np.array([1.0, 2 * (k * k - 1) / a0, (1 - k / q + k * k) / a0]),
    )
    low, q = 38.13547087602444, 0.5003270373238773
    k = tan(pi * low / rate)
    a0 = 1 + k / q + k * k
    second = Biquad(
        np.array([1.0, -2.0, 1.0]), np.array([1.0, 2 * (k * k - 1) / a0, (1 - k / q + k * k) / a0])
    )
    return first, second


class _System(NamedTuple):
    """A filter over a piece of samples.

    A row of samples x and a row of the state s give ``x @ through + s @ out`` and the next state
    ``x @ into + s @ powers[n]`` after n samples.
    """

    through: Numbers
    out: Numbers
    into: Numbers
    powers: Numbers


@cache
def _system(rate: int) -> _System:
    """Both stages as one system of order 4."""
    (b1, a1), (b2, a2) = weighting(rate)

    def parts(b: Numbers, a: Numbers) -> tuple[Numbers, Numbers, Numbers, float]:
        """State, input, output and direct matrices of a biquad (transposed direct form II)."""
        state = np.array([[-a[1], 1.0], [-a[2], 0.0]])
        drive = np.array([[b[1] - a[1] * b[0]], [b[2] - a[2] * b[0]]])
        return state, drive, np.array([[1.0, 0.0]]), float(b[0])

    s1, d1, c1, k1 = parts(b1, a1)
    s2, d2, c2, k2 = parts(b2, a2)
    state = np.block([[s1, np.zeros((2, 2))], [d2 @ c1, s2]])
    drive = np.concatenate((d1, d2 * k1))
    read = np.concatenate((k2 * c1, c2), axis=1)
    powers = np.empty((PIECE + 1, 4, 4))
    powers[0] = np.eye(4)
    for number in range(PIECE):
        powers[number + 1] = state @ powers[number]
    # The answer to a single sample, n samples later.
    answer = np.array([k1 * k2, *((read @ p @ drive)[0, 0] for p in powers[:-1])])
    through = np.zeros((PIECE, PIECE))
    for lag in range(PIECE):
        through += np.diag(np.full(PIECE - lag, answer[lag]), lag)
    out = np.stack([(read @ p)[0] for p in powers[:-1]], axis=1)
    into = np.stack([(p @ drive)[:, 0] for p in powers[PIECE - 1 :: -1]])
    return _System(through, out, into, np.ascontiguousarray(powers.transpose(0, 2, 1)))


class Weighting:
    """The filter, going on where it was."""

    def __init__(self, rate: int, channels: int) -> None:
        self._system = _system(rate)
        self._state = np.zeros((channels, 4))

    def filter(self, block: NDArray[np.floating]) -> Numbers:
        """The next samples weighted, shape (channels, n)."""
        channels, count = block.shape
        whole = count - count % PIECE
        done = np.empty((channels, count))
        if whole:
            pieces = block[:, :whole].reshape(channels, -1, PIECE).astype(np.float64)
            states = self._states(pieces @ self._system.into)
            filtered = pieces @ self._system.through + states @ self._system.out
            done[:, :whole] = filtered.reshape(channels, whole)
        rest = count - whole
        if rest:
            left, system = block[:, whole:].astype(np.float64), self._system
            done[:, whole:] = left @ system.through[:rest, :rest]
            done[:, whole:] += self._state @ system.out[:, :rest]
            self._state = left @ system.into[PIECE - rest :] + self._state @ system.powers[rest]
        return done

    def _states(self, driven: Numbers) -> Numbers:
        """The state at the beginning of each piece, and that after them kept.

        ``driven`` is what each piece adds to it. After each turn an entry has what twice as many
        pieces before it have added.
        """
        step = self._system.powers[PIECE]
        driven[:, 0] += self._state @ step
        reach = 1
        while reach < driven.shape[1]:
            driven[:, reach:] = driven[:, reach:] + driven[:, :-reach] @ step
            step, reach = step @ step, reach * 2
        states = np.concatenate((self._state[:, None], driven[:, :-1]), axis=1)
        self._state = driven[:, -1].copy()
        return states


def lufs(power: float) -> float | None:
    """A mean power over all channels as loudness; None below the absolute gate."""
    value = -0.691 + 10 * log10(power) if power > 0 else ABSOLUTE_GATE - 1
    return value if value >= ABSOLUTE_GATE else None


def _power(value: float) -> float:
    return float(10 ** ((value + 0.691) / 10))


class Loudness:
    """Adds up what is heard; ``momentary``, ``short`` and ``integrated`` are in LUFS.

    Each is None for silence and while less has been heard than it takes; a partial block does not
    count.
    """

    def __init__(self, rate: int, channels: int = 2) -> None:
        self._rate = rate
        self._weighting = Weighting(rate, channels)
        self._heard = 0
        # The energy of the step under way, and the mean powers of the last whole ones.
        self._open = 0.0
        self._steps = 0
        self._last = np.zeros(SHORT)
        classes = round((HIGHEST - ABSOLUTE_GATE) / CLASS)
        self._counts = np.zeros(classes)
        self._sums = np.zeros(classes)
        self._loudest = 0.0

    def add(self, block: NDArray[np.floating]) -> None:
        """Hear the next samples, shape (channels, n)."""
        powers = np.square(self._weighting.filter(block)).sum(axis=0)
        before, self._heard = self._heard, self._heard + block.shape[1]
        steps = self._heard * STEPS_A_SECOND // self._rate
        if steps == self._steps:
            self._open += float(powers.sum())
            return
        numbers = np.arange(self._steps, steps + 1)
        edges = -(-numbers * self._rate // STEPS_A_SECOND)
        starts = np.maximum(edges - before, 0)
        inside = starts < block.shape[1]
        energies = np.zeros(len(numbers))
        energies[inside] = np.add.reduceat(powers, starts[inside])
        energies[0] += self._open
        self._open = float(energies[-1])
        self._take(energies[:-1] / np.diff(edges), steps)

    def _take(self, means: Numbers, steps: int) -> None:
        """Some more steps are whole."""
        known = np.concatenate((self._last, means))
        sums = np.concatenate(([0.0], np.cumsum(known)))
        blocks = (sums[SHORT + 1 :] - sums[SHORT + 1 - MOMENTARY : -MOMENTARY]) / MOMENTARY
        numbers = np.arange(self._steps + 1, steps + 1)
        whole = blocks[numbers >= MOMENTARY]
        self._loudest = max(self._loudest, float(whole.max(initial=0.0)))
        gated = blocks[(numbers >= MOMENTARY) & (numbers % GATE_EVERY == 0)]
        gated = gated[gated >= _power(ABSOLUTE_GATE)]
        if len(gated):
            values = -0.691 + 10 * np.log10(gated)
            classes = ((values - ABSOLUTE_GATE) / CLASS).astype(np.int64)
            classes = np.minimum(classes, len(self._counts) - 1)
            np.add.at(self._counts, classes, 1)
            np.add.at(self._sums, classes, gated)
        self._last = known[-SHORT:]
        self._steps = steps

    @property
    def momentary(self) -> float | None:
        """That of the last 0.4 s."""
        return lufs(float(self._last[-MOMENTARY:].mean())) if self._steps >= MOMENTARY else None

    @property
    def short(self) -> float | None:
        """That of the last 3 s."""
        return lufs(float(self._last.mean())) if self._steps >= SHORT else None

    @property
    def loudest(self) -> float | None:
        """The highest momentary loudness so far."""
        return lufs(self._loudest)

    @property
    def integrated(self) -> float | None:
        """That of all that was heard, by both gates."""
        count = self._counts.sum()
        if not count:
            return None
        gate = _power(-0.691 + 10 * log10(self._sums.sum() / count) + RELATIVE_GATE)
        lowest = (-0.691 + 10 * log10(gate) - ABSOLUTE_GATE) / CLASS
        first = max(0, int(np.ceil(lowest)))
        count = self._counts[first:].sum()
        return lufs(float(self._sums[first:].sum() / count)) if count else None
