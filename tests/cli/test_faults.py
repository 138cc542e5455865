"""A disk that takes no more, at whatever is written: one sentence, and all as it was before."""

import os
import resource
import shutil
import signal
import subprocess
import sys
from pathlib import Path

import pytest

from cicada.core.keyframe_edits import PlaceClip
from cicada.store.projectfile import load, save
from tests.sound_files import ring, write_sound

HERE = Path(__file__).parents[2]


def limited(most):
    """What a process does first that may write no file of more bytes."""

    def limit():
        signal.signal(signal.SIGXFSZ, signal.SIG_IGN)
        resource.setrlimit(resource.RLIMIT_FSIZE, (most, most))

    return limit


def run(folder, *words, most=None):
    # What is limited cannot be measured: coverage would write a file, too.
    environment = {
        **{name: value for name, value in os.environ.items() if not name.startswith("COVERAGE")},
        "CICADA_DATA": str(folder / "data"),
        "CICADA_CACHE": str(folder / "cache"),
    }
    return subprocess.run(
        [sys.executable, "-m", "cicada", *map(str, words)], check=False, capture_output=True,
        env=environment, timeout=120, preexec_fn=None if most is None else limited(most),
    )  # fmt: skip


@pytest.fixture(scope="module")
def made(tmp_path_factory):
    """A film with a sound, and one more to be imported."""
    folder = tmp_path_factory.mktemp("made")
    write_sound(folder / "bell.wav", ring(seconds=0.4))
    write_sound(folder / "long.wav", ring(seconds=3.0, seed=2))
    file = folder / "film.cicada"
    assert run(folder, "new", file).returncode == 0
    assert run(folder, "import", file, folder / "bell.wav").returncode == 0
    save(PlaceClip(layer="l1", frame=0, sound="s1").apply(load(file)), file)
    return file


@pytest.fixture
def film(made, tmp_path):
    """A copy of it, with all that is known of it."""
    shutil.copytree(made.parent, tmp_path, dirs_exist_ok=True)
    return tmp_path / made.name


def everything(folder):
    return {
        path: path.read_bytes()
        for path in folder.rglob("*")
        if path.is_file() and not {"cache", "data"} & set(path.relative_to(folder).parts)
    }


def command(name, film):
    folder = film.parent
    return {
        "new": ["new", folder / "another.cicada"],
        "import": ["import", film, folder / "long.wav"],
        "render": ["render", film, "-o", folder / "mix.wav"],
        "render to flac": ["render", film, "-o", folder / "mix.flac"],
        "render over a mix": ["render", film, "-o", folder / "there.wav"],
    }[name]


@pytest.mark.parametrize("most", [0, 200, 5_000, 90_000, 400_000])
@pytest.mark.parametrize("name", ["new", "import", "render", "render to flac", "render over a mix"])
def test_a_disk_that_takes_no_more_costs_a_sentence_and_leaves_all_as_it_was(film, name, most):
    write_sound(film.with_name("there.wav"), ring(seconds=0.1))
    before = everything(film.parent)
    done = run(film.parent, *command(name, film), most=most)
    told = done.stderr.decode()
    assert "Traceback" not in told
    after = everything(film.parent)
    if done.returncode == 0:
        assert after != before
        return
    assert done.returncode == 2, told
    assert told.count("\n") == 1
    assert "this disk holds no file that large" in told or "cannot be written" in told
    assert after == before
    left = [path.name for path in film.parent.rglob("*") if ".part" in path.name]
    assert not left
    # And once there is room again, it goes.
    assert run(film.parent, *command(name, film)).returncode == 0


def test_a_plan_that_cannot_wait_on_the_disk_is_refused(film, monkeypatch, capsys):
    from cicada.cli import waiting_lines
    from cicada.cli.main import main

    def full():
        raise OSError(28, "No space left on device")

    monkeypatch.setattr(waiting_lines, "IN_MEMORY", 1)
    monkeypatch.setattr(waiting_lines.tempfile, "TemporaryFile", full)
    assert main(["plan", str(film)]) == 2
    assert "cannot wait there (no room is left on this disk)" in capsys.readouterr().err


@pytest.mark.parametrize("home", ["a file", "nowhere"])
def test_a_home_that_is_none_costs_a_sentence_where_it_is_needed(tmp_path, home):
    place = tmp_path / "home"
    if home == "a file":
        place.touch()
    hidden = ("CICADA_DATA", "CICADA_CACHE", "XDG_CACHE_HOME", "XDG_DATA_HOME", "COVERAGE")
    environment = {
        **{name: value for name, value in os.environ.items() if not name.startswith(hidden)},
        "HOME": str(place),
    }  # fmt: skip
    write_sound(tmp_path / "bell.wav", ring(seconds=0.4))
    file = tmp_path / "film.cicada"

    def cicada(*words):
        return subprocess.run(
            [sys.executable, "-m", "cicada", *map(str, words)], check=False, capture_output=True,
            env=environment, timeout=60,
        )  # fmt: skip

    assert cicada("new", file).returncode == 0
    done = cicada("import", file, tmp_path / "bell.wav")
    if home == "nowhere":
        assert done.returncode == 0
        assert place.is_dir()
    else:
        assert done.returncode == 2
        assert b"the cache of decoded sounds cannot be written" in done.stderr
    assert cicada("plan", file).returncode == cicada("info", tmp_path / "bell.wav").returncode == 0
    assert b"Traceback" not in done.stderr


def read_only(folder, *words):
    """Run a command where a folder is mounted so that nothing can be written to it."""
    mount = f"mount --bind '{folder}' '{folder}' && mount -o remount,bind,ro '{folder}'"
    environment = {name: v for name, v in os.environ.items() if not name.startswith("COVERAGE")}
    beside = folder.parent / "beside"
    environment |= {"CICADA_DATA": str(beside / "data"), "CICADA_CACHE": str(beside / "cache")}
    return subprocess.run(
        ["unshare", "-m", "sh", "-c", f'{mount} && exec "$@"', "sh",
         sys.executable, "-m", "cicada", *map(str, words)],
        check=False, capture_output=True, env=environment, timeout=60, cwd=HERE,
    )  # fmt: skip


def test_a_project_on_a_disk_that_is_read_only_can_be_read_and_stays_as_it_is(film, tmp_path):
    folder = tmp_path / "only"
    shutil.copytree(tmp_path, folder, ignore=shutil.ignore_patterns("data", "cache", "only"))
    file, long = folder / film.name, folder / "long.wav"
    before = {path: path.read_bytes() for path in folder.rglob("*") if path.is_file()}
    if read_only(folder, "plan", file).returncode:
        pytest.skip("nothing can be mounted here")
    assert read_only(folder, "check", file).returncode == 0
    for words in (("import", file, long), ("render", file, "-o", folder / "out.wav")):
        done = read_only(folder, *words)
        assert done.returncode == 2
        assert b"this disk can only be read" in done.stderr
        assert done.stderr.count(b"\n") == 1
    out = folder.parent / "beside" / "out.wav"
    assert read_only(folder, "render", file, "-o", out).returncode == 0
    assert {path: path.read_bytes() for path in folder.rglob("*") if path.is_file()} == before
