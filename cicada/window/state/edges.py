"""How loud a clip gets, and where it begins or ends hard: at once out of silence, or into it."""

from typing import Literal, NamedTuple

import numpy as np

from cicada.core.clip import clip_timing
from cicada.core.lines import Curve, fade_gain
from cicada.core.model import Clip, Layer, Project
from cicada.core.timebase import seconds_to_samples
from cicada.window.drawing.waveform import looped_columns
from cicada.window.state.sounds import Sounds

# Louder than this, linear, an edge can be heard; a fade of so many seconds makes it soft.
HEARD, SOFT = 0.01, 0.005
# In so many stretches it is looked for how loud a clip gets.
STRETCHES = 2048


def highest(project: Project, layer: Layer, clip: Clip, sounds: Sounds) -> float:
    """How loud a clip gets at most in the mix, by itself, linear; 0 while it is not decoded."""
    timing = clip_timing(clip, project.sound(clip.sound), project.rate)
    peaks = sounds.peaks(clip.sound)
    if peaks is None or not timing.loop:
        return 0.0
    rate = project.rate
    begins, level_line = timing.loop_begins(0), Curve(clip.level_line)
    # One without an end is heard out to where its line stays as it is, and once round after that.
    drawn = int(level_line.xs[-1] * rate) if level_line else 0
    over = timing.total or begins + drawn + 2 * timing.step
    edges = np.linspace(max(0, begins), over, STRETCHES + 1).astype(np.int64)
    since = edges - timing.delay
    gains = np.full(len(edges), clip.level * layer.level * project.level)
    if clip.fade_in:
        gains *= fade_gain(clip.fade_shape, since / seconds_to_samples(clip.fade_in, rate))
    if clip.fade_out and timing.total is not None:
        left = (timing.total - edges) / seconds_to_samples(clip.fade_out, rate)
        gains *= fade_gain(clip.fade_shape, left)
    if level_line:
        along = (edges - begins) % timing.step if clip.line_over == "loop" else since
        gains *= level_line.values(along / rate)
    if layer.line:
        frames = clip.frame + edges / rate * project.fps[0] / project.fps[1]
        gains *= Curve(layer.line).values(frames)
    heard = np.abs(looped_columns(peaks, timing, clip.speed, edges - begins)).max(axis=0)
    return float((heard * np.maximum(gains[:-1], gains[1:])).max(initial=0.0))


class Edge(NamedTuple):
    """A hard edge: the fade that would soften it, and how loud it is."""

    field: Literal["fade_in", "fade_out"]
    level: float


def hard_edges(project: Project, clip: Clip, sounds: Sounds) -> list[Edge]:
    """The hard edges of a clip; none while its sound is not decoded."""
    timing = clip_timing(clip, project.sound(clip.sound), project.rate)
    samples = sounds.samples(clip.sound)
    if samples is None or not timing.loop:
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
        part = samples[:, low : min(timing.last, low + near + 1)]
        level = float(np.abs(part).max(initial=0.0)) * clip.level
        if level > HEARD and not getattr(clip, field):
            edges.append(Edge(field, level))
    return edges
