"""A project of one's own: what edits do to keyframes, layers and scenes."""

import pytest

from cicada.core.editing import Cell
from cicada.core.keyframe_edits import ChangeKeyframes, ClearKeyframes, MoveSpanEnd
from cicada.core.model import Clip, Rest
from cicada.core.outline import loudest
from cicada.core.scene_edits import AddScene, PutMark, PutTempo, RemoveScene
from cicada.window.sheet.hover import hover_sentence
from cicada.window.state.conditions import Range
from tests.by_hand import begin, key, play_on
from tests.own import names, place, span_end


def test_the_scene_that_plays_is_removed_and_the_playhead_follows_on(own, qtbot, settled):
    own.document.do(AddScene(after="sc1", name="Two", length=50))
    settled(own)
    second = own.document.project.scenes[1].id
    begin(own, qtbot, settled, second)
    play_on(own, lambda: own.session.playhead > 3)
    own.document.do(RemoveScene(scene=second))
    for _ in range(30):
        own.transport.follow()
    settled(own)
    assert own.session.scene_id == "sc1"
    own.transport.stop()
    begin(own, qtbot, settled, "sc1")
    play_on(own, lambda: own.session.playhead > 3)


def test_deleting_a_clip_takes_the_rest_along_that_gave_it_room_and_says_so(own, settled):
    place(own, settled, 20)
    assert any(isinstance(k, Rest) for k in own.document.project.layer("l1")[1].keyframes)
    own.session.choose(Cell("l1", 20))
    own.arranging.clear()
    assert own.document.project.layer("l1")[1].keyframes == ()
    assert "1 rest that gave room" in own.foot.note.text()


def test_a_rest_of_somebodys_own_stays_when_a_clip_is_deleted(own, settled):
    place(own, settled, 20)
    own.document.do(MoveSpanEnd(layer="l1", frame=20, to=50))
    own.document.do(ClearKeyframes(cells=(Cell("l1", 20),)))
    assert own.document.project.layer("l1")[1].keyframes == (Rest(frame=50),)


def test_a_clip_placed_into_anothers_room_gets_its_own(own, settled):
    place(own, settled, 20)
    place(own, settled, 28, number=5)
    end = span_end(own, "l1", 28)
    assert end - 28 > 20


def test_a_landed_clip_takes_its_rest_along(own, qtbot, settled):
    place(own, settled, 20)
    own.session.choose(Cell("l1", 20))
    key(qtbot, own, "E")
    settled(own)
    qtbot.waitUntil(lambda: bool(own.sheet.opened.grips), timeout=10_000)
    own.session.move_playhead(60)
    own.on_clip.landing.land()
    settled(own)
    [clip, rest] = own.document.project.layer("l1")[1].keyframes
    assert isinstance(clip, Clip)
    assert rest.frame - clip.frame == pytest.approx(12, abs=1)
    assert clip.frame > 50


def test_landing_outside_the_scene_is_refused(own, qtbot, settled):
    from cicada.core.reshaping import shaping_of
    from cicada.errors import BadEdit

    place(own, settled, 20)
    shaping = shaping_of(own.document.project, Cell("l1", 20))
    for frame in (-3, 240):
        with pytest.raises(BadEdit, match="outside the scene"):
            shaping.land(100, frame)


def test_frames_of_this_layer_go_into_nothing_else(own, settled):
    own.arranging.scope = "layer"
    own.session.choose(None)
    before = own.document.project
    own.arranging.insert_frames(1)
    own.arranging.remove_frames(1)
    assert own.document.project is before
    assert "nothing is chosen" in own.foot.note.text()


def test_removing_frames_says_what_goes_with_them(own, settled):
    place(own, settled, 20)
    own.document.do(PutMark(scene="sc1", frame=21, text="door"))
    own.session.move_playhead(20)
    own.arranging.remove_frames(3)
    assert "with 1 keyframe and 1 mark on them" in own.foot.note.text()


def test_inserting_and_removing_frames_leaves_no_tempo_behind(own, settled):
    own.document.do(PutTempo(scene="sc1", frame=0, bpm=97.0))
    before = own.document.project.scenes[0].tempo
    own.session.move_playhead(31)
    own.arranging.insert_frames(7)
    own.arranging.remove_frames(7)
    assert own.document.project.scenes[0].tempo == before


def test_choosing_a_scene_while_playing_plays_on_there(own, qtbot, settled):
    own.document.do(AddScene(after="sc1", name="Two", length=200))
    settled(own)
    begin(own, qtbot, settled, "sc1")
    play_on(own, lambda: own.session.playhead > 3)
    second = own.document.project.scenes[1].id
    own.scenes.bar.setCurrentIndex(1)
    play_on(own, lambda: own.session.playhead > 5)
    assert own.session.scene_id == second
    assert own.transport.playing


def test_how_loud_it_gets_takes_fades_and_lines_along(own, settled):
    place(own, settled, 20)
    cells = (Cell("l1", 20),)
    layer = own.document.project.layer("l1")[1]

    def peak():
        project = own.document.project
        layer = project.layer("l1")[1]
        clip = layer.keyframes[0]
        return loudest(project, layer, clip, own.sounds.peaks(clip.sound))

    loud = peak()
    own.document.do(
        ChangeKeyframes(cells=cells, changes={"level_line": ((0.0, 0.25), (9.0, 0.25))})
    )
    assert peak() == pytest.approx(loud / 4, rel=0.02)
    own.document.undo()
    own.document.do(ChangeKeyframes(cells=cells, changes={"fade_in": 0.5, "fade_out": 0.5}))
    assert peak() < 0.4 * loud
    assert layer.id == "l1"


def test_one_end_has_one_name(own, settled):
    place(own, settled, 20)
    own.session.choose(Cell("l1", 20))
    settled(own)
    said = hover_sentence(own.sheet.traces, own.sheet.traces.rows[0], 0)
    frame = own.card.words.text().partition("rings out</a> on frame ")[2].split(",")[0]
    assert f"is over on frame {frame} " in said


def test_sounds_stand_as_their_files_do(own):
    assert names(own) == [f"Sound {number}" for number in range(6)]


def test_a_new_layers_name_goes_on_with_the_count(own):
    own.menus.actions["add_layer"].trigger()
    assert [layer.name for layer in own.session.scene.layers] == ["Layer 1", "Layer 2"]


def test_a_range_of_a_scene_that_goes_is_not_played(own, settled):
    own.document.do(AddScene(after="sc1", name="Two", length=50))
    second = own.document.project.scenes[1].id
    own.conditions.mark_range(Range(second, 3, 9))
    own.document.do(RemoveScene(scene=second))
    settled(own)
    assert own.conditions.scope == "film"


def test_scenes_added_have_names_of_their_own(window):
    for _ in range(3):
        window.menus.actions["add_scene"].trigger()
        window.session.show_scene(window.document.project.scenes[0].id)
    names = [scene.name for scene in window.document.project.scenes]
    assert len(set(names)) == 4
