"""One voice made ready to be mixed: its samples, its gain over the run, where that is constant."""

from bisect import bisect_right
from collections.abc import Collection, Iterable, Sequence
from typing import NamedTuple, Protocol

import numpy as np

from cicada.core.arrays import Samples
from cicada.core.following import FollowedGain, Following, together
from cicada.core.lines import Gains
from cicada.core.model import Project
from cicada.core.motion import Motion, PictureLine
from cicada.core.placements import Placements
from cicada.core.plan import Piece, Voice
from cicada.core.shape import VoiceShape

NEVER = 1 << 80


class Source(Protocol):
    """What is played of a sound, which may prove piece by piece to be what it was.

    ``samples`` are of shape (1 or 2, n); only those that are known to be right may be looked at.
    """

    @property
    def samples(self) -> Samples:
        """All of it."""

    def right_until(self, at: int) -> int:
        """Up to where, from sample ``at`` on, all is known to be right; ``at``: nothing is."""


def right(source: Source, first: int, last: int) -> bool:
    """Whether samples ``first..last`` are known to be right."""
    while first < last and (until := source.right_until(first)) > first:
        first = until
    return first >= last


class InMemory(NamedTuple):
    """Samples nobody else can change."""

    samples: Samples

    def right_until(self, at: int) -> int:
        """To the end."""
        return max(at, int(self.samples.shape[1]))


class Sources(Protocol):
    """Where the mixer gets sounds from, decoded at the project's rate."""

    def source(self, sound: str, first: int, last: int, speed: float) -> Source | None:
        """Samples ``first..last`` of the sound, then changed by ``speed``.

        None if the sound is not there, which is silence. It is asked again for what was not
        right any more.
        """


class Tones:
    """Makes the tones of a plan's voices, each when its voice is reached."""

    def __init__(
        self,
        voices: Iterable[Voice],
        project: Project,
        motion: Motion,
        placements: Placements,
        sources: Sources,
        since: int = 0,
        silent: Collection[str] = (),
    ) -> None:
        """They ask for nothing before run sample ``since``. ``silent``: see ``Following``."""
        self._project, self._placements, self._sources = project, placements, sources
        self._since = since
        # What takes long is done before anything sounds.
        following = Following(project, motion, silent)
        self._parts: dict[tuple[str, str], list[tuple[str, list[FollowedGain]]]] = {}
        self._lines: dict[tuple[str, int], PictureLine] = {}
        for plays, layer_id, visit in {(v.plays, v.layer, v.visit) for v in voices}:
            layer = placements.layers[layer_id]
            if (plays, layer_id) not in self._parts:
                self._parts[plays, layer_id] = following.parts(plays, layer)
            if layer.line and (layer_id, visit) not in self._lines:
                self._lines[layer_id, visit] = PictureLine(motion, layer.line, visit)

    def of(self, voice: Voice) -> list["Tone"]:
        """The tone of a voice; of a blend, one for each of its parts."""
        layer = self._placements.layers[voice.layer]
        clip, timing = self._placements.clip(voice), self._placements.timing(voice)
        level, rate = clip.level * layer.level * self._project.level, self._project.rate
        shape = VoiceShape(voice, clip, timing, level, clip.pan + layer.pan, rate)
        line = self._lines.get((voice.layer, voice.visit))
        return [
            Tone(shape, line, self._sources, sound, follows, self._since)
            for sound, follows in self._parts[voice.plays, voice.layer]
        ]


class Plain(NamedTuple):
    """A stretch of a voice that is one loop at constant gain.

    From run sample ``start`` to ``end`` it is ``samples``, moved by ``shift``, times ``gain``
    (None: it is silent); ``wide`` says that this has two rows, and ``follows`` are gains that go
    over it.
    """

    start: int
    end: int
    samples: Samples
    shift: int
    gain: Samples | None
    wide: bool
    follows: Sequence[FollowedGain] = ()


NOTHING_PLAIN = Plain(
    NEVER, NEVER, np.zeros((1, 0), np.float32), 0, np.zeros((1, 1), np.float32), wide=False
)


class Tone:
    """A voice and its sound.

    Where ``plain`` covers a block the mixer does just what that says; ``add_to`` does the rest.
    """

    def __init__(
        self,
        shape: VoiceShape,
        line: PictureLine | None,
        sources: Sources,
        sound: str,
        follows: Sequence[FollowedGain] = (),
        since: int = 0,
    ) -> None:
        self.shape, self.line, self._sources = shape, line, sources
        self._sound, self._follows, self._since = sound, follows, since
        self.voice, self.timing = shape.voice, shape.timing
        self.start, self.end = shape.voice.start, shape.voice.end
        self._source: Source | None = None
        self._opened = False
        self.plain = NOTHING_PLAIN

    def _open(self) -> None:
        """Fetch the samples and find the stretches, when the voice is first reached."""
        self._opened = True
        shape = self.shape
        self._fetch()
        if self._source is None:
            return
        sides = shape.sides
        self._wide = len(self._source.samples) == 2 or len(sides) == 2
        # An array even where it is one number: that is faster to multiply with than a scalar.
        self._gain: Samples = (shape.level * sides).astype(np.float32)
        # Where each stretch starts, its gain if that is constant, its piece (-1: silent), and
        # whether what it follows goes over that gain.
        self._starts: list[int] = []
        self._kinds: list[tuple[Samples | None, int, bool]] = []
        for number, piece in enumerate(self.voice.pieces):
            changing = shape.changing(number)
            if self.line is not None:
                changing = [(piece.start, piece.end)]
            self._divide(piece, changing, number)

    def _fetch(self) -> None:
        clip, timing = self.shape.clip, self.timing
        self._source = self._sources.source(self._sound, timing.first, timing.last, clip.speed)

    def _proved(self, first: int, last: int) -> Samples | None:
        """All samples, of which ``first..last`` are right; made anew once if they are not."""
        for _ in range(2):
            if self._source is None:
                return None
            if right(self._source, first, last):
                return self._source.samples
            self._fetch()
        self._source = None
        return None

    def _divide(self, piece: Piece, changing: list[tuple[int, int]], number: int) -> None:
        """Note where in the piece the gain is constant."""
        at = piece.start
        for start, end in sorted(changing):
            low, high = max(start, at), min(end, piece.end)
            if low >= high:
                continue
            if low > at:
                self._note_constant(at, low, number)
            self._note(low, number, None)
            at = high
        if at < piece.end:
            self._note_constant(at, piece.end, number)
        self._note(piece.end, -1, None)

    def _note_constant(self, start: int, end: int, number: int) -> None:
        """Note a stretch of constant gain: where what it follows moves, and where that stands."""
        if not self._follows:
            self._note(start, number, self._gain)
            return
        moving = sorted(
            stretch for followed in self._follows for stretch in followed.track.moving(start, end)
        )
        at = start
        for begins, ends in moving:
            low, high = max(begins, at), min(ends, end)
            if low >= high:
                continue
            if low > at:
                self._note_standing(at, number)
            self._note(low, number, self._gain, follows=True)
            at = high
        if at < end:
            self._note_standing(at, number)

    def _note_standing(self, start: int, number: int) -> None:
        """From here on the gain is constant; what is silent is not mixed."""
        gain = 1.0
        for followed in self._follows:
            gain *= followed.standing(max(start, self._since))
        if gain:
            self._note(start, number, (self._gain * np.float32(gain)).astype(np.float32))
        else:
            self._note(start, -1, None)

    def _note(
        self, start: int, number: int, gain: Samples | None, *, follows: bool = False
    ) -> None:
        self._starts.append(start)
        self._kinds.append((gain, number, follows))

    def add_to(self, outs: tuple[Samples, ...], start: int, end: int, scratch: Samples) -> None:
        """Add run samples ``start..end`` of the voice to ``outs``, each of shape (2, end - start).

        ``scratch`` is of the same shape, to work in: fresh memory for each product is slower.
        """
        if not self._opened:
            self._open()
        if self._source is None:
            return
        low, until = max(start, self.start), min(end, self.end)
        index = bisect_right(self._starts, low) - 1
        while low < until:
            high = min(until, self._starts[index + 1])
            gain, number, follows = self._kinds[index]
            if number >= 0 and low < high:
                over = self._follows if follows else ()
                self._add_stretch(outs, scratch, (start, low, high), number, gain, over)
            low, index = high, index + 1
        self.plain = self._plain_from(end)

    def _add_stretch(
        self,
        outs: tuple[Samples, ...],
        scratch: Samples,
        times: tuple[int, int, int],
        number: int,
        gain: Samples | None,
        follows: Sequence[FollowedGain],
    ) -> None:
        origin, low, high = times
        zero, timing = self.shape.zero(number), self.timing
        gains = None if gain is not None else self._gains(low, high, number)
        for index in self._loops(low - zero, high - zero):
            begins = zero + timing.loop_begins(index)
            a = max(low, begins, zero + timing.delay)
            b = min(high, begins + timing.loop)
            if a >= b:
                continue
            proved = self._proved(a - begins, b - begins)
            if proved is None:
                return
            samples = proved[:, a - begins : b - begins]
            factor = self._gain if gain is None else gain
            if gains is not None:
                here = gains[..., a - low : b - low]
                if self.shape.per_loop:
                    here = here * self.shape.line_gains(np.arange(a - begins, b - begins))
                factor = here.astype(np.float32)
            if follows:
                followed = together(follows, a, b)
                if followed is None:
                    continue
                factor = followed * factor
            wide = len(samples) == 2 or (factor.ndim == 2 and len(factor) == 2)
            product = scratch[:, : b - a] if wide else scratch[:1, : b - a]
            np.multiply(samples, factor, product)
            for out in outs:
                target = out[:, a - origin : b - origin]
                np.add(target, product, target)

    def _gains(self, low: int, high: int, number: int) -> Gains:
        gains = self.shape.gains(np.arange(low, high), number)
        if self.line is not None:
            gains = gains * self.line.gains(low, high)
        for followed in self._follows:
            gains = gains * followed.gains(low, high)
        return gains

    def _loops(self, low: int, high: int) -> range:
        """The loops that may sound within clip times ``low..high``."""
        timing = self.timing
        if timing.loops == 1:
            return range(1)
        begins = timing.delay - timing.offset
        first = (low - begins - timing.loop) // timing.step + 1
        last = (high - 1 - begins) // timing.step
        if timing.loops:
            last = min(last, timing.loops - 1)
        return range(max(0, first), last + 1)

    def _plain_from(self, moment: int) -> Plain:
        """The stretch of constant gain and a single loop that ``moment`` lies in."""
        index = bisect_right(self._starts, moment) - 1
        if self._source is None or index < 0:
            return NOTHING_PLAIN
        gain, number, follows = self._kinds[index]
        if number < 0 and index + 1 < len(self._starts):
            silent = self._starts[index], self._starts[index + 1]
            return Plain(*silent, self._source.samples, 0, None, wide=False)
        if gain is None or number < 0:
            return NOTHING_PLAIN
        zero, timing = self.shape.zero(number), self.timing
        loops = self._loops(moment - zero, moment - zero + 1)
        if len(loops) != 1:
            return NOTHING_PLAIN
        loop = loops[0]
        begins = zero + timing.loop_begins(loop)
        free_from = begins + (timing.loop - timing.step if loop else 0)
        last = timing.loops and loop == timing.loops - 1
        free_to = begins + (timing.loop if last else timing.step)
        return Plain(
            max(self._starts[index], free_from, zero + timing.delay),
            min(
                self._starts[index + 1], free_to, begins + self._source.right_until(moment - begins)
            ),
            self._source.samples,
            begins,
            gain,
            self._wide,
            self._follows if follows else (),
        )
