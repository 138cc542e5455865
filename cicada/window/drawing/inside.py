"""What goes on inside a sounding that is made of several sounds: pieces, shares, what was drawn."""

from typing import NamedTuple

import numpy as np

from cicada.core.answers import Blend, Playlist, Pool
from cicada.core.arrays import Numbers, RunSamples
from cicada.window.drawing.traced import Trace
from cicada.window.drawing.traces import SceneTraces

# Joins are told apart only while there are few enough.
MOST_JOINS = 400


class Join(NamedTuple):
    """Where a piece of a playlist begins; ``name`` is empty where it only begins again."""

    place: float
    name: str


class Share(NamedTuple):
    """How loud one part of a blend is, from 0 to 1, at some moments."""

    name: str
    gains: Numbers


def joins(traces: SceneTraces, trace: Trace) -> list[Join]:
    """The pieces of a playlist as they come in a voice; nothing for anything else."""
    made, axis = traces.made.get(trace.voice.plays), traces.axis
    if not isinstance(made, Playlist) or axis is None:
        return []
    timing, found = trace.timing, list[Join]()
    begun = list[tuple[int, str]]()
    for row in traces.placements.lengths.rows(made):
        name = traces.names[row.sound]
        for number, start in enumerate(row.starts[: MOST_JOINS + 1]):
            begun.append((start, name if not number else ""))
    speed = trace.clip.speed
    for loop in range(min(timing.loops or MOST_JOINS, MOST_JOINS)):
        for start, name in begun:
            if start >= timing.last or len(found) > MOST_JOINS:
                break
            if start > timing.first or (start == timing.first and name):
                clip_time = timing.loop_begins(loop) + round((start - timing.first) / speed)
                at = _run_sample(trace, clip_time)
                if at is not None:
                    found.append(Join(axis.place(at), name))
    return found


def _run_sample(trace: Trace, clip_time: int) -> int | None:
    """When a moment of the clip is heard; None if it is not."""
    for piece in trace.voice.pieces:
        at = piece.start + clip_time - piece.clip_start
        if piece.start <= at < piece.end:
            return at
    return None


def shares(traces: SceneTraces, trace: Trace, moments: RunSamples) -> list[Share]:
    """How loud each part of a blend is at ``moments``; nothing for anything else."""
    made = traces.made.get(trace.voice.plays)
    if not isinstance(made, Blend):
        return []
    parts = traces.following.parts(made.id, traces.placements.layer(trace.voice))
    # The last that a part follows is the blend's own value.
    return [
        Share(traces.names[sound], np.asarray(follows[-1].about(moments.astype(np.float64))))
        for sound, follows in parts
    ]


def drawn(traces: SceneTraces, trace: Trace) -> tuple[str, list[str]] | None:
    """What was drawn from a pool, and its other parts by name; None for anything else."""
    pool, picked = traces.made.get(trace.voice.sound), trace.voice.picked
    if not isinstance(pool, Pool) or picked is None:
        return None
    others = dict.fromkeys(traces.names[part.sound] for part in pool.parts if part.sound != picked)
    return traces.names[picked], list(others)
