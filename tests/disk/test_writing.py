"""Files are written whole or not at all, and where they are meant to stand."""

import errno
import os
import subprocess
import sys
from pathlib import Path

import pytest

from cicada.disk import writing
from cicada.disk.writing import new_file, sweep, whole_file, write_all
from cicada.errors import CannotWrite


def write(target, data=b"new", **how):
    with whole_file(target, **how) as made:
        write_all(made.file, data)


def fail_half_way(made):
    write_all(made.file, b"half")
    raise KeyError


@pytest.fixture(params=["without a name", "with a name"])
def kind(request, monkeypatch):
    """Where the disk knows files without a name, and where it does not."""
    if request.param == "with a name":
        opened = os.open

        def refuse(path, flags, *more, **others):
            if flags & os.O_TMPFILE == os.O_TMPFILE:
                raise OSError(errno.EOPNOTSUPP, "Operation not supported")
            return opened(path, flags, *more, **others)

        monkeypatch.setattr(writing.os, "open", refuse)


@pytest.mark.usefixtures("kind")
def test_a_file_takes_the_place_of_another_and_keeps_its_mode(tmp_path):
    target = tmp_path / "a"
    write(target, lasting=True)
    assert target.stat().st_mode & 0o777 == 0o666 & ~writing._umask()
    target.chmod(0o640)
    write(target, b"newer")
    assert (target.read_bytes(), target.stat().st_mode & 0o777) == (b"newer", 0o640)
    assert list(tmp_path.iterdir()) == [target]


@pytest.mark.usefixtures("kind")
def test_what_fails_leaves_what_was_there_and_nothing_beside_it(tmp_path):
    target = tmp_path / "a"
    write(target, b"old")
    with pytest.raises(KeyError), whole_file(target) as made:
        fail_half_way(made)
    assert target.read_bytes() == b"old"
    assert list(tmp_path.iterdir()) == [target]


@pytest.mark.usefixtures("kind")
def test_others_can_open_it_on_its_way(tmp_path):
    with new_file(tmp_path) as made:
        made.path.write_bytes(b"by its path")
        made.become(tmp_path / "a", 0o644)
    assert (tmp_path / "a").read_bytes() == b"by its path"


def test_a_process_that_is_killed_leaves_nothing(tmp_path):
    code = (
        "import os, sys; from pathlib import Path; from cicada.disk.writing import whole_file\n"
        "with whole_file(Path(sys.argv[1])) as made: made.file.write(b'x'); os.kill(os.getpid(), 9)"
    )
    subprocess.run([sys.executable, "-c", code, str(tmp_path / "a")], check=False)
    assert not list(tmp_path.iterdir())


def test_only_what_processes_that_are_gone_left_under_our_names_is_swept_up(tmp_path):
    gone = subprocess.run([sys.executable, "-c", ""], check=True, capture_output=True)
    assert gone.returncode == 0
    dead = subprocess.Popen([sys.executable, "-c", ""])
    dead.wait()
    names = {
        f".{dead.pid}-abcd1234.part": False, f".{os.getpid()}-abcd1234.part": True,
        f".{dead.pid}-mine.part": True, "notes.part": True, f".{dead.pid}-abcd1234.part.bak": True,
        f".{10**30}-abcd1234.part": False,
    }  # fmt: skip
    for name in names:
        (tmp_path / name).touch()
    sweep(tmp_path)
    sweep(tmp_path / "not there")
    assert {name for name, stays in names.items() if stays} == {p.name for p in tmp_path.iterdir()}


def test_a_link_stays_and_leads_to_what_is_written(tmp_path):
    (tmp_path / "real").mkdir()
    real, link = tmp_path / "real" / "a", tmp_path / "b"
    link.symlink_to(real)
    write(link)
    assert link.is_symlink()
    assert real.read_bytes() == b"new"


REFUSED = ["a folder", "a pipe", "a circle", "a long name", "a zero in it"]


@pytest.mark.parametrize("what", REFUSED)
def test_what_cannot_be_written_to_is_refused_in_a_sentence(tmp_path, what):
    target = tmp_path / "a"
    if what == "a folder":
        target.mkdir()
    elif what == "a pipe":
        os.mkfifo(target)
    elif what == "a circle":
        target.symlink_to(tmp_path / "b")
        (tmp_path / "b").symlink_to(target)
    else:
        target = tmp_path / ("n" * 300 if what == "a long name" else "a\0b")
    said = {
        "a folder": "is a folder", "a pipe": "is no file", "a circle": "lead in a circle",
        "a long name": "name is too long", "a zero in it": "not one a file can have",
    }  # fmt: skip
    before = sorted(tmp_path.iterdir())
    with pytest.raises(CannotWrite, match=said[what]):
        write(target)
    assert sorted(tmp_path.iterdir()) == before


def test_the_usual_mode_is_read_without_changing_it():
    code = (
        "import os; os.umask(0o027); from cicada.disk.writing import _umask; print(oct(_umask()))"
    )
    said = subprocess.run([sys.executable, "-c", code], check=True, capture_output=True, text=True)
    assert said.stdout.strip() == "0o27"
    assert Path("/proc/self/status").exists()
