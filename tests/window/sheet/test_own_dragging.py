"""A project of one's own, from nothing: what is dragged, dropped and taken hold of."""

import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtGui import QDragEnterEvent, QDragMoveEvent
from PySide6.QtWidgets import QApplication

from cicada.core.editing import Cell
from cicada.core.keyframe_edits import ClearKeyframes, PutKeyframes
from cicada.core.layer_edits import AddLayer, RemoveLayer
from cicada.core.model import Clip, Layer
from cicada.core.scene_edits import AddScene, ChangeScene
from cicada.window.sheet.hands import Move, SpanEnd
from cicada.window.widgets.drag import sound_mime
from tests.by_hand import CONTROL, LEFT, NONE, at, drag, drop, key, point, pull
from tests.own import place, sound, span_end


def over(window, data, *points):
    """Carry something over the sheet without dropping it."""
    port, copy = window.sheet.viewport(), Qt.DropAction.CopyAction
    QApplication.sendEvent(port, QDragEnterEvent(points[0], copy, data, LEFT, NONE))
    for each in points:
        QApplication.sendEvent(port, QDragMoveEvent(each, copy, data, LEFT, NONE))


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
        "span end": QPoint(
            round(own.sheet.place.frame_x(span_end(own, "l2", 20))),
            row,
        ),
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
    own.menus.actions["scene_next"].trigger()
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


@pytest.mark.parametrize("there", [0, 200])
def test_a_span_end_dragged_to_nothing_leaves_no_trial_on(own, qtbot, settled, there):
    place(own, settled, 20, 60)
    end = span_end(own, "l1", 20)
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
    y, end = (
        point(own, "l1", 20).y(),
        span_end(own, "l1", 20),
    )
    start = QPoint(round(own.sheet.place.frame_x(end)), y)
    clear = RemoveLayer(layer="l1")
    own.document.do(AddLayer(scene="sc1", layer=Layer(id="l9", keyframes=())))
    own.session.cell_changed.connect(
        lambda: len(own.session.scene.layers) > 1 and own.document.do(clear)
    )
    qtbot.mousePress(own.sheet.viewport(), LEFT, NONE, start)
    assert own.sheet._hand is None
    qtbot.mouseRelease(own.sheet.viewport(), LEFT, NONE, start)


def test_a_keyframe_right_behind_a_clip_is_taken_hold_of(own, qtbot, settled):
    place(own, settled, 20)
    end = span_end(own, "l1", 20)
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


def test_a_drop_below_the_layers_is_one_step(own, settled):
    before = own.document.project
    drop(own.sheet.viewport(), sound_mime(sound(own)), QPoint(400, own.sheet.place.foot - 6))
    settled(own)
    assert len(own.session.scene.layers) == 2
    own.document.undo()
    assert own.document.project is before


def test_points_clicked_on_a_line_stand_on_frames(own, qtbot, settled):
    own.session.choose(Cell("l1", 0))
    own.menus.actions["open_line"].trigger()
    settled(own)
    [lane] = own.sheet.opened.lanes
    spot = QPoint(round(own.sheet.place.frame_x(30.4)), round(lane.y(lane.curve().at(30.4))))
    qtbot.mouseClick(own.sheet.viewport(), LEFT, pos=spot)
    settled(own)
    [one] = own.document.project.layer("l1")[1].line
    assert one[0] == round(one[0])
