"""The cabinet in the window: searched as one types, heard, tried, placed, said things of."""

import subprocess
import sys
import time

import numpy as np
import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtWidgets import QApplication

from cicada.cabinet.index import Index
from cicada.cabinet.keeper import Keeper
from cicada.core.editing import Cell
from cicada.core.model import empty_project, keyframe_at
from cicada.window.cabinet.row_list import HEIGHT, PORTION
from tests.sound_files import ring, write_sound

LEFT = Qt.MouseButton.LeftButton


class KeptHere:
    """A keeper in the window's own process."""

    alive = True

    def __init__(self, file, starter):
        self.said = []
        self.index = Index(file)
        self.keeper = Keeper(self.index, self.hear, time.monotonic)

    def hear(self, progress):
        self.said.append(progress)

    def send(self, message):
        self.keeper.do(message)

    def progress(self):
        while self.keeper.step():
            pass
        said, self.said = self.said, []
        return said[-1] if said else None

    def close(self):
        self.index.close()


@pytest.fixture
def sounds(tmp_path):
    folder = tmp_path / "sounds"
    (folder / "sea").mkdir(parents=True)
    write_sound(folder / "sea" / "Gull.wav", ring(seconds=0.4, hertz=2500, seed=1))
    write_sound(folder / "sea" / "Wave.wav", 0.2 * np.random.default_rng(1).standard_normal(96_000))
    write_sound(folder / "Gull again.wav", ring(seconds=0.42, hertz=2520, seed=2))
    write_sound(folder / "Bell.wav", ring(seconds=1.5, hertz=300, seed=3))
    return folder


@pytest.fixture
def cabinet(window, sounds, settled, qtbot):
    window.document.new(empty_project("Film"))
    settled(window)
    window.cabinet._make = KeptHere
    window.lower_half.show_beside(window.cabinet_place)
    window.cabinet.add_folder(sounds)
    until(qtbot, window, lambda: len(window.cabinet_panel.model.rows) == 4)
    until(qtbot, window, lambda: all(r.measured for r in window.cabinet_panel.model.rows))
    return window


def until(qtbot, window, there):
    def look():
        window.cabinet._look()
        return bool(there())

    qtbot.waitUntil(look, timeout=20_000)


def names(window):
    return [row.name for row in window.cabinet_panel.model.rows]


def ask(qtbot, window, text, wanted):
    window.cabinet_panel.search.setFocus()
    window.cabinet_panel.search.clear()
    qtbot.keyClicks(window.cabinet_panel.search, text)
    until(qtbot, window, lambda: names(window) == wanted)


def test_nothing_of_it_is_loaded_or_begun_before_somebody_looks_at_it(window, settled):
    window.document.new(empty_project("Film"))
    settled(window)
    unwanted = "[name for name in sys.modules if 'cabinet' in name or name == 'watchdog']"
    code = f"import cicada.window.app, sys; print({unwanted})"
    loaded = subprocess.run(
        [sys.executable, "-c", code], capture_output=True, text=True, check=True
    )
    assert loaded.stdout == "[]\n"
    assert not window.cabinet.begun
    assert not window.cabinet.file.exists()


def test_what_is_typed_is_found_by_words_and_by_numbers(cabinet, qtbot):
    ask(qtbot, cabinet, "gull", ["Gull", "Gull again"])
    ask(qtbot, cabinet, "> 1 s", ["Bell", "Wave"])
    ask(qtbot, cabinet, "sea mono", ["Gull", "Wave"])
    ask(qtbot, cabinet, "nothing like it", [])
    assert cabinet.cabinet_panel.progress.text() == "0 of 4 sounds"
    assert not cabinet.cabinet_panel.keep.isEnabled()


def test_sounds_like_one_come_with_it_at_the_front(cabinet, qtbot):
    panel = cabinet.cabinet_panel
    panel.list.choose(names(cabinet).index("Gull"))
    qtbot.mouseClick(panel.like, LEFT)
    until(qtbot, cabinet, lambda: names(cabinet)[:2] == ["Gull", "Gull again"])


def test_a_sound_is_heard_from_its_row_and_by_enter(cabinet, qtbot):
    panel = cabinet.cabinet_panel
    row = panel.model.rows[0]
    qtbot.mouseClick(panel.list.viewport(), LEFT, pos=QPoint(10, HEIGHT // 2))
    qtbot.waitUntil(lambda: cabinet.transport.listening, timeout=20_000)
    assert cabinet.listening.what == cabinet.cabinet.catalogue.path(row)
    panel.list.choose(1)
    qtbot.keyClick(panel.list, Qt.Key.Key_Return)
    qtbot.waitUntil(
        lambda: cabinet.listening.what == cabinet.cabinet.catalogue.path(panel.model.rows[1]),
        timeout=20_000,
    )
    cabinet.escape.silence()
    assert cabinet.listening.what is None


def test_they_are_heard_one_after_the_other(cabinet, qtbot):
    panel, heard = cabinet.cabinet_panel, []
    cabinet.listening.changed.connect(
        lambda: heard.append(cabinet.listening.what) if cabinet.listening.heard else None
    )
    qtbot.mouseClick(panel.turn, LEFT)
    qtbot.waitUntil(lambda: not panel.turn.isChecked(), timeout=60_000)
    paths = [cabinet.cabinet.catalogue.path(row) for row in panel.model.rows]
    assert list(dict.fromkeys(heard)) == paths


def test_a_sound_is_tried_against_the_picture_without_being_put_on_the_shelf(
    cabinet, qtbot, settled
):
    panel = cabinet.cabinet_panel
    cabinet.session.move_playhead(12)
    panel.list.choose(0)
    before = cabinet.document.project
    qtbot.mouseClick(panel.try_here, LEFT)
    qtbot.waitUntil(lambda: cabinet.transport.playing, timeout=20_000)
    assert cabinet.document.project is before
    assert [voice.frame for voice in cabinet.planning.plan.voices] == [12]
    cabinet.escape.silence()
    settled(cabinet)
    assert not cabinet.planning.plan.voices
    qtbot.mouseClick(panel.try_here, LEFT)
    qtbot.waitUntil(lambda: cabinet.transport.playing, timeout=20_000)
    cabinet.on_sheet.place_here()
    qtbot.waitUntil(lambda: bool(cabinet.document.project.sounds), timeout=20_000)
    settled(cabinet)
    layer = cabinet.session.scene.layers[0]
    assert keyframe_at(layer, 12).sound == cabinet.document.project.sounds[0].id


def test_it_is_placed_by_its_button_by_key_and_by_dragging(cabinet, qtbot, settled):
    panel, layer = cabinet.cabinet_panel, cabinet.session.scene.layers[0].id
    cabinet.session.spot = Cell(layer, 5)
    panel.list.choose(0)
    qtbot.mouseClick(panel.put, LEFT)
    qtbot.waitUntil(lambda: len(cabinet.document.project.sounds) == 1, timeout=20_000)
    settled(cabinet)
    cabinet.session.choose(None)
    cabinet.session.spot = Cell(layer, 60)
    panel.list.choose(1)
    qtbot.keyClick(panel.list, Qt.Key.Key_Return, Qt.KeyboardModifier.ShiftModifier)
    qtbot.waitUntil(lambda: len(cabinet.document.project.sounds) == 2, timeout=20_000)
    settled(cabinet)
    frames = {k.frame for k in cabinet.session.scene.layers[0].keyframes if hasattr(k, "sound")}
    assert {5, 60} <= frames
    data = panel.model.mimeData([panel.model.index(2, 0)])
    assert [url.toLocalFile() for url in data.urls()] == [
        str(cabinet.cabinet.catalogue.path(panel.model.rows[2]))
    ]


def test_tags_note_and_terms_go_with_it_into_a_project_and_a_star_stays_here(
    cabinet, qtbot, settled
):
    panel = cabinet.cabinet_panel
    cabinet.lower_half.widen(cabinet.lower_half.side)
    QApplication.processEvents()
    panel.list.choose(0)
    name = names(cabinet)[0]
    for field, text in (("tags", "metal, low"), ("note", "the old one"), ("terms", "ours")):
        panel.fields[field].setFocus()
        qtbot.keyClicks(panel.fields[field], text)
        qtbot.keyClick(panel.fields[field], Qt.Key.Key_Return)
        until(qtbot, cabinet, lambda field=field: getattr(panel.model.rows[0].own, field, ""))
        panel.list.choose(0)
    panel.list.star_wanted.emit(panel.model.rows[0])
    until(qtbot, cabinet, lambda: panel.model.rows[0].star)
    ask(qtbot, cabinet, "metal starred", [name])
    panel.list.choose(0)
    qtbot.mouseClick(panel.keep, LEFT)
    qtbot.waitUntil(lambda: bool(cabinet.document.project.sounds), timeout=20_000)
    (sound,) = cabinet.document.project.sounds
    assert (sound.tags, sound.note, sound.terms) == (("metal", "low"), "the old one", "ours")


def test_a_folder_is_watched_no_more_and_one_that_is_away_says_so(
    cabinet, qtbot, sounds, tmp_path, monkeypatch
):
    panel = cabinet.cabinet_panel
    sounds.rename(tmp_path / "away")
    cabinet.cabinet._link.keeper.changed(str(sounds))
    folders = cabinet.cabinet.catalogue
    until(qtbot, cabinet, lambda: any(f.away for f in folders.folders.values()))
    panel.listen(panel.model.rows[0])
    assert "away" in cabinet.foot.note.text()
    other = tmp_path / "other"
    other.mkdir()
    monkeypatch.setattr(panel._asking, "folder_to_open", lambda _: other)
    panel.add_folder()
    number = next(iter(cabinet.cabinet.catalogue.folders))
    panel._remove_folder(number)
    until(qtbot, cabinet, lambda: names(cabinet) == [])


def test_with_nothing_in_it_every_button_bears_being_pressed(window, qtbot, settled):
    window.document.new(empty_project("Film"))
    window.cabinet._make = KeptHere
    window.lower_half.show_beside(window.cabinet_place)
    settled(window)
    panel = window.cabinet_panel
    for do in (panel.place, panel.shelve, panel.find_like, panel.try_out):
        do()
    panel.hear_in_turn()
    assert not panel.turn.isChecked()
    qtbot.keyClick(panel.list, Qt.Key.Key_Return)
    qtbot.mouseClick(panel.list.viewport(), LEFT, pos=QPoint(10, 10))


def test_a_long_list_is_laid_out_as_it_is_scrolled_and_chosen_whole(cabinet, qtbot):
    panel = cabinet.cabinet_panel
    one = panel.model.rows[0]
    panel.model.show_rows([one] * 1000)
    assert panel.model.rowCount() == PORTION
    bar = panel.list.verticalScrollBar()
    for _ in range(6):
        bar.setValue(bar.maximum())
        qtbot.wait(20)
    assert panel.model.rowCount() == 1000
    panel.model.show_rows([one] * 1000)
    panel.list.setFocus()
    qtbot.keyClick(panel.list, Qt.Key.Key_A, Qt.KeyboardModifier.ControlModifier)
    assert len(panel.list.chosen()) == 1000
