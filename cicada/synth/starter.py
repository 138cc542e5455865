"""The starter collection: some forty sounds of our own, made when they are first looked at."""

from collections.abc import Callable
from pathlib import Path
from typing import NamedTuple

import numpy as np
import soundfile

from cicada.disk.paths import is_there
from cicada.disk.writing import whole_file
from cicada.synth.instruments import note as played
from cicada.synth.plain import Real, one_pole

RATE = 48_000
# Seconds over which a bed's end is laid over its beginning, so that it goes round.
_ROUND = 0.5
_PEAK = 0.7


class Starter(NamedTuple):
    """A sound of the collection: its category, its name, its samples (n,) or (n, 2)."""

    category: str
    name: str
    make: Callable[[], Real]


def _time(seconds: float) -> Real:
    return np.arange(round(seconds * RATE)) / RATE


def _noise(seconds: float, seed: int, low: float, high: float) -> Real:
    """Noise between two frequencies, of RMS 1."""
    count = round(seconds * RATE)
    spectrum = np.fft.rfft(np.random.default_rng((5, seed)).standard_normal(count))
    hertz = np.maximum(np.fft.rfftfreq(count, 1 / RATE), 1.0)
    spectrum *= 1 / (1 + (low / hertz) ** 4) / (1 + (hertz / high) ** 4)
    out = np.fft.irfft(spectrum, count)
    return np.asarray(out / (np.sqrt(np.mean(out**2)) or 1.0))


def _struck(ratios: tuple[float, ...], hertz: float, fade: float, seconds: float) -> Real:
    time = _time(seconds)
    return np.asarray(sum(
        np.sin(2 * np.pi * hertz * r * time) * np.exp(-fade * r**0.7 * time) / (1 + n)
        for n, r in enumerate(ratios)
    ))  # fmt: skip


def _hit(body: Real, snap: float, seed: int, bright: float) -> Real:
    noise = _noise(len(body) / RATE, seed, 200, bright)[: len(body)]
    return np.asarray(body + snap * noise * np.exp(-220 * np.arange(len(body)) / RATE))


def _arch(seconds: float, top: float, sharp: float = 1.5) -> Real:
    """A swell that is highest at a share of its length."""
    place = _time(seconds) / seconds
    rising, falling = np.minimum(1, place / top), np.minimum(1, (1 - place) / (1 - top))
    return np.asarray(np.minimum(rising, falling) ** sharp)


def _swept(seconds: float, begins: float, ends: float, width: float, seed: int) -> Real:
    """Noise whose middle moves from one frequency to another."""
    count, piece = round(seconds * RATE), 2048
    random = np.random.default_rng((6, seed))
    out = np.zeros(count + piece)
    window = np.hanning(piece)
    hertz = np.maximum(np.fft.rfftfreq(piece, 1 / RATE), 1.0)
    for first in range(0, count, piece // 2):
        middle = begins * (ends / begins) ** (first / count)
        shape = np.exp(-0.5 * (np.log2(hertz / middle) / width) ** 2)
        spectrum = np.fft.rfft(random.standard_normal(piece)) * shape
        out[first : first + piece] += np.fft.irfft(spectrum, piece) * window
    return out[:count]


def _moved(mono: Real, begins: float, ends: float) -> Real:
    """From one side to the other: -1 is left, 1 right."""
    where = np.linspace(begins, ends, len(mono))
    angle = (where + 1) * np.pi / 4
    return np.stack((mono * np.cos(angle), mono * np.sin(angle)), axis=1)


def _round(samples: Real) -> Real:
    """Its end laid over its beginning with equal power, so that it loops."""
    over = round(_ROUND * RATE)
    rising = np.sin(np.pi / 2 * (np.arange(over) + 0.5) / over)
    rising = rising[:, None] if samples.ndim > 1 else rising
    begin = samples[:over] * rising + samples[-over:] * rising[::-1]
    return np.concatenate((begin, samples[over:-over]))


def _bed(seconds: float, make: Callable[[float, int], Real]) -> Real:
    sides = [make(seconds + _ROUND, side) for side in (1, 2)]
    return _round(np.stack(sides, axis=1))


def _drops(seconds: float, seed: int, each: float, low: float, high: float, fade: float) -> Real:
    """Small sounds here and there, ``each`` so many a second."""
    random = np.random.default_rng((7, seed))
    out = np.zeros(round((seconds + 0.2) * RATE))
    time = _time(0.12)
    for at in random.uniform(0, seconds, round(each * seconds)):
        hertz = low * (high / low) ** random.uniform()
        drop = np.sin(2 * np.pi * hertz * time) * np.exp(-fade * time) * random.uniform(0.2, 1) ** 2
        begin = round(at * RATE)
        out[begin : begin + len(drop)] += drop
    return out[: round(seconds * RATE)]


def _wavering(seconds: float, seed: int, slow: float) -> Real:
    """A level that comes and goes, between 0.3 and 1."""
    random = np.random.default_rng((8, seed))
    points = random.uniform(0.3, 1.0, max(4, round(seconds * slow) + 2))
    places = np.linspace(0, seconds, len(points))
    return np.asarray(np.interp(_time(seconds), places, points))


def _tones(*notes: tuple[float, float, float], voice: str = "struck") -> Real:
    """Notes of an instrument: when, which pitch, how long."""
    last = max(at + held for at, _, held in notes) + 2.0
    out = np.zeros(round(last * RATE))
    for at, pitch, held in notes:
        sound = played(voice, pitch, held, RATE)  # type: ignore[arg-type]
        begin = round(at * RATE)
        room = min(len(sound), len(out) - begin)
        out[begin : begin + room] += sound[:room]
    return np.trim_zeros(out, "b")


def _glide(begins: float, ends: float, seconds: float, harmonics: int = 3) -> Real:
    time = _time(seconds)
    turns = np.cumsum(begins * (ends / begins) ** (time / seconds)) / RATE
    sound = sum(np.sin(2 * np.pi * n * turns) / n**1.5 for n in range(1, harmonics + 1))
    return np.asarray(sound * _arch(seconds, 0.4, 0.8))


def _hummed(pitch: float, seconds: float) -> Real:
    return one_pole(played("sung", pitch, seconds, RATE) * 0.15, 0.85, 0.0)


def _chord(pitches: tuple[float, ...], seconds: float, voice: str = "sung") -> Real:
    return _tones(*((0.02 * n, pitch, seconds) for n, pitch in enumerate(pitches)), voice=voice)


COLLECTION: tuple[Starter, ...] = (
    Starter("Impacts", "Soft knock", lambda: _hit(_struck((1, 2.3), 190, 26, 0.4), 0.3, 1, 1500)),
    Starter("Impacts", "Wooden hit",
            lambda: _hit(_struck((1, 2.57, 4.9), 310, 22, 0.5), 0.5, 2, 3500)),
    Starter("Impacts", "Stone set down",
            lambda: _hit(_struck((1, 1.7, 3.1), 520, 60, 0.3), 1.2, 3, 5200)),
    Starter("Impacts", "Metal plate",
            lambda: _struck((1, 1.48, 2.09, 2.56, 3.39, 4.16), 430, 4.5, 1.8)),
    Starter("Impacts", "Deep thud", lambda: _hit(_glide(95, 38, 0.6, 1), 0.35, 5, 700)),
    Starter("Impacts", "Glass tap",
            lambda: _hit(_struck((1, 2.32, 4.25), 2600, 9, 0.7), 0.12, 6, 9000)),
    Starter("Impacts", "Book on a table",
            lambda: _hit(_struck((1, 1.9), 120, 34, 0.35), 1.6, 7, 1100)),
    Starter("Impacts", "Step on gravel", lambda: _swept(0.28, 2600, 1500, 0.7, 8)
            * _arch(0.28, 0.18, 1.2) * (0.4 + _drops(0.28, 8, 180, 900, 5000, 260) ** 2)),
    Starter("Moves", "Short pass",
            lambda: _moved(_swept(0.45, 500, 1900, 0.6, 11) * _arch(0.45, 0.55, 2), -0.8, 0.8)),
    Starter("Moves", "Long pass",
            lambda: _moved(_swept(1.6, 250, 1300, 0.7, 12) * _arch(1.6, 0.6, 2.4), -1, 1)),
    Starter("Moves", "Up", lambda: _swept(1.2, 300, 4800, 0.5, 13) * _arch(1.2, 0.9, 2)),
    Starter("Moves", "Down", lambda: _swept(1.0, 4200, 180, 0.5, 14) * _arch(1.0, 0.12, 1.6)),
    Starter("Moves", "Paper slides", lambda: _swept(0.6, 3800, 5200, 0.8, 15)
            * _arch(0.6, 0.4, 1.1) * _wavering(0.6, 15, 34)),
    Starter("Moves", "Cloth turns", lambda: _swept(0.55, 900, 600, 1.0, 16)
            * _arch(0.55, 0.35, 1.4) * _wavering(0.55, 16, 22)),
    Starter("Moves", "Small leap", lambda: _glide(240, 620, 0.32, 2)),
    Starter("Moves", "Swing and back", lambda: np.concatenate((
        _moved(_swept(0.4, 400, 1200, 0.5, 18) * _arch(0.4, 0.5, 2), -0.9, 0.9),
        _moved(_swept(0.5, 1100, 350, 0.5, 19) * _arch(0.5, 0.5, 2), 0.9, -0.9)))),
    Starter("Beds", "Light rain", lambda: _bed(8, lambda s, side: 0.35 * _noise(s, 20 + side,
            900, 7000) + _drops(s, 20 + side, 42, 1400, 5200, 90))),
    Starter("Beds", "Night wind", lambda: _bed(10, lambda s, side: _noise(s, 22 + side, 120, 620)
            * _wavering(s, 22 + side, 0.8))),
    Starter("Beds", "Far road", lambda: _bed(8, lambda s, side: _noise(s, 24 + side, 60, 260)
            * _wavering(s, 24 + side, 0.4))),
    Starter("Beds", "Room at night", lambda: _bed(6, lambda s, side: _noise(s, 26 + side, 90, 380)
            + 0.25 * np.sin(2 * np.pi * 100 * _time(s)))),
    Starter("Beds", "Brook", lambda: _bed(8, lambda s, side: 0.3 * _noise(s, 28 + side, 500, 3000)
            + 1.2 * _drops(s, 28 + side, 60, 350, 1500, 34))),
    Starter("Beds", "Low hum", lambda: _bed(6, lambda s, side: sum(
        np.sin(2 * np.pi * 55 * n * _time(s) + side * n) / n for n in (1, 2, 3, 4))
            + 0.08 * _noise(s, 30 + side, 60, 900))),
    Starter("Voices", "Low hum of a voice", lambda: _hummed(48, 1.8)),
    Starter("Voices", "High hum of a voice", lambda: _hummed(65, 1.5)),
    Starter("Voices", "Three calls", lambda: _tones((0, 57, 0.35), (0.5, 60, 0.35),
            (1.0, 64, 0.8), voice="sung")),
    Starter("Voices", "Choir", lambda: _chord((45, 57, 60, 64, 69), 2.4)),
    Starter("Voices", "Dark choir", lambda: _chord((41, 48, 53, 56), 2.6)),
    Starter("Voices", "A question", lambda: _tones((0, 57, 0.3), (0.34, 59, 0.2), (0.56, 64, 0.5),
            voice="sung")),
    Starter("Signals", "Two bells", lambda: _tones((0, 88, 0.2), (0.28, 84, 0.4))),
    Starter("Signals", "Call upwards", lambda: _tones((0, 72, 0.1), (0.11, 76, 0.1),
            (0.22, 79, 0.3))),
    Starter("Signals", "Call downwards", lambda: _tones((0, 79, 0.1), (0.13, 74, 0.1),
            (0.26, 67, 0.4))),
    Starter("Signals", "Soft alarm", lambda: np.tile(_glide(700, 880, 0.3, 2), 4)),
    Starter("Signals", "Tick", lambda: _hit(_struck((1,), 2100, 120, 0.08), 0.4, 32, 6000)),
    Starter("Signals", "Done", lambda: _tones((0, 72, 0.08), (0.09, 84, 0.3), voice="plucked")),
    Starter("Signals", "Not so", lambda: _tones((0, 55, 0.12), (0.16, 49, 0.3), voice="plucked")),
    Starter("Signals", "Far horn",
            lambda: one_pole(_chord((55, 62), 1.9, "blown") * 0.2, 0.8, 0.0)),
    Starter("Textures", "Crackle", lambda: _drops(2.5, 40, 90, 1800, 8000, 420)),
    Starter("Textures", "Sparkle", lambda: _moved(_drops(2.2, 41, 26, 3000, 8000, 26)
            * _arch(2.2, 0.3, 1), -0.5, 0.5)),
    Starter("Textures", "Grains", lambda: _drops(2.0, 42, 240, 300, 1200, 60)),
    Starter("Textures", "Shimmer", lambda: _chord((84, 86, 91, 96), 1.2, "struck")),
    Starter("Textures", "Loose contact", lambda: _noise(1.6, 44, 400, 6000)
            * (_wavering(1.6, 44, 40) > 0.72)),
    Starter("Textures", "Bubbles", lambda: _drops(2.4, 45, 16, 260, 900, 30)),
)  # fmt: skip


def samples_of(starter: Starter) -> Real:
    """Its samples, shape (n, channels), its edges soft unless it goes round, its peak the same."""
    samples = np.asarray(starter.make(), np.float64)
    samples = samples[:, None] if samples.ndim == 1 else samples
    if starter.category != "Beds":
        edge = min(len(samples) // 4, round(0.004 * RATE))
        ramp = (np.arange(edge) + 0.5) / edge
        samples[-edge:] *= ramp[::-1, None]
        samples[: edge // 8] *= ramp[::8, None][: edge // 8]
    return np.asarray(_PEAK * samples / np.abs(samples).max())


def make_starter(folder: Path) -> None:
    """Make the collection in a folder, each sound that is not there; raises ``OSError``."""
    for starter in COLLECTION:
        path = folder / starter.category / f"{starter.name}.flac"
        if is_there(path):
            continue
        path.parent.mkdir(parents=True, exist_ok=True)
        with whole_file(path) as made:
            soundfile.write(made.path, samples_of(starter), RATE, "PCM_16", format="FLAC")
