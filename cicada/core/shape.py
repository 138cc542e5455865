"""The gain of one voice at any moments of its run: what the mixer applies and the sheet draws."""

import numpy as np

from cicada.core.arrays import RunSamples
from cicada.core.clip import ClipTiming
from cicada.core.lines import Curve, Gains, fade_gain, pan_gain_lines, pan_gains, spread_jump
from cicada.core.model import Clip
from cicada.core.plan import Piece, Voice
from cicada.core.timebase import round_half_up, seconds_to_samples

NO_LEVEL_LINE, NO_PAN_LINE = Curve(()), Curve((), 0.0)
EVEN: Gains = np.ones((1, 1))


def _sides(pan: float) -> Gains:
    left, right = pan_gains(pan)
    return np.array([[left]]) if left == right else np.array([[left], [right]])


class VoiceShape:
    """Fades, ramps, level and pan lines of a voice (semantics.md, 8), without its layer's line.

    ``level`` and ``pan`` are those of clip, layer and project together.
    """

    def __init__(
        self, voice: Voice, clip: Clip, timing: ClipTiming, level: float, pan: float, rate: int
    ) -> None:
        self.voice, self.clip, self.timing = voice, clip, timing
        self.level, self.pan, self.rate = level, pan, rate
        self.ramp = round_half_up(rate, 500)
        self.level_curve = Curve(clip.level_line) if clip.level_line else NO_LEVEL_LINE
        self.pan_curve = Curve(clip.pan_line, 0.0) if clip.pan_line else NO_PAN_LINE
        self.lined = bool(self.level_curve or self.pan_curve)
        self.per_loop = clip.line_over == "loop" and self.lined
        # Left and right gain of the pan, (1, 1) or (2, 1).
        self.sides = EVEN if pan == 0 else _sides(pan)
        self.fade_in = seconds_to_samples(clip.fade_in, rate)
        self.fade_out = seconds_to_samples(clip.fade_out, rate)
        if voice.fade_length is None:
            self.fade_out = 0
        self.edges = [self._edge_ramps(piece) for piece in voice.pieces]

    def _edge_ramps(self, piece: Piece) -> tuple[int, int]:
        """How long the ramps at the piece's edges are, 0 where the edge is the clip's own."""
        voice = self.voice
        length = piece.end - piece.start
        ramp = min(self.ramp, length // 2)
        clip_end = piece.clip_start + length
        own_end = clip_end == voice.length or any(
            end == piece.end and start < end for start, end in voice.fades
        )
        if self.fade_out and clip_end == voice.fade_length:
            own_end = True
        return (ramp if piece.clip_start else 0), (0 if own_end else ramp)

    def zero(self, number: int) -> int:
        """The run sample at which clip time is 0 by the piece of that number."""
        piece = self.voice.pieces[number]
        return piece.start - piece.clip_start

    def changing(self, number: int) -> list[tuple[int, int]]:
        """The stretches of run samples of that piece where the gain is not constant."""
        piece, zero = self.voice.pieces[number], self.zero(number)
        into, out_of = self.edges[number]
        found = [(piece.start, piece.start + into), (piece.end - out_of, piece.end)]
        found += self.voice.fades
        if self.voice.rise is not None:
            found.append((piece.start, self.voice.rise[1]))
        if self.lined:
            found.append((piece.start, piece.end))
        if self.fade_in:
            found.append((zero, zero + self.timing.delay + self.fade_in))
        if self.fade_out and self.voice.fade_length is not None:
            over = zero + self.voice.fade_length
            found.append((over - self.fade_out, piece.end))
        return [(start, end) for start, end in found if start < end]

    def gains(self, moments: RunSamples, number: int) -> Gains:
        """The gain at each run sample of ``moments`` (ascending), shape (2, n), or (n,) for both.

        Lines that go by loop are left out: ``line_gains`` gives them, loop by loop.
        """
        gains = self._levels(moments, number)
        if self.per_loop:
            return gains
        if self.lined:
            since = moments - (self.zero(number) + self.timing.delay)
            return np.asarray(gains * self.line_gains(since))
        return gains if self.sides is EVEN else np.asarray(gains * self.sides)

    def _levels(self, moments: RunSamples, number: int) -> Gains:
        """Level, fades and ramps; what has no say between the first and last moment is skipped."""
        piece, voice, shape = self.voice.pieces[number], self.voice, self.clip.fade_shape
        low, high = int(moments[0]), int(moments[-1])
        begins = self.zero(number) + self.timing.delay
        if self.fade_in and low < begins + self.fade_in:
            gains = fade_gain(shape, (moments - begins) / self.fade_in) * self.level
        else:
            gains = np.full(len(moments), self.level)
        if self.fade_out and voice.fade_length is not None:
            over = self.zero(number) + voice.fade_length
            if high > over - self.fade_out:
                gains *= fade_gain(shape, (over - moments) / self.fade_out)
        for start, end in voice.fades:
            if high > start:
                gains *= np.minimum(np.maximum((end - moments) / (end - start), 0.0), 1.0)
        if voice.rise is not None and low < voice.rise[1]:
            start, end = voice.rise
            gains *= np.minimum(np.maximum((moments - start) / (end - start), 0.0), 1.0)
        into, out_of = self.edges[number]
        if into and low < piece.start + into:
            gains *= np.minimum(1.0, (moments - (piece.start - 1)) / (into + 1))
        if out_of and high >= piece.end - out_of:
            gains *= np.minimum(1.0, (piece.end - moments) / (out_of + 1))
        return gains

    def line_gains(self, samples: RunSamples) -> Gains:
        """Level line and pan at each sample counted from the line's beginning, shape (2, n)."""
        seconds = samples / self.rate
        gains = self.level_curve.values(seconds)
        self._spread(gains, seconds, self.level_curve)
        if not self.pan_curve:
            return np.asarray(gains * self.sides) + np.zeros((2, 1))
        position = self.pan_curve.values(seconds)
        self._spread(position, seconds, self.pan_curve)
        return gains * pan_gain_lines(position + self.pan)

    def _spread(self, gains: Gains, seconds: Gains, curve: Curve) -> None:
        # In seconds, as the curve has its places: reckoned in samples, a jump could come a sample
        # late to be spread, and be heard.
        for place, height in curve.jumps:
            if place > 0:
                spread_jump(gains, seconds, place, height, self.ramp / self.rate)
