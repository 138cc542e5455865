"""Disks that take no more, folders and sounds that go while a window works with them."""

import multiprocessing
import resource
import shutil
from contextlib import contextmanager

import pytest

from cicada.core.scene_edits import ChangeProject
from cicada.store.projectfile import load
from tests.by_hand import begin, play_on
from tests.sound_files import ring, write_sound


@contextmanager
def room_for(size):
    """No file may become larger, here and in the workers, as on a disk that is full."""
    processes = [0, *(child.pid for child in multiprocessing.active_children())]
    before = resource.getrlimit(resource.RLIMIT_FSIZE)
    for process in processes:
        resource.prlimit(process, resource.RLIMIT_FSIZE, (size, before[1]))
    try:
        yield
    finally:
        for process in processes:
            resource.prlimit(process, resource.RLIMIT_FSIZE, before)


def test_a_full_disk_costs_no_save_before(harbour, told, settled):
    settled(harbour)
    file = harbour.document.path
    before = file.read_bytes()
    harbour.document.do(ChangeProject(changes={"name": "louder"}))
    with room_for(100):
        assert not harbour.files.save()
    assert "cannot be written" in told[-1]
    assert file.read_bytes() == before
    assert harbour.document.dirty
    assert not [path for path in file.parent.rglob("*") if ".part" in path.name]
    assert harbour.files.save()
    assert load(file).name == "louder"


def test_a_full_disk_is_said_to_leave_work_unprotected_for_as_long_as_it_is(harbour, settled):
    settled(harbour)
    with room_for(10):
        harbour.document.do(ChangeProject(changes={"level": 0.5}))
        harbour.foot.show_protection()
        assert not harbour.foot.unprotected.isHidden()
    harbour.document.do(ChangeProject(changes={"level": 0.6}))
    harbour.foot.show_protection()
    assert harbour.foot.unprotected.isHidden()


def test_an_import_onto_a_full_disk_takes_nothing_in_and_says_why(
    harbour, qtbot, settled, tmp_path
):
    settled(harbour)
    number = len(harbour.document.project.sounds)
    path = write_sound(tmp_path / "long.wav", ring(seconds=2.0, seed=77))
    with room_for(50_000):
        harbour.imports.import_files([path])
        qtbot.waitUntil(lambda: not harbour.imports.under_way, timeout=30_000)
    assert len(harbour.document.project.sounds) == number
    said = " ".join(entry.why for entry in harbour.imports.importing.entries)
    assert "this disk holds no file that large" in said
    harbour.imports.import_files([path])
    qtbot.waitUntil(lambda: not harbour.imports.under_way, timeout=30_000)
    assert len(harbour.document.project.sounds) == number + 1


def test_a_projects_folder_that_goes_is_said_and_the_work_stays(harbour, told, settled):
    settled(harbour)
    harbour.document.do(ChangeProject(changes={"name": "kept here"}))
    shutil.rmtree(harbour.document.path.parent)
    assert not harbour.files.save()
    assert "cannot be" in told[-1]
    assert harbour.document.name == "kept here"


def test_a_sound_that_goes_while_it_plays_goes_on_and_is_missing(harbour, qtbot, settled):
    begin(harbour, qtbot, settled, "sc1", 0)
    play_on(harbour, lambda: harbour.session.playhead >= 5)
    shutil.rmtree(harbour.document.path.with_name("harbour.sounds"))
    play_on(harbour, lambda: harbour.session.playhead >= 20)
    assert harbour.transport.playing
    qtbot.waitUntil(lambda: len(harbour.presence.missing) > 5, timeout=10_000)
    harbour.transport.stop()


@pytest.mark.parametrize("when", ["before a save", "after it"])
def test_a_clock_that_is_set_back_loses_nothing(harbour, settled, monkeypatch, when):
    settled(harbour)
    if when == "after it":
        harbour.document.do(ChangeProject(changes={"name": "first"}))
        assert harbour.files.save()
    monkeypatch.setattr("time.time", lambda: 1000.0)
    harbour.document.do(ChangeProject(changes={"name": "long ago"}))
    assert harbour.files.save()
    assert load(harbour.document.path).name == "long ago"
    kept = [project.name for project in harbour.document.versions.projects(harbour.document.path)]
    assert "long ago" in kept
