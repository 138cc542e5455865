"""A slower machine is pretended: sheet, sound and picture are as they would be there."""

import numpy as np
import pytest
from msgspec.structs import replace
from PySide6.QtCore import Qt

from cicada.core.drift import drifts
from cicada.core.editing import Cell
from cicada.core.keyframe_edits import PlaceClip
from cicada.core.model import Run, Sound, empty_project
from cicada.core.planner import plan
from cicada.core.slowest import slowest
from cicada.deliver.drift_report import as_csv, as_json
from cicada.window.drawing.shapes import Shapes
from cicada.window.sheet.drift_list import DriftList
from tests.by_hand import begin, play_on
from tests.window.playing.by_ear import heard_since, render

KEYS = Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.AltModifier
EIGHTH = 0.125


@pytest.fixture
def slow(harbour, qtbot, settled, answer):
    """The demo as on a machine that draws eight pictures a second, asked for by its key."""
    harbour.conditions.wait_at_points(on=False)
    answer("8/s")
    qtbot.keyClick(harbour.sheet, Qt.Key.Key_D, KEYS)
    settled(harbour)
    return harbour


def test_the_sheet_draws_the_run_of_that_machine_and_the_rail_says_so(slow, settled):
    passes = slow.conditions.run().passes
    wanted = plan(slow.document.project, Run(draw_time=EIGHTH, passes=passes))
    assert slow.planning.plan.stretches == wanted.stretches
    assert slow.rail.draws.isVisibleTo(slow)
    assert slow.rail.draws.text() == "draws 8/s"
    slow.conditions.draw_in(0.0)
    settled(slow)
    assert not slow.rail.draws.isVisibleTo(slow)
    assert all(stretch.shown and not stretch.late for stretch in slow.planning.plan.stretches)


def test_what_is_heard_is_the_plan_of_that_draw_time_sample_for_sample(slow, qtbot, settled):
    slow.conditions.play_times(1)
    written = begin(slow, qtbot, settled)
    play_on(slow, lambda: not slow.transport.playing)
    wanted = render(slow, Run(draw_time=EIGHTH))
    assert np.array_equal(heard_since(slow, written)[: len(wanted)], wanted)


def test_the_picture_is_the_last_that_could_be_drawn(slow, qtbot, settled):
    begin(slow, qtbot, settled, "sc2", 0)
    pictures = {p.frame for p in slow.planning.plan.picture() if p.scene == "sc2"}
    seen = set()
    # The keeper speaks from frame 10 on: there the sound leads, and pictures are dropped.
    play_on(slow, lambda: seen.add(slow.picture.shown_frame) or slow.session.playhead > 40)
    assert set(range(41)) - pictures
    assert {frame for frame in seen if frame} <= pictures
    slow.transport.stop()


def test_another_film_is_drawn_as_it_is(slow, settled):
    slow.document.new(slow.document.project)
    settled(slow)
    assert slow.conditions.draw_time == 0.0


def test_what_is_no_draw_time_is_said_while_it_is_typed(harbour, qtbot, settled, answer):
    answer("fast")
    qtbot.keyClick(harbour.sheet, Qt.Key.Key_D, KEYS)
    assert harbour.conditions.draw_time == 0.0


def drift_list(window, qtbot):
    qtbot.keyClick(window.sheet, Qt.Key.Key_A, KEYS)
    return window.findChild(DriftList)


def test_what_runs_ahead_is_listed_gone_to_and_saved(slow, qtbot, settled, tmp_path, monkeypatch):
    dialog = drift_list(slow, qtbot)
    found = [drift for drift in drifts(slow.planning.plan) if drift.last]
    assert dialog.list.count() == len(found) > 0
    assert "It gets ahead on frame" in dialog.list.item(0).toolTip()
    assert "frames more." in dialog.list.item(0).toolTip()
    first = max(found, key=lambda drift: drift.last)
    dialog.list.setCurrentRow(0)
    visit, frame, _ = slow.planning.plan.frame_at(first.beyond(2000))
    assert (slow.session.scene_id, slow.session.playhead) == (visit.scene, frame)
    for suffix, wanted in (("csv", as_csv(found)), ("json", as_json(found) + "\n")):
        path = tmp_path / f"drift.{suffix}"
        monkeypatch.setattr(dialog._asking, "file_to_write", lambda *_, path=path: path)
        qtbot.mouseClick(dialog.save, Qt.MouseButton.LeftButton)
        assert path.read_text() == wanted
    slow.conditions.draw_in(0.0)
    settled(slow)
    assert not dialog.list.count()
    assert "No slow machine is pretended" in dialog.note.text()
    assert not dialog.save.isEnabled()
    dialog.close()


def test_a_voice_that_runs_ahead_says_so_at_its_end(slow, settled, monkeypatch):
    said, write = [], Shapes._write

    def heard(shapes, left, top, text, *rest, **more):
        said.append(text)
        write(shapes, left, top, text, *rest, **more)

    monkeypatch.setattr(Shapes, "_write", heard)
    slow.session.show_scene("sc3")
    settled(slow)
    slow.sheet.grab()
    assert "2.75 s (66.0 frames) ahead" in said


def test_the_list_goes_nowhere_by_itself(slow, qtbot):
    before = slow.session.scene_id, slow.session.playhead
    dialog = drift_list(slow, qtbot)
    dialog.list.setFocus()
    qtbot.wait(50)
    assert (slow.session.scene_id, slow.session.playhead) == before
    dialog.close()


def test_how_slow_a_machine_may_be_is_found_beside_the_window(harbour, qtbot, settled):
    project = empty_project("One bell", length=48)
    bell = Sound(id="s1", name="Bell", frames=48000, rate=48000, channels=1)
    project = PlaceClip(layer="l1", frame=2, sound="s1").apply(replace(project, sounds=(bell,)))
    harbour.document.new(project)
    settled(harbour)
    harbour.session.choose(Cell("l1", 2))
    dialog = drift_list(harbour, qtbot)
    qtbot.mouseClick(dialog.how_slow, Qt.MouseButton.LeftButton)
    assert "Trying" in dialog.limit.text()
    qtbot.waitUntil(dialog.how_slow.isEnabled, timeout=60_000)
    found = slowest(project, harbour.planning.run, 2000)
    tenths = found.film * 10_000 // 48_000
    assert f"up to {tenths // 10}.{tenths % 10} ms" in dialog.limit.text()
    assert "First gives: frame 3 of Layer 1 in Scene 1." in dialog.limit.text()
    assert "The chosen clip alone" in dialog.limit.text()
    dialog.close()


def test_a_list_that_is_closed_while_it_looks_is_told_nothing(harbour, qtbot, settled):
    settled(harbour)
    dialog = drift_list(harbour, qtbot)
    qtbot.mouseClick(dialog.how_slow, Qt.MouseButton.LeftButton)
    dialog.close()
    settled(harbour)
    assert not harbour.jobs.running


def test_a_players_log_is_pretended_and_what_it_lacks_is_said(harbour, settled, tmp_path):
    settled(harbour)
    said = []
    harbour.notices.said.connect(lambda text, *_: said.append(text))
    log = tmp_path / "log.csv"
    log.write_text("scene,frame,ms\nsc1,0,125\nsc1,0,100\nNight,0,10\nNight,999,10\n")
    harbour.on_playing.use_draw_log(log)
    settled(harbour)
    assert any(stretch.late for stretch in harbour.planning.plan.stretches)
    assert harbour.conditions.draw_time["sc1"][5] == EIGHTH
    assert "2 frames logged; 1 more than once" in said[-1]
    assert "1 line of frames that are not there" in said[-1]
    assert harbour.rail.draws.text() == "draws unevenly"


def test_a_log_that_cannot_be_read_is_said_and_changes_nothing(harbour, told, tmp_path):
    harbour.on_playing.use_draw_log(tmp_path / "gone.csv")
    assert "is not there" in told[-1]
    assert harbour.conditions.draw_time == 0.0
