"""One person, one evening: from the demo to a soundtrack of their own, by mouse and keys."""

import numpy as np
import pytest
import soundfile
from PySide6.QtCore import QPoint, Qt

from cicada.core.editing import Cell
from cicada.core.mix import Mixer
from cicada.core.model import Clip, Hush, Rest
from cicada.core.planner import plan
from cicada.media.cache import user_cache
from cicada.media.sources import SoundSources
from cicada.playback.messages import Scrub
from cicada.store.projectfile import load
from cicada.window.widgets.drag import sound_mime
from tests.by_hand import LEFT, at, drag, drop, file_mime, point


@pytest.fixture
def door(tmp_path):
    path = tmp_path / "cellar_door.wav"
    soundfile.write(path, 0.3 * np.sin(np.arange(24000) / 9), 48000)
    return path


def test_a_dropped_file_is_on_the_shelf_with_its_facts(harbour, settled, door):
    drop(harbour.shelf.list.viewport(), file_mime(door), QPoint(20, 60))
    settled(harbour)
    sound = harbour.document.project.sounds[-1]
    assert (sound.name, sound.frames, sound.rate, sound.channels) == (
        "Cellar door",
        24000,
        48000,
        1,
    )
    assert (harbour.document.path.parent / sound.file).read_bytes() == door.read_bytes()
    assert harbour.session.sound == sound.id


def test_a_file_that_is_no_sound_is_said_and_changes_nothing(harbour, settled, tmp_path):
    (tmp_path / "letter.wav").write_text("dear harbour master")
    before = harbour.document.project
    drop(harbour.shelf.list.viewport(), file_mime(tmp_path / "letter.wav"), QPoint(20, 60))
    settled(harbour)
    assert harbour.document.project is before
    assert "letter.wav" in harbour.foot.note.text()


def test_dragging_and_choosing_on_the_card_place_the_same_keyframe(harbour, qtbot, settled):
    drop(harbour.sheet.viewport(), sound_mime("s4"), point(harbour, "l4", 100))
    settled(harbour)
    dragged = (at(harbour, "l4", 100), at(harbour, "l4", 120))
    harbour.document.undo()
    settled(harbour)
    qtbot.mouseClick(harbour.sheet.viewport(), LEFT, pos=point(harbour, "l4", 100))
    card = harbour.card
    card.empty.sound.setCurrentIndex(card.empty.sound.findData("s4"))
    qtbot.mouseClick(card.empty.place_button, LEFT)
    settled(harbour)
    assert (at(harbour, "l4", 100), at(harbour, "l4", 120)) == dragged
    assert dragged == (Clip(frame=100, sound="s4"), Rest(frame=120))


def test_a_sound_dropped_below_the_layers_gets_a_layer_of_its_own(harbour, qtbot, settled):
    for layer in ("l7", "l8", "l9"):
        harbour.session.choose(Cell(layer, 0))
        harbour.on_layer.remove_layer()
    settled(harbour)
    free = QPoint(500, harbour.sheet.place.row_top(len(harbour.sheet.place.rows)) + 10)
    drop(harbour.sheet.viewport(), sound_mime("s8"), free)
    settled(harbour)
    layer = harbour.session.scene.layers[-1]
    assert layer.name == "Foghorn"
    assert [type(k) for k in layer.keyframes] == [Clip, Rest]


def test_every_part_of_the_sentence_leads_to_what_changes_it(harbour, qtbot, settled):
    harbour.session.choose(Cell("l6", 6))
    settled(harbour)
    card = harbour.card
    links = [part.split('"')[0] for part in card.words.text().split('href="')[1:]]
    assert links == ["sound", "frame", "sync", "loops", "if_sounding", "ends"]
    for link in links:
        card.words.linkActivated.emit(link)
        assert card.pages.currentWidget().isVisible()
        harbour.card.clip.sound.hidePopup()


def choose(qtbot, window, name):
    button = next(b for b in window.card.findChildren(type(window.rail.play)) if b.text() == name)
    qtbot.mouseClick(button, LEFT)


def test_the_settings_on_the_card_change_the_clip_and_the_sentence(harbour, qtbot, settled):
    card = harbour.card
    harbour.session.choose(Cell("l6", 6))
    choose(qtbot, harbour, "Locked")
    settled(harbour)
    assert at(harbour, "l6", 6).sync == "locked"
    assert "locked to the picture" in card.words.text()
    choose(qtbot, harbour, "Hold picture")
    settled(harbour)
    assert "stands still for it" in card.words.text()
    choose(qtbot, harbour, "Free")
    choose(qtbot, harbour, "Wait until the layer is quiet")
    card.clip.loops.setFocus()
    card.clip.loops.selectAll()
    qtbot.keyClicks(card.clip.loops, "endless")
    qtbot.keyClick(card.clip.loops, Qt.Key.Key_Return)
    card.parts.setCurrentIndex(2)
    choose(qtbot, harbour, "With its span")
    settled(harbour)
    clip = at(harbour, "l6", 6)
    assert (clip.sync, clip.if_sounding, clip.loops, clip.ends) == ("free", "queue", 0, "span")
    assert "endlessly" in card.words.text()
    assert "ends with its span" in card.words.text()


@pytest.mark.parametrize(
    ("part", "field", "typed", "name", "value"),
    [
        (3, "level", "-6 dB", "level", 0.501187), (3, "level", "40 %", "level", 0.4),
        (3, "pan", "25 left", "pan", -0.25), (3, "fade_in", "12 f", "fade_in", 0.5),
        (1, "offset", "0.1 s", "offset", 0.1), (1, "speed", "50 %", "speed", 0.5),
        (2, "release", "200 ms", "release", 0.2),
    ],
)  # fmt: skip
def test_a_quantity_typed_is_read_with_its_unit(
    harbour, qtbot, settled, part, field, typed, name, value
):
    harbour.session.choose(Cell("l8", 184))
    harbour.card.parts.setCurrentIndex(part)
    box = harbour.card.clip.controls[field]
    box.setFocus()
    box.selectAll()
    qtbot.keyClicks(box, typed)
    qtbot.keyClick(box, Qt.Key.Key_Return)
    settled(harbour)
    assert getattr(at(harbour, "l8", 184), name) == pytest.approx(value)


def test_what_cannot_be_read_keeps_the_old_value_and_says_why(harbour, qtbot):
    harbour.session.choose(Cell("l8", 184))
    harbour.card.parts.setCurrentIndex(3)
    box = harbour.card.clip.controls["level"]
    box.setFocus()
    box.selectAll()
    qtbot.keyClicks(box, "loud")
    qtbot.keyClick(box, Qt.Key.Key_Return)
    assert at(harbour, "l8", 184).level == 0.8
    assert "no level" in box.accessibleDescription()


def test_trim_is_typed_and_the_room_is_drawn_shorter(harbour, qtbot, settled):
    harbour.session.choose(Cell("l5", 136))
    settled(harbour)
    harbour.card.parts.setCurrentIndex(1)
    for box, typed in ((harbour.card.clip.head, "0.25"), (harbour.card.clip.tail, "18 f")):
        box.setFocus()
        box.selectAll()
        qtbot.keyClicks(box, typed)
        qtbot.keyClick(box, Qt.Key.Key_Return)
    settled(harbour)
    assert at(harbour, "l5", 136).trim == (0.25, 0.75)
    traces = [t for row in harbour.sheet.traces.rows for t in row.traces]
    trace = next(t for t in traces if (t.voice.layer, t.voice.frame) == ("l5", 136))
    assert trace.end - trace.start == pytest.approx(12)


def test_dragging_a_clip_moves_it_with_its_room(harbour, qtbot, settled):
    drag(qtbot, harbour, point(harbour, "l8", 86), point(harbour, "l8", 96))
    settled(harbour)
    assert at(harbour, "l8", 84) is None
    assert isinstance(at(harbour, "l8", 94), Clip)
    assert at(harbour, "l8", 102) == Rest(frame=102)


def test_dragging_a_clip_to_another_layer_moves_it_there(harbour, qtbot, settled):
    drag(qtbot, harbour, point(harbour, "l8", 86), point(harbour, "l4", 86))
    settled(harbour)
    assert isinstance(at(harbour, "l4", 84), Clip)
    assert at(harbour, "l8", 84) is None


def test_dragging_the_end_of_a_span_moves_its_rest(harbour, qtbot, settled):
    sheet = harbour.sheet
    start = QPoint(round(sheet.place.x(92)), point(harbour, "l8", 92).y())
    end = QPoint(round(sheet.place.x(100)), start.y())
    drag(qtbot, harbour, start, end)
    settled(harbour)
    assert at(harbour, "l8", 92) is None
    assert at(harbour, "l8", 100) == Rest(frame=100)


def test_rest_and_hush_are_put_by_key_and_cleared(harbour, qtbot, settled):
    qtbot.mouseClick(harbour.sheet.viewport(), LEFT, pos=point(harbour, "l4", 120))
    qtbot.keyClick(harbour.sheet, Qt.Key.Key_R)
    assert at(harbour, "l4", 120) == Rest(frame=120)
    qtbot.mouseClick(harbour.sheet.viewport(), LEFT, pos=point(harbour, "l7", 60))
    harbour.session.choose(Cell("l7", 60))
    qtbot.keyClick(harbour.sheet, Qt.Key.Key_H)
    settled(harbour)
    assert at(harbour, "l7", 60) == Hush(frame=60, fade=0.2)
    assert "ends Rain bed" in harbour.card.words.text()
    harbour.sheet.setFocus()
    qtbot.keyClick(harbour.sheet, Qt.Key.Key_Delete)
    assert at(harbour, "l7", 60) is None


def test_undo_and_redo_by_key_give_back_what_was(harbour, qtbot):
    before = harbour.document.project
    harbour.arranging.place("s4", Cell("l4", 100))
    after = harbour.document.project
    control, shift = Qt.KeyboardModifier.ControlModifier, Qt.KeyboardModifier.ShiftModifier
    qtbot.keyClick(harbour, Qt.Key.Key_Z, control)
    assert harbour.document.project is before
    qtbot.keyClick(harbour, Qt.Key.Key_Z, control | shift)
    assert harbour.document.project is after
    assert harbour.document.undo_title == "place Buoy bell"


def test_saving_and_opening_again_gives_the_same_project(harbour, settled, door, tmp_path):
    harbour.imports.import_files([door], Cell("l4", 100))
    settled(harbour)
    target = tmp_path / "elsewhere" / "mine.cicada"
    target.parent.mkdir()
    harbour.document.save(target)
    project = harbour.document.project
    assert not harbour.document.dirty
    assert load(target) == project
    assert all((target.parent / sound.file).exists() for sound in project.sounds)
    harbour.document.undo()
    settled(harbour)
    assert not harbour.presence.missing


def test_a_copy_leaves_the_window_with_its_own_file(harbour, tmp_path):
    path = harbour.document.path
    harbour.document.save_copy(tmp_path / "copy.cicada")
    assert harbour.document.path == path
    assert len(load(tmp_path / "copy.cicada").sounds) == 11


def test_a_project_that_cannot_be_opened_leaves_the_one_that_is(harbour, told, tmp_path):
    (tmp_path / "bad.cicada").write_text('{"format": "cicada-project"')
    before = harbour.document.project
    assert not harbour.files.open_file(tmp_path / "bad.cicada")
    assert harbour.document.project is before
    assert "bad.cicada" in told[0]


def test_space_plays_the_film_into_the_output_as_it_is_rendered(harbour, qtbot, settled):
    transport, document = harbour.transport, harbour.document
    harbour.conditions.wait_at_points(on=False)
    harbour.conditions.play_times(1)
    harbour.session.show_scene("sc1")
    settled(harbour)
    transport.start()
    transport._timer.stop()
    written = len(transport._link._player.player.output.recorded())
    qtbot.keyClick(harbour.sheet, Qt.Key.Key_Space)
    assert transport.playing
    while transport.playing:
        transport.follow()
    heard = transport._link._player.player.output.recorded()[written:]
    film = plan(document.project)
    sources = SoundSources(document.project, harbour.presence.standing.files, user_cache())
    render = Mixer(film, document.project, sources).mix(0, film.length).T
    assert np.array_equal(heard[: film.length], render)
    assert harbour.session.scene_id == "sc3"


def test_the_playhead_and_the_picture_follow_what_is_audible(harbour, qtbot, settled):
    harbour.session.move_playhead(20)
    qtbot.keyClick(harbour.sheet, Qt.Key.Key_Space)
    qtbot.waitUntil(lambda: harbour.session.playhead > 40, timeout=5000)
    qtbot.keyClick(harbour.sheet, Qt.Key.Key_Space)
    assert not harbour.transport.playing
    settled(harbour)
    harbour.picture.refresh()
    assert harbour.picture.shown_frame == harbour.session.playhead


def test_escape_silences_everything(harbour, qtbot):
    harbour.session.choose_sound("s7")
    qtbot.keyClick(harbour.sheet, Qt.Key.Key_L)
    assert harbour.transport.listening
    qtbot.keyClick(harbour.sheet, Qt.Key.Key_Escape)
    assert not harbour.transport.listening
    qtbot.waitUntil(lambda: harbour.transport._link._player.player._feed is None)


def test_scrubbing_on_the_rulers_sounds(harbour, qtbot):
    port = harbour.sheet.viewport()
    y = 30
    qtbot.mousePress(port, LEFT, pos=QPoint(round(harbour.sheet.place.x(30)), y))
    qtbot.mouseMove(port, QPoint(round(harbour.sheet.place.x(40.5)), y))
    qtbot.mouseRelease(port, LEFT, pos=QPoint(round(harbour.sheet.place.x(40.5)), y))
    assert harbour.session.playhead == 40
    sent = [m for m in harbour.transport._link._player.heard if isinstance(m, Scrub)]
    entered = harbour.planning.plan.entered(40, 1)
    assert sent[-1].start == entered


def test_arrows_step_frames_and_ten_with_shift(harbour, qtbot):
    qtbot.keyClick(harbour.sheet, Qt.Key.Key_Right)
    qtbot.keyClick(harbour.sheet, Qt.Key.Key_Right, Qt.KeyboardModifier.ShiftModifier)
    qtbot.keyClick(harbour.sheet, Qt.Key.Key_Left)
    assert harbour.session.playhead == 10


def test_a_mute_is_heard_but_changes_nothing_that_happens(harbour, qtbot, settled):
    harbour.transport.start()
    voices = harbour.planning.plan.voices
    row = harbour.sheet.place.row_top(0)
    qtbot.mouseClick(harbour.sheet.viewport(), LEFT, pos=QPoint(30, row + 36))
    settled(harbour)
    assert harbour.document.project.layer("l4")[1].mute
    assert harbour.planning.plan.voices == voices
    assert harbour.transport._link._player.heard[-1].silent == ("l4",)


def test_a_mixdown_is_written_beside_the_window(harbour, settled, tmp_path):
    harbour.delivering.mix_to(tmp_path / "mix.wav")
    settled(harbour)
    samples = soundfile.read(tmp_path / "mix.wav")[0]
    assert len(samples) == plan(harbour.document.project).length
    assert "mix.wav" in harbour.foot.note.text()


def test_a_mixdown_over_a_sound_of_the_project_is_refused(harbour, told):
    sound = next(iter(harbour.presence.standing.files.values()))
    before = sound.read_bytes()
    harbour.delivering.mix_to(sound)
    assert told
    assert sound.read_bytes() == before


def test_a_picture_folder_with_a_gap_is_refused(harbour, qtbot, told):
    folder = harbour.document.path.parent / "harbour.pictures" / "dusk"
    (folder / "dusk_0007.jpg").unlink()
    before = harbour.document.project
    harbour.adding.drop([folder])
    qtbot.waitUntil(lambda: bool(told), timeout=20_000)
    assert "number 7 is missing" in told[0]
    assert harbour.document.project is before


def test_no_key_is_used_twice(harbour):
    keys = [
        a.shortcut().toString()
        for a in harbour.menus.actions.values()
        if not a.shortcut().isEmpty()
    ]
    assert sorted(keys) == sorted(set(keys))
    assert len(keys) == len(harbour.menus.actions)


def test_space_in_a_text_field_is_a_space(harbour, qtbot):
    layer = harbour.session.scene.layers[0]
    harbour.sheet.rename_layer(layer)
    field = harbour.sheet.name_field
    field.selectAll()
    qtbot.keyClicks(field, "A b")
    assert field.text() == "A b"
    assert not harbour.transport.playing
    qtbot.keyClick(field, Qt.Key.Key_Return)
    assert harbour.session.scene.layers[0].name == "A b"


def test_leaving_unsaved_changes_asks(harbour, answer):
    from cicada.window.frame.files import Files

    harbour.arranging.place("s4", Cell("l4", 100))
    asked = answer("Stay here")
    assert not Files.may_leave(harbour.files)
    assert "not saved" in asked[0]


def test_loops_and_frame_step_with_the_arrow_keys(harbour, qtbot, settled):
    harbour.session.choose(Cell("l8", 84))
    settled(harbour)
    for field in (harbour.card.clip.loops, harbour.card.clip.frame):
        field.setFocus()
        qtbot.keyClick(field, Qt.Key.Key_Up)
    settled(harbour)
    assert at(harbour, "l8", 85).loops == 2
    assert harbour.session.cell == Cell("l8", 85)


def test_settings_keep_keyframes_on_their_frames_and_are_undone(harbour, monkeypatch):
    from cicada.window.frame.settings_dialog import SettingsDialog

    before, said = harbour.document.project, []

    def fill(dialog):
        dialog.fps_field.setCurrentText("23.976")
        dialog.first_field.setText("1001")
        dialog.length_field.setText("120")
        said.append(dialog.says.text())
        return 1

    monkeypatch.setattr(SettingsDialog, "exec", fill)
    harbour.files.settings()
    project = harbour.document.project
    assert (project.fps, project.first_frame, project.scene("sc2").length) == (
        (24000, 1001),
        1001,
        120,
    )
    assert project.scene("sc2").layers == before.scene("sc2").layers
    assert "instead of 15.00 s" in said[0]
    assert "kept but do nothing" in said[0]
    harbour.document.undo()
    assert harbour.document.project is before


def test_a_new_project_has_the_settings_asked_for(harbour, monkeypatch):
    from cicada.window.frame.settings_dialog import SettingsDialog

    def fill(dialog):
        dialog.fps_field.setCurrentText("fast")
        assert not dialog.verb.isEnabled()
        dialog.fps_field.setCurrentText("25")
        dialog.rate_field.setCurrentText("44100")
        dialog.length_field.setText("50")
        return 1

    monkeypatch.setattr(SettingsDialog, "exec", fill)
    harbour.files.new()
    project = harbour.document.project
    assert (project.fps, project.rate, project.scenes[0].length) == ((25, 1), 44100, 50)
    assert harbour.document.path is None
