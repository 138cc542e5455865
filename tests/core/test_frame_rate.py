"""Another frame rate: frames kept, or moments; every place where it was is listed."""

from fractions import Fraction

import pytest
from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import replace

from cicada.core.beats import first_beat
from cicada.core.copied import copied
from cicada.core.editing import Cell
from cicada.core.frame_rate import KeepSeconds, copied_in_seconds, keep_frames, keep_seconds
from cicada.core.model import (
    Clip,
    Layer,
    Mark,
    PressPoint,
    Rest,
    Scene,
    Sound,
    Tempo,
    empty_project,
)
from cicada.core.picture_parts import Images, Still, Video
from cicada.core.planner import plan
from cicada.errors import BadEdit
from tests.core.films import films

RATES = ((24, 1), (25, 1), (30, 1), (30000, 1001), (24000, 1001), (12, 1), (50, 1), (60, 1))


def film(*keyframes, fps=(24, 1), length=240, **scene):
    project = empty_project("rate", fps=fps, length=length)
    layer = Layer(id="l1", name="Bell", keyframes=keyframes)
    sound = Sound(id="s1", frames=48000, rate=48000, channels=1)
    made = replace(project.scenes[0], layers=(layer,), **scene)
    return replace(project, sounds=(sound,), scenes=(made,))


def frames(project):
    return [k.frame for k in project.scenes[0].layers[0].keyframes]


@given(films(), st.sampled_from(RATES), st.booleans())
def test_each_goes_to_the_frame_nearest_to_its_moment_or_the_next_free_and_is_listed(
    made, fps, by_delay
):
    project, _ = made
    ratio = Fraction(*fps) / Fraction(*project.fps)
    try:
        kept = keep_seconds(project, fps, by_delay=by_delay)
    except BadEdit:
        return
    listed = {(s.what, s.scene, s.layer, s.before): s for s in kept.shifts}
    base = kept.project.timebase
    for scene, new in zip(project.scenes, kept.project.scenes, strict=True):
        for layer, after in zip(scene.layers, new.layers, strict=True):
            was = [k.frame for k in layer.keyframes]
            now = [k.frame for k in after.keyframes]
            # In the same order in time, each on a frame of its own.
            order = sorted(range(len(was)), key=lambda i: was[i])
            assert sorted(now) == [now[i] for i in order]
            assert len(set(now)) == len(now)
            for i, keyframe in enumerate(after.keyframes):
                shift = listed.get(("keyframe", scene.id, layer.id, was[i]))
                place = was[i] * ratio
                if shift is None:
                    assert now[i] == place
                    continue
                assert shift.after == now[i]
                assert (was[i] < scene.length) == (now[i] < new.length)
                moment = base.start(now[i]) + shift.delay
                assert moment - project.timebase.start(was[i]) == shift.late
                if shift.delay:
                    assert isinstance(keyframe, Clip)
                    assert shift.late == 0
                elif not shift.pushed and 0 < now[i] < new.length - 1:
                    assert abs(now[i] - place) <= (1 if by_delay else Fraction(1, 2))


@given(films(), st.sampled_from(RATES))
def test_there_and_back_is_the_same_where_nothing_was_rounded(made, fps):
    project, _ = made
    try:
        there = keep_seconds(project, fps)
        back = keep_seconds(there.project, project.fps).project
    except BadEdit:
        return
    moved = {(s.scene, s.layer, s.before) for s in there.shifts if s.what == "keyframe"}
    for scene, again in zip(project.scenes, back.scenes, strict=True):
        assert len(scene.master) == len(again.master)
        for layer, after in zip(scene.layers, again.layers, strict=True):
            for keyframe, found in zip(layer.keyframes, after.keyframes, strict=True):
                if (scene.id, layer.id, keyframe.frame) not in moved:
                    assert found == keyframe


@given(
    st.lists(st.tuples(st.floats(0, 2e6), st.floats(0, 2)), max_size=5),
    st.sampled_from(RATES),
    st.sampled_from(RATES),
)
def test_points_of_lines_come_back_to_a_billionth_of_a_frame(points, fps, other):
    line = tuple(sorted(points))
    project = film(fps=other, master=line)
    layer = replace(project.scenes[0].layers[0], line=line)
    project = replace(project, scenes=(replace(project.scenes[0], layers=(layer,)),))
    back = keep_seconds(keep_seconds(project, fps).project, other).project.scenes[0]
    for found in (back.master, back.layers[0].line):
        for (place, value), (was, had) in zip(found, line, strict=True):
            assert abs(place - was) <= 1e-9
            assert value == had


def test_the_later_of_two_that_meet_takes_the_next_free_frame_and_is_listed():
    # At 24 frames 12 and 13 of 25 are both nearest to frame 12.
    project = film(Clip(frame=12, sound="s1"), Clip(frame=13, sound="s1"), fps=(25, 1), length=50)
    kept = keep_seconds(project, (24, 1))
    assert frames(kept.project) == [12, 13]
    assert [(s.before, s.after, s.pushed) for s in kept.shifts if s.what == "keyframe"] == [
        (12, 12, False),
        (13, 13, True),
    ]


def test_where_no_frame_is_left_nothing_is_merged_and_both_are_named():
    project = film(*(Rest(frame=frame) for frame in range(50)), fps=(25, 1), length=50)
    with pytest.raises(BadEdit, match=r"frame 49 of Bell in Scene 1 beside frame 48"):
        keep_seconds(project, (24, 1))


def test_a_free_clip_keeps_its_very_moment_by_a_delay():
    clips = (Clip(frame=7, sound="s1"), Clip(frame=31, sound="s1", sync="locked"))
    project = film(*clips)
    kept = keep_seconds(project, (25, 1), by_delay=True)
    before, after = plan(project), plan(kept.project)
    assert frames(kept.project) == [7, 32]
    free = kept.shifts[0]
    assert (free.late, free.delay) == (0, 7 * 2000 - 7 * 1920)
    # The silence before its first loop is part of the clip.
    first = [v.pieces[0].start for v in (before.voices[0], after.voices[0])]
    assert first[0] == first[1] + free.delay


def test_a_tempo_keeps_its_first_beat():
    project = film(tempo=(Tempo(frame=7, bpm=96.0, offset=0.01), Tempo(frame=100, bpm=90.0)))
    kept = keep_seconds(project, (25, 1)).project
    was = [first_beat(tempo, project.timebase) for tempo in project.scenes[0].tempo]
    assert [first_beat(tempo, kept.timebase) for tempo in kept.scenes[0].tempo] == was


def test_marks_press_points_and_the_picture_go_along():
    project = film(
        marks=(Mark(frame=12), Mark(frame=13)),
        press_points=(PressPoint(frame=24),),
        picture=(
            Images(folder="i", start=24, shown=48, skip=3),
            Video(file="v", skip=24, length=48),
            Still(file="s", start=48, dissolve_in=12),
        ),
    )
    scene = keep_seconds(project, (30, 1)).project.scenes[0]
    assert [mark.frame for mark in scene.marks] == [15, 16]
    assert [point.frame for point in scene.press_points] == [30]
    images, video, still = scene.picture
    assert (images.start, images.shown, images.skip) == (30, 60, 3)
    assert (video.skip, video.length) == (30, 60)
    assert (still.start, still.dissolve_in) == (60, 15)
    assert scene.length == 300


def test_a_guarded_layer_is_not_changed():
    project = film(Rest(frame=3))
    layer = replace(project.scenes[0].layers[0], guarded=True)
    project = replace(project, scenes=(replace(project.scenes[0], layers=(layer,)),))
    with pytest.raises(BadEdit, match="guarded"):
        keep_seconds(project, (25, 1))


@pytest.mark.parametrize("length", [1, 2_000_000])
def test_the_shortest_and_the_longest_scene(length):
    project = film(length=length)
    assert keep_seconds(project, (12, 1)).project.scenes[0].length == max(1, length // 2)
    if length > 1:
        with pytest.raises(BadEdit, match="at most"):
            keep_seconds(project, (240, 1))


def test_kept_frames_come_to_other_moments_which_are_listed():
    project = film(Clip(frame=12, sound="s1"), Clip(frame=0, sound="s1"))
    kept = keep_frames(project, (12, 1))
    assert frames(kept.project) == [12, 0]
    assert [(s.what, s.before, s.late) for s in kept.shifts] == [
        ("length", 240, 240 * 2000),
        ("keyframe", 12, 12 * 2000),
    ]


def test_the_picture_is_listed_wherever_it_begins_for_it_goes_by_at_another_pace():
    parts = (Images(folder="i"), Video(file="v", start=24))
    kept = keep_frames(film(picture=parts), (12, 1))
    assert [(s.before, s.late) for s in kept.shifts if s.what == "picture"] == [(0, 0), (24, 48000)]


def test_the_edit_is_one_step_and_is_written_down():
    project = film(Clip(frame=7, sound="s1"))
    edit = KeepSeconds(fps=(25, 1), by_delay=True)
    assert edit.apply(project) == keep_seconds(project, (25, 1), by_delay=True).project
    assert edit.title == "change the frame rate to 25"


def test_what_is_copied_is_as_far_apart_in_seconds_at_another_rate():
    clips = (Clip(frame=24, sound="s1"), Clip(frame=48, sound="s1"), Clip(frame=55, sound="s1"))
    project = film(*clips)
    cells = [Cell("l1", clip.frame) for clip in clips]
    copy = copied(project, project.scenes[0], cells, "")
    moved, shifts = copied_in_seconds(copy, (30, 1), 48000)
    found = [each.keyframe.frame for each in moved.keyframes if isinstance(each.keyframe, Clip)]
    assert found == [0, 30, 39]
    assert [(s.before, s.after) for s in shifts if s.before == 31] == [(31, 39)]
    assert copied_in_seconds(copy, (24, 1), 48000) == (copy, ())


def test_an_older_copy_without_a_rate_is_pasted_as_it_is():
    project = film(Clip(frame=24, sound="s1"))
    copy = replace(copied(project, project.scenes[0], [Cell("l1", 24)], ""), fps=None)
    assert copied_in_seconds(copy, (30, 1), 48000) == (copy, ())


def test_a_scene_without_anything_changes_its_length_alone():
    scene = Scene(id="sc", length=240, layers=())
    project = replace(empty_project("x"), scenes=(scene,))
    kept = keep_seconds(project, (25, 1))
    assert kept.project.scenes[0] == replace(scene, length=250)
    assert kept.shifts == ()
