"""Layers and scenes added, copied, ordered, changed and removed."""

import pytest
from msgspec.structs import replace

from cicada.core.editing import Cell
from cicada.core.keyframe_edits import (
    ChangeKeyframes,
    ClearKeyframes,
    HushSound,
    MoveKeyframes,
    PutKeyframes,
    TakeSoundsOff,
)
from cicada.core.layer_edits import AddLayer, ChangeLayer, DuplicateLayer, MoveLayer, RemoveLayer
from cicada.core.model import (
    Clip,
    Layer,
    Mark,
    PressPoint,
    Rest,
    Style,
    Tempo,
    keyframe_at,
)
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
from cicada.core.styles import ForgetStyle, KeepStyle, putting, style_of
from cicada.errors import BadEdit
from tests.core.composed import film
from tests.core.test_edits import start


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
