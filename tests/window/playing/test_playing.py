"""Playing against the picture: what Space does under every setting, presses, ranges, devices."""

import msgspec
import numpy as np
import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtWidgets import QApplication, QMenu

from cicada.core.editing import Cell
from cicada.core.live import pressed_at_once, seen_from_start
from cicada.core.mix import Mixer
from cicada.core.model import Run
from cicada.core.planner import plan
from cicada.media.cache import user_cache
from cicada.media.sources import SoundSources
from cicada.playback.messages import (
    Device,
    Devices,
    LetGo,
    Mute,
    Pace,
    Scrub,
    Step,
    UseDevice,
)
from cicada.window.playing.together import TogetherDialog
from cicada.window.state.conditions import ENDLESSLY, Range
from tests.by_hand import begin, play_on, player

LEFT, SHIFT = Qt.MouseButton.LeftButton, Qt.KeyboardModifier.ShiftModifier


def said_to_player(window, kind):
    return [
        message for message in window.transport._link._player.heard if isinstance(message, kind)
    ]


def render(window, run, project=None):
    project = project or window.document.project
    made = plan(project, run)
    sources = SoundSources(project, window.presence.standing.files, user_cache())
    return Mixer(made, project, sources).mix(0, made.length).T


def heard_since(window, written):
    return player(window).output.recorded()[written:]


# -- presses -------------------------------------------------------------------------------------


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


# -- what, how often, how fast ---------------------------------------------------------------------


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


def test_playing_and_pressing_and_scrubbing_change_nothing_in_the_project(harbour, qtbot, settled):
    before = harbour.document.project
    begin(harbour, qtbot, settled, "sc2", 100)
    play_on(harbour, lambda: harbour.transport.waiting is not None)
    harbour.transport.press()
    play_on(harbour, lambda: harbour.session.playhead > 125)
    harbour.transport.stop()
    harbour.scrubbing.scrub(30)
    harbour.scrubbing.let_go()
    assert harbour.document.project is before
    assert not harbour.document.dirty


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


# -- scrubbing -----------------------------------------------------------------------------------


@pytest.mark.parametrize("frame", [3, 40, 90, 200])
def test_dragging_and_stepping_sound_the_frame_in_every_mode(harbour, qtbot, settled, frame):
    harbour.transport.start()
    harbour.transport._timer.stop()
    begins = harbour.planning.plan.entered(frame, 1)
    harbour.scrubbing.scrub(frame)
    assert said_to_player(harbour, Scrub)[-1].start == begins
    assert "pass 1" in harbour.rail.note.text()
    harbour.scrubbing.let_go()
    assert isinstance(harbour.transport._link._player.heard[-1], LetGo)
    harbour.going_about.go_to(frame)
    step = said_to_player(harbour, Step)[-1]
    assert step.start == begins
    written = len(player(harbour).output.recorded())
    for _ in range(12):
        player(harbour).step()
    heard = heard_since(harbour, written)
    sounds = render(harbour, Run(passes=3))[begins : begins + 2000]
    assert heard.any() == sounds.any()


# -- now, for this listening, by this device -------------------------------------------------------


def test_a_device_is_chosen_named_when_it_is_gone_and_remembered(harbour, qtbot):
    transport = harbour.transport
    transport.start()
    there = (Device("desk", "Desk speakers", default=True), Device("head", "Headset"))
    player(harbour).reports.append(Devices(there, "desk"))
    transport.follow()
    menu = QMenu()
    harbour.on_playing.device_menu(menu)
    words = [action.text() for action in menu.actions()]
    assert "Desk speakers, in use" in words
    next(action for action in menu.actions() if action.text() == "Headset").trigger()
    assert said_to_player(harbour, UseDevice)[-1].name == "head"
    player(harbour).reports.append(Devices(there[:1], "desk"))
    transport.follow()
    again = QMenu()
    harbour.on_playing.device_menu(again)
    assert any("head: not there" in action.text() for action in again.actions())
    assert transport.devices.wanted == "head"


def test_the_flash_comes_with_the_beep_and_a_correction_stays_with_its_device(harbour, qtbot):
    transport = harbour.transport
    transport.start()
    player(harbour).reports.append(Devices((Device("desk", "Desk speakers"),), "desk"))
    transport.follow()
    harbour.on_playing.show_together()
    shown = harbour.findChild(TogetherDialog)
    qtbot.mouseClick(shown.beep, LEFT)
    lit = []
    for _ in range(120):
        transport.follow()
        lit.append((shown.flash.share, shown.flash.lit))
    assert {True, False} == {on for _, on in lit}
    assert all(on == (share < 0.08) for share, on in lit if share is not None)
    shown.spin.setValue(40)
    assert transport.devices.correction == 0.04
    player(harbour).reports.append(Devices((Device("head", "Headset"),), "head"))
    transport.follow()
    assert shown.spin.value() == 0
    assert transport.devices.correction == 0
    shown.close()
    assert not transport.testing


def test_muting_for_this_listening_ends_with_it(harbour, qtbot, settled):
    begin(harbour, qtbot, settled, "sc2", 0)
    cell = next(iter(harbour.session.scene.layers[0].keyframes)).frame
    harbour.transport.mute(frozenset({Cell(harbour.session.scene.layers[0].id, cell)}))
    harbour.transport.stop()
    assert [bool(message.clips) for message in said_to_player(harbour, Mute)] == [True, False]


def test_what_sounds_is_listed_with_why_and_until_when_and_a_click_goes_there(
    harbour, qtbot, settled
):
    harbour.lower_half.show_beside(harbour.sounding)
    harbour.session.move_playhead(88)
    rows = harbour.sounding.rows
    entered = harbour.planning.plan.entered(88, 1)
    sounding = [v for v in harbour.planning.plan.voices if v.start <= entered < v.end]
    assert [heard.voice for heard in rows.shown] == sounding[::-1]
    assert harbour.sounding.title.text() == f"Sounding now: {len(sounding)} sounds"
    name, layer = harbour.sounding.names_for(rows.shown[0])
    words = harbour.sounding.words_for(rows.shown[0])
    assert (name, layer) == ("Foghorn", "Foghorn")
    assert words.startswith("from frame 85, is over on frame")
    qtbot.mouseClick(rows, LEFT, pos=QPoint(120, 20))
    voice = rows.shown[0].voice
    assert harbour.session.cell == Cell(voice.layer, voice.frame)


def test_a_click_on_its_bar_mutes_it_while_it_plays_and_not_in_the_project(harbour, qtbot, settled):
    harbour.lower_half.show_beside(harbour.sounding)
    harbour.conditions.wait_at_points(on=False)
    begin(harbour, qtbot, settled, "sc2", 88)
    play_on(harbour, lambda: harbour.session.playhead > 90)
    harbour.sounding.refresh()
    rows = harbour.sounding.rows
    before = harbour.document.project
    qtbot.mouseClick(rows, LEFT, pos=QPoint(12, 20))
    first = rows.shown[0]
    assert said_to_player(harbour, Mute)[-1].clips == ((first.voice.layer, first.voice.frame),)
    assert harbour.sounding.is_muted(first)
    assert harbour.document.project is before
    harbour.transport.stop()
    assert not harbour.transport.muted


def test_the_list_of_what_sounds_goes_by_keys(harbour, qtbot, settled):
    harbour.lower_half.show_beside(harbour.sounding)
    harbour.session.move_playhead(88)
    rows = harbour.sounding.rows
    rows.setFocus()
    qtbot.keyClick(rows, Qt.Key.Key_Down)
    qtbot.keyClick(rows, Qt.Key.Key_Return)
    voice = rows.shown[1].voice
    assert harbour.session.cell == Cell(voice.layer, voice.frame)
    qtbot.keyClick(rows, Qt.Key.Key_Delete)
    assert harbour.sounding.is_muted(rows.shown[1])


# -- the picture ---------------------------------------------------------------------------------


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


def test_guides_and_the_number_are_drawn_over_the_picture_and_remembered(harbour, qtbot, settled):
    plain = harbour.picture.grab().toImage()
    menu = QMenu()
    harbour.on_picture.over_menu(menu)
    for action in menu.actions():
        action.trigger()
    assert harbour.picture.over == {"safe", "centre", "number"}
    assert harbour.picture.grab().toImage() != plain
    assert sorted(harbour.settings.value("picture/over")) == ["centre", "number", "safe"]
