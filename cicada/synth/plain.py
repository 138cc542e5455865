"""Silence, tones, noise, beeps: block by block, the same each time."""

from collections.abc import Iterator
from typing import ClassVar

import numpy as np
from numpy.typing import NDArray

from cicada.core.arrays import Block
from cicada.core.made import Countdown, Noise, Silence, SyncBeep, Tone

# Sample frames in a block, and the seconds over which what begins or ends is faded.
AT_ONCE = 1 << 17
EDGE = 0.003
Real = NDArray[np.float64]
# How often noise that falls is remembered, in samples: brown noise below that is level.
_LEAK = 0.9995


def blocks(
    making: Silence | Tone | Noise | SyncBeep | Countdown, frames: int, rate: int
) -> Iterator[Block]:
    """All of it, blocks of shape (n, channels)."""
    match making:
        case Noise():
            yield from _noise(making, frames)
        case Countdown():
            yield from _countdown(making, frames, rate)
        case Silence():
            for first in range(0, frames, AT_ONCE):
                yield np.zeros((min(AT_ONCE, frames - first), 1), np.float32)
        case Tone() | SyncBeep():
            for first in range(0, frames, AT_ONCE):
                along = np.arange(first, min(first + AT_ONCE, frames))
                yield _shown(_tone(making, along, rate) * edges(along, frames, rate))


def _shown(mono: Real) -> Block:
    return mono.astype(np.float32)[:, None]


def edges(along: NDArray[np.int64], frames: int, rate: int) -> Real:
    """A gain that rises from nothing in the beginning and falls to it at the end."""
    over = max(1.0, min(EDGE * rate, frames / 4))
    nearest = np.minimum(along, frames - 1 - along)
    return np.asarray(np.minimum(1.0, (nearest + 0.5) / over))


def _tone(making: Tone | SyncBeep, along: NDArray[np.int64], rate: int) -> Real:
    # Whole turns are left out before anything is rounded: an hour in it is still in tune.
    turns = along * making.hertz / rate
    shape = making.shape if isinstance(making, Tone) else "sine"
    if shape == "sine":
        return np.asarray(making.level * np.sin(2 * np.pi * (turns % 1.0)))
    return np.asarray(making.level * _harmonics(shape, making.hertz, turns % 1.0, rate))


def _harmonics(shape: str, hertz: float, turns: Real, rate: int) -> Real:
    """A shape as the sum of its harmonics up to half the rate, so that nothing folds back."""
    highest = max(1, min(200, int(0.49 * rate / hertz)))
    out = np.zeros(len(turns))
    for number in range(1, highest + 1):
        if shape == "saw":
            weight = 2 / (np.pi * number) * (-1.0) ** (number + 1)
        elif number % 2 == 0:
            continue
        elif shape == "square":
            weight = 4 / (np.pi * number)
        else:
            weight = 8 / (np.pi * number) ** 2 * (-1.0) ** ((number - 1) // 2)
        out += weight * np.sin(2 * np.pi * number * turns)
    return out


def _noise(making: Noise, frames: int) -> Iterator[Block]:
    sides = 2 if making.wide else 1
    sources = [np.random.default_rng((making.seed, side)) for side in range(sides)]
    colours = [Coloured(making.colour) for _ in range(sides)]
    for first in range(0, frames, AT_ONCE):
        count = min(AT_ONCE, frames - first)
        sound = [
            making.level * colour.of(source.standard_normal(count))
            for source, colour in zip(sources, colours, strict=True)
        ]
        yield np.stack(sound, axis=1).astype(np.float32)


class Coloured:
    """White noise of RMS 1, coloured, block by block, at about the same RMS.

    Pink: the sum of three one-pole filters (P. Kellet's economy filter); brown: one pole.
    """

    # Poles and weights; the last weight is of the white noise itself. And what makes the RMS 1.
    _FILTERS: ClassVar[dict[str, tuple[tuple[float, ...], tuple[float, ...], float, float]]] = {
        "white": ((), (), 1.0, 1.0),
        "pink": ((0.99765, 0.96300, 0.57000), (0.0990460, 0.2965164, 1.0526913), 0.1848, 0.342),
        "brown": ((_LEAK,), (1.0,), 0.0, (1 - _LEAK**2) ** 0.5),
    }  # fmt: skip

    def __init__(self, colour: str) -> None:
        self._poles, self._weights, self._direct, self._gain = self._FILTERS[colour]
        self._states = [0.0] * len(self._poles)

    def of(self, white: Real) -> Real:
        """The next samples."""
        out = self._direct * white
        for number, (pole, weight) in enumerate(zip(self._poles, self._weights, strict=True)):
            filtered = one_pole(white * weight, pole, self._states[number])
            if len(filtered):
                self._states[number] = float(filtered[-1])
            out = out + filtered
        return np.asarray(out * self._gain)


def one_pole(values: Real, pole: float, state: float) -> Real:
    """y[n] = x[n] + pole * y[n-1], in pieces short enough for the powers of the pole."""
    piece = max(1, min(len(values), int(-600 / np.log10(pole) / 10))) if pole > 0 else len(values)
    piece = min(piece, 4096)
    powers = pole ** np.arange(piece)
    out = np.empty(len(values))
    for first in range(0, len(values), piece):
        part = values[first : first + piece]
        scale = powers[: len(part)]
        summed = np.cumsum(part / scale) * scale + state * pole * scale
        out[first : first + len(part)] = summed
        state = float(summed[-1])
    return out


def _countdown(making: Countdown, frames: int, rate: int) -> Iterator[Block]:
    starts = [round(number * making.every * rate) for number in range(making.beeps)]
    length = round(min(0.08, making.every / 2) * rate)
    along = np.arange(length)
    beeps = []
    for number in range(making.beeps):
        hertz = making.hertz * (1.5 if not number else 1.0)
        tone = making.level * np.sin(2 * np.pi * hertz / rate * along)
        beeps.append(tone * edges(along, length, rate))
    for first in range(0, frames, AT_ONCE):
        count = min(AT_ONCE, frames - first)
        out = np.zeros(count)
        for start, beep in zip(starts, beeps, strict=True):
            begin, end = max(start, first), min(start + length, first + count)
            if begin < end:
                out[begin - first : end - first] += beep[begin - start : end - start]
        yield _shown(out)
