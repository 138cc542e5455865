"""Ways a clip can be set, drawn in its row, heard by a key and taken with a click."""

import numpy as np
import pytest
from PySide6.QtCore import QPoint, Qt

from cicada.core.editing import Cell
from cicada.core.keyframe_edits import ChangeKeyframes
from cicada.core.layer_edits import ChangeLayer
from cicada.core.planner import plan
from cicada.window.drawing.way_lanes import LANE
from tests.by_hand import LEFT, SHIFT, at, key, play_on, player
from tests.window.clip.opened import BELL, KEEPER
from tests.window.playing.by_ear import heard_since


@pytest.fixture
def compared(harbour, qtbot, settled):
    """The window with the bell's three ways on its sheet."""
    harbour.session.choose(BELL)
    settled(harbour)
    key(qtbot, harbour, "F", SHIFT)
    planned(harbour, qtbot)
    return harbour


def planned(window, qtbot):
    qtbot.waitUntil(lambda: window.ways.now is not None, timeout=5000)


def lanes(window):
    return window.sheet.way_lanes.lanes


def click(window, qtbot, number, x=900):
    place = QPoint(x, window.sheet.way_lanes.top + number * LANE + LANE // 2)
    qtbot.mouseClick(window.sheet.viewport(), LEFT, pos=place)


def test_each_lane_draws_what_the_plan_of_its_way_sounds(compared):
    sheet = compared.sheet
    for lane, value in zip(lanes(compared), ("locked", "free", "hold"), strict=True):
        edit = ChangeKeyframes(cells=(BELL,), changes={"sync": value})
        wanted = plan(edit.apply(compared.document.project), compared.conditions.run())
        assert lane.traces.plan == wanted
        row = lane.traces.rows[lane.traces.row_of(BELL.layer)]
        voice = next(v for v in wanted.voices if v.cell == BELL)
        assert next(v for v in row.voices if v.cell == BELL) == voice
    assert [lane.now for lane in lanes(compared)] == [False, True, False]
    row = sheet.traces.row_of(BELL.layer)
    assert sheet.place.rows[row] >= 3 * LANE
    assert "stands still" in lanes(compared)[2].words
    assert "longer than now" in lanes(compared)[2].words


def test_a_click_takes_a_way_in_one_step_and_the_lanes_stay(compared, qtbot, settled):
    click(compared, qtbot, 2)
    settled(compared)
    planned(compared, qtbot)
    assert at(compared, *BELL).sync == "hold"
    qtbot.waitUntil(lambda: [lane.now for lane in lanes(compared)] == [False, False, True])
    compared.menus.do("undo")
    settled(compared)
    assert at(compared, *BELL).sync == "free"
    assert compared.ways.cell == BELL


def test_a_key_lets_a_way_be_heard_and_the_project_is_not_changed(compared, qtbot, settled):
    before = compared.document.project
    compared.transport.start()
    compared.transport._timer.stop()
    written = len(player(compared).output.recorded())
    qtbot.keyClick(compared.sheet, Qt.Key.Key_1)
    qtbot.waitUntil(lambda: compared.planning.trying and compared.transport.playing)
    compared.transport._timer.stop()
    locked = next(way for way in compared.ways.found if way.value == "locked")
    assert compared.planning.plan.voices == locked.plan.voices
    assert [lane.heard for lane in lanes(compared)] == [True, False, False]
    play_on(compared, lambda: len(heard_since(compared, written)) > 0)
    assert compared.document.project is before
    qtbot.keyClick(compared.sheet, Qt.Key.Key_Escape)
    settled(compared)
    assert not compared.planning.trying
    assert not any(lane.heard for lane in lanes(compared))
    qtbot.keyClick(compared.sheet, Qt.Key.Key_Escape)
    assert compared.ways.cell is None


def test_what_is_heard_of_a_way_is_its_plan_about_the_clip(compared, qtbot, settled):
    compared.transport.start()
    compared.transport._timer.stop()
    written = len(player(compared).output.recorded())
    qtbot.keyClick(compared.sheet, Qt.Key.Key_3)
    qtbot.waitUntil(lambda: compared.planning.trying and compared.transport.playing)
    compared.transport._timer.stop()
    play_on(compared, lambda: len(player(compared).output.recorded()) > written + 60000)
    heard = heard_since(compared, written)
    held = next(way for way in compared.ways.found if way.value == "hold")
    voice = next(v for v in held.plan.voices if v.cell == BELL)
    first = held.plan.visits[voice.visit].start
    mixer = player(compared)._drawn
    wanted = mixer.mix(first, 48000).T
    # It fades in, as what is begun in the middle does.
    assert np.array_equal(heard[480:40000], wanted[480:40000])
    compared.transport.stop()


def test_the_second_pass_is_shown_for_what_is_compared_and_the_first_again_after(
    harbour, qtbot, settled
):
    harbour.session.choose(BELL)
    settled(harbour)
    key(qtbot, harbour, "G", SHIFT)
    settled(harbour)
    qtbot.waitUntil(lambda: harbour.ways.now is not None and harbour.planning.number == 2)
    assert harbour.conditions.shown_pass == 2
    assert [lane.value for lane in lanes(harbour)] == ["on_top", "skip", "restart", "queue"]
    assert lanes(harbour)[1].words == "the same as it is now"
    key(qtbot, harbour, "G", SHIFT)
    settled(harbour)
    assert harbour.conditions.shown_pass == 1
    assert harbour.ways.cell is None


def test_another_scene_ends_what_is_compared_and_heard(compared, qtbot, settled):
    qtbot.keyClick(compared.sheet, Qt.Key.Key_1)
    qtbot.waitUntil(lambda: compared.planning.trying and compared.transport.playing)
    compared.session.show_scene("sc1")
    settled(compared)
    assert compared.ways.cell is None
    compared.transport.stop()


def test_a_clip_that_is_gone_is_not_compared_any_more(compared, qtbot, settled):
    key(qtbot, compared, "Delete")
    settled(compared)
    assert compared.ways.cell is None
    assert compared.sheet.way_lanes is None


@pytest.mark.parametrize("keys", ["F", "G"])
def test_what_cannot_be_compared_is_said(harbour, qtbot, settled, keys):
    harbour.session.choose(Cell("l4", 200) if keys == "F" else KEEPER)
    settled(harbour)
    key(qtbot, harbour, keys, SHIFT)
    assert harbour.foot.note.text() == (
        "Choose a clip first."
        if keys == "F"
        else "A locked clip goes by the picture and never asks what is sounding."
    )
    assert harbour.ways.cell is None


def test_a_way_of_a_guarded_clip_is_drawn_and_not_taken(compared, qtbot, settled):
    compared.document.do(ChangeLayer(layer=BELL.layer, changes={"guarded": True}))
    settled(compared)
    click(compared, qtbot, 0)
    settled(compared)
    assert at(compared, *BELL).sync == "free"
    assert "guarded" in compared.foot.note.text()


@pytest.mark.parametrize("night", [False, True])
def test_the_lanes_are_painted(compared, settled, night):
    if night:
        compared.switch_night()
    image = compared.sheet.grab().toImage()
    top = compared.sheet.way_lanes.top
    colours = {
        image.pixelColor(x, y).name()
        for x in range(170, 700, 3)
        for y in range(top + 2 * LANE, top + 3 * LANE, 3)
    }
    assert len(colours) > 5
    if night:
        compared.switch_night()
