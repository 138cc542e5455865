"""How high a voice or a clip reaches along its time, from the peaks of its sound."""

from collections.abc import Callable
from typing import Literal, NamedTuple, Protocol

import numpy as np
from numpy.typing import NDArray

from cicada.core.arrays import Read, RunSamples
from cicada.core.clip import ClipTiming, clip_timing
from cicada.core.lengths import length_of
from cicada.core.lines import Curve, Gains, fade_gain
from cicada.core.model import Clip, Layer, Project
from cicada.core.plan import Voice
from cicada.core.shape import VoiceShape
from cicada.core.timebase import seconds_to_samples

Columns = NDArray[np.float64]
# In so many stretches it is looked for how loud a clip gets.
STRETCHES = 2048
# Louder than this, linear, an edge can be heard; a fade of so many seconds makes it soft.
HEARD, SOFT = 0.01, 0.005
# How far below its loudest a voice still counts as loud, and how many seconds it may be quiet in
# between.
LOUD, APART = 0.1, 0.4


class Peaks(Protocol):
    """The lows and highs of a sound at the project's rate."""

    def columns(self, places: NDArray[np.float64]) -> NDArray[np.floating]:
        """Lows and highs between each two places, in samples of the sound: shape (2, n)."""


def looped_peaks(peaks: Peaks, timing: ClipTiming, speed: float, since: RunSamples) -> Columns:
    """Peaks between times since the first loop's beginning, taken round the loops: (2, n)."""
    result = np.zeros((2, len(since) - 1))
    # A column belongs to the loop its middle is in; what rings over a join is not drawn twice.
    middles = (since[:-1] + since[1:]) // 2
    loops = np.maximum(middles // timing.step, 0)
    if timing.loops:
        loops = np.minimum(loops, timing.loops - 1)
    bounds = np.flatnonzero(np.diff(loops)) + 1
    for low, high in zip([0, *bounds], [*bounds, len(middles)], strict=True):
        if low == high:
            continue
        began = loops[low] * timing.step
        inside = np.clip(since[low : high + 1] - began, 0, timing.loop)
        places = timing.first + inside * speed
        result[:, low:high] = peaks.columns(np.minimum(places.astype(np.float64), timing.last))
    return result


def voice_peaks(
    voice: Voice,
    clip: Clip,
    timing: ClipTiming,
    layer: Layer,
    rate: int,
    peaks: Peaks,
    moments: RunSamples,
    picture: Callable[[RunSamples], Gains],
) -> Columns:
    """Lows and highs of a voice between each two ``moments`` (run samples, ascending): (2, n).

    ``picture`` gives the picture's position, in frames, at run samples.
    """
    level = clip.level * layer.level
    shape = VoiceShape(voice, clip, timing, level, clip.pan + layer.pan, rate)
    count = len(moments) - 1
    columns = np.zeros((2, count))
    middles = (moments[:-1] + moments[1:]) // 2
    for number, piece in enumerate(voice.pieces):
        inside = (middles >= piece.start) & (middles < piece.end)
        if not inside.any():
            continue
        low = int(np.argmax(inside))
        high = count - int(np.argmax(inside[::-1]))
        begins = shape.zero(number) + timing.loop_begins(0)
        heard = looped_peaks(peaks, timing, clip.speed, moments[low : high + 1] - begins)
        gains = np.atleast_2d(shape.gains(middles[low:high], number)).max(axis=0)
        if shape.per_loop:
            since = (middles[low:high] - begins) % timing.step
            gains = gains * shape.line_gains(since).max(axis=0)
        columns[:, low:high] = np.where(inside[low:high], heard * gains, 0.0)
    if layer.line:
        columns *= Curve(layer.line).values(picture(middles))
    return columns


def loudest(project: Project, layer: Layer, clip: Clip, peaks: Peaks | None) -> float:
    """How loud a clip gets at most in the mix, by itself, linear; 0 while it is not decoded."""
    timing = clip_timing(clip, length_of(project, clip.sound), project.rate)
    if peaks is None or not timing.loop:
        return 0.0
    rate = project.rate
    begins, level_line = timing.loop_begins(0), Curve(clip.level_line)
    # One without an end is heard out to where its line stays as it is, and once round after that.
    drawn = int(level_line.xs[-1] * rate) if level_line else 0
    over = timing.total or begins + drawn + 2 * timing.step
    edges = np.linspace(max(0, begins), over, STRETCHES + 1).astype(np.int64)

    def gains(moments: RunSamples) -> Gains:
        since = moments - timing.delay
        found = np.full(len(moments), clip.level * layer.level * project.level)
        if clip.fade_in:
            found *= fade_gain(clip.fade_shape, since / seconds_to_samples(clip.fade_in, rate))
        if clip.fade_out and timing.total is not None:
            left = (timing.total - moments) / seconds_to_samples(clip.fade_out, rate)
            found *= fade_gain(clip.fade_shape, left)
        if level_line:
            along = (moments - begins) % timing.step if clip.line_over == "loop" else since
            found *= level_line.values(along / rate)
        if layer.line:
            frames = clip.frame + moments / rate * project.fps[0] / project.fps[1]
            found *= Curve(layer.line).values(frames)
        return found

    heard = np.abs(looped_peaks(peaks, timing, clip.speed, edges - begins)).max(axis=0)
    # At both ends of each stretch; its last sample, for the next may be in another loop.
    highest = np.maximum(gains(edges[:-1]), gains(np.maximum(edges[1:] - 1, edges[:-1])))
    return float((heard * highest).max(initial=0.0))


class Edge(NamedTuple):
    """A hard edge: the fade that would soften it, and how loud it is."""

    field: Literal["fade_in", "fade_out"]
    level: float


def hard_edges(project: Project, clip: Clip, read: Read | None) -> list[Edge]:
    """Where a clip begins or ends at once out of the samples that ``read`` gives.

    None while its sound is not decoded.
    """
    timing = clip_timing(clip, length_of(project, clip.sound), project.rate)
    if read is None or not timing.loop:
        return []
    offset = min(timing.last - 1, timing.first + int(timing.offset * clip.speed))
    edges: list[Edge] = []
    places: list[tuple[Literal["fade_in", "fade_out"], int]] = [("fade_in", offset)]
    if timing.loops:
        places.append(("fade_out", timing.last - 1))
    for field, sample in places:
        # A millisecond of it: a wave that is cut as it passes through nought is cut all the same.
        near = project.rate // 1000
        low = sample if field == "fade_in" else max(timing.first, sample - near)
        part = read(low, min(timing.last, low + near + 1))
        level = float(np.abs(part).max(initial=0.0)) * clip.level
        if level > HEARD and not getattr(clip, field):
            edges.append(Edge(field, level))
    return edges


def loud_stretches(columns: Columns, moments: RunSamples, rate: int) -> list[tuple[int, int]]:
    """Where a voice whose peaks between ``moments`` are ``columns`` is loud, in run samples."""
    heights = np.abs(columns).max(axis=0)
    loud = np.flatnonzero(heights > heights.max(initial=0.0) * LOUD)
    if not len(loud):
        return []
    breaks = np.flatnonzero(np.diff(moments[loud]) > APART * rate)
    return [
        (int(moments[loud[first]]), int(moments[min(loud[last] + 1, len(moments) - 1)]))
        for first, last in zip([0, *(breaks + 1)], [*breaks, len(loud) - 1], strict=True)
    ]
