"""The lines of a clip, a layer and the mix: drawn, typed, copied, and by a gesture."""

import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtWidgets import QApplication

from cicada.core.editing import Cell
from cicada.core.keyframe_edits import ChangeKeyframes
from cicada.core.lines import Curve
from cicada.core.model import Clip
from cicada.core.reshaping import shaping_of
from tests.by_hand import LEFT, SHIFT, at, drag, key
from tests.window.clip.opened import BELL, KEEPER, bell, column, grip, lane, on_lane


def test_a_click_on_the_line_adds_a_point_a_drag_moves_it_and_delete_takes_it_away(
    opened, qtbot, settled
):
    port = opened.sheet.viewport()
    qtbot.mouseClick(port, LEFT, pos=on_lane(opened, "level", 20, 1.0))
    settled(opened)
    ((place, value),) = bell(opened).level_line
    assert place == pytest.approx(14 / 24, abs=0.01)
    assert value == 1.0
    drag(qtbot, opened, on_lane(opened, "level", 20, 1.0), on_lane(opened, "level", 26, 0.5))
    settled(opened)
    ((place, value),) = bell(opened).level_line
    assert place == pytest.approx(20 / 24, abs=1e-5)
    assert value == pytest.approx(0.5)
    key(qtbot, opened, "Delete")
    settled(opened)
    assert bell(opened).level_line == ()
    assert isinstance(bell(opened), Clip)


def test_several_points_in_a_rectangle_are_moved_together(opened, qtbot, settled):
    line = ((0.2, 0.4), (0.5, 0.6), (1.5, 0.4))
    opened.document.do(ChangeKeyframes(cells=(BELL,), changes={"level_line": line}))
    settled(opened)
    found = lane(opened, "level")
    low = QPoint(round(found.point(0).x()) - 15, round(found.lower) - 4)
    high = QPoint(round(found.point(1).x()) + 15, round(found.upper) + 25)
    drag(qtbot, opened, low, high)
    drag(
        qtbot, opened, found.point(1).toPoint(),
        QPoint(round(found.point(1).x()), round(found.y(0.8))),
    )  # fmt: skip
    settled(opened)
    values = [point[1] for point in bell(opened).level_line]
    assert values == [pytest.approx(0.6), pytest.approx(0.8), 0.4]


def test_a_point_is_typed_by_number_and_what_cannot_be_read_is_refused(opened, qtbot, settled):
    opened.document.do(ChangeKeyframes(cells=(BELL,), changes={"pan_line": ((0.5, -0.5),)}))
    settled(opened)
    port = opened.sheet.viewport()
    at_point = lane(opened, "pan").point(0).toPoint()
    for text, wanted in (("soon", (0.5, -0.5)), ("18 f 40 right", (0.75, 0.4))):
        qtbot.mouseDClick(port, LEFT, pos=at_point)
        field = opened.sheet.name_field
        field.selectAll()
        qtbot.keyClicks(field, text)
        qtbot.keyClick(field, Qt.Key.Key_Return)
        settled(opened)
        assert bell(opened).pan_line == (wanted,)
        if text == "soon":
            assert "no point" in opened.foot.note.text()


def test_the_frame_a_hit_lands_on_is_typed(opened, qtbot, settled):
    qtbot.waitUntil(lambda: bool(opened.sheet.opened.hits), timeout=10_000)
    port = opened.sheet.viewport()
    for text in ("soon", "21"):
        spot = grip(opened, "hit") - QPoint(0, 4)
        qtbot.mouseDClick(port, LEFT, pos=spot)
        field = opened.sheet.name_field
        field.selectAll()
        qtbot.keyClicks(field, text)
        qtbot.keyClick(field, Qt.Key.Key_Return)
        settled(opened)
        if text == "soon":
            assert "is no time" in opened.foot.note.text()
    cell, plan = opened.sheet.opened.cell, opened.planning.plan
    voice = next(v for v in plan.voices if (v.layer, v.frame) == cell)
    hit = opened.sheet.opened.hits[0]
    shaping = shaping_of(opened.document.project, cell, plan, voice.visit)
    assert shaping.moment_of(hit.sample) == plan.entered(20, voice.visit)


def test_the_shape_behind_a_point_is_chosen_from_its_menu(opened, qtbot, settled):
    line = ((0.2, 0.4), (1.5, 0.9))
    opened.document.do(ChangeKeyframes(cells=(BELL,), changes={"level_line": line}))
    settled(opened)
    actions = opened.sheet.on_opened.point_menu(lane(opened, "level").point(0))
    next(a for a in actions if a.text().startswith("Smooth")).trigger()
    settled(opened)
    assert bell(opened).level_line == ((0.2, 0.4, "smooth"), (1.5, 0.9))


def test_a_fade_is_dragged_by_its_corner_to_a_frame(opened, qtbot, settled):
    start = grip(opened, "fade_in")
    drag(qtbot, opened, start, QPoint(column(opened, 10), start.y()))
    settled(opened)
    assert bell(opened).fade_in == pytest.approx(4 / 24, abs=1e-6)
    start = grip(opened, "fade_out")
    drag(qtbot, opened, start, start - QPoint(round(6 * opened.sheet.place.scale), 0))
    settled(opened)
    assert bell(opened).fade_out > 0.1


def test_the_overlap_of_loops_is_dragged_at_their_join(opened, qtbot, settled):
    start = grip(opened, "overlap")
    drag(qtbot, opened, start, start - QPoint(round(2 * opened.sheet.place.scale), 0))
    settled(opened)
    assert bell(opened).loop_overlap == pytest.approx(0.08 + 2 / 24, abs=0.011)


def test_the_layers_line_and_the_master_line_are_drawn_by_frames(harbour, qtbot, settled):
    harbour.session.choose(BELL)
    key(qtbot, harbour, "L", SHIFT)
    settled(harbour)
    port = harbour.sheet.viewport()
    qtbot.mouseClick(port, LEFT, pos=on_lane(harbour, "level", 30, 1.0))
    settled(harbour)
    layer = next(x for x in harbour.session.scene.layers if x.id == "l6")
    assert layer.line == ((pytest.approx(30, abs=0.2), 1.0),)
    before = harbour.session.scene.master
    key(qtbot, harbour, "K", SHIFT)
    settled(harbour)
    qtbot.mouseClick(port, LEFT, pos=on_lane(harbour, "level", 60, 1.0))
    settled(harbour)
    assert len(harbour.session.scene.master) == len(before) + 1


def test_lines_are_copied_onto_another_clip(harbour, qtbot, settled):
    lines = {"level_line": ((0.1, 0.5), (0.4, 1.0, "smooth")), "pan_line": ((0.0, -0.3),)}
    harbour.document.do(ChangeKeyframes(cells=(BELL,), changes=lines))
    harbour.session.choose(BELL)
    harbour.menus.actions["copy_lines"].trigger()
    harbour.session.choose(KEEPER)
    harbour.menus.actions["paste_lines"].trigger()
    clip = at(harbour, "l4", 10)
    assert (clip.level_line, clip.pan_line) == (lines["level_line"], lines["pan_line"])
    QApplication.clipboard().clear()


def panel_on(window, qtbot, kind):
    window.on_clip.lines.gesture(QPoint(0, 0))
    panel = QApplication.activePopupWidget()
    qtbot.mouseClick(panel.kind.buttons[kind], LEFT)
    return panel


def test_a_move_is_shown_while_it_is_set_and_drawn_as_points(harbour, qtbot, settled):
    harbour.session.choose(KEEPER)
    settled(harbour)
    panel = panel_on(harbour, qtbot, "move")
    qtbot.waitUntil(lambda: harbour.planning.trying, timeout=5000)
    first = panel.sides[0]
    first.setFocus()
    first.selectAll()
    qtbot.keyClicks(first, "100 left")
    qtbot.keyClick(first, Qt.Key.Key_Return)
    qtbot.mouseClick(panel.draw, LEFT)
    settled(harbour)
    start, end = at(harbour, "l4", 10).pan_line
    assert start == (0.0, -1.0, "smooth")
    assert end[1] == pytest.approx(0.7)


def test_a_dip_lowers_a_bed_where_the_other_clip_is_loud(harbour, qtbot, settled):
    rain = Cell("l7", 0)
    harbour.session.choose(rain)
    settled(harbour)
    panel = panel_on(harbour, qtbot, "dip")
    index = next(i for i in range(panel.under.count()) if "light on" in panel.under.itemText(i))
    panel.under.setCurrentIndex(index)
    panel.lowered.set_value(0.4)
    before = Curve(at(harbour, "l7", 0).level_line)
    qtbot.mouseClick(panel.draw, LEFT)
    settled(harbour)
    after = Curve(at(harbour, "l7", 0).level_line)
    assert after.at(1.2) == pytest.approx(0.4 * before.at(1.2), abs=0.01)
    assert after.at(4.0) == pytest.approx(before.at(4.0), abs=0.01)
