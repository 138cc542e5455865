"""A sound is tried against the picture before it is placed."""

from PySide6.QtCore import Qt

from cicada.core.editing import Cell
from cicada.core.model import Clip, keyframe_at
from cicada.playback.messages import Play
from tests.window.shelf.by_hand import choose, sounds


def test_a_sound_is_tried_against_the_picture_and_placed_with_one_key(harbour, settled, qtbot):
    before = harbour.document.project
    harbour.session.choose(Cell("l4", 80))
    harbour.session.move_playhead(80)
    choose(harbour, "Wing hum")
    qtbot.keyClick(harbour, Qt.Key.Key_T)
    qtbot.waitUntil(lambda: harbour.transport.playing, timeout=10_000)
    assert harbour.document.project is before
    assert any(voice.layer == "l4" and voice.frame == 80 for voice in harbour.planning.plan.voices)
    played = [m for m in harbour.transport._link._player.heard if isinstance(m, Play)][-1]
    assert played.start == harbour.transport.sample_of(80, harbour.transport.plan)
    qtbot.keyClick(harbour, Qt.Key.Key_P)
    settled(harbour)
    layer = harbour.document.project.layer("l4")[1]
    assert keyframe_at(layer, 80) == Clip(frame=80, sound=sounds(harbour)["Wing hum"].id)
    harbour.transport.stop()


def test_a_trial_let_go_of_leaves_nothing(harbour, settled, qtbot):
    before = harbour.document.project
    choose(harbour, "Wing hum")
    qtbot.keyClick(harbour, Qt.Key.Key_T)
    qtbot.waitUntil(lambda: harbour.transport.playing, timeout=10_000)
    qtbot.keyClick(harbour, Qt.Key.Key_Escape)
    settled(harbour)
    assert not harbour.transport.playing
    assert harbour.document.project is before
    assert harbour.planning.up_to_date
    assert harbour.trying.cell is None
