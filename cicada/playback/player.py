"""The player: told by messages what to sound, it fills an output block by block.

It knows no clock and no thread: every ``step`` mixes one block and hands it over, so tests drive
it as fast as they like. Whatever it turns to next, it crosses over to in 10 ms.
"""

from collections import deque
from collections.abc import Callable
from pathlib import Path
from typing import Protocol

import numpy as np
from numpy.typing import NDArray

from cicada.core.mix import Mixer
from cicada.core.plan import Plan
from cicada.core.timebase import round_half_up
from cicada.media.cache import SoundCache
from cicada.media.opened import OpenedSounds
from cicada.playback.messages import (
    FILM,
    IDLE,
    LISTENING,
    SCRUBBING,
    Listen,
    Load,
    Message,
    Play,
    Quit,
    Repeat,
    Scrub,
    Status,
    Stop,
)
from cicada.playback.output import AudioOutput, OutputFailed

BLOCK = 512
Samples = NDArray[np.float32]


class _Feed(Protocol):
    """Something that sounds: ``read`` gives its next samples, fewer at its end, then none."""

    doing: int
    sample: int

    def read(self, count: int) -> Samples: ...


class _Film:
    """The mix from ``sample`` on, up to ``end``."""

    doing = FILM

    def __init__(self, mixer: Mixer, sample: int, end: int) -> None:
        self.mixer, self.sample, self.end = mixer, sample, end

    def read(self, count: int) -> Samples:
        block = self.mixer.mix(self.sample, max(0, min(count, self.end - self.sample)))
        self.sample += block.shape[1]
        return block


class _Sound:
    """Samples played once through."""

    def __init__(
        self, samples: Samples, gain: float, doing: int, at: int = 0, *, start: int = 0
    ) -> None:
        """``at`` is where in the run its first sample stands; ``start`` the first to be heard."""
        self.samples, self.gain, self.doing, self.sample = samples, gain, doing, at + start
        self._read = start

    def read(self, count: int) -> Samples:
        block = self.samples[:, self._read : self._read + count] * np.float32(self.gain)
        self._read += block.shape[1]
        self.sample += block.shape[1]
        return np.repeat(block, 2, axis=0) if block.shape[0] == 1 else block


class Player:
    """Plays plans, slices of them and single sounds to an output."""

    def __init__(
        self,
        output: AudioOutput,
        cache: SoundCache,
        fall_back: Callable[[OutputFailed], AudioOutput] | None = None,
    ) -> None:
        """``fall_back`` gives the output to go on with when one fails."""
        self.output = output
        self.running = True
        self._cache = cache
        self._fall_back = fall_back
        self._mixer: Mixer | None = None
        self._sources: OpenedSounds | None = None
        self._feed: _Feed | None = None
        self._leaving: _Feed | None = None
        self._left = 0
        self._repeat: tuple[int, int] | None = None
        self._cross = round_half_up(output.rate, 100)
        self._written = 0
        self._plays = 0
        # (samples written before, doing, run sample, plays) of the blocks not yet surely audible.
        self._history: deque[tuple[int, int, int, int]] = deque(maxlen=64)
        self._peaks = (0.0, 0.0)

    def handle(self, message: Message) -> None:
        """Do as told, from the next block on."""
        match message:
            case Load():
                self._load(message)
            case Play(start, repeat):
                self._repeat = repeat
                self._plays += 1
                self._turn_to(self._film(start))
            case Repeat(repeat):
                self._repeat = repeat
                if isinstance(self._feed, _Film):
                    self._feed.end = self._end()
            case Scrub(start, end):
                if self._mixer is not None:
                    block = _rounded(self._mixer.mix(start, max(0, end - start)), self._cross // 2)
                    self._turn_to(_Sound(block, 1.0, SCRUBBING, start))
            case Listen(key, gain, start):
                self._plays += 1
                samples = self._cache.open(key)
                feed = None if samples is None else _Sound(samples, gain, LISTENING, start=start)
                self._turn_to(feed)
            case Stop():
                self._turn_to(None)
            case Quit():
                self.running = False
                self.output.close()

    def step(self) -> None:
        """Mix one block and hand it over."""
        doing, sample = (self._feed.doing, self._feed.sample) if self._feed else (IDLE, 0)
        self._history.append((self._written, doing, sample, self._plays))
        block = self._next_block()
        peaks = np.abs(block).max(axis=1)
        self._peaks = float(peaks[0]), float(peaks[1])
        try:
            self.output.write(np.ascontiguousarray(block.T))
        except OutputFailed as failure:
            if self._fall_back is None:
                raise
            self.output.close()
            self.output = self._fall_back(failure)
        self._written += BLOCK

    def status(self, clock: float) -> Status:
        """Where the run is that is audible now, and what comes out."""
        audible = self._written - self.output.delay() * self.output.rate
        doing, sample, plays = IDLE, 0.0, 0
        for written, what, at, play in reversed(self._history):
            doing, sample, plays = what, float(at), play
            if written <= audible:
                sample += (audible - written) if what != IDLE else 0.0
                break
        out = self.output
        return Status(doing, sample, clock, *self._peaks, out.real, out.rate, plays)

    def _load(self, message: Load) -> None:
        files = {sound: Path(path) for sound, path in message.files.items()}
        old = self._mixer
        self._sources = OpenedSounds(message.project, files, self._cache, only_cached=True)
        self._mixer = Mixer(message.plan, message.project, self._sources, message.silent)
        if isinstance(self._feed, _Film) and old is not None:
            self._turn_to(self._film(same_moment(old.plan, message.plan, self._feed.sample)))

    def _film(self, start: int) -> _Film | None:
        return None if self._mixer is None else _Film(self._mixer, start, self._end())

    def _end(self) -> int:
        if self._repeat is not None:
            return self._repeat[1]
        return 0 if self._mixer is None else self._mixer.length

    def _turn_to(self, feed: _Feed | None) -> None:
        self._leaving, self._left = self._feed, 0
        if self._leaving is None and feed is not None and feed.sample and feed.doing != SCRUBBING:
            # Begun in the middle: it fades in, as if it came after something.
            self._leaving = _Sound(np.zeros((2, self._cross), np.float32), 1.0, IDLE)
        self._feed = feed

    def _next_block(self) -> Samples:
        block = np.zeros((2, BLOCK), np.float32)
        filled = 0
        while filled < BLOCK and self._feed is not None:
            read = self._feed.read(BLOCK - filled)
            if not read.shape[1]:
                self._at_the_end()
                continue
            if self._leaving is not None:
                read = read * _ramp(self._left, read.shape[1], self._cross)
            block[:, filled : filled + read.shape[1]] = read
            self._add_leaving(block[:, filled : filled + read.shape[1]])
            filled += read.shape[1]
        if self._feed is None and self._leaving is not None:
            self._add_leaving(block[:, filled:])
        return block

    def _at_the_end(self) -> None:
        """The feed has no more: start the repeated range anew, or fall silent."""
        if isinstance(self._feed, _Film) and self._repeat is not None and self._mixer is not None:
            # What is sounding goes on under the new beginning for as long as they cross.
            ringing = _Film(self._mixer, self._feed.sample, self._mixer.length)
            self._leaving, self._left = ringing, 0
            self._feed = _Film(self._mixer, self._repeat[0], max(self._end(), self._repeat[0] + 1))
        else:
            self._feed, self._leaving = None, None

    def _add_leaving(self, block: Samples) -> None:
        """Add what is being left, fading, to the block, and forget it when the cross is over."""
        if self._leaving is None:
            return
        count = min(block.shape[1], self._cross - self._left)
        read = self._leaving.read(count)
        fade = 1 - _ramp(self._left, read.shape[1], self._cross)
        block[:, : read.shape[1]] += read * fade
        self._left += count
        if self._left >= self._cross:
            self._leaving = None


def _ramp(done: int, count: int, over: int) -> Samples:
    return np.minimum(1.0, (np.arange(done, done + count) + 1) / (over + 1)).astype(np.float32)


def _rounded(block: Samples, edge: int) -> Samples:
    """The block with its first and last samples faded, so that it does not click."""
    edge = min(edge, block.shape[1] // 2)
    if edge:
        ramp = _ramp(0, edge, edge)
        block[:, :edge] *= ramp
        block[:, -edge:] *= ramp[::-1]
    return block


def same_moment(old: Plan, new: Plan, sample: int) -> int:
    """The run sample of ``new`` at the scene, pass and frame that ``old`` has at ``sample``.

    If that frame is gone it is the nearest earlier one that is still there.
    """
    if not old.stretches or not new.stretches:
        return 0
    if sample >= old.end:
        return min(new.length, new.end + sample - old.end)
    visit, frame, _ = old.frame_at(sample)
    entered = old.entered(frame, old.visits.index(visit)) or 0
    for index, other in enumerate(new.visits):
        if (other.scene, other.number) == (visit.scene, visit.number):
            for earlier in range(frame, -1, -1):
                there = new.entered(earlier, index)
                if there is not None:
                    inside = sample - entered if earlier == frame else 0
                    following = new.entered(earlier + 1, index)
                    if following is not None:
                        inside = min(inside, following - there - 1)
                    return there + inside
    return 0
