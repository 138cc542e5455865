"""After a window is gone: what was unfinished is offered, what was saved before can be opened."""

import os
import time

import pytest
from PySide6.QtCore import QSettings
from PySide6.QtGui import QImage

from cicada.core.editing import Cell
from cicada.core.model import empty_project
from cicada.core.scene_edits import ChangeScene, PutMark
from cicada.media.cache import user_cache
from cicada.store.leftovers import FRESH, folders, leftovers, remove_needless
from cicada.store.projectfile import dumps, load, save
from cicada.store.sounds_folder import sounds_folder
from cicada.store.unfinished import read, unfinished
from cicada.store.versions import KEPT, Versions
from cicada.window.frame.main_window import MainWindow
from cicada.window.frame.unfinished_dialog import UnfinishedDialog
from cicada.window.frame.versions_dialog import VersionsDialog
from tests.memory_player import MemoryPlayer
from tests.real_window import free
from tests.sound_files import write_sound


def start(tmp_path):
    """Another window on the same data, as it comes up at the next start."""
    settings = QSettings(str(tmp_path / "next.ini"), QSettings.Format.IniFormat)
    made = MainWindow(user_cache(), tmp_path / "recovery", MemoryPlayer, settings)
    made.show()
    made.files.may_leave = lambda: True
    return made


@pytest.fixture
def next_start(tmp_path, shared_workers, shared_decoder):
    made = []

    def begin():
        made.append(start(tmp_path))
        return made[-1]

    yield begin
    for each in made:
        each.close()
        free(each)


@pytest.fixture
def offered(monkeypatch):
    """What the start offers, and how it is answered."""
    seen = []

    def answering(wanted):
        def show(dialog):
            steps = [dialog.steps.item(row).text() for row in range(dialog.steps.count())]
            seen.append((dialog.chosen.name, dialog.words.text(), steps))
            dialog.wanted = wanted
            return int(bool(wanted))

        monkeypatch.setattr(UnfinishedDialog, "exec", show)
        return seen

    return answering


def die(window):
    """The process ends without a word: nothing but what the kernel has is left."""
    path = window.document.journal.path
    window.document.journal.close()
    window.document.let_go = lambda: None
    window.elsewhere._timer.stop()
    window.elsewhere._let_go()
    return path


def ask(window, qtbot):
    window.going_back.look()
    qtbot.waitUntil(lambda: not window.jobs.running, timeout=30_000)


def test_unfinished_work_comes_back_with_its_steps(window, qtbot, settled, tmp_path, next_start,
                                                   offered):  # fmt: skip
    path = tmp_path / "tide.cicada"
    save(empty_project("Tide"), path)
    window.document.open(path)
    for frame in (3, 5, 7):
        window.document.do(PutMark(scene="sc1", frame=frame))
    window.document.undo()
    wanted = window.document.project
    die(window)
    again = next_start()
    seen = offered("back")
    ask(again, qtbot)
    settled(again)
    assert seen[0][0] == "Tide"
    assert seen[0][2] == ["Put a mark", "Put a mark", "Put a mark (taken back)"]
    assert again.document.project == wanted
    assert again.document.path == path
    assert again.document.dirty
    again.document.redo()
    assert len(again.session.scene.marks) == 3
    for _ in range(3):
        again.document.undo()
    assert again.document.project == load(path)


def test_a_project_never_saved_comes_back_with_its_sounds(window, qtbot, settled, tmp_path,
                                                          next_start, offered):  # fmt: skip
    window.imports.import_files([write_sound(tmp_path / "bell.wav")])
    qtbot.waitUntil(lambda: window.imports.importing.done, timeout=60_000)
    window.arranging.place(window.document.project.sounds[0].id, Cell("l1", 4))
    settled(window)
    die(window)
    again = next_start()
    offered("back")
    ask(again, qtbot)
    settled(again)
    assert again.document.path is None
    assert again.presence.missing == frozenset()
    assert [s.name for s in again.document.project.sounds] == ["Bell"]
    saved = tmp_path / "saved" / "bell.cicada"
    saved.parent.mkdir()
    assert again.files._save(saved)
    qtbot.waitUntil(lambda: not again.jobs.running, timeout=30_000)
    # Its sounds stand beside it now, so that the folder they stood in is needless, and goes.
    assert len(list(sounds_folder(saved).iterdir())) == 1
    assert folders(tmp_path / "recovery") == []


def test_declining_deletes_nothing_and_it_is_offered_again(window, qtbot, tmp_path, next_start,
                                                           offered):  # fmt: skip
    window.document.do(PutMark(scene="sc1", frame=3))
    path = die(window)
    again = next_start()
    seen = offered("")
    ask(again, qtbot)
    assert path.exists()
    again.menus.actions["unfinished"].trigger()
    qtbot.waitUntil(lambda: not again.jobs.running, timeout=30_000)
    assert len(seen) == 2


def die_and_change(window, folder):
    """A window ends with a mark not saved, and then its file is changed; the file, and to what."""
    path = folder / "tide.cicada"
    save(empty_project("Tide"), path)
    window.document.open(path)
    window.document.do(PutMark(scene="sc1", frame=3))
    die(window)
    changed = ChangeScene(scene="sc1", changes={"name": "Elsewhere"}).apply(load(path))
    save(changed, path)
    return path, changed


def test_both_states_are_offered_where_the_file_was_changed_since(window, qtbot, settled, tmp_path,
                                                                  next_start, offered):  # fmt: skip
    _, changed = die_and_change(window, tmp_path)
    again = next_start()
    seen = offered("file")
    ask(again, qtbot)
    settled(again)
    assert "Its file was changed since" in seen[0][1]
    assert again.document.project == changed
    assert len(unfinished(tmp_path / "recovery" / "journals")) == 1


def test_bringing_back_over_a_changed_file_asks_before_it_is_saved(window, qtbot, settled, tmp_path,
                                                                   next_start, offered,
                                                                   answer):  # fmt: skip
    path, changed = die_and_change(window, tmp_path)
    again = next_start()
    offered("back")
    ask(again, qtbot)
    answer("Stay here")
    assert not again.files.save()
    assert load(path) == changed


def test_what_a_window_still_has_open_is_not_offered(window, qtbot, next_start, offered):
    window.document.do(PutMark(scene="sc1", frame=3))
    seen = offered("back")
    ask(next_start(), qtbot)
    assert seen == []


def test_nothing_is_offered_of_what_was_saved_or_given_up(window, qtbot, settled, tmp_path,
                                                          next_start, offered):  # fmt: skip
    window.document.do(PutMark(scene="sc1", frame=3))
    path = window.document.journal.path
    window.files._save(tmp_path / "tide.cicada")
    assert not path.exists()
    window.document.do(PutMark(scene="sc1", frame=5))
    window.close()
    seen = offered("back")
    ask(next_start(), qtbot)
    assert seen == []


def test_throwing_away_asks_first(window, qtbot, tmp_path, next_start, offered, answer):
    window.document.do(PutMark(scene="sc1", frame=3))
    path = die(window)
    again = next_start()
    offered("away")
    answer("Keep it")
    ask(again, qtbot)
    assert path.exists()
    answer("Throw it away")
    ask(again, qtbot)
    assert not path.exists()


def test_a_disk_that_takes_nothing_is_said_for_as_long_as_it_does(window, settled, monkeypatch):
    write = os.write

    def full(file, data):
        if data.startswith(b"{") or b'"kind"' in data[:40]:
            raise OSError(28, "No space left on device")
        return write(file, data)

    monkeypatch.setattr(os, "write", full)
    window.document.do(PutMark(scene="sc1", frame=3))
    window.foot.show_protection()
    assert "Not protected: No space left" in window.foot.unprotected.text()
    assert window.foot.unprotected.isVisible()
    assert len(window.session.scene.marks) == 1
    monkeypatch.setattr(os, "write", write)
    window.document.do(PutMark(scene="sc1", frame=5))
    window.foot.show_protection()
    assert not window.foot.unprotected.isVisible()
    assert read(window.document.journal.path).history.project == window.document.project


# -- versions ----------------------------------------------------------------------------------


def test_the_last_ten_saves_are_kept_with_a_picture_of_the_sheet(window, settled, tmp_path):
    path = tmp_path / "tide.cicada"
    for frame in range(KEPT + 3):
        window.document.do(PutMark(scene="sc1", frame=frame))
        assert window.files._save(path)
    kept = window.document.versions.of(path)
    assert len(kept) == KEPT
    assert [len(load(version.path).scenes[0].marks) for version in kept] == list(range(13, 3, -1))
    assert QImage(str(kept[0].picture)).width() > 300
    assert len(list(kept[0].path.parent.iterdir())) == 2 * KEPT + 1


def test_a_version_is_opened_as_a_copy_that_has_its_sounds(window, qtbot, settled, tmp_path,
                                                           monkeypatch):  # fmt: skip
    window.imports.import_files([write_sound(tmp_path / "bell.wav")])
    qtbot.waitUntil(lambda: window.imports.importing.done, timeout=60_000)
    path = tmp_path / "tide.cicada"
    window.files._save(path)
    window.document.do(PutMark(scene="sc1", frame=3))
    window.files._save(path)
    saved = path.read_bytes()
    shown = []

    def second(dialog):
        dialog.list.setCurrentRow(1)
        shown.append((dialog.list.count(), dialog.picture.pixmap().width()))
        return 1

    monkeypatch.setattr(VersionsDialog, "exec", second)
    window.menus.actions["versions"].trigger()
    qtbot.waitUntil(lambda: window.document.path is None, timeout=30_000)
    settled(window)
    assert shown == [(2, 480)]
    assert window.session.scene.marks == ()
    assert window.presence.missing == frozenset()
    assert window.document.dirty
    assert path.read_bytes() == saved
    # What was copied in another process is written as plainly as anything.
    assert b'"kept": "inside"' not in dumps(window.document.project)


def test_tidying_counts_versions_and_unfinished_work_as_users_of_sounds(window, qtbot, settled,
                                                                        tmp_path):  # fmt: skip
    window.imports.import_files([write_sound(tmp_path / "bell.wav")])
    qtbot.waitUntil(lambda: window.imports.importing.done, timeout=60_000)
    path = tmp_path / "tide.cicada"
    window.files._save(path)
    window.document.open(path)
    from cicada.core.shelf_edits import RemoveSounds

    window.document.do(RemoveSounds(sounds=(window.document.project.sounds[0].id,)))
    window.files._save(path)
    window.document.open(path)
    window.menus.actions["tidy"].trigger()
    assert "is needed" in window.foot.note.text()


def test_a_version_that_cannot_be_kept_keeps_nobody_from_saving(window, tmp_path):
    (tmp_path / "versions").write_text("in the way")
    path = tmp_path / "tide.cicada"
    assert window.files._save(path)
    assert load(path) == window.document.project


def test_a_version_made_by_a_command_has_no_picture_and_is_listed(window, tmp_path, monkeypatch):
    path = tmp_path / "tide.cicada"
    save(empty_project("Tide"), path)
    window.document.open(path)
    window.document.versions.keep(path, dumps(empty_project("Tide", length=3)))
    said = []
    monkeypatch.setattr(VersionsDialog, "exec", lambda d: said.append(d.picture.text()) or 0)
    window.menus.actions["versions"].trigger()
    assert "saved by a command" in said[0]


def test_what_stands_among_the_versions_and_is_none_is_passed_over(tmp_path):
    versions, file = Versions(tmp_path / "versions"), tmp_path / "tide.cicada"
    kept = versions.keep(file, b"{}")
    assert versions.keep(file, b"{}") == kept
    for name in ("note.txt", "20261301-000000-000000-00000000.cicada", "x.cicada"):
        (kept.parent / name).write_bytes(b"{}")
    assert [version.path for version in versions.of(file)] == [kept]
    assert versions.projects(file) == []


# -- what unsaved projects left ------------------------------------------------------------------


def aged(folder, file=None, data=b"x"):
    folder.mkdir(parents=True)
    if file is not None:
        (folder / "Untitled.sounds").mkdir()
        (folder / "Untitled.sounds" / file).write_bytes(data)
    long_ago = time.time() - 2 * FRESH
    for path in (*folder.rglob("*"), folder):
        os.utime(path, (long_ago, long_ago))
    return folder


def test_only_what_is_empty_or_stands_elsewhere_goes_unasked(tmp_path):
    from hashlib import blake2b

    recovery = tmp_path / "recovery"
    name = blake2b(b"x", digest_size=20).hexdigest() + ".wav"
    beside = tmp_path / "tide.sounds"
    beside.mkdir()
    (beside / name).write_bytes(b"x")
    empty = aged(recovery / f"unsaved-{'0' * 32}")
    there = aged(recovery / f"unsaved-{'1' * 32}", name)
    other = aged(recovery / f"unsaved-{'2' * 32}", name, b"y")
    only = aged(recovery / f"unsaved-{'3' * 32}", "a.wav")
    fresh = recovery / f"unsaved-{'4' * 32}"
    fresh.mkdir()
    foreign = aged(recovery / "unsaved-mine")
    found = leftovers(recovery, recovery / "journals")
    assert [each.path for each in found] == [empty, there, other, only]
    gone = remove_needless([each.path for each in found], [beside])
    assert gone == [empty, there]
    assert all(folder.exists() for folder in (other, only, fresh, foreign))


def test_what_was_left_is_listed_with_its_size_and_goes_on_request(window, qtbot, tmp_path, answer):
    folder = aged(tmp_path / "recovery" / f"unsaved-{'3' * 32}", "a.wav", b"x" * 2000)
    asked = answer("Keep them", "Remove them")
    for there in (True, False):
        window.menus.actions["leftovers"].trigger()
        qtbot.waitUntil(lambda: not window.jobs.running, timeout=30_000)
        assert folder.exists() == there
    assert "1 file, 2" in asked[0]
    assert str(folder) in asked[0]
