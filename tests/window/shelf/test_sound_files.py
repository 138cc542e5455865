"""The files behind sounds: missing, changed, linked, worked on elsewhere, tidied."""

import soundfile
from PySide6.QtCore import QTimer
from PySide6.QtWidgets import QApplication, QDialog, QPushButton

from cicada.core.editing import Cell
from cicada.core.keyframe_edits import ChangeKeyframes
from cicada.core.model import keyframe_at
from tests.sound_files import ring, write_sound
from tests.window.shelf.by_hand import LEFT, choose, drop, sounds


def press_soon(text):
    """Press the button of that name in the question that is about to be asked."""

    def press():
        asked = QApplication.activeModalWidget()
        button = next(b for b in asked.findChildren(QPushButton) if b.text().startswith(text))
        button.click()

    QTimer.singleShot(200, press)


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
