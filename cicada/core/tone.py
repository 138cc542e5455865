"""One voice made ready to be mixed: its samples, its gain over the run, where that is constant."""

from bisect import bisect_right
from collections.abc import Collection, Iterator
from typing import TYPE_CHECKING

import numpy as np
from numpy.typing import NDArray

from cicada.core.clip import ClipTiming, clip_timing
from cicada.core.lines import Curve, Gains, fade_gain, pan_gain_lines, pan_gains, spread_jump
from cicada.core.model import Clip, Layer, Project
from cicada.core.motion import Motion, PictureLine
from cicada.core.plan import Piece, Plan, Voice
from cicada.core.timebase import seconds_to_samples

if TYPE_CHECKING:
    from cicada.core.mix import Sources

Samples = NDArray[np.float32]
NEVER = 1 << 80


def tones(
    plan: Plan, project: Project, sources: "Sources", motion: Motion, silent: Collection[str]
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
        made.append(Tone(voice, clip, timings[place], layer, level, line, sources, motion))
    return made


class Tone:
    """A voice and its sound.

    While the run is within ``plain_from..plain_to``, the voice is ``plain_samples`` moved by
    ``plain_shift`` times ``plain_gain``, and the mixer does just that; ``add_to`` does the rest.
    """

    def __init__(
        self,
        voice: Voice,
        clip: Clip,
        timing: ClipTiming,
        layer: Layer,
        level: float,
        line: PictureLine | None,
        sources: "Sources",
        motion: Motion,
    ) -> None:
        self.start, self.end = voice.start, voice.end
        self.voice, self.clip, self.timing, self.line = voice, clip, timing, line
        self.level, self.pan = level, clip.pan + layer.pan
        self.rate, self.ramp = motion.plan.rate, motion.ramp
        self._sources = sources
        self._samples: Samples | None = None
        self._opened = False
        self.plain_from = self.plain_to = NEVER
        self.plain_shift = 0
        self.plain_wide = True

    def _open(self) -> bool:
        """Fetch the samples and find the stretches, when the voice is first reached."""
        self._opened = True
        clip, timing, voice = self.clip, self.timing, self.voice
        self._samples = self._sources.samples(
            clip.sound, timing.first, timing.last, clip.speed
        )
        if self._samples is None:
            return False
        self._level_curve = Curve(clip.level_line)
        self._pan_curve = Curve(clip.pan_line, 0.0)
        self._per_loop = clip.line_over == "loop" and bool(self._level_curve or self._pan_curve)
        self._fade_in = seconds_to_samples(clip.fade_in, self.rate)
        self._fade_out = seconds_to_samples(clip.fade_out, self.rate)
        if voice.fade_length is None:
            self._fade_out = 0
        left, right = pan_gains(self.pan)
        self._wide = left != right or self._samples.shape[0] == 2
        self._gain: np.float32 | Samples = np.float32(self.level * left)
        if left != right:
            self._gain = np.array([[self.level * left], [self.level * right]], np.float32)
        self._edges = [self._edge_ramps(piece) for piece in voice.pieces]
        shaped = bool(self._level_curve or self._pan_curve or self.line)
        self._starts: list[int] = []
        self._plain: list[bool] = []
        for piece, ramps in zip(voice.pieces, self._edges, strict=True):
            self._divide(piece, ramps, shaped=shaped)
        return True

    def _edge_ramps(self, piece: Piece) -> tuple[int, int]:
        """How long the ramps at the piece's edges are, 0 where the edge is the clip's own."""
        voice = self.voice
        length = piece.end - piece.start
        ramp = min(self.ramp, length // 2)
        clip_end = piece.clip_start + length
        own_end = clip_end == voice.length or any(
            end == piece.end and start < end for start, end in voice.fades
        )
        if self._fade_out and clip_end == voice.fade_length:
            own_end = True
        return (ramp if piece.clip_start else 0), (0 if own_end else ramp)

    def _divide(self, piece: Piece, ramps: tuple[int, int], *, shaped: bool) -> None:
        """Note where in the piece the gain is constant."""
        zero = piece.start - piece.clip_start
        busy = [(piece.start, piece.start + ramps[0]), (piece.end - ramps[1], piece.end)]
        busy += self.voice.fades
        if shaped:
            busy.append((piece.start, piece.end))
        if self._fade_in:
            busy.append((zero, zero + self.timing.delay + self._fade_in))
        if self._fade_out and self.voice.fade_length is not None:
            over = zero + self.voice.fade_length
            busy.append((over - self._fade_out, piece.end))
        at = piece.start
        for start, end in sorted(busy):
            start, end = max(start, at), min(end, piece.end)
            if start >= end:
                continue
            if start > at:
                self._starts.append(at)
                self._plain.append(True)
            if not (self._plain and not self._plain[-1] and start == at):
                self._starts.append(start)
                self._plain.append(False)
            at = end
        if at < piece.end:
            self._starts.append(at)
            self._plain.append(True)
        self._starts.append(piece.end)
        self._plain.append(False)

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
        zero = self._zero(number)
        gains = None if plain else self._shape(low, high, number)
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
            elif self._per_loop:
                own = self._line_gains(np.arange(a - begins, b - begins))
                target += samples * (gains[:, a - low : b - low] * own).astype(np.float32)
            else:
                target += samples * gains[:, a - low : b - low].astype(np.float32)

    def _zero(self, number: int) -> int:
        """The run sample at which this piece's clip time is 0."""
        piece = self.voice.pieces[number]
        return piece.start - piece.clip_start

    def _loops(self, low: int, high: int) -> Iterator[int]:
        """The loops that may sound within clip times ``low..high``."""
        timing = self.timing
        first = (low - timing.loop_begins(0) - timing.loop) // timing.step + 1
        last = (high - 1 - timing.loop_begins(0)) // timing.step
        if timing.loops:
            last = min(last, timing.loops - 1)
        yield from range(max(0, first), last + 1)

    def _shape(self, low: int, high: int, number: int) -> Gains:
        """The voice's gain at each run sample, shape (2, n), without lines that go by loop."""
        piece, voice, clip = self.voice.pieces[number], self.voice, self.clip
        moments = np.arange(low, high)
        clip_times = moments - self._zero(number)
        gains = np.full(high - low, self.level)
        if self._fade_in:
            done = (clip_times - self.timing.delay) / self._fade_in
            gains *= fade_gain(clip.fade_shape, done)
        if self._fade_out and voice.fade_length is not None:
            gains *= fade_gain(clip.fade_shape, (voice.fade_length - clip_times) / self._fade_out)
        for start, end in voice.fades:
            if start < high:
                gains *= np.clip((end - moments) / (end - start), 0.0, 1.0)
        into, out_of = self._edges[number]
        if into:
            gains *= np.minimum(1.0, (moments - piece.start + 1) / (into + 1))
        if out_of:
            gains *= np.minimum(1.0, (piece.end - moments) / (out_of + 1))
        if self.line is not None:
            gains *= self.line.gains(low, high)
        if self._per_loop:
            return np.stack((gains, gains))
        return gains * self._line_gains(clip_times - self.timing.delay)

    def _line_gains(self, samples: NDArray[np.int64]) -> Gains:
        """Level line and pan at each sample counted from the line's beginning, shape (2, n)."""
        seconds = samples / self.rate
        gains = self._level_curve.values(seconds)
        self._spread(gains, samples, self._level_curve)
        if not self._pan_curve:
            left, right = pan_gains(self.pan)
            return np.stack((gains * left, gains * right))
        position = self._pan_curve.values(seconds)
        self._spread(position, samples, self._pan_curve)
        return gains * pan_gain_lines(position + self.pan)

    def _spread(self, gains: Gains, samples: NDArray[np.int64], curve: Curve) -> None:
        for place, height in curve.jumps:
            if place > 0:
                spread_jump(gains, samples, place * self.rate, height, self.ramp)

    def _look_ahead(self, moment: int) -> None:
        """Find the stretch of constant gain and a single loop that ``moment`` lies in."""
        assert self._samples is not None
        self.plain_from = self.plain_to = NEVER
        index = bisect_right(self._starts, moment) - 1
        if index < 0 or index + 1 >= len(self._starts) or not self._plain[index]:
            return
        number = next(
            i for i, piece in enumerate(self.voice.pieces) if piece.start <= moment < piece.end
        )
        zero, timing = self._zero(number), self.timing
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
