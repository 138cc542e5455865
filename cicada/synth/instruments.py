"""Simple instruments of our own: a note of each as samples, from its pitch, length and strength.

All are sums of partials that fade, or noise through simple filters; nothing is recorded. The
partials above half the rate are left out, so nothing folds back.
"""

from collections.abc import Callable
from typing import NamedTuple

import numpy as np

from cicada.core.patterns import VoiceName
from cicada.synth.plain import Real, one_pole

Note = Callable[[float, float, int], Real]
"""From frequency, seconds it is held, and rate: mono samples at full strength, its ring with it."""
_LOUD = 0.3
_QUIETEST = 1e-3


class Instrument(NamedTuple):
    """What people call it, the pitches it can play, and how a note of it sounds."""

    title: str
    low: int
    high: int
    note: Note


def _time(seconds: float, rate: int) -> Real:
    return np.arange(max(1, round(seconds * rate))) / rate


def _partials(
    hertz: float, time: Real, rate: int, ratios: list[float], gains: list[float],
    fades: list[float],
) -> Real:  # fmt: skip
    out = np.zeros(len(time))
    for ratio, gain, fade in zip(ratios, gains, fades, strict=True):
        if hertz * ratio < 0.45 * rate:
            out += gain * np.exp(-fade * time) * np.sin(2 * np.pi * hertz * ratio * time)
    return out


def _struck(hertz: float, _: float, rate: int) -> Real:
    """A bar that is struck: the partials of a free bar (1, 2.76, 5.4 ...), high ones gone soon."""
    fade = 2.2 + hertz / 500
    time = _time(min(3.0, 6.9 / fade), rate)
    ratios = [1.0, 2.756, 5.404, 8.933]
    out = _partials(hertz, time, rate, ratios, [1.0, 0.35, 0.18, 0.08],
                    [fade, 2.5 * fade, 5 * fade, 9 * fade])  # fmt: skip
    return _begun(out, 0.0015, rate)


def _plucked(hertz: float, held: float, rate: int) -> Real:
    """A string that is plucked a fifth along it: harmonics, each fading sooner than the last."""
    fade = 1.6 + hertz / 400
    numbers = [n for n in range(1, 25) if n * hertz < 0.45 * rate]
    gains = [abs(np.sin(np.pi * n / 5)) / n**1.2 for n in numbers]
    fades = [fade * (1 + 0.35 * (n - 1)) for n in numbers]
    time = _time(min(3.0, 6.9 / fade, held + 0.25), rate)
    out = _partials(hertz, time, rate, [float(n) for n in numbers], gains, fades)
    return _let_go(_begun(out, 0.002, rate), held, 0.2, rate)


def _swelling(
    hertz: float, held: float, rate: int, gains: list[float], rise: float, fall: float,
    waver: float,
) -> Real:  # fmt: skip
    """Harmonics that go on for as long as the note is held, wavering a little after a while."""
    time = _time(held + fall, rate)
    wavering = waver * np.clip((time - 0.25) / 0.4, 0.0, 1.0) * np.sin(2 * np.pi * 5.2 * time)
    # Seconds by which a waver of its share of the frequency moves the phase.
    phase = 2 * np.pi * hertz * (time + wavering / (2 * np.pi * 5.2))
    out = np.zeros(len(time))
    for number, gain in enumerate(gains, start=1):
        if number * hertz < 0.45 * rate:
            out += gain * np.sin(number * phase)
    return _let_go(_begun(out, min(rise, held / 2), rate), held, fall, rate)


def _blown(hertz: float, held: float, rate: int) -> Real:
    """A pipe that is blown: few harmonics, a soft beginning, some breath."""
    out = _swelling(hertz, held, rate, [1.0, 0.25, 0.3, 0.06, 0.08], 0.05, 0.12, 0.01)
    breath = np.random.default_rng(round(hertz * 16)).standard_normal(len(out))
    breath = one_pole(breath, 0.7, 0.0) * 0.02
    return _let_go(out + _begun(breath, 0.02, rate), held, 0.12, rate)


def _bowed(hertz: float, held: float, rate: int) -> Real:
    """A string that is bowed: all harmonics, a slow beginning."""
    gains = [1.0 / n**1.1 for n in range(1, 21)]
    return 0.7 * _swelling(hertz, held, rate, gains, 0.09, 0.2, 0.014)


# Where a voice on "ah" is strong: frequency, width and strength.
_FORMANTS = ((730.0, 130.0, 1.0), (1090.0, 150.0, 0.6), (2440.0, 250.0, 0.25), (3200.0, 300.0, 0.1))


def _sung(hertz: float, held: float, rate: int) -> Real:
    """A voice on one vowel: harmonics, strong where the mouth resounds."""
    gains = []
    for number in range(1, 33):
        at = number * hertz
        resounds = sum(g / (1 + ((at - f) / w) ** 2) for f, w, g in _FORMANTS)
        gains.append((0.08 + resounds) / number**0.5)
    whole = sum(gains) or 1.0
    return _swelling(hertz, held, rate, [2.2 * g / whole for g in gains], 0.08, 0.18, 0.02)


def _begun(out: Real, rise: float, rate: int) -> Real:
    count = min(len(out), max(1, round(rise * rate)))
    out[:count] *= 0.5 - 0.5 * np.cos(np.pi * (np.arange(count) + 0.5) / count)
    return out


def _let_go(out: Real, held: float, fall: float, rate: int) -> Real:
    """Faded out from where the note is let go."""
    first = min(len(out), max(0, round(held * rate)))
    left = len(out) - first
    if left:
        over = max(1, min(left, round(fall * rate)))
        out[first : first + over] *= 0.5 + 0.5 * np.cos(np.pi * (np.arange(over) + 0.5) / over)
        out[first + over :] = 0.0
    return out


INSTRUMENTS: dict[VoiceName, Instrument] = {
    "struck": Instrument("Struck bars", 41, 101, _struck),
    "plucked": Instrument("Plucked strings", 28, 91, _plucked),
    "blown": Instrument("Blown pipe", 55, 98, _blown),
    "bowed": Instrument("Bowed strings", 33, 93, _bowed),
    "sung": Instrument("Sung vowel", 41, 79, _sung),
}


# -- the drum set --------------------------------------------------------------------------------


def _noise(seed: int, count: int) -> Real:
    return np.random.default_rng((3, seed)).standard_normal(count)


def _skin(rate: int, begins: float, ends: float, seconds: float, snap: float) -> Real:
    """A skin that is struck: a tone that falls from one frequency to another."""
    time = _time(seconds, rate)
    falls = 30.0
    turns = ends * time + (begins - ends) / falls * (1 - np.exp(-falls * time))
    out = np.sin(2 * np.pi * turns) * np.exp(-4.5 / seconds * time)
    out += snap * _noise(round(begins), len(time)) * np.exp(-180 * time)
    return _begun(out, 0.0008, rate)


def _rattled(rate: int) -> Real:
    time = _time(0.28, rate)
    wires = _noise(38, len(time))
    wires = wires - one_pole(wires * 0.12, 0.88, 0.0)
    skin = np.sin(2 * np.pi * 190 * time) * np.exp(-22 * time)
    return _begun(0.55 * skin + 0.42 * wires * np.exp(-16 * time), 0.0008, rate)


def _metal(rate: int, seconds: float, seed: int, bright: float) -> Real:
    """A plate of metal: partials that do not fit each other, and noise, both without their lows."""
    time = _time(seconds, rate)
    out = bright * _noise(seed, len(time))
    for ratio in (1.0, 1.342, 1.2312, 1.6532, 1.9523, 2.1523, 2.73, 3.17):
        hertz = 3100.0 * ratio
        if hertz < 0.45 * rate:
            out += 0.35 * np.sin(2 * np.pi * hertz * time + seed * ratio)
    out = out - one_pole(out * 0.3, 0.7, 0.0)
    return _begun(0.5 * out * np.exp(-5.5 / seconds * time), 0.0006, rate)


def _clapped(rate: int) -> Real:
    time = _time(0.3, rate)
    out = np.zeros(len(time))
    for number, at in enumerate((0.0, 0.011, 0.021, 0.031)):
        fade = 160.0 if number < 3 else 18.0
        since = time - at
        out += np.where(since >= 0, np.exp(-fade * np.maximum(since, 0.0)), 0.0)
    noise = _noise(39, len(time))
    noise = one_pole(noise * 0.5, 0.5, 0.0) - one_pole(noise * 0.1, 0.9, 0.0)
    return 0.35 * out * noise


def _shaken(rate: int) -> Real:
    time = _time(0.11, rate)
    noise = _noise(70, len(time))
    noise = noise - one_pole(noise * 0.5, 0.5, 0.0)
    return 0.4 * noise * np.sin(np.pi * np.minimum(1.0, time / 0.11)) ** 1.5


def _stick(rate: int) -> Real:
    time = _time(0.08, rate)
    tones = [np.sin(2 * np.pi * hertz * time) for hertz in (830.0, 1710.0, 2450.0)]
    return _begun(0.5 * sum(tones) * np.exp(-70 * time), 0.0004, rate)


class Drum(NamedTuple):
    """What people call it, and how it sounds at a rate."""

    title: str
    sound: Callable[[int], Real]


# By the pitches that the MIDI file's standard set has them at (General MIDI level 1).
DRUMS: dict[int, Drum] = {
    36: Drum("Low drum", lambda rate: _skin(rate, 150, 48, 0.42, 0.25)),
    37: Drum("Stick", _stick),
    38: Drum("Snare", _rattled),
    39: Drum("Clap", _clapped),
    41: Drum("Floor tom", lambda rate: _skin(rate, 130, 82, 0.5, 0.12)),
    42: Drum("Closed hat", lambda rate: _metal(rate, 0.09, 42, 0.5)),
    45: Drum("Middle tom", lambda rate: _skin(rate, 180, 118, 0.4, 0.12)),
    46: Drum("Open hat", lambda rate: _metal(rate, 0.55, 46, 0.45)),
    48: Drum("High tom", lambda rate: _skin(rate, 240, 165, 0.32, 0.12)),
    49: Drum("Crash", lambda rate: _metal(rate, 1.7, 49, 0.7)),
    51: Drum("Ride", lambda rate: _metal(rate, 1.1, 51, 0.2)),
    70: Drum("Shaker", _shaken),
}


def hertz_of(pitch: float) -> float:
    """The frequency of a pitch in equal temperament; 69 is 440 Hz."""
    return float(440.0 * 2 ** ((pitch - 69.0) / 12))


def playable(voice: VoiceName, pitch: float) -> bool:
    """Whether a voice has that pitch."""
    if voice == "drums":
        return pitch in DRUMS
    instrument = INSTRUMENTS[voice]
    return instrument.low <= pitch <= instrument.high


def note(voice: VoiceName, pitch: float, held: float, rate: int) -> Real:
    """A note at full strength, mono; nothing where the voice has no such pitch."""
    if not playable(voice, pitch):
        return np.zeros(0)
    if voice == "drums":
        return _LOUD * 1.6 * DRUMS[int(pitch)].sound(rate)
    return _LOUD * INSTRUMENTS[voice].note(hertz_of(pitch), held, rate)
