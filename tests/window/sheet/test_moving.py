"""Keyframes are chosen, moved, copied and pasted by mouse and keys."""

import pytest
from PySide6.QtCore import QPoint
from PySide6.QtWidgets import QPushButton

from cicada.core.editing import Cell
from cicada.core.model import Clip, Rest
from tests.by_hand import ALT, CONTROL, LEFT, SHIFT, at, drag, key, point, pull


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
