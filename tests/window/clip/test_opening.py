"""An opened clip, and how it is trimmed, slipped, split and looped."""

import numpy as np
import pytest
from PySide6.QtCore import QPoint, Qt

from cicada.core.editing import Cell
from cicada.core.keyframe_edits import ChangeKeyframes
from cicada.core.layer_edits import ChangeLayer
from cicada.core.model import Clip, keyframe_at
from cicada.core.scene_edits import PutTempo
from cicada.window.drawing.neighbours import edge_words
from cicada.window.widgets import menus
from tests.by_hand import ALT, CONTROL, LEFT, at, drag, key, pull
from tests.window.clip.opened import BELL, KEEPER, bell, column, grip


def test_a_double_click_opens_a_clip_and_escape_closes_it_as_it_was(harbour, qtbot, settled):
    settled(harbour)
    before = harbour.sheet.place.scale
    row = harbour.sheet.traces.row_of("l6")
    inside = QPoint(column(harbour, 8), harbour.sheet.place.row_top(row) + 20)
    qtbot.mouseDClick(harbour.sheet.viewport(), LEFT, pos=inside)
    assert harbour.sheet.opened.cell == BELL
    assert harbour.sheet.place.rows[row] > 200
    assert harbour.sheet.place.scale > before
    key(qtbot, harbour, "Escape")
    assert harbour.sheet.opened is None
    assert harbour.sheet.place.scale == before


def test_an_opened_clip_that_is_nudged_stays_open(opened, qtbot, settled):
    key(qtbot, opened, "Right", ALT)
    settled(opened)
    assert opened.sheet.opened.cell == Cell("l6", 7)
    key(qtbot, opened, "Z", CONTROL)
    settled(opened)
    assert opened.sheet.opened.cell == BELL


def test_the_head_is_trimmed_to_a_frame_and_what_is_left_stays_in_place(opened, qtbot, settled):
    was = opened.sheet.opened.shaping
    moment = was.moment_of(was.whole - 1)
    start = grip(opened, "head")
    drag(qtbot, opened, start, QPoint(column(opened, 9), start.y()))
    settled(opened)
    clip = bell(opened, 9)
    assert clip.trim[0] == pytest.approx(3 / 24, abs=1e-6)
    assert clip.delay == 0
    assert opened.sheet.opened.cell == Cell("l6", 9)
    now = opened.sheet.opened.shaping
    assert now.moment_of(now.whole - 1) == moment


def test_a_trim_with_the_snap_held_off_goes_to_the_sample(opened, qtbot, settled):
    start = grip(opened, "head")
    end = QPoint(column(opened, 8.4), start.y())
    port = pull(qtbot, opened, start, end, ALT)
    qtbot.mouseRelease(port, LEFT, ALT, end)
    settled(opened)
    clip = bell(opened, 8)
    assert 0 < clip.delay < 1 / 24


def test_the_tail_is_trimmed_and_the_drag_says_how_it_stands_to_its_neighbours(
    opened, qtbot, settled
):
    start = grip(opened, "tail")
    end = QPoint(column(opened, 16), start.y())
    port = pull(qtbot, opened, start, end)
    qtbot.waitUntil(lambda: opened.planning.trying, timeout=5000)
    hand = opened.sheet._hand
    words = [*hand.said(), *edge_words(opened.sheet.opened)]
    qtbot.mouseRelease(port, LEFT, Qt.KeyboardModifier.NoModifier, end)
    settled(opened)
    assert bell(opened).trim == (0.0, pytest.approx(10 / 24, abs=1e-6))
    assert words[0].startswith("ends on frame 16")
    assert any("before Distant bell" in each for each in words)


def test_a_trim_snaps_to_where_the_sound_begins_to_be_heard(harbour, qtbot, settled):
    harbour.session.choose(KEEPER)
    settled(harbour)
    key(qtbot, harbour, "E")
    settled(harbour)
    shaping = harbour.sheet.opened.shaping
    samples = harbour.sounds.read("s1")(0, shaping.whole)
    first = int(np.flatnonzero(np.abs(samples).max(axis=0) > 10 ** (-50 / 20))[0])
    harbour.sheet.zoom(8, harbour.sheet.opened.x_of(harbour.sheet.opened.begins))
    start = grip(harbour, "head")
    edge = round(harbour.sheet.opened.x_of(shaping.moment_of(first)))
    drag(qtbot, harbour, start, QPoint(edge + 3, start.y()))
    settled(harbour)
    now = harbour.sheet.opened.shaping
    assert now.timing.first == pytest.approx(first, abs=1)


def test_a_command_is_drawn_while_the_pointer_rests_on_it(harbour, qtbot, settled):
    harbour.session.choose(KEEPER)
    harbour.session.move_playhead(30)
    settled(harbour)
    before = harbour.document.project
    harbour.menus.actions["split"].hover()
    qtbot.waitUntil(lambda: harbour.planning.trying, timeout=5000)
    tried = harbour.planning.project.layer("l4")[1]
    assert isinstance(keyframe_at(tried, 30), Clip)
    harbour.on_clip.look_at("")
    settled(harbour)
    assert harbour.document.project is before


def test_slipping_lets_another_part_of_the_sound_be_heard_in_the_same_place(opened, qtbot, settled):
    opened.document.do(ChangeKeyframes(cells=(BELL,), changes={"trim": (0.2, 0.5)}))
    settled(opened)
    band = opened.sheet.opened.slip_band.center().toPoint()
    frame = opened.sheet.place.scale
    drag(qtbot, opened, band, QPoint(round(band.x() - 2 * frame), band.y()))
    settled(opened)
    head, tail = bell(opened).trim
    assert (head, tail) == (
        pytest.approx(0.2 + 2 / 24, abs=1e-6),
        pytest.approx(0.5 + 2 / 24, abs=1e-6),
    )


def test_escape_lets_go_of_a_trim_that_is_being_dragged(opened, qtbot):
    before = opened.document.project
    start = grip(opened, "head")
    port = pull(qtbot, opened, start, QPoint(column(opened, 9), start.y()))
    key(qtbot, opened, "Escape")
    qtbot.mouseRelease(port, LEFT, Qt.KeyboardModifier.NoModifier, start)
    assert opened.document.project is before
    assert opened.sheet.opened is not None


def test_a_guarded_layer_lets_nothing_be_taken_hold_of(opened, qtbot, settled):
    opened.document.do(ChangeLayer(layer="l6", changes={"guarded": True}))
    settled(opened)
    before = opened.document.project
    start = grip(opened, "tail")
    drag(qtbot, opened, start, QPoint(column(opened, 16), start.y()))
    assert opened.document.project is before


@pytest.mark.parametrize(
    ("name", "frame", "check"),
    [
        ("A", 9, lambda w: at(w, "l6", 9).trim[0] == pytest.approx(3 / 24, abs=1e-6)),
        ("Z", 12, lambda w: at(w, "l6", 6).trim[1] == pytest.approx(6 / 24, abs=1e-6)),
    ],
)
def test_a_key_trims_to_the_playhead(harbour, qtbot, settled, name, frame, check):
    harbour.session.choose(BELL)
    harbour.session.move_playhead(frame)
    settled(harbour)
    key(qtbot, harbour, name)
    assert check(harbour)


def test_a_clip_is_split_at_the_playhead_and_sounds_on(harbour, qtbot, settled):
    harbour.session.choose(KEEPER)
    harbour.session.move_playhead(30)
    settled(harbour)
    key(qtbot, harbour, "I")
    settled(harbour)
    first, second = at(harbour, "l4", 10), at(harbour, "l4", 30)
    assert first.trim[1] == second.trim[0] == pytest.approx(20 / 24, abs=1e-6)
    assert harbour.session.cell == Cell("l4", 30)


def test_what_trimming_the_silence_cuts_is_said_and_drawn_before_it_is_done(
    harbour, qtbot, settled, monkeypatch
):
    harbour.session.choose(KEEPER)
    settled(harbour)
    before, shown = harbour.document.project, []

    def look(menu, _):
        action = menu.actions()[0]
        action.hover()
        qtbot.waitUntil(lambda: harbour.planning.trying, timeout=5000)
        shown.append((action.text(), harbour.planning.project))
        action.trigger()
        menu.aboutToHide.emit()

    monkeypatch.setattr(menus, "show", look)
    harbour.on_clip.show("trim_silence", QPoint(0, 0))
    settled(harbour)
    words, tried = shown[0]
    assert "below −40 dB" in words
    assert tried is not before
    assert at(harbour, "l4", 10).trim[0] > 0 or at(harbour, "l4", 10).trim[1] is not None
    assert harbour.document.undo_title == "trim the silence"


def test_a_clip_is_ended_on_the_beat_the_menu_names(harbour, settled, monkeypatch, qtbot):
    harbour.document.do(PutTempo(scene="sc2", frame=0, bpm=96.0))
    harbour.session.choose(KEEPER)
    settled(harbour)
    entries = {}
    monkeypatch.setattr(
        menus, "show", lambda menu, _: entries.update({a.text(): a for a in menu.actions()})
    )
    harbour.on_clip.show("end_on", QPoint(0, 0))
    words = next(text for text in entries if "beat" in text)
    entries[words].trigger()
    settled(harbour)
    over = int(words.rsplit(" ", 1)[1]) - 1
    voice = next(v for v in harbour.planning.plan.voices if (v.layer, v.frame) == KEEPER)
    assert voice.end == harbour.planning.plan.entered(over, voice.visit)


def test_looping_fills_the_span(harbour, qtbot, settled):
    harbour.session.choose(Cell("l9", 24))
    settled(harbour)
    key(qtbot, harbour, "F")
    settled(harbour)
    voice = next(v for v in harbour.planning.plan.voices if (v.layer, v.frame) == ("l9", 24))
    assert voice.end == harbour.planning.plan.entered(28, voice.visit)
