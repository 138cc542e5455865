"""Beats of a scene: tapped with keys, found in a sound, held against frames, and taken."""

import pytest
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QMenu

from cicada.core.beats import first_beat
from cicada.core.editing import Cell
from cicada.core.keyframe_edits import PlaceClip
from cicada.core.model import empty_project
from cicada.core.scene_edits import PutTempo
from cicada.window.sheet.beats_dialog import WHAT, BeatsDialog
from tests.by_hand import CONTROL, LEFT, begin, key
from tests.media.test_tempo import pattern
from tests.sound_files import write_sound
from tests.window.clip.opened import BELL

T, H, F = Qt.Key.Key_T, Qt.Key.Key_H, Qt.Key.Key_F


@pytest.fixture
def beats(window, qtbot, settled):
    """A new project of ten seconds with its beats shown by their key."""
    window.document.new(empty_project("Ours"))
    settled(window)
    key(qtbot, window, "B", CONTROL)
    return window


def dialog(window):
    return window.findChild(BeatsDialog)


def tempo(window):
    return window.session.scene.tempo


def test_a_tempo_is_typed_and_set_and_the_rulers_count_beats(beats, qtbot):
    shown = dialog(beats)
    shown.bpm.selectAll()
    qtbot.keyClicks(shown.bpm, "110")
    qtbot.keyClick(shown.bpm, Qt.Key.Key_Return)
    assert "beats fall between frames" in shown.says.text()
    qtbot.mouseClick(shown.put, LEFT)
    assert [(t.frame, t.bpm, t.offset) for t in tempo(beats)] == [(0, 110.0, 0.0)]
    assert beats.sheet.unit == "beats"
    assert "13.1 frames a beat" in shown.list.item(0).text()
    qtbot.mouseClick(shown.remove, LEFT)
    assert tempo(beats) == ()


def test_a_tempo_is_tapped_with_a_key(beats, qtbot):
    shown = dialog(beats)
    for _ in range(7):
        qtbot.keyClick(shown, T)
        qtbot.wait(250)
    assert shown.bpm.value == pytest.approx(240, rel=0.08)
    assert "from 7 taps" in shown.tapped.text()
    tapped = shown.bpm.value
    qtbot.keyClick(shown, H)
    assert shown.bpm.value == pytest.approx(tapped / 2, abs=0.01)
    qtbot.mouseClick(shown.put, LEFT)
    assert tempo(beats)[0].bpm == pytest.approx(tapped / 2, abs=0.01)


def test_a_beat_tapped_while_it_plays_falls_where_it_was_heard(harbour, qtbot, settled):
    begin(harbour, qtbot, settled, "sc2", 0)
    key(qtbot, harbour, "B", CONTROL)
    shown = dialog(harbour)
    for _ in range(4):
        qtbot.keyClick(shown, T)
        qtbot.wait(300)
    beat, last = shown._beat, shown._scene_sample()
    assert beat is not None
    qtbot.mouseClick(shown.put, LEFT)
    harbour.transport.stop()
    (put,) = tempo(harbour)
    base = harbour.document.project.timebase
    length = 60 * base.rate / put.bpm
    apart = (beat - first_beat(put, base)) % length
    assert min(apart, length - apart) <= 2
    assert last is not None


@pytest.fixture
def patterned(beats, qtbot, settled, tmp_path):
    """Its layer plays a pattern of 100 beats a minute from frame 24 on."""
    sound, first = pattern(100.0, "eighths")
    beats.imports.import_files([write_sound(tmp_path / "pattern.wav", sound.T)])
    qtbot.waitUntil(lambda: beats.imports.importing.done, timeout=60_000)
    settled(beats)
    sound_id = beats.document.project.sounds[0].id
    beats.document.do(PlaceClip(layer="l1", frame=24, sound=sound_id))
    settled(beats)
    beats.session.choose(Cell("l1", 24))
    return beats, first


def test_the_tempo_of_the_chosen_clip_is_found_and_its_beats_fall_on_it(patterned, qtbot):
    window, first = patterned
    shown = dialog(window)
    qtbot.keyClick(shown, F)
    qtbot.waitUntil(lambda: "100" in shown.found.text(), timeout=20_000)
    assert "surely" in shown.found.text()
    qtbot.mouseClick(shown.put, LEFT)
    (put,) = tempo(window)
    assert put.bpm == pytest.approx(100, rel=0.002)
    base = window.document.project.timebase
    length = 60 * base.rate / put.bpm
    apart = (base.start(24) + first * base.rate - first_beat(put, base)) % length
    assert min(apart, length - apart) < 0.012 * base.rate


def test_a_tempo_that_suits_is_taken_by_a_double_click(beats, qtbot):
    shown = dialog(beats)
    beats.document.do(PutTempo(scene="sc1", frame=0, bpm=110.0))
    item = next(
        shown.suits.item(n)
        for n in range(shown.suits.count())
        if shown.suits.item(n).data(WHAT).bpm == 120.0
    )
    assert "every beat on a frame" in item.text()
    shown.suits.itemDoubleClicked.emit(item)
    qtbot.waitUntil(lambda: tempo(beats)[0].bpm == 120.0, timeout=2000)
    assert "every beat on a frame" in shown.list.item(0).text()


def test_a_frame_rate_that_suits_is_offered_with_what_it_costs(beats, qtbot, monkeypatch):
    asked = []
    monkeypatch.setattr(dialog(beats), "_rate_wanted", asked.append)
    beats.document.do(PutTempo(scene="sc1", frame=0, bpm=125.0))
    shown = dialog(beats)
    rates = [shown.suits.item(n) for n in range(shown.suits.count())]
    rate = next(item for item in rates if item.data(WHAT).fps == (25, 1))
    assert "12 frames a beat, on frames" in rate.text()
    shown.suits.itemDoubleClicked.emit(rate)
    qtbot.waitUntil(lambda: asked == [(25, 1)], timeout=2000)


@pytest.mark.parametrize("typed", ["0", "500"])
def test_a_frame_that_is_not_there_takes_no_tempo(beats, qtbot, typed):
    shown = dialog(beats)
    shown.frame.selectAll()
    qtbot.keyClicks(shown.frame, typed)
    qtbot.keyClick(shown.frame, Qt.Key.Key_Return)
    assert not shown.put.isEnabled()
    assert "no such frame" in shown.says.text()


def test_a_loop_is_fitted_to_beats_with_its_cost_said(harbour, qtbot, settled):
    harbour.session.choose(BELL)
    menu = QMenu(harbour)
    harbour.on_clip.looping.fit_menu(menu)
    assert "no tempo" in menu.actions()[0].text()
    harbour.document.do(PutTempo(scene="sc2", frame=0, bpm=90.0))
    settled(harbour)
    menu.clear()
    harbour.on_clip.looping.fit_menu(menu)
    by_speed = next(a for a in menu.actions() if a.text().startswith("1 beat by speed"))
    assert "semitones" in by_speed.text()
    by_speed.trigger()
    settled(harbour)
    _, shaping = harbour.chosen_clip.shaping()
    assert abs(shaping.timing.step - 32000) <= 1
    menu.deleteLater()


def test_beats_are_a_grid_over_the_rows(harbour, settled):
    harbour.session.show_scene("sc2")
    settled(harbour)
    before = harbour.sheet.grab().toImage()
    harbour.document.do(PutTempo(scene="sc2", frame=0, bpm=97.0))
    harbour.sheet.show_unit("beats")
    settled(harbour)
    after = harbour.sheet.grab().toImage()
    x = round(harbour.sheet.place.frame_x(harbour.document.project.timebase.position(
        4 * 60 * 48000 / 97
    )))  # fmt: skip
    y = harbour.sheet.place.row_top(0) + 3
    assert after.pixelColor(x, y) != before.pixelColor(x, y)
