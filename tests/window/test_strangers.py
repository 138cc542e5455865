"""A stranger's project: what is done in one of their own, from nothing, and with nothing lost."""

import re
from pathlib import Path

import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtGui import QDragEnterEvent, QDragMoveEvent
from PySide6.QtWidgets import QApplication, QFileDialog, QMenu

import cicada.window
from cicada.core.editing import Cell
from cicada.core.keyframe_edits import ChangeKeyframes, ClearKeyframes, MoveSpanEnd, PutKeyframes
from cicada.core.layer_edits import AddLayer, RemoveLayer
from cicada.core.model import Clip, Hush, Layer, Rest, empty_project
from cicada.core.scene_edits import AddScene, ChangeScene, PutMark, PutTempo, RemoveScene
from cicada.store.projectfile import load, save
from cicada.window.conditions import Range
from cicada.window.edges import highest
from cicada.window.hands import Move, SpanEnd
from cicada.window.hover import hover_sentence
from cicada.window.shelf_drag import sound_mime
from tests.sound_files import ring, write_sound
from tests.window.test_composing import CONTROL, NONE, SHIFT, key, pull
from tests.window.test_evening import LEFT, at, drag, drop, file_mime, point
from tests.window.test_playing import begin, play_on


@pytest.fixture
def own(window, settled, qtbot, tmp_path):
    """A new project with six sounds on the shelf and one empty layer."""
    window.document.new(empty_project("Ours"))
    settled(window)
    files = [
        write_sound(tmp_path / f"sound {number}.wav", ring(seconds=0.5 + number / 10, seed=number))
        for number in range(6)
    ]
    window.commands.on_shelf.import_files(files)
    qtbot.waitUntil(lambda: window.commands.on_shelf.importing.done, timeout=60_000)
    settled(window)
    return window


def names(window):
    return [sound.name for sound in window.document.project.sounds]


def sound(window, number=0):
    return window.document.project.sounds[number].id


def place(window, settled, *frames, layer="l1", number=0):
    for frame in frames:
        window.arranging.place(sound(window, number), Cell(layer, frame))
    settled(window)


def over(window, data, *points):
    """Carry something over the sheet without dropping it."""
    port, copy = window.sheet.viewport(), Qt.DropAction.CopyAction
    QApplication.sendEvent(port, QDragEnterEvent(points[0], copy, data, LEFT, NONE))
    for each in points:
        QApplication.sendEvent(port, QDragMoveEvent(each, copy, data, LEFT, NONE))


# -- what ended the process ---------------------------------------------------------------------


def test_a_sound_is_dragged_over_and_dropped_on_an_empty_layer(own, settled):
    spot = point(own, "l1", 20)
    over(own, sound_mime(sound(own)), spot, spot + QPoint(30, 0))
    drop(own.sheet.viewport(), sound_mime(sound(own)), spot)
    settled(own)
    assert isinstance(at(own, "l1", 20), Clip)


def test_a_layers_only_clip_is_moved_to_another_layer(own, qtbot, settled):
    own.document.do(AddLayer(scene="sc1", layer=Layer(id="l2", name="Two", keyframes=())))
    place(own, settled, 20)
    drag(qtbot, own, point(own, "l1", 21), point(own, "l2", 21))
    settled(own)
    assert isinstance(at(own, "l2", 20), Clip)
    assert own.document.project.layer("l1")[1].keyframes == ()


@pytest.mark.parametrize("taken_hold_of", ["clip", "span end", "head", "order"])
def test_a_drag_whose_layer_goes_is_let_go(own, qtbot, settled, taken_hold_of):
    own.document.do(AddLayer(scene="sc1", layer=Layer(id="l2", name="Two", keyframes=())))
    place(own, settled, 20, layer="l2")
    row = point(own, "l2", 20).y()
    start = {
        "clip": point(own, "l2", 22),
        "span end": QPoint(round(own.sheet.place.frame_x(own.sheet.span_end(Cell("l2", 20)))), row),
        "head": QPoint(144, row),
        "order": QPoint(60, row - 10),
    }[taken_hold_of]
    port = pull(qtbot, own, start, start + QPoint(20, -30))
    assert own.sheet._hand is not None
    own.document.do(RemoveLayer(layer="l2"))
    assert own.sheet._hand is None
    qtbot.mouseRelease(port, LEFT, NONE, start)
    settled(own)
    assert own.planning.up_to_date


def test_a_drag_is_let_go_when_another_scene_is_shown(own, qtbot, settled):
    own.document.do(AddScene(after="sc1", name="Two", length=50))
    place(own, settled, 20)
    start = point(own, "l1", 22)
    port = pull(qtbot, own, start, start + QPoint(60, 0))
    own.commands.actions["scene_next"].trigger()
    assert own.session.scene_id != "sc1"
    qtbot.mouseMove(port, start + QPoint(90, 0))
    qtbot.mouseRelease(port, LEFT, NONE, start + QPoint(90, 0))
    settled(own)
    assert isinstance(at(own, "l1", 20), Clip)


def test_what_comes_from_the_shelf_goes_on_over_the_scene_the_film_has_come_to(own, settled):
    own.document.do(AddScene(after="sc1", name="Two", length=50))
    settled(own)
    spot = point(own, "l1", 10)
    data = sound_mime(sound(own))
    over(own, data, spot)
    own.session.show_scene(own.document.project.scenes[1].id, playing=True)
    settled(own)
    over(own, data, spot)
    assert own.sheet._hand is not None


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


# -- trials, zoom and taking hold ---------------------------------------------------------------


@pytest.mark.parametrize("there", [0, 200])
def test_a_span_end_dragged_to_nothing_leaves_no_trial_on(own, qtbot, settled, there):
    place(own, settled, 20, 60)
    end = own.sheet.span_end(Cell("l1", 20))
    y = point(own, "l1", 20).y()
    start = QPoint(round(own.sheet.place.frame_x(end)), y)
    port = pull(qtbot, own, start, start + QPoint(30, 0))
    assert isinstance(own.sheet._hand, SpanEnd)
    back = start + QPoint(there, 0)
    qtbot.mouseMove(port, back)
    qtbot.mouseRelease(port, LEFT, NONE, back)
    settled(own)
    assert own.planning.up_to_date
    assert not own.planning.trying


def test_a_span_end_that_what_is_typed_moves_away_is_not_dragged(own, qtbot, settled):
    place(own, settled, 20, 60)
    own.session.choose(None)
    y, end = point(own, "l1", 20).y(), own.sheet.span_end(Cell("l1", 20))
    start = QPoint(round(own.sheet.place.frame_x(end)), y)
    clear = RemoveLayer(layer="l1")
    own.document.do(AddLayer(scene="sc1", layer=Layer(id="l9", keyframes=())))
    own.session.cell_changed.connect(
        lambda: len(own.session.scene.layers) > 1 and own.document.do(clear)
    )
    qtbot.mousePress(own.sheet.viewport(), LEFT, NONE, start)
    assert own.sheet._hand is None
    qtbot.mouseRelease(own.sheet.viewport(), LEFT, NONE, start)


def test_the_sheet_stays_where_it_is_looked_at_when_something_is_put_there(own, qtbot, settled):
    own.document.do(ChangeScene(scene="sc1", changes={"length": 4000}))
    settled(own)
    own.session.choose(Cell("l1", 0))
    key(qtbot, own, "End")
    left = own.sheet.place.left
    assert left > 3000
    for letter in "MRWX":
        key(qtbot, own, letter)
        settled(own)
        assert own.sheet.place.left == left


def test_the_whole_scene_stays_whole_after_an_edit_and_another_size(own, qtbot, settled):
    own.document.do(ChangeScene(scene="sc1", changes={"length": 4000}))
    settled(own)
    key(qtbot, own, "0")
    scale = own.sheet.place.scale
    key(qtbot, own, "M")
    settled(own)
    assert own.sheet.place.scale == scale
    own.resize(1000, 700)
    settled(own)
    assert own.sheet.place.frame_x(4000) <= own.sheet.viewport().width()


def test_a_new_project_is_fitted_and_begins_at_its_first_frame(harbour, settled):
    harbour.session.show_scene("sc1")
    harbour.sheet.zoom(20)
    harbour.session.move_playhead(30)
    harbour.document.new(empty_project("New", length=48))
    settled(harbour)
    assert (harbour.session.playhead, harbour.sheet.place.left) == (0, 0)
    width = harbour.sheet.viewport().width()
    assert 0.9 * width < harbour.sheet.place.frame_x(48) <= width


def test_a_keyframe_right_behind_a_clip_is_taken_hold_of(own, qtbot, settled):
    place(own, settled, 20)
    end = own.sheet.span_end(Cell("l1", 20))
    place(own, settled, end)
    column = round(own.sheet.place.frame_x(end))
    y = point(own, "l1", 20).y()
    pull(qtbot, own, QPoint(column + 1, y), QPoint(column + 40, y))
    assert isinstance(own.sheet._hand, Move)
    own.sheet.let_go()
    pull(qtbot, own, QPoint(column - 3, y), QPoint(column + 40, y))
    assert isinstance(own.sheet._hand, SpanEnd)
    own.sheet.let_go()


def test_a_left_out_clip_inside_anothers_sounding_is_chosen(own, qtbot, settled):
    own.document.do(ChangeScene(scene="sc1", changes={"length": 4000}))
    place(own, settled, 20)
    skipping = Clip(frame=24, sound=sound(own), if_sounding="skip")
    own.document.do(PutKeyframes(keyframes=(("l1", skipping),)))
    settled(own)
    key(qtbot, own, "0")
    settled(own)
    row = own.sheet.traces.row_of("l1")
    assert own.sheet.traces.rows[row].strikes
    own.sheet.zoom(4)
    x = round(own.sheet.place.frame_x(24))
    qtbot.mouseClick(own.sheet.viewport(), LEFT, pos=QPoint(x + 1, point(own, "l1", 24).y()))
    assert own.session.cell == Cell("l1", 24)


def test_several_stay_chosen_while_one_looks_about(own, qtbot, settled):
    place(own, settled, 20, 60)
    own.session.choose_all([Cell("l1", 20), Cell("l1", 60)])
    key(qtbot, own, "Right")
    assert len(own.session.chosen) == 2


def test_control_click_takes_a_chosen_clip_out_and_does_not_copy_it(own, qtbot, settled):
    place(own, settled, 20, 60)
    before = own.document.project
    own.session.choose_all([Cell("l1", 20), Cell("l1", 60)])
    qtbot.mouseClick(own.sheet.viewport(), LEFT, CONTROL, point(own, "l1", 21))
    assert own.session.chosen == {Cell("l1", 60)}
    assert own.document.project is before


# -- keys and focus -----------------------------------------------------------------------------


def test_a_click_inside_a_sound_is_where_the_next_keyframe_goes(own, qtbot, settled):
    place(own, settled, 20)
    before = at(own, "l1", 20)
    qtbot.mouseClick(own.sheet.viewport(), LEFT, pos=point(own, "l1", 26))
    assert own.session.cell == Cell("l1", 20)
    key(qtbot, own, "R")
    assert at(own, "l1", 20) == before
    assert at(own, "l1", 26) == Rest(frame=26)


def test_a_clip_that_is_replaced_is_said(own, qtbot, settled):
    place(own, settled, 20)
    own.session.choose(Cell("l1", 20))
    key(qtbot, own, "H")
    assert isinstance(at(own, "l1", 20), Hush)
    assert f"has replaced {names(own)[0]}" in own.note.text()


def test_after_typing_in_the_card_the_keys_are_the_sheets_again(own, qtbot, settled):
    own.activateWindow()
    place(own, settled, 20)
    own.session.choose(Cell("l1", 20))
    field = own.card.clip.loops
    field.setFocus()
    field.selectAll()
    qtbot.keyClicks(field, "2")
    qtbot.keyClick(field, Qt.Key.Key_Return)
    assert at(own, "l1", 20).loops == 2
    assert own.sheet.hasFocus()


def test_a_clip_that_what_is_typed_moves_away_is_not_dragged(own, qtbot, settled):
    own.activateWindow()
    place(own, settled, 20)
    own.session.choose(None)
    pressed = point(own, "l1", 21)
    clear = ClearKeyframes(cells=(Cell("l1", 20),))
    own.session.cell_changed.connect(lambda: at(own, "l1", 20) and own.document.do(clear))
    qtbot.mousePress(own.sheet.viewport(), LEFT, pos=pressed)
    qtbot.mouseMove(own.sheet.viewport(), pressed + QPoint(60, 0))
    qtbot.mouseRelease(own.sheet.viewport(), LEFT, pos=pressed + QPoint(60, 0))
    assert at(own, "l1", 20) is None


def test_what_cannot_be_read_keeps_the_keys(own, qtbot, settled):
    own.activateWindow()
    place(own, settled, 20)
    own.session.choose(Cell("l1", 20))
    field = own.card.clip.loops
    field.setFocus()
    field.selectAll()
    qtbot.keyClicks(field, "soon")
    qtbot.keyClick(field, Qt.Key.Key_Return)
    assert field.hasFocus()


def test_shift_tab_leaves_the_sentence(own, qtbot, settled):
    own.activateWindow()
    place(own, settled, 20)
    own.session.choose(Cell("l1", 20))
    settled(own)
    own.card.clip.controls["sync"].setFocus()
    passed = []
    for _ in range(30):
        focus = QApplication.focusWidget()
        passed.append(focus)
        qtbot.keyClick(focus, Qt.Key.Key_Backtab, SHIFT)
    assert own.card.words in passed
    assert passed[-1] is not own.card.words


def test_one_loop_stepped_down_stays_one(own, qtbot, settled):
    place(own, settled, 20)
    own.session.choose(Cell("l1", 20))
    field = own.card.clip.loops
    field.setFocus()
    qtbot.keyClick(field, Qt.Key.Key_Down)
    assert at(own, "l1", 20).loops == 1


def test_steps_made_in_a_row_are_undone_together(own, qtbot, settled):
    place(own, settled, 20)
    own.session.choose(Cell("l1", 20))
    before, field = own.document.project, own.card.clip.loops
    field.setFocus()
    for _ in range(4):
        qtbot.keyClick(field, Qt.Key.Key_Up)
    assert at(own, "l1", 20).loops == 5
    own.document.undo()
    assert own.document.project is before


# -- saving -------------------------------------------------------------------------------------


def typed_name(monkeypatch, *paths):
    left = [str(path) for path in paths]
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_, **__: (left.pop(0), ""))


def test_a_name_without_its_suffix_replaces_nothing_unasked(own, tmp_path, monkeypatch, answer):
    there = tmp_path / "third.cicada"
    save(empty_project("Mine"), there)
    typed_name(monkeypatch, tmp_path / "third", "")
    asked = answer("Choose another name")
    assert not own.files.save_as()
    assert "third.cicada is there already" in asked[0]
    assert load(there).name == "Mine"


def test_a_name_with_a_point_in_it_gets_the_suffix(own, tmp_path, monkeypatch):
    typed_name(monkeypatch, tmp_path / "film.v2")
    assert own.files.save_as()
    assert (tmp_path / "film.v2.cicada").exists()
    assert own.document.path.name == "film.v2.cicada"


@pytest.mark.parametrize("verb", ["Replace what is there", "Stay here"])
def test_a_file_changed_meanwhile_is_not_written_over_unasked(own, tmp_path, answer, verb):
    path = tmp_path / "ours.cicada"
    assert own.files._save(path)
    save(empty_project("Somebody's"), path)
    own.document.do(PutMark(scene="sc1", frame=3))
    answer(verb)
    own.files.save()
    assert load(path).name == ("Ours" if verb.startswith("Replace") else "Somebody's")
    # What stood there is among the versions.
    kept = [version.name for version in own.document.versions.projects(path)]
    assert ("Somebody's" in kept) == verb.startswith("Replace")


def test_a_value_being_typed_is_in_the_saved_file(own, qtbot, settled, tmp_path):
    own.activateWindow()
    place(own, settled, 20)
    own.session.choose(Cell("l1", 20))
    field = own.card.clip.loops
    field.setFocus()
    field.selectAll()
    qtbot.keyClicks(field, "7")
    path = tmp_path / "ours.cicada"
    own.files._save(path)
    assert load(path).layer("l1")[1].keyframes[0].loops == 7


def test_what_is_typed_and_cannot_be_read_is_said_with_the_save(own, qtbot, settled, tmp_path):
    own.activateWindow()
    place(own, settled, 20)
    own.session.choose(Cell("l1", 20))
    field = own.card.clip.loops
    field.setFocus()
    field.selectAll()
    qtbot.keyClicks(field, "soon")
    own.files._save(tmp_path / "ours.cicada")
    assert "is not in it" in own.note.text()
    assert field.text() == "soon"


def test_a_new_projects_pictures_are_not_those_of_the_film_before(harbour, settled, monkeypatch):
    asked = []
    fetch = type(harbour.frames._fetcher).fetch
    monkeypatch.setattr(
        type(harbour.frames._fetcher), "fetch",
        lambda self, wanted, urgency: (asked.append(wanted), fetch(self, wanted, urgency)),
    )  # fmt: skip
    harbour.document.new(empty_project("New"))
    harbour.sheet.grab()
    settled(harbour)
    assert asked == []


# -- rests, landing, frames ---------------------------------------------------------------------


def test_deleting_a_clip_takes_the_rest_along_that_gave_it_room_and_says_so(own, settled):
    place(own, settled, 20)
    assert any(isinstance(k, Rest) for k in own.document.project.layer("l1")[1].keyframes)
    own.session.choose(Cell("l1", 20))
    own.arranging.clear()
    assert own.document.project.layer("l1")[1].keyframes == ()
    assert "1 rest that gave room" in own.note.text()


def test_a_rest_of_somebodys_own_stays_when_a_clip_is_deleted(own, settled):
    place(own, settled, 20)
    own.document.do(MoveSpanEnd(layer="l1", frame=20, to=50))
    own.document.do(ClearKeyframes(cells=(Cell("l1", 20),)))
    assert own.document.project.layer("l1")[1].keyframes == (Rest(frame=50),)


def test_a_clip_placed_into_anothers_room_gets_its_own(own, settled):
    place(own, settled, 20)
    place(own, settled, 28, number=5)
    end = own.sheet.span_end(Cell("l1", 28))
    assert end - 28 > 20


def test_a_landed_clip_takes_its_rest_along(own, qtbot, settled):
    place(own, settled, 20)
    own.session.choose(Cell("l1", 20))
    key(qtbot, own, "E")
    settled(own)
    qtbot.waitUntil(lambda: bool(own.sheet.opened.grips), timeout=10_000)
    own.session.move_playhead(60)
    own.commands.shaping.land()
    settled(own)
    [clip, rest] = own.document.project.layer("l1")[1].keyframes
    assert isinstance(clip, Clip)
    assert rest.frame - clip.frame == pytest.approx(12, abs=1)
    assert clip.frame > 50


def test_landing_outside_the_scene_is_refused(own, qtbot, settled):
    from cicada.core.shaping import shaping_of
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
    assert "nothing is chosen" in own.note.text()


def test_removing_frames_says_what_goes_with_them(own, settled):
    place(own, settled, 20)
    own.document.do(PutMark(scene="sc1", frame=21, text="door"))
    own.session.move_playhead(20)
    own.arranging.remove_frames(3)
    assert "with 1 keyframe and 1 mark on them" in own.note.text()


def test_inserting_and_removing_frames_leaves_no_tempo_behind(own, settled):
    own.document.do(PutTempo(scene="sc1", frame=0, bpm=97.0))
    before = own.document.project.scenes[0].tempo
    own.session.move_playhead(31)
    own.arranging.insert_frames(7)
    own.arranging.remove_frames(7)
    assert own.document.project.scenes[0].tempo == before


# -- hearing ------------------------------------------------------------------------------------


def test_shift_h_silences_all_that_sounds_at_the_playhead(own, qtbot, settled):
    for number in (1, 2):
        layer = Layer(id=f"x{number}", name=f"X{number}", keyframes=())
        own.document.do(AddLayer(scene="sc1", layer=layer))
    for number, layer in enumerate(("l1", "x1", "x2")):
        place(own, settled, 10, layer=layer, number=number)
    own.session.move_playhead(14)
    key(qtbot, own, "H", SHIFT)
    settled(own)
    ends = {voice.sound: voice.ended for voice in own.planning.plan.voices}
    assert set(ends.values()) == {"hush"}
    own.document.undo()
    settled(own)
    assert {voice.ended for voice in own.planning.plan.voices} == {"finished"}


def test_a_hush_on_what_rings_in_from_another_scene_ends_it(own, qtbot, settled):
    own.document.do(AddScene(after="sc1", name="Two", length=50))
    own.document.do(ChangeScene(scene="sc1", changes={"length": 12}))
    place(own, settled, 8, number=5)
    second = own.document.project.scenes[1]
    own.session.show_scene(second.id)
    settled(own)
    layer = second.layers[0]
    assert own.sheet.traces.rows[0].voices
    own.session.choose(Cell(layer.id, 3))
    key(qtbot, own, "H")
    settled(own)
    assert [voice.ended for voice in own.planning.plan.voices] == ["hush"]


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
        return highest(project, layer, layer.keyframes[0], own.sounds)

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


# -- dropping and importing ---------------------------------------------------------------------


@pytest.mark.parametrize("part", ["sheet", "shelf", "picture"])
def test_a_project_dropped_anywhere_is_opened(own, qtbot, settled, tmp_path, part):
    path = tmp_path / "other.cicada"
    save(empty_project("Other"), path)
    onto = {
        "sheet": own.sheet.viewport(), "shelf": own.shelf.list.viewport(), "picture": own.picture,
    }[part]  # fmt: skip
    drop(onto, file_mime(path), point(own, "l1", 5) if part == "sheet" else QPoint(20, 20))
    qtbot.waitUntil(lambda: own.document.name == "Other", timeout=5000)
    settled(own)


def test_a_drop_below_the_layers_is_one_step(own, settled):
    before = own.document.project
    drop(own.sheet.viewport(), sound_mime(sound(own)), QPoint(400, own.sheet.place.foot - 6))
    settled(own)
    assert len(own.session.scene.layers) == 2
    own.document.undo()
    assert own.document.project is before


def test_sounds_stand_as_their_files_do(own):
    assert names(own) == [f"Sound {number}" for number in range(6)]


def test_a_new_layers_name_goes_on_with_the_count(own):
    own.commands.actions["add_layer"].trigger()
    assert [layer.name for layer in own.session.scene.layers] == ["Layer 1", "Layer 2"]


def test_several_clips_are_trimmed_and_each_keeps_its_other_end(own, qtbot, settled):
    place(own, settled, 20, 60)
    for frame, trim in ((20, (0.0, 0.4)), (60, (0.1, 0.3))):
        own.document.do(ChangeKeyframes(cells=(Cell("l1", frame),), changes={"trim": trim}))
    own.session.choose_all([Cell("l1", 20), Cell("l1", 60)])
    field = own.card.clip.head
    field.setFocus()
    qtbot.keyClicks(field, "0.2")
    qtbot.keyClick(field, Qt.Key.Key_Return)
    assert (at(own, "l1", 20).trim, at(own, "l1", 60).trim) == ((0.2, 0.4), (0.2, 0.3))


def test_lengths_take_seconds(own, answer):
    answer("12 s", "2.5 s")
    own.commands.actions["scene_length"].trigger()
    assert own.session.scene.length == 288


def test_the_rails_menu_leaves_no_menus_behind(own, qtbot):
    menu = own.rail.what.menu()
    menu.aboutToShow.emit()
    QApplication.sendPostedEvents(None, 52)
    before = len(own.findChildren(QMenu))
    for _ in range(3):
        menu.aboutToShow.emit()
        QApplication.sendPostedEvents(None, 52)
    assert len(own.findChildren(QMenu)) == before


def test_points_clicked_on_a_line_stand_on_frames(own, qtbot, settled):
    own.session.choose(Cell("l1", 0))
    own.commands.actions["open_line"].trigger()
    settled(own)
    [lane] = own.sheet.opened.lanes
    spot = QPoint(round(own.sheet.place.frame_x(30.4)), round(lane.y(lane.curve().at(30.4))))
    qtbot.mouseClick(own.sheet.viewport(), LEFT, pos=spot)
    settled(own)
    [one] = own.document.project.layer("l1")[1].line
    assert one[0] == round(one[0])


def test_a_range_of_a_scene_that_goes_is_not_played(own, settled):
    own.document.do(AddScene(after="sc1", name="Two", length=50))
    second = own.document.project.scenes[1].id
    own.conditions.mark_range(Range(second, 3, 9))
    own.document.do(RemoveScene(scene=second))
    settled(own)
    assert own.conditions.scope == "film"


# -- the window's size --------------------------------------------------------------------------


def test_the_window_becomes_as_small_as_promised(harbour, settled):
    harbour.resize(940, 500)
    settled(harbour)
    assert (harbour.width(), harbour.height()) == (940, 500)


def test_a_long_message_makes_no_window_wider(harbour, settled):
    harbour.resize(1024, 700)
    harbour.say("a long message " * 60)
    settled(harbour)
    assert harbour.width() == 1024


def test_at_1024_by_700_no_control_is_cut_off(harbour, settled):
    from PySide6.QtWidgets import QPushButton

    harbour.resize(1024, 700)
    harbour.session.choose(Cell("l6", 6))
    settled(harbour)
    for part in (harbour.rail, harbour.card, harbour.shelf):
        for button in part.findChildren(QPushButton):
            if button.isVisible() and button.text():
                place = button.mapTo(harbour, QPoint(0, 0))
                wide = button.fontMetrics().horizontalAdvance(button.text())
                assert button.width() >= wide, button.text()
                assert place.x() + button.width() <= harbour.width()


def test_rows_use_a_tall_window(own, settled):
    usual = own.sheet.place.rows[0]
    own.resize(1280, 1100)
    settled(own)
    assert own.sheet.place.rows[0] >= usual
    assert own.sheet.place.rows[0] > 60


def test_the_empty_card_offers_what_can_be_done(own, settled):
    own.session.choose(None)
    own.session.move_playhead(12)
    button = next(
        b for b in own.card._nothing.findChildren(type(own.checks)) if b.text() == "Mark it"
    )
    assert button.isVisible()
    button.click()
    assert [mark.frame for mark in own.session.scene.marks] == [12]
    assert "frame 13" in own.card.words.text()


def test_what_is_said_goes_when_the_next_edit_makes_it_old(window, qtbot):
    window.say("placed")
    window.commands.actions["mark"].trigger()
    assert window.note.text() != "Placed"
    window.say("save it to keep it", lasting=True)
    window.commands.actions["undo"].trigger()
    assert window.note.text() == "Save it to keep it"
    window.document.new(empty_project("another"))
    assert not window.note.text()


def test_scenes_added_have_names_of_their_own(window):
    for _ in range(3):
        window.commands.actions["add_scene"].trigger()
        window.session.show_scene(window.document.project.scenes[0].id)
    names = [scene.name for scene in window.document.project.scenes]
    assert len(set(names)) == 4


def test_the_shelfs_list_shows_that_it_has_the_keys(harbour, qtbot, settled):
    settled(harbour)
    harbour.activateWindow()
    harbour.session.choose_sound(sound(harbour))
    harbour.sheet.setFocus()
    qtbot.waitUntil(harbour.sheet.hasFocus)
    without = harbour.shelf.list.viewport().grab().toImage()
    harbour.shelf.list.setFocus()
    qtbot.waitUntil(harbour.shelf.list.hasFocus)
    assert harbour.shelf.list.viewport().grab().toImage() != without


def test_no_question_is_the_toolkits_own():
    for path in Path(cicada.window.__file__).parent.rglob("*.py"):
        text = path.read_text()
        assert not re.search(r"QMessageBox|QInputDialog|QDialogButtonBox", text), path.name
