"""What a command has done does not hang on its print, nor on how it is ended."""

import os
import signal
import subprocess
import sys
import time
from pathlib import Path

import pytest
import soundfile
from msgspec.structs import replace

from cicada.cli.main import COMMANDS, main
from cicada.cli.output import Ended
from cicada.core.model import empty_project
from cicada.media import ingest
from cicada.store.projectfile import load, save
from tests.sound_files import ring, write_sound

COMMAND = [sys.executable, "-m", "cicada"]
FULL = Path("/dev/full")


@pytest.fixture
def project(tmp_path):
    file = tmp_path / "film.cicada"
    assert main(["new", str(file)]) == 0
    return file


def run(*words, **how):
    return subprocess.run([*COMMAND, *map(str, words)], check=False, timeout=120, **how)


@pytest.mark.parametrize("out", ["a closed pipe", "a full disk", "none", "one that knows ASCII"])
def test_what_is_imported_is_in_whatever_becomes_of_the_print(project, tmp_path, out):
    path = write_sound(tmp_path / "Möwe über dem Pier.wav")
    how = {}
    if out == "a closed pipe":
        reader, writer = os.pipe()
        os.close(reader)
        how = {"stdout": writer}
    elif out == "a full disk":
        how = {"stdout": os.open(FULL, os.O_WRONLY)}
    elif out == "one that knows ASCII":
        how = {"env": {**os.environ, "PYTHONIOENCODING": "ascii", "PYTHONUTF8": "0"}}
    command = [*COMMAND, "import", str(project), str(path)]
    if out == "none":
        command = ["sh", "-c", 'exec "$@" >&-', "sh", *command]
    done = subprocess.run(command, check=False, timeout=120, stderr=subprocess.PIPE, **how)
    assert (done.returncode, done.stderr) == (0, b"")
    (sound,) = load(project).sounds
    assert (sound.name, (project.parent / sound.file).is_file()) == ("Möwe über dem Pier", True)


@pytest.mark.parametrize("words", [["plan"], ["check"], ["check", "--json"], ["info"]])
def test_where_the_print_is_what_was_asked_for_a_full_output_is_a_failure(project, tmp_path, words):
    path = write_sound(tmp_path / "a.wav") if words == ["info"] else project
    command, *options = words
    full = run(command, path, *options, stdout=os.open(FULL, os.O_WRONLY), stderr=subprocess.PIPE)
    assert full.returncode == 2
    assert b"cannot be printed (no room is left on this disk)" in full.stderr
    none = subprocess.run(
        ["sh", "-c", 'exec "$@" >&-', "sh", *COMMAND, command, str(path), *options],
        check=False, timeout=120, stderr=subprocess.PIPE,
    )  # fmt: skip
    assert (none.returncode, none.stderr.count(b"\n")) == (2, 1)
    reader, writer = os.pipe()
    os.close(reader)
    read = run(command, path, *options, stdout=writer, stderr=subprocess.PIPE)
    assert (read.returncode, read.stderr) == (0, b"")


@pytest.mark.parametrize("number", [signal.SIGINT, signal.SIGTERM, signal.SIGHUP])
def test_a_command_ended_by_a_signal_says_so_by_its_code_and_leaves_nothing(tmp_path, number):
    file, out = tmp_path / "long.cicada", tmp_path / "out"
    film = empty_project("long")
    save(replace(film, scenes=(replace(film.scenes[0], length=400_000),)), file)
    out.mkdir()
    rendering = subprocess.Popen(
        [*COMMAND, "render", str(file), "-o", str(out / "a.wav"), "--yes"],
        stdout=subprocess.PIPE, stderr=subprocess.PIPE,
    )  # fmt: skip
    until = time.monotonic() + 30
    while not _writes_into(rendering.pid, out):
        assert time.monotonic() < until
        assert rendering.poll() is None, rendering.stderr.read()
        time.sleep(0.01)
    rendering.send_signal(number)
    said = rendering.communicate(timeout=30)
    assert (rendering.returncode, said) == (128 + number, (b"", b""))
    assert not list(out.iterdir())


def _writes_into(process, folder):
    try:
        return any(
            str(link.readlink()).startswith(str(folder))
            for link in Path(f"/proc/{process}/fd").iterdir()
        )
    except OSError:
        return False


def test_an_end_that_a_library_has_swallowed_is_asked_for_again(tmp_path):
    (tmp_path / "msgspec.py").write_text(
        "import os, signal, time\n"
        "try:\n    os.kill(os.getpid(), signal.SIGINT)\nexcept KeyboardInterrupt:\n    pass\n"
        "time.sleep(60)\n"
    )
    environment = {**os.environ, "PYTHONPATH": f"{tmp_path}:{os.environ.get('PYTHONPATH', '')}"}
    done = run("plan", "nothing.cicada", env=environment, capture_output=True)
    assert (done.returncode, done.stderr) == (130, b"")


def test_ctrl_c_is_heard_before_anything_is_loaded(tmp_path):
    # The folder of the program comes first on the way, and in it is what stops it as it loads.
    (tmp_path / "msgspec.py").write_text("import os, signal; os.kill(os.getpid(), signal.SIGINT)")
    environment = {**os.environ, "PYTHONPATH": f"{tmp_path}:{os.environ.get('PYTHONPATH', '')}"}
    done = run("plan", "nothing.cicada", env=environment, capture_output=True)
    assert (done.returncode, done.stderr) == (130, b"")


def test_two_imports_at_once_both_come_in(project, tmp_path):
    paths = [write_sound(tmp_path / f"{n}.wav", ring(seed=n)) for n in range(6)]
    imports = [
        subprocess.Popen([*COMMAND, "import", str(project), str(p)], stdout=subprocess.PIPE)
        for p in paths
    ]
    for each in imports:
        assert each.wait(60) == 0
        each.stdout.close()
    sounds = load(project).sounds
    assert sorted(sound.name for sound in sounds) == list("012345")
    assert len({sound.id for sound in sounds}) == 6


def test_what_another_program_has_saved_meanwhile_stays(project, tmp_path, monkeypatch):
    path = write_sound(tmp_path / "a.wav")
    take = ingest.ingest

    def slowly(*given):
        save(replace(load(project), name="Renamed"), project)
        return take(*given)

    monkeypatch.setattr(ingest, "ingest", slowly)
    assert main(["import", str(project), str(path)]) == 0
    now = load(project)
    assert (now.name, len(now.sounds)) == ("Renamed", 1)


def test_names_are_shown_without_what_steers_a_terminal(project, tmp_path, capsys):
    path = tmp_path / "a\x1b[31mred\nline.wav"
    soundfile.write(path, ring(), 48000)
    assert main(["info", str(path)]) == 0
    assert main(["import", str(project), str(path), str(tmp_path / "go\x07ne")]) == 1
    said = capsys.readouterr()
    assert "\x1b" not in said.out + said.err
    assert "\x07" not in said.out + said.err
    assert "go\\x07ne: is not there" in said.err
    assert load(project).sounds[0].name == "A [31mred line"


def test_a_folder_with_names_that_are_no_text_comes_in(project, tmp_path):
    (tmp_path / "sounds").mkdir()
    write_sound(tmp_path / "sounds" / "good.wav")
    soundfile.write(tmp_path / "odd.wav", ring(seed=3), 48000)
    (tmp_path / "odd.wav").rename(tmp_path / "sounds" / os.fsdecode(b"odd \xff\xfe.wav"))
    assert main(["import", str(project), str(tmp_path / "sounds")]) == 0
    assert len(load(project).sounds) == 2


@pytest.mark.parametrize(("name", "code"), [("there.wav", 0), ("gone.wav", 2)])
def test_a_command_whose_complaints_nobody_can_hear_ends_as_it_would_have(tmp_path, name, code):
    write_sound(tmp_path / "there.wav")
    done = subprocess.run(
        ["sh", "-c", 'exec "$@" 2>&-', "sh", *COMMAND, "info", str(tmp_path / name)],
        check=False, timeout=120, stdout=subprocess.PIPE,
    )  # fmt: skip
    assert done.returncode == code
    assert done.stdout.startswith(str(tmp_path / name).encode()) == (code == 0)


class Asked:
    def __set_name__(self, *_):
        raise Ended(signal.SIGTERM)


def test_being_ended_while_a_class_is_made_is_being_ended(tmp_path, monkeypatch):
    monkeypatch.setitem(COMMANDS, "check", lambda _: type("Made", (), {"asked": Asked()}))
    assert main(["check", str(tmp_path / "film.cicada")]) == 128 + signal.SIGTERM
