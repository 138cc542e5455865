"""Rippling, copying, hushing and what a drop costs: edits of many things at once."""

import pytest
from hypothesis import example, given, settings
from hypothesis import strategies as st
from msgspec.structs import replace

from cicada.core.arrange import Shift, with_their_rests
from cicada.core.beats import beats
from cicada.core.copied import copied, decoded, pasting
from cicada.core.editing import Cell
from cicada.core.keyframe_edits import (
    ChangeKeyframes,
    ClearKeyframes,
    HushSound,
    MoveKeyframes,
    PlaceClip,
    PutKeyframes,
    TakeSoundsOff,
)
from cicada.core.layer_edits import AddLayer, ChangeLayer, DuplicateLayer, MoveLayer, RemoveLayer
from cicada.core.model import (
    Clip,
    Hush,
    Layer,
    Mark,
    PressPoint,
    Rest,
    Run,
    Style,
    Tempo,
    keyframe_at,
)
from cicada.core.overlaps import losses
from cicada.core.picture_parts import Images
from cicada.core.placed import Tables
from cicada.core.planner import plan
from cicada.core.reshaping import ReshapeClip
from cicada.core.ripple import InsertFrames, RemoveFrames
from cicada.core.scene_edits import (
    AddScene,
    ChangeProject,
    ChangeScene,
    ClearMark,
    ClearPressPoint,
    DuplicateScene,
    MoveMark,
    MovePressPoint,
    MoveScene,
    PutMark,
    PutPressPoint,
    PutTempo,
    RemoveScene,
)
from cicada.core.steady import MOST_PASSES, steady_pass
from cicada.core.styles import ForgetStyle, KeepStyle, putting, style_of
from cicada.core.timebase import Timebase
from cicada.errors import BadEdit
from tests.core.films import plain_films, projects
from tests.core.test_edits import keyframes, start


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


# -- ripple -------------------------------------------------------------------------------------


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


# -- moving and copying -------------------------------------------------------------------------


def test_a_clip_takes_the_rest_that_gives_it_room_along():
    project = film()
    cells = with_their_rests(project.scenes[0], [Cell("l1", 10)])
    assert cells == {Cell("l1", 10), Cell("l1", 34)}
    moved = Shift(project.scenes[0], [Cell("l1", 10)]).moving(5, 0).apply(project)
    assert frames(moved) == [15, 39]


def test_a_shift_stops_at_the_scenes_edges_and_drops_a_rest_that_falls_off():
    project = film(AddLayer(scene="sc1", layer=Layer(id="l2", keyframes=())))
    shift = Shift(project.scenes[0], [Cell("l1", 10)])
    assert shift.within(-99, -4) == (-10, 0)
    assert shift.within(999, 9) == (229, 1)
    at_the_end = shift.moving(229, 1).apply(project)
    assert (frames(at_the_end), frames(at_the_end, "l2")) == ([], [239])
    assert shift.moving(0, 0) is None
    assert shift.copying(0, 0) is None


def test_nothing_chosen_shifts_nowhere():
    shift = Shift(film().scenes[0], [])
    assert shift.within(3, 1) == (0, 0)
    assert shift.moving(3, 1) is None


def test_copies_leave_what_was_copied():
    project = film()
    copy = Shift(project.scenes[0], [Cell("l1", 10)]).copying(50, 0)
    assert copy.title == "copy the keyframe"
    assert frames(copy.apply(project)) == [10, 34, 60, 84]


def test_what_is_copied_survives_the_clipboard_and_lands_on_layers_of_its_name():
    project = film(AddLayer(scene="sc1", layer=Layer(id="l2", name="Low", keyframes=())))
    project = PutKeyframes(keyframes=(("l2", Hush(frame=12)),)).apply(project)
    cells = [Cell("l1", 10), Cell("l2", 12)]
    taken = copied(project, project.scenes[0], cells, "/film.cicada")
    assert decoded(taken.encoded()) == taken
    assert decoded(b"something else") is None
    assert [sound.id for sound in taken.sounds] == ["s1"]
    edit, cells = pasting(project, project.scenes[0], taken, None, 100, {"s1": "s1"})
    assert cells == [Cell("l1", 100), Cell("l1", 124), Cell("l2", 102)]
    pasted = edit.apply(project)
    assert frames(pasted, "l2") == [12, 102]


def test_layers_that_are_missing_are_added_below():
    project = film(AddLayer(scene="sc1", layer=Layer(id="l2", name="Low", keyframes=())))
    project = PutKeyframes(keyframes=(("l2", Hush(frame=12)),)).apply(project)
    taken = copied(project, project.scenes[0], [Cell("l1", 10), Cell("l2", 12)], "")
    edit, cells = pasting(project, project.scenes[0], taken, Cell("l2", 0), 0, {})
    pasted = edit.apply(project)
    assert [layer.name for layer in pasted.scenes[0].layers] == ["Layer 1", "Low", "Low 2"]
    assert cells[-1] == Cell(pasted.scenes[0].layers[2].id, 2)


def test_pasting_past_the_end_is_refused():
    project = film()
    taken = copied(project, project.scenes[0], [Cell("l1", 10)], "")
    with pytest.raises(BadEdit, match="fits"):
        pasting(project, project.scenes[0], taken, None, 240, {})


# -- hushing and taking off ---------------------------------------------------------------------


def hushed(project, frame, clip_frame, layer="l1"):
    edit = HushSound(scene="sc1", layer=layer, clip_frame=clip_frame, sound="s1", frame=frame)
    return edit.apply(project)


def test_a_hush_stands_on_its_own_layer_where_it_ends_no_other_clip():
    assert isinstance(keyframes(hushed(film(), 20, 10))[20], Hush)
    assert isinstance(keyframes(hushed(film(), 60, 10))[60], Hush)


@pytest.mark.parametrize(
    "edit",
    [
        PutKeyframes(keyframes=(("l1", Clip(frame=40, sound="s1")),)),
        PutKeyframes(keyframes=(("l1", Rest(frame=50)),)),
        ChangeLayer(layer="l1", changes={"guarded": True}),
    ],
    ids=["another clip's span", "a frame that is taken", "a guarded layer"],
)
def test_a_hush_without_room_goes_to_a_layer_of_its_own_and_to_the_same_again(edit):
    project = hushed(film(edit), 50, 10)
    assert [layer.name for layer in project.scenes[0].layers] == ["Layer 1", "Hushes"]
    again = hushed(project, 52, None, layer="elsewhere")
    assert [k.frame for k in again.scenes[0].layers[1].keyframes] == [50, 52]


def test_a_hush_in_a_scene_that_is_gone_is_refused():
    with pytest.raises(BadEdit, match="gone"):
        HushSound(scene="no", layer="l1", clip_frame=1, sound="s1", frame=3).apply(film())


def test_a_sound_taken_off_leaves_a_rest_or_a_mark_with_its_name():
    cells = (Cell("l1", 10),)
    assert keyframes(TakeSoundsOff(cells=cells).apply(film()))[10] == Rest(frame=10)
    marked = film(PutMark(scene="sc1", frame=10, text="door"))
    left = TakeSoundsOff(cells=cells, leave="marks").apply(marked)
    # The rest that gave the sound its room has gone with it.
    assert (frames(left), left.scenes[0].marks) == ([], (Mark(frame=10, text="door, Bell"),))


# -- what a drop costs --------------------------------------------------------------------------


def test_a_locked_clip_that_is_cut_and_one_that_is_replaced_are_both_losses():
    locked = ChangeKeyframes(cells=(Cell("l1", 10),), changes={"sync": "locked"})
    before = film(locked)
    cut = PlaceClip(layer="l1", frame=20, sound="s1").apply(before)
    assert losses(before, cut, "sc1", ()) == [(Cell("l1", 10), "s1", 14)]
    replaced = PlaceClip(layer="l1", frame=10, sound="s1").apply(before)
    assert losses(before, replaced, "sc1", ()) == [(Cell("l1", 10), "s1", 0)]
    assert losses(before, replaced, "sc1", (Cell("l1", 10),)) == []


def test_a_free_clip_that_rings_out_loses_nothing_but_an_endless_one_with_its_span_does():
    before = film()
    dropped = PlaceClip(layer="l1", frame=20, sound="s1")
    assert losses(before, dropped.apply(before), "sc1", ()) == []
    endless = ChangeKeyframes(cells=(Cell("l1", 10),), changes={"ends": "span", "loops": 0})
    before = film(endless)
    assert losses(before, dropped.apply(before), "sc1", ()) == [(Cell("l1", 10), "s1", 14)]


# -- layers and scenes --------------------------------------------------------------------------


def test_a_duplicated_layer_stands_below_under_its_own_name_and_unguarded():
    project = film(ChangeLayer(layer="l1", changes={"guarded": True}), DuplicateLayer(layer="l1"))
    one, two = project.scenes[0].layers
    assert (two.name, two.guarded, two.keyframes) == ("Layer 1 2", False, one.keyframes)
    moved = MoveLayer(layer=two.id, to=0).apply(project)
    assert [layer.id for layer in moved.scenes[0].layers] == [two.id, one.id]


def test_a_scene_is_added_behind_with_the_same_layers_empty():
    project = film(AddScene(after="sc1", name="Next", length=48))
    scene = project.scenes[1]
    assert (scene.name, scene.length) == ("Next", 48)
    assert [(layer.name, layer.keyframes) for layer in scene.layers] == [("Layer 1", ())]
    again = DuplicateScene(scene="sc1").apply(project)
    assert [x.name for x in again.scenes] == ["Scene 1", "Scene 1 2", "Next"]
    assert again.scenes[1].layers[0].keyframes == again.scenes[0].layers[0].keyframes
    moved = MoveScene(scene="sc1", to=9).apply(again)
    assert [x.name for x in moved.scenes] == ["Scene 1 2", "Next", "Scene 1"]
    assert len(RemoveScene(scene="sc1").apply(moved).scenes) == 2


def test_a_scene_with_a_guarded_layer_stays():
    project = film(AddScene(after="sc1", name="Next", length=48))
    project = ChangeLayer(layer="l1", changes={"guarded": True}).apply(project)
    with pytest.raises(BadEdit, match="guarded"):
        RemoveScene(scene="sc1").apply(project)
    with pytest.raises(BadEdit, match="gone"):
        MoveScene(scene="no", to=0).apply(project)


def test_marks_press_points_and_tempo_are_put_moved_and_cleared():
    project = film(
        PutMark(scene="sc1", frame=3, text="one"),
        PutMark(scene="sc1", frame=3, text="two"),
        MoveMark(scene="sc1", frame=3, to=7),
        PutPressPoint(scene="sc1", frame=4, label="x", after=1.0),
        MovePressPoint(scene="sc1", frame=4, to=9),
        PutTempo(scene="sc1", frame=2, bpm=100.0),
    )
    scene = project.scenes[0]
    assert scene.marks == (Mark(frame=7, text="two"),)
    assert scene.press_points == (PressPoint(frame=9, label="x", after=1.0),)
    assert scene.tempo == (Tempo(frame=2, bpm=100.0),)
    for edit in (
        ClearMark(scene="sc1", frame=7),
        ClearPressPoint(scene="sc1", frame=9),
        PutTempo(scene="sc1", frame=2, bpm=None),
    ):
        project = edit.apply(project)
    assert project == film()
    for lost in (MoveMark, MovePressPoint):
        with pytest.raises(BadEdit, match="there is no"):
            lost(scene="sc1", frame=1, to=2).apply(project)


def test_every_edit_says_what_it_does():
    cells = (Cell("l1", 1), Cell("l1", 2))
    rest = ("l1", Rest(frame=1))
    titles = [
        (ClearKeyframes(cells=cells), "clear 2 keyframes"),
        (ClearKeyframes(cells=cells[:1], verb="cut"), "cut the keyframe"),
        (MoveKeyframes(moves=((cells[0], cells[1]),)), "move the keyframe"),
        (PutKeyframes(keyframes=(rest, rest)), "put 2 keyframes"),
        (PutKeyframes(keyframes=(rest,), named="paste"), "paste"),
        (ChangeKeyframes(cells=cells, changes={}, what="loops"), "change loops of 2 keyframes"),
        (TakeSoundsOff(cells=cells), "take the sounds off, leaving rests"),
        (
            HushSound(scene="s", layer="l", clip_frame=1, sound="s1", frame=1, sound_name="Bell"),
            "hush Bell",
        ),
        (ReshapeClip(cell=cells[0], clip=Clip(frame=1, sound="s1")), "shape the clip"),
        (KeepStyle(style=Style(name="Far")), "keep the style Far"),
        (ForgetStyle(name="Far"), "forget the style Far"),
        (InsertFrames(scene="s", frame=1, count=1), "insert a frame"),
        (RemoveFrames(scene="s", frame=1, count=3), "remove 3 frames"),
        (AddLayer(scene="s", layer=Layer(id="l", name="Low", keyframes=())), "add the layer Low"),
        (RemoveLayer(layer="l"), "remove the layer"),
        (MoveLayer(layer="l", to=1), "move the layer"),
        (DuplicateLayer(layer="l"), "duplicate the layer"),
        (AddScene(after="s", name="Dawn", length=3), "add the scene Dawn"),
        (DuplicateScene(scene="s"), "duplicate the scene"),
        (RemoveScene(scene="s"), "remove the scene"),
        (MoveScene(scene="s", to=1), "move the scene"),
        (ChangeScene(scene="s", changes={"name": "x"}), "rename the scene"),
        (ChangeScene(scene="s", changes={"master": ()}), "change the scene"),
        (ChangeProject(changes={"plays": 2}), "change how often the film plays"),
        (PutMark(scene="s", frame=1), "put a mark"),
        (MoveMark(scene="s", frame=1, to=2), "move the mark"),
        (ClearMark(scene="s", frame=1), "clear the mark"),
        (PutPressPoint(scene="s", frame=1), "put a press point"),
        (MovePressPoint(scene="s", frame=1, to=2), "move the press point"),
        (ClearPressPoint(scene="s", frame=1), "clear the press point"),
        (PutTempo(scene="s", frame=1, bpm=9.0), "set the tempo"),
        (PutTempo(scene="s", frame=1, bpm=None), "clear the tempo"),
    ]
    for edit, title in titles:
        assert edit.title == title


def test_a_style_changes_what_it_keeps_and_nothing_else():
    project = start()
    clip = Clip(frame=9, sound="s1", loops=3, fade_in=0.5, level=0.4, pan=-1.0)
    kept = KeepStyle(style=style_of("Far", clip)).apply(project)
    kept = KeepStyle(style=style_of("Far", replace(clip, loops=4))).apply(kept)
    assert [style.name for style in kept.styles] == ["Far"]
    other = PutKeyframes(keyframes=(("l1", Clip(frame=2, sound="s1", pan=0.5)),)).apply(kept)
    made = putting(kept.styles[0], (Cell("l1", 2),)).apply(other)
    now = keyframe_at(made.layer("l1")[1], 2)
    assert (now.loops, now.fade_in, now.level, now.pan) == (4, 0.5, 0.4, 0.5)
    with pytest.raises(BadEdit, match="no style"):
        ForgetStyle(name="Near").apply(kept)
    with pytest.raises(BadEdit, match="needs a name"):
        KeepStyle(style=Style(name="")).apply(project)


# -- steady passes ------------------------------------------------------------------------------


def steady(project):
    return steady_pass(plan(project, Run(passes=MOST_PASSES + 2)))


def test_a_film_of_which_nothing_rings_on_is_steady_from_the_first_pass():
    assert steady(film()) == 1


def test_what_rings_into_the_next_pass_makes_the_second_the_steady_one():
    late = PlaceClip(layer="l1", frame=230, sound="s1").apply(film())
    assert steady(late) == 2


def test_a_clip_called_off_as_its_pass_ends_counts_in_that_pass():
    waits = Clip(frame=20, sound="s1", if_sounding="queue", ends="span")
    project = film(
        PutKeyframes(keyframes=(("l1", waits),)),
        ClearKeyframes(cells=(Cell("l1", 34),)),
        ChangeScene(scene="sc1", changes={"length": 34}),
    )
    assert "unqueued" in {event.kind for event in plan(project).events}
    assert steady(project) == 1


def test_copies_that_pile_up_are_never_steady_and_leaving_them_out_is():
    endless = ChangeKeyframes(cells=(Cell("l1", 10),), changes={"loops": 0})
    assert steady(film(endless)) is None
    once = ChangeKeyframes(cells=(Cell("l1", 10),), changes={"if_sounding": "skip"})
    assert steady(film(endless, once)) == 2


@settings(max_examples=80)
@given(st.one_of(projects(), plain_films().map(lambda film: film[0])), st.data())
def test_planning_after_an_edit_is_planning_anew(project, data):
    tables, run = Tables(), Run(passes=2)
    scene = project.scenes[0]
    layer = data.draw(st.sampled_from(scene.layers))
    frame = data.draw(st.integers(0, scene.length - 1))
    hush = Hush(frame=frame, target=data.draw(st.sampled_from(("layer", "all"))), fade=0.1)
    hold = Clip(frame=frame, sound="s1", sync="hold")
    edits = (
        InsertFrames(scene=scene.id, frame=0, count=1),
        PutKeyframes(keyframes=((layer.id, hush),)),
        PutKeyframes(keyframes=((layer.id, hold),)),
        ChangeLayer(layer=layer.id, changes={"past_scene": False}),
    )
    now = project
    for edit in data.draw(st.lists(st.sampled_from(edits), min_size=1, max_size=3)):
        assert plan(now, run, tables) == plan(now, run)
        now = edit.apply(now)
        assert plan(now, run, tables) == plan(now, run)
    assert plan(project, run, tables) == plan(project, run)
