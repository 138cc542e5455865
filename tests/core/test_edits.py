"""Edits: what each does, and that taking them back gives the identical project."""

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from msgspec.structs import replace

from cicada.core.all_edits import KINDS, decoded, encoded
from cicada.core.copied import Copied, brought
from cicada.core.editing import Cell, Edit, plainly
from cicada.core.keyframe_edits import (
    ChangeKeyframes,
    MoveKeyframes,
    MoveSpanEnd,
    PlaceClip,
    PutKeyframes,
)
from cicada.core.layer_edits import ChangeLayer, RemoveLayer
from cicada.core.model import Clip, Hush, Rest, Sound, Take, empty_project
from cicada.core.scene_edits import ChangeProject, ChangeScene, RemoveScene
from cicada.core.shelf_edits import (
    AddSounds,
    AddTake,
    ChangeSounds,
    RemoveSounds,
    ReplaceSound,
    TagSounds,
    UseTake,
)
from cicada.errors import BadEdit
from cicada.store.projectfile import dumps, loads
from tests.core.random_edits import any_edit

BELL = Sound(id="s1", name="Bell", frames=48000, rate=48000, channels=1)


def start():
    return AddSounds(sounds=(BELL,)).apply(empty_project("Test"))


def keyframes(project):
    return {k.frame: k for k in project.scenes[0].layers[0].keyframes}


def test_placing_makes_room_up_to_where_the_sound_ends():
    assert keyframes(PlaceClip(layer="l1", frame=6, sound="s1").apply(start())) == {
        6: Clip(frame=6, sound="s1"),
        30: Rest(frame=30),
    }


def test_placing_stops_at_the_next_keyframe():
    project = PutKeyframes(keyframes=(("l1", Hush(frame=10)),)).apply(start())
    placed = keyframes(PlaceClip(layer="l1", frame=6, sound="s1").apply(project))
    assert sorted(placed) == [6, 10]


def test_a_span_end_takes_its_rest_along_and_stops_at_a_clip():
    project = PlaceClip(layer="l1", frame=6, sound="s1").apply(start())
    shorter = MoveSpanEnd(layer="l1", frame=6, to=12).apply(project)
    assert sorted(keyframes(shorter)) == [6, 12]
    crowded = PutKeyframes(keyframes=(("l1", Clip(frame=20, sound="s1")),)).apply(shorter)
    assert sorted(keyframes(MoveSpanEnd(layer="l1", frame=6, to=40).apply(crowded))) == [6, 20]


def test_moving_replaces_what_it_lands_on():
    project = PlaceClip(layer="l1", frame=6, sound="s1").apply(start())
    moved = keyframes(MoveKeyframes(moves=((Cell("l1", 6), Cell("l1", 30)),)).apply(project))
    assert moved == {30: Clip(frame=30, sound="s1")}


def test_a_sound_taken_off_the_shelf_leaves_rests():
    project = PlaceClip(layer="l1", frame=6, sound="s1").apply(start())
    left = RemoveSounds(sounds=("s1",)).apply(project)
    assert left.sounds == ()
    assert keyframes(left)[6] == Rest(frame=6)


@pytest.mark.parametrize(
    "edit",
    [
        ChangeKeyframes(cells=(Cell("l1", 99),), changes={"loops": 2}),
        ChangeKeyframes(cells=(Cell("l1", 6),), changes={"level": 17}),
        ChangeKeyframes(cells=(Cell("l1", 6),), changes={"colour": "red"}),
        MoveKeyframes(moves=((Cell("l1", 6), Cell("l1", -1)),)),
        PlaceClip(layer="l1", frame=6, sound="gone"),
        PlaceClip(layer="l1", frame=900, sound="s1"),
        MoveKeyframes(moves=((Cell("gone", 6), Cell("l1", 7)),)),
        PutKeyframes(keyframes=(("gone", Rest(frame=1)),)),
        RemoveLayer(layer="gone"),
        ChangeScene(scene="gone", changes={}),
        RemoveScene(scene="sc1"),
        AddSounds(sounds=(BELL,)),
        PutKeyframes(keyframes=(("l1", Clip(frame=1, sound="gone")),)),
        ChangeProject(changes={"fps": (0, 1)}),
    ],
    ids=lambda edit: f"{type(edit).__name__}",
)
def test_an_edit_that_does_not_fit_is_refused_with_a_sentence(edit):
    project = PlaceClip(layer="l1", frame=6, sound="s1").apply(start())
    with pytest.raises(BadEdit, match=";"):
        edit.apply(project)


def test_a_guarded_layer_can_be_read_and_freed_but_not_edited():
    project = ChangeLayer(layer="l1", changes={"guarded": True}).apply(start())
    with pytest.raises(BadEdit, match="guarded"):
        PlaceClip(layer="l1", frame=0, sound="s1").apply(project)
    assert (
        not ChangeLayer(layer="l1", changes={"guarded": False})
        .apply(project)
        .layer("l1")[1]
        .guarded
    )


def test_a_value_equal_to_its_default_is_that_default():
    clip = Clip(frame=1, sound="s1", level=float("1.0"), level_line=(), loops=2)
    same = plainly(clip)
    assert same is not clip
    assert same == clip
    assert (same.level is Clip(frame=0, sound="x").level, same.loops) == (True, 2)
    assert plainly(same) is same


@settings(max_examples=50)
@given(st.lists(any_edit, max_size=60))
def test_undo_gives_back_the_identical_project_and_a_file_keeps_it(edits):
    steps = [start()]
    for edit in edits:
        assert edit.title
        try:
            steps.append(edit.apply(steps[-1]))
        except BadEdit:
            continue
        except ValueError:
            pytest.fail("an edit raised something other than BadEdit")
    before = [dumps(step) for step in steps]
    assert [dumps(step) for step in steps] == before
    # Only what is written says which version it is.
    read = loads(before[-1])
    assert replace(read, version=steps[-1].version) == steps[-1]


def test_a_sound_is_renamed_and_only_one_that_is_there():
    renamed = ChangeSounds(sounds=("s1",), changes={"name": "Gong"}).apply(start())
    assert renamed.sounds[0].name == "Gong"
    for edit in (ChangeSounds(sounds=("gone",), changes={}), RemoveSounds(sounds=("gone",))):
        with pytest.raises(BadEdit, match="no sound"):
            edit.apply(start())


def test_a_sound_with_nothing_in_it_needs_no_room():
    empty = AddSounds(sounds=(Sound(id="s2", frames=0, rate=48000, channels=1),)).apply(start())
    assert list(keyframes(PlaceClip(layer="l1", frame=6, sound="s2").apply(empty))) == [6]


def test_a_keyframe_past_the_end_of_the_scene_is_refused():
    with pytest.raises(BadEdit, match="outside the scene"):
        PutKeyframes(keyframes=(("l1", Rest(frame=240)),)).apply(start())


def test_titles_say_what_undo_would_take_back():
    titles = {
        AddSounds(sounds=(BELL, BELL)): "import 2 sounds",
        AddSounds(sounds=(BELL,)): "import Bell",
        RemoveSounds(sounds=("s1",)): "remove the sound",
        PutKeyframes(keyframes=(("l1", Hush(frame=1)),)): "put a hush",
    }
    assert {edit.title for edit in titles} == set(titles.values())
    assert ChangeProject(changes={}).title == "change the project's settings"
    assert ChangeLayer(layer="l1", changes={"name": "x"}).title == "rename the layer"
    assert ChangeSounds(sounds=("s1",), changes={"name": "x"}).title == "rename the sound"
    assert ChangeScene(scene="sc1", changes={"length": 3}).title == "change the scene's length"
    assert (
        ChangeLayer(layer="l1", changes={"past_scene": False}).title
        == "change the layer's past scene"
    )


HORN = Sound(id="s2", name="Horn", frames=24000, rate=48000, channels=1)
TAKE = Take(
    name="again.wav", file="x.wav", hash="blake2b:" + 40 * "2", frames=9600, rate=48000, channels=2
)


def test_every_clip_and_hush_of_a_sound_becomes_one_of_another():
    project = AddSounds(sounds=(HORN,)).apply(start())
    project = PlaceClip(layer="l1", frame=6, sound="s1").apply(project)
    hush = Hush(frame=40, target="sound", sound="s1")
    project = PutKeyframes(keyframes=(("l1", hush),)).apply(project)
    changed = keyframes(ReplaceSound(sound="s1", by="s2").apply(project))
    assert (changed[6], changed[40].sound) == (Clip(frame=6, sound="s2"), "s2")


def test_a_guarded_layer_keeps_its_sound():
    project = PlaceClip(layer="l1", frame=6, sound="s1").apply(start())
    project = ChangeLayer(layer="l1", changes={"guarded": True}).apply(project)
    with pytest.raises(BadEdit, match="guarded"):
        RemoveSounds(sounds=("s1",)).apply(project)


def test_a_tag_is_put_on_once_and_taken_off_again():
    twice = TagSounds(sounds=("s1",), tagged="wet").apply(
        TagSounds(sounds=("s1",), tagged="wet").apply(start())
    )
    assert twice.sounds[0].tags == ("wet",)
    assert TagSounds(sounds=("s1",), tagged="wet", off=True).apply(twice) == start()


def test_a_take_is_what_the_sound_is_and_the_one_before_can_be_used_again():
    project = PlaceClip(layer="l1", frame=6, sound="s1").apply(start())
    taken = AddTake(sound="s1", take=TAKE).apply(project)
    sound = taken.sounds[0]
    assert (sound.id, sound.name, sound.frames, sound.hash) == ("s1", "Bell", 9600, TAKE.hash)
    assert [(take.name, take.frames) for take in sound.takes] == [("take 1", 48000)]
    assert taken.scenes == project.scenes
    back = UseTake(sound="s1", index=0).apply(taken).sounds[0]
    assert (back.frames, back.hash) == (48000, "")
    assert [take.frames for take in back.takes] == [9600]
    with pytest.raises(BadEdit):
        UseTake(sound="s1", index=5).apply(taken)


def test_edits_of_the_shelf_are_named():
    named = {
        TagSounds(sounds=("s1",), tagged="wet"): "tag with wet",
        TagSounds(sounds=("s1",), tagged="wet", off=True): "take the tag wet off",
        ReplaceSound(sound="s1", by="s2"): "replace the sound everywhere",
        AddTake(sound="s1", take=TAKE): "take in again.wav",
        UseTake(sound="s1", index=0): "use another take",
        RemoveSounds(sounds=("s1", "s2")): "remove 2 sounds",
    }
    assert {edit.title for edit in named} == set(named.values())
    many = ChangeSounds(sounds=("s1", "s2"), changes={"folder": "Water"})
    assert many.title == "change the folder of 2 sounds"


@given(any_edit)
def test_every_edit_reads_back_as_it_was(edit):
    assert decoded(encoded(edit)) == edit


def test_all_kinds_of_edits_can_be_read_back():
    def below(kind):
        for each in kind.__subclasses__():
            yield from below(each)
            if not each.__name__.startswith("_"):
                yield each

    assert set(below(Edit)) == set(KINDS)


@given(st.binary() | st.from_regex(rb'\{"edit": "[a-z-]*", "edits": [^"]*\}', fullmatch=True))
def test_no_bytes_but_an_edit_are_read_as_one(data):
    with pytest.raises(BadEdit):
        decoded(data)


def test_an_edit_nobody_knows_is_refused_whatever_it_is_inside_of():
    for data in (b'{"edit": "fold"}', b"3", b'{"edit": "several", "edits": [{"edit": "fold"}]}'):
        with pytest.raises(BadEdit, match="there is no such edit"):
            decoded(data)


def test_a_layer_that_is_not_in_a_scene_is_not_found():
    with pytest.raises(KeyError):
        empty_project("x").scenes[0].layer("gone")


def test_a_pasted_sound_is_known_by_its_bytes_whatever_its_id_is_here():
    bell = Sound(id="s1", frames=10, rate=8000, channels=1, hash="blake2b:" + "0" * 40)
    project = replace(empty_project("x"), sounds=(bell,))
    copy = Copied(file="", sounds=(replace(bell, id="s7"),), keyframes=())
    assert brought(project, copy, lambda sound: sound) == ((), {"s7": "s1"})
