"""Frames put in and taken out."""

import pytest
from hypothesis import example, given
from hypothesis import strategies as st

from cicada.core.beats import beats
from cicada.core.keyframe_edits import (
    PutKeyframes,
)
from cicada.core.layer_edits import AddLayer, ChangeLayer
from cicada.core.model import (
    Hush,
    Layer,
    Mark,
    PressPoint,
    Rest,
    Tempo,
)
from cicada.core.picture_parts import Images
from cicada.core.ripple import InsertFrames, RemoveFrames
from cicada.core.timebase import Timebase
from cicada.errors import BadEdit
from tests.core.composed import film, frames
from tests.core.test_edits import keyframes


def test_inserted_frames_move_everything_later_and_lengthen_the_scene():
    before = film(
        marks=(Mark(frame=5), Mark(frame=30)),
        press_points=(PressPoint(frame=12),),
        master=((0.0, 1.0), (20.0, 0.5)),
        picture=(Images(folder="p"),),
    )
    scene = InsertFrames(scene="sc1", frame=11, count=5).apply(before).scenes[0]
    assert scene.length == 245
    assert [k.frame for k in scene.layers[0].keyframes] == [10, 39]
    assert [mark.frame for mark in scene.marks] == [5, 35]
    assert (scene.press_points[0].frame, scene.master[1][0]) == (17, 25.0)
    assert scene.picture == (
        Images(folder="p", length=11, shown=16),
        Images(folder="p", start=16, skip=11),
    )


def test_on_one_layer_only_that_one_moves():
    project = film(AddLayer(scene="sc1", layer=Layer(id="l2", keyframes=(Rest(frame=20),))))
    moved = InsertFrames(scene="sc1", frame=5, count=3, layers=("l1",)).apply(project)
    assert (frames(moved), frames(moved, "l2")) == ([13, 37], [20])
    assert moved.scenes[0].length == 240


def test_a_removed_keyframe_still_ends_the_span_before_it():
    project = film(PutKeyframes(keyframes=(("l1", Hush(frame=50, fade=0.5)),)))
    cut = RemoveFrames(scene="sc1", frame=30, count=10).apply(project)
    assert keyframes(cut)[30] == Rest(frame=30)
    hushed = RemoveFrames(scene="sc1", frame=45, count=10).apply(project)
    assert keyframes(hushed)[45] == Hush(frame=45, fade=0.5)
    landed = RemoveFrames(scene="sc1", frame=33, count=17).apply(project)
    assert keyframes(landed)[33] == Hush(frame=33, fade=0.5)


def test_points_of_a_line_on_removed_frames_meet_there():
    line = ((0.0, 1.0), (12.0, 0.5), (13.0, 0.4), (15.0, 0.2, "step"), (40.0, 0.0))
    project = film(ChangeLayer(layer="l1", changes={"line": line}))
    cut = RemoveFrames(scene="sc1", frame=11, count=10).apply(project)
    kept = ((0.0, 1.0), (11.0, 0.5), (11.0, 0.2, "step"), (30.0, 0.0))
    assert cut.layer("l1")[1].line == kept


def test_a_picture_loses_the_images_of_removed_frames():
    project = film(picture=(Images(folder="p", length=100), Images(folder="q", start=150)))
    cut = RemoveFrames(scene="sc1", frame=40, count=20).apply(project).scenes[0]
    assert cut.picture == (
        Images(folder="p", length=40, shown=40),
        Images(folder="p", start=40, skip=60, length=40),
        Images(folder="q", start=130),
    )
    over = film(picture=(Images(folder="p", length=10),))
    assert RemoveFrames(scene="sc1", frame=40, count=20).apply(over).scenes[0].picture == (
        Images(folder="p", length=10),
    )


@given(st.integers(1, 200), st.integers(1, 40), st.floats(30, 300), st.floats(0, 2))
@example(1, 24, 300.0, 1.0)
def test_beats_move_with_the_frames_they_are_on(frame, count, bpm, offset):
    project = film(tempo=(Tempo(frame=0, bpm=bpm, offset=round(offset, 3)),))
    base = Timebase(24, 1, 48000)
    length = 240 * 2000
    by = count * 2000

    def falling(made, low, high):
        return [at for _, at in beats(made.scenes[0], base, low, high)]

    def same(wanted, found, edge, end):
        """All wanted beats are there, to a sample, and from the edge on no others.

        Whether one that falls on the scene's end is still inside may go either way.
        """
        near = [any(abs(at - other) <= 1.01 for other in found) for at in wanted if at < end - 2]
        inside = [at for at in found if edge + 1 < at < end - 2]
        also = [any(abs(at - other) <= 1.01 for other in wanted) for at in inside]
        return all(near) and all(also)

    longer = InsertFrames(scene="sc1", frame=frame, count=count).apply(project)
    cut = base.start(frame)
    wanted = [at + by for at in falling(project, 0, length) if at >= cut]
    assert same(wanted, falling(longer, 0, length + by), cut + by, length + by)
    if frame + count < 240:
        shorter = RemoveFrames(scene="sc1", frame=frame, count=count).apply(project)
        wanted = [at - by for at in falling(project, 0, length) if at >= cut + by]
        assert same(wanted, falling(shorter, 0, length - by), cut, length - by)


@pytest.mark.parametrize(
    "edit",
    [
        InsertFrames(scene="sc1", frame=10, count=0),
        InsertFrames(scene="sc1", frame=10, count=2_000_000),
        RemoveFrames(scene="sc1", frame=0, count=240),
        RemoveFrames(scene="sc1", frame=239, count=2),
        InsertFrames(scene="sc1", frame=240, count=1),
    ],
)
def test_a_ripple_that_does_not_fit_is_refused(edit):
    with pytest.raises(BadEdit, match=";"):
        edit.apply(film())


def test_a_guarded_layer_does_not_ripple():
    guarded = film(ChangeLayer(layer="l1", changes={"guarded": True}))
    with pytest.raises(BadEdit, match="guarded"):
        InsertFrames(scene="sc1", frame=0, count=1).apply(guarded)
