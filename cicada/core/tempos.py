"""Beats against frames: where they fall between frames, and which tempos and rates would suit.

A beat is on a frame if it is within a sample of where a frame starts. Tempos are offered with as
few digits as that takes.
"""

from fractions import Fraction
from typing import NamedTuple

import numpy as np

from cicada.core.beats import beat_length, first_beat
from cicada.core.model import Scene, Tempo
from cicada.core.timebase import Timebase, decimal_ratio

Fps = tuple[int, int]
USUAL: tuple[Fps, ...] = (
    (12, 1), (15, 1), (24000, 1001), (24, 1), (25, 1), (30000, 1001), (30, 1), (48, 1), (50, 1),
    (60000, 1001), (60, 1),
)  # fmt: skip
# Beats a minute that are offered at most and at least.
SLOWEST, FASTEST = 20.0, 400.0
DIGITS = (0, 1, 2, 3, 4)


class Suited(NamedTuple):
    """A tempo and a frame rate, and by how many samples a beat of the scene misses its frame most.

    ``change`` is by how much the tempo is faster than the one asked about, 0.01 for one per cent.
    """

    bpm: float
    fps: Fps
    off: float
    change: float

    @property
    def on_frames(self) -> bool:
        """Whether every beat is on a frame."""
        return self.off <= 1.0


def frames_per_beat(bpm: float, fps: Fps) -> Fraction:
    """How many frames a beat lasts."""
    num, den = decimal_ratio(bpm)
    return Fraction(60 * fps[0] * den, fps[1] * num)


def farthest_off(tempo: Tempo, base: Timebase, until: int) -> float:
    """By how many samples a beat before sample ``until`` misses the nearest frame at most."""
    begins, length = first_beat(tempo, base), beat_length(tempo, base.rate)
    count = int(max(0.0, until - begins - 1e-9) // length) + 1 if until > begins else 0
    moments = begins + np.arange(count) * length
    if not count:
        return 0.0
    # The frames about each moment, whose starts are rounded as they always are.
    frames = np.floor(moments * base.num / (base.rate * base.den)).astype(np.int64)
    about = np.stack([frames - 1, frames, frames + 1])
    starts = (2 * about * base.rate * base.den + base.num) // (2 * base.num)
    return float(np.abs(moments - starts).min(axis=0).max())


def between_frames(scene: Scene, base: Timebase) -> list[tuple[Tempo, float]]:
    """Each tempo of a scene, and by how many samples a beat of it misses its frame at most."""
    ordered = sorted(scene.tempo, key=lambda tempo: tempo.frame)
    last = base.start(scene.length)
    ends = [min(last, base.start(tempo.frame)) for tempo in ordered[1:]]
    return [
        (tempo, farthest_off(tempo, base, end))
        for tempo, end in zip(ordered, [*ends, last], strict=False)
    ]


def suited_tempos(tempo: Tempo, base: Timebase, until: int, most: int = 4) -> list[Suited]:
    """The tempos nearest to one whose beats last a whole number of frames, the nearest first.

    One that a few digits cannot write comes as near as they can, with how far off.
    """
    fps = base.num, base.den
    whole = frames_per_beat(tempo.bpm, fps)
    found = []
    for frames in range(max(1, int(whole) - 2), int(whole) + 4):
        exact = frames_per_beat(1.0, fps) / frames
        for digits in DIGITS:
            bpm = round(float(exact), digits)
            off = farthest_off(Tempo(frame=tempo.frame, bpm=max(bpm, 1e-3)), base, until)
            if off <= 1.0:
                break
        if SLOWEST <= bpm <= FASTEST:
            found.append(Suited(bpm, fps, off, bpm / tempo.bpm - 1))
    return sorted(found, key=lambda each: abs(each.change))[:most]


def suited_rates(tempo: Tempo, base: Timebase, until: int) -> list[Suited]:
    """The usual frame rates at which each beat of a tempo is on a frame, or else the nearest.

    The tempo begins at the same moment in each, on a frame.
    """
    seconds = Fraction(until, base.rate)
    found = []
    for fps in USUAL:
        other = Timebase(*fps, base.rate)
        tried = Tempo(frame=0, bpm=tempo.bpm)
        off = farthest_off(tried, other, int(seconds * base.rate) - first_beat(tempo, base))
        found.append(Suited(tempo.bpm, fps, off, 0.0))
    fit = [each for each in found if each.on_frames]
    return fit or sorted(found, key=lambda each: each.off)[:3]
