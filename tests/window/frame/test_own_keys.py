"""A project of one's own: keys, and what is typed."""

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QApplication

from cicada.core.editing import Cell
from cicada.core.keyframe_edits import ChangeKeyframes
from cicada.core.layer_edits import AddLayer
from cicada.core.model import Hush, Layer, Rest
from cicada.core.scene_edits import AddScene, ChangeScene
from tests.by_hand import LEFT, SHIFT, at, key, point
from tests.own import names, place, sound, type_loops


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
    assert f"has replaced {names(own)[0]}" in own.foot.note.text()


def test_after_typing_in_the_card_the_keys_are_the_sheets_again(own, qtbot, settled):
    field = type_loops(own, settled, qtbot, "2")
    qtbot.keyClick(field, Qt.Key.Key_Return)
    assert at(own, "l1", 20).loops == 2
    assert own.sheet.hasFocus()


def test_what_cannot_be_read_keeps_the_keys(own, qtbot, settled):
    field = type_loops(own, settled, qtbot, "soon")
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
    own.menus.actions["scene_length"].trigger()
    assert own.session.scene.length == 288


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
