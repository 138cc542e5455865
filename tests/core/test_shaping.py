"""Shaping clips: everything lands, ends and goes on to the sample, and nothing of it is lost."""

import numpy as np
import pytest
from hypothesis import assume, given
from hypothesis import strategies as st
from msgspec.structs import replace

from cicada.core.answers import Playlist, PlaylistPart
from cicada.core.editing import Cell
from cicada.core.lines import Curve
from cicada.core.mix import Mixer
from cicada.core.model import (
    FORMAT,
    Clip,
    Layer,
    Project,
    Rest,
    Run,
    Scene,
    Sound,
    Tempo,
    keyframe_at,
)
from cicada.core.planner import plan
from cicada.core.reshaping import (
    ReshapeClip,
    ending_on,
    endings,
    filling,
    shaping_of,
    splitting,
)
from cicada.core.timebase import samples_to_seconds, seconds_to_samples
from cicada.core.tone import InMemory
from cicada.errors import BadEdit

RATES = (8000, 44100, 48000)
FPS = ((24, 1), (30000, 1001), (25, 1), (60, 1), (24000, 1001))
LENGTH = 60
seconds = st.integers(0, 400).map(lambda n: n / 1000)
CLIP = Cell("l", 20)


class Noise:
    """The same second of noise for every sound."""

    def __init__(self, rate):
        self.whole = np.random.default_rng(5).uniform(-1, 1, (1, rate)).astype(np.float32)

    def source(self, sound, first, last, speed):
        assert speed == 1
        return InMemory(self.whole[:, first:last])


def project_with(clip, rate, fps, others=()):
    """One clip on a layer, and on another one what makes the picture stand still."""
    holds = tuple(Clip(frame=f, sound="h", sync="hold", trim=(0, t)) for f, t in others)
    layers = (Layer(id="l", keyframes=(clip,)), Layer(id="h", keyframes=holds))
    sounds = (
        Sound(id="s", frames=rate, rate=rate, channels=1),
        Sound(id="h", frames=rate, rate=rate, channels=1),
    )
    return Project(
        format=FORMAT, version=1, fps=fps, rate=rate, sounds=sounds,
        scenes=(Scene(id="sc", length=LENGTH, layers=layers),),
    )  # fmt: skip


@st.composite
def projects(draw, loops=(1, 1, 2, 3), speeds=(1.0, 1.0, 0.5, 1.3, 2.0), sync=("free", "locked")):
    head = draw(seconds)
    clip = Clip(
        frame=CLIP.frame,
        sound="s",
        sync=draw(st.sampled_from(sync)),
        loops=draw(st.sampled_from(loops)),
        delay=draw(seconds),
        trim=(head, draw(st.sampled_from((None, 0.9)))),
        offset=draw(st.integers(0, 100)) / 1000,
        loop_overlap=draw(st.sampled_from((0.0, 0.0, 0.02))),
        speed=draw(st.sampled_from(speeds)),
        level_line=draw(st.sampled_from(((), ((0.05, 1.0), (0.4, 0.2, "step"), (0.6, 1.5))))),
    )
    holds = draw(
        st.dictionaries(st.integers(0, LENGTH - 1), st.sampled_from((0.01, 0.3)), max_size=3)
    )
    return project_with(
        clip, draw(st.sampled_from(RATES)), draw(st.sampled_from(FPS)), tuple(holds.items())
    )


def shaping(project, cell=CLIP):
    return shaping_of(project, cell, plan(project), 0)


def voice_of(made, layer="l"):
    return next(voice for voice in made.voices if voice.layer == layer)


def clip_of(project):
    return next(k for k in project.scenes[0].layers[0].keyframes if isinstance(k, Clip))


@given(st.integers(0, 10**10), st.sampled_from((8000, 44100, 96000, 192000)))
def test_seconds_say_which_sample_is_meant(samples, rate):
    assert seconds_to_samples(samples_to_seconds(samples, rate), rate) == samples


# -- landing --------------------------------------------------------------------------------------


@given(projects(), st.integers(0, LENGTH - 1), st.floats(0, 1))
def test_what_lands_on_a_frame_is_heard_on_its_first_sample(project, frame, along):
    was = shaping(project)
    sample = was.timing.first + int(along * (was.timing.last - 1 - was.timing.first))
    heard = was.playing(sample - was.timing.first)
    assume(heard >= was.timing.offset)
    # Nothing would be left of a clip whose end is to land on the first frame; see the next test.
    assume(frame > 0 or heard < was.timing.loop)
    landed = was.land(sample, frame)
    after = ReshapeClip(cell=CLIP, clip=landed.clip).apply(project)
    made, clip = plan(after), clip_of(after)
    now = shaping_of(after, Cell("l", clip.frame), made, 0)
    into = now.timing.delay - now.timing.offset + now.playing(sample - now.timing.first)
    voice = voice_of(made)
    if clip.sync == "free":
        start = voice.start - voice.pieces[0].clip_start
        assert start + into == made.entered(frame, 0)
    else:
        base = made.timebase
        assert base.start(clip.frame) + into == base.start(frame)
    assert 0 <= now.timing.delay < made.timebase.duration(clip.frame) or clip.sync == "free"


def test_the_last_sample_of_a_fast_clip_lands_as_its_last_one_heard():
    project = project_with(Clip(frame=20, sound="s", speed=2.0), 8000, (24, 1))
    landed = shaping(project).land(7999, 0)
    after = ReshapeClip(cell=CLIP, clip=landed.clip).apply(project)
    assert voice_of(plan(after)).pieces[0].end == 1


def test_a_sound_that_would_have_to_begin_before_the_scene_is_cut_and_says_so():
    project = project_with(Clip(frame=20, sound="s"), 48000, (24, 1))
    landed = shaping(project).land(24000, 6)
    assert (landed.clip.frame, landed.clip.delay, landed.clip.offset) == (0, 0.0, 0.25)
    assert landed.gave == "the first 0.250 s are left out, for the scene begins too late for them"


def test_what_is_trimmed_off_cannot_land():
    project = project_with(Clip(frame=20, sound="s", trim=(0.5, None)), 48000, (24, 1))
    with pytest.raises(BadEdit, match="cut off"):
        shaping(project).land(100, 30)


# -- trim -----------------------------------------------------------------------------------------


@given(projects(loops=(1,), speeds=(1.0,)), st.integers(-9000, 9000))
def test_a_trimmed_head_leaves_the_rest_of_the_sound_where_it_was(project, by):
    was = shaping(project)
    trimmed = was.trim_head(was.begins + by)
    after = ReshapeClip(cell=CLIP, clip=trimmed.clip).apply(project)
    now = shaping_of(after, Cell("l", trimmed.clip.frame), plan(after), 0)
    assert now.moment_of(now.whole - 1) == was.moment_of(was.whole - 1)
    assert now.begins == was.begins + by or trimmed.gave
    places = np.linspace(max(0.0, by / project.rate), 1, 7)
    moved = Curve(now.clip.level_line).values(places - (now.begins - was.begins) / project.rate)
    assert np.allclose(moved, Curve(was.clip.level_line).values(places))


def test_a_head_trimmed_past_the_scenes_end_begins_on_its_last_frame():
    project = project_with(Clip(frame=50, sound="s"), 48000, (60, 1))
    was = shaping(project, Cell("l", 50))
    trimmed = was.trim_head(was.clock.enters(LENGTH) + 5000)
    assert (trimmed.clip.frame, trimmed.gave) == (LENGTH - 1, "the scene ends here")
    after = ReshapeClip(cell=Cell("l", 50), clip=trimmed.clip).apply(project)
    now = shaping_of(after, Cell("l", LENGTH - 1), plan(after), 0)
    assert now.moment_of(now.whole - 1) == was.moment_of(was.whole - 1)


@given(projects(loops=(1,)), st.integers(1, 12000))
def test_a_trimmed_tail_ends_where_it_was_put(project, after_start):
    was = shaping(project)
    moment = was.begins + after_start
    trimmed = was.trim_tail(moment)
    now = replace(was.clip, trim=trimmed.clip.trim)
    project = ReshapeClip(cell=CLIP, clip=now).apply(project)
    ended = shaping(project)
    over = ended.begins + ended.timing.total - ended.timing.delay
    slack = 1 if was.clip.speed < 1 else 0
    assert abs(over - moment) <= slack or trimmed.gave


@given(projects(loops=(1,), speeds=(1.0,)), st.integers(-60000, 60000))
def test_a_slipped_clip_stays_inside_its_sound(project, by):
    was = shaping(project)
    now = shaping(ReshapeClip(cell=CLIP, clip=was.slip(by).clip).apply(project)).timing
    assert 0 <= now.first < now.last <= was.whole
    if was.clip.trim[1] is not None:
        assert now.last - now.first == was.timing.last - was.timing.first


def test_a_head_trimmed_later_keeps_the_room_of_the_clip_before_it():
    clips = (Clip(frame=0, sound="s", sync="locked"), Clip(frame=20, sound="s"))
    project = project_with(clips[0], 48000, (24, 1))
    layer = replace(project.scenes[0].layers[0], keyframes=clips)
    project = replace(project, scenes=(replace(project.scenes[0], layers=(layer,)),))
    trimmed = shaping(project).trim_head(48000 * 22 // 24)
    after = ReshapeClip(cell=CLIP, clip=trimmed.clip).apply(project)
    kept = after.scenes[0].layers[0]
    assert isinstance(keyframe_at(kept, 20), Rest)
    assert keyframe_at(kept, 22) == trimmed.clip


def test_what_is_drawn_over_a_sound_stays_with_it_when_its_head_is_cut_off():
    line = ((0.5, 0.2), (0.8, 1.0))
    project = project_with(Clip(frame=20, sound="s", level_line=line), 48000, (24, 1))
    trimmed = shaping(project).trim_to(12000, 48000).clip
    assert trimmed.level_line == ((0.25, 0.2), (0.55, 1.0))
    with pytest.raises(BadEdit, match="nothing of the sound"):
        shaping(project).trim_to(100, 100)


# -- split ----------------------------------------------------------------------------------------


def split_at(project, frame):
    """The clip as it was shaped, and the project with it split."""
    was = shaping(project)
    try:
        parts = was.split(frame)
    except BadEdit:
        assume(False)
    return was, splitting(CLIP, parts).apply(project)


@given(projects(loops=(1,), speeds=(1.0,), sync=("free",)), st.integers(21, 50))
def test_a_split_clip_sounds_as_before(project, frame):
    _, after = split_at(project, frame)
    noise = Noise(project.rate)
    one, two = plan(project), plan(after)
    whole = Mixer(one, project, noise).mix(0, one.length)
    halves = Mixer(two, after, noise).mix(0, two.length)
    assert np.abs(whole - halves).max() < 1e-5


@given(projects(sync=("free", "locked")), st.integers(21, 59))
def test_a_split_inside_any_loop_goes_on_where_it_was(project, frame):
    was, after = split_at(project, frame)
    made = plan(after)
    second = shaping_of(after, Cell("l", frame), made, 0)
    one, two = was.timing, second.timing
    into = was.clock.enters(frame) - was.begins + one.offset
    if was.clip.loops == 1 and was.clip.speed == 1:
        assert two.first == one.first + into
    else:
        loops = one.loops - two.loops if one.loops else 0
        assert two.offset == into - loops * one.step if one.loops else True
    assert made.voices[0].end <= max(v.end for v in plan(project).voices)


def test_a_clip_that_holds_the_picture_is_not_split():
    project = project_with(Clip(frame=20, sound="s", sync="hold"), 48000, (24, 1))
    with pytest.raises(BadEdit, match="stands still"):
        shaping(project).split(21)


# -- ends -----------------------------------------------------------------------------------------


@given(projects(speeds=(1.0, 2.0)), st.integers(22, LENGTH - 1))
def test_a_clip_is_over_as_the_frame_it_is_to_end_on_is_entered(project, frame):
    was = shaping(project)
    try:
        edit = ending_on(CLIP, was, frame)
    except BadEdit as error:
        assert "over before" in str(error) or "starts later" in str(error)  # noqa: PT017 - either
        return
    made = plan(edit.apply(project))
    voice = voice_of(made)
    standing = [s for s in made.stretches if s.frame == frame and s.stands]
    assert voice.end == made.entered(frame, 0) or (voice.sync == "locked" and standing)


@given(projects(sync=("free",)), st.integers(22, LENGTH - 1))
def test_a_clip_looped_to_a_frame_sounds_up_to_it(project, frame):
    was = shaping(project)
    try:
        changes = was.looped_to(frame)
    except BadEdit:
        assume(False)
    layer = project.scenes[0].layers[0]
    keyframes = (replace(was.clip, **changes), Rest(frame=frame))
    scene = replace(
        project.scenes[0],
        layers=(replace(layer, keyframes=keyframes), *project.scenes[0].layers[1:]),
    )
    made = plan(replace(project, scenes=(scene,)))
    assert voice_of(made).end == made.entered(frame, 0)


def test_the_mix_of_a_run_from_a_landed_clip_has_its_hit_on_the_frame():
    whole = np.zeros((1, 48000), np.float32)
    whole[0, 31234] = 1.0
    project = project_with(Clip(frame=20, sound="s"), 48000, (30000, 1001))
    landed = shaping(project).land(31234, 40)
    after = ReshapeClip(cell=CLIP, clip=landed.clip).apply(project)
    noise = Noise(48000)
    noise.whole = whole
    made = plan(after, Run())
    mix = Mixer(made, after, noise).mix(0, made.length)
    assert int(mix[0].argmax()) == made.entered(40, 0)


# -- what does not fit ----------------------------------------------------------------------------


def test_a_head_cannot_begin_before_the_scene():
    project = project_with(Clip(frame=2, sound="s", trim=(0.5, None)), 48000, (24, 1))
    trimmed = shaping(project, Cell("l", 2)).trim_head(-9600)
    assert trimmed.gave == "the scene begins here"
    assert (trimmed.clip.frame, trimmed.clip.trim[0]) == (0, pytest.approx(0.5 - 2 / 24))


def test_a_clip_that_holds_the_picture_neither_lands_nor_ends_on_another_frame():
    project = project_with(Clip(frame=20, sound="s", sync="hold"), 48000, (24, 1))
    with pytest.raises(BadEdit, match="stands still"):
        shaping(project).land(100, 30)
    with pytest.raises(BadEdit, match="own frame"):
        ending_on(CLIP, shaping(project), 30)


def test_only_a_clip_is_shaped():
    project = project_with(Clip(frame=20, sound="s"), 48000, (24, 1))
    layer = replace(project.scenes[0].layers[0], keyframes=(Rest(frame=20),))
    project = replace(project, scenes=(replace(project.scenes[0], layers=(layer,)),))
    with pytest.raises(BadEdit, match="no clip"):
        shaping_of(project, CLIP)
    with pytest.raises(BadEdit, match="no clip"):
        ReshapeClip(cell=CLIP, clip=Clip(frame=20, sound="s")).apply(project)


def test_a_clock_goes_on_past_the_frames_of_the_run():
    project = project_with(Clip(frame=20, sound="s"), 48000, (24, 1), ((0, 0.5),))
    clock = shaping(project).clock
    assert clock.enters(LENGTH + 24) - clock.enters(LENGTH) == 48000
    for frame in (LENGTH, LENGTH + 1, LENGTH + 24):
        assert clock.frame_at(clock.enters(frame)) == frame
        assert clock.frame_at(clock.enters(frame) - 1) == frame - 1
    assert clock.frame_at(-1) == 0
    # A run that begins later does not enter the frames before, which are reckoned as if it had.
    late = plan(project, Run(frame=30, chase=False))
    assert shaping_of(project, CLIP, late, 0).clock.enters(12) == 24000


# -- at the playhead -------------------------------------------------------------------------------


def plainly(**settings):
    """A clip of a second on frame 20 at 25 frames a second, ready to be shaped."""
    project = project_with(Clip(frame=20, sound="s", **settings), 8000, (25, 1))
    return project, shaping_of(project, CLIP)


def test_a_clip_is_trimmed_where_a_frame_is_entered_inside_it():
    _, shaping = plainly()
    assert shaping.trim_at(25, head=True).clip.trim == (0.2, None)
    assert shaping.trim_at(25, head=True).clip.frame == 25
    assert shaping.trim_at(25, head=False).clip.trim == (0.0, 0.2)
    for frame, head in ((45, True), (60, True), (20, False), (3, False)):
        with pytest.raises(BadEdit):
            shaping.trim_at(frame, head=head)
    assert shaping.trim_at(44, head=True).clip.frame == 44
    assert shaping.trim_at(21, head=False).clip.trim == (0.0, 0.04)


def test_the_nearest_hit_is_one_that_is_heard():
    project, shaping = plainly(trim=(0.1, 0.9))
    assert shaping.nearest_hit([0, 800, 4000, 7199, 7200], 20) == 800
    assert shaping.nearest_hit([800, 4000, 7199], 60) == 7199
    with pytest.raises(BadEdit, match="no hit"):
        shaping.nearest_hit([0, 799, 7200], 20)
    by_hand = replace(project.sounds[0], hits=(0.5,))
    own = shaping_of(replace(project, sounds=(by_hand, project.sounds[1])), CLIP)
    assert own.nearest_hit([800], 30) == 4000


def test_a_hit_is_set_where_the_playhead_is_and_taken_off_there():
    project, shaping = plainly()
    hits = shaping.hits_with(25, 320)
    assert hits == (0.2,)
    sound = replace(project.sounds[0], hits=(0.1, 0.215))
    own = shaping_of(replace(project, sounds=(sound, project.sounds[1])), CLIP)
    assert own.hits_with(25, 320) == (0.1,)
    assert own.hits_with(30, 320) == (0.1, 0.215, 0.4)
    for frame in (19, 45):
        with pytest.raises(BadEdit, match="not heard"):
            shaping.hits_with(frame, 320)


def test_a_clip_loops_until_its_span_ends_or_is_off():
    project, shaping = plainly()
    after = filling(project, CLIP, shaping).apply(project)
    assert keyframe_at(after.scenes[0].layers[0], 20).loops == 2
    off, shaping = plainly(off=True)
    with pytest.raises(BadEdit, match="switched off"):
        filling(off, CLIP, shaping)


def test_the_frames_a_clip_may_be_ended_on_are_named():
    project, shaping = plainly()
    scene = project.scenes[0]
    bells = replace(scene.layers[0], keyframes=(*scene.layers[0].keyframes, Rest(frame=40)))
    with_rest = replace(project, scenes=(replace(scene, layers=(bells, scene.layers[1])),))
    assert endings(with_rest, CLIP, shaping, 33) == [
        ("its span's end", 40), ("the scene's end", 60), ("the playhead", 33),
    ]  # fmt: skip
    more = replace(bells, keyframes=(*bells.keyframes, Clip(frame=50, sound="s")))
    tempo = (Tempo(frame=0, bpm=60.0),)
    full = replace(scene, layers=(more, scene.layers[1]), tempo=tempo)
    found = dict(endings(replace(project, scenes=(full,)), CLIP, shaping, 33))
    assert found["the next clip"] == 50
    assert found["the beat nearest to its end"] == 50


def test_the_first_join_is_where_the_second_loop_begins_also_after_a_wait():
    project = project_with(
        Clip(frame=20, sound="s", loops=3, sync="locked"), 8000, (25, 1), [(10, 0.5)]
    )
    made = plan(project)
    shaping = shaping_of(project, CLIP, made, 0)
    assert shaping.first_join(made, 0) == made.entered(45, 0)
    assert shaping.first_join(made, None) == 45 * 320
    free, clock = plainly(loops=3)
    assert clock.first_join(plan(free), 0) == 45 * 320


@pytest.mark.parametrize("loops", [0, 1, 3])
def test_of_a_clip_with_nothing_to_play_nothing_is_looped_or_split(loops):
    clip = Clip(frame=CLIP.frame, sound="s", loops=loops, trim=(0.5, 0.5))
    made = shaping(project_with(clip, 48000, (24, 1)))
    for shape in (made.looped_to, made.split):
        with pytest.raises(BadEdit):
            shape(CLIP.frame + 9)


def test_hits_are_set_in_a_sound_and_not_in_what_is_made_of_some():
    project = project_with(Clip(frame=CLIP.frame, sound="q"), 8000, (10, 1))
    playlist = Playlist(id="q", name="Row", parts=(PlaylistPart(sound="s"),))
    project = replace(project, version=2, playlists=(playlist,))
    with pytest.raises(BadEdit, match="Row is made of sounds"):
        shaping(project).hits_with(CLIP.frame, 1)
