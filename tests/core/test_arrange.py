"""Keyframes moved, copied, hushed and taken off."""

import pytest

from cicada.core.arrange import Shift, with_their_rests
from cicada.core.copied import copied, decoded, pasting
from cicada.core.editing import Cell
from cicada.core.keyframe_edits import (
    HushSound,
    PutKeyframes,
    TakeSoundsOff,
)
from cicada.core.layer_edits import AddLayer, ChangeLayer
from cicada.core.model import (
    Clip,
    Hush,
    Layer,
    Mark,
    Rest,
)
from cicada.core.scene_edits import (
    PutMark,
)
from cicada.errors import BadEdit
from tests.core.composed import film, frames, hushed
from tests.core.test_edits import keyframes


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
    # The rest is on the scene's last frame, and then on the one behind it.
    assert frames(shift.moving(205, 0).apply(project)) == [215, 239]
    assert frames(shift.moving(206, 0).apply(project)) == [216]
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
