"""A sound is heard by itself: from its row, at one loudness, from anywhere in it."""

import numpy as np
import pytest
from PySide6.QtCore import QPoint, Qt

from cicada.playback.messages import Listen
from cicada.window.shelf.shelf_list import LISTEN_WIDTH, WAVE
from tests.window.shelf.by_hand import LEFT, choose, sounds


def row_point(window, name, x):
    shelf = window.shelf
    row = next(i for i, sound in enumerate(shelf.model.sounds) if sound.name == name)
    index = shelf.model.index(row, 0)
    shelf.list.scrollTo(index)
    box = shelf.list.visualRect(index)
    return QPoint(box.left() + int(x), box.top() + 20)


def listened(window):
    return [m for m in window.transport._link._player.heard if isinstance(m, Listen)]


def test_the_mark_lets_a_sound_be_heard_without_choosing_it(measured, qtbot):
    choose(measured, "Sweep")
    port = measured.shelf.list.viewport()
    qtbot.mouseClick(port, LEFT, pos=row_point(measured, "Foghorn", LISTEN_WIDTH / 2))
    assert measured.listening.what == sounds(measured)["Foghorn"].id
    assert measured.session.sound == sounds(measured)["Sweep"].id
    assert not listened(measured)[:-1]


def test_choosing_plays_nothing_and_choosing_another_stops(measured, qtbot):
    port = measured.shelf.list.viewport()
    qtbot.mouseClick(port, LEFT, pos=row_point(measured, "Sweep", 150))
    assert measured.listening.what is None
    qtbot.keyClick(measured, Qt.Key.Key_L)
    assert measured.transport.listening
    qtbot.mouseClick(port, LEFT, pos=row_point(measured, "Buoy bell", 150))
    assert not measured.transport.listening
    assert measured.listening.what is None


def test_every_sound_is_heard_at_the_same_loudness(measured):
    for sound in measured.document.project.sounds:
        measures = measured.measuring.of(sound)
        measured.listening.listen(sound.id)
        gain = listened(measured)[-1].gain
        assert gain * measures.peak <= 0.9001
        loud = measures.heard + 20 * np.log10(gain)
        assert loud == pytest.approx(-20, abs=0.1) or gain * measures.peak > 0.899
    measured.listening.set_level(-30.0)
    assert measured.listening.gain < gain


def test_a_click_on_the_waveform_seeks_and_the_position_moves(measured, qtbot):
    measured.listening.listen(sounds(measured)["Rain bed"].id)
    middle = row_point(measured, "Rain bed", WAVE.left() + WAVE.width() / 2)
    qtbot.mouseClick(measured.shelf.list.viewport(), LEFT, pos=middle)
    half = listened(measured)[-1].start / 48000
    assert half == pytest.approx(measured.listening.length / 2, rel=0.05)
    before = measured.listening.position
    for _ in range(10):
        measured.transport.follow()
    assert measured.listening.position > before
    assert measured.shelf.bar.isVisible()


def test_esc_and_the_film_end_listening(measured, qtbot):
    measured.listening.listen(sounds(measured)["Rain bed"].id)
    qtbot.keyClick(measured, Qt.Key.Key_Escape)
    assert not measured.transport.listening
    measured.listening.listen(sounds(measured)["Rain bed"].id)
    measured.transport.play_from(0)
    assert measured.listening.what is None
    assert measured.transport.playing
    assert not measured.shelf.bar.isVisible()
    measured.transport.stop()
