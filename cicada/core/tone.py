"""One voice made ready to be mixed: its samples, its gain over the run, where that is constant."""

from bisect import bisect_right
from collections.abc import Collection, Iterator
from typing import Protocol

import numpy as np
from numpy.typing import NDArray

from cicada.core.clip import ClipTiming, clip_timing
from cicada.core.lines import Gains, pan_gains
from cicada.core.model import Clip, Project
from cicada.core.motion import Motion, PictureLine
from cicada.core.plan import Piece, Plan
from cicada.core.shape import VoiceShape

Samples = NDArray[np.float32]
NEVER = 1 << 80


class Sources(Protocol):
    """Where the mixer gets sounds from, decoded at the project's rate."""

    def samples(self, sound: str, first: int, last: int, speed: float) -> Samples | None:
        """Samples ``first..last`` of the sound, then changed by ``speed``.

        Shape (1 or 2, n) float32; None if the sound is not there, which is silence.
        """


def tones(
    plan: Plan, project: Project, sources: Sources, motion: Motion, silent: Collection[str]
) -> list["Tone"]:
    """The audible voices of a plan, in its order."""
    layers = {layer.id: layer for _, layer in project.all_layers()}
    sounds = {sound.id: sound for sound in project.sounds}
    clips = {
        (layer.id, keyframe.frame): keyframe
        for layer in layers.values()
        for keyframe in layer.keyframes
        if isinstance(keyframe, Clip)
    }
    timings: dict[tuple[str, int], ClipTiming] = {}
    lines: dict[tuple[str, int], PictureLine] = {}
    made = []
    for voice in plan.voices:
        layer = layers[voice.layer]
        if voice.layer in silent:
            continue
        place = (voice.layer, voice.frame)
        clip = clips[place]
        if place not in timings:
            timings[place] = clip_timing(clip, sounds[clip.sound], plan.rate)
        line = None
        if layer.line:
            key = (layer.id, voice.visit)
            line = lines.get(key) or lines.setdefault(key, PictureLine(motion, layer.line, key[1]))
        level = clip.level * layer.level * project.level
        shape = VoiceShape(voice, clip, timings[place], level, clip.pan + layer.pan, plan.rate)
        made.append(Tone(shape, line, sources))
    return made


class Tone:
    """A voice and its sound.

    While the run is within ``plain_from..plain_to``, the voice is ``plain_samples`` moved by
    ``plain_shift`` times ``plain_gain``, and the mixer does just that; ``add_to`` does the rest.
    """

    def __init__(self, shape: VoiceShape, line: PictureLine | None, sources: Sources) -> None:
        self.shape, self.line, self._sources = shape, line, sources
        self.voice, self.timing = shape.voice, shape.timing
        self.start, self.end = shape.voice.start, shape.voice.end
        self._samples: Samples | None = None
        self._opened = False
        self.plain_from = self.plain_to = NEVER
        self.plain_shift = 0
        self.plain_wide = True

    def _open(self) -> None:
        """Fetch the samples and find the stretches, when the voice is first reached."""
        self._opened = True
        shape, timing = self.shape, self.timing
        clip = shape.clip
        self._samples = self._sources.samples(clip.sound, timing.first, timing.last, clip.speed)
        if self._samples is None:
            return
        left, right = pan_gains(shape.pan)
        self._gain: np.float32 | Samples = np.float32(shape.level * left)
        self._wide = left != right or self._samples.shape[0] == 2
        if left != right:
            self._gain = np.array([[shape.level * left], [shape.level * right]], np.float32)
        self._starts: list[int] = []
        self._plain: list[bool] = []
        for number, piece in enumerate(self.voice.pieces):
            changing = shape.changing(number)
            if self.line is not None:
                changing = [(piece.start, piece.end)]
            self._divide(piece, changing)

    def _divide(self, piece: Piece, changing: list[tuple[int, int]]) -> None:
        """Note where in the piece the gain is constant."""
        at = piece.start
        for start, end in sorted(changing):
            low, high = max(start, at), min(end, piece.end)
            if low >= high:
                continue
            if low > at:
                self._note(at, plain=True)
            self._note(low, plain=False)
            at = high
        if at < piece.end:
            self._note(at, plain=True)
        self._note(piece.end, plain=False)

    def _note(self, start: int, *, plain: bool) -> None:
        self._starts.append(start)
        self._plain.append(plain)

    def add_to(self, out: Samples, start: int, end: int) -> None:
        """Add run samples ``start..end`` of the voice to ``out``, shape (2, end - start)."""
        if not self._opened:
            self._open()
        if self._samples is None:
            return
        for number, piece in enumerate(self.voice.pieces):
            low, high = max(start, piece.start), min(end, piece.end)
            while low < high:
                index = bisect_right(self._starts, low) - 1
                until = min(high, self._starts[index + 1])
                self._add_stretch(out, start, low, until, number, plain=self._plain[index])
                low = until
        self._look_ahead(end)

    def _add_stretch(
        self, out: Samples, origin: int, low: int, high: int, number: int, *, plain: bool
    ) -> None:
        assert self._samples is not None
        zero, shape = self.shape.zero(number), self.shape
        gains = None if plain else self._gains(low, high, number)
        for index in self._loops(low - zero, high - zero):
            begins = zero + self.timing.loop_begins(index)
            a = max(low, begins, zero + self.timing.delay)
            b = min(high, begins + self.timing.loop)
            if a >= b:
                continue
            samples = self._samples[:, a - begins : b - begins]
            target = out[:, a - origin : b - origin]
            if gains is None:
                target += samples * self._gain
                continue
            here = gains[:, a - low : b - low]
            if shape.per_loop:
                here = here * shape.line_gains(np.arange(a - begins, b - begins))
            target += samples * here.astype(np.float32)

    def _gains(self, low: int, high: int, number: int) -> Gains:
        gains = self.shape.gains(np.arange(low, high), number)
        return gains if self.line is None else gains * self.line.gains(low, high)

    def _loops(self, low: int, high: int) -> Iterator[int]:
        """The loops that may sound within clip times ``low..high``."""
        timing = self.timing
        first = (low - timing.loop_begins(0) - timing.loop) // timing.step + 1
        last = (high - 1 - timing.loop_begins(0)) // timing.step
        if timing.loops:
            last = min(last, timing.loops - 1)
        yield from range(max(0, first), last + 1)

    def _look_ahead(self, moment: int) -> None:
        """Find the stretch of constant gain and a single loop that ``moment`` lies in."""
        assert self._samples is not None
        self.plain_from = self.plain_to = NEVER
        index = bisect_right(self._starts, moment) - 1
        if index < 0 or not self._plain[index]:
            return
        number = next(
            i for i, piece in enumerate(self.voice.pieces) if piece.start <= moment < piece.end
        )
        zero, timing = self.shape.zero(number), self.timing
        loops = list(self._loops(moment - zero, moment - zero + 1))
        if len(loops) != 1:
            return
        begins = zero + timing.loop_begins(loops[0])
        free_from = begins + (timing.loop - timing.step if loops[0] else 0)
        last = timing.loops and loops[0] == timing.loops - 1
        free_to = begins + (timing.loop if last else timing.step)
        self.plain_from = max(self._starts[index], free_from, zero + timing.delay)
        self.plain_to = min(self._starts[index + 1], free_to)
        self.plain_samples = self._samples
        self.plain_shift = begins
        self.plain_gain = self._gain
        self.plain_wide = self._wide
