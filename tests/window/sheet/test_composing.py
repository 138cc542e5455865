"""A film's sounds laid out by hand: mouse and keys on the real sheet."""

import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtWidgets import QApplication, QDialog, QPushButton

from cicada.core.editing import Cell
from cicada.core.keyframe_edits import ChangeKeyframes
from cicada.core.model import Clip, Hush, Rest, keyframe_at
from cicada.core.scene_edits import PutTempo
from cicada.window.drawing.layout import HEAD
from cicada.window.widgets.drag import sound_mime
from tests.by_hand import ALT, CONTROL, LEFT, NONE, SHIFT, at, drag, drop, key, point, pull


def names(window):
    return [layer.name for layer in window.session.scene.layers]


# -- choosing and moving ------------------------------------------------------------------------


def test_a_marquee_chooses_the_keyframes_in_it(harbour, qtbot):
    start = QPoint(round(harbour.sheet.place.frame_x(63)), point(harbour, "l4", 60).y())
    drag(qtbot, harbour, start, point(harbour, "l5", 100) + QPoint(0, 4))
    assert harbour.session.cells() == (Cell("l5", 68), Cell("l5", 84))


def test_control_click_adds_and_shift_click_chooses_up_to_there(harbour, qtbot):
    port = harbour.sheet.viewport()
    qtbot.mouseClick(port, LEFT, pos=point(harbour, "l5", 2))
    qtbot.mouseClick(port, LEFT, CONTROL, point(harbour, "l8", 86))
    assert set(harbour.session.cells()) == {Cell("l5", 0), Cell("l8", 84)}
    qtbot.mouseClick(port, LEFT, pos=point(harbour, "l5", 70))
    qtbot.mouseClick(port, LEFT, SHIFT, point(harbour, "l5", 138))
    chosen = [cell.frame for cell in harbour.session.cells()]
    assert chosen == [68, 84, 90, 136]


def test_several_are_moved_together_by_key_and_taken_back_at_once(harbour, qtbot):
    before = harbour.document.project
    harbour.session.choose_all([Cell("l5", 68), Cell("l9", 24)])
    key(qtbot, harbour, "Right", ALT)
    key(qtbot, harbour, "Right", ALT | SHIFT)
    assert isinstance(at(harbour, "l5", 79), Clip)
    assert isinstance(at(harbour, "l9", 35), Clip)
    assert at(harbour, "l9", 39) == Rest(frame=39)
    harbour.document.undo()
    harbour.document.undo()
    assert harbour.document.project is before


def test_a_drag_snaps_to_a_mark_unless_alt_is_held(harbour, qtbot, settled):
    start = point(harbour, "l8", 86)
    near = QPoint(start.x() + round(harbour.sheet.place.scale * 71), start.y())
    drag(qtbot, harbour, start, near)
    settled(harbour)
    assert isinstance(at(harbour, "l8", 156), Clip)
    harbour.document.undo()
    settled(harbour)
    port = pull(qtbot, harbour, start, near, ALT)
    qtbot.mouseRelease(port, LEFT, ALT, near)
    assert isinstance(at(harbour, "l8", 155), Clip)


def test_copying_by_control_drag_leaves_what_was_copied(harbour, qtbot, settled):
    start, end = point(harbour, "l9", 83), point(harbour, "l4", 83)
    qtbot.mouseClick(harbour.sheet.viewport(), LEFT, pos=start)
    port = pull(qtbot, harbour, start, end, CONTROL)
    qtbot.mouseRelease(port, LEFT, CONTROL, end)
    settled(harbour)
    assert at(harbour, "l9", 82).sound == at(harbour, "l4", 82).sound


def test_a_copy_goes_to_another_layer_and_to_another_scene(harbour, qtbot, settled):
    harbour.session.choose_all([Cell("l6", 6)])
    key(qtbot, harbour, "C", CONTROL)
    harbour.session.move_playhead(100)
    harbour.session.choose(Cell("l4", 100))
    key(qtbot, harbour, "V", CONTROL)
    wanted = at(harbour, "l6", 6)
    assert at(harbour, "l4", 100) == Clip(frame=100, sound=wanted.sound, loops=3, loop_overlap=0.08)
    assert at(harbour, "l4", 112) == Rest(frame=112)
    harbour.session.show_scene("sc3")
    harbour.session.move_playhead(30)
    key(qtbot, harbour, "V", CONTROL)
    assert at(harbour, "l11", 30).loops == 3
    key(qtbot, harbour, "X", CONTROL)
    assert at(harbour, "l11", 30) is None


def test_keyframes_pasted_into_another_project_bring_their_sounds(harbour, qtbot, settled):
    from cicada.core.model import empty_project

    harbour.session.choose_all([Cell("l6", 6)])
    key(qtbot, harbour, "C", CONTROL)
    bell = harbour.document.project.sound(at(harbour, "l6", 6).sound)
    harbour.document.new(empty_project("Elsewhere"))
    settled(harbour)
    key(qtbot, harbour, "V", CONTROL)
    settled(harbour)
    [sound] = harbour.document.project.sounds
    assert (sound.name, sound.hash) == (bell.name, bell.hash)
    assert (harbour.document.file.parent / sound.file).exists()
    [layer] = [x for x in harbour.session.scene.layers if x.keyframes]
    assert layer.keyframes[0].sound == sound.id
    assert harbour.document.undo_title == "paste 2 keyframes"


def test_duplicating_puts_the_copy_right_behind(harbour, qtbot):
    harbour.session.choose_all([Cell("l9", 24)])
    key(qtbot, harbour, "D", CONTROL)
    assert at(harbour, "l9", 28).sound == at(harbour, "l9", 24).sound


def test_sync_of_five_clips_is_changed_at_once_and_what_differs_is_said(harbour, qtbot, settled):
    cells = [Cell("l5", frame) for frame in (0, 68, 136, 204)]
    harbour.session.choose_all([*cells, Cell("l4", 10)])
    settled(harbour)
    card = harbour.card
    assert "5 clips on 2 layers" in card.words.text()
    sync = card.clip.controls["sync"].parent()
    assert sync.accessibleDescription() == "mixed"
    assert not any(button.isChecked() for button in sync.buttons.values())
    assert card.clip.controls["loops"].text() == "1"
    assert card.clip.controls["level"].text() != ""
    qtbot.mouseClick(sync.buttons["locked"], LEFT)
    changed = [at(harbour, cell.layer, cell.frame).sync for cell in harbour.session.cells()]
    assert changed == ["locked"] * 5
    assert harbour.document.undo_title == "change keeps time of 4 keyframes"
    assert sync.buttons["locked"].isChecked()


def test_a_field_that_differs_says_mixed_and_sets_all(harbour, qtbot, settled):
    harbour.session.choose_all([Cell("l6", 6), Cell("l9", 24)])
    loops = harbour.card.clip.controls["loops"]
    assert (loops.text(), loops.placeholderText()) == ("", "mixed")
    loops.setText("2")
    loops.setModified(True)
    loops.editingFinished.emit()
    assert (at(harbour, "l6", 6).loops, at(harbour, "l9", 24).loops) == (2, 2)


def test_every_field_of_a_clip_is_on_the_card(harbour, qtbot, settled):
    harbour.session.choose_all([Cell("l7", 0)])
    card = harbour.card
    line = card.clip.controls["level_line"]
    assert line.text() == "0 s 50 %; 2 s 100 %; 4.5 s 60 %"
    line.setText("0 s 20 % smooth; 12 f -6 dB")
    line.setModified(True)
    line.editingFinished.emit()
    assert at(harbour, "l7", 0).level_line == ((0.0, 0.2, "smooth"), (0.5, 0.501187))
    line.setText("1 s 20 %; 0 s 30 %")
    line.setModified(True)
    line.editingFinished.emit()
    assert "order" in line.accessibleDescription()
    buttons = {b.accessibleName(): b for b in card.findChildren(QPushButton)}
    card.parts.setCurrentIndex(3)
    qtbot.mouseClick(buttons["lines over: Each loop"], LEFT)
    card.parts.setCurrentIndex(0)
    qtbot.mouseClick(buttons["it is: This layer"], LEFT)
    qtbot.mouseClick(buttons["on or off: Off"], LEFT)
    clip = at(harbour, "l7", 0)
    assert (clip.line_over, clip.busy, clip.off) == ("loop", "layer", True)


def test_a_clip_is_moved_to_the_playhead(harbour, qtbot):
    harbour.session.choose_all([Cell("l9", 24)])
    harbour.session.move_playhead(60)
    key(qtbot, harbour, "N", SHIFT)
    assert isinstance(at(harbour, "l9", 60), Clip)


def test_all_clips_of_a_sound_are_chosen_and_given_another(harbour, qtbot):
    harbour.session.choose_all([Cell("l5", 0)])
    key(qtbot, harbour, "A", CONTROL | SHIFT)
    assert len(harbour.session.chosen) == 5
    harbour.session.choose_sound("s8")
    key(qtbot, harbour, "P", SHIFT)
    swapped = [k for _, k in harbour.session.keyframes()]
    assert {(k.sound, k.if_sounding) for k in swapped} == {("s8", "skip")}


@pytest.mark.parametrize(("with_key", "left"), [("R", Rest(frame=68)), ("M", None)])
def test_a_sound_is_taken_off_and_its_place_kept(harbour, qtbot, with_key, left):
    harbour.session.choose_all([Cell("l5", 68)])
    key(qtbot, harbour, with_key, SHIFT)
    assert at(harbour, "l5", 68) == left
    marks = [mark.text for mark in harbour.session.scene.marks if mark.frame == 68]
    assert marks == ([] if left else ["Sweep"])


# -- what a drop costs --------------------------------------------------------------------------


def test_what_a_drop_would_cut_is_said_and_planned_before_it_is_dropped(harbour, qtbot, settled):
    before = harbour.document.project
    start, end = point(harbour, "l8", 86), point(harbour, "l4", 20)
    port = pull(qtbot, harbour, start, end)
    hand = harbour.sheet._hand
    qtbot.waitUntil(lambda: harbour.planning.trying)
    assert harbour.document.project is before
    assert [(loss.cell, loss.frames) for loss in hand.found] == [(Cell("l4", 10), 32)]
    trial = keyframe_at(harbour.planning.project.layer("l4")[1], 18)
    assert isinstance(trial, Clip)
    qtbot.keyClick(harbour.sheet, Qt.Key.Key_Escape)
    qtbot.mouseRelease(port, LEFT, NONE, end)
    settled(harbour)
    assert harbour.document.project is before
    assert harbour.planning.project is before


def test_a_sound_over_a_layer_shows_what_it_would_replace(harbour, qtbot, settled):
    from PySide6.QtGui import QDragEnterEvent

    data = sound_mime("s8")
    where = point(harbour, "l9", 24)
    port = harbour.sheet.viewport()
    event = QDragEnterEvent(where, Qt.DropAction.CopyAction, data, LEFT, NONE)
    QApplication.sendEvent(port, event)
    assert [(loss.cell, loss.frames) for loss in harbour.sheet._hand.found] == [(Cell("l9", 24), 0)]
    harbour.grab()
    drop(port, data, where)
    assert at(harbour, "l9", 24).sound == "s8"


# -- hushing ------------------------------------------------------------------------------------


def test_hush_from_what_is_sounding_stands_on_its_own_layer(harbour, qtbot, settled):
    harbour.session.choose(Cell("l7", 0))
    harbour.session.move_playhead(60)
    harbour.menus.actions["hush_chosen"].trigger()
    settled(harbour)
    put = at(harbour, "l7", 60)
    assert (put.target, put.sound) == ("sound", at(harbour, "l7", 0).sound)
    assert "it ends Rain bed" in harbour.card.words.text()


def test_a_hush_that_would_cut_another_clip_goes_to_a_layer_of_its_own(harbour, qtbot, settled):
    # On frame 65 the waiting bell's span is under way on the layer of the one that sounds.
    harbour.document.do(ChangeKeyframes(cells=(Cell("l6", 6),), changes={"loops": 5}, what="loops"))
    settled(harbour)
    harbour.session.choose(Cell("l6", 6))
    harbour.session.move_playhead(60)
    key(qtbot, harbour, "H", SHIFT)
    assert names(harbour)[-1] == "Hushes"
    assert isinstance(harbour.session.scene.layers[-1].keyframes[0], Hush)
    settled(harbour)
    assert harbour.sheet.traces.ties[0].hush


# -- layers -------------------------------------------------------------------------------------


def test_layers_are_ordered_by_dragging_their_heads(harbour, qtbot, settled):
    port, place = harbour.sheet.viewport(), harbour.sheet.place
    start = QPoint(60, place.row_top(3) + 10)
    end = QPoint(60, place.row_top(0) + 6)
    qtbot.mousePress(port, LEFT, pos=start)
    qtbot.mouseMove(port, (start + end) / 2)
    qtbot.mouseMove(port, end)
    harbour.sheet.viewport().grab()
    qtbot.mouseRelease(port, LEFT, pos=end)
    assert names(harbour)[:2] == ["Rain bed", "Keeper's line"]


def test_a_layer_is_duplicated_moved_switched_and_removed_by_key(harbour, qtbot, settled):
    harbour.session.choose(Cell("l5", 68))
    key(qtbot, harbour, "D", SHIFT)
    assert names(harbour)[1:3] == ["Beam sweep", "Beam sweep 2"]
    key(qtbot, harbour, "Down", CONTROL)
    assert names(harbour)[1:3] == ["Beam sweep 2", "Beam sweep"]
    for letter, field in (("X", "mute"), ("S", "solo"), ("G", "guarded")):
        key(qtbot, harbour, letter)
        assert getattr(harbour.session.layer(), field)
    before = harbour.document.project
    key(qtbot, harbour, "Delete")
    assert harbour.document.project is before
    key(qtbot, harbour, "G")
    key(qtbot, harbour, "O", SHIFT)
    assert harbour.session.layer().off
    key(qtbot, harbour, "L", CONTROL | SHIFT)
    assert "Beam sweep" not in names(harbour)


def test_level_and_height_are_dragged_in_the_head(harbour, qtbot, settled):
    port, place = harbour.sheet.viewport(), harbour.sheet.place
    top, tall = place.row_top(0), place.rows[0]
    bar = QPoint(HEAD - 27, top + 20)
    qtbot.mousePress(port, LEFT, pos=bar)
    qtbot.mouseMove(port, QPoint(HEAD - 27, top + 14))
    qtbot.mouseMove(port, QPoint(HEAD - 27, top + 8))
    qtbot.mouseRelease(port, LEFT, pos=QPoint(HEAD - 27, top + 8))
    assert harbour.session.scene.layers[0].level == 2.0
    edge = QPoint(80, top + tall - 1)
    qtbot.mousePress(port, LEFT, pos=edge)
    qtbot.mouseMove(port, edge + QPoint(0, 30))
    qtbot.mouseRelease(port, LEFT, pos=edge + QPoint(0, 30))
    assert harbour.sheet.place.rows[0] == tall + 30


def test_the_card_of_a_layer_sets_its_level_and_what_its_end_does(harbour, qtbot, settled):
    harbour.session.choose(Cell("l8", 30))
    card = harbour.card
    card.empty.level.setText("-6 dB")
    card.empty.level.setModified(True)
    card.empty.level.editingFinished.emit()
    qtbot.mouseClick(card.empty.past_scene.buttons["stops"], LEFT)
    layer = harbour.document.project.layer("l8")[1]
    assert (round(layer.level, 3), layer.past_scene) == (0.501, False)


# -- scenes -------------------------------------------------------------------------------------


def test_scenes_are_ordered_by_dragging_their_tabs(harbour, qtbot, settled):
    bar = harbour.scenes.bar
    start, end = bar.tabRect(2).center(), bar.tabRect(0).center() - QPoint(30, 0)
    qtbot.mousePress(bar, LEFT, pos=start)
    for share in (0.2, 0.6, 1.0):
        qtbot.mouseMove(bar, start + (end - start) * share)
    qtbot.mouseRelease(bar, LEFT, pos=end)
    qtbot.waitUntil(lambda: harbour.document.project.scenes[0].name == "Dawn")
    assert [bar.tabText(index) for index in range(3)] == ["Dawn", "Dusk", "Night"]
    assert harbour.session.scene.name == "Dawn"
    harbour.document.undo()
    assert harbour.document.project.scenes[2].name == "Dawn"


def test_a_scene_is_added_named_lengthened_and_removed(harbour, qtbot, settled, answer):
    qtbot.mouseClick(harbour.scenes.add, LEFT)
    field = harbour.scenes.name_field
    field.setText("Storm")
    qtbot.keyClick(field, Qt.Key.Key_Return)
    assert [s.name for s in harbour.document.project.scenes] == ["Dusk", "Night", "Storm", "Dawn"]
    assert harbour.session.scene.name == "Storm"
    assert names(harbour)[0] == "Keeper's line"
    harbour.session.show_scene("sc2")
    answer("100")
    harbour.menus.actions["scene_length"].trigger()
    assert harbour.session.scene.length == 100
    assert "keyframes" in harbour.foot.note.text()
    assert "past the scene's end" in harbour.foot.note.text()
    harbour.menus.actions["duplicate_scene"].trigger()
    assert harbour.session.scene.name == "Night 2"
    harbour.menus.actions["remove_scene"].trigger()
    assert "Night 2" not in [s.name for s in harbour.document.project.scenes]


def test_escape_leaves_a_name_as_it_was(harbour, qtbot, settled):
    before = harbour.document.project
    harbour.menus.actions["rename_scene"].trigger()
    field = harbour.scenes.name_field
    qtbot.keyClicks(field, "Storm")
    qtbot.keyClick(field, Qt.Key.Key_Escape)
    harbour.session.choose(Cell("l6", 6))
    harbour.menus.actions["rename_layer"].trigger()
    qtbot.keyClicks(harbour.sheet.name_field, "Low bell")
    qtbot.keyClick(harbour.sheet.name_field, Qt.Key.Key_Escape)
    assert harbour.document.project is before


def test_what_sounds_from_the_scene_before_enters_from_the_left(harbour, settled):
    row = next(r for r in harbour.sheet.traces.rows if r.name == "Foghorn")
    carried = [trace for trace in row.traces if trace.come_from]
    assert [(trace.name, trace.come_from, trace.start) for trace in carried] == [
        ("Waves", "Dusk", 0.0)
    ]


def test_a_double_click_on_what_is_carried_over_goes_to_its_keyframe(harbour, qtbot, settled):
    where = point(harbour, "l8", 20)
    qtbot.mouseDClick(harbour.sheet.viewport(), LEFT, pos=where)
    assert harbour.session.scene_id == "sc1"
    assert harbour.session.cell == Cell("l1", 0)


# -- steps, keys, looks -------------------------------------------------------------------------


def test_choosing_a_step_goes_back_to_it(harbour, qtbot, settled):
    before = harbour.document.project
    for frame in (100, 110):
        harbour.document.do(PutTempo(scene="sc2", frame=frame, bpm=90.0))
    harbour.menus.do("history")
    steps = next(d for d in harbour.findChildren(QDialog) if d.windowTitle() == "All steps")
    assert [steps.list.item(row).text() for row in range(3)] == [
        "as it was opened",
        "Set the tempo",
        "Set the tempo",
    ]
    steps.list.setCurrentRow(0)
    assert harbour.document.project is before
    steps.list.setCurrentRow(2)
    assert len(harbour.session.scene.tempo) == 2
    steps.close()


def test_an_edit_while_the_film_plays_is_heard_at_once(harbour, qtbot, settled):
    key(qtbot, harbour, "Space")
    qtbot.waitUntil(lambda: harbour.session.playhead > 5, timeout=20_000)
    harbour.document.do(ChangeKeyframes(cells=(Cell("l7", 0),), changes={"off": True}))
    qtbot.waitUntil(lambda: harbour.planning.up_to_date)
    loaded = harbour.transport._link._player.heard[-1]
    assert harbour.transport.playing
    assert loaded.plan is harbour.planning.plan
    assert "l7" not in {voice.layer for voice in loaded.plan.voices}
    key(qtbot, harbour, "Space")


def test_the_help_lists_every_key_and_draws_every_shape(harbour, qtbot, settled):
    key(qtbot, harbour, "F1")
    key(qtbot, harbour, "F1", SHIFT)
    dialogs = {d.windowTitle(): d for d in harbour.findChildren(QDialog)}
    text = dialogs["Keys"].table.text()
    for action in harbour.menus.actions.values():
        assert action.shortcut().toString() in text
    picture = dialogs["Shapes on the sheet"].grab().toImage()
    assert len({picture.pixel(x, y) for x in range(0, 400, 3) for y in range(0, 400, 3)}) > 30
    for dialog in dialogs.values():
        dialog.close()


def test_night_and_day_can_be_changed_and_are_remembered(harbour, settled):
    by_day = harbour.grab().toImage().pixelColor(900, 10).lightness()
    harbour.menus.actions["night"].trigger()
    settled(harbour)
    by_night = harbour.grab().toImage().pixelColor(900, 10).lightness()
    assert by_day > 200
    assert by_night < 60
    assert harbour.settings.value("window/night") in (True, "true")
    harbour.menus.actions["night"].trigger()
