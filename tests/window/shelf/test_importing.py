"""Files come in: dropped, pasted, chosen; stopped, refused, linked; nothing is left by halves."""

from pathlib import Path

import pytest
import soundfile
from PySide6.QtCore import QEvent, QMimeData, Qt, QUrl
from PySide6.QtWidgets import QApplication

from cicada.core.made import SyncBeep
from cicada.core.model import Sound
from cicada.core.shelf_edits import AddSounds
from cicada.jobs.files import find_sounds
from cicada.window.shelf.import_dialog import ImportDialog
from cicada.window.shelf.importing import TOGETHER
from tests.sound_files import ring, write_container, write_sound
from tests.window.shelf.by_hand import LEFT, drop, sounds


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


def test_what_is_made_amid_an_import_keeps_its_id_and_what_comes_in_gets_others(
    harbour, imported, tmp_path, qtbot
):
    (tmp_path / "many").mkdir()
    for number in range(12):
        write_sound(tmp_path / "many" / f"a {number}.wav", ring(seed=number))
    drop(harbour.shelf, tmp_path / "many")
    qtbot.waitUntil(lambda: harbour.imports.importing is not None, timeout=20_000)
    importing = harbour.imports.importing
    qtbot.waitUntil(lambda: bool(importing._ready), timeout=20_000)
    taken = importing._ready[0][0].id
    beep = Sound(id=taken, name="Beep", frames=4800, rate=48_000, channels=1, making=SyncBeep())
    harbour.document.do(AddSounds(sounds=(beep,)))
    imported(harbour)
    shelf = harbour.document.project.sounds
    assert harbour.document.project.sound(taken).name == "Beep"
    assert len({sound.id for sound in shelf}) == len(shelf) == 11 + 1 + 12
    assert {entry.sound for entry in importing.of("in")} == {
        sound.id for sound in shelf if sound.name.startswith("A ")
    }


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
