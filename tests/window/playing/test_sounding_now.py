"""What sounds now, muted for this listening, by which device."""

from PySide6.QtCore import QPoint, Qt
from PySide6.QtWidgets import QMenu

from cicada.core.editing import Cell
from cicada.playback.messages import (
    Device,
    Devices,
    Mute,
    UseDevice,
)
from cicada.window.playing.together import TogetherDialog
from tests.by_hand import begin, play_on, player
from tests.window.playing.by_ear import said_to_player

LEFT = Qt.MouseButton.LeftButton


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
