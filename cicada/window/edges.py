"""How loud a clip gets, and where it begins or ends hard: at once out of silence, or into it."""

from typing import Literal, NamedTuple

import numpy as np

from cicada.core.clip import clip_timing
from cicada.core.model import Clip, Layer, Project
from cicada.window.sounds import Sounds

# Louder than this, linear, an edge can be heard; a fade of so many seconds makes it soft.
HEARD, SOFT = 0.01, 0.005


def highest(project: Project, layer: Layer, clip: Clip, sounds: Sounds) -> float:
    """How loud a clip gets at most in the mix, by itself, linear; 0 while it is not decoded."""
    timing = clip_timing(clip, project.sound(clip.sound), project.rate)
    peaks = sounds.peaks(clip.sound)
    if peaks is None or not timing.loop:
        return 0.0
    lines = [
        max((float(one[1]) for one in line), default=1.0) for line in (clip.level_line, layer.line)
    ]
    level = clip.level * layer.level * project.level * lines[0] * lines[1]
    return peaks.highest(timing.first, timing.last) * level


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
