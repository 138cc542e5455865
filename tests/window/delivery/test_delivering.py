"""What leaves the project, from the window: recipes are set, foreseen, delivered and heard."""

import time
from urllib.error import URLError
from urllib.request import urlopen

import numpy as np
import pytest
import soundfile
from PySide6.QtCore import Qt
from PySide6.QtGui import QDesktopServices
from PySide6.QtWidgets import QApplication, QDialog, QFileDialog

from cicada.core.editing import Cell
from cicada.core.keyframe_edits import ChangeKeyframes
from cicada.core.model import empty_project
from cicada.core.recipes import (
    BundleRecipe,
    DataRecipe,
    MixRecipe,
    SheetRecipe,
    StemsRecipe,
    TrimmedRecipe,
    VideoRecipe,
)
from cicada.core.scene_edits import ChangeProject

LEFT = Qt.MouseButton.LeftButton


def delivery(window):
    window.show_delivery()
    return [d for d in window.findChildren(QDialog) if d.isVisible()][-1]


def typed(qtbot, field, text):
    field.setFocus()
    field.selectAll()
    qtbot.keyClicks(field, text)
    qtbot.keyClick(field, Qt.Key.Key_Return)


def pick(box, text):
    index = next(i for i in range(box.count()) if text in box.itemText(i))
    box.setCurrentIndex(index)
    box.activated.emit(index)


def add(dialog, title):
    action = next(each for each in dialog.add.menu().actions() if each.text() == title)
    action.trigger()
    return dialog.recipe


def foreseen(qtbot, dialog, words):
    qtbot.waitUntil(lambda: words in dialog.says.text(), timeout=20_000)


def deliver(qtbot, dialog):
    qtbot.mouseClick(dialog.deliver, LEFT)
    qtbot.waitUntil(lambda: not dialog.deliveries.busy, timeout=60_000)


@pytest.fixture
def film(own, tmp_path, settled, monkeypatch):
    """A film with one sound in it, and a folder that is chosen to deliver to."""
    layer = own.session.scene.layers[0].id
    own.arranging.place(own.document.project.sounds[0].id, Cell(layer, 230))
    settled(own)
    folder = tmp_path / "out"
    folder.mkdir()
    monkeypatch.setattr(QFileDialog, "getExistingDirectory", lambda *_: str(folder))
    return own


def test_a_mix_is_added_set_foreseen_delivered_and_heard(film, qtbot, tmp_path, settled):
    dialog = delivery(film)
    add(dialog, "Mix")
    typed(qtbot, dialog.form.name, "Web")
    typed(qtbot, dialog.form.place, "sound/film")
    qtbot.mouseClick(dialog.form.written.kind.buttons["flac"], LEFT)
    qtbot.mouseClick(dialog.form.written.bits.buttons["16"], LEFT)
    qtbot.mouseClick(dialog.form.tail.buttons["fold"], LEFT)
    qtbot.mouseClick(dialog.form.loud.aim.buttons["peak"], LEFT)
    typed(qtbot, dialog.form.loud.peak, "-3")
    foreseen(qtbot, dialog, "10.00 s, 1 file")
    qtbot.mouseClick(dialog.where, LEFT)
    deliver(qtbot, dialog)
    made = tmp_path / "out/sound/film.flac"
    assert soundfile.info(made).frames == 480_000
    (file,) = dialog.deliveries.done[0].files
    assert file.true_peak == pytest.approx(-3.0, abs=0.05)
    assert "All promises are kept" in dialog.says.text()
    qtbot.mouseClick(dialog.outcome.buttons[made], LEFT)
    settled(film)
    assert film.listening.what == made
    qtbot.mouseClick(dialog.outcome.buttons[made], LEFT)
    qtbot.mouseClick(dialog.back, LEFT)
    assert dialog.form.isVisible()


def test_every_change_is_a_step_to_undo(film, qtbot):
    dialog = delivery(film)
    before = film.document.project
    recipe = add(dialog, "Stems")
    qtbot.mouseClick(dialog.form.written.by.buttons["sound"], LEFT)
    qtbot.mouseClick(dialog.form.written.sides.buttons["mono"], LEFT)
    assert film.document.project.recipe(recipe.id).by == "sound"
    for _ in range(3):
        film.document.undo()
    assert film.document.project == before
    assert dialog.empty.isVisible()
    film.document.redo()
    assert film.document.project.recipe(recipe.id).by == "layer"


def test_each_kind_of_recipe_is_delivered_in_one_go(film, qtbot, tmp_path):
    dialog = delivery(film)
    titles = [
        "Mix", "Stems", "Trimmed sounds", "Player bundle", "Video", "Frame sheet", "Data",
    ]  # fmt: skip
    kinds = [type(add(dialog, title)) for title in titles]
    assert kinds == [
        MixRecipe, StemsRecipe, TrimmedRecipe, BundleRecipe, VideoRecipe, SheetRecipe,
        DataRecipe,
    ]  # fmt: skip
    for box in dialog.form.written.forms.values():
        if not box.isChecked():
            qtbot.mouseClick(box, LEFT)
    qtbot.mouseClick(dialog.where, LEFT)
    assert dialog.deliver.text() == "Deliver 7"
    deliver(qtbot, dialog)
    assert [done.recipe for done in dialog.deliveries.done] == titles
    assert not dialog.deliveries.failed
    assert len(list((tmp_path / "out").rglob("*.*"))) == 17


def test_a_rate_that_is_not_held_is_said_and_the_nearest_proposed(film, qtbot, settled):
    film.document.do(ChangeProject(changes={"rate": 44100}))
    settled(film)
    dialog = delivery(film)
    add(dialog, "Mix")
    qtbot.mouseClick(dialog.form.written.kind.buttons["opus"], LEFT)
    assert "44,100" in dialog.says.text()
    assert film.document.project.recipes[0].encoding.rate is None
    qtbot.mouseClick(dialog.instead, LEFT)
    assert film.document.project.recipes[0].encoding.rate == 48000
    foreseen(qtbot, dialog, "about")


def test_what_mono_costs_is_said_beforehand(film, qtbot):
    dialog = delivery(film)
    add(dialog, "Mix")
    qtbot.mouseClick(dialog.form.written.sides.buttons["mono"], LEFT)
    foreseen(qtbot, dialog, "Mono costs nothing here")


def test_frames_are_typed_as_people_count_them(film, qtbot):
    dialog = delivery(film)
    add(dialog, "Mix")
    pick(dialog.form.part, "Scene 1")
    typed(qtbot, dialog.form.first, "11")
    typed(qtbot, dialog.form.last, "20")
    scope = film.document.project.recipes[0].scope
    assert (scope.scene, scope.first, scope.last) == ("sc1", 10, 19)
    assert not dialog.form.often.isVisible()
    typed(qtbot, dialog.form.first, "1")
    typed(qtbot, dialog.form.last, "240")
    scope = film.document.project.recipes[0].scope
    assert (scope.first, scope.last) == (0, None)


def test_what_is_there_already_is_replaced_only_when_that_is_said(
    film, qtbot, tmp_path, answer, settled
):
    dialog = delivery(film)
    add(dialog, "Mix")
    qtbot.mouseClick(dialog.where, LEFT)
    foreign = tmp_path / "out/Mix.wav"
    foreign.write_text("somebody's")
    asked = answer("Stay here", "Replace them")
    deliver(qtbot, dialog)
    assert foreign.read_text() == "somebody's"
    deliver(qtbot, dialog)
    assert soundfile.info(foreign).frames
    deliver(qtbot, dialog)
    assert len(asked) == 2
    assert "Mix.wav" in asked[0]


def test_one_that_cannot_be_delivered_does_not_keep_the_others(film, qtbot, tmp_path):
    dialog = delivery(film)
    add(dialog, "Mix")
    add(dialog, "Mix")
    film.arranging.place(
        film.document.project.sounds[1].id, Cell(film.session.scene.layers[0].id, 0)
    )
    qtbot.mouseClick(dialog.form.written.kind.buttons["opus"], LEFT)
    pick(dialog.form.written.rate, "8,000")
    film.document.do(ChangeProject(changes={"rate": 44100}))
    qtbot.mouseClick(dialog.where, LEFT)
    pick(dialog.form.written.rate, "44,100, as the project")
    deliver(qtbot, dialog)
    assert [name for name, _ in dialog.deliveries.failed] == ["Mix 2"]
    assert [path.name for path in (tmp_path / "out").iterdir()] == ["Mix.wav"]


def test_it_is_stopped_with_nothing_half_written(film, qtbot, tmp_path):
    dialog = delivery(film)
    add(dialog, "Mix")
    typed(qtbot, dialog.form.passes, "1000")
    qtbot.mouseClick(dialog.where, LEFT)
    qtbot.mouseClick(dialog.deliver, LEFT)
    qtbot.waitUntil(lambda: dialog.deliveries.share > 0.01, timeout=60_000)
    qtbot.mouseClick(dialog.stop, LEFT)
    qtbot.waitUntil(lambda: not dialog.deliveries.busy, timeout=30_000)
    assert "Stopped" in dialog.deliveries.failed[0][1]
    assert not list((tmp_path / "out").iterdir())


def test_a_place_out_of_the_folder_is_refused_and_taken_back(film, qtbot):
    dialog = delivery(film)
    add(dialog, "Mix")
    typed(qtbot, dialog.form.place, "../elsewhere")
    assert film.document.project.recipes[0].place == ""
    assert dialog.form.place.text() == ""


def test_with_nothing_in_it_a_project_has_nothing_to_deliver(window, qtbot, settled, tmp_path):
    window.document.new(empty_project("Empty"))
    settled(window)
    dialog = delivery(window)
    assert dialog.empty.isVisible()
    assert not dialog.deliver.isEnabled()
    assert not dialog.remove.isEnabled()
    add(dialog, "Mix")
    foreseen(qtbot, dialog, "10.00 s, 1 file")
    qtbot.mouseClick(dialog.remove, LEFT)
    assert not window.document.project.recipes
    window.document.new(empty_project("Another"))
    settled(window)
    assert not [d for d in window.findChildren(QDialog) if d.isVisible()]


def test_closed_while_it_is_worked_out_what_it_comes_to_it_is_gone_in_peace(film, qtbot, settled):
    dialog = delivery(film)
    add(dialog, "Mix")
    dialog._foresee()
    assert film.jobs.running > 0
    dialog.close()
    settled(film)
    assert not [d for d in film.findChildren(QDialog) if d.isVisible()]


def test_it_is_not_closed_while_it_delivers(film, qtbot):
    dialog = delivery(film)
    add(dialog, "Mix")
    typed(qtbot, dialog.form.passes, "1000")
    qtbot.mouseClick(dialog.where, LEFT)
    qtbot.mouseClick(dialog.deliver, LEFT)
    dialog.close()
    assert "stop it first" in dialog.says.text()
    qtbot.mouseClick(dialog.stop, LEFT)
    qtbot.waitUntil(lambda: not dialog.deliveries.busy, timeout=30_000)
    dialog.close()
    assert not [d for d in film.findChildren(QDialog) if d.isVisible()]


def test_a_video_of_a_film_with_pictures_is_delivered_by_a_worker(harbour, qtbot, tmp_path):
    harbour.settings.setValue("delivery/folder", str(tmp_path))
    dialog = delivery(harbour)
    add(dialog, "Video")
    pick(dialog.form.part, "Dusk")
    qtbot.mouseClick(dialog.form.written.video.buttons["webm"], LEFT)
    typed(qtbot, dialog.form.written.high, "90")
    deliver(qtbot, dialog)
    (done,) = dialog.deliveries.done
    assert done.files[0].kind == "WEBM 160 × 90"
    assert not done.missed


def test_what_a_recipe_weighs_is_shown_and_a_saving_is_one_click_in_the_recipe(
    film, qtbot, settled
):
    film.arranging.place(
        film.document.project.sounds[0].id, Cell(film.session.scene.layers[0].id, 0)
    )
    dialog = delivery(film)
    add(dialog, "Trimmed sounds")
    scenes = film.document.project.scenes
    qtbot.mouseClick(dialog.weigh, LEFT)
    weighed = [d for d in film.findChildren(QDialog) if d.isVisible()][-1]
    qtbot.waitUntil(lambda: weighed.weight is not None, timeout=30_000)
    assert weighed.list.topLevelItemCount() == len(weighed.weight.files) > 0
    assert "Before frame 1" in weighed.says.text()
    first = weighed.weight
    qtbot.mouseClick(weighed.buttons[0], LEFT)
    saving = first.savings[0]
    assert film.document.project.recipes == (saving.recipe,)
    assert film.document.project.scenes == scenes
    qtbot.waitUntil(lambda: weighed.weight is not first, timeout=30_000)
    assert weighed.weight.total == first.total - saving.saves
    film.document.undo()
    film.document.undo()
    settled(film)
    assert [d for d in film.findChildren(QDialog) if d.isVisible()] == [dialog]


def played(window):
    return window.transport._link._player.player.output.recorded()


def go(window, there, seconds=20):
    until = time.monotonic() + seconds
    while time.monotonic() < until:
        if there():
            return
        window.transport.follow()
        QApplication.processEvents()
    raise AssertionError("it never came")


@pytest.mark.parametrize("mono", [False, True])
def test_what_was_delivered_or_would_be_in_mono_is_heard_against_the_picture(
    film, qtbot, tmp_path, settled, mono
):
    layer = film.session.scene.layers[0].id
    film.arranging.place(film.document.project.sounds[1].id, Cell(layer, 3))
    film.document.do(ChangeKeyframes(cells=(Cell(layer, 3),), changes={"pan": -1.0}))
    settled(film)
    before = film.document.project
    dialog = delivery(film)
    add(dialog, "Mix")
    pick(dialog.form.part, "Scene 1")
    qtbot.mouseClick(dialog.form.written.bits.buttons["32"], LEFT)
    if mono:
        qtbot.mouseClick(dialog.form.written.hear_mono, LEFT)
    else:
        qtbot.mouseClick(dialog.where, LEFT)
        deliver(qtbot, dialog)
        (button,) = dialog.outcome.with_picture.values()
        qtbot.mouseClick(button, LEFT)
    go(film, lambda: film.transport.playing)
    go(film, lambda: len(played(film)) > 48_000)
    heard = played(film)[9600:40_000]
    if mono:
        np.testing.assert_allclose(heard[:, 0], heard[:, 1], atol=1e-6)
        assert np.abs(heard).max() > 0.01
    else:
        samples, _ = soundfile.read(tmp_path / "out/Mix.wav", dtype="float32")
        begins = np.flatnonzero(np.abs(played(film)[:, 0]) > 1e-6)[0]
        first = np.flatnonzero(np.abs(samples[:, 0]) > 1e-6)[0]
        there = played(film)[begins:][9600:30_000]
        np.testing.assert_allclose(there, samples[first:][9600:30_000], atol=1e-6)
        qtbot.mouseClick(button, LEFT)
    film.transport.stop()
    settled(film)
    assert film.planning.project == film.document.project
    assert film.document.project.scenes == before.scenes
    assert film.document.project.sounds == before.sounds


def test_a_player_bundle_is_set_delivered_and_opened_in_the_browser(
    film, qtbot, tmp_path, monkeypatch
):
    dialog = delivery(film)
    recipe = add(dialog, "Player bundle")
    form = dialog.form

    def now():
        return film.document.project.recipe(recipe.id)

    assert not form.tail.buttons["fold"].isVisible()
    assert not form.written.kind.buttons["aiff"].isVisible()
    assert form.written.high.isVisible()
    qtbot.mouseClick(form.written.picture.buttons["drawn"], LEFT)
    assert not form.written.high.isVisible()
    typed(qtbot, form.passes, "3")
    form.endless.click()
    assert (now().endless, now().scope.passes, now().picture) == (True, 1, False)
    assert not form.passes.isVisible()
    for _ in range(2):
        film.document.undo()
    assert (now().endless, now().scope.passes) == (False, 1)
    foreseen(qtbot, dialog, "4 files")
    qtbot.mouseClick(dialog.where, LEFT)
    deliver(qtbot, dialog)
    opened = []
    monkeypatch.setattr(QDesktopServices, "openUrl", lambda url: opened.append(url.toString()))
    (page,) = dialog.outcome.pages.values()
    for _ in range(2):
        qtbot.mouseClick(page, LEFT)
    assert "Served at" in dialog.says.text() or "served at" in dialog.says.text()
    assert opened[0] == opened[1]
    with urlopen(opened[0]) as answer:
        assert b"cicada-player.js" in answer.read()
    film.pages.close()
    with pytest.raises(URLError):
        urlopen(opened[0])
