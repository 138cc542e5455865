"""Why a clip does not sound: the sheet, the sentence and the checks all ask here."""

from collections.abc import Iterable
from typing import Literal

from cicada.core.clip import clip_timing
from cicada.core.lengths import length_of
from cicada.core.model import Clip, Layer, Project, Scene
from cicada.core.plan import Event

Silence = Literal[
    "clip off", "layer off", "past the end", "nothing to play", "left out", "still queued",
    "called off", "nothing open", "waits for good", "not here",
]  # fmt: skip


def why_left_out(event: Event, clip: Clip) -> Silence | None:
    """Why an event of its keyframe kept a clip from starting; None if it did not."""
    if event.kind == "skipped":
        return "still queued" if clip.if_sounding == "queue" else "left out"
    if event.kind == "nothing-open":
        return "nothing open"
    return "called off" if event.kind == "unqueued" else None


def why_silent(
    project: Project, scene: Scene, layer: Layer, clip: Clip, events: Iterable[Event]
) -> Silence:
    """Why a clip that sounds nowhere does not; ``events`` are those of its keyframe."""
    if clip.off or layer.off:
        return "clip off" if clip.off else "layer off"
    if clip.frame >= scene.length:
        return "past the end"
    if clip_timing(clip, length_of(project, clip.sound), project.rate).total == 0:
        return "nothing to play"
    for event in events:
        why = why_left_out(event, clip)
        if why is not None:
            return why
    return "waits for good" if clip.if_sounding == "queue" else "not here"
