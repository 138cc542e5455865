"""What others do to the project's file is noticed, said, and never written over unasked."""

import os

import pytest
from msgspec.structs import replace
from PySide6.QtCore import QSettings, Qt

from cicada.core.model import Sound, empty_project
from cicada.core.scene_edits import ChangeProject
from cicada.media.cache import user_cache
from cicada.store.changing import change
from cicada.store.claims import Claims
from cicada.store.projectfile import load, save
from cicada.window.frame.main_window import MainWindow
from tests.memory_player import MemoryPlayer
from tests.real_window import free
from tests.sound_files import ring, write_sound

LEFT = Qt.MouseButton.LeftButton
# Milliseconds: it takes one second, but others want the processor, too.
SOON, LOOKS = 10_000, 1500


@pytest.fixture
def film(tmp_path):
    file = tmp_path / "film.cicada"
    save(empty_project("film"), file)
    return file


@pytest.fixture
def opened(window, film, settled):
    window.files.open_now(film)
    settled(window)
    return window


@pytest.fixture
def another(qtbot, tmp_path, shared_workers, shared_decoder):
    settings = QSettings(str(tmp_path / "another.ini"), QSettings.Format.IniFormat)
    made = MainWindow(user_cache(), tmp_path / "recovery", MemoryPlayer, settings)
    made.show()
    qtbot.waitExposed(made)
    made.files.may_leave = lambda: True
    yield made
    made.close()
    free(made)


def renamed(name):
    return lambda project: replace(project, name=name)


def names_it(window, name="mine"):
    return window.document.do(ChangeProject(changes={"name": name}))


def test_a_file_changed_by_another_program_is_noticed_and_taken_as_a_step(opened, film, qtbot):
    names_it(opened)
    change(film, renamed("theirs"))
    strip = opened.elsewhere_strip
    qtbot.waitUntil(strip.isVisible, timeout=SOON)
    assert "film.cicada was changed by another program" in strip.words.text()
    assert "can be had again by undo" in strip.words.text()
    qtbot.mouseClick(strip.there, LEFT)
    assert not strip.isVisible()
    assert opened.document.name == "theirs"
    assert not opened.document.dirty
    opened.document.undo()
    assert opened.document.name == "mine"
    assert opened.document.dirty
    assert opened.files.save()
    assert load(film).name == "mine"


def test_what_is_kept_here_asks_before_it_is_saved_over_the_other(opened, film, qtbot, answer):
    names_it(opened)
    change(film, renamed("theirs"))
    strip = opened.elsewhere_strip
    qtbot.waitUntil(strip.isVisible, timeout=SOON)
    qtbot.mouseClick(strip.keep, LEFT)
    assert not strip.isVisible()
    qtbot.wait(LOOKS)
    assert not strip.isVisible()
    asked = answer("Stay here", "Replace what is there")
    assert not opened.files.save()
    assert load(film).name == "theirs"
    assert "was changed by another program" in asked[0]
    assert opened.files.save()
    assert load(film).name == "mine"
    kept = [project.name for project in opened.document.versions.projects(film)]
    assert "theirs" in kept


def test_a_change_nobody_has_noticed_yet_is_not_written_over(opened, film, answer):
    names_it(opened)
    before = film.stat()
    change(film, renamed("them"))
    # As a clock that was set back would have it.
    os.utime(film, ns=(before.st_atime_ns, before.st_mtime_ns))
    asked = answer("Stay here")
    assert not opened.files.save()
    assert asked
    assert load(film).name == "them"


def test_another_change_after_one_was_turned_down_is_said_again(opened, film, qtbot):
    change(film, renamed("theirs"))
    strip = opened.elsewhere_strip
    qtbot.waitUntil(strip.isVisible, timeout=SOON)
    qtbot.mouseClick(strip.keep, LEFT)
    change(film, renamed("theirs again"))
    qtbot.waitUntil(strip.isVisible, timeout=SOON)


def test_a_file_that_is_gone_is_said_and_saving_writes_it_again(opened, film, qtbot):
    film.unlink()
    strip = opened.elsewhere_strip
    qtbot.waitUntil(strip.isVisible, timeout=SOON)
    assert "is not there any more" in strip.words.text()
    assert opened.files.save()
    assert load(film).name == "film"
    qtbot.waitUntil(lambda: not strip.isVisible(), timeout=SOON)


def test_what_is_no_project_any_more_is_not_taken(opened, film, qtbot):
    film.write_text("[]")
    strip = opened.elsewhere_strip
    qtbot.waitUntil(strip.isVisible, timeout=SOON)
    qtbot.mouseClick(strip.there, LEFT)
    assert opened.document.name == "film"
    assert "film.cicada" in opened.foot.note.text()


def test_what_is_taken_from_the_file_allows_nothing_outside_by_that(
    opened, film, qtbot, answer, tmp_path
):
    elsewhere = tmp_path.parent / f"{tmp_path.name} diary"
    elsewhere.mkdir()
    write_sound(elsewhere / "diary.wav", ring())
    sound = Sound(id="s1", file=str(elsewhere / "diary.wav"), kept="linked", frames=48000,
                  rate=48000, channels=1)  # fmt: skip
    save(replace(load(film), sounds=(sound,)), film)
    asked = answer("Leave them out")
    qtbot.waitUntil(opened.elsewhere_strip.isVisible, timeout=SOON)
    qtbot.mouseClick(opened.elsewhere_strip.there, LEFT)
    assert "outside its own folder" in asked[0]
    assert not opened.permission.permits(elsewhere / "diary.wav")


# -- two windows -------------------------------------------------------------------------------


def test_a_second_window_looks_on_and_follows_what_the_first_saves(opened, another, film, qtbot):
    another.files.open_now(film)
    strip = another.elsewhere_strip
    assert strip.isVisible()
    assert "in another window" in strip.words.text()
    assert not names_it(another)
    assert "another window works on this project" in another.foot.note.text().lower()
    names_it(opened, "mine")
    assert opened.files.save()
    qtbot.waitUntil(lambda: another.document.name == "mine", timeout=SOON)
    assert not opened.elsewhere_strip.isVisible()


def test_what_is_taken_over_is_worked_on_here_and_the_first_looks_on(
    opened, another, film, qtbot, settled
):
    names_it(opened, "not saved")
    another.files.open_now(film)
    qtbot.mouseClick(another.elsewhere_strip.take_over, LEFT)
    assert not another.elsewhere_strip.isVisible()
    assert names_it(another, "taken over")
    assert another.files.save()
    strip = opened.elsewhere_strip
    qtbot.waitUntil(strip.isVisible, timeout=SOON)
    assert "did not save is not in its file" in strip.words.text()
    assert opened.document.name == "not saved"
    assert not names_it(opened, "more")
    # And back: what was not saved is still there, and what was saved meanwhile is said.
    qtbot.mouseClick(strip.take_over, LEFT)
    qtbot.waitUntil(lambda: opened.elsewhere.doing == "changed", timeout=SOON)
    qtbot.waitUntil(another.elsewhere_strip.isVisible, timeout=SOON)
    assert names_it(opened, "more")


def test_a_copy_is_worked_on_at_once(opened, another, film, qtbot, tmp_path):
    another.files.open_now(film)
    another.asking.file_to_write = lambda *_: tmp_path / "copy.cicada"
    qtbot.mouseClick(another.elsewhere_strip.copy, LEFT)
    assert another.document.path == tmp_path / "copy.cicada"
    assert not another.elsewhere_strip.isVisible()
    assert names_it(another, "copy")
    assert names_it(opened, "mine")


def test_when_the_first_has_closed_the_second_may_work(opened, another, film, qtbot):
    another.files.open_now(film)
    opened.document.new(empty_project("something else"))
    qtbot.waitUntil(lambda: not another.document.looking, timeout=SOON)
    assert not another.elsewhere_strip.isVisible()
    assert names_it(another)


@pytest.mark.parametrize("text", [b"", b"{}", b"[1]", b'{"process": -1, "began": 0, "window": ""}',
                                  b'{"process": 1, "began": 5, "window": "x"}'])  # fmt: skip
def test_a_claim_of_nobody_counts_for_nothing(window, film, tmp_path, text):
    claims = Claims(tmp_path / "claims")
    claims.take(film)
    (claim,) = (tmp_path / "claims").iterdir()
    claim.write_bytes(text)
    window.files.open_now(film)
    assert not window.document.looking
    assert not claims.held(tmp_path / "other.cicada")


# -- links -------------------------------------------------------------------------------------


def test_a_project_opened_by_a_link_stays_one_and_is_called_by_it(
    window, film, qtbot, settled, tmp_path
):
    (tmp_path / "desk").mkdir()
    link = tmp_path / "desk" / "tonight.cicada"
    link.symlink_to(film)
    window.files.open_now(link)
    window.imports.import_files([write_sound(tmp_path / "a.wav", ring())])
    qtbot.waitUntil(lambda: not window.imports.under_way, timeout=20_000)
    settled(window)
    assert window.files.save()
    assert window.foot.note.text() == "Saved tonight.cicada."
    assert link.is_symlink()
    assert [path.name for path in (tmp_path / "desk").iterdir()] == ["tonight.cicada"]
    (sound,) = load(film).sounds
    assert (tmp_path / sound.file).is_file()
    # Saved under the link's own name it is the same file still.
    window.document.save(link)
    assert link.is_symlink()
    assert window.document.path == film
