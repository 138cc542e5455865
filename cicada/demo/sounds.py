"""The demo's sounds, computed: the same samples every time."""

from collections.abc import Callable
from math import pi
from pathlib import Path

import numpy as np
import soundfile
from numpy.typing import NDArray

from cicada.demo.voice import ALLS_WELL, LIGHT_ON_THE_WATER, speak

Samples = NDArray[np.float64]


def _time(seconds: float, rate: int) -> Samples:
    return np.arange(int(seconds * rate)) / rate


def _noise(seconds: float, rate: int, seed: int, low: float, high: float) -> Samples:
    """Noise between two frequencies, at most 1."""
    count = int(seconds * rate)
    spectrum = np.fft.rfft(np.random.default_rng(seed).standard_normal(count))
    hertz = np.fft.rfftfreq(count, 1 / rate)
    spectrum *= 1 / (1 + (low / np.maximum(hertz, 1)) ** 4) / (1 + (hertz / high) ** 4)
    result = np.fft.irfft(spectrum, count)
    return np.asarray(result / np.abs(result).max())


def _bell(seconds: float, rate: int, base: float, decay: float) -> Samples:
    """A struck bell: inharmonic partials, the higher ones dying sooner."""
    t = _time(seconds, rate)
    partials = (
        (0.5, 0.5),
        (1.0, 1.0),
        (1.19, 0.6),
        (1.5, 0.35),
        (2.0, 0.6),
        (2.74, 0.3),
        (3.8, 0.15),
    )
    ring = np.zeros(len(t))
    for ratio, share in partials:
        wobble = 1 + 0.0007 * np.sin(2 * pi * 5.3 * ratio * t)
        ring += share * np.sin(2 * pi * base * ratio * t * wobble) * np.exp(-t * decay * ratio**0.7)
    ring *= np.minimum(1, t / 0.002)
    ring *= np.minimum(1, (seconds - t) / 0.1)
    return np.asarray(ring / np.abs(ring).max())


def sweep(rate: int) -> Samples:
    """The beam passing: air that swells and moves from left to right."""
    t = _time(1.17, rate)
    swell = np.sin(pi * np.minimum(1, t / 1.17)) ** 2 * (0.3 + 0.7 * t / 1.17)
    air = _noise(1.17, rate, 1, 300, 2200) * swell
    glow = np.sin(2 * pi * (180 + 60 * t) * t) * swell * 0.15
    where = t / 1.17
    return np.stack(((air + glow) * np.sqrt(1 - where), (air + glow) * np.sqrt(where)), 1) * 0.6


def buoy_bell(rate: int) -> Samples:
    """One hit of the buoy's bell."""
    return _bell(0.83, rate, 587.0, 3.4) * 0.7


def distant_bell(rate: int) -> Samples:
    """A lower bell, a long way off."""
    return _bell(1.45, rate, 392.0, 2.2) * 0.4


def rain_bed(rate: int) -> Samples:
    """Two seconds of soft rain, to be looped."""
    sides = []
    for seed in (3, 4):
        bed = _noise(2.0, rate, seed, 900, 7000) * 0.25
        drops = np.random.default_rng(seed + 10)
        for _ in range(90):
            at = int(drops.integers(0, len(bed) - 900))
            t = np.arange(900) / rate
            hertz = drops.uniform(1800, 5200)
            drop = np.sin(2 * pi * hertz * t) * np.exp(-t * 320) * drops.uniform(0.02, 0.09)
            bed[at : at + 900] += drop
        sides.append(bed)
    return np.stack(sides, 1) * 0.55


def waves(rate: int) -> Samples:
    """One slow wave coming in and going out."""
    t = _time(4.2, rate)
    swell = np.sin(pi * t / 4.2) ** 2
    left = _noise(4.2, rate, 5, 120, 900) * swell
    right = _noise(4.2, rate, 6, 120, 900) * np.roll(swell, rate // 5)
    return np.stack((left, right), 1) * 0.5


def foghorn(rate: int) -> Samples:
    """A low reed, two notes close together."""
    t = _time(3.1, rate)
    horn = np.zeros(len(t))
    for partial in range(1, 9):
        horn += np.sin(2 * pi * 87.3 * partial * t) / partial**1.3
        horn += 0.6 * np.sin(2 * pi * 88.1 * partial * t) / partial**1.4
    shape = np.minimum(1, t / 0.25) * np.minimum(1, (3.1 - t) / 1.2)
    return np.asarray(horn / np.abs(horn).max() * shape * 0.55)


def moth_tap(rate: int) -> Samples:
    """A moth against the lamp's glass."""
    t = _time(0.34, rate)
    tap = np.sin(2 * pi * 1450 * t) * np.exp(-t * 70) + 0.5 * np.sin(2 * pi * 2330 * t) * np.exp(
        -t * 110
    )
    return np.asarray(tap * np.minimum(1, (0.34 - t) / 0.05) * 0.4)


def wing_hum(rate: int) -> Samples:
    """Wings, near."""
    t = _time(1.25, rate)
    flutter = 0.6 + 0.4 * np.sin(2 * pi * 27 * t)
    hum = sum(np.sin(2 * pi * 110 * k * t + k) / k**1.5 for k in range(1, 6))
    return np.asarray(hum * flutter * np.sin(pi * t / 1.25) ** 0.7 * 0.28)


def keeper_light(rate: int) -> Samples:
    """The keeper: "light on the water"."""
    return speak(LIGHT_ON_THE_WATER, rate, 108, 7) * 0.75


def keeper_well(rate: int) -> Samples:
    """The keeper: "all's well"."""
    return speak(ALLS_WELL, rate, 104, 8) * 0.75


def gull(rate: int) -> Samples:
    """Two calls of a gull."""
    t = _time(0.95, rate)
    call = np.zeros(len(t))
    for start, length in ((0.0, 0.42), (0.47, 0.46)):
        inside = np.clip((t - start) / length, 0, 1)
        bend = 1250 + 420 * np.sin(pi * inside) - 150 * inside
        phase = 2 * pi * np.cumsum(bend) / rate
        shape = np.sin(pi * inside) ** 1.5
        call += (np.sin(phase) + 0.4 * np.sin(2 * phase) + 0.2 * np.sin(3 * phase)) * shape
    return np.asarray(call / np.abs(call).max() * 0.3)


def _wind(rate: int, seed: int, low: float, high: float, gusts: float) -> Samples:
    """Three seconds of wind between two frequencies, its gusts so deep."""
    sides = []
    for side in (0, 1):
        t = _time(3.0, rate)
        air = _noise(3.0, rate, seed + side, low, high)
        swell = np.sin(2 * pi * t / 3.0 + side) * np.sin(4 * pi * t / 3.0 + seed)
        sides.append(air * (1 - gusts / 2 + gusts / 2 * swell))
    return np.stack(sides, 1)


def wind_breeze(rate: int) -> Samples:
    """Wind that is hardly there."""
    return _wind(rate, 20, 150, 500, 0.3) * 0.3


def wind_gusts(rate: int) -> Samples:
    """Wind in gusts."""
    return _wind(rate, 22, 200, 1100, 0.7) * 0.45


def wind_gale(rate: int) -> Samples:
    """A gale, with a howl in it."""
    t = _time(3.0, rate)
    pitch = 420 + 60 * np.sin(2 * pi * t / 3.0)
    howl = np.sin(2 * pi * np.cumsum(pitch) / rate) * (0.6 + 0.4 * np.sin(4 * pi * t / 3.0))
    return _wind(rate, 24, 250, 2600, 0.6) * 0.5 + howl[:, None] * 0.05


def _thunder(rate: int, seed: int, seconds: float, crack: float) -> Samples:
    """Thunder that rolls on for some seconds after a crack of some strength."""
    t = _time(seconds, rate)
    drawn = np.random.default_rng(seed)
    roll = np.zeros(len(t))
    for _ in range(14):
        at, width = drawn.uniform(0.05, seconds * 0.75), drawn.uniform(0.05, 0.3)
        roll += drawn.uniform(0.3, 1) * np.exp(-(((t - at) / width) ** 2)) * np.exp(-at * 1.1)
    sound = _noise(seconds, rate, seed, 25, 160) * roll / roll.max()
    sound += _noise(seconds, rate, seed + 1, 300, 5000) * np.exp(-t * 14) * crack
    sound *= np.minimum(1, (seconds - t) / 0.3) * np.minimum(1, t / 0.004)
    return np.asarray(sound / np.abs(sound).max())


def thunder_near(rate: int) -> Samples:
    """A strike close by."""
    return _thunder(rate, 31, 2.2, 0.9) * 0.7


def thunder_rolling(rate: int) -> Samples:
    """Thunder rolling over the water."""
    return _thunder(rate, 33, 2.6, 0.15) * 0.6


def thunder_far(rate: int) -> Samples:
    """Thunder a long way off."""
    return _thunder(rate, 35, 1.9, 0.0) * 0.35


def breakers(rate: int) -> Samples:
    """Waves breaking on the rocks."""
    t = _time(1.8, rate)
    swell = np.minimum(1, t / 0.35) * np.exp(-np.maximum(0, t - 0.35) * 1.6)
    swell *= np.minimum(1, (1.8 - t) / 0.3)
    return np.stack([_noise(1.8, rate, seed, 150, 3500) * swell for seed in (41, 42)], 1) * 0.6


Maker = Callable[[int], Samples]
# File name, maker, rate, libsndfile subtype: several formats, rates and channel counts on purpose.
FILES: tuple[tuple[str, Maker, int, str], ...] = (
    ("keeper_light_on_the_water.wav", keeper_light, 22050, "PCM_16"),
    ("keeper_alls_well.wav", keeper_well, 22050, "PCM_16"),
    ("sweep.flac", sweep, 48000, "PCM_16"),
    ("buoy_bell.flac", buoy_bell, 44100, "PCM_16"),
    ("distant_bell.aiff", distant_bell, 32000, "PCM_16"),
    ("rain_bed.flac", rain_bed, 32000, "PCM_16"),
    ("waves.mp3", waves, 44100, "MPEG_LAYER_III"),
    ("foghorn.wav", foghorn, 24000, "FLOAT"),
    ("moth_tap.wav", moth_tap, 44100, "PCM_U8"),
    ("wing_hum.aiff", wing_hum, 24000, "PCM_24"),
    ("gull.flac", gull, 48000, "PCM_24"),
    ("wind_breeze.flac", wind_breeze, 32000, "PCM_16"),
    ("wind_gusts.flac", wind_gusts, 32000, "PCM_16"),
    ("wind_gale.flac", wind_gale, 32000, "PCM_16"),
    ("thunder_near.flac", thunder_near, 32000, "PCM_16"),
    ("thunder_rolling.flac", thunder_rolling, 32000, "PCM_16"),
    ("thunder_far.flac", thunder_far, 32000, "PCM_16"),
    ("breakers.flac", breakers, 32000, "PCM_16"),
)


def make_sounds(folder: Path) -> list[Path]:
    """Write the demo's sounds into ``folder``; their paths, in order."""
    folder.mkdir(parents=True, exist_ok=True)
    made = []
    for name, maker, rate, subtype in FILES:
        path = folder / name
        soundfile.write(path, maker(rate), rate, subtype=subtype)
        made.append(path)
    return made
