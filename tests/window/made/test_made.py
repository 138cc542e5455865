"""Sounds are made here: set in fields, written on a grid, heard, kept as files with the project."""

import mido
import numpy as np
import pytest
import soundfile
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QApplication, QDialog

from cicada.cli.main import main
from cicada.core.editing import Cell
from cicada.core.made import Noise, RoomTone, SyncBeep, Tone
from cicada.core.model import empty_project
from cicada.core.patterns import TICKS, Note, Pattern, PatternPart, TempoStep
from cicada.core.scene_edits import PutTempo
from cicada.media.cache import user_cache
from cicada.media.sources import SoundSources
from cicada.store.midi_file import written
from cicada.store.projectfile import load
from cicada.store.sounds_folder import sound_files
from cicada.synth.made import made_blocks
from cicada.synth.room import band_levels
from cicada.window.made.part_grid import PartGrid

LEFT = Qt.MouseButton.LeftButton


@pytest.fixture
def empty(window, settled):
    window.document.new(empty_project("Made"))
    settled(window)
    return window


def shown(window):
    return [d for d in window.findChildren(QDialog) if d.isVisible()][-1]


def any_shown(window):
    return [d for d in window.findChildren(QDialog) if d.isVisible()]


def only(window):
    (sound,) = window.document.project.sounds
    return sound


def typed(qtbot, field, text):
    field.setFocus()
    field.selectAll()
    qtbot.keyClicks(field, text)
    qtbot.keyClick(field, Qt.Key.Key_Return)


def choose(box, value):
    index = box.findData(value)
    assert index >= 0
    box.setCurrentIndex(index)
    box.activated.emit(index)


def samples_of(window, sound):
    sources = SoundSources(
        window.document.project, window.presence.standing.files, user_cache(), only_cached=True
    )
    return sources.whole(sound.id).samples.T


def test_what_is_made_stands_on_the_shelf_at_once_and_all_that_is_set_is_one_step(
    empty, qtbot, settled
):
    empty.on_made.make(Tone())
    dialog = shown(empty)
    typed(qtbot, dialog.fields["seconds"], "2 s")
    typed(qtbot, dialog.fields["hertz"], "A3")
    qtbot.mouseClick(dialog.choices["shape"].buttons["square"], LEFT)
    sound = only(empty)
    assert sound.making == Tone(seconds=2.0, hertz=220.0, shape="square")
    assert sound.frames == 96_000
    settled(empty)
    np.testing.assert_array_equal(
        samples_of(empty, sound), np.concatenate(list(made_blocks(sound.making, 48000, None)))
    )
    empty.document.undo()
    assert not empty.document.project.sounds
    assert not any_shown(empty)
    empty.document.redo()
    assert only(empty).making.hertz == 220.0


def test_it_is_placed_played_and_saved_like_any_other_and_saved_it_is_a_file(
    empty, qtbot, settled, tmp_path, capsys
):
    empty.on_made.make(Noise(seconds=0.5, level=0.1))
    sound = only(empty)
    layer = empty.session.scene.layers[0].id
    empty.arranging.place(sound.id, Cell(layer, 4))
    settled(empty)
    assert not empty.presence.missing
    assert empty.planning.plan.voices[0].end - empty.planning.plan.voices[0].start == 24_000
    file = tmp_path / "film.cicada"
    empty.document.save(file)
    settled(empty)
    saved = load(file).sounds[0]
    assert saved.making == sound.making
    assert saved.content == sound.content
    path = sound_files(load(file), file)[saved.id]
    heard, _ = soundfile.read(path, dtype="float32", always_2d=True)
    np.testing.assert_array_equal(heard, samples_of(empty, only(empty)))
    assert path.stem == saved.hash.removeprefix("blake2b:")
    # Others find it by its file; here it is made anew where that has gone.
    path.unlink()
    out = tmp_path / "out.wav"
    assert main(["render", str(file), "-o", str(out)]) == 0
    mixed, _ = soundfile.read(out, always_2d=True)
    np.testing.assert_allclose(mixed[8000 : 8000 + 24_000, 0], heard[:, 0], atol=1e-6)
    assert main(["check", str(file)]) == 0


def test_changed_after_saving_it_is_no_file_until_it_is_saved_again(
    empty, settled, tmp_path, qtbot
):
    empty.on_made.make(Tone(seconds=0.2))
    empty.document.save(tmp_path / "film.cicada")
    before = only(empty).file
    typed(qtbot, shown(empty).fields["hertz"], "300 Hz")
    assert (only(empty).file, empty.document.dirty) == ("", True)
    empty.document.undo()
    assert only(empty).file == before
    empty.document.redo()
    empty.document.save()
    assert only(empty).file not in ("", before)
    # What an earlier version needs stays.
    assert (tmp_path / before).is_file()


def test_room_tone_takes_the_colour_of_a_stretch_of_another_sound(own, qtbot, settled):
    own.on_made.make(RoomTone(seconds=1.0))
    dialog, made = shown(own), own.session.sound
    assert "silent yet" in dialog.says.text()
    other = own.document.project.sounds[1]
    own.session.choose_sound(other.id)
    dialog.refresh()
    typed(qtbot, dialog.first, "0.1 s")
    typed(qtbot, dialog.last, "0.4 s")
    qtbot.mouseClick(dialog.take, LEFT)
    qtbot.waitUntil(lambda: any(own.document.project.sound(made).making.bands), timeout=20_000)
    settled(own)
    part = samples_of(own, other).T[:, 4800:19_200]
    assert own.document.project.sound(made).making.bands == band_levels(part, 48000)


def test_a_sync_beep_is_a_frame_long_and_each_kind_can_be_made_from_the_menu(empty, qtbot, settled):
    from PySide6.QtWidgets import QMenu

    menu = QMenu(empty)
    empty.on_made.menu(menu)
    for action in menu.actions():
        action.trigger()
    settled(empty)
    sounds = empty.document.project.sounds
    assert [s.name for s in sounds] == [
        "Silence", "Room tone", "Sync beep", "Countdown", "Tone", "Noise"
    ]  # fmt: skip
    assert next(s for s in sounds if isinstance(s.making, SyncBeep)).frames == 2000
    assert not empty.presence.standing.unready


# -- patterns -------------------------------------------------------------------------------------


@pytest.fixture
def pattern(empty, qtbot, settled):
    empty.on_made.make_pattern()
    settled(empty)
    return empty


def making(window):
    return only(window).making


def press(qtbot, grid, pitch, tick, to=None, keys=Qt.KeyboardModifier.NoModifier):
    place = grid.place_of(pitch, tick).toPoint()
    qtbot.mousePress(grid, LEFT, keys, place)
    if to is not None:
        qtbot.mouseMove(grid, to)
    qtbot.mouseRelease(grid, LEFT, keys, to or place)


def test_notes_are_written_lengthened_moved_and_taken_away_by_hand(pattern, qtbot):
    dialog = shown(pattern)
    grid = dialog.rows[0].grid
    press(qtbot, grid, 36.0, 0)
    press(qtbot, grid, 42.0, 240, grid.place_of(42.0, 720).toPoint())
    assert making(pattern).parts[0].notes == (Note(0, 240, 36.0, 0.7), Note(240, 720, 42.0, 0.7))
    press(qtbot, grid, 36.0, 0, grid.place_of(38.0, 480).toPoint())
    assert Note(480, 240, 38.0, 0.7) in making(pattern).parts[0].notes
    press(qtbot, grid, 38.0, 480, keys=Qt.KeyboardModifier.ShiftModifier)
    assert Note(480, 240, 38.0, 1.0) in making(pattern).parts[0].notes
    press(qtbot, grid, 38.0, 480)
    assert making(pattern).parts[0].notes == (Note(240, 720, 42.0, 0.7),)
    assert pattern.document.undo_title == "take a note away"
    pattern.document.undo()
    assert len(making(pattern).parts[0].notes) == 2


def test_notes_are_written_by_keys_alone(pattern, qtbot):
    dialog = shown(pattern)
    grid = dialog.rows[0].grid
    grid.setFocus()
    for key in ("Down", "Right", "Right", "Space", "Plus", "S"):
        qtbot.keyClick(grid, getattr(Qt.Key, f"Key_{key}"))
    pitch = grid.rows[1]
    assert making(pattern).parts[0].notes == (Note(480, 480, pitch, 1.0),)
    qtbot.keyClick(grid, Qt.Key.Key_Minus)
    qtbot.keyClick(grid, Qt.Key.Key_Delete)
    assert making(pattern).parts[0].notes == ()


def test_a_part_has_an_instrument_and_a_pitch_is_said_as_it_was_understood(pattern, qtbot):
    dialog = shown(pattern)
    qtbot.mouseClick(dialog.add, LEFT)
    row = dialog.rows[1]
    choose(row.voice, "sung")
    row.pitch.setFocus()
    qtbot.keyClicks(row.pitch, "440 Hz")
    assert dialog.says.text() == "A4, 440.0 Hz"
    qtbot.keyClick(row.pitch, Qt.Key.Key_Return)
    assert 69.0 in row.grid.rows
    qtbot.keyClicks(row.pitch, "C7")
    assert "play F2 to G5" in dialog.says.text()
    qtbot.keyClick(row.pitch, Qt.Key.Key_Return)
    press(qtbot, row.grid, 96.0, 0)
    assert "1 note outside its range" in row.odd.text()
    field = row.grid.edit_row(row.grid.rows.index(96.0))
    field.setText("G5")
    qtbot.keyClick(field, Qt.Key.Key_Return)
    assert making(pattern).parts[1].notes[0].pitch == 79.0
    assert not row.odd.isVisible()
    qtbot.keyClicks(row.pitch, "H9")
    assert "note with its octave" in dialog.says.text()


def test_parts_of_unequal_length_are_compared_and_the_odd_one_is_shown(pattern, qtbot):
    dialog = shown(pattern)
    qtbot.mouseClick(dialog.add, LEFT)
    typed(qtbot, dialog.rows[1].length, "3")
    assert dialog.rows[1].odd.text() == "3 beats against 4: it goes 1.33 times round"
    assert dialog.length.text() == "4 beats, 2.000 s, 48 frames"
    qtbot.mouseClick(dialog.rows[1].gone, LEFT)
    assert len(making(pattern).parts) == len(dialog.rows) == 1


def test_it_is_fitted_to_frames_and_its_tempo_swing_rounds_and_end_are_set(pattern, qtbot, answer):
    dialog = shown(pattern)
    answer("50")
    qtbot.mouseClick(dialog.fit, LEFT)
    assert making(pattern).bpm == pytest.approx(115.2)
    assert dialog.length.text().endswith("50 frames")
    typed(qtbot, dialog.swing, "62 %")
    typed(qtbot, dialog.repeats, "2")
    choose(dialog.ending, "fold")
    choose(dialog.grid, TICKS // 3)
    made = making(pattern)
    assert (made.swing, made.repeats, made.ending, made.grid) == (0.62, 2, "fold", 320)


def test_its_tempo_changes_from_a_beat_on_as_typed_and_what_cannot_be_read_is_said(pattern, qtbot):
    dialog = shown(pattern)
    typed(qtbot, dialog.bpm, "120")
    typed(qtbot, dialog.steps, "60 from beat 3, 240 from 4")
    assert making(pattern).steps == (TempoStep(2 * TICKS, 60.0), TempoStep(3 * TICKS, 240.0))
    assert dialog.steps.text() == "60 from beat 3; 240 from beat 4"
    assert "2.250 s" in dialog.length.text()
    for wrong, sentence in (
        ("90", "from which beat"), ("90 from 1", "after beat 1"), ("90 from 5", "4 beats"),
        ("0 from 2", "from 1 to"), ("90 from 2; 80 from 2", "two tempos"), ("fast from 2", "tempo"),
        ("90 from " + "9" * 400, "beat"), ("90 from x", "beat"),
    ):  # fmt: skip
        typed(qtbot, dialog.steps, wrong)
        assert sentence in dialog.steps.accessibleDescription()
        assert len(making(pattern).steps) == 2
    qtbot.keyClick(dialog.steps, Qt.Key.Key_Escape)
    assert dialog.steps.text() == "60 from beat 3; 240 from beat 4"
    typed(qtbot, dialog.bpm, "100")
    assert len(making(pattern).steps) == 2
    dialog.steps.setFocus()
    dialog.steps.selectAll()
    qtbot.keyClick(dialog.steps, Qt.Key.Key_Delete)
    qtbot.keyClick(dialog.steps, Qt.Key.Key_Return)
    assert making(pattern).steps == ()


def test_it_follows_the_tempo_of_a_scene_which_changes_it_in_the_same_step(pattern, qtbot, settled):
    dialog, window = shown(pattern), pattern
    scene = window.session.scene_id
    window.document.do(PutTempo(scene=scene, frame=0, bpm=60.0))
    choose(dialog.follows, scene)
    assert (making(window).bpm, only(window).frames) == (60.0, 192_000)
    assert not dialog.bpm.isEnabled()
    window.document.do(PutTempo(scene=scene, frame=0, bpm=240.0))
    assert only(window).frames == 48_000
    window.document.undo()
    assert only(window).frames == 192_000


def test_it_is_listened_to_while_it_is_written(pattern, qtbot, settled):
    dialog = shown(pattern)
    qtbot.mouseClick(dialog.listen, LEFT)
    qtbot.waitUntil(lambda: pattern.transport.listening, timeout=20_000)
    assert dialog.listen.text() == "Stop"
    press(qtbot, dialog.rows[0].grid, 36.0, 0)
    qtbot.waitUntil(
        lambda: pattern.transport.listening and pattern.listening.heard is not None, timeout=20_000
    )
    assert pattern.listening.heard.key.startswith(only(pattern).content.removeprefix("blake2b:"))


def test_a_sound_of_the_shelf_is_an_instrument_and_no_pattern_is(own, qtbot, settled):
    own.on_made.make_pattern()
    first = own.session.sound
    own.on_made.make_pattern()
    dialog, made = shown(own), own.session.sound
    names = [dialog.rows[0].voice.itemText(n) for n in range(dialog.rows[0].voice.count())]
    assert sum("from the shelf" in name for name in names) == 6
    assert not any(name.startswith("Pattern") for name in names)
    bell = own.document.project.sounds[0]
    choose(dialog.rows[0].voice, f"sound {bell.id}")
    part = own.document.project.sound(made).making.parts[0]
    assert (part.sound.sound, part.sound.content) == (bell.id, bell.content)
    grid = dialog.rows[0].grid
    press(qtbot, grid, grid.rows[0], 0)
    settled(own)
    assert np.abs(samples_of(own, own.document.project.sound(made))).max() > 0.05
    assert own.document.project.sound(first).making.parts[0].sound is None


def test_a_midi_file_comes_in_and_goes_out_and_what_is_lost_is_said(
    pattern, qtbot, answer, tmp_path, monkeypatch
):
    dialog, path = shown(pattern), tmp_path / "in.mid"
    bass = PatternPart(
        name="Bass", voice="plucked", notes=(Note(0, 480, 40.0), Note(960, 480, 43.0))
    )
    path.write_bytes(written(Pattern(bpm=97.0, parts=(bass,))))
    monkeypatch.setattr(dialog._asking, "file_to_open", lambda *_: path)
    qtbot.mouseClick(dialog.midi_in, LEFT)
    assert [(n.at, n.pitch) for n in making(pattern).parts[0].notes] == [(0, 40.0), (960, 43.0)]
    assert making(pattern).bpm == pytest.approx(97.0, rel=1e-5)
    typed(qtbot, dialog.bpm, "97")
    out = tmp_path / "out.mid"
    monkeypatch.setattr(dialog._asking, "file_to_write", lambda *_: out)
    asked = answer("Write it")
    qtbot.mouseClick(dialog.midi_out, LEFT)
    assert "microseconds" in asked[0]
    notes = [m.note for m in mido.MidiFile(out).tracks[1] if m.type == "note_on"]
    assert notes == [40, 43]
    path.write_bytes(b"no")
    qtbot.mouseClick(dialog.midi_in, LEFT)
    assert "no MIDI file" in dialog.says.text()


def test_how_a_sound_is_made_is_changed_from_its_details_and_what_came_from_a_file_is_not(
    own, qtbot, settled
):
    own.on_made.make(Tone())
    shown(own).close()
    QApplication.processEvents()
    own.lower_half.open_details()
    details = own.shelf.details
    assert not details.keep.isEnabled()
    qtbot.mouseClick(details.making, LEFT)
    typed(qtbot, shown(own).fields["seconds"], "3 s")
    assert own.document.project.sounds[-1].frames == 144_000
    own.session.choose_sound(own.document.project.sounds[0].id)
    assert not details.making.isVisible()
    own.on_made.change()
    assert "made here" in own.foot.note.text()


def test_a_dialog_of_a_sound_that_goes_is_closed(pattern):
    assert any_shown(pattern)
    pattern.document.new(empty_project("Another"))
    QApplication.processEvents()
    assert not any_shown(pattern)


def test_the_grid_bears_presses_beside_it_and_a_part_without_rows(qtbot):
    grid = PartGrid()
    qtbot.addWidget(grid)
    grid.show_part(PatternPart(), [], 240, 3840, 20.0)
    grid.show()
    for place in (grid.rect().topLeft(), grid.rect().bottomRight(), grid.rect().center()):
        qtbot.mouseClick(grid, LEFT, pos=place)
        qtbot.mouseDClick(grid, LEFT, pos=place)
    qtbot.keyClick(grid, Qt.Key.Key_Space)
