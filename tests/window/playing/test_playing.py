"""What is played, how often, and how fast."""

import numpy as np
from PySide6.QtCore import QPoint, Qt
from PySide6.QtWidgets import QMenu

from cicada.core.model import Run
from cicada.playback.messages import (
    Pace,
)
from cicada.window.state.conditions import ENDLESSLY, Range
from tests.by_hand import begin, play_on
from tests.window.playing.by_ear import heard_since, render, said_to_player

LEFT, SHIFT = Qt.MouseButton.LeftButton, Qt.KeyboardModifier.ShiftModifier


def test_a_range_dragged_on_the_rulers_is_played_by_itself(harbour, qtbot, settled):
    port, place = harbour.sheet.viewport(), harbour.sheet.place
    start, end = (QPoint(round(place.frame_x(frame) + 2), 30) for frame in (24, 35))
    qtbot.mousePress(port, LEFT, SHIFT, pos=start)
    qtbot.mouseMove(port, end)
    qtbot.mouseRelease(port, LEFT, SHIFT, pos=end)
    assert harbour.conditions.range == Range("sc2", 24, 35)
    assert harbour.sheet.range == (24, 35)
    harbour.conditions.play_times(1)
    written = begin(harbour, qtbot, settled, "sc2", 24)
    play_on(harbour, lambda: not harbour.transport.playing)
    base = harbour.planning.plan.timebase
    limit = (base.start(36) - base.start(24)) / base.rate
    wanted = render(harbour, Run(scene="sc2", frame=24, limit=limit))
    heard = heard_since(harbour, written)
    assert np.array_equal(heard[: len(wanted)], wanted)
    assert not heard[len(wanted) :].any()


def test_a_range_goes_round_until_it_is_stopped(harbour, qtbot, settled):
    harbour.on_playing.mark_range(24, 27)
    harbour.conditions.play_times(ENDLESSLY)
    begin(harbour, qtbot, settled, "sc2", 24)
    seen = []
    harbour.session.playhead_moved.connect(lambda: seen.append(harbour.session.playhead))
    play_on(harbour, lambda: seen.count(24) >= 3)
    assert set(seen) == {24, 25, 26, 27}
    harbour.transport.stop()


def test_keys_mark_a_range_and_turn_back_to_the_film(harbour, qtbot):
    harbour.session.move_playhead(30)
    qtbot.keyClick(harbour.sheet, Qt.Key.Key_7)
    harbour.session.move_playhead(50)
    qtbot.keyClick(harbour.sheet, Qt.Key.Key_8)
    assert harbour.conditions.range == Range("sc2", 30, 50)
    assert harbour.rail.what.text().startswith("The range")
    qtbot.keyClick(harbour.sheet, Qt.Key.Key_K)
    assert harbour.conditions.scope == "film"


def test_this_scene_alone_is_played_as_often_as_asked(harbour, qtbot, settled):
    harbour.conditions.play_what("scene")
    harbour.conditions.play_times(2)
    harbour.conditions.wait_at_points(on=False)
    written = begin(harbour, qtbot, settled, "sc3")
    play_on(harbour, lambda: not harbour.transport.playing)
    wanted = render(harbour, Run(scene="sc3", only_scene=True, passes=2))
    assert np.array_equal(heard_since(harbour, written)[: len(wanted)], wanted)


def test_endless_playing_plans_more_passes_as_it_gets_there(harbour, qtbot, settled):
    harbour.conditions.play_what("scene")
    harbour.conditions.play_times(ENDLESSLY)
    harbour.conditions.wait_at_points(on=False)
    begin(harbour, qtbot, settled, "sc1")
    length = harbour.planning.plan.visits[0].end
    play_on(harbour, lambda: harbour.transport.sample > 6.5 * length)
    assert harbour.planning.plan.visits[-1].number > 6
    harbour.transport.stop()


def test_slower_is_set_from_the_menu_and_the_playhead_goes_as_fast(harbour, qtbot, settled):
    harbour.conditions.wait_at_points(on=False)
    harbour.transport.start()
    harbour.on_playing.slower()
    assert said_to_player(harbour, Pace)[-1].pace == 0.5
    written = begin(harbour, qtbot, settled, "sc2", 0)
    play_on(harbour, lambda: harbour.session.playhead >= 12)
    seconds = len(heard_since(harbour, written)) / 48000
    assert 0.95 < seconds < 1.15
    assert "½" in harbour.rail.what.text()
    harbour.transport.stop()


def test_at_the_end_the_playhead_goes_back_if_that_is_set(harbour, qtbot, settled):
    harbour.transport.set_returning(on=True)
    harbour.on_playing.mark_range(24, 30)
    harbour.conditions.play_times(1)
    begin(harbour, qtbot, settled, "sc2", 26)
    play_on(harbour, lambda: not harbour.transport.playing)
    assert harbour.session.playhead == 26


def test_every_entry_of_the_play_menus_can_be_chosen(harbour, settled):
    harbour.on_playing.mark_range(10, 20)
    for _, fill in harbour.on_playing.menus():
        menu = QMenu()
        fill(menu)
        for action in menu.actions():
            if action.isEnabled() and not action.text().endswith("…"):
                action.trigger()
    settled(harbour)
    assert harbour.transport.pace == 0.25
    assert harbour.conditions.passes == ENDLESSLY
