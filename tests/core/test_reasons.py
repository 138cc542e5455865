"""Why a clip does not sound."""

import pytest
from msgspec.structs import replace

from cicada.core.model import Clip, Layer, Project, Rest, Run, Scene, Sound
from cicada.core.plan import Anchor, Event
from cicada.core.planner import plan
from cicada.core.reasons import why_left_out, why_silent

BELL = Clip(frame=4, sound="s")


def why(clip, *others, off=False, run=None):
    """The reason for the last clip of a layer, by the plan of the film it is in."""
    layer = Layer(id="l", off=off, keyframes=(*others, clip))
    scene = Scene(id="sc", length=20, layers=(layer,))
    sound = Sound(id="s", frames=16000, rate=8000, channels=1)
    project = Project(
        format="cicada-project", version=1, fps=(10, 1), rate=8000, sounds=(sound,),
        scenes=(scene,),
    )  # fmt: skip
    made = plan(project, run or Run())
    place = Anchor("sc", "l", clip.frame)
    assert all(voice.anchor != place for voice in made.voices)
    events = [e for e in made.events if (e.scene, e.layer, e.frame) == place]
    return why_silent(project, scene, layer, clip, events)


FIRST = Clip(frame=0, sound="s")
ENDLESS = Clip(frame=0, sound="s", loops=0)


@pytest.mark.parametrize(
    ("reason", "clip", "others"),
    [
        ("clip off", replace(BELL, off=True), ()),
        ("past the end", replace(BELL, frame=20), ()),
        ("nothing to play", replace(BELL, trim=(3.0, None)), ()),
        ("left out", replace(BELL, if_sounding="skip"), (FIRST,)),
        ("waits for good", replace(BELL, if_sounding="queue"), (ENDLESS,)),
    ],
)
def test_each_reason_is_found(reason, clip, others):
    assert why(clip, *others) == reason


def test_a_layer_that_is_off_is_said_unless_the_clip_is_too():
    assert why(BELL, off=True) == "layer off"
    assert why(replace(BELL, off=True), off=True) == "clip off"


def test_a_clip_that_leaves_the_queue_was_called_off():
    queued = replace(BELL, if_sounding="queue", ends="span")
    layer = (ENDLESS, queued, Rest(frame=8))
    scene = Scene(id="sc", length=20, layers=(Layer(id="l", keyframes=layer),))
    sound = Sound(id="s", frames=16000, rate=8000, channels=1)
    project = Project(
        format="cicada-project", version=1, fps=(10, 1), rate=8000, sounds=(sound,),
        scenes=(scene,),
    )  # fmt: skip
    events = [e for e in plan(project).events if e.frame == 4 and e.kind == "unqueued"]
    assert why_silent(project, scene, scene.layers[0], queued, events) == "called off"
    again = [replace(events[0], kind="skipped")]
    assert why_silent(project, scene, scene.layers[0], queued, again) == "still queued"


def test_what_the_run_does_not_come_to_does_not_sound_here():
    assert why(BELL, run=Run(limit=0.1)) == "not here"


def test_what_is_left_out_of_a_pool_with_nothing_open_says_so():
    clip = Clip(frame=0, sound="x")
    found = [why_left_out(Event(0, kind, "s", 0, "l"), clip) for kind in ("nothing-open", "held")]
    assert found == ["nothing open", None]
