"""The recorder: told by messages what to keep, it reads an input portion by portion.

Like the player it knows no clock of its own and no process: every ``step`` reads one portion. The
last seconds are always held, so that a take may begin a little before it was asked for. Takes go
to disk as they come.
"""

import os
import threading
from collections import deque
from collections.abc import Callable
from contextlib import suppress
from pathlib import Path
from statistics import median
from typing import NamedTuple

import numpy as np
from msgspec import Struct

from cicada.core.arrays import Block
from cicada.errors import CannotWrite
from cicada.media.take_file import Shape, TakeFile
from cicada.playback.input import PORTIONS, AudioInput, InputDevice, InputFailed
from cicada.playback.probe import LENGTH, found, probe_as_heard

# Seconds that are held; within which the sound sought must have come back; between two looks at
# the disk.
HELD, COMES_BACK, SYNC = 12, 2.5, 1.0
# What is as loud as this is taken to be past what the input can give: one step of 16 bits.
FULL_SCALE = 1 - 1 / 32768
# Seconds the level shown reaches back, in portions.
SHOWN = 8
# Seconds by which the input is suddenly later or sooner, for good, that count as a slip.
SLIP = 0.008


class Open(Struct, frozen=True, tag="open"):
    """Read from an input, and of it the channels of these numbers; a file plays as if it were one.

    The room left is that of the disk that holds ``folder``. Answered with ``Opened``.
    """

    device: InputDevice
    columns: tuple[int, ...]
    simulated: bool = False
    folder: str = "/"


class Close(Struct, frozen=True, tag="close"):
    """Let go of the input; a take ends."""


class Begin(Struct, frozen=True, tag="begin"):
    """Keep a take from sample ``at`` on (-1: from now) in a file of that name.

    With ``every`` samples a round is over and the next take begins.
    """

    path: str
    at: int = -1
    every: float = 0.0


class End(Struct, frozen=True, tag="end"):
    """End the take at a sample (-1: now); answered with ``Taken``."""

    at: int = -1


class Find(Struct, frozen=True, tag="find"):
    """Look for the probe, played at a rate from about now on; answered with ``Found``."""

    rate: int


class ForgetPeaks(Struct, frozen=True, tag="forget-peaks"):
    """Hold no peak and no clipping of before."""


class Leave(Struct, frozen=True, tag="leave"):
    """End."""


Told = Open | Close | Begin | End | Find | ForgetPeaks | Leave


class Inputs(Struct, frozen=True, tag="inputs"):
    """The inputs there are."""

    there: tuple[InputDevice, ...]


class Opened(Struct, frozen=True, tag="opened"):
    """The input is read from now on, or not, and why."""

    rate: int = 0
    trouble: str = ""


class Taken(Struct, frozen=True, tag="taken"):
    """A take is over: its file, its first sample and how many, and which round it was, from 0.

    ``last`` says that nothing more is kept, ``trouble`` why that is if nobody asked for it.
    ``clock`` is how many samples the input gave in a second of this machine, 0 if it is not known.
    """

    path: str
    at: int
    frames: int
    round: int
    last: bool
    trouble: str = ""
    clock: float = 0.0


class Found(Struct, frozen=True, tag="found"):
    """At which sample the probe came in; None if it did not."""

    at: int | None


class Slipped(Struct, frozen=True, tag="slipped"):
    """From about sample ``at`` on the input is later by so many seconds than before."""

    at: int
    seconds: float


class Lost(Struct, frozen=True, tag="lost"):
    """The input is gone."""

    trouble: str


Report = Inputs | Opened | Taken | Found | Slipped | Lost


class Standing(NamedTuple):
    """Where the recorder is.

    Sample ``at`` is read next, and sample 0 was made at ``zero`` (monotonic seconds). Peaks are of
    the first two channels, ``held`` the highest so far, ``clipped`` how many samples were at full
    scale. ``kept`` are the samples of the take under way (-1: none), ``room`` the bytes left.
    """

    at: int
    zero: float
    rate: int
    left: float
    right: float
    held: float
    clipped: int
    kept: int
    room: float


class Recorder:
    """Reads one input until it is closed or fails, which ``open`` says."""

    def __init__(
        self,
        source: AudioInput,
        columns: tuple[int, ...],
        tell: Callable[[Report], object],
        clock: Callable[[], float],
        folder: str = "/",
    ) -> None:
        self._folder = folder
        self._source, self._columns = source, list(columns)
        self._tell, self._clock = tell, clock
        self.open = True
        self.at = 0
        self._recent = np.zeros((HELD * source.rate, len(columns)), np.float32)
        self._peaks: deque[tuple[float, float]] = deque([(0.0, 0.0)], maxlen=SHOWN)
        self._held, self._clipped = 0.0, 0
        # When sample 0 was made, by each of the last readings, and as it was a second ago.
        self._zeros: deque[float] = deque(maxlen=PORTIONS)
        self._zero_before: float | None = None
        self._seek: tuple[int, int] | None = None
        self._take: _Take | None = None
        self._room, self._looked = 0.0, clock() - SYNC

    # -- what it is told -----------------------------------------------------------------------

    def begin(self, message: Begin) -> None:
        """Keep a take; one under way ends first."""
        self.end(End())
        at = self.at if message.at < 0 else max(message.at, self.at - len(self._recent), 0)
        shape = Shape(self._source.rate, len(self._columns))
        self._take = _Take(message, at, shape, self._clock())
        self._write()

    def end(self, message: End) -> None:
        """End the take at that sample, as soon as it has come."""
        if self._take is not None:
            self._take.until = self.at if message.at < 0 else message.at
            self._write()

    def find(self, message: Find) -> None:
        """Look for the probe in what comes."""
        self._seek = self.at, message.rate

    def forget_peaks(self) -> None:
        """Hold the highest peak and the clipping from now on."""
        self._held, self._clipped = 0.0, 0

    # -- portion by portion --------------------------------------------------------------------

    def step(self) -> None:
        """Read one portion, and do with it what is to be done."""
        try:
            block = self._source.read()
        except InputFailed as failure:
            self._lose(str(failure))
            return
        moment = self._clock() - self._source.delay()
        block = block[:, self._columns]
        places = (self.at + np.arange(len(block))) % len(self._recent)
        self._recent[places] = block
        self.at += len(block)
        self._measure(block)
        self._time(moment)
        attached = self._source.attached()
        if not attached.there:
            if self._take is not None:
                self._take.until = min(self._take.until, attached.sure)
            self._lose("the input has gone: what came after that was another's and is left out")
            return
        self._write()
        self._look_for_probe()
        self._look_at_room()

    def _look_at_room(self) -> None:
        if self._clock() - self._looked >= SYNC:
            self._looked = self._clock()
            with suppress(OSError):
                left = os.statvfs(self._folder)
                self._room = float(left.f_bavail * left.f_frsize)

    def standing(self) -> Standing:
        """Where it is, and what it hears."""
        left, right = (max(side) for side in zip(*self._peaks, strict=True))
        kept = -1 if self._take is None else self._take.kept
        zero = median(self._zeros) if self._zeros else self._clock()
        return Standing(
            self.at, zero, self._source.rate, left, right, self._held, self._clipped, kept,
            self._room,
        )  # fmt: skip

    def close(self) -> None:
        """End the take, and let go of the input."""
        self.end(End())
        if self.open:
            self.open = False
            self._source.close()

    def _lose(self, trouble: str) -> None:
        if self._take is not None:
            self._take.until = min(self._take.until, self.at)
            self._take.trouble = trouble
            self._write()
        self._tell(Lost(trouble))
        self.close()

    def _measure(self, block: Block) -> None:
        highs = np.abs(block).max(axis=0, initial=0.0)
        self._peaks.append((float(highs[0]), float(highs[-1])))
        self._held = max(self._held, *map(float, highs))
        if self._held >= FULL_SCALE:
            self._clipped += int((np.abs(block) >= FULL_SCALE).any(axis=1).sum())

    def _time(self, moment: float) -> None:
        """Note when what was read was made, and whether that is another than it was."""
        rate = self._source.rate
        self._zeros.append(moment - self.at / rate)
        if self._take is not None:
            self._take.clock.note(self.at, moment)
        if len(self._zeros) < PORTIONS or self.at // rate == (self.at - rate // PORTIONS) // rate:
            return
        zeros = list(self._zeros)
        halves = median(zeros[: PORTIONS // 2]), median(zeros[PORTIONS // 2 :])
        if abs(halves[1] - halves[0]) > SLIP / 2:
            # It changes just now: whether for good is known in a second.
            return
        zero, before = median(zeros), self._zero_before
        self._zero_before = zero
        if before is not None and abs(zero - before) > SLIP:
            self._tell(Slipped(self.at - rate, zero - before))

    def _recent_part(self, first: int, last: int) -> Block:
        return self._recent[np.arange(first, last) % len(self._recent)]

    def _look_for_probe(self) -> None:
        if self._seek is None:
            return
        first, played_at = self._seek
        rate = self._source.rate
        if self.at < first + round((COMES_BACK + LENGTH) * rate):
            return
        self._seek = None
        at = found(self._recent_part(first, self.at), probe_as_heard(played_at, rate))
        self._tell(Found(None if at is None else first + at))

    # -- to disk -------------------------------------------------------------------------------

    def _write(self) -> None:
        """Have on disk what has come of the take, and say of each round that it is over."""
        take = self._take
        while take is not None:
            last = min(self.at, take.until, take.round_ends)
            try:
                if last > take.done:
                    take.write(self._recent_part(take.done, last))
                take.put_on_disk(self._clock())
            except CannotWrite as error:
                take.trouble = take.trouble or str(error)
                take.until = take.done
            over = take.done >= take.until
            if not over and take.done < take.round_ends:
                return
            self._tell(take.over(last=over))
            if over:
                self._take = take = None


class Steady:
    """How many samples come in a second, by least squares over what was noted."""

    def __init__(self) -> None:
        self._first: tuple[int, float] | None = None
        self._sums = np.zeros(5)

    def note(self, at: int, moment: float) -> None:
        """Sample ``at`` was made at that moment."""
        self._first = self._first or (at, moment)
        y, x = at - self._first[0], moment - self._first[1]
        self._sums += (1.0, x, y, x * x, x * y)

    @property
    def rate(self) -> float:
        """The slope; 0 if there is too little to know one."""
        count, x, y, xx, xy = map(float, self._sums)
        spread = count * xx - x * x
        return (count * xy - x * y) / spread if count > PORTIONS and spread > 0 else 0.0


class _Take:
    """A take on its way to disk, in one file after the other if it goes round."""

    def __init__(self, message: Begin, at: int, shape: Shape, now: float) -> None:
        self._message, self._shape, self._first = message, shape, at
        # Up to where it is on disk, and up to where it is wanted.
        self.done, self.until = at, 1 << 62
        self._round, self._began = 0, at
        self._file: TakeFile | None = None
        self._looked = now - SYNC
        self._syncing: threading.Thread | None = None
        self.clock = Steady()
        self.trouble = ""

    @property
    def kept(self) -> int:
        """How many samples there are of the round under way."""
        return self.done - self._began

    @property
    def round_ends(self) -> int:
        """The sample on which the next round begins."""
        every = self._message.every
        return self._first + round((self._round + 1) * every) if every else 1 << 62

    @property
    def _path(self) -> Path:
        path = Path(self._message.path)
        return path.with_name(f"{path.stem}-{self._round + 1}.wav") if self._message.every else path

    def write(self, block: Block) -> None:
        """Add samples; raises ``CannotWrite`` and keeps what fits."""
        if self._file is None:
            self._file = TakeFile(self._path, self._shape)
        before = self._file.frames
        try:
            self._file.write(block)
        finally:
            self.done += self._file.frames - before

    def put_on_disk(self, now: float) -> None:
        """Each second have on the disk what has been written."""
        if now - self._looked < SYNC or self._file is None:
            return
        self._looked = now
        self._file.head()
        if self._syncing is None or not self._syncing.is_alive():
            # A disk that is slow must not hold up what is read.
            self._syncing = threading.Thread(target=self._file.sync, daemon=True)
            self._syncing.start()

    def over(self, *, last: bool) -> Taken:
        """Close the file of this round; what there is to say of it."""
        if self._syncing is not None:
            self._syncing.join()
        if last and self._file is not None and self.until < self.done:
            frames = max(0, self.until - self._began)
            with suppress(CannotWrite):
                self._file.cut(frames)
            self.done = self._began + frames
        said = Taken(
            "" if self._file is None else str(self._file.path), self._began, self.kept,
            self._round, last, self.trouble if last else "", self.clock.rate,
        )  # fmt: skip
        if self._file is not None:
            self._file.close()
            self._file = None
        self._round, self._began = self._round + 1, self.done
        return said
