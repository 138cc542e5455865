"""Clips shaped by hand: what is opened on the sheet is dragged, typed and flipped."""

import numpy as np
import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtWidgets import QApplication, QMenu

from cicada.core.editing import Cell
from cicada.core.keyframe_edits import ChangeKeyframes
from cicada.core.layer_edits import ChangeLayer
from cicada.core.lines import Curve
from cicada.core.model import Clip, keyframe_at
from cicada.core.reshaping import shaping_of
from cicada.core.scene_edits import PutTempo
from cicada.deliver.work import loudnesses
from cicada.window.drawing.heads import LEVEL_X
from cicada.window.drawing.neighbours import edge_words
from cicada.window.sheet.snapping import Targets
from cicada.window.widgets import menus
from tests.window.test_composing import ALT, CONTROL, key, pull
from tests.window.test_evening import LEFT, at, drag

BELL = Cell("l6", 6)
KEEPER = Cell("l4", 10)
SHIFT = Qt.KeyboardModifier.ShiftModifier


@pytest.fixture
def opened(harbour, qtbot, settled):
    """The window with the bell opened on its sheet."""
    harbour.session.choose(BELL)
    settled(harbour)
    key(qtbot, harbour, "E")
    settled(harbour)
    return harbour


def grip(window, kind, number=0):
    found = [each for each in window.sheet.opened.grips if each.kind == kind]
    return found[number].at.toPoint()


def lane(window, name):
    return next(each for each in window.sheet.opened.lanes if each.kind == name)


def column(window, frame):
    return round(window.sheet.place.frame_x(frame))


def on_lane(window, name, frame, value):
    found = lane(window, name)
    return QPoint(column(window, frame), round(found.y(value)))


def bell(window, frame=6):
    return at(window, "l6", frame)


# -- opening --------------------------------------------------------------------------------------


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


# -- trim -----------------------------------------------------------------------------------------


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
    samples = harbour.sounds.samples("s1")
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


# -- land -----------------------------------------------------------------------------------------


@pytest.mark.parametrize("kind", ["hit", "peak"])
def test_a_hit_dragged_onto_a_frame_is_heard_on_its_first_sample(opened, qtbot, settled, kind):
    qtbot.waitUntil(lambda: bool(opened.sheet.opened.hits), timeout=10_000)
    hit = next(each for each in opened.sheet.opened.hits if each.kind == kind)
    start = hit.at.toPoint()
    drag(qtbot, opened, start, QPoint(column(opened, 20), start.y()))
    settled(opened)
    cell = opened.sheet.opened.cell
    plan = opened.planning.plan
    voice = next(v for v in plan.voices if (v.layer, v.frame) == cell)
    shaping = shaping_of(opened.document.project, cell, plan, voice.visit)
    assert shaping.moment_of(hit.sample) == plan.entered(20, voice.visit)
    assert opened.document.undo_title == "land the hit on a frame"


def test_a_hit_set_by_hand_stays_with_the_sound_and_is_landed_by_key(opened, qtbot, settled):
    opened.session.move_playhead(12)
    key(qtbot, opened, "V", SHIFT)
    settled(opened)
    assert opened.document.project.sound("s4").hits == (pytest.approx(6 / 24, abs=1e-6),)
    own = [each for each in opened.sheet.opened.hits if each.own]
    opened.session.move_playhead(14)
    key(qtbot, opened, "V")
    settled(opened)
    cell = opened.session.cell
    plan = opened.planning.plan
    voice = next(v for v in plan.voices if (v.layer, v.frame) == cell)
    shaping = shaping_of(opened.document.project, cell, plan, voice.visit)
    moments = [shaping.moment_of(sample) for sample in (own[0].sample,)]
    assert plan.entered(14, voice.visit) in moments


def test_snapping_knows_hits(opened, settled):
    opened.sheet.snapping.kinds = {"hits"}
    sheet = opened.sheet
    targets = Targets(sheet.snapping, sheet.traces, sheet.sounds, sheet.hits, 0)
    assert any("hit of Buoy bell" in what for what in targets.frames.values())


# -- lines ----------------------------------------------------------------------------------------


def test_a_click_on_the_line_adds_a_point_a_drag_moves_it_and_delete_takes_it_away(
    opened, qtbot, settled
):
    port = opened.sheet.viewport()
    qtbot.mouseClick(port, LEFT, pos=on_lane(opened, "level", 20, 1.0))
    settled(opened)
    ((place, value),) = bell(opened).level_line
    assert place == pytest.approx(14 / 24, abs=0.01)
    assert value == 1.0
    drag(qtbot, opened, on_lane(opened, "level", 20, 1.0), on_lane(opened, "level", 26, 0.5))
    settled(opened)
    ((place, value),) = bell(opened).level_line
    assert place == pytest.approx(20 / 24, abs=1e-5)
    assert value == pytest.approx(0.5)
    key(qtbot, opened, "Delete")
    settled(opened)
    assert bell(opened).level_line == ()
    assert isinstance(bell(opened), Clip)


def test_several_points_in_a_rectangle_are_moved_together(opened, qtbot, settled):
    line = ((0.2, 0.4), (0.5, 0.6), (1.5, 0.4))
    opened.document.do(ChangeKeyframes(cells=(BELL,), changes={"level_line": line}))
    settled(opened)
    found = lane(opened, "level")
    low = QPoint(round(found.point(0).x()) - 15, round(found.lower) - 4)
    high = QPoint(round(found.point(1).x()) + 15, round(found.upper) + 25)
    drag(qtbot, opened, low, high)
    drag(
        qtbot, opened, found.point(1).toPoint(),
        QPoint(round(found.point(1).x()), round(found.y(0.8))),
    )  # fmt: skip
    settled(opened)
    values = [point[1] for point in bell(opened).level_line]
    assert values == [pytest.approx(0.6), pytest.approx(0.8), 0.4]


def test_a_point_is_typed_by_number_and_what_cannot_be_read_is_refused(opened, qtbot, settled):
    opened.document.do(ChangeKeyframes(cells=(BELL,), changes={"pan_line": ((0.5, -0.5),)}))
    settled(opened)
    port = opened.sheet.viewport()
    at_point = lane(opened, "pan").point(0).toPoint()
    for text, wanted in (("soon", (0.5, -0.5)), ("18 f 40 right", (0.75, 0.4))):
        qtbot.mouseDClick(port, LEFT, pos=at_point)
        field = opened.sheet.name_field
        field.selectAll()
        qtbot.keyClicks(field, text)
        qtbot.keyClick(field, Qt.Key.Key_Return)
        settled(opened)
        assert bell(opened).pan_line == (wanted,)
        if text == "soon":
            assert "no point" in opened.foot.note.text()


def test_the_frame_a_hit_lands_on_is_typed(opened, qtbot, settled):
    qtbot.waitUntil(lambda: bool(opened.sheet.opened.hits), timeout=10_000)
    port = opened.sheet.viewport()
    for text in ("soon", "21"):
        spot = grip(opened, "hit") - QPoint(0, 4)
        qtbot.mouseDClick(port, LEFT, pos=spot)
        field = opened.sheet.name_field
        field.selectAll()
        qtbot.keyClicks(field, text)
        qtbot.keyClick(field, Qt.Key.Key_Return)
        settled(opened)
        if text == "soon":
            assert "is no time" in opened.foot.note.text()
    cell, plan = opened.sheet.opened.cell, opened.planning.plan
    voice = next(v for v in plan.voices if (v.layer, v.frame) == cell)
    hit = opened.sheet.opened.hits[0]
    shaping = shaping_of(opened.document.project, cell, plan, voice.visit)
    assert shaping.moment_of(hit.sample) == plan.entered(20, voice.visit)


def test_the_shape_behind_a_point_is_chosen_from_its_menu(opened, qtbot, settled):
    line = ((0.2, 0.4), (1.5, 0.9))
    opened.document.do(ChangeKeyframes(cells=(BELL,), changes={"level_line": line}))
    settled(opened)
    actions = opened.sheet.on_opened.point_menu(lane(opened, "level").point(0))
    next(a for a in actions if a.text().startswith("Smooth")).trigger()
    settled(opened)
    assert bell(opened).level_line == ((0.2, 0.4, "smooth"), (1.5, 0.9))


def test_a_fade_is_dragged_by_its_corner_to_a_frame(opened, qtbot, settled):
    start = grip(opened, "fade_in")
    drag(qtbot, opened, start, QPoint(column(opened, 10), start.y()))
    settled(opened)
    assert bell(opened).fade_in == pytest.approx(4 / 24, abs=1e-6)
    start = grip(opened, "fade_out")
    drag(qtbot, opened, start, start - QPoint(round(6 * opened.sheet.place.scale), 0))
    settled(opened)
    assert bell(opened).fade_out > 0.1


def test_the_overlap_of_loops_is_dragged_at_their_join(opened, qtbot, settled):
    start = grip(opened, "overlap")
    drag(qtbot, opened, start, start - QPoint(round(2 * opened.sheet.place.scale), 0))
    settled(opened)
    assert bell(opened).loop_overlap == pytest.approx(0.08 + 2 / 24, abs=0.011)


def test_the_layers_line_and_the_master_line_are_drawn_by_frames(harbour, qtbot, settled):
    harbour.session.choose(BELL)
    key(qtbot, harbour, "L", SHIFT)
    settled(harbour)
    port = harbour.sheet.viewport()
    qtbot.mouseClick(port, LEFT, pos=on_lane(harbour, "level", 30, 1.0))
    settled(harbour)
    layer = next(x for x in harbour.session.scene.layers if x.id == "l6")
    assert layer.line == ((pytest.approx(30, abs=0.2), 1.0),)
    before = harbour.session.scene.master
    key(qtbot, harbour, "K", SHIFT)
    settled(harbour)
    qtbot.mouseClick(port, LEFT, pos=on_lane(harbour, "level", 60, 1.0))
    settled(harbour)
    assert len(harbour.session.scene.master) == len(before) + 1


def test_lines_are_copied_onto_another_clip(harbour, qtbot, settled):
    lines = {"level_line": ((0.1, 0.5), (0.4, 1.0, "smooth")), "pan_line": ((0.0, -0.3),)}
    harbour.document.do(ChangeKeyframes(cells=(BELL,), changes=lines))
    harbour.session.choose(BELL)
    harbour.menus.actions["copy_lines"].trigger()
    harbour.session.choose(KEEPER)
    harbour.menus.actions["paste_lines"].trigger()
    clip = at(harbour, "l4", 10)
    assert (clip.level_line, clip.pan_line) == (lines["level_line"], lines["pan_line"])
    QApplication.clipboard().clear()


# -- gestures -------------------------------------------------------------------------------------


def panel_on(window, qtbot, kind):
    window.on_clip.lines.gesture(QPoint(0, 0))
    panel = QApplication.activePopupWidget()
    qtbot.mouseClick(panel.kind.buttons[kind], LEFT)
    return panel


def test_a_move_is_shown_while_it_is_set_and_drawn_as_points(harbour, qtbot, settled):
    harbour.session.choose(KEEPER)
    settled(harbour)
    panel = panel_on(harbour, qtbot, "move")
    qtbot.waitUntil(lambda: harbour.planning.trying, timeout=5000)
    first = panel.sides[0]
    first.setFocus()
    first.selectAll()
    qtbot.keyClicks(first, "100 left")
    qtbot.keyClick(first, Qt.Key.Key_Return)
    qtbot.mouseClick(panel.draw, LEFT)
    settled(harbour)
    start, end = at(harbour, "l4", 10).pan_line
    assert start == (0.0, -1.0, "smooth")
    assert end[1] == pytest.approx(0.7)


def test_a_dip_lowers_a_bed_where_the_other_clip_is_loud(harbour, qtbot, settled):
    rain = Cell("l7", 0)
    harbour.session.choose(rain)
    settled(harbour)
    panel = panel_on(harbour, qtbot, "dip")
    index = next(i for i in range(panel.under.count()) if "light on" in panel.under.itemText(i))
    panel.under.setCurrentIndex(index)
    panel.lowered.set_value(0.4)
    before = Curve(at(harbour, "l7", 0).level_line)
    qtbot.mouseClick(panel.draw, LEFT)
    settled(harbour)
    after = Curve(at(harbour, "l7", 0).level_line)
    assert after.at(1.2) == pytest.approx(0.4 * before.at(1.2), abs=0.01)
    assert after.at(4.0) == pytest.approx(before.at(4.0), abs=0.01)


# -- levels, loops, styles ------------------------------------------------------------------------


def test_a_clip_is_made_as_loud_as_a_figure_says(harbour, qtbot, settled):
    harbour.session.choose(KEEPER)
    settled(harbour)
    harbour.on_clip.matching.to_figure(-23.0)
    settled(harbour)
    clip = at(harbour, "l4", 10)
    layer = next(x for x in harbour.session.scene.layers if x.id == "l4")
    files = harbour.presence.standing.files
    project, cache = harbour.document.project, harbour.sounds.cache.folder
    (loud,) = loudnesses(project, files, cache, [(clip, layer.level)])
    assert loud == pytest.approx(-23.0, abs=0.05)


def test_a_clip_is_made_as_loud_as_another(harbour, qtbot, settled):
    harbour.session.choose(KEEPER)
    settled(harbour)
    harbour.on_clip.matching.to_clip(BELL)
    settled(harbour)
    scene = harbour.session.scene
    levels = {layer.id: layer.level for layer in scene.layers}
    pairs = [(at(harbour, "l4", 10), levels["l4"]), (at(harbour, "l6", 6), levels["l6"])]
    found = loudnesses(
        harbour.document.project, harbour.presence.standing.files,
        harbour.sounds.cache.folder, pairs,
    )  # fmt: skip
    assert found[0] == pytest.approx(found[1], abs=0.05)


def test_the_level_of_the_whole_mix_is_dragged_in_its_head(harbour, qtbot, settled):
    settled(harbour)
    place = harbour.sheet.place
    x = LEVEL_X + 1
    drag(qtbot, harbour, QPoint(x, place.foot + 18), QPoint(x, place.foot + 23))
    settled(harbour)
    assert harbour.document.project.level == pytest.approx(0.5)
    assert harbour.document.undo_title
    qtbot.mouseDClick(harbour.sheet.viewport(), LEFT, pos=QPoint(x, place.foot + 18))
    assert harbour.document.project.level == 1.0


def test_listening_to_the_join_begins_just_before_it(harbour, qtbot, settled):
    harbour.session.choose(BELL)
    settled(harbour)
    key(qtbot, harbour, "J")
    play = next(m for m in harbour.transport._link._player.heard[::-1] if hasattr(m, "repeat"))
    voice = next(v for v in harbour.planning.plan.voices if (v.layer, v.frame) == BELL)
    timing = shaping_of(harbour.document.project, BELL).timing
    join = voice.start + timing.step
    assert play.start < join < play.repeat[1]
    assert join - play.start <= 48000


def test_a_hard_edge_is_offered_to_be_softened_and_never_forced(opened, qtbot, settled):
    opened.document.do(ChangeKeyframes(cells=(BELL,), changes={"trim": (0.1, 0.4)}))
    settled(opened)
    assert bell(opened).fade_in == 0
    assert "hard" in opened.card.aside.text()
    opened.card.aside.linkActivated.emit("soften")
    settled(opened)
    assert (bell(opened).fade_in, bell(opened).fade_out) == (0.005, 0.005)
    assert "hard" not in opened.card.aside.text()


def test_a_style_is_kept_and_put_on_other_clips(harbour, qtbot, settled, answer):
    changes = {"loops": 2, "fade_out": 0.3, "level": 0.4}
    harbour.document.do(ChangeKeyframes(cells=(BELL,), changes=changes))
    harbour.session.choose(BELL)
    answer("Far away")
    harbour.on_clip.styling.keep_style()
    assert [style.name for style in harbour.document.project.styles] == ["Far away"]
    harbour.session.choose_all([KEEPER, Cell("l9", 24)])
    menu = QMenu(harbour)
    harbour.on_clip.styling.menu(menu)
    menu.actions()[0].trigger()
    settled(harbour)
    for layer, frame in (KEEPER, ("l9", 24)):
        clip = at(harbour, layer, frame)
        assert (clip.loops, clip.fade_out, clip.level) == (2, 0.3, 0.4)
        assert clip.sound != "s4"
    menu.deleteLater()


# -- compare --------------------------------------------------------------------------------------


def test_two_versions_are_flipped_while_they_play_and_the_difference_is_said(
    harbour, qtbot, settled
):
    harbour.session.choose(KEEPER)
    settled(harbour)
    key(qtbot, harbour, "C", SHIFT)
    before = at(harbour, "l4", 10)
    harbour.document.do(
        ChangeKeyframes(cells=(KEEPER,), changes={"level": before.level / 2, "trim": (0.0, 0.5)})
    )
    settled(harbour)
    now = harbour.document.project
    key(qtbot, harbour, "C")
    qtbot.waitUntil(lambda: harbour.planning.trying, timeout=5000)
    assert harbour.transport.playing
    assert keyframe_at(harbour.planning.project.layer("l4")[1], 10) == before
    assert "later" in harbour.card.aside.text()
    assert "6.0 dB louder" in harbour.card.aside.text()
    assert harbour.document.project is now
    key(qtbot, harbour, "C")
    qtbot.waitUntil(lambda: harbour.planning.project is now, timeout=5000)
    key(qtbot, harbour, "C")
    qtbot.waitUntil(lambda: harbour.planning.trying, timeout=5000)
    key(qtbot, harbour, "C", CONTROL | SHIFT)
    settled(harbour)
    assert at(harbour, "l4", 10) == before
    assert harbour.comparing.held is None


def test_a_version_on_a_guarded_layer_is_not_flipped_and_that_is_said(harbour, qtbot, settled):
    harbour.session.choose(KEEPER)
    settled(harbour)
    key(qtbot, harbour, "C", SHIFT)
    harbour.document.do(ChangeLayer(layer="l4", changes={"guarded": True}))
    settled(harbour)
    key(qtbot, harbour, "C")
    assert "guarded" in harbour.foot.note.text()
    assert not harbour.planning.trying


def test_both_versions_are_heard_equally_loud_if_asked(harbour, qtbot, settled):
    harbour.session.choose(KEEPER)
    settled(harbour)
    key(qtbot, harbour, "C", SHIFT)
    level = at(harbour, "l4", 10).level
    harbour.document.do(ChangeKeyframes(cells=(KEEPER,), changes={"level": level / 2}))
    settled(harbour)
    harbour.comparing.match_levels()
    settled(harbour)
    key(qtbot, harbour, "C")
    qtbot.waitUntil(lambda: harbour.planning.trying, timeout=5000)
    tried = keyframe_at(harbour.planning.project.layer("l4")[1], 10)
    assert tried.level == pytest.approx(level / 2, rel=0.01)


def test_an_opened_clip_is_painted_with_what_is_trimmed_off_and_single_samples(
    opened, qtbot, settled
):
    opened.document.do(ChangeKeyframes(cells=(BELL,), changes={"trim": (0.2, 0.5)}))
    settled(opened)
    sheet = opened.sheet
    left = sheet.opened.x_of(sheet.opened.shaping.moment_of(0))
    assert left < sheet.opened.x_of(sheet.opened.begins) - 20
    here = sheet.place.place(sheet.opened.x_of(sheet.opened.begins))
    sheet.show_places(here, here + 0.02)
    image = sheet.grab().toImage()
    wave = sheet.opened.wave
    dark = sum(
        image.pixelColor(x, y).lightness() < 90
        for x in range(200, 1200, 4)
        for y in range(round(wave.top()), round(wave.bottom()), 3)
    )
    assert dark > 40


def test_every_grip_stands_where_the_plan_puts_it(opened, qtbot, settled):
    sheet, plan = opened.sheet, opened.planning.plan
    voice = next(v for v in plan.voices if (v.layer, v.frame) == BELL)
    axis, found = sheet.traces.axis, sheet.opened
    assert grip(opened, "head").x() == round(sheet.place.x(axis.place(voice.start)))
    assert found.x_of(found.ends) == pytest.approx(sheet.place.x(axis.place(voice.end)), abs=0.5)
    xs = np.array([300.0, 420.0, 777.0])
    assert np.allclose(found.moments_at(xs), [found.moment_at(x) for x in xs], atol=2)
