"""What the player can sound: the film, slower or not, single sounds, and what a hand passes over.

A feed's ``read`` gives its next samples, shape (2, n), fewer at its end and then none. ``sample``
is where it is (of the run, or of the sound listened to) and ``pace`` how many of those each sample
that is read moves it on.
"""

from collections.abc import Callable, Sequence
from copy import copy
from typing import Protocol

import numpy as np
from numpy.typing import NDArray

from cicada.core.arrays import Samples
from cicada.core.mix import Mixer
from cicada.core.timebase import round_half_up
from cicada.core.tone import Source, right
from cicada.playback.messages import COUNTING, FILM, LISTENING, SCRUBBING, TESTING, CountIn
from cicada.playback.stretch import Stretcher

# Seconds in which what is heard catches up with the hand.
LAG = 0.05
# A slice is at least so long (seconds), for less is a click and no sound.
SLICE = 1 / 12
# How loud the frame a hand rests on is repeated, and how long it is quiet between (seconds).
GENTLE, BETWEEN = 0.5, 0.12
SOFT = 0.005
BEEP, BEEP_PITCH = 0.04, 1000.0


class Feed(Protocol):
    """Something that sounds."""

    @property
    def doing(self) -> int:
        """What it is, as ``Status`` says it."""

    @property
    def sample(self) -> float:
        """Where it is."""

    @property
    def pace(self) -> float:
        """How far each sample read moves it on."""

    def read(self, count: int) -> Samples:
        """The next ``count`` samples, or fewer if there are no more."""


class Film:
    """The mix from ``sample`` on, up to ``end``."""

    doing = FILM
    pace = 1.0

    def __init__(
        self, mixer: Mixer, sample: int, end: int, more: Callable[[], None] | None = None
    ) -> None:
        """``more`` is asked for what comes after the end, while more may come."""
        self.mixer, self.at, self.end, self.more = mixer, sample, end, more

    @property
    def sample(self) -> float:
        """The next sample to be read."""
        return self.at

    def read(self, count: int) -> Samples:
        """Its next samples."""
        if self.more is not None and self.at + count > self.end:
            self.more()
        block = self.mixer.mix(self.at, max(0, min(count, self.end - self.at)))
        self.at += block.shape[1]
        return block


class CountedIn:
    """Clicks, and then something else, which is heard or goes on in silence."""

    def __init__(self, counting: CountIn, rate: int) -> None:
        self._clicks, self._left = counting.clicks, counting.length
        self._length = counting.length
        self._click = _beep(rate)
        self.feed: Feed | None = None
        self.heard = True

    def of(self, feed: Feed) -> "CountedIn":
        """The same with what is left to be counted, of another feed: the old one may still fade."""
        made = copy(self)
        made.feed = feed
        return made

    @property
    def doing(self) -> int:
        """What it is, or what is counted in."""
        return COUNTING if self.feed is None else self.feed.doing

    @property
    def sample(self) -> float:
        """Where what is counted in is: at its beginning until it begins."""
        return 0.0 if self.feed is None else self.feed.sample

    @property
    def pace(self) -> float:
        """It stands until it begins."""
        return 0.0 if self._left or self.feed is None else self.feed.pace

    def read(self, count: int) -> Samples:
        """Its next samples."""
        if self._left:
            count = min(count, self._left)
            first = self._length - self._left
            self._left -= count
            return self._clicked(first, count)
        if self.feed is None:
            return np.zeros((2, 0), np.float32)
        block = self.feed.read(count)
        return block if self.heard else np.zeros_like(block)

    def _clicked(self, first: int, count: int) -> Samples:
        block = np.zeros(count, np.float32)
        for at in self._clicks:
            begins, ends = max(at, first), min(at + len(self._click), first + count)
            if begins < ends:
                block[begins - first : ends - first] += self._click[begins - at : ends - at]
        return np.repeat(block[None], 2, axis=0)


def _beep(rate: int) -> Samples:
    length = round(BEEP * rate)
    along = np.arange(length)
    tone = 0.4 * np.sin(2 * np.pi * BEEP_PITCH / rate * along)
    return np.asarray(tone * np.sin(np.pi * (along + 0.5) / length) ** 0.5, np.float32)


def left_of(film: Film, sample: float, pace: float) -> int:
    """How many samples are left at a pace; asked anew each time, for a press moves the end."""
    return max(0, round((film.end - sample) / pace))


class Slowed:
    """A film played at a lower ``pace``, deeper by as much."""

    doing = FILM

    def __init__(self, film: Film, pace: float) -> None:
        import soxr

        rate = 1000
        self.film, self.pace, self.sample = film, pace, float(film.at)
        self._change = soxr.ResampleStream(rate, round(rate / pace), 2, "float32", "HQ")
        self._ready = np.zeros((2, 0), np.float32)
        self._over = False

    def read(self, count: int) -> Samples:
        """Its next samples."""
        count = min(count, left_of(self.film, self.sample, self.pace))
        while self._ready.shape[1] < count and not self._over:
            more = self.film.read(512)
            self._over = more.shape[1] < 512
            changed = self._change.resample_chunk(np.ascontiguousarray(more.T), last=self._over)
            self._ready = np.concatenate((self._ready, changed.T), axis=1)
        block, self._ready = self._ready[:, :count], self._ready[:, count:]
        self.sample += block.shape[1] * self.pace
        return block


class Stretched:
    """A film played at a lower ``pace`` at its own pitch."""

    doing = FILM

    def __init__(self, film: Film, pace: float, rate: int) -> None:
        self.film, self.pace, self.sample = film, pace, float(film.at)
        self._stretcher = Stretcher(film.read, pace, rate)

    def read(self, count: int) -> Samples:
        """Its next samples."""
        block = self._stretcher.read(min(count, left_of(self.film, self.sample, self.pace)))
        self.sample += block.shape[1] * self.pace
        return block


class Sound:
    """Samples played once through."""

    pace = 1.0

    def __init__(self, samples: Samples, doing: int, at: int = 0) -> None:
        """``samples`` are of shape (2, n); ``at`` is where in the run the first of them stands."""
        self.samples, self.doing, self.sample = samples, doing, at
        self._read = 0

    def read(self, count: int) -> Samples:
        """Its next samples."""
        block = self.samples[:, self._read : self._read + count].copy()
        self._read += block.shape[1]
        self.sample += block.shape[1]
        return block


class Heard:
    """A sound by itself, once through from its sample ``start`` on; over where it is damaged.

    Several sound together, each at its share, and as long as the shortest.
    """

    doing = LISTENING
    pace = 1.0

    def __init__(
        self, sources: Sequence[Source], gain: float, start: int, shares: Sequence[float] = (1.0,)
    ) -> None:
        self._sources, self._gain, self.sample = sources, np.float32(gain), start
        self._shares = self._wanted = tuple(shares)
        self._length = min(source.samples.shape[1] for source in sources)

    def share(self, shares: Sequence[float]) -> None:
        """Go over to other shares in the next block."""
        if len(shares) == len(self._sources):
            self._wanted = tuple(shares)

    def read(self, count: int) -> Samples:
        """Its next samples."""
        first, last = self.sample, min(self.sample + count, self._length)
        out = np.zeros((2, max(0, last - first)), np.float32)
        for source, now, wanted in zip(self._sources, self._shares, self._wanted, strict=True):
            if first >= last or not right(source, first, last):
                return np.zeros((2, 0), np.float32)
            if now or wanted:
                gains = np.linspace(now, wanted, last - first, dtype=np.float32) * self._gain
                out += source.samples[:, first:last] * gains
        self._shares, self.sample = self._wanted, last
        return out


class Beeps:
    """A beep at every second, to be seen as a flash at the same time."""

    doing = TESTING
    pace = 1.0

    def __init__(self, rate: int) -> None:
        self.sample = 0.0
        beep = _beep(rate)
        self._second = np.zeros(rate, np.float32)
        self._second[: len(beep)] = beep

    def read(self, count: int) -> Samples:
        """Its next samples."""
        along = (int(self.sample) + np.arange(count)) % len(self._second)
        self.sample += count
        return np.repeat(self._second[None, along], 2, axis=0)


class Scrubbed:
    """The run under a hand: what it passes over is read at its speed, forwards or backwards.

    The reading place follows the hand, its speed changes only little by little, and what stands
    still is not heard; so nothing clicks. The frame a hand rests on is repeated, softly.
    """

    doing = SCRUBBING
    pace = 0.0

    def __init__(self, mixer: Mixer, start: int, end: int, rate: int) -> None:
        self.mixer, self.rate = mixer, rate
        self.sample = float(start)
        self._slice = start, end
        self._goal = float(end)
        self._speed = 0.0
        self._moving = self._resting = 0.0
        self._again: Samples | None = None
        self._said = 0
        # Whether the hand is still there.
        self.held = True

    def to(self, start: int, end: int) -> None:
        """The hand is now on the frame that lasts from ``start`` to ``end``."""
        self._goal = float(end if start >= self.sample else start)
        self._slice, self._again = (start, end), None

    def let_go(self) -> None:
        """Be over when the frame the hand was on has been heard."""
        self.held = False

    def read(self, count: int) -> Samples:
        """Its next samples."""
        there = self.sample == self._goal
        if there and not self.held and not self._moving and not self._resting:
            return np.zeros((2, 0), np.float32)
        before = self.sample
        places, gains = self._path(count)
        out = self._averaged(places, before) * gains
        resting = there and self.held and not self._moving
        step = 1 / (SOFT * self.rate)
        quiet = _ramped(self._resting, 1.0 if resting else 0.0, step, count)
        self._resting = float(quiet[-1])
        if quiet.any():
            out += self._repeated(count) * quiet
        return np.asarray(out, np.float32)

    def _path(self, count: int) -> tuple[NDArray[np.float64], Samples]:
        """Where each sample is read, and how loud: only while the place moves."""
        away = self._goal - self.sample
        wanted = 0.0
        if away:
            wanted = float(np.sign(away)) * max(1.0, abs(away) / (LAG * self.rate))
        speeds = self._speed + (wanted - self._speed) * (np.arange(count) + 1) / count
        places = self.sample + np.cumsum(speeds)
        # Never past the hand; there it stands.
        before = places <= self._goal if away > 0 else places >= self._goal
        arrived = count if before.all() else int(np.argmin(before))
        places[arrived:] = self._goal
        self._speed = wanted if arrived == count else 0.0
        self.sample = float(places[-1])
        step = 1 / (SOFT * self.rate)
        gains = _ramped(self._moving, 1.0 if arrived and away else 0.0, step, max(arrived, 1))
        gains = np.concatenate((gains, _ramped(float(gains[-1]), 0.0, step, count)))[:count]
        self._moving = float(gains[-1])
        return places, gains

    def _averaged(self, places: NDArray[np.float64], before: float) -> Samples:
        """The mix about each place, averaged over as much as is passed over by one sample."""
        widths = np.maximum(1.0, np.abs(np.diff(places, prepend=before)))
        firsts, lasts = places + (0.5 - widths / 2), places + (0.5 + widths / 2)
        low = max(0, int(np.floor(firsts.min())))
        mixed = self.mixer.mix(low, max(1, int(np.ceil(lasts.max())) - low))
        sums = np.concatenate(
            (np.zeros((2, 1)), np.cumsum(mixed, axis=1, dtype=np.float64)), axis=1
        )
        along = np.arange(sums.shape[1])
        averages = [
            (np.interp(lasts - low, along, side) - np.interp(firsts - low, along, side)) / widths
            for side in sums
        ]
        return np.asarray(averages, np.float32)

    def _repeated(self, count: int) -> Samples:
        """The frame the hand rests on, again and again."""
        if self._again is None:
            start, end = self._slice
            length = max(end - start, round(SLICE * self.rate))
            heard = soft_edged(self.mixer.mix(start, length), length // 3) * np.float32(GENTLE)
            quiet = np.zeros((2, round(BETWEEN * self.rate)), np.float32)
            self._again, self._said = np.concatenate((quiet, heard), axis=1), 0
        along = (self._said + np.arange(count)) % self._again.shape[1]
        self._said += count
        return np.asarray(self._again[:, along])


def _ramped(now: float, wanted: float, step: float, count: int) -> Samples:
    """A gain on its way from ``now`` to ``wanted``, ``step`` a sample."""
    along = np.arange(1, count + 1) * step
    gains = np.minimum(now + along, wanted) if wanted > now else np.maximum(now - along, wanted)
    return np.asarray(gains, np.float32)


def ramp(done: int, count: int, over: int) -> Samples:
    """Samples ``done..done+count`` of a gain that rises from 0 to 1 in ``over``."""
    return np.minimum(1.0, (np.arange(done, done + count) + 1) / (over + 1)).astype(np.float32)


def soft_edged(block: Samples, edge: int) -> Samples:
    """The block with its first and last samples faded, so that it does not click."""
    edge = min(edge, block.shape[1] // 2)
    if edge:
        rising = ramp(0, edge, edge)
        block[:, :edge] *= rising
        block[:, -edge:] *= rising[::-1]
    return block


def slice_of(mixer: Mixer, start: int, end: int, rate: int) -> Sound:
    """A stretch of the run, heard once with soft edges."""
    length = max(end - start, round(SLICE * rate), 0)
    edge = round_half_up(rate, 200)
    return Sound(soft_edged(mixer.mix(start, length), edge), SCRUBBING, start)
