"""What stands on the rulers, and what the sheet shows at every zoom, pass and place."""

import numpy as np
import pytest
from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtGui import QContextMenuEvent, QWheelEvent
from PySide6.QtWidgets import QApplication, QDialog

from cicada.core.editing import Cell
from cicada.core.keyframe_edits import ChangeKeyframes
from cicada.core.mix import Mixer
from cicada.core.model import Clip, Mark, PressPoint
from cicada.deliver.mix_peaks import BIN
from cicada.media.cache import user_cache
from cicada.media.sources import SoundSources
from cicada.window.drawing.layout import HEAD, MARKS
from cicada.window.state.conditions import STEADY
from cicada.window.widgets import menus
from tests.by_hand import ALT, CONTROL, LEFT, NONE, SHIFT, at, drag, key, point, pull, ruler

# -- rulers -------------------------------------------------------------------------------------


def test_marks_dropped_while_the_film_plays_stand_where_it_was(harbour, qtbot, settled):
    before = len(harbour.session.scene.marks)
    key(qtbot, harbour, "Space")
    seen = []
    for least in (10, 40):
        qtbot.waitUntil(lambda least=least: harbour.session.playhead > least, timeout=20_000)
        seen.append(harbour.session.playhead)
        key(qtbot, harbour, "M")
    assert harbour.transport.playing
    key(qtbot, harbour, "Space")
    frames = [mark.frame for mark in harbour.session.scene.marks]
    assert len(frames) == before + 2
    assert all(any(abs(frame - there) <= 2 for frame in frames) for there in seen)


def test_marks_are_listed_found_written_on_and_gone_to(harbour, qtbot, settled):
    harbour.on_rulers.show_marks()
    marks = next(d for d in harbour.findChildren(QDialog) if d.windowTitle() == "Marks")
    assert marks.list.count() == 3
    qtbot.keyClicks(marks.words, "buoy")
    assert marks.list.count() == 1
    marks.list.setCurrentRow(0)
    assert harbour.session.playhead == 46
    marks.text.setText("the beam is on the buoy")
    marks.text.setModified(True)
    marks.text.editingFinished.emit()
    assert harbour.session.scene.marks[0] == Mark(frame=46, text="the beam is on the buoy")
    marks.list.setCurrentRow(0)
    qtbot.mouseClick(marks.remove, LEFT)
    assert [mark.frame for mark in harbour.session.scene.marks] == [156]
    marks.close()


def test_marks_and_press_points_are_dragged_on_the_ruler(harbour, qtbot, settled):
    for start, end in ((156, 164), (118, 126)):
        port = pull(qtbot, harbour, ruler(harbour, start, 8), ruler(harbour, end, 8), ALT)
        qtbot.mouseRelease(port, LEFT, ALT, ruler(harbour, end, 8))
    assert [mark.frame for mark in harbour.session.scene.marks] == [46, 164]
    [press] = harbour.session.scene.press_points
    assert (press.frame, press.label) == (126, "until the lamp is pressed")


def test_press_points_are_put_named_and_taken_away(harbour, qtbot, settled, answer):
    harbour.session.move_playhead(20)
    key(qtbot, harbour, "W")
    answer("for the door", "12 f")
    key(qtbot, harbour, "W", SHIFT)
    assert harbour.session.scene.press_points[0] == PressPoint(
        frame=20, label="for the door", after=0.5
    )
    key(qtbot, harbour, "W")
    assert len(harbour.session.scene.press_points) == 1


def test_the_tempo_is_set_counted_and_snapped_to(harbour, qtbot, settled, answer):
    answer("120")
    harbour.session.move_playhead(0)
    key(qtbot, harbour, "B", SHIFT)
    settled(harbour)
    assert harbour.sheet.unit == "beats"
    harbour.grab()
    harbour.sheet.snapping.kinds = {"beats"}
    start = point(harbour, "l8", 86)
    near = QPoint(start.x() + round(harbour.sheet.place.scale * 13), start.y())
    drag(qtbot, harbour, start, near)
    assert isinstance(at(harbour, "l8", 96), Clip)


def test_how_often_the_film_plays_is_chosen_where_it_ends(harbour, qtbot, settled, monkeypatch):
    harbour.session.show_scene("sc3")
    settled(harbour)
    harbour.sheet.fit()
    harbour.sheet.zoom(0.6, HEAD)
    shown = []

    def choose(menu, *_):
        shown.append([action.text() for action in menu.actions()])
        menu.actions()[1].trigger()

    monkeypatch.setattr(menus, "show", choose)
    end = QPoint(round(harbour.sheet.place.frame_x(60)) + 20, MARKS + 8)
    qtbot.mouseClick(harbour.sheet.viewport(), LEFT, pos=end)
    assert shown[0][0] == "Once"
    assert harbour.document.project.plays == 2


def test_frames_are_inserted_and_removed_with_all_that_stands_there(harbour, qtbot, settled):
    before = harbour.document.project
    harbour.session.move_playhead(100)
    key(qtbot, harbour, "Right", CONTROL | SHIFT)
    scene = harbour.session.scene
    assert scene.length == 250
    assert [mark.frame for mark in scene.marks] == [46, 166]
    assert scene.press_points[0].frame == 128
    assert isinstance(at(harbour, "l5", 146), Clip)
    assert scene.master[1][0] == 226.0
    key(qtbot, harbour, "Left", CONTROL | SHIFT)
    assert harbour.document.project.scenes[1].layers == before.scenes[1].layers
    harbour.arranging.scope = "layer"
    harbour.session.choose(Cell("l5", 100))
    key(qtbot, harbour, "Right", CONTROL)
    assert isinstance(at(harbour, "l5", 137), Clip)
    assert isinstance(at(harbour, "l4", 150), Clip)


# -- zoom and what is drawn ---------------------------------------------------------------------


def test_the_wheel_zooms_about_the_pointer(harbour, qtbot, settled):
    sheet, x = harbour.sheet, 700.0
    under, scale = sheet.place.frame(x), sheet.place.scale
    place = QPointF(x, 200.0)
    for _ in range(3):
        event = QWheelEvent(
            place, sheet.viewport().mapToGlobal(place), QPoint(), QPoint(0, 120),
            Qt.MouseButton.NoButton, NONE, Qt.ScrollPhase.NoScrollPhase, False,
        )  # fmt: skip
        QApplication.sendEvent(sheet.viewport(), event)
    assert sheet.place.scale == pytest.approx(scale * 1.25**3)
    assert sheet.place.frame(x) == pytest.approx(under, abs=1e-6)


def test_zooming_goes_from_the_whole_scene_to_single_samples(harbour, qtbot, settled):
    key(qtbot, harbour, "0")
    assert harbour.sheet.place.frame_x(240) <= harbour.sheet.viewport().width()
    for _ in range(30):
        key(qtbot, harbour, "Plus")
    assert harbour.sheet.place.scale / 2000 > 3
    harbour.grab()
    harbour.session.choose_all([Cell("l4", 10)])
    key(qtbot, harbour, "9")
    assert harbour.sheet.place.frame_x(10) > HEAD
    assert harbour.sheet.place.frame_x(49) < harbour.sheet.viewport().width()


def test_the_overview_scrolls_and_zooms(harbour, qtbot, settled):
    harbour.sheet.zoom(4, 300)
    overview = harbour.overview
    box = overview.window_box()
    middle = box.center().toPoint()
    qtbot.mousePress(overview, LEFT, pos=middle)
    qtbot.mouseMove(overview, middle + QPoint(200, 0))
    qtbot.mouseRelease(overview, LEFT, pos=middle + QPoint(200, 0))
    assert overview.window_box().left() == pytest.approx(box.left() + 200, abs=1.5)
    scale, box = harbour.sheet.place.scale, overview.window_box()
    edge = QPoint(round(box.right()), middle.y())
    qtbot.mousePress(overview, LEFT, pos=edge)
    qtbot.mouseMove(overview, edge + QPoint(60, 0))
    qtbot.mouseRelease(overview, LEFT, pos=edge + QPoint(60, 0))
    assert harbour.sheet.place.scale < scale


def test_the_second_pass_shows_what_comes_from_the_first(harbour, settled):
    harbour.session.show_scene("sc1")
    harbour.rail.shown.menu().actions()[1].trigger()
    settled(harbour)
    carried = {
        (trace.name, trace.come_from)
        for row in harbour.sheet.traces.rows
        for trace in row.traces
        if trace.come_from
    }
    assert ("Gull", "Dawn, pass 1") in carried
    assert harbour.rail.shown.text() == "Shows pass 2"


def test_a_film_whose_sounds_pile_up_is_never_steady_until_that_is_mended(harbour, settled):
    harbour.conditions.show_pass(STEADY)
    settled(harbour)
    assert harbour.rail.shown.text() == "Never steady"
    changes = {"if_sounding": "skip"}
    harbour.document.do(ChangeKeyframes(cells=(Cell("l10", 8),), changes=changes))
    settled(harbour)
    assert harbour.rail.shown.text() == "Steady: pass 2"


def test_a_run_out_of_silence_at_the_playhead_is_what_space_plays(harbour, qtbot, settled):
    harbour.session.move_playhead(90)
    harbour.rail.origin.menu().actions()[2].trigger()
    settled(harbour)
    rain = next(row for row in harbour.sheet.traces.rows if row.name == "Rain bed")
    assert rain.traces == []
    harbour.rail.origin.menu().actions()[1].trigger()
    settled(harbour)
    rain = next(row for row in harbour.sheet.traces.rows if row.name == "Rain bed")
    assert [(trace.voice.why, trace.start) for trace in rain.traces] == [("joined", 90.0)]
    harbour.session.move_playhead(95)
    settled(harbour)
    assert harbour.planning.run.frame == 95


def test_opened_waits_have_their_true_width(harbour, qtbot, settled):
    place = harbour.sheet.place
    closed = place.frame_x(104) - place.frame_x(103)
    assert closed == pytest.approx(place.scale)
    key(qtbot, harbour, "A", SHIFT)
    wide = (place.frame_x(104) - place.frame_x(103)) / place.scale
    assert wide == pytest.approx(1 + 1.25 * 24, abs=0.01)
    assert harbour.sheet.under.frame(place.frame_x(103) + 5 * place.scale) == 103
    harbour.grab()


def test_hovering_says_what_a_sounding_is_and_why_it_ends(harbour, settled):
    from cicada.window.sheet.hover import hover_sentence

    found = harbour.sheet.under.voice(QPointF(point(harbour, "l6", 60)))
    words = hover_sentence(harbour.sheet.traces, *found)
    assert words.startswith("Buoy bell, free, 3 times: starts on frame 7 (")
    found = harbour.sheet.under.voice(QPointF(point(harbour, "l7", 130)))
    assert "is hushed by Rain bed, frame 120," in hover_sentence(harbour.sheet.traces, *found)


def test_the_menu_on_a_sounding_offers_what_would_end_it(harbour, qtbot, settled, monkeypatch):
    offered = []
    monkeypatch.setattr(menus, "show", lambda menu, _: offered.extend(menu.actions()))
    where = point(harbour, "l6", 20)
    port = harbour.sheet.viewport()
    event = QContextMenuEvent(QContextMenuEvent.Reason.Mouse, where, port.mapToGlobal(where))
    QApplication.sendEvent(port, event)
    assert harbour.session.cell == Cell("l6", 6)
    words = [action.text() for action in offered]
    assert {"Hush what is chosen here", "Let it end with its span", "Mute, or not"} <= set(words)
    offered[words.index("Let it end with its span")].trigger()
    assert at(harbour, "l6", 6).ends == "span"


def test_the_mix_row_has_the_peaks_of_the_mix(harbour, qtbot, settled):
    qtbot.waitUntil(lambda: not harbour.mix_row.busy and harbour.mix_row.mix.complete)
    project, mix = harbour.document.project, harbour.mix_row.mix
    files = {sound.id: harbour.document.file.parent / sound.file for sound in project.sounds}
    sources = SoundSources(project, files, user_cache())
    # As far as the pass that is shown.
    end = min(visit.start for visit in mix.plan.visits if visit.number == 2) // BIN * BIN
    blocks = Mixer(mix.plan, project, sources).mix(0, end).reshape(2, -1, BIN)
    edges = np.arange(0, end + 1, BIN)
    low, high = mix.columns(edges)
    assert np.array_equal(low, blocks.min(axis=(0, 2)))
    assert np.array_equal(high, blocks.max(axis=(0, 2)))


def test_after_an_edit_only_what_changed_is_mixed_anew(harbour, qtbot, settled):
    qtbot.waitUntil(lambda: not harbour.mix_row.busy and harbour.mix_row.mix.complete)
    asked = []
    run = harbour.jobs.run

    def watch(work, *arguments, **keywords):
        asked.append(arguments[-1])
        return run(work, *arguments, **keywords)

    harbour.jobs.run = watch
    edit = ChangeKeyframes(cells=(Cell("l11", 20),), changes={"level": 0.1})
    harbour.document.do(edit)
    settled(harbour)
    qtbot.waitUntil(lambda: not harbour.mix_row.busy and harbour.mix_row.mix.complete)
    assert len(asked) == 1
    assert len(asked[0]) < harbour.mix_row.mix.blocks / 2


def test_overs_are_marked_in_the_mix(harbour, qtbot, settled):
    from cicada.core.scene_edits import ChangeProject

    harbour.document.do(ChangeProject(changes={"level": 4.0}))
    settled(harbour)
    qtbot.waitUntil(lambda: not harbour.mix_row.busy and harbour.mix_row.mix.complete)
    assert harbour.mix_row.mix.overs
    assert harbour.mix_row.mix.peak_db > 0
    harbour.grab()
