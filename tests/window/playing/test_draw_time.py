"""A slower machine is pretended: sheet, sound and picture are as they would be there."""

import numpy as np
import pytest
import soundfile
from msgspec.structs import replace
from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtGui import QMouseEvent
from PySide6.QtWidgets import QApplication

from cicada.core.draw_times import with_spikes
from cicada.core.drift import drifts
from cicada.core.editing import Cell
from cicada.core.keyframe_edits import PlaceClip
from cicada.core.model import Run, Sound, empty_project
from cicada.core.planner import plan
from cicada.core.slowest import slowest
from cicada.deliver.drift_report import as_csv, as_json
from cicada.window.drawing.shapes import Shapes
from cicada.window.sheet.drift_list import DriftList
from tests.by_hand import LEFT, SHIFT, begin, drag, play_on, pull
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


# -- other ways to pretend it ----------------------------------------------------------------------


def test_it_is_drawn_by_hand_over_the_frames_of_the_sheet(harbour, qtbot, settled):
    harbour.session.show_scene("sc2")
    harbour.conditions.draw_by_hand(on=True)
    settled(harbour)
    sheet, lane = harbour.sheet, harbour.sheet.draw_lane
    start, end = (
        QPoint(round(sheet.place.frame_x(frame)) + 2, round(lane.y(seconds)))
        for frame, seconds in ((20, 0.2), (60, 0.1))
    )
    drag(qtbot, harbour, start, end)
    settled(harbour)
    times = harbour.conditions.draw_time["sc2"]
    assert times[20] == pytest.approx(0.2, abs=0.005)
    assert times[40] == pytest.approx(0.15, abs=0.02)
    assert times[60] == pytest.approx(0.1, abs=0.005)
    assert set(times[:20]) | set(times[61:]) == {0.0}
    assert harbour.conditions.draw_time["sc1"] == (0.0,) * 60
    passes = harbour.conditions.run().passes
    wanted = plan(
        harbour.document.project, Run(draw_time=harbour.conditions.draw_time, passes=passes)
    )
    assert harbour.planning.plan.stretches == wanted.stretches
    assert harbour.rail.draws.text() == "draws unevenly"
    qtbot.keyClick(harbour.sheet, Qt.Key.Key_Escape)
    assert not harbour.conditions.drawing
    assert harbour.sheet.draw_lane is None
    # What was drawn stays in force.
    assert harbour.conditions.draw_time["sc2"] == times


def test_with_shift_held_it_is_straight_from_where_it_began(harbour, qtbot, settled):
    harbour.session.show_scene("sc2")
    harbour.conditions.draw_by_hand(on=True)
    settled(harbour)
    sheet, lane = harbour.sheet, harbour.sheet.draw_lane
    x = [round(sheet.place.frame_x(frame)) + 2 for frame in (10, 30, 50)]
    port = pull(qtbot, harbour, QPoint(x[0], round(lane.y(0.0))), QPoint(x[1], round(lane.y(0.2))))
    event = QMouseEvent(
        QMouseEvent.Type.MouseMove, QPointF(x[2], lane.y(0.2)),
        port.mapToGlobal(QPointF(x[2], lane.y(0.2))), LEFT, LEFT, SHIFT,
    )  # fmt: skip
    QApplication.sendEvent(port, event)
    qtbot.mouseRelease(port, LEFT, pos=QPoint(x[2], round(lane.y(0.2))))
    times = harbour.conditions.draw_time["sc2"]
    assert times[30] == pytest.approx(0.1, abs=0.01)


def test_spikes_are_typed_and_are_those_of_their_seed(harbour, settled, answer):
    answer("10 ms, 300 ms, one in 12, seed 5")
    harbour.on_playing.ask_spikes()
    settled(harbour)
    times = harbour.conditions.draw_time
    for number, scene in enumerate(harbour.document.project.scenes):
        assert times[scene.id] == with_spikes(scene.length, 0.01, 0.3, 12, 5 + number)


def test_it_is_measured_on_this_machine_and_stays_as_it_was(harbour, qtbot, settled):
    said = []
    harbour.notices.said.connect(lambda text, *_: said.append(text))
    harbour.on_playing.measure_drawing()
    qtbot.waitUntil(lambda: harbour.conditions.draw_time != 0.0, timeout=60_000)
    times = harbour.conditions.draw_time
    for scene in harbour.document.project.scenes:
        assert len(times[scene.id]) == scene.length
        assert all(0 < seconds < 5 for seconds in times[scene.id])
    assert "pictures drawn, the slowest took" in said[-1]
    settled(harbour)
    assert harbour.conditions.draw_time is times


def test_a_film_without_a_picture_takes_no_time_to_draw(window, qtbot, settled):
    window.document.new(empty_project("Ours"))
    settled(window)
    window.on_playing.measure_drawing()
    qtbot.waitUntil(lambda: not window.drawing_time.busy, timeout=20_000)
    assert window.conditions.draw_time == {"sc1": (0.0,) * 240}
    settled(window)
    assert all(stretch.shown and not stretch.late for stretch in window.planning.plan.stretches)


@pytest.mark.parametrize(
    ("verb", "slow_too"),
    [("Mix the film as it is", False), ("Mix it as on that machine", True), ("Stay here", None)],
)
def test_a_mixdown_ignores_it_unless_it_is_asked_to(
    slow, settled, answer, tmp_path, verb, slow_too
):
    asked = answer(verb)
    path = tmp_path / "mix.wav"
    slow.delivering.mix_to(path)
    settled(slow)
    assert "drawing takes 8/s" in asked[-1]
    assert path.exists() == (slow_too is not None)
    if slow_too is not None:
        run = Run(draw_time=EIGHTH) if slow_too else Run()
        assert soundfile.info(path).frames == plan(slow.document.project, run).length


# -- what counts, and over time --------------------------------------------------------------------


def test_what_counts_as_ahead_is_chosen_and_the_sheet_follows(slow, qtbot, settled):
    dialog = drift_list(slow, qtbot)
    assert "of them by more than a frame" in dialog.note.text()
    dialog.tolerance.selectAll()
    qtbot.keyClicks(dialog.tolerance, "500 ms")
    qtbot.keyClick(dialog.tolerance, Qt.Key.Key_Return)
    assert slow.conditions.tolerance == 0.5
    far = sum(drift.last > 24000 for drift in drifts(slow.planning.plan))
    assert f"{far} of them by more than 500 ms (12.0 frames)" in dialog.note.text()
    assert slow.sheet.view_now().tolerance == 0.5
    dialog.tolerance.selectAll()
    qtbot.keyClicks(dialog.tolerance, "1 f")
    qtbot.keyClick(dialog.tolerance, Qt.Key.Key_Return)
    assert slow.conditions.tolerance is None
    dialog.close()


def test_drift_over_time_is_drawn_when_it_is_asked_for_and_gone_to(slow, qtbot, settled):
    dialog = drift_list(slow, qtbot)
    assert dialog._plot is None
    qtbot.mouseClick(dialog.over_time, LEFT)
    plot = dialog._plot
    qtbot.waitUntil(plot.isVisible)
    found = [drift for drift in drifts(slow.planning.plan) if drift.last]
    assert len(plot._drawn) == min(len(found), 60)
    drift, seconds, ahead = plot._drawn[0]
    curve = plot.plot.getPlotItem().listDataItems()[0]
    assert np.array_equal(curve.getData()[1], drift.ahead * 1000 / 48000)
    qtbot.wait(50)
    view = plot.plot.getPlotItem().vb
    spot = view.mapViewToScene(QPointF(seconds[-1], ahead[-1]))
    chosen = []
    plot.chosen.connect(lambda drift, at: chosen.append((drift.voice.key, at)))
    qtbot.mouseClick(plot.plot.viewport(), LEFT, pos=plot.plot.mapFromScene(spot))
    qtbot.waitUntil(lambda: bool(chosen), timeout=2000)
    visit, frame, _ = slow.planning.plan.frame_at(chosen[0][1])
    assert (slow.session.scene_id, slow.session.playhead) == (visit.scene, frame)
    slow.conditions.draw_in(0.0)
    settled(slow)
    assert plot._drawn == []
    dialog.close()


def test_an_override_of_the_plots_that_fails_takes_no_window_along(slow, qtbot, monkeypatch):
    dialog = drift_list(slow, qtbot)
    qtbot.mouseClick(dialog.over_time, LEFT)
    view = type(dialog._plot.plot)
    assert any(
        hasattr(vars(cls).get(name), "__wrapped__")
        for cls in view.__mro__
        for name in ("paintEvent", "resizeEvent", "mousePressEvent", "wheelEvent")
    )
    dialog.close()
