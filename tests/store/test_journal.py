"""The journal: what was done comes back after the process is gone, however it went."""

import os
import zlib
from pathlib import Path

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from msgspec.structs import replace

from cicada.core.digest import Digests
from cicada.core.history import History
from cicada.core.layer_edits import ChangeLayer
from cicada.core.model import empty_project
from cicada.core.scene_edits import ChangeProject, ChangeScene
from cicada.core.shelf_edits import AddSounds
from cicada.errors import BadEdit
from cicada.store import journal as module
from cicada.store.journal import Journal
from cicada.store.unfinished import is_open, read, unfinished
from tests.core.random_edits import any_edit
from tests.core.test_edits import BELL

shares = st.floats(0, 1)
steps = st.lists(st.one_of(any_edit, st.sampled_from(("undo", "redo"))), max_size=30)


class Work:
    """A project that is worked on as a window does it, with its journal."""

    def __init__(self, folder, project=None):
        self.history = History(project or AddSounds(sounds=(BELL,)).apply(empty_project("Tide")))
        self.journal = Journal(folder)
        self.journal.become(self.history.project, folder / "tide.cicada")

    def do(self, step, *, joined=False):
        if step == "undo":
            after = self.history.undone()
            if after is not self.history:
                self.journal.undone(after.project)
        elif step == "redo":
            after = self.history.redone()
            if after is not self.history:
                self.journal.redone(after.project)
        else:
            try:
                made = step.apply(self.history.project)
            except BadEdit:
                return
            after = self.history.done(step.title, made, joined=joined)
            self.journal.edited(step, step.title, made, joined=joined)
        self.history = after

    def name(self, text):
        self.do(ChangeScene(scene="sc1", changes={"name": text}))


def same(found, history):
    """Whether two histories hold the same steps."""
    return found.titles() == history.titles() and found.projects() == history.projects()


@settings(max_examples=60)
@given(steps, st.booleans())
def test_what_was_done_comes_back_step_by_step(tmp_path_factory, done, joined):
    folder = tmp_path_factory.mktemp("journal")
    work = Work(folder)
    work.name("first")
    for step in done:
        work.do(step, joined=joined)
    found = read(work.journal.path)
    work.journal.close()
    assert not found.differs
    assert same(found.history, work.history)


@settings(max_examples=60)
@given(steps)
def test_a_journal_begun_anew_with_what_was_done_comes_back(tmp_path_factory, done):
    work = Work(tmp_path_factory.mktemp("journal"))
    for step in done:
        work.do(step)
    work.journal.become(work.history.project, Path("tide.cicada"))
    work.do(ChangeProject(changes={"level": 0.25}))
    found = read(work.journal.path)
    work.journal.close()
    assert found.history.project == work.history.project


@settings(max_examples=20)
@given(steps, st.lists(shares, min_size=10, max_size=10))
def test_cut_at_any_byte_it_opens_to_the_last_whole_record(tmp_path_factory, done, cuts):
    folder = tmp_path_factory.mktemp("journal")
    work = Work(folder)
    work.name("first")
    base_only = read(work.journal.path).path.read_bytes().splitlines(keepends=True)[0]
    seen = [(len(work.journal.path.read_bytes()), work.history)]
    for step in done:
        before = work.history
        work.do(step)
        if work.history is not before:
            seen.append((len(work.journal.path.read_bytes()), work.history))
    whole = work.journal.path.read_bytes()
    work.journal.close()
    for share in cuts:
        at = round(len(base_only) + share * (len(whole) - len(base_only)))
        cut = folder / "cut.journal"
        cut.write_bytes(whole[:at])
        expected = [history for length, history in seen if length <= at]
        found = read(cut)
        assert not found.differs
        if expected:
            assert found.history.project == expected[-1].project
            assert found.length == max(length for length, _ in seen if length <= at)


def test_edits_are_put_on_the_disk_after_they_are_written_and_not_before_they_are_said(
    tmp_path, monkeypatch
):
    order = []
    write, sync = os.write, os.fdatasync
    monkeypatch.setattr(os, "write", lambda *a: (order.append("write"), write(*a))[1])
    monkeypatch.setattr(os, "fdatasync", lambda f: (order.append("sync"), sync(f))[1])
    monkeypatch.setattr(module, "SYNC", 3600)
    work = Work(tmp_path)
    work.name("first")
    order.append("said")
    work.journal.sync()
    work.journal.close()
    assert order[:4] == ["write", "write", "said", "sync"]


def test_after_its_last_sync_a_power_cut_can_take_only_what_came_later(tmp_path):
    work = Work(tmp_path)
    work.name("first")
    work.name("second")
    work.journal.sync()
    assert work.journal.behind == 0
    synced = work.journal.path.stat().st_size
    work.name("third")
    assert work.journal.behind > 0
    whole = work.journal.path.read_bytes()
    work.journal.close()
    for at in range(synced, len(whole)):
        cut = tmp_path / "cut.journal"
        cut.write_bytes(whole[:at])
        assert read(cut).history.project.scenes[0].name == "second"


@settings(max_examples=100)
@given(st.binary(max_size=200), shares)
def test_no_bytes_upset_the_reader(tmp_path_factory, junk, share):
    folder = tmp_path_factory.mktemp("journal")
    work = Work(folder)
    work.name("first")
    work.name("second")
    whole = work.journal.path.read_bytes()
    work.journal.close()
    at = round(share * len(whole))
    file = folder / "junk.journal"
    file.write_bytes(whole[:at] + junk + whole[at + len(junk) :])
    found = read(file)
    assert found is None or found.history.project.scenes[0].name in ("Scene 1", "first", "second")


def test_a_record_that_comes_to_something_else_ends_what_comes_back_and_is_said(tmp_path):
    work = Work(tmp_path)
    for text in ("first", "second", "third"):
        work.name(text)
    lines = work.journal.path.read_bytes().splitlines(keepends=True)
    work.journal.close()
    other = lines[2][9:-1].replace(b'"second"', b'"another"')
    lines[2] = b"%08x %s\n" % (zlib.crc32(other), other)
    file = tmp_path / "other.journal"
    file.write_bytes(b"".join(lines))
    found = read(file)
    assert found.differs
    assert found.history.project.scenes[0].name == "first"
    assert found.length == len(lines[0]) + len(lines[1])


def test_what_no_project_may_be_does_not_come_back_and_what_went_before_does(tmp_path):
    work = Work(tmp_path)
    work.name("first")
    work.do(ChangeProject(changes={"fps": (100_000, 1)}))
    found = read(work.journal.path)
    assert found.differs
    assert found.history.titles()[1] == 1
    assert found.history.project.scenes[0].name == "first"


def test_a_window_that_takes_a_journal_over_goes_on_writing_to_it(tmp_path):
    work = Work(tmp_path)
    work.name("first")
    path = work.journal.path
    work.journal.close()
    with path.open("ab") as file:
        file.write(b"torn")
    found = read(path)
    again = Work(tmp_path)
    again.journal.take_over(found)
    again.history = found.history
    again.name("second")
    assert again.journal.path == path
    assert read(path).history.titles() == (["rename the scene", "rename the scene"], 2)
    again.journal.close()


def test_only_what_no_window_has_open_any_more_is_offered(tmp_path):
    work, other = Work(tmp_path), Work(tmp_path)
    work.name("first")
    other.name("elsewhere")
    assert unfinished(tmp_path) == []
    assert is_open(work.journal.path)
    path = work.journal.path
    work.journal.close()
    assert [each.path for each in unfinished(tmp_path)] == [path]
    other.journal.close()


def test_saving_makes_what_was_written_needless(tmp_path):
    work = Work(tmp_path)
    work.name("first")
    path = work.journal.path
    work.journal.become(work.history.project, tmp_path / "tide.cicada", "content")
    assert not path.exists()
    # What was done before the save can be undone, and made again, all the same.
    for step in ("undo", "redo", "undo"):
        work.do(step)
        found = read(work.journal.path)
        assert not found.differs
        assert found.history.project == work.history.project
    assert found.base.content == "content"
    work.journal.close()


def test_what_comes_to_what_is_saved_is_not_offered(tmp_path):
    work = Work(tmp_path)
    work.journal.become(work.history.project, tmp_path / "tide.cicada", "content")
    work.name("first")
    work.do("undo")
    work.journal.close()
    assert unfinished(tmp_path) == []


def test_a_long_journal_is_replaced_by_the_project_as_it_is(tmp_path, monkeypatch):
    monkeypatch.setattr(module, "COMPACT", 2000)
    work = Work(tmp_path)
    for number in range(200):
        work.name(f"name {number}")
    assert work.journal.path.stat().st_size < 8000
    assert len(list(tmp_path.glob("*.journal"))) == 1
    found = read(work.journal.path)
    work.journal.close()
    assert found.history.project == work.history.project


def test_a_disk_that_is_full_is_said_and_what_was_done_is_protected_again_when_it_is_not(
    tmp_path, monkeypatch
):
    work = Work(tmp_path)
    work.name("first")
    write = os.write

    def full(file, data):
        return write(file, data[: len(data) // 2])

    monkeypatch.setattr(os, "write", full)
    work.name("second")
    assert not work.journal.protects
    assert "space" in work.journal.trouble
    monkeypatch.setattr(os, "write", write)
    assert read(work.journal.path).history.project.scenes[0].name == "first"
    work.name("third")
    assert work.journal.protects
    assert read(work.journal.path).history.project == work.history.project
    work.journal.close()


def test_a_folder_that_cannot_be_made_is_said(tmp_path):
    (tmp_path / "file").write_text("in the way")
    work = Work(tmp_path / "file" / "journals")
    work.name("first")
    assert work.journal.trouble
    work.journal.close()


def test_a_disk_that_hangs_is_noticed(tmp_path, monkeypatch):
    monkeypatch.setattr(module, "HANGS", 0.0)
    monkeypatch.setattr(module, "SYNC", 3600)
    work = Work(tmp_path)
    assert work.journal.protects or not work.journal.behind
    work.name("first")
    assert not work.journal.protects
    work.journal.close()


@given(any_edit)
def test_equal_projects_have_the_same_digest_and_others_another(edit):
    project = AddSounds(sounds=(BELL,)).apply(empty_project("Tide"))
    digests = Digests()
    before = digests.of(project)
    assert Digests().of(replace(project)) == before
    try:
        made = edit.apply(project)
    except BadEdit:
        return
    assert (digests.of(made) == before) == (made == project)
    assert Digests().of(made) == digests.of(made)


def test_the_digest_sees_every_part():
    project = empty_project("Tide")
    made = ChangeLayer(layer="l1", changes={"level": 0.5}).apply(project)
    assert Digests().of(made) != Digests().of(project)


def test_an_edit_that_cannot_be_written_down_costs_its_steps_alone(tmp_path):
    work = Work(tmp_path)
    work.name("first")
    edit = ChangeScene(scene="sc1", changes={"name": "second"})
    odd = replace(edit, changes={"name": "second", "odd": object()})
    project = edit.apply(work.history.project)
    work.journal.edited(odd, "odd", project, joined=False)
    assert read(work.journal.path).history.project == project
    work.journal.close()


def test_a_journal_of_nobody_writes_nothing(tmp_path):
    journal = Journal(tmp_path / "journals")
    journal.undone(empty_project("Tide"))
    journal.sync()
    journal.close()
    assert not (tmp_path / "journals").exists()
    assert read(tmp_path / "none.journal") is None


@pytest.mark.parametrize("data", [b"", b"\n", b"00000000 {}\n", b'00000000 {"kind":"undo"}\n'])
def test_what_has_no_base_is_no_journal(tmp_path, data):
    body = data[9:-1]
    line = b"%08x %s\n" % (zlib.crc32(body), body) if body else data
    (tmp_path / "a.journal").write_bytes(line)
    assert unfinished(tmp_path) == []
