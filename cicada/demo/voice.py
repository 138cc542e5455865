"""A small formant voice for the keeper: a pulse train through moving resonances."""

from math import cos, exp, pi

import numpy as np
from numpy.typing import NDArray

# First three resonances in Hz, voiced share and hiss share of each sound of speech.
PHONES: dict[str, tuple[float, float, float, float, float]] = {
    "l": (380, 1100, 2600, 0.8, 0.0),
    "ah": (730, 1150, 2450, 1.0, 0.0),
    "ee": (290, 2150, 2900, 0.9, 0.0),
    "oh": (500, 900, 2400, 1.0, 0.0),
    "aw": (600, 880, 2450, 1.0, 0.0),
    "uh": (560, 1200, 2400, 0.9, 0.0),
    "eh": (540, 1750, 2500, 1.0, 0.0),
    "er": (480, 1350, 1700, 0.9, 0.0),
    "w": (310, 700, 2300, 0.7, 0.0),
    "n": (280, 1500, 2500, 0.6, 0.0),
    "dh": (300, 1400, 2500, 0.5, 0.05),
    "t": (400, 2600, 3600, 0.0, 0.5),
    "z": (300, 1700, 3400, 0.4, 0.25),
    "-": (450, 1300, 2500, 0.0, 0.0),
}
BANDWIDTHS = (70.0, 100.0, 160.0)
Phrase = tuple[tuple[str, float], ...]

LIGHT_ON_THE_WATER: Phrase = (
    ("-", 0.04), ("l", 0.09), ("ah", 0.16), ("ee", 0.10), ("t", 0.06), ("-", 0.03),
    ("aw", 0.16), ("n", 0.10), ("dh", 0.05), ("uh", 0.09), ("w", 0.09), ("aw", 0.22),
    ("t", 0.05), ("er", 0.34), ("-", 0.08),
)  # fmt: skip
ALLS_WELL: Phrase = (
    ("-", 0.04), ("aw", 0.26), ("l", 0.12), ("z", 0.12), ("-", 0.03), ("w", 0.12),
    ("eh", 0.24), ("l", 0.36), ("-", 0.08),
)  # fmt: skip


def speak(phrase: Phrase, rate: int, pitch: float, seed: int) -> NDArray[np.float64]:
    """The phrase at ``rate``, about ``pitch`` Hz falling towards its end, within -1..1."""
    targets, times, at = [], [], 0.0
    for name, seconds in phrase:
        targets.append(PHONES[name])
        times.append(at + seconds / 2)
        at += seconds
    count = int(at * rate)
    moments = np.arange(count) / rate
    tracks = np.array(
        [np.interp(moments, times, [target[i] for target in targets]) for i in range(5)]
    )
    melody = pitch * (1.12 - 0.28 * moments / at + 0.02 * np.sin(2 * pi * 4.6 * moments))
    phase = np.cumsum(melody / rate) % 1.0
    pulse = np.where(phase < 0.6, np.sin(phase / 0.6 * pi) ** 2, 0.0)
    pulse = np.diff(pulse, prepend=0.0) * 6
    hiss = np.random.default_rng(seed).standard_normal(count)
    source = pulse * tracks[3] + hiss * (0.25 * tracks[4] + 0.012 * tracks[3])
    spoken = sum(
        share * _resonance(source, tracks[i], BANDWIDTHS[i], rate)
        for i, share in enumerate((1.0, 0.55, 0.3))
    )
    assert isinstance(spoken, np.ndarray)
    spoken *= np.minimum(1, np.minimum(moments / 0.03, (at - moments) / 0.08))
    return np.asarray(spoken / np.abs(spoken).max())


def _resonance(
    source: NDArray[np.float64], centre: NDArray[np.float64], width: float, rate: int
) -> NDArray[np.float64]:
    """A two-pole resonator whose centre moves."""
    radius = exp(-pi * width / rate)
    turn = 2 * radius * np.cos(2 * pi * centre / rate)
    gain = (1 - radius) * np.sqrt(1 - 2 * radius * cos(0.6) + radius * radius)
    one = two = 0.0
    result = []
    for sample, bend in zip((source * gain).tolist(), turn.tolist(), strict=True):
        one, two = sample + bend * one - radius * radius * two, one
        result.append(one)
    return np.array(result)
