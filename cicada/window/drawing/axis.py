"""Where moments of a run stand on the sheet, whose axis is the picture's frames.

A *place* is a number of frames along the axis. Time while the picture stands still has no width
there, unless the waits are opened: then each is as wide as it lasts, and places run ahead of
frames by the widths of the waits before them (semantics.md, section 9).
"""

from functools import cached_property
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from cicada.core.arrays import Numbers, RunSamples
from cicada.core.drift import Drift, drifts
from cicada.core.plan import Plan, VoiceKey

# Beyond this a frame's exact start no longer fits 64 bits.
_PLAIN = 10**7


class Wait(NamedTuple):
    """A standstill: the frame it is on, where it begins, how long (samples) and how wide it is."""

    frame: int
    at: int
    samples: int
    width: float


class Axis:
    """One visit of a plan on the axis of its scene's frames."""

    def __init__(self, plan: Plan, visit: int, *, opened: bool = False) -> None:
        self.plan, self.visit = plan, visit
        self.stay = plan.visits[visit]
        base = plan.timebase
        self._num, self._den, self._rate = base.num, base.den, base.rate
        self._whole = np.int64 if max(base.num, base.den) < _PLAIN else object
        self._stretches = [s for s in plan.stretches if s.visit == visit]
        self.waits = tuple(
            Wait(s.frame, s.at, s.stands, s.stands / base.duration(s.frame) if opened else 0.0)
            for s in self._stretches
            if s.stands
        )
        # The frames that last too long on a slow machine, the first and last of each run of frames
        # whose pictures are dropped, and of those on which sound leads.
        self.late = np.array([s.frame + s.length - 1 for s in self._stretches if s.late], np.int64)
        self.dropped = np.array(
            [(s.frame, s.frame + s.length - 1) for s in self._stretches if not s.shown], np.int64
        ).reshape(-1, 2)
        slow = len(self.late) or len(self.dropped)
        self.leads = self._sound_leads() if slow else np.zeros((0, 2), np.int64)
        self._wait_frames = np.array([wait.frame for wait in self.waits], np.float64)
        self._widths = np.concatenate(([0.0], np.cumsum([wait.width for wait in self.waits])))
        self._at = self._array([s.at for s in self._stretches])
        self._stands = self._array([s.stands for s in self._stretches])
        self._first = self._array([s.frame for s in self._stretches])
        self._length = self._array([s.length for s in self._stretches])
        self._begins = self._array([base.start(s.frame) for s in self._stretches])

    def _array(self, numbers: list[int]) -> RunSamples:
        return np.array(numbers, self._whole)

    def _starts(self, frames: RunSamples) -> RunSamples:
        """The exact first sample of each frame (semantics.md, section 1)."""
        return (2 * frames * self._rate * self._den + self._num) // (2 * self._num)

    @cached_property
    def drifts(self) -> dict[VoiceKey, Drift]:
        """How far voices are ahead of the picture; none if it is never late."""
        late = any(stretch.late for stretch in self.plan.stretches)
        return {drift.voice.key: drift for drift in drifts(self.plan)} if late else {}

    def _sound_leads(self) -> NDArray[np.int64]:
        """The first and last of each run of frames on which locked voices sound."""
        pieces = sorted(
            (piece.start, piece.end)
            for voice in self.plan.voices
            if voice.sync == "locked" and voice.visit == self.visit
            for piece in voice.pieces
        )
        found: list[tuple[int, int]] = []
        for start, end in pieces:
            first, last = (self.plan.frame_at(sample)[1] for sample in (start, end - 1))
            if found and first <= found[-1][1] + 1:
                found[-1] = found[-1][0], max(last, found[-1][1])
            else:
                found.append((first, last))
        return np.array(found, np.int64).reshape(-1, 2)

    # -- frames and places ---------------------------------------------------------------------

    def of_frames(self, frames: Numbers) -> Numbers:
        """The places where frames (or parts of them) begin, before a wait on them."""
        if not self._widths[-1]:
            return frames
        return frames + self._widths[np.searchsorted(self._wait_frames, frames, "left")]

    def of_frame(self, frame: float) -> float:
        """The place where a frame begins."""
        if not self._widths[-1]:
            return float(frame)
        return float(self.of_frames(np.array([float(frame)]))[0])

    def frame_at(self, place: float) -> float:
        """The frame, and the part of it that is over, at a place; inside a wait, its frame."""
        before = 0.0
        for wait in self.waits:
            begins = wait.frame + before
            if place <= begins:
                break
            if place <= begins + wait.width:
                return float(wait.frame)
            before += wait.width
        return place - before

    @property
    def end(self) -> float:
        """The place where the picture leaves the scene."""
        return float(self.stay.last + self._widths[-1])

    # -- samples and places --------------------------------------------------------------------

    def places(self, samples: RunSamples) -> Numbers:
        """The places of run samples; the scene's edges for what lies outside."""
        if not self._stretches:
            return np.zeros(len(samples))
        samples = samples.astype(self._whole)
        index = np.maximum(np.searchsorted(self._at, samples, "right") - 1, 0)
        since = np.maximum(samples - self._at[index], 0)
        stands = self._stands[index]
        moved = np.maximum(since - stands, 0) + self._begins[index]
        frames = moved * self._num // (self._rate * self._den)
        frames = frames + (self._starts(frames + 1) <= moved)
        starts = self._starts(frames)
        share = (moved - starts) / (self._starts(frames + 1) - starts)
        inside = np.minimum(frames + share, self._first[index] + self._length[index])
        result = self._past_waits(inside.astype(np.float64), index)
        standing = since < stands
        if standing.any():
            here = index[standing]
            before = self.of_frames(self._first[here].astype(np.float64))
            part = (since[standing] / stands[standing]).astype(np.float64)
            result[standing] = before + part * self._width_on(here)
        result[samples >= self.stay.end] = self.end
        return result

    def _past_waits(self, frames: Numbers, stretch: NDArray[np.intp]) -> Numbers:
        """Places of positions in their stretches, whose own wait is over."""
        firsts = self._first[stretch].astype(np.float64)
        return frames + self._widths[np.searchsorted(self._wait_frames, firsts, "right")]

    def _width_on(self, stretch: NDArray[np.intp]) -> Numbers:
        firsts = self._first[stretch].astype(np.float64)
        number = np.searchsorted(self._wait_frames, firsts, "left")
        return self._widths[number + 1] - self._widths[number]

    def frames(self, samples: RunSamples) -> Numbers:
        """The picture's position, in frames, at run samples (ascending)."""
        places = self.places(samples)
        begins = self._wait_frames + self._widths[:-1]
        ends = begins + np.diff(self._widths)
        number = np.searchsorted(ends, places, "right")
        frames = places - self._widths[number]
        for wait, begin, end in zip(self._wait_frames, begins, ends, strict=True):
            frames[(places > begin) & (places < end)] = wait
        return np.asarray(frames)

    def place(self, sample: int) -> float:
        """The place of one run sample."""
        return float(self.places(np.array([sample]))[0])

    def into_wait(self, sample: int) -> float | None:
        """How many seconds into a standstill a run sample is; None if the picture moves."""
        for wait in self.waits:
            if wait.at < sample < wait.at + wait.samples:
                return (sample - wait.at) / self._rate
        return None

    def same_as(self, other: "Axis") -> bool:
        """Whether moments stand at the same places."""
        return (self.stay, self._stretches, self.waits) == (
            other.stay,
            other._stretches,  # noqa: SLF001 - of the same class
            other.waits,
        )

    def sample(self, place: float) -> int:
        """The run sample at a place."""
        return int(self.samples(np.array([place]))[0])

    def samples(self, places: Numbers) -> RunSamples:
        """The run sample at each place (ascending); a closed wait's end, where one is closed."""
        result = np.zeros(len(places), np.int64)
        before = 0.0
        for number, stretch in enumerate(self._stretches):
            begins = stretch.frame + before
            if stretch.stands:
                width = float(self._width_on(np.array([number]))[0])
                standing = (places >= begins) & (places < begins + width)
                part = (places[standing] - begins) / width if width else places[standing]
                result[standing] = stretch.at + (part * stretch.stands).astype(np.int64)
                begins, before = begins + width, before + width
            inside = (places >= begins) & (places <= begins + stretch.length)
            if inside.any():
                # To a sample: a frame's rounded length is not looked at, for waveforms only.
                moved = (places[inside] - begins) * (self._rate * self._den / self._num)
                result[inside] = (stretch.at + stretch.stands + moved).astype(np.int64)
        result[places > self.end] = self.stay.end
        return result
