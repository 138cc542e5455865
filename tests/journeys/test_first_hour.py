"""The first hour of a stranger: from nothing to a rendered file, in a real window."""

import os
import subprocess
import sys
from pathlib import Path

import numpy as np
import pytest
import soundfile
from PySide6.QtCore import QPoint, QTimer
from PySide6.QtWidgets import QApplication, QFileDialog

from cicada.core.editing import Cell
from cicada.core.model import Clip
from cicada.store.projectfile import load
from cicada.window.frame.settings_dialog import SettingsDialog
from cicada.window.widgets.drag import sound_mime
from tests.by_hand import LEFT, at, drop, file_mime, point
from tests.journeys.test_real_drag import screen
from tests.sound_files import ring, write_sound

SETTINGS = ("from nothing", "after the demo", "a long path", "a small window")
__all__ = ["screen"]


def begin_anew(window, qtbot):
    """Ctrl+N, filled in as a person would and agreed to."""

    def fill():
        dialog = QApplication.activeModalWidget()
        assert isinstance(dialog, SettingsDialog)
        dialog.name_field.setText("A first film")
        dialog.length_field.setText("4 s")
        qtbot.mouseClick(dialog.verb, LEFT)

    QTimer.singleShot(100, fill)
    window.menus.actions["new"].trigger()


@pytest.mark.parametrize("setting", SETTINGS)
def test_a_first_hour(window, qtbot, settled, tmp_path, demo, monkeypatch, setting):
    folder = tmp_path / "a first film"
    if setting == "a long path":
        folder = tmp_path.joinpath(*("x" * 100 for _ in range(2))) / "a first film"
    folder.mkdir(parents=True)
    if setting == "after the demo":
        window.files.open_file(demo)
        settled(window)
        window.session.show_scene("sc2")
        window.session.choose(Cell("l6", 6))
    if setting == "a small window":
        window.resize(1024, 700)
    begin_anew(window, qtbot)
    settled(window)
    assert (window.document.name, window.session.scene.length) == ("A first film", 96)
    assert len(window.session.scene.layers) == 1
    # Six sounds onto the shelf.
    files = [
        write_sound(folder / f"sound {n}.wav", ring(seconds=0.4 + n / 5, seed=n)) for n in range(6)
    ]
    drop(window.shelf.list.viewport(), file_mime(*files), QPoint(30, 20))
    qtbot.waitUntil(
        lambda: window.imports.importing is not None and window.imports.importing.done,
        timeout=60_000,
    )
    settled(window)
    shelf = window.document.project.sounds
    assert len(shelf) == 6
    # One dragged onto the one empty layer, one onto empty space.
    drop(window.sheet.viewport(), sound_mime(shelf[0].id), point(window, "l1", 6))
    settled(window)
    below = QPoint(point(window, "l1", 24).x(), window.sheet.place.foot - 4)
    drop(window.sheet.viewport(), sound_mime(shelf[1].id), below)
    settled(window)
    assert isinstance(at(window, "l1", 6), Clip)
    assert [len(layer.keyframes) for layer in window.session.scene.layers] == [2, 2]
    # One chosen on the card of an empty frame.
    qtbot.mouseClick(window.sheet.viewport(), LEFT, pos=point(window, "l1", 50))
    assert window.session.cell == Cell("l1", 50)
    card = window.card
    card.empty.sound.setCurrentIndex(card.empty.sound.findData(shelf[2].id))
    qtbot.mouseClick(card.empty.place_button, LEFT)
    settled(window)
    assert at(window, "l1", 50).sound == shelf[2].id
    card.clip.pages[0].findChild(type(card.clip.frame))
    # Saved, mixed down, opened again.
    project, mix = folder / "first.cicada", folder / "first.wav"
    names = iter([str(project), str(mix)])
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_, **__: (next(names), ""))
    window.menus.actions["save"].trigger()
    assert load(project) == window.document.project
    window.menus.actions["mixdown"].trigger()
    qtbot.waitUntil(mix.exists, timeout=30_000)
    settled(window)
    samples, rate = soundfile.read(mix)
    assert rate == 48000
    assert len(samples) == window.planning.plan.length
    assert np.abs(samples).max() > 0.3
    window.files.open_file(project)
    settled(window)
    assert window.presence.missing == frozenset()
    assert not window.document.dirty


@pytest.mark.alone
def test_the_first_hour_on_a_real_screen(screen):
    environment = {**os.environ, "DISPLAY": screen, "QT_QPA_PLATFORM": "xcb"}
    ran = subprocess.run(
        [sys.executable, "-m", "pytest", "-p", "no:cacheprovider", "-m", "not alone", __file__],
        cwd=Path(__file__).parents[2], env=environment, capture_output=True, text=True,
        timeout=200, check=False,
    )  # fmt: skip
    assert ran.returncode == 0, ran.stdout[-3000:]
