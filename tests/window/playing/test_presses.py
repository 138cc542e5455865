"""The picture waits at a press point, and goes on at a press."""

import msgspec
import numpy as np
import pytest
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QApplication

from cicada.core.live import pressed_at_once, seen_from_start
from cicada.core.model import Run
from cicada.core.planner import plan
from tests.by_hand import begin, play_on
from tests.window.playing.by_ear import heard_since, render, said_to_player

LEFT = Qt.MouseButton.LeftButton


def test_the_picture_waits_says_for_what_and_goes_on_at_enter(harbour, qtbot, settled):
    begin(harbour, qtbot, settled, "sc2", 100)
    play_on(harbour, lambda: harbour.transport.waiting is not None)
    assert harbour.session.playhead == 118
    assert "until the lamp is pressed" in harbour.picture.waiting
    qtbot.keyClick(harbour.sheet, Qt.Key.Key_Return)
    play_on(harbour, lambda: harbour.session.playhead > 119)
    assert harbour.picture.waiting == ""


def test_a_click_in_the_picture_is_a_press(harbour, qtbot, settled):
    begin(harbour, qtbot, settled, "sc2", 100)
    play_on(harbour, lambda: harbour.transport.waiting is not None)
    qtbot.mouseClick(harbour.picture, LEFT)
    play_on(harbour, lambda: harbour.session.playhead > 119)


def test_what_was_heard_of_a_live_run_is_the_render_of_its_presses(harbour, qtbot, settled):
    harbour.conditions.play_times(1)
    written = begin(harbour, qtbot, settled)
    while harbour.transport.playing:
        play_on(harbour, lambda: harbour.transport.waiting or not harbour.transport.playing)
        for _ in range(20):
            harbour.transport.follow()
            QApplication.processEvents()
        harbour.transport.press()
    live = harbour.conditions.live
    assert live.presses
    wanted = render(harbour, live)
    assert np.abs(heard_since(harbour, written)[: len(wanted)] - wanted).max() < 1e-6


def test_a_press_redraws_what_follows_with_the_wait_as_long_as_it_was(harbour, qtbot, settled):
    begin(harbour, qtbot, settled, "sc2", 100)
    play_on(harbour, lambda: harbour.transport.waiting is not None)
    before = len(said_to_player(harbour, object))
    play_on(harbour, lambda: len(said_to_player(harbour, object)) == before, 40)
    harbour.transport.press()
    play_on(harbour, lambda: harbour.conditions.live.presses)
    harbour.transport.stop()
    settled(harbour)
    (press,) = harbour.conditions.live.presses
    waits = [e for e in harbour.planning.plan.events if e.kind == "waiting"]
    # The sheet shows the film from its start; only what follows the wait has moved.
    begins = harbour.planning.plan.entered(100, 1)
    assert waits[0].until == begins + press
    assert harbour.planning.plan.stretches[0].frame == 0
    project = harbour.document.project
    whole = seen_from_start(project, harbour.planning.run)
    assert harbour.planning.plan == plan(project, pressed_at_once(project, whole))


def test_presses_kept_are_played_again(harbour, qtbot, settled, tmp_path, monkeypatch):
    begin(harbour, qtbot, settled, "sc2", 100)
    play_on(harbour, lambda: harbour.transport.waiting is not None)
    harbour.transport.press()
    play_on(harbour, lambda: harbour.session.playhead > 125)
    harbour.transport.stop()
    harbour.conditions.keep_presses(on=True)
    kept = harbour.conditions.live
    monkeypatch.setattr(harbour.asking, "file_to_write", lambda *_: tmp_path / "run.json")
    harbour.on_playing.save_run()
    saved = msgspec.json.decode((tmp_path / "run.json").read_bytes(), type=Run)
    assert saved == kept
    harbour.conditions.keep_presses(on=False)
    harbour.on_playing.use_run(tmp_path / "run.json")
    begin(harbour, qtbot, settled, "sc2", 100)
    play_on(harbour, lambda: harbour.session.playhead > 125)
    assert harbour.conditions.live.presses == kept.presses


@pytest.mark.parametrize(
    "text", ["{", '{"scene": "nowhere"}', '{"frame": 9999}', '{"presses": "x"}']
)
def test_a_run_that_cannot_be_used_is_one_sentence(harbour, tmp_path, told, text):
    (tmp_path / "run.json").write_text(text)
    harbour.on_playing.use_run(tmp_path / "run.json")
    assert len(told) == 1
    assert harbour.conditions.live is None


def test_an_edit_while_it_waits_keeps_the_presses_so_far(harbour, qtbot, settled):
    begin(harbour, qtbot, settled, "sc2", 100)
    play_on(harbour, lambda: harbour.transport.waiting is not None)
    harbour.transport.press()
    play_on(harbour, lambda: harbour.session.playhead > 120)
    pressed = harbour.conditions.live.presses
    harbour.on_layer.add_layer()
    settled(harbour)
    play_on(harbour, lambda: harbour.session.playhead > 124)
    assert harbour.conditions.live.presses == pressed


def test_the_picture_window_follows_the_playhead_takes_presses_and_keys(harbour, qtbot, settled):
    harbour.on_picture.show_window()
    shown = harbour.on_picture.own
    qtbot.waitExposed(shown)
    begin(harbour, qtbot, settled, "sc2", 100)
    play_on(harbour, lambda: harbour.transport.waiting is not None)
    settled(harbour)
    assert shown.view.shown_frame == 118
    assert shown.view.waiting == harbour.picture.waiting
    qtbot.mouseClick(shown.view, LEFT)
    play_on(harbour, lambda: harbour.session.playhead > 119)
    qtbot.keyClick(shown, Qt.Key.Key_Space)
    assert not harbour.transport.playing
    harbour.on_picture.fill_screen()
    assert shown.isFullScreen()
    harbour.on_picture.show_window()
    assert harbour.on_picture.own is None
