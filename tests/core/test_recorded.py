"""A take stands in the film where it was recorded, to the sample."""

import pytest
from hypothesis import assume, given
from hypothesis import strategies as st
from msgspec.structs import replace

from cicada.core.editing import Cell
from cicada.core.model import Clip, Hush, Layer, Rest, Sound, empty_project, keyframe_at
from cicada.core.planner import plan
from cicada.core.recorded import Stood, in_the_way, recording, where_it_stood, without_silence
from cicada.core.shelf_edits import AddSounds
from cicada.core.timebase import seconds_to_samples
from cicada.errors import BadEdit
from tests.core.films import films


def take(rate=48000, seconds=1.0):
    return Sound(id="take", name="Voice", frames=round(rate * seconds), rate=rate, channels=1)


@given(films(), st.floats(0, 1, exclude_max=True), st.integers(1, 20_000))
def test_put_back_where_it_was_recorded_its_first_sample_is_on_its_own(film, share, length):
    project, run = film
    run = replace(run, draw_time=0.0, presses=(), inputs=())
    made = plan(project, run)
    assume(made.end > 0)
    start = int(share * made.end)
    stood = where_it_stood(made, start, length)
    sound = replace(take(project.rate), frames=length)
    edit, cell = recording(project, "", stood, sound)
    again = plan(edit.apply(project), run)
    index = made.visits.index(made.frame_at(start)[0])
    voices = [v for v in again.voices if v.cell == cell and v.visit == index]
    # What hushes everything on the frames between may end it before it is heard.
    assume(voices and voices[0].end > start)
    (voice,) = voices
    waited = sum(max(0, min(p.end, start) - p.start) for p in voice.pieces)
    assert waited == seconds_to_samples(stood.delay, project.rate)


def one_layer(*keyframes, guarded=False):
    project = empty_project("One")
    scene = project.scenes[0]
    layer = Layer(id="l1", name="Voices", guarded=guarded, keyframes=keyframes)
    other = Sound(id="s1", name="Other", frames=48000, rate=48000, channels=1)
    return replace(project, sounds=(other,), scenes=(replace(scene, layers=(layer,)),))


@pytest.mark.parametrize(
    ("project", "why"),
    [
        (one_layer(), ""),
        (one_layer(Rest(frame=4)), ""),
        (one_layer(Clip(frame=4, sound="s1")), "something stands there on Voices"),
        (one_layer(Hush(frame=4)), "something stands there on Voices"),
        (one_layer(guarded=True), "Voices is guarded"),
    ],
)
def test_what_stands_there_or_is_guarded_is_in_the_way(project, why):
    scene, cell = project.scenes[0], Cell("l1", 4)
    assert in_the_way(scene, cell) == why
    edit, at = recording(project, "l1", Stood("sc1", 4, 0.01, "locked"), take())
    after = edit.apply(project)
    clip = keyframe_at(after.layer(at.layer)[1], 4)
    assert (clip.sound, clip.delay, clip.sync) == ("take", 0.01, "locked")
    assert (at.layer == "l1") == (not why)
    if why:
        assert [layer.name for layer in after.scenes[0].layers] == ["Voices", "Voices 2"]
        assert after.scenes[0].layers[0] == project.scenes[0].layers[0]


def test_where_no_layer_is_chosen_it_gets_one_of_its_own_name_at_the_bottom():
    assert in_the_way(one_layer().scenes[0], Cell("", 4)) == "no layer is chosen"
    edit, at = recording(one_layer(), "", Stood("sc1", 4, 0.0, "free"), take())
    after = edit.apply(one_layer())
    assert after.scenes[0].layers[-1].name == "Voice"
    assert after.scenes[0].layers[-1].id == at.layer


def with_take(frame=10, delay=0.0, *others):
    project = AddSounds(sounds=(take(seconds=2.0),)).apply(one_layer(*others))
    layer = project.scenes[0].layers[0]
    clip = Clip(frame=frame, sound="take", sync="locked", delay=delay)
    scene = replace(project.scenes[0], layers=(replace(layer, keyframes=(*others, clip)),))
    return replace(project, scenes=(scene,))


def heard_at(project):
    (layer,) = project.scenes[0].layers
    clip = next(k for k in layer.keyframes if isinstance(k, Clip) and k.sound == "take")
    start = project.timebase.start(clip.frame) + seconds_to_samples(clip.delay, project.rate)
    # When the file's first sample would be heard, if it were.
    return start - seconds_to_samples(clip.trim[0], project.rate), clip


@pytest.mark.parametrize("delay", [0.0, 0.013])
@pytest.mark.parametrize("head", [0.0, 0.02, 0.5])
def test_silence_is_trimmed_off_and_the_rest_is_heard_when_it_was(head, delay):
    project = with_take(10, delay)
    before, _ = heard_at(project)
    after, clip = heard_at(without_silence(project, Cell("l1", 10), head, 0.25).apply(project))
    assert after == before
    assert clip.trim == pytest.approx((head, 1.75))
    assert 0 <= clip.delay < 1 / 24


def test_a_clip_that_would_come_to_stand_on_another_keeps_its_frame():
    project = with_take(10, 0.0, Clip(frame=22, sound="s1"))
    edit = without_silence(project, Cell("l1", 10), 0.5, 0.0)
    before, (after, clip) = heard_at(project)[0], heard_at(edit.apply(project))
    assert (clip.frame, after) == (10, before)


def test_where_nothing_would_be_left_or_nothing_stands_it_is_said():
    with pytest.raises(BadEdit, match="nothing would be left"):
        without_silence(with_take(), Cell("l1", 10), 1.5, 0.6)
    with pytest.raises(BadEdit, match="no clip"):
        without_silence(with_take(), Cell("l1", 11), 0.1, 0.0)


@pytest.mark.parametrize(
    ("start", "length", "stood"),
    [
        (16_000, 3_000, Stood("sc1", 8, 0.0, "locked")),
        (16_500, 5_000, Stood("sc1", 8, 500 / 48000, "free")),
        (30_000, 5_000, Stood("sc1", 10, 10_000 / 48000, "free")),
        # The picture has stood for a second on the frame that is shown.
        (68_480, 5_000, Stood("sc1", 10, 480 / 48000, "locked")),
    ],
)
def test_where_the_picture_stood_meanwhile_a_take_is_free(start, length, stood):
    made = plan(one_layer(Clip(frame=10, sound="s1", sync="hold")))
    assert where_it_stood(made, start, length) == stood
