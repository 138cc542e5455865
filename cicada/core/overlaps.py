"""What an edit costs the clips around it: those it replaces, and those it cuts short."""

from collections.abc import Collection
from typing import NamedTuple

from cicada.core.clip import clip_timing
from cicada.core.editing import Cell
from cicada.core.lengths import length_of
from cicada.core.model import Clip, Layer, Project, Scene, keyframe_at
from cicada.core.placed import span_ends


class Loss(NamedTuple):
    """A clip of a scene that is replaced (``frames`` 0), or ends that many frames sooner."""

    cell: Cell
    sound: str
    frames: int


def losses(before: Project, after: Project, scene_id: str, own: Collection[Cell]) -> list[Loss]:
    """What clips of a scene lose from one project to the next, but for ``own``, those moved."""
    old, new = before.scene(scene_id), after.scene(scene_id)
    layers = {layer.id: layer for layer in new.layers}
    found = []
    for layer in old.layers:
        there = layers.get(layer.id)
        if there is not None and there is not layer:
            found += _in_layer(after, old, new, layer, there, own)
    return found


def _in_layer(
    after: Project, old: Scene, new: Scene, before: Layer, there: Layer, own: Collection[Cell]
) -> list[Loss]:
    ends = span_ends(new, there)
    base = after.timebase
    found = []
    for frame, end in span_ends(old, before).items():
        clip, cell = keyframe_at(before, frame), Cell(before.id, frame)
        if not isinstance(clip, Clip) or cell in own:
            continue
        if keyframe_at(there, frame) != clip:
            found.append(Loss(cell, clip.sound, 0))
            continue
        if clip.sync != "locked" and clip.ends != "span":
            continue
        total = clip_timing(clip, length_of(after, clip.sound), after.rate).total
        needed = end if total is None else base.frame_from(base.start(frame) + total)
        lost = min(end, needed) - ends.get(frame, end)
        if lost > 0:
            found.append(Loss(cell, clip.sound, lost))
    return found
