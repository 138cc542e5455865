"""Films and layers that edits are tried on."""

from cicada.core.keyframe_edits import (
    HushSound,
    PlaceClip,
)
from cicada.core.scene_edits import (
    ChangeScene,
)
from tests.core.test_edits import start


def film(*more, **fields):
    """A scene with a bell on 10 (24 frames long), and what is given."""
    project = PlaceClip(layer="l1", frame=10, sound="s1").apply(start())
    if fields:
        project = ChangeScene(scene="sc1", changes=fields).apply(project)
    for edit in more:
        project = edit.apply(project)
    return project


def frames(project, layer="l1"):
    return sorted(k.frame for k in project.layer(layer)[1].keyframes)


def hushed(project, frame, clip_frame, layer="l1"):
    edit = HushSound(scene="sc1", layer=layer, clip_frame=clip_frame, sound="s1", frame=frame)
    return edit.apply(project)
