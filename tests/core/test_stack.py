"""The picture as a stack of parts: what is drawn on a frame, and what ripple does to it."""

from fractions import Fraction
from itertools import pairwise

import pytest
from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import replace

from cicada.core.model import Scene, empty_project
from cicada.core.picture_edits import (
    AddParts,
    ChangePart,
    MovePart,
    MovePartEnds,
    RemovePart,
    shown_from,
    shown_to,
)
from cicada.core.picture_parts import Images, Still, Video
from cicada.core.ripple import InsertFrames, RemoveFrames
from cicada.core.stack import drawn_on, ends, laid_out, moment_of
from cicada.errors import BadEdit

LENGTH = 60
frames = st.integers(0, LENGTH - 1)
lengths = st.none() | st.integers(1, LENGTH)
parts = st.one_of(
    st.builds(Still, file=st.just("s"), start=frames, shown=lengths),
    st.builds(
        Images, folder=st.just("i"), start=frames, shown=lengths, skip=frames, length=lengths
    ),
    st.builds(
        Video, file=st.just("v"), start=frames, shown=lengths, skip=frames, length=lengths
    ),
)  # fmt: skip


def film(*picture):
    project = empty_project("Film", length=LENGTH)
    return replace(project, scenes=(replace(project.scenes[0], picture=picture),))


def seen(project, frame):
    return [
        (type(d.part), d.along, d.opacity) for d in drawn_on(project.scenes[0], frame)
    ]  # fmt: skip


@given(st.lists(parts, max_size=3), frames, st.integers(1, 20))
def test_inserted_frames_leave_every_picture_on_its_moved_frame(picture, at, count):
    before = film(*picture)
    after = InsertFrames(scene="sc1", frame=at, count=count).apply(before)
    for frame in range(LENGTH):
        assert seen(after, frame + (count if frame >= at else 0)) == seen(before, frame)


@given(st.lists(parts, max_size=3), frames, st.integers(1, 20))
def test_removed_frames_take_their_pictures_along_and_no_others(picture, at, count):
    count = max(1, min(count, LENGTH - 1 - at))
    if at == LENGTH - 1:
        at -= 1
    before = film(*picture)
    after = RemoveFrames(scene="sc1", frame=at, count=count).apply(before)
    for frame in range(LENGTH - count):
        assert seen(after, frame) == seen(before, frame + (count if frame >= at else 0))


def test_the_picture_goes_on_standing_while_inserted_frames_pass():
    project = InsertFrames(scene="sc1", frame=10, count=5).apply(film(Images(folder="i")))
    assert [d.along for frame in range(8, 18) for d in drawn_on(project.scenes[0], frame)] == [
        8, 9, 9, 9, 9, 9, 9, 10, 11, 12,
    ]  # fmt: skip


def test_what_has_played_out_keeps_its_last_picture_when_its_beginning_is_removed():
    project = RemoveFrames(scene="sc1", frame=0, count=10).apply(film(Images(folder="i", length=4)))
    assert project.scenes[0].picture == (Images(folder="i", skip=3, length=1),)
    inside = RemoveFrames(scene="sc1", frame=2, count=10).apply(film(Images(folder="i", length=4)))
    assert [d.along for frame in range(4) for d in drawn_on(inside.scenes[0], frame)] == [
        0, 1, 3, 3,
    ]  # fmt: skip


def test_a_part_goes_with_all_its_frames_and_moves_up_with_those_before_it():
    project = film(Still(file="a", start=20, shown=10))
    assert RemoveFrames(scene="sc1", frame=15, count=20).apply(project).scenes[0].picture == ()
    for at, count, start, shown in ((5, 10, 10, 10), (25, 10, 20, 5), (15, 8, 15, 7)):
        (part,) = RemoveFrames(scene="sc1", frame=at, count=count).apply(project).scenes[0].picture
        assert (part.start, part.shown) == (start, shown)
    later = RemoveFrames(scene="sc1", frame=40, count=5).apply(project)
    assert later.scenes[0].picture == project.scenes[0].picture


def test_inserted_frames_move_a_still_lengthen_it_or_leave_it():
    project = film(Still(file="a", start=20, shown=10))
    for at, start, shown in ((20, 24, 10), (25, 20, 14), (30, 20, 10)):
        (part,) = InsertFrames(scene="sc1", frame=at, count=4).apply(project).scenes[0].picture
        assert (part.start, part.shown) == (start, shown)


def test_a_dissolve_lets_one_still_come_over_another_in_even_steps():
    scene = film(Still(file="a"), Still(file="b", start=20, dissolve_in=3)).scenes[0]
    assert [drawn_on(scene, frame)[-1].opacity for frame in range(19, 25)] == [
        1, 0.25, 0.5, 0.75, 1, 1,
    ]  # fmt: skip
    out = film(Still(file="a", shown=10, dissolve_out=3)).scenes[0]
    assert [d.opacity for frame in range(6, 11) for d in drawn_on(out, frame)] == [
        1, 0.75, 0.5, 0.25,
    ]  # fmt: skip


def test_a_move_is_straight_from_the_first_frame_to_the_last():
    part = Still(file="a", start=10, shown=5, place=(0, 0, 1), moves_to=(1, 0.5, 3))
    scene = film(part).scenes[0]
    assert [drawn_on(scene, frame)[0].place for frame in (10, 12, 14)] == [
        (0, 0, 1), (0.5, 0.25, 2), (1, 0.5, 3),
    ]  # fmt: skip


def test_what_is_left_of_a_moving_part_is_where_it_was():
    part = Still(file="a", place=(0, 0, 1), moves_to=(1, 1, 1), shown=41)
    before = film(part).scenes[0]
    after = RemoveFrames(scene="sc1", frame=0, count=20).apply(film(part)).scenes[0]
    assert drawn_on(after, 0)[0].place == drawn_on(before, 20)[0].place
    assert drawn_on(after, 20)[0].place == drawn_on(before, 40)[0].place


def test_a_video_keeps_its_own_pace_and_begins_again_if_it_is_to():
    fps = (24, 1)
    assert moment_of(Video(file="v"), 36, fps) == Fraction(3, 2)
    assert moment_of(Video(file="v", seconds=1.2, repeat=True), 36, fps) == Fraction(3, 10)
    looped = film(Video(file="v", skip=4, length=5, repeat=True)).scenes[0]
    assert [drawn_on(looped, frame)[0].along for frame in (4, 5, 12)] == [8, 4, 6]


def test_the_ends_on_a_frame_move_together_and_none_becomes_empty():
    project = film(
        Still(file="a", shown=20), Still(file="b", start=20, shown=10), Still(file="c", start=5)
    )
    moved = MovePartEnds(scene="sc1", frame=20, to=25).apply(project).scenes[0].picture
    assert [(p.start, ends(p, LENGTH)) for p in moved] == [(0, 25), (25, 30), (5, 60)]
    far = MovePartEnds(scene="sc1", frame=20, to=50).apply(project).scenes[0].picture
    assert [(p.start, ends(p, LENGTH)) for p in far] == [(0, 50), (29, 30), (5, 60)]
    back = MovePartEnds(scene="sc1", frame=20, to=0).apply(project).scenes[0].picture
    assert [(p.start, ends(p, LENGTH)) for p in back] == [(0, 1), (0, 30), (5, 60)]


def test_parts_are_added_on_top_reordered_changed_and_taken_out():
    project = AddParts(scene="sc1", parts=(Still(file="a"), Still(file="b"))).apply(film())
    project = MovePart(scene="sc1", number=0, to=1).apply(project)
    project = ChangePart(scene="sc1", number=1, changes={"start": 5}).apply(project)
    assert project.scenes[0].picture == (Still(file="b"), Still(file="a", start=5))
    assert RemovePart(scene="sc1", number=0).apply(project).scenes[0].picture == (
        Still(file="a", start=5),
    )


@pytest.mark.parametrize(
    "edit",
    [
        ChangePart(scene="sc1", number=3, changes={"start": 5}),
        ChangePart(scene="sc1", number=0, changes={"shown": 0}),
        ChangePart(scene="sc1", number=0, changes={"start": LENGTH}),
        ChangePart(scene="sc1", number=0, changes={"place": [0.5, 0.5, 0]}),
        AddParts(scene="sc1", parts=(Still(file="z", start=LENGTH),)),
        RemovePart(scene="sc1", number=-1),
    ],
)
def test_what_makes_no_picture_is_refused(edit):
    with pytest.raises(BadEdit):
        edit.apply(film(Still(file="a")))


def test_a_scene_without_parts_has_no_picture():
    assert drawn_on(Scene(id="s", length=5, layers=()), 0) == ()


@given(st.integers(0, LENGTH - 1), st.integers(1, 8))
def test_new_parts_share_the_frames_up_to_the_end(first, count):
    count = min(count, LENGTH - first)
    found = laid_out(first, LENGTH, [None] * count)
    assert found[0][0] == first
    assert found[-1][1] is None
    for (start, shown), (following, _) in pairwise(found):
        assert start + shown == following
        assert shown >= 1


@pytest.mark.parametrize(("wanted", "shown"), [(None, None), (0, 1), (7, 7), (99, 50)])
def test_one_part_alone_is_shown_as_long_as_it_lasts(wanted, shown):
    assert laid_out(10, LENGTH, [wanted]) == [(10, shown)]
    assert laid_out(10, LENGTH, [wanted, None])[0] == (10, 25)


def test_a_part_begins_and_ends_where_it_is_typed():
    part = Still(file="s", start=10, shown=20)
    assert shown_from(part, LENGTH, 15) == {"start": 15, "shown": 15}
    assert shown_from(part, LENGTH, 40) == {"start": 40, "shown": 1}
    assert shown_from(Still(file="s", start=10), LENGTH, 15) == {"start": 15, "shown": None}
    assert shown_to(part, LENGTH, 19) == {"shown": 10}
    assert shown_to(part, LENGTH, LENGTH - 1) == {"shown": None}
    assert shown_to(part, LENGTH, LENGTH - 2) == {"shown": LENGTH - 11}
