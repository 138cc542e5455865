"""The shelf by mouse and keys: bringing in, finding, listening, knowing and keeping sounds."""

from pathlib import Path

import numpy as np
import pytest
import soundfile
from PySide6.QtCore import QEvent, QMimeData, QPoint, QPointF, Qt, QTimer, QUrl
from PySide6.QtGui import QDragEnterEvent, QDropEvent
from PySide6.QtWidgets import QApplication, QDialog, QPushButton

from cicada.core.editing import Cell
from cicada.core.keyframe_edits import ChangeKeyframes
from cicada.core.model import Clip, keyframe_at
from cicada.jobs.files import find_sounds
from cicada.playback.messages import Listen, Play
from cicada.window.shelf.import_dialog import ImportDialog
from cicada.window.shelf.importing import TOGETHER
from cicada.window.shelf.shelf_list import LISTEN_WIDTH, WAVE
from tests.sound_files import ring, write_container, write_sound

LEFT = Qt.MouseButton.LeftButton


def drop(widget, *paths):
    data = QMimeData()
    data.setUrls([QUrl.fromLocalFile(str(path)) for path in paths])
    at, no = QPoint(20, 20), Qt.KeyboardModifier.NoModifier
    for kind, place in ((QDragEnterEvent, at), (QDropEvent, QPointF(at))):
        QApplication.sendEvent(widget, kind(place, Qt.DropAction.CopyAction, data, LEFT, no))


def sounds(window):
    return {sound.name: sound for sound in window.document.project.sounds}


def choose(window, *names):
    shelf = window.shelf
    rows = [row for row, sound in enumerate(shelf.model.sounds) if sound.name in names]
    shelf.list.choose_rows(rows, rows[0])
    assert {window.document.project.sound(s).name for s in shelf.chosen()} == set(names)


def row_point(window, name, x):
    shelf = window.shelf
    row = next(i for i, sound in enumerate(shelf.model.sounds) if sound.name == name)
    index = shelf.model.index(row, 0)
    shelf.list.scrollTo(index)
    box = shelf.list.visualRect(index)
    return QPoint(box.left() + int(x), box.top() + 20)


def press_soon(text):
    """Press the button of that name in the question that is about to be asked."""

    def press():
        asked = QApplication.activeModalWidget()
        button = next(b for b in asked.findChildren(QPushButton) if b.text().startswith(text))
        button.click()

    QTimer.singleShot(200, press)


@pytest.fixture
def imported(qtbot, settled):
    """Wait until the import that has been begun is over."""

    def wait(window):
        qtbot.waitUntil(lambda: window.imports.importing.done, timeout=60_000)
        settled(window)
        return window.imports.importing

    return wait


@pytest.fixture
def folder(tmp_path):
    """Five sounds, two of them twice, and three things that are none."""
    place = tmp_path / "collected" / "water"
    place.mkdir(parents=True)
    write_sound(place / "slap 1.wav", ring(seed=1))
    write_sound(place / "slap 2.flac", ring(44100, seed=2), 44100)
    write_sound(place / "drip.ogg", ring(seed=3))
    write_container(place.parent / "pier.m4a", ring(seed=4))
    write_container(place.parent / "walk.mp4", ring(seed=5), picture=True)
    (place / "slap copy.wav").write_bytes((place / "slap 1.wav").read_bytes())
    samples, _ = soundfile.read(place / "slap 1.wav", dtype="int16")
    soundfile.write(place / "slap packed.flac", samples, 48000)
    (place / "letter.wav").write_text("dear harbour master")
    (place / "empty.mp3").write_bytes(b"")
    (place / "notes.txt").write_text("not a sound")
    return place.parent


# -- bringing in ------------------------------------------------------------------------------


def test_a_dropped_folder_comes_in_whole_and_each_file_is_accounted_for(harbour, imported, folder):
    before = harbour.document.project
    drop(harbour.shelf.list.viewport(), folder)
    importing = imported(harbour)
    names = {sound.name for sound in harbour.document.project.sounds[11:]}
    assert len(names & {"Drip", "Pier", "Walk", "Slap 2"}) == 4
    assert len(names) == 5
    assert importing.sentence() == "5 in, 3 converted, 2 already here, 2 refused."
    assert {entry.path.name for entry in importing.of("refused")} == {"letter.wav", "empty.mp3"}
    assert harbour.document.undo_title == "import 5 sounds"
    harbour.document.undo()
    assert harbour.document.project is before
    harbour.document.redo()
    assert len(harbour.document.project.sounds) == 16


def test_the_summary_lists_every_file_and_keeps_both_or_replaces(harbour, imported, folder, qtbot):
    drop(harbour.shelf, folder)
    importing = imported(harbour)
    qtbot.mouseClick(harbour.shelf.strip.show_all, LEFT)
    summary = harbour.imports.summary
    shown = [item.text(0) for item in summary._items]
    assert {"letter.wav", "slap copy.wav", "drip.ogg", "pier.m4a"} <= set(shown)
    here = {entry.path.name: entry for entry in importing.of("here")}
    packed = here.get("slap packed.flac") or next(
        entry for entry in here.values() if not entry.bytes_too
    )
    same = next((entry for entry in here.values() if entry.bytes_too), None)
    item = next(i for i in summary._items if i.text(0) == packed.path.name)
    item.setSelected(True)
    qtbot.mouseClick(summary.buttons["replace"], LEFT)
    qtbot.waitUntil(lambda: not harbour.jobs.running, timeout=20_000)
    sound = harbour.document.project.sound(packed.sound)
    assert sound.hash == packed.taken.hash
    assert len(sound.takes) == 1
    if same is not None:
        qtbot.mouseClick(summary.buttons["both"], LEFT)
        qtbot.waitUntil(lambda: importing.done and not harbour.jobs.running, timeout=20_000)
        assert len(harbour.document.project.sounds) == 17
    summary.close()


def test_stopping_keeps_what_is_in_and_leaves_no_half_file(harbour, imported, tmp_path, qtbot):
    (tmp_path / "many").mkdir()
    for number in range(30):
        write_sound(tmp_path / "many" / f"a {number}.wav", ring(seconds=4, seed=number))
    drop(harbour.shelf, tmp_path / "many")
    importing = harbour.imports.importing
    qtbot.waitUntil(lambda: len(importing.of("in")) >= 2, timeout=20_000)
    qtbot.mouseClick(harbour.shelf.strip.stop, LEFT)
    qtbot.waitUntil(lambda: importing.done, timeout=2000)
    imported(harbour)
    assert len(harbour.document.project.sounds) == 11 + len(importing.of("in"))
    assert importing.of("left")
    assert not list(harbour.document.path.parent.rglob("*.part"))
    stored = {path.name for path in (harbour.document.path.parent / "harbour.sounds").iterdir()}
    used = {Path(s.file).name for s in harbour.document.project.sounds}
    assert used <= stored


def test_a_film_dropped_on_the_picture_gives_its_sound(harbour, imported, qtbot, tmp_path):
    path = write_container(tmp_path / "ferry.mov", ring(seed=7), picture=True)
    drop(harbour.picture, path)
    qtbot.waitUntil(lambda: harbour.imports.importing is not None, timeout=20_000)
    imported(harbour)
    assert sounds(harbour)["Ferry"].encoding == "AAC in MOV"


def test_files_copied_elsewhere_are_pasted(harbour, imported, tmp_path, qtbot):
    data = QMimeData()
    data.setUrls([QUrl.fromLocalFile(str(write_sound(tmp_path / "chain.wav")))])
    QApplication.clipboard().setMimeData(data)
    qtbot.keyClick(harbour.sheet, Qt.Key.Key_V, Qt.KeyboardModifier.ControlModifier)
    imported(harbour)
    assert "Chain" in sounds(harbour)


def test_a_large_file_is_linked_and_a_small_one_kept(harbour, imported, tmp_path, monkeypatch):
    monkeypatch.setattr("cicada.window.shelf.importing.INSIDE_UP_TO", 30_000)
    write_sound(tmp_path / "large.wav")
    write_sound(tmp_path / "small.wav", ring(seconds=0.1))
    drop(harbour.shelf, tmp_path / "large.wav", tmp_path / "small.wav")
    imported(harbour)
    assert sounds(harbour)["Large"].kept == "linked"
    assert (
        harbour.document.path.parent / sounds(harbour)["Large"].file
    ).resolve() == tmp_path / "large.wav"
    assert sounds(harbour)["Small"].kept == "inside"


def test_a_sound_is_heard_in_the_import_dialog_before_it_is_taken(harbour, tmp_path, qtbot):
    place = tmp_path / "place"
    place.mkdir()
    path = write_sound(place / "rope.wav", ring(seconds=2.0))
    dialog = ImportDialog(harbour, harbour.listening, harbour.jobs, place, None)
    dialog.show()
    qtbot.waitUntil(lambda: dialog.model.rowCount(dialog.files.rootIndex()) == 1, timeout=10_000)
    assert not dialog.take.isEnabled()
    dialog.files.setCurrentIndex(dialog.model.index(str(path)))
    qtbot.waitUntil(lambda: "mono, 2.00 s" in dialog.facts.text(), timeout=20_000)
    qtbot.mouseClick(dialog.bar.button, LEFT)
    qtbot.waitUntil(lambda: harbour.transport.listening, timeout=20_000)
    assert harbour.listening.what == path
    qtbot.keyClick(dialog, Qt.Key.Key_Escape)
    assert harbour.listening.what is None
    assert dialog.isVisible()
    assert dialog.paths == [path]
    dialog.go_to(tmp_path)
    qtbot.waitUntil(lambda: dialog.model.rowCount(dialog.files.rootIndex()) >= 1, timeout=10_000)
    dialog.files.setCurrentIndex(dialog.model.index(str(place)))
    qtbot.waitUntil(lambda: dialog.take.text() == "Import 1 sound", timeout=20_000)
    dialog.close()
    dialog.deleteLater()
    assert len(harbour.document.project.sounds) == 11


def test_an_import_dialog_that_is_gone_hears_no_more_of_what_it_asked(harbour, tmp_path, qtbot):
    place = tmp_path / "place"
    place.mkdir()
    write_sound(place / "rope.wav", ring(seconds=0.2))
    waiting = []
    dialog = ImportDialog(harbour, harbour.listening, harbour.jobs, tmp_path, None)
    dialog.show()
    qtbot.waitUntil(lambda: dialog.model.rowCount(dialog.files.rootIndex()) >= 1, timeout=10_000)
    run = harbour.jobs.run
    harbour.jobs.run = lambda *asked, **told: waiting.append(told) or run(*asked, **told)
    dialog.files.setCurrentIndex(dialog.model.index(str(place)))
    del harbour.jobs.run
    dialog.close()
    dialog.deleteLater()
    QApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete)
    for told in waiting:
        told["done"](find_sounds([place]))
    assert waiting


# -- finding ----------------------------------------------------------------------------------


def test_words_filters_and_order_find_sounds_as_one_types(harbour, settled, qtbot):
    shelf = harbour.shelf
    names = lambda: [sound.name for sound in shelf.model.sounds]  # noqa: E731
    qtbot.keyClick(harbour, Qt.Key.Key_F, Qt.KeyboardModifier.ControlModifier)
    qtbot.keyClicks(shelf.search, "bell wat")
    assert names() == ["Buoy bell", "Distant bell"]
    qtbot.keyClick(shelf.search, Qt.Key.Key_Escape)
    assert len(names()) == 11
    shelf.order.setCurrentIndex(shelf.order.findData("length"))
    shelf.order.activated.emit(0)
    lengths = [sound.frames / sound.rate for sound in shelf.model.sounds]
    assert lengths == sorted(lengths, reverse=True)
    shelf.only.setCurrentIndex(shelf.only.findData("folder:Water"))
    shelf.only.activated.emit(0)
    assert {sound.folder for sound in shelf.model.sounds} == {"Water"}
    shelf.only.setCurrentIndex(shelf.only.findData("unused"))
    shelf.only.activated.emit(0)
    assert names() == []
    assert "No sound" in shelf._empty.text()


def test_what_is_chosen_stays_chosen_while_words_are_typed(harbour, qtbot):
    choose(harbour, "Foghorn")
    qtbot.keyClicks(harbour.shelf.search, "o")
    assert harbour.session.sound == sounds(harbour)["Foghorn"].id
    assert harbour.shelf.chosen() == (sounds(harbour)["Foghorn"].id,)


# -- listening --------------------------------------------------------------------------------


def listened(window):
    return [m for m in window.transport._link._player.heard if isinstance(m, Listen)]


@pytest.fixture
def measured(harbour, settled, qtbot):
    project = harbour.document.project
    qtbot.waitUntil(lambda: all(map(harbour.measuring.of, project.sounds)), timeout=30_000)
    return harbour


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
        loud = measures.loudness + 20 * np.log10(gain)
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


# -- trying -----------------------------------------------------------------------------------


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


# -- knowing ----------------------------------------------------------------------------------


def enter(qtbot, field, text):
    field.setFocus()
    field.selectAll()
    qtbot.keyClicks(field, text)
    qtbot.keyClick(field, Qt.Key.Key_Return)


def test_the_details_change_what_is_known(measured, qtbot):
    choose(measured, "Sweep")
    qtbot.keyClick(measured, Qt.Key.Key_D)
    details = measured.shelf.details
    qtbot.waitUntil(details.isVisible)
    assert "LUFS" in details.facts["level"].toolTip()
    assert "29 frames; 5 uses" in details.facts["length"].toolTip()
    enter(qtbot, details.fields["name"], "Beam")
    sound = sounds(measured)["Beam"]
    assert sound.code_name == "sweep"
    enter(qtbot, details.fields["code_name"], "class")
    enter(qtbot, details.fields["tags"], "light, soft ,light")
    sound = sounds(measured)["Beam"]
    assert (sound.code_name, sound.tags) == ("sound_class", ("light", "soft"))
    choose(measured, "Beam", "Foghorn")
    enter(qtbot, details.fields["folder"], "Lamp")
    assert {
        s.folder for s in measured.document.project.sounds if s.name in ("Beam", "Foghorn")
    } == {"Lamp"}
    assert measured.document.undo_title == "change the folder of 2 sounds"


def test_a_sound_whose_name_is_being_typed_already_goes_on_being_named(harbour, qtlog):
    harbour.session.choose_sound("s3")
    for _ in range(2):
        harbour.menus.actions["rename_sound"].trigger()
    assert not [each for each in qtlog.records if "editing failed" in each.message]


def test_a_sound_is_renamed_in_its_row(harbour, qtbot):
    choose(harbour, "Sweep")
    harbour.menus.actions["rename_sound"].trigger()
    editor = QApplication.focusWidget()
    editor.selectAll()
    qtbot.keyClicks(editor, "Beam")
    qtbot.keyClick(editor, Qt.Key.Key_Return)
    qtbot.waitUntil(lambda: "Beam" in sounds(harbour))


def test_where_a_sound_is_used_is_shown_one_clip_after_the_other(harbour, qtbot):
    choose(harbour, "Buoy bell")
    cells = []
    for _ in range(4):
        harbour.menus.actions["used"].trigger()
        cells.append((harbour.session.scene_id, harbour.session.cell))
    assert cells[0] == ("sc2", Cell("l6", 6))
    assert len({str(cell) for cell in cells}) == 3
    assert cells[3] == cells[0]
    assert harbour.session.shown_sound == sounds(harbour)["Buoy bell"].id


def test_a_used_sound_is_removed_only_after_its_uses_were_shown(harbour, settled, answer):
    choose(harbour, "Foghorn")
    before = harbour.document.project
    answer("Keep on the shelf")
    harbour.menus.actions["remove_sound"].trigger()
    assert harbour.document.project is before
    answer("Remove")
    harbour.menus.actions["remove_sound"].trigger()
    assert "Foghorn" not in sounds(harbour)
    harbour.document.undo()
    assert harbour.document.project is before


def test_a_sound_is_replaced_everywhere(harbour, settled, qtbot):
    old, new = sounds(harbour)["Sweep"].id, sounds(harbour)["Wing hum"].id
    choose(harbour, "Sweep")

    def pick():
        dialog = QApplication.activeModalWidget()
        qtbot.keyClicks(dialog.search, "wing")
        qtbot.mouseClick(dialog.take, LEFT)

    QTimer.singleShot(200, pick)
    harbour.menus.actions["replace_sound"].trigger()
    clips = [
        keyframe.sound
        for _, layer in harbour.document.project.all_layers()
        for keyframe in layer.keyframes
        if isinstance(keyframe, Clip)
    ]
    assert old not in clips
    assert clips.count(new) == 6


# -- keeping ----------------------------------------------------------------------------------


def test_a_missing_sound_is_shown_and_found_again_by_its_content(harbour, settled, tmp_path, qtbot):
    bell, light = sounds(harbour)["Buoy bell"], sounds(harbour)["Keeper: “light on the water”"]
    stored = harbour.document.path.parent / bell.file
    hidden = tmp_path / "attic" / "deep" / "renamed.flac"
    hidden.parent.mkdir(parents=True)
    stored.rename(hidden)
    spoken = harbour.document.path.parent / light.file
    samples, rate = soundfile.read(spoken, dtype="int16")
    soundfile.write(tmp_path / "attic" / "spoken.flac", samples, rate)
    spoken.unlink()
    harbour.presence.look()
    qtbot.waitUntil(lambda: harbour.presence.missing == {bell.id, light.id}, timeout=10_000)
    assert "Buoy bell" in harbour.foot.note.text()
    voices = len(harbour.planning.plan.voices)
    assert harbour.sounds.peaks(bell.id) is not None
    harbour.sound_files.find_in(tmp_path / "attic")
    qtbot.waitUntil(lambda: not harbour.presence.missing, timeout=20_000)
    settled(harbour)
    assert stored.read_bytes() == hidden.read_bytes()
    assert harbour.document.undo_title == "find 2 missing sounds"
    now = harbour.document.project.sound(light.id)
    assert (now.pcm_hash, now.encoding) == (light.pcm_hash, "FLAC 16 bit")
    assert now.hash != light.hash
    assert len(harbour.planning.plan.voices) == voices


def test_a_source_that_changed_is_offered_and_taken_with_the_trims_kept(
    harbour, settled, imported, tmp_path, qtbot
):
    path = write_sound(tmp_path / "gate.wav", ring(seconds=1.0, seed=1))
    drop(harbour.shelf, path)
    imported(harbour)
    sound = sounds(harbour)["Gate"]
    harbour.arranging.place(sound.id, Cell("l4", 100))
    trim = ChangeKeyframes(cells=(Cell("l4", 100),), changes={"trim": (0.1, 0.4)})
    harbour.document.do(trim)
    first = path.read_bytes()
    write_sound(path, ring(seconds=0.8, seed=2))
    harbour.sound_files.look_at_sources()
    qtbot.waitUntil(lambda: sound.id in harbour.sound_files.changed_sources, timeout=20_000)
    choose(harbour, "Gate")
    harbour.lower_half.widen(harbour.shelf)
    qtbot.waitUntil(harbour.shelf.details.fresh.isVisible)
    qtbot.mouseClick(harbour.shelf.details.fresh, LEFT)
    qtbot.waitUntil(lambda: len(sounds(harbour)["Gate"].takes) == 1, timeout=20_000)
    settled(harbour)
    now = sounds(harbour)["Gate"]
    assert now.frames == int(0.8 * 48000)
    assert keyframe_at(harbour.document.project.layer("l4")[1], 100).trim == (0.1, 0.4)
    stored = harbour.document.path.parent / now.takes[0].file
    assert stored.read_bytes() == first
    harbour.shelf.details.takes.activated.emit(1)
    assert sounds(harbour)["Gate"].frames == 48000
    qtbot.waitUntil(lambda: not harbour.sound_files.changed_sources, timeout=20_000)


def test_a_copy_worked_on_elsewhere_comes_back_as_a_take(harbour, settled, qtbot):
    opened = []
    harbour.sound_files.open_copy = lambda path: bool(opened.append(path)) or True
    sound = sounds(harbour)["Sweep"]
    source = harbour.presence.standing.files[sound.id]
    before = source.read_bytes()
    choose(harbour, "Sweep")
    harbour.menus.actions["work_on"].trigger()
    qtbot.waitUntil(lambda: bool(opened), timeout=20_000)
    assert opened[0].read_bytes() == before
    write_sound(opened[0], ring(seed=8))
    qtbot.waitUntil(lambda: sound.id in harbour.sound_files.changed_sources, timeout=20_000)
    harbour.sound_files.take_changed()
    qtbot.waitUntil(lambda: len(sounds(harbour)["Sweep"].takes) == 1, timeout=20_000)
    settled(harbour)
    assert source.read_bytes() == before
    assert sounds(harbour)["Sweep"].kept == "inside"


def test_a_sound_is_linked_and_kept_inside_again_and_tidied_only_when_told(
    harbour, settled, imported, tmp_path, qtbot
):
    path = write_sound(tmp_path / "gate.wav", ring(seed=1))
    drop(harbour.shelf, path)
    imported(harbour)
    stored = harbour.document.path.parent / sounds(harbour)["Gate"].file
    choose(harbour, "Gate")
    harbour.sound_files._asks = lambda text, yes: yes in ("Link", "Keep inside")
    harbour.sound_files.keep_or_link()
    qtbot.waitUntil(lambda: sounds(harbour)["Gate"].kept == "linked", timeout=20_000)
    settled(harbour)
    harbour.document.save()
    harbour.document.open(harbour.document.path)
    settled(harbour)
    assert stored.exists()
    press_soon("Keep them")
    harbour.menus.actions["tidy"].trigger()
    assert stored.exists()
    press_soon("Remove 1 file")
    harbour.menus.actions["tidy"].trigger()
    assert not stored.exists()
    assert path.exists()
    choose(harbour, "Gate")
    harbour.sound_files.keep_or_link()
    qtbot.waitUntil(lambda: sounds(harbour)["Gate"].kept == "inside", timeout=20_000)
    assert stored.read_bytes() == path.read_bytes()


def test_nothing_needed_is_offered_for_tidying(harbour, settled):
    harbour.menus.actions["tidy"].trigger()
    assert "is needed" in harbour.foot.note.text()
    assert not isinstance(QApplication.activeModalWidget(), QDialog)


def test_an_import_goes_on_when_the_project_is_saved_meanwhile(window, imported, tmp_path, qtbot):
    (tmp_path / "many").mkdir()
    for number in range(12):
        write_sound(tmp_path / "many" / f"a {number}.wav", ring(seconds=2, seed=number))
    window.imports.import_files([tmp_path / "many"])
    importing = window.imports.importing
    qtbot.waitUntil(lambda: len(importing.of("in")) >= 2, timeout=20_000)
    window.document.save(tmp_path / "film.cicada")
    imported(window)
    window.document.save()
    assert len(window.document.project.sounds) == 12
    assert not window.presence.missing
    assert len([*(tmp_path / "film.sounds").iterdir()]) == 12


def test_closing_the_window_amid_an_import_leaves_no_half_file(window, tmp_path, qtbot):
    (tmp_path / "many").mkdir()
    for number in range(12):
        write_sound(tmp_path / "many" / f"a {number}.wav", ring(seconds=9, seed=number))
    window.imports.import_files([tmp_path / "many"])
    importing = window.imports.importing
    qtbot.waitUntil(lambda: len(importing.of("in")) >= 1, timeout=20_000)
    window.close()
    qtbot.wait(2 * TOGETHER)
    assert not list(tmp_path.rglob("*.part"))
    assert not list(window.sounds.cache.folder.glob("*.part"))
